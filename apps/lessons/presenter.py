"""Lessons as they are read: bias and spread with counts, plots, the yard's own wood and pace, a job's review."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from apps.daybook.models import FELLING
from apps.lessons import planner
from apps.takedown.wording import method_name
from cantrel import quantities
from cantrel.limits import VERDICTS
from cantrel.limitwords import WORDS
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from apps.crews.models import Crew
    from apps.jobs.models import Job
    from apps.lessons.planner import Group, Reviewed, Wood
    from treecore.learning.bias import Learnt

KINDS = {
    "mass": (gettext_lazy("Mass of pieces"), "mass"),
    "peak_point": (gettext_lazy("Peak at the rigging point"), "force"),
    "peak_base": (gettext_lazy("Peak at the device"), "force"),
    "hand": (gettext_lazy("Force in the hand"), "small_force"),
    "seconds": (gettext_lazy("Time"), "time"),
    "height": (gettext_lazy("Height"), "length"),
    "lay": (gettext_lazy("Lay, clockwise of the plan"), "fine_angle"),
    "wraps": (gettext_lazy("Wraps, more than planned"), "ratio"),
    "run": (gettext_lazy("Rope let run, more than planned"), "length"),
    "hinge_left": (gettext_lazy("Hinge left, left end, more than planned"), "cut"),
    "hinge_right": (gettext_lazy("Hinge left, right end, more than planned"), "cut"),
}
BY = {
    "": gettext_lazy("all together"),
    "who": gettext_lazy("by who estimated"),
    "species": gettext_lazy("by species"),
    "method": gettext_lazy("by method"),
}
SIDE, MARGIN, DOTS = 300, 40, 400
FEW = 5  # records from which a bias is worth reading


def shown(crew: Crew, by: str, system: str) -> dict[str, Any]:
    """Everything the page of lessons shows."""
    found = planner.lessons(crew)
    grouped = planner.groups(found, by)
    whole = grouped if not by else planner.groups(found)
    return {
        "by": by,
        "choices": list(BY.items()),
        "groups": [_group(group, by, system) for group in grouped],
        "plots": [_plot(group, system) for group in whole if group.bias],
        "woods": [_wood(wood, system) for wood in planner.woods(crew)],
        "pace": _pace(planner.pace(crew, found)),
        "frictions": [
            {"row": row, "found": quantities.estimate(row.found, "ratio", system)} for row in planner.frictions(crew)
        ],
        "records": len({(lesson.tree, lesson.kind, lesson.pair) for lesson in found}),
    }


def _group(group: Group, by: str, system: str) -> dict[str, Any]:
    name, dimension = KINDS[group.kind]
    found: dict[str, Any] = {"kind": group.kind, "name": name, "named": _named(group.named, by)}
    if group.bias:
        bias = group.bias
        known = math.isfinite(bias.low)
        return found | {
            "records": bias.records,
            "mean": _percent(bias.over),
            "raw": quantities.raw(bias.mean),
            "between": _between(bias.low, bias.high) if known else gettext("not known from one record"),
            "spread": _percent(math.expm1(bias.spread), sign=False) if known else "–",
            "inside": f"{100.0 * bias.inside:.0f}\xa0%",
            "few": bias.records < FEW,
        }
    offset = group.offset
    return found | {
        "records": offset.records,
        "mean": _signed(offset.mean, dimension, system),
        "raw": quantities.raw(offset.mean),
        "spread": quantities.text(offset.spread, dimension, system) if math.isfinite(offset.spread) else "–",
        "few": offset.records < FEW,
    }


def _named(name: str, by: str) -> str:
    """What a group has in common, in words: who, a species' common name, a way of taking a piece."""
    if not by or not name:
        return gettext("not said") if by else ""
    if by == "species":
        return gettext(planner.find(name).common)
    if by == "method":
        return gettext("felling") if name == FELLING else str(method_name(name))
    return name


def _percent(share: float, sign: bool = True) -> str:
    text = f"{100.0 * share:+.0f}" if sign else f"{100.0 * share:.0f}"
    return text.replace("-", "−") + "\xa0%"


def _between(low: float, high: float) -> str:
    return gettext("{low} to {high}").format(low=_percent(math.expm1(low)), high=_percent(math.expm1(high)))


