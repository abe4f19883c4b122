"""A pick's peaks under every move of what is uncertain: by the schools in closed form, and by the motion itself."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column
from treecore.estimate import MANY, Estimate, Kind, joint_moves
from treecore.rigging.forces import cg_fall, field_rule, let_run, rope_in_play, stretch_peak
from treecore.rigging.friction import Device, devices
from treecore.rigging.motion import PARTS, WAY, Moved, Scene, Trace, moved, traced
from treecore.rigging.rope import stiffness_of
from treecore.schools import constant
from treecore.takedown.pick import Pick, kept_as_it_lies
from treecore.takedown.pieces import Piece
from treecore.takedown.route import SHORTEST, Route, tension_ratio_of
from treecore.units import GRAVITY

Array = NDArray[np.float64]
Place = tuple[float, float, float]
HARD = 1e12  # a device that is locked holds any tension [N]
LOWEST = math.radians(-85.0)  # a piece on its hinge hangs no steeper [rad]


class Body(NamedTuple):
    """A piece as columns: mass [kg], balance from its cut [m], radius of gyration about that [m]."""

    mass: Array
    balance: Array
    gyration: Array


class Start(NamedTuple):
    """How a piece lies when it begins: way of its axis, how far its hinge lets it turn down [rad]."""

    way: Place
    parts: float


class Schools(NamedTuple):
    """Columns of a pick's peaks in closed form. Tensions in the leg to the piece [N]; falls and runs [m]; stiffness
    [N/m].

    ``tension_ratio`` is the share that reaches the device [-]; ``run`` goes with ``let``, without end where nothing
    stops it.
    """

    weight: Array
    fall: Array
    field: Array
    stretch: Array
    let: Array
    run: Array
    tension_ratio: Array
    stiffness: Array


class Caught(NamedTuple):
    """Columns of a pick's motion, one row a move, the worst start of each. Tensions at the piece and at the device [N].

    ``forces`` on the point are (moves, 3 a start, 3) and ``size`` the greatest of them [N]; ``run`` rope through the
    device [m], ``stops`` 1 where it comes to rest; ``lowest`` place of either end [m], ``turned`` on its hinge [rad];
    ``touch`` where an end meets the ground hardest, east and north [m], and how fast downward [m/s].
    """

    peak: Array
    lever: Array
    device: Array
    size: Array
    forces: Array
    run: Array
    stops: Array
    lowest: Array
    turned: Array
    touch: Array


@dataclass(frozen=True, slots=True, kw_only=True)
class Grip:
    """How a device holds: tension at which it slides by a loose and by a closed hand [N], in logarithms how far off
    [-].
    """

    loose: float
    closed: float
    down: float
    up: float


def grip_of(device: Device, pick: Pick, friction: Estimate) -> Grip:
    """Tension at which the rope slides through a device; docs/methods.md, friction (1), (5).

    Parameters
    ----------
    device : Device
        Which.
    pick : Pick
        Its wraps or setting.
    friction : Estimate
        Of rope on it, the crew's own where it was measured. [-]

    References
    ----------
    Capstan equation; the errors of friction, turns and hand summed in squares as logarithms.
    """
    turns, hand, run = device.turns(pick.wraps, pick.setting), constant("hand_hold"), constant("hand_run")
    power = math.tau * friction.value * turns.value

    def end(mu: float, turn: float, grip: float) -> float:
        return math.hypot(
            math.tau * turns.value * (mu - friction.value),
            math.tau * friction.value * (turn - turns.value),
            math.log(grip / hand.value),
        )

    return Grip(
        loose=run.value * math.exp(power),
        closed=hand.value * math.exp(power),
        down=end(friction.low, turns.low, hand.low),
        up=end(friction.high, turns.high, hand.high),
    )


def _own_grip(pick: Pick) -> Grip:
    return grip_of(devices()[pick.device], pick, friction_of(pick))


def friction_of(pick: Pick) -> Estimate:
    """Friction of rope on a pick's device: the crew's own readings, else the table's [-]; docs/methods.md, friction
    (6).

    Parameters
    ----------
    pick : Pick
        How it is taken.
    """
    item = pick.gear.get("device")
    own = item.friction if item is not None else None
    return own or devices()[pick.device].friction


def catch_inputs(piece: Piece, pick: Pick, route: Route) -> dict[str, Estimate]:
    """Everything uncertain that a pick's peaks hang on, by name; docs/methods.md, takedown (9).

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    route : Route
        The rope's way.
    """
    rope = pick.gear.get("rope")
    stiff = rope.stiffness if rope is not None else stiffness_of("", None, None)
    inputs = {
        "weight": Estimate(0.0, -piece.joint.down, piece.joint.up, Kind.ESTIMATED),
        "balance": Estimate(0.0, -1.0, 1.0, Kind.ESTIMATED),
        "gyration": Estimate(0.0, -1.0, 1.0, Kind.ESTIMATED),
        "modulus": stiff.axial_stiffness,
        "damping": constant("rope_damping"),
        "tie": constant("tie_off"),
    }
    if pick.pretension <= 0.0:
        inputs["slack"] = constant("slack_left")
    if any(point.fork for point in route.over):
        inputs["bark"] = constant("bark_friction")
    if any(not point.fork for point in route.over):
        inputs["loss"] = constant("block_loss")
    if pick.held != "lock":
        grip = _own_grip(pick)
        inputs |= {"grip": Estimate(0.0, -grip.down, grip.up, Kind.ASSUMED), "stick": constant("stick")}
    if pick.held == "run":
        inputs["reacts"] = constant("hand_reacts")
    return inputs


def body_of(piece: Piece, x: Mapping[str, Column], count: int) -> Body:
    """A piece under moves of its mass, and of balance and gyration as far as they do not go with that; takedown (9).

    Parameters
    ----------
    piece : Piece
        The piece.
    x : mapping of Column
        ``weight``, ``balance``, ``gyration`` in half widths. [-]
    count : int
        Of values in a column.
    """
    one = np.ones(count)
    (m1, b1, g1), (_, b2, g2), (_, _, g3) = piece.joint.rows
    first, second, third = (np.asarray(x.get(name, 0.0)) * one for name in ("weight", "balance", "gyration"))
    middle = math.sqrt(piece.inertia / piece.mass.value)
    return Body(
        np.maximum(piece.mass.value + m1 * first, 0.05 * piece.mass.value),
        np.clip(piece.balance.value + b1 * first + b2 * second, 0.02 * piece.length, piece.reach),
        np.maximum(middle + g1 * first + g2 * second + g3 * third, 0.1 * middle),
    )


class _Rope(NamedTuple):
    """A rope under every move: where it is tied [m], its legs [m], what is passed on [-], its modulus [N], tensions
    at which it slides through the device by a loose and by a closed hand [N].
    """

    tie: Array
    legs: list[Array]
    tension_ratios: list[Array]
    axial_stiffness: Array
    slides: tuple[Array, Array]


def _rope(piece: Piece, pick: Pick, route: Route, body: Body, x: Mapping[str, Column]) -> _Rope:
    one = np.ones(len(body.mass))
    kept = kept_as_it_lies(pick)
    tie = body.balance if kept else np.clip(pick.tie + np.asarray(x.get("tie", 0.0)) * one, 0.0, piece.length)
    bark, loss = x.get("bark", constant("bark_friction").value), x.get("loss", 1.0)
    grip, factor = _own_grip(pick), np.exp(np.asarray(x.get("grip", 0.0)) * one)
    return _Rope(
        tie=tie,
        legs=_legs(piece, pick, route, tie, np.asarray(x.get("slack", 0.0)) * one),
        tension_ratios=[
            tension_ratio_of(p, turn, bark, loss) * one for p, turn in zip(route.over, route.turns, strict=True)
        ],
        axial_stiffness=np.asarray(x["modulus"]) * one,
        slides=(grip.loose * factor, grip.closed * factor),
    )


def by_schools(piece: Piece, pick: Pick, route: Route, body: Body, x: Mapping[str, Column]) -> Schools:
    """A pick's peaks in closed form for columns of what is uncertain; docs/methods.md, forces (1) to (5).

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    route : Route
        The rope's way.
    body : Body
        The piece under every move.
    x : mapping of Column
        Values for the names of ``catch_inputs``; those left out count as their central value. [SI]
    """
    rope, weight = _rope(piece, pick, route, body, x), body.mass * GRAVITY
    tension_ratio: Array = np.prod(rope.tension_ratios, axis=0)
    stiffness = rope.axial_stiffness / rope_in_play(rope.legs, rope.tension_ratios)
    above, apart = route.tie[2] - route.point[2], route.lengths[0]
    rise = np.where(body.balance > rope.tie, piece.slope, -piece.slope)
    fall = cg_fall(above, apart, np.abs(body.balance - rope.tie), rise, np.maximum(rope.legs[0] - apart, 0.0))
    ready = np.where(fall <= 0.0, np.minimum(pick.pretension, weight), 0.0)
    loose, closed = rope.slides
    ran = let_run(weight, fall, stiffness, (loose / tension_ratio, closed / tension_ratio), pick.run)
    return Schools(
        weight=weight,
        fall=np.asarray(fall),
        field=np.asarray(field_rule(weight, fall)),
        stretch=np.asarray(stretch_peak(weight, fall, stiffness)) - ready,
        let=np.asarray(ran.peak),
        run=np.asarray(ran.run),
        tension_ratio=tension_ratio,
        stiffness=np.asarray(stiffness),
    )


def caught(piece: Piece, pick: Pick, route: Route, body: Body, x: Mapping[str, Column]) -> Caught:
    """Move a piece on its rope for columns of what is uncertain, from every way it may part; docs/methods.md, motion.

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    route : Route
        The rope's way.
    body : Body
        The piece under every move.
    x : mapping of Column
        Values for the names of ``catch_inputs``; those left out count as their central value. [SI]
    """
    rows = _scene(piece, pick, route, body, x).rows(len(body.mass))
    return _worst([_from(rows, start) for start in starts_of(piece, pick)])


def followed(piece: Piece, pick: Pick, route: Route) -> Trace:
    """Follow a piece in time at the central values, from the way of parting that pulls most; docs/methods.md, motion.

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    route : Route
        The rope's way.
    """
    x: dict[str, Column] = {name: e.value for name, e in catch_inputs(piece, pick, route).items()}
    rows = _scene(piece, pick, route, body_of(piece, x, 1), x).rows(1)
    tables = [_from(rows, start) for start in starts_of(piece, pick)]
    return traced(max(tables, key=lambda table: float(moved(table).peak[0]))[0])


def _scene(piece: Piece, pick: Pick, route: Route, body: Body, x: Mapping[str, Column]) -> Scene:
    rope, count = _rope(piece, pick, route, body, x), len(body.mass)
    holds, slides = _by_hand(pick, rope.slides, np.asarray(x.get("stick", 1.0)) * np.ones(count))
    return Scene(
        mass=body.mass,
        inertia=body.mass * body.gyration**2,
        balance=body.balance,
        tie=rope.tie,
        length=piece.length,
        butt=_butt(piece, pick),
        way=piece.way,
        point=route.point,
        beyond=route.beyond,
        axial_stiffness=rope.axial_stiffness,
        damping=x.get("damping", constant("rope_damping").value),
        lengths=tuple(rope.legs),
        tension_ratios=tuple(rope.tension_ratios),
        tight=pick.pretension,
        holds=holds,
        slides=slides,
        let=pick.run if pick.held == "run" else np.inf,
        reaction=x.get("reacts", constant("hand_reacts").value),
        level=_level(piece, pick),
        slope=_slope(piece, pick),
        foot_arm=route.point,
        union_arm=(route.point[0], route.point[1], 0.3 * route.point[2]),
    )


def _from(scene: Array, start: Start) -> Array:
    """The same scenes, parting as this start has it."""
    rows = scene.copy()
    rows[:, WAY : WAY + 3], rows[:, PARTS] = start.way, start.parts
    return rows


def _worst(tables: list[Array]) -> Caught:
    """The worst of all starts for every move; a piece its rope holds on its hinge is the same from any later end."""
    first = moved(tables[0])
    found = [first]
    for table in tables[1:]:
        held = first.turned < tables[0][:, PARTS] - 1e-9
        later = Moved(*(v.copy() for v in first))
        if not held.all():
            for into, value in zip(later, moved(table[~held]), strict=True):
                into[~held] = value
        found.append(later)

    def worst(name: str) -> Array:
        return np.asarray(np.max([getattr(m, name) for m in found], axis=0))

    return Caught(
        peak=worst("peak"),
        lever=worst("lever"),
        device=worst("at_device"),
        size=np.asarray(np.max([np.sqrt((m.force**2).sum(axis=1)) for m in found], axis=0)),
        forces=np.stack([f for m in found for f in (m.force, m.foot_force, m.union_force)], axis=1),
        run=worst("run"),
        stops=np.asarray(np.min([m.stops for m in found], axis=0)),
        lowest=np.asarray(np.min([m.lowest for m in found], axis=0)),
        turned=worst("turned"),
        touch=_hardest(np.stack([m.touch for m in found])),
    )


def _hardest(touches: Array) -> Array:
    """Of all starts the touch that is hardest, for each move."""
    which = touches[:, :, 2].argmax(axis=0)
    return np.asarray(touches[which, np.arange(touches.shape[1])])


def _legs(piece: Piece, pick: Pick, route: Route, tie: Array, slack: Array) -> list[Array]:
    """Lengths of rope in the legs; the first goes with the place of the tie, slack with what nobody sees in a line."""
    if kept_as_it_lies(pick):
        first = np.full(len(tie), route.lengths[0])
    else:
        at = np.array(piece.butt) + np.outer(tie, piece.way)
        first = np.maximum(np.sqrt(((at - np.array(route.point)) ** 2).sum(axis=1)), SHORTEST)
    loose = np.maximum(pick.slack + slack, 0.0) if pick.pretension <= 0.0 else 0.0
    return [first + loose, *(np.full(len(tie), length) for length in route.lengths[1:])]


def _by_hand(pick: Pick, slides: tuple[Array, Array], stick: Array) -> tuple[tuple[Array, Array], tuple[Array, Array]]:
    """Tensions at which the device begins to slide, and slides, by a loose and by a closed hand; friction (5)."""
    if pick.held == "lock":
        hard = np.full(len(stick), HARD)
        return (hard, hard), (hard, hard)
    loose, closed = slides if pick.held == "run" else (slides[1], slides[1])
    return (loose * stick, closed * stick), (loose, closed)  # (5)


def starts_of(piece: Piece, pick: Pick) -> tuple[Start, ...]:
    """How a piece may lie when it parts: both ends of what its cut lets it turn; docs/methods.md, motion (8).

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    """
    slope = _slope(piece, pick)
    parts = pick.cut.parts(slope)
    if kept_as_it_lies(pick) or parts[1] <= 0.0:
        return (Start(piece.way, 0.0),)
    if pick.cut.type.on_hinge:
        most = max(slope - LOWEST, 0.0)
        return tuple(Start(piece.way, min(turned, most)) for turned in parts)
    return tuple(Start(way, 0.0) for way in (piece.way, *_turned(piece, pick, parts[1])))


def _turned(piece: Piece, pick: Pick, most: float) -> list[Place]:
    """A piece turned level by a side notch: towards where that faces, to either side where nobody said."""
    lies, level = math.atan2(piece.way[0], piece.way[1]), math.hypot(piece.way[0], piece.way[1])
    if pick.bearing is None:
        turns = [most, -most]
    else:
        way = math.remainder(pick.bearing - lies, math.tau)
        turns = [math.copysign(min(abs(way), most), way)]
    return [(level * math.sin(lies + t), level * math.cos(lies + t), piece.way[2]) for t in turns]


def _faces(piece: Piece, pick: Pick) -> float:
    """Bearing of the upright plane it turns in: as its notch faces where it stands upright, else as it lies [rad]."""
    if pick.goes is not None and piece.slope > constant("upright").value:
        return pick.goes
    return math.atan2(piece.way[0], piece.way[1])


def _level(piece: Piece, pick: Pick) -> tuple[float, float]:
    faces = _faces(piece, pick)
    return math.sin(faces), math.cos(faces)


def _slope(piece: Piece, pick: Pick) -> float:
    east, north = _level(piece, pick)
    return math.atan2(piece.way[2], piece.way[0] * east + piece.way[1] * north)


def _butt(piece: Piece, pick: Pick) -> Place:
    """Where its butt is; a bridle's head hangs above the balance, and the piece with it."""
    up = pick.head if pick.method == "bridle" and kept_as_it_lies(pick) else 0.0
    return piece.butt[0], piece.butt[1], piece.butt[2] + up


class Peaks(NamedTuple):
    """Rows of moves, the central one first: many by the schools, few by the motion."""

    schools: Schools
    motion: Caught


def caught_with_moves(piece: Piece, pick: Pick, route: Route, swing: bool = True) -> Peaks:
    """A pick's peaks with all uncertain figures moved together; docs/methods.md, takedown (9), intervals (3).

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    route : Route
        The rope's way.
    swing : bool
        False for the central values alone.
    """
    inputs = catch_inputs(piece, pick, route)
    if not swing:
        centre: dict[str, Column] = {name: e.value for name, e in inputs.items()}
        body = body_of(piece, centre, 1)
        return Peaks(by_schools(piece, pick, route, body, centre), caught(piece, pick, route, body, centre))
    many, rows = joint_moves(inputs, MANY)
    few, count = joint_moves(inputs)
    return Peaks(
        by_schools(piece, pick, route, body_of(piece, many, rows), many),
        caught(piece, pick, route, body_of(piece, few, count), few),
    )
