"""The queue of a day run thousands of times: the same rules as ``queueing``, event by event in one compiled loop."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from treecore.compiled import compiled

Array = NDArray[np.float64]

# What the climber is at, and what a piece on the ground is at.
BEFORE, TIE, CUT, NO_ROPE, NOT_CLEAR, NO_HAND, OFF = 0, 1, 2, 3, 4, 5, 6
ALOFT, DOWN, BACK, WAITS, DRAG, WAITS_CHIPPER, CHIP, GONE = 0, 1, 2, 3, 4, 5, 6, 7


def finishes(days: Array, ground: int) -> Array:
    """Return when each of many days is finished [s]; docs/methods.md, day (2).

    Parameters
    ----------
    days : array, days by picks by parts
        How long everything takes. [s]
    ground : int
        People on the ground. [-]
    """
    return _finishes(np.ascontiguousarray(days, dtype=np.float64), ground)


def warm() -> None:
    """Compile the loop."""
    finishes(np.ones((1, 2, 9)), 1)


@compiled
def _finishes(days: Array, ground: int) -> Array:
    ends = np.empty(days.shape[0])
    for d in range(days.shape[0]):
        ends[d] = _one(days[d], ground)
    return ends


HANDS, CHIPPERS, ASKED, AT, DOES = 0, 1, 2, 3, 4  # counters of a day: hands and chippers free, requests, climber


@compiled
def _one(times: Array, ground: int) -> float:
    n = times.shape[0]
    when, state, asked = np.full(n, np.inf), np.zeros(n, np.int64), np.zeros(n, np.int64)
    have = np.array([ground, 1, 0, 0, BEFORE])
    ready, end = times[0, 0], 0.0
    while True:
        i = int(np.argmin(when))
        if ready == np.inf and when[i] == np.inf:
            return end
        if ready <= when[i]:
            now = ready
            ready = _climbed(times, when, state, have, now)
        else:
            now, when[i] = when[i], np.inf
            _landed(times, when, state, asked, have, i, now)
        end = max(end, now)
        ready = min(ready, _goes_on(times, state, have, now))
        _given(times, when, state, asked, have, now)


@compiled
def _climbed(times: Array, when: Array, state: NDArray[np.int64], have: NDArray[np.int64], now: float) -> float:
    """The climber is done with a part; returns when the next is done, infinite while something is waited for."""
    at = have[AT]
    if have[DOES] == BEFORE:
        have[DOES] = NO_ROPE if times[at, 1] > 0.0 else NOT_CLEAR
    elif have[DOES] == TIE:
        have[DOES] = NOT_CLEAR
    else:  # sawn: it is the ground's now, and the next is prepared
        state[at], when[at] = DOWN, now + times[at, 3] + times[at, 4]
        have[AT] = at + 1
        have[DOES] = BEFORE if at + 1 < times.shape[0] else OFF
        if at + 1 < times.shape[0]:
            return float(now + times[at + 1, 0])
    return float(np.inf)


@compiled
def _landed(
    times: Array,
    when: Array,
    state: NDArray[np.int64],
    asked: NDArray[np.int64],
    have: NDArray[np.int64],
    i: int,
    now: float,
) -> None:
    """The ground is done with a part of a piece."""
    if state[i] == DOWN:
        state[i], when[i] = BACK, now + times[i, 5]
        return
    have[ASKED] += 1
    asked[i] = have[ASKED]
    if state[i] == BACK:
        state[i] = WAITS
        have[HANDS] += 1
    elif state[i] == DRAG and times[i, 7] > 0.0:
        state[i] = WAITS_CHIPPER
    else:
        have[CHIPPERS] += state[i] == CHIP
        have[HANDS] += 1
        state[i] = GONE


@compiled
def _goes_on(times: Array, state: NDArray[np.int64], have: NDArray[np.int64], now: float) -> float:
    """Let the climber go on where what was waited for is there; returns when that is done, infinite where it is not.
    The tree goes before the ground.
    """
    at = have[AT]
    if have[DOES] == NO_ROPE and (at == 0 or state[at - 1] > BACK):
        have[DOES] = TIE
        return float(now + times[at, 1])
    if have[DOES] == NOT_CLEAR and (at == 0 or state[at - 1] > DOWN):
        have[DOES] = NO_HAND
    if have[DOES] == NO_HAND and have[HANDS] > 0:
        have[HANDS] -= 1
        have[DOES] = CUT
        return float(now + times[at, 2])
    return float(np.inf)


@compiled
def _given(
    times: Array, when: Array, state: NDArray[np.int64], asked: NDArray[np.int64], have: NDArray[np.int64], now: float
) -> None:
    """Give free hands and the chipper to the pieces that have waited longest."""
    j = _first(state, asked, WAITS)
    while have[HANDS] > 0 and j >= 0:
        have[HANDS] -= 1
        state[j], when[j] = DRAG, now + times[j, 6] + times[j, 8]
        j = _first(state, asked, WAITS)
    j = _first(state, asked, WAITS_CHIPPER)
    if have[CHIPPERS] > 0 and j >= 0:
        have[CHIPPERS] -= 1
        state[j], when[j] = CHIP, now + times[j, 7]


@compiled
def _first(state: NDArray[np.int64], asked: NDArray[np.int64], waiting: int) -> int:
    """The piece that has waited longest; -1 where none waits."""
    best = -1
    for j in range(state.size):
        if state[j] == waiting and (best < 0 or asked[j] < asked[best]):
            best = j
    return best
