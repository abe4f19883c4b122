"""The takedown bench: cuts placed on the tree, picks in order, one pick worked out whole."""

import math

from django.http import JsonResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.jobs import planner as jobs
from apps.takedown import cutfigures, picture, planner, wording
from apps.takedown.edits import DRAGS, changed
from apps.takedown.forms import GROUPS, ONLY_CUT, ONLY_FOR, ONLY_ON, AccessForm, CutForm, PickForm
from cantrel import quantities
from cantrel.limits import limit_said
from cantrel.steps import page
from treecore.errors import CoreError

FRAGMENTS = ("elevation", "above", "ruling", "forces", "list")


def _view(data, tree):
    text = data.get("view", "")
    return math.radians(int(text) % 360) if text.lstrip("-").isdigit() else planner.usual_view(tree)


def _shown(seen, picks, picked, view, system, near=False):
    """Everything the bench shows of the picks, the picked one in full."""
    rows = planner.run(seen, picks)
    row = rows[picked] if 0 <= picked < len(rows) else None
    seen["start"] = planner.left_standing(seen, rows)
    orders = planner.orders(seen, rows)
    shown = {
        "units": system, "picked": picked, "before": picked - 1, "after": picked + 1 if picked + 1 < len(rows) else -1, "count": len(rows), "elevation": picture.elevation(seen, row, view, system, near), "near": int(near), "above": picture.above(seen, row, system),
        "list": picture.listed(rows, orders, picked, system, wording), "row": row, "broken": "", "view": round(math.degrees(view)) % 360, "cautions": wording.CAUTIONS,
        "left": quantities.text(planner.standing_mass(seen, rows), "mass", system), "whole": wording.worst(planner.worst(rows), rows, system),
    }  # fmt: skip
    if row:
        shown |= _of_pick(seen, row, system)
    return shown


def _of_pick(seen, row, system):
    """One pick in words and figures."""
    if row["error"]:
        return {"broken": f"Pick refused: {wording.refused(row['error'], system)}"}
    piece, worked = row["step"].piece, row["worked"]
    limits = wording.worst_first(row["limits"], system)
    tried = [wording.change(c, system) for c in planner.changes_of(seen, row)]
    over = any(x["shape"] == "over" for x in limits)
    links = picture.links(planner.chain_of(row), system)
    return {
        "corrected": wording.corrected(row["corrected"]),
        "fullest": next((x for x in links if x["weakest"]), None),
        "ruling": limit_said(row["ruling"], system) if row["ruling"] else None, "limits": limits,
        "mends": [c for c in tried if c["mends"]][:2] if over else [], "tried": tried, "over": over,
        "piece": {
            "foliage": quantities.text(piece.foliage, "mass", system), "mass": quantities.estimate(piece.mass, "mass", system), "raw": f"{piece.mass.value:.9g}", "length": quantities.text(piece.length, "length", system),
            "balance": quantities.estimate(piece.balance, "length", system), "thick": quantities.text(piece.thick, "girth", system),
        },
        "forces": _forces(seen, row, system) if worked.forces else None, "links": links, "cut": cutfigures.rows(seen, row, system),
        "besides": _besides(seen, row, system),
        "method": planner.method(row["pick"].method), "way": _way(worked, system),
    }  # fmt: skip


