"""Who changed what; what leaves and comes back."""

from __future__ import annotations

from functools import partial
from tempfile import SpooledTemporaryFile
from typing import IO, TYPE_CHECKING, Any

from django import forms
from django.conf import settings
from django.contrib import messages
from django.http import FileResponse
from django.shortcuts import redirect, render
from django.utils.text import slugify
from django.utils.translation import gettext_lazy

from apps.crews.permissions import permission
from apps.jobs import planner as jobs
from apps.keeping import activity_planner, activity_presenter, archive_planner
from cantrel import quantities
from cantrel.border import whole_number
from treecore.errors import CoreError

if TYPE_CHECKING:
    from collections.abc import Callable

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


class ArchiveForm(forms.Form):
    """An archive to take in."""

    file = forms.FileField(label=gettext_lazy("Archive of a job or a yard (up to 40 MB)"))


def _sent(write: Callable[[IO[bytes]], None], name: str) -> FileResponse:
    """An archive on its way out, written to disk first where it is long."""
    to = SpooledTemporaryFile(max_size=8_000_000)  # noqa: SIM115 (the answer closes it)
    write(to)
    to.seek(0)
    return FileResponse(to, as_attachment=True, filename=f"{slugify(name) or 'cantrel'}.zip")


@permission("job.keep")
def job_archive(request: HttpRequest, job_id: int) -> FileResponse:
    """A job with its past and its pictures, as one file."""
    job = jobs.job_for(request.crew, job_id)
    return _sent(partial(archive_planner.job_archive, job), job.name)


@permission("yard.keep")
def yard_archive(request: HttpRequest) -> FileResponse:
    """Everything the yard has, as one file."""
    return _sent(partial(archive_planner.yard_archive, request.crew), request.crew.name)


@permission("yard.keep")
def archive(request: HttpRequest) -> HttpResponse:
    """Take the yard out as one file, or an archive in."""
    form = ArchiveForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        try:
            found = archive_planner.take_in(request.crew, form.cleaned_data["file"])
            messages.success(request, activity_presenter.came_in(found))
            return redirect("job", found.jobs[0].pk) if len(found.jobs) == 1 else redirect("jobs")
        except CoreError as error:
            form.add_error("file", quantities.explain(error, request.units))
    return render(request, "keeping/archive.html", {"form": form, "most": settings.LARGEST_REQUEST})
