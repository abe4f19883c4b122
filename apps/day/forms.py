"""The forms of a day, of what has to be done first, and of a yard's rates."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.day.models import MIDNIGHT, TreeWood, WorkItem
from cantrel.forms import QuantityField, UnitsForm
from cantrel.quantities import parse, typed
from treecore.errors import CoreError

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


class HoursField(forms.CharField):
    """A value for each hour, as people write a forecast down: hour, colon, value; kept in SI."""

    units = "metric"

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(required=False, max_length=400, **kwargs)

    def clean(self, value: Any) -> list[list[float]]:
        found = []
        for part in str(super().clean(value)).replace(";", ",").split(","):
            if not part.strip():
                continue
            hour, colon, said = part.partition(":")
            try:
                gust = parse(said.strip(), "speed", self.units)
                number = int(hour)
            except (CoreError, ValueError):
                colon = ""
            if not colon or not 0 <= number <= 23 or not 0.0 <= gust <= 100.0:
                message = gettext("“{part}” is not an hour and a gust, as “13: 9”.").format(part=part.strip()[:20])
                raise forms.ValidationError(message)
            found.append([number, gust])
        return sorted(found)

    def prepare_value(self, value: Any) -> Any:
        if not isinstance(value, list):
            return value
        return ", ".join(f"{int(hour)}: {typed(gust, 'speed', self.units)}" for hour, gust in value)


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
    gusts = HoursField(label=gettext_lazy("Gusts by the hour, as “8: 6, 9: 8” (hour: gust)"))

    def __init__(self, *args: Any, job: Job, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["gusts"].units = self.units
        self.fields["trees"].choices = [(tree.name, tree.name) for tree in job.trees.all()]

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        for name in ("crane_days", "machine_hours"):
            if name in values:
                values[name] = values[name] or 0.0
        return values


class ShareField(forms.FloatField):
    """A share, typed in per cent."""

    def __init__(self, **kwargs: Any) -> None:
        super().__init__(min_value=0, max_value=500, **kwargs)

    def clean(self, value: Any) -> float | None:
        found = super().clean(value)
        return None if found is None else found / 100.0

    def prepare_value(self, value: Any) -> Any:
        return f"{100.0 * value:g}" if isinstance(value, float) else value


class BookingForm(UnitsForm):
    """A machine booked for a crew's day."""

    what = forms.CharField(max_length=60, label=gettext_lazy("Machine, crane or lift (its name)"))
    start = ClockField(label=gettext_lazy("From"))
    end = ClockField(label=gettext_lazy("To"))


class WoodForm(UnitsForm):
    """What becomes of a tree's wood, its stump and its place."""

    log_length = QuantityField(dimension="length", label=gettext_lazy("Logs cut to"))
    logs = forms.ChoiceField(choices=TreeWood.Goes.choices, label=gettext_lazy("Logs"))
    chip = forms.ChoiceField(choices=TreeWood.Goes.choices, label=gettext_lazy("Chip"))
    stump = forms.ChoiceField(choices=TreeWood.Stump.choices, label=gettext_lazy("Stump"))
    replant = forms.CharField(required=False, max_length=200, label=gettext_lazy("Planted anew"))
    note = forms.CharField(required=False, max_length=200, label=gettext_lazy("Note for the client"))


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
    log_price = forms.FloatField(min_value=0, max_value=100000, label=gettext_lazy("A cubic metre of logs brings"))
    chip_price = forms.FloatField(min_value=0, max_value=100000, label=gettext_lazy("A cubic metre of chip brings"))
    stump_price = forms.FloatField(min_value=0, max_value=100000, label=gettext_lazy("A stump ground out"))
    load_volume = QuantityField(dimension="volume", label=gettext_lazy("A truck takes, loose"))
    load_mass = QuantityField(dimension="mass", label=gettext_lazy("A truck takes, weight"))
    margin = ShareField(label=gettext_lazy("Margin on the costs, %"))
    tax = ShareField(label=gettext_lazy("Tax on a quote, %"))
    own_pace = forms.BooleanField(required=False, label=gettext_lazy("Count how quick our own records say we are"))
