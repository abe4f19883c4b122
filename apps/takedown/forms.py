"""The forms of a pick, of a new cut, and of the way up; a pick's fields are those its entry declares."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from apps.takedown.planner import TREE, listed, ways_needing
from cantrel import quantities
from cantrel.entryforms import EntryForm, Plain, column_fields, with_fields
from cantrel.forms import BearingField, QuantityField, UnitsForm, value_in_words
from treecore.document.takedown import AccessEntry, ClimberEntry, PickEntry

if TYPE_CHECKING:
    from treecore.document.fields import Spec
    from treecore.document.takedown import WoodEntry
    from treecore.errors import NotSolvable, OutOfRange

# Titles of the parts a pick's form is shown in; the first two stand open.
TITLES = {
    "piece": gettext_lazy("The piece"),
    "rope": gettext_lazy("Rope and device"),
    "cut": gettext_lazy("The cut"),
    "redirect": gettext_lazy("Led over, second high point"),
    "gear": gettext_lazy("Gear"),
    "ground": gettext_lazy("On the ground"),
    "weighed": gettext_lazy("Weighed or lifted to try"),
    "climber": gettext_lazy("Climber"),
}


def _on(place: dict[str, Any], member: str = "member", tree: str = "tree") -> str:
    """A place's choice in a select: a limb's name, or another tree's."""
    return f"{TREE}{place[tree]}" if place.get(tree) else place.get(member, "")


def _place(choice: str, at: float) -> dict[str, Any]:
    """A place as the document writes it: on a member of this tree, or in another."""
    where = {"tree": choice.removeprefix(TREE)} if choice.startswith(TREE) else {"member": choice}
    return where | {"at_m": at}


class Wood(Plain):
    """A place on wood: on what, how high or far out, and of the rigging point whether it is a natural fork."""

    def __init__(self, key: str, spec: Spec, kind: type[WoodEntry], default: Any) -> None:
        self.key, self.spec = key, spec
        _, self.name, *more = spec.widget.split()
        empty = (
            gettext(" (empty for straight down)")
            if key == "redirect"
            else ""
            if key == "far_anchor"
            else gettext(" (empty for none)")
        )
        self.on, self.at, self.fork = f"{self.name}_on", f"{self.name}_m", more[0] if more else ""
        self.fields = {
            self.on: forms.ChoiceField(required=False, label=gettext("{label} on").format(label=gettext(spec.label))),
            self.at: QuantityField(
                dimension="length",
                required=False,
                label=gettext("{label} at{empty}").format(label=gettext(spec.label), empty=empty),
            ),
        }
        if self.fork:
            self.fields[self.fork] = forms.BooleanField(required=False, label=gettext("A natural fork, no block"))

    def shown(self, value: dict[str, Any] | None) -> dict[str, Any]:
        place = value or {}
        found = {self.on: _on(place), self.at: place.get("at_m")}
        return found | ({self.fork: place.get("fork", False)} if self.fork else {})

    def taken(self, values: dict[str, Any], before: dict[str, Any] | None) -> dict[str, Any] | None:
        if values[self.at] is None:
            return None
        old = {k: v for k, v in (before or {}).items() if k not in ("member", "tree", "at_m", "place_m")}
        found = old | _place(values[self.on], values[self.at])
        return found | ({"fork": values[self.fork]} if self.fork else {})


class OnTree(Plain):
    """The climber: where they stand, where they are tied in, by what."""

    RENAMED = {"tie_m": "tie_in_m"}

    def __init__(self, key: str, spec: Spec, kind: type[ClimberEntry], default: Any) -> None:
        self.key, self.spec = key, spec
        wanted = ("stance_member", "stance_m", "side_deg", "tie_m", "line_m", "based", "lanyard", "fallback")
        made = column_fields(ClimberEntry, *wanted, by_key=True)
        for field in made.values():
            field.required = False
        named = {self.RENAMED.get(name, name): field for name, field in made.items()}
        self.fields = {name: named[name] for name in ("stance_member", "stance_m", "side_deg")}
        self.fields["tie_on"] = forms.ChoiceField(required=False, label=gettext("Climber tied in to"))
        self.fields |= {name: named[name] for name in ("tie_in_m", "line_m", "based", "lanyard")}
        self.fields["second_on"] = forms.ChoiceField(required=False, label=gettext("Second tie-in on"))
        self.fields["second_in_m"] = QuantityField(
            dimension="length", required=False, label=gettext("Second tie-in at (empty for none)")
        )
        self.fields["fallback"] = named["fallback"]

    def shown(self, value: dict[str, Any] | None) -> dict[str, Any]:
        climber = value or {}
        second = climber.get("second") or {}
        return {
            "stance_member": climber.get("stance_member", ""),
            "stance_m": climber.get("stance_m"),
            "side_deg": climber.get("side_deg"),
            "tie_on": _on(climber, "tie_member", "tie_tree"),
            "tie_in_m": climber.get("tie_m"),
            "line_m": climber.get("line_m", 45.0),
            "based": climber.get("based", False),
            "lanyard": climber.get("lanyard", True),
            "second_on": _on(second),
            "second_in_m": second.get("at_m"),
            "fallback": climber.get("fallback", ""),
        }

    def taken(self, values: dict[str, Any], before: dict[str, Any] | None) -> dict[str, Any] | None:
        if values["stance_m"] is None:
            return None
        tie = _place(values["tie_on"], values["tie_in_m"])
        found = {n: values[n] for n in ("stance_member", "stance_m", "based", "lanyard")}
        found |= {"tie_m": values["tie_in_m"], "line_m": values["line_m"] or 45.0}
        found |= {"tie_tree": tie["tree"]} if "tree" in tie else {"tie_member": tie["member"]}
        if values["second_in_m"] is not None:
            found["second"] = _place(values["second_on"], values["second_in_m"])
        found |= {n: values[n] for n in ("side_deg",) if values[n] is not None}
        return found | ({"fallback": values["fallback"]} if values["fallback"] else {})


