"""The record's picture: the planned lay with the ground it may cover, and the lay it took."""

from apps.daybook.planner import came_to_lie
from apps.felling.presenter import plan
from cantrel.drawing import label


def lays(worked, record, system):
    """The site plan with the planned and, where measured, the actual lay."""
    drawing = plan(worked, system, 700, 330)
    drawing["actual"] = None
    if record and record.lay is not None:
        x, y = came_to_lie(worked.given, record)
        drawing["actual"] = (drawing["frame"].x(x), drawing["frame"].y(y))
        drawing["actual_label"] = label(record.lay, "fine_angle", system)
    return drawing
