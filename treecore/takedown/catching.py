"""A pick's peaks under every move of what is uncertain: by the schools in closed form, and by the motion itself."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column
from treecore.estimate import Estimate, Kind, moves, root_sum, swings
from treecore.rigging.forces import cg_fall, field_rule, let_run, rope_in_play, stretch_peak
from treecore.rigging.friction import Device, devices
from treecore.rigging.motion import Moved, Scene, moved
from treecore.rigging.rope import stiffness_of
from treecore.schools import constant
from treecore.takedown.pick import Pick, cut_types, kept_as_it_lies
from treecore.takedown.pieces import Piece
from treecore.takedown.route import SHORTEST, Route, passed_on
from treecore.units import GRAVITY

Array = NDArray[np.float64]
Place = tuple[float, float, float]
HARD = 1e12  # a device that is locked holds any tension [N]
LOWEST = math.radians(-85.0)  # a piece on its hinge hangs no steeper [rad]


class Start(NamedTuple):
    """How a piece lies when it begins: way of its axis, how far its hinge lets it turn down [rad]."""

    way: Place
    parts: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Caught:
    """Columns of a pick's peaks, one row a move. Tensions in the leg to the piece [N], at the device [N]; the worst start counts.

    ``forces`` on the point are (moves, 3 per start, 3); ``run`` rope through the device [m], ``stops`` 1 where it comes to rest,
    ``by_run`` the run by the closed form [m]; ``passed`` shares that reach the device [-], ``stiffness`` in play [N/m].
    """

    weight: Array
    fall: Array
    field: Array
    stretch: Array
    let: Array
    by_run: Array
    peak: Array
    lever: Array
    device: Array
    size: Array
    forces: Array
    run: Array
    stops: Array
    lowest: Array
    passed: Array
    stiffness: Array
    turned: Array


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """How a device holds: tension at which it slides by a loose and by a closed hand [N], in logarithms how far off [-]."""

    loose: float
    closed: float
    down: float
    up: float


def grip_of(device: Device, pick: Pick, friction: Estimate) -> Held:
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

    return Held(
        loose=run.value * math.exp(power),
        closed=hand.value * math.exp(power),
        down=end(friction.low, turns.low, hand.low),
        up=end(friction.high, turns.high, hand.high),
    )


def friction_of(pick: Pick) -> Estimate:
    """Friction of rope on a pick's device: the crew's own readings, else the table's [-]; docs/methods.md, friction (6).

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
        "modulus": stiff.modulus,
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
        grip = grip_of(devices()[pick.device], pick, friction_of(pick))
        inputs |= {"grip": Estimate(0.0, -grip.down, grip.up, Kind.ASSUMED), "stick": constant("stick")}
    if pick.held == "run":
        inputs["reacts"] = constant("hand_reacts")
    return inputs


def caught(piece: Piece, pick: Pick, route: Route, x: Mapping[str, Column], count: int) -> Caught:
    """Work a pick's peaks out for columns of what is uncertain; docs/methods.md, forces (1) to (5), motion.

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    route : Route
        The rope's way.
    x : mapping of Column
        Values for the names of ``catch_inputs``; others count as their central value. [SI]
    count : int
        Of values in a column.

    References
    ----------
    docs/methods.md, forces, motion.
    """
    one = np.ones(count)
    kept = kept_as_it_lies(pick)
    (m1, b1, g1), (_, b2, g2), (_, _, g3) = piece.joint.rows
    first, second, third = (np.asarray(x.get(name, 0.0)) * one for name in ("weight", "balance", "gyration"))
    mass = np.maximum(piece.mass.value + m1 * first, 0.05 * piece.mass.value)
    balance = np.clip(piece.balance.value + b1 * first + b2 * second, 0.02 * piece.length, piece.reach)
    middle = math.sqrt(piece.inertia / piece.mass.value)
    gyration = np.maximum(middle + g1 * first + g2 * second + g3 * third, 0.1 * middle)
    tie = balance if kept else np.clip(pick.tie + np.asarray(x.get("tie", 0.0)) * one, 0.0, piece.length)
    legs = _legs(piece, pick, route, tie, np.asarray(x.get("slack", 0.0)) * one)
    passes = [
        passed_on(p, turn, x.get("bark", constant("bark_friction").value), x.get("loss", 1.0)) * one
        for p, turn in zip(route.over, route.turns, strict=True)
    ]
    modulus, weight, passed = np.asarray(x["modulus"]) * one, mass * GRAVITY, np.prod(passes, axis=0)
    stiffness = modulus / rope_in_play(legs, passes)
    fall = _falls(piece, route, legs[0], np.abs(balance - tie), balance > tie)
    grip = grip_of(devices()[pick.device], pick, friction_of(pick))
    slides = [v * np.exp(np.asarray(x.get("grip", 0.0)) * one) for v in (grip.loose, grip.closed)]
    ran = let_run(weight, fall, stiffness, (slides[0] / passed, slides[1] / passed), pick.run)
    ready = np.where(fall <= 0.0, np.minimum(pick.pretension, weight), 0.0)
    holds, slides = _by_hand(pick, slides, np.asarray(x.get("stick", 1.0)) * one, one)
    starts = starts_of(piece, pick)
    scenes = [
        Scene(
            mass=mass, inertia=mass * gyration**2, balance=balance, tie=tie, length=piece.length, butt=_butt(piece, pick),
            way=start.way, point=route.point, beyond=route.beyond, modulus=modulus, damping=x.get("damping", constant("rope_damping").value),
            lengths=tuple(legs), passes=tuple(passes), tight=pick.pretension, holds=holds, slides=slides,
            let=pick.run if pick.held == "run" else 1e9, reaction=x.get("reacts", constant("hand_reacts").value),
            parts=start.parts, level=_level(piece, pick), slope=_slope(piece, pick),
            foot_arm=route.point, union_arm=(route.point[0], route.point[1], 0.3 * route.point[2]),
        ).rows(count)
        for start in starts
    ]  # fmt: skip
    done = moved(np.concatenate(scenes))
    return _gathered(done, len(starts), count, weight, fall, ready, ran.peak, ran.run, stiffness, passed, slides)


