"""Method and the felling bench."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any, NamedTuple

from django.contrib import messages
from django.db import transaction
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.felling import planner, presenter
from apps.felling.forms import FellForm, MethodForm, YardForm
from apps.jobs import planner as jobs
from apps.jobs.forms import TargetForm
from cantrel import quantities, revisions
from cantrel.answers import answer, clashed, or_broken, parts, refusal
from cantrel.border import Unreadable, number, place, word
from cantrel.forms import filled, value_in_words
from cantrel.limits import limit_said
from cantrel.pages import own_page
from cantrel.revisions import TOO_OLD
from cantrel.steps import page
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.felling.bench_planner import WorkedPlan
    from apps.felling.models import FellingPlan
    from apps.felling.planner import PlanScene
    from apps.jobs.models import Tree
    from cantrel.revisions import Conflict

FRAGMENTS = (
    "stump", "side", "plan", "window", "ledger", "ruling", "decided", "numbers", "sequence", "marks", "words",
    "schools",
)  # fmt: skip
# While a cut is being dragged nothing on the ground changes; words and schools follow when it is let go.
WHILE_CUTTING = ("stump", "side", "window", "ledger", "ruling", "decided", "numbers", "marks")
CUTS = ("depth", "hinge", "opening", "rise", "left_end", "right_end")


@permission("plan.view", "plan.change")
def fell(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The felling bench; a POST previews or saves and answers with what changed."""
    tree, system = jobs.tree_for(request.crew, job_id, tree_id), request.units
    if request.method == "POST":
        return _posted(request, tree)
    plan = planner.plan_for(tree)
    form = FellForm(units=system, stored=planner.values_of(plan))
    shown = {"groups": [], "units": system}
    shown |= or_broken(lambda: presenter.bench(planner.evaluated(tree, plan), system), system)
    shown |= {"groups": _with_fields(shown["groups"], form), "writes": allowed(request.user, "plan.change")}
    return render(request, "felling/fell.html", page(request, tree, "fell", form=form, plan=plan, **shown))


def _with_fields(groups: list[dict[str, Any]], form: FellForm) -> list[dict[str, Any]]:
    return [g | {"inputs": [form[name] for name in g["fields"]]} for g in groups]


def _posted(request: HttpRequest, tree: Tree) -> HttpResponse:
    """Answer a change; a save holds the database from reading to writing, so that no other comes between."""
    if request.POST.get("save") != "1":
        return _answer(request, tree, planner.plan_for(tree))
    with transaction.atomic():
        return _answer(request, tree, planner.plan_for(tree))


def _answer(request: HttpRequest, tree: Tree, plan: FellingPlan) -> HttpResponse:
    """Values, errors and drawings after a change; saved when the request asks for it."""
    data, system = request.POST, request.units
    base = planner.values_at(tree, plan, data.get("revision"))
    if base is None:
        return refusal(str(TOO_OLD))
    data = filled(data, FellForm(units=system, stored=base))
    now, handled, turned, others = planner.values_of(plan), {}, [], []
    try:
        seen = planner.scene(tree)
    except CoreError as error:
        return refusal(quantities.explain(error, system))
    sent = data
    if data.get("handle"):
        handled = handled_by(data, tree, plan, seen)
        sent = merged(data, handled, system)
    form = FellForm(sent, units=system, stored=base)
    saved = data.get("save") == "1"
    dragged = data.get("handle") in CUTS and not saved

    def take(values: Any) -> Any:
        found = revisions.merged(base, now, {**base, **values, **handled})
        others.extend(found.others)
        if found.conflicts:
            return found.conflicts
        turned.extend(planner.with_values(plan, found.values))
        return planner.evaluated(tree, plan, seen, quick=dragged)

    done = form.run(take)
    if done is None:
        return answer(form.errors)
    if isinstance(done, dict):
        return _both(form, done, plan, others if saved else None, system)
    if saved:
        planner.save_plan(plan)
    values = {name: typed(name, getattr(plan, name), system) for name in (*handled, *turned)}
    if saved:  # until then the page stands on the revision it was drawn from
        values |= {name: typed(name, getattr(plan, name), system) for name in others} | {"revision": plan.revision}
    notes = {name: _turned(plan, name, system) for name in turned} | {
        name: gettext("{who} changed this meanwhile.").format(**revisions.whose(plan, name)) for name in others
    }
    context = presenter.bench(done, system, whole=not dragged)
    return answer(
        fragments=parts("felling/_", WHILE_CUTTING if dragged else FRAGMENTS, context),
        values=values,
        notes=form.understood() | notes,
        saved=saved,
        said=gettext("Saved, with what somebody else changed meanwhile") if saved and others else "",
    )


