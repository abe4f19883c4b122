"""Limits of the climber at a pick: tie-ins, line, reach, a slipping foot, own lines, and what moves beside them."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from treecore.estimate import Estimate, Kind, exactly, times
from treecore.rigging.climbing import Climber, Hanging, hanging, line_gap, opposed, pendulum_swing, two_anchors
from treecore.rigging.forces import swing_tension
from treecore.rigging.pull_on_site import ground_at
from treecore.rigging.segment_distance import apart
from treecore.schools import constant
from treecore.site import Site, Target
from treecore.takedown.members import Members, place_on, thickness
from treecore.takedown.obstacles import bars, chain_of
from treecore.takedown.peak_forces import union_under
from treecore.takedown.pick_result import HeldPick, Worked
from treecore.tree.limb import doubtful
from treecore.tree.soundness import weak_places
from treecore.units import GRAVITY
from treecore.verdict import About, Limit, Verdict, held

Array = NDArray[np.float64]
Place = tuple[float, float, float]


class Aloft(NamedTuple):
    """A climber worked out: places of tie-in, stance and second tie-in [m]; the line; load on two tie-ins [N]; a
    slip's end.

    ``slip`` names what a slipping foot brings the climber against, empty for nothing, and how fast that is [m/s].
    """

    tie: Place
    stance: Place
    second: Place | None
    line: Hanging
    loads: tuple[float, float] | None
    reach: float
    slip: str
    speed: float


def aloft(members: Members, w: Worked, site: Site) -> Aloft | None:
    """Work the climber of a pick out; None without one whose places stand. docs/methods.md, climbing (1) to (7).

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick.
    site : Site
        Targets a slip may end against.
    """
    climber = w.pick.climber
    if climber is None or w.stand is None or w.stand.tie is None or w.stand.stance is None:
        return None
    tie, stance, second = w.stand.tie, w.stand.stance, w.stand.second
    line = hanging(tie, stance, climber.based)
    held = two_anchors(tie, second, stance) if second else None
    met, speed = _slip(members, w, site, line, (tie, stance, second))
    return Aloft(tie, stance, second, line, held, math.dist(stance, w.piece.butt), met, speed)


def _slip(
    members: Members, w: Worked, site: Site, line: Hanging, places: tuple[Place, Place, Place | None]
) -> tuple[str, float]:
    """What a slipping foot brings the climber against, and how fast; two lines that pull apart
    hold the climber there.
    """
    tie, stance, second = places
    if second is not None and opposed(tie, second, stance):
        return "", 0.0
    if line.speed <= constant("slip_speed").low:
        return "", line.speed
    path, speeds = pendulum_swing(tie, stance)
    standing = bars(members, w.after)
    hits = [(i, name) for t in site.targets if (i := _into(path, site, t)) for name in [t.name]]
    if len(path) > 1 and standing.rows:
        gaps = apart(path, path, standing.low, standing.high) - standing.half
        near = (gaps < gaps[0] - 0.05) & (gaps <= constant("body_half").value)
        hits += [
            (int(near[:, j].argmax()), members.names[row] or "the stem")
            for j, row in enumerate(standing.rows)
            if near[:, j].any()
        ]
    if not hits:
        return "", float(speeds.max())
    first, name = min(hits)
    return name, float(speeds[first])


def _into(path: Array, site: Site, target: Target) -> int:
    """Step at which a path first runs into a target, 0 for never."""
    low = path[:, 2] < target.height
    if not low[1:].any():
        return 0
    inside = low & shapely.contains_xy(target.shape, path[:, 0] + site.tree_x, path[:, 1] + site.tree_y)
    return int(inside[1:].argmax()) + 1 if inside[1:].any() else 0


def climber_limits(members: Members, w: Worked, site: Site) -> Iterator[Limit]:
    """Hold a climber's place at a pick against every limit.

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick.
    site : Site
        What is around.
    """
    climber = w.pick.climber
    if climber is None or w.stand is None:
        yield from _nobody(w, site)
        return
    tie, stance, second = w.stand
    gone = [("tie_in_gone", tie, climber.tie_member), ("stance_gone", stance, climber.stance_member)]
    if climber.second_member is not None:
        gone.append(("tie_in_gone", second, climber.second_member))
    for what, place, member in gone:
        if place is None:
            yield Limit(what, Verdict.OVER, None, None, About(name=member or "stem"))
    found = aloft(members, w, site)
    if found is None:
        return
    for name, at, other in _tied_to(climber):
        yield _wood(members, name, at, other)
    if not climber.lanyard and climber.second_member is None and climber.second_place is None:
        yield Limit("one_attachment", Verdict.OVER, None, None)
    yield from _stands_on(members, w, climber)
    yield from _bends(members, w, climber, found)
    yield from _line(w, climber, found)
    yield from _moving(w)
    yield from _slipping(found)


def _nobody(w: Worked, site: Site) -> Iterator[Limit]:
    """Nobody said who cuts it from where, and it is cut neither from the ground nor from a lift; climbing (12)."""
    x, y, z = w.piece.butt
    high = exactly(z - ground_at(site, x + site.tree_x, y + site.tree_y), Kind.ESTIMATED)
    if not w.pick.lift and high.value > constant("from_ground").value:
        yield Limit("climber_unsaid", Verdict.NOT_KNOWN, high, None)  # (12)


def _stands_on(members: Members, w: Worked, climber: Climber) -> Iterator[Limit]:
    """Wood the climber stands on, down to the ground, and a lanyard round the wood that is cut; climbing (13), (14)."""
    stance = w.stand.stance if w.stand is not None else None
    if stance is None:
        return
    yield from _unsound(members, climber.stance_member, stance[2], "stance_weak")  # (13)
    cut = w.piece.cut
    if climber.lanyard and climber.stance_member == cut.member:
        gap, least = exactly(cut.at - climber.stance_at), constant("lanyard_clear")
        verdict = Verdict.OVER if gap.value < least.value else Verdict.WITHIN
        yield Limit("lanyard_at_cut", verdict, gap, least)  # (14)


def _unsound(members: Members, member: str, height: float, key: str) -> Iterator[Limit]:
    """Unsound wood between a place and the ground: dead or weak limbs and leads, thin or open walls, decay; climbing
    (13).
    """
    held_by = {members.names[row] for row in chain_of(members, member)}
    for limb in members.tree.limbs:
        if limb.name in held_by and (limb.dead or doubtful(limb.union, limb.codominant)):
            yield Limit(key, Verdict.OVER, None, None, About(name=limb.name, why="dead" if limb.dead else limb.union))
    for limit in weak_places(members.tree):
        about = limit.about
        if limit.key != "wall" or about.at is None or about.at > height:
            continue
        rotten = about.why == "decay" and limit.demand is not None and limit.demand.value < constant("wall_thick").value
        if limit.verdict is Verdict.WITHIN and not rotten:
            continue
        verdict = Verdict.OVER if limit.verdict is Verdict.OVER else Verdict.NOT_KNOWN
        yield Limit(key, verdict, None, None, About(at=about.at, why=about.why))


def _tied_to(climber: Climber) -> Iterator[tuple[str | None, float, str]]:
    yield (None if climber.place else climber.tie_member), climber.tie_at, climber.tree
    if climber.second_member is not None:
        yield climber.second_member, climber.second_at, ""
    elif climber.second_place is not None:
        yield None, 0.0, climber.second_tree


def _wood(members: Members, member: str | None, at: float, other: str) -> Limit:
    """Wood the climber is tied in to: thick enough, alive, its union sound."""
    least = constant("tie_in_wood")
    if member is None:
        return Limit("tie_in_other", Verdict.NEAR if other else Verdict.NOT_KNOWN, None, None, About(name=other))
    weak = list(_unsound(members, member, place_on(members, members.rows[member], at)[2], "tie_in_weak"))
    if weak:
        return max(weak, key=lambda limit: limit.order)
    thick = exactly(thickness(members, members.rows[member], at), Kind.ESTIMATED)
    return held("tie_in_thin", thick, least)


def _bends(members: Members, w: Worked, climber: Climber, found: Aloft) -> Iterator[Limit]:
    """Bending of the limb or lead the climber is tied in to, by a slip's swing; climbing (11)."""
    row = members.rows.get(climber.tie_member, 0)
    if climber.place is not None or row == 0:
        return
    reach = math.dist(found.tie, found.stance)
    if reach < 0.05:
        return
    pull = swing_tension(constant("climber_mass").value * GRAVITY, found.line.angle)
    x, y, z = (pull * (s - t) / reach for t, s in zip(found.tie, found.stance, strict=True))
    force = x, y, z - (pull if climber.based else 0.0)
    unions = union_under(members, w.after, row, found.tie, force)
    worst = max(unions, key=lambda a: a.stress / (a.strength_reduction or 1e-9))
    if worst.strength_reduction is None:
        return  # tied in to a weak union: said already
    mass, tree = constant("climber_mass"), members.tree
    stress = times(mass, worst.stress / mass.value)
    strength = times(
        tree.kind.mor, tree.condition.strength.value * constant("anchor_share").value * worst.strength_reduction
    )
    where = About(at=worst.height, why=worst.why, name=worst.name, union=worst.union)
    yield held("tie_in_bends", stress, strength, where)  # (11)


