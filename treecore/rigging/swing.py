"""Where a piece goes: from its place to hanging under the rigging point, and how near it comes to what is there."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPoint, Point, Polygon

from treecore.errors import NotSolvable
from treecore.estimate import Estimate, Kind, root_sum, swings
from treecore.kinds import kinds_that, worth_of
from treecore.rigging.segment_distance import apart
from treecore.schools import constant
from treecore.site import Site, Target

Array = NDArray[np.float64]
Place = tuple[float, float, float]
STEPS, TOPPLE = 24, 7
NAMED = 5.0  # targets further off than this are not named [m]
_BESIDE = 3.0  # beyond this a target is told by its level distance alone [m]


class Swing(NamedTuple):
    """The way of a piece: butt, tip, balance and tie at each step [m], places from the stem's foot.

    ``angle`` of the rope from upright at the start [rad]; ``low`` lowest point [m]; ``heavy`` which end goes down;
    ``hang`` its slope at rest, butt to tip above level [rad]; ``rest`` the step at which it hangs under the point.
    """

    butt: Array
    tip: Array
    cg: Array
    tie: Array
    angle: float
    low: float
    heavy: str
    hang: float
    rest: int


def hang_slope(tie: float, balance: float, length: float, loose: float) -> tuple[str, float]:
    """Which end of a piece goes down when it hangs, and its slope at rest, butt to tip above level [rad]; swing (1).

    Parameters
    ----------
    tie, balance, length : float
        Tie and balance along it from the butt, and its length. [m]
    loose : float
        Share of its length by which they may differ and it still lies about level. [-]

    References
    ----------
    Rest is where the balance hangs under the tie; a tie right at the balance leaves it as it was (taken level).
    """
    off = balance - tie
    if abs(off) <= loose * length:
        return "level", -math.asin(max(min(off / max(loose * length, 1e-9), 1.0), -1.0)) * 0.5
    return ("tip", -math.pi / 2.0) if off > 0.0 else ("butt", math.pi / 2.0)  # (1)


def swing(
    butt: Place,
    tip: Place,
    balance: float,
    tie: float,
    point: Place,
    slack: float,
    loose: float,
    bearing: float | None = None,
    keeps: bool = False,
) -> Swing:
    """Follow a piece from release to rest and as far beyond as it came; docs/methods.md, swing (1), (2).

    Parameters
    ----------
    butt, tip : tuple of float
        Its ends as it stands. [m]
    balance, tie : float
        Along it from the butt. [m]
    point : tuple of float
        Of the rigging. [m]
    slack : float
        Rope that is out beyond the way to the tie. [m]
    loose : float
        As for ``hang_slope``. [-]
    bearing : float, optional
        Way its notch faces; the way it lies, or north for an upright one, where nobody said. [rad]
    keeps : bool
        Whether two lines or legs keep it as it lies.

    Raises
    ------
    NotSolvable
        If the tie is at the rigging point itself.

    References
    ----------
    A piece tied above its point first turns over its hinge. Then the tie goes on a circle about the point in the
    upright plane through both, and the piece turns evenly to its rest.
    """
    length = math.dist(butt, tip)
    way = [(t - b) / length for b, t in zip(butt, tip, strict=True)]
    held = [b + w * tie for b, w in zip(butt, way, strict=True)]
    rope = math.dist(held, point) + slack
    if rope < 0.05:
        raise NotSolvable(what="tie", why="the tie is at the rigging point itself")
    out = held[0] - point[0], held[1] - point[1], held[2] - point[2]
    level = math.hypot(out[0], out[1])
    angle = math.atan2(level, -out[2])
    lies = math.atan2(way[0], way[1]) if math.hypot(way[0], way[1]) > 1e-6 else 0.0
    goes = lies if bearing is None else bearing
    first = goes if abs(way[2]) > math.sin(constant("upright").value) else lies
    start = math.atan2(way[2], way[0] * math.sin(first) + way[1] * math.cos(first))
    heavy, rest = ("level", start) if keeps else hang_slope(tie, balance, length, loose)
    over = angle > math.pi / 2.0  # tied above its point: it goes the way its notch faces
    side = goes if over or level <= 0.02 else math.atan2(out[0], out[1])
    topple = start * _FALLS if over and start > 0.0 else np.array([start])
    angles = min(angle, math.pi / 2.0) * _OUT_AND_BACK
    begin = float(topple[-1])
    slopes = np.concatenate([topple, begin + (rest - begin) * _TURNED])
    azimuths = np.concatenate([np.full(len(topple), first), first + math.remainder(goes - first, math.tau) * _TURNED])
    ways = _along(azimuths, slopes)
    ways[0] = way
    on_circle = np.array(point) + rope * _along(np.full(len(angles), side), angles - math.pi / 2.0)
    ties = np.vstack([np.array(butt) + ways[: len(topple)] * tie, on_circle])
    butts, tips = ties - ways * tie, ties + ways * (length - tie)
    low = float(min(butts[:, 2].min(), tips[:, 2].min()))
    return Swing(butts, tips, butts + ways * balance, ties, angle, low, heavy, rest, len(topple) + STEPS // 2)  # (2)


def stopped(path: Swing) -> Swing:
    """A way that ends where the piece hangs: nothing swings through the wood its rigging point hangs on; swing (8).

    Parameters
    ----------
    path : Swing
        The way.
    """
    end = path.rest + 1
    butt, tip, cg, tie = (v[:end] for v in (path.butt, path.tip, path.cg, path.tie))
    return path._replace(butt=butt, tip=tip, cg=cg, tie=tie)  # (8)


_TURN = np.linspace(0.0, 1.0, STEPS + 1)
_OUT_AND_BACK = np.cos(math.pi * _TURN)  # out, through the bottom, and as far the other way
_TURNED = np.minimum(2.0 * _TURN, 1.0)
_FALLS = np.linspace(1.0, 0.0, TOPPLE)


def _along(azimuths: Array, slopes: Array) -> Array:
    """Unit directions by azimuth and slope above level [rad]."""
    level = np.cos(slopes)
    return np.stack([level * np.sin(azimuths), level * np.cos(azimuths), np.sin(slopes)], axis=1)


class Passing(NamedTuple):
    """How a moving piece passes an obstacle: level gap, or height over it where it passes above [m]; which it is.

    ``low`` and ``high`` are the ends of the gap, as what is uncertain moves the way of the piece [m].
    """

    name: str
    gap: float
    over: bool
    light_touch: bool
    low: float
    high: float
    worth: str = ""

    @property
    def room(self) -> Estimate:
        """The gap with its interval, none where it is touched [m]."""
        low, gap, high = (max(v, 0.0) for v in (self.low, self.gap, self.high))
        return Estimate(gap, low, high, Kind.ESTIMATED)


def swept(path: Swing) -> Polygon:
    """Ground under the whole way of a piece [m]; docs/methods.md, swing (3).

    Parameters
    ----------
    path : Swing
        Its way.

    References
    ----------
    Convex outline of both ends at every step: errs wide.
    """
    return MultiPoint(np.vstack([path.butt[:, :2], path.tip[:, :2]])).convex_hull.buffer(0.05)  # (3)


def passings(path: Swing, site: Site, moved: Callable[[], Sequence[Swing]] = tuple) -> tuple[Passing, ...]:
    """Return how a piece passes the targets within five metres of its way; docs/methods.md, swing (4), (11).

    Parameters
    ----------
    path : Swing
        Its way, from the stem's foot.
    site : Site
        Targets as prisms.
    moved : callable
        The same way with each uncertain figure at its low, then each at its high end; asked for only beside targets.

    References
    ----------
    At every step the piece is a line: over a target it passes by height, beside it by level distance.
    """
    ends = np.concatenate([path.butt, path.tip])
    (west, south, _), (east, north, _) = ends.min(axis=0).tolist(), ends.max(axis=0).tolist()
    x, y = site.tree_x, site.tree_y
    near = [
        site.targets[i]
        for i in site.near(west + x, south + y, east + x, north + y, NAMED)
        if site.targets[i].kind in kinds_that("passed")
    ]
    if not near:
        return ()
    shift = np.array([x, y])
    ways = (path, *moved())
    lines = [shapely.linestrings(np.stack([p.butt[:, :2] + shift, p.tip[:, :2] + shift], axis=1)) for p in ways]
    ends = np.cumsum([len(p.butt) for p in ways])[:-1]
    together: NDArray[np.object_] = np.concatenate([np.asarray(line) for line in lines])
    lows = [np.minimum(p.butt[:, 2], p.tip[:, 2]) for p in ways]
    found = []
    for target in near:
        gaps = np.split(np.asarray(shapely.distance(target.shape, together)), ends)
        here = _passing(target, gaps[0], lows[0])
        if here is not None:
            found.append(
                _with_ends(here, [_passing(target, g, low) for g, low in zip(gaps[1:], lows[1:], strict=True)])
            )
    return tuple(sorted(found, key=lambda p: p.gap))  # (4)


def _with_ends(here: Passing, moved: Sequence[Passing | None]) -> Passing:
    """A gap with its ends: swings of each figure summed in squares; (11)."""
    if not moved:
        return here
    # Where a move takes it further off than is named, or over what it passed beside, the gap does not shrink.
    gaps = [
        p.gap if p is not None and (p.over == here.over or p.gap < here.gap) else max(here.gap, NAMED) for p in moved
    ]
    fall, rise = swings(np.array([here.gap, *gaps])[:, None])
    down, up = float(root_sum(fall)[0]), float(root_sum(rise)[0])
    return here._replace(low=here.gap - down, high=min(here.gap + up, max(here.gap, NAMED)))  # (11)


def _passing(target: Target, gaps: Array, lows: Array) -> Passing | None:
    """How one target is passed, by the level gap and the lowest height at every step; None further than is named."""
    below, least = lows < target.height, float(gaps.min())
    if least > NAMED:
        return None
    over = least <= _BESIDE and not below.any()
    if over and least > 0.0:
        return None
    gap = least
    if over:
        gap = float((lows[gaps <= 0.0] - target.height).min())
    elif least <= _BESIDE:
        gap = float(gaps[below].min())
    return Passing(target.name, gap, over, target.light_touch, gap, gap, worth_of(target.kind))


def nearest(path: Swing, place: Place) -> float:
    """Least distance of a moving piece from a place [m], the step before release left out; docs/methods.md, swing (5).

    Parameters
    ----------
    path : Swing
        Its way.
    place : tuple of float
        The place, from the stem's foot. [m]

    References
    ----------
    Distance of a point from a segment.
    """
    spot = np.array([place])
    return float(apart(path.butt[1:], path.tip[1:], spot, spot).min())  # (5)


def drop_circle(piece_reach: float, height: float, place: tuple[float, float]) -> Polygon:
    """Ground a freely falling piece may come to [m]; docs/methods.md, swing (6).

    Parameters
    ----------
    piece_reach : float
        From its cut to its furthest end. [m]
    height : float
        It falls from. [m]
    place : tuple of float
        Under its balance. [m]

    References
    ----------
    Half a turn, and a roll or bounce of a quarter of the height: own allowance.
    """
    return Point(place).buffer(drop_reach(piece_reach, height))


def drop_reach(piece_reach: float, height: float) -> float:
    """How far from under its balance a freely falling piece may come to [m]; docs/methods.md, swing (6).

    Parameters
    ----------
    piece_reach, height : float
        From its cut to its furthest end; height it falls from. [m]

    References
    ----------
    Half a turn, and a roll or bounce of a quarter of the height: own allowance.
    """
    return piece_reach + 0.25 * max(height, 0.0)  # (6)
