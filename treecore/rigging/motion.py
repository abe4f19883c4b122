"""The motion of a piece on its rope: turning on its hinge, falling, swinging and whipping until it hangs.

A rigid, slender piece is tied at one place of its axis to an elastic rope with damping. The rope runs over a block or
fork, maybe over a second place, to a device that holds or slips. Places are east, north, up from the stem's foot; the
piece is free to move in space, and stays in an upright plane where its point and its rope lie in that.
"""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.compiled import compiled
from treecore.errors import Column
from treecore.rigging import settling as r
from treecore.rigging.settling import ROPE, left_over, settle
from treecore.units import GRAVITY

Array = NDArray[np.float64]
Place = tuple[float, float, float]

# Columns of a scene, see ``Scene``; a vector takes as many as it has parts.
MASS, INERTIA, BALANCE, TIE = 0, 1, 2, 3
WAY, BUTT, POINT, BEYOND = 4, 7, 10, 13
AXIAL_STIFFNESS, DAMPING, LEG, SECOND, THIRD, TENSION_RATIO, SECOND_TENSION_RATIO, TIGHT = (
    16,
    17,
    18,
    19,
    20,
    21,
    22,
    23,
)
HOLDS, SLIDES, BRAKE_HOLDS, BRAKE_SLIDES, LET, REACTION = 24, 25, 26, 27, 28, 29
PARTS, LEVEL, SLOPE = 30, 31, 33
FOOT_ARM, UNION_ARM = 34, 37
LENGTH, SECONDS = 40, 41
WIDTH = 42
# Columns of a result, see ``Moved``.
PEAK, LEVER, CATCH, AT_DEVICE = 0, 1, 2, 3
FORCE, FOOT_FORCE, UNION_FORCE = 4, 7, 10
RUN_OUT, STOPS, LOWEST, GROUND_AT = 13, 14, 15, 16
PEAK_AT, PARTED, PARTED_AT, ENDED, TIGHT_AT, TOUCH = 17, 18, 19, 20, 21, 22
RESULTS = 25
TRACED = 12  # time, balance, way of the axis, tension at the piece and at the device, force on the point
_PHASE, _STUCK = 0.17, 0.45  # radians of the bounce in one step, with all the rope in play and with one leg alone
_SHORTEST, _LONGEST = 1e-4, 4.5e-3  # steps [s]
_SETTLED = 0.1  # a piece that can't exceed its weight by more than this share hangs [-]
_UPRIGHT, _PUSHED = 1.4, 0.15  # slope from which a piece is pushed over, and how far that is taken to be [rad]
_ON_HINGE = 3.0  # longest on its hinge [s]

# The piece's own: place and speed of its balance, way of its axis, spin.
_X, _V, _U, _W = 0, 3, 6, 9
# Of one moment: time, step, lag of the damping [s]; tension at piece and device, pull of the rope on the piece,
# force on the point; the greatest of that so far, by itself and by what it bends; way from tie to point.
_TIME, _STEP, _LAG, _AT_PIECE, _AT_DEVICE, _PULL, _PRESS, _BEST, _OFF = 0, 1, 2, 3, 4, 5, 8, 11, 14


