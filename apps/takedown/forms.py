"""The form of a pick."""

from django import forms

from apps.takedown.planner import ROLES, USUAL
from cantrel import quantities
from cantrel.forms import QuantityField, UnitsForm

CHOSEN = ("method", "cut", "device_kind", "knot", "sling_as", "design_school", *ROLES)
SIZES = {"at_m": "length", "tie_m": "length", "slack_m": "offset", "run_m": "length"}


class PickForm(UnitsForm):
    """One pick: where it is cut, how it is taken, what holds it, where the climber is."""

    picked = forms.IntegerField(widget=forms.HiddenInput, required=False)
    view = forms.IntegerField(min_value=-720, max_value=1080, required=False, label="Facing (bearing)")
    member = forms.ChoiceField(required=False, label="Cut on")
    at_m = QuantityField(dimension="length", label="At, up the stem or out from the union")
    method = forms.ChoiceField(label="How it is taken")
    cut = forms.ChoiceField(label="Cut")
    tie_m = QuantityField(dimension="length", label="Tied, from the cut")
    second_tie_m = QuantityField(dimension="length", required=False, label="Second tie, from the cut")
    slack_m = QuantityField(dimension="offset", label="Slack")
    held = forms.ChoiceField(
        choices=[("lock", "locked off"), ("soft", "held softly"), ("run", "let run")], label="Held"
    )
    run_m = QuantityField(dimension="length", label="Run")
    point_member = forms.ChoiceField(required=False, label="Rigging point on")
    point_m = QuantityField(dimension="length", required=False, label="Rigging point at (empty for none)")
    fork = forms.BooleanField(required=False, label="A natural fork, no block")
    device_kind = forms.ChoiceField(label="Device")
    wraps = forms.FloatField(min_value=0, max_value=4, label="Wraps")
    device_east = QuantityField(dimension="length", label="Device, east of the stem")
    device_north = QuantityField(dimension="length", label="Device, north of the stem")
    rope = forms.ChoiceField(required=False)
    knot = forms.ChoiceField(label="Tied with")
    sling = forms.ChoiceField(required=False)
    sling_as = forms.ChoiceField(label="Sling set")
    block = forms.ChoiceField(required=False)
    connector = forms.ChoiceField(required=False)
    leg = forms.ChoiceField(required=False, label="Bridle leg")
    device = forms.ChoiceField(required=False, label="Device, item")
    design_school = forms.ChoiceField(label="Design factor")
    landing = forms.CharField(max_length=120, required=False, label="Comes to")
    handlers = forms.CharField(max_length=120, required=False, label="Who handles it")
    talks = forms.CharField(max_length=120, required=False, label="Who talks to whom")
    stance_member = forms.ChoiceField(required=False, label="Climber stands on")
    stance_m = QuantityField(dimension="length", required=False, label="Stands at (empty for none)")
    tie_member = forms.ChoiceField(required=False, label="Climber tied in to")
    tie_in_m = QuantityField(dimension="length", required=False, label="Tied in at")
    line_m = QuantityField(dimension="length", required=False, label="Climbing line")

    aliases = {
        "cut": "at_m", "tie": "tie_m", "slack": "slack_m", "run": "run_m", "rigging_point": "point_m", "tie_in": "tie_in_m", "stance": "stance_m",
        "climber_line": "line_m", "second_tie": "second_tie_m",
        "tie_at": "tie_in_m", "stance_at": "stance_m",
    }  # fmt: skip

    def __init__(self, *args, choices, entry=None, **kwargs):
        super().__init__(*args, stored=stored(entry or {}), **kwargs)
        for name in CHOSEN:
            self.fields[name].choices = choices[name]
        for name in ("member", "point_member", "stance_member", "tie_member"):
            self.fields[name].choices = choices["members"]

    def clean(self):
        values = super().clean()
        if values.get("stance_m") is not None and values.get("tie_in_m") is None and "tie_in_m" not in self.errors:
            self.add_error("tie_in_m", "A climber on the tree is tied in: say where.")
        return values

    def refuse(self, error):
        """Gear is named at its field; the rest where the core's name points."""
        if error.field in self.fields and error.field not in self.aliases:
            self.add_error(error.field, quantities.explain(error, self.units))
        else:
            super().refuse(error)


class CutForm(UnitsForm):
    """A new cut, typed: from the keyboard, or from a tape held against the stem."""

    new_member = forms.ChoiceField(required=False, label="New cut on")
    new_at_m = QuantityField(dimension="length", label="At")

    aliases = {"cut": "new_at_m", "pick": "new_at_m"}

    def __init__(self, *args, members, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["new_member"].choices = members


GROUPS = (
    ("The piece", ("member", "at_m", "method", "cut", "tie_m", "second_tie_m")),
    ("Rope and device", ("point_member", "point_m", "fork", "slack_m", "held", "run_m", "device_kind", "wraps", "device_east", "device_north")),
    ("Gear", ("rope", "knot", "sling", "sling_as", "block", "connector", "leg", "device", "design_school")),
    ("On the ground", ("landing", "handlers", "talks")),
    ("Climber", ("stance_member", "stance_m", "tie_member", "tie_in_m", "line_m")),
)  # fmt: skip
PLAIN = (
    "member",
    "at_m",
    "method",
    "cut",
    "tie_m",
    "slack_m",
    "held",
    "run_m",
    "device_kind",
    "wraps",
    "knot",
    "sling_as",
    "design_school",
    "second_tie_m",
    "landing",
    "handlers",
    "talks",
)


def stored(entry):
    """A pick's entry as the form shows it."""
    point, climber, place = (
        entry.get("point") or {},
        entry.get("climber") or {},
        entry.get("device_at") or (0.0, 0.0, 1.0),
    )
    values = {**USUAL, **{k: entry[k] for k in (*PLAIN, *ROLES) if k in entry}}
    values |= {"point_member": point.get("member", ""), "point_m": point.get("at_m"), "fork": point.get("fork", False)}
    values |= {
        "stance_member": climber.get("stance_member", ""),
        "stance_m": climber.get("stance_m"),
        "tie_member": climber.get("tie_member", ""),
        "tie_in_m": climber.get("tie_m"),
    }
    return values | {"line_m": climber.get("line_m", 45.0), "device_east": place[0], "device_north": place[1]}


def entry_of(values, before):
    """A typed pick as the document's entry."""
    entry = {k: v for k, v in before.items() if k not in ("point", "climber", *ROLES, *PLAIN)} | {
        k: values[k] for k in PLAIN if values[k] not in (None, "") or k == "member"
    }
    entry |= {k: values[k] for k in ROLES if values[k]} | {
        "device_at": [values["device_east"], values["device_north"], (before.get("device_at") or (0, 0, 1.0))[2]]
    }
    if values["point_m"] is not None:
        entry["point"] = {"member": values["point_member"], "at_m": values["point_m"], "fork": values["fork"]}
    if values["stance_m"] is not None:
        entry["climber"] = {
            "stance_member": values["stance_member"], "stance_m": values["stance_m"], "tie_member": values["tie_member"], "tie_m": values["tie_in_m"],
            "line_m": values["line_m"] or 45.0,
        }  # fmt: skip
    return entry
