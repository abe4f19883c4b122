"""Pulling systems: ropes followed from the hand to the tree, turn by turn; purchase, forces, and what a rope must span.

Places are site coordinates: east, north, and height above the ground at the stem. [m]
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import cache
from typing import NamedTuple

from treecore.document.felling import PartEntry, RopeEntry, SystemEntry
from treecore.document.fields import hold
from treecore.errors import NotSolvable, none_of
from treecore.estimate import Estimate, Kind, exactly
from treecore.rigging.tackle import knots
from treecore.schools import constant
from treecore.tables import rows
from treecore.units import GRAVITY

Place = tuple[float, float, float]
TREE = "tree"


@dataclass(frozen=True, slots=True)
class PartKind:
    """One kind of part: ``role`` end, turn, bark or hand; ``turn`` the tension it passes on over a half turn [-]."""

    key: str
    name: str
    role: str
    turn: Estimate
    source: str


@cache
def part_kinds() -> dict[str, PartKind]:
    """Return every kind of part by key."""
    return {
        r["key"]: PartKind(
            r["key"],
            r["name"],
            r["role"],
            Estimate(float(r["turn"]), float(r["turn_low"]), float(r["turn_high"]), Kind.ASSUMED),
            r["source"],
        )
        for r in rows("pull_parts")
    }


class Named(NamedTuple):
    """A row of a small table: name, share with its interval [-], and words."""

    key: str
    name: str
    share: Estimate
    words: str


@cache
def tractions() -> dict[str, Named]:
    """Return traction over the vehicle's weight by ground [-]."""
    return {
        r["key"]: Named(
            r["key"],
            r["name"],
            Estimate(float(r["value"]), float(r["low"]), float(r["high"]), Kind.ASSUMED),
            r["source"],
        )
        for r in rows("traction")
    }