@dataclass(frozen=True, slots=True, kw_only=True)
class Scene:
    """A piece on its rope as columns: one value for all, or one for each move. Places from the stem's foot [m].

    ``mass`` [kg] and ``inertia`` about a level axis through its balance [kg·m2]; ``balance`` and ``tie`` along it
    from its ``butt``, its ``length`` [m]; ``way`` the unit direction of its axis, butt to tip. ``point`` is where
    the rope goes over, ``beyond`` the unit direction in which it goes on from there. ``axial_stiffness`` EA of the
    rope [N], ``damping`` of its bounce over critical [-]; ``lengths`` of its legs, slack included [m];
    ``tension_ratios`` of block or fork and of a second place [-]; ``tight`` in the leg to the piece before the cut
    [N]. The device ``holds`` a tension and, once it slides, ``slides`` at another, first by a loose hand, then by a
    closed one [N]; ``let`` is the way the rope runs before the hand begins to close, ``reaction`` how long that
    takes [s]. ``parts`` is how far it turns on its hinge before that parts [rad], none for a cut that lets go at
    once; ``level`` the level unit direction of that turn and ``slope`` the way's angle above it [rad]. ``foot_arm``
    and ``union_arm`` go from where the stem and from where a limb is held to the point: for them the worst force is
    looked for.
    """

    mass: Column
    inertia: Column
    balance: Column
    tie: Column
    length: float
    butt: Place
    way: Place
    point: Place
    beyond: Place
    axial_stiffness: Column
    damping: Column
    lengths: tuple[Column, ...]
    tension_ratios: tuple[Column, ...]
    tight: float = 0.0
    holds: tuple[Column, Column] = (np.inf, np.inf)
    slides: tuple[Column, Column] = (np.inf, np.inf)
    let: Column = 0.0
    reaction: Column = 0.0
    parts: Column = 0.0
    level: tuple[float, float] = (1.0, 0.0)
    slope: float = 0.0
    foot_arm: Place = (0.0, 0.0, 0.0)
    union_arm: Place = (0.0, 0.0, 0.0)
    seconds: float = 4.0

    def rows(self, count: int) -> Array:
        """Lay the scene out for the compiled loop, one row a move.

        Parameters
        ----------
        count : int
            Of moves.
        """
        table = np.zeros((count, WIDTH))
        beyond = (*self.lengths[1:], 0.0)
        for place, value in (
            (MASS, self.mass),
            (INERTIA, self.inertia),
            (BALANCE, self.balance),
            (TIE, self.tie),
            (AXIAL_STIFFNESS, self.axial_stiffness),
            (DAMPING, self.damping),
            (LEG, self.lengths[0]),
            (SECOND, beyond[0]),
            (THIRD, beyond[1] if len(beyond) > 2 else 0.0),
            (TENSION_RATIO, self.tension_ratios[0]),
            (SECOND_TENSION_RATIO, self.tension_ratios[1] if len(self.tension_ratios) > 1 else 1.0),
            (TIGHT, self.tight),
            (HOLDS, self.holds[0]),
            (SLIDES, self.slides[0]),
            (BRAKE_HOLDS, self.holds[1]),
            (BRAKE_SLIDES, self.slides[1]),
            (LET, self.let),
            (REACTION, self.reaction),
            (PARTS, self.parts),
            (SLOPE, self.slope),
            (LENGTH, self.length),
            (SECONDS, self.seconds),
        ):
            table[:, place] = value
        for place, vector in (
            (WAY, self.way),
            (BUTT, self.butt),
            (POINT, self.point),
            (BEYOND, self.beyond),
            (LEVEL, self.level),
            (FOOT_ARM, self.foot_arm),
            (UNION_ARM, self.union_arm),
        ):
            table[:, place : place + len(vector)] = vector
        return table


class Moved(NamedTuple):
    """What came of the moves, one value each. Tensions in the leg to the piece and at the device [N]; forces on the
    point, east, north, up, where it is pressed most and where stem and limb bend most [N].

    ``lever`` is the greatest tension on the hinge, ``catch`` after it parted. ``run`` is the rope that went through
    the device [m]; ``stops`` whether the device holds at the end or still slides; ``lowest`` place of either
    end [m]; ``ground`` when it met that, below nothing where it did not, ``touch`` where, east and north [m], and how
    fast downward [m/s]; ``at`` when the peak came;
    ``turned`` how far it had turned on its hinge [rad] and ``parted`` when that let go; ``tight`` when the rope
    first came tight; ``ended`` when nothing more could come [s].
    """

    peak: Array
    lever: Array
    catch: Array
    at_device: Array
    force: Array
    foot_force: Array
    union_force: Array
    run: Array
    stops: Array
    lowest: Array
    ground: Array
    touch: Array
    at: Array
    turned: Array
    parted: Array
    ended: Array
    tight: Array


class Trace(NamedTuple):
    """A motion in time, one row a step: time [s], balance [m], way of the axis, tension at piece and device [N],
    force [N].
    """

    time: Array
    balance: Array
    way: Array
    tension: Array
    at_device: Array
    force: Array


_NO_TRACE = np.zeros((0, TRACED))
_WORTH_TWO = 16  # rows from which a second thread pays
_LONGEST_TRACE = 80_000


