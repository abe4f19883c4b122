"""Pictures of a tree and its site."""

import math

from cantrel import quantities
from cantrel.drawing import compass, fitted, label
from treecore.site import Site, lying
from treecore.workzone import silhouette


def elevation(tree, result, system, width=430, height=560):
    """The standing tree to scale, seen square to its lean."""
    tall = max(tree.height.high, tree.height.value)
    top = result.top_offset.estimate.value
    wide = max(tree.spread.high / 2 + top + 0.5, tall * 0.25)
    frame = fitted(width, height - 30, -wide, wide, 0.0, tall, margin=34)
    figure = silhouette(tree, tree.height, top, 0.0)
    crown = lying(Site(), 0.0, figure)
    cg, reach = result.cg_height.estimate, result.cg_offset.estimate
    towards = tree.lean_azimuth
    offset = result.east.value * math.sin(towards) + result.north.value * math.cos(towards)
    slack = max(reach.high - reach.value, reach.value - reach.low)
    return {
        "frame": frame,
        "crown": frame.points(crown),
        "stem": frame.points(_stem(result.stem, top)),
        "axis": (frame.x(0), frame.y(0), frame.x(top), frame.y(tree.height.value)),
        "ground": frame.y(0),
        "cg": (frame.x(offset), frame.y(cg.value)),
        "cg_box": (frame.x(offset - slack), frame.y(cg.high), frame.size(2 * slack), frame.size(cg.high - cg.low)),
        "tip": (frame.x(top), frame.y(tree.height.value)),
        "high": frame.y(tree.height.high),
        "low": frame.y(tree.height.low),
        "height_kind": tree.height.kind.value,
        "crown_base": frame.y(result.crown_base),
        "spread": (frame.x(-tree.spread.value / 2), frame.x(tree.spread.value / 2)),
        "labels": {
            "height": label(tree.height.value, "length", system),
            "spread": label(tree.spread.value, "length", system),
            "cg": label(cg.value, "length", system),
            "mass": label(result.mass.estimate.value, "mass", system),
            "diameter": label(tree.diameter.value, "girth", system),
            "left": compass((towards + math.pi) % math.tau),
            "right": f"leans {compass(towards)}" if tree.lean else compass(towards),
        },
        "dim_x": width - 44,
        "bar": frame.bar(system),
    }


def _stem(stem, top):
    heights = [stem.height * i / 16 for i in range(17)]
    right = [(top * z / stem.height + stem.diameter_at(z) / 2, z) for z in heights]
    left = [(top * z / stem.height - stem.diameter_at(z) / 2, z) for z in reversed(heights)]
    return right + left


def tree_figures(result, system):
    """The tree's figures as rows."""
    return [quantities.figure(f, system) for f in result.figures]
