"""Who changed what and when: the histories of all tables of a job, or of a yard, as one list."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import datetime
from heapq import merge
from itertools import islice, pairwise
from typing import TYPE_CHECKING, Any, NamedTuple

from django.core.exceptions import ObjectDoesNotExist
from django.db.models import Q
from django.utils.translation import gettext_lazy

from apps.briefing.models import PlanReader, SignOff
from apps.crews.models import Crew, Invitation, Person
from apps.day.models import Booking, TreeWood, Workday, WorkItem, YardRates
from apps.daybook.models import FellingRecord, RecordPhoto, Trace, WorkRecord
from apps.felling.models import FellingPlan, YardSchool
from apps.gear.models import DeviceReading, GearItem, Inspection
from apps.jobs.models import Job, Limb, Role, Target, Tree
from apps.site.models import ApproachDistance, SitePicture
from apps.species.models import YardSpecies
from apps.survey.models import CrewHazard, HazardAnswer, Reading
from apps.takedown.models import TakedownPlan
from cantrel.rows import declaring_of, paths, plain_date
from treecore.document.felling import FellingEntry
from treecore.document.fields import specs
from treecore.document.site import JobEntry, SiteEntry, TargetEntry
from treecore.document.tree import LimbEntry, TreeEntry

if TYPE_CHECKING:
    from django.db.models import Model, QuerySet

KINDS = {"+": gettext_lazy("new"), "~": gettext_lazy("changed"), "-": gettext_lazy("taken off")}


class Kept(NamedTuple):
    """A table that keeps its history: what one of its rows is called, which entries declare its columns, and which of
    its past rows belong to an owner.
    """

    model: type[Model]
    said: Any
    entries: tuple[Any, ...]
    rows: Callable[[Any], Q]


def _of_tree(job: Job) -> Q:
    """Rows of the trees a job has or had."""
    return Q(tree_id__in=Tree.history.filter(job_id=job.pk).values("id"))


def _of_job(job: Job) -> Q:
    return Q(job_id=job.pk)


JOB = (
    Kept(Job, gettext_lazy("Job"), (JobEntry, SiteEntry), lambda job: Q(id=job.pk)),
    Kept(Role, gettext_lazy("Who does what"), (), _of_job),
    Kept(Target, gettext_lazy("On the site"), (TargetEntry,), _of_job),
    Kept(SitePicture, gettext_lazy("Picture under the plan"), (), _of_job),
    Kept(Tree, gettext_lazy("Tree"), (TreeEntry,), _of_job),
    Kept(Limb, gettext_lazy("Limb"), (LimbEntry,), _of_tree),
    Kept(Reading, gettext_lazy("Reading"), (), _of_tree),
    Kept(HazardAnswer, gettext_lazy("Walk-up answer"), (), _of_tree),
    Kept(FellingPlan, gettext_lazy("Felling plan"), (FellingEntry,), _of_tree),
    Kept(TakedownPlan, gettext_lazy("Takedown"), (), _of_tree),
    Kept(SignOff, gettext_lazy("Signature"), (), _of_tree),
    Kept(PlanReader, gettext_lazy("Signature of one of the crew"), (), _of_tree),
    Kept(FellingRecord, gettext_lazy("Record"), (), _of_tree),
    Kept(WorkRecord, gettext_lazy("Record of a pick"), (), _of_tree),
    Kept(RecordPhoto, gettext_lazy("Photo of what was done"), (), _of_tree),
    Kept(Trace, gettext_lazy("Trace of a load cell"), (), _of_tree),
    Kept(WorkItem, gettext_lazy("Before the saw"), (), _of_job),
    Kept(Workday, gettext_lazy("Day"), (), _of_job),
    Kept(
        Booking,
        gettext_lazy("Booking"),
        (),
        lambda job: Q(workday_id__in=Workday.history.filter(job_id=job.pk).values("id")),
    ),
    Kept(TreeWood, gettext_lazy("Wood"), (), _of_tree),
)


def _of_crew(crew: Crew) -> Q:
    return Q(crew_id=crew.pk)


YARD = (
    Kept(Crew, gettext_lazy("Yard"), (), lambda crew: Q(id=crew.pk)),
    Kept(Person, gettext_lazy("Person"), (), _of_crew),
    Kept(Invitation, gettext_lazy("Invitation"), (), _of_crew),
    Kept(Job, gettext_lazy("Job"), (JobEntry, SiteEntry), _of_crew),
    Kept(GearItem, gettext_lazy("Gear"), (), _of_crew),
    Kept(YardRates, gettext_lazy("Rates"), (), _of_crew),
    Kept(
        DeviceReading,
        gettext_lazy("Reading of a device"),
        (),
        lambda crew: Q(item_id__in=GearItem.history.filter(crew_id=crew.pk).values("id")),
    ),
    Kept(
        Inspection,
        gettext_lazy("Inspection"),
        (),
        lambda crew: Q(item_id__in=GearItem.history.filter(crew_id=crew.pk).values("id")),
    ),
    Kept(YardSpecies, gettext_lazy("Species"), (), _of_crew),
    Kept(YardSchool, gettext_lazy("Usual schools"), (), _of_crew),
    Kept(CrewHazard, gettext_lazy("Line of the walk-up"), (), _of_crew),
    Kept(ApproachDistance, gettext_lazy("Approach distance"), (), _of_crew),
)
QUIET = {"revision", "id", "document", "planned", "uid"}  # columns that only count
MOST = 40  # changes of one row that are told


class Change(NamedTuple):
    """A value that changed: its name, its dimension where it is a quantity (SI), old and new."""

    name: str
    dimension: str
    old: Any
    new: Any


class Event(NamedTuple):
    """A row that was changed: when, by whom (None: by a command), what it is, and what changed of it."""

    at: datetime
    by: Person | None
    table: Any
    named: str
    kind: Any
    changes: tuple[Change, ...]
    more: int
    brought: str  # the name that came with it, where a file brought it


def events(tables: tuple[Kept, ...], owner: Any, start: int, count: int) -> list[Event]:
    """What happened, newest first: ``count`` events from ``start`` on."""
    keys = merge(*(_keys(n, kept, owner, start + count) for n, kept in enumerate(tables)), reverse=True)
    page = list(islice(keys, start, start + count))
    rows, before = _loaded(tables, page)
    return [_event(tables[n], rows[n, number], before.get((n, number))) for _, number, n in page]


Key = tuple[datetime, int, int]  # when, number of the row of the past, which table


def _keys(n: int, kept: Kept, owner: Any, most: int) -> list[Key]:
    """What is sorted by, of a table's past: nothing else is read of what is not shown."""
    found: QuerySet = kept.model.history.filter(kept.rows(owner))  # type: ignore[attr-defined]
    newest = found.order_by("-history_date", "-history_id").values_list("history_date", "history_id")[:most]
    return [(at, number, n) for at, number in newest]


