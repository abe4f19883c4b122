"""The takedown on the brief: the tree with its cuts numbered, the list to work from, the way up."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, NamedTuple

from django.utils.translation import gettext

from apps.takedown import brief_rig, landings_picture, picture, planner, wording
from cantrel.drawing import compass, label
from cantrel.limits import SHAPES, limit_said, worst_first
from treecore.errors import CoreError

if TYPE_CHECKING:
    from apps.jobs.models import Tree
    from apps.takedown.models import TakedownPlan
    from apps.takedown.planner import Row, Scene


class WorkedTakedown(NamedTuple):
    """A takedown worked out: its plan, its scene and its picks; the last two None where the tree can't be computed."""

    plan: object
    scene: dict | None
    rows: list | None


def worked_picks(tree: Tree) -> WorkedTakedown | None:
    """Work out the picks of a tree once for everything that is said of them; None without any."""
    plan = planner.plan_for(tree)
    if not plan.picks:
        return None
    try:
        scene = planner.scene_of(tree)
    except CoreError:
        return WorkedTakedown(plan, None, None)
    return WorkedTakedown(plan, scene, planner.work_out(scene, plan.picks))


def sheet(worked: WorkedTakedown | None, system: str) -> dict[str, Any] | None:
    """A tree's picks as the crew reads them; None without any."""
    if worked is None or worked.scene is None:
        return None
    plan, scene, rows = worked
    return {
        "rows": [_row(scene, i, r, system) for i, r in enumerate(rows, start=1)],
        "worst": wording.worst(planner.worst(rows), rows, system),
        "drawing": picture.numbered(scene, rows, system),
        "landings": landings_picture.landings(scene, rows, system),
        "access": _access(scene, plan, system),
        "cautions": wording.CAUTIONS,
    }


def _row(scene: Scene, number: int, row: Row, system: str) -> dict[str, Any]:
    entry, piece = row.entry, row.step.piece if row.step else None
    shape, said = wording.verdict(row, system)
    return {
        "number": number,
        "what": entry.get("member") or gettext("stem"),
        "at": label(entry["at_m"], "length", system),
        "mass": label(piece.mass.value, "mass", system) if piece else "",
        "heaviest": label(piece.mass.high, "mass", system) if piece else "",
        "length": label(piece.length, "length", system) if piece else "",
        "method": wording.method_name(entry.get("method", planner.USUAL["method"])),
        "cut": planner.cut_name(entry.get("cut", planner.USUAL["cut"])),
        "faces": f"{entry['bearing_deg']:.0f}°" if entry.get("bearing_deg") is not None else "",
        "climber": _climber(entry.get("climber"), system),
        "goes": entry.get("landing") or _landing(row, system),
        "who": ", ".join(str(t) for t in (entry.get("handlers"), entry.get("talks"), entry.get("note")) if t),
        "shape": shape,
        "verdict": wording.verdict_word(row),
        "said": said,
        "close": _close(row, system),
        "rig": brief_rig.facts(row, system),
        "stands": _stands(scene, row, system),
    }


def _close(row: Row, system: str) -> list[dict[str, str]]:
    """Every limit of a pick that is not well within, worst first; the one that rules is said already."""
    return [x for x in worst_first(row.limits, system) if x["shape"] != "within"]


def _stands(scene: Scene, row: Row, system: str) -> str:
    """Where each person on the ground stands, as distance and compass from the stem."""
    site, found = scene.site, []
    for who in planner.standing(scene, row):
        east, north = who.place[0] - site.tree_x, who.place[1] - site.tree_y
        far = label(math.hypot(east, north), "length", system)
        found.append(f"{picture.STAND[who.role]} {far} {compass(math.atan2(east, north) % math.tau)}")
    return "; ".join(found)


def _climber(climber: dict[str, Any] | None, system: str) -> str:
    if not climber:
        return ""
    stem = gettext("stem")
    stands = f"{climber.get('stance_member') or stem} {label(climber['stance_m'], 'length', system)}"
    tie = climber.get("tie_tree") or climber.get("tie_member") or stem
    tied = f"{tie} {label(climber['tie_m'], 'length', system)}"
    second = (
        gettext(", and {second}").format(second=brief_rig.placed(climber["second"], system))
        if climber.get("second")
        else ""
    )
    return gettext("{stands}; tied in {tied}{second}").format(stands=stands, tied=tied, second=second)


def _landing(row: Row, system: str) -> str:
    """Where a piece comes to: by the name of a place of the site, and from the stem's foot."""
    if not row.pick or not row.pick.landing:
        return gettext("under its point") if row.held is not None else gettext("falls")
    east, north = row.pick.landing
    sides = ((east, gettext("east"), gettext("west")), (north, gettext("north"), gettext("south")))
    parts = [f"{label(abs(v), 'length', system)} {a if v > 0 else b}" for v, a, b in sides if abs(v) > 0.05]
    return ", ".join([name, *parts] if (name := row.entry.get("landing_on")) else parts)


def _access(scene: Scene, plan: TakedownPlan, system: str) -> dict[str, Any]:
    worked = planner.access_of(scene, plan)
    if worked is None:
        return None
    way, limits, _ = worked
    place = f"{way.member or gettext('stem')}, {label(way.at, 'length', system)}" if way.way == "throw" else ""
    bad = [b for b in (limit_said(x, system) for x in limits) if b["shape"] != "within"]
    over = ", ".join(f"{b['name'].lower()} {b['verdict']}" for b in bad)
    said = {k: plan.access.get(k, "") for k in ("down", "fallback")}
    return {"way": planner.way_name(way), "place": place, "spurs": way.spurs, "bad": over} | said


def blocking(tree: Tree, worked: WorkedTakedown | None = None) -> list[str]:
    """Why a takedown can't be signed: refused picks, and limits that are over or not known."""
    worked = worked or worked_picks(tree)
    if worked is None:
        return [gettext("No pick is planned yet")]
    if worked.scene is None:
        return [gettext("The picks can't be computed: the tree is refused")]
    reasons, (plan, scene, rows) = [], worked
    for number, row in enumerate(rows, start=1):
        if row.error:
            reasons.append(
                gettext("Pick {number} is refused: {refused}").format(
                    number=number, refused=wording.refused(row.error, "metric")
                )
            )
        elif row.ruling and SHAPES[row.ruling.verdict] in ("over", "unknown"):
            said = limit_said(row.ruling, "metric")
            reasons.append(
                gettext("Pick {number}: {name}, {verdict}").format(
                    number=number, name=said["name"].lower(), verdict=said["verdict"]
                )
            )
    return reasons + _way_up(scene, plan)


def _way_up(scene: Scene, plan: TakedownPlan) -> list[str]:
    """What of the way up is over or not known, and a climber without any."""
    worked = planner.access_of(scene, plan)
    if worked is None:
        return [gettext("Nobody said how the climber gets up")] if any(p.get("climber") for p in plan.picks) else []
    rows = [limit_said(x, "metric") for x in worked[1] if SHAPES[x.verdict] in ("over", "unknown")]
    return [
        gettext("Way up: {name}, {verdict}").format(name=said["name"].lower(), verdict=said["verdict"]) for said in rows
    ]
