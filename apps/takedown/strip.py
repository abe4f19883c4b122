"""The takedown in the strip of steps."""

from cantrel.steps import tells


@tells(joined=("takedown",))
def states(tree):
    """How many picks there are."""
    picks = getattr(tree, "takedown", None) and tree.takedown.picks
    return {"takedown": ("done", f"{len(picks)} picks") if picks else ("open", "")}