Place = tuple[int, int]


def _loaded(tables: tuple[Kept, ...], page: list[Key]) -> tuple[dict[Place, Any], dict[Place, Any]]:
    """The rows of a page, and the row before each: a query for each table, and one for each thing that changed."""
    rows: dict[Place, Any] = {}
    before: dict[Place, Any] = {}
    for n, kept in enumerate(tables):
        numbers = [number for _, number, table in page if table == n]
        if not numbers:
            continue
        past: Any = kept.model.history  # type: ignore[attr-defined]
        found = past.filter(history_id__in=numbers).select_related("history_user")
        rows |= {(n, row.history_id): row for row in found}
        things: dict[int, list[Any]] = {}
        for number in numbers:
            things.setdefault(rows[n, number].id, []).append(rows[n, number])
        for thing, shown in things.items():
            # Rows of one thing on a page follow one another in its past; what came before the last is one more.
            newest = max(row.history_date for row in shown)
            older = past.filter(id=thing, history_date__lte=newest).order_by("-history_date", "-history_id")
            line = list(older[: len(shown) + 2])
            before |= {(n, row.history_id): earlier for row, earlier in pairwise(line)}
    return rows, before


def _event(kept: Kept, row: Any, earlier: Any) -> Event:
    before = earlier if row.history_type == "~" else None
    found = list(_changes(kept, before, row)) if row.history_type != "-" else []
    return Event(
        row.history_date,
        row.history_user,
        kept.said,
        _name(row),
        KINDS[row.history_type],
        tuple(found[:MOST]),
        max(0, len(found) - MOST),
        row.history_change_reason or "",
    )


