"""How long each kind of work takes: the table of unit times, and what a yard's own records make of it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache

from treecore.estimate import Estimate, Kind
from treecore.tables import rows

DENSITY = 800.0  # green density the sawing time is given for [kg/m3]
THROAT = 0.15  # throat of the chipper the chipping time is given for [m]


@dataclass(frozen=True, slots=True)
class Activity:
    """A kind of work: who does it, what its time is per, and that time [s]."""

    key: str
    name: str
    who: str
    per: str
    time: Estimate
    source: str

    @property
    def spread(self) -> float:
        """Standard deviation of the logarithm of its time: the interval holds 95 % [-]."""
        return math.log(self.time.high / self.time.low) / (2.0 * 1.96)


@cache
def activities() -> dict[str, Activity]:
    """Return every kind of work by key."""
    return {
        row["key"]: Activity(
            row["key"],
            row["name"],
            row["who"],
            row["per"],
            Estimate(float(row["value"]), float(row["low"]), float(row["high"]), Kind.ASSUMED),
            row["source"],
        )
        for row in rows("times")
    }


@dataclass(frozen=True, slots=True)
class Task:
    """Some of one kind of work: how much of it, in what it is per; ``hard`` multiplies its time."""

    key: str
    amount: float
    hard: float = 1.0

    @property
    def activity(self) -> Activity:
        """What kind of work it is."""
        return activities()[self.key]

    def seconds(self, factors: Mapping[str, float] | None = None) -> float:
        """How long it takes by the table, times what the yard's records make of its kind [s].

        Parameters
        ----------
        factors : mapping of str to float
            The yard's own time over the table's, by kind of work; 1 where it is not there. [-]
        """
        return self.amount * self.hard * self.activity.time.value * (factors or {}).get(self.key, 1.0)


def disc(diameter: float) -> float:
    """Area a saw goes through across a stem.

    Parameters
    ----------
    diameter : float
        Of the stem. [m]
    """
    return math.pi / 4.0 * diameter * diameter
