"""An item of gear over its life: inspections, loads it has seen, and the store as a list to take out and in."""

from __future__ import annotations

import csv
import io
from datetime import date, timedelta
from typing import TYPE_CHECKING, Any, NamedTuple

from django.db import transaction
from django.utils.translation import gettext

from apps.crews import steps
from apps.gear import planner
from apps.gear.models import GearItem, Inspection
from cantrel.pictures import read_picture
from cantrel.rows import columns_of
from treecore.document.fields import specs
from treecore.document.gear import GearEntry
from treecore.errors import BadDocument, CoreError, NotSolvable
from treecore.formats.takedown_entry import item_of

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.core.files.uploadedfile import UploadedFile

    from apps.crews.models import Crew, Person

SOON = timedelta(days=30)
COLUMNS = tuple(key for key in specs(GearEntry) if key not in ("id", "readings"))
MOST_ROWS = 2000


class Seen(NamedTuple):
    """A load an item has seen, by a record: of which job, tree and pick, when, how much and how much it may [N]."""

    where: str
    at: Any
    load: float
    allowed: float | None

    @property
    def over(self) -> bool:
        """Whether it was more than it may carry."""
        return self.allowed is not None and self.load > self.allowed


_LOADS: list[Callable[[Crew], dict[str, list[Seen]]]] = []


def tells_of_loads(told: Callable[[Crew], dict[str, list[Seen]]]) -> Callable[[Crew], dict[str, list[Seen]]]:
    """Register a room's function that says which loads the items of a yard have seen, by name."""
    _LOADS.append(told)
    return told


def loads(crew: Crew) -> dict[str, list[Seen]]:
    """Loads the items of a yard have seen, by name, the greatest first."""
    found: dict[str, list[Seen]] = {}
    for told in _LOADS:
        for name, rows in told(crew).items():
            found.setdefault(name, []).extend(rows)
    return {name: sorted(rows, key=lambda seen: -seen.load) for name, rows in found.items()}


def due(row: GearItem) -> date | None:
    """When an item has to be looked over next; None where nobody ever did."""
    if row.inspected is None:
        return None
    months = row.inspected.month - 1 + row.months
    year, month = row.inspected.year + months // 12, months % 12 + 1
    last = (date(year + month // 12, month % 12 + 1, 1) - timedelta(days=1)).day
    return date(year, month, min(row.inspected.day, last))


@transaction.atomic
def inspect(row: GearItem, values: dict[str, Any], person: Person, photo: UploadedFile | None = None) -> Inspection:
    """Keep that an item was looked over; one that failed is retired with what was found."""
    if values["on"] > date.today():
        raise NotSolvable(what="on", why="that day has not come yet")
    picture = read_picture(photo)[0] if photo else ""
    with steps.recorded("gear", row.crew, gettext("{name} inspected").format(name=row.name), person.shown_name()):
        found = Inspection.objects.create(item=row, by=person.shown_name(), photo=picture, **values)
        if values["passed"]:
            row.inspected = max(values["on"], row.inspected or values["on"])
        else:
            row.retired = row.retired or values["note"][:120]
        row.save()
    return found


# --- the store as a list -----------------------------------------------------------------------------------------


def as_csv(crew: Crew) -> bytes:
    """The store as CSV, one row an item, by the keys of the plan document, in UTF-8 with its mark."""
    out = io.StringIO()
    writer = csv.DictWriter(out, COLUMNS)
    writer.writeheader()
    for row in crew.gear.all():
        entry = planner.gear_entry(row)
        writer.writerow({key: _plain(entry.get(key, "")) for key in COLUMNS})
    return out.getvalue().encode("utf-8-sig")


def _plain(value: Any) -> Any:
    if isinstance(value, bool):
        return "yes" if value else ""
    return f"'{value}" if isinstance(value, str) and value[:1] in "=+-@" else value


class TakenIn(NamedTuple):
    """What a list brought: how many items are new, how many were changed, how many were the same."""

    new: int
    changed: int
    same: int


@transaction.atomic
def from_csv(crew: Crew, text: str) -> TakenIn:
    """Take a list of gear in, all of it or nothing: items by their names, those that are there changed."""
    lines = csv.DictReader(io.StringIO(text), delimiter=max(";\t,", key=text[: text.find("\n")].count))
    unknown = set(lines.fieldnames or ()) - set(COLUMNS)
    if "name" not in (lines.fieldnames or ()) or unknown:
        why = "its headings are {known}; “{unknown}” is none of them" if unknown else "it has no column “name”"
        raise BadDocument(field="file", why=why, known=", ".join(COLUMNS), unknown=", ".join(sorted(unknown)))
    counts = {"new": 0, "changed": 0, "same": 0}
    with steps.recorded("gear", crew, gettext("list of gear taken in")):
        for number, line in enumerate(lines, start=2):
            if number > MOST_ROWS:
                raise BadDocument(field="file", why="more than {most} items", most=MOST_ROWS)
            counts[_taken(crew, number, line)] += 1
    return TakenIn(**counts)


def _taken(crew: Crew, number: int, line: dict[str, Any]) -> str:
    try:
        entry = _entry(line)
        item_of(entry)
        values = columns_of(entry, GearEntry)
        values |= {n: date.fromisoformat(values[n]) for n in ("bought", "inspected") if values.get(n)}
    except (CoreError, ValueError) as error:
        raise BadDocument(field="file", why="line {number}: {said}", number=number, said=error) from None
    row = GearItem.objects.filter(crew=crew, name=values["name"]).first()
    if row is None:
        GearItem.objects.create(crew=crew, **values)
        return "new"
    differs = {name: value for name, value in values.items() if getattr(row, name) != value}
    for name, value in differs.items():
        setattr(row, name, value)
    if differs:
        row.save()
    return "changed" if differs else "same"


def _entry(line: dict[str, Any]) -> dict[str, Any]:
    """A line as the document's entry; what is empty is left out."""
    found: dict[str, Any] = {}
    for key, text in line.items():
        said = (text or "").strip().removeprefix("'")
        if key is None or not said:
            continue
        if key.endswith(("_N", "_m")):
            found[key] = float(said.replace(",", "."))
        elif key == "months":
            found[key] = int(said)
        else:
            found[key] = said.lower() in ("yes", "true", "1") if key == "joined" else said
    return found
