"""Pictures of a tree, seen from any side; every length is the core's."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.jobs.art_presenter import Length, art
from apps.jobs.drawing_planner import across_lean, tree_view
from cantrel import quantities
from cantrel.drawing import compass, fitted, label

if TYPE_CHECKING:
    from collections.abc import Sequence

    from apps.jobs.drawing_planner import Spar, TreeView
    from cantrel.art.tree import Art
    from cantrel.drawing import Frame
    from treecore.tree.assumed import AssumedLimb
    from treecore.tree.body import TreeInput
    from treecore.tree.ladder import Rung
    from treecore.tree.weigh import TreeResult

WIDTH, HEIGHT = 470, 590


def frame_for(tree: TreeInput, width: Any = WIDTH, height: Any = HEIGHT) -> Frame:
    """Where the tree lands on its picture: the same from every side, so that it does not jump when turned."""
    tall = max(tree.stands.high, tree.stands.value)
    out = tree.stands.value * math.tan(tree.lean)
    off = max(abs(tree.crown_east or 0.0), abs(tree.crown_north or 0.0))
    reach = max([out + tree.spread.high / 2.0 + off, *_reaches(tree)])
    wide = max(reach + 0.5, tall * 0.25)
    return fitted(width, height - 30, -wide, wide, 0.0, tall, margin=34)


def _reaches(tree: TreeInput) -> list[float]:
    if not tree.limbs:
        return []
    tips = tree.placed.base + tree.placed.direction * tree.placed.length[:, None]
    return [math.hypot(*tip[:2]) + math.tan(tree.lean) * max(tip[2], 0.0) for tip in tips.tolist()]


def elevation(
    tree: TreeInput,
    result: TreeResult,
    system: str,
    view: float | None = None,
    limbs: Sequence[Any] = (),
    assumed: Sequence[Any] = (),
    masses: bool = False,
    picked: str = "",
) -> dict[str, Any]:
    """The standing tree to scale, seen by someone who faces the bearing ``view``."""
    side = tree_view(tree, result, across_lean(tree) if view is None else view, limbs, assumed)
    frame, view = frame_for(tree), side.view
    cg, out, slack, tip = result.cg_height.estimate, side.cg, side.cg_slack, side.tip
    facing = (view + math.pi) % math.tau
    drawn = _limbs(tree, side, frame, limbs, system, masses, picked)
    return {
        "frame": frame,
        "view": round(math.degrees(view)) % 360,
        "art": tree_art(tree, side, frame),
        "crown": "" if limbs or assumed else frame.points(side.crown),
        "stem": frame.points(side.stem),
        "cavities": [
            {"points": frame.points(points), "kind": "decay" if decayed else "hollow"}
            for points, decayed in side.cavities
        ],
        "limbs": drawn,
        "picked": next((row for row in drawn if row["picked"]), None),
        "assumed": _assumed(side, frame, assumed, system, masses),
        "axis": (frame.x(0), frame.y(0), frame.x(tip), frame.y(tree.stands.value)),
        "ground": frame.y(0),
        "cg": (frame.x(out), frame.y(cg.value)),
        "cg_box": (frame.x(out - slack), frame.y(cg.high), frame.size(2 * slack), frame.size(cg.high - cg.low)),
        "tip": (frame.x(tip), frame.y(tree.stands.value)),
        "high": frame.y(tree.stands.high),
        "low": frame.y(tree.stands.low),
        "height_kind": tree.height.kind.value,
        "spread": (frame.x(-tree.spread.value / 2), frame.x(tree.spread.value / 2)),
        "labels": {
            "height": label(tree.stands.value, "length", system),
            "spread": label(tree.spread.value, "length", system),
            "cg": label(cg.value, "length", system),
            "mass": label(result.mass.estimate.value, "mass", system),
            "diameter": label(tree.diameter.value, "girth", system),
            "left": compass((view - math.pi / 2.0) % math.tau),
            "right": compass((view + math.pi / 2.0) % math.tau),
            "from": gettext("seen from the {compass}").format(compass=compass(facing)),
            "lean": gettext("leans {compass}").format(compass=compass(tree.lean_azimuth)) if tree.lean else "",
        },
        "dim_x": WIDTH - 44,
        "bar": frame.bar(system),
    }


def tree_art(tree: TreeInput, side: TreeView, frame: Frame) -> Art:
    """The tree as it is drawn: stem, measured limbs, and the assumed ones in pencil."""
    lengths = [Length("", *side.axis, side.widths, "stem", False, straight=True)]
    for limb, (spar, _) in zip(tree.limbs, side.limbs, strict=False):
        leafy = limb.foliage != "none" and not limb.dead and tree.state not in LEAFLESS
        known = "measured" if limb.kind.value == "measured" else "assumed"
        lengths.append(_limb(limb.name, spar, "dead" if limb.dead else known, leafy))
    leafy = tree.state not in LEAFLESS
    lengths += [_limb(f"assumed {i}", spar, "assumed", leafy) for i, spar in enumerate(side.assumed)]
    return art(tree, lengths, frame)


TAPER = (1.0, 0.79, 0.57, 0.35, 0.1)  # thickness of a limb at equal shares, as it is drawn
LEAFLESS = ("dead", "bare")  # states in which nothing hangs on the twigs


def _limb(name: str, spar: Spar, style: str, leafy: bool) -> Length:
    widths = tuple(spar.thick * share for share in TAPER)
    return Length(name, spar.foot, spar.tip, widths, style, leafy, deep=spar.deep)


def _spar(spar: Spar, frame: Frame) -> tuple[str, tuple[float, float], tuple[float, float]]:
    """A limb as a picture shows it: its triangle, its union and its tips."""
    ends = ((frame.x(x), frame.y(z)) for x, z in (spar.foot, spar.tip))
    return frame.points(spar.corners), *ends


def _limbs(
    tree: TreeInput, side: TreeView, frame: Frame, rows: tuple[Any, ...], system: str, masses: bool, picked: str
) -> list[dict[str, Any]]:
    drawn = []
    for limb, row, (spar, balance) in zip(tree.limbs, rows, side.limbs, strict=False):
        points, foot, tip = _spar(spar, frame)
        drawn.append(
            {
                "deep": spar.deep,
                "points": points,
                "name": limb.name,
                "which": limb.name,
                "words": f"{limb.name}: {label(row.mass.value, 'mass', system)}",
                "foot": foot,
                "tip": tip,
                "style": f"{limb.kind.value}{' dead' if limb.dead else ''}{' picked' if limb.name == picked else ''}",
                "picked": limb.name == picked,
                "sides": ("end", "start") if tip[0] >= foot[0] else ("start", "end"),
                "tag": label(row.mass.value, "mass", system) if masses else "",
                "cg": (frame.x(balance[0]), frame.y(balance[1])),
            }
        )
    return sorted(drawn, key=lambda d: -d["deep"])


def _assumed(
    side: TreeView, frame: Frame, rows: tuple[AssumedLimb, ...], system: str, masses: bool
) -> list[dict[str, Any]]:
    drawn = []
    for row, spar in zip(rows, side.assumed, strict=True):
        points, _foot, end = _spar(spar, frame)
        drawn.append(
            {
                "deep": spar.deep,
                "points": points,
                "which": str(row.number),
                "style": "assumed",
                "tip": end,
                "level": round(row.base[2], 3),
                "words": gettext("assumed limb {number}: {value}").format(
                    number=row.number + 1, value=label(row.mass.value, "mass", system)
                ),
                "tag": label(row.mass.value, "mass", system) if masses else "",
            }
        )
    return _tagged_once(sorted(drawn, key=lambda d: -d["deep"]))


def _tagged_once(drawn: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Of the assumed limbs on one level only the one seen furthest out keeps its mass: they weigh the same."""
    levels = {}
    for row in drawn:
        levels.setdefault(row["level"], []).append(row)
    for rows in levels.values():
        outmost = max(rows, key=lambda r: r["tip"][0])
        for row in rows:
            row["tag"] = row["tag"] if row is outmost else ""
    return drawn