def moved(table: Array) -> Moved:
    """Move every row of a table of scenes in one compiled batch; docs/methods.md, motion (1) to (7).

    Parameters
    ----------
    table : array, shape (n, 42)
        As ``Scene.rows`` lays it out. [SI]

    References
    ----------
    Newton and Euler for a slender rigid body; the rope as springs in a row with Coulomb friction between them; velocity
    Verlet in time (Swope et al. 1982, J. Chem. Phys. 76:637-649).
    """
    found = np.empty((len(table), RESULTS))
    if len(table) < _WORTH_TWO:
        _batch(table, found, _NO_TRACE)
    else:  # the loop lets go of the interpreter, so both halves run at once
        half = len(table) // 2
        other = _helper().submit(_batch, table[half:], found[half:], _NO_TRACE)
        _batch(table[:half], found[:half], _NO_TRACE)
        other.result()
    return Moved(
        peak=found[:, PEAK],
        lever=found[:, LEVER],
        catch=found[:, CATCH],
        at_device=found[:, AT_DEVICE],
        force=found[:, FORCE : FORCE + 3],
        foot_force=found[:, FOOT_FORCE : FOOT_FORCE + 3],
        union_force=found[:, UNION_FORCE : UNION_FORCE + 3],
        run=found[:, RUN_OUT],
        stops=found[:, STOPS],
        lowest=found[:, LOWEST],
        ground=found[:, GROUND_AT],
        touch=found[:, TOUCH : TOUCH + 3],
        at=found[:, PEAK_AT],
        turned=found[:, PARTED],
        parted=found[:, PARTED_AT],
        ended=found[:, ENDED],
        tight=found[:, TIGHT_AT],
    )


@cache
def _helper() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=2, thread_name_prefix="motion")


def traced(row: Array) -> Trace:
    """Follow one scene in time.

    Parameters
    ----------
    row : array, shape (42,)
        One row of ``Scene.rows``. [SI]
    """
    trace, found = np.zeros((_LONGEST_TRACE, TRACED)), np.empty((1, RESULTS))
    filled = _batch(row[None, :], found, trace)
    kept = trace[:filled]
    return Trace(kept[:, 0], kept[:, 1:4], kept[:, 4:7], kept[:, 7], kept[:, 8], kept[:, 9:12])


@compiled
def _laid(scene: Array) -> Array:
    """The rope as it lies before the cut: ways, and natural lengths shortened by what it was pulled tight."""
    rope = np.zeros(ROPE)
    rope[r.LEGS] = 3.0 if scene[THIRD] > 0.0 else 2.0
    rope[r.EA], rope[r.E], rope[r.E + 1] = scene[AXIAL_STIFFNESS], scene[TENSION_RATIO], scene[SECOND_TENSION_RATIO]
    rope[r.L], rope[r.L + 1], rope[r.L + 2] = scene[LEG], scene[SECOND], scene[THIRD]
    rope[r.USED_UP] = -1.0
    pulled = scene[TIGHT]
    for leg in range(int(rope[r.LEGS])):
        if leg:
            pulled /= rope[r.E + leg - 1]  # pulled from below: the friction of the block is against the hand
        rope[r.N + leg] = rope[r.L + leg] / (1.0 + pulled / rope[r.EA])
        rope[r.BEFORE + leg] = pulled / rope[r.EA]
        rope[r.REST] += (rope[r.L + leg] if leg else 0.0) - rope[r.N + leg]
    return rope


@compiled
def _clock(scene: Array, rope: Array) -> Array:
    """A fresh moment: its step is a share of the quickest bounce of the piece on its leg; motion (6)."""
    beyond = scene[BALANCE] - scene[TIE]
    quick = 1.0 / (1.0 / scene[MASS] + beyond * beyond / scene[INERTIA])
    near = rope[r.N]
    play = near + rope[r.E] * (rope[r.N + 1] + rope[r.E + 1] * rope[r.N + 2])
    bounce = math.sqrt(rope[r.EA] / max(play, 0.3) / quick)
    stuck = math.sqrt(rope[r.EA] / max(near, 0.3) / quick)  # while friction holds the rest of the rope
    now = np.zeros(17)
    now[_STEP] = min(max(min(_PHASE / bounce, _STUCK / stuck), _SHORTEST), _LONGEST)
    now[_LAG] = 2.0 * scene[DAMPING] / bounce  # the damper pulls with this times the growth of the tension; motion (5)
    return now


