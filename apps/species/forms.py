"""Form of a yard's own species row."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.species import planner
from cantrel import quantities
from cantrel.forms import QuantityField, UnitsForm
from treecore.errors import CoreError

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.forms.boundfield import BoundField
    from django.forms.fields import ChoiceField

    from apps.species.models import YardSpecies

FIGURES = (
    ("density", "density", gettext_lazy("Green density")),
    ("mor", "strength", gettext_lazy("Bending strength")),
    ("moe", "stiffness", gettext_lazy("Stiffness")),
    ("compression", "fine_strength", gettext_lazy("Compression along the grain")),
    ("shear", "fine_strength", gettext_lazy("Shear along the grain")),
)
HABITS = (
    ("hinge", gettext_lazy("Hinge")),
    ("splits", gettext_lazy("Splits up the stem")),
    ("brittle", gettext_lazy("Brittle limbs")),
    ("decay", gettext_lazy("Decays")),
)


def _triples() -> dict[str, QuantityField]:
    fields = {}
    for key, dimension, label in FIGURES:
        fields[key] = QuantityField(dimension=dimension, required=False, label=label)
        fields[f"{key}_low"] = QuantityField(dimension=dimension, required=False, label="from")
        fields[f"{key}_high"] = QuantityField(dimension=dimension, required=False, label="to")
    return fields


class YardForm(UnitsForm):
    """A correction of a published species, or a species like one; what is left empty stays as published."""

    common = forms.CharField(max_length=120, label=gettext_lazy("Name it goes by here"))
    like = forms.ChoiceField(label=gettext_lazy("Everything else as of"))
    scientific = forms.CharField(max_length=120, required=False, label=gettext_lazy("Scientific name"))
    source = forms.CharField(max_length=300, label=gettext_lazy("Where the figures are from"))
    note = forms.CharField(max_length=500, required=False)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        self.base_fields = {**type(self).base_fields, **_triples(), **self._habits()}
        super().__init__(*args, **kwargs)
        rows = sorted(planner.all_published(), key=lambda s: s.common)
        self.fields["like"].choices = [(s.key, f"{s.common} ({s.scientific})") for s in rows]

    @staticmethod
    def _habits() -> dict[str, ChoiceField]:
        def field(key: str, label: Any) -> Any:
            choices = [("", gettext("as published")), *((w, w) for w in planner.WORDS[key])]
            return forms.ChoiceField(choices=choices, required=False, label=label)

        return {key: field(key, label) for key, label in HABITS}

    @property
    def triples(self) -> list[list[BoundField]]:
        """The three fields of each figure together, for the page."""
        return [[self[key], self[f"{key}_low"], self[f"{key}_high"]] for key, _, _ in FIGURES]

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        for key, _, _ in FIGURES:
            three = [values.get(n) for n in (f"{key}_low", key, f"{key}_high")]
            if any(v is None for v in three) and any(v is not None for v in three):
                self.add_error(key, gettext("Give the value and both ends of its interval, or none of them."))
            elif None not in three and not three[0] <= three[1] <= three[2]:
                self.add_error(key, gettext("The value must lie between its two ends."))
        return values

    def run(self, action: Callable[..., Any]) -> YardSpecies | None:
        try:
            return super().run(action)
        except CoreError as error:
            self.add_error(None, quantities.explain(error, self.units))
            return None
