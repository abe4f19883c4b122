"""The bench of the tree's body: turned, drawn, dragged and typed."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.shortcuts import render
from django.utils.translation import gettext, gettext_lazy

from apps.crews import steps
from apps.crews.permissions import allowed, permission
from apps.jobs import planner as jobs
from apps.jobs import presenter
from apps.jobs.drawing_planner import across_lean
from apps.survey import body_planner
from apps.survey.forms import BodyView, CavityForm, LimbForm, PointForm
from cantrel import quantities
from cantrel.answers import answer, parts, refusal
from cantrel.border import Unreadable, count, number, place, word
from cantrel.limits import UNIONS, limit_said
from cantrel.rows import new_id
from cantrel.steps import page
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.jobs.models import Tree
    from treecore.tree.body import TreeInput
    from treecore.verdict import Limit

RULES = {
    "integrated": gettext_lazy("Integrated"),
    "newton": "Newton",
    "smalian": "Smalian",
    "huber": "Huber",
}
USUAL = {"limit": 200.0, "masses": False, "picked": "", "view": None, "low": 0.3, "high": 3.0}
FRAGMENTS = ("elevation", "ladder", "weak", "limbs", "totals", "piece", "history")


def _state(request: HttpRequest, data: QueryDict | None, core: TreeInput) -> tuple[BodyView, dict[str, Any]]:
    """What is looked at, and the form that says so."""
    usual = USUAL | {"view": round(math.degrees(across_lean(core))) % 360}
    form = BodyView(data, units=request.units, stored=usual)
    values = form.cleaned_data if data is not None and form.is_valid() else {}
    seen = {k: usual[k] if values.get(k) in (None, "") else values[k] for k in usual}
    seen["masses"] = bool(values.get("masses")) if data is not None else False
    seen["facing"] = math.radians(seen["view"] % 360)
    return form, seen


def _limb_rows(scene: dict[str, Any], system: str, picked: str) -> list[dict[str, Any]]:
    return [
        {
            "name": row.name,
            "mass": quantities.estimate(row.mass, "mass", system),
            "balance": quantities.estimate(row.balance, "length", system),
            "raw": quantities.raw(row.mass.value),
            "thirds": quantities.text(row.thirds, "length", system),
            "tie": quantities.text(row.tie, "length", system),
            "length": quantities.text(limb.length, "length", system),
            "picked": row.name == picked,
            "union": str(UNIONS[limb.union]) if limb.union != "sound" else "",
            "dead": limb.dead,
            "kind": limb.kind.value,
        }
        for row, limb in zip(scene["limbs"], scene["core"].limbs, strict=True)
    ]


def _weak(limit: Limit, system: str) -> dict[str, str]:
    return limit_said(limit, system)


def _piece(core: TreeInput, seen: dict[str, Any], system: str) -> dict[str, Any]:
    try:
        found = body_planner.stem_piece(core, seen["low"], seen["high"])
    except CoreError as error:
        return {"error": f"{error.field.replace('_', ' ')}: {quantities.explain(error, system)}"}
    rules = [(RULES[n], quantities.text(v, "volume", system)) for n, v in found.rules._asdict().items()]
    return {
        "mass": quantities.estimate(found.mass, "mass", system),
        "cg": quantities.estimate(found.cg, "length", system),
        "raw": quantities.raw(found.mass.value),
        "rules": rules,
    }


def _context(request: HttpRequest, tree: Tree, seen: dict[str, Any]) -> dict[str, Any]:
    scene = body_planner.scene(tree)
    core, system = scene["core"], request.units
    limb = next((b for b in core.limbs if b.name == seen["picked"]), None)
    try:
        ladder = presenter.rungs(core, body_planner.rungs(core, seen["limit"]), seen["limit"], system)
        wrong = {}
    except CoreError as error:
        ladder, wrong = None, {error.field: [quantities.explain(error, system)]}
    drawing = presenter.elevation(
        core, scene["result"], system, seen["facing"], scene["limbs"], scene["assumed"], seen["masses"], seen["picked"]
    )
    return {
        "drawing": drawing,
        "ladder": ladder,
        "rows": _limb_rows(scene, system, seen["picked"]),
        "wrong": wrong,
        "weak": [_weak(w, system) for w in scene["weak"]],
        "ruling": scene["ruling"] and _weak(scene["ruling"], system),
        "figures": presenter.tree_figures(scene["result"], system),
        "piece": _piece(core, seen, system),
        "units": system,
        "limb": limb,
        "steps_state": steps.state("body", tree),
        "job": tree.job,
        "tree": tree,
        "share": round(100 * core.remainder.share),
        "assumed_left": len(scene["assumed"]),
        "core": core,
        "seen": seen,
        "points": [
            {
                "id": p["id"],
                "text": gettext("{diameter_m} at {height_m}").format(
                    diameter_m=quantities.text(p["diameter_m"], "girth", system),
                    height_m=quantities.text(p["height_m"], "length", system),
                ),
            }
            for p in body_planner.listed(tree, "points")
        ],
        "cavities": [{"id": c["id"], "text": _cavity_text(c, system)} for c in body_planner.listed(tree, "cavities")],
        "writes": allowed(request.user, "plan.change"),
    }


def _cavity_text(c: dict[str, Any], system: str) -> str:
    what = "decay" if c.get("decayed") else "hollow"
    ends = " to ".join(quantities.text(c[k], "length", system) for k in ("low_m", "high_m"))
    return gettext("{what_} {across_m} across, {ends}{x}").format(
        what_=what,
        across_m=quantities.text(c["across_m"], "girth", system),
        ends=ends,
        x=", open" if c.get("open") else "",
    )


def _limb_form(request: HttpRequest, tree: Tree, name: str, data: QueryDict | None = None) -> LimbForm:
    row = tree.limbs.filter(name=name).select_related("parent").first() if name else None
    stored = (
        {f: getattr(row, f) for f in body_planner.FIELDS} if row else {"kind": "estimated", "rise": 0.5, "azimuth": 0.0}
    )
    if row and row.parent_id:
        stored["parent"] = row.parent.name
    others = [n for n in tree.limbs.values_list("name", flat=True) if n != name]
    return LimbForm(data, units=request.units, stored=stored, limbs=others)


def _forms(request: HttpRequest, tree: Tree, picked: str) -> dict[str, Any]:
    return {
        "limb_form": _limb_form(request, tree, picked),
        "point_form": PointForm(units=request.units, prefix="point"),
        "cavity_form": CavityForm(units=request.units, prefix="cavity"),
    }


@permission("plan.view")
def tree_body(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The tree's body: elevation, ladder, limbs, stem."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    form, seen = _state(request, None, body_planner.core_tree(tree))
    more = _context(request, tree, seen) | _forms(request, tree, "") | {"form": form}
    del more["job"], more["tree"], more["units"]
    return render(request, "survey/body.html", page(request, tree, "measure", **more))


def _drag(tree: Tree, data: QueryDict, seen: dict[str, Any], by: str) -> str:
    if "dx" in data:
        body_planner.nudge(tree, seen["picked"], word(data, "handle"), number(data, "dx"), number(data, "dy"), by)
    else:
        body_planner.drag(tree, seen["picked"], word(data, "handle"), seen["facing"], place(data), by=by)
    return seen["picked"]


def _draw(tree: Tree, data: QueryDict, seen: dict[str, Any], by: str) -> str:
    start, end = (place(data, x, y) for x, y in (("x", "y"), ("x1", "y1")))
    return body_planner.draw(tree, seen["facing"], start, end, by)


def _add_point(request: HttpRequest, tree: Any, data: Any, by: Any) -> HttpResponse:
    form = PointForm(data, units=request.units, prefix="point")

    def take(v: Any) -> Any:
        rows = [
            *body_planner.listed(tree, "points"),
            {"id": new_id("b"), "height_m": v["height"], "diameter_m": v["diameter"]},
        ]
        body_planner.put_list(tree, "points", rows, gettext("diameter added"), by)
        return True

    return form, form.run(take)


def _add_cavity(request: HttpRequest, tree: Tree, data: QueryDict, by: str) -> tuple[Any, ...]:
    form = CavityForm(data, units=request.units, prefix="cavity")

    def take(v: Any) -> Any:
        row = {"id": new_id("b")} | {f"{n}_m": v[n] for n in ("low", "high", "across")}
        row |= {n: v[n] for n in ("decayed", "open")}
        body_planner.put_list(
            tree, "cavities", [*body_planner.listed(tree, "cavities"), row], gettext("cavity added"), by
        )
        return True

    return form, form.run(take)


def _without(tree: Any, field: Any, data: Any, by: Any) -> None:
    rows = [row for row in body_planner.listed(tree, field) if row["id"] != word(data, "which")]
    body_planner.put_list(tree, field, rows, gettext("{field_} taken off").format(field_=field[:-1]), by)
    return


ACTS = {
    "pick": lambda tree, data, seen, by: data.get("which", ""),
    "draw": _draw,
    "take": lambda tree, data, seen, by: body_planner.take_slot(tree, count(data, "which"), by),
    "drop": lambda tree, data, seen, by: body_planner.drop_slot(tree, count(data, "which"), by),
    "assume-none": lambda tree, data, seen, by: body_planner.assume(tree, False, by),
    "assume-all": lambda tree, data, seen, by: body_planner.assume(tree, True, by),
    "split": lambda tree, data, seen, by: body_planner.split_limb(tree, seen["picked"], by),
    "delete": lambda tree, data, seen, by: body_planner.delete(tree, seen["picked"], by),
    "undo": lambda tree, data, seen, by: steps.or_refused(steps.back("body", tree, data.get("which"))),
    "redo": lambda tree, data, seen, by: steps.or_refused(steps.forth("body", tree, data.get("which"))),
    "point-off": lambda tree, data, seen, by: _without(tree, "points", data, by),
    "cavity-off": lambda tree, data, seen, by: _without(tree, "cavities", data, by),
}
KEEP_PICKED = ("point-off", "cavity-off")


def _act(request: HttpRequest, tree: Tree, data: QueryDict, seen: dict[str, Any]) -> tuple[str, dict[str, Any], bool]:
    """Do what was asked; returns the limb that is picked then, form errors, and whether the panel
    must be drawn anew.
    """
    by, act = request.user.shown_name(), data.get("act", "")
    if data.get("handle") in ("tips", "union"):
        return _drag(tree, data, seen, by), {}, data.get("save") == "1"
    if act in ("point-add", "cavity-add"):
        form, done = (_add_point if act == "point-add" else _add_cavity)(request, tree, data, by)
        seen["notes"] = form.understood()
        return seen["picked"], {} if done else form.said(), bool(done)
    if act == "limb-save":
        form = _limb_form(request, tree, seen["picked"], data)
        name = form.run(lambda values: body_planner.save(tree, seen["picked"], dict(values), by))
        seen["notes"] = form.understood()
        return (name, {}, True) if name else (seen["picked"], form.said(), False)
    if act in ACTS:
        found = ACTS[act](tree, data, seen, by)
        return (found or "") if act not in KEEP_PICKED else seen["picked"], {}, True
    return seen["picked"], {}, False


@permission("plan.view", "plan.view")
def tree_body_edit(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """One change of the body, or only another look at it; without ``save`` a drag is shown and not kept."""
    tree, data = jobs.tree_for(request.crew, job_id, tree_id), request.POST
    _may(request)
    try:
        with transaction.atomic():
            found = _changed(request, tree)
            if data.get("handle") and data.get("save") != "1":
                transaction.set_rollback(True)
    except CoreError as error:
        return refusal(quantities.explain(error, request.units))
    except Unreadable:
        return refusal(gettext("That was no place on the drawing; nothing was changed."))
    return found


def _may(request: HttpRequest) -> None:
    """Everybody looks; only who may change a plan changes it."""
    looks = not request.POST.get("handle") and request.POST.get("act", "") in ("", "pick")
    if not looks and not allowed(request.user, "plan.change"):
        raise PermissionDenied


def _changed(request: HttpRequest, tree: Tree) -> HttpResponse:
    """Do what was asked, and answer with what it changed."""
    data = request.POST
    form, seen = _state(request, data, body_planner.core_tree(tree))
    seen["picked"], wrong, anew = _act(request, tree, data, seen)
    tree = jobs.tree_for(request.crew, tree.job_id, tree.pk)
    context = _context(request, tree, seen)
    if anew:
        context |= _forms(request, tree, seen["picked"])
    return answer(
        form.said() | wrong | context["wrong"],
        parts("survey/_b_", FRAGMENTS + (("panel", "stem") if anew else ()), context, request),
        values={"picked": seen["picked"], "view": seen["view"] % 360},
        saved=(anew or data.get("save") == "1") and not wrong,
        notes=form.understood() | seen.get("notes", {}),
    )
