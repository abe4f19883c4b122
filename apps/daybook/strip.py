"""The record in the strip of steps."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from cantrel.steps import tells

if TYPE_CHECKING:
    from apps.jobs.models import Tree


@tells(joined=("record",))
def states(tree: Tree) -> dict[str, Any]:
    """Whether somebody kept a record."""
    return {"record": ("done" if getattr(tree, "record", None) else "open", "")}
