"""An item's card, labels to print, and the store as a list."""

from __future__ import annotations

from datetime import date
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.gear import card_planner, planner
from apps.gear.forms import GearListForm, InspectionForm
from apps.gear.models import Inspection
from cantrel import lan, quantities
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest

    from apps.gear.models import GearItem


def _card(request: HttpRequest, row: GearItem, form: InspectionForm) -> dict[str, Any]:
    why, load = planner.state(row)
    seen = card_planner.loads(request.crew).get(row.name, [])
    system = request.units
    return {
        "row": row,
        "why": why,
        "load": quantities.text(load.value, "force", system) if load else "",
        "due": card_planner.due(row),
        "inspections": row.inspections.all(),
        "seen": [_seen(one, system) for one in seen],
        "over": sum(one.over for one in seen),
        "code": lan.code(_address(row)),
        "form": form,
        "writes": allowed(request.user, "record.write"),
    }


def _seen(one: card_planner.Seen, system: str) -> dict[str, Any]:
    return {
        "where": one.where,
        "at": one.at,
        "load": quantities.text(one.load, "force", system),
        "allowed": quantities.text(one.allowed, "force", system) if one.allowed is not None else "",
        "over": one.over,
    }


def _address(row: GearItem) -> str:
    return lan.over_tls().rstrip("/") + reverse("gear-card", args=[row.pk])


@permission("yard.view", "record.write")
def card(request: HttpRequest, pk: int) -> HttpResponse:
    """An item over its life; a POST keeps that it was looked over."""
    row = get_object_or_404(request.crew.gear, pk=pk)
    form = InspectionForm(stored={"on": date.today(), "passed": "yes"}, units=request.units)
    if request.method == "POST":
        form = InspectionForm(request.POST, request.FILES, units=request.units)
        if form.run(lambda values: _inspected(request, row, values)):
            messages.success(request, gettext("Kept: {name} was looked over.").format(name=row.name))
            return redirect("gear-card", pk)
    return render(request, "gear/card.html", _card(request, row, form))


def _inspected(request: HttpRequest, row: GearItem, values: dict[str, Any]) -> Any:
    photo = values.pop("photo", None)
    return card_planner.inspect(row, values, request.user, photo or None)


@permission("yard.view")
def photo(request: HttpRequest, pk: int) -> FileResponse:
    """The photo of an inspection, for the yard only."""
    row = get_object_or_404(Inspection, pk=pk, item__crew=request.crew)
    if not row.photo or not row.photo.storage.exists(row.photo.name):
        raise Http404
    return FileResponse(row.photo.open("rb"), content_type="image/jpeg")


@permission("yard.view")
def labels(request: HttpRequest) -> HttpResponse:
    """Labels of all items, to be printed and tied on: a code that opens the item's card on a phone."""
    rows = [{"row": row, "code": lan.code(_address(row))} for row in request.crew.gear.filter(retired="")]
    return render(request, "gear/labels.html", {"rows": rows})


@permission("yard.view")
def as_csv(request: HttpRequest) -> HttpResponse:
    """The store as a list."""
    answer = HttpResponse(card_planner.as_csv(request.crew), content_type="text/csv; charset=utf-8")
    answer["Content-Disposition"] = 'attachment; filename="gear.csv"'
    return answer


@require_POST
@permission("plan.change")
def take_in(request: HttpRequest) -> HttpResponse:
    """Take a list of gear in."""
    form = GearListForm(request.POST, request.FILES)
    if not form.is_valid():
        messages.error(request, " ".join(form.errors.get("file", [])))
        return redirect("gear")
    try:
        found = card_planner.from_csv(request.crew, form.cleaned_data["file"])
        said = gettext("Taken in: {new} new, {changed} changed, {same} as they were.")
        messages.success(request, said.format(**found._asdict()))
    except CoreError as error:
        messages.error(request, quantities.explain(error, request.units))
    return redirect("gear")
