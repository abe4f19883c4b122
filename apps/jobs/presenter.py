"""Pictures of a tree, seen from any side; every length is the core's."""

import math

from cantrel import quantities
from cantrel.drawing import compass, fitted, label
from treecore.tree.crown import half_widths
from treecore.tree.shaping import axis_at, seen

WIDTH, HEIGHT = 470, 590


def across_lean(tree):
    """The view in which the lean is seen in full, towards the right."""
    return (tree.lean_azimuth - math.pi / 2.0) % math.tau


def frame_for(tree, width=WIDTH, height=HEIGHT):
    """Where the tree lands on its picture: the same from every side, so that it does not jump when turned."""
    tall = max(tree.stands.high, tree.stands.value)
    out = tree.stands.value * math.tan(tree.lean)
    off = max(abs(tree.crown_east or 0.0), abs(tree.crown_north or 0.0))
    reach = max([out + tree.spread.high / 2.0 + off, *_reaches(tree)])
    wide = max(reach + 0.5, tall * 0.25)
    return fitted(width, height - 30, -wide, wide, 0.0, tall, margin=34)


def _reaches(tree):
    if not tree.limbs:
        return []
    tips = tree.placed.base + tree.placed.direction * tree.placed.length[:, None]
    return [math.hypot(*tip[:2]) + math.tan(tree.lean) * max(tip[2], 0.0) for tip in tips.tolist()]


def elevation(tree, result, system, view=None, limbs=(), assumed=(), masses=False, picked=""):
    """The standing tree to scale, seen by someone who faces the bearing ``view``."""
    view = across_lean(tree) if view is None else view
    frame = frame_for(tree)
    cg = result.cg_height.estimate
    out = seen(view, result.east.value, result.north.value)
    slack = _cg_slack(result, view)
    tip = seen(view, *axis_at(tree, tree.stands.value))
    crown, parts = (
        _outline(tree, view) if tree.remainder.share > 0.0 and not tree.left else [],
        _parts(tree, view, frame),
    )
    facing = (view + math.pi) % math.tau
    drawn = _limbs(tree, view, frame, limbs, system, masses, picked)
    return {
        "frame": frame,
        "view": round(math.degrees(view)) % 360,
        "crown": frame.points(crown),
        "stem": frame.points(parts["stem"]),
        "cavities": parts["cavities"],
        "limbs": drawn,
        "picked": next((row for row in drawn if row["picked"]), None),
        "assumed": _assumed(tree, view, frame, assumed, system, masses),
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
            "from": f"seen from the {compass(facing)}",
            "lean": f"leans {compass(tree.lean_azimuth)}" if tree.lean else "",
        },
        "dim_x": WIDTH - 44,
        "bar": frame.bar(system),
    }


def _cg_slack(result, view):
    east, north = ((e.high - e.low) / 2.0 for e in (result.east, result.north))
    return math.hypot(east * math.cos(view), north * math.sin(view))


def _outline(tree, view):
    """The assumed crown's outline round its leaning axis."""
    foot = tree.crown_base_share * tree.height.value
    depth, half = tree.height.value - foot, tree.spread.value / 2.0
    off = seen(view, tree.crown_east or 0.0, tree.crown_north or 0.0)
    rows = [(foot + depth * z, half * w) for z, w in half_widths(tree.kind.form)]
    middle = [seen(view, *axis_at(tree, z)) + off for z, _ in rows]
    right = [(m + w, z) for m, (z, w) in zip(middle, rows, strict=True)]
    return right + [(m - w, z) for m, (z, w) in reversed(list(zip(middle, rows, strict=True)))]


def _wood(tree, view, low, high, width, steps=16):
    heights = [low + (high - low) * i / steps for i in range(steps + 1)]
    rows = [(seen(view, *axis_at(tree, z)), width(z) / 2.0, z) for z in heights]
    return [(x + w, z) for x, w, z in rows] + [(x - w, z) for x, w, z in reversed(rows)]


def _parts(tree, view, frame):
    share = tree.width_along(view + math.pi / 2.0) / tree.diameter.value
    stem = _wood(tree, view, 0.0, tree.stem.top, lambda z: tree.stem.diameter_at(z) * share)
    cavities = [
        {
            "points": frame.points(_wood(tree, view, c.low, c.high, lambda z, c=c: c.across, 1)),
            "kind": "decay" if c.decayed else "hollow",
        }
        for c in tree.cavities
    ]
    return {"stem": stem, "cavities": cavities}


