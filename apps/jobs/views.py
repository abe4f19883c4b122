"""Jobs, trees and targets."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from django.contrib import messages
from django.core.paginator import Paginator
from django.shortcuts import redirect, render
from django.utils.translation import gettext

from apps.crews.permissions import permission
from apps.crews.verdicts_planner import judge
from apps.jobs import keep_planner, planner
from apps.jobs.forms import JobForm, NewTreeForm
from apps.jobs.standing_presenter import listed, standings
from cantrel.revisions import posted
from cantrel.steps import loaded, next_step, page

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.jobs.models import Job


@permission("jobs.list")
def jobs(request: HttpRequest) -> HttpResponse:
    """The yard's jobs: those at work, or those put by; a guest's one."""
    archived = "archived" in request.GET
    rows = keep_planner.shown(request.crew, "archived" if archived else "")
    if request.user.role == "guest":
        rows = rows.filter(pk=request.user.only_job_id)
    words = request.GET.get("q", "").strip()[:80]
    found = Paginator(keep_planner.searched(rows, words), 40).get_page(request.GET.get("page"))
    known = standings([tree for job in found for tree in job.trees.all()])
    shown = {"jobs": found, "archived": archived, "units": request.units, "words": words, "standings": known}
    return render(request, "jobs/jobs.html", shown)


@permission("plan.change")
def job_new(request: HttpRequest) -> HttpResponse:
    """Make a job."""
    form = JobForm(request.POST or None, units=request.units)
    job = form.run(partial(planner.save_job, request.crew)) if request.method == "POST" else None
    if job:
        return redirect("job", job.pk)
    return render(request, "jobs/job_form.html", {"form": form, "units": request.units})


@permission("plan.view", "plan.change")
def job(request: HttpRequest, job_id: int) -> HttpResponse:
    """A job: its trees and details."""
    found, build = planner.job_for(request.crew, job_id), partial(_job_form, request.units)
    form = build(found)
    if request.method == "POST":
        save = partial(planner.save_job, request.crew)
        done, form = posted(found, request.POST.get("revision"), build, request.POST, save)
        if done:
            messages.success(request, gettext("Job saved."))
            return redirect("job", job_id)
        found = planner.job_for(request.crew, job_id)
    shown = {"job": found, "trees": listed(list(found.trees.all())), "form": form, "units": request.units}
    return render(request, "jobs/job.html", shown | {"keepers": keep_planner.keepers(request.crew)})


def _job_form(system: str, row: Job, data: QueryDict | None = None) -> JobForm:
    return JobForm(data, units=system, stored={f: getattr(row, f) for f in JobForm.base_fields})


@permission("plan.change")
def tree_new(request: HttpRequest, job_id: int) -> HttpResponse:
    """Add a tree by three numbers; what else is known stands beside them."""
    found = planner.job_for(request.crew, job_id)
    stored = planner.NEW_TREE | {"breast": "us" if request.units == "us" else "metric"}
    form = NewTreeForm(request.POST or None, units=request.units, stored=stored, job=found)
    saved = form.run(partial(planner.begin_tree, found)) if request.method == "POST" else None
    if saved:
        said = gettext("{name} is there. Walk round it before anything is planned.").format(name=saved[0].name)
        messages.success(request, said)
        return redirect("walk-up", job_id, saved[0].pk)
    return render(request, "jobs/tree_new.html", {"job": found, "form": form, "units": request.units})


@permission("plan.view")
def strip(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The strip of a tree's steps as they stand now, for a page that was drawn before; verdicts that are not known
    are worked out for it.
    """
    tree = loaded(planner.tree_for(request.crew, job_id, tree_id))
    judge(tree)
    return render(request, "_strip.html", page(request, tree, request.GET.get("step", "")))


@permission("plan.view")
def tree_open(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """A tree, opened at its next step."""
    return redirect(next_step(planner.tree_for(request.crew, job_id, tree_id))["url"])
