"""Undo and redo of a page: one answer for every scope."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.contrib import messages
from django.shortcuts import redirect
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews import steps
from apps.crews.permissions import permission
from apps.jobs import planner
from cantrel import quantities
from cantrel.pages import own_page
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse

    from apps.crews.models import Crew
    from apps.jobs.models import Job, Tree


def stepped(request: HttpRequest, scope: str, owner: Crew | Job | Tree) -> HttpResponse:
    """Take back or bring back what the page offered, say why not where it can't be, and go back to the page."""
    forward = "redo" in request.POST
    seen = request.POST.get("redo" if forward else "undo") or "none"  # nothing is taken back that no page offered
    try:
        said = (steps.forth if forward else steps.back)(scope, owner, seen)
    except CoreError as error:
        said = quantities.explain(error, request.units)
    if said:
        messages.info(request, said)
    return redirect(own_page(request.POST.get("page", ""), "/"))


@require_POST
@permission("plan.change")
def undo_of_job(request: HttpRequest, job_id: int, scope: str) -> HttpResponse:
    """Undo of a job's papers or its site."""
    owner = planner.job_for(request.crew, job_id)
    return stepped(request, scope if scope in ("paper", "site", "day", "items", "wood") else "paper", owner)


@require_POST
@permission("plan.change")
def undo_of_body(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Undo of a tree's measures and readings."""
    return stepped(request, "body", planner.tree_for(request.crew, job_id, tree_id))


@require_POST
@permission("walkup.answer")
def undo_of_walk(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Undo of a tree's walk-up: each takes back their own answers."""
    tree = planner.tree_for(request.crew, job_id, tree_id)
    whose = steps.state("walk", tree)["redo_by" if "redo" in request.POST else "undo_by"]
    if whose:
        messages.info(request, gettext("{name} answered that: nobody else takes it back.").format(name=whose))
        return redirect(own_page(request.POST.get("page", ""), "/"))
    return stepped(request, "walk", tree)


@require_POST
@permission("record.write")
def undo_of_record(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Undo of a tree's record."""
    return stepped(request, "record", planner.tree_for(request.crew, job_id, tree_id))


@require_POST
@permission("record.write")
def undo_of_work(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Undo of what was recorded of a tree's picks."""
    return stepped(request, "work", planner.tree_for(request.crew, job_id, tree_id))


CREWS = ("rates", "gear", "schools", "species", "lines")


@require_POST
@permission("plan.change")
def undo_of_crew(request: HttpRequest, scope: str) -> HttpResponse:
    """Undo of the gear store, the usual schools, the yard's species or its own walk-up lines."""
    return stepped(request, scope if scope in CREWS else "gear", request.crew)
