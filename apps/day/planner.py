"""A job's day: what has to be done first, how long the work takes, what holds it up, what it costs."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Any, NamedTuple

from django.conf import settings
from django.db import transaction
from django.utils.translation import gettext

from apps.crews import steps
from apps.day.models import RATES, Booking, TreeWood, Workday, WorkItem, YardRates
from apps.felling.planner import evaluated, in_sections
from apps.felling.planner import plan_for as felling_plan
from apps.takedown.planner import plan_for, scene_of, work_out, worst
from treecore.day.booked import Booked, clashes, forwards
from treecore.day.clock import Clock, clock
from treecore.day.light import Light, daylight
from treecore.day.money import Cost, Rates, asked, costs, total
from treecore.day.queueing import Crew, Day, PickWork, WhatIf, day, what_if
from treecore.day.times import activities
from treecore.day.weather import Window, over, stops
from treecore.day.wood import Truck, Wood, wood_of
from treecore.day.work import felling_work, ground_of, takedown_work, thick_length, thick_stem
from treecore.errors import CoreError, NotSolvable
from treecore.estimate import Estimate, times, together
from treecore.tree.weigh import weigh

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from apps.crews.models import Crew as Yard
    from apps.jobs.models import Job, Tree
    from apps.takedown.planner import Row
    from treecore.verdict import Limit


class TreeWork(NamedTuple):
    """A tree's work: its picks, or its felling as one; what is taken away [kg]; why it can't be worked out; the gust
    its plan stands at most [m/s]; the way out that is counted where nobody drew one [m]. What of it a chipper takes
    [kg], the length of wood too thick for that [m], and its green density [kg/m3].
    """

    tree: Tree
    picks: tuple[PickWork, ...]
    mass: Estimate | None
    refused: CoreError | None
    gust: float | None
    guessed: float | None = None
    chipped: float = 0.0
    thick: float = 0.0
    density: Estimate | None = None


class WoodDone(NamedTuple):
    """What a tree's wood comes to, and what is said to become of it."""

    tree: Tree
    row: TreeWood
    wood: Wood


class OtherCrew(NamedTuple):
    """Another crew of the yard on the same day: when it begins and ends, from midnight [s]."""

    workday: Workday
    start: float
    end: float


class Weather(NamedTuple):
    """What the weakest plan of a day stands [m/s], of which tree; times with more; the one its work runs into."""

    limit: float
    tree: str
    windows: tuple[Window, ...]
    stop: Window | None


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
    woods: tuple[WoodDone, ...] = ()
    income: tuple[Cost, ...] = ()
    weather: Weather | None = None
    others: tuple[OtherCrew, ...] = ()
    clashes: tuple[tuple[Booked, Booked], ...] = ()

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
    thick = sum(thick_length(scene.members, worked.piece, throat) for worked in done)
    way = ground.way if ground.guessed else None
    return TreeWork(tree, work, _mass(rows), refused, None, way, _chipped(work), thick, scene.tree.kind.density)


def _chipped(work: Sequence[PickWork]) -> float:
    """What of the picks a chipper takes [kg]."""
    return sum(task.amount for pick in work for task in pick.chip)


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
    thick = thick_stem(given.tree.stem, given.tree.stem.top, throat)
    way = ground.way if ground.guessed else None
    return TreeWork(tree, (work,), mass, None, gust, way, crown, thick, given.tree.kind.density)


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
    rates = rates_of(workday.job.crew)
    woods = tuple(done for work in found if (done := wood_done(work, rates)) is not None)
    hired = {"crane": workday.crane_days, "machine": workday.machine_hours}
    paid = costs(run.finish, workday.ground + 1, tipped(woods), core_rates(rates), hired)
    hours = clock(run.course, 60.0 * workday.start)
    beside = workdays_beside(workday)
    return DayWorked(
        workday=workday,
        trees=found,
        of_tree=of_tree,
        day=run,
        clock=hours,
        changes=what_if(picks, crew, factors),
        costs=paid,
        light=light_of(workday),
        pace=pace,
        paced_by=records,
        woods=woods,
        income=income_of(woods, rates),
        weather=weather_of(workday, found, hours.start, hours.at(run.finish.value)),
        others=tuple(_other_crew(other, factors) for other in beside),
        clashes=_booked_twice([workday, *beside]),
    )


