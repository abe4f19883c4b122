"""What a yard's records teach: how far estimates were off, what its own wood weighs, how quick it works."""

from __future__ import annotations

from operator import attrgetter
from typing import TYPE_CHECKING, Any, NamedTuple

import msgspec
from django.db import transaction
from django.db.models import ExpressionWrapper, FloatField, Func, TextField, Value
from django.db.models.functions import Cast
from django.utils.translation import gettext

from apps.crews import steps
from apps.day.planner import tells_of_pace
from apps.daybook.models import FELLING, FellingRecord, WorkRecord
from apps.daybook.work_planner import WEIGHED_BY, plan_of, seconds_of
from apps.species.models import YardSpecies
from treecore.errors import NotSolvable
from treecore.learning.bias import Bias, Learnt, Offset, Pair, bias_of, by_tree, learnt, offset_of
from treecore.learning.outcome import lay_difference
from treecore.rigging.friction import Reading as DeviceReading
from treecore.rigging.friction import measured_friction
from treecore.schools import constant
from treecore.species import find
from treecore.units import GRAVITY

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable

    from apps.crews.models import Crew
    from apps.jobs.models import Job, Tree
    from treecore.estimate import Estimate

RATIOS = ("mass", "peak_point", "peak_base", "hand", "seconds", "height")  # what is off by a share
OFFSETS = ("lay", "wraps", "run", "hinge_left", "hinge_right")  # what is off by so much
GROUPS = ("who", "species", "method")


class Day(Func):
    """A moment in days, as SQLite counts them."""

    function = "julianday"
    output_field = FloatField()


class Planned(msgspec.Struct, gc=False):
    """What a record keeps of its plan, as far as something is learnt from it."""

    mass: tuple[float, float, float] | None = None
    peak_point: tuple[float, float, float] | None = None
    peak_base: tuple[float, float, float] | None = None
    hand: tuple[float, float, float] | None = None
    seconds: tuple[float, float, float] | None = None
    height: tuple[float, float, float] | None = None
    lay: tuple[float, float, float] | None = None
    hinge_left: tuple[float, float, float] | None = None
    hinge_right: tuple[float, float, float] | None = None
    wraps: float | None = None
    run: float | None = None
    modelled: float | None = None
    density: float | None = None
    species: str = ""
    method: str = ""
    by: str = ""


_read = msgspec.json.Decoder(Planned).decode


class Lesson(msgspec.Struct, frozen=True, gc=False):
    """One quantity of one record: what it is, the estimate with its interval, what it was, and whose, on which wood, by
    which method, on which tree.
    """

    kind: str
    pair: Pair
    who: str
    species: str
    method: str
    tree: int


def lessons(crew: Crew) -> list[Lesson]:
    """Every estimate of a yard that has an actual beside it, of the records that count."""
    return [*_of_picks(crew), *_of_fellings(crew)]


_KINDS = ("mass", "peak_point", "peak_base", "hand", "seconds", "wraps", "run")
# How long it took, reckoned by the database: dates are slow to read, and nothing else of them is asked [s].
_TOOK = (Day("ended") - Day("started")) * Value(86400.0)
_ACTUALS = ("mass", "peak_point", "peak_base", "hand", "took", "wraps", "run")


def _of_picks(crew: Crew) -> Iterable[Lesson]:
    rows = WorkRecord.objects.filter(tree__job__crew=crew, tree__job__deleted_at=None, counts=True)
    rows = rows.annotate(took=ExpressionWrapper(_TOOK, output_field=FloatField()))
    for text, weighed_by, tree, *actuals in rows.values_list(
        Cast("planned", TextField()), "mass_by", "tree_id", *_ACTUALS
    ):
        plan = _read(text)
        for kind, actual in zip(_KINDS, actuals, strict=True):
            if actual is None or (kind == "mass" and weighed_by not in WEIGHED_BY):
                continue
            planned = getattr(plan, kind)
            if planned is not None:
                yield Lesson(kind, _pair(planned, actual), plan.by, plan.species, plan.method, tree)


