"""The fall and its footprint, and the log after it is down."""

from __future__ import annotations

import re
from functools import partial
from typing import TYPE_CHECKING, Any

from django.http import JsonResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.utils.translation import gettext

from apps.crews.permissions import allowed, permission
from apps.felling import fall_presenter, log_planner, planner
from apps.felling.forms import FellForm, LogForm
from apps.felling.views import handled_by, merged, stored_as_typed, turn_plan, typed
from apps.jobs import planner as jobs
from cantrel import quantities
from cantrel.drawing import number, place, word
from cantrel.steps import page
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.felling.models import FellingPlan
    from apps.jobs.models import Tree
    from treecore.tree.body import TreeInput

SHOWN = ("lay", "wind", "wind_from")

_WORDED = re.compile(r"[^\d.,; ]")  # a list of plain numbers needs no echo


@permission("plan.view", "plan.change")
def footprint(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Where the tree may come to lie; a POST turns the lay or changes the wind."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    plan = planner.plan_for(tree)
    if request.method == "POST":
        return _turned(request, tree, plan)
    count = 100_000 if request.GET.get("samples") == "100000" else 10_000
    form = FellForm(units=request.units, stored=planner.values_of(plan))
    context = {
        "fields": [form[n] for n in SHOWN],
        "writes": allowed(request.user, "plan.change"),
        "count": count,
        "plan": plan,
    }
    try:
        context |= fall_presenter.fall_page(planner.evaluated(tree, plan), request.units, count)
    except CoreError as error:
        context["broken"] = quantities.explain(error, request.units)
    return render(request, "felling/footprint.html", page(request, tree, "fell", **context))


def _turned(request: HttpRequest, tree: Tree, plan: FellingPlan) -> HttpResponse:
    stored = planner.values_of(plan)
    handled = handled_by(request.POST, tree, plan) if request.POST.get("handle") == "lay" else {}
    data = merged(stored_as_typed(stored, request, SHOWN), handled, request.units)
    form, turned = FellForm(data, units=request.units, stored=stored), []
    done = form.run(partial(turn_plan, tree, plan, turned, handled))
    if done is None:
        return JsonResponse({"errors": form.errors, "fragments": {}})
    saved = request.POST.get("save") == "1"
    clash = planner.keep_fields(tree, plan, request.POST.get("revision"), SHOWN) if saved else {}
    if clash:
        return JsonResponse({"errors": {n: [said] for n, said in clash.items()}, "fragments": {}})
    context = fall_presenter.fall_page(done, request.units, 10_000) | {"count": 10_000}
    fragments = {n: render_to_string(f"felling/_{n}.html", context) for n in ("fan", "chances", "course", "ruling")}
    values = {n: typed(n, getattr(plan, n), request.units) for n in (*handled, *turned)}
    values |= {"revision": plan.revision} if saved else {}
    answer = {"errors": {}, "values": values, "notes": form.understood(), "saved": saved, "fragments": fragments}
    return JsonResponse(answer)


@permission("plan.view", "plan.change")
def down(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The log on its supports; a POST previews or saves."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    plan = planner.plan_for(tree)
    core = planner.core_tree(tree)
    entry = plan.log or log_planner.first_log(core)
    if request.method == "POST":
        return _sawn(request, tree, plan, core, entry)
    form = LogForm(units=request.units, stored=fall_presenter.typed_log(entry, request.units))
    context = {"form": form, "writes": allowed(request.user, "plan.change"), "kept": bool(plan.log), "plan": plan}
    try:
        context |= fall_presenter.log_page(log_planner.bucked(entry, core), request.units)
    except CoreError as error:
        context["broken"] = quantities.explain(error, request.units)
    return render(request, "felling/down.html", page(request, tree, "fell", **context))


def _sawn(request: HttpRequest, tree: Tree, plan: FellingPlan, core: TreeInput, stored: dict[str, Any]) -> HttpResponse:
    form = LogForm(request.POST, units=request.units, stored=fall_presenter.typed_log(stored, request.units))

    def take(values: Any) -> Any:
        entry = log_planner.log_entry(values, request.units)
        if request.POST.get("handle"):
            _dragged(entry, request.POST)
        return entry, fall_presenter.log_page(log_planner.bucked(entry, core), request.units)

    done = form.run(take)
    if done is None:
        return JsonResponse({"errors": form.errors, "fragments": {}})
    entry, context = done
    saved = request.POST.get("save") == "1"
    if saved:
        plan.log = entry
        clash = planner.keep_fields(tree, plan, request.POST.get("revision"), ("log",))
        if clash:
            return JsonResponse({"errors": {"__all__": list(clash.values())}, "fragments": {}})
    fragments = {n: render_to_string(f"felling/_{n}.html", context) for n in ("log", "bucking", "first_cut")}
    lists = fall_presenter.typed_lists(entry, request.units)
    values = (lists if request.POST.get("handle") else {}) | ({"revision": plan.revision} if saved else {})
    unit = quantities.symbol("length", request.units)
    notes = {
        n: gettext("Taken as {said} {unit}.").format(said=said, unit=unit)
        for n, said in lists.items()
        if _WORDED.search(request.POST.get(n, ""))
    }
    answer = {
        "errors": {},
        "values": values,
        "notes": form.understood() | notes,
        "saved": saved,
        "fragments": fragments,
    }
    return JsonResponse(answer)


def _dragged(entry: dict[str, Any], data: QueryDict) -> None:
    """A support or a cut put elsewhere along the log."""
    kind, _, which = word(data, "handle").partition(" ")
    row = entry["supports_m"] if kind == "support" else entry["cuts_m"]
    if not which.isdigit() or int(which) >= len(row):
        return
    at = row[int(which)] + 0.1 * number(data, "dx") if "dx" in data else place(data)[0]
    row[int(which)] = round(min(max(at, 0.0), entry["to_m"] - entry["from_m"]), 2)
