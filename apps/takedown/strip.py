"""The takedown in the strip of steps."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from cantrel.steps import tells

if TYPE_CHECKING:
    from apps.jobs.models import Tree


@tells(joined=("takedown",))
def states(tree: Tree) -> dict[str, Any]:
    """How many picks there are."""
    picks = getattr(tree, "takedown", None) and tree.takedown.picks
    return {"takedown": ("done", gettext("{picks} picks").format(picks=len(picks))) if picks else ("open", "")}