class PickForm(EntryForm):
    """One pick: where it is cut, how it is taken, what holds it, where it goes, where the climber is."""

    entry = PickEntry
    kinds = EntryForm.kinds | {"wood": Wood, "climber": OnTree}
    view = BearingField(low=-720, high=1080, required=False, label=gettext_lazy("Facing (bearing)"))

    # What errors of the core name, where it is neither a field's own name nor the core's name for it.
    aliases = {
        "cut": "at_m",
        "rigging_point": "point_m",
        "tie_in": "tie_in_m",
        "stance": "stance_m",
        "climber_line": "line_m",
        "climber_tie_at": "tie_in_m",
        "climber_stance_at": "stance_m",
        "second_at": "second_in_m",
        "redirect": "redirect_m",
        "far_anchor": "far_m",
        "second_tie_in": "second_in_m",
        "cut_type": "cut",
        "cg_beyond": "tie_m",
        "tie_above": "point_m",
        "bridle": "second_tie_m",
    }

    def offer(self, choices: dict[str, Any]) -> None:
        super().offer(choices)
        self.fields["stance_member"].choices = choices["members"]
        for name in ("point_on", "redirect_on", "far_on", "tie_on", "second_on"):
            self.fields[name].choices = choices["members"] + choices["trees"]

    def clean(self) -> dict[str, Any]:
        values = super().clean()
        if values.get("stance_m") is not None and values.get("tie_in_m") is None and "tie_in_m" not in self.errors:
            self.add_error("tie_in_m", gettext("A climber on the tree is tied in: say where."))
        for part in self.parts.values():
            if part.spec.widget.startswith("spot"):
                self._whole_place(values, list(part.fields))
        return values

    def _whole_place(self, values: dict[str, Any], names: list[str]) -> None:
        said = [values.get(name) is not None for name in names]
        if any(said) and not all(said):
            other = names[said.index(False)]
            if other not in self.errors:
                self.add_error(other, gettext("A place has two numbers: say how far east and how far north."))

    def in_words(self, key: str) -> str:
        """What it shows of a key of the entry, as a person would say it."""
        names = list(self.parts[key].fields) if key in self.parts else []
        return ", ".join(said for said in (value_in_words(self, name) for name in names) if said)

    def refuse(self, error: NotSolvable | OutOfRange) -> None:
        """Gear is named at its field; the rest where the core's name points."""
        at = self.core_names().get(error.field)
        if at and error.field not in self.aliases and error.field not in self.fields:
            self.add_error(self.field_of(at), quantities.explain(error, self.units))
        elif error.field in self.fields and error.field not in self.aliases:
            self.add_error(error.field, quantities.explain(error, self.units))
        else:
            super().refuse(error)

    def grouped(self) -> list[tuple[str, str, list[tuple[Any, ...]]]]:
        """Its fields by part: the part's title, the ways of taking a piece that need it (empty for all) and its fields,
        each with the field and the values of it that ask for it.
        """
        found, needed = {title: [] for title in TITLES}, ways_needing()
        for part in self.parts.values():
            asked = part.spec.asked or ("", "")
            found[part.spec.part] += [(self[name], *asked) for name in part.fields]
        return [(TITLES[key], needed.get(key, ""), rows) for key, rows in found.items()]


class CutForm(UnitsForm):
    """A new cut, typed: from the keyboard, or from a tape held against the stem."""

    new_member = forms.ChoiceField(required=False, label=gettext_lazy("New cut on"))
    new_at_m = QuantityField(dimension="length", label="At")

    aliases = {"cut": "new_at_m", "pick": "new_at_m"}

    def __init__(self, *args: Any, members: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["new_member"].choices = members


class LayForm(UnitsForm):
    """What is laid out in picks: which member, and how long and heavy a piece may be."""

    lay_member = forms.ChoiceField(required=False, label=gettext_lazy("Lay out"))
    lay_heaviest = QuantityField(dimension="mass", label=gettext_lazy("A piece weighs at most"))
    lay_longest = QuantityField(dimension="length", label=gettext_lazy("and is at most"))

    aliases = {"member": "lay_member", "heaviest": "lay_heaviest", "longest": "lay_longest", "pick": "lay_heaviest"}

    def __init__(self, *args: Any, members: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["lay_member"].choices = members


@with_fields(column_fields(AccessEntry, by_key=True))
class AccessForm(UnitsForm):
    """How the climber gets up and down."""

    aliases = {"at": "at_m", "line": "line_m", "fork": "at_m"}

    def __init__(self, *args: Any, members: list[tuple[str, str]], **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["member"].choices = members
        for name, table in (("way", "ways"), ("anchor", "anchors")):
            self.fields[name].choices = listed(table)


def as_typed(form: PickForm, entry: dict[str, Any]) -> dict[str, Any]:
    """An entry as its untouched form writes it, so that two of them can be compared key by key."""
    shown = PickForm(units=form.units, choices=form.choices, entry=entry)
    data = {n: shown[n].value() for n in shown.fields}
    plain = PickForm(
        {k: v for k, v in data.items() if v not in (None, False)}, units=form.units, choices=form.choices, entry=entry
    )
    return plain.taken() if plain.is_valid() else entry