@cache
def joins() -> dict[str, Named]:
    """Return ways to join two ropes: strength kept [-], and whether they come undone after load."""
    return {
        r["key"]: Named(
            r["key"],
            r["name"],
            Estimate(float(r["kept"]), float(r["kept_low"]), float(r["kept_high"]), Kind.ASSUMED),
            r["undoes"],
        )
        for r in rows("joins")
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A part of the system. Place [m], height above its own ground [m].

    ``on`` is empty for what stands on the ground or at an anchor, ``tree`` for what hangs on the stem at the tie, else
    the rope whose first leg it grips. Hands: ``people`` in number, a winch's ``force`` [N], a vehicle's ``mass`` [kg]
    on ``ground``. ``rating`` is what the part or its anchor may be loaded with [N], ``trunk`` an anchor tree's
    diameter [m]. ``turns`` are whole turns round a trunk beyond the geometry.
    """

    name: str
    kind: str
    x: float
    y: float
    height: float = 0.5
    on: str = ""
    people: int = 2
    force: float = 0.0
    mass: float = 2000.0
    ground: str = "grass"
    turns: float = 0.0
    rating: float | None = None
    trunk: float | None = None

    def __post_init__(self) -> None:
        """Refuse what no part is; the error names the part."""
        at = f"part {self.name}"
        if not self.name.strip() or self.name == TREE:
            raise NotSolvable(at, "a part needs a name of its own")
        if self.kind not in part_kinds():
            raise none_of(what=at, given=self.kind, known=part_kinds())
        hold(self, PartEntry, said=at)
        if self.ground not in tractions():
            raise none_of(what=at, given=self.ground, known=tractions())

    @property
    def role(self) -> str:
        """end, turn, bark or hand."""
        return part_kinds()[self.kind].role


@dataclass(frozen=True, slots=True, kw_only=True)
class Rope:
    """A rope by the parts it passes, from its load end to its hauling end; the tree counts as a part.

    ``owned`` length at hand [m], ``strength`` new breaking strength [N], ``join`` how two are joined, ``knot`` how it
    is made fast to the tree.
    """

    name: str
    path: tuple[str, ...]
    owned: float | None = None
    strength: float | None = None
    join: str = "none"
    knot: str = "unknown"

    def __post_init__(self) -> None:
        """Refuse what no rope is."""
        at = f"rope {self.name}"
        if len(self.path) < 2:
            raise NotSolvable(at, "a rope runs from one part to another")
        for a, b in itertools.pairwise(self.path):
            if a == b:
                raise NotSolvable(at, "it goes from “{a}” to itself", a=a)
        hold(self, RopeEntry, said=at)
        for key, known in ((self.join, joins()), (self.knot, knots())):
            if key not in known:
                raise none_of(what=at, given=key, known=known)


@dataclass(frozen=True, slots=True, kw_only=True)
class PullSystem:
    """A whole system tied to the stem ``tie`` above the ground [m]; ``design`` school of the design factor.

    ``takes`` is the share of what the hands can give that is planned [-].
    """

    tie: float
    parts: tuple[Part, ...]
    ropes: tuple[Rope, ...]
    design: str = "5"
    takes: float = 1.0

    def __post_init__(self) -> None:
        """Refuse a system that does not hang together."""
        hold(self, SystemEntry, said="pull_{}")
        if not self.ropes:
            raise NotSolvable(what="pull", why="a pulling system needs a rope")
        for what, names in (("part", [p.name for p in self.parts]), ("rope", [r.name for r in self.ropes])):
            for i, name in enumerate(names):
                if name in names[:i]:
                    raise NotSolvable(what=f"{what} {name}", why="another {what_} has this name", what_=what)
        self._check_paths()

    def _check_paths(self) -> None:
        known = {p.name for p in self.parts}
        ropes = {r.name for r in self.ropes}
        used: dict[str, str] = {}
        for rope in self.ropes:
            for i, name in enumerate(rope.path):
                if name != TREE and name not in known:
                    raise NotSolvable(
                        what=f"rope {rope.name}", why="there is no part “{name}” for it to pass", name=name
                    )
                if name == TREE and i > 0:
                    raise NotSolvable(
                        what=f"rope {rope.name}", why="only its load end is tied to the tree; pass a block on the tree"
                    )
                passed = name != TREE and 0 < i < len(rope.path) - 1
                if passed and (used.setdefault(name, rope.name) != rope.name or rope.path.count(name) > 1):
                    raise NotSolvable(what=f"part {name}", why="a rope passes it twice; use a part for each turn")
        for part in self.parts:
            if part.on not in ("", TREE) and part.on not in ropes:
                raise NotSolvable(what=f"part {part.name}", why="there is no rope “{on}” for it to grip", on=part.on)


class Leg(NamedTuple):
    """A straight leg of a rope under load: between which parts, where [m], and its tension at each end [N].

    A grip on a leg raises its tension towards the load: ``load`` is the tension there, ``haul`` at the other end.
    """

    rope: str
    a: str
    b: str
    start: Place
    end: Place
    load: float
    haul: float


class PartLoad(NamedTuple):
    """What a part and its anchor carry: a force [N] and its unit direction."""

    part: str
    force: float
    direction: Place


class Worked(NamedTuple):
    """A system worked out for one set of turns and one effort: purchase [-], legs, loads, force on the tree [N]."""

    purchase: float
    effort: float
    legs: tuple[Leg, ...]
    loads: tuple[PartLoad, ...]
    tree: Place
    tie: Place


def effort_of(part: Part) -> Estimate:
    """Sustained force at a hand [N]; docs/methods.md, pulling (1).

    Parameters
    ----------
    part : Part
        People, a winch or a vehicle.

    Raises
    ------
    NotSolvable
        If it is no hand, or a winch nobody gave a force.

    References
    ----------
    People: a share of body weight. Vehicle: traction on its ground.
    """
    if part.kind == "people":
        each, mass = constant("people_pull"), constant("body_mass")
        n = part.people * GRAVITY
        return Estimate(n * each.value * mass.value, n * each.low * mass.low, n * each.high * mass.high, Kind.ASSUMED)
    if part.kind == "vehicle":
        mu, weight = tractions()[part.ground].share, part.mass * GRAVITY
        pulls = Estimate(mu.value * weight, mu.low * weight, mu.high * weight, Kind.ASSUMED)
        return pulls if part.force <= 0.0 else _capped(pulls, part.force)
    if part.kind != "winch":
        raise NotSolvable(what=f"part {part.name}", why="a rope's hauling end is held by people, a winch or a vehicle")
    if part.force <= 0.0:
        raise NotSolvable(what=f"part {part.name}", why="say what the winch pulls")
    return exactly(part.force, Kind.ESTIMATED)


def _capped(e: Estimate, most: float) -> Estimate:
    return Estimate(min(e.value, most), min(e.low, most), min(e.high, most), e.kind)


def _unit(a: Place, b: Place) -> Place:
    d = math.dist(a, b)
    if d < 0.05:
        raise NotSolvable(what="part", why="two parts of a rope lie on one another")
    return ((b[0] - a[0]) / d, (b[1] - a[1]) / d, (b[2] - a[2]) / d)


def _add(a: Place, b: Place, factor: float = 1.0) -> Place:
    return a[0] + factor * b[0], a[1] + factor * b[1], a[2] + factor * b[2]


def _dot(a: Place, b: Place) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def _turned(a: Place, b: Place) -> float:
    """Angle a rope turns through where it comes along a and goes on along b [rad]."""
    return math.acos(min(max(_dot(a, b), -1.0), 1.0))


class _Follow:
    """Ropes followed in the order they depend on each other; one set of turns, one share of effort."""

    def __init__(self, system: PullSystem, places: dict[str, Place], end: str, efforts: dict[str, float]) -> None:
        self.system, self.places, self.end, self.efforts = system, places, end, efforts
        self.parts = {p.name: p for p in system.parts}
        self.ropes = {r.name: r for r in system.ropes}
        self.done: dict[str, list[list[float]]] = {}
        self.busy: list[str] = []

    def passed(self, part: Part, into: Place, out: Place) -> float:
        """Share of the tension a turn passes on [-]; docs/methods.md, pulling (2)."""
        angle = _turned(into, out)
        if part.role == "bark":
            mu = constant("bark_friction")
            friction = {"low": mu.high, "value": mu.value, "high": mu.low, "ideal": 0.0}[self.end]
            return math.exp(-friction * (angle + math.tau * part.turns))
        if self.end == "ideal" or part.role != "turn":
            return 1.0
        half_turn = float(getattr(part_kinds()[part.kind].turn, self.end))
        return float(half_turn ** (angle / math.pi))  # (2)

    def effort(self, rope: Rope) -> float:
        """Tension at a rope's hauling end [N]."""
        last = rope.path[-1]
        if last == TREE:
            raise NotSolvable(what=f"rope {rope.name}", why="its hauling end can't be the tree")
        part = self.parts[last]
        if part.role == "hand":
            return self.efforts[last]
        holder = next((r for r in self.system.ropes if last in r.path[1:-1]), None)
        if holder is not None:
            return abs(self.pull_of(part, holder, _unit(self.places[last], self.places[rope.path[-2]])))
        if any(p.on == rope.name for p in self.system.parts):
            return 0.0  # only tailed by hand: another rope grips it
        raise NotSolvable(
            what=f"rope {rope.name}", why="nothing hauls it: end it at people, a winch, a vehicle or a moving block"
        )

    def pull_of(self, part: Part, rope: Rope, towards: Place) -> float:
        """Force a rope puts on a moving part it passes, against a direction [N]."""
        i = rope.path.index(part.name)
        legs = self.tensions(rope, down_to=i)
        here = self.places[part.name]
        force = (0.0, 0.0, 0.0)
        for leg, other in ((i - 1, rope.path[i - 1]), (i, rope.path[i + 1])):
            if leg >= 0:
                t = legs[leg][1] if leg == i - 1 else legs[leg][0]
                force = _add(force, _unit(here, self.places[other]), t)
        return -_dot(force, towards)

    def tensions(self, rope: Rope, down_to: int = 0) -> list[list[float]]:
        """Tension of every leg at its load end and hauling end [N], from the hand down to a leg."""
        if rope.name in self.done:
            return self.done[rope.name]
        mark = f"{rope.name} {down_to}"
        if mark in self.busy:
            raise NotSolvable(
                what=f"rope {rope.name}", why="the system closes on itself: this rope would pull on what pulls it"
            )
        self.busy.append(mark)
        found = self._followed(rope, down_to)
        self.busy.pop()
        if down_to == 0:
            self.done[rope.name] = found
        return found

    def _followed(self, rope: Rope, down_to: int) -> list[list[float]]:
        path = rope.path
        legs = [[0.0, 0.0] for _ in path[1:]]
        tension = self.effort(rope)
        for i in range(len(legs) - 1, -1, -1):
            here, there = self.places[path[i]], self.places[path[i + 1]]
            legs[i][1] = tension
            if i == 0:
                tension += self.gripped(rope, _unit(here, there))
            legs[i][0] = tension
            if i < max(down_to - 1, 0) or i == 0:
                break
            part = self.parts[path[i]]
            tension *= self.passed(part, _unit(there, here), _unit(here, self.places[path[i - 1]]))
            if i == down_to:
                legs[i - 1][1] = tension
                break
        return legs

    def gripped(self, rope: Rope, along: Place) -> float:
        """What grips on a rope's first leg add to it towards the load [N]."""
        total = 0.0
        for part in self.system.parts:
            if part.on != rope.name:
                continue
            holder = next((r for r in self.system.ropes if part.name in r.path[1:-1]), None)
            if holder is not None:
                total += max(self.pull_of(part, holder, (-along[0], -along[1], -along[2])), 0.0)
        return total


def work_out(
    system: PullSystem, places: dict[str, Place], end: str = "value", efforts: dict[str, float] | None = None
) -> Worked:
    """Follow every rope and add up what the tree, each part and each leg carry; docs/methods.md, pulling (1) to (4).

    Parameters
    ----------
    system : PullSystem
        The system.
    places : dict of tuple
        Every part's place, and the tie's under ``tree``. [m]
    end : str
        value, low or high for the turns' efficiencies; ideal for none lost.
    efforts : dict of float, optional
        Force at each hand by its part's name; None for what each can sustain. [N]

    Raises
    ------
    NotSolvable
        Naming the part or rope that makes it impossible.

    References
    ----------
    Rope followed from the hand; capstan equation on bark; forces on parts as vector sums.
    """
    hands = [p for p in system.parts if p.role == "hand" and any(r.path[-1] == p.name for r in system.ropes)]
    if not hands:
        raise NotSolvable(
            what=f"rope {system.ropes[0].name}", why="nothing hauls it: end it at people, a winch or a vehicle"
        )
    which = "value" if end == "ideal" else end
    given = efforts or {p.name: float(getattr(effort_of(p), which)) * system.takes for p in hands}
    follow = _Follow(system, places, end, given)
    legs = [
        Leg(r.name, a, b, places[a], places[b], load, haul)
        for r in system.ropes
        for (a, b), (load, haul) in zip(itertools.pairwise(r.path), follow.tensions(r), strict=True)
    ]
    loads = {p.name: _loaded(p.name, legs) for p in system.parts}
    tree = _loaded(TREE, legs)
    for part in system.parts:
        if part.on == TREE:
            tree = _add(tree, loads[part.name])
    effort = sum(given[p.name] for p in hands)
    size = math.hypot(*tree)
    if size <= 0.0:
        raise NotSolvable(what="pull", why="no rope of this system reaches the tree")
    return Worked(size / effort, effort, tuple(legs), tuple(_load(n, f) for n, f in loads.items()), tree, places[TREE])


def _loaded(name: str, legs: list[Leg]) -> Place:
    force = (0.0, 0.0, 0.0)
    for leg in legs:
        if leg.a == name:
            force = _add(force, _unit(leg.start, leg.end), leg.load)
        elif leg.b == name:
            force = _add(force, _unit(leg.end, leg.start), leg.haul)
    return force


def _load(name: str, force: Place) -> PartLoad:
    size = math.hypot(*force)
    return PartLoad(name, size, (force[0] / size, force[1] / size, force[2] / size) if size > 0.0 else (0.0, 0.0, 0.0))


def length_of(rope: Rope, places: dict[str, Place]) -> float:
    """Length of a rope's way through its parts [m].

    Parameters
    ----------
    rope : Rope
        The rope.
    places : dict of tuple
        As for ``work_out``. [m]
    """
    return sum(math.dist(places[a], places[b]) for a, b in itertools.pairwise(rope.path))
