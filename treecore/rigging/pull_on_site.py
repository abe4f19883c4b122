"""A pulling system on its site: where its parts are in space, what it does to the tree, what it fouls and who stands
wrong.
"""

from __future__ import annotations

import math
from functools import lru_cache, partial
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Point, Polygon

from treecore.errors import NotSolvable
from treecore.estimate import Estimate, Kind, exactly, product, times
from treecore.figures import Figure, Term
from treecore.rigging.line import Pull
from treecore.rigging.pulling import (
    TREE,
    Leg,
    Part,
    Place,
    PullSystem,
    Rope,
    Worked,
    joins,
    length_of,
    work_out,
)
from treecore.rigging.tackle import anchor_holds, knots
from treecore.schools import constant, school
from treecore.site import Site, turn_to
from treecore.tree.body import TreeInput
from treecore.verdict import Verdict


def ground_at(site: Site, x: float, y: float) -> float:
    """Height of the ground against the stem's foot [m]; docs/methods.md, pulling (5).

    Parameters
    ----------
    site : Site
        Its slope is a plane through the stem's foot.
    x, y : float
        East and north. [m]

    References
    ----------
    A plane.
    """
    down = (x - site.tree_x) * math.sin(site.downhill) + (y - site.tree_y) * math.cos(site.downhill)
    return -math.tan(site.slope) * down  # (5)


def tie_place(site: Site, tree: TreeInput, tie: float) -> Place:
    """Where a line is tied on the leaning stem [m].

    Parameters
    ----------
    site : Site
        Gives the stem's foot.
    tree : TreeInput
        Gives the lean.
    tie : float
        Height above the ground. [m]
    """
    out = tie * math.tan(tree.lean)
    return site.tree_x + out * math.sin(tree.lean_azimuth), site.tree_y + out * math.cos(tree.lean_azimuth), tie


def places_of(system: PullSystem, site: Site, tree: TreeInput) -> dict[str, Place]:
    """Every part's place in space, the tie's under ``tree``; what grips a line is moved onto it [m].

    Parameters
    ----------
    system : PullSystem
        The system.
    site : Site
        The site.
    tree : TreeInput
        The tree it pulls on.

    Raises
    ------
    NotSolvable
        If a grip's line has no leg for it to grip.
    """
    tie = tie_place(site, tree, system.tie)
    places = {p.name: (p.x, p.y, ground_at(site, p.x, p.y) + p.height) for p in system.parts} | {TREE: tie}
    for part in system.parts:
        if part.on == TREE:
            places[part.name] = tie
    for part in system.parts:
        if part.on not in ("", TREE):
            rope = next(r for r in system.ropes if r.name == part.on)
            if part.name in rope.path[:2]:
                raise NotSolvable(what=f"part {part.name}", why="it can't grip the leg it is an end of")
            places[part.name] = _onto((part.x, part.y), places[rope.path[0]], places[rope.path[1]])
    return places


