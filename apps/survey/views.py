"""Measuring and the walk-up."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.http import FileResponse, Http404, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.jobs import planner as jobs
from apps.jobs.forms import TreeForm
from apps.jobs.models import Tree
from apps.jobs.presenter import elevation, tree_figures
from apps.survey import planner
from apps.survey.forms import AnswerForm, LineForm, ReadingForm
from cantrel import quantities
from cantrel.revisions import posted
from cantrel.steps import page

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse

    from apps.jobs.models import Job
    from apps.survey.models import HazardAnswer
    from treecore.measuring import Combined
    from treecore.tree.body import TreeInput
    from treecore.tree.weigh import TreeResult


def body(core: TreeInput, result: TreeResult, system: str) -> dict[str, Any]:
    """The tree's drawing and figures for the page."""
    limbs, assumed = planner.limbs_of(core, result)
    return {
        "drawing": elevation(core, result, system, limbs=limbs, assumed=assumed),
        "figures": tree_figures(result, system),
        "units": system,
    }


def readings_of(tree: Tree, diameter: Combined | None, height: Combined | None, system: str) -> list[dict[str, Any]]:
    """Readings with what each comes to, and what they come to together."""
    groups = []
    for quantity, title, dimension, together in (
        ("height", gettext("Height"), "length", height),
        ("diameter", gettext("Diameter"), "girth", diameter),
    ):
        rows = [
            {
                "reading": r,
                "method": planner.method_table()[r.method].name,
                "source": planner.method_table()[r.method].source,
                "result": quantities.estimate(planner.result_of(r), dimension, system),
            }
            for r in tree.readings.all()
            if r.quantity == quantity
        ]
        shown = quantities.estimate(together.estimate, dimension, system) if together else None
        apart = round(together.disagreement, 1) if together and together.disagreement > 1 else None
        groups.append({"title": title, "rows": rows, "together": shown, "apart": apart})
    return groups


@permission("plan.view", "plan.change")
def measure(request: HttpRequest, job_id: int, tree_id: int, reading_form: ReadingForm | None = None) -> HttpResponse:
    """The tree's numbers, its picture and its readings."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)

    def build(row: Any, data: Any = None):
        stored = {name: getattr(row, name) for name in TreeForm.base_fields}
        return TreeForm(data, units=request.units, stored=stored, job=tree.job, tree=tree)

    form = build(tree)
    if reading_form is None and request.method == "POST":
        revision = request.POST.get("revision")
        done, form = posted(tree, revision, build, request.POST, lambda v, row: jobs.save_tree(tree.job, v, row))
        if done:
            messages.success(request, gettext("Tree saved."))
            return redirect("measure", job_id, tree_id)
        tree.refresh_from_db()
    core, result, diameter, height = planner.standing(tree)
    forms = [
        {
            "method": m,
            "form": reading_form
            if reading_form and reading_form.method == key
            else ReadingForm(method=key, units=request.units),
        }
        for key, m in planner.method_table().items()
    ]
    context = page(request, tree, "measure", form=form, methods=forms, open_method=reading_form and reading_form.method)
    context |= body(core, result, request.units) | {"groups": readings_of(tree, diameter, height, request.units)}
    return render(request, "survey/measure.html", context)


@require_POST
@permission("plan.view")
def tree_preview(request: HttpRequest, job_id: int) -> HttpResponse:
    """The drawing and figures of a tree as typed, nothing saved."""
    job = jobs.job_for(request.crew, job_id)
    tree = job.trees.filter(pk=request.POST.get("tree") or 0).first()
    stored = {name: getattr(tree, name) for name in TreeForm.base_fields} if tree else {}
    form = TreeForm(request.POST, units=request.units, stored=stored, job=job, tree=tree)
    for field in form.fields.values():
        field.required = False
    done = form.run(lambda values: _typed_body(job, tree, jobs.first_guess(values)))
    answer = {"errors": form.errors, "fragments": {}}
    if done:
        html = render_to_string("survey/_body.html", body(*done, request.units), request)
        answer["fragments"]["tree-body"] = html
    return JsonResponse(answer)


def _typed_body(job: Job, tree: Any, values: dict[str, Any] | None) -> tuple[TreeInput, TreeResult] | None:
    """The tree as typed, weighed; None while it is too little. A stored tree keeps its readings."""
    if values is None:
        return None
    typed = jobs.put_tree(tree or Tree(job=job), values)
    return jobs.weigh_entry(planner.measured_entry(typed) if tree else jobs.tree_entry(typed))


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
    name = request.user.shown_name()
    rows = []
    for row in planner.walk_up(tree, request.user):
        mine = row["mine"]
        stored = {n: getattr(mine, n) for n in AnswerForm.base_fields} if mine else {"finding": "not_looked"}
        own = (
            form
            if hazard == row["hazard"].key
            else AnswerForm(prefix=row["hazard"].key, units=request.units, stored=stored)
        )
        others = [_seen(a, request.units) for a in row["answers"] if a is not mine]
        rows.append(row | {"form": own, "open": hazard == row["hazard"].key, "others": others})
    context = {
        "gates": [r for r in rows if r["gate"] and r["gate"].open],
        "differing": [r for r in rows if r["differ"]],
        "left": sum(1 for r in rows if not r["answer"] or r["answer"].finding == "not_looked"),
        "own_left": sum(1 for r in rows if not r["mine"] or r["mine"].finding == "not_looked"),
        "people": sorted({a.by for r in rows for a in r["answers"]} | {name}),
        "name": name,
        "line_form": line_form or LineForm(),
        "own_lines": [r for r in planner.own_lines(tree.job.crew).values() if not r.retired],
        "writes": allowed(request.user, "plan.change"),
    }
    return render(request, "survey/walk_up.html", page(request, tree, "walk-up", rows=rows, **context))


def _seen(answer: HazardAnswer, system: str) -> dict[str, Any]:
    height = f", {quantities.text(answer.height, 'length', system)} up" if answer.height is not None else ""
    return {"row": answer, "where": f"{answer.side}{height}".strip(", ")}


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
    if kept is None:
        return walk_up(request, job_id, tree_id, form=form, hazard=hazard)
    return redirect(f"{request.path.split('walk-up/')[0]}walk-up/#hazard-{hazard}")


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
    if request.POST.get("retire", "").isdigit():
        planner.retire_line(request.crew, int(request.POST["retire"]))
        return redirect("walk-up", job_id, tree_id)
    form = LineForm(request.POST)
    if form.run(lambda values: planner.add_line(request.crew, values)) is None:
        return walk_up(request, job_id, tree_id, line_form=form)
    return redirect("walk-up", job_id, tree_id)
