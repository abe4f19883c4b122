"""The record in the strip of steps."""

from cantrel.steps import tells


@tells(joined=("record",))
def states(tree):
    """Whether somebody kept a record."""
    return {"record": ("done" if getattr(tree, "record", None) else "open", "")}
