"""The takedown bench: cuts placed on the tree, picks in order, one pick worked out whole."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.db import transaction
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils.translation import gettext, gettext_lazy, ngettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.jobs import planner as jobs
from apps.takedown import planner, presenter, wording
from apps.takedown.commands import DRAGS, Clash, Gone, changed, index_of, whole
from apps.takedown.forms import AccessForm, CutForm, LayForm, PickForm
from cantrel import quantities
from cantrel.answers import answer, or_broken, parts, refusal
from cantrel.border import Unreadable, whole_number
from cantrel.forms import rebased, value_in_words
from cantrel.pages import own_page
from cantrel.revisions import clash_text, whose
from cantrel.steps import page
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.jobs.models import Tree
    from apps.takedown.models import TakedownPlan
    from apps.takedown.planner import Scene

OTHERS = gettext_lazy("Saved, with what somebody else changed meanwhile")
FULL_TURNS = 360 * 100  # a view turned round and round [°]
LAID = {"lay_heaviest": 100.0, "lay_longest": 6.0}  # what a lead is laid out by, to begin with
FRAGMENTS = ("elevation", "above", "ruling", "decided", "setups", "forces", "list")


def _view(data: QueryDict, tree: Tree) -> float:
    turn = whole_number(data.get("view"), -FULL_TURNS, FULL_TURNS)
    return planner.usual_view(tree) if turn is None else math.radians(turn % 360)


def _panel(scene: Scene, picks: list[dict[str, Any]], name: str, system: str) -> PickForm:
    """The form of the pick of that id; None without one."""
    place = index_of(picks, name)
    return None if place is None else PickForm(units=system, choices=scene.choices, entry=picks[place])


@permission("plan.view", "plan.change")
def takedown(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The takedown bench; a POST previews or saves and answers with what changed."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    if request.method == "POST":
        return _posted(request, tree)
    plan = planner.plan_for(tree)
    context = {"writes": allowed(request.user, "plan.change"), "plan": plan}
    context |= or_broken(lambda: _bench(request, tree, plan), request.units)
    return render(request, "takedown/takedown.html", page(request, tree, "takedown", **context))


def _bench(request: HttpRequest, tree: Tree, plan: TakedownPlan) -> dict[str, Any]:
    """The bench with the pick an address asks for, its panel, and the form of a new cut."""
    scene, system = planner.scene_of(tree), request.units
    name = _asked(request.GET.get("pick", "1"), plan.picks)
    form = _panel(scene, plan.picks, name, system)
    near = request.GET.get("near") == "1"
    return presenter.shown(scene, plan.picks, name, _view(request.GET, tree), system, near) | {
        "near": int(near),
        "groups": form.grouped() if form else [],
        "cut_form": CutForm(units=system, members=scene.choices["members"]),
        "lay_form": LayForm(units=system, members=scene.choices["members"], stored=LAID),
    }


def _asked(text: str, picks: list[dict[str, Any]]) -> str:
    """Id of the pick an address asks for: by its id, by its number in the list, else the first."""
    number = whole_number(text, 1, len(picks)) if picks else None
    if number is not None:
        return picks[number - 1]["id"]
    return text if index_of(picks, text) is not None else picks[0]["id"] if picks else ""


def _posted(request: HttpRequest, tree: Tree) -> HttpResponse:
    """Answer a change; a save holds the database from reading to writing, so that no other comes between."""
    if request.POST.get("save") != "1":
        return _answer(request, tree, planner.plan_for(tree))
    with transaction.atomic():
        return _answer(request, tree, planner.plan_for(tree))


def _answer(request: HttpRequest, tree: Tree, plan: TakedownPlan) -> HttpResponse:
    data, system = request.POST, request.units
    base = planner.known_picks(plan, data.get("revision"))
    if base is None:
        return refusal(
            gettext("This page is older than anything kept of this takedown: load it again. Nothing was changed.")
        )
    try:
        scene = planner.scene_of(tree)
        data = whole(data, scene, base, system)
        found = changed(data, scene, plan.picks, base, _view(data, tree), system)
    except CoreError as error:
        return refusal(quantities.explain(error, system))
    except Gone as gone:
        return refusal(str(gone))
    except Clash as clash:
        return _clashed(clash, scene, plan, base, system)
    except Unreadable:
        return refusal(gettext("That was no change of this takedown; nothing was changed."))
    if isinstance(found[0], PickForm | CutForm):
        return answer(found[0].errors)
    return _changed(data, system, plan, scene, base, *found)


def _changed(
    data: QueryDict,
    system: str,
    plan: TakedownPlan,
    scene: Scene,
    base: list[dict[str, Any]],
    picks: list[dict[str, Any]],
    name: str,
    view: float,
    panel: bool,
) -> HttpResponse:
    """The answer to a change that was taken: drawings, numbers, the panel where it is drawn anew,
    and what was saved.
    """
    near = (data.get("near") == "1") != (data.get("handle") == "near")
    context = presenter.shown(scene, picks, name, view, system, near) | {"writes": True}
    if data.get("handle") == "order":
        context["proposal"] = wording.proposal(planner.proposal(scene, picks), context["list"])
    others = base != plan.picks  # somebody else saved since this page was drawn
    saved = data.get("save") == "1"
    if saved:
        planner.keep(plan, picks)
    panel = panel or (saved and others)
    fragments = parts("takedown/_", FRAGMENTS, context)
    errors = {}
    if panel:
        fragments["panel"] = _panel_html(_panel(scene, picks, name, system), context["picked"], name)
    if context["row"] is not None and context["row"].error is not None:
        form = PickForm(data, units=system, choices=scene.choices)
        form.is_valid()
        form.refuse(context["row"].error)
        errors = form.errors if not panel or data.get("pick") == name else {}
    values = {"view": context["view"], "pick": name, "near": int(near)}
    values |= {"revision": plan.revision} if saved else {}
    return answer(
        errors,
        fragments,
        values=values | _typed(picks, name, data, system, scene.choices),
        notes={} if panel else _understood(data, scene, system),
        saved=saved,
        said=str(OTHERS) if saved and others else _with_it(base, picks, name),
    )


def _with_it(base: list[dict[str, Any]], picks: list[dict[str, Any]], name: str) -> str:
    """How many other picks a change of a set-up changed, in words; empty where it changed none."""
    was = {p["id"]: p for p in base}
    count = sum(p["id"] != name and p["id"] in was and p != was[p["id"]] for p in picks)
    if not count:
        return ""
    said = ngettext("{n} more pick changed with its set-up", "{n} more picks changed with their set-up", count)
    return said.format(n=count)


def _panel_html(form: PickForm, picked: int, name: str) -> str:
    shown = {"groups": form.grouped() if form else [], "picked": picked, "name": name}
    return render_to_string("takedown/_panel.html", shown)


def _clashed(clash: Clash, scene: Scene, plan: TakedownPlan, base: list[dict[str, Any]], system: str) -> HttpResponse:
    """Both values of fields that two people changed: theirs said at the field, mine still typed in it; nothing is
    saved.
    """
    form, name = clash.form, clash.form.data.get("pick") or ""
    was, now = (picks[index_of(picks, name)] for picks in (base, plan.picks))
    shown = [PickForm(units=system, choices=form.choices, entry=entry) for entry in (was, now)]
    kept = PickForm(rebased(form, *shown), units=system, choices=form.choices, entry=now)
    kept.is_valid()
    for key in clash.keys:
        hand = whose(plan, read=lambda was, key=key: _said_of(was.picks, name, key))
        field = form.field_of(key)
        text = clash_text(shown[1].in_words(key), hand, form.in_words(key))
        kept.add_error(field if field in kept.fields else None, text)
    if form.data.get("save") != "1":  # a preview while somebody types decides nothing, and leaves the panel alone
        return answer(kept.errors)
    fragments = {"panel": _panel_html(kept, index_of(plan.picks, name), name)}
    return answer(kept.errors, fragments, values={"revision": plan.revision}, saved=False)


def _said_of(picks: list[dict[str, Any]], name: str, key: str) -> Any:
    """What picks say of a key of one of them; nothing where it is not among them."""
    place = index_of(picks, name)
    return None if place is None else picks[place].get(key)


def _understood(data: QueryDict, scene: Scene, system: str) -> dict[str, str]:
    """What was made of what was typed with units, commas or fractions."""
    if "at_m" not in data:
        return {}
    return PickForm(data, units=system, choices=scene.choices).understood()


def _typed(
    picks: list[dict[str, Any]], name: str, data: QueryDict, system: str, choices: dict[str, Any]
) -> dict[str, Any]:
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
    "land_east", "land_north", "landing_on", "device_east", "device_north", "device_on", "bearing_deg",
)  # fmt: skip


@permission("plan.view", "plan.change")
def access(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The way up and down: the first line over its fork, and what it has to stand."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    plan, writes = planner.plan_for(tree), allowed(request.user, "plan.change")
    context = {"writes": writes, "cautions": wording.CAUTIONS, "plan": plan}
    found = or_broken(lambda: _way_up(request, tree, plan), request.units)
    if found.pop("kept", False):
        return redirect("takedown-access", job_id, tree_id)
    return render(request, "takedown/access.html", page(request, tree, "takedown", **context, **found))


def _way_up(request: HttpRequest, tree: Tree, plan: TakedownPlan) -> dict[str, Any]:
    """The way up with its form; ``kept`` where it was sent and is kept now."""
    scene, stored = planner.scene_of(tree), {"line_m": 45.0, **plan.access}
    sent = request.POST if request.method == "POST" else None
    form = AccessForm(sent, units=request.units, stored=stored, members=scene.choices["members"])
    if sent is not None:

        def say(name: str, value: Any) -> str:
            given = AccessForm(units=request.units, stored={name: value}, members=scene.choices["members"])
            return value_in_words(given, name)

        clash = form.run(lambda v: planner.keep_access(scene, plan, v, sent.get("revision"), say))
        if clash == {}:
            return {"kept": True}
        for name, said in (clash or {}).items():
            form.add_error(name if name in form.fields else None, said)
    return {"form": form} | presenter.way_up(scene, plan, request.units)


@require_POST
@permission("plan.change")
def undo(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Take back the last change of the takedown, or bring it back."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    with transaction.atomic():
        said = planner.step_back(planner.plan_for(tree), request.POST.get("revision"), "redo" in request.POST)
    if said:
        messages.info(request, said)
    return redirect(own_page(request.POST.get("page", ""), reverse("takedown", args=[job_id, tree_id])))
