"""Constraints of the database that follow from the declarations of the plan document: one range for one number."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db import models
from django.db.models import Q

from cantrel.rows import declaring_of, paths
from treecore.document.fields import specs
from treecore.ranges import ends

if TYPE_CHECKING:
    from django.db.models.constraints import CheckConstraint


def ranged(field: str, low: float, high: float, name: str) -> CheckConstraint:
    """A database constraint that keeps a field in a range, or empty."""
    condition = Q(**{f"{field}__gte": low, f"{field}__lte": high}) | Q(**{f"{field}__isnull": True})
    return models.CheckConstraint(condition=condition, name=name)


def declared_ranges(entry: Any, kept: tuple[str, ...] | None = None) -> dict[str, Any]:
    """Ends of the range of every column an entry declares one for, SI; of those ``kept``, or of all."""
    found = {}
    for path, column in paths(entry):
        spec = specs(declaring_of(entry, path))[path[-1]]
        if spec.range and (kept is None or column in kept):
            found[column] = ends(spec.range)
    return found


def checks(entry: Any, prefix: str, kept: tuple[str, ...] | None = None) -> list[CheckConstraint]:
    """Constraints of a row that keeps an entry, named by a prefix and their column."""
    return [ranged(column, *both, f"{prefix}_{column}") for column, both in declared_ranges(entry, kept).items()]