@compiled
def _bends(scene: Array, arm: int, force: Array, at: int) -> float:
    """Size of a force squared, or of its moment at an arm squared where there is one."""
    x, y, z = force[at], force[at + 1], force[at + 2]
    if arm < 0:
        return float(x * x + y * y + z * z)
    a, b, c = scene[arm], scene[arm + 1], scene[arm + 2]
    mx, my, mz = b * z - c * y, c * x - a * z, a * y - b * x
    return float(mx * mx + my * my + mz * mz)


@compiled
def _record(scene: Array, now: Array, out: Array) -> None:
    """Keep the greatest of what is asked for: tensions, and the forces on the point that press and bend most."""
    if now[_AT_PIECE] > out[PEAK]:
        out[PEAK], out[PEAK_AT] = now[_AT_PIECE], now[_TIME]
    out[AT_DEVICE] = max(out[AT_DEVICE], now[_AT_DEVICE])
    if out[TIGHT_AT] < 0.0:
        out[TIGHT_AT] = now[_TIME]
    for best, into, arm in ((0, FORCE, -1), (1, FOOT_FORCE, FOOT_ARM), (2, UNION_FORCE, UNION_ARM)):
        size = _bends(scene, arm, now, _PRESS)
        if size > now[_BEST + best]:
            now[_BEST + best] = size
            for i in range(3):
                out[into + i] = now[_PRESS + i]


@compiled
def _reaches(scene: Array, rope: Array, piece: Array, now: Array) -> float:
    """Put the way from tie to point into the moment and the rope; how far that is beyond the rope [m]."""
    beyond = scene[BALANCE] - scene[TIE]
    dx = scene[POINT] - (piece[_X] - beyond * piece[_U])
    dy = scene[POINT + 1] - (piece[_X + 1] - beyond * piece[_U + 1])
    dz = scene[POINT + 2] - (piece[_X + 2] - beyond * piece[_U + 2])
    now[_OFF], now[_OFF + 1], now[_OFF + 2] = dx, dy, dz
    rope[r.L] = max(math.sqrt(dx * dx + dy * dy + dz * dz), 1e-6)
    return left_over(rope)


@compiled
def _closes(scene: Array, rope: Array) -> float:
    """When the hand at the device closes [s]."""
    return float(rope[r.USED_UP] + scene[REACTION])


@compiled
def _rope_pulls(scene: Array, rope: Array, now: Array, out: Array) -> None:
    """Let the rope answer to where its tie now is: slip, device, damping; motion (3) to (5)."""
    braking = rope[r.USED_UP] >= 0.0 and now[_TIME] - now[_STEP] >= _closes(scene, rope) - 1e-9
    holds, slides = (scene[BRAKE_HOLDS], scene[BRAKE_SLIDES]) if braking else (scene[HOLDS], scene[SLIDES])
    ran = rope[r.RUN]
    settle(rope, now[_LAG] / now[_STEP], holds, slides)
    if rope[r.USED_UP] < 0.0 and rope[r.RUN] > scene[LET]:
        over = (rope[r.RUN] - scene[LET]) / (rope[r.RUN] - ran)
        rope[r.USED_UP] = now[_TIME] - over * now[_STEP]
    now[_AT_PIECE], now[_AT_DEVICE] = rope[r.T], rope[r.T + int(rope[r.LEGS]) - 1]
    share = rope[r.T] / rope[r.L]
    for i in range(3):
        now[_PULL + i] = share * now[_OFF + i]
        now[_PRESS + i] = rope[r.T + 1] * scene[BEYOND + i] - now[_PULL + i]
    if now[_AT_PIECE] > 0.0:
        _record(scene, now, out)


@compiled
def _keep(trace: Array, row: int, piece: Array, now: Array) -> int:
    """Write one row of the trace where there is room; the next row."""
    if row >= trace.shape[0]:
        return row
    trace[row, 0] = now[_TIME]
    trace[row, 1:4] = piece[_X : _X + 3]
    trace[row, 4:7] = piece[_U : _U + 3]
    trace[row, 7], trace[row, 8] = now[_AT_PIECE], now[_AT_DEVICE]
    trace[row, 9:12] = now[_PRESS : _PRESS + 3]
    return row + 1


@compiled
def _lies(scene: Array, piece: Array, turned: float) -> None:
    """Put the piece where it is on its hinge after a turn further down."""
    level, up = math.cos(scene[SLOPE] - turned), math.sin(scene[SLOPE] - turned)
    piece[_U], piece[_U + 1], piece[_U + 2] = level * scene[LEVEL], level * scene[LEVEL + 1], up
    for i in range(3):
        piece[_X + i] = scene[BUTT + i] + scene[BALANCE] * piece[_U + i]


