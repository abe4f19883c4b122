"""What the crew needs to find and rig the lines: where each end stands, how long each rope is, what each hand gives."""

from __future__ import annotations

import math
from typing import NamedTuple

from shapely.geometry import Point

from treecore.estimate import Estimate, times
from treecore.felling.inputs import FellingInput
from treecore.felling.lines import anchor_of, system_travel
from treecore.felling.plan import FellingResult
from treecore.felling.standing import guy_course
from treecore.rigging.line import Pull
from treecore.rigging.pull_on_site import Rigged, rope_needs, tie_place
from treecore.rigging.pulling import TREE, Part, effort_of
from treecore.rigging.tackle import Tackle
from treecore.schools import constant
from treecore.site import Site, Spot, Target, turn_to

AHEAD = math.radians(25.0)  # what lies within this of the lay is ahead of it, not to a side
NEAR = 15.0  # a landmark further off than this tells nobody where a place is [m]


class Landmark(NamedTuple):
    """A named thing of the site and how far off it is [m]; 0 on or in it."""

    name: str
    off: float


class Aim(NamedTuple):
    """What the lay points at: the thing nearest to it by bearing, how far to its right that lies [rad], and how far
    off it is [m].
    """

    name: str
    right: float
    distance: float


class Stand(NamedTuple):
    """Where an end or a part of a line stands, from the stem: bearing [rad], distance and height [m], side of the lay
    ("left", "right", "ahead", "behind"), the landmark, and the force it gives or carries [N].
    """

    name: str
    kind: str
    bearing: float
    distance: float
    height: float
    side: str
    landmark: Landmark | None
    force: Estimate | None
    people: int


class RopeRun(NamedTuple):
    """A rope: the parts it passes, way and needed length [m], what there is [m], how often it bends, and its tension
    [N]; ``knot`` at the tree.
    """

    name: str
    path: tuple[str, ...]
    way: float
    need: float
    owned: float | None
    bends: int
    tension: Estimate
    knot: str


class LineSheet(NamedTuple):
    """Everything of the lines: tie [m], what the tree gets [N], who gives it, the other parts, the ropes; the guy's
    anchor, tie [m] and rope.
    """

    tie: float | None
    on_tree: Estimate | None
    hands: tuple[Stand, ...]
    parts: tuple[Stand, ...]
    ropes: tuple[RopeRun, ...]
    guy: Stand | None
    guy_tie: float | None


def line_sheet(plan: FellingInput, result: FellingResult) -> LineSheet:
    """Gather what is rigged; docs/methods.md, pulling (1) to (8), guy (5).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    result : FellingResult
        What it comes to.
    """
    rigged = plan.rigged
    hands: list[Stand] = []
    parts: list[Stand] = []
    ropes: list[RopeRun] = []
    tie, on_tree = None, None
    if rigged is not None:
        tie, on_tree = rigged.system.tie, rigged.pull
        hands, parts = _system(plan, rigged)
        ropes = _system_ropes(plan, result, rigged)
    elif plan.pull is not None:
        tie, on_tree = plan.pull.tie, times(plan.gain, plan.pull.force)
        hands = [_stand(plan, "Pull line", _kind(plan.pull.tackle), _end(plan, plan.pull), on_tree, _people(plan.pull))]
        ropes = [_single(plan, "Pull line", plan.pull, 0.0, on_tree)]
    guy = None
    if plan.guy is not None:
        wanted, line = result.estimates["guy_wanted"], plan.guy.line(1.0)
        guy = _stand(plan, "Guy line", "tie", _end(plan, line), wanted)
        ropes = [*ropes, _single(plan, "Guy line", line, guy_course(plan, plan.guy).out, wanted)]
    return LineSheet(
        tie, on_tree, tuple(hands), tuple(parts), tuple(ropes), guy, plan.guy.tie if plan.guy is not None else None
    )


def landmark(site: Site, x: float, y: float, within: float = NEAR) -> Landmark | None:
    """Return the named thing of the site nearest to a place, None where none is near.

    Parameters
    ----------
    site : Site
        The site.
    x, y : float
        The place. [m]
    within : float
        Furthest that counts. [m]
    """
    at = Point(x, y)
    things = [(t.shape.distance(at), t.name) for t in _things(site) if t.name]
    far, name = min(things, default=(math.inf, ""))
    return Landmark(name, far) if far <= within else None


