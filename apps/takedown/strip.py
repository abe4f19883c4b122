"""The takedown in the strip of steps."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.crews.verdicts_planner import Verdict, judges, kept
from apps.takedown import wording
from apps.takedown.planner import scene_of, work_out
from cantrel.limits import SHORT_WORDS
from cantrel.steps import tells
from treecore.errors import CoreError

if TYPE_CHECKING:
    from apps.jobs.models import Tree
    from apps.takedown.planner import Row


@tells(joined=("takedown",))
def states(tree: Tree) -> dict[str, Any]:
    """How many picks there are, and the worst of their verdicts where it is known."""
    picks = getattr(tree, "takedown", None) and tree.takedown.picks
    if not picks:
        return {"takedown": ("open", "")}
    verdict = kept(tree, "takedown")
    if verdict is None:
        return {"takedown": ("done", gettext("{picks} picks").format(picks=len(picks)), True)}
    said = gettext("{n} {verdict}").format(n=verdict.parts, verdict=SHORT_WORDS[verdict.shape])
    return {"takedown": (verdict.state, said)}


WORST_FIRST = ("over", "unknown", "near", "within")


def worst_of(rows: list[Row]) -> Verdict:
    """The verdict of a list of picks: the worst, and how many of that there are."""
    shapes = [wording.shape_of(row) for row in rows]
    worst = next(shape for shape in WORST_FIRST if shape in shapes)
    return Verdict(worst, shapes.count(worst))


@judges("takedown")
def judge(tree: Tree) -> Verdict | None:
    """The verdict of a tree's takedown; one that can't be worked out is not known."""
    plan = getattr(tree, "takedown", None)
    if not plan or not plan.picks:
        return None
    try:
        return worst_of(work_out(scene_of(tree), plan.picks))
    except CoreError:
        return Verdict("unknown", len(plan.picks))
