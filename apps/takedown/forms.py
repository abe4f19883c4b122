"""The forms of a pick, of a new cut, and of the way up."""

import math

from django import forms

from apps.takedown.planner import ROLES, TREE, USUAL, listed, setting, settings_named
from cantrel import quantities
from cantrel.forms import BearingField, QuantityField, UnitsForm
from cantrel.revisions import GONE

CHOSEN = ("method", "cut", "device_kind", "knot", "sling_as", "design_school", "notch", *ROLES)
ON_WOOD = ("point_on", "lead_on", "far_on", "tie_on", "second_on")  # this tree's wood, or another tree


def _length(label, required=False, dimension="length"):
    return QuantityField(dimension=dimension, required=required, label=label)


def _choice(label, **more):
    return forms.ChoiceField(required=False, label=label, **more)


def _said(value):
    """A stored value of an entry in words."""
    if isinstance(value, dict):
        return ", ".join(f"{k} {_said(v)}" for k, v in value.items())
    if isinstance(value, list):
        return " and ".join(_said(v) for v in value)
    return f"{value:g}" if isinstance(value, float) else f"“{value}”" if isinstance(value, str) else str(value)


class PickForm(UnitsForm):
    """One pick: where it is cut, how it is taken, what holds it, where it goes, where the climber is."""

    view = BearingField(low=-720, high=1080, required=False, label="Facing (bearing)")
    member = _choice("Cut on")
    at_m = _length("At, up the stem or out from the union", True)
    method = forms.ChoiceField(label="How it is taken")
    cut = forms.ChoiceField(label="Cut")
    bearing_deg = BearingField(required=False, label="Notch faces (bearing, empty: as it lies)")
    tie_m = _length("Tied, from the cut", True)
    second_tie_m = _length("Second tie, from the cut")
    head_m = _length("Bridle’s head above the piece")
    capacity_kg = _length("Crane or machine lifts there", dimension="mass")
    pretension_N = _length("Tight before the cut", dimension="force")
    slack_m = _length("Slack", True, "offset")
    held = forms.ChoiceField(
        choices=[("lock", "locked off"), ("soft", "held softly"), ("run", "let run")], label="Held"
    )
    run_m = _length("Let run, before the hand closes", True)
    point_on = _choice("Rigging point on")
    point_m = _length("Rigging point at (empty for none)")
    fork = forms.BooleanField(required=False, label="A natural fork, no block")
    lead_on = _choice("Rope led over")
    lead_m = _length("Led over at (empty for straight down)")
    far_on = _choice("Second high point on (drift or speed line)")
    far_m = _length("Second high point at")
    sag = _length("Sag of a speed line under its load", dimension="share")
    device_kind = forms.ChoiceField(label="Device")
    wraps = forms.FloatField(min_value=0, max_value=4, label="Wraps")
    setting = forms.TypedChoiceField(coerce=int, choices=settings_named(), label="Setting of the device")
    device_east = _length("Device, east of the stem", True)
    device_north = _length("Device, north of the stem", True)
    rope = _choice("Rope")
    knot = forms.ChoiceField(label="Tied with")
    sling = _choice("Sling")
    sling_as = forms.ChoiceField(label="Sling set")
    block = _choice("Block or ring")
    connector = _choice("Connector")
    device = _choice("Device, item")
    base = _choice("Sling at the device")
    leg = _choice("Bridle leg")
    tag = _choice("Tag line")
    lead_sling = _choice("Sling where it is led over")
    lead_block = _choice("Block where it is led over")
    design_school = forms.ChoiceField(label="Design factor")
    land_east = _length("Put down, east of the stem (empty: under the point)")
    land_north = _length("Put down, north of the stem")
    tag_east = _length("Tag line from, east of the stem (empty: beyond the landing)")
    tag_north = _length("Tag line from, north of the stem")
    bed = forms.ChoiceField(label="Falls on", choices=listed("beds"))
    bed_depth_m = _length("Bed deep", dimension="offset")
    bed_radius_m = _length("Bed from its middle to its edge")
    notch = forms.ChoiceField(required=False, label="Kind of notch")
    opening = _length("Notch opens (empty: as its kind does)", dimension="angle")
    tilt = _length("Hinge line rises to the right, seen the way it faces", dimension="angle")
    notch_m = _length("Notch deep (empty: a third)", dimension="cut")
    hinge_m = _length("Hinge thick (empty: a twentieth)", dimension="cut")
    overlap_m = _length("The two cuts pass each other by (empty: a quarter)", dimension="cut")
    weighed_kg = _length("Weighed, by cell or scale (empty: not weighed)", dimension="mass")
    balanced_m = _length("Balanced, from the cut, on a test lift")
    landing = forms.CharField(max_length=120, required=False, label="Comes to")
    handlers = forms.CharField(max_length=120, required=False, label="Who handles it (names, with commas)")
    away = forms.ChoiceField(required=False, label="Leaves its landing", choices=listed("away"))
    throat_m = _length("Chipper takes, thick", dimension="cut")
    from_east = _length("Person at the device, east of the stem (empty: where it is freest)")
    from_north = _length("Person at the device, north of the stem")
    test_lift = forms.BooleanField(required=False, label="Lifted a little before it is let go")
    lift = forms.BooleanField(required=False, label="Cut from a lift: nobody hangs in this tree")
    talks = forms.CharField(max_length=120, required=False, label="Who talks to whom")
    stance_member = _choice("Climber stands on")
    stance_m = _length("Stands at (empty for none)")
    side_deg = BearingField(required=False, label="On its side (bearing, empty: behind or right of the piece)")
    tie_on = _choice("Climber tied in to")
    tie_in_m = _length("Tied in at")
    line_m = _length("Climbing line")
    based = forms.BooleanField(required=False, label="Line anchored at the base")
    lanyard = forms.BooleanField(required=False, label="Lanyard round the wood as well")
    second_on = _choice("Second tie-in on")
    second_in_m = _length("Second tie-in at (empty for none)")
    fallback = forms.CharField(max_length=160, required=False, label="If the top is worse than it looked")

    aliases = {
        "cut": "at_m", "tie": "tie_m", "slack": "slack_m", "run": "run_m", "rigging_point": "point_m", "tie_in": "tie_in_m", "stance": "stance_m",
        "climber_line": "line_m", "second_tie": "second_tie_m", "tie_at": "tie_in_m", "stance_at": "stance_m", "second_at": "second_in_m", "lead": "lead_m",
        "far": "far_m", "second_tie_in": "second_in_m", "pretension": "pretension_N", "head": "head_m", "bed_depth": "bed_depth_m",
        "bed_radius": "bed_radius_m", "bearing": "bearing_deg", "capacity": "capacity_kg", "throat": "throat_m", "cut_depth": "notch_m",
        "cut_hinge": "hinge_m", "cut_overlap": "overlap_m", "cut_type": "cut", "cg_beyond": "tie_m", "tie_above": "point_m", "bridle": "second_tie_m",
    }  # fmt: skip

    def __init__(self, *args, choices, entry=None, **kwargs):
        super().__init__(*args, stored=stored(entry or {}), **kwargs)
        self.choices = choices
        for name in CHOSEN:
            self.fields[name].choices = choices[name]
        for name in ("member", "stance_member"):
            self.fields[name].choices = choices["members"]
        for name in ON_WOOD:
            self.fields[name].choices = choices["members"] + choices["trees"]

    def clean(self):
        values = super().clean()
        if values.get("stance_m") is not None and values.get("tie_in_m") is None and "tie_in_m" not in self.errors:
            self.add_error("tie_in_m", "A climber on the tree is tied in: say where.")
        pairs = (("land_east", "land_north"), ("tag_east", "tag_north"), ("from_east", "from_north"))
        for one, other in (*pairs, *((b, a) for a, b in pairs)):
            if values.get(one) is not None and values.get(other) is None and other not in self.errors:
                self.add_error(other, "A place has two numbers: say how far east and how far north.")
        return values

    def clash(self, name, theirs, key):
        """Say at a field what somebody else has put there since; what was typed stays."""
        said = _said(theirs) if theirs is not GONE else "nothing"
        at = name if name in self.fields else None
        self.add_error(
            at, f"Somebody else changed {key.replace('_', ' ')} to {said} meanwhile. Save again to keep yours."
        )

    def refuse(self, error):
        """Gear is named at its field; the rest where the core's name points."""
        if error.field in self.fields and error.field not in self.aliases:
            self.add_error(error.field, quantities.explain(error, self.units))
        else:
            super().refuse(error)


