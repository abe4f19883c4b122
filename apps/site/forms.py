"""Forms of the site: one feature, one typed in, the ground, the picture, approach distances."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.jobs.planner import normal_bearing, species_choices
from apps.site import planner
from cantrel import quantities
from cantrel.entryforms import column_fields, with_fields
from cantrel.forms import QuantityField, UnitsForm
from cantrel.limits import SIDES
from treecore.document.site import SiteEntry, TargetEntry
from treecore.errors import CoreError

if TYPE_CHECKING:
    from apps.jobs import HistoricalTarget
    from apps.jobs.models import Job, Target
    from treecore.errors import NotSolvable, OutOfRange

BY_SHAPE = {"area": {"radius", "width"}, "line": {"radius"}, "spot": {"width"}}
OF_LINES = {"voltage", "approach", "sag", "end_a", "end_b"}
OF_ANCHORS = {"species", "diameter", "sound"}


# What a thing on the site is asked by; its shape is drawn.
ASKED = (
    "name", "kind", "height", "width", "radius", "voltage", "approach", "sag", "species", "diameter", "sound", "worth",
    "note", "light_touch",
)  # fmt: skip


@with_fields(column_fields(TargetEntry, kept=ASKED))
class FeatureForm(UnitsForm):
    """A feature's words and sizes; only what its kind has."""

    end_a = QuantityField(dimension="length", required=False, label=gettext_lazy("Height at its first end"))
    end_b = QuantityField(dimension="length", required=False, label=gettext_lazy("Height at its second end"))
    outline = forms.CharField(
        required=False,
        label=gettext_lazy("Its points, one a line: east; north, or 7.5 m at 210° from the stem"),
        widget=forms.Textarea(attrs={"rows": 4, "spellcheck": "false"}),
    )

    def __init__(self, *args: Any, row: HistoricalTarget | Target, **kwargs: Any) -> None:
        kwargs.setdefault("prefix", "feature")
        stored = {name: getattr(row, name) for name in self.base_fields}
        stored["outline"] = planner.points_text(row.outline, kwargs.get("units", "metric"))
        super().__init__(*args, stored=stored, **kwargs)
        self.row = row
        alike = [(k.key, k.name) for k in planner.kinds().values() if k.shape == row.shape or k.key == row.kind]
        self.fields["kind"].choices = alike
        self.fields["species"].choices = [("", gettext("not known")), *species_choices()]
        volts = planner.voltage_choices(row.job.crew)
        show = lambda d: quantities.text(d, "length", self.units)  # noqa: E731
        self.fields["voltage"].choices = [
            (k, gettext("{name}: keep {show}").format(name=name, show=show(d))) for k, name, d, _, _ in volts
        ]
        for name in self._absent(row):
            del self.fields[name]

    @staticmethod
    def _absent(row: HistoricalTarget | Target) -> set[str]:
        gone = set(BY_SHAPE[row.shape])
        gone |= OF_LINES if row.kind != "conductor" else {"width", "light_touch", "height"}
        gone |= OF_ANCHORS if row.kind != "anchor_tree" else set()
        return gone

    def clean_name(self) -> str:
        return self.cleaned_data["name"].strip()

    def clean_outline(self) -> list[list[float]]:
        text = self.cleaned_data["outline"].replace("\r\n", "\n").strip()
        if not text or text == self.fields["outline"].initial:
            return self.row.outline  # untouched points keep every digit
        try:
            return planner.typed_points(text, self.row.job, self.units)
        except CoreError as error:
            raise forms.ValidationError(quantities.explain(error, self.units)) from None

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        if self.row.kind == "conductor" and (values.get("end_a") is None) != (values.get("end_b") is None):
            self.add_error(
                "end_b" if values.get("end_b") is None else "end_a", gettext("Give both heights, or neither.")
            )
        return values

    def refuse(self, error: NotSolvable | OutOfRange) -> None:
        last = {"ends": "end_a", "x": "outline", "y": "outline"}.get(error.field.split()[-1], error.field.split()[-1])
        if error.field.startswith("target ") and last in self.fields:
            self.add_error(last, quantities.explain(error, self.units))
        else:
            self.add_error(None, f"{error.field.removeprefix('target ')}: {quantities.explain(error, self.units)}")


