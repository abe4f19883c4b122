"""Measuring and the walk-up."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.http import FileResponse, Http404, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.jobs import planner as jobs
from apps.jobs.forms import NewTreeForm, TreeForm
from apps.jobs.models import Tree
from apps.survey import planner, presenter
from apps.survey.forms import AnswerForm, LineForm, ReadingForm
from cantrel.answers import answer as scripted
from cantrel.answers import by_script, parts
from cantrel.border import row_id
from cantrel.revisions import posted
from cantrel.steps import page

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.jobs.models import Job
    from treecore.tree.body import TreeInput
    from treecore.tree.weigh import TreeResult


@permission("plan.view", "plan.change")
def measure(request: HttpRequest, job_id: int, tree_id: int, reading_form: ReadingForm | None = None) -> HttpResponse:
    """The tree's numbers, its picture and its readings."""
    tree, system = jobs.tree_for(request.crew, job_id, tree_id), request.units
    build = partial(_tree_form, system, tree)
    if by_script(request):
        return _typed(request, tree, build)
    form = build(tree)
    if reading_form is None and request.method == "POST":
        done, form = _tree_saved(request, tree, build)
        if done:
            messages.success(request, gettext("Tree saved."))
            return redirect("measure", job_id, tree_id)
    context = presenter.measured(tree, system) | _methods(system, reading_form)
    return render(request, "survey/measure.html", page(request, tree, "measure", form=form, **context))


def _tree_saved(request: HttpRequest, tree: Tree, build: Callable[..., TreeForm]) -> tuple[Any, ...]:
    """What was saved of a tree's form, or None and the form that says why not."""
    save = partial(jobs.save_tree, tree.job)
    found = posted(tree, request.POST.get("revision"), build, request.POST, save)
    tree.refresh_from_db()
    return found


def _typed(request: HttpRequest, tree: Tree, build: Callable[..., TreeForm]) -> HttpResponse:
    """A change of the tree's numbers: drawn, and kept where it is asked for."""
    if request.POST.get("save") != "1":
        return _preview(request, tree.job, tree)
    done, form = _tree_saved(request, tree, build)
    tree = jobs.tree_for(request.crew, tree.job_id, tree.pk)
    values: dict[str, Any] = {"revision": tree.revision}
    if not done:
        return scripted(form.errors, values=values if not form.non_field_errors() else {}, saved=False)
    now = build(tree)
    values |= {name: now[name].value() for name in now.fields}
    context = presenter.measured(tree, request.units) | {"tree": tree}
    fragments = {"tree-body": render_to_string("survey/_body.html", context, request)}
    fragments["undo"] = render_to_string("survey/_tree_undo.html", context, request)
    return scripted(fragments=fragments, values=values, notes=form.understood(), saved=True)


def _tree_form(system: str, tree: Tree, row: Tree, data: QueryDict | None = None) -> TreeForm:
    stored = {name: getattr(row, name) for name in TreeForm.base_fields}
    return TreeForm(data, units=system, stored=stored, job=tree.job, tree=tree)


def _methods(system: str, sent: ReadingForm | None) -> dict[str, Any]:
    """Ways of measuring with their forms; the one that was sent and refused stands open and keeps what was typed."""
    rows = [
        {"method": m, "form": sent if sent and sent.method == key else ReadingForm(method=key, units=system)}
        for key, m in planner.method_table().items()
    ]
    return {"methods": rows, "open_method": sent and sent.method}


@require_POST
@permission("plan.view")
def tree_preview(request: HttpRequest, job_id: int) -> HttpResponse:
    """The drawing and figures of a tree as typed, nothing saved."""
    job = jobs.job_for(request.crew, job_id)
    tree = get_object_or_404(job.trees, pk=row_id(request.POST["tree"])) if request.POST.get("tree") else None
    return _preview(request, job, tree)


def _preview(request: HttpRequest, job: Job, tree: Tree | None) -> HttpResponse:
    stored = {name: getattr(tree, name) for name in TreeForm.base_fields} if tree else {}
    kind = TreeForm if tree else NewTreeForm
    form = kind(request.POST, units=request.units, stored=stored, job=job, tree=tree)
    for field in form.fields.values():
        field.required = False
    done = form.run(lambda values: _typed_body(job, tree, values))
    answer = {"errors": form.errors, "fragments": {}}
    if done:
        html = render_to_string("survey/_body.html", presenter.body(*done, request.units), request)
        answer["fragments"]["tree-body"] = html
    return JsonResponse(answer)


def _typed_body(job: Job, tree: Any, values: dict[str, Any]) -> tuple[TreeInput, TreeResult] | None:
    """The tree as typed, weighed; None while it is too little. A stored tree keeps its readings."""
    if tree is None:
        found = jobs.begun(job, values)
        return jobs.weigh_entry(found[1]) if found else None
    guess = jobs.first_guess(values)
    return jobs.weigh_entry(planner.measured_entry(jobs.put_tree(tree, guess))) if guess else None


