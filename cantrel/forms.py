"""Forms in the person's units: quantities keep every digit typed, and core errors land on their field."""

from django import forms
from django.forms.renderers import TemplatesSetting

from cantrel import quantities
from treecore.errors import CoreError


class FieldBookRenderer(TemplatesSetting):
    """Render every field with our one partial."""

    field_template_name = "_field.html"


class QuantityField(forms.CharField):
    """A number with a unit. Cleans to SI; an untouched field gives back the stored value to the last bit."""

    def __init__(self, dimension, *, doc="", **kwargs):
        self.dimension, self.doc = dimension, doc
        self.system, self.stored = "metric", None
        kwargs.setdefault("max_length", 40)
        super().__init__(**kwargs)
        self.widget.attrs |= {"inputmode": "decimal", "autocomplete": "off", "data-quantity": dimension}

    @property
    def unit(self):
        return quantities.symbol(self.dimension, self.system)

    def start(self, system, stored):
        """Take the person's units and the stored SI value."""
        self.system, self.stored = system, stored
        self.initial = "" if stored is None else quantities.typed(stored, self.dimension, system)
        self.widget.attrs["data-unit"] = self.unit

    def clean(self, value):
        text = super().clean(value)
        if text in self.empty_values:
            return None
        if self.stored is not None and text == self.initial:
            return self.stored
        try:
            return quantities.parse(text, self.dimension, self.system)
        except ValueError as error:
            raise forms.ValidationError(str(error)) from None


class UnitsForm(forms.Form):
    """A form whose quantities are shown and read in the person's units.

    ``stored`` holds SI values and plain choices by field name; ``aliases`` maps the core's names to field names.
    """

    aliases: dict[str, str] = {}

    def __init__(self, *args, units="metric", stored=None, **kwargs):
        self.units = units
        stored = stored or {}
        super().__init__(*args, **kwargs)
        for name, field in self.fields.items():
            if isinstance(field, QuantityField):
                field.start(units, stored.get(name))
            elif name in stored:
                field.initial = stored[name]

    def run(self, action):
        """Call ``action`` with the cleaned values; a core error lands on its field. None if anything is wrong."""
        if not self.is_valid():
            return None
        try:
            return action(self.cleaned_data)
        except CoreError as error:
            self.refuse(error)
            return None

    def refuse(self, error):
        """Put a core error on its field, in the person's units."""
        name = self.aliases.get(error.field, error.field)
        message = quantities.explain(error, self.units)
        if name in self.fields:
            self.add_error(name, message)
        else:
            self.add_error(None, f"{error.field.replace('_', ' ')}: {message}")
