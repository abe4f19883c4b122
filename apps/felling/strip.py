"""Method and felling in the strip of steps."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.felling.planner import in_sections
from cantrel.steps import tells

if TYPE_CHECKING:
    from apps.jobs.models import Tree


@tells(joined=("felling",))
def states(tree: Tree) -> dict[str, Any]:
    """Whether a method is chosen, and whether the tree is felled by a plan of its own."""
    plan = getattr(tree, "felling", None)
    # Whether it is within its limits is said where it is worked out; the strip says that there is a plan.
    felled = ("done", gettext("planned")) if plan else ("open", "")
    if plan and in_sections(plan):
        felled = ("open", gettext("not this way"))
    return {"method": ("done" if plan and plan.method else "open", ""), "fell": felled}
