"""A pulling system and a guy line laid out at one press: from named ends and ropes, pulling as much as is needed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

from treecore.errors import NotSolvable
from treecore.felling.inputs import FellingInput
from treecore.felling.line_places import AHEAD
from treecore.felling.plan import evaluate
from treecore.felling.pull_needed import needed_pull, usual_line
from treecore.rigging.line import Guy
from treecore.rigging.pulling import Part, PullSystem
from treecore.rigging.readymade import pulled_by, ready_made
from treecore.rigging.tackle import Tackle
from treecore.site import turn_to

SPARE = 1.1  # what a hand is planned to give, of what is needed: so much is taken in before anyone looks again [-]
STEP = 100.0  # a winch is planned in steps of this [N]
LEAST = 500.0  # less than this keeps no line taut [N]
MOST = 12  # people on one rope
PASSES = 2
LEAST_ACROSS = 0.5  # sine of a guy line’s bearing off the lay under which it mostly pulls along it [-]
ANCHOR_UP = 0.6  # a sling round a trunk stands so high [m]


class End(NamedTuple):
    """A named place a line can end at: its place on the site [m], its trunk [m] where it is a tree."""

    name: str
    place: tuple[float, float]
    trunk: float | None = None


class RopeOf(NamedTuple):
    """A rope of the store: its length [m] and what it breaks at [N], None where nobody wrote it down."""

    name: str
    length: float | None
    strength: float | None


class Puller(NamedTuple):
    """Who or what pulls: kind of part, name, and where it stands [m]; None where the system puts its hands."""

    kind: str
    name: str
    place: tuple[float, float] | None = None


def pull_laid_out(
    plan: FellingInput, design: str, ends: Sequence[End], anchor: str, puller: Puller, rope: RopeOf | None
) -> PullSystem:
    """Lay out a ready-made system to an anchor, its hands giving what the plan needs; docs/methods.md, pulling (13).

    Parameters
    ----------
    plan : FellingInput
        The plan; lines it has are left out.
    design : str
        Key of a ready-made system.
    ends : sequence of End
        What there is to end at.
    anchor : str
        Name of the anchor; the nearest one ahead, or a place ahead, where it is empty.
    puller : Puller
        Who pulls.
    rope : RopeOf or None
        The rope; nobody said what it is where it is None.

    Raises
    ------
    NotSolvable
        Where there is no such anchor, or no pull from there brings the tree over.
    """
    bare = replace(plan, pull=None, system=None)
    tie = plan.system.tie if plan.system is not None else (plan.pull or usual_line(plan)).tie
    end = _chosen(ends, anchor) if anchor else _ahead(plan, ends)
    foot = (plan.site.tree_x, plan.site.tree_y)
    made = pulled_by(ready_made(design, foot, end.place, round(tie, 2)), puller.name, puller.kind, puller.place)
    made = _roped(replace(made, parts=tuple(_standing(part, end) for part in made.parts)), rope)
    if puller.kind == "people":
        return _enough(bare, made)
    for _ in range(PASSES):  # what a hand can give at least changes with what it is asked
        needs = needed_pull(replace(bare, system=made))
        if needs.at_hands is None or not math.isfinite(needs.at_hands):
            raise NotSolvable(what="pull", why="no pull from there brings it over along this lay")
        made = replace(made, parts=tuple(_giving(part, needs.at_hands) for part in made.parts))
    return made


def _enough(bare: FellingInput, system: PullSystem) -> PullSystem:
    """The system with so many people on its rope that the plan has what it needs, or the most there can be."""
    for count in range(1, MOST + 1):
        parts = tuple(replace(p, people=count) if p.kind == "people" else p for p in system.parts)
        system = replace(system, parts=parts)
        needs = needed_pull(replace(bare, system=system))
        if not math.isfinite(needs.on_tree):
            raise NotSolvable(what="pull", why="no pull from there brings it over along this lay")
        if needs.enough:
            break
    return system


def guy_laid_out(plan: FellingInput, end: End, rope: RopeOf | None, tended: bool) -> Guy:
    """A guy line to a named anchor, allowed what its rope carries by the design factor.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    end : End
        The anchor.
    rope : RopeOf or None
        The rope.
    tended : bool
        Whether someone lets it out on the word.

    Raises
    ------
    NotSolvable
        Where the anchor stands so near the lay, ahead or behind, or so far on the side the tree weighs to, that a line
        to it can't hold that side.
    """
    line = plan.lines[0] if plan.lines else usual_line(plan)
    east, north = end.place[0] - plan.site.tree_x, end.place[1] - plan.site.tree_y
    azimuth = math.atan2(east, north) % math.tau
    _hold_the_side(plan, math.sin(azimuth - plan.lay))
    tackle = Tackle(strength=rope.strength if rope else None, owned=rope.length if rope else None, trunk=end.trunk)
    known = [e.value for e in (tackle.rope_allowed, tackle.anchor_allowed) if e is not None]
    return Guy(
        tie=line.tie,
        azimuth=azimuth,
        distance=math.hypot(east, north),
        anchor=ANCHOR_UP,
        limit=min(known, default=10e3),
        tended=tended,
        taut=True,
        tackle=tackle,
    )


def _hold_the_side(plan: FellingInput, across: float) -> None:
    """Refuse a line that by the sine of its bearing off the lay can't hold the side the tree weighs to."""
    side = evaluate(replace(plan, guy=None)).estimates["side_moment"]
    wrong = side.low > 0.0 < across or side.high < 0.0 > across
    if wrong or abs(across) < LEAST_ACROSS:
        raise NotSolvable(
            what="anchor", why="a line from there can’t hold the side it weighs to: no anchor on this side, draw one"
        )


def _chosen(ends: Sequence[End], name: str) -> End:
    found = next((end for end in ends if end.name == name), None)
    if found is None:
        raise NotSolvable(what="anchor", why="“{name}” is no longer on the site", name=name)
    return found


def _ahead(plan: FellingInput, ends: Sequence[End]) -> End:
    """The nearest end ahead that the tree does not reach, or a place ahead."""
    site, reach = plan.site, plan.tree.stands.high
    found = []
    for end in ends:
        east, north = end.place[0] - site.tree_x, end.place[1] - site.tree_y
        far = math.hypot(east, north)
        if far > reach and abs(turn_to(math.atan2(east, north) - plan.lay)) <= AHEAD:
            found.append((far, end))
    if found:
        return min(found, key=lambda f: f[0])[1]
    far = usual_line(plan).distance
    return End("", (site.tree_x + far * math.sin(plan.lay), site.tree_y + far * math.cos(plan.lay)))


def _standing(part: Part, end: End) -> Part:
    """A part at the anchor takes its trunk."""
    at_it = math.dist((part.x, part.y), end.place) < 0.6 and part.role != "hand"
    return replace(part, trunk=end.trunk) if at_it and end.trunk else part


def _roped(system: PullSystem, of: RopeOf | None) -> PullSystem:
    """The system on a rope of the store: its first rope takes the name, length and strength, its grips go with it."""
    if of is None:
        return system
    first = system.ropes[0]
    rope = replace(first, name=of.name, owned=of.length, strength=of.strength)
    parts = tuple(replace(p, on=of.name) if p.on == first.name else p for p in system.parts)
    return replace(system, parts=parts, ropes=(rope, *system.ropes[1:]))


def _giving(part: Part, needed: float) -> Part:
    """A winch or vehicle that gives what is needed and a little over."""
    if part.kind not in ("winch", "vehicle"):
        return part
    return replace(part, force=max(STEP * math.ceil(needed * SPARE / STEP), LEAST))
