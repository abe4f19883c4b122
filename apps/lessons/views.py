"""What a yard's records teach, and a job as it was done."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.contrib import messages
from django.shortcuts import redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.jobs import planner as jobs
from apps.lessons import planner, presenter
from cantrel.quantities import explain
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse


@permission("yard.view")
def learning(request: HttpRequest) -> HttpResponse:
    """How far estimates were off, by who made them, species or method; what the yard's own wood weighs."""
    by = request.GET.get("by", "")
    shown = presenter.shown(request.crew, by if by in planner.GROUPS else "", request.units)
    return render(request, "lessons/learning.html", shown | {"writes": allowed(request.user, "plan.change")})


@require_POST
@permission("plan.change")
def wood(request: HttpRequest, key: str) -> HttpResponse:
    """Keep what was learnt of a species as the yard's own."""
    try:
        row = planner.use_wood(request.crew, key)
    except CoreError as error:
        messages.error(request, explain(error, request.units))
    else:
        said = gettext("{name} is among the yard’s species now: choose it for a tree, and its plans stand on it.")
        messages.success(request, said.format(name=row.common))
    return redirect("learning")


@permission("plan.view")
def review(request: HttpRequest, job_id: int) -> HttpResponse:
    """A job as it was done beside its plan."""
    job = jobs.job_for(request.crew, job_id)
    return render(request, "lessons/review.html", {"job": job, **presenter.reviewed(job, request.units)})
