"""The plan editor: one page, one address for every change, the picture, the approach distances."""

from __future__ import annotations

import math
from functools import partial
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import FileResponse, Http404
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews import steps
from apps.crews.permissions import allowed, permission
from apps.jobs import planner as jobs
from apps.site import planner, presenter
from apps.site.forms import AddForm, ApproachForm, FeatureForm, GroundForm, PictureForm, ScaleForm, TapeForm
from cantrel import quantities
from cantrel.answers import answer, parts, refusal
from cantrel.border import Unreadable, count, digits, number, points, row_id, word
from cantrel.forms import as_shown, rebased, value_in_words
from cantrel.pictures import PICTURE_BYTES
from cantrel.revisions import TOO_OLD, clash_text, merged, whose
from cantrel.steps import stripped
from treecore.errors import CoreError, NotSolvable

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.crews.models import Crew
    from apps.jobs.models import Job, Target, Tree

LOOKS = ("", "pick", "measure")
SECTIONS = ("drawing", "panel", "list", "head", "tape")


def _picked_row(job: Job, picked: str) -> Target | None:
    kind, _, pk = (picked or "").partition(":")
    return job.targets.filter(pk=digits(pk)).first() if kind == "target" else None


def _picked_tree(job: Job, picked: str) -> Tree | None:
    kind, _, pk = (picked or "").partition(":")
    return job.trees.filter(pk=digits(pk)).first() if kind == "tree" else None


def _context(
    request: HttpRequest, job: Job, picked: str, forms: dict[str, PictureForm] | None = None
) -> dict[str, Any]:
    row, tree, system = _picked_row(job, picked), _picked_tree(job, picked), request.units
    forms = forms or {}
    broken = ""
    try:
        lines = presenter.selected(job, row, system) if row else []
        first = presenter.ruling(job, system)
    except CoreError as error:
        lines, first, broken = [], None, quantities.explain(error, system)
    return {
        "job": job,
        "units": system,
        "most": PICTURE_BYTES,
        "picked": picked if row or tree else "",
        "row": row,
        "tree": tree,
        "lines": lines,
        "ruling": first,
        "broken": broken,
        "drawing": presenter.drawing(job, picked),
        "listed": presenter.listed(job, picked),
        "rose": presenter.rose(job, system),
        "layers": presenter.LAYERS,
        "history": steps.state("site", job),
        "tools": presenter.tools(system),
        "writes": allowed(request.user, "plan.change"),
        "feature_form": forms.get("feature") or (FeatureForm(row=row, units=system) if row else None),
        "add_form": forms.get("add") or AddForm(job=job, units=system),
        "tape_form": forms.get("tape") or TapeForm(job=job, picked=row, units=system),
        "ground_form": forms.get("ground") or GroundForm(job=job, units=system),
        "scale_form": forms.get("scale") or ScaleForm(units=system),
        "picture_form": forms.get("picture") or PictureForm(),
    }


@permission("plan.view")
def site(request: HttpRequest, job_id: int, forms: dict[str, PictureForm] | None = None) -> HttpResponse:
    """The plan of a job's site."""
    job = jobs.job_for(request.crew, job_id)
    context = _context(request, job, request.GET.get("picked", ""), forms)
    tree = _from_tree(job, request.GET.get("tree", ""))
    return render(request, "site/site.html", context | (stripped(tree, "site") if tree else {}))


def _from_tree(job: Job, asked: str) -> Tree | None:
    """The tree whose step the site is: the one an address names, or the only one there is."""
    trees = list(job.trees.all())
    named = next((tree for tree in trees if str(tree.pk) == asked), None)
    return named or (trees[0] if len(trees) == 1 else None)


def _spots(data: QueryDict) -> list[list[float]]:
    return points(data, "points") if "points" in data else []


def _outlined(job: Job, data: QueryDict) -> tuple[Target, list[list[float]]]:
    """The picked thing and its points; a script that picked none asks for nothing."""
    row = _picked_row(job, word(data, "picked"))
    if row is None:
        raise Unreadable
    return row, list(row.outline)


def _move(job: Job, data: QueryDict, by: str, system: str) -> str:
    dx, dy = number(data, "dx"), number(data, "dy")
    row, tree = _picked_row(job, word(data, "picked")), _picked_tree(job, word(data, "picked"))
    if tree:
        planner.place_tree(job, tree, tree.x + dx, tree.y + dy, by)
    elif row:
        planner.shift(job, row, dx, dy, by)
    return word(data, "picked")


def _corner(job: Job, data: QueryDict, by: str, system: str) -> str:
    (row, points), i, spots = _outlined(job, data), count(data, "corner"), _spots(data)
    if len(spots) != 1 or i >= len(points):
        raise Unreadable
    if word(data, "act") == "insert":
        points.insert(i + 1, spots[0])
    else:
        points[i] = spots[0]
    planner.put_points(job, row, points, by, gettext("corner moved"))
    return word(data, "picked")


