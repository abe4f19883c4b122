"""Errors the core raises, and the guards that raise them."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from types import MappingProxyType
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from treecore.units import SI_UNITS

Column: TypeAlias = float | NDArray[np.float64]  # one value, or one for each move of ``treecore.estimate.propagate``


class CoreError(ValueError):
    """Any refusal of the core; ``field`` names the quantity that caused it, ``why`` the reason in words.

    ``pattern`` is the reason with names in braces for what ``said`` fills in, for another language.
    """

    field: str = ""
    why: str = ""
    pattern: str = ""
    said: Mapping[str, object] = MappingProxyType({})


class OutOfRange(CoreError):
    """A quantity lies outside the range the core believes.

    Parameters
    ----------
    field : str
        Name of the quantity, as in the plan document without its unit.
    value : object
        What was given, SI.
    low, high : float
        Allowed range, SI; an infinite end means unbounded.
    why : str
        Reason for the range, in words for a person.
    dimension : str
        Key of ``treecore.units`` by which the range is shown.
    """

    def __init__(self, field: str, value: object, low: float, high: float, why: str = "", dimension: str = "") -> None:
        self.field, self.value, self.low, self.high = field, value, low, high
        self.why = self.pattern = why
        self.dimension = dimension
        unit = SI_UNITS.get(dimension, "")
        reason = f" ({why})" if why else ""
        super().__init__(
            f"{field}: {value} {unit} is outside {low:g} to {high:g} {unit}".replace("  ", " ").rstrip() + reason
        )


class NotSolvable(CoreError):
    """The question has no answer for these inputs.

    Parameters
    ----------
    what : str
        Field or question that can't be answered.
    why : str
        Reason in words for a person, with names in braces for what is filled in.
    said : object
        What that is, by its name.
    """

    def __init__(self, what: str, why: str, **said: object) -> None:
        self.field, self.pattern, self.said = what, why, said
        self.why = why.format(**said) if said else why
        super().__init__(f"{what}: {self.why}")


class BadDocument(CoreError):
    """A plan document does not follow its schema.

    Parameters
    ----------
    field : str
        Path of the offending entry.
    why : str
        What is wrong with it, with names in braces for what is filled in.
    said : object
        What that is, by its name.
    """

    def __init__(self, field: str, why: str, **said: object) -> None:
        self.field, self.pattern, self.said = field, why, said
        self.why = why.format(**said) if said else why
        super().__init__(f"{field}: {self.why}")


def none_of(what: str, given: object, known: Iterable[str]) -> NotSolvable:
    """Make the error for a word that is none of those there are.

    Parameters
    ----------
    what : str
        Field.
    given : object
        What was given.
    known : iterable of str
        The words there are.
    """
    return NotSolvable(what, "“{given}” is none of {known}", given=given, known=", ".join(known))


def between(field: str, value: float, low: float, high: float, why: str = "", dimension: str = "") -> float:
    """Return ``value`` if ``low <= value <= high`` and it is a finite number.

    Parameters
    ----------
    field : str
        Name used in the error.
    value, low, high : float
        Quantity and its allowed range, all in one unit. [SI]
    why : str
        Reason for the range.
    dimension : str
        Key of ``treecore.units`` for display.

    Raises
    ------
    OutOfRange
        If the value is not a finite number within the range.
    """
    if type(value) is float and low <= value <= high and value - value == 0.0:
        return value  # the usual case; the difference is 0 for finite numbers only
    if (
        not isinstance(value, (int, float))
        or isinstance(value, bool)
        or not math.isfinite(value)
        or not low <= value <= high
    ):
        raise OutOfRange(field, value, low, high, why, dimension)
    return float(value)


def inside(field: str, value: float, low: float, high: float, why: str = "", dimension: str = "") -> float:
    """Return ``value`` if ``low < value < high``: as ``between`` with both ends left out.

    Parameters
    ----------
    field : str
        Name used in the error.
    value, low, high : float
        Quantity and the ends it must not reach, all in one unit. [SI]
    why : str
        Reason for the range.
    dimension : str
        Key of ``treecore.units`` for display.

    Raises
    ------
    OutOfRange
        If the value is not a finite number strictly inside the range.
    """
    between(field, value, low, high, why, dimension)
    if value in (low, high):
        raise OutOfRange(field, value, low, high, why, dimension)
    return float(value)


def all_positive(field: str, column: Column) -> Column:
    """Return a column if every value in it is finite and above zero.

    Parameters
    ----------
    field : str
        Name used in the error.
    column : Column
        Quantity. [SI]

    Raises
    ------
    OutOfRange
        Naming the first value that is not.
    """
    if isinstance(column, float):
        return positive(field, column)
    if not (column.min() > 0.0 and column.max() < 1e12):
        positive(field, float(column[~((column > 0.0) & (column < 1e12))][0]))
    return column


def all_between(field: str, column: Column, low: float, high: Column, why: str = "", dimension: str = "") -> Column:
    """Return a column if every value in it lies between two ends.

    Parameters
    ----------
    field : str
        Name used in the error.
    column, low, high : Column
        Quantity and its allowed range, all in one unit. [SI]
    why : str
        Reason for the range.
    dimension : str
        Key of ``treecore.units`` for display.

    Raises
    ------
    OutOfRange
        Naming the first value that does not.
    """
    if isinstance(column, float) and isinstance(high, float):
        return between(field, column, low, high, why, dimension)
    fits = np.asarray((column >= low) & (column <= high))
    if not fits.all():
        wrong, low, high = (float(c[~fits][0]) for c in np.broadcast_arrays(column, low, high))
        between(field, wrong, low, high, why, dimension)
    return column


def positive(field: str, value: float) -> float:
    """Return ``value`` if it is finite and above zero.

    Parameters
    ----------
    field : str
        Name used in the error.
    value : float
        Quantity. [SI]

    Raises
    ------
    OutOfRange
        Otherwise.
    """
    if 0.0 < value < 1e12:
        return value
    return inside(field, value, 0.0, 1e12)
