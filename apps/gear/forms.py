"""The form of an item of gear."""

from django import forms

from apps.gear import planner
from cantrel import quantities
from cantrel.forms import QuantityField, UnitsForm


def _day():
    """A date as browsers take it; in any other form they show it empty, and it would be lost."""
    return forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"})


class GearForm(UnitsForm):
    """One item of the store."""

    name = forms.CharField(max_length=60)
    kind = forms.ChoiceField()
    strength = QuantityField(dimension="force", required=False, label="Breaks at, new")
    diameter = QuantityField(dimension="thin", required=False, label="Thickness, or sheave or drum across")
    length = QuantityField(dimension="length", required=False)
    construction = forms.ChoiceField(required=False, label="A rope’s construction")
    modulus = QuantityField(dimension="force", required=False, label="Modulus EA, where its maker gives it")
    wear = forms.ChoiceField()
    bought = forms.DateField(required=False, widget=_day())
    inspected = forms.DateField(required=False, label="Last inspected", widget=_day())
    months = forms.IntegerField(min_value=1, max_value=60, label="Months between inspections")
    joined = forms.BooleanField(required=False, label="A rope made of two (joined)")
    note = forms.CharField(max_length=200, required=False)

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["kind"].choices, self.fields["wear"].choices = planner.kinds()
        self.fields["construction"].choices = planner.made()

    def clean_name(self):
        return self.cleaned_data["name"].strip()

    def refuse(self, error):
        """An error that names the item as a whole stands on its strength or its name."""
        if error.field.startswith("gear "):
            dimension = getattr(error, "dimension", "")
            field = {"force": "strength", "thin": "diameter", "length": "length"}.get(dimension, "name")
            self.add_error(field, quantities.explain(error, self.units))
        else:
            super().refuse(error)


class ReadingForm(UnitsForm):
    """A known load that just creeps over a device, and the force that holds it."""

    load = QuantityField(dimension="force", label="Known load")
    wraps = forms.FloatField(min_value=0.1, max_value=10, label="Wraps it is on")
    hand = QuantityField(dimension="small_force", label="Force at the hand, by scale or cell")
    note = forms.CharField(max_length=120, required=False, label="Rope, wet or dry")
