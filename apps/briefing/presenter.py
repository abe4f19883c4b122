"""Everything the brief shows of a tree."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any
from urllib.parse import quote

from apps.briefing import planner
from apps.felling.planner import evaluated, plan_for
from apps.felling.presenter import bench
from apps.jobs.planner import common_name
from apps.survey.body_planner import weak_said
from apps.survey.planner import used_readings, walk_up
from apps.takedown.brief import sheet
from cantrel import quantities
from cantrel.answers import or_broken

if TYPE_CHECKING:
    from apps.felling.models import FellingPlan
    from apps.jobs.models import Job, Tree
    from apps.takedown.brief import WorkedTakedown

KEY = (
    "mass",
    "hinge_length",
    "back_offset",
    "thin",
    "thick",
    "lift",
    "needed",
    "available",
    "gust",
    "closing",
    "commit",
    "reach",
    "zone",
)


def _measured(tree: Tree, system: str) -> list[dict[str, Any]]:
    rows = []
    for row in used_readings(tree):
        dimension = "girth" if row["quantity"] == "diameter" else "length"
        rows.append({**row, "shown": quantities.text(row["result"].value, dimension, system)})
    return rows


def calls(said: str) -> list[dict[str, str]]:
    """Every number in what was said of whom to call, each to be called by itself."""
    found = re.findall(r"[+*#]?\d[\d ()/-]*\d", said)
    return [{"number": re.sub(r"[^\d+*#]", "", number), "shown": number} for number in found]


def map_link(job: Job) -> str:
    """Where the job is, for whatever map a phone has: its place where it was given, with its address."""
    place = f"{job.origin_lat:.6f},{job.origin_lon:.6f}" if job.origin_lat is not None else "0,0"
    return f"geo:{place}?q={quote(job.address)}"


def whole(tree: Tree, plan: dict[str, Any], worked: WorkedTakedown | None, system: str) -> dict[str, Any]:
    """What was found, measured and signed, and the plan: the list of picks, and the felling where there is one."""
    row, blocked = plan_for(tree), planner.blocks(tree, worked)
    return {
        "signed": planner.signed_state(tree, plan, blocked),
        "earlier": tree.signoffs.defer("document", "results").all(),
        "blocks": blocked,
        "crew": planner.crew_of(tree),
        "hazards": [r for r in walk_up(tree) if r["answer"] and r["answer"].finding == "present"],
        "calls": calls(tree.job.emergency_number),
        "map_link": map_link(tree.job),
        "plan_row": row,
        "species": common_name(tree),
        "measured": _measured(tree, system),
        "worths": [t for t in tree.job.targets.all() if t.worth],
        "sections": planner.in_sections(row),
    } | or_broken(lambda: _planned(tree, row, worked, system), system)


def _planned(tree: Tree, row: FellingPlan, worked: WorkedTakedown | None, system: str) -> dict[str, Any]:
    found: dict[str, Any] = {"takedown": sheet(worked, system)}
    return found if planner.in_sections(row) else found | or_broken(lambda: _felled(tree, system), system)


def _felled(tree: Tree, system: str) -> dict[str, Any]:
    felling = evaluated(tree)
    figures = [quantities.figure(felling.result.figures[k], system) for k in KEY]
    weak = weak_said(felling.given.tree, system)
    shown = bench(felling, system, tall=330)
    close = [
        limit for limit in shown["limits"] if limit["shape"] != "within" and limit["key"] != shown["ruling"]["key"]
    ]
    return shown | {"weak": weak, "key_figures": figures, "close": close}