class AddForm(UnitsForm):
    """A feature typed in rather than drawn."""

    kind = forms.ChoiceField(label=gettext_lazy("What"))
    name = forms.CharField(max_length=80, required=False, label=gettext_lazy("Name"))
    where = forms.CharField(max_length=120, label=gettext_lazy("Where: east; north, or 7.5 m at 210° from the stem"))
    long = QuantityField(dimension="length", required=False, label=gettext_lazy("Length, or radius of a spot"))
    wide = QuantityField(dimension="length", required=False, label=gettext_lazy("Width"))
    turned = forms.CharField(max_length=40, required=False, label=gettext_lazy("Runs towards (bearing)"))

    def __init__(self, *args: Any, job: Job, **kwargs: Any) -> None:
        kwargs.setdefault("prefix", "add")
        super().__init__(*args, **kwargs)
        self.job = job
        self.fields["kind"].choices = [(k.key, k.name) for k in planner.kinds().values() if k.key != "line"]

    def refuse(self, error: NotSolvable) -> None:
        field = "where" if error.field == "place" else "name" if error.field.endswith(" name") else None
        self.add_error(field, f"{quantities.explain(error, self.units)}")


class TapeForm(UnitsForm):
    """Two taped distances from two known points."""

    first = forms.CharField(max_length=80, label=gettext_lazy("From (name or east; north)"))
    from_first = QuantityField(dimension="length", label=gettext_lazy("Tape reads"))
    second = forms.CharField(max_length=80, label=gettext_lazy("And from"))
    from_second = QuantityField(dimension="length", label=gettext_lazy("Tape reads"))
    side = forms.ChoiceField(
        choices=list(SIDES.items()), label=gettext_lazy("Side, looking from the first to the second")
    )
    goes = forms.ChoiceField(label=gettext_lazy("What stands there"))

    def __init__(self, *args: Any, job: Job, picked: Target | None = None, **kwargs: Any) -> None:
        kwargs.setdefault("prefix", "tape")
        super().__init__(*args, **kwargs)
        self.job = job
        spots = [
            (f"new:{k.key}", gettext("a new {name}").format(name=k.name.lower()))
            for k in planner.kinds().values()
            if k.shape == "spot"
        ]
        trees = [(f"tree:{t.pk}", gettext("{name} (moves there)").format(name=t.name)) for t in job.trees.all()[:40]]
        mine = (
            [
                (f"corner:{i}", gettext("corner {i} of {name}").format(i=i + 1, name=picked.name))
                for i in range(len(picked.outline))
            ]
            if picked
            else []
        )
        self.fields["goes"].choices = mine + trees + spots

    def refuse(self, error: NotSolvable) -> None:
        field = {"place": "first"}.get(error.field, error.field)
        self.add_error(field if field in self.fields else None, quantities.explain(error, self.units))


@with_fields(column_fields(SiteEntry))
class GroundForm(UnitsForm):
    """Slope, winds, and where on Earth the origin lies."""

    origin_lat = forms.FloatField(
        required=False, min_value=-90, max_value=90, label=gettext_lazy("Origin: latitude (°, WGS 84)")
    )
    origin_lon = forms.FloatField(
        required=False, min_value=-180, max_value=180, label=gettext_lazy("Origin: longitude (°)")
    )

    def __init__(self, *args: Any, job: Job, **kwargs: Any) -> None:
        kwargs.setdefault("prefix", "ground")
        super().__init__(*args, stored={n: getattr(job, n) for n in self.base_fields}, **kwargs)

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        for name in ("slope", "downhill"):
            if values.get(name) is None and name not in self.errors:
                values[name] = 0.0
        for name in ("downhill", "prevailing_from", "wind_from"):
            values[name] = self.turned(name, normal_bearing)
        if (values.get("origin_lat") is None) != (values.get("origin_lon") is None):
            self.add_error("origin_lat", gettext("Give latitude and longitude, or neither."))
        return values


class PictureForm(forms.Form):
    """A photo or scan to lay under the plan."""

    image = forms.FileField(label=gettext_lazy("Picture (JPEG or PNG, up to 25 MB)"))


class ScaleForm(UnitsForm):
    """Two places seen on the picture, and where they really are."""

    seen_a = forms.CharField(max_length=60, label=gettext_lazy("First point as it lies now (east; north)"))
    real_a = forms.CharField(max_length=120, label=gettext_lazy("is really at"))
    seen_b = forms.CharField(max_length=60, label=gettext_lazy("Second point as it lies now"))
    real_b = forms.CharField(max_length=120, label=gettext_lazy("is really at"))

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs.setdefault("prefix", "scale")
        super().__init__(*args, **kwargs)

    def refuse(self, error: Any) -> None:
        self.add_error("real_b" if error.field == "picture" else None, quantities.explain(error, self.units))


class ApproachForm(UnitsForm):
    """The yard's own distance to keep from one class."""

    distance = QuantityField(dimension="length", required=False, label=gettext_lazy("Keep"))
    source = forms.CharField(max_length=300, required=False, label=gettext_lazy("From which code or letter"))

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        if values.get("distance") is not None and not values.get("source"):
            self.add_error("source", gettext("Say which code or letter the distance is from."))
        if values.get("distance") is not None and not 0.3 <= values["distance"] <= 30.0:
            self.add_error("distance", gettext("Approach distances are believed from 0.3 to 30 m."))
        return values