def _onto(at: tuple[float, float], a: Place, b: Place) -> Place:
    """Nearest point of a leg in plan, kept clear of its ends."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    flat = dx * dx + dy * dy
    share = ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / flat if flat > 0.0 else 0.5
    share = min(max(share, 0.02), 0.98)
    return a[0] + share * dx, a[1] + share * dy, a[2] + share * (b[2] - a[2])


class RopeNeed(NamedTuple):
    """What a rope must be: length through its parts, with travel and tail [m], greatest tension, what it may carry
    [N].
    """

    rope: Rope
    path: float
    need: float
    tension: Estimate
    allowed: Estimate | None


class Foul(NamedTuple):
    """A leg that meets something: which, how high it passes there and how high it should [m]."""

    leg: Leg
    target: str
    passes: float
    wanted: float
    at: tuple[float, float]


class Stands(NamedTuple):
    """A place where someone stands wrong, and why: fall, bight, recoil or in_line; ``other`` whose."""

    part: str
    verdict: Verdict
    why: str
    other: str = ""


class Rigged(NamedTuple):
    """A system worked out on its site. ``lines`` pull on the tree; ``gain`` is the interval on all of them [-]."""

    system: PullSystem
    places: dict[str, Place]
    worked: Worked
    ideal: float
    purchase: Estimate
    effort: Estimate
    pull: Estimate
    lines: tuple[Pull, ...]
    gain: Estimate
    fouls: tuple[Foul, ...]
    crosses: tuple[str, ...]
    azimuth: float
    down: float


@lru_cache(maxsize=64)
def rig(system: PullSystem, site: Site, tree: TreeInput) -> Rigged:
    """Work a system out where it stands.

    Parameters
    ----------
    system : PullSystem
        The system.
    site : Site
        The site.
    tree : TreeInput
        The tree it pulls on.

    Raises
    ------
    NotSolvable, OutOfRange
        Naming the part or rope.

    References
    ----------
    docs/methods.md, pulling (1) to (6).
    """
    places = places_of(system, site, tree)
    worked, low, high = (work_out(system, places, end) for end in ("value", "low", "high"))
    ideal = work_out(system, places, "ideal").purchase
    # Turns and hands are taken apart: both low together would be two bad days at once.
    e = worked.effort
    turn = [work_out(system, places, end, _shared(system, worked)).purchase for end in ("low", "high")]
    purchase = Estimate(worked.purchase, min(turn), max(turn), Kind.ESTIMATED)
    effort = Estimate(e, min(low.effort, e), max(high.effort, e), Kind.ASSUMED)
    gain = product(times(purchase, 1.0 / purchase.value), times(effort, 1.0 / e))
    size = math.hypot(*worked.tree)
    return Rigged(
        system=system,
        places=places,
        worked=worked,
        ideal=ideal,
        purchase=purchase,
        effort=effort,
        pull=times(gain, size),
        lines=_lines(system, site, worked),
        gain=gain,
        fouls=tuple(f for leg in worked.legs for f in fouls(leg, site)),
        crosses=_crossed(site, worked),
        azimuth=math.atan2(worked.tree[0], worked.tree[1]) % math.tau,
        down=math.atan2(-worked.tree[2], math.hypot(worked.tree[0], worked.tree[1])),
    )


def _crossed(site: Site, worked: Worked) -> tuple[str, ...]:
    """Names of the targets that a leg passes over in plan."""
    lines = shapely.MultiLineString([[leg.start[:2], leg.end[:2]] for leg in worked.legs])
    met = shapely.intersects(site.shapes, lines).tolist() if site.targets else []
    return tuple(t.name for t, hit in zip(site.targets, met, strict=True) if hit)


def _shared(system: PullSystem, worked: Worked) -> dict[str, float]:
    """Efforts of the central case by hand, so that turns alone change."""
    hands = {p.name: p for p in system.parts if p.role == "hand"}
    return {leg.b: leg.haul for leg in worked.legs if leg.b in hands}


def _lines(system: PullSystem, site: Site, worked: Worked) -> tuple[Pull, ...]:
    """Every leg that pulls on the tree as a line of its own."""
    hung = {TREE} | {p.name for p in system.parts if p.on == TREE}
    found = []
    for leg in worked.legs:
        for name, other, force in ((leg.a, leg.end, leg.load), (leg.b, leg.start, leg.haul)):
            if name in hung and force > 0.0:
                east, north = other[0] - site.tree_x, other[1] - site.tree_y
                found.append(
                    Pull(
                        tie=system.tie,
                        azimuth=math.atan2(east, north) % math.tau,
                        distance=math.hypot(east, north),
                        anchor=other[2],
                        force=force,
                    )
                )
    return tuple(found)


def fouls(leg: Leg, site: Site) -> tuple[Foul, ...]:
    """Return what a tight leg does not clear; docs/methods.md, pulling (6).

    Parameters
    ----------
    leg : Leg
        A straight leg. [m]
    site : Site
        Its targets are prisms on the sloping ground.

    References
    ----------
    Height of a straight line over the part of it that crosses a prism.
    """
    a, b = np.array(leg.start), np.array(leg.end)
    line = LineString([a[:2], b[:2]])
    if not site.targets or line.length < 0.01:
        return ()
    found = []
    for target, meets in zip(site.targets, shapely.intersects(site.shapes, line).tolist(), strict=True):
        if not meets or target.kind in ("conductor", "people", "lane") or target.height <= 0.0:
            continue
        part = line.intersection(target.shape)
        ends = [line.project(Point(p)) / line.length for p in shapely.get_coordinates(part).tolist()]
        for share in (min(ends), max(ends)):
            at = a + (b - a) * share
            wanted = ground_at(site, at[0], at[1]) + target.height + constant("rope_clear").value
            if at[2] < wanted:  # (6)
                found.append(Foul(leg, target.name, float(at[2]), wanted, (float(at[0]), float(at[1]))))
                break
    return tuple(found)


def rope_needs(rigged: Rigged, travel: float) -> tuple[RopeNeed, ...]:
    """Return what each rope must be; docs/methods.md, pulling (7), (8).

    Parameters
    ----------
    rigged : Rigged
        The system worked out.
    travel : float
        How far the tie comes towards the system until the weight commits. [m]

    References
    ----------
    Way through the parts, travel times the ideal purchase of the hauling rope, and a tail; strength over design factor.
    """
    system, found = rigged.system, []
    design = school("design", system.design).usual
    hauled = {r.name for r in system.ropes if any(p.name == r.path[-1] and p.role == "hand" for p in system.parts)}
    for rope in system.ropes:
        path = length_of(rope, rigged.places)
        extra = travel * max(rigged.ideal, 1.0) if rope.name in hauled else travel
        most = max(max(leg.load, leg.haul) for leg in rigged.worked.legs if leg.rope == rope.name)
        allowed = times(_weakest(rope), rope.strength / design) if rope.strength is not None else None  # (8)
        found.append(
            RopeNeed(rope, path, path + extra + constant("rope_tail").value, times(rigged.gain, most), allowed)
        )
    return tuple(found)


def _weakest(rope: Rope) -> Estimate:
    """Strength a rope keeps at its weaker end: where two are joined, or where it is made fast to the tree [-]."""
    kept = [joins()[rope.join].share] + ([knots()[rope.knot][1]] if rope.path[0] == TREE else [])
    return min(kept, key=lambda e: e.value)


def travel(
    system: PullSystem | Pull, places: dict[str, Place], foot: tuple[float, float], lay: float, turn: float
) -> float:
    """How much nearer the tie comes to the first part of its line while the stem turns [m]; docs/methods.md, pulling
    (7).

    Parameters
    ----------
    system : PullSystem or Pull
        What pulls; its tie turns about the stem's foot.
    places : dict of tuple
        As for ``work_out``. [m]
    foot : tuple of float
        Stem's place. [m]
    lay, turn : float
        Bearing of the lay, and turn of the stem. [rad]

    References
    ----------
    The tie's chord towards the first part.
    """
    tie = places[TREE]
    first = next((places[r.path[1]] for r in getattr(system, "ropes", ()) if r.path[0] == TREE), None)
    if first is None:
        first = next((places[r.path[0]] for r in getattr(system, "ropes", ())), tie)
    x = (tie[0] - foot[0]) * math.sin(lay) + (tie[1] - foot[1]) * math.cos(lay)
    ahead, up = x * math.cos(turn) + tie[2] * math.sin(turn), tie[2] * math.cos(turn) - x * math.sin(turn)
    moved = tie[0] + (ahead - x) * math.sin(lay), tie[1] + (ahead - x) * math.cos(lay), up
    return max(math.dist(tie, first) - math.dist(moved, first), 0.0)  # (7)


def anchor_allowed(part: Part, design: str) -> Estimate | None:
    """What an anchor may be loaded with [N]; docs/methods.md, pulling (9).

    Parameters
    ----------
    part : Part
        The part on the anchor.
    design : str
        School of the design factor.

    References
    ----------
    ``treecore.rigging.tackle.anchor_holds``.
    """
    return anchor_holds(part.rating, part.trunk, part.height, design)


def people_places(rigged: Rigged, covered: MultiPolygon) -> tuple[Stands, ...]:
    """Return hands that stand in the fall, in a bight, or in a line of recoil; docs/methods.md, pulling (10).

    Parameters
    ----------
    rigged : Rigged
        The system worked out.
    covered : MultiPolygon
        Ground the tree may cover. [m]

    References
    ----------
    The bight is the angle between the legs of a turn; recoil goes along the force on what lets go.
    """
    found = []
    for part in rigged.system.parts:
        if part.role != "hand":
            continue
        spot = Point(part.x, part.y)
        if covered.contains(spot):
            found.append(Stands(part.name, Verdict.OVER, "fall"))
            continue
        inside = next((name for name, shape in _bights(rigged) if shape.contains(spot)), None)
        if inside is not None:
            found.append(Stands(part.name, Verdict.OVER, "bight", inside))
            continue
        behind = next((name for name, shape in _recoils(rigged, part.name) if shape.contains(spot)), None)
        if behind is not None:
            found.append(Stands(part.name, Verdict.OVER, "recoil", behind))
        elif part.kind == "people":
            found += _in_line(rigged, part)
    return tuple(found)


def _in_line(rigged: Rigged, part: Part) -> list[Stands]:
    """People straight behind a line from the tree haul in line with it."""
    rope = next((r for r in rigged.system.ropes if r.path == (TREE, part.name)), None)
    return [Stands(part.name, Verdict.NEAR, "in_line")] if rope else []


def _bights(rigged: Rigged) -> list[tuple[str, Polygon]]:
    """Triangles between the two legs of every turn that changes direction."""
    found = []
    for rope in rigged.system.ropes:
        for before, node, after in zip(rope.path, rope.path[1:], rope.path[2:], strict=False):
            a, n, b = (rigged.places[name][:2] for name in (before, node, after))
            triangle = Polygon([a, n, b])
            if triangle.area > 0.5:
                found.append((node, triangle))
    return found


def _recoils(rigged: Rigged, own: str) -> list[tuple[str, Polygon]]:
    """Ground in line with the force on each anchor, where it or its block would fly."""
    cone, found = constant("bight_cone").value, []
    held = {p.name for p in rigged.system.parts if p.role != "hand" and p.on == ""}
    for load in rigged.worked.loads:
        if load.part not in held or load.force <= 0.0:
            continue
        x, y, _ = rigged.places[load.part]
        way = math.atan2(load.direction[0], load.direction[1])
        legs = [leg for leg in rigged.worked.legs if load.part in (leg.a, leg.b) and own not in (leg.a, leg.b)]
        reach = max((math.dist(leg.start, leg.end) for leg in legs), default=5.0) * constant("recoil_reach").value
        fan = [(x, y)] + [
            (x + reach * math.sin(way + cone * s), y + reach * math.cos(way + cone * s))
            for s in (-1.0, -0.5, 0.0, 0.5, 1.0)
        ]
        found.append((load.part, Polygon(fan)))
    return found


def rigged_figures(rigged: Rigged, lay: float) -> tuple[Figure, ...]:
    """Dress what a system comes to as figures with their why.

    Parameters
    ----------
    rigged : Rigged
        The system worked out.
    lay : float
        Bearing of the lay. [rad]
    """
    worked, source = rigged.worked, "Ropes followed from the hand; docs/methods.md pulling "
    off = turn_to(rigged.azimuth - lay)
    terms = (
        Term("F", "on the tree", math.hypot(*worked.tree), "force"),
        Term("E", "at the hands", worked.effort, "force"),
    )
    row = partial(Figure, terms=terms)
    return (
        row(
            key="purchase",
            label="Purchase, turns counted",
            estimate=rigged.purchase,
            dimension="ratio",
            formula="F / E",
            source=source + "(2), (3)",
        ),
        row(
            key="ideal",
            label="Purchase if no turn lost anything",
            estimate=exactly(rigged.ideal, Kind.ESTIMATED),
            dimension="ratio",
            formula="F / E",
            source=source + "(3)",
        ),
        row(
            key="effort",
            label="At the hands",
            estimate=rigged.effort,
            dimension="force",
            formula="people, winch or vehicle × share taken",
            source=source + "(1)",
        ),
        row(
            key="pull",
            label="On the tree",
            estimate=rigged.pull,
            dimension="force",
            formula="F = E · purchase",
            source=source + "(3), (4)",
        ),
        row(
            key="off_lay",
            label="Pulls off the lay, right positive",
            estimate=exactly(off, Kind.ESTIMATED),
            dimension="fine_angle",
            formula="bearing of F − lay",
            source=source + "(4)",
        ),
        row(
            key="down",
            label="Pulls down from level",
            estimate=exactly(rigged.down, Kind.ESTIMATED),
            dimension="fine_angle",
            formula="slope of F",
            source=source + "(4)",
        ),
    )
