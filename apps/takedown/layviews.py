"""Laying a lead out in picks, a step at a time, and the changes that mend a pick."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.shortcuts import render
from django.utils.translation import ngettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import permission
from apps.jobs import planner as jobs
from apps.takedown import planner, wording
from apps.takedown.commands import index_of
from apps.takedown.forms import LayForm
from cantrel import quantities
from cantrel.answers import answer, refusal
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse

    from apps.takedown.planner import Laid, Scene


@require_POST
@permission("plan.change")
def lay_out(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Begin to lay a member out in picks, or look at the next of them; nothing is kept of it yet."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    scene, picks = planner.scene_of(tree), planner.plan_for(tree).picks
    token = request.POST.get("token", "")
    if not token:
        return _begun(request, scene, picks)
    try:
        laid = planner.laid_under(scene, picks, token)
    except CoreError as error:
        return refusal(quantities.explain(error, request.units))
    laid = planner.mended(scene, picks, laid) if laid.seen < len(laid.entries) else laid
    return _told(planner.keep_laid(scene, picks, laid, token), laid)


def _begun(request: HttpRequest, scene: Scene, picks: list[dict[str, object]]) -> HttpResponse:
    form = LayForm(request.POST, units=request.units, members=scene.choices["members"])
    laid = form.run(lambda v: planner.lay_out(scene, picks, v["lay_member"], v["lay_longest"], v["lay_heaviest"]))
    return answer(form.errors) if laid is None else _told(planner.keep_laid(scene, picks, laid), laid)


def _told(token: str, laid: Laid) -> HttpResponse:
    count = len(laid.entries)
    said = ngettext("{seen} of {count} pick looked at", "{seen} of {count} picks looked at", count)
    words = said.format(seen=laid.seen, count=count)
    return answer(laid={"token": token, "seen": laid.seen, "of": count, "said": words})


@permission("plan.view")
def mends(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The nearest changes that mend a pick, as a part of the bench."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    picks = planner.plan_for(tree).picks
    place = index_of(picks, request.GET.get("pick", ""))
    try:
        scene = planner.scene_of(tree)
        rows = planner.work_out(scene, picks)
        found = planner.mends_of(scene, rows[place]) if place is not None else []
    except CoreError as error:
        return render(request, "takedown/_mends.html", {"broken": quantities.explain(error, request.units)})
    offered = [wording.mend(trial, ruling, request.units) for trial, ruling in found]
    return render(request, "takedown/_mends.html", {"mends": offered})