def wood_row(tree: Tree) -> TreeWood:
    """What is said to become of a tree's wood; the usual, not saved, where nobody said."""
    return TreeWood.objects.filter(tree=tree).first() or TreeWood(tree=tree)


def wood_done(work: TreeWork, rates: YardRates) -> WoodDone | None:
    """What a tree's wood comes to; None where nothing can be said of it."""
    if work.mass is None or work.density is None or work.mass.value <= 0.0:
        return None
    row, share = wood_row(work.tree), min(work.chipped / work.mass.value, 1.0)
    truck = Truck(rates.load_volume, rates.load_mass)
    return WoodDone(work.tree, row, wood_of(work.mass, share, work.density, work.thick, row.log_length, truck))


def tipped(woods: Sequence[WoodDone]) -> Estimate:
    """What is taken away and tipped [kg]."""
    gone = [one.wood.chip_mass for one in woods if one.row.chip == TreeWood.Goes.TIPPED]
    return together([*gone, *(one.wood.log_mass for one in woods if one.row.logs == TreeWood.Goes.TIPPED)])


def income_of(woods: Sequence[WoodDone], rates: YardRates) -> tuple[Cost, ...]:
    """What is taken for logs and chip that are sold or burnt, at the yard's prices."""
    paid_for = (TreeWood.Goes.SOLD, TreeWood.Goes.BURNT)
    logs = together(one.wood.log_volume for one in woods if one.row.logs in paid_for)
    chip = together(one.wood.chip_volume for one in woods if one.row.chip in paid_for)
    lines = Cost("logs_sold", logs, rates.log_price), Cost("chip_sold", chip, rates.chip_price)
    return tuple(line for line in lines if line.rate > 0.0 and line.amount.high > 0.0)


def weather_of(workday: Workday, works: Sequence[TreeWork], start: float, end: float) -> Weather | None:
    """Gusts by the hour against the weakest plan of a day; None where either is not known."""
    stands = [(work.gust, work.tree.name) for work in works if work.gust is not None]
    if not stands or not workday.gusts:
        return None
    limit, name = min(stands)
    windows = over([(int(hour), float(gust)) for hour, gust in workday.gusts], limit)
    return Weather(limit, name, windows, stops(windows, start, end))


def workdays_beside(workday: Workday) -> list[Workday]:
    """The yard's other crews of the same day."""
    rows = Workday.objects.filter(job__crew=workday.job.crew, job__deleted_at=None, on=workday.on)
    return list(rows.exclude(pk=workday.pk).select_related("job").prefetch_related("bookings"))


def _other_crew(workday: Workday, factors: dict[str, float]) -> OtherCrew:
    """Another crew by its central times."""
    picks = [pick for tree in trees_of(workday) for pick in tree_work(tree, workday.throat).picks]
    run = day(picks, Crew(ground=workday.ground, throat=workday.throat), factors, simulated=0)
    hours = clock(run.course, 60.0 * workday.start)
    return OtherCrew(workday, hours.start, hours.at(run.finish.value))


def _booked_twice(workdays: Sequence[Workday]) -> tuple[tuple[Booked, Booked], ...]:
    """Machines that two crews of a day have at the same time."""
    return clashes([one for workday in workdays for one in booked(workday)])


def crew_name(workday: Workday) -> str:
    """What a crew of a day is called: its own name, and its job."""
    return ", ".join(part for part in (workday.name, workday.job.name) if part)


def booked(workday: Workday) -> list[Booked]:
    """What is booked for a crew's day."""
    if workday.pk is None:
        return []
    return [Booked(row.what, crew_name(workday), 60.0 * row.start, 60.0 * row.end) for row in workday.bookings.all()]


@transaction.atomic
def book(workday: Workday, values: dict[str, Any], by: str) -> tuple[Booking, str]:
    """Book a machine for a day; and in words, who else has it then."""
    forwards(Booked(values["what"], "", 60.0 * values["start"], 60.0 * values["end"]))
    with steps.recorded("day", workday.job, gettext("{what} booked").format(what=values["what"]), by):
        row = Booking.objects.create(workday=workday, **values)
    taken = _booked_twice([workday, *workdays_beside(workday)])
    others = {b.who for pair in taken for b in pair if b.what == row.what} - {crew_name(workday)}
    return row, ", ".join(sorted(others))