def tree_figures(result: TreeResult, system: str) -> list[dict[str, Any]]:
    """The tree's figures as rows."""
    return [quantities.figure(f, system) for f in result.figures]


def rungs(tree: TreeInput, rows: tuple[Rung, ...], limit: float, system: str) -> dict[str, Any]:
    """The weight ladder beside the stem, rung by rung at the heights of the elevation."""
    frame = frame_for(tree)
    heavy = max(row.per_metre.high for row in rows)
    bar, top = 118.0 / heavy, tree.stem.top
    heights = [row.height for row in rows] + [top]
    every = max(1, round(15.0 / max(frame.size(heights[1] - heights[0]), 1.0)))
    drawn = []
    for i, row in enumerate(rows):
        low, high = frame.y(heights[i]), frame.y(heights[i + 1])
        drawn.append(
            {
                "y": high,
                "tall": round(low - high - 1, 1),
                "wide": round(row.per_metre.value * bar, 1),
                "from": round(row.per_metre.low * bar, 1),
                "to": round(row.per_metre.high * bar, 1),
                "middle": round((low + high) / 2, 1),
                "text": label(row.per_metre.value, "line_mass", system) if i % every == 0 else "",
                "piece": (gettext("to the top") if row.reaches_top else label(row.length, "length", system))
                if i % every == 0
                else "",
                "height": label(row.height, "length", system),
            }
        )
    return {"rows": drawn, "height": HEIGHT, "limit": label(limit, "mass", system), "ground": frame.y(0)}
