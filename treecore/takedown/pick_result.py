"""A pick worked out whole: its forces, its way and what it comes near, its ties, its fall."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from treecore.errors import CoreError
from treecore.estimate import Estimate, Kind, exactly, moves
from treecore.kinds import kinds_that, worth_of
from treecore.rigging.forces import bridle_legs, shared, two_legs
from treecore.rigging.landing import give, ground_force
from treecore.rigging.swing import Passing, Swing, drop_reach, passings, stopped, swing
from treecore.schools import constant
from treecore.site import Site
from treecore.takedown.climber_stance import Stand, stand_of
from treecore.takedown.members import Members, is_upright
from treecore.takedown.obstacles import Beside, Met, Put, met_by, put_down
from treecore.takedown.peak_forces import Forces, forces_of
from treecore.takedown.pick import Pick, hold_place, kept_as_it_lies, methods, point_place, side_of
from treecore.takedown.pieces import Piece, Standing, Taken
from treecore.units import GRAVITY

Array = NDArray[np.float64]
Place = tuple[float, float, float]


@dataclass(frozen=True, kw_only=True)
class Worked:
    """A pick worked out: how it is taken, its piece, what stands before and after, where its climber is."""

    pick: Pick
    piece: Piece
    before: Standing
    after: Standing
    stand: Stand | None


@dataclass(frozen=True, kw_only=True)
class FreePick(Worked):
    """A piece that nothing holds: what it may come down on."""

    passes: tuple[Passing, ...]


@dataclass(frozen=True, kw_only=True)
class HookPick(Worked):
    """A piece on a machine's hook."""


@dataclass(frozen=True, kw_only=True)
class HeldPick(Worked):
    """A piece on a line: its rigging point [m], its forces and its way, what that passes and meets, where it is put
    down, and how it passes the climber, if there is one.
    """

    point: Place
    forces: Forces
    path: Swing
    passes: tuple[Passing, ...]
    meets: tuple[Met, ...]
    put: Put
    beside: Beside | None


def work(members: Members, step: Taken, pick: Pick, site: Site, swing: bool = True) -> Worked:
    """Work a pick out as the tree stands when its turn comes.

    Parameters
    ----------
    members : Members
        The tree's members.
    step : Taken
        The piece, and what stands before and after.
    pick : Pick
        How it is taken.
    site : Site
        What is around.
    swing : bool
        False for the central values of the forces alone, where a change is only tried.

    Raises
    ------
    NotSolvable, OutOfRange
        Naming what is wrong with the pick.

    References
    ----------
    docs/methods.md, forces, motion, friction, anchor and swing.
    """
    piece = step.piece
    pick.cut.fits(piece.diameter)
    stand = stand_of(members, step.after, piece, pick)
    if methods()[pick.method].point == "hook":
        return HookPick(pick=pick, piece=piece, before=step.before, after=step.after, stand=stand)
    if methods()[pick.method].lines == 0:
        passes = drops(piece, pick, site)
        return FreePick(pick=pick, piece=piece, before=step.before, after=step.after, stand=stand, passes=passes)
    point = point_place(members, step.after, pick.on, side=side_of(members, piece, pick))
    hold_place(piece, pick)
    forces = forces_of(members, step, pick, point, swing)
    upright = pick.on.member is not None and is_upright(members, members.rows[pick.on.member])
    path = _way(piece, pick, point, pick.tie, pick.slack)
    path = stopped(path) if upright else path
    far = far_end(members, step.after, pick)
    if far is not None:
        path = carried_along(path, point, far, pick.sag if pick.method == "speed" else 0.0)
    meets, beside = met_by(members, step, pick, path, point, stand)
    put = put_down(piece, pick, path, point, site)
    return HeldPick(
        pick=pick,
        piece=piece,
        before=step.before,
        after=step.after,
        stand=stand,
        point=point,
        forces=forces,
        path=path,
        passes=passings(path, site, lambda: _moved(piece, pick, point, upright) if far is None else []),
        meets=meets,
        put=put,
        beside=beside,
    )


def far_end(members: Members, standing: Standing, pick: Pick) -> Place | None:
    """Where the far end of a speed or drift line is, from the stem's foot [m]; None for other ways of taking a piece.

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands while the piece comes off.
    pick : Pick
        How it is taken.

    Raises
    ------
    NotSolvable
        If it is on what does not stand.
    """
    if pick.method not in ("speed", "drift") or pick.far_anchor is None:
        return None
    return pick.far_anchor.place or point_place(members, standing, pick.far_anchor, "far_anchor")


_THROWS = 16  # ways in which a place is looked for that a piece is thrown to
_SPAN_STEPS = 12  # places along a far line at which a load is looked at


