"""The form of an item of gear."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.gear import planner
from cantrel import quantities
from cantrel.entryforms import column_fields, with_fields
from cantrel.forms import UnitsForm
from treecore.document.gear import DeviceReadingEntry, GearEntry

if TYPE_CHECKING:
    from django.forms.widgets import DateInput

    from treecore.errors import NotSolvable, OutOfRange


def _day() -> DateInput:
    """A date as browsers take it; in any other form they show it empty, and it would be lost."""
    return forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"})


@with_fields({n: f for n, f in column_fields(GearEntry).items() if n != "retired"})
class GearForm(UnitsForm):
    """One item of the store: what its entry declares."""

    bought = forms.DateField(label=gettext_lazy("Bought"), required=False, widget=_day())
    inspected = forms.DateField(required=False, label=gettext_lazy("Last inspected"), widget=_day())

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name, offered in planner.offered().items():
            self.fields[name].choices = offered

    def clean_name(self) -> str:
        return self.cleaned_data["name"].strip()

    def refuse(self, error: NotSolvable | OutOfRange) -> None:
        """An error that names the item as a whole stands on its strength or its name."""
        if error.field.startswith("gear "):
            dimension = getattr(error, "dimension", "")
            field = {"force": "strength", "thin": "diameter", "length": "length"}.get(dimension, "name")
            self.add_error(field, quantities.explain(error, self.units))
        else:
            super().refuse(error)


@with_fields(column_fields(DeviceReadingEntry))
class ReadingForm(UnitsForm):
    """A known load that just creeps over a device, and the force that holds it."""


class InspectionForm(UnitsForm):
    """An item looked over."""

    on = forms.DateField(label=gettext_lazy("Looked over on"), widget=_day())
    passed = forms.TypedChoiceField(
        choices=[("yes", gettext_lazy("may be used on")), ("no", gettext_lazy("not to be used again"))],
        coerce=lambda said: said == "yes",
        label=gettext_lazy("Found"),
    )
    note = forms.CharField(required=False, max_length=200, label=gettext_lazy("What was found"))
    photo = forms.FileField(required=False, label=gettext_lazy("Photo"))

    def clean(self) -> dict[str, Any]:
        """One that failed says why."""
        values = super().clean() or self.cleaned_data
        if values.get("passed") is False and not values.get("note"):
            self.add_error("note", gettext("Say why it is not to be used again."))
        return values


class GearListForm(forms.Form):
    """A list of gear as a file."""

    file = forms.FileField(label=gettext_lazy("A list of gear (CSV, up to 1 MB)"))

    def clean_file(self) -> str:
        """The file as text."""
        file = self.cleaned_data["file"]
        if file.size > 1024 * 1024:
            raise forms.ValidationError(gettext("It is larger than 1 MB."))
        return file.read().decode("utf-8-sig", "replace")