def _corner_off(job: Any, data: Any, by: Any, system: str) -> Any:
    row, outline = _outlined(job, data)
    points = [p for i, p in enumerate(outline) if i != count(data, "corner")]
    planner.put_points(job, row, points, by, gettext("corner taken off"))
    return word(data, "picked")


def _add(job: Job, data: QueryDict, by: str, system: str) -> str:
    row = planner.add(job, word(data, "kind"), _spots(data), by)
    return f"target:{row.pk}"


def _delete(job: Job, data: QueryDict, by: str, system: str) -> str:
    row = _picked_row(job, word(data, "picked"))
    if row is None:
        raise NotSolvable(what="feature", why="pick a feature first; a tree of the job is taken off on its own page")
    planner.delete(job, row, by)
    return ""


def _undo(job: Job, data: QueryDict, by: str, system: str) -> str:
    steps.or_refused(steps.back("site", job, data.get("step")))
    return word(data, "picked")


def _redo(job: Job, data: QueryDict, by: str, system: str) -> str:
    steps.or_refused(steps.forth("site", job, data.get("step")))
    return word(data, "picked")


ACTS = {
    "add": _add, "move": _move, "corner": _corner, "insert": _corner, "corner-off": _corner_off, "delete": _delete,
    "undo": _undo, "redo": _redo, "": lambda job, data, by, system: data.get("picked", ""),
    "pick": lambda job, data, by, system: data.get("picked", ""),
    "picture-off": lambda job, data, by, system: planner.remove_picture(job, by) or word(data, "picked"),
}  # fmt: skip


def _save_feature(request: HttpRequest, job: Job, data: QueryDict, by: str) -> tuple[FeatureForm, Callable[..., Any]]:
    row, _ = _outlined(job, data)
    base = row.as_of(data.get("revision"))

    def shown(at: Any) -> Any:
        return FeatureForm(row=at, units=request.units)

    form = FeatureForm(data, row=base or row, units=request.units)

    def take(values: Any) -> Any:
        if base is None:
            form.add_error(None, TOO_OLD)
            return None
        before, after = shown(base), shown(row)
        found = merged(as_shown(before), as_shown(after), values)
        for name in found.conflicts:
            said = [value_in_words(at, name) for at in (after, form)]
            form.add_error(name, clash_text(said[0], whose(row, name), said[1]))
        if found.conflicts:
            form.again = rebased(form, before, after) | {"revision": row.revision}
            return None
        planner.change(job, row, found.values, by)
        return word(data, "picked")

    return form, take


def _typed_in(request: HttpRequest, job: Job, data: QueryDict, by: str) -> tuple[AddForm, Callable[..., Any]]:
    form = AddForm(data, job=job, units=request.units)

    def take(v: Any) -> Any:
        where = planner.place(v["where"], job, request.units)
        kind = planner.kinds()[v["kind"]]
        long, wide = v["long"] or 4.0, v["wide"] or 3.0
        turn = planner.bearing_of(v["turned"]) if v["turned"] else 0.0
        if kind.shape == "spot":
            row = planner.add(
                job, kind.key, [where], by, name=v["name"], **({"radius": v["long"]} if v["long"] else {})
            )
        elif kind.shape == "line":
            end = (where[0] + long * math.sin(turn), where[1] + long * math.cos(turn))
            row = planner.add(
                job, kind.key, [where, end], by, name=v["name"], **({"width": v["wide"]} if v["wide"] else {})
            )
        else:
            box = {"x": where[0], "y": where[1], "long": long, "wide": wide, "turned": turn}
            row = planner.add(job, kind.key, jobs.rectangle(box), by, name=v["name"])
        return f"target:{row.pk}"

    return form, take


def _taped(request: HttpRequest, job: Job, data: QueryDict, by: str) -> tuple[TapeForm, Callable[..., Any]]:
    picked = _picked_row(job, word(data, "picked"))
    form = TapeForm(data, job=job, picked=picked, units=request.units)

    def take(v: Any) -> Any:
        ends = [planner.place(v[n], job, request.units) for n in ("first", "second")]
        spot = planner.tape(*ends, v["from_first"], v["from_second"], v["side"])
        what, _, which = v["goes"].partition(":")
        if what == "new":
            return f"target:{planner.add(job, which, [spot], by).pk}"
        if what == "tree":
            planner.place_tree(job, get_object_or_404(job.trees, pk=row_id(which)), *spot, by)
            return v["goes"]
        points = list(picked.outline)
        points[int(which)] = spot
        planner.put_points(job, picked, points, by, gettext("corner taped"))
        return word(data, "picked")

    return form, take


def _ground(request: HttpRequest, job: Job, data: QueryDict, by: str) -> tuple[GroundForm, Callable[..., Any]]:
    form = GroundForm(data, job=job, units=request.units)

    def take(values: Any) -> Any:
        planner.save_ground(job, values, by)
        return word(data, "picked") or "ground"

    return form, take


