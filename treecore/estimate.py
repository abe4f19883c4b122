"""Estimates: a value, the interval it is believed to lie in, and how it is known.

Intervals are about 95 % (two standard deviations) unless a docstring says otherwise.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from statistics import NormalDist
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column, OutOfRange

COVERAGE = 2.0  # standard deviations on each side of the value


class Kind(StrEnum):
    """How a number is known, from best to worst."""

    MEASURED = "measured"
    ESTIMATED = "estimated"
    ASSUMED = "assumed"


_RANK = {Kind.MEASURED: 0, Kind.ESTIMATED: 1, Kind.ASSUMED: 2}


@dataclass(frozen=True, slots=True)
class Estimate:
    """A value with its interval and kind; always finite, ``low <= value <= high``."""

    value: float
    low: float
    high: float
    kind: Kind

    def __post_init__(self) -> None:
        """Refuse anything not finite or out of order."""
        if not -math.inf < self.low <= self.value <= self.high < math.inf:
            msg = "estimate"
            raise OutOfRange(msg, self.value, self.low, self.high, "an estimate lies inside its own interval")

    @property
    def sd(self) -> float:
        """Standard deviation the interval stands for, in the value's unit."""
        return (self.high - self.low) / (2.0 * COVERAGE)


def exactly(value: float, kind: Kind = Kind.MEASURED) -> Estimate:
    """Return an estimate without spread: a choice of the planner, not a measurement.

    Parameters
    ----------
    value : float
        Quantity. [SI]
    kind : Kind
        How it is known.
    """
    return Estimate(value, value, value, kind)


def plus_minus(value: float, sd: float, kind: Kind) -> Estimate:
    """Return a symmetric estimate of two standard deviations each way.

    Parameters
    ----------
    value, sd : float
        Quantity and its standard deviation, one unit. [SI]
    kind : Kind
        How it is known.
    """
    return Estimate(value, value - COVERAGE * sd, value + COVERAGE * sd, kind)


def worst(kinds: Sequence[Kind]) -> Kind:
    """Return the least certain of several kinds: what a result made of them may claim.

    Parameters
    ----------
    kinds : sequence of Kind
        Kinds of everything that went in; a computed result is at best estimated.
    """
    return max((*kinds, Kind.ESTIMATED), key=_RANK.__getitem__)


def times(estimate: Estimate, factor: float) -> Estimate:
    """Return an estimate scaled by an exact factor.

    Parameters
    ----------
    estimate : Estimate
        Any.
    factor : float
        At or above zero. [-]
    """
    return Estimate(estimate.value * factor, estimate.low * factor, estimate.high * factor, estimate.kind)


def together(estimates: Iterable[Estimate], kind: Kind = Kind.ESTIMATED) -> Estimate:
    """Return the sum of estimates whose errors are taken to go together: their ends are added.

    Parameters
    ----------
    estimates : iterable of Estimate
        All of one unit.
    kind : Kind
        How the sum is known.
    """
    rows = list(estimates)
    return Estimate(sum(e.value for e in rows), sum(e.low for e in rows), sum(e.high for e in rows), kind)


def product(first: Estimate, second: Estimate) -> Estimate:
    """Return the product of two independent positive estimates, relative half widths summed in squares.

    Parameters
    ----------
    first, second : Estimate
        Both above zero.

    Raises
    ------
    OutOfRange
        If either value is not above zero.

    References
    ----------
    JCGM 100:2008 (GUM), 5.1.6: relative variances of a product add up; docs/methods.md, intervals (2).
    """
    for factor in (first, second):
        if factor.value <= 0.0:
            msg = "factor"
            raise OutOfRange(msg, factor.value, 0.0, math.inf, "a product of positive estimates")
    value = first.value * second.value
    down = math.hypot(1.0 - first.low / first.value, 1.0 - second.low / second.value)
    up = math.hypot(first.high / first.value - 1.0, second.high / second.value - 1.0)
    return Estimate(value, value * (1.0 - down), value * (1.0 + up), worst([first.kind, second.kind]))


class Spread(NamedTuple):
    """A result's central value, its interval's ends, and the input that widens it most; no name where none does."""

    value: float
    low: float
    high: float
    widest: str

    def estimate(self, kind: Kind = Kind.ESTIMATED) -> Estimate:
        """The result with its interval.

        Parameters
        ----------
        kind : Kind
            How it is known.
        """
        return Estimate(self.value, self.low, self.high, kind)

    def size(self, kind: Kind = Kind.ESTIMATED) -> Estimate:
        """The same of a size: its interval stops at nothing.

        Parameters
        ----------
        kind : Kind
            How it is known.
        """
        return Estimate(self.value, max(self.low, 0.0), self.high, kind)


