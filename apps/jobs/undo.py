"""Undo and redo of a page: one answer for every scope."""

from django.contrib import messages
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from apps.crews import steps
from apps.crews.permissions import permission
from apps.jobs import planner
from cantrel import quantities
from cantrel.pages import own_page
from treecore.errors import CoreError


def stepped(request, scope, owner):
    """Take back or bring back what the page offered, say why not where it can't be, and go back to the page."""
    forward = "redo" in request.POST
    try:
        said = (steps.forth if forward else steps.back)(scope, owner, request.POST.get("redo" if forward else "undo"))
    except CoreError as error:
        said = quantities.explain(error, request.units)
    if said:
        messages.info(request, said)
    return redirect(own_page(request.POST.get("page", ""), "/"))


@require_POST
@permission("plan.change")
def undo_of_job(request, job_id, scope):
    """Undo of a job's papers or its site."""
    owner = planner.job_for(request.crew, job_id)
    return stepped(request, scope if scope in ("paper", "site") else "paper", owner)


@require_POST
@permission("plan.change")
def undo_of_body(request, job_id, tree_id):
    """Undo of a tree's measures and readings."""
    return stepped(request, "body", planner.tree_for(request.crew, job_id, tree_id))


@require_POST
@permission("walkup.answer")
def undo_of_walk(request, job_id, tree_id):
    """Undo of a tree's walk-up."""
    return stepped(request, "walk", planner.tree_for(request.crew, job_id, tree_id))


@require_POST
@permission("record.write")
def undo_of_record(request, job_id, tree_id):
    """Undo of a tree's record."""
    return stepped(request, "record", planner.tree_for(request.crew, job_id, tree_id))


CREWS = ("gear", "schools", "species", "lines")


@require_POST
@permission("plan.change")
def undo_of_crew(request, scope):
    """Undo of the gear store, the usual schools, the yard's species or its own walk-up lines."""
    return stepped(request, scope if scope in CREWS else "gear", request.crew)
