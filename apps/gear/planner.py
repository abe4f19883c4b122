"""The gear store: rows to the core's items and back."""

from datetime import date

from django.db import transaction

from apps.gear.models import GearItem
from treecore.errors import NotSolvable
from treecore.formats.takedown_entry import item_of
from treecore.rigging.gear import factors, gear_kinds, refused, working_load

FIELDS = (
    "name",
    "kind",
    "strength",
    "diameter",
    "length",
    "modulus",
    "wear",
    "bought",
    "inspected",
    "months",
    "joined",
    "note",
)


def core_item(row):
    """The core's item of a row."""
    return item_of(gear_entry(row))


def gear_entry(row):
    """The document's entry of a row."""
    sizes = {"strength_N": row.strength, "diameter_m": row.diameter, "length_m": row.length, "modulus_N": row.modulus}
    dates = {n: getattr(row, n).isoformat() if getattr(row, n) else None for n in ("bought", "inspected")}
    plain = {
        "name": row.name,
        "kind": row.kind,
        "wear": row.wear,
        "months": row.months,
        "retired": row.retired,
        "note": row.note,
    } | ({"joined": True} if row.joined else {})
    return plain | {k: v for k, v in (sizes | dates).items() if v is not None}


def store(crew_id):
    """A crew's items by name, as the core takes them."""
    return {row.name: core_item(row) for row in GearItem.objects.filter(crew=crew_id)}


def state(row):
    """Why an item may not be used today, or ''; and what it may carry straight with the usual factor."""
    item = core_item(row)
    no = refused(item, date.today())
    return no.why if no else "", working_load(item, "5")


@transaction.atomic
def save(crew, values, row=None):
    """Keep an item once the core takes it."""
    row = row or GearItem(crew=crew)
    for name in FIELDS:
        if name in values:
            setattr(row, name, values[name])
    if GearItem.objects.filter(crew=crew, name=row.name).exclude(pk=row.pk).exists():
        raise NotSolvable("name", "another item has this name")
    core_item(row)
    row.save()
    return row


def retire(row, why):
    """Take an item out of use; it stays in the store with its reason."""
    row.retired = why.strip() or "out of use"
    row.save()


def delete(row):
    """Take an item off the store for good."""
    row.delete()


def kinds():
    """Kinds and wear classes for selects."""
    return [(k.key, k.name) for k in gear_kinds().values()], [(f.key, f.name) for f in factors("wear").values()]


def from_entry(crew, entry):
    """An item of a document's entry, unless the crew has one of that name."""
    item = item_of(entry)
    values = {n: getattr(item, n) for n in (*FIELDS, "retired") if n not in ("name", "note")}
    row, _ = GearItem.objects.get_or_create(
        crew=crew, name=item.name, defaults=values | {"note": entry.get("note", "")}
    )
    return row
