"""Forms in the person's units: quantities keep every digit typed, and core errors land on their field."""

from __future__ import annotations

import math
import re
from copy import deepcopy
from typing import TYPE_CHECKING, Any

from django import forms
from django.forms.renderers import TemplatesSetting
from django.utils.choices import flatten_choices
from django.utils.html import escape
from django.utils.safestring import mark_safe
from django.utils.translation import gettext

from cantrel import quantities
from treecore.errors import CoreError
from treecore.ranges import believed

if TYPE_CHECKING:
    from collections.abc import Callable

    from django.http import HttpRequest, QueryDict

    from treecore.errors import BadDocument, NotSolvable, OutOfRange


def _attrs(attrs: dict[str, Any]) -> str:
    pairs = (
        f' {escape(k)}="{escape(v)}"' if v is not True else f" {escape(k)}" for k, v in attrs.items() if v is not False
    )
    return "".join(pairs)


def _input(widget: dict[str, Any]) -> str:
    value = "" if widget["value"] is None else f' value="{escape(widget["value"])}"'
    return mark_safe(f'<input type="{widget["type"]}" name="{escape(widget["name"])}"{value}{_attrs(widget["attrs"])}>')


def _select(widget: dict[str, Any]) -> str:
    options = "".join(
        f'<option value="{escape(o["value"])}"{_attrs(o["attrs"])}>{escape(o["label"])}</option>'
        for _, group, _ in widget["optgroups"]
        for o in group
    )
    return mark_safe(f'<select name="{escape(widget["name"])}"{_attrs(widget["attrs"])}>{options}</select>')


_WRITTEN = {f"django/forms/widgets/{kind}.html": _input for kind in ("text", "number", "hidden", "checkbox")}
_WRITTEN |= {"django/forms/widgets/select.html": _select}


class FieldBookRenderer(TemplatesSetting):
    """Render every field with our one partial; plain inputs and selects at once, for a bench has fifty of them."""

    field_template_name = "_field.html"

    def render(self, template_name: str, context: dict[str, Any], request: HttpRequest | None = None) -> str:
        write = _WRITTEN.get(template_name)
        return write(context["widget"]) if write else super().render(template_name, context, request)


_PLAIN = re.compile(r"-?\d+(?:\.\d+)?")  # what needs no echo


def rebased(sent: Any, before: Any, after: Any) -> dict[str, str]:
    """What a person sees when others saved meanwhile: their own fields where they changed one, else what is stored now.

    ``sent`` is the bound form; ``before`` and ``after`` show what its page was drawn from, and what is stored. Data
    for a form.
    """
    found = {}
    for name in sent.fields:
        was, now = (_shown(form[name].value()) for form in (before, after))
        mine = sent.data.get(sent.add_prefix(name), "")
        found[sent.add_prefix(name)] = now if mine == was else mine
    return {name: value for name, value in found.items() if value != ""}


def filled(data: QueryDict, page: Any) -> QueryDict | dict[str, str]:
    """What a page sent, with the fields nobody touched there as it showed them; a page that sends all is left as it is.

    ``page`` is the form as it was drawn. A page that sends only what changed names that in ``changed``.
    """
    if "changed" not in data:
        return data
    touched = set(data["changed"].split())
    names = {page.add_prefix(name): name for name in page.fields}
    shown = {at: _shown(page[name].value()) for at, name in names.items() if at not in touched and at not in data}
    return {key: value for key, value in shown.items() if value != ""} | dict(data.items())


def as_shown(form: Any) -> dict[str, Any]:
    """Cleaned values of a form nobody touched, to compare others with."""
    again = deepcopy(form)
    again.data = {form.add_prefix(n): said for n in form.fields if (said := _shown(form[n].value())) != ""}
    again.is_bound, again._errors = True, None
    again.full_clean()
    return again.cleaned_data


def _shown(value: Any) -> str:
    """A field's value as its page posts it."""
    return "" if value is None or value is False else "on" if value is True else str(value)


class QuantityField(forms.CharField):
    """A number with a unit. Cleans to SI; an untouched field gives back the stored value to the last bit.

    ``within`` is a key of the core's ranges: what lies outside is refused here, as the database would.
    """

    def __init__(self, dimension: str, *, doc: Any = "", within: str = "", **kwargs: Any) -> None:
        self.dimension, self.doc, self.within = dimension, doc, within
        self.system, self.stored = "metric", None
        kwargs.setdefault("max_length", 40)
        super().__init__(**kwargs)
        self.widget.attrs |= {"inputmode": "decimal", "autocomplete": "off", "data-quantity": dimension}

    @property
    def unit(self) -> str:
        return quantities.symbol(self.dimension, self.system)

    def start(self, system: str, stored: float | None) -> None:
        """Take the person's units and the stored SI value."""
        self.system, self.stored = system, stored
        self.initial = "" if stored is None else quantities.typed(stored, self.dimension, system)
        self.widget.attrs["data-unit"] = self.unit

    def clean(self, value: str | None) -> float | None:
        text = super().clean(value)
        if text in self.empty_values:
            return None
        if self.stored is not None and text == self.initial:
            return self.stored
        try:
            found = quantities.parse(text, self.dimension, self.system)
            return believed(self.dimension, found, self.within) if self.within else found
        except CoreError as error:
            raise forms.ValidationError(quantities.explain(error, self.system)) from None
        except ValueError as error:
            raise forms.ValidationError(str(error)) from None


