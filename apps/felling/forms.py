"""The felling bench's form."""

from __future__ import annotations

from typing import Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.felling import planner
from apps.felling.models import FellingPlan, method_choices
from cantrel.entryforms import column_fields, with_fields
from cantrel.forms import QuantityField, UnitsForm
from treecore.document.felling import FellingEntry


@with_fields(column_fields(FellingEntry, kept=planner.FIELDS))
class FellForm(UnitsForm):
    """Every choice of a felling plan."""

    aliases = {"slope": "back_slope", "escape": "escape_side", "first_school": "first_school"}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["bypass_side"].choices = FellingPlan.SIDES
        self.fields["escape_side"].choices = [("", gettext("the better one")), *FellingPlan.SIDES[1:]]
        for choice in ("notch", "depth", "thickness", "zone", "first", "pattern", "position"):
            self.fields[f"{choice}_school"].choices = planner.school_choices(choice)
        self.fields["line_design"].choices = planner.school_choices("design")
        self.fields["wedge_kind"].choices = planner.wedge_choices()
        self.fields["pull_by"].choices = planner.puller_choices()
        for name in ("pull_knot", "guy_knot"):
            self.fields[name].choices = planner.knot_choices()
        for name in ("wedge_count", "wedge_stacked", "pull_people", "after_picks"):
            self.fields[name].widget.attrs["inputmode"] = "numeric"

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        values["wedge_place"] = values.get("wedge_place") or 0.0
        values["after_picks"] = values.get("after_picks") or 0
        values["pull_people"] = values.get("pull_people") or 2
        if values.get("pull_force"):
            for name in ("pull_tie", "pull_distance"):
                if values.get(name) is None and name not in self.errors:
                    self.add_error(name, gettext("A line under tension needs this."))
        if values.get("guy_limit"):
            for name in ("guy_tie", "guy_azimuth", "guy_distance"):
                if values.get(name) is None and name not in self.errors:
                    self.add_error(name, gettext("A guy line needs this."))
        return values


class MethodForm(UnitsForm):
    """Which way to take the tree down, and why."""

    method = forms.ChoiceField(choices=method_choices, widget=forms.RadioSelect, required=False)
    reason = forms.CharField(
        label=gettext_lazy("Reason"), max_length=300, required=False, widget=forms.Textarea(attrs={"rows": 3})
    )

    def clean(self) -> dict[str, str]:
        values = super().clean()
        if values.get("method") and not values.get("reason", "").strip():
            self.add_error("reason", gettext("Say why: the reason is kept with the plan."))
        return values


class LogForm(UnitsForm):
    """A log on its supports."""

    log_from = QuantityField(dimension="length", label=gettext_lazy("From, up the stem"))
    log_to = QuantityField(dimension="length", label=gettext_lazy("To, up the stem"))
    supports = forms.CharField(max_length=200, label=gettext_lazy("Lies on something at, from its butt"))
    cuts = forms.CharField(max_length=300, label=gettext_lazy("Cut at, from its butt"))
    cross_slope = QuantityField(dimension="angle", required=False, label=gettext_lazy("Ground falls across it by"))
    spring = forms.ChoiceField(
        choices=[
            ("", gettext_lazy("not bent")),
            ("left", gettext_lazy("springs to the left")),
            ("right", gettext_lazy("springs to the right")),
        ],
        required=False,
        label=gettext_lazy("Bent sideways"),
    )
    legs = forms.BooleanField(required=False, label=gettext_lazy("Bottom limbs still hold it up"))


class YardForm(UnitsForm):
    """A yard's usual school for each choice."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        self.base_fields = {
            c["key"]: forms.ChoiceField(
                label=c["title"],
                required=False,
                choices=[("", gettext("not set")), *((s.key, s.name) for s in c["rows"])],
            )
            for c in planner.school_table()
        }
        super().__init__(*args, **kwargs)
