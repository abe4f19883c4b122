"""A load cell's page: live value and peak of one pick, its traces, a logger's file."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from django import forms
from django.contrib import messages
from django.http import Http404, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext, gettext_lazy
from django.views.decorators.http import require_POST

from apps.crews.permissions import permission
from apps.daybook import cell_planner, cell_presenter, work_planner
from apps.daybook.models import Trace
from apps.jobs import planner as jobs
from cantrel.forms import UnitsForm
from cantrel.steps import page

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse

    from apps.jobs.models import Tree

LARGEST = 20 * 1024 * 1024


class WhereForm(UnitsForm):
    """Where a cell hangs."""

    where = forms.ChoiceField(choices=Trace.Where.choices, label=gettext_lazy("The cell hangs"))


class LoggerForm(WhereForm):
    """A logger's file, and which of its columns is what."""

    file = forms.FileField(label=gettext_lazy("A logger’s file (CSV, up to 20 MB)"))
    time = forms.CharField(max_length=60, initial="time", label=gettext_lazy("Column of the time, in seconds"))
    force = forms.CharField(max_length=60, initial="force", label=gettext_lazy("Column of the force"))
    unit = forms.ChoiceField(
        choices=[(u, u) for u in cell_planner.FORCES], initial="kN", label=gettext_lazy("Unit of the force")
    )

    def clean_file(self) -> str:
        """The file as text."""
        file = self.cleaned_data["file"]
        if file.size > LARGEST:
            raise forms.ValidationError(gettext("It is larger than 20 MB."))
        return file.read().decode("utf-8-sig", "replace")


def _pick(tree: Tree, pick: str) -> dict[str, Any]:
    """The pick a page is about; one that is no longer planned where it has a trace."""
    every = work_planner.picks_of(tree)
    known = next((entry for entry in every if entry["id"] == pick), None)
    if known is None and not cell_planner.traces_of(tree, pick):
        raise Http404(gettext("The plan has no such pick."))
    return known or {"id": pick, "number": None, "what": gettext("a pick no longer planned")}


@permission("plan.view", "record.write")
def cell(request: HttpRequest, job_id: int, tree_id: int, pick: str) -> HttpResponse:
    """Live value and peak of a pick; a POST begins to listen, or stops."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    _pick(tree, pick)
    if request.method == "POST":
        _listen(request, tree, pick)
        return redirect("cell", job_id, tree_id, pick)
    return _page(request, tree, pick, LoggerForm(auto_id="logger_%s"))


def _listen(request: HttpRequest, tree: Tree, pick: str) -> None:
    where = WhereForm(request.POST)
    if "stop" in request.POST:
        for trace in cell_planner.traces_of(tree, pick):
            cell_planner.stop(trace)
    elif where.is_valid():
        cell_planner.listen(tree, pick, where.cleaned_data["where"], request.user)


def _page(request: HttpRequest, tree: Tree, pick: str, logger: LoggerForm) -> HttpResponse:
    shown = cell_presenter.shown(tree, pick, request.units)
    context = {"pick": _pick(tree, pick), "where": WhereForm(), "logger": logger, **shown}
    return render(request, "daybook/cell.html", page(request, tree, "record", **context))


@permission("plan.view")
def now(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> JsonResponse:
    """What a trace says now, for a page that asks four times a second."""
    trace = get_object_or_404(jobs.tree_for(request.crew, job_id, tree_id).traces, pk=pk)
    return JsonResponse(cell_presenter.live(trace, request.units))


@require_POST
@permission("record.write")
def logger_file(request: HttpRequest, job_id: int, tree_id: int, pick: str) -> HttpResponse:
    """Take a logger's file in as a trace of a pick."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    _pick(tree, pick)
    form = LoggerForm(request.POST, request.FILES, auto_id="logger_%s")
    if form.run(partial(_taken_in, request, tree, pick)) is None:
        return _page(request, tree, pick, form)
    messages.success(request, gettext("The trace is kept."))
    return redirect("cell", job_id, tree_id, pick)


def _taken_in(request: HttpRequest, tree: Tree, pick: str, said: dict[str, Any]) -> Trace:
    mapping = {name: said[name] for name in ("time", "force", "unit")} | {"name": request.FILES["file"].name}
    return cell_planner.from_file(tree, pick, said["where"], said["file"], mapping, request.user)
