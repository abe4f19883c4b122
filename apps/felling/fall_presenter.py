"""The fall's footprint, its course in time, the guy line's way, and the log on its supports: drawn and in words."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from apps.felling import wording
from apps.felling.bench_planner import chance_verdict
from cantrel import quantities
from cantrel.drawing import fitted, label, marked
from cantrel.limits import SHAPES, limit_said, worst_first
from treecore.errors import CoreError

if TYPE_CHECKING:
    from apps.felling.bench_planner import WorkedPlan
    from treecore.felling.bucking import BuckCut, Bucked
    from treecore.felling.fall import Fall
    from treecore.felling.footprint import Chance, Footprint
    from treecore.felling.inputs import FellingInput
    from treecore.felling.plan import FellingResult

_SOME = 0.001  # share of the samples from which a target counts as touched
WIDE, LOGWIDE = 560, 640


def fall_page(worked: WorkedPlan, system: str, count: int) -> dict[str, Any]:
    """Everything the fall's page shows."""
    (given, result), found = worked, worked.footprint(count)
    shown = {
        "fan": fan(given, result, found, system),
        "ruling": limit_said(result.ruling, system),
        "units": system,
        "limits": worst_first(result.limits, system),
        "chances": [_chance(c, system) for c in found.chances],
        "spread": [
            (f"{round(100 * part)} %", label(low, "fine_angle", system), label(high, "fine_angle", system))
            for part, (low, high) in zip((0.5, 0.9, 0.99), found.bounds, strict=True)
        ],
        "fails": _share(found.fails),
        "mean": label(found.mean, "fine_angle", system),
        "samples": f"{found.samples:,}",
        "gust": [quantities.figure(result.figures[k], system) for k in ("gust", "twist")],
    }
    fallen = worked.fall
    if isinstance(fallen, CoreError):
        shown["said"] = quantities.explain(fallen, system)
    else:
        shown["fall"] = [quantities.figure(f, system) for f in fallen.figures]
        shown["said"] = wording.walked(fallen.walked.estimate, system)
        shown["course"] = course(worked, fallen, system)
    if worked.guy:
        shown["guyway"] = guy_chart(worked.guy, result, system)
    return shown


def _share(share: float) -> str:
    if share <= 0.0:
        return gettext("in none of them")
    return (
        gettext("in {share:.1f} % of them").format(share=100 * share)
        if share >= 0.001
        else gettext("in fewer than 1 in 1,000")
    )


def _chance(chance: Chance, system: str) -> dict[str, Any]:
    share = chance.share
    words = (
        gettext("not once") if share <= 0.0 else f"{100 * share:.1f} %" if share >= _SOME else gettext("below 0.1 %")
    )
    return {
        "name": chance.target.name,
        "words": words,
        "error": f"± {100 * chance.error:.1f} %",
        "raw": quantities.raw(share),
        "wide": round(120 * share, 1),
        "shape": SHAPES[chance_verdict(chance)],
        "some": share >= _SOME,
    }


def fan(given: FellingInput, result: FellingResult, found: Footprint, system: str) -> dict[str, Any]:
    """The site with where the top came to lie in the first samples."""
    site, far = given.site, 1.12 * result.ground.reach
    frame = fitted(WIDE, 480, site.tree_x - far, site.tree_x + far, site.tree_y - far, site.tree_y + far, margin=4)
    chances = {c.target.name: c.share for c in found.chances}
    reach = result.ground.reach
    rays = []
    for low, high in found.bounds:
        ends = [
            (site.tree_x + reach * math.sin(given.lay + t), site.tree_y + reach * math.cos(given.lay + t))
            for t in (low, high)
        ]
        rays.append([(frame.x(x), frame.y(y)) for x, y in ends])
    return {
        "frame": frame,
        "stem": (frame.x(site.tree_x), frame.y(site.tree_y)),
        "targets": marked(frame, site.targets, {name for name, share in chances.items() if share >= _SOME}),
        "lying": frame.points(result.ground.outline),
        "tips": [(frame.x(x), frame.y(y)) for x, y in found.tips],
        "rays": rays,
        "tip": (frame.x(result.ground.tip[0]), frame.y(result.ground.tip[1])),
        "lay": label(given.lay, "angle", system),
        "bar": frame.bar(system),
        "escapes": [
            {"x": frame.x(p.end[0]), "y": frame.y(p.end[1]), "blocked": not p.enough, "side": p.side}
            for p in result.ground.escapes
        ],
    }


MARKS = {
    "commits": gettext_lazy("commits"),
    "closes": gettext_lazy("closes"),
    "parts": gettext_lazy("parts"),
    "ground": gettext_lazy("ground"),
}


def course(worked: WorkedPlan, fallen: Fall, system: str) -> dict[str, Any]:
    """Stem angle over time with where the weight commits, the notch closes, the hinge parts and the ground comes."""
    path, result = worked.course, worked.result
    wide, tall, left, foot = 420, 190, 42, 158
    end, most = path.time[-1], path.angle[-1]

    def x(t: float) -> float:
        return round(left + (wide - left - 14) * t / end, 1)

    def y(a: float) -> float:
        return round(foot - (foot - 24) * a / most, 1)

    marks = []
    for name, angle in (
        ("commits", result.estimates["commit"].value),
        ("closes", result.estimates["closing"].value),
        ("parts", fallen.breaks.estimate.value),
        ("ground", most),
    ):
        t = path.when(angle)
        if name == "parts" and angle >= most:
            continue
        marks.append(
            {
                "x": x(t),
                "y": y(min(angle, most)),
                "text": f"{MARKS[name]} {round(math.degrees(angle))}°",
                "time": label(t, "time", system),
                "name": name,
            }
        )
    line = " ".join(f"{x(t)},{y(a)}" for t, a in zip(path.time, path.angle, strict=True))
    return {
        "wide": wide,
        "tall": tall,
        "line": line,
        "marks": marks,
        "left": left,
        "foot": foot,
        "end": label(end, "time", system),
        "right": wide - 14,
    }


