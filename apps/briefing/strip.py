"""The brief in the strip of steps."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db.models import OuterRef, Subquery
from django.utils.translation import gettext

from apps.briefing.models import SignOff
from apps.briefing.planner import still_signed
from cantrel.steps import tells

if TYPE_CHECKING:
    from apps.jobs.models import Tree


def _marks() -> dict[str, Subquery]:
    return {"last_signed": Subquery(SignOff.objects.filter(tree=OuterRef("pk")).values("pk")[:1])}


@tells(marks=_marks)
def states(tree: Tree) -> dict[str, Any]:
    """Whether the plan is signed, and still the one that was."""
    if tree.last_signed is None:
        return {"brief": ("open", "")}
    return {"brief": ("done", gettext("signed")) if still_signed(tree) else ("blocked", gettext("changed"))}
