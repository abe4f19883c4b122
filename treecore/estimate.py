"""Estimates: a value, the interval it is believed to lie in, and how it is known.

Intervals are about 95 % (two standard deviations) unless a docstring says otherwise.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum

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
            raise OutOfRange("estimate", self.value, self.low, self.high, "an estimate lies inside its own interval")

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
            raise OutOfRange("factor", factor.value, 0.0, math.inf, "a product of positive estimates")
    value = first.value * second.value
    down = math.hypot(1.0 - first.low / first.value, 1.0 - second.low / second.value)
    up = math.hypot(first.high / first.value - 1.0, second.high / second.value - 1.0)
    return Estimate(value, value * (1.0 - down), value * (1.0 + up), worst([first.kind, second.kind]))


@dataclass(frozen=True, slots=True)
class Spread:
    """Interval ends of several results, and for each the input that widens it most."""

    values: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    widest: tuple[str, ...]


def spread(
    model: Callable[[dict[str, Column]], Sequence[Column]],
    inputs: dict[str, Estimate],
) -> Spread:
    """Carry input intervals through a model by moving one input at a time to each end of its interval.

    Swings upward and downward are summed in squares separately, so lopsided intervals stay lopsided. Inputs are taken
    as independent. All moves go through the model at once, as columns.

    Parameters
    ----------
    model : callable
        Takes a column for each input by name [SI], returns a column for each result in a fixed order [SI].
    inputs : dict of Estimate
        By name.

    References
    ----------
    J. Kragten (1994), Analyst 119, 2161-2165: numerical propagation; docs/methods.md, intervals (1).
    """
    loose = [name for name, estimate in inputs.items() if estimate.low != estimate.high]
    rows = 2 * len(loose) + 1
    results = model(moves(inputs, loose))
    table = np.empty((rows, len(results)))
    for i, column in enumerate(results):
        table[:, i] = column
    base = table[0]
    fall, rise = swings(table)
    width = rise - fall
    widest = [loose[i] if top > 0.0 else "" for i, top in zip(width.argmax(axis=0), width.max(axis=0), strict=True)]
    low, high = base - root_sum(fall), base + root_sum(rise)
    return Spread(tuple(base.tolist()), tuple(low.tolist()), tuple(high.tolist()), tuple(widest))


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
