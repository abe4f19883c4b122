"""The fall and its footprint, and the log after it is down."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

from django.shortcuts import render
from django.utils.translation import gettext

from apps.crews.permissions import allowed, permission
from apps.felling import fall_presenter, log_planner, planner
from apps.felling.forms import FellForm, LogForm
from apps.felling.views import kept, turn, typed
from apps.jobs import planner as jobs
from cantrel import quantities
from cantrel.answers import answer, clashed, or_broken, parts
from cantrel.border import number, place, whole_number, word
from cantrel.forms import value_in_words
from cantrel.steps import page

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
    tree, system = jobs.tree_for(request.crew, job_id, tree_id), request.units
    plan = planner.plan_for(tree)
    if request.method == "POST":
        return _turned(request, tree, plan)
    count = 100_000 if request.GET.get("samples") == "100000" else 10_000
    form = FellForm(units=system, stored=planner.values_of(plan))
    context = {"fields": [form[n] for n in SHOWN], "count": count, "plan": plan}
    context["writes"] = allowed(request.user, "plan.change")
    context |= or_broken(lambda: fall_presenter.fall_page(planner.evaluated(tree, plan), system, count), system)
    return render(request, "felling/footprint.html", page(request, tree, "fell", **context))


def _turned(request: HttpRequest, tree: Tree, plan: FellingPlan) -> HttpResponse:
    found = turn(request, tree, plan, SHOWN, ("lay",))
    if found.done is None:
        return answer(found.form.errors)
    clash = kept(request, tree, plan, SHOWN) if found.save else {}
    if clash:
        return clashed(clash, plan.revision)
    context = fall_presenter.fall_page(found.done, request.units, 10_000) | {"count": 10_000}
    html = parts("felling/_", ("fan", "chances", "course", "ruling", "decided"), context)
    values = {n: typed(n, getattr(plan, n), request.units) for n in (*found.handled, *found.turned)}
    values |= {"revision": plan.revision} if found.save else {}
    return answer(fragments=html, values=values, notes=found.form.understood(), saved=found.save)


@permission("plan.view", "plan.change")
def down(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The log on its supports; a POST previews or saves."""
    tree, system = jobs.tree_for(request.crew, job_id, tree_id), request.units
    plan, core = planner.plan_for(tree), planner.core_tree(tree)
    entry = plan.log or log_planner.first_log(core)
    if request.method == "POST":
        return _sawn(request, tree, plan, core, entry)
    form = LogForm(units=system, stored=fall_presenter.typed_log(entry, system))
    context = {"form": form, "writes": allowed(request.user, "plan.change"), "kept": bool(plan.log), "plan": plan}
    context |= or_broken(lambda: fall_presenter.log_page(log_planner.bucked(entry, core), system), system)
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
        return answer(form.errors)
    entry, context = done
    saved = request.POST.get("save") == "1"
    if saved:
        plan.log = entry
        clash = planner.keep_fields(
            tree, plan, request.POST.get("revision"), ("log",), lambda _, log: _log_in_words(log, request.units)
        )
        if clash:
            return clashed(clash, plan.revision)
    html = parts("felling/_", ("log", "bucking", "first_cut"), context)
    lists = fall_presenter.typed_lists(entry, request.units)
    values = (lists if request.POST.get("handle") else {}) | ({"revision": plan.revision} if saved else {})
    unit = quantities.symbol("length", request.units)
    notes = {
        n: gettext("Taken as {said} {unit}.").format(said=said, unit=unit)
        for n, said in lists.items()
        if _WORDED.search(request.POST.get(n, ""))
    }
    return answer(fragments=html, values=values, notes=form.understood() | notes, saved=saved)


def _log_in_words(entry: dict[str, Any] | None, system: str) -> str:
    """A log as its form would be read out; nothing of none."""
    if not entry:
        return ""
    form = LogForm(units=system, stored=fall_presenter.typed_log(entry, system))
    said = [(str(form[n].label), value_in_words(form, n)) for n in form.fields]
    return ", ".join(f"{label.lower()} {value}" for label, value in said if value)


def _dragged(entry: dict[str, Any], data: QueryDict) -> None:
    """A support or a cut put elsewhere along the log."""
    kind, _, which = word(data, "handle").partition(" ")
    row = entry["supports_m"] if kind == "support" else entry["cuts_m"]
    place_of = whole_number(which, 0, len(row))
    if place_of is None or place_of >= len(row):
        return
    at = row[place_of] + 0.1 * number(data, "dx") if "dx" in data else place(data)[0]
    row[place_of] = round(min(max(at, 0.0), entry["to_m"] - entry["from_m"]), 2)
