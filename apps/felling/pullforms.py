"""The form of a pulling system: every part and rope with its own fields."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.felling import pull_planner
from cantrel import quantities
from cantrel.entryforms import column_fields
from cantrel.forms import QuantityField, UnitsForm
from treecore.document.felling import PartEntry, RopeEntry
from treecore.document.fields import specs, usual

if TYPE_CHECKING:
    from apps.jobs.models import Tree
    from treecore.errors import NotSolvable, OutOfRange

USUAL = usual(PartEntry) | {"on": ""}
ASKED = ("name", "x_m", "y_m", "height_m")  # of every part; what its kind does not show keeps what it had
SHOWN = {
    "people": ("people",), "winch": ("force_N", "rating_N", "trunk_m"), "vehicle": ("mass_kg", "ground", "force_N"),
    "tie": ("rating_N", "trunk_m"),
    "trunk": ("turns", "rating_N", "trunk_m"), "block": ("on", "rating_N", "trunk_m"), "plain": ("on", "rating_N",
    "trunk_m"),
    "ring": ("on", "rating_N", "trunk_m"), "loop": ("on", "rating_N", "trunk_m"),
}  # fmt: skip


class SystemForm(UnitsForm):
    """Tie, design factor, share taken; then a row of fields for each part and each rope of an entry."""

    tie_m = QuantityField(dimension="length", label=gettext_lazy("Tied above the ground"))
    takes = QuantityField(dimension="share", label=gettext_lazy("Of what the hands can give"))
    design_school = forms.ChoiceField(label=gettext_lazy("Design factor"))

    def __init__(self, *args: Any, entry: dict[str, Any], **kwargs: Any) -> None:
        entry = pull_planner.with_ids(entry)
        self.entry, choice = entry, pull_planner.choices()
        stored = {n: entry.get(n) for n in ("tie_m", "takes", "design_school")}
        self.base_fields = dict(type(self).base_fields)
        for part in entry["parts"]:
            for key, field in _part_fields(choice, [r["name"] for r in entry["ropes"]]).items():
                self.base_fields[f"{part['id']}_{key}"] = field
                stored[f"{part['id']}_{key}"] = part.get(key, USUAL.get(key))
        for rope in entry["ropes"]:
            self._rope(rope["id"], rope, stored, choice)
        super().__init__(*args, stored=stored, **kwargs)
        self.fields["design_school"].choices = choice["designs"]

    def _rope(self, name: str, rope: dict[str, Any], stored: dict[str, Any], choice: dict[str, Any]) -> None:
        made = column_fields(RopeEntry, by_key=True)
        made["path"] = forms.CharField(max_length=600, label=made["path"].label)
        made["join"].choices, made["knot"].choices = choice["joins"], choice["knots"]
        self.base_fields |= {f"{name}_{key}": field for key, field in made.items()}
        stored |= {f"{name}_{k}": rope.get(k) for k in ("name", "owned_m", "strength_N")}
        stored |= {
            f"{name}_path": " > ".join(rope["path"]),
            f"{name}_join": rope.get("join", "none"),
            f"{name}_knot": rope.get("knot", "unknown"),
        }

    def rows(self) -> list[dict[str, Any]]:
        """Fields of every part, those its kind has, for the page."""
        return [
            {
                "id": part["id"],
                "name": part["name"],
                "kind": dict(pull_planner.choices()["kinds"])[part["kind"]],
                "fields": [
                    self[f"{part['id']}_{k}"] for k in ("name", "kind", "x_m", "y_m", "height_m", *SHOWN[part["kind"]])
                ],
            }
            for part in self.entry["parts"]
        ]

    def rope_rows(self) -> list[dict[str, Any]]:
        """Fields of every rope for the page."""
        return [
            {
                "id": r["id"],
                "name": r["name"],
                "fields": [self[f"{r['id']}_{k}"] for k in ("name", "path", "owned_m", "strength_N", "join", "knot")],
            }
            for r in self.entry["ropes"]
        ]

    def taken(self) -> dict[str, Any]:
        """The entry as typed; fields a kind does not show keep what they had."""
        v = self.cleaned_data
        entry = {n: v[n] for n in ("tie_m", "takes", "design_school")} | {"parts": [], "ropes": []}
        for part in self.entry["parts"]:
            sent = {k: v.get(f"{part['id']}_{k}") for k in specs(PartEntry) if f"{part['id']}_{k}" in self.data}
            entry["parts"].append(part | {k: USUAL.get(k) if x is None else x for k, x in sent.items()})
        for rope in self.entry["ropes"]:
            name = rope["id"]
            row = {k: v.get(f"{name}_{k}") for k in ("name", "owned_m", "strength_N", "join", "knot")}
            entry["ropes"].append(rope | row | {"path": [p.strip() for p in v[f"{name}_path"].split(">") if p.strip()]})
        pull_planner.renamed(entry, self.entry)
        return entry

    def refuse(self, error: NotSolvable | OutOfRange) -> None:
        """Put an error that names a part or a rope on its field."""
        what, _, name = error.field.partition(" ")
        for kind, rows, field in (("part", "parts", "name"), ("rope", "ropes", "path")):
            for row in self.entry[rows]:
                if what == kind and row["name"] == name:
                    return self.add_error(f"{row['id']}_{field}", quantities.explain(error, self.units))
        plain = {"pull_tie": "tie_m", "pull_takes": "takes"}.get(error.field)
        if plain:
            return self.add_error(plain, quantities.explain(error, self.units))
        return super().refuse(error)


class LayForm(forms.Form):
    """A system laid out at one press: which, from which anchor, pulled by whom, on which rope."""

    design = forms.ChoiceField(label=gettext_lazy("Pull"))
    anchor = forms.ChoiceField(label=gettext_lazy("To"), required=False)
    by = forms.ChoiceField(label=gettext_lazy("Pulled by"))
    rope = forms.ChoiceField(label=gettext_lazy("Rope of the store"), required=False)

    def __init__(self, *args: Any, tree: Tree, offers: pull_planner.Offers | None = None, **kwargs: Any) -> None:
        super().__init__(*args, prefix="pull", **kwargs)
        offers = offers or pull_planner.offers(tree)
        self.fields["design"].choices = pull_planner.choices()["ready"]
        self.fields["anchor"].choices = [("", gettext("nearest anchor ahead, else ahead")), *offers.ends]
        self.fields["by"].choices = offers.pullers
        self.fields["rope"].choices = [("", gettext("not chosen yet")), *offers.ropes]


class GuyForm(forms.Form):
    """A guy line laid out at one press: to which anchor, on which rope, held by whom."""

    anchor = forms.ChoiceField(label=gettext_lazy("To"))
    rope = forms.ChoiceField(label=gettext_lazy("Rope of the store"), required=False)
    tended = forms.BooleanField(label=gettext_lazy("Someone lets it out on the word"), required=False)

    def __init__(self, *args: Any, tree: Tree, offers: pull_planner.Offers | None = None, **kwargs: Any) -> None:
        super().__init__(*args, prefix="guy", **kwargs)
        offers = offers or pull_planner.offers(tree)
        self.fields["anchor"].choices = offers.ends
        self.fields["rope"].choices = [("", gettext("not chosen yet")), *offers.ropes]


def _part_fields(choice: dict[str, Any], ropes: list[str]) -> dict[str, Any]:
    """Fields of a part as its entry declares them."""
    made = column_fields(PartEntry, by_key=True)
    on = [
        ("", gettext("its anchor")),
        ("tree", gettext("the stem, at the tie")),
        *((r, gettext("grips {r}").format(r=r)) for r in ropes),
    ]
    made["on"] = forms.ChoiceField(choices=on, label=made["on"].label)
    made["kind"].choices, made["ground"].choices = choice["kinds"], choice["grounds"]
    for key, field in made.items():
        field.required = key in ASKED
    return made