def _of_fellings(crew: Crew) -> Iterable[Lesson]:
    kinds = ("height", "lay", "hinge_left", "hinge_right")
    rows = FellingRecord.objects.filter(tree__job__crew=crew, tree__job__deleted_at=None)
    for text, tree, *actuals in rows.values_list(Cast("planned", TextField()), "tree_id", *kinds):
        plan = _read(text)
        for kind, actual in zip(kinds, actuals, strict=True):
            planned = getattr(plan, kind)
            if planned is not None and actual is not None:
                yield Lesson(kind, _pair(planned, actual), plan.by, plan.species, FELLING, tree)


def _pair(planned: Any, actual: float) -> Pair:
    if planned.__class__ is tuple:
        return Pair(planned[0], planned[1], planned[2], actual)
    return Pair(planned, planned, planned, actual)


class Group(NamedTuple):
    """Lessons of one kind that have something in common: what they are off by, as a share or by so much."""

    kind: str
    named: str
    bias: Bias | None
    offset: Offset | None
    lessons: tuple[Lesson, ...]


def groups(found: list[Lesson], by: str = "") -> list[Group]:
    """Lessons by their kind, and within it by who estimated, species or method."""
    sorted_out: dict[tuple[str, str], list[Lesson]] = {}
    named = attrgetter("kind", by) if by else lambda lesson: (lesson.kind, "")
    for lesson in found:
        sorted_out.setdefault(named(lesson), []).append(lesson)
    order = [*RATIOS, *OFFSETS]
    return [_group(*key, sorted_out[key]) for key in sorted(sorted_out, key=lambda key: (order.index(key[0]), key[1]))]


def _group(kind: str, named: str, found: list[Lesson]) -> Group:
    if kind in RATIOS:
        good = [lesson.pair for lesson in found if lesson.pair.value > 0.0 and lesson.pair.actual > 0.0]
        return Group(kind, named, bias_of(good), None, tuple(found))
    return Group(kind, named, None, offset_of([_off(lesson) for lesson in found]), tuple(found))


def _off(lesson: Lesson) -> float:
    if lesson.kind == "lay":
        return lay_difference(lesson.pair.value, lesson.pair.actual)
    return lesson.pair.actual - lesson.pair.value


class Wood(NamedTuple):
    """What weighed pieces make of a species' green density [kg/m3]: how many pieces of how many trees, and the yard's
    own row that stands on them where there is one.
    """

    key: str
    learnt: Learnt
    pieces: int
    trees: int
    row: YardSpecies | None


def woods(crew: Crew) -> list[Wood]:
    """Green densities by the yard's own weighed pieces, the published ones as prior; docs/methods.md, learning (2)."""
    rows = WorkRecord.objects.filter(
        tree__job__crew=crew, tree__job__deleted_at=None, counts=True, mass__isnull=False, mass_by__in=WEIGHED_BY
    )
    sorted_out: dict[str, tuple[list[Pair], list[int]]] = {}
    for text, mass, tree in rows.values_list(Cast("planned", TextField()), "mass", "tree_id"):
        plan = _read(text)
        if plan.modelled and plan.density and plan.species:
            modelled = plan.modelled * find(plan.species).density.value / plan.density
            pairs, trees = sorted_out.setdefault(plan.species, ([], []))
            pairs.append(Pair(modelled, modelled, modelled, mass))
            trees.append(tree)
    own = {row.like: row for row in YardSpecies.objects.filter(crew=crew, common__in=map(_named, sorted_out))}
    return [
        Wood(
            key,
            learnt(find(key).density, by_tree(pairs, trees), constant("tree_alone").value),
            len(pairs),
            len(set(trees)),
            own.get(key),
        )
        for key, (pairs, trees) in sorted(sorted_out.items())
    ]


def _named(key: str) -> str:
    return gettext("{common}, by our own logs").format(common=find(key).common)


@transaction.atomic
def use_wood(crew: Crew, key: str) -> YardSpecies:
    """Keep what was learnt of a species as the yard's own row, to be chosen for the next trees; made anew where it is
    there.
    """
    wood = next((wood for wood in woods(crew) if wood.key == key), None)
    if wood is None:
        raise NotSolvable(what="species", why="no piece of it was weighed yet")
    after = wood.learnt.after
    source = gettext("{pieces} weighed pieces of {trees} trees of this yard, with the published figure as prior")
    with steps.recorded("species", crew, gettext("{common} kept").format(common=_named(key))):
        row = wood.row or YardSpecies(crew=crew, like=key, common=_named(key))
        row.density, row.density_low, row.density_high = after.value, after.low, after.high
        row.source = source.format(pieces=wood.pieces, trees=wood.trees)
        row.save()
    return row