def carried_along(path: Swing, point: Place, far: Place, sag: float) -> Swing:
    """The way of a piece that swings under its point and is then carried along a line to its far end; swing (12).

    Parameters
    ----------
    path : Swing
        Its way until it hangs under the point.
    point, far : tuple of float
        Ends of the line. [m]
    sag : float
        Of the line under its load, over the span. [-]

    References
    ----------
    A load that moves on a line hangs 4·sag·t·(1 − t) of the span under the chord.
    """
    share = np.linspace(0.0, 1.0, _SPAN_STEPS + 1)[1:]
    chord = share[:, None] * (np.array(far) - np.array(point))
    span = float(np.hypot(*chord[-1, :2]))
    chord[:, 2] -= 4.0 * sag * span * share * (1.0 - share)  # (12)
    rows = slice(0, path.rest + 1)
    butt, tip, cg, tie = (
        np.concatenate([way[rows], way[path.rest] + chord]) for way in (path.butt, path.tip, path.cg, path.tie)
    )
    low = float(min(butt[:, 2].min(), tip[:, 2].min()))
    return path._replace(butt=butt, tip=tip, cg=cg, tie=tie, low=low, rest=len(cg) - 1)


def _moved(piece: Piece, pick: Pick, point: Place, upright: bool) -> list[Swing]:
    """The way with each uncertain figure at its low, then each at its high end: balance, tie, slack, length; swing
    (11).
    """
    length = constant("limb_length") if piece.row > 0 else exactly(0.0)
    inputs = {
        "balance": piece.balance,
        "tie": constant("tie_off"),
        "slack": constant("slack_left"),
        "longer": length,
    }
    loose = [name for name, e in inputs.items() if e.low != e.high]
    table = moves(inputs, loose)
    columns = {name: np.broadcast_to(column, (2 * len(loose) + 1,)).tolist() for name, column in table.items()}
    found = []
    for i in range(1, 2 * len(loose) + 1):
        x = {name: column[i] for name, column in columns.items()}
        tip = tuple(b + (t - b) * (1.0 + x["longer"]) for b, t in zip(piece.butt, piece.tip, strict=True))
        tie, slack = min(max(pick.tie + x["tie"], 0.0), piece.length), max(pick.slack + x["slack"], 0.0)
        stretched = piece._replace(tip=(tip[0], tip[1], tip[2]), balance=exactly(x["balance"]))
        try:
            way = _way(stretched, pick, point, tie, slack)
        except CoreError:
            continue  # tied at the point itself: no other way than the one worked out
        found.append(stopped(way) if upright else way)
    return found if len(found) == 2 * len(loose) else []


def _way(piece: Piece, pick: Pick, point: Place, tie: float, slack: float) -> Swing:
    """The way of a piece; one that two lines or legs keep as it lies moves as its balance does,
    under a bridle's head.
    """
    balance, loose = min(piece.balance.value, piece.length), constant("hang_over").value
    faces = pick.goes if piece.slope > constant("upright").value else pick.bearing
    if not kept_as_it_lies(pick):
        return swing(piece.butt, piece.tip, balance, tie, point, slack, loose, faces)
    up = pick.head if pick.method == "bridle" else 0.0
    under = (point[0], point[1], point[2] - up)
    path = swing(piece.butt, piece.tip, balance, balance, under, slack, loose, faces, keeps=True)
    return path._replace(tie=path.tie + np.array([0.0, 0.0, up]))


def drops(piece: Piece, pick: Pick, site: Site) -> tuple[Passing, ...]:
    """Return how far every target lies from where a piece that nothing holds may come to, falling or thrown.

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    site : Site
        Targets as prisms.

    References
    ----------
    docs/methods.md, swing (6).
    """
    if not site.targets:
        return ()
    gaps = np.maximum(shapely.distance(site.shapes, falls_on(piece, pick, site)), 0.0).tolist()
    rows = [
        Passing(t.name, gap, False, t.light_touch, gap, gap, worth_of(t.kind))
        for t, gap in zip(site.targets, gaps, strict=True)
        if t.kind in kinds_that("dropped_on")
    ]
    return tuple(sorted(rows, key=lambda p: p.gap))


def falls_on(piece: Piece, pick: Pick, site: Site) -> BaseGeometry:
    """Ground on which a piece that nothing holds may come to lie, on the site [m]; docs/methods.md, swing (6).

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken: the way its notch faces, or where it is thrown.
    site : Site
        Its slope, and what is paved.

    References
    ----------
    docs/methods.md, swing (6); own allowances.
    """
    if pick.method == "toss":
        return shapely.Point(thrown_to(piece, pick, site)).buffer(toss_reach(piece), quad_segs=64)
    under, reach = shapely.Point(_under(piece, site)), drop_reach(piece.reach, piece.cg[2])
    goes = pick.goes if piece.slope > constant("upright").value else pick.bearing
    back = constant("drop_back").value * (piece.length + max(piece.cg[2], 0.0))
    if goes is None or back >= reach or site.within(under, reach, kinds_that("paved")):
        return under.buffer(reach, quad_segs=64)
    # It goes the way its notch faces, turning; back from there it bounces a little; down a slope it goes as far.
    ways = [goes, site.downhill] if site.slope > constant("roll_slope").low else [goes]
    return shapely.union_all([under.buffer(back, quad_segs=32), *(_fan(_under(piece, site), w, reach) for w in ways)])


