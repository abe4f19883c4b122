"""Forms of readings and the walk-up."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.jobs.models import KINDS, Limb
from apps.jobs.planner import normal_bearing
from apps.survey import planner
from apps.survey.models import HazardAnswer
from cantrel import quantities
from cantrel.entryforms import column_fields, with_fields
from cantrel.forms import BearingField, QuantityField, UnitsForm
from treecore.document.tree import CavityEntry, LimbEntry, PointEntry

if TYPE_CHECKING:
    from collections.abc import Sequence

    from treecore.errors import NotSolvable, OutOfRange

LABELS = {
    "distance": gettext_lazy("Distance to the stem"),
    "stick": gettext_lazy("Stick above the hand"),
    "reach": gettext_lazy("Eye to hand"),
    "sighted": gettext_lazy("Height of the point sighted over the hand"),
    "top": gettext_lazy("Angle to the tip"),
    "base": gettext_lazy("Angle to the foot (down is negative)"),
    "slope": gettext_lazy("Slope along the taped distance (0 if level)"),
    "toward": gettext_lazy("Tip stands towards you by (away is negative)"),
    "to_top": gettext_lazy("Distance to the tip"),
    "to_base": gettext_lazy("Distance to the foot"),
    "length": gettext_lazy("Length of the line"),
    "on_ground": gettext_lazy("Line left on the ground"),
    "above": gettext_lazy("Estimated rest above the fork"),
    "girth": gettext_lazy("Girth"),
    "value": gettext_lazy("Diameter"),
}
USUAL = {"sighted": 0.0, "slope": 0.0, "toward": 0.0}


class ReadingForm(UnitsForm):
    """One reading by one method; its fields are what the method takes."""

    by = forms.CharField(max_length=120, required=False, label=gettext_lazy("Read by"))
    note = forms.CharField(max_length=200, required=False, label=gettext_lazy("Note"))

    def __init__(self, *args: Any, method: str, **kwargs: Any) -> None:
        self.method = method
        taken = dict(planner.method_table()[method].takes)
        stored = {name: USUAL[name] for name in taken if name in USUAL} | kwargs.pop("stored", {})
        self.base_fields = {
            name: QuantityField(dimension="fine_angle" if dim == "angle" else dim, label=LABELS[name])
            for name, dim in taken.items()
        } | type(self).base_fields
        super().__init__(*args, prefix=method, stored=stored, **kwargs)

    def values(self, cleaned: dict[str, Any]) -> dict[str, float]:
        """What was read, SI, by argument name."""
        return {n: cleaned[n] for n, _ in planner.method_table()[self.method].takes}


class AnswerForm(UnitsForm):
    """What was found of one hazard."""

    finding = forms.ChoiceField(label=gettext_lazy("Finding"), choices=HazardAnswer.FINDINGS, widget=forms.RadioSelect)
    side = forms.CharField(max_length=40, required=False, label=gettext_lazy("Side"))
    height = QuantityField(dimension="length", required=False, label=gettext_lazy("Height"))
    note = forms.CharField(max_length=300, required=False, label=gettext_lazy("Note"))
    response = forms.CharField(max_length=300, required=False, label=gettext_lazy("What is done about it"))
    aliases = {"image": "note"}

    def clean_height(self) -> float | None:
        value = self.cleaned_data["height"]
        if value is not None and not 0.0 <= value <= 130.0:
            msg = gettext("A height on the tree, from the ground up.")
            raise forms.ValidationError(msg)
        return value


class LineForm(UnitsForm):
    """A line of the crew's own for the walk-up list."""

    name = forms.CharField(max_length=120, label=gettext_lazy("What to look for"))
    caution = forms.CharField(max_length=300, required=False, label=gettext_lazy("What to do about it"))
    gate = forms.BooleanField(required=False, label=gettext_lazy("A gate: blocks sign-off until it is answered"))

    def clean_name(self) -> str:
        return self.cleaned_data["name"].strip()


class BodyView(UnitsForm):
    """How the tree's body is looked at: side, masses, the ladder's piece, a piece between two cuts."""

    view = BearingField(low=-720, high=1080, label=gettext_lazy("Facing (bearing)"), required=False)
    masses = forms.BooleanField(required=False, label=gettext_lazy("Show masses"))
    limit = QuantityField(dimension="mass", required=False, label=gettext_lazy("A piece may weigh at most"))
    low = QuantityField(dimension="length", required=False, label=gettext_lazy("Lower cut"))
    high = QuantityField(dimension="length", required=False, label=gettext_lazy("Upper cut"))
    picked = forms.CharField(required=False, max_length=60, widget=forms.HiddenInput)


_LIMB = column_fields(LimbEntry)
_PARENT = {"parent": forms.ChoiceField(required=False, label=gettext_lazy("Grows from"))}


@with_fields({"name": _LIMB["name"]} | _PARENT | _LIMB)
class LimbForm(UnitsForm):
    """A limb or lead by its measures."""

    def __init__(self, *args: Any, limbs: Sequence[Any] = (), **kwargs: Any) -> None:
        kwargs.setdefault("prefix", "limb")
        super().__init__(*args, **kwargs)
        for name in ("foliage", "union"):
            self.fields[name].choices = Limb._meta.get_field(name).choices
        self.fields["kind"].choices = KINDS[:2]
        self.fields["parent"].choices = [("", gettext("the stem")), *((n, n) for n in limbs)]

    def clean_azimuth(self) -> float | None:
        return self.turned("azimuth", normal_bearing)

    def clean_name(self) -> str:
        return self.cleaned_data["name"].strip()

    def refuse(self, error: NotSolvable | OutOfRange) -> None:
        last = error.field.split()[-1]
        if error.field.startswith("limb ") and last in self.fields:
            self.add_error(last, quantities.explain(error, self.units))
        else:
            super().refuse(error)


@with_fields(column_fields(PointEntry))
class PointForm(UnitsForm):
    """A diameter taken somewhere on the stem."""

    aliases = {"point_height": "height", "point_diameter": "diameter"}


@with_fields(column_fields(CavityEntry))
class CavityForm(UnitsForm):
    """A hollow or decayed length of stem."""

    aliases = {"cavity_low": "low", "cavity_high": "high", "cavity_across": "across"}
