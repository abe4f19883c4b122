"""The forms of a day, of what has to be done first, and of a yard's rates."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.day.models import MIDNIGHT, WorkItem
from cantrel.forms import QuantityField, UnitsForm

if TYPE_CHECKING:
    from apps.jobs.models import Job


class ClockField(forms.TimeField):
    """A time of the day, kept as minutes from midnight."""

    widget = forms.TimeInput(attrs={"type": "time"}, format="%H:%M")

    def clean(self, value: Any) -> int | None:
        found = super().clean(value)
        return None if found is None else 60 * found.hour + found.minute

    def prepare_value(self, value: Any) -> Any:
        return f"{value // 60:02d}:{value % 60:02d}" if isinstance(value, int) and value <= MIDNIGHT else value


class DayForm(UnitsForm):
    """When a crew comes, who works, with what."""

    on = forms.DateField(label=gettext_lazy("Day"), widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d"))
    start = ClockField(label=gettext_lazy("Begins at"))
    name = forms.CharField(required=False, max_length=60, label=gettext_lazy("Crew (a name, where there are several)"))
    ground = forms.IntegerField(min_value=1, max_value=20, label=gettext_lazy("People on the ground"))
    throat = QuantityField(dimension="cut", label=gettext_lazy("Chipper takes, thick"))
    trees = forms.MultipleChoiceField(
        required=False, label=gettext_lazy("Trees of this day"), widget=forms.CheckboxSelectMultiple
    )
    crane_days = forms.FloatField(required=False, min_value=0, max_value=30, label=gettext_lazy("Crane, days"))
    machine_hours = forms.FloatField(required=False, min_value=0, max_value=100, label=gettext_lazy("Machine, hours"))
    gust = QuantityField(dimension="speed", required=False, label=gettext_lazy("Gusts forecast"))

    def __init__(self, *args: Any, job: Job, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["trees"].choices = [(tree.name, tree.name) for tree in job.trees.all()]

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        for name in ("crane_days", "machine_hours"):
            if name in values:
                values[name] = values[name] or 0.0
        return values


class ItemForm(UnitsForm):
    """Something that has to be done before the saw."""

    kind = forms.ChoiceField(choices=WorkItem.Kind.choices, label=gettext_lazy("What kind"))
    what = forms.CharField(max_length=200, label=gettext_lazy("What"))
    tree = forms.TypedChoiceField(
        required=False, coerce=int, empty_value=None, label=gettext_lazy("Before which tree (empty: all)")
    )
    after = forms.TypedChoiceField(
        required=False, coerce=int, empty_value=None, label=gettext_lazy("Only after (empty: at once)")
    )
    who = forms.CharField(required=False, max_length=120, label=gettext_lazy("Who does it"))
    leave_by = forms.CharField(required=False, max_length=160, label=gettext_lazy("Who gave leave, and when"))

    def __init__(self, *args: Any, job: Job, item: WorkItem | None = None, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["tree"].choices = [("", gettext("all")), *((t.pk, t.name) for t in job.trees.all())]
        rows = [row for row in job.work_items.all() if item is None or row.pk != item.pk]
        self.fields["after"].choices = [("", gettext("at once")), *((row.pk, row.what) for row in rows)]

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        for name in ("tree", "after"):
            if name in values:
                values[f"{name}_id"] = values.pop(name)
        if values.get("kind") == WorkItem.Kind.LEAVE and not values.get("leave_by") and "leave_by" not in self.errors:
            self.add_error("leave_by", gettext("Say who gave leave, or who is to be asked."))
        return values


class RatesForm(UnitsForm):
    """What an hour, a day, a tonne costs a yard."""

    money = forms.CharField(required=False, max_length=8, label=gettext_lazy("Money (a sign, as printed)"))
    person = forms.FloatField(min_value=0, max_value=100000, label=gettext_lazy("An hour of a person"))
    chipper = forms.FloatField(min_value=0, max_value=100000, label=gettext_lazy("An hour of the chipper"))
    machine = forms.FloatField(min_value=0, max_value=100000, label=gettext_lazy("An hour of a machine"))
    crane_day = forms.FloatField(min_value=0, max_value=100000, label=gettext_lazy("A day of a crane"))
    tipping = forms.FloatField(min_value=0, max_value=100000, label=gettext_lazy("A tonne tipped"))
    making_good = forms.FloatField(min_value=0, max_value=100000, label=gettext_lazy("Making good, a job"))
    own_pace = forms.BooleanField(required=False, label=gettext_lazy("Count how quick our own records say we are"))
