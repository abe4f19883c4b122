"""What a way of taking a tree down costs at a yard's own rates."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from treecore.errors import between
from treecore.estimate import Estimate, Kind, exactly, times, together

HOUR = 3600.0


class Rates(NamedTuple):
    """A yard's rates in its own money: an hour of a person, of the chipper, of a machine; a day of a crane or lift;
    a tonne of chip or wood tipped; what making good comes to.
    """

    person: float = 45.0
    chipper: float = 30.0
    machine: float = 80.0
    crane_day: float = 900.0
    lift_day: float = 250.0
    tipping: float = 35.0
    making_good: float = 0.0


class Cost(NamedTuple):
    """One line of a cost: what for, how much of it, its rate, and what that comes to."""

    what: str
    amount: Estimate
    rate: float

    @property
    def comes_to(self) -> Estimate:
        """Amount times rate."""
        return times(self.amount, self.rate)


def costs(
    finish: Estimate, people: int, mass: Estimate, rates: Rates, hired: Mapping[str, float] | None = None
) -> tuple[Cost, ...]:
    """Return what a tree's work costs, line by line; docs/methods.md, day (5).

    Parameters
    ----------
    finish : Estimate
        How long the crew is there. [s]
    people : int
        In the crew, the climber too. [-]
    mass : Estimate
        Of what is taken away. [kg]
    rates : Rates
        The yard's.
    hired : mapping of str to float
        Of what is hired: machine hours, crane and lift days. [h], [d]

    Raises
    ------
    OutOfRange
        On a negative rate.
    """
    for name, rate in zip(Rates._fields, rates, strict=True):
        between(name, rate, 0.0, 1e6, "rates are not below nothing")
    hours = times(finish, 1.0 / HOUR)
    lines = [
        Cost("crew", times(hours, people), rates.person),
        Cost("chipper", hours, rates.chipper),
        Cost("tipping", times(mass, 1e-3), rates.tipping),
        Cost("making_good", exactly(1.0), rates.making_good),
    ]
    rate_of = {"machine": rates.machine, "crane": rates.crane_day, "lift": rates.lift_day}
    lines += [Cost(what, exactly(amount), rate_of[what]) for what, amount in (hired or {}).items()]
    return tuple(line for line in lines if line.rate > 0.0 and line.amount.high > 0.0)


def total(lines: tuple[Cost, ...]) -> Estimate:
    """Return the sum of a cost's lines; their errors are taken to go together.

    Parameters
    ----------
    lines : tuple of Cost
        The lines.
    """
    return together(line.comes_to for line in lines)


def asked(paid: Estimate, income: Estimate, more: float, margin: float) -> Estimate:
    """Return what a client is asked for: costs less what the wood brings, and more, with a margin; docs/methods.md, day
    (11).

    Parameters
    ----------
    paid, income : Estimate
        What it costs, and what logs and chip bring. [money]
    more : float
        What else is charged. [money]
    margin : float
        On top, as a share. [-]
    """
    ends = [max(cost - brings, 0.0) for cost, brings in zip(_ends(paid), reversed(_ends(income)), strict=True)]
    value = max(paid.value - income.value, 0.0)
    low, high = min(ends[0], value), max(ends[1], value)
    return times(Estimate(value + more, low + more, high + more, Kind.ESTIMATED), 1.0 + margin)


def _ends(e: Estimate) -> list[float]:
    return [e.low, e.high]