def _scale(request: HttpRequest, job: Job, data: QueryDict, by: str) -> tuple[ScaleForm, Callable[..., Any]]:
    form = ScaleForm(data, units=request.units)

    def take(v: Any) -> Any:
        spot = lambda n: planner.place(v[n], job, request.units)  # noqa: E731
        planner.scale_picture(job, [(spot("seen_a"), spot("real_a")), (spot("seen_b"), spot("real_b"))], by)
        return word(data, "picked") or "picture"

    return form, take


FORMS = {"save": _save_feature, "type-in": _typed_in, "tape": _taped, "ground": _ground, "scale": _scale}


def _measured(request: HttpRequest, data: Any) -> HttpResponse:
    spots = _spots(data)
    if len(spots) != 2:
        raise Unreadable
    first, second = spots
    found = planner.measured(first, second)
    text = gettext("{distance} at {azimuth}").format(
        distance=quantities.text(found.distance, "offset", request.units),
        azimuth=quantities.text(found.azimuth, "fine_angle", request.units),
    )
    return answer(measured=text, raw=found.distance)


def _answer(request: HttpRequest, job: Job, picked: str, echo: str = "") -> HttpResponse:
    job.refresh_from_db()
    job = jobs.job_for(request.crew, job.pk)
    context = _context(request, job, picked)
    html = parts("site/_", SECTIONS, context, request)
    return answer(fragments=html, picked=context["picked"], echo=echo)


@require_POST
@permission("plan.view")
def site_edit(request: HttpRequest, job_id: int) -> HttpResponse:
    """One change of the site, or another feature picked."""
    job, act = jobs.job_for(request.crew, job_id), request.POST.get("act", "")
    if act not in LOOKS and not allowed(request.user, "plan.change"):
        raise PermissionDenied
    try:
        return _measured(request, request.POST) if act == "measure" else _done(request, job, act)
    except CoreError as error:
        return refusal(quantities.explain(error, request.units))
    except Unreadable:
        return refusal(gettext("That was no change of this plan; nothing was changed."))


def _done(request: HttpRequest, job: Job, act: str) -> HttpResponse:
    """Do what a button, a drag or a form asks for."""
    data, by, echo = request.POST, request.user.shown_name(), ""
    if act in FORMS:
        form, take = FORMS[act](request, job, data, by)
        picked = form.run(take)
        if picked is None:
            return answer(form.said(), values=getattr(form, "again", {}))
        echo = form.echo()
    elif act in ACTS:
        picked = ACTS[act](job, data, by, request.units)
    else:
        raise Unreadable(act)
    return _answer(request, job, picked, echo)


@require_POST
@permission("plan.change")
def picture_put(request: HttpRequest, job_id: int) -> HttpResponse:
    """Lay a picture under the plan."""
    job = jobs.job_for(request.crew, job_id)
    form = PictureForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            planner.put_picture(job, form.cleaned_data["image"], request.user.shown_name())
        except CoreError as error:
            form.add_error("image", quantities.explain(error, request.units))
        else:
            messages.success(request, gettext("The picture lies under the plan. Scale it by two known points."))
            return redirect("site", job_id)
    return site(request, job_id, forms={"picture": form})


@permission("plan.view")
def picture(request: HttpRequest, job_id: int) -> HttpResponse:
    """The picture itself, for the crew only."""
    row = presenter.picture(jobs.job_for(request.crew, job_id))
    if row is None:
        raise Http404
    return FileResponse(row["row"].image.open("rb"), content_type="image/jpeg")


@permission("yard.view", "plan.change")
def approach(request: HttpRequest) -> HttpResponse:
    """Distances to keep from overhead conductors, by voltage class; the yard's own go before the usual ones."""
    wrong = {}
    if request.method == "POST":
        voltage = request.POST.get("voltage", "")
        form = ApproachForm(request.POST, prefix=voltage, units=request.units)
        if form.run(partial(_keep_approach, request.crew, voltage)):
            messages.success(request, gettext("Distances saved."))
            return redirect("approach")
        wrong = {voltage: form}
    rows = [_voltage(request, row, wrong) for row in planner.voltage_choices(request.crew)]
    return render(request, "site/approach.html", {"rows": rows, "units": request.units})


def _keep_approach(crew: Crew, voltage: str, values: dict[str, Any]) -> bool:
    planner.save_approach(crew, voltage, values["distance"], values["source"])
    return True


def _voltage(
    request: HttpRequest, row: tuple[str, str, float, bool, str], wrong: dict[str, ApproachForm]
) -> dict[str, Any]:
    """A voltage class with its distance, and its form."""
    key, name, distance, mine, source = row
    stored = {"distance": distance, "source": source} if mine else {}
    form = wrong.get(key) or ApproachForm(prefix=key, units=request.units, stored=stored)
    shown = quantities.text(distance, "length", request.units)
    return {"key": key, "name": name, "distance": shown, "own": mine, "source": source, "form": form}