def aim(site: Site, lay: float, beyond: float) -> Aim | None:
    """Return what there is to look along the lay at: the thing nearest to it by bearing, within 25 degrees.

    Parameters
    ----------
    site : Site
        The site.
    lay : float
        The lay. [rad]
    beyond : float
        What is nearer to the stem than this hides nothing and marks nothing. [m]
    """
    found = []
    for thing in _things(site):
        middle = thing.shape.centroid
        east, north = middle.x - site.tree_x, middle.y - site.tree_y
        far = math.hypot(east, north)
        right = turn_to(math.atan2(east, north) - lay)
        if thing.name and far >= beyond and abs(right) <= AHEAD:
            found.append((abs(right), Aim(thing.name, right, far)))
    return min(found)[1] if found else None


def guy_belongs(result: FellingResult) -> str:
    """Side of the lay a guy belongs on: away from where lean, crown and oval pull the tree by themselves.

    Parameters
    ----------
    result : FellingResult
        What the plan comes to; its side moments are positive to the right. [N·m]
    """
    own = sum(result.estimates[name].value for name in ("s_lean", "s_crown", "s_oval"))
    return "left" if own > 0.0 else "right"


def _things(site: Site) -> list[Target | Spot]:
    return [*site.targets, *site.places]


def side_of(lay: float, bearing: float) -> str:
    """Side of the lay a bearing lies on, looking along it from the stem: ahead, right, behind or left.

    Parameters
    ----------
    lay, bearing : float
        Bearings. [rad]
    """
    right = turn_to(bearing - lay)
    if abs(right) <= AHEAD:
        return "ahead"
    if abs(right) >= math.pi - AHEAD:
        return "behind"
    return "right" if right > 0.0 else "left"


def _stand(
    plan: FellingInput,
    name: str,
    kind: str,
    at: tuple[float, float, float],
    force: Estimate | None,
    people: int = 0,
) -> Stand:
    site = plan.site
    east, north = at[0] - site.tree_x, at[1] - site.tree_y
    bearing = math.atan2(east, north) % math.tau
    return Stand(
        name,
        kind,
        bearing,
        math.hypot(east, north),
        at[2],
        side_of(plan.lay, bearing),
        landmark(site, at[0], at[1]),
        force,
        people,
    )


def _end(plan: FellingInput, line: Pull) -> tuple[float, float, float]:
    return (*anchor_of(plan, line), line.anchor)


def _kind(tackle: Tackle | None) -> str:
    return tackle.by if tackle is not None else ""


def _people(line: Pull) -> int:
    return line.tackle.people if line.tackle is not None and line.tackle.by == "people" else 0


def _system(plan: FellingInput, rigged: Rigged) -> tuple[list[Stand], list[Stand]]:
    """Hands with what each gives, and the other parts with what each carries."""
    loads = {load.part: load.force for load in rigged.worked.loads}
    hands, parts = [], []
    for part in rigged.system.parts:
        at = (*rigged.places[part.name][:2], part.height)
        if part.role == "hand":
            hands.append(_stand(plan, part.name, part.kind, at, _given(rigged, part), _heads(part)))
        elif part.on == "":
            parts.append(_stand(plan, part.name, part.kind, at, times(rigged.gain, loads.get(part.name, 0.0))))
    return hands, parts


def _given(rigged: Rigged, part: Part) -> Estimate:
    """What one hand gives, with the interval of what its kind can [N]: this, not what the tree gets, is said to it."""
    can = effort_of(part)
    gives = sum(leg.haul for leg in rigged.worked.legs if leg.b == part.name)
    return times(can, gives / can.value)


def _heads(part: Part) -> int:
    return part.people if part.kind == "people" else 0


def _system_ropes(plan: FellingInput, result: FellingResult, rigged: Rigged) -> list[RopeRun]:
    way = system_travel(plan, rigged, result.estimates)
    return [
        RopeRun(
            need.rope.name,
            need.rope.path,
            need.path,
            need.need,
            need.rope.owned,
            max(len(need.rope.path) - 2, 0),
            need.tension,
            need.rope.knot,
        )
        for need in rope_needs(rigged, way)
    ]


def _single(plan: FellingInput, name: str, line: Pull, more: float, tension: Estimate) -> RopeRun:
    """A line straight from the tie to its anchor."""
    way = math.dist(tie_place(plan.site, plan.tree, line.tie), _end(plan, line))
    tackle = line.tackle or Tackle()
    need = way + more + constant("rope_tail").value
    return RopeRun(name, (TREE, "anchor"), way, need, tackle.owned, 0, tension, tackle.knot)