@compiled
def _about_hinge(scene: Array, now: Array, turned: float) -> float:
    """Moment of weight and rope that turns the piece further down on its hinge [N·m]."""
    level, up = math.cos(scene[SLOPE] - turned), math.sin(scene[SLOPE] - turned)
    down = up * (scene[LEVEL] * now[_PULL] + scene[LEVEL + 1] * now[_PULL + 1]) - level * now[_PULL + 2]
    return float(scene[MASS] * GRAVITY * scene[BALANCE] * level + scene[TIE] * down)


@compiled
def _held_at(scene: Array, rope: Array, piece: Array, now: Array, out: Array, turned: float) -> None:
    """Put the piece where it is after a turn on its hinge, and let its rope answer."""
    _lies(scene, piece, turned)
    _reaches(scene, rope, piece, now)
    _rope_pulls(scene, rope, now, out)


@compiled
def _rests(scene: Array, rope: Array, piece: Array, now: Array, out: Array, turned: float) -> float:
    """How far it is turned once it hangs still between hinge and rope, by halving; the rope is left as it then lies."""
    low, high, begun, kept, best = 0.0, turned, rope.copy(), out.copy(), now[_BEST : _BEST + 3].copy()
    lag, now[_LAG] = now[_LAG], 0.0  # at rest no damper pulls
    for _ in range(24):
        middle = 0.5 * (low + high)
        rope[:] = begun
        _held_at(scene, rope, piece, now, out, middle)
        if _about_hinge(scene, now, middle) > 0.0:
            low = middle
        else:
            high = middle
    out[:] = kept
    now[_BEST : _BEST + 3], now[_LAG] = best, lag
    return 0.5 * (low + high)


@compiled
def _leaves(scene: Array, piece: Array, turned: float, rate: float) -> None:
    """Speed and spin with which a piece leaves its hinge."""
    level, up = math.cos(scene[SLOPE] - turned), math.sin(scene[SLOPE] - turned)
    dx, dy, dz = up * scene[LEVEL] * rate, up * scene[LEVEL + 1] * rate, -level * rate
    piece[_V], piece[_V + 1], piece[_V + 2] = scene[BALANCE] * dx, scene[BALANCE] * dy, scene[BALANCE] * dz
    x, y, z = piece[_U], piece[_U + 1], piece[_U + 2]
    piece[_W], piece[_W + 1], piece[_W + 2] = y * dz - z * dy, z * dx - x * dz, x * dy - y * dx


@compiled
def _on_hinge(scene: Array, rope: Array, piece: Array, now: Array, out: Array, trace: Array) -> int:
    """Turn the piece about its butt until its hinge parts or its rope holds it there; motion (2). Rows of the trace."""
    about = scene[INERTIA] + scene[MASS] * scene[BALANCE] ** 2
    turned, rate, row, dt = 0.0, 0.0, 0, now[_STEP]
    if scene[SLOPE] > _UPRIGHT:  # it is over its balance already, with the speed it has there
        turned = min(_PUSHED, scene[PARTS])
        lost = math.sin(scene[SLOPE]) - math.sin(scene[SLOPE] - turned)
        rate = math.sqrt(max(2.0 * scene[MASS] * GRAVITY * scene[BALANCE] * lost, 0.0) / about)
    _held_at(scene, rope, piece, now, out, turned)
    row = _keep(trace, row, piece, now)
    while turned < scene[PARTS] and now[_TIME] < _ON_HINGE:
        gain = _about_hinge(scene, now, turned) / about
        left = scene[PARTS] - turned
        ends = rate * dt + 0.5 * gain * dt * dt >= left
        step = dt
        if ends:  # the last step goes just as far as the hinge does
            step = 2.0 * left / (rate + math.sqrt(max(rate * rate + 2.0 * gain * left, 0.0)))
        rate += 0.5 * gain * step
        turned = scene[PARTS] if ends else turned + rate * step
        now[_TIME], now[_STEP] = now[_TIME] + step, step
        _held_at(scene, rope, piece, now, out, turned)
        rate += 0.5 * _about_hinge(scene, now, turned) / about * step
        row = _keep(trace, row, piece, now)
        if rate < 0.0:  # the rope holds it; whoever cuts on parts it at rest
            turned, rate = _rests(scene, rope, piece, now, out, turned), 0.0
            break
    now[_STEP] = dt
    _lies(scene, piece, turned)
    _leaves(scene, piece, turned, rate)
    out[LEVER], out[PARTED], out[PARTED_AT] = out[PEAK], turned, now[_TIME]
    return row