def guy_chart(way: Any, result: Any, system: str) -> Any:
    """Way from tie to anchor while the stem turns: how much must be let out, or goes slack."""
    wide, tall, left, foot = 420, 150, 42, 124
    low, high = float(way.lengths.min()), float(way.lengths.max())
    span = max(high - low, 0.2)

    def x(t: float) -> float:
        return round(left + (wide - left - 14) * t / float(way.turns[-1]), 1)

    def y(v: float) -> float:
        return round(foot - (foot - 30) * (v - low) / span, 1)

    return {
        "wide": wide,
        "tall": tall,
        "line": " ".join(f"{x(t)},{y(v)}" for t, v in zip(way.turns.tolist(), way.lengths.tolist(), strict=True)),
        "start": y(way.start),
        "left": left,
        "right": wide - 14,
        "foot": foot,
        "length": label(way.start, "length", system),
        "out": label(max(way.out, 0.0), "offset", system),
        "slack": label(max(way.slack, 0.0), "offset", system),
        "at": f"{round(math.degrees(way.at))}°",
        "end": f"{round(math.degrees(float(way.turns[-1])))}°",
        "raw": quantities.raw(way.out),
        "tension": [
            quantities.figure(result.figures[k], system) for k in ("guy_wanted", "guy_tension", "guy_across", "twist")
        ],
    }


def typed_lists(entry: dict[str, Any], system: str) -> dict[str, str]:
    """Supports and cuts as a person types them."""
    return {
        name: "; ".join(quantities.typed(v, "length", system) for v in entry[f"{name}_m"])
        for name in ("supports", "cuts")
    }


def typed_log(entry: dict[str, Any], system: str) -> dict[str, Any]:
    """The stored log for its form."""
    plain = {
        "log_from": entry["from_m"],
        "log_to": entry["to_m"],
        "cross_slope": math.radians(entry.get("cross_slope_deg", 0.0)),
    }
    return plain | {n: entry.get(n) for n in ("spring", "legs")} | typed_lists(entry, system)


def log_page(bucked: Bucked, system: str) -> dict[str, Any]:
    """Everything the log's page shows."""
    rows = [_cut_row(c, bucked, system) for c in bucked.cuts]
    return {
        "log": log_drawing(bucked, system),
        "rows": rows,
        "first": rows[0],
        "rolls": bucked.rolls,
        "units": system,
        "mass": label(bucked.mass, "mass", system),
        "cautions": wording.DOWN,
    }


def _cut_row(cut: BuckCut, bucked: Bucked, system: str) -> dict[str, Any]:
    words = wording.bucked(cut, system)
    return {
        "order": cut.order,
        "at": label(cut.at, "length", system),
        "words": words,
        "stress": "" if cut.stress is None else round(100 * cut.stress),
        "tension": cut.tension,
        "bore": cut.bore,
        "raw": "" if cut.stress is None else quantities.raw(cut.stress),
    }


def log_drawing(bucked: Bucked, system: str) -> dict[str, Any]:
    """The log from the side, bending shown by how far its moment lies from it."""
    log = bucked.log
    frame = fitted(
        LOGWIDE, 300, -0.06 * log.length, 1.06 * log.length, -0.24 * log.length, 0.11 * log.length, margin=10
    )
    half = max(log.butt / 2.0, 0.012 * log.length)
    lean = max(log.tip / 2.0, 0.008 * log.length)
    biggest = max(abs(bucked.bending.moment).max(), 1.0)
    curve = [
        (float(x), -0.165 * log.length - 0.05 * log.length * float(m) / biggest)
        for x, m in zip(bucked.bending.x, bucked.bending.moment, strict=True)
    ]
    return {
        "frame": frame,
        "body": frame.points(((0, half), (log.length, lean), (log.length, -lean), (0, -half))),
        "curve": frame.points(curve),
        "zero": (frame.x(0), frame.y(-0.165 * log.length), frame.x(log.length)),
        "area": frame.points([(0, -0.165 * log.length), *curve, (log.length, -0.165 * log.length)]),
        "supports": [
            {"n": i, "x": frame.x(at), "y": frame.y(-half), "load": label(load, "force", system), "lifts": load <= 0.0}
            for i, (at, load) in enumerate(zip(log.supports, bucked.bending.loads, strict=True))
        ],
        "cuts": [
            {
                "n": i,
                "x": frame.x(at),
                "top": frame.y(half + 0.012 * log.length),
                "low": frame.y(-half - 0.012 * log.length),
                "order": cut.order,
                "tension": cut.tension,
                "ty": frame.y(half * 0.6 if cut.tension == "top" else -half * 0.6),
                "handle": frame.y(half + 0.055 * log.length),
            }
            for i, (at, cut) in enumerate((a, next(c for c in bucked.cuts if c.at == a)) for a in bucked.asked)
        ],
        "bar": frame.bar(system),
        "ends": (frame.x(0), frame.x(log.length), frame.y(half)),
    }
