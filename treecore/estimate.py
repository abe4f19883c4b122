"""Estimates: a value, the interval it is believed to lie in, and how it is known.

Intervals are about 95 % (two standard deviations) unless a docstring says otherwise.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from treecore.errors import OutOfRange

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
        if not (math.isfinite(self.low) and math.isfinite(self.high) and self.low <= self.value <= self.high):
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


@dataclass(frozen=True, slots=True)
class Spread:
    """Interval ends of several results, and for each the input that widens it most."""

    values: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    widest: tuple[str, ...]


def spread(
    model: Callable[[dict[str, float]], Sequence[float]],
    inputs: dict[str, Estimate],
) -> Spread:
    """Carry input intervals through a model by moving one input at a time to each end of its interval.

    Swings upward and downward are summed in squares separately, so lopsided intervals stay lopsided. Inputs are taken
    as independent.

    Parameters
    ----------
    model : callable
        Takes the inputs by name [SI], returns results in a fixed order [SI].
    inputs : dict of Estimate
        By name.

    References
    ----------
    J. Kragten (1994), Analyst 119, 2161-2165: numerical propagation; docs/methods.md, intervals (1).
    """
    centre = {name: estimate.value for name, estimate in inputs.items()}
    base = tuple(model(centre))
    up, down, top = [0.0] * len(base), [0.0] * len(base), [("", 0.0)] * len(base)
    for name, estimate in inputs.items():
        if estimate.low == estimate.high:
            continue
        ends = [model({**centre, name: end}) for end in (estimate.low, estimate.high)]
        for i, (middle, one, other) in enumerate(zip(base, *ends, strict=True)):
            if one == middle == other:
                continue
            first, second = one - middle, other - middle
            rise = max(first, second, 0.0)
            fall = min(first, second, 0.0)
            up[i] += rise * rise
            down[i] += fall * fall
            if rise - fall > top[i][1]:
                top[i] = (name, rise - fall)
    return Spread(
        base,
        tuple(b - math.sqrt(d) for b, d in zip(base, down, strict=True)),
        tuple(b + math.sqrt(u) for b, u in zip(base, up, strict=True)),
        tuple(name for name, _ in top),
    )
