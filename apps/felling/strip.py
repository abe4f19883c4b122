"""Method and felling in the strip of steps."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.crews.verdicts_planner import Verdict, judges, kept, marks
from apps.felling.planner import evaluated, in_sections
from cantrel.limits import SHAPES, VERDICTS
from cantrel.steps import tells
from treecore.errors import CoreError

if TYPE_CHECKING:
    from apps.jobs.models import Tree


@tells(joined=("felling",), marks=marks)
def states(tree: Tree) -> dict[str, Any]:
    """Whether a method is chosen, whether the tree is felled by a plan of its own, its verdict if known."""
    plan = getattr(tree, "felling", None)
    return {"method": ("done" if plan and plan.method else "open", ""), "fell": _fell(tree, plan)}


def _fell(tree: Tree, plan: Any) -> tuple[Any, ...]:
    if not plan:
        return "open", ""
    if in_sections(plan):
        return "open", gettext("not this way")
    verdict = kept(tree, "fell")
    if verdict is None:
        return "done", gettext("planned"), True
    return verdict.state, WORDS[verdict.shape]


WORDS = {SHAPES[verdict]: word for verdict, word in VERDICTS.items()}


@judges("fell")
def judge(tree: Tree) -> Verdict | None:
    """The verdict of a tree's felling plan; one that can't be worked out is not known."""
    plan = getattr(tree, "felling", None)
    if not plan or in_sections(plan):
        return None
    try:
        return Verdict(SHAPES[evaluated(tree, plan).result.ruling.verdict])
    except CoreError:
        return Verdict("unknown")
