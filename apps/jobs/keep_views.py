"""Jobs handed over, put by, deleted and brought back."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import permission
from apps.jobs import keep_planner, planner
from cantrel.border import row_id

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse


@require_POST
@permission("job.keep")
def put_by(request: HttpRequest, job_id: int) -> HttpResponse:
    """Put a job by, or take it up again."""
    archived = "back" not in request.POST
    keep_planner.put_by(planner.job_for(request.crew, job_id), archived)
    messages.success(request, gettext("Put by.") if archived else gettext("Taken up again."))
    return redirect("job", job_id)


@require_POST
@permission("job.keep")
def hand_over(request: HttpRequest, job_id: int) -> HttpResponse:
    """Say who looks after a job."""
    job, said = planner.job_for(request.crew, job_id), request.POST.get("keeper", "")
    keepers = keep_planner.keepers(request.crew)
    keep_planner.hand_over(job, get_object_or_404(keepers, pk=row_id(said)) if said else None)
    messages.success(request, gettext("Kept."))
    return redirect("job", job_id)


@permission("job.keep")
def delete(request: HttpRequest, job_id: int) -> HttpResponse:
    """Ask once more, then delete a job, with a way back."""
    job = planner.job_for(request.crew, job_id)
    if "sure" not in request.POST:
        return render(request, "jobs/delete.html", {"job": job})
    said = keep_planner.delete(job)
    if said:
        messages.error(request, said)
        return redirect("job", job_id)
    messages.success(request, gettext("Deleted. For thirty days it can be brought back from here."))
    return redirect("jobs-deleted")


@permission("job.keep")
def deleted(request: HttpRequest) -> HttpResponse:
    """Jobs on their way out."""
    rows = [{"job": job, "until": keep_planner.last_day(job)} for job in keep_planner.shown(request.crew, "deleted")]
    return render(request, "jobs/deleted.html", {"rows": rows})


@require_POST
@permission("job.keep")
def bring_back(request: HttpRequest, job_id: int) -> HttpResponse:
    """Bring a deleted job back."""
    keep_planner.bring_back(request.crew, job_id)
    messages.success(request, gettext("It is back."))
    return redirect("job", job_id)