@compiled
def _kick(scene: Array, piece: Array, now: Array, dt: float) -> None:
    """Change speed and spin by weight and rope over a time; motion (1)."""
    beyond, mass = scene[BALANCE] - scene[TIE], scene[MASS]
    x, y, z = piece[_U], piece[_U + 1], piece[_U + 2]
    fx, fy, fz = now[_PULL], now[_PULL + 1], now[_PULL + 2]
    share = dt / mass
    piece[_V] += fx * share
    piece[_V + 1] += fy * share
    piece[_V + 2] += fz * share - GRAVITY * dt
    turn = -beyond / scene[INERTIA] * dt  # the tie lies a way of −beyond from the balance
    piece[_W] += turn * (y * fz - z * fy)
    piece[_W + 1] += turn * (z * fx - x * fz)
    piece[_W + 2] += turn * (x * fy - y * fx)


@compiled
def _drift(piece: Array, dt: float) -> None:
    """Move the balance and turn the axis over a time."""
    wx, wy, wz = piece[_W], piece[_W + 1], piece[_W + 2]
    x, y, z = piece[_U], piece[_U + 1], piece[_U + 2]
    for i in range(3):
        piece[_X + i] += piece[_V + i] * dt
    turn = (wx * wx + wy * wy + wz * wz) * dt * dt
    c, s = 1.0 - turn / 2.0 + turn * turn / 24.0, dt * (1.0 - turn / 6.0)  # cosine and sine of a small turn
    x, y, z = x * c + (wy * z - wz * y) * s, y * c + (wz * x - wx * z) * s, z * c + (wx * y - wy * x) * s
    size = 1.0 / math.sqrt(x * x + y * y + z * z)
    piece[_U], piece[_U + 1], piece[_U + 2] = x * size, y * size, z * size


@compiled
def _hangs(scene: Array, rope: Array, piece: Array, now: Array) -> bool:
    """Whether what moves in it can no longer take the rope beyond a tenth over its weight; motion (7)."""
    if now[_AT_PIECE] <= 0.0 or rope[r.SLIDES] > 0.0:
        return False
    mass = scene[MASS]
    deepest = scene[POINT + 2] - rope[r.N] - abs(scene[BALANCE] - scene[TIE])
    energy = mass * GRAVITY * max(piece[_X + 2] - deepest, 0.0)
    for i in range(3):
        energy += 0.5 * mass * piece[_V + i] ** 2 + 0.5 * scene[INERTIA] * piece[_W + i] ** 2
    soft = rope[r.EA] / (rope[r.N] + rope[r.E] * rope[r.N + 1])
    return bool(2.0 * soft * energy < (_SETTLED * mass * GRAVITY) ** 2)


@compiled
def _moves(scene: Array, rope: Array, piece: Array, now: Array, step: float) -> float:
    """Half a kick and the way of one step; how far the rope's way is then beyond the rope [m]."""
    _kick(scene, piece, now, 0.5 * step)
    _drift(piece, step)
    return _reaches(scene, rope, piece, now)


@compiled
def _until_tight(
    scene: Array, rope: Array, piece: Array, now: Array, before: Array, ends: tuple[float, float]
) -> float:
    """Take a step back and go only as far as where the rope becomes tight or slack; its time [s]; motion (6)."""
    low, high = 0.0, now[_STEP]
    at_low, at_high = ends
    step = high
    for _ in range(8):
        step = low - at_low * (high - low) / (at_high - at_low)
        piece[:] = before
        here = _moves(scene, rope, piece, now, step)
        if abs(here) < 1e-10:
            break
        if (here > 0.0) == (at_low > 0.0):
            low, at_low = step, here
        else:
            high, at_high = step, here
    return float(step)


