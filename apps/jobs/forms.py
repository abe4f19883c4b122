"""Forms of jobs, trees and targets."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.jobs import planner
from apps.jobs.models import KINDS, Target, kind_choices
from cantrel import quantities
from cantrel.entryforms import column_fields, with_fields
from cantrel.forms import QuantityField, UnitsForm
from treecore.document.site import JobEntry, SiteEntry
from treecore.document.tree import TreeEntry

if TYPE_CHECKING:
    from apps.jobs.models import Job, Tree
    from treecore.errors import NotSolvable

# A rectangle is a target; places of work, lines and spots are drawn on the site page.
PLACES = planner.not_rectangles()


@with_fields(column_fields(JobEntry) | column_fields(SiteEntry, "slope_deg", "downhill_deg"))
class JobForm(UnitsForm):
    """A job's place, ground and emergency details."""

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        for name in ("slope", "downhill"):
            if values.get(name) is None and name not in self.errors:
                values[name] = 0.0
        values["downhill"] = self.turned("downhill", planner.normal_bearing)
        return values


# Columns of a tree that its form shows, in its order.
SHOWN = (
    "name", "species", "state", "diameter", "diameter_kind", "height", "height_kind", "spread", "lean", "lean_azimuth",
    "lean_kind",
    "crown_base", "diameter_across", "oval_azimuth", "fork", "spar_top", "breast", "x", "y",
)  # fmt: skip


NEEDED = ("species", "diameter", "height")  # what a tree is begun by


@with_fields(column_fields(TreeEntry, kept=SHOWN))
class TreeForm(UnitsForm):
    """Five numbers, and what may stand beside them."""

    def __init__(self, *args: Any, job: Job | None = None, tree: Tree | None = None, **kwargs: Any) -> None:
        self.job, self.tree = job, tree
        super().__init__(*args, **kwargs)
        self.fields["state"].choices = planner.state_choices()
        self.fields["breast"].choices = [("metric", "1.3 m"), ("us", gettext("4.5 ft (1.37 m)"))]
        for name, kinds in (("diameter_kind", KINDS[:2]), ("height_kind", KINDS[:2]), ("lean_kind", KINDS)):
            self.fields[name].choices = kinds
        self.fields["species"].choices = planner.species_choices(job.crew if job else None)
        if tree is None:  # a new one: nobody is told what it is, and three numbers are enough
            self.fields["species"].choices = [("", gettext("Type or choose")), *self.fields["species"].choices]
            for name, field in self.fields.items():
                field.required = name in NEEDED
        if tree is not None and tree.yard_id:
            self.fields["species"].initial = f"yard:{tree.yard_id}"

    def clean_lean_azimuth(self) -> float | None:
        return self.turned("lean_azimuth", planner.normal_bearing)

    def clean_oval_azimuth(self) -> float:
        return self.turned("oval_azimuth", planner.normal_bearing) or 0.0

    def clean_name(self) -> str:
        name = self.cleaned_data["name"].strip() or planner.next_name(self.job)
        twins = self.job.trees.filter(name=name) if self.job else Target.objects.none()
        if self.tree and self.tree.pk:
            twins = twins.exclude(pk=self.tree.pk)
        if twins.exists():
            msg = gettext("Another tree of this job has this name.")
            raise forms.ValidationError(msg)
        return name


@with_fields(column_fields(TreeEntry, kept=SHOWN))
class NewTreeForm(TreeForm):
    """A tree by three numbers; of a forked one also how many leads there are and where the first one goes."""

    leads = forms.TypedChoiceField(
        required=False,
        coerce=int,
        empty_value=None,
        choices=[(n, str(n)) for n in range(2, planner.MOST_LEADS + 1)],
        label=gettext_lazy("Into how many leads"),
    )
    leads_towards = QuantityField(dimension="angle", required=False, label=gettext_lazy("First lead goes to (bearing)"))


class TargetForm(UnitsForm):
    """A rectangular target by its middle, sides and bearing."""

    name = forms.CharField(max_length=80, label=gettext_lazy("Name"))
    kind = forms.ChoiceField(label=gettext_lazy("Kind"), choices=[c for c in kind_choices() if c[0] not in PLACES])
    x = QuantityField(dimension="length", label=gettext_lazy("Middle, east of the origin"))
    y = QuantityField(dimension="length", label=gettext_lazy("Middle, north of the origin"))
    long = QuantityField(dimension="length", label=gettext_lazy("Length"))
    wide = QuantityField(dimension="length", label=gettext_lazy("Width"))
    turned = QuantityField(dimension="angle", label=gettext_lazy("Long side points to (bearing)"))
    height = QuantityField(dimension="length", label=gettext_lazy("Height"))
    light_touch = forms.BooleanField(required=False, label=gettext_lazy("A light touch is tolerable"))

    def __init__(self, *args: Any, job: Job | None = None, **kwargs: Any) -> None:
        self.job = job
        super().__init__(*args, **kwargs)

    def refuse(self, error: NotSolvable) -> None:
        for end, field in ((" height", "height"), (" x", "x"), (" y", "y")):
            if error.field.startswith("target ") and error.field.endswith(end):
                self.add_error(field, quantities.explain(error, self.units))
                return
        super().refuse(error)

    def clean_name(self) -> str:
        name = self.cleaned_data["name"].strip()
        if self.job.targets.filter(name=name).exists():
            msg = gettext("Another target of this job has this name.")
            raise forms.ValidationError(msg)
        return name

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        for side in ("long", "wide"):
            if values.get(side) is not None and not 0.05 <= values[side] <= 1000:
                self.add_error(side, gettext("A target's side is 5 cm to 1 km long."))
        return values
