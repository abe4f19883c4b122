"""The record: estimate beside actual."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.contrib import messages
from django.shortcuts import redirect, render
from django.utils.translation import gettext, gettext_lazy

from apps.crews.permissions import permission
from apps.daybook import planner
from apps.daybook.presenter import lays
from apps.jobs import planner as jobs
from cantrel import quantities
from cantrel.forms import QuantityField, UnitsForm
from cantrel.revisions import posted
from cantrel.steps import page
from treecore.errors import CoreError

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse

    from treecore.learning.outcome import Compared


class RecordForm(UnitsForm):
    """What was measured after the fall."""

    height = QuantityField(
        dimension="length", required=False, label=gettext_lazy("Height, taped along the stem, stump included")
    )
    lay = QuantityField(dimension="fine_angle", required=False, label=gettext_lazy("Lay it really took (bearing)"))
    hinge_left = QuantityField(
        dimension="cut", required=False, label=gettext_lazy("Hinge wood left, left end (looking along the lay)")
    )
    hinge_right = QuantityField(dimension="cut", required=False, label=gettext_lazy("Hinge wood left, right end"))
    minutes = forms.IntegerField(
        required=False, min_value=0, max_value=6000, label=gettext_lazy("Minutes from first cut to ground")
    )
    near_miss = forms.CharField(
        required=False, widget=forms.Textarea(attrs={"rows": 2}), label=gettext_lazy("Near miss or surprise")
    )
    notes = forms.CharField(label=gettext_lazy("Notes"), required=False, widget=forms.Textarea(attrs={"rows": 3}))

    def clean_lay(self) -> float | None:
        value = self.cleaned_data["lay"]
        return None if value is None else jobs.normal_bearing(value)[0]


def _rows(compared: tuple[Compared, ...], system: str) -> list[dict[str, Any]]:
    rows = []
    for c in compared:
        show = {
            "label": gettext(c.label),
            "key": c.key,
            "estimate": quantities.estimate(c.estimate, c.dimension, system),
        }
        if c.actual is not None:
            show["actual"] = quantities.text(c.actual, c.dimension, system)
            sign = "+" if c.difference > 0 else ""
            show["difference"] = sign + quantities.text(c.difference, c.dimension, system)
            show["inside"] = c.inside
        rows.append(show)
    return rows


@permission("plan.view", "record.write")
def record(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The record page."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    kept = planner.record_of(tree)

    def build(row: Any, data: Any = None):
        stored = {f: getattr(row, f) for f in RecordForm.base_fields} if row else {}
        return RecordForm(data, units=request.units, stored=stored)

    def save(values: dict[str, Any], row: Any):
        return planner.save_record(tree, values, request.user, row)

    form = build(kept)
    if request.method == "POST":
        done, form = posted(kept, request.POST.get("revision"), build, request.POST, save)
        if done:
            messages.success(request, gettext("Record kept."))
            return redirect("record", job_id, tree_id)
    context = page(request, tree, "record", form=form, record=kept)
    try:
        worked = planner.planned_core(tree, kept)
        context["rows"] = _rows(planner.compare(worked.given, kept), request.units)
        context["drawing"] = lays(worked, kept, request.units)
    except CoreError as error:
        context["broken"] = quantities.explain(error, request.units)
    return render(request, "daybook/record.html", context)
