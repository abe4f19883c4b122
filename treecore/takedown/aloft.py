"""Limits of the climber at a pick: tie-ins, line, reach, a slipping foot, own lines, and what moves beside them."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from treecore.errors import NotSolvable
from treecore.estimate import Estimate, Kind, exactly
from treecore.rigging.apart import apart
from treecore.rigging.climbing import Climber, Hanging, hanging, line_gap, opposed, slipped, two_anchors
from treecore.schools import constant
from treecore.site import Site, Target
from treecore.takedown.members import Members, beside, thickness
from treecore.takedown.passing import bars
from treecore.takedown.pieces import Standing
from treecore.takedown.working import Worked
from treecore.verdict import Limit, Verdict, judge

Array = NDArray[np.float64]
Place = tuple[float, float, float]


class Aloft(NamedTuple):
    """A climber worked out: places of tie-in, stance and second tie-in [m]; the line; load on two tie-ins [N]; a slip's end.

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


def _standing(members: Members, standing: Standing, member: str, at: float, what: str) -> int | None:
    """Row of a member if the place on it still stands."""
    row = members.rows.get(member, -1)
    if row < 0:
        raise NotSolvable(what, f"there is no limb “{member}” on this tree")
    return row if standing.has(row, at) else None


def _spots(members: Members, w: Worked, climber: Climber) -> tuple[Place | None, Place | None, Place | None]:
    """Tie-in, stance and second tie-in; beside upright wood on the climber's side of it; climbing (10)."""
    goes = w.pick.bearing if w.pick.bearing is not None else math.atan2(w.piece.way[0], w.piece.way[1])
    turned = math.pi if w.piece.slope > constant("upright").value else math.pi / 2.0
    side = climber.side if climber.side is not None else goes + turned

    def spot(member: str, at: float, off: float, what: str) -> Place | None:
        row = _standing(members, w.after, member, at, what)
        return None if row is None else beside(members, row, at, side, off)

    stance = spot(climber.stance_member, climber.stance_at, _BESIDE, "stance")
    tie = climber.place or spot(climber.tie_member, climber.tie_at, 0.0, "tie_in")
    second = climber.second_place
    if climber.second_member is not None:
        second = spot(climber.second_member, climber.second_at, 0.0, "second_tie_in")
    return tie, stance, second  # (10)


_BESIDE = 0.3  # a person hangs this far off the bark [m]


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
    if climber is None:
        return None
    tie, stance, second = _spots(members, w, climber)
    if tie is None or stance is None:
        return None
    line = hanging(tie, stance, climber.based)
    held = two_anchors(tie, second, stance) if second else None
    met, speed = _slip(members, w, site, line, (tie, stance, second))
    return Aloft(tie, stance, second, line, held, math.dist(stance, w.piece.butt), met, speed)


def _slip(
    members: Members, w: Worked, site: Site, line: Hanging, places: tuple[Place, Place, Place | None]
) -> tuple[str, float]:
    """What a slipping foot brings the climber against, and how fast; two lines that pull apart hold the climber there."""
    climber, (tie, stance, second) = w.pick.climber, places
    assert climber is not None
    if second is not None and opposed(tie, second, stance):
        return "", 0.0
    if line.speed <= constant("slip_speed").low:
        return "", line.speed
    path, speeds = slipped(tie, stance)
    standing = bars(members, w.after)
    hits = [(i, name) for t in site.targets if (i := _into(path, site, t)) for name in [t.name]]
    if len(path) > 1 and standing.rows:
        gaps = apart(path, path, standing.low, standing.high) - standing.half
        near = (gaps < gaps[0] - 0.05) & (gaps <= _BODY)
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


