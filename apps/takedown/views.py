"""The takedown bench: cuts placed on the tree, picks in order, one pick worked out whole."""

import math

from django.contrib import messages
from django.db import transaction
from django.http import JsonResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.jobs import planner as jobs
from apps.takedown import cutfigures, picture, planner, wording
from apps.takedown.commands import DRAGS, Clash, Gone, changed, index_of, whole
from apps.takedown.forms import AccessForm, CutForm, PickForm
from cantrel import quantities
from cantrel.drawing import Unreadable
from cantrel.forms import rebased
from cantrel.limits import limit_said
from cantrel.steps import page
from treecore.errors import CoreError

FRAGMENTS = ("elevation", "above", "ruling", "forces", "list")


def _view(data, tree):
    text = data.get("view", "")
    return math.radians(int(text) % 360) if text.lstrip("-").isdigit() else planner.usual_view(tree)


def _shown(seen, picks, name, view, system, near=False):
    """Everything the bench shows of the picks, the one of that id in full."""
    rows = planner.run(seen, picks)
    picked = index_of(picks, name)
    picked = -1 if picked is None else picked
    row = rows[picked] if picked >= 0 else None
    beside = [picks[i]["id"] if 0 <= i < len(picks) and picked >= 0 else "" for i in (picked - 1, picked + 1)]
    seen["start"] = planner.left_standing(seen, rows)
    orders = planner.orders(seen, rows)
    shown = {
        "units": system,
        "picked": picked,
        "name": name,
        "before": beside[0],
        "after": beside[1],
        "count": len(rows),
        "elevation": picture.elevation(seen, row, view, system, near),
        "near": int(near),
        "above": picture.above(seen, row, system),
        "list": picture.listed(rows, orders, picked, system, wording),
        "row": row,
        "broken": "",
        "view": round(math.degrees(view)) % 360,
        "cautions": wording.CAUTIONS,
        "left": quantities.text(planner.standing_mass(seen, rows), "mass", system),
        "whole": wording.worst(planner.worst(rows), rows, system),
    }
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
        "ruling": limit_said(row["ruling"], system) if row["ruling"] else None,
        "limits": limits,
        "mends": [c for c in tried if c["mends"]][:2] if over else [],
        "tried": tried,
        "over": over,
        "piece": {
            "foliage": quantities.text(piece.foliage, "mass", system),
            "mass": quantities.estimate(piece.mass, "mass", system),
            "raw": f"{piece.mass.value:.9g}",
            "length": quantities.text(piece.length, "length", system),
            "balance": quantities.estimate(piece.balance, "length", system),
            "thick": quantities.text(piece.diameter, "girth", system),
        },
        "forces": _forces(seen, row, system) if worked.forces else None,
        "links": links,
        "cut": cutfigures.rows(seen, row, system),
        "besides": _besides(seen, row, system),
        "method": planner.method(row["pick"].method),
        "way": _way(worked, system),
    }


def _forces(seen, row, system):
    f, pick = row["worked"].forces, row["pick"]

    def kn(value):
        return quantities.text(value, "force", system) if value is not None else ""

    taken, force = f.taken(pick.pretension), f.anchor
    return {
        "schools": _schools(f, system),
        "fall": quantities.text(f.drop_height, "offset", system),
        "point": quantities.estimate(f.on_point, "force", system),
        "raw_point": f"{f.on_point.value:.9g}",
        "passed": f"{100 * f.tension_ratio:.0f} %",
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
        "far": kn(f.on_far_anchor.value if f.on_far_anchor else None),
        "on_lead": kn(f.on_redirect.value if f.on_redirect else None),
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
        ("Hanging still", f.peaks.static, "still"),
        ("Locked, all its fall into the rope", f.peaks.elastic, "stretch"),
        ("Let run by these wraps", f.peaks.let_run, "run"),
        ("By the field rule", f.peaks.field, "field"),
    ]
    if f.peaks.school == "span":
        rows = [("Let go onto the line", f.peaks.governing, "span"), ("Hanging still on it", f.peaks.static, "still")]
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
            "name": "Over a natural fork" if fork else "Over a block",
            "used": f is own,
            "passed": f"{100 * f.tension_ratio:.0f} %",
            "peak": quantities.text(f.on_point.value, "force", system),
            "still": quantities.text(f.on_point_still, "force", system),
            "raw": f"{f.on_point.value:.9g}",
            "leg": quantities.text(f.peaks.governing.value, "force", system),
        }
        for fork, f in sorted(both, key=lambda b: b[0])
    ]


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
            ("Mean force on the ground", force.value, "force"),
            ("at least", force.low, "force"),
            ("at most", force.high, "force"),
        ]
    if worked.put and worked.put.aside > 0.0:
        found += [
            ("Put down beside the point by", worked.put.aside, "length"),
            ("Tag line at the ground", worked.put.least, "small_force"),
            ("Tag line high up", worked.put.most, "small_force"),
        ]
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
        ("Climber’s line off upright", found.line.angle, "angle"),
        ("Load on the tie-in", found.loads[0] if found.loads else found.line.load, "force"),
        ("Stance to the cut", found.reach, "offset"),
        ("Swing if a foot slips", found.line.swing, "length"),
        ("Line that reaches the ground", found.line.need, "length"),
    ]
    return facts + ([("Load on the second tie-in", found.loads[1], "force")] if found.loads else [])


