"""The record's picture: the planned lay with the ground it may cover, and the lay it took."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from apps.daybook.planner import came_to_lie
from apps.felling.presenter import plan
from cantrel.drawing import label

if TYPE_CHECKING:
    from apps.daybook.models import FellingRecord
    from apps.felling.bench_planner import Worked


def lays(worked: Worked, record: FellingRecord | None, system: str) -> dict[str, Any]:
    """The site plan with the planned and, where measured, the actual lay."""
    drawing = plan(worked, system, 700, 330)
    lies = came_to_lie(worked.given, record)
    drawing["actual"] = lies and (drawing["frame"].x(lies[0]), drawing["frame"].y(lies[1]))
    if lies:
        drawing["actual_label"] = label(record.lay, "fine_angle", system)
    return drawing
