"""Verdicts of whole plans kept beside them for the strip and the lists: known while nothing behind them changed.

A verdict is kept under a mark of everything it stands on: the last change of the job and of the yard, the day, and the
version of the figures. Where anything of it moved the verdict is not known, and is worked out anew by the room that
told how.
"""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Any, NamedTuple

from django.core.cache import cache
from django.db.models import Count, Max, OuterRef, Q, Subquery

from apps.crews.models import Step
from treecore.release import figures_version

if TYPE_CHECKING:
    from collections.abc import Callable

_WEEK = 7 * 86400  # how long a verdict is kept [s]
_JUDGES: dict[str, Callable[[Any], Verdict | None]] = {}


class Verdict(NamedTuple):
    """What a strip says of a plan: its shape (within, near, over, unknown), and how many parts of it are so. The words
    are the reader's, whoever worked it out.
    """

    shape: str
    parts: int = 1

    @property
    def state(self) -> str:
        """State of its step: blocked by what is over or not known."""
        return "blocked" if self.shape in ("over", "unknown") else "done"


def judges(step: str) -> Callable[..., Any]:
    """Register a room's function that works the verdict of a step's plan out; None where there is no plan."""

    def register(judge: Callable[[Any], Verdict | None]) -> Callable[[Any], Verdict | None]:
        _JUDGES[step] = judge
        return judge

    return register


def marks() -> dict[str, Any]:
    """What trees are annotated with to know what their verdicts stand on: the last change of their job and of the
    yard, and how many of them are taken back.
    """
    found = {}
    for name, behind in (("job", Q(job=OuterRef("job"))), ("yard", Q(job=None, crew=OuterRef("job__crew")))):
        rows = Step.objects.filter(behind).order_by().values(name if name == "job" else "crew")
        found[f"{name}_last"] = Subquery(rows.annotate(last=Max("pk")).values("last"))
        found[f"{name}_back"] = Subquery(rows.annotate(back=Count("pk", filter=Q(undone=True))).values("back"))
    return found


def stands_on(tree: Any) -> str:
    """What the verdicts of a tree stand on, of one that was annotated; another as soon as anything of it changed."""
    changes = (getattr(tree, name) or 0 for name in ("job_last", "job_back", "yard_last", "yard_back"))
    return ".".join([*map(str, changes), f"{date.today():%Y%m%d}", figures_version()])


def keep(tree: Any, step: str, verdict: Verdict, stood_on: str) -> None:
    """Keep a verdict that was worked out from what ``stood_on`` marks."""
    cache.set(_key(tree, step), (stood_on, *verdict), _WEEK)


def kept(tree: Any, step: str) -> Verdict | None:
    """The verdict of an annotated tree's plan as far as it is known."""
    found = cache.get(_key(tree, step))
    if found is None or found[0] != stands_on(tree):
        return None
    return Verdict(*found[1:])


def judge(tree: Any) -> None:
    """Work every verdict of an annotated tree out that is not known, and keep it."""
    for step, work in _JUDGES.items():
        if kept(tree, step) is None:
            verdict = work(tree)
            if verdict is not None:
                keep(tree, step, verdict, stands_on(tree))


def _key(tree: Any, step: str) -> str:
    return f"verdict-{step}-{tree.pk}"