def _name(row: Any) -> str:
    """What a row is called."""
    for column in ("name", "hazard", "method", "role", "username", "common"):
        if getattr(row, column, ""):
            return str(getattr(row, column))
    return ""


def _changes(kept: Kept, before: Any, row: Any) -> Iterator[Change]:
    declared = _declared(kept.entries)
    yield from _links(before, row)
    for field in row.tracked_fields:
        column = field.attname
        if column in QUIET or field.is_relation or getattr(field, "auto_now", False):
            continue
        old, new = getattr(before, column, None), getattr(row, column, None)
        if old == new or (before is None and new in (None, "", False, [], {})):
            continue
        words = dict(field.flatchoices) if field.choices else {}
        old, new = (str(words[side]) if side in words else side for side in (old, new)) if words else (old, new)
        label, dimension = declared.get(column, (str(field.verbose_name), ""))
        yield from _parts(label or str(field.verbose_name), dimension, old, new)


# Other rows a row points to whose change is told; whose it is goes without saying.
LINKS = {"keeper": "shown_name", "parent": "__str__", "yard": "__str__", "only_job": "__str__"}


def _links(before: Any, row: Any) -> Iterator[Change]:
    for name, told in LINKS.items():
        field = next((field for field in row.tracked_fields if field.name == name), None)
        if field is not None:
            old, new = (_linked(side, name, told) for side in (before, row))
            if old != new:
                yield Change(str(field.verbose_name), "", old, new)


def _linked(row: Any, name: str, told: str) -> str:
    """What a row points to is called; its number where it is gone."""
    if row is None or getattr(row, f"{name}_id") is None:
        return ""
    try:
        return str(getattr(getattr(row, name), told)())
    except ObjectDoesNotExist:
        return f"#{getattr(row, f'{name}_id')}"


def _declared(entries: tuple[Any, ...]) -> dict[str, tuple[str, str]]:
    """Label and dimension of every column entries declare."""
    found = {}
    for entry in entries:
        for path, column in paths(entry):
            spec = specs(declaring_of(entry, path))[path[-1]]
            found[column] = (spec.label, spec.dimension)
    return found


def _parts(name: str, dimension: str, old: Any, new: Any) -> Iterator[Change]:
    """A change of a value; of one with parts, those parts that changed."""
    if isinstance(new, dict) and isinstance(old or {}, dict):
        old = old or {}
        for key in [*old, *(k for k in new if k not in old)]:
            if old.get(key) != new.get(key):
                yield from _parts(f"{name} · {key.replace('_', ' ')}", "", old.get(key), new.get(key))
    elif _with_ids(old) and _with_ids(new):
        places = {row["id"]: number for number, row in enumerate(new, start=1)}
        was, now = ({row["id"]: row for row in rows} for rows in (old, new))
        for key in [*now, *(k for k in was if k not in now)]:
            if was.get(key) != now.get(key):
                where = f"{name} {places[key]}" if key in places else name
                yield from _parts(where, "", was.get(key), now.get(key))
        if set(was) == set(now) and list(was) != list(now):
            yield Change(name, "order", [*was], [*now])
    else:
        yield Change(name, dimension, plain_date(old), plain_date(new))


def _with_ids(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(row, dict) and row.get("id") for row in value)
