"""The gear store."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from django.contrib import messages
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext
from django.views.decorators.http import require_POST

from apps.crews.permissions import allowed, permission
from apps.gear import planner
from apps.gear.forms import GearForm, ReadingForm
from cantrel import quantities
from cantrel.border import row_id
from cantrel.revisions import posted
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.gear.models import GearItem

SIZES = (("strength", "force"), ("diameter", "thin"), ("length", "length"))


def _rows(request: HttpRequest) -> list[dict[str, Any]]:
    rows = []
    for row in request.crew.gear.all():
        why, load = planner.state(row)
        sizes = [quantities.text(getattr(row, n), d, request.units) if getattr(row, n) else "" for n, d in SIZES]
        rows.append(
            {
                "row": row,
                "why": why,
                "sizes": sizes,
                "shape": "over" if why else "within" if load else "unknown",
                "load": quantities.text(load.value, "force", request.units) if load else gettext("not known"),
                "raw": quantities.raw(load.value) if load else "",
            }
        )
    return rows


def _own(row: GearItem | None, system: str, sent: Any = None) -> dict[str, Any]:
    """What a crew read off an item itself, and how stiff a rope of it is."""
    if row is None:
        return {}
    stiff, friction = planner.stiffness(row), planner.measured(row)
    device = planner.core_item(row).role == "device"
    return {
        "stiff": quantities.estimate(stiff.axial_stiffness, "force", system) if stiff else None,
        "stiff_source": stiff.source if stiff else "",
        "friction": quantities.estimate(friction, "ratio", system) if friction else None,
        "raw_friction": quantities.raw(friction.value) if friction else "",
        "reading_form": ReadingForm(sent, units=system) if device else None,
        "readings": [
            {
                "pk": r.pk,
                "load": quantities.text(r.load, "force", system),
                "wraps": f"{r.wraps:g}",
                "hand": quantities.text(r.hand, "small_force", system),
                "note": r.note,
            }
            for r in row.readings.all()
        ],
    }


@require_POST
@permission("plan.change")
def reading(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep a reading of a crew's own device, or take one off."""
    row = get_object_or_404(request.crew.gear, pk=pk)
    if "drop" in request.POST:
        planner.drop_reading(row, row_id(request.POST["drop"]))
        messages.success(request, gettext("The reading is off the item; its history keeps it."))
        return redirect("gear-item", pk)
    form = ReadingForm(request.POST, units=request.units)
    if form.run(lambda v: planner.keep_reading(row, v)):
        messages.success(request, gettext("Reading kept."))
        return redirect("gear-item", pk)
    stored = {n: getattr(row, n) for n in planner.FIELDS}
    context = _own(row, request.units) | {"reading_form": form, "rows": _rows(request), "row": row, "writes": True}
    return render(request, "gear/store.html", context | {"form": GearForm(units=request.units, stored=stored)})


@permission("yard.view", "plan.change")
def store(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """Every item with what it may carry and why it may not be used; adding and changing one."""
    row = get_object_or_404(request.crew.gear, pk=pk) if pk else None
    build, system = partial(_form, request.units), request.units
    form = build(row)
    if request.method == "POST":
        save = partial(planner.keep, request.crew)
        done, form = posted(row, request.POST.get("revision"), build, request.POST, save)
        if done:
            messages.success(request, gettext("“{name}” kept.").format(name=done.name))
            return redirect("gear")
    context = {"rows": _rows(request), "form": form, "row": row, "units": system}
    context["writes"] = allowed(request.user, "plan.change")
    return render(request, "gear/store.html", _own(row, system) | context)


def _form(system: str, item: GearItem | None, data: QueryDict | None = None) -> GearForm:
    stored = {n: getattr(item, n) for n in planner.FIELDS} if item else {"months": 6, "wear": "new"}
    return GearForm(data, units=system, stored=stored)


@require_POST
@permission("plan.change")
def retire(request: HttpRequest, pk: int) -> HttpResponse:
    """Take an item out of use, with the reason."""
    row = get_object_or_404(request.crew.gear, pk=pk)
    planner.retire(row, request.POST.get("why", ""))
    messages.success(request, gettext("“{name}” is retired; plans that name it say so.").format(name=row.name))
    return redirect("gear")


@require_POST
@permission("plan.change")
def delete(request: HttpRequest, pk: int) -> HttpResponse:
    """Take an item off the store; one that a plan names is only retired."""
    row = get_object_or_404(request.crew.gear, pk=pk)
    try:
        planner.discard(row)
        messages.success(request, gettext("“{name}” is gone from the store.").format(name=row.name))
    except CoreError as error:
        messages.error(
            request,
            gettext("Not deleted: {explain}. Retire it instead.").format(
                explain=quantities.explain(error, request.units)
            ),
        )
    return redirect("gear")
