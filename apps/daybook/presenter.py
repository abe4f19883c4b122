"""The record's picture: the planned lay with the ground it may cover, and the lay it took."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.daybook.planner import came_to_lie, compare
from apps.felling.presenter import plan
from cantrel import quantities
from cantrel.drawing import label

if TYPE_CHECKING:
    from apps.daybook.models import FellingRecord
    from apps.felling.bench_planner import WorkedPlan
    from treecore.learning.outcome import Compared


def lays(worked: WorkedPlan, record: FellingRecord | None, system: str) -> dict[str, Any]:
    """The site plan with the planned and, where measured, the actual lay."""
    drawing = plan(worked, system, 560, 360)
    lies = came_to_lie(worked.given, record)
    drawing["actual"] = lies and (drawing["frame"].x(lies[0]), drawing["frame"].y(lies[1]))
    if lies:
        drawing["actual_label"] = label(record.lay, "fine_angle", system)
    return drawing


def rows_of(compared: tuple[Compared, ...], system: str) -> list[dict[str, Any]]:
    """Estimate, actual and their difference, one row a quantity."""
    rows = []
    for c in compared:
        show = {
            "label": gettext(c.label),
            "key": c.key,
            "estimate": quantities.estimate(c.estimate, c.dimension, system),
        }
        if c.actual is not None:
            show["actual"] = quantities.text(c.actual, c.dimension, system)
            sign = "+" if c.difference > 0 else ""
            show["difference"] = sign + quantities.text(c.difference, c.dimension, system)
            show["inside"] = c.inside
        rows.append(show)
    return rows


def beside(worked: WorkedPlan, record: FellingRecord | None, system: str) -> dict[str, Any]:
    """What was planned beside what happened, and both lays drawn."""
    return {"rows": rows_of(compare(worked.given, record), system), "drawing": lays(worked, record, system)}