@require_POST
@permission("plan.change")
def reading_new(request: HttpRequest, job_id: int, tree_id: int, method: str) -> HttpResponse:
    """Keep a reading."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    if method not in planner.method_table():
        return redirect("measure", job_id, tree_id)
    form = ReadingForm(request.POST, method=method, units=request.units)
    name = request.user.shown_name()
    kept = form.run(lambda v: planner.add_reading(tree, method, form.values(v), by=v["by"] or name, note=v["note"]))
    if kept is None:
        return measure(request, job_id, tree_id, reading_form=form)
    return redirect("measure", job_id, tree_id)


@require_POST
@permission("plan.change")
def reading_use(request: HttpRequest, job_id: int, tree_id: int, reading_id: int) -> HttpResponse:
    """Take a reading in or set it aside."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    planner.use_reading(get_object_or_404(tree.readings, pk=reading_id), request.POST.get("used") == "1")
    return redirect("measure", job_id, tree_id)


@permission("plan.view")
def walk_up(
    request: HttpRequest,
    job_id: int,
    tree_id: int,
    form: AnswerForm | None = None,
    hazard: str | None = None,
    line_form: LineForm | None = None,
) -> HttpResponse:
    """The walk-up list: one's own answers beside the others', differences first."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    context = _walk(request, tree, form, hazard) | {
        "line_form": line_form or LineForm(),
        "own_lines": [r for r in planner.own_lines(tree.job.crew).values() if not r.retired],
        "writes": allowed(request.user, "plan.change"),
    }
    return render(request, "survey/walk_up.html", page(request, tree, "walk-up", **context))


def _walk(
    request: HttpRequest, tree: Tree, form: AnswerForm | None = None, hazard: str | None = None
) -> dict[str, Any]:
    """The list's lines, what they block and what people saw differently; a refused form in its line."""
    found = planner.walk_up(tree, request.user)
    rows = [_hazard(row, request.units, form if hazard == row["hazard"].key else None) for row in found]
    return presenter.walk(rows, request.user.shown_name())


def _hazard(row: dict[str, Any], system: str, sent: AnswerForm | None) -> dict[str, Any]:
    """A line of the list with its form; the one that was sent and refused stands open."""
    mine = row["mine"]
    stored = {n: getattr(mine, n) for n in AnswerForm.base_fields} if mine else {"finding": "not_looked"}
    own = sent or AnswerForm(prefix=row["hazard"].key, units=system, stored=stored)
    others = [presenter.seen(a, system) for a in row["answers"] if a is not mine]
    return row | {"form": own, "open": sent is not None, "others": others}


@require_POST
@permission("walkup.answer")
def answer(request: HttpRequest, job_id: int, tree_id: int, hazard: str) -> HttpResponse:
    """Keep what one person found of one hazard."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    if hazard not in {row["hazard"].key for row in planner.walk_up(tree)}:
        return redirect("walk-up", job_id, tree_id)
    form = AnswerForm(request.POST, prefix=hazard, units=request.units)
    photo = request.FILES.get(f"{hazard}-photo")
    kept = form.run(lambda values: planner.answer(tree, hazard, values, request.user, photo))
    if by_script(request):
        return _lines(request, tree, [hazard], form if kept is None else None)
    if kept is None:
        return walk_up(request, job_id, tree_id, form=form, hazard=hazard)
    return redirect(f"{request.path.split('walk-up/')[0]}walk-up/#hazard-{hazard}")


def _lines(request: HttpRequest, tree: Tree, keys: list[str], refused: AnswerForm | None = None) -> HttpResponse:
    """Lines of the list as they stand now, with what all lines together say."""
    context = _walk(request, tree, refused, keys[0] if refused else None) | {"job": tree.job, "tree": tree}
    fragments = parts("survey/_walk_", ("head", "undo", "rest"), context, request)
    for row in context["rows"]:
        if row["hazard"].key in keys:
            name = f"line {row['hazard'].key}"
            fragments[name] = render_to_string("survey/_walk_line.html", context | {"row": row}, request)
    return scripted(refused.errors if refused else None, fragments, saved=refused is None)


@require_POST
@permission("walkup.answer")
def rest(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Keep that a person looked for all the lines they left and found none of it."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    keys = request.POST.getlist("line")
    planner.rest_absent(tree, keys, request.user)
    return _lines(request, tree, keys) if by_script(request) else redirect("walk-up", job_id, tree_id)


@permission("plan.view")
def hazard_photo(request: HttpRequest, job_id: int, tree_id: int, pk: int) -> HttpResponse:
    """A hazard's photo, for the crew only."""
    row = get_object_or_404(jobs.tree_for(request.crew, job_id, tree_id).answers, pk=pk)
    if not row.photo:
        raise Http404
    return FileResponse(row.photo.open("rb"), content_type="image/jpeg")


@require_POST
@permission("plan.change")
def line_new(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """Add a line of the crew's own to the list, or take one off."""
    jobs.tree_for(request.crew, job_id, tree_id)
    if "retire" in request.POST:
        planner.retire_line(request.crew, row_id(request.POST["retire"]))
        return redirect("walk-up", job_id, tree_id)
    form = LineForm(request.POST)
    if form.run(lambda values: planner.add_line(request.crew, values)) is None:
        return walk_up(request, job_id, tree_id, line_form=form)
    return redirect("walk-up", job_id, tree_id)
