"""Method and felling in the strip of steps."""

from apps.felling.planner import in_sections
from cantrel.steps import tells


@tells(joined=("felling",))
def states(tree):
    """Whether a method is chosen, and whether the tree is felled by a plan of its own."""
    plan = getattr(tree, "felling", None)
    felled = ("open", "not this way") if plan and in_sections(plan) else ("done" if plan else "open", "")
    return {"method": ("done" if plan and plan.method else "open", ""), "fell": felled}
