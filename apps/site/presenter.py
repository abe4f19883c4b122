"""The plan to scale: features, trees and conductors in metres, north up; the browser only zooms and drags it."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from apps.jobs.models import Target
from apps.site import planner
from cantrel.drawing import compass, label
from cantrel.limits import SHAPES, VERDICTS
from cantrel.quantities import raw
from treecore.errors import CoreError

if TYPE_CHECKING:
    from apps.jobs.models import Job, Tree

LAYERS = [
    ("trees", gettext_lazy("Trees")),
    ("buildings", gettext_lazy("Buildings, walls")),
    ("lines", gettext_lazy("Overhead lines")),
    ("people", gettext_lazy("People")),
    ("ground", gettext_lazy("Ground")),
    ("work", gettext_lazy("Work")),
    ("picture", gettext_lazy("Picture")),
    ("names", gettext_lazy("Names")),
]


def _points(points: list[Any]) -> str:
    return " ".join(f"{x:g},{-y:g}" for x, y in points)


def _middle(points: list[Any]) -> tuple[float, float]:
    return sum(p[0] for p in points) / len(points), -sum(p[1] for p in points) / len(points)


def feature(row: Target, picked: bool = False) -> dict[str, Any]:
    """One feature as the plan draws it."""
    kind = planner.kinds()[row.kind]
    x, y = _middle(row.outline)
    drawn = {
        "id": row.pk,
        "name": row.name,
        "kind": row.kind,
        "shape": row.shape,
        "layer": kind.layer,
        "picked": picked,
        "points": _points(row.outline),
        "x": f"{x:.2f}",
        "y": f"{y:.2f}",
        "wide": f"{row.width or kind.width or 0.1:g}",
        "r": f"{row.radius or 0.5:g}",
        "words": f"{kind.name}: {row.name}" if kind.name != row.name else row.name,
        "shown": row.name[:26] if row.shape != "line" or row.kind != "fence" else "",
    }
    if row.kind == "conductor" and len(row.outline) == 2:
        drawn["keep"] = _keep(row)
    if picked:
        drawn["corners"] = [(i, f"{px:g}", f"{-py:g}") for i, (px, py) in enumerate(row.outline)]
    return drawn


def _keep(row: Target) -> str:
    try:
        return f"{2 * planner.facts_conductor(row).keep:g}"
    except CoreError:
        return "0"


def tree(row: Tree, picked: bool = False) -> dict[str, Any]:
    """One tree as the plan draws it: its crown and its stem."""
    return {
        "id": row.pk,
        "name": row.name,
        "x": f"{row.x:g}",
        "y": f"{-row.y:g}",
        "r": f"{row.spread / 2:g}",
        "picked": picked,
        "stem": f"{max(row.diameter / 2, 0.12):g}",
        "shown": row.name[:26],
    }


def bounds(features: list[Target], trees: list[Tree], picture: dict[str, Any] | None) -> str:
    """What the plan shows at first: everything, with room round it."""
    xs = [p[0] for f in features for p in f.outline] + [t.x + d for t in trees for d in (-t.spread, t.spread)]
    ys = [p[1] for f in features for p in f.outline] + [t.y + d for t in trees for d in (-t.spread, t.spread)]
    if picture:
        for corner in picture["corners"]:
            xs.append(corner[0])
            ys.append(corner[1])
    if not xs:
        xs, ys = [-20, 20], [-20, 20]
    pad = max(max(xs) - min(xs), max(ys) - min(ys), 8) * 0.06 + 1
    left, right, low, high = min(xs) - pad, max(xs) + pad, min(ys) - pad, max(ys) + pad
    return f"{left:.2f} {-high:.2f} {right - left:.2f} {high - low:.2f}"


def picture(job: Job) -> dict[str, Any] | None:
    """The background picture and how it lies."""
    row = getattr(job, "picture", None)
    if row is None:
        return None
    turn, scale = complex(math.cos(row.turned), math.sin(row.turned)), row.metres_per_pixel
    corners = [complex(row.x, row.y) + complex(a, b) * scale * turn for a in (0, row.wide) for b in (0, row.high)]
    return {
        "row": row,
        "corners": [(c.real, c.imag) for c in corners],
        "wide": f"{row.wide * scale:g}",
        "high": f"{row.high * scale:g}",
        "stamp": row.image.name.rsplit("/", 1)[-1],
        "place": f"translate({row.x:g} {-row.y:g}) rotate({-math.degrees(row.turned):g}) translate(0 "
        f"{-row.high * scale:g})",
    }


def drawing(job: Job, picked: str = "") -> dict[str, Any]:
    """Everything the plan draws."""
    rows, trees = list(job.targets.all()), list(job.trees.all())
    under = {"ground": 0, "work": 1, "people": 1, "lines": 3}
    shown = [feature(r, picked == f"target:{r.pk}") for r in rows]
    shown.sort(key=lambda f: under.get(f["layer"], 2))
    pic = picture(job)
    return {
        "features": shown,
        "trees": [tree(t, picked == f"tree:{t.pk}") for t in trees],
        "picture": pic,
        "box": bounds(rows, trees, pic),
    }


def tools(system: str) -> list[dict[str, str]]:
    """What can be drawn, each with the size it is drawn with until somebody says another."""
    found = []
    for kind in planner.kinds().values():
        if kind.key == "line":
            continue
        high = gettext("{height} high").format(height=label(kind.height, "length", system)) if kind.height else ""
        wide = gettext("{width} wide").format(width=label(kind.width, "offset", system)) if kind.width else ""
        touch = gettext("a light touch is tolerable") if kind.light_touch and kind.target else ""
        size = ", ".join(part for part in (high, wide, touch) if part)
        found.append({"key": kind.key, "shape": kind.shape, "name": kind.name, "size": size})
    return found


def _turned(azimuth: float) -> int:
    return round(math.degrees(azimuth))


def rose(job: Job, system: str) -> list[dict[str, Any]]:
    """North, slope and winds as arrows."""
    arrows = []
    if job.slope:
        arrows.append(
            (
                "slope",
                _turned(job.downhill),
                gettext("falls {slope} to the {compass}").format(
                    slope=label(job.slope, "angle", system), compass=compass(job.downhill)
                ),
            )
        )
    if job.prevailing_from is not None:
        arrows.append(
            (
                "prevailing",
                _turned(job.prevailing_from + math.pi),
                gettext("wind mostly from the {compass}").format(compass=compass(job.prevailing_from)),
            )
        )
    if job.wind_from is not None:
        speed = f", {label(job.wind, 'speed', system)}" if job.wind is not None else ""
        arrows.append(
            (
                "today",
                _turned(job.wind_from + math.pi),
                gettext("today from the {compass}{speed}").format(compass=compass(job.wind_from), speed=speed),
            )
        )
    return [{"kind": k, "turn": t, "text": s} for k, t, s in arrows]


def ruling(job: Job, system: str) -> dict[str, str]:
    """The first thing to say of a site: the conductor nearest its distance, else what stands nearest to a stem."""
    limits = planner.conductor_limits(job)
    if limits:
        name, limit = limits[0]
        gap, keep = (label(e.value, "length", system) for e in (limit.demand, limit.allowed))
        said = gettext(
            "{name} hangs {gap} from the standing crown of {name2}; {keep} is to be kept. The "
            "local code and the owner of the line go first."
        ).format(name=limit.about.name, gap=gap, name2=name, keep=keep)
        return {
            "shape": SHAPES[limit.verdict],
            "verdict": VERDICTS[limit.verdict],
            "text": said,
            "raw": raw(limit.demand.value),
        }
    return None


def selected(job: Job, row: Target, system: str) -> list[dict[str, str]]:
    """What is worked out of the picked feature."""
    facts = planner.facts(job, row)
    lines = []
    if facts.area is not None:
        lines.append((gettext("Ground covered"), label(facts.area, "area", system), facts.area))
    if facts.length is not None:
        lines.append((gettext("Length"), label(facts.length, "offset", system), facts.length))
    if facts.way:
        way = facts.way
        by = (
            gettext(", by {narrowed_by}").format(narrowed_by=way.narrowed_by)
            if way.narrowed_by
            else gettext(" as drawn")
        )
        lines.append((gettext("Narrowest"), label(way.narrowest, "offset", system) + by, way.narrowest))
        turns = ", ".join(label(c, "angle", system) for c in way.corners) or "none"
        lines.append((gettext("Corners"), turns, len(way.corners)))
    if facts.conductor:
        low = facts.lowest
        lines.append((gettext("Lowest point of the line"), label(low, "offset", system), low))
        lines.append((gettext("Distance to keep"), label(facts.conductor.keep, "length", system), facts.conductor.keep))
    for name, gap, azimuth in facts.stems:
        lines.append(
            (
                gettext("From the stem of {name}").format(name=name),
                f"{label(gap, 'offset', system)}, {compass(azimuth)}",
                gap,
            )
        )
    return [{"name": n, "value": v, "raw": raw(number)} for n, v, number in lines]


def listed(job: Job, picked: str) -> list[dict[str, Any]]:
    """Every feature by layer, for the list."""
    rows = [
        {
            "id": f"target:{t.pk}",
            "name": t.name,
            "kind": planner.kinds()[t.kind].name,
            "picked": picked == f"target:{t.pk}",
        }
        for t in Target.objects.filter(job=job)
    ]
    return [
        {"id": f"tree:{t.pk}", "name": t.name, "kind": gettext("Tree of this job"), "picked": picked == f"tree:{t.pk}"}
        for t in job.trees.all()
    ] + rows