def _forces(seen, row, system):
    f, pick = row["worked"].forces, row["pick"]

    def kn(value):
        return quantities.text(value, "force", system) if value is not None else ""

    taken, force = f.taken(pick.pretension), f.anchor
    return {
        "schools": _schools(f, system),
        "fall": quantities.text(f.fall, "offset", system),
        "point": quantities.estimate(f.on_point, "force", system),
        "raw_point": f"{f.on_point.value:.9g}",
        "passed": f"{100 * f.passed:.0f} %",
        "hand": quantities.estimate(f.hand, "small_force", system),
        "raw_hand": f"{f.hand.value:.9g}",
        "wraps": wording.wraps(f.wraps),
        "thumb": f"{f.thumb:g}",
        "needed": quantities.text(f.needed, "length", system),
        "along": kn(force.along) if force else "",
        "across": kn(force.across) if force else "",
        "lever": kn(f.lever),
        "raw_lever": f"{f.lever or 0:.9g}",
        "lifts": "" if taken is None else f"{100 * taken:.0f} %",
        "far": kn(f.far.value if f.far else None),
        "on_lead": kn(f.on_lead.value if f.on_lead else None),
        "wood": _wood(f, system),
        "course": wording.course(f.course, pick.held, system) if f.course else "",
        "stiffness": wording.stiffness(pick.gear.get("rope"), f.known, system),
        "friction": wording.friction(*planner.friction_used(row)),
        "devices": _devices(row),
        "ways": _over(seen, row, system),
    }


def _schools(f, system):
    """Peaks by every school, the motion first; the one that counts is marked."""
    rows = [
        ("By its motion on the rope", f.peaks.motion, "motion"),
        ("On its hinge, at most", f.peaks.lever, "lever"),
        ("Hanging still", f.peaks.still, "still"),
        ("Locked, all its fall into the rope", f.peaks.stretch, "stretch"),
        ("Let run by these wraps", f.peaks.run, "run"),
        ("By the field rule", f.peaks.field, "field"),
    ]
    if f.peaks.school == "span":
        rows = [("Let go onto the line", f.peaks.counts, "span"), ("Hanging still on it", f.peaks.still, "still")]
    return [
        {
            "name": name,
            "value": quantities.estimate(e, "force", system),
            "raw": f"{e.value:.9g}",
            "counts": key == f.peaks.school,
        }
        for name, e, key in rows
        if e is not None
    ]


def _wood(f, system):
    """What carries the point: where it is stressed most, and how much it is bent, turned and leans on its roots."""
    if f.wood is None:
        return None
    return {
        "stress": quantities.estimate(f.wood.stress, "fine_strength", system),
        "where": wording.bends_at(f.wood.anchor, system),
        "twist": quantities.estimate(f.wood.twist, "fine_strength", system),
        "turning": quantities.estimate(f.wood.turning, "moment", system),
        "raw": f"{f.wood.stress.value:.9g}",
    }


def _devices(row):
    """Wraps on every device, the one in use marked."""
    return [
        {
            "name": d.name,
            "used": d.key == row["pick"].device,
            "most": "by its setting" if d.settings else f"{d.most:g}",
            "base": "" if d.settings else f"{d.base.value:g}",
            "wraps": wording.wraps(w),
        }
        for d, w in planner.wraps_table(row)
    ]


def _over(seen, row, system):
    """What the point carries over a block and over a fork, still and at the peak."""
    own, other = row["worked"].forces, planner.other_point(seen, row)
    both = [(row["pick"].point.fork, own)] + ([(not row["pick"].point.fork, other)] if other else [])
    return [
        {
            "name": "Over a natural fork" if fork else "Over a block", "used": f is own, "passed": f"{100 * f.passed:.0f} %", "peak": quantities.text(f.on_point.value, "force", system),
            "still": quantities.text(f.on_point_still, "force", system), "raw": f"{f.on_point.value:.9g}",
            "leg": quantities.text(f.peaks.counts.value, "force", system),
        }
        for fork, f in sorted(both, key=lambda b: b[0])
    ]  # fmt: skip