_BODY = 0.2  # half a person's width: nearer than this the climber meets it [m]


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

    Raises
    ------
    NotSolvable
        If the climber is on no limb of this tree.
    """
    climber = w.pick.climber
    if climber is None:
        return
    tie, stance, second = _spots(members, w, climber)
    gone = [("tie_in_gone", tie, climber.tie_member), ("stance_gone", stance, climber.stance_member)]
    if climber.second_member is not None:
        gone.append(("tie_in_gone", second, climber.second_member))
    for what, place, member in gone:
        if place is None:
            yield _limit(what, Verdict.OVER, None, None, 0, note=member or "stem")
    found = aloft(members, w, site)
    if found is None:
        return
    for name, at, other in _tied_to(climber):
        yield _wood(members, name, at, other)
    if not climber.lanyard and climber.second_member is None and climber.second_place is None:
        yield _limit("one_attachment", Verdict.OVER, None, None, 1)
    yield from _line(w, climber, found)
    yield from _moving(w, found)
    yield from _slipping(found)


def _limit(
    key: str, verdict: Verdict, demand: Estimate | None, allowed: Estimate | None, concern: int, note: str = "",
    dimension: str = "length", least: bool = True,
) -> Limit:  # fmt: skip
    return Limit(
        key=key, verdict=verdict, demand=demand, allowed=allowed, dimension=dimension, least=least, concern=concern,
        note=note,
    )  # fmt: skip


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
        return _limit("tie_in_other", Verdict.NEAR if other else Verdict.NOT_KNOWN, None, None, 3, other)
    limb = next((b for b in members.tree.limbs if b.name == member), None)
    if limb is not None and (limb.dead or limb.union not in ("sound", "included bark")):
        return _limit("tie_in_weak", Verdict.OVER, None, None, 1, f"{member}: {'dead' if limb.dead else limb.union}")
    thick = exactly(thickness(members, members.rows[member], at), Kind.ESTIMATED)
    return _limit("tie_in_thin", judge(thick, least, least=True), thick, least, 1, dimension="cut")


def _line(w: Worked, climber: Climber, found: Aloft) -> Iterator[Limit]:
    need, owned = exactly(found.line.need, Kind.ESTIMATED), exactly(climber.line)
    yield _limit("line_short", judge(need, owned), need, owned, 1, least=False)
    gap = exactly(line_gap(found.tie, found.stance, w.piece.butt), Kind.ESTIMATED)
    least = exactly(constant("line_off_cut").value, Kind.ASSUMED)
    if found.reach > least.value:
        yield _limit("line_at_cut", _at_least(gap, least), gap, least, 1)
    reach = exactly(found.reach, Kind.ESTIMATED)
    yield _limit("reach", judge(reach, constant("arm_reach")), reach, constant("arm_reach"), 3, least=False)


def _at_least(gap: Estimate, least: Estimate) -> Verdict:
    return Verdict.OVER if gap.value < least.value else Verdict.WITHIN


def _moving(w: Worked, found: Aloft) -> Iterator[Limit]:
    """The moving piece against the climber and their line, and the rope that swings with it; climbing (8)."""
    if w.path is None or w.point is None:
        return
    path, last = w.path, len(w.path.butt)
    stance, own = np.array([found.stance, found.tie]), np.array([found.stance, found.stance])
    ties = path.tie[1 : path.rest + 1]
    swung = ties[np.hypot(ties[:, 0] - w.point[0], ties[:, 1] - w.point[1]) > 1.0]
    start, end = np.vstack([path.butt, swung]), np.vstack([path.tip, np.tile(w.point, (len(swung), 1))])
    gaps = apart(start, end, stance, own)
    for i, key, least, concern in (
        (0, "piece_at_climber", constant("stand_off"), 1),
        (1, "piece_at_line", constant("line_clear"), 2),
    ):
        gap = exactly(float(gaps[1:last, i].min()), Kind.ESTIMATED)
        # As near as it stood before the cut the climber chose to be; nearer is the piece coming at them.
        comes = gap.value < float(gaps[0, i]) - 0.05
        verdict = judge(gap, least, least=True) if comes else Verdict.WITHIN
        yield _limit(key, verdict, gap, least, concern, dimension="offset")
    if len(swung):
        least, rope = constant("line_clear"), exactly(float(gaps[last:, 0].min()))
        verdict = Verdict.NEAR if rope.value < least.high else Verdict.WITHIN
        yield _limit("rope_at_climber", verdict, rope, least, 2, dimension="offset")  # (8)


def _slipping(found: Aloft) -> Iterator[Limit]:
    """A slipping foot: how hard the climber comes against what stands, or over which target; climbing (7)."""
    if math.isinf(found.line.swing):
        yield _limit("above_tie_in", Verdict.OVER, None, None, 0)
        return
    speed, most = exactly(found.speed, Kind.ESTIMATED), constant("slip_speed")
    verdict = judge(speed, most)
    yield _limit("slip", verdict, speed, most, 3, found.slip, dimension="speed", least=False)  # (7)