def pace(crew: Crew, found: list[Lesson] | None = None) -> Learnt:
    """How much longer the yard takes for a pick than the table says [-], by lessons where they were gathered already;
    docs/methods.md, learning (3).
    """
    every = _of_picks(crew) if found is None else found
    pairs = [lesson.pair for lesson in every if lesson.kind == "seconds" and lesson.pair.actual > 0.0]
    return learnt(constant("yard_pace"), pairs, constant("pick_alone").value)


@tells_of_pace
def pace_for_days(crew: Crew) -> tuple[float, int]:
    """The yard's pace and the records behind it, for its days [-]."""
    found = pace(crew)
    return found.after.value, found.records


class Friction(NamedTuple):
    """Friction of a rope on a device, by records with a weight, wraps and the force in the hand [-]."""

    device: str
    rope: str
    found: Estimate
    records: int


def frictions(crew: Crew) -> list[Friction]:
    """Friction of the yard's own ropes on its own devices; docs/methods.md, learning (5)."""
    rows = WorkRecord.objects.filter(tree__job__crew=crew, tree__job__deleted_at=None, counts=True, wraps__gt=0.0)
    sorted_out: dict[tuple[str, str], list[DeviceReading]] = {}
    for row in rows.exclude(mass=None).exclude(hand=None).filter(mass_by__in=WEIGHED_BY):
        device, rope, ratio = (row.planned.get(name) for name in ("device", "rope", "tension_ratio"))
        load = row.mass * GRAVITY * ratio if ratio and row.mass else 0.0
        if device and row.hand and row.wraps and row.hand < load:
            read = DeviceReading(load, row.wraps, row.hand)
            sorted_out.setdefault((device, rope or ""), []).append(read)
    return [
        Friction(device, rope, found, len(read))
        for (device, rope), read in sorted(sorted_out.items())
        if (found := measured_friction(read)) is not None
    ]


class Reviewed(NamedTuple):
    """A tree of a job as it was done: records that count, sums of what both sides have of time [s] and mass [kg], the
    felling's record, and near misses with what the plan had said.
    """

    tree: Tree
    works: tuple[WorkRecord, ...]
    seconds: tuple[float, float, int]
    mass: tuple[float, float, int]
    peaks_over: int
    peaks: int
    felling: FellingRecord | None
    misses: tuple[tuple[str, str, dict[str, Any] | None], ...]


def review(job: Job) -> list[Reviewed]:
    """A job as it was done, tree by tree."""
    return [_reviewed(tree) for tree in job.trees.select_related("record").prefetch_related("work_records")]


def _reviewed(tree: Tree) -> Reviewed:
    works = tuple(row for row in tree.work_records.all() if row.counts)
    felling = getattr(tree, "record", None)
    peaks = [(plan_of(w.planned).peak_point, w.peak_point) for w in works if w.peak_point is not None]
    known = [(planned.high, read) for planned, read in peaks if planned is not None and read is not None]
    misses = [(_title(w), w.near_miss, w.planned.get("ruling")) for w in works if w.near_miss]
    if felling is not None and felling.near_miss:
        misses.append((gettext("The felling"), felling.near_miss, None))
    return Reviewed(
        tree,
        works,
        _both(works, lambda row: plan_of(row.planned).seconds, seconds_of),
        _both(works, lambda row: plan_of(row.planned).mass, lambda row: row.mass),
        sum(read > high for high, read in known),
        len(known),
        felling,
        tuple(misses),
    )


def _title(row: WorkRecord) -> str:
    return gettext("Pick {number}").format(number=row.number) if row.number else row.what


def _both(
    rows: Iterable[WorkRecord], planned: Callable[[WorkRecord], Any], actual: Callable[[WorkRecord], float | None]
) -> tuple[float, float, int]:
    """Sums over rows that have both: planned, actual, how many."""
    found = [(planned(row), actual(row)) for row in rows]
    both = [(plan.value, was) for plan, was in found if plan is not None and was is not None]
    return sum(p for p, _ in both), sum(a for _, a in both), len(both)