def toss_reach(piece: Piece) -> float:
    """How far round its place a piece thrown by hand may lie [m]: half its length, and what a throw misses by.

    Parameters
    ----------
    piece : Piece
        The piece.
    """
    return 0.5 * piece.length + constant("toss_scatter").value * max(piece.cg[2], 0.0)


def thrown_to(piece: Piece, pick: Pick, site: Site) -> tuple[float, float]:
    """Where a piece is thrown by hand, on the site [m]: as said, else the freest place within a throw.

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    site : Site
        What is around.
    """
    if pick.landing is not None:
        return pick.landing[0] + site.tree_x, pick.landing[1] + site.tree_y
    under = _under(piece, site)
    shapes = [t.shape for t in site.targets if t.kind in kinds_that("dropped_on")]
    if not shapes:
        return float(under[0]), float(under[1])
    turns = np.linspace(0.0, math.tau, _THROWS, endpoint=False)
    rim = under + constant("toss_far").value * np.column_stack([np.sin(turns), np.cos(turns)])
    places = np.vstack([under, rim])
    free = shapely.distance(np.array(shapes)[:, None], np.asarray(shapely.points(places))[None, :]).min(axis=0)
    best = places[int(free.argmax())]
    return float(best[0]), float(best[1])


def _under(piece: Piece, site: Site) -> Array:
    """What lies plumb under a piece's balance, on the site [m]."""
    return np.array([piece.cg[0] + site.tree_x, piece.cg[1] + site.tree_y])


def _fan(middle: Array, bearing: float, reach: float) -> BaseGeometry:
    """Sector about a bearing that a piece falls into [m]."""
    half = constant("drop_scatter").value
    turns = bearing + np.linspace(-half, half, 13)
    rim = middle + reach * np.column_stack([np.sin(turns), np.cos(turns)])
    return shapely.Polygon(np.vstack([middle, rim]))


def fall_energy(piece: Piece) -> float:
    """Energy of a piece that falls freely to the ground [J].

    Parameters
    ----------
    piece : Piece
        The piece.

    References
    ----------
    Weight times the height of its balance.
    """
    return piece.mass.value * GRAVITY * max(piece.cg[2], 0.0)


class Shares(NamedTuple):
    """Two lines or two legs of one piece: tension in each [N], and the legs' lengths [m], 0 for two lines."""

    first: float
    second: float
    first_leg: float
    second_leg: float


def two_ties(piece: Piece, pick: Pick) -> Shares | None:
    """Share of the weight on both ties of a piece that is kept as it lies; None where it has one.

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken; tip and butt, or a bridle.

    Raises
    ------
    NotSolvable
        If both are tied at one place, or both legs of a bridle on one side of the balance.

    References
    ----------
    docs/methods.md, forces (8) to (10).
    """
    if not kept_as_it_lies(pick) or pick.second_tie is None:
        return None
    weight, cg = piece.mass.value * GRAVITY, piece.balance.value
    if pick.method == "both":
        return Shares(*shared(weight, pick.tie, pick.second_tie, cg), 0.0, 0.0)
    lengths, angles = bridle_legs(pick.head, (pick.tie, pick.second_tie), cg, piece.slope)
    return Shares(*two_legs(weight, *angles), *lengths)


def on_hook(piece: Piece) -> Estimate:
    """Load on a machine's hook as a piece parts from the tree [N]; docs/methods.md, forces (15).

    Parameters
    ----------
    piece : Piece
        The piece.

    References
    ----------
    Its weight, highest credible included, times an allowance for the jerk.
    """
    jerk = constant("hook_jerk")
    value, low, high = (
        m * j * GRAVITY
        for m, j in ((piece.mass.value, jerk.value), (piece.mass.low, jerk.low), (piece.mass.high, jerk.high))
    )
    return Estimate(value, low, high, Kind.ESTIMATED)  # (15)


def on_ground(piece: Piece, pick: Pick) -> Estimate:
    """Mean force on the ground, or the bed, under a piece that falls freely [N]; docs/methods.md, landing (1), (2).

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken, and the bed it falls on.
    """
    return ground_force(piece.mass.value * GRAVITY, piece.cg[2], give(pick.bed, pick.bed_depth))