def _both(
    form: FellForm, conflicts: dict[str, Conflict], plan: FellingPlan, others: list[str] | None, system: str
) -> HttpResponse:
    """Both values of fields that two people changed: theirs said at the field, mine still typed in it; nothing is
    saved. Only who tried to save (``others``: what else changed) was told and may save over it; a preview while typing
    decides nothing.
    """
    for name, (theirs, mine) in conflicts.items():
        said = [in_words(name, value, system) for value in (theirs, mine)]
        form.add_error(name, revisions.clash_text(said[0], revisions.whose(plan, name), said[1]))
    if others is None:
        return answer(form.errors)
    values = {name: typed(name, getattr(plan, name), system) for name in others} | {"revision": plan.revision}
    return answer(form.errors, values=values, saved=False)


def merged(data: QueryDict, handled: dict[str, Any], system: str) -> dict[str, str]:
    """The posted form with a handle's values put in as a person would type them."""
    merged = dict(data.items())
    for name, value in handled.items():
        merged[name] = typed(name, value, system)
    return merged


def typed(name: str, value: float | str, system: str) -> str:
    """A value as a person would type it into its field."""
    dimension = getattr(FellForm.base_fields[name], "dimension", None)
    if value is None:
        return ""
    return quantities.typed(value, dimension, system) if dimension else str(value)


def in_words(name: str, value: Any, system: str) -> str:
    """A value of the plan as a sentence says it."""
    return value_in_words(FellForm(units=system, stored={name: value}), name)


def handled_by(
    data: QueryDict,
    tree: Tree,
    plan: FellingPlan,
    seen: PlanScene | None = None,
) -> dict[str, Any]:
    try:
        given = planner.core_plan(tree, plan, seen)
        if word(data, "handle").startswith("take "):
            _, choice, key = [*word(data, "handle").split(), "", ""][:3]
            return planner.taken(choice, key, given)
        if "dx" in data:
            return planner.nudged(word(data, "handle"), number(data, "dx"), number(data, "dy"), given)
        return planner.moved(word(data, "handle"), *place(data), given)
    except (CoreError, Unreadable):
        return {}


