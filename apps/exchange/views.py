"""Export of plan, site and tree list; taking in of GeoJSON and tree lists with a look before anything is changed."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING

from django import forms
from django.contrib import messages
from django.http import HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.utils.translation import gettext, gettext_lazy
from django.views.decorators.http import require_POST

from apps.briefing.planner import document
from apps.crews.permissions import permission
from apps.exchange import document_planner, list_planner
from apps.jobs import planner as jobs
from cantrel import quantities
from cantrel.answers import by_script
from cantrel.border import row_id
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.core.files.uploadedfile import UploadedFile
    from django.http import HttpRequest

    from apps.exchange.models import PlanFile
    from apps.jobs.models import Job

SHOWN = 25  # lines of a list the preview shows besides those refused


def _file(text: str, kind: str, name: str) -> HttpResponse:
    return HttpResponse(text, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@permission("plan.view")
def export(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The plan document of one tree, as ``python -m treecore evaluate`` reads it."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    text = json.dumps(document(tree), indent=1, ensure_ascii=False)
    return _file(text, "application/json", f"{slugify(tree.job.name)}-{slugify(tree.name)}.json")


@permission("plan.view")
def geojson(request: HttpRequest, job_id: int) -> HttpResponse:
    """Site and trees as GeoJSON, in local metres or in latitude and longitude."""
    job = jobs.job_for(request.crew, job_id)
    try:
        found = list_planner.geojson_of(job, lat_lon="wgs84" in request.GET)
    except CoreError as error:
        messages.error(request, quantities.explain(error, request.units))
        return redirect("site", job_id)
    return _file(
        json.dumps(found, indent=1, ensure_ascii=False), "application/geo+json", f"{slugify(job.name)}.geojson"
    )


@permission("plan.view")
def tree_list(request: HttpRequest, job_id: int) -> HttpResponse:
    """The job's trees as CSV."""
    job = jobs.job_for(request.crew, job_id)
    return _file(list_planner.tree_list_of(job), "text/csv; charset=utf-8", f"{slugify(job.name)}-trees.csv")


class FileForm(forms.Form):
    """A file to take in."""

    file = forms.FileField(label=gettext_lazy("GeoJSON, a tree list as CSV, or a plan file (up to 20 MB)"))


@permission("plan.change")
def take_in(request: HttpRequest, job_id: int) -> HttpResponse:
    """Choose a file; nothing is changed yet."""
    job = jobs.job_for(request.crew, job_id)
    form = FileForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        try:
            return redirect(_kept_at(request, job, form.cleaned_data["file"]))
        except CoreError as error:
            form.add_error("file", f"{error.field}: {quantities.explain(error, request.units)}")
    return render(
        request, "exchange/take_in.html", {"job": job, "form": form, "most": list_planner.MOST, "units": request.units}
    )


def _kept_at(request: HttpRequest, job: Job, upload: UploadedFile) -> str:
    """Keep a file that was chosen; where it is looked at. A plan file is looked at as one to put over the job."""
    by = request.user.shown_name()
    if document_planner.is_plan(upload):
        kept = document_planner.keep(request.crew, upload, by)
        return f"{reverse('plan-file-look', args=[kept.pk])}?over={job.pk}"
    return reverse("take-in-look", args=[job.pk, list_planner.keep(job, upload, by, request.units).pk])


@permission("plan.change")
def take_in_look(request: HttpRequest, job_id: int, intake_id: int) -> HttpResponse:
    """What a file would bring, line by line; columns and refused lines can be set right."""
    job = jobs.job_for(request.crew, job_id)
    kept = list_planner.intake_for(job, intake_id)
    if request.method == "POST":
        list_planner.correct(kept, request.POST)
        return redirect("take-in-look", job_id, intake_id)
    context = {"job": job, "kept": kept, "units": request.units}
    try:
        context |= list_planner.look(kept, SHOWN)
    except CoreError as error:
        context["broken"] = f"{error.field}: {quantities.explain(error, request.units)}"
    return render(request, "exchange/look.html", context)


@require_POST
@permission("plan.change")
def take_in_now(request: HttpRequest, job_id: int, intake_id: int) -> HttpResponse:
    """Take the good lines in, all or none; with a script the page follows how far it is."""
    kept, by = list_planner.intake_for(jobs.job_for(request.crew, job_id), intake_id), request.user
    if by_script(request):
        list_planner.start(kept, by)
        return JsonResponse({"started": True})
    try:
        count = list_planner.take(kept, by)
    except CoreError as error:
        messages.error(request, _nothing(error, request.units))
        return redirect("take-in-look", job_id, intake_id)
    messages.success(request, gettext("{count} taken in.").format(count=count))
    return redirect("site", job_id)


@permission("plan.change")
def take_in_far(request: HttpRequest, job_id: int, intake_id: int) -> HttpResponse:
    """How far the taking in is."""
    return JsonResponse(list_planner.progress(list_planner.intake_for(jobs.job_for(request.crew, job_id), intake_id)))


class PlanFileForm(forms.Form):
    """A plan file to take in."""

    file = forms.FileField(label=gettext_lazy("Plan file (JSON, up to 20 MB)"))


@permission("plan.change")
def plan_file(request: HttpRequest) -> HttpResponse:
    """Choose a plan file; nothing is changed yet."""
    form = PlanFileForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        try:
            kept = document_planner.keep(request.crew, form.cleaned_data["file"], request.user.shown_name())
            return redirect("plan-file-look", kept.pk)
        except CoreError as error:
            form.add_error("file", f"{error.field}: {quantities.explain(error, request.units)}")
    return render(
        request, "exchange/plan_file.html", {"form": form, "most": document_planner.MOST, "units": request.units}
    )


@permission("plan.change")
def plan_file_look(request: HttpRequest, file_id: int) -> HttpResponse:
    """What a plan file would bring, line by line; a POST makes a job of it, or puts it over one that was looked at."""
    kept = document_planner.file_for(request.crew, file_id)
    asked = request.POST.get("over") or request.GET.get("over", "")
    over = jobs.job_for(request.crew, row_id(asked)) if asked else None
    if request.method == "POST":
        try:
            return redirect("job", _taken(request, kept, over).pk)
        except CoreError as error:
            messages.error(request, _nothing(error, request.units))
    context = document_planner.look(kept, request.units, over) | {"kept": kept, "units": request.units}
    return render(request, "exchange/plan_look.html", context | {"jobs": jobs.jobs_of(request.crew)})


def _taken(request: HttpRequest, kept: PlanFile, over: Job | None) -> Job:
    """The job a plan file was made into, or put over."""
    if over is None:
        job = document_planner.make_job(kept)
        said = gettext("“{name}” is a job now.")
    else:
        job = document_planner.put_over(kept, over, request.POST.get("seen", ""))
        said = gettext("“{name}” is as the file says.")
    messages.success(request, said.format(name=job.name))
    return job


def _nothing(error: CoreError, system: str) -> str:
    """Why nothing was taken in."""
    said = gettext("Nothing was taken in. {field}: {why}")
    return said.format(field=error.field, why=quantities.explain(error, system))
