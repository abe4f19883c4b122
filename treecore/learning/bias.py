"""How far estimates were off, and what a yard's own records make of a published figure."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import chain
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import NotSolvable
from treecore.estimate import COVERAGE, Estimate, Kind
from treecore.rigging.friction import student

_AS_MANY = 4.0  # records the assumed scatter counts for beside the ones there are: own choice


class Bias(NamedTuple):
    """How a group of estimates was off: ``mean`` of the logarithm of estimate over actual, positive where it was
    over-read, ``spread`` its standard deviation, ``low`` and ``high`` of the mean as 95 %, ``inside`` the share of
    actuals within their intervals; all [-]. ``records`` of them.
    """

    mean: float
    spread: float
    low: float
    high: float
    inside: float
    records: int

    @property
    def over(self) -> float:
        """By what share it was over-read on the whole; negative where it was under-read [-]."""
        return math.expm1(self.mean)


class Pair(NamedTuple):
    """An estimate with its interval, and what it was; one unit."""

    value: float
    low: float
    high: float
    actual: float


def log_ratios(pairs: Sequence[Pair]) -> NDArray[np.float64]:
    """Return the logarithms of estimate over actual; docs/methods.md, learning (1).

    Parameters
    ----------
    pairs : sequence of Pair
        Above zero.

    Raises
    ------
    NotSolvable
        Where one is not above zero.
    """
    return _ratios(_table(pairs))


def _table(pairs: Sequence[Pair]) -> NDArray[np.float64]:
    """Value, low, high and actual, one row a pair."""
    return np.fromiter(chain.from_iterable(pairs), dtype=float, count=4 * len(pairs)).reshape(-1, 4)


def _ratios(table: NDArray[np.float64]) -> NDArray[np.float64]:
    if not bool((table[:, (0, 3)] > 0.0).all()):
        raise NotSolvable(what="record", why="an estimate or what it was is not above zero")
    found: NDArray[np.float64] = np.log(table[:, 0] / table[:, 3])
    return found


def bias_of(pairs: Sequence[Pair]) -> Bias | None:
    """Return how a group of estimates was off; None without records; docs/methods.md, learning (1).

    Parameters
    ----------
    pairs : sequence of Pair
        Estimates and what they were.

    References
    ----------
    Student's interval of a mean (any text on statistics); with one record it is not known.
    """
    if not pairs:
        return None
    table, count = _table(pairs), len(pairs)
    ratios = _ratios(table)
    mean = float(ratios.mean())
    spread = float(ratios.std(ddof=1)) if count > 1 else math.inf
    half = student(count - 1) * spread / math.sqrt(count) if count > 1 else math.inf
    inside = float(((table[:, 1] <= table[:, 3]) & (table[:, 3] <= table[:, 2])).mean())
    return Bias(mean, spread, mean - half, mean + half, inside, count)


class Learnt(NamedTuple):
    """What records make of a figure: the figure before and after, the mean and the standard deviation of the logarithm
    of what is to be multiplied in [-], the scatter of single records [-], and how many ``records``.
    """

    before: Estimate
    after: Estimate
    shift: float
    left: float
    scatter: float
    records: int


def learnt(published: Estimate, pairs: Sequence[Pair], alone: float, kind: Kind = Kind.ESTIMATED) -> Learnt:
    """Update a published figure by records of what is in proportion to it; docs/methods.md, learning (2), (3).

    Parameters
    ----------
    published : Estimate
        The prior: the figure and its interval. [SI]
    pairs : sequence of Pair
        Estimates made with the published figure, and what they were.
    alone : float
        Scatter of a single record for other reasons, as a standard deviation of the logarithm. [-]
    kind : Kind
        How the result is known.

    References
    ----------
    Normal prior and normal records with their variance pooled from an assumed one and the one found (Gelman et al.
    2013, Bayesian Data Analysis, 2.5 and 2.6), on logarithms.
    """
    prior = math.log(published.high / published.low) / (2.0 * COVERAGE)
    count = len(pairs)
    if count == 0 or prior == 0.0:
        return Learnt(published, published, 0.0, prior, alone, count)
    off = -log_ratios(pairs)  # what the figure is to be multiplied by, as a logarithm
    mean = float(off.mean())
    variance = (_AS_MANY * alone**2 + float(((off - mean) ** 2).sum())) / (_AS_MANY + count)  # (2)
    precision = 1.0 / prior**2 + count / variance
    shift, left = (count * mean / variance) / precision, 1.0 / math.sqrt(precision)  # (3)
    value = published.value * math.exp(shift)
    after = Estimate(value, value * math.exp(-COVERAGE * left), value * math.exp(COVERAGE * left), kind)
    return Learnt(published, after, shift, left, math.sqrt(variance), count)


class Offset(NamedTuple):
    """How a group of planned directions or numbers was off: ``mean`` and ``spread`` of actual − planned, one unit;
    ``records`` of them [-].
    """

    mean: float
    spread: float
    records: int


def offset_of(differences: Sequence[float]) -> Offset | None:
    """Return how far a group of plans was off on the whole; None without records; docs/methods.md, learning (4).

    Parameters
    ----------
    differences : sequence of float
        Actual − planned. [SI]
    """
    if not differences:
        return None
    table = np.array(differences, dtype=float)
    return Offset(float(table.mean()), float(table.std(ddof=1)) if len(table) > 1 else math.inf, len(table))


def by_tree(pairs: Sequence[Pair], trees: Sequence[int]) -> list[Pair]:
    """Return one pair a tree: its pieces share what its shape was off by, so they tell once; learning (2).

    Parameters
    ----------
    pairs : sequence of Pair
        Pieces: as modelled, and as weighed.
    trees : sequence of int
        Which tree each is of. [-]
    """
    found: dict[int, list[float]] = {}
    for pair, tree in zip(pairs, trees, strict=True):
        found.setdefault(tree, []).append(pair.actual / pair.value)
    means = [math.exp(sum(math.log(ratio) for ratio in ratios) / len(ratios)) for ratios in found.values()]
    return [Pair(1.0, 1.0, 1.0, mean) for mean in means]
