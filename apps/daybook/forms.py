"""The form of a pick's record: what a crew reads and notes in seconds."""

from __future__ import annotations

import uuid
from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.daybook.models import FELLING, WorkRecord
from apps.jobs.planner import normal_bearing
from cantrel.forms import QuantityField, UnitsForm

if TYPE_CHECKING:
    from collections.abc import Mapping

MOMENT = "%Y-%m-%dT%H:%M:%S"


def _moment(label: Any) -> forms.DateTimeField:
    return forms.DateTimeField(
        required=False,
        label=label,
        widget=forms.DateTimeInput(attrs={"type": "datetime-local", "step": "1"}, format=MOMENT),
    )


class WorkForm(UnitsForm):
    """A pick, or the felling, as it was done. All may stay empty but how it was done."""

    done = forms.ChoiceField(choices=WorkRecord.Done.choices, label=gettext_lazy("Done"))
    mass = QuantityField(dimension="mass", required=False, label=gettext_lazy("It weighed"))
    mass_by = forms.ChoiceField(
        required=False, choices=[("", gettext_lazy("not said")), *WorkRecord.By.choices], label=gettext_lazy("Known by")
    )
    peak_point = QuantityField(dimension="force", required=False, label=gettext_lazy("Peak at the rigging point"))
    peak_base = QuantityField(dimension="force", required=False, label=gettext_lazy("Peak at the device"))
    hand = QuantityField(dimension="small_force", required=False, label=gettext_lazy("Force in the hand"))
    wraps = forms.FloatField(required=False, min_value=0, max_value=12, label=gettext_lazy("Wraps"))
    run = QuantityField(dimension="length", required=False, label=gettext_lazy("Rope let run"))
    started = _moment(gettext_lazy("Started"))
    ended = _moment(gettext_lazy("Stopped"))
    near_miss = forms.CharField(
        required=False, widget=forms.Textarea(attrs={"rows": 2}), label=gettext_lazy("Near miss or surprise")
    )
    note = forms.CharField(required=False, widget=forms.Textarea(attrs={"rows": 2}), label=gettext_lazy("Note"))

    def clean(self) -> dict[str, Any]:
        """A weight says how it is known; a record that is changed says what was."""
        values = super().clean() or self.cleaned_data
        if values.get("mass") is not None and not values.get("mass_by") and "mass_by" not in self.errors:
            self.add_error("mass_by", gettext("Say how the weight is known: cell, scale or eye."))
        if values.get("done") != WorkRecord.Done.PLANNED and not (values.get("note") or values.get("near_miss")):
            self.add_error("note", gettext("Say what was done otherwise."))
        return values


class FellingWorkForm(WorkForm):
    """The felling as it was done: also where it went and what hinge it left."""

    lay = QuantityField(dimension="fine_angle", required=False, label=gettext_lazy("Lay it took (bearing)"))
    hinge_left = QuantityField(dimension="cut", required=False, label=gettext_lazy("Hinge wood left, left end"))
    hinge_right = QuantityField(dimension="cut", required=False, label=gettext_lazy("Hinge wood left, right end"))

    def clean_lay(self) -> float | None:
        """A bearing within one turn."""
        return self.turned("lay", normal_bearing)


def form_for(pick: str) -> type[WorkForm]:
    """The form a pick, or the felling, is recorded with."""
    return FellingWorkForm if pick == FELLING else WorkForm


class MadeForm(forms.Form):
    """Which record it is: its id from where it was made, its pick, what that was called there, and in which units."""

    uid = forms.UUIDField(initial=uuid.uuid4)
    pick = forms.RegexField(r"^[\w-]{1,40}$")
    what = forms.CharField(required=False, max_length=120)
    units = forms.ChoiceField(required=False, choices=[("metric", "metric"), ("us", "us")])


def stored(row: WorkRecord) -> Mapping[str, Any]:
    """What a record's form shows of it."""
    return {name: getattr(row, name) for name in WorkForm.base_fields}
