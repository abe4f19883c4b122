"""The form of an item of gear."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext_lazy

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
