"""The gear store: rows to the core's items and back."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.utils.translation import gettext

from apps.crews import steps
from apps.gear.models import DeviceReading, GearItem, Inspection
from cantrel.limits import gear_refused
from cantrel.rows import columns_of, entry_of, named, paths
from cantrel.words import choices_in, choices_of
from treecore.document.gear import DeviceReadingEntry, GearEntry
from treecore.errors import NotSolvable
from treecore.formats.takedown_entry import item_of
from treecore.rigging.friction import Reading
from treecore.rigging.gear import factors, gear_kinds, refused, working_load
from treecore.rigging.rope import constructions

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable
    from contextlib import AbstractContextManager

    from django.db.models import QuerySet

    from apps.crews.models import Crew
    from treecore.estimate import Estimate
    from treecore.rigging.gear import Item
    from treecore.rigging.rope import Stiffness

FIELDS = tuple(column for _, column in paths(GearEntry) if column != "retired")


steps.register(
    "gear",
    steps.Part("gear", GearItem, steps.all_columns(GearItem), lambda crew: GearItem.objects.filter(crew=crew)),
    steps.Part(
        "reading",
        DeviceReading,
        steps.all_columns(DeviceReading),
        lambda crew: DeviceReading.objects.filter(item__crew=crew),
    ),
    steps.Part(
        "inspection",
        Inspection,
        steps.all_columns(Inspection),
        lambda crew: Inspection.objects.filter(item__crew=crew),
    ),
)


def _recorded(crew: Crew, label: str) -> AbstractContextManager[None]:
    return steps.recorded("gear", crew, label)


def core_item(row: GearItem, readings: Iterable[DeviceReading] | None = None) -> Item:
    """The core's item of a row; its device's readings where they were read already."""
    return item_of(gear_entry(row, readings))


def gear_entry(row: GearItem, readings: Iterable[DeviceReading] | None = None) -> dict[str, Any]:
    """The document's entry of a row; its device's readings where they were read already."""
    kept = readings if readings is not None else row.readings.all() if row.pk else ()
    read = [entry_of(r, DeviceReadingEntry) for r in kept]
    entry = {k: v for k, v in entry_of(row, GearEntry).items() if k not in ("joined", "construction") or v}
    return entry | named("gear", row) | ({"readings": read} if read else {})


def rows_of(crew: Crew) -> QuerySet[GearItem]:
    """A crew's items with what was read of them, in two queries, or none where the crew came with them."""
    there = "gear" in getattr(crew, "_prefetched_objects_cache", ())
    return crew.gear.all() if there else crew.gear.prefetch_related("readings")


def store(crew: Crew) -> dict[str, Item]:
    """A crew's items by name, as the core takes them."""
    return {row.name: core_item(row) for row in rows_of(crew)}


def state(row: GearItem) -> tuple[str, Estimate | None]:
    """Why an item may not be used today, or ''; and what it may carry straight with the usual factor."""
    item = core_item(row)
    no = refused(item, date.today())
    return gear_refused(no.key, no.note, no.years) if no else "", working_load(item, "5")


@transaction.atomic
def save(crew: Crew, values: dict[str, Any], row: GearItem | None = None) -> GearItem:
    """Keep an item once the core takes it."""
    row = row or GearItem(crew=crew)
    for name in FIELDS:
        if name in values:
            setattr(row, name, values[name])
    if GearItem.objects.filter(crew=crew, name=row.name).exclude(pk=row.pk).exists():
        raise NotSolvable(what="name", why="another item has this name")
    core_item(row)
    with _recorded(crew, gettext("{name} kept").format(name=row.name)):
        row.save()
    return row


def retire(row: GearItem, why: str) -> None:
    """Take an item out of use; it stays in the store with its reason."""
    with _recorded(row.crew, gettext("{name} retired").format(name=row.name)):
        row.retired = why.strip() or gettext("out of use")
        row.save()


def delete(row: GearItem) -> None:
    """Take an item off the store; undo brings it back."""
    with _recorded(row.crew, gettext("{name} taken off").format(name=row.name)):
        row.delete()


@transaction.atomic
def keep_reading(row: GearItem, values: dict[str, Any]) -> DeviceReading:
    """Keep what a crew read off its own device, once the core takes it."""
    if core_item(row).role != "device":
        raise NotSolvable(what="load", why="readings belong to a device")
    Reading(values["load"], values["wraps"], values["hand"])
    with _recorded(row.crew, gettext("reading of {name} kept").format(name=row.name)):
        return DeviceReading.objects.create(item=row, **{n: values[n] for n in ("load", "wraps", "hand", "note")})


def drop_reading(row: GearItem, pk: int) -> None:
    """Take one reading off an item; its history stays."""
    with _recorded(row.crew, gettext("reading of {name} taken off").format(name=row.name)):
        row.readings.filter(pk=pk).delete()


def measured(row: GearItem) -> Estimate | None:
    """Friction of rope on a device by the crew's own readings; None without any."""
    return core_item(row).friction


def stiffness(row: GearItem) -> Stiffness | None:
    """How stiff a rope of the store is, and how that is known; None for other items."""
    item = core_item(row)
    return item.stiffness if item.role == "rope" else None


def offered() -> dict[str, Any]:
    """Lists for the selects of an item, by field: kinds, wear, and constructions of ropes, the unknown one first."""
    return {
        "kind": choices_of(gear_kinds().values()),
        "wear": choices_of(factors("wear").values()),
        "construction": [("", gettext("not known")), *choices_in(constructions())],
    }


def from_entry(crew: Crew, entry: dict[str, Any]) -> GearItem:
    """An item of a document's entry, unless the crew has one of that name."""
    item_of(entry)
    values = columns_of(entry, GearEntry)
    values |= {n: date.fromisoformat(values[n]) for n in ("bought", "inspected") if values.get(n)}
    row, new = GearItem.objects.get_or_create(crew=crew, name=values.pop("name"), defaults=values)
    if new:
        for read in entry.get("readings", ()):
            DeviceReading.objects.create(item=row, **columns_of(read, DeviceReadingEntry))
    return row


_NAMING: list[Callable[[GearItem], str]] = []


def tells_of_use(told: Callable[[GearItem], str]) -> Callable[[GearItem], str]:
    """Register a room's function that says where a plan of its own names an item, in words, or nothing."""
    _NAMING.append(told)
    return told


def named_in(row: GearItem) -> str:
    """A plan that names an item of gear, in words; empty without one."""
    return next((where for told in _NAMING if (where := told(row))), "")


@transaction.atomic
def discard(row: GearItem) -> None:
    """Take an item off the store; refused while a plan, signed or not, names it."""
    where = named_in(row)
    if where:
        raise NotSolvable(what="gear", why="“{name}” stands in {where}", name=row.name, where=where)
    delete(row)


@transaction.atomic
def keep(crew: Crew, values: dict[str, Any], row: GearItem | None = None) -> GearItem:
    """Keep an item; its name stays while a plan names it."""
    if row is not None and values["name"] != row.name:
        where = named_in(row)
        if where:
            raise NotSolvable(what="name", why="“{name}” stands in {where}: its name stays", name=row.name, where=where)
    return save(crew, values, row)