def _spar(tree, view, frame, base, tip, thick, root):
    """A limb as a narrow triangle from its union to its tips, and how deep in the picture it lies."""
    lean = axis_at(tree, root)
    x0, x1 = (seen(view, p[0] + lean[0], p[1] + lean[1]) for p in (base, tip))
    run = math.hypot(x1 - x0, tip[2] - base[2]) or 1.0
    nx, nz = -(tip[2] - base[2]) / run * thick / 2.0, (x1 - x0) / run * thick / 2.0
    points = frame.points([(x0 + nx, base[2] + nz), (x0 - nx, base[2] - nz), (x1, tip[2])])
    deep = tip[0] * math.sin(view) + tip[1] * math.cos(view)
    return points, (frame.x(x0), frame.y(base[2])), (frame.x(x1), frame.y(tip[2])), deep


def _leaves(foot, tip, leafy):
    """A leafy limb's outline: an ellipse round its outer part."""
    if not leafy:
        return ""
    dx, dy = tip[0] - foot[0], tip[1] - foot[1]
    x, y, run = foot[0] + 0.62 * dx, foot[1] + 0.62 * dy, math.hypot(dx, dy)
    turn = math.degrees(math.atan2(dy, dx))
    return f"translate({x:.1f} {y:.1f}) rotate({turn:.0f}) scale({0.42 * run:.1f} {0.2 * run:.1f})"


def _limbs(tree, view, frame, rows, system, masses, picked):
    drawn = []
    for limb, row in zip(tree.limbs, rows, strict=False):
        points, foot, tip, deep = _spar(tree, view, frame, row.base, row.tip, limb.diameter, row.root)
        leafy = limb.foliage != "none" and not limb.dead and tree.state not in ("dead",)
        words = f"{limb.name}: {label(row.mass.value, 'mass', system)}"
        lean = axis_at(tree, row.root)
        drawn.append(
            {
                "deep": deep,
                "points": points,
                "name": limb.name,
                "which": limb.name,
                "words": words,
                "foot": foot,
                "tip": tip,
                "style": f"{limb.kind.value}{' dead' if limb.dead else ''}{' picked' if limb.name == picked else ''}",
                "leaves": _leaves(foot, tip, leafy and not limb.codominant),
                "picked": limb.name == picked,
                "sides": ("end", "start") if tip[0] >= foot[0] else ("start", "end"),
                "tag": label(row.mass.value, "mass", system) if masses else "",
                "cg": (frame.x(seen(view, row.cg[0] + lean[0], row.cg[1] + lean[1])), frame.y(row.cg[2])),
            }
        )
    return sorted(drawn, key=lambda d: -d["deep"])


def _assumed(tree, view, frame, rows, system, masses):
    drawn = []
    for row in rows:
        limb = row.limb
        level = math.cos(limb.rise) * limb.length
        east, north, up = row.base
        tip = (
            east + level * math.sin(limb.azimuth),
            north + level * math.cos(limb.azimuth),
            up + math.sin(limb.rise) * limb.length,
        )
        points, _foot, end, deep = _spar(tree, view, frame, row.base, tip, limb.diameter, row.root)
        drawn.append(
            {
                "deep": deep,
                "points": points,
                "which": str(row.number),
                "style": "assumed",
                "leaves": "",
                "tip": end,
                "level": round(up, 3),
                "words": f"assumed limb {row.number + 1}: {label(row.mass.value, 'mass', system)}",
                "tag": label(row.mass.value, "mass", system) if masses else "",
            }
        )
    return _tagged_once(sorted(drawn, key=lambda d: -d["deep"]))


def _tagged_once(drawn):
    """Of the assumed limbs on one level only the one seen furthest out keeps its mass: they weigh the same."""
    levels = {}
    for row in drawn:
        levels.setdefault(row["level"], []).append(row)
    for rows in levels.values():
        outmost = max(rows, key=lambda r: r["tip"][0])
        for row in rows:
            row["tag"] = row["tag"] if row is outmost else ""
    return drawn


def tree_figures(result, system):
    """The tree's figures as rows."""
    return [quantities.figure(f, system) for f in result.figures]


def rungs(tree, rows, limit, system):
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
                "piece": ("to the top" if row.reaches_top else label(row.length, "length", system))
                if i % every == 0
                else "",
                "height": label(row.height, "length", system),
            }
        )
    return {"rows": drawn, "height": HEIGHT, "limit": label(limit, "mass", system), "ground": frame.y(0)}
