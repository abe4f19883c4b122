"""What the takedown bench shows: the picks in order, one pick in words and figures, and the way up."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.takedown import cutfigures, picture, planner, wording
from cantrel import quantities
from cantrel.limits import limit_said, worst_first

if TYPE_CHECKING:
    from apps.takedown.models import TakedownPlan
    from apps.takedown.planner import Row, Scene
    from treecore.takedown.peak_forces import Forces
    from treecore.takedown.pick_result import HeldPick


def shown(
    scene: Scene, picks: list[dict[str, Any]], name: str, view: float, system: str, near: bool = False
) -> dict[str, Any]:
    """Everything the bench shows of the picks, the one of that id in full."""
    rows = planner.work_out(scene, picks)
    picked = next((i for i, pick in enumerate(picks) if pick.get("id") == name), -1)
    row = rows[picked] if picked >= 0 else None
    beside = [picks[i]["id"] if 0 <= i < len(picks) and picked >= 0 else "" for i in (picked - 1, picked + 1)]
    left = planner.left_standing(scene, rows)
    orders = planner.orders(scene, rows)
    found = {
        "units": system,
        "picked": picked,
        "name": name,
        "before": beside[0],
        "after": beside[1],
        "count": len(rows),
        "elevation": picture.elevation(scene, row, view, system, left, near),
        "near": int(near),
        "above": picture.above(scene, row, system),
        "setups": _setups(picks, picked),
        "list": picture.listed(rows, orders, picked, system, wording),
        "row": row,
        "broken": "",
        "view": round(math.degrees(view)) % 360,
        "cautions": wording.CAUTIONS,
        "left": quantities.text(planner.standing_mass(scene, rows), "mass", system),
        "tally": wording.tally(rows),
        "whole": wording.worst(planner.worst(rows), rows, system),
    }
    if row:
        what = row.entry["member"] or gettext("stem")
        found["this_pick"] = gettext("This pick · {number}, {what}").format(number=picked + 1, what=what)
        found |= _of_pick(scene, row, system)
    return found


def _setups(picks: list[dict[str, Any]], picked: int) -> list[dict[str, Any]]:
    """Set-ups to take the picked pick on, the one it is on marked."""
    on = picks[picked].get("setup", "") if picked >= 0 else ""
    return [{"name": n, "count": c, "on": n == on} for n, c in planner.setup_names(picks)]


def _of_pick(scene: Scene, row: Row, system: str) -> dict[str, Any]:
    """One pick in words and figures."""
    if row.error:
        return {"broken": gettext("Pick refused: {refused}").format(refused=wording.refused(row.error, system))}
    piece = row.step.piece
    limits = worst_first(row.limits, system)
    tried = [wording.change(c, system) for c in planner.changes_of(scene, row)]
    links = picture.links(planner.chain_of(row), system)
    return {
        "corrected": wording.corrected(row.corrected),
        "fullest": next((x for x in links if x["weakest"]), None),
        "ruling": limit_said(row.ruling, system) if row.ruling else None,
        "limits": limits,
        "tried": tried,
        "fails": any(x["shape"] in ("over", "unknown") for x in limits),
        "piece": {
            "foliage": quantities.text(piece.foliage, "mass", system),
            "mass": quantities.estimate(piece.mass, "mass", system),
            "raw": quantities.raw(piece.mass.value),
            "length": quantities.text(piece.length, "length", system),
            "balance": quantities.estimate(piece.balance, "length", system),
            "thick": quantities.text(piece.diameter, "girth", system),
        },
        "forces": _forces(scene, row, row.held.forces, system) if row.held else None,
        "links": links,
        "cut": cutfigures.rows(scene, row, system),
        "besides": _besides(scene, row, system),
        "decides": _decides(row, system),
        "method": planner.method(row.pick.method),
        "way": _way(row.held, system) if row.held else None,
    }


def _decides(row: Row, system: str) -> list[dict[str, str]]:
    """The three figures that decide a pick: piece, on the point, at the hand; of a free one its size."""
    piece = row.step.piece
    found = [quantities.deciding(gettext("Piece"), piece.mass, "mass", system)]
    if not row.held:
        long = quantities.deciding(gettext("Length"), piece.length, "length", system)
        thick = quantities.deciding(gettext("At the cut"), piece.diameter, "girth", system)
        return [*found, long, thick]
    forces = row.held.forces
    held = {x.key: x.allowed for x in row.limits if x.allowed is not None}
    carries = planner.carries_at_point(row)
    of_point = gettext("of {may}").format(may=quantities.text(carries, "force", system)) if carries else ""
    may = held.get("hand")
    of_hand = gettext("of {may}").format(may=quantities.text(may.value, "small_force", system)) if may else ""
    return [
        *found,
        quantities.deciding(gettext("On the point"), forces.on_point, "force", system, of_point),
        quantities.deciding(gettext("At the hand"), forces.hand, "small_force", system, of_hand),
    ]


def _forces(scene: Scene, row: Row, f: Forces, system: str) -> dict[str, Any]:
    pick = row.pick

    def kn(value: Any) -> Any:
        return quantities.text(value, "force", system) if value is not None else ""

    taken, force = f.taken(pick.pretension), f.anchor
    return {
        "schools": _schools(f, system),
        "fall": quantities.text(f.drop_height, "offset", system),
        "point": quantities.estimate(f.on_point, "force", system),
        "raw_point": quantities.raw(f.on_point.value),
        "passed": f"{100 * f.tension_ratio:.0f} %",
        "hand": quantities.estimate(f.hand, "small_force", system),
        "raw_hand": quantities.raw(f.hand.value),
        "wraps": wording.wraps(f.wraps),
        "thumb": f"{f.thumb:g}",
        "needed": quantities.text(f.needed, "length", system),
        "along": kn(force.along) if force else "",
        "across": kn(force.across) if force else "",
        "lever": kn(f.lever),
        "raw_lever": quantities.raw(f.lever or 0),
        "lifts": "" if taken is None else f"{100 * taken:.0f} %",
        "far": kn(f.far_anchor.load.value if f.far_anchor else None),
        "on_lead": kn(f.redirect.load.value if f.redirect else None),
        "wood": _wood(f, system),
        "course": wording.course(f.course, pick.held, system) if f.course else "",
        "stiffness": wording.stiffness(pick.gear.get("rope"), f.known, system),
        "friction": wording.friction(*planner.friction_used(pick)),
        "devices": _devices(row),
        "ways": _over(scene, row, system),
    }


def _schools(f: Forces, system: str) -> list[dict[str, Any]]:
    """Peaks by every school, the motion first; the one that counts is marked."""
    rows = [
        (gettext("By its motion on the rope"), f.peaks.motion, "motion"),
        (gettext("On its hinge, at most"), f.peaks.lever, "lever"),
        (gettext("Hanging still"), f.peaks.static, "still"),
        (gettext("Locked, all its fall into the rope"), f.peaks.elastic, "stretch"),
        (gettext("Let run by these wraps"), f.peaks.let_run, "run"),
        (gettext("By the field rule"), f.peaks.field, "field"),
    ]
    if f.peaks.school == "span":
        rows = [
            (gettext("Let go onto the line"), f.peaks.governing, "span"),
            (gettext("Hanging still on it"), f.peaks.static, "still"),
        ]
    return [
        {
            "name": name,
            "value": quantities.estimate(e, "force", system),
            "raw": quantities.raw(e.value),
            "counts": key == f.peaks.school,
        }
        for name, e, key in rows
        if e is not None
    ]


def _wood(f: Forces, system: str) -> dict[str, Any]:
    """What carries the point: where it is stressed most, and how much it is bent, turned and leans on its roots."""
    if f.wood is None:
        return None
    return {
        "stress": quantities.estimate(f.wood.stress, "fine_strength", system),
        "where": wording.bends_at(f.wood.anchor, system),
        "twist": quantities.estimate(f.wood.twist, "fine_strength", system),
        "turning": quantities.estimate(f.wood.turning, "moment", system),
        "raw": quantities.raw(f.wood.stress.value),
    }


def _devices(row: Row) -> list[dict[str, Any]]:
    """Wraps on every device, the one in use marked."""
    return [
        {
            "name": d.name,
            "used": d.key == row.pick.device,
            "most": gettext("by its setting") if d.settings else f"{d.most:g}",
            "base": "" if d.settings else f"{d.base.value:g}",
            "wraps": wording.wraps(w),
        }
        for d, w in planner.wraps_table(row.held)
    ]


def _over(scene: Scene, row: Row, system: str) -> list[dict[str, Any]]:
    """What the point carries over a block and over a fork, still and at the peak."""
    own, other = row.held.forces, planner.other_point(scene, row)
    both = [(row.pick.point.fork, own)] + ([(not row.pick.point.fork, other)] if other else [])
    return [
        {
            "name": gettext("Over a natural fork") if fork else gettext("Over a block"),
            "used": f is own,
            "passed": f"{100 * f.tension_ratio:.0f} %",
            "peak": quantities.text(f.on_point.value, "force", system),
            "still": quantities.text(f.on_point_still, "force", system),
            "raw": quantities.raw(f.on_point.value),
            "leg": quantities.text(f.peaks.governing.value, "force", system),
        }
        for fork, f in sorted(both, key=lambda b: b[0])
    ]


def _besides(scene: Scene, row: Row, system: str) -> list[dict[str, str]]:
    """Second tie, free fall, the line beside and the climber as facts: label and value."""
    found, worked, pick = [], row.worked, row.pick
    shares = planner.shares(worked)
    if shares:
        found += [
            (gettext("First tie carries"), shares.first, "force"),
            (gettext("Second tie carries"), shares.second, "force"),
        ]
    if shares and shares.first_leg:
        found += [
            (gettext("First leg"), shares.first_leg, "offset"),
            (gettext("Second leg"), shares.second_leg, "offset"),
        ]
    if pick.method == "free":
        force = planner.ground_force(worked)
        found += [
            (gettext("Energy at the ground"), planner.energy(worked), "energy"),
            (gettext("May come to, from under its balance"), planner.spread(worked), "length"),
            (gettext("Mean force on the ground"), force.value, "force"),
            (gettext("at least"), force.low, "force"),
            (gettext("at most"), force.high, "force"),
        ]
    if row.held and row.held.put.aside > 0.0:
        put = row.held.put
        found += [
            (gettext("Put down beside the point by"), put.aside, "length"),
            (gettext("Tag line at the ground"), put.least, "small_force"),
            (gettext("Tag line high up"), put.most, "small_force"),
        ]
    return [
        {
            "label": name,
            "value": quantities.text(v, d, system) if math.isfinite(v) else gettext("all the way round"),
            "raw": quantities.raw(v),
        }
        for name, v, d in found + _climber(scene, row)
    ]


def _climber(scene: Scene, row: Row) -> list[tuple[str, float, str]]:
    found = planner.climber_of(scene, row)
    if found is None:
        return []
    facts = [
        (gettext("Climber’s line off upright"), found.line.angle, "angle"),
        (gettext("Load on the tie-in"), found.loads[0] if found.loads else found.line.load, "force"),
        (gettext("Stance to the cut"), found.reach, "offset"),
        (gettext("Swing if a foot slips"), found.line.swing, "length"),
        (gettext("Line that reaches the ground"), found.line.need, "length"),
    ]
    return facts + ([(gettext("Load on the second tie-in"), found.loads[1], "force")] if found.loads else [])


def _way(held: HeldPick, system: str) -> dict[str, Any]:
    path = held.path
    heavy = {"tip": gettext("tips go down"), "butt": gettext("butt goes down"), "level": gettext("hangs about level")}[
        path.heavy
    ]
    return {
        "heavy": heavy,
        "hang": quantities.text(abs(path.hang), "angle", system),
        "angle": quantities.text(path.angle, "angle", system),
        "low": quantities.text(path.low, "length", system),
        "passes": [
            {"name": p.name, "gap": quantities.text(max(p.gap, 0.0), "length", system), "over": p.over}
            for p in held.passes[:6]
        ],
    }


def way_up(scene: Scene, plan: TakedownPlan, system: str) -> dict[str, Any]:
    worked = planner.access_of(scene, plan)
    drawing = {"drawing": picture.way_up(scene, plan.access, system)}
    if worked is None:
        return drawing
    _way, limits, load = worked
    return drawing | {
        "limits": worst_first(limits, system),
        "load": quantities.estimate(load, "force", system),
        "raw_load": quantities.raw(load.value),
    }
