"""The species table: to search, to read with its sources, and to set right beside the published figures."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.http import Http404
from django.shortcuts import redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.species import planner, presenter
from apps.species.forms import YardForm
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse


@permission("yard.view")
def table(request: HttpRequest) -> HttpResponse:
    """Every species, found by any part of its names."""
    search = {k: request.GET.get(k, "").strip() for k in ("text", "group", "region")}
    found = planner.table(request.crew, **search)
    writes = allowed(request.user, "plan.change")
    return render(
        request, "species/table.html", {"search": search, "writes": writes} | presenter.table(found, request.units)
    )


@permission("yard.view")
def species(request: HttpRequest, key: str) -> HttpResponse:
    """One species with every figure, its interval and its source; the yard's own rows beside it."""
    try:
        published = planner.published(key)
    except CoreError:
        raise Http404 from None
    own = [(row, planner.core_row(row)) for row in planner.yard_rows(request.crew).filter(like=key)]
    context = presenter.one(published, own, request.units) | {"writes": allowed(request.user, "plan.change")}
    return render(request, "species/species.html", context)


@permission("plan.change")
def yard_new(request: HttpRequest) -> HttpResponse:
    """Add a row of the yard's own."""
    like = request.GET.get("like", "")
    stored = (
        {"like": like, "common": gettext("{common}, ours").format(common=planner.published(like).common)}
        if like in {s.key for s in planner.all_published()}
        else {}
    )
    return _edit(request, YardForm(request.POST or None, units=request.units, stored=stored), None)


@permission("plan.change")
def yard(request: HttpRequest, pk: Any) -> HttpResponse:
    """Change a row of the yard's own."""
    row = planner.row_for(request.crew, pk)
    stored = {f: getattr(row, f) for f in YardForm().fields}
    return _edit(request, YardForm(request.POST or None, units=request.units, stored=stored), row)


def _edit(request: HttpRequest, form: YardForm, row: Any) -> HttpResponse:
    if request.method == "POST":
        saved = form.run(partial(planner.save_row, request.crew, row=row))
        if saved:
            messages.success(
                request, gettext("“{common}” saved, beside the published row.").format(common=saved.common)
            )
            return redirect("species", saved.like)
    return render(request, "species/yard.html", {"form": form, "row": row, "units": request.units})


@require_POST
@permission("plan.change")
def yard_delete(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a row of the yard's own off, unless a tree stands on it."""
    row = planner.row_for(request.crew, pk)
    if planner.delete_row(row):
        messages.success(request, gettext("“{common}” taken off; the published row stands.").format(common=row.common))
    else:
        messages.error(
            request,
            gettext("“{common}” stays: trees are worked out with it. Give them another species first.").format(
                common=row.common
            ),
        )
    return redirect("species", row.like)
