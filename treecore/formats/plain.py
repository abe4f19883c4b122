"""Shared pieces of the formats: angles read from degrees, and figures written as plain data."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

from treecore.estimate import Estimate
from treecore.figures import Figure
from treecore.units import SI_UNITS
from treecore.verdict import Limit

Entry = Mapping[str, Any]


def deg(entry: Entry, key: str, default: float = 0.0) -> float:
    """Return an angle of an entry [rad].

    Parameters
    ----------
    entry : mapping
        The entry.
    key : str
        Its key, in degrees.
    default : float
        Where it is missing. [degrees]
    """
    value = entry.get(key)
    return math.radians(default if value is None else value)


def estimate_json(e: Estimate, dimension: str) -> dict[str, Any]:
    """Return an estimate as plain data, SI with its unit.

    Parameters
    ----------
    e : Estimate
        The estimate. [SI]
    dimension : str
        Key of ``treecore.units``.
    """
    return {"value": e.value, "low": e.low, "high": e.high, "unit": SI_UNITS[dimension], "kind": e.kind.value}


def plain_json(value: float, dimension: str) -> dict[str, Any]:
    """Return a number without an interval as plain data, SI with its unit.

    Parameters
    ----------
    value : float
        The number. [SI]
    dimension : str
        Key of ``treecore.units``.
    """
    return {"value": value, "unit": SI_UNITS[dimension]}


def figure_json(figure: Figure) -> dict[str, Any]:
    """Return a figure as plain data with its why."""
    return estimate_json(figure.estimate, figure.dimension) | {
        "label": figure.label,
        "formula": figure.formula,
        "source": figure.source,
        "widened_by": figure.widest,
    }


def limit_json(limit: Limit) -> dict[str, Any]:
    """Return a limit as plain data: what is asked of it and what it allows, SI, and what goes with it in words."""
    return {
        "key": limit.key,
        "class": limit.group,
        "verdict": limit.verdict.value,
        "demand": estimate_json(limit.demand, limit.dimension) if limit.demand else None,
        "allowed": estimate_json(limit.allowed, limit.dimension) if limit.allowed else None,
        "unit": SI_UNITS[limit.dimension],
        "least": limit.least,
        "about": {k: v for k, v in asdict(limit.about).items() if v not in ("", None) and v is not False},
    }
