"""Who changed what; what leaves and comes back."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.shortcuts import render

from apps.crews.permissions import permission
from apps.jobs import planner as jobs
from apps.keeping import activity_planner, activity_presenter
from cantrel.border import whole_number

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse

PAGE = 40  # events of a page
FURTHEST = 250  # pages


def _events(request: HttpRequest, tables: Any, owner: Any) -> dict[str, Any]:
    page = whole_number(request.GET.get("page"), 1, FURTHEST) or 1
    rows = activity_planner.events(tables, owner, (page - 1) * PAGE, PAGE + 1)
    shown = [activity_presenter.shown(row, request.units) for row in rows[:PAGE]]
    return {"rows": shown, "newer": page - 1, "older": page + 1 if len(rows) > PAGE and page < FURTHEST else 0}


@permission("plan.view")
def job_activity(request: HttpRequest, job_id: int) -> HttpResponse:
    """Who changed what of a job."""
    job = jobs.job_for(request.crew, job_id)
    return render(request, "keeping/activity.html", _events(request, activity_planner.JOB, job) | {"job": job})


@permission("yard.people")
def yard_activity(request: HttpRequest) -> HttpResponse:
    """Who changed what of the yard: people, gear, species, lists."""
    return render(request, "keeping/activity.html", _events(request, activity_planner.YARD, request.crew))
