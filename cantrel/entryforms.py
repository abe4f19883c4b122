"""Forms made from the declarations of the plan document: a field's label, unit, choices and length are said there
once.
"""

from __future__ import annotations

from dataclasses import MISSING
from typing import TYPE_CHECKING, Any

from django import forms
from django.utils.translation import gettext, gettext_lazy

from cantrel.forms import BearingField, QuantityField, UnitsForm
from cantrel.rows import declaring_of, paths, types
from treecore.document.fields import core_name, defaults, from_si, specs, to_si, usual
from treecore.ranges import ends

if TYPE_CHECKING:
    from collections.abc import Callable
    from types import GenericAlias

    from treecore.document.fields import Spec

TURNED = "bearing"  # a range that forms bring a number into rather than refuse it
NOTHING = (None, "", False)  # what a document leaves out


def field_for(spec: Spec, kind: Any, default: Any) -> Any:
    """The form's field of a declared one: ``kind`` is its type, ``default`` what a document may leave out."""
    label = gettext_lazy(spec.label)
    said = {"label": label, "required": default is MISSING or spec.must}
    if kind is bool:
        return forms.BooleanField(label=label, required=False)
    if spec.choices and kind is int:
        return forms.TypedChoiceField(coerce=int, **said)
    if spec.choices:
        return forms.ChoiceField(label=label, required=default is MISSING or default not in NOTHING)
    if spec.widget == "bearing":
        return BearingField(**said)
    if spec.dimension:
        within = "" if spec.range == TURNED else spec.range
        return QuantityField(dimension=spec.dimension, within=within, **said)
    if kind in (int, float):
        low, high = ends(spec.range) if spec.range else (None, None)
        said |= {"min_value": low, "max_value": high}
        return (forms.IntegerField if kind is int else forms.FloatField)(**said)
    if spec.most is None:
        return forms.CharField(widget=forms.Textarea(attrs={"rows": 2}), **said)
    return forms.CharField(max_length=spec.most, **said)


class Plain:
    """A declared field that is one field of the form, by the same name."""

    def __init__(self, key: str, spec: Spec, kind: Any, default: Any) -> None:
        self.key, self.spec = key, spec
        self.fields = {key: field_for(spec, kind, default)}

    def shown(self, value: bool | float | str | None) -> dict[str, Any]:
        """What the form is given of a document's value."""
        quantity = isinstance(self.fields[self.key], QuantityField) and value is not None
        return {self.key: to_si(self.key, value) if quantity else value}

    def taken(self, values: dict[str, Any], before: bool | float | str | None) -> bool | float | str | None:
        """The document's value of what was typed; nothing to leave it out."""
        value = values[self.key]
        quantity = isinstance(self.fields[self.key], QuantityField) and value is not None
        return from_si(self.key, value) if quantity else value


class Spot(Plain):
    """A place on the ground, or with a height that is kept as it was: two fields, east and north of the stem."""

    def __init__(self, key: str, spec: Spec, kind: GenericAlias, default: Any) -> None:
        self.key, self.spec, self.name = key, spec, spec.widget.split()[1]
        empty = gettext(" (empty: {empty})").format(empty=gettext(spec.empty)) if spec.empty else ""
        labels = {
            "east": gettext("{label}, east of the stem{empty}").format(label=gettext(spec.label), empty=empty),
            "north": gettext("{label}, north of the stem").format(label=gettext(spec.label)),
        }
        self.fields = {
            f"{self.name}_{side}": QuantityField(
                dimension=spec.dimension, within=spec.range, required=spec.must, label=label
            )
            for side, label in labels.items()
        }

    def shown(self, value: list[float] | None) -> dict[str, Any]:
        given = value if value is not None else (0.0, 0.0) if self.spec.must else (None, None)
        return dict(zip(self.fields, given, strict=False))

    def taken(self, values: dict[str, Any], before: list[float] | None) -> list[float] | None:
        found = [values[name] for name in self.fields]
        if None in found:
            return None
        kept = (before or (0.0, 0.0, 1.0))[2:] if self.spec.must else ()
        return [*found, *kept]


class EntryForm(UnitsForm):
    """A form of an entry of the document. ``entry`` is its declaration.

    ``kinds`` are classes like ``Plain`` by the first word of a field's widget; ``choices`` lists by table name.
    """

    entry = None
    kinds = {"spot": Spot}

    def __init__(self, *args: Any, choices: dict[str, Any], entry: dict[str, Any] | None = None, **kwargs: Any) -> None:
        self.choices, self.before = choices, entry or {}
        self.parts = {key: self._part(key, spec) for key, spec in self.declared().items()}
        self.base_fields = {n: f for part in self.parts.values() for n, f in part.fields.items()} | self.base_fields
        stored = {}
        for key, part in self.parts.items():
            stored |= part.shown(self.before.get(key, usual(self.entry).get(key)))
        super().__init__(*args, stored=stored | kwargs.pop("stored", {}), **kwargs)
        self.offer(choices)

    @classmethod
    def declared(cls) -> dict[str, Spec]:
        """What is said of every field it shows, by key."""
        return {key: spec for key, spec in specs(cls.entry).items() if spec.part}

    def _part(self, key: str, spec: Spec) -> Any:
        made = self.kinds.get(spec.widget.partition(" ")[0], Plain)
        return made(key, spec, types(self.entry)[key], defaults(self.entry).get(key, MISSING))

    def offer(self, choices: dict[str, Any]) -> None:
        """Give every select its list."""
        for key, part in self.parts.items():
            if part.spec.choices:
                self.fields[key].choices = choices[part.spec.choices]

    def taken(self) -> dict[str, Any]:
        """What was typed as the document's entry; what the form does not show stays as it was."""
        found = {key: value for key, value in self.before.items() if key not in self.parts}
        for key, part in self.parts.items():
            value = part.taken(self.cleaned_data, self.before.get(key))
            if value not in NOTHING or (value == "" and self.before.get(key) == ""):
                found[key] = value
        return found

    def field_of(self, key: str) -> str:
        """Field of the form that shows a key of the entry, its first where it has several."""
        return next(iter(self.parts[key].fields)) if key in self.parts else key

    @classmethod
    def core_names(cls) -> dict[str, str]:
        """Keys by what the core's errors call them."""
        named = {core_name(key, spec).replace(".", "_"): key for key, spec in cls.declared().items()}
        return {name: key for name, key in named.items() if name and name != key}


def column_fields(entry: Any, *keys: Any, by_key: bool = False, kept: tuple[str, ...] | None = None) -> dict[str, Any]:
    """Fields by the name of their column, for a form of rows, or by their key.

    All of them, or those of the ``keys`` given or of the columns ``kept``; in a line or other entry that may be left
    out whole, only what ``must`` be said is required.
    """
    found = {}
    for path, column in paths(entry):
        declaring = declaring_of(entry, path)
        key, spec = path[-1], specs(declaring)[path[-1]]
        if (keys and path[0] not in keys) or (kept is not None and column not in kept):
            continue
        made = field_for(spec, types(declaring)[key], defaults(declaring).get(key, MISSING))
        if len(path) > 1 and not spec.must:
            made.required = isinstance(made, forms.ChoiceField) and made.required
        found[key if by_key else column] = made
    return found


def with_fields(made: dict[str, Any]) -> Callable[..., Any]:
    """A class of forms whose fields are those made of a declaration, then its own."""

    def decorate(form: Any) -> Any:
        form.base_fields = made | form.base_fields
        return form

    return decorate