@transaction.atomic
def drop_booking(workday: Workday, booking: Booking, by: str) -> None:
    """Give a machine back."""
    with steps.recorded("day", workday.job, gettext("{what} given back").format(what=booking.what), by):
        booking.delete()


@transaction.atomic
def save_wood(tree: Tree, values: dict[str, Any], row: TreeWood | None, by: str) -> TreeWood:
    """Keep what becomes of a tree's wood."""
    wood = row or wood_row(tree)
    for name, value in values.items():
        setattr(wood, name, value)
    with steps.recorded("wood", tree.job, gettext("wood of {name} changed").format(name=tree.name), by):
        wood.save()
    return wood


class Way(NamedTuple):
    """One way of taking a tree down: its hours and money, what rules it, and whether it is the one chosen."""

    name: str
    finish: Estimate
    money: Estimate
    ruling: Limit | None
    chosen: bool


class Compared(NamedTuple):
    """The ways a tree has a plan for, and the reason written for the one chosen."""

    tree: Tree
    ways: tuple[Way, ...]
    reason: str


def ways_compared(job: Job) -> list[Compared]:
    """For each tree of a job, every way that is planned: felled whole, in pieces."""
    workday, factors = workday_of(job), factors_of(pace_of(job.crew)[0])
    return [_compared(tree, workday, factors) for tree in job.trees.all()]


def _compared(tree: Tree, workday: Workday, factors: dict[str, float]) -> Compared:
    plan, picks = felling_plan(tree), plan_for(tree).picks
    sections = in_sections(plan)
    ways = []
    if picks:
        ways.append(_way(gettext("in pieces"), tree, workday, factors, sections, pieces=True))
    if plan.pk:
        chosen = not sections and bool(plan.method)
        ways.append(_way(gettext("felled whole"), tree, workday, factors, chosen, pieces=False))
    return Compared(tree, tuple(way for way in ways if way is not None), plan.reason)


def _way(name: str, tree: Tree, workday: Workday, factors: dict[str, float], chosen: bool, pieces: bool) -> Way | None:
    try:
        work = _in_pieces(tree, plan_for(tree).picks, workday.throat) if pieces else _felled(tree, workday.throat)
        ruling = _worst_pick(tree) if pieces else evaluated(tree, felling_plan(tree), quick=True)[1].ruling
    except CoreError:
        return None
    run = day(list(work.picks), Crew(ground=workday.ground, throat=workday.throat), factors)
    rates = rates_of(tree.job.crew)
    done = wood_done(work, rates)
    paid = costs(run.finish, workday.ground + 1, tipped([done] if done else []), core_rates(rates))
    return Way(name, run.finish, total(paid), ruling, chosen)


def _worst_pick(tree: Tree) -> Limit | None:
    rows = work_out(scene_of(tree), plan_for(tree).picks)
    number = worst(rows)
    return rows[number].ruling if number is not None else None


class Quote(NamedTuple):
    """A client's price: what is done to each tree and its wood, and the price without and with tax."""

    worked: DayWorked
    price: Estimate
    tax: Estimate
    rates: YardRates


def quote_of(workday: Workday) -> Quote:
    """What a client is asked for: costs less what the wood brings, stumps, the yard's margin, tax."""
    worked_out = worked(workday)
    rates = rates_of(workday.job.crew)
    stumps = sum(one.row.stump == TreeWood.Stump.GROUND for one in worked_out.woods) * rates.stump_price
    price = asked(worked_out.total, total(worked_out.income), stumps, rates.margin)
    return Quote(worked_out, price, times(price, rates.tax), rates)


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
    "day",
    steps.Part("day", Workday, steps.all_columns(Workday), lambda job: Workday.objects.filter(job=job)),
    steps.Part("booking", Booking, steps.all_columns(Booking), lambda job: Booking.objects.filter(workday__job=job)),
)
steps.register(
    "wood",
    steps.Part("wood", TreeWood, steps.all_columns(TreeWood), lambda job: TreeWood.objects.filter(tree__job=job)),
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
