"""Estimate beside actual for one felling."""

from __future__ import annotations

import math
from dataclasses import dataclass

from treecore.errors import between
from treecore.estimate import COVERAGE, Estimate, Kind, exactly
from treecore.felling.inputs import FellingInput
from treecore.ranges import believed
from treecore.schools import constant


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What was measured after the fall: height [m], lay [rad], hinge left at both ends [m]; None where not measured."""

    height: float | None = None
    lay: float | None = None
    hinge_left: float | None = None
    hinge_right: float | None = None

    def __post_init__(self) -> None:
        """Refuse what no tree is."""
        if self.height is not None:
            believed("height", self.height, "tree_height")
        if self.lay is not None:
            believed("lay", self.lay, "bearing")
        for name in ("hinge_left", "hinge_right"):
            value = getattr(self, name)
            if value is not None:
                between(name, value, 0.0, 1.5, "a hinge is 0 to 1.5 m thick", "cut")


@dataclass(frozen=True, slots=True)
class Compared:
    """One quantity: estimate, what it was, and the difference actual − estimate (None where not measured)."""

    key: str
    label: str
    dimension: str
    estimate: Estimate
    actual: float | None
    difference: float | None
    inside: bool | None


def lay_difference(planned: float, actual: float) -> float:
    """How far the lay turned from the plan, positive clockwise, within half a turn [rad].

    Parameters
    ----------
    planned, actual : float
        Bearings. [rad]
    """
    return math.remainder(actual - planned, math.tau)


def outcome(plan: FellingInput, actual: Outcome) -> tuple[Compared, ...]:
    """Set a plan beside what happened.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    actual : Outcome
        What was measured.
    """
    scatter = COVERAGE * constant("aim_scatter").value
    lay = Estimate(plan.lay, plan.lay - scatter, plan.lay + scatter, Kind.ESTIMATED)
    hinge = exactly(plan.cuts.hinge)
    turn = None if actual.lay is None else lay_difference(plan.lay, actual.lay)
    return (
        plainly("height", "Height", "length", plan.tree.height, actual.height),
        Compared("lay", "Lay", "fine_angle", lay, actual.lay, turn, None if turn is None else abs(turn) <= scatter),
        plainly("hinge_left", "Hinge wood left, left end", "cut", hinge, actual.hinge_left),
        plainly("hinge_right", "Hinge wood left, right end", "cut", hinge, actual.hinge_right),
    )


def plainly(key: str, label: str, dimension: str, estimate: Estimate, actual: float | None) -> Compared:
    """Set one quantity's estimate beside what it was.

    Parameters
    ----------
    key, label, dimension : str
        Of the quantity.
    estimate : Estimate
        As it was planned; what was chosen has no interval to lie in.
    actual : float or None
        As it was. [SI]
    """
    if actual is None:
        return Compared(key, label, dimension, estimate, None, None, None)
    loose = estimate.low < estimate.high
    inside = estimate.low <= actual <= estimate.high if loose else None
    return Compared(key, label, dimension, estimate, actual, actual - estimate.value, inside)
