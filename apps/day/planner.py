"""A job's day: what has to be done first, how long the work takes, what holds it up, what it costs."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Any, NamedTuple

from django.conf import settings
from django.db import transaction
from django.utils.translation import gettext

from apps.crews import steps
from apps.day.models import RATES, Workday, WorkItem, YardRates
from apps.felling.planner import evaluated, in_sections
from apps.felling.planner import plan_for as felling_plan
from apps.takedown.planner import plan_for, scene_of, work_out
from treecore.day.clock import Clock, clock
from treecore.day.light import Light, daylight
from treecore.day.money import Cost, Rates, costs, total
from treecore.day.queueing import Crew, Day, PickWork, WhatIf, day, what_if
from treecore.day.times import activities
from treecore.day.work import felling_work, ground_of, takedown_work
from treecore.errors import CoreError, NotSolvable
from treecore.estimate import Estimate, together
from treecore.tree.weigh import weigh

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from apps.crews.models import Crew as Yard
    from apps.jobs.models import Job, Tree
    from apps.takedown.planner import Row


class TreeWork(NamedTuple):
    """A tree's work: its picks, or its felling as one; what is taken away [kg]; why it can't be worked out; the gust
    its plan stands at most [m/s]; the way out that is counted where nobody drew one [m].
    """

    tree: Tree
    picks: tuple[PickWork, ...]
    mass: Estimate | None
    refused: CoreError | None
    gust: float | None
    guessed: float | None = None


class DayWorked(NamedTuple):
    """A day worked out: its trees in order, their picks in one row with the tree of each, the queue, the clock, what
    would change it, its costs, the light of the day where the place is known, and how much longer the yard takes than
    the table [-] by how many records.
    """

    workday: Workday
    trees: tuple[TreeWork, ...]
    of_tree: tuple[int, ...]
    day: Day
    clock: Clock
    changes: tuple[WhatIf, ...]
    costs: tuple[Cost, ...]
    light: Light | None
    pace: float = 1.0
    paced_by: int = 0

    @property
    def total(self) -> Estimate:
        """What all of it costs."""
        return total(self.costs)


def workday_of(job: Job, pk: int | None = None) -> Workday:
    """A day of a job: the one asked for, else the first there is, else a new one that is not saved yet."""
    rows = job.days.all()
    found = rows.filter(pk=pk).first() if pk else rows.first()
    return found or new_day(job)


def new_day(job: Job) -> Workday:
    """A day that is not saved yet."""
    return Workday(job=job, on=date.today())


def trees_of(workday: Workday) -> list[Tree]:
    """The trees of a day in its order; all of the job where nobody said."""
    trees = {tree.name: tree for tree in workday.job.trees.all()}
    return [trees[name] for name in workday.trees if name in trees] or list(trees.values())


def tree_work(tree: Tree, throat: float) -> TreeWork:
    """The work of a tree by its plan: in pieces where its picks are the way, else felled."""
    try:
        picks = plan_for(tree).picks
        if picks and (in_sections(felling_plan(tree)) or not getattr(tree, "felling", None)):
            return _in_pieces(tree, picks, throat)
        return _felled(tree, throat)
    except CoreError as error:
        return TreeWork(tree, (), None, error, None)


def _in_pieces(tree: Tree, picks: list[dict[str, Any]], throat: float) -> TreeWork:
    scene = scene_of(tree)
    rows = work_out(scene, picks)
    refused = next((row.error for row in rows if row.error), None)
    done = [row.worked for row in rows if row.worked]
    ground = ground_of(scene.site, throat)
    work = takedown_work(scene.members, done, ground)
    return TreeWork(tree, work, _mass(rows), refused, None, ground.way if ground.guessed else None)


def _mass(rows: Sequence[Row]) -> Estimate:
    """What all picks together weigh; their errors are taken to go together."""
    return together(row.step.piece.mass for row in rows if row.step)


def _felled(tree: Tree, throat: float) -> TreeWork:
    given, result = evaluated(tree, felling_plan(tree), quick=True)
    standing = weigh(given.tree)
    mass, stem = standing.mass.estimate, standing.stem_mass.estimate
    crown = max(mass.value - stem.value, 0.0)
    lines = sum(line is not None for line in (given.pull, given.guy))
    ground = ground_of(given.site, throat)
    work = felling_work(given, crown, lines, given.tree.stem.top, ground)
    gust = result.figures["gust"].estimate.low
    return TreeWork(tree, (work,), mass, None, gust, ground.way if ground.guessed else None)


_PACES: list[Callable[[Yard], tuple[float, int]]] = []


def tells_of_pace(told: Callable[[Yard], tuple[float, int]]) -> Callable[[Yard], tuple[float, int]]:
    """Register a room's function that says how much longer a yard takes than the table, and by how many records."""
    _PACES.append(told)
    return told