def _signed(value: float, dimension: str, system: str) -> str:
    return ("+" if value > 0 else "") + quantities.text(value, dimension, system)


def _plot(group: Group, system: str) -> dict[str, Any]:
    """Actual over estimate, both on the same scale: above the line was more than estimated."""
    name, dimension = KINDS[group.kind]
    pairs = [lesson.pair for lesson in group.lessons][-DOTS:]
    most = max(max(p.value, p.actual) for p in pairs)
    scale = (SIDE - MARGIN - 10) / most
    x = lambda value: round(MARGIN + value * scale, 1)  # noqa: E731
    y = lambda value: round(SIDE - MARGIN - value * scale, 1)  # noqa: E731
    dots = [
        {
            "x": x(p.value),
            "y": y(p.actual),
            "low": x(p.low),
            "high": x(min(p.high, most)),
            "out": not p.low <= p.actual <= p.high,
        }
        for p in pairs
    ]
    return {
        "name": name,
        "side": SIDE,
        "zero": (x(0.0), y(0.0)),
        "top": (x(most), y(most)),
        "most": quantities.text(most, dimension, system),
        "dots": dots,
        "records": len(group.lessons),
    }


def _wood(wood: Wood, system: str) -> dict[str, Any]:
    before, after = wood.learnt.before, wood.learnt.after
    row = wood.row
    current = row is not None and abs((row.density or 0.0) - after.value) < 0.5
    return {
        "key": wood.key,
        "name": gettext(planner.find(wood.key).common),
        "pieces": wood.pieces,
        "trees": wood.trees,
        "published": quantities.estimate(before, "density", system),
        "learnt": quantities.estimate(after, "density", system),
        "raw": quantities.raw(after.value),
        "row": row,
        "current": current,
        "used": row.trees.count() if row else 0,
    }


def _pace(found: Learnt) -> dict[str, Any]:
    after = found.after
    return {
        "records": found.records,
        "value": f"{after.value:.2f}",
        "between": gettext("{low} to {high}").format(low=f"{after.low:.2f}", high=f"{after.high:.2f}"),
    }


def reviewed(job: Job, system: str) -> dict[str, Any]:
    """A job's review: each tree's time, mass, peaks, and its near misses."""
    return {"trees": [_reviewed(row, system) for row in planner.review(job)]}


def _reviewed(row: Reviewed, system: str) -> dict[str, Any]:
    return {
        "tree": row.tree,
        "works": row.works,
        "changed": sum(work.done != "planned" for work in row.works),
        "time": _sums(row.seconds, lambda s: gettext("{n} min").format(n=f"{s / 60.0:.0f}")),
        "mass": _sums(row.mass, lambda m: quantities.text(m, "mass", system)),
        "peaks": row.peaks,
        "peaks_over": row.peaks_over,
        "felling": row.felling,
        "lay": _lay(row, system),
        "wraps": _wraps(row),
        "misses": [{"of": of, "said": said, "ruling": _ruling(ruling)} for of, said, ruling in row.misses],
    }


def _lay(row: Reviewed, system: str) -> str:
    if row.felling is None or row.felling.lay is None or not row.felling.planned:
        return ""
    return _signed(planner.lay_difference(row.felling.planned["lay"][0], row.felling.lay), "fine_angle", system)


def _wraps(row: Reviewed) -> int:
    """Picks done on other wraps than planned."""
    both = [(work.planned.get("wraps"), work.wraps) for work in row.works if work.wraps is not None]
    return sum(planned is not None and planned != read for planned, read in both)


def _sums(sums: tuple[float, float, int], said: Any) -> dict[str, Any] | None:
    planned, actual, count = sums
    if not count or not planned:
        return None
    return {"planned": said(planned), "actual": said(actual), "count": count, "more": _percent(actual / planned - 1.0)}


def _ruling(kept: dict[str, Any] | None) -> str:
    """What the plan had said of it."""
    if not kept:
        return gettext("the plan had no limit of it")
    name = gettext(WORDS[kept["key"]].name) if kept["key"] in WORDS else kept["key"]
    return gettext("the plan said: {name}, {verdict}").format(
        name=name.lower(), verdict=VERDICTS[Verdict(kept["verdict"])]
    )
