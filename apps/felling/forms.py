"""The felling bench's form."""

from django import forms

from apps.felling import planner
from apps.felling.models import FellingPlan
from cantrel.forms import QuantityField, UnitsForm


class FellForm(UnitsForm):
    """Every choice of a felling plan."""

    aliases = {"slope": "back_slope", "escape": "escape_side", "first_school": "first_school"}

    lay = QuantityField(dimension="fine_angle", label="Lay (bearing)")
    notch_school = forms.ChoiceField(label="Kind of notch")
    depth_school = forms.ChoiceField(label="Depth by")
    depth = QuantityField(dimension="cut", label="Notch depth")
    opening = QuantityField(dimension="fine_angle", label="Notch opening")
    thickness_school = forms.ChoiceField(label="Thickness by")
    hinge = QuantityField(dimension="cut", label="Hinge thickness")
    rise = QuantityField(dimension="cut", label="Back cut above the apex")
    stump = QuantityField(dimension="cut", label="Cut above the ground")
    along = QuantityField(dimension="cut", required=False, label="Stem along the lay")
    across = QuantityField(dimension="cut", required=False, label="Stem across the lay")
    taper = QuantityField(dimension="cut", label="Left end thicker by")
    bypass = QuantityField(dimension="cut", label="A cut runs past the apex by")
    bypass_side = forms.ChoiceField(choices=FellingPlan.SIDES, required=False, label="On which side")
    back_slope = QuantityField(dimension="fine_angle", label="Back cut slopes by")
    bar = QuantityField(dimension="cut", required=False, label="Guide bar")
    first_school = forms.ChoiceField(label="First cut")
    pattern_school = forms.ChoiceField(label="Back cut pattern")
    position_school = forms.ChoiceField(label="Cutting position")
    nicks = forms.BooleanField(required=False, label="Side nicks at the hinge's ends")
    wedge_kind = forms.ChoiceField(label="Kind of wedge")
    wedge_tip = QuantityField(dimension="cut", required=False, label="Thickness of its tip, if not the kind's")
    wedge_place = QuantityField(
        dimension="fine_angle", required=False, label="Driven round to the right of straight behind by"
    )
    escape_side = forms.ChoiceField(
        choices=[("", "the better one"), *FellingPlan.SIDES[1:]], required=False, label="Escape path"
    )
    guy_limit = QuantityField(dimension="force", required=False, label="May carry (leave empty for none)")
    guy_tie = QuantityField(dimension="length", required=False, label="Tied above the ground")
    guy_azimuth = QuantityField(dimension="fine_angle", required=False, label="Towards (bearing)")
    guy_distance = QuantityField(dimension="length", required=False, label="Anchor from the stem")
    guy_anchor = QuantityField(dimension="length", label="Anchor above the stem's ground")
    guy_tended = forms.BooleanField(required=False, label="Someone lets it out on the word")
    guy_taut = forms.BooleanField(required=False, label="Set taut before the back cut")
    guy_strength = QuantityField(dimension="force", required=False, label="Its rope breaks at")
    guy_owned = QuantityField(dimension="length", required=False, label="Its rope is")
    guy_knot = forms.ChoiceField(label="Made fast to the tree by")
    guy_gear = QuantityField(dimension="force", required=False, label="Weakest gear on it may carry")
    guy_rating = QuantityField(dimension="force", required=False, label="Anchor may carry")
    guy_trunk = QuantityField(dimension="girth", required=False, label="or the anchor is a tree, thick")
    pull_strength = QuantityField(dimension="force", required=False, label="Its rope breaks at")
    pull_owned = QuantityField(dimension="length", required=False, label="Its rope is")
    pull_knot = forms.ChoiceField(label="Made fast to the tree by")
    pull_gear = QuantityField(dimension="force", required=False, label="Weakest gear on it may carry")
    pull_rating = QuantityField(dimension="force", required=False, label="Anchor or winch's anchor may carry")
    pull_trunk = QuantityField(dimension="girth", required=False, label="or the anchor is a tree, thick")
    after_picks = forms.IntegerField(
        required=False, label="Felled after so many picks of its takedown (0: whole)", min_value=0, max_value=120
    )
    pull_by = forms.ChoiceField(required=False, label="Pulled by")
    pull_people = forms.IntegerField(required=False, label="People on the rope", min_value=1, max_value=12)
    line_design = forms.ChoiceField(label="Ropes and anchors carry at most 1 over")
    wedge_count = forms.IntegerField(label="Wedges side by side", min_value=0, max_value=8)
    wedge_stacked = forms.IntegerField(label="Stacked", min_value=1, max_value=3)
    wedge_rise = QuantityField(dimension="cut", required=False, label="Lift of one driven home, if not the kind's")
    pull_force = QuantityField(dimension="force", label="Tension")
    pull_tie = QuantityField(dimension="length", required=False, label="Tied above the ground")
    pull_azimuth = QuantityField(dimension="fine_angle", required=False, label="Towards (bearing)")
    pull_distance = QuantityField(dimension="length", required=False, label="Anchor from the stem")
    pull_anchor = QuantityField(dimension="length", label="Anchor above the stem's ground")
    wind = QuantityField(dimension="speed", required=False, label="Mean wind at crown height (0 in a calm)")
    wind_from = QuantityField(dimension="angle", required=False, label="Wind from (bearing; empty: from anywhere)")
    zone_school = forms.ChoiceField(label="Work zone")

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        for choice in ("notch", "depth", "thickness", "zone", "first", "pattern", "position"):
            self.fields[f"{choice}_school"].choices = planner.school_choices(choice)
        self.fields["line_design"].choices = planner.school_choices("design")
        self.fields["wedge_kind"].choices = planner.wedge_choices()
        self.fields["pull_by"].choices = planner.puller_choices()
        for name in ("pull_knot", "guy_knot"):
            self.fields[name].choices = planner.knot_choices()
        for name in ("wedge_count", "wedge_stacked", "pull_people", "after_picks"):
            self.fields[name].widget.attrs["inputmode"] = "numeric"

    def clean(self):
        values = super().clean()
        values["wedge_place"] = values.get("wedge_place") or 0.0
        values["after_picks"] = values.get("after_picks") or 0
        values["pull_people"] = values.get("pull_people") or 2
        if values.get("pull_force"):
            for name in ("pull_tie", "pull_distance"):
                if values.get(name) is None and name not in self.errors:
                    self.add_error(name, "A line under tension needs this.")
        if values.get("guy_limit"):
            for name in ("guy_tie", "guy_azimuth", "guy_distance"):
                if values.get(name) is None and name not in self.errors:
                    self.add_error(name, "A guy line needs this.")
        return values


