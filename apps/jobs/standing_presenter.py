"""Where trees stand, for the lists: the next step of each, gates still open, and who signed it when."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db.models import OuterRef, Subquery

from apps.jobs.models import Tree
from apps.jobs.planner import common_name
from cantrel.steps import all_loaded, first_open, strip

if TYPE_CHECKING:
    from collections.abc import Sequence


def standings(trees: Sequence[Tree]) -> dict[int, dict[str, Any]]:
    """How each tree stands, by its key.

    A signed tree says who signed it; whether that signature still stands takes working it out, and the tree's own page
    says it.
    """
    signed = _signatures(trees)
    found = {pk: {"signed": row} for pk, row in signed.items()}
    for tree in all_loaded([t for t in trees if t.pk not in signed]):
        rows = strip(tree, "")
        gates = next((row["note"] for row in rows if row["key"] == "walk-up" and row["state"] == "blocked"), "")
        found[tree.pk] = {"next": first_open(rows), "gates": gates}
    return found


def listed(trees: Sequence[Tree]) -> list[dict[str, Any]]:
    """Trees of a job, each with its species and how it stands."""
    known = standings(trees)
    return [{"tree": t, "species": common_name(t), "stands": known[t.pk]} for t in trees]


def _signatures(trees: Sequence[Tree]) -> dict[int, dict[str, Any]]:
    """Name and time of the last signature of each tree that has one."""
    last = Tree.signoffs.rel.related_model.objects.filter(tree=OuterRef("pk"))
    rows = Tree.objects.filter(pk__in=[t.pk for t in trees], signoffs__isnull=False).distinct()
    rows = rows.annotate(by=Subquery(last.values("name")[:1]), at=Subquery(last.values("at")[:1]))
    return {row.pk: {"name": row.by, "at": row.at} for row in rows}
