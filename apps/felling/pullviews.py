"""The pulling system's bench: parts dragged on the plan, ropes led by typing, everything worked out at once."""

from __future__ import annotations

import json
import math
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.utils.translation import gettext

from apps.crews.permissions import allowed, permission
from apps.felling import planner, pull_planner, pull_presenter
from apps.felling.pullforms import GuyForm, LayForm, SystemForm
from apps.jobs import planner as jobs
from cantrel import quantities
from cantrel.answers import answer, parts, refusal
from cantrel.border import Unreadable, number, place, plain
from cantrel.forms import filled
from cantrel.limits import limit_said, worst_first
from cantrel.revisions import whose
from cantrel.steps import page
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.felling.models import FellingPlan
    from apps.felling.planner import PlanScene
    from apps.jobs.models import Tree
    from treecore.errors import NotSolvable, OutOfRange

FRAGMENTS = ("above", "side", "ruling", "needed", "figures", "tables")
STEP = 0.25


def _scene(
    tree: Tree,
    plan: FellingPlan,
    entry: dict[str, Any],
    seen: PlanScene,
    system: str,
    bad: Any = "",
) -> dict[str, Any]:
    """Everything the page shows of a system; where it is refused, its parts with the one concerned marked."""
    shown = _offered() | {"units": system}
    worked, rigged, needs, figures, way = pull_planner.work(tree, plan, entry, seen)
    given, result = worked
    parts, ropes = pull_presenter.tables(given, result, rigged, needs, system)
    limits = worst_first(result.limits, system)
    return shown | {
        "above": pull_presenter.above(given, entry, system, result, rigged),
        "side": pull_presenter.side(given, rigged, result, system),
        "ruling": limit_said(result.ruling, system),
        "limits": limits,
        "needed": pull_presenter.needed(pull_planner.needed_by(given), system),
        "of_lines": pull_presenter.of_lines(worked, system),
        "figures": pull_presenter.shown(figures, system),
        "loads": parts,
        "ropes": ropes,
        "travel": quantities.text(way, "length", system),
        "moment": [
            quantities.figure(result.figures[k], system)
            for k in ("pull_along", "pull_across", "needed", "margin", "root_moment")
        ],
    }


def _refused(
    tree: Tree, plan: FellingPlan, entry: dict[str, Any], error: NotSolvable | OutOfRange, system: str
) -> dict[str, Any]:
    """The drawing of a refused system, the part concerned marked."""
    plan.system = None
    given, result = planner.evaluated(tree, plan, quick=True)
    name = error.field.partition(" ")[2]
    said = f"{name}: {quantities.explain(error, system)}" if name else quantities.explain(error, system)
    return {
        "above": pull_presenter.above(given, entry, system, result, bad=name or "?"),
        "broken": said,
        "units": system,
    }


