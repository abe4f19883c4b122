"""The record: estimate beside actual."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

from django import forms
from django.contrib import messages
from django.shortcuts import redirect, render
from django.utils.translation import gettext, gettext_lazy

from apps.crews.permissions import permission
from apps.daybook import planner, presenter, work_presenter
from apps.jobs import planner as jobs
from cantrel.answers import or_broken
from cantrel.forms import QuantityField, UnitsForm
from cantrel.revisions import posted
from cantrel.steps import page

if TYPE_CHECKING:
    from django.http import HttpRequest, HttpResponse, QueryDict

    from apps.daybook.models import FellingRecord
    from apps.jobs.models import Tree


class RecordForm(UnitsForm):
    """What was measured after the fall."""

    first = False  # whether nothing is kept of it yet

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

    def clean(self) -> dict[str, Any]:
        """A first record says at least one thing."""
        found = super().clean() or self.cleaned_data
        if self.first and not self.errors and all(value in (None, "") for value in found.values()):
            raise forms.ValidationError(gettext("Nothing is filled in yet."))
        return found

    def clean_lay(self) -> float | None:
        return self.turned("lay", jobs.normal_bearing)


@permission("plan.view", "record.write")
def record(request: HttpRequest, job_id: int, tree_id: int) -> HttpResponse:
    """The record page."""
    tree = jobs.tree_for(request.crew, job_id, tree_id)
    kept, build = planner.record_of(tree), partial(_form, request.units)
    if request.method != "POST":
        return _page(request, tree, kept, build(kept))
    save = lambda values, row: planner.save_record(tree, values, request.user, row)  # noqa: E731
    done, form = posted(kept, request.POST.get("revision"), build, request.POST, save)
    if not done:
        return _page(request, tree, kept, form)
    messages.success(request, gettext("Record kept."))
    return redirect("record", job_id, tree_id)


def _page(request: HttpRequest, tree: Tree, kept: FellingRecord | None, form: RecordForm) -> HttpResponse:
    shown = or_broken(lambda: presenter.beside(planner.planned_core(tree, kept), kept, request.units), request.units)
    shown |= work_presenter.listed(tree, request.units)
    return render(request, "daybook/record.html", page(request, tree, "record", form=form, record=kept, **shown))


def _form(system: str, row: FellingRecord | None, data: QueryDict | None = None) -> RecordForm:
    stored = {f: getattr(row, f) for f in RecordForm.base_fields} if row else {}
    form = RecordForm(data, units=system, stored=stored)
    form.first = row is None
    return form
