"""The record's picture: the planned lay with the ground it may cover, and the lay it took."""

from apps.felling.presenter import plan
from cantrel.drawing import label
from treecore.site import place


def lays(given, result, record, system):
    """The site plan with the planned and, where measured, the actual lay."""
    drawing = plan(given, result, system, 700, 330)
    drawing["actual"] = None
    if record and record.lay is not None:
        length = (record.height or given.tree.height.value) - given.cuts.stump
        x, y = place(given.site, record.lay, length, 0.0)
        drawing["actual"] = (drawing["frame"].x(x), drawing["frame"].y(y))
        drawing["actual_label"] = label(record.lay, "fine_angle", system)
    return drawing