class CutForm(UnitsForm):
    """A new cut, typed: from the keyboard, or from a tape held against the stem."""

    new_member = _choice("New cut on")
    new_at_m = _length("At", True)

    aliases = {"cut": "new_at_m", "pick": "new_at_m"}

    def __init__(self, *args, members, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["new_member"].choices = members


class AccessForm(UnitsForm):
    """How the climber gets up and down."""

    way = forms.ChoiceField(label="Up by", choices=listed("ways"))
    member = _choice("Line over")
    at_m = _length("Over it at")
    anchor = forms.ChoiceField(label="Anchored", choices=listed("anchors"))
    line_m = _length("Climbing line")
    isolated = forms.BooleanField(required=False, label="One branch alone under the line")
    tested = forms.BooleanField(required=False, label="Tested with two people’s weight")
    spurs = forms.BooleanField(required=False, label="Spurs worn (removals only)")
    down = forms.CharField(max_length=160, required=False, label="Way down")
    fallback = forms.CharField(max_length=160, required=False, label="If the top is worse than it looked")

    aliases = {"at": "at_m", "line": "line_m", "fork": "at_m"}

    def __init__(self, *args, members, **kwargs):
        super().__init__(*args, **kwargs)
        self.fields["member"].choices = members


GROUPS = (
    ("The piece", ("member", "at_m", "method", "cut", "bearing_deg", "tie_m", "second_tie_m", "head_m")),
    ("Rope and device", ("point_on", "point_m", "fork", "slack_m", "pretension_N", "held", "run_m", "device_kind", "wraps", "setting", "device_east", "device_north")),
    ("The cut", ("notch", "opening", "tilt", "notch_m", "hinge_m", "overlap_m")),
    ("Led over, second high point", ("lead_on", "lead_m", "far_on", "far_m", "sag")),
    ("Gear", ("rope", "knot", "sling", "sling_as", "block", "connector", "device", "base", "leg", "tag", "lead_sling", "lead_block", "design_school")),
    ("On the ground", ("landing", "land_east", "land_north", "tag_east", "tag_north", "from_east", "from_north", "bed", "bed_depth_m", "bed_radius_m", "handlers", "away", "capacity_kg", "throat_m", "talks")),
    ("Weighed or lifted to try", ("test_lift", "weighed_kg", "balanced_m")),
    ("Climber", ("lift", "stance_member", "stance_m", "side_deg", "tie_on", "tie_in_m", "line_m", "based", "lanyard", "second_on", "second_in_m", "fallback")),
)  # fmt: skip
# Fields that only some devices ask for: a device holds by its wraps or by its setting.
ONLY_ON = {"wraps": "bollard drum trunk", "setting": "intree"}
# Fields that only some cuts ask for.
ONLY_CUT = {
    "notch": "hinge reversed", "opening": "hinge reversed", "tilt": "hinge reversed", "notch_m": "hinge reversed",
    "hinge_m": "hinge reversed", "overlap_m": "step",
}  # fmt: skip
# Fields that only some ways of taking a piece ask for; what was typed in them is kept while they are out of sight.
ONLY_FOR = {
    "second_tie_m": "both bridle", "head_m": "bridle", "leg": "bridle", "far_on": "speed drift", "far_m": "speed drift",
    "sag": "speed", "bed": "free", "bed_depth_m": "free", "bed_radius_m": "free",
}  # fmt: skip
PLAIN = (
    "member", "at_m", "method", "cut", "notch", "notch_m", "hinge_m", "overlap_m", "tie_m", "slack_m", "held", "run_m", "device_kind", "wraps", "knot", "sling_as", "design_school", "second_tie_m",
    "landing", "handlers", "away", "throat_m", "lift", "test_lift", "talks", "bearing_deg", "head_m", "pretension_N", "sag", "bed", "bed_depth_m", "bed_radius_m", "capacity_kg", "setting", "weighed_kg", "balanced_m",
)  # fmt: skip
TURNS = ("opening", "tilt")  # angles of the notch, in degrees in an entry
# Places on wood in an entry: the fields that say on what and at what height or distance.
PLACES = {"point": ("point_on", "point_m"), "lead": ("lead_on", "lead_m"), "far": ("far_on", "far_m")}


def _on(place, member="member", tree="tree"):
    """A place's choice in a select: a limb's name, or another tree's."""
    return f"{TREE}{place[tree]}" if place.get(tree) else place.get(member, "")


def stored(entry):
    """A pick's entry as the form shows it."""
    climber, nowhere = entry.get("climber") or {}, (None, None)
    landing, tag = entry.get("landing_m") or nowhere, entry.get("tag_from_m") or nowhere
    stands = entry.get("device_from_m") or nowhere
    device, second = entry.get("device_at") or (0.0, 0.0, 1.0), climber.get("second") or {}
    values = {**USUAL, **{k: entry[k] for k in (*PLAIN, *ROLES) if k in entry}}
    for key, (on, at) in PLACES.items():
        place = entry.get(key) or {}
        values |= {on: _on(place), at: place.get("at_m")}
    turns = {k: math.radians(entry[f"{k}_deg"]) if entry.get(f"{k}_deg") else None for k in TURNS}
    return (
        values
        | turns
        | {
            "fork": (entry.get("point") or {}).get("fork", False),
            "land_east": landing[0],
            "land_north": landing[1],
            "tag_east": tag[0],
            "tag_north": tag[1],
            "from_east": stands[0],
            "from_north": stands[1],
            "device_east": device[0],
            "device_north": device[1],
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
            "setting": setting(entry),
        }
    )


SHOWN_AT = {
    "point": "point_m", "lead": "lead_m", "far": "far_m", "climber": "stance_m", "landing_m": "land_east", "tag_from_m": "tag_east",
    "device_from_m": "from_east", "device_at": "device_east", "opening_deg": "opening", "tilt_deg": "tilt",
}  # fmt: skip


def field_of(key):
    """Field of the form that shows a key of an entry."""
    return SHOWN_AT.get(key, key)


def as_typed(form, entry):
    """An entry as its untouched form writes it, so that two of them can be compared key by key."""
    shown = PickForm(units=form.units, choices=form.choices, entry=entry)
    data = {n: shown[n].value() for n in shown.fields}
    plain = PickForm(
        {k: v for k, v in data.items() if v not in (None, False)}, units=form.units, choices=form.choices, entry=entry
    )
    return entry_of(plain.cleaned_data, entry) if plain.is_valid() else entry


def _place(values, on, at):
    """A place as the document writes it: on a member of this tree, or in another."""
    choice = values[on]
    where = {"tree": choice.removeprefix(TREE)} if choice.startswith(TREE) else {"member": choice}
    return where | {"at_m": values[at]}


def entry_of(values, before):
    """A typed pick as the document's entry."""
    dropped = (
        "climber",
        "landing_m",
        "tag_from_m",
        "device_from_m",
        "opening_deg",
        "tilt_deg",
        *PLACES,
        *ROLES,
        *PLAIN,
    )
    entry = {k: v for k, v in before.items() if k not in dropped}
    entry |= {k: values[k] for k in PLAIN if values[k] not in (None, "", False) or k == "member"}
    entry |= {k: values[k] for k in ROLES if values[k]}
    entry |= {f"{k}_deg": math.degrees(values[k]) for k in TURNS if values[k]}
    entry["device_at"] = [values["device_east"], values["device_north"], (before.get("device_at") or (0, 0, 1.0))[2]]
    for key, (on, at) in PLACES.items():
        if values[at] is not None:
            old = {k: v for k, v in (before.get(key) or {}).items() if k not in ("member", "tree", "at_m", "place_m")}
            entry[key] = old | _place(values, on, at)
    if "point" in entry:
        entry["point"]["fork"] = values["fork"]
    if values["land_east"] is not None and values["land_north"] is not None:
        entry["landing_m"] = [values["land_east"], values["land_north"]]
    if values["tag_east"] is not None and values["tag_north"] is not None:
        entry["tag_from_m"] = [values["tag_east"], values["tag_north"]]
    if values["from_east"] is not None and values["from_north"] is not None:
        entry["device_from_m"] = [values["from_east"], values["from_north"]]
    if values["stance_m"] is not None:
        entry["climber"] = _climber(values)
    return entry


def _climber(values):
    tie = _place(values, "tie_on", "tie_in_m")
    where = {"tie_tree": tie["tree"]} if "tree" in tie else {"tie_member": tie["member"]}
    climber = {
        "stance_member": values["stance_member"],
        "stance_m": values["stance_m"],
        "tie_m": values["tie_in_m"],
        "line_m": values["line_m"] or 45.0,
        "based": values["based"],
        "lanyard": values["lanyard"],
    }
    if values["second_in_m"] is not None:
        climber["second"] = _place(values, "second_on", "second_in_m")
    if values["side_deg"] is not None:
        climber["side_deg"] = values["side_deg"]
    return climber | where | ({"fallback": values["fallback"]} if values["fallback"] else {})