class BearingField(forms.CharField):
    """A bearing in whole degrees, read as people write one (45, N45E, 45°). Cleans to a number of degrees."""

    def __init__(self, *, low: int = 0, high: int = 360, **kwargs: Any) -> None:
        self.low, self.high = low, high
        kwargs.setdefault("max_length", 20)
        super().__init__(**kwargs)
        self.widget.attrs |= {"inputmode": "decimal", "autocomplete": "off"}

    def clean(self, value: str | None) -> int | None:
        text = super().clean(value)
        if text in self.empty_values:
            return None
        try:
            degrees = round(math.degrees(quantities.parse(text, "angle", "metric")))
        except ValueError as error:
            raise forms.ValidationError(str(error)) from None
        if not self.low <= degrees <= self.high:
            msg = gettext("{degrees}° is outside {low}° to {high}°.").format(
                degrees=degrees, low=self.low, high=self.high
            )
            raise forms.ValidationError(msg)
        return degrees

    @staticmethod
    def said(value: int) -> str:
        """What was understood, with its unit."""
        return f"{value}°"


class UnitsForm(forms.Form):
    """A form whose quantities are shown and read in the person's units.

    ``stored`` holds SI values and plain choices by field name; ``aliases`` maps the core's names to field names.
    """

    aliases: dict[str, str] = {}

    def __init__(self, *args: Any, units: str = "metric", stored: dict[str, Any] | None = None, **kwargs: Any) -> None:
        self.units = units
        stored = stored or {}
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
            if isinstance(field, QuantityField):
                field.start(units, stored.get(name))
            elif name in stored:
                field.initial = stored[name]

    def run(self, action: Callable[..., Any]) -> Any:
        """Call ``action`` with the cleaned values; a core error lands on its field. None if anything is wrong."""
        if not self.is_valid():
            return None
        try:
            return action(self.cleaned_data)
        except CoreError as error:
            self.refuse(error)
            return None

    def turned(self, name: str, turn: Callable[[float], tuple[float, bool]]) -> float | None:
        """A typed bearing within one turn; what is none is said at its field."""
        value = self.cleaned_data.get(name)
        try:
            return None if value is None else turn(value)[0]
        except CoreError as error:
            self.add_error(name, quantities.explain(error, self.units))
            return None

    def understood(self) -> dict[str, str]:
        """What was made of quantities that were typed with a unit, a comma or a fraction, by the names on the page."""
        if not self.is_bound:
            return {}
        values = self.cleaned_data if self.is_valid() else getattr(self, "cleaned_data", {})
        found = {}
        for name, field in self.fields.items():
            text = str(self.data.get(self.add_prefix(name), "")).strip()
            if not text or values.get(name) is None or _PLAIN.fullmatch(text):
                continue
            if isinstance(field, QuantityField):
                found[self.add_prefix(name)] = gettext("Taken as {exact}.").format(
                    exact=quantities.exact(values[name], field.dimension, self.units)
                )
            elif isinstance(field, BearingField):
                found[self.add_prefix(name)] = gettext("Taken as {values}.").format(values=field.said(values[name]))
        return found

    def echo(self) -> str:
        """The same as one line, each with its field's label; for a panel that is drawn anew."""
        labels = {self.add_prefix(name): field.label for name, field in self.fields.items()}
        return " ".join(f"{labels[name]}: {said[:1].lower()}{said[1:]}" for name, said in self.understood().items())

    def said(self) -> dict[str, Any]:
        """Its errors by the names its fields have on the page."""
        return {(self.add_prefix(k) if k != "__all__" else k): list(v) for k, v in self.errors.items()}

    def refuse(self, error: BadDocument | NotSolvable | OutOfRange) -> None:
        """Put a core error on its field, in the person's units."""
        name = self.aliases.get(error.field, error.field)
        message = quantities.explain(error, self.units)
        if name in self.fields:
            self.add_error(name, message)
        else:
            self.add_error(None, f"{error.field.replace('_', ' ')}: {message}")


def value_in_words(form: forms.Form, name: str) -> str:
    """What a form shows in a field, as a person would say it: the word of a choice, a number with its unit."""
    field, value = form.fields[name], form[name].value()
    if isinstance(field, forms.BooleanField):
        return gettext("yes") if value and value != "false" else gettext("no")
    if isinstance(field, forms.ChoiceField):
        return str(dict(flatten_choices(field.choices)).get(value, value or ""))
    text = "" if value is None else str(value)
    unit = quantities.symbol(field.dimension, form.units) if isinstance(field, QuantityField) else ""
    return quantities.with_unit(text, unit) if _PLAIN.fullmatch(text.strip()) else text