def _line(w: Worked, climber: Climber, found: Aloft) -> Iterator[Limit]:
    need, owned = exactly(found.line.need, Kind.ESTIMATED), exactly(climber.line)
    yield held("line_short", need, owned)
    gap = exactly(line_gap(found.tie, found.stance, w.piece.butt), Kind.ESTIMATED)
    least = constant("line_off_cut")
    if found.reach > least.value:
        yield Limit("line_at_cut", _at_least(gap, least), gap, least)
    reach = exactly(found.reach, Kind.ESTIMATED)
    yield held("reach", reach, constant("arm_reach"))


def _at_least(gap: Estimate, least: Estimate) -> Verdict:
    return Verdict.OVER if gap.value < least.value else Verdict.WITHIN


def _moving(w: Worked) -> Iterator[Limit]:
    """The moving piece against the climber and their line, and the rope that swings with it; climbing (8)."""
    if not isinstance(w, HeldPick) or w.beside is None:
        return
    for (stood, least_gap), key, least in (
        (w.beside.stance, "piece_at_climber", constant("stand_off")),
        (w.beside.line, "piece_at_line", constant("line_clear")),
    ):
        gap = exactly(least_gap, Kind.ESTIMATED)
        # As near as it stood before the cut the climber chose to be; nearer is the piece coming at them.
        found = held(key, gap, least)
        yield found if least_gap < stood - 0.05 else replace(found, verdict=Verdict.WITHIN)
    if w.beside.rope is not None:
        least, rope = constant("line_clear"), exactly(w.beside.rope, Kind.ESTIMATED)
        yield held("rope_at_climber", rope, least)  # (8)


def _slipping(found: Aloft) -> Iterator[Limit]:
    """A slipping foot: how hard the climber comes against what stands, or over which target; climbing (7)."""
    if math.isinf(found.line.swing):
        yield Limit("above_tie_in", Verdict.OVER, None, None)
        return
    speed, most = exactly(found.speed, Kind.ESTIMATED), constant("slip_speed")
    yield held("slip", speed, most, About(name=found.slip))  # (7)
