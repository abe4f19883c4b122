"""The record in the strip of steps."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db.models import Exists, OuterRef

from apps.daybook.models import WorkRecord
from cantrel.steps import tells

if TYPE_CHECKING:
    from apps.jobs.models import Tree


def _marks() -> dict[str, Any]:
    """Whether a pick, or the felling, was recorded as done."""
    done = WorkRecord.objects.filter(tree=OuterRef("pk"), counts=True).exclude(done=WorkRecord.Done.STOPPED)
    return {"worked": Exists(done)}


@tells(joined=("record",), marks=_marks)
def states(tree: Tree) -> dict[str, Any]:
    """Whether somebody kept a record, of the felling or of a pick."""
    kept = getattr(tree, "record", None) is not None or tree.worked
    return {"record": ("done" if kept else "open", "")}