def pace_of(yard: Yard) -> tuple[float, int]:
    """How much longer a yard takes than the table, and how many records that stands on; 1 where its rates say not to
    count it.
    """
    found = [told(yard) for told in _PACES] if rates_of(yard).own_pace else []
    return found[0] if found else (1.0, 0)


def factors_of(pace: float) -> dict[str, float]:
    """The yard's pace for every kind of work."""
    return dict.fromkeys(activities(), pace)


def worked(workday: Workday) -> DayWorked:
    """A day worked out."""
    pace, records = pace_of(workday.job.crew)
    factors = factors_of(pace)
    found = tuple(tree_work(tree, workday.throat) for tree in trees_of(workday))
    of_tree = tuple(i for i, work in enumerate(found) for _ in work.picks)
    picks = [pick for work in found for pick in work.picks]
    crew = Crew(ground=workday.ground, throat=workday.throat)
    run = day(picks, crew, factors)
    taken = together(work.mass for work in found if work.mass)
    hired = {"crane": workday.crane_days, "machine": workday.machine_hours}
    rates = rates_of(workday.job.crew)
    paid = costs(run.finish, workday.ground + 1, taken, core_rates(rates), hired)
    return DayWorked(
        workday=workday,
        trees=found,
        of_tree=of_tree,
        day=run,
        clock=clock(run.course, 60.0 * workday.start),
        changes=what_if(picks, crew, factors),
        costs=paid,
        light=light_of(workday),
        pace=pace,
        paced_by=records,
    )


def light_of(workday: Workday) -> Light | None:
    """Daylight of the day, where the site says where on the globe it is."""
    job = workday.job
    if job.origin_lat is None or job.origin_lon is None:
        return None
    try:
        return daylight(job.origin_lat, job.origin_lon, workday.on, settings.TIME_ZONE)
    except NotSolvable:
        return None


def rates_of(yard: Yard) -> YardRates:
    """A yard's rates; the usual ones, not saved, where it has said none."""
    return YardRates.objects.filter(crew=yard).first() or YardRates(crew=yard)


def core_rates(rates: YardRates) -> Rates:
    """Rates as the core takes them."""
    return Rates(**{name: getattr(rates, name) for name in RATES})


@transaction.atomic
def save_day(workday: Workday, values: dict[str, Any], by: str) -> Workday:
    """Keep a day of a job once it can be worked out."""
    for name, value in values.items():
        setattr(workday, name, value)
    Crew(ground=workday.ground, throat=workday.throat)
    with steps.recorded("day", workday.job, gettext("day changed"), by):
        workday.save()
    return workday


@transaction.atomic
def save_rates(yard: Yard, values: dict[str, Any], row: YardRates | None, by: str) -> YardRates:
    """Keep a yard's rates."""
    rates = row or rates_of(yard)
    for name, value in values.items():
        setattr(rates, name, value)
    with steps.recorded("rates", yard, gettext("rates changed"), by):
        rates.save()
    return rates


@transaction.atomic
def save_item(job: Job, values: dict[str, Any], item: WorkItem | None, by: str) -> WorkItem:
    """Keep something that has to be done first; one that would have to wait for itself is refused."""
    row = item or WorkItem(job=job)
    for name, value in values.items():
        setattr(row, name, value)
    _no_circle(row)
    with steps.recorded("items", job, gettext("work before the saw changed"), by):
        row.save()
    return row


@transaction.atomic
def drop_item(job: Job, item: WorkItem, by: str) -> None:
    """Take something off the list; what came after it waits for nothing then."""
    with steps.recorded("items", job, gettext("work before the saw taken off"), by):
        item.delete()


def _no_circle(item: WorkItem) -> None:
    """Refuse an item that comes after itself, over others too."""
    seen, before = {item.pk}, item.after
    while before is not None:
        if before.pk in seen:
            raise NotSolvable(what="after", why="it would have to be done before itself: {name}", name=before.what)
        seen.add(before.pk)
        before = before.after


def items_of(job: Job, tree: Tree | None = None) -> list[WorkItem]:
    """What has to be done first: of the job, or what holds a tree up."""
    rows = list(job.work_items.select_related("tree", "after"))
    return [row for row in rows if tree is None or row.tree_id in (None, tree.pk)]


def waits_for(item: WorkItem) -> WorkItem | None:
    """The item another waits for, while that is not done."""
    return item.after if item.after and not item.after.done else None


def open_items(tree: Tree) -> list[str]:
    """What is not done yet before a tree may be cut."""
    return [row.what for row in items_of(tree.job, tree) if not row.done]


steps.register(
    "day", steps.Part("day", Workday, steps.all_columns(Workday), lambda job: Workday.objects.filter(job=job))
)
steps.register(
    "items", steps.Part("item", WorkItem, steps.all_columns(WorkItem), lambda job: WorkItem.objects.filter(job=job))
)
steps.register(
    "rates",
    steps.Part(
        "rates", YardRates, steps.all_columns(YardRates), lambda yard: YardRates.objects.filter(crew=yard), True
    ),
)
