"""Forms of jobs, trees and targets."""

from django import forms

from apps.jobs import planner
from apps.jobs.models import KIND_CHOICES, KINDS, Target
from cantrel import quantities
from cantrel.forms import QuantityField, UnitsForm

# A rectangle is a target; places of work, lines and spots are drawn on the site page.
PLACES = planner.not_rectangles()


class JobForm(UnitsForm):
    """A job's place, ground and emergency details."""

    name = forms.CharField(max_length=160)
    client = forms.CharField(max_length=200, required=False)
    address = forms.CharField(widget=forms.Textarea(attrs={"rows": 2}), required=False)
    access = forms.CharField(
        widget=forms.Textarea(attrs={"rows": 2}), required=False, label="Access for people and vehicles"
    )
    slope = QuantityField(dimension="angle", required=False, label="Slope of the ground")
    downhill = QuantityField(dimension="angle", required=False, label="Falls towards (bearing)")
    emergency_number = forms.CharField(max_length=60, required=False)
    hospital = forms.CharField(max_length=200, required=False, label="Nearest emergency department")
    meeting_point = forms.CharField(max_length=200, required=False, label="Meeting point for the ambulance")
    first_aider = forms.CharField(max_length=200, required=False, label="First aider and kit")
    rescue_plan = forms.CharField(widget=forms.Textarea(attrs={"rows": 2}), required=False)
    phone_coverage = forms.CharField(max_length=200, required=False)
    notes = forms.CharField(widget=forms.Textarea(attrs={"rows": 2}), required=False)

    def clean(self):
        values = super().clean()
        for name in ("slope", "downhill"):
            if values.get(name) is None and name not in self.errors:
                values[name] = 0.0
        if values.get("downhill") is not None:
            values["downhill"], _ = planner.normal_bearing(values["downhill"])
        return values


class TreeForm(UnitsForm):
    """Five numbers, and what may stand beside them."""

    name = forms.CharField(max_length=80, label="Name of the tree")
    species = forms.ChoiceField()
    state = forms.ChoiceField(choices=planner.state_choices)
    diameter = QuantityField(dimension="girth", label="Diameter at breast height")
    diameter_kind = forms.ChoiceField(choices=KINDS[:2], label="Diameter known")
    height = QuantityField(dimension="length")
    height_kind = forms.ChoiceField(choices=KINDS[:2], label="Height known")
    spread = QuantityField(dimension="length", label="Crown spread")
    lean = QuantityField(dimension="fine_angle", label="Lean from upright")
    lean_azimuth = QuantityField(dimension="angle", label="Leans towards (bearing)")
    lean_kind = forms.ChoiceField(choices=KINDS, label="Lean known")
    crown_base = QuantityField(dimension="length", required=False, label="Foot of the crown above ground")
    diameter_across = QuantityField(dimension="girth", required=False, label="Second diameter, at right angles")
    oval_azimuth = QuantityField(dimension="angle", required=False, label="First diameter taken along (bearing)")
    fork = QuantityField(dimension="length", required=False, label="Fork: where leads take over")
    spar_top = QuantityField(
        dimension="girth",
        required=False,
        label="A bare spar: thick at its top (diameter is then at its foot, height its length)",
    )
    breast = forms.ChoiceField(choices=[("metric", "1.3 m"), ("us", "4.5 ft (1.37 m)")], label="Breast height (school)")
    x = QuantityField(dimension="length", label="Place: east of the site's origin")
    y = QuantityField(dimension="length", label="Place: north of the site's origin")

    def __init__(self, *args, job=None, tree=None, **kwargs):
        self.job, self.tree = job, tree
        super().__init__(*args, **kwargs)
        self.fields["species"].choices = planner.species_choices(job.crew if job else None)
        if tree is not None and tree.yard_id:
            self.fields["species"].initial = f"yard:{tree.yard_id}"

    def clean_lean_azimuth(self):
        value = self.cleaned_data["lean_azimuth"]
        return None if value is None else planner.normal_bearing(value)[0]

    def clean_oval_azimuth(self):
        value = self.cleaned_data["oval_azimuth"]
        return 0.0 if value is None else planner.normal_bearing(value)[0]

    def clean_name(self):
        name = self.cleaned_data["name"].strip()
        twins = self.job.trees.filter(name=name) if self.job else Target.objects.none()
        if self.tree and self.tree.pk:
            twins = twins.exclude(pk=self.tree.pk)
        if twins.exists():
            raise forms.ValidationError("Another tree of this job has this name.")
        return name


class TargetForm(UnitsForm):
    """A rectangular target by its middle, sides and bearing."""

    name = forms.CharField(max_length=80)
    kind = forms.ChoiceField(choices=[c for c in KIND_CHOICES if c[0] not in PLACES])
    x = QuantityField(dimension="length", label="Middle, east of the origin")
    y = QuantityField(dimension="length", label="Middle, north of the origin")
    long = QuantityField(dimension="length", label="Length")
    wide = QuantityField(dimension="length", label="Width")
    turned = QuantityField(dimension="angle", label="Long side points to (bearing)")
    height = QuantityField(dimension="length")
    light_touch = forms.BooleanField(required=False, label="A light touch is tolerable")

    def __init__(self, *args, job=None, **kwargs):
        self.job = job
        super().__init__(*args, **kwargs)

    def refuse(self, error):
        for end, field in ((" height", "height"), (" x", "x"), (" y", "y")):
            if error.field.startswith("target ") and error.field.endswith(end):
                self.add_error(field, quantities.explain(error, self.units))
                return
        super().refuse(error)

    def clean_name(self):
        name = self.cleaned_data["name"].strip()
        if self.job.targets.filter(name=name).exists():
            raise forms.ValidationError("Another target of this job has this name.")
        return name

    def clean(self):
        values = super().clean()
        for side in ("long", "wide"):
            if values.get(side) is not None and not 0.05 <= values[side] <= 1000:
                self.add_error(side, "A target's side is 5 cm to 1 km long.")
        return values
