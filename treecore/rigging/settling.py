"""How a rope lies over its blocks and through its device at one moment: one law of tension for every leg.

Each leg is a spring with a damper beside it. At a block or fork it slips where friction no longer holds the difference
of the tensions, either way; through the device it slides once that holds no more. The slip is solved, not stepped: the
state of every place (stuck, slipping to the piece, slipping from it) is tried until all of them agree.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from treecore.compiled import compiled

Array = NDArray[np.float64]

# Columns of a rope while it moves, three legs each: natural lengths, ways [m], strain of the step before [-], tensions
# [N]; what two places pass on [-] and how the rope slips there; device; modulus [N]; rope that ran [m]; when the run
# was used up [s]; number of legs; natural lengths of the step before;
# ways beyond the first leg less the rope there was [m].
N, L, BEFORE, T = 0, 3, 6, 9
E, SLIPS, SLIDES = 12, 14, 16
EA, RUN, USED_UP, LEGS, OLD, REST = 17, 18, 19, 20, 21, 24
ROPE = 25
STUCK, TO_PIECE, FROM_PIECE = 0.0, 1.0, -1.0
_ENOUGH, _ALIKE = 40, 1e-9  # tries of the states; how near tensions come to what friction holds [-]
_AT_ONCE = 6  # tries in which all states may change; after them one at a time, so that they can't chase each other
_SMALL = 1e-3  # slip over a leg's length up to which two terms of its series are enough [-]


@compiled
def tension(rope: Array, leg: int, damper: float) -> float:
    """Tension of a leg by its stretch and how fast that grows [N], below nothing where it is slack; motion (5).

    Parameters
    ----------
    rope : array, shape (25,)
        The rope. [SI]
    leg : int
        0 beside the piece. [-]
    damper : float
        Lag of the damping over the step. [-]
    """
    strain = rope[L + leg] / rope[N + leg] - 1.0
    return float(rope[EA] * ((1.0 + damper) * strain - damper * rope[BEFORE + leg]))


@compiled
def natural(rope: Array, leg: int, damper: float, pulled: float) -> float:
    """Natural length with which a leg has a tension [m]: the inverse of ``tension``.

    Parameters
    ----------
    rope : array, shape (25,)
        The rope. [SI]
    leg : int
        0 beside the piece. [-]
    damper : float
        Lag of the damping over the step. [-]
    pulled : float
        The tension. [N]
    """
    more = pulled / rope[EA] + damper * rope[BEFORE + leg]
    return float(rope[L + leg] * (1.0 + damper) / (1.0 + damper + more))


@compiled
def _passed(rope: Array, place: int) -> float:
    """Tension beyond a place over that before it while the rope slips there."""
    return float(rope[E + place] if rope[SLIPS + place] > 0.0 else 1.0 / rope[E + place])


@compiled
def _shared(rope: Array, first: int, last: int, damper: float) -> None:
    """Share the rope of legs that slip into each other, so that their tensions differ by friction; motion (3)."""
    whole, pulled = 0.0, max(rope[T + first], 0.0)
    for leg in range(first, last + 1):
        whole += rope[N + leg]
    for _ in range(8):  # the lengths fall with the tension in a convex curve: Newton's steps go up to it
        off, slope, factor = -whole, 0.0, 1.0
        for leg in range(first, last + 1):
            long = natural(rope, leg, damper, factor * pulled)
            off += long
            slope += long * long * factor / (rope[L + leg] * (1.0 + damper))
            if leg < last:
                factor *= _passed(rope, leg)
        step = off * rope[EA] / slope
        pulled += step
        if abs(step) <= 1e-9 * abs(pulled) + 1e-9:
            break
    factor, left = 1.0, whole
    for leg in range(first, last + 1):
        rope[T + leg] = factor * max(pulled, 0.0)
        rope[N + leg] = natural(rope, leg, damper, rope[T + leg])
        left -= rope[N + leg]
        if leg < last:
            factor *= _passed(rope, leg)
    if pulled < 0.0:  # all of it is slack: what is left over stays where it comes from
        keeps = last if rope[SLIPS + last - 1] > 0.0 else first
        rope[N + keeps] += left


@compiled
def _laid_out(rope: Array, damper: float, slides: float) -> None:
    """Tensions and natural lengths for the states as they stand."""
    legs, first = int(rope[LEGS]), 0
    while first < legs:
        last = first
        while last < legs - 1 and rope[SLIPS + last] != STUCK:
            last += 1
        if last == legs - 1 and rope[SLIDES] > 0.0:  # the device passes what it slides at; motion (4)
            pulled = slides
            for leg in range(last, first - 1, -1):
                if leg < last:
                    pulled /= _passed(rope, leg)
                rope[T + leg], rope[N + leg] = pulled, natural(rope, leg, damper, pulled)
        elif first == last:
            rope[T + first] = tension(rope, first, damper)
        else:
            _shared(rope, first, last, damper)
        first = last + 1


@compiled
def _agrees(rope: Array, holds: float, tries: int) -> bool:
    """Whether every state agrees with its tensions and slip; those that do not are changed."""
    legs, moved, right = int(rope[LEGS]), 0.0, True
    for place in range(legs - 1):
        if not right and tries > _AT_ONCE:
            return False
        near, far, passes = rope[T + place], rope[T + place + 1], rope[E + place]
        moved += rope[N + place] - rope[OLD + place]
        if rope[SLIPS + place] == STUCK:
            if near > 0.0 and far < passes * near * (1.0 - _ALIKE):
                rope[SLIPS + place], right = TO_PIECE, False
            elif far > 0.0 and near < passes * far * (1.0 - _ALIKE):
                rope[SLIPS + place], right = FROM_PIECE, False
        elif rope[SLIPS + place] * moved < -1e-13:
            rope[SLIPS + place], right = STUCK, False
    moved += rope[N + legs - 1] - rope[OLD + legs - 1]
    if not right and tries > _AT_ONCE:
        return False
    if rope[SLIDES] > 0.0:
        if moved < -1e-13:
            rope[SLIDES], right = 0.0, False
    elif rope[T + legs - 1] > holds * (1.0 + _ALIKE):
        rope[SLIDES], right = 1.0, False
    return right


@compiled
def _joined(one: tuple[float, float], two: tuple[float, float], whole: float, passes: float) -> float:
    """Tension over modulus in the first of two legs that slip into each other: root of a quadratic; motion (3).

    Each leg is its way and its constant: it is ``way/(constant + tension)`` long; ``passes`` is the second's tension
    over the first's.
    """
    (near, c), (far, d) = one, two
    square, half = whole * passes, 0.5 * (whole * (d + passes * c) - near * passes - far)
    rest = whole * c * d - near * d - far * c
    root = math.sqrt(max(half * half - square * rest, 0.0))
    return -rest / (half + root) if half > 0.0 else (root - half) / square


@compiled
def _settle_two(rope: Array, damper: float, holds: float, slides: float) -> None:
    """The same for a rope over one place: each case has its closed form."""
    modulus, passes, more = rope[EA], rope[E], 1.0 + damper
    first, second = rope[N], rope[N + 1]
    way_1, way_2 = more * rope[L], more * rope[L + 1]
    c_1, c_2 = more + damper * rope[BEFORE], more + damper * rope[BEFORE + 1]
    near, far = way_1 / first - c_1, way_2 / second - c_2  # tensions over the modulus
    alone, whole, back = near, first + second, far < passes * near
    if (near > 0.0 or far > 0.0) and (back or near < passes * far):
        k_1, k_2 = (near + c_1) / first, (far + c_2) / second  # how tensions change with natural lengths
        soft = 1.0 / (passes * k_1 + k_2) if back else -1.0 / (passes * k_2 + k_1)
        slip = soft * (passes * near - far if back else passes * far - near)
        if abs(slip) < _SMALL * min(first, second) and near > k_1 * slip and far > -k_2 * slip:
            one = near - k_1 * slip * (1.0 - slip / first)
            two = far + k_2 * slip * (1.0 + slip / second)
            rest = soft * (passes * one - two if back else passes * two - one)
            near, far, slip = one - k_1 * rest, two + k_2 * rest, slip + rest
            near, far = (near, passes * near) if back else (passes * far, far)
            first, second = first + slip, second - slip
        else:
            ratio = passes if back else 1.0 / passes
            joint = _joined((way_1, c_1), (way_2, c_2), whole, ratio)
            if joint > 0.0:
                near, far = joint, ratio * joint
                first, second = way_1 / (c_1 + near), way_2 / (c_2 + far)
            else:  # all of it is slack: what is left over stays where it comes from
                near, far = 0.0, 0.0
                first = way_1 / c_1 if back else whole - way_2 / c_2
                second = whole - first
    limit = slides if rope[SLIDES] > 0.0 else holds
    rope[SLIDES] = 0.0
    if far * modulus > limit * (1.0 + _ALIKE):  # it slides at that: the first time at what it held; motion (4)
        far = limit / modulus
        near = min(max(alone, passes * far), far / passes)
        first = rope[N] if near == alone else way_1 / (c_1 + near)
        second = way_2 / (c_2 + far)
        rope[SLIDES] = 1.0
        rope[RUN] += first + second - whole
    rope[N], rope[N + 1] = first, second
    rope[T], rope[T + 1] = max(near, 0.0) * modulus, max(far, 0.0) * modulus
    share = 1.0 / more
    rope[BEFORE], rope[BEFORE + 1] = max((near + c_1) * share - 1.0, 0.0), max((far + c_2) * share - 1.0, 0.0)


@compiled
def settle(rope: Array, damper: float, holds: float, slides: float) -> None:
    """Let a rope answer to its ways: tensions, slip over its places and through its device; motion (3) to (5).

    Parameters
    ----------
    rope : array, shape (25,)
        The rope, with its ways as they now are; changed. [SI]
    damper : float
        Lag of the damping over the step. [-]
    holds, slides : float
        Tension the device holds at rest, and the one it slides at. [N]

    References
    ----------
    Coulomb friction as a complementarity problem (Stewart 2000, SIAM Review 42, 3-39), solved over its few states.
    """
    if rope[LEGS] < 3.0:
        _settle_two(rope, damper, holds, slides)
        return
    legs, whole = int(rope[LEGS]), 0.0
    for leg in range(legs):
        rope[OLD + leg] = rope[N + leg]
    limit = slides if rope[SLIDES] > 0.0 else holds
    for tries in range(_ENOUGH):
        _laid_out(rope, damper, limit)
        if _agrees(rope, limit, tries) or tries == _ENOUGH - 1:
            break
        for leg in range(legs):
            rope[N + leg] = rope[OLD + leg]
    for leg in range(legs):
        whole += rope[N + leg] - rope[OLD + leg]
        rope[BEFORE + leg] = max(rope[L + leg] / rope[N + leg] - 1.0, 0.0)
        rope[T + leg] = max(rope[T + leg], 0.0)
    if rope[SLIDES] > 0.0:
        rope[RUN] += whole


@compiled
def left_over(rope: Array) -> float:
    """How far the rope's way is longer than the rope [m]: above nothing where it is tight, on the whole.

    Parameters
    ----------
    rope : array, shape (25,)
        The rope, with its ways as they now are. [SI]
    """
    return float(rope[L] + rope[REST] - rope[RUN])