def _way(worked, system):
    if worked.path is None:
        return None
    path = worked.path
    heavy = {"tip": "tips go down", "butt": "butt goes down", "level": "hangs about level"}[path.heavy]
    return {
        "heavy": heavy,
        "hang": quantities.text(abs(path.hang), "angle", system),
        "angle": quantities.text(path.angle, "angle", system),
        "low": quantities.text(path.low, "length", system),
        "passes": [
            {"name": p.name, "gap": quantities.text(max(p.gap, 0.0), "length", system), "over": p.over}
            for p in worked.passes[:6]
        ],
    }


def _panel(seen, picks, name, system):
    """The form of the pick of that id; None without one."""
    place = index_of(picks, name)
    return None if place is None else PickForm(units=system, choices=planner.choices(seen), entry=picks[place])


@permission("plan.view", "plan.change")
def takedown(request, job_id, tree_id):
    """The takedown bench; a POST previews or saves and answers with what changed."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    if request.method == "POST":
        return _posted(request, tree)
    plan = planner.plan_for(tree)
    context = {"writes": allowed(request.user, "plan.change"), "plan": plan}
    try:
        seen = planner.scene(tree)
        name = _asked(request.GET.get("pick", "1"), plan.picks)
        form = _panel(seen, plan.picks, name, request.units)
        context |= _shown(seen, plan.picks, name, _view(request.GET, tree), request.units) | {
            "groups": form.grouped() if form else [],
            "cut_form": CutForm(units=request.units, members=planner.choices(seen)["members"]),
        }
    except CoreError as error:
        context["broken"] = quantities.explain(error, request.units)
    return render(request, "takedown/takedown.html", page(request, tree, "takedown", **context))


def _asked(text, picks):
    """Id of the pick an address asks for: by its id, by its number in the list, else the first."""
    if text.isdigit() and picks:
        return picks[min(max(int(text) - 1, 0), len(picks) - 1)]["id"]
    return text if index_of(picks, text) is not None else picks[0]["id"] if picks else ""


def _posted(request, tree):
    """Answer a change; a save holds the database from reading to writing, so that no other comes between."""
    if request.POST.get("save") != "1":
        return _answer(request, tree, planner.plan_for(tree))
    with transaction.atomic():
        return _answer(request, tree, planner.plan_for(tree))


def _refusal(text):
    return JsonResponse({"errors": {"__all__": [text]}, "fragments": {}})


def _answer(request, tree, plan):
    data, system = request.POST, request.units
    base = planner.known_picks(plan, data.get("revision"))
    if base is None:
        return _refusal("This page is older than anything kept of this takedown: load it again. Nothing was changed.")
    try:
        seen = planner.scene(tree)
        data = whole(data, seen, base, system)
        found = changed(data, seen, plan.picks, base, _view(data, tree), system)
    except CoreError as error:
        return _refusal(quantities.explain(error, system))
    except Gone as gone:
        return _refusal(str(gone))
    except Clash as clash:
        return _clashed(clash.form, seen, plan, base, system)
    except Unreadable:
        return _refusal("That was no change of this takedown; nothing was changed.")
    if isinstance(found[0], PickForm | CutForm):
        return JsonResponse({"errors": found[0].errors, "fragments": {}})
    return _changed(data, system, plan, seen, base, *found)


def _changed(data, system, plan, seen, base, picks, name, view, panel):
    """The answer to a change that was taken: drawings, numbers, the panel where it is drawn anew,
    and what was saved.
    """
    near = (data.get("near") == "1") != (data.get("handle") == "near")
    context = _shown(seen, picks, name, view, system, near)
    if data.get("handle") == "order":
        context["proposal"] = wording.proposal(planner.proposal(seen, picks), context["list"])
    others = base != plan.picks  # somebody else saved since this page was drawn
    saved = data.get("save") == "1"
    if saved:
        planner.keep(plan, picks)
    panel = panel or (saved and others)
    fragments = {n: render_to_string(f"takedown/_{n}.html", context) for n in FRAGMENTS}
    errors = {}
    if panel:
        fragments["panel"] = _panel_html(_panel(seen, picks, name, system), context["picked"])
    if context["row"] is not None and context["row"]["error"] is not None:
        form = PickForm(data, units=system, choices=planner.choices(seen))
        form.is_valid()
        form.refuse(context["row"]["error"])
        errors = {} if panel else form.errors
    values = {"view": context["view"], "pick": name, "near": int(near)}
    values |= {"revision": plan.revision} if saved else {}
    return JsonResponse(
        {
            "errors": errors,
            "values": values | _typed(picks, name, data, system, planner.choices(seen)),
            "notes": {} if panel else _understood(data, seen, system),
            "saved": saved,
            "said": "Saved, with what somebody else changed meanwhile" if saved and others else "",
            "fragments": fragments,
        }
    )


def _panel_html(form, picked):
    return render_to_string("takedown/_panel.html", {"groups": form.grouped() if form else [], "picked": picked})


def _clashed(form, seen, plan, base, system):
    """Both values of fields that two people changed: theirs said at the field, mine still typed in it; nothing is
    saved.
    """
    name = form.data.get("pick") or ""
    was, now = (picks[index_of(picks, name)] for picks in (base, plan.picks))
    shown = [PickForm(units=system, choices=form.choices, entry=entry) for entry in (was, now)]
    kept = PickForm(rebased(form, *shown), units=system, choices=form.choices, entry=now)
    kept.is_valid()
    for field, said in form.errors.items():
        for text in said:
            kept.add_error(None if field == "__all__" else field, text)
    fragments = {"panel": _panel_html(kept, index_of(plan.picks, name))}
    return JsonResponse(
        {"errors": kept.errors, "values": {"revision": plan.revision}, "saved": False, "fragments": fragments}
    )


def _understood(data, seen, system):
    """What was made of what was typed with units, commas or fractions."""
    if "at_m" not in data:
        return {}
    return PickForm(data, units=system, choices=planner.choices(seen)).understood()


def _typed(picks, name, data, system, choices):
    """Values of the fields a drag has changed, as a person would type them."""
    place = index_of(picks, name)
    if place is None:
        return {}
    proposed = picks[place].get("point") and data.get("point_m") == ""
    if data.get("handle", "").split(" ")[0] not in DRAGS and not proposed:
        return {}
    form = PickForm(units=system, entry=picks[place], choices=choices)
    return {n: form[n].value() if form[n].value() is not None else "" for n in DRAGGED}


DRAGGED = (
    "at_m", "tie_m", "point_on", "point_m", "redirect_on", "redirect_m", "stance_member", "stance_m", "tie_on",
    "tie_in_m",
    "second_on", "second_in_m",
    "land_east", "land_north", "device_east", "device_north", "bearing_deg",
)  # fmt: skip


@permission("plan.view", "plan.change")
def access(request, job_id, tree_id):
    """The way up and down: the first line over its fork, and what it has to stand."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    plan, writes = planner.plan_for(tree), allowed(request.user, "plan.change")
    context = {"writes": writes, "cautions": wording.CAUTIONS, "plan": plan}
    try:
        seen = planner.scene(tree)
        stored = {"line_m": 45.0, **plan.access}
        posted = request.POST if request.method == "POST" else None
        form = AccessForm(posted, units=request.units, stored=stored, members=planner.choices(seen)["members"])
        if posted is not None:
            clash = form.run(lambda v: planner.keep_access(seen, plan, v, posted.get("revision")))
            if clash == {}:
                return redirect("takedown-access", job_id, tree_id)
            for name, said in (clash or {}).items():
                form.add_error(name if name in form.fields else None, said)
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
        "limits": wording.worst_first(limits, system),
        "load": quantities.estimate(load, "force", system),
        "raw_load": f"{load.value:.9g}",
    }


@require_POST
@permission("plan.change")
def undo(request, job_id, tree_id):
    """Take back the last change of the takedown, or bring it back."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    with transaction.atomic():
        said = planner.step_back(planner.plan_for(tree), request.POST.get("revision"), "redo" in request.POST)
    if said:
        messages.info(request, said)
    return redirect("takedown", job_id, tree_id)
