"""Forms of readings and the walk-up."""

from django import forms

from apps.survey import planner
from apps.survey.models import HazardAnswer
from cantrel.forms import QuantityField, UnitsForm

LABELS = {
    "distance": "Distance to the stem", "stick": "Stick above the hand", "reach": "Eye to hand",
    "sighted": "Height of the point sighted over the hand", "top": "Angle to the tip", "base": "Angle to the foot (down is negative)",
    "slope": "Slope along the taped distance (0 if level)", "toward": "Tip stands towards you by (away is negative)",
    "to_top": "Distance to the tip", "to_base": "Distance to the foot", "length": "Length of the line",
    "on_ground": "Line left on the ground", "above": "Estimated rest above the fork", "girth": "Girth", "value": "Diameter",
}  # fmt: skip
USUAL = {"sighted": 0.0, "slope": 0.0, "toward": 0.0}


class ReadingForm(UnitsForm):
    """One reading by one method; its fields are what the method takes."""

    by = forms.CharField(max_length=120, required=False, label="Read by")
    note = forms.CharField(max_length=200, required=False)

    def __init__(self, *args, method, **kwargs):
        self.method = method
        taken = dict(planner.method_table()[method].takes)
        stored = {name: USUAL[name] for name in taken if name in USUAL} | kwargs.pop("stored", {})
        self.base_fields = {
            name: QuantityField(dimension="fine_angle" if dim == "angle" else dim, label=LABELS[name])
            for name, dim in taken.items()
        } | type(self).base_fields
        super().__init__(*args, prefix=method, stored=stored, **kwargs)

    def values(self, cleaned):
        """What was read, SI, by argument name."""
        return {n: cleaned[n] for n, _ in planner.method_table()[self.method].takes}


class AnswerForm(UnitsForm):
    """What was found of one hazard."""

    finding = forms.ChoiceField(choices=HazardAnswer.FINDINGS, widget=forms.RadioSelect)
    side = forms.CharField(max_length=40, required=False, label="Side")
    height = QuantityField(dimension="length", required=False, label="Height")
    note = forms.CharField(max_length=300, required=False)
    response = forms.CharField(max_length=300, required=False, label="What is done about it")

    def clean_height(self):
        value = self.cleaned_data["height"]
        if value is not None and not 0.0 <= value <= 130.0:
            raise forms.ValidationError("A height on the tree, from the ground up.")
        return value
