"""A load cell's trace as it is seen: live figures, the curve with its peak and its gaps."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.daybook import cell_planner, work_planner
from cantrel import quantities

if TYPE_CHECKING:
    from apps.daybook.models import Trace
    from apps.jobs.models import Tree

WIDE, TALL, LEFT, FOOT = 640, 260, 46, 28
LATE = 3.0  # without a second for so long, the cell is said to be silent [s]


def live(trace: Trace, system: str) -> dict[str, Any]:
    """What a trace says now, in words and the reader's units."""
    found = cell_planner.now(trace)
    silent = trace.open and (found.ago is None or found.ago > LATE)
    return {
        "value": _force(found.value, system),
        "peak": _force(found.peak, system),
        "seconds": found.seconds,
        "open": trace.open,
        "said": _said(found, silent),
    }


def _force(value: float | None, system: str) -> str:
    return "–" if value is None else quantities.text(value, "force", system, 1)


def _said(found: cell_planner.Now, silent: bool) -> str:
    parts = []
    if silent:
        parts.append(gettext("Nothing comes from the cell: is it on, and does its reader run?"))
    if found.silent > 0.0:
        parts.append(gettext("Silent for {s:.1f} s in all: a peak may be missing.").format(s=found.silent))
    if found.rubbish:
        parts.append(gettext("{n} lines were no readings.").format(n=found.rubbish))
    if found.jumped:
        parts.append(gettext("Its unit changed on the way; every reading was taken in its own."))
    return " ".join(parts)


def shown(tree: Tree, pick: str, system: str) -> dict[str, Any]:
    """Traces of a pick: the newest drawn, the others listed."""
    traces = cell_planner.traces_of(tree, pick)
    newest = traces[0] if traces else None
    planned = work_planner.planned(tree, pick)
    return {
        "trace": newest,
        "live": live(newest, system) if newest else None,
        "drawing": drawing(newest, planned, system) if newest else None,
        "earlier": [{"row": t, "peak": _force(cell_planner.peak(t), system)} for t in traces[1:]],
        "fits": _fits(newest, system) if newest and not newest.open else {},
    }


def _fits(trace: Trace, system: str) -> dict[str, str]:
    """What of a trace goes into a record: its peak, and what hung at its end as a weight."""
    peak, mass = cell_planner.peak(trace), cell_planner.weighed(trace)
    found = {}
    if peak is not None and trace.where != "piece":
        found[f"peak_{trace.where}"] = quantities.exact(peak, "force", system).split("\xa0")[0]
    if mass is not None:
        found["hung"] = quantities.text(mass, "mass", system)
    return found


def drawing(trace: Trace, planned: dict[str, Any], system: str) -> dict[str, Any] | None:
    """The curve of a trace over time, its peak marked, with the interval the plan had of it."""
    runs = cell_planner.curve(trace)
    if not runs:
        return None
    plan = planned.get(f"peak_{trace.where}")
    last = max(run[-1][0] for run in runs) or 1.0
    top = max([force for run in runs for _, force in run] + (plan[1:] if plan else []) + [1.0])
    x = lambda at: round(LEFT + (WIDE - LEFT - 8) * at / last, 1)  # noqa: E731
    y = lambda force: round(TALL - FOOT - (TALL - FOOT - 16) * max(force, 0.0) / top, 1)  # noqa: E731
    at, peak = max((row for run in runs for row in run), key=lambda row: row[1])
    found = {
        "width": WIDE,
        "height": TALL,
        "left": LEFT,
        "foot": TALL - FOOT,
        "runs": [" ".join(f"{x(t)},{y(f)}" for t, f in run) for run in runs],
        "gaps": [(x(a[-1][0]), x(b[0][0])) for a, b in pairwise(runs)],
        "peak": (x(at), y(peak)),
        "peak_said": quantities.text(peak, "force", system, 1),
        "top": quantities.text(top, "force", system),
        "last": f"{last:.0f} s",
    }
    if plan:
        found["plan"] = {"top": y(plan[2]), "tall": round(y(plan[1]) - y(plan[2]), 1), "at": y(plan[0])}
    return found
