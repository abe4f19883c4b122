"""The brief of a whole job: on the screen, as PDF, its lists and drawings as files."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils.text import slugify
from django.utils.translation import gettext, gettext_lazy
from django.views.decorators.http import require_POST

from apps.briefing import job_planner, job_presenter, making_planner
from apps.crews.permissions import permission
from apps.jobs import planner as jobs
from apps.takedown import picture
from apps.takedown.brief import worked_picks
from apps.takedown.landings_picture import landings
from apps.takedown.planner import scene_of
from cantrel import lan, paper
from cantrel.answers import by_script

if TYPE_CHECKING:
    from collections.abc import Callable
    from typing import Any

    from django.http import HttpRequest

    from apps.jobs.models import Job

SIZES = (("a4", gettext_lazy("A4")), ("letter", gettext_lazy("Letter")))
VIEWS = (("plan", gettext_lazy("Plan")), ("elevation", gettext_lazy("Elevation")))
KINDS = {
    "svg": "image/svg+xml",
    "dxf": "image/vnd.dxf",
    "csv": "text/csv; charset=utf-8",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}


def _link(job: Job) -> dict[str, Any]:
    """Where a phone on this network opens the job, as a code."""
    address = lan.over_tls().rstrip("/") + reverse("job", args=[job.pk])
    return {"address": address, "code": lan.code(address)}


@permission("plan.view")
def job_brief(request: HttpRequest, job_id: int) -> HttpResponse:
    """The brief of a whole job."""
    job = jobs.job_for(request.crew, job_id)
    shown = job_presenter.shown(job_planner.brief_of(job), request.units)
    return render(request, "briefing/job_brief.html", {**shown, **_link(job), "sizes": SIZES, "views": VIEWS})


def _made(job: Job, size: str, system: str, say: Callable[[str, int], None]) -> bytes:
    """The brief as PDF; how far it is goes by trees, and the paper is the last third."""
    working, drawing = gettext("Working out {name}"), gettext("Drawing {name}")
    brief = job_planner.brief_of(job, lambda name, n, of: say(working.format(name=name), 30 * n // max(of, 1)))
    shown = job_presenter.shown(
        brief, system, lambda name, n, of: say(drawing.format(name=name), 30 + 30 * n // max(of, 1))
    )
    say(gettext("Laying out the pages"), 65)
    return paper.pdf(render_to_string("briefing/paper.html", {**shown, **_link(job)}), size)


@require_POST
@permission("plan.view", "plan.view")
def make(request: HttpRequest, job_id: int, size: str) -> HttpResponse:
    """Begin to make the brief as PDF; told as JSON to a script, else made while one waits."""
    job = jobs.job_for(request.crew, job_id)
    if size not in paper.SIZES:
        raise Http404
    build = partial(_made, job, size, request.units)
    if not by_script(request):
        return _file(build(lambda *said: None), f"{slugify(job.name) or 'job'}-brief.pdf", "application/pdf")
    token = making_planner.begin(request.user.pk, build, request.units)
    return redirect("job-brief-made", job_id, token)


@permission("plan.view")
def made(request: HttpRequest, job_id: int, token: str) -> JsonResponse:
    """How far a PDF is, and where it is when it is there."""
    jobs.job_for(request.crew, job_id)
    found = making_planner.now(request.user.pk, token)
    if found is None:
        raise Http404
    ask, file = (reverse(name, args=[job_id, token]) for name in ("job-brief-made", "job-brief-file"))
    said = {name: found[name] for name in ("state", "said", "percent")}
    return JsonResponse({**said, "ask": ask, "file": file})


@permission("plan.view")
def made_file(request: HttpRequest, job_id: int, token: str) -> HttpResponse:
    """A PDF that was made."""
    job = jobs.job_for(request.crew, job_id)
    content = making_planner.made(request.user.pk, token)
    if content is None:
        raise Http404
    return _file(content, f"{slugify(job.name) or 'job'}-brief.pdf", "application/pdf")


def _file(content: bytes | str, name: str, kind: str) -> HttpResponse:
    return HttpResponse(content, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@permission("plan.view")
def pick_list(request: HttpRequest, job_id: int, tree_id: int, form: str) -> HttpResponse:
    """The picks of a tree as a sheet."""
    from apps.briefing import lists_planner  # what writes sheets and drawings is slow to load, and seldom asked for

    tree = jobs.tree_for(request.crew, job_id, tree_id)
    made_by = {"csv": lists_planner.as_csv, "xlsx": lists_planner.as_xlsx}.get(form)
    if made_by is None:
        raise Http404
    return _file(made_by(tree, request.units), f"{slugify(tree.name) or 'tree'}-picks.{form}", KINDS[form])


@permission("plan.view")
def drawing_file(request: HttpRequest, job_id: int, tree_id: int, view: str, form: str) -> HttpResponse:
    """Plan or elevation of a tree as a drawing of its own."""
    from apps.briefing import lists_planner  # slow to load, and seldom asked for

    tree = jobs.tree_for(request.crew, job_id, tree_id)
    if view not in dict(VIEWS) or form not in ("svg", "dxf"):
        raise Http404
    content = lists_planner.dxf(tree, view) if form == "dxf" else _svg(tree, view, request.units)
    return _file(content, f"{slugify(tree.name) or 'tree'}-{view}.{form}", KINDS[form])


def _svg(tree: Any, view: str, system: str) -> str:
    scene, worked = scene_of(tree), worked_picks(tree)
    rows = worked.rows if worked and worked.rows else []
    drawn = landings(scene, rows, system) if view == "plan" else picture.numbered(scene, rows, system)
    return paper.styled(render_to_string(f"takedown/_paper_{view}.html", {"d": drawn}).strip())