def _besides(seen, row, system):
    """Second tie, free fall, the line beside and the climber as facts: label and value."""
    found, worked, pick = [], row["worked"], row["pick"]
    shares = planner.shares(worked)
    if shares:
        found += [("First tie carries", shares.first, "force"), ("Second tie carries", shares.second, "force")]
    if shares and shares.first_leg:
        found += [("First leg", shares.first_leg, "offset"), ("Second leg", shares.second_leg, "offset")]
    if pick.method == "free":
        force = planner.ground_force(worked)
        found += [
            ("Energy at the ground", planner.energy(worked), "energy"),
            ("May come to, from under its balance", planner.spread(worked), "length"),
            ("Mean force on the ground", force.value, "force"), ("at least", force.low, "force"), ("at most", force.high, "force"),
        ]  # fmt: skip
    if worked.put and worked.put.aside > 0.0:
        found += [
            ("Put down beside the point by", worked.put.aside, "length"),
            ("Tag line at the ground", worked.put.least, "small_force"), ("Tag line high up", worked.put.most, "small_force"),
        ]  # fmt: skip
    return [
        {
            "label": name,
            "value": quantities.text(v, d, system) if math.isfinite(v) else "all the way round",
            "raw": f"{v:.9g}",
        }
        for name, v, d in found + _climber(seen, row)
    ]


def _climber(seen, row):
    found = planner.climber_of(seen, row)
    if found is None:
        return []
    facts = [
        ("Climber’s line off upright", found.line.angle, "angle"), ("Load on the tie-in", found.loads[0] if found.loads else found.line.load, "force"),
        ("Stance to the cut", found.reach, "offset"), ("Swing if a foot slips", found.line.swing, "length"), ("Line that reaches the ground", found.line.need, "length"),
    ]  # fmt: skip
    return facts + ([("Load on the second tie-in", found.loads[1], "force")] if found.loads else [])


def _way(worked, system):
    if worked.path is None:
        return None
    path = worked.path
    heavy = {"tip": "tips go down", "butt": "butt goes down", "level": "hangs about level"}[path.heavy]
    return {
        "heavy": heavy, "hang": quantities.text(abs(path.hang), "angle", system), "angle": quantities.text(path.angle, "angle", system), "low": quantities.text(path.low, "length", system),
        "passes": [{"name": p.name, "gap": quantities.text(max(p.gap, 0.0), "length", system), "over": p.over} for p in worked.passes[:6]],
    }  # fmt: skip


def _panel(seen, picks, picked, system):
    """The form of the picked pick."""
    if not 0 <= picked < len(picks):
        return None
    return PickForm(units=system, choices=planner.choices(seen), entry=picks[picked])


def _grouped(form):
    """Fields by group, each with the ways of taking a piece and the devices that ask for it, empty for all."""
    if not form:
        return []
    return [
        (title, [(form[n], ONLY_FOR.get(n, ""), ONLY_ON.get(n, ""), ONLY_CUT.get(n, "")) for n in names])
        for title, names in GROUPS
    ]