@require_POST
@permission("plan.change")
def undo(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Take back the last saved change of the plan, or bring it back."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    with transaction.atomic():
        said = planner.step_back(planner.plan_for(tree), request.POST.get("revision"), "redo" in request.POST)
    if said:
        messages.info(request, said)
    return redirect(own_page(request.POST.get("page", ""), reverse("fell", args=[job_id, tree_id])))


def method_page(
    request: HttpRequest, tree: Tree, form: MethodForm | None = None, target_form: TargetForm | None = None
) -> HttpResponse:
    """Does it fit? The site, the lay, and the choice of method."""
    plan = planner.plan_for(jobs.whole(tree))
    form = form or MethodForm(units=request.units, stored={"method": plan.method, "reason": plan.reason})
    start = {"height": 2.5, "turned": 0.0, "x": tree.x + 10, "y": tree.y, "long": 6.0, "wide": 3.0}
    target_form = target_form or TargetForm(prefix="target", units=request.units, stored=start, job=tree.job)
    shown = {"targets": tree.job.targets.all(), "form": form, "target_form": target_form, "plan_row": plan}
    shown["lay_field"] = FellForm(units=request.units, stored=planner.values_of(plan))["lay"]
    try:
        worked = planner.evaluated(tree, plan)
        shown |= method_shown(worked, request.units)
        chosen = form["method"].value() or ""
        shown |= presenter.wording.ways(planner.method_options(tree, *worked), request.units, chosen)
    except CoreError as error:
        shown["broken"] = quantities.explain(error, request.units)
    writes = allowed(request.user, "plan.change")
    return render(request, "felling/method.html", page(request, tree, "method", writes=writes, **shown))


def method_shown(worked: WorkedPlan, system: str) -> dict[str, Any]:
    """The method page's drawing and fit."""
    result = worked.result
    drawing = presenter.plan(worked, system, 560, 480)
    rows = presenter.fit(result, system)
    names = ("reach", "zone")
    return {
        "site_plan": drawing,
        "fit": rows,
        "fits": not any(r["shape"] == "over" for r in rows) and bool(rows),
        "in_zone": result.ground.in_zone,
        "escapes": limit_said(next(x for x in result.limits if x.key == "escape"), system),
        "key_figures": [quantities.figure(result.figures[n], system) for n in names],
    }


@permission("plan.view", "plan.change")
def method(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The method page; a POST keeps the choice."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    if request.method != "POST":
        return method_page(request, tree)
    form = MethodForm(request.POST, units=request.units)
    clash = form.run(partial(_keep_method, tree, request.POST.get("revision")))
    for name, said in (clash or {}).items():
        form.add_error(None if name == "__all__" else name, said)
    if clash != {}:
        return method_page(request, tree, form=form)
    messages.success(request, gettext("Method kept."))
    return redirect("method", job_id, tree_id)


def _keep_method(tree: Tree, revision: str | None, values: dict[str, Any]) -> dict[str, Any]:
    plan = planner.plan_for(tree)
    planner.with_values(plan, values)
    return planner.keep_fields(tree, plan, revision, ("method", "reason"), _method_in_words)


def _method_in_words(name: str, value: str) -> str:
    return value_in_words(MethodForm(stored={name: value}), name)


@permission("plan.view")
def referral(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Refer or wait, as a sheet to print: what stands against each way and what would change it."""
    tree, system = jobs.tree_for(request.crew, job_id, tree_id), request.units
    shown = planner.referred(tree, system) | or_broken(lambda: _against(tree, system), system)
    return render(request, "felling/referral.html", page(request, tree, "method", **shown))


def _against(tree: Tree, system: str) -> dict[str, Any]:
    """What stands against each way, and what would change it."""
    worked = planner.evaluated(tree)
    shown = presenter.wording.ways(planner.method_options(tree, *worked), system, "")
    changes = list(dict.fromkeys(s["change"] for o in shown["options"] for s in o["stops"]))
    return shown | {"changes": changes, "zone": quantities.text(worked.result.ground.zone_radius, "length", system)}


@require_POST
@permission("plan.change")
def lay(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Turn the lay, or move a target, by dragging or typing on the method page."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    plan = planner.plan_for(tree)
    found = turn(request, tree, plan, ("lay",), ("lay", "anchor"))
    if found.done is None:
        return answer(found.form.errors)
    names = ("lay", *(n for n in found.handled if n != "lay"))
    clash = kept(request, tree, plan, names) if found.save else {}
    if clash:
        return clashed(clash, plan.revision)
    return _lay_shown(plan, found, request.units)


def kept(request: HttpRequest, tree: Tree, plan: FellingPlan, names: tuple[str, ...]) -> dict[str, str]:
    """Keep fields of the plan; what is said at those that two people changed."""
    revision = request.POST.get("revision")
    return planner.keep_fields(tree, plan, revision, names, lambda name, value: in_words(name, value, request.units))


def _lay_shown(plan: FellingPlan, found: Turned, system: str) -> HttpResponse:
    """The drawing and the fit of a lay that was turned, and what its field says now."""
    notes = {n: _turned(plan, n, system) for n in found.turned}
    shown = FellForm(units=system, stored=planner.values_of(plan))
    values = {"lay": shown["lay"].value()} if "lay" in found.handled or found.turned else {}
    values |= {"revision": plan.revision} if found.save else {}
    html = parts("felling/_", ("plan", "fit"), method_shown(found.done, system) | {"units": system})
    return answer(fragments=html, values=values, notes=notes, saved=found.save)


def _turned(plan: FellingPlan, name: str, system: str) -> str:
    """What is said at a bearing that was taken otherwise than typed."""
    said = quantities.text(getattr(plan, name), "fine_angle", system)
    if name in plan.went_along:
        return gettext("Went along with the lay, to {bearing}.").format(bearing=said)
    return gettext("Taken as {bearing}: a full turn is 360°.").format(bearing=said)


class Turned(NamedTuple):
    """A plan turned by dragging or typing: the form, what a handle made, what was taken modulo a turn, whether it is
    to be kept, and the plan worked out; None where it is refused.
    """

    form: FellForm
    handled: dict[str, Any]
    turned: list[str]
    save: bool
    done: WorkedPlan | None


def turn(
    request: HttpRequest, tree: Tree, plan: FellingPlan, shown: tuple[str, ...], handles: tuple[str, ...]
) -> Turned:
    """Turn the lay of a plan as a page that shows some of its fields asks for."""
    stored = planner.values_of(plan)
    handled = handled_by(request.POST, tree, plan) if request.POST.get("handle") in handles else {}
    data = merged(stored_as_typed(stored, request, shown), handled, request.units)
    form, turned = FellForm(data, units=request.units, stored=stored), []
    done = form.run(partial(turn_plan, tree, plan, turned, handled))
    return Turned(form, handled, turned, request.POST.get("save") == "1", done)


def stored_as_typed(stored: dict[str, Any], request: HttpRequest, shown: tuple[Any, ...]) -> QueryDict:
    """The stored plan as a posted form, with what is shown on this page as it was typed."""
    form = FellForm(units=request.units, stored=stored)
    data = request.POST.copy()
    for name in form.fields:
        if name not in shown or name not in data:
            data[name] = str(form[name].value() if form[name].value() is not None else "")
    return data


def turn_plan(
    tree: Tree, plan: FellingPlan, turned: list[Any], handled: dict[str, float], values: dict[str, Any]
) -> WorkedPlan:
    turned.extend(planner.with_values(plan, values | handled))
    return planner.evaluated(tree, plan)


@permission("yard.view", "plan.change")
def yard(request: HttpRequest) -> HttpResponse:
    """The yard's usual schools, each choice with its reasons; new plans begin with them."""
    if request.method == "POST":
        form = YardForm(request.POST)
        if form.run(lambda values: planner.save_yard_schools(request.crew, values) or True):
            messages.success(request, gettext("The yard's schools are kept; new plans begin with them."))
            return redirect("yard-schools")
    else:
        form = YardForm(stored=planner.yard_schools(request.crew.pk))
    context = {"form": form, "choices": planner.school_table(), "writes": allowed(request.user, "plan.change")}
    return render(request, "felling/yard.html", context | {"fields": [form[c["key"]] for c in context["choices"]]})
