"""When the rope of a pick comes tight: peaks by every school and by the motion, legs, the wood of its anchors,
device, hand.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import CoreError
from treecore.estimate import Estimate, Kind, product, reach, times
from treecore.rigging.bending import AnchorStress
from treecore.rigging.forces import block_force, hinged_lever
from treecore.rigging.friction import Device, devices, hand_force, rule_of_thumb, wraps_for
from treecore.rigging.motion import Trace
from treecore.schools import constant
from treecore.takedown.catching import Caught, Schools, caught_with_moves, followed, friction_of
from treecore.takedown.loads import Held, held, union_stress
from treecore.takedown.members import Members
from treecore.takedown.pick import Pick, hold_place, point_place
from treecore.takedown.pieces import Piece, Standing, Taken
from treecore.takedown.route import DOWN, Route, Span, route_of, span_of, tension_ratio_of, unit
from treecore.units import GRAVITY

Array = NDArray[np.float64]
Place = tuple[float, float, float]


class Peaks(NamedTuple):
    """Tension in the leg to the piece [N]: still, by the field rule, locked with stretch, let run, by the motion;
    what counts.

    ``lever`` is the greatest while its hinge still holds, None for a cut that lets go at once.
    """

    static: Estimate
    field: Estimate
    elastic: Estimate
    let_run: Estimate
    motion: Estimate
    governing: Estimate
    school: str
    lever: Estimate | None


class Wraps(NamedTuple):
    """Wraps on a device, or its setting [-]: least that hold the piece still, most that let it run, least that lock
    off its peak.

    Each at the unfavourable ends of mass and friction; without end where the device can't.
    """

    hold: float
    run: float
    lock: float


class Course(NamedTuple):
    """What comes of the motion: rope through the device [m], by closed form beside it [m]; whether it stops at the
    central and at every end; lowest place of either end [m], and how far it had turned when its hinge parted [rad].

    ``locked`` says that wraps meant to let it run hold it. ``touch`` is how fast an end meets the ground [m/s], nothing
    where none does, and ``touches_at`` where, from the stem's foot [m].
    """

    run: Estimate
    by_run: float
    stops: bool
    always_stops: bool
    lowest: float
    turned: float
    locked: bool
    touch: Estimate
    touches_at: tuple[float, float]


class Loaded(NamedTuple):
    """Another place that a rope pulls on: how hard [N], and its wood; None where nobody knows that."""

    load: Estimate
    wood: Held | None


class Forces(NamedTuple):
    """Forces of a pick. ``drop_height`` of its balance at most [m]; tensions [N]; ``tension_ratio`` by point and
    redirect [-]; ``hand`` needed [N].

    ``force`` is the greatest on the point: east, north, up [N]; ``still`` on it while the piece hangs [N].
    ``control_leg`` comes to the device [N]. ``wraps`` for this device; ``needed`` rope [m]; ``stiffness`` of the rope
    in play [N/m], ``known`` how its modulus is known; ``lever`` tension that would hold the piece still on its hinge
    [N]. ``redirect`` is the place the rope is led over, ``far_anchor`` the second high point of a line it goes along:
    None where there is none; ``course`` what comes of its motion, None for a piece that goes along a line.
    """

    drop_height: float
    peaks: Peaks
    tension_ratio: float
    control_leg: Estimate
    on_point: Estimate
    on_point_still: float
    force: Place
    wood: Held | None
    hand: Estimate
    wraps: Wraps
    thumb: float
    needed: float
    stiffness: Estimate
    known: str
    course: Course | None
    redirect: Loaded | None
    lever: float | None
    far_anchor: Loaded | None

    @property
    def anchor(self) -> AnchorStress | None:
        """What carries the point, at its weakest section; None where nobody knows."""
        return self.wood.anchor if self.wood else None

    def taken(self, pretension: float) -> float | None:
        """Share of what would hold the piece on its hinge that a tight line takes [-]; None without either.

        Parameters
        ----------
        pretension : float
            In the line before the cut. [N]
        """
        return pretension / self.lever if self.lever and pretension else None


def forces_of(members: Members, step: Taken, pick: Pick, point: Place, swing: bool = True) -> Forces:
    """Work out the forces of a pick that is held by a line.

    Parameters
    ----------
    members : Members
        The tree's members.
    step : Taken
        The piece, and what stands before and after.
    pick : Pick
        How it is taken; with a rigging point.
    point : tuple of float
        Where that is. [m]
    swing : bool
        False for the central values alone, where only those are asked for.

    Raises
    ------
    NotSolvable, OutOfRange
        Naming what is wrong with the pick.

    References
    ----------
    docs/methods.md, forces (1) to (7), (13), (14), motion, friction (1) to (6), anchor (1) to (8).
    """
    span = span_of(members, step, pick, point)
    tie = hold_place(step.piece, pick)
    route = route_of(members, step.after, pick, tie, point, span.hang if span else DOWN)
    schools, motion = caught_with_moves(step.piece, pick, route, swing)
    if span is not None:
        return _on_span(members, step, pick, route, span, schools)
    return _on_rope(members, step, pick, route, schools, motion)


def motion_of(members: Members, step: Taken, pick: Pick, point: Place) -> Trace | None:
    """Return the motion of a pick in time at its central values; None for a piece that goes along a line.

    Parameters
    ----------
    members : Members
        The tree's members.
    step : Taken
        The piece, and what stands before and after.
    pick : Pick
        How it is taken; with a rigging point.
    point : tuple of float
        Where that is. [m]
    """
    if span_of(members, step, pick, point) is not None:
        return None
    return followed(step.piece, pick, route_of(members, step.after, pick, hold_place(step.piece, pick), point))


def _known(pick: Pick) -> str:
    """How the modulus of the rope is known."""
    rope = pick.gear.get("rope")
    return rope.stiffness.known if rope else "unknown"


def _on_rope(members: Members, step: Taken, pick: Pick, route: Route, schools: Schools, found: Caught) -> Forces:
    """A piece that falls, swings and hangs on one rope from its point."""
    piece, device = step.piece, devices()[pick.device]
    weight = times(piece.mass, GRAVITY)
    peak, control_leg = reach(found.peak), reach(found.device)
    hinged = bool(found.lever[0] > 0.0)
    peaks = Peaks(
        static=weight,
        field=reach(schools.field),
        elastic=reach(schools.stretch),
        let_run=reach(schools.let),
        motion=peak,
        governing=peak,
        school="motion",
        lever=reach(found.lever) if hinged else None,
    )
    worst = found.forces[0][int(np.argmax((found.forces[0] ** 2).sum(axis=1)))]
    tension_ratio = float(schools.tension_ratio[0])
    factor = constant("top_factor").value if loses_its_top(members, step.piece, pick) else 1.0
    wood = held(members, step.after, route.over[0], route.point, found.forces, factor)
    locked = pick.held == "run" and float(found.run[0]) < _HOLDS
    return Forces(
        drop_height=float(schools.fall[0]),
        peaks=peaks,
        tension_ratio=tension_ratio,
        control_leg=control_leg,
        on_point=reach(found.size),
        on_point_still=weight.value * math.hypot(*block_force(DOWN, route.beyond, 1.0, _first_share(route))),
        force=(float(worst[0]), float(worst[1]), float(worst[2])),
        wood=wood,
        hand=_hand(control_leg if pick.held == "lock" or locked else times(weight, tension_ratio), device, pick),
        wraps=wraps_on(peaks, tension_ratio, device, friction_of(pick)),
        thumb=rule_of_thumb(piece.mass.value),
        needed=_needed(pick, route),
        stiffness=reach(schools.stiffness),
        known=_known(pick),
        course=_course(found, schools, locked),
        redirect=_led(members, step.after, route, found.device),
        lever=_still_lever(piece, pick, route, weight.value),
        far_anchor=None,
    )


_HOLDS = 0.02  # rope through the device under which it never ran [m]


def _first_share(route: Route) -> float:
    return float(tension_ratio_of(route.over[0], route.turns[0], constant("bark_friction").value, 1.0))


def _on_span(members: Members, step: Taken, pick: Pick, route: Route, span: Span, schools: Schools) -> Forces:
    """A piece that goes along or between two high points: statics of the span times what letting go onto it makes of
    them.
    """
    weight = times(step.piece.mass, GRAVITY)
    still = times(weight, max(span.pull, 1.0))
    peak, far = product(still, span.jerk), product(times(weight, span.far), span.jerk)
    tension_ratio, device = float(schools.tension_ratio[0]), devices()[pick.device]
    peaks = Peaks(
        static=still,
        field=reach(schools.field),
        elastic=reach(schools.stretch),
        let_run=reach(schools.let),
        motion=peak,
        governing=peak,
        school="span",
        lever=None,
    )
    first = block_force(span.hang, route.beyond, 1.0, _first_share(route))
    control_leg = times(peak, tension_ratio)
    beyond = None
    if pick.far_anchor is not None:
        place = point_place(members, step.after, pick.far_anchor, "far_anchor")
        beyond = Loaded(far, held(members, step.after, pick.far_anchor, place, _pulled(far, span.away)))
    return Forces(
        drop_height=0.0,
        peaks=peaks,
        tension_ratio=tension_ratio,
        control_leg=control_leg,
        on_point=times(peak, math.hypot(*first)),
        on_point_still=still.value * math.hypot(*first),
        force=(first[0] * peak.value, first[1] * peak.value, first[2] * peak.value),
        wood=held(members, step.after, route.over[0], route.point, _pulled(peak, first)),
        hand=_hand(control_leg, device, pick),
        wraps=wraps_on(peaks, tension_ratio, device, friction_of(pick)),
        thumb=rule_of_thumb(step.piece.mass.value),
        needed=_needed(pick, route),
        stiffness=reach(schools.stiffness),
        known=_known(pick),
        course=None,
        redirect=_led(members, step.after, route, _rows(control_leg)),
        lever=_still_lever(step.piece, pick, route, weight.value),
        far_anchor=beyond,
    )


def _rows(e: Estimate) -> Array:
    return np.array([e.value, e.low, e.high])


def _pulled(size: Estimate, way: Place) -> Array:
    """Forces along one way as rows of moves: central, low, high."""
    found: Array = _rows(size)[:, None, None] * np.array(way)[None, None, :]
    return found


def _needed(pick: Pick, route: Route) -> float:
    """Rope it takes: to the ground or the landing, the rest of the way to the device, and its tail [m]."""
    point = route.point
    landing = (*pick.landing, 0.0) if pick.landing else (point[0], point[1], 0.0)
    return (
        max(route.lengths[0] + pick.slack, math.dist(point, landing))
        + sum(route.lengths[1:])
        + constant("rope_tail").value
    )


def _course(found: Caught, schools: Schools, locked: bool) -> Course:
    return Course(
        run=reach(found.run),
        by_run=float(schools.run[0]),
        stops=bool(found.stops[0] > 0.5),
        always_stops=bool(found.stops.min() > 0.5),
        lowest=float(found.lowest[0]),
        turned=float(found.turned[0]),
        locked=locked,
        touch=reach(found.touch[:, 2]),
        touches_at=_touched(found.touch),
    )


def _touched(touch: Array) -> tuple[float, float]:
    """Where an end meets the ground: at the central values, else where it is hardest."""
    row = 0 if touch[0, 2] > 0.0 else int(touch[:, 2].argmax())
    return float(touch[row, 0]), float(touch[row, 1])


def loses_its_top(members: Members, piece: Piece, pick: Pick) -> bool:
    """Whether the wood that carries the point loses its own top, and springs; docs/methods.md, anchor (9).

    Parameters
    ----------
    members : Members
        The tree's members.
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    """
    point = pick.point
    if point is None or point.member is None:
        return False
    return members.rows[point.member] == piece.row and point.at <= piece.cut.at


def _hand(load: Estimate, device: Device, pick: Pick) -> Estimate:
    """Force at the hand that holds a load at the device; friction (1)."""
    mu, turns = friction_of(pick), device.turns(pick.wraps, pick.setting)
    value = hand_force(load.value, mu.value, turns.value)
    if load.value < 1.0:
        return Estimate(value, 0.0, max(load.high, value), Kind.ESTIMATED)
    low = math.log(max(load.low, 1e-3) / load.value), math.tau * turns.value * (mu.value - mu.high)
    high = math.log(load.high / load.value), math.tau * turns.value * (mu.value - mu.low)
    less, more = math.tau * mu.value * (turns.value - turns.high), math.tau * mu.value * (turns.value - turns.low)
    return Estimate(
        value, value * math.exp(-math.hypot(*low, less)), value * math.exp(math.hypot(*high, more)), Kind.ESTIMATED
    )


def wraps_on(peaks: Peaks, tension_ratio: float, device: Device, friction: Estimate | None = None) -> Wraps:
    """Wraps that hold a piece, let it run, and lock off its peak, each at its unfavourable end; docs/methods.md,
    friction (2).

    Parameters
    ----------
    peaks : Peaks
        Tensions of the pick. [N]
    tension_ratio : float
        Share of them that reaches the device. [-]
    device : Device
        Which; what it counts as by itself is taken off.
    friction : Estimate, optional
        Of rope on it, where a crew measured its own. [-]
    """
    mu = friction or device.friction
    at_ease, loose = constant("hand_hold").value, constant("hand_run").value
    hold = wraps_for(peaks.static.high * tension_ratio, at_ease, mu.low)
    run = wraps_for(peaks.static.low * tension_ratio, loose, mu.high)
    lock = wraps_for(max(peaks.elastic.high, peaks.governing.high) * tension_ratio, at_ease, mu.low)
    if not device.settings:
        least, most = device.base.low, device.base.high
        return Wraps(max(hold - least, 0.0), max(run - most, 0.0), max(lock - least, 0.0))
    enough = [[s.number for s in device.settings if s.turns.low >= need] for need in (hold, lock)]
    few = [s.number for s in device.settings if s.turns.high <= run]
    holds, locks = (float(min(found)) if found else math.inf for found in enough)
    return Wraps(holds, float(max(few)) if few else 0.0, locks)


def _led(members: Members, standing: Standing, route: Route, device: Array) -> Loaded | None:
    """Force on the place the rope is led over, as what reaches the device goes through it, and its wood."""
    ways = route.onward
    if ways is None or route.led is None:
        return None
    back, on = (np.array(w) for w in ways)
    shares = [
        float(tension_ratio_of(p, t, constant("bark_friction").value, 1.0))
        for p, t in zip(route.over, route.turns, strict=True)
    ]
    forces = device[:, None] * (back / shares[1] + on)
    size = reach(np.sqrt((forces**2).sum(axis=1)))
    return Loaded(size, held(members, standing, route.over[1], route.led, forces[:, None, :]))


def _still_lever(piece: Piece, pick: Pick, route: Route, weight: float) -> float | None:
    """Tension that would hold a piece still on its hinge; None for upright pieces and ties right at the hinge;
    forces (7).
    """
    upright = piece.slope > constant("upright").value
    if pick.method == "bridle" or pick.tie < 0.05 or route.point[2] <= route.tie[2] or upright:
        return None
    rope = unit(route.tie, route.point)
    between = math.acos(min(max(sum(a * b for a, b in zip(rope, piece.way, strict=True)), -1.0), 1.0))
    try:
        return hinged_lever(weight, piece.balance.value, pick.tie, piece.slope, between)
    except CoreError:
        return None


def union_under(members: Members, standing: Standing, row: int, place: Place, force: Place) -> list[AnchorStress]:
    """Stress at every union between a place on a limb and the stem, what stands out on it included; anchor (4), (7).

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands.
    row : int
        The limb.
    place : tuple of float
        Where the force acts, from the stem's foot [m].
    force : tuple of float
        East, north, up. [N]
    """
    found = []
    while row > 0:
        found.append(union_stress(members, standing, row, place, np.array([force])).said)
        row = members.parent[row]
    return found
