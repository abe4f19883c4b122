"""The climber's and the ground's queue of one tree, simulated: who waits for whom, and what holds the day up."""

from __future__ import annotations

from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

import numpy as np
import simpy
from numpy.typing import NDArray

from treecore.day.quick import finishes
from treecore.day.times import THROAT, Task, activities
from treecore.errors import between
from treecore.estimate import Estimate, Kind

Process = Generator[simpy.Event, Any, None]
SIMULATED = 500  # days drawn for an interval [-]
_EACH = 0.3  # spread of single tasks about their kind's time, as a share: own choice [-]


@dataclass(frozen=True, slots=True, kw_only=True)
class PickWork:
    """The work of one pick: in the tree before it is tied, tying, sawing, letting down, untying, the rope's way back,
    and what the ground does with it.
    """

    name: str
    before: tuple[Task, ...]
    tie: tuple[Task, ...]
    cut: tuple[Task, ...]
    lower: tuple[Task, ...]
    untie: tuple[Task, ...]
    back: tuple[Task, ...]
    drag: tuple[Task, ...]
    chip: tuple[Task, ...]
    log: tuple[Task, ...]


PARTS = ("before", "tie", "cut", "lower", "untie", "back", "drag", "chip", "log")
DONE_BY = {
    "before": "climber", "tie": "climber", "cut": "climber", "lower": "ground", "untie": "ground", "back": "ground",
    "drag": "ground", "chip": "chipper", "log": "ground",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Crew:
    """Who works: people on the ground, throat of the chipper [m], how far the way out is beside what was drawn [-]."""

    ground: int = 2
    throat: float = THROAT
    way: float = 1.0

    def __post_init__(self) -> None:
        """Refuse a crew that can't work."""
        between("ground", self.ground, 1, 20, "one to twenty people work on the ground")
        between("throat", self.throat, 0.03, 1.0, "a chipper takes 3 cm to 1 m", "cut")


class Span(NamedTuple):
    """Something somebody did: which part of which pick, by whom, from when to when [s]."""

    pick: int
    part: str
    who: str
    start: float
    end: float


class Course(NamedTuple):
    """A course of a tree: everything that was done, when it is finished, how long the climber waited [s]."""

    spans: tuple[Span, ...]
    finish: float
    waited: float

    def busy(self, who: str) -> float:
        """How long somebody was at work, all people of that kind together.

        Parameters
        ----------
        who : str
            Climber, ground or chipper.
        """
        return sum(span.end - span.start for span in self.spans if span.who == who)


def part_times(picks: Sequence[PickWork], crew: Crew, factors: Mapping[str, float] | None = None) -> list[list[float]]:
    """Return how long every part of every pick takes by its central values [s], in the order of ``PARTS``.

    Parameters
    ----------
    picks : sequence of PickWork
        In order.
    crew : Crew
        Who works.
    factors : mapping of str to float
        The yard's own time over the table's. [-]
    """
    return [[_seconds(getattr(pick, part), crew, factors) for part in PARTS] for pick in picks]


UNTIL_BACK = ("before", "tie", "cut", "lower", "untie", "back")  # parts of a pick from the climber's move to the rope


def until_back(pick: PickWork, factors: Mapping[str, float] | None = None) -> Estimate:
    """Return how long a pick takes from the climber's move until its rope is back, nobody waiting [s].

    Parameters
    ----------
    pick : PickWork
        The pick.
    factors : mapping of str to float
        The yard's own time over the table's. [-]
    """
    tasks = [task for part in UNTIL_BACK for task in getattr(pick, part)]
    times = [(task.seconds(factors), task.activity.time) for task in tasks]
    low, high = (sum(s * getattr(e, end) / e.value for s, e in times) for end in ("low", "high"))
    return Estimate(sum(s for s, _ in times), low, high, Kind.ESTIMATED)


def _seconds(tasks: Sequence[Task], crew: Crew, factors: Mapping[str, float] | None) -> float:
    return sum(task.seconds(factors) * _by_crew(task, crew) for task in tasks)


def _by_crew(task: Task, crew: Crew) -> float:
    """What the crew's own tools and way make of a task's time."""
    if task.key == "chip":
        return (THROAT / crew.throat) ** 2
    return crew.way if task.key == "drag" else 1.0


def course(times: Sequence[Sequence[float]], ground: int, start: float = 0.0) -> Course:
    """Run one tree through the queue; docs/methods.md, day (2).

    Parameters
    ----------
    times : sequence of sequence of float
        Of every pick, by ``PARTS``. [s]
    ground : int
        People on the ground. [-]
    start : float
        When the climber begins. [s]

    References
    ----------
    Process-based simulation by SimPy.
    """
    run = _Run(times, ground, start)
    run.env.run()
    finish = max((span.end for span in run.spans), default=start)
    return Course(tuple(sorted(run.spans, key=lambda s: (s.start, s.end))), finish, run.waited)


class _Run:
    """One tree on its way: the climber in the order of the picks, each piece on the ground as hands are free.

    ``quick`` runs the same rules for the thousands of days of an interval; a test holds one against the other.
    """

    def __init__(self, times: Sequence[Sequence[float]], ground: int, start: float) -> None:
        self.env = simpy.Environment(initial_time=start)
        self.times, self.waited = times, 0.0
        self.hands = simpy.PriorityResource(self.env, ground)
        self.chipper = simpy.Resource(self.env, 1)
        self.spans: list[Span] = []
        self.back = [self.env.event() for _ in times]  # the rope is back at the tree
        self.clear = [self.env.event() for _ in times]  # nothing hangs, nobody stands under the next cut
        self.env.process(self._climber())

    def _did(self, pick: int, *parts: int) -> simpy.Event:
        """Parts of a pick done one after the other."""
        now = self.env.now
        for part in parts:
            took = self.times[pick][part]
            if took > 0.0:
                self.spans.append(Span(pick, PARTS[part], DONE_BY[PARTS[part]], now, now + took))
            now += took
        return self.env.timeout(now - self.env.now)

    def _climber(self) -> Process:
        for i in range(len(self.times)):
            yield self._did(i, 0)
            asked = self.env.now
            if self.times[i][1] > 0.0:
                if i and not self.back[i - 1].triggered:
                    yield self.back[i - 1]
                self.waited += self.env.now - asked
                yield self._did(i, 1)
                asked = self.env.now
            if i and not self.clear[i - 1].triggered:
                yield self.clear[i - 1]
            hand = self.hands.request(priority=0)
            if not hand.triggered:
                yield hand
            self.waited += self.env.now - asked
            yield self._did(i, 2)
            self.env.process(self._on_the_ground(i, hand))

    def _on_the_ground(self, i: int, hand: Any) -> Process:
        yield self._did(i, 3, 4)
        self.clear[i].succeed()
        if self.times[i][5] > 0.0:
            yield self._did(i, 5)
        self.back[i].succeed()
        self.hands.release(hand)
        yield self.env.timeout(0.0)  # who is ready in the tree at the same moment goes first
        again = self.hands.request(priority=1)
        if not again.triggered:
            yield again
        yield self._did(i, 6, 8)
        if self.times[i][7] > 0.0:
            free = self.chipper.request()
            if not free.triggered:
                yield free
            yield self._did(i, 7)
            self.chipper.release(free)
        self.hands.release(again)


class Day(NamedTuple):
    """A tree's day: its course by the central values, when it is finished over drawn days [s], who holds it up, and
    what that one was at work of the whole [-].
    """

    course: Course
    finish: Estimate
    bottleneck: str
    busy: dict[str, float]


def day(
    picks: Sequence[PickWork],
    crew: Crew,
    factors: Mapping[str, float] | None = None,
    simulated: int = SIMULATED,
    seed: int = 1,
) -> Day:
    """Return a tree's day: by central values and over drawn ones; docs/methods.md, day (3).

    Parameters
    ----------
    picks : sequence of PickWork
        In order.
    crew : Crew
        Who works.
    factors : mapping of str to float
        The yard's own time over the table's. [-]
    simulated : int
        Days drawn. [-]
    seed : int
        Of the draws.
    """
    central = course(part_times(picks, crew, factors), crew.ground)
    ends = _drawn(picks, crew, factors, simulated, seed)
    low, high = (float(np.quantile(ends, q)) for q in (0.025, 0.975)) if simulated else (central.finish, central.finish)
    finish = Estimate(central.finish, min(low, central.finish), max(high, central.finish), Kind.ESTIMATED)
    whole = max(central.finish, 1.0)
    people = {"climber": 1, "ground": crew.ground, "chipper": 1}
    busy = {who: central.busy(who) / (whole * count) for who, count in people.items()}
    return Day(central, finish, max(busy, key=busy.__getitem__), busy)


def _drawn(
    picks: Sequence[PickWork], crew: Crew, factors: Mapping[str, float] | None, simulated: int, seed: int
) -> NDArray[np.float64]:
    """When drawn days are finished: each kind of work quicker or slower for the day, each task about that."""
    draw = np.random.default_rng(seed)
    kinds = sorted({task.key for pick in picks for part in PARTS for task in getattr(pick, part)})
    spread = np.array([Task(key, 1.0).activity.spread for key in kinds])
    alone = np.array(
        [part_times(picks, crew, {k: (factors or {}).get(k, 1.0) * (k == key) for k in activities()}) for key in kinds]
    )  # by kind, pick and part: what that kind alone takes
    quick = np.exp(draw.normal(0.0, 1.0, (simulated, len(kinds))) * spread)
    days = np.einsum("dk,kpt->dpt", quick, alone)
    days *= np.exp(draw.normal(0.0, _EACH, days.shape) - _EACH**2 / 2.0)
    return finishes(days, crew.ground)


class WhatIf(NamedTuple):
    """A change of the crew and how much sooner it is finished then [s]."""

    key: str
    crew: Crew
    saves: float


def what_if(picks: Sequence[PickWork], crew: Crew, factors: Mapping[str, float] | None = None) -> tuple[WhatIf, ...]:
    """Return what one more hand, half the way out and a bigger chipper would change, by the central values.

    Parameters
    ----------
    picks : sequence of PickWork
        In order.
    crew : Crew
        Who works.
    factors : mapping of str to float
        The yard's own time over the table's. [-]
    """
    now = course(part_times(picks, crew, factors), crew.ground).finish
    others = (
        ("hand", replace(crew, ground=crew.ground + 1)),
        ("way", replace(crew, way=0.5 * crew.way)),
        ("chipper", replace(crew, throat=1.5 * crew.throat)),
    )
    return tuple(
        WhatIf(key, other, now - course(part_times(picks, other, factors), other.ground).finish)
        for key, other in others
    )
