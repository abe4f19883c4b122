"""A place pointed at in a picture of the tree, as a member and how far along it; orders proposed; changes that help."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from typing import NamedTuple

from treecore.errors import CoreError, NotSolvable
from treecore.schools import constant
from treecore.site import Site
from treecore.takedown.limits import pick_limits
from treecore.takedown.members import Members
from treecore.takedown.pick import Method, Pick, RigPoint
from treecore.takedown.pick_result import HeldPick, Worked, work
from treecore.takedown.pieces import SHORTEST, Cut, Standing, Taken, take
from treecore.tree.shaping import across_view
from treecore.verdict import Verdict

_GRIP = 0.8  # how near a member a touch must be [m]


def aimed(members: Members, standing: Standing, view: float, x: float, z: float) -> tuple[int, float]:
    """Member nearest to a place in the picture, and how far along it [m]; limbs go before the stem where both are near.

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands.
    view : float
        Bearing the onlooker faces. [rad]
    x, z : float
        Right of the foot, and above the ground. [m]

    Raises
    ------
    NotSolvable
        If nothing stands near there.
    """
    best: tuple[float, int, float] = (math.inf, -1, 0.0)
    for row, end in enumerate(standing.ends):
        if end <= 0.0:
            continue
        along, gap = along_at(members, row, view, x, z, end)
        # A limb wins over the stem it grows from unless the touch is right at its foot.
        gap += 0.25 if row == 0 else 0.0
        if gap < best[0]:
            best = gap, row, along
    if best[0] > _GRIP:
        raise NotSolvable(what="cut", why="nothing stands there; touch the stem or a limb")
    return best[1], round(best[2], 2)


def along_at(members: Members, row: int, view: float, x: float, z: float, end: float) -> tuple[float, float]:
    """Place along a member nearest to one in the picture, and how far off it lies [m].

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        Which.
    view : float
        Bearing the onlooker faces. [rad]
    x, z, end : float
        Right of the foot, above the ground, and how far the member reaches. [m]
    """
    base, way = members.base[row].tolist(), members.way[row].tolist()
    x0, dx, dz = across_view(view, base[0], base[1]), across_view(view, way[0], way[1]), way[2]
    flat = dx * dx + dz * dz
    along = ((x - x0) * dx + (z - base[2]) * dz) / flat if flat > 1e-6 else 0.0
    along = min(max(along, 0.0), end)
    return along, math.hypot(x - x0 - along * dx, z - base[2] - along * dz)


def usual_point(members: Members, cut: Cut, way: Method) -> RigPoint | None:
    """A rigging point to begin from: half a metre below a cut, or three metres up what a limb grows on; None for
    others.

    Parameters
    ----------
    members : Members
        The tree's members.
    cut : Cut
        Of the piece.
    way : Method
        How it is taken.

    References
    ----------
    Own choice; every limit is held against it as against any other.
    """
    row = members.rows.get(cut.member, -1)
    if way.point == "below" and cut.at > constant("point_below").value:
        return RigPoint(member=cut.member, at=round(cut.at - constant("point_below").value, 2))
    parent = members.parent[row] if row > 0 else -1
    if way.point != "above" or parent < 0:
        return None
    union, end = float(members.at[row]), float(members.end[parent])
    up = max(min(union + constant("point_above").value, 0.8 * end), min(union + constant("point_below").value, end))
    return RigPoint(member=members.names[parent], at=round(up, 2))


class Change(NamedTuple):
    """A change to a pick, what it does to the peak [-], and whether it brings the pick back within its limits."""

    key: str
    amount: float
    peak: float
    mends: bool


def changes(members: Members, step: Taken, pick: Pick, site: Site, today: date) -> tuple[Change, ...]:
    """Try small changes of a pick, the cheapest first; docs/methods.md, takedown (7).

    Parameters
    ----------
    members : Members
        The tree's members.
    step : Taken
        Its piece.
    pick : Pick
        How it is taken.
    site : Site
        What is around.
    today : date
        Day of use.

    References
    ----------
    Each is worked out whole; nothing is extrapolated.
    """
    base = work(members, step, pick, site, swing=False)
    found = []
    for key, amount, make in _tries(step, pick):
        try:
            changed_step, changed = make(members)
            now = work(members, changed_step, changed, site, swing=False)
        except CoreError:
            continue
        found.append(Change(key, amount, _ratio(base, now), _fine(members, now, site, today)))
    return tuple(found)


_Make = Callable[[Members], tuple[Taken, Pick]]


def _tries(step: Taken, pick: Pick) -> list[tuple[str, float, _Make]]:
    rows: list[tuple[str, float, _Make]] = []
    if pick.slack > 0.0:
        less = min(pick.slack, 1.0)
        rows.append(("slack", less, lambda m: (step, replace(pick, slack=pick.slack - less))))
    for more in (1.0, 2.0):
        rows.append(("wraps", more, lambda m, w=more: (step, replace(pick, wraps=pick.wraps + w))))  # type: ignore[misc]
    if pick.held != "run":
        rows.append(("run", pick.run, lambda m: (step, replace(pick, held="run"))))
    if pick.tie > 0.6:
        rows.append(("tie", 0.5, lambda m: (step, replace(pick, tie=0.5))))
    cut = step.piece.cut
    for share in (0.25, 0.5):
        short = round(share * step.piece.length, 1)
        rows.append(("shorter", short, lambda m, s=short: (take(m, step.before, Cut(cut.member, cut.at + s)), pick)))  # type: ignore[misc]
    return [r for r in rows if r[0] != "shorter" or step.piece.length - r[1] > SHORTEST]


def _ratio(base: Worked, now: Worked) -> float:
    if not isinstance(base, HeldPick) or not isinstance(now, HeldPick):
        return now.piece.mass.value / base.piece.mass.value - 1.0
    before = base.forces.peaks.governing.value
    return now.forces.peaks.governing.value / before - 1.0 if before > 0.0 else 0.0  # nothing pulls: nothing gets less


def _fine(members: Members, worked: Worked, site: Site, today: date) -> bool:
    return all(x.verdict in (Verdict.WITHIN, Verdict.NEAR) for x in pick_limits(members, worked, site, today))