@permission("plan.view", "plan.change")
def pull(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The pulling system's page; a POST previews or saves and answers with what changed."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    plan = planner.plan_for(tree)
    if request.method == "POST":
        return _answer(request, tree, plan)
    tree = jobs.whole(tree)
    context = _offered() | {"plan": plan} | _lines(tree, plan, request.units)
    context["writes"] = allowed(request.user, "plan.change")
    entry = pull_planner.with_ids(plan.system) if plan.system else None
    if entry:
        context |= _entered(tree, plan, entry, request.units)
    return render(request, "felling/pull.html", page(request, tree, "fell", **context))


def _offered() -> dict[str, Any]:
    """What a system can be made of."""
    choices = pull_planner.choices()
    return {"ready": choices["ready"], "kinds": choices["kinds"], "joins": pull_planner.join_rows()}


def _lines(tree: Tree, plan: FellingPlan, system: str) -> dict[str, Any]:
    """What the plan needs said first, its guy line, and the forms that lay either out."""
    offers = pull_planner.offers(tree)
    shown = {"lay": LayForm(tree=tree, offers=offers), "guy_form": GuyForm(tree=tree, offers=offers)}
    try:
        worked = planner.evaluated(tree, plan, quick=True)
    except CoreError as error:
        return shown | {"refused": quantities.explain(error, system)}
    return shown | {
        "needed": pull_presenter.needed(pull_planner.needed_by(worked.given), system),
        "guy": pull_presenter.guy(worked, system),
        "guy_side": pull_presenter.guy_side(worked),
    }


def _entered(tree: Tree, plan: FellingPlan, entry: dict[str, Any], system: str) -> dict[str, Any]:
    """A system with its form, worked out or refused."""
    shown = {"form": SystemForm(entry=entry, units=system), "entry_json": json.dumps(entry)}
    try:
        return shown | _scene(tree, plan, entry, planner.scene(tree), system)
    except CoreError as error:
        return shown | _refused(tree, plan, entry, error, system)


def _answer(request: HttpRequest, tree: Tree, plan: FellingPlan) -> HttpResponse:
    data, system = request.POST, request.units
    act = data.get("handle", "").split(" ", 1)
    stored = pull_planner.with_ids(plan.system) if plan.system else None
    if act[0] == "guy":
        return _guyed(request, tree, plan, act[-1])
    if act[0] in ("ready", "lay") or stored is None:
        return _begun(request, tree, plan, act[-1])
    if act[0] == "off":
        _kept(request, tree, plan, None)
        return redirect("pull", tree.job_id, tree.pk)
    known = _sent(data, stored)
    form = SystemForm(filled(data, SystemForm(entry=known, units=system)), entry=known, units=system)
    done = form.run(lambda _: _changed(form, act, data, tree))
    if done is None:
        return answer(form.errors)
    entry, whole = done
    try:
        context = _scene(tree, plan, entry, planner.scene(tree), system)
    except CoreError as error:
        form.entry = entry
        form.refuse(error)
        context = _refused(tree, planner.plan_for(tree), entry, error, system)
        html = parts("felling/_pull_", ("above", "ruling"), context)
        return answer(form.errors, html | _whole(tree, entry, system, whole))
    saved = data.get("save") == "1"
    clash = pull_planner.keep(tree, plan, entry, data.get("revision")) if saved else {}
    if clash:
        said = gettext("{who} changed the pulling system meanwhile ({at}): load it again. Yours is still on this page.")
        return refusal(said.format(**whose(plan, "system")))
    html = parts("felling/_pull_", FRAGMENTS, context)
    values = _typed_places(entry, system) if act[0] == "part" else {}
    values |= {"revision": plan.revision, "entry": json.dumps(plan.system)} if saved else {}
    html |= _whole(tree, entry, system, whole)
    return answer(fragments=html, values=values, notes=form.understood(), saved=saved)


def _whole(tree: Tree, entry: dict[str, Any], system: str, whole: bool) -> dict[str, str]:
    """The parts' own fields, when parts or ropes were added or taken off."""
    if not whole:
        return {}
    form = SystemForm(entry=entry, units=system)
    return {
        "parts": render_to_string(
            "felling/_pull_parts.html", {"form": form, "entry_json": json.dumps(entry), "job": tree.job, "tree": tree}
        )
    }


def _begun(request: HttpRequest, tree: Tree, plan: FellingPlan, kind: str) -> HttpResponse:
    """A system laid out, saved at once, or why there is none."""
    form = LayForm(request.POST if kind == "out" else {"pull-design": kind, "pull-by": "people"}, tree=tree)
    if not form.is_valid():
        return _not_rigged(request, tree, form.errors.as_text())
    try:
        entry = pull_planner.laid_out(tree, plan, **form.cleaned_data)
        pull_planner.work(tree, plan, entry, planner.scene(tree))
    except CoreError as error:
        return _not_rigged(request, tree, quantities.explain(error, request.units))
    _kept(request, tree, plan, entry)
    return redirect("pull", tree.job_id, tree.pk)


def _not_rigged(request: HttpRequest, tree: Tree, why: str) -> HttpResponse:
    messages.error(request, gettext("Not rigged. {explain}").format(explain=why))
    return redirect("pull", tree.job_id, tree.pk)


def _guyed(request: HttpRequest, tree: Tree, plan: FellingPlan, act: str) -> HttpResponse:
    """A guy line laid out or taken off, saved at once."""
    form = GuyForm(request.POST, tree=tree)
    if act == "set" and not form.is_valid():
        return _not_rigged(request, tree, form.errors.as_text())
    try:
        values = pull_planner.guyed(tree, plan, **form.cleaned_data) if act == "set" else {"guy_limit": None}
        clash = pull_planner.keep_guy(tree, plan, values, request.POST.get("revision"))
    except CoreError as error:
        return _not_rigged(request, tree, quantities.explain(error, request.units))
    if clash:
        messages.error(request, "; ".join(clash.values()))
    return redirect("pull", tree.job_id, tree.pk)


def _kept(request: HttpRequest, tree: Tree, plan: FellingPlan, entry: dict[str, Any] | None) -> None:
    """Save a system begun anew or taken off, or say that somebody else changed it since the page was drawn."""
    if pull_planner.keep(tree, plan, entry, request.POST.get("revision")):
        said = gettext("{who} changed the pulling system meanwhile ({at}): this is it now. Nothing was changed.")
        messages.error(request, said.format(**whose(plan, "system")))


def _sent(data: QueryDict, stored: dict[str, Any]) -> dict[str, Any]:
    """The system the page stands on: what it sent along, so that an unsaved part is not lost."""
    if not data.get("entry"):
        return stored
    try:
        return pull_planner.sent(plain(data, "entry"))
    except CoreError as error:
        raise Unreadable(str(error)) from None


def _changed(form: SystemForm, act: list[str], data: QueryDict, tree: Tree) -> tuple[dict[str, Any], bool]:
    """The entry as typed, then as the handle or button changes it; whether its fields must be drawn anew."""
    entry, which = form.taken(), (act[1:] or [""])[0]
    if act[0] == "part":
        part = pull_planner.named(entry, "parts", which)
        if "dx" in data:
            x, y = part["x_m"] + STEP * number(data, "dx"), part["y_m"] + STEP * number(data, "dy")
        else:
            x, y = place(data)
        if not (math.isfinite(x) and math.isfinite(y)):
            return entry, False
        pull_planner.moved(part, x, y, tree.job)
        return entry, False
    changes = {
        "add": lambda: pull_planner.added(entry, which, tree),
        "drop": lambda: pull_planner.dropped(entry, pull_planner.named(entry, "parts", which)),
        "rope": lambda: pull_planner.new_rope(entry),
        "unrope": lambda: entry["ropes"].remove(pull_planner.named(entry, "ropes", which)),
    }
    if act[0] in changes:
        changes[act[0]]()
        return entry, True
    # Another kind has other fields.
    return entry, [p["kind"] for p in entry["parts"]] != [p["kind"] for p in form.entry["parts"]]


def _typed_places(entry: dict[str, Any], system: str) -> dict[str, str]:
    """Places of the parts as typed in their fields, and the entry itself."""
    values = {}
    for part in entry["parts"]:
        values |= {f"{part['id']}_{k}": quantities.typed(part[k], "length", system) for k in ("x_m", "y_m")}
        if part.get("trunk_m"):
            values[f"{part['id']}_trunk_m"] = quantities.typed(part["trunk_m"], "girth", system)
    return values
