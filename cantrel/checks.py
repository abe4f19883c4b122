"""Constraints of the database that follow from the declarations of the plan document: one range for one number."""

from typing import get_type_hints

from django.db import models
from django.db.models import Q

from cantrel.entryforms import plain_type
from cantrel.rows import paths
from treecore.document.fields import specs
from treecore.ranges import ends


def ranged(field, low, high, name):
    """A database constraint that keeps a field in a range, or empty."""
    condition = Q(**{f"{field}__gte": low, f"{field}__lte": high}) | Q(**{f"{field}__isnull": True})
    return models.CheckConstraint(condition=condition, name=name)


def declared_ranges(entry, kept=None):
    """Ends of the range of every column an entry declares one for, SI; of those ``kept``, or of all."""
    found = {}
    for path, column in paths(entry):
        spec = specs(_declaring(entry, path))[path[-1]]
        if spec.range and (kept is None or column in kept):
            found[column] = ends(spec.range)
    return found


def checks(entry, prefix, kept=None):
    """Constraints of a row that keeps an entry, named by a prefix and their column."""
    return [ranged(column, *both, f"{prefix}_{column}") for column, both in declared_ranges(entry, kept).items()]


def _declaring(entry, path):
    """Declaration that the last key of a path belongs to."""
    for key in path[:-1]:
        entry = plain_type(get_type_hints(entry)[key])
    return entry
