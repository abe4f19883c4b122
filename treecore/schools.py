"""Schools and constants: named tables with a range and a reason, never hidden defaults."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from treecore.errors import none_of
from treecore.estimate import Estimate, Kind
from treecore.tables import rows


@dataclass(frozen=True, slots=True)
class School:
    """One school of one choice: its usual value and believed range, SI of ``dimension``, and its reason."""

    choice: str
    key: str
    name: str
    low: float
    high: float
    usual: float
    dimension: str
    reason: str


@dataclass(frozen=True, slots=True)
class Constant:
    """A figure with its interval and source."""

    estimate: Estimate
    dimension: str
    source: str


@cache
def schools(choice: str) -> dict[str, School]:
    """Return the schools of a choice (notch, depth, thickness, backcut, zone, breast) by key."""
    return {
        row["key"]: School(
            choice,
            row["key"],
            row["name"],
            float(row["low"]),
            float(row["high"]),
            float(row["usual"]),
            row["dimension"],
            row["reason"],
        )
        for row in rows("schools", "choice")
        if row["choice"] == choice
    }


def school(choice: str, key: str) -> School:
    """Return one school.

    Parameters
    ----------
    choice, key : str
        Which choice, and which of its schools.

    Raises
    ------
    NotSolvable
        If there is no such school.
    """
    try:
        return schools(choice)[key]
    except KeyError:
        raise none_of(what=f"{choice}_school", given=key, known=schools(choice)) from None


@cache
def constants() -> dict[str, Constant]:
    """Return every constant by key."""
    return {
        row["key"]: Constant(
            Estimate(float(row["value"]), float(row["low"]), float(row["high"]), Kind.ASSUMED),
            row["dimension"],
            row["source"],
        )
        for row in rows("constants")
    }


def constant(key: str) -> Estimate:
    """Return the estimate of one constant."""
    return constants()[key].estimate
