"""Records of picks: sent from a phone or a page, changed later, and which of several counts."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.http import FileResponse, Http404, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import permission
from apps.daybook import work_planner, work_presenter
from apps.daybook.forms import MadeForm, WorkForm, form_for, stored
from apps.jobs import planner as jobs
from cantrel.answers import by_script
from cantrel.revisions import posted
from cantrel.steps import page

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse

    from apps.daybook.models import WorkRecord
    from apps.jobs.models import Tree


@require_POST
@permission("record.write")
def send(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Keep a record that was made on a phone or a page; told as JSON to a script, else back to the record."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    made = MadeForm(request.POST)
    if not made.is_valid():
        return _told("refused", gettext("It does not say of which pick it is."), status=422)
    form = form_for(made.cleaned_data["pick"])(request.POST, units=made.cleaned_data["units"] or request.units)
    kept = form.run(partial(_keep, request, tree, made.cleaned_data))
    if not by_script(request):
        _say(request, form, kept)
        return redirect("record", job_id, tree_id)
    return _told(kept.state, work_presenter.told(kept)) if kept else _refused(form)


def _keep(request: HttpRequest, tree: Tree, made: dict[str, Any], values: dict[str, Any]) -> work_planner.Kept:
    about = work_planner.Made(*(made[name] for name in ("uid", "pick", "what")))
    return work_planner.keep(tree, about, values, request.user, request.FILES.get("photo"))


def _told(state: str, said: str, status: int = 200, **more: Any) -> JsonResponse:
    return JsonResponse({"state": state, "said": said, **more}, status=status)


def _refused(form: WorkForm) -> JsonResponse:
    return _told("refused", work_presenter.errors(form), status=422, errors=form.said())


def _say(request: HttpRequest, form: WorkForm, kept: work_planner.Kept | None) -> None:
    if kept is None:
        messages.error(request, work_presenter.errors(form))
    else:
        messages.info(request, work_presenter.told(kept))


def _row(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> WorkRecord:
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    return get_object_or_404(tree.work_records.select_related("tree__job"), pk=pk)


def _form(system: str, row: WorkRecord, data: Any = None) -> WorkForm:
    return WorkForm(data, units=system, stored=stored(row))


@permission("plan.view", "record.write")
def work(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> HttpResponse:
    """One record beside its plan; a POST changes what was noted."""
    row, build = _row(request, job_id, tree_id, pk), partial(_form, request.units)
    form = build(row)
    if request.method == "POST":
        save = lambda values, now: work_planner.save(now, values, request.FILES.get("photo"))  # noqa: E731
        done, form = posted(row, request.POST.get("revision"), build, request.POST, save)
        if done:
            messages.success(request, gettext("Record kept."))
            return redirect("record", job_id, tree_id)
    shown = work_presenter.one(row, request.units)
    return render(request, "daybook/work.html", page(request, row.tree, "record", form=form, row=row, **shown))


@require_POST
@permission("record.write")
def counts(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> HttpResponse:
    """Say which of several records of a pick counts."""
    work_planner.let_count(_row(request, job_id, tree_id, pk))
    return redirect("record", job_id, tree_id)


@permission("plan.view")
def photo(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> FileResponse:
    """A photo of what was done, for the crew only."""
    row = get_object_or_404(jobs.tree_for(request.crew, job_id, tree_id).record_photos, pk=pk)
    if not row.image.storage.exists(row.image.name):
        raise Http404
    return FileResponse(row.image.open("rb"), content_type="image/jpeg")