def propagate(
    model: Callable[[dict[str, Column]], Mapping[str, Column]],
    inputs: dict[str, Estimate],
) -> dict[str, Spread]:
    """Carry input intervals through a model by moving one input at a time to each end of its interval.

    Swings upward and downward are summed in squares separately, so lopsided intervals stay lopsided. Inputs are taken
    as independent. All moves go through the model at once, as columns.

    Parameters
    ----------
    model : callable
        Takes a column for each input by name [SI], returns a column for each result by name [SI].
    inputs : dict of Estimate
        By name.

    References
    ----------
    J. Kragten (1994), Analyst 119, 2161-2165: numerical propagation; docs/methods.md, intervals (1).
    """
    loose = [name for name, estimate in inputs.items() if estimate.low != estimate.high]
    results = model(moves(inputs, loose))
    table = np.empty((2 * len(loose) + 1, len(results)))
    for i, column in enumerate(results.values()):
        table[:, i] = column
    base = table[0]
    fall, rise = swings(table)
    width = rise - fall
    widest = [loose[i] if top > 0.0 else "" for i, top in zip(width.argmax(axis=0), width.max(axis=0), strict=True)]
    low, high = base - root_sum(fall), base + root_sum(rise)
    rows = zip(results, base.tolist(), low.tolist(), high.tolist(), widest, strict=True)
    return {name: Spread(*row) for name, *row in rows}


def swings(table: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Fall and rise of results under each move, one row per input: none above, none below nothing.

    Parameters
    ----------
    table : array
        One row per move in the order of ``moves``, one column per result.

    References
    ----------
    docs/methods.md, intervals (1).
    """
    base, n = table[0], (len(table) - 1) // 2
    away = table[1:] - base
    low, high = away[:n], away[n:]
    return np.minimum(np.minimum(low, high), 0.0), np.maximum(np.maximum(low, high), 0.0)


def root_sum(rows: NDArray[np.float64]) -> NDArray[np.float64]:
    """Root of the summed squares of each column.

    Parameters
    ----------
    rows : array
        One row per input.
    """
    found: NDArray[np.float64] = np.sqrt(np.einsum("ij,ij->j", rows, rows))
    return found


def moves(inputs: dict[str, Estimate], loose: list[str]) -> dict[str, Column]:
    """Lay out the moves: first the central values, then each loose input at its low end, then each at its high.

    Parameters
    ----------
    inputs : dict of Estimate
        By name. [SI]
    loose : list of str
        Names of those to be moved; the others stay numbers.
    """
    columns: dict[str, Column] = {name: estimate.value for name, estimate in inputs.items()}
    block = np.empty((len(loose), 2 * len(loose) + 1))
    for i, name in enumerate(loose):
        estimate = inputs[name]
        column = block[i]
        column[:] = estimate.value
        column[1 + i], column[1 + len(loose) + i] = estimate.low, estimate.high
        columns[name] = column
    return columns


# Joint moves: few of what is dear, many of what is cheap; and the arrangement of the moves, the most even of thirty
# tried.
SAMPLES, MANY, _SEED = 36, 256, 18


@lru_cache(maxsize=64)
def _spread_out(count: int, samples: int) -> NDArray[np.float64]:
    """Standard normal places, rows of samples and columns of inputs: a Latin hypercube of pairs of opposite moves."""
    half, ranks = samples // 2, np.random.default_rng(_SEED)
    shares = (np.arange(half) + 0.5) / (2 * half)  # the lower half of each input's range, mirrored by the pairs
    places = np.array([NormalDist().inv_cdf(float(p)) for p in shares])
    columns = [ranks.permutation(places) * ranks.choice([-1.0, 1.0], half) for _ in range(count)]
    one = np.stack(columns, axis=1) if count else np.zeros((half, 0))
    return np.vstack([one, -one])


def joint_moves(inputs: dict[str, Estimate], samples: int = SAMPLES) -> tuple[dict[str, Column], int]:
    """Move all uncertain inputs together: the central values first, then fixed samples spread evenly over their
    intervals.

    For results that switch or bend so much that moves of one input at a time say too little. The samples are the
    same for every call, so that a result moves smoothly while a hand drags.

    Parameters
    ----------
    inputs : dict of Estimate
        By name; taken as normal to either side of their value. [SI]
    samples : int
        Of them; an even number.

    Returns
    -------
    tuple
        Columns by name, and how many rows they have.

    References
    ----------
    Latin hypercube sampling (McKay, Beckman & Conover 1979, Technometrics 21:239-245) of opposite pairs (Hammersley
    & Morton 1956, Proc. Camb. Phil. Soc. 52:449-475); docs/methods.md, intervals (3).
    """
    loose = [name for name, e in inputs.items() if e.low != e.high]
    places = _spread_out(len(loose), samples) / COVERAGE
    columns: dict[str, Column] = {name: e.value for name, e in inputs.items()}
    for i, name in enumerate(loose):
        e, z = inputs[name], places[:, i]
        moved = e.value + np.where(z > 0.0, z * (e.high - e.value), z * (e.value - e.low))
        columns[name] = np.concatenate([[e.value], moved])
    return columns, samples + 1


def reach(rows: NDArray[np.float64], kind: Kind = Kind.ESTIMATED) -> Estimate:
    """Interval of results under joint moves; with every branch they take in it.

    Parameters
    ----------
    rows : array, shape (moves,)
        The central value first. [SI]
    kind : Kind
        How it is known.

    References
    ----------
    The ends of n samples hold (n - 1)/(n + 1) of their like on average (order statistics): 95 % for 36. Of many
    samples, the places that leave out a fortieth on either side; docs/methods.md, intervals (3).
    """
    value = float(rows[0])
    if len(rows) > MANY:
        ordered = np.sort(rows[1:])
        low, high = np.interp(np.array([0.025, 0.975]) * (len(ordered) - 1), np.arange(len(ordered)), ordered).tolist()
    else:
        low, high = float(rows.min()), float(rows.max())
    return Estimate(value, min(low, value), max(high, value), kind)