@permission("plan.view", "plan.change")
def takedown(request, job_id, tree_id):
    """The takedown bench; a POST previews or saves and answers with what changed."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    plan = planner.plan_for(tree)
    if request.method == "POST":
        return _answer(request, tree, plan)
    context = {"writes": allowed(request.user, "plan.change"), "plan": plan}
    try:
        seen = planner.scene(tree)
        number = request.GET.get("pick", "1")
        picked = min(int(number) - 1 if number.isdigit() else 0, len(plan.picks) - 1)
        form = _panel(seen, plan.picks, picked, request.units)
        context |= _shown(seen, plan.picks, picked, _view(request.GET, tree), request.units) | {
            "groups": _grouped(form),
            "cut_form": CutForm(units=request.units, members=planner.choices(seen)["members"]),
        }
    except CoreError as error:
        context["broken"] = quantities.explain(error, request.units)
    return render(request, "takedown/takedown.html", page(request, tree, "takedown", **context))


def _answer(request, tree, plan):
    data, system = request.POST, request.units
    try:
        seen = planner.scene(tree)
        picks, picked, view, panel = changed(data, seen, plan.picks, _view(data, tree), system)
    except CoreError as error:
        return JsonResponse({"errors": {"__all__": [quantities.explain(error, system)]}, "fragments": {}})
    except (ValueError, KeyError, TypeError, IndexError):
        return JsonResponse(
            {"errors": {"__all__": ["That was no change of this takedown; nothing was changed."]}, "fragments": {}}
        )
    if isinstance(picks, PickForm | CutForm):
        return JsonResponse({"errors": picks.errors, "fragments": {}})
    near = (data.get("near") == "1") != (data.get("handle") == "near")
    context = _shown(seen, picks, picked, view, system, near)
    if data.get("handle") == "order":
        context["proposal"] = wording.proposal(planner.proposal(seen, picks), context["list"])
    saved = data.get("save") == "1"
    if saved:
        planner.keep(plan, picks)
    fragments = {n: render_to_string(f"takedown/_{n}.html", context) for n in FRAGMENTS}
    errors = {}
    if panel:
        form = _panel(seen, picks, picked, system)
        fragments["panel"] = render_to_string("takedown/_panel.html", {"groups": _grouped(form), "picked": picked})
    if context["row"] is not None and context["row"]["error"] is not None:
        form = PickForm(data, units=system, choices=planner.choices(seen))
        form.is_valid()
        form.refuse(context["row"]["error"])
        errors = {} if panel else form.errors
    values = {"view": context["view"], "picked": picked, "near": int(near)}
    return JsonResponse(
        {
            "errors": errors,
            "values": values | _typed(picks, picked, data, system, planner.choices(seen)),
            "notes": {} if panel else _understood(data, seen, system),
            "saved": saved,
            "fragments": fragments,
        }
    )


def _understood(data, seen, system):
    """What was made of what was typed with units, commas or fractions."""
    if "at_m" not in data:
        return {}
    return PickForm(data, units=system, choices=planner.choices(seen)).understood()


def _typed(picks, picked, data, system, choices):
    """Values of the fields a drag has changed, as a person would type them."""
    if not 0 <= picked < len(picks):
        return {}
    proposed = picks[picked].get("point") and data.get("point_m") == ""
    if data.get("handle", "").split(" ")[0] not in DRAGS and not proposed:
        return {}
    form = PickForm(units=system, entry=picks[picked], choices=choices)
    return {n: form[n].value() if form[n].value() is not None else "" for n in DRAGGED}


DRAGGED = (
    "at_m", "tie_m", "point_on", "point_m", "lead_on", "lead_m", "stance_member", "stance_m", "tie_on", "tie_in_m", "second_on", "second_in_m",
    "land_east", "land_north", "device_east", "device_north", "bearing_deg",
)  # fmt: skip


@permission("plan.view", "plan.change")
def access(request, job_id, tree_id):
    """The way up and down: the first line over its fork, and what it has to stand."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    plan, writes = planner.plan_for(tree), allowed(request.user, "plan.change")
    context = {"writes": writes, "cautions": wording.CAUTIONS}
    try:
        seen = planner.scene(tree)
        stored = {"line_m": 45.0, **plan.access}
        posted = request.POST if request.method == "POST" else None
        form = AccessForm(posted, units=request.units, stored=stored, members=planner.choices(seen)["members"])
        if posted is not None and form.run(lambda v: planner.keep_access(seen, plan, v) or True):
            return redirect("takedown-access", job_id, tree_id)
        context |= {"form": form} | _way_up(seen, plan, request.units)
    except CoreError as error:
        context["broken"] = quantities.explain(error, request.units)
    return render(request, "takedown/access.html", page(request, tree, "takedown", **context))


def _way_up(seen, plan, system):
    worked = planner.access_of(seen, plan)
    drawing = {"drawing": picture.way_up(seen, plan.access, system)}
    if worked is None:
        return drawing
    _way, limits, load = worked
    return drawing | {
        "limits": wording.worst_first(limits, system), "load": quantities.estimate(load, "force", system), "raw_load": f"{load.value:.9g}",
    }  # fmt: skip


@require_POST
@permission("plan.change")
def undo(request, job_id, tree_id):
    """Take back the last change of the takedown."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    planner.undo(planner.plan_for(tree))
    return redirect("takedown", job_id, tree_id)