class MethodForm(UnitsForm):
    """Which way to take the tree down, and why."""

    method = forms.ChoiceField(choices=FellingPlan.METHODS, widget=forms.RadioSelect, required=False)
    reason = forms.CharField(max_length=300, required=False, widget=forms.Textarea(attrs={"rows": 3}))

    def clean(self):
        values = super().clean()
        if values.get("method") and not values.get("reason", "").strip():
            self.add_error("reason", "Say why: the reason is kept with the plan.")
        return values


class LogForm(UnitsForm):
    """A log on its supports."""

    log_from = QuantityField(dimension="length", label="From, up the stem")
    log_to = QuantityField(dimension="length", label="To, up the stem")
    supports = forms.CharField(max_length=200, label="Lies on something at, from its butt")
    cuts = forms.CharField(max_length=300, label="Cut at, from its butt")
    cross_slope = QuantityField(dimension="angle", required=False, label="Ground falls across it by")
    spring = forms.ChoiceField(
        choices=[("", "not bent"), ("left", "springs to the left"), ("right", "springs to the right")],
        required=False,
        label="Bent sideways",
    )
    legs = forms.BooleanField(required=False, label="Bottom limbs still hold it up")


class YardForm(UnitsForm):
    """A yard's usual school for each choice."""

    def __init__(self, *args, **kwargs):
        self.base_fields = {
            c["key"]: forms.ChoiceField(
                label=c["title"], required=False, choices=[("", "not set"), *((s.key, s.name) for s in c["rows"])]
            )
            for c in planner.school_table()
        }
        super().__init__(*args, **kwargs)
