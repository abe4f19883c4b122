"""A pick against overhead conductors, in space: what stands, the climber, piece and rope on their way, the way down."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from treecore.conductor import conductor_limit
from treecore.overhead import Conductor
from treecore.schools import constant
from treecore.site import Site
from treecore.takedown.members import Members
from treecore.takedown.pick import point_place
from treecore.takedown.pick_result import HeldPick, HookPick, Worked
from treecore.takedown.pieces import Standing
from treecore.verdict import Limit

Array = NDArray[np.float64]
_ALONG = np.linspace(0.0, 1.0, 6)
_STEPS = 16  # places of a way that are looked at


def conductor_limits(members: Members, w: Worked, site: Site) -> Iterator[Limit]:
    """Hold everything of a pick against every conductor: for each line, what comes nearest; docs/methods.md, conductor
    (5).

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick worked out.
    site : Site
        Its conductors.

    References
    ----------
    Distance of straight pieces from the hanging line, each less how far its wood, leaves or arm reach round it.
    """
    if not site.conductors:
        return
    foot = np.array([site.tree_x, site.tree_y, 0.0])
    parts = list(_parts(members, w))
    places = np.concatenate([rows for _, rows, _ in parts]) + foot
    reach = np.concatenate([np.full(len(rows), round_it) for _, rows, round_it in parts])
    roles = [role for role, rows, _ in parts for _ in rows]
    for line in site.conductors:
        gap, which = line.nearest(places, reach)
        yield conductor_limit(line, max(gap, 0.0), roles[which])
        if isinstance(w, HookPick):
            yield from _machine(line, site)


def _machine(line: Conductor, site: Site) -> Iterator[Limit]:
    """Where jib and hook go is not known: a line within their reach is too near."""
    away = line.level_distance(site.tree_x, site.tree_y) - constant("machine_reach").value
    if away < 1.5 * line.keep:
        yield conductor_limit(line, max(away, 0.0), "machine")


def _parts(members: Members, w: Worked) -> Iterator[tuple[str, Array, float]]:
    """What may come near: its role, places from the stem's foot [m], and how far it reaches round them [m]."""
    for places, round_it in _standing(members, w.before):
        yield "standing", places, round_it
    piece = w.piece
    leafy = constant("limb_width").value * piece.length / 2.0 if piece.foliage > 0.0 else piece.diameter / 2.0
    butt, tip = np.array(piece.butt), np.array(piece.tip)
    yield "piece", _between(butt, tip), leafy
    if isinstance(w, HeldPick):
        yield from _moving(members, w, leafy)
    else:
        down = _between(butt, tip).copy()
        for share in _ALONG:
            yield "way_down", down * np.array([1.0, 1.0, share]), max(leafy, piece.reach)
    if w.stand is not None and w.stand.stance is not None:
        stance = np.array(w.stand.stance)
        line = _between(stance, np.array(w.stand.tie)) if w.stand.tie is not None else stance[None, :]
        yield "climber", stance[None, :], constant("arm_reach").high
        yield "climber", line, 0.5


def _moving(members: Members, w: HeldPick, leafy: float) -> Iterator[tuple[str, Array, float]]:
    """The piece and its rope on their way round the point, and let down from where it hangs."""
    path = w.path
    steps = np.unique(np.linspace(0, len(path.butt) - 1, _STEPS).astype(int))
    for butt, tip, tie in zip(path.butt[steps], path.tip[steps], path.tie[steps], strict=True):
        yield "piece", _between(butt, tip), leafy
        yield "rope", _between(np.array(w.point), tie), 0.0
    far = w.pick.far_anchor
    if far is not None:
        end = far.place or point_place(members, w.after, far, "far_anchor")
        yield "far_line", _between(np.array(w.point), np.array(end)), 0.0
    last = min(path.rest, len(path.butt) - 1)
    hangs = _between(path.butt[last], path.tip[last])
    low = float(hangs[:, 2].min())
    for share in _ALONG:
        yield "way_down", hangs - np.array([0.0, 0.0, share * max(low, 0.0)]), leafy


def _between(a: Array, b: Array) -> Array:
    found: Array = a + _ALONG[:, None] * (b - a)
    return found


def _standing(members: Members, standing: Standing) -> Iterator[tuple[Array, float]]:
    """Every member that stands, by its axis; limbs with the leaves round them."""
    for row, end in enumerate(standing.ends):
        if end <= 0.0:
            continue
        base, way = np.array(members.base[row]), np.array(members.way[row])
        if row == 0:
            lean = math.hypot(way[0], way[1])
            top = base + way * end / max(way[2], 1e-6) if lean else base + np.array([0.0, 0.0, end])
            yield _between(base, top), float(members.tree.diameter.value)
        else:
            leafy = constant("limb_width").value * float(members.end[row]) / 2.0 if members.leaves[row] > 0.0 else 0.2
            yield _between(base, base + way * end), leafy