@compiled
def _touches(scene: Array, piece: Array, out: Array) -> None:
    """Where and how fast the lower end meets the ground."""
    arm = -scene[BALANCE] if piece[_U + 2] > 0.0 else scene[LENGTH] - scene[BALANCE]
    out[TOUCH], out[TOUCH + 1] = piece[_X] + arm * piece[_U], piece[_X + 1] + arm * piece[_U + 1]
    turns = piece[_W] * piece[_U + 1] - piece[_W + 1] * piece[_U]
    out[TOUCH + 2] = max(-(piece[_V + 2] + arm * turns), 0.0)


@compiled
def _free(scene: Array, rope: Array, piece: Array, now: Array, out: Array, trace: Array, row: int) -> int:
    """Let the piece move freely until it hangs, meets the ground, or its time is over; motion (1). Rows of the
    trace.
    """
    dt, end, count, on_hinge = now[_STEP], now[_TIME] + scene[SECONDS], 0, out[PEAK]
    out[PEAK], out[ENDED] = 0.0, -1.0
    top, before = scene[LENGTH] - scene[BALANCE], piece.copy()
    gap = _reaches(scene, rope, piece, now)
    _rope_pulls(scene, rope, now, out)
    gap, tight = left_over(rope), gap > 0.0
    while now[_TIME] < end:
        now[_STEP] = dt
        for i in range(12):
            before[i] = piece[i]
        if rope[r.USED_UP] >= 0.0 and 1e-9 < _closes(scene, rope) - now[_TIME] < dt:
            now[_STEP] = _closes(scene, rope) - now[_TIME]  # the hand closes between two steps
        then = _moves(scene, rope, piece, now, now[_STEP])
        if (then > 0.0) != tight:
            tight = not tight
            if then * gap < 0.0:
                now[_STEP] = _until_tight(scene, rope, piece, now, before, (gap, then))
        now[_TIME] += now[_STEP]
        _rope_pulls(scene, rope, now, out)
        gap = left_over(rope)
        _kick(scene, piece, now, 0.5 * now[_STEP])
        row = _keep(trace, row, piece, now)
        low = piece[_X + 2] + min(-scene[BALANCE] * piece[_U + 2], top * piece[_U + 2])
        out[LOWEST] = min(out[LOWEST], low)
        if low <= 0.0 and piece[_V + 2] < 0.0:
            out[GROUND_AT] = now[_TIME]
            _touches(scene, piece, out)
            break
        count += 1
        if count % 64 == 0 and _hangs(scene, rope, piece, now):
            break
    out[CATCH], out[PEAK], out[ENDED] = out[PEAK], max(out[PEAK], on_hinge), now[_TIME]
    return row


@compiled
def _one(scene: Array, out: Array, trace: Array) -> int:
    """Move one piece from before its cut until it hangs; rows of the trace that are filled."""
    out[:] = 0.0
    out[LOWEST], out[GROUND_AT], out[TIGHT_AT] = scene[BUTT + 2], -1.0, -1.0
    rope, piece, row = _laid(scene), np.zeros(12), 0
    now = _clock(scene, rope)
    for i in range(3):
        piece[_U + i] = scene[WAY + i]
        piece[_X + i] = scene[BUTT + i] + scene[BALANCE] * scene[WAY + i]
    if scene[PARTS] > 0.0:
        row = _on_hinge(scene, rope, piece, now, out, trace)
    row = _free(scene, rope, piece, now, out, trace, row)
    out[RUN_OUT] = rope[r.RUN]
    out[STOPS] = 0.0 if rope[r.SLIDES] > 0.0 else 1.0
    return row


@compiled
def _batch(scenes: Array, results: Array, trace: Array) -> int:
    """Move pieces one after the other; rows of the trace that the last one filled."""
    row = 0
    for i in range(scenes.shape[0]):
        row = _one(scenes[i], results[i], trace)
    return row


def warm() -> None:
    """Compile the loops for the first time; kept where there is a folder for it."""
    here = (0.0, 0.0, 8.0)
    scene = Scene(
        mass=50.0,
        inertia=60.0,
        balance=1.5,
        tie=0.5,
        length=4.0,
        butt=(0.2, 0.0, 6.0),
        way=(1.0, 0.0, 0.0),
        point=here,
        beyond=(0.0, 0.0, -1.0),
        axial_stiffness=2e5,
        damping=0.05,
        lengths=(2.2, 3.0, 4.0),
        tension_ratios=(0.9, 0.9),
        parts=0.5,
        seconds=0.05,
    )
    traced(scene.rows(1)[0])
