"""What of the standing tree a piece meets on its way, and where it is put down."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Point

from treecore.estimate import Estimate, Kind
from treecore.kinds import kinds_that, worth_of
from treecore.rigging.forces import tag_force
from treecore.rigging.segment_distance import apart
from treecore.rigging.swing import NAMED, Passing, Swing
from treecore.schools import constant
from treecore.site import Site, Target
from treecore.takedown.climber_stance import Stand
from treecore.takedown.members import Members
from treecore.takedown.pick import Pick
from treecore.takedown.pieces import Piece, Standing, Taken
from treecore.units import GRAVITY

Array = NDArray[np.float64]
Place = tuple[float, float, float]


class Bars(NamedTuple):
    """Standing members as round bars: rows, ends [m] and half their thickness at the middle [m]."""

    rows: tuple[int, ...]
    low: Array
    high: Array
    half: Array


def bars(members: Members, standing: Standing) -> Bars:
    """What stands, as bars; limbs from half a metre beyond their unions.

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands.
    """
    ends = np.array(standing.ends)
    start = np.full(len(ends), constant("union_own").value)
    start[0] = 0.0
    here = ends > start + 0.01
    left = 1.0 - 0.5 * np.minimum(ends / members.end, 1.0)
    half = 0.5 * members.diameter * np.maximum(left, 0.0) ** constant("limb_taper").value
    low, high = members.base + members.way * start[:, None], members.base + members.way * ends[:, None]
    rows = tuple(np.flatnonzero(here).tolist())
    return Bars(rows, low[here], high[here], half[here])


class Met(NamedTuple):
    """A standing member a piece comes near: its row, when (swing, lowered, rope), the gap [m], speed there [m/s].

    ``carries`` is True for what the rigging point hangs on: there it comes to rest.
    """

    row: int
    when: str
    gap: float
    speed: float
    carries: bool


def chain_of(members: Members, name: str | None) -> frozenset[int]:
    """Rows from a member down to the stem, empty for another tree's.

    Parameters
    ----------
    members : Members
        The tree's members.
    name : str, optional
        The member.
    """
    if name is None:
        return frozenset()
    row, found = members.rows.get(name, -1), set()
    while row >= 0:
        found.add(row)
        row = members.parent[row]
    return frozenset(found)


class Beside(NamedTuple):
    """How near the moving piece comes to the climber's stance and own line: as it stood, and at least [m].

    ``rope`` is how near the loaded rope sweeps past the stance, None where it hardly swings [m].
    """

    stance: tuple[float, float]
    line: tuple[float, float]
    rope: float | None


def met_by(
    members: Members, step: Taken, pick: Pick, path: Swing, point: Place, stand: Stand | None
) -> tuple[tuple[Met, ...], Beside | None]:
    """What a piece comes to as it swings and is let down, what its rope runs through, and how it passes the climber.

    Parameters
    ----------
    members : Members
        The tree's members.
    step : Taken
        The piece, and what stands before and after.
    pick : Pick
        How it is taken.
    path : Swing
        Its way.
    point : tuple of float
        The rigging point. [m]
    stand : Stand, optional
        Where the climber is.

    References
    ----------
    Swing (7), (8), climbing (8): gaps between lines at every step, of wood less half thicknesses; what it only leaves
    behind is not met.
    """
    standing, piece, steps = bars(members, step.after), step.piece, len(path.butt)
    rope = path.tie[0] + (np.array(point) - path.tie[0]) * _CLEAR_OF_KNOTS
    foot = (*pick.landing, 0.0) if pick.landing else (point[0], point[1], 0.0)
    swung = path.tie[1 : path.rest + 1]
    swung = swung[np.hypot(swung[:, 0] - point[0], swung[:, 1] - point[1]) > _SWINGS]
    starts = np.concatenate([path.butt, path.cg[path.rest : path.rest + 1], rope[:1], swung])
    ends = np.concatenate([path.tip, [foot], rope[1:], np.tile(point, (len(swung), 1))])
    low, high = standing.low, standing.high
    own = stand if stand is not None and stand.tie is not None and stand.stance is not None else None
    if own is not None:
        low, high = (
            np.concatenate([low, [own.stance, own.stance]]),
            np.concatenate([high, [own.stance, own.tie]]),
        )
    gaps = apart(starts, ends, low, high)
    wood = gaps[: steps + 2, : len(standing.rows)] - standing.half
    met = _found(standing, piece, path, chain_of(members, pick.point.member if pick.point else None), wood)
    if own is None:
        return met, None
    near = gaps[:steps, -2:]
    near = np.where(_behind_wood(members, standing, path, own, near), np.maximum(near[0], near), near)
    least, stood = near[1:].min(axis=0).tolist(), near[0].tolist()
    sweeps = float(gaps[steps + 2 :, -2].min()) if len(swung) else None
    return met, Beside((stood[0], least[0]), (stood[1], least[1]), sweeps)


_LOOKED = np.linspace(0.0, 1.0, 9)  # places along piece and line between which wood may stand
_FAR = 1.5  # beyond this nobody asks what stands between [m]


def _behind_wood(members: Members, standing: Bars, path: Swing, stand: Stand, near: Array) -> NDArray[np.bool_]:
    """Whether upright wood stands between the piece and the climber, or their line, at each step; climbing (8).

    A piece can't pass through a stem, so what lies behind it is not passed.
    """
    upright = np.array([members.way[row][2] > _UPRIGHT for row in standing.rows], dtype=bool)
    found = np.zeros_like(near, dtype=bool)
    if not upright.any() or stand.stance is None or stand.tie is None:
        return found
    low, high, half = standing.low[upright], standing.high[upright], standing.half[upright]
    stance, tie = np.array(stand.stance), np.array(stand.tie)
    own = (stance[None, :], stance + _LOOKED[:, None] * (tie - stance))
    for step in np.flatnonzero((near < _FAR).any(axis=1)).tolist():
        piece = path.butt[step] + _LOOKED[:, None] * (path.tip[step] - path.butt[step])
        for what, places in enumerate(own):
            off = np.linalg.norm(piece[:, None, :] - places, axis=2)
            i, j = np.unravel_index(int(off.argmin()), off.shape)
            # Between the two, or between the piece's balance and what of it is nearest.
            ways = np.stack([path.cg[step], piece[i]]), np.stack([piece[i], places[j]])
            gaps = apart(*ways, low, high)
            found[step, what] = bool((gaps < half).any())
    return found


_UPRIGHT = 0.9  # rise of a member from which it stands upright [-]
_CLEAR_OF_KNOTS = np.array([[0.1], [0.85]])
_SWINGS = 1.0  # a rope that leans out less than this past its point hangs rather than sweeps [m]


def _found(standing: Bars, piece: Piece, path: Swing, carrying: frozenset[int], gaps: Array) -> tuple[Met, ...]:
    """Members met, from the gaps at every step, on the way down, and of the rope."""
    if not standing.rows:
        return ()
    rope = gaps[-1].tolist()
    gaps = gaps[:-1] - 0.25 * piece.diameter
    lowered = gaps[-1].tolist()
    comes = np.where(gaps[1:-1] < gaps[0] - 0.05, gaps[1:-1], np.inf)
    closest = comes.min(axis=0).tolist()
    near, met = constant("limb_clear").value, []
    holds = max(carrying, default=-1)  # parents come before their children: the last one is what the point is on
    for i, row in enumerate(standing.rows):
        own = row == piece.row
        least = closest[i]
        if rope[i] < 0.0 and not own and row != holds:
            met.append(Met(row, "rope", rope[i], 0.0, False))
        if row in carrying:
            if least <= 0.0:
                first = int((comes[:, i] <= 0.0).argmax()) + 1
                drop = max(float(path.cg[0, 2] - path.cg[first, 2]), 0.0)
                met.append(Met(row, "swing", 0.0, math.sqrt(2.0 * GRAVITY * drop), True))
            continue
        if least < near and not own:
            met.append(Met(row, "swing", max(least, 0.0), 0.0, False))
        if lowered[i] < near and not own:
            met.append(Met(row, "lowered", max(lowered[i], 0.0), 0.0, False))
    return tuple(met)


class Put(NamedTuple):
    """Where a piece is put down: aside of its point and how far below it [m]; line aside: least and most force while
    it comes down, and what draws it aside once it is down, by its mass [N].

    ``steep`` is the tag line below level and the main rope off plumb together, at the ground and where it hangs first
    [rad]; ``passes`` are the targets beside its landing.
    """

    aside: float
    below: float
    least: float
    most: float
    drawn: Estimate
    steep: tuple[float, float]
    passes: tuple[Passing, ...]


def put_down(piece: Piece, pick: Pick, path: Swing, point: Place, site: Site) -> Put:
    """Where a piece comes to the ground, and what a line beside it has to hold; swing (9), forces (12).

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken; under its rigging point where no landing is chosen.
    path : Swing
        Its way.
    point : tuple of float
        The rigging point. [m]
    site : Site
        Targets as prisms.

    References
    ----------
    Triangle of forces for the piece held over its landing, from where it hangs first down to the ground; the person at
    the line beyond it, where nobody said by the usual allowance.
    """
    place = pick.landing or (point[0], point[1])
    if pick.far_anchor is not None and pick.method in ("speed", "drift"):
        # The line carries it; it comes down under where the line brings it, and nobody holds it aside.
        under = (float(path.cg[path.rest, 0]), float(path.cg[path.rest, 1]))
        point = (*under, max(point[2], float(path.cg[path.rest, 2]) + 0.5))
        place = pick.landing or under
    aside = math.hypot(place[0] - point[0], place[1] - point[1])
    first = max(point[2] - float(path.cg[path.rest, 2]), 0.5)
    below = max(point[2] - 0.5 * piece.diameter, first)
    stands = math.dist(pick.tag_place, place) if pick.tag_place else constant("tag_stands").value
    low, high = (_drawn(piece, point[2] - hangs, hangs, aside, stands) for hangs in (below, first))
    x, y, round_it = place[0] + site.tree_x, place[1] + site.tree_y, 0.5 * piece.length
    spot, rows = Point(x, y), []
    for i in site.near(x, y, x, y, round_it + NAMED):
        t = site.targets[i]
        if t.kind in kinds_that("put_on"):
            gap, longer = spot.distance(t.shape), constant("limb_length").high * round_it
            ends = (max(gap - round_it + by, 0.0) for by in (0.0, -longer, longer))
            rows.append(_beside(t, *ends))
    steep = low.steep, high.steep
    share = low.least / piece.mass.low if piece.mass.low > 0.0 else 0.0
    drawn = Estimate(share * piece.mass.value, low.least, low.most, Kind.ESTIMATED)
    return Put(aside, below, low.least, high.most, drawn, steep, tuple(sorted(rows, key=lambda p: p.gap)))  # (9)


def _beside(target: Target, gap: float, low: float, high: float) -> Passing:
    return Passing(target.name, gap, False, target.light_touch, low, high, worth_of(target.kind))


class _Drawn(NamedTuple):
    """A tag line at one height of the piece: least and most force by its mass [N], both angles together [rad]."""

    least: float
    most: float
    steep: float


def _drawn(piece: Piece, height: float, below: float, aside: float, stands: float) -> _Drawn:
    """What a tag line holds at one height; beyond the angle from which it pulls down, the force at that angle; forces
    (12).
    """
    off = math.atan2(aside, below)
    under = math.atan2(max(height - constant("hands_high").value, 0.0), max(stands, 0.1))
    kept = max(min(under, constant("tag_steep").value - off), 0.0)
    least, most = (tag_force(m * GRAVITY, off, kept) for m in (piece.mass.low, piece.mass.high))
    return _Drawn(least, most, off + under)