def _gathered(done: Moved, starts: int, count: int, weight: Array, fall: Array, ready: Array, let: Array, by_run: Array,
              stiffness: Array, passed: Array, slides: tuple[Array, Array]) -> Caught:  # fmt: skip
    """The worst of all starts for every move."""

    def worst(values: Array) -> Array:
        found: Array = values.reshape(starts, count).max(axis=0)
        return found

    stack = np.stack([done.force, done.foot_force, done.union_force], axis=1).reshape(starts, count, 3, 3)
    forces = stack.transpose(1, 0, 2, 3).reshape(count, starts * 3, 3)
    return Caught(
        weight=weight,
        fall=fall,
        field=np.asarray(field_rule(weight, fall)),
        stretch=np.asarray(stretch_peak(weight, fall, stiffness)) - ready,
        let=np.asarray(let),
        by_run=np.asarray(by_run),
        peak=worst(done.peak),
        lever=worst(done.lever),
        device=worst(done.at_device),
        size=worst(np.sqrt((done.force**2).sum(axis=1))),
        forces=forces,
        run=worst(done.run),
        stops=-worst(-done.stops),
        lowest=-worst(-done.lowest),
        passed=passed,
        stiffness=np.asarray(stiffness),
        turned=worst(done.turned),
    )


def _legs(piece: Piece, pick: Pick, route: Route, tie: Array, slack: Array) -> list[Array]:
    """Lengths of rope in the legs; the first goes with the place of the tie, slack with what nobody sees in a line."""
    if kept_as_it_lies(pick):
        first = np.full(len(tie), route.lengths[0])
    else:
        at = np.array(piece.butt) + np.outer(tie, piece.way)
        first = np.maximum(np.sqrt(((at - np.array(route.point)) ** 2).sum(axis=1)), SHORTEST)
    loose = np.maximum(pick.slack + slack, 0.0) if pick.pretension <= 0.0 else 0.0
    return [first + loose, *(np.full(len(tie), length) for length in route.lengths[1:])]


def _falls(piece: Piece, route: Route, leg: Array, beyond: Array, outward: NDArray[np.bool_]) -> Array:
    """Most that the balance may fall, under every move; forces (1)."""
    above, apart = route.tie[2] - route.point[2], route.lengths[0]
    rise = np.where(outward, piece.slope, -piece.slope)
    slack = np.maximum(leg - apart, 0.0)
    return np.array([
        cg_fall(above, apart, float(c), float(r), float(s)) for c, r, s in zip(beyond, rise, slack, strict=True)
    ])  # fmt: skip


def _by_hand(pick: Pick, slides: list[Array], stick: Array, one: Array) -> tuple[tuple[Array, Array], tuple[Array, Array]]:
    """Tensions at which the device begins to slide, and slides, by a loose and by a closed hand; friction (5)."""
    if pick.held == "lock":
        return (HARD * one, HARD * one), (HARD * one, HARD * one)
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
    cut = cut_types()[pick.cut_type]
    if kept_as_it_lies(pick) or cut.parts[1] <= 0.0:
        return (Start(piece.way, 0.0),)
    if cut.on_hinge:
        most = max(_slope(piece, pick) - LOWEST, 0.0)
        return tuple(Start(piece.way, min(parts, most)) for parts in cut.parts)
    return tuple(Start(way, 0.0) for way in (piece.way, *_turned(piece, pick, cut.parts[1])))


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
    if pick.bearing is not None and piece.slope > constant("upright").value:
        return pick.bearing
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


class Ends(NamedTuple):
    """Rows of moves as intervals."""

    table: Caught
    inputs: dict[str, Estimate]


def caught_with_moves(piece: Piece, pick: Pick, route: Route, swing: bool = True) -> Ends:
    """A pick's peaks with each uncertain figure moved to its ends; the first row is central; docs/methods.md, takedown (9).

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

    References
    ----------
    Kragten 1994.
    """
    inputs = catch_inputs(piece, pick, route)
    loose = [name for name, e in inputs.items() if e.low != e.high] if swing else []
    x = moves(inputs, loose)
    return Ends(caught(piece, pick, route, x, 2 * len(loose) + 1), inputs)


def interval(rows: Array, kind: Kind = Kind.ESTIMATED) -> Estimate:
    """An interval of rows of moves: swings of each input summed in squares, no narrower than any of them.

    Parameters
    ----------
    rows : array, shape (moves,)
        First the central value, then each input's low ends, then their high ends.
    kind : Kind
        How it is known.
    """
    fall, rise = swings(rows[:, None])
    value = float(rows[0])
    low, high = value - float(root_sum(fall)[0]), value + float(root_sum(rise)[0])
    return Estimate(value, max(low, 0.0) if value >= 0.0 else low, high, kind)
