"""What is believed of a quantity, from ``data/ranges.csv``: one range for one number, for core, database and forms."""

from __future__ import annotations

from functools import cache
from typing import NamedTuple

from treecore.errors import Column, all_between, between
from treecore.tables import rows


class Range(NamedTuple):
    """Ends a quantity is believed between [SI of ``dimension``], and why."""

    low: float
    high: float
    dimension: str
    why: str


@cache
def ranges() -> dict[str, Range]:
    """Return every range by key."""
    return {r["key"]: Range(float(r["low"]), float(r["high"]), r["dimension"], r["why"]) for r in rows("ranges")}


def ends(key: str) -> tuple[float, float]:
    """Return the ends of a range [SI].

    Parameters
    ----------
    key : str
        Of ``ranges``.
    """
    return ranges()[key][:2]


def believed(field: str, value: float, key: str) -> float:
    """Return a value that lies in its range.

    Parameters
    ----------
    field : str
        Name the error is given.
    value : float
        Quantity. [SI]
    key : str
        Of ``ranges``.

    Raises
    ------
    OutOfRange
        If it does not.
    """
    row = ranges()[key]
    return between(field, value, row.low, row.high, row.why, row.dimension)


def all_believed(field: str, column: Column, key: str) -> Column:
    """Return values that all lie in their range.

    Parameters
    ----------
    field : str
        Name the error is given.
    column : Column
        Quantities. [SI]
    key : str
        Of ``ranges``.

    Raises
    ------
    OutOfRange
        If one does not.
    """
    row = ranges()[key]
    return all_between(field, column, row.low, row.high, row.why, row.dimension)
