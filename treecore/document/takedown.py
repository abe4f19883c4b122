"""The takedown of a tree: how the climber gets up, and its picks in order."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.document.fields import declared, ident

Two = tuple[float, float]
Three = tuple[float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class WoodEntry:
    """A place on this tree's wood, in another tree, or anywhere: where a rope hangs, is redirected or made fast."""

    member: str = declared("", label="Limb, empty for the stem")
    tree: str = declared("", label="Another tree of the site")
    at_m: float | None = declared(None, label="Up the stem, or out from the union", dimension="length")
    place_m: Three | None = declared(None, label="East, north and height from the stem's foot", dimension="length")
    fork: bool = declared(False, label="A natural fork, no block")
    efficiency: float = declared(0.95, label="What a block passes on over half a turn", range="block_efficiency")


@dataclass(frozen=True, slots=True, kw_only=True)
class SecondTieEntry:
    """A second tie-in of the climber."""

    member: str = declared("", label="Second tie-in on")
    tree: str = declared("", label="Second tie-in in another tree")
    at_m: float = declared(label="Second tie-in at (empty for none)", dimension="length")


@dataclass(frozen=True, slots=True, kw_only=True)
class ClimberEntry:
    """Where the climber stands and is tied in while a piece is cut."""

    stance_member: str = declared("", label="Climber stands on", choices="members")
    stance_m: float = declared(
        label="Stands at (empty for none)", dimension="length", range="on_tree", core="stance_at"
    )
    side_deg: float | None = declared(
        None, label="On its side (bearing, empty: behind or right of the piece)", dimension="angle", widget="bearing"
    )
    tie_member: str = declared("", label="Climber tied in to")
    tie_tree: str = declared("", label="Tied in to another tree", core="tree")
    tie_m: float = declared(label="Tied in at", dimension="length", range="on_tree", core="tie_at")
    line_m: float = declared(45.0, label="Climbing line", dimension="length", range="climbing_line")
    based: bool = declared(False, label="Line anchored at the base")
    lanyard: bool = declared(True, label="Lanyard round the wood as well")
    second: SecondTieEntry | None = declared(None, label="Second tie-in")
    fallback: str = declared("", label="If the top is worse than it looked", most=160, core="")


@dataclass(frozen=True, slots=True, kw_only=True)
class AccessEntry:
    """How the climber gets up and down."""

    way: str = declared("throw", label="Up by", choices="ways", closed=True)
    member: str = declared("", label="Line over", choices="members")
    at_m: float | None = declared(None, label="Over it at", dimension="length", range="on_tree")
    anchor: str = declared("saver", label="Anchored", choices="anchors", closed=True)
    line_m: float | None = declared(None, label="Climbing line", dimension="length", range="climbing_line")
    isolated: bool = declared(False, label="One branch alone under the line")
    tested: bool = declared(False, label="Tested with two people’s weight")
    spurs: bool = declared(False, label="Spurs worn (removals only)")
    down: str = declared("", label="Way down", most=160, core="")
    fallback: str = declared("", label="If the top is worse than it looked", most=160, core="")


PIECE, ROPE, CUT, REDIRECT, GEAR = "piece", "rope", "cut", "redirect", "gear"
GROUND, WEIGHED, CLIMBER = "ground", "weighed", "climber"
HINGED, FREE, BRIDLE = ("cut", "hinge reversed"), ("method", "free"), ("method", "bridle")
TWO, SPEED, FAR = ("method", "both bridle"), ("method", "speed"), ("method", "speed drift")


@dataclass(frozen=True, slots=True, kw_only=True)
class PickEntry:
    """One pick: where it is cut, how it is taken, what holds it, where it goes, where the climber is."""

    id: str = ident()
    name: str = declared("", label="Name")
    member: str = declared("", label="Cut on", choices="members", part=PIECE, core="at.member")
    at_m: float = declared(
        label="At, up the stem or out from the union", dimension="length", part=PIECE, core="at.along"
    )
    method: str = declared("butt", label="How it is taken", choices="methods", part=PIECE)
    cut: str = declared("hinge", label="Cut", choices="cuts", part=PIECE, core="cut.key")
    bearing_deg: float | None = declared(
        None, label="Notch faces (bearing, empty: as it lies)", widget="bearing", dimension="angle", part=PIECE
    )
    tie_m: float = declared(0.5, label="Tied, from the cut", must=True, dimension="length", part=PIECE)
    second_tie_m: float | None = declared(
        None, label="Second tie, from the cut", dimension="length", part=PIECE, asked=TWO
    )
    head_m: float = declared(
        1.5, label="Bridle’s head above the piece", dimension="length", range="bridle_head", part=PIECE, asked=BRIDLE
    )
    setup: str = declared("", label="Set-up it is taken on (a name, shared by picks)", most=60, part=ROPE, core="")
    point: WoodEntry | None = declared(None, label="Rigging point", part=ROPE, widget="wood point fork", core="")
    slack_m: float = declared(0.0, label="Slack", must=True, dimension="offset", range="rope_slack", part=ROPE)
    pretension_N: float = declared(0.0, label="Tight before the cut", dimension="force", range="pretension", part=ROPE)
    held: str = declared("soft", label="Held", choices="held", part=ROPE)
    run_m: float = declared(
        2.0, label="Let run, before the hand closes", must=True, dimension="length", range="let_run", part=ROPE
    )
    device_kind: str = declared("bollard", label="Device", choices="devices", part=ROPE, core="device")
    wraps: float = declared(2.0, label="Wraps", must=True, part=ROPE, asked=("device_kind", "bollard drum trunk"))
    setting: int = declared(
        2, label="Setting of the device", choices="settings", part=ROPE, asked=("device_kind", "intree")
    )
    device_at: Three | None = declared(
        None,
        label="Device",
        dimension="length",
        part=ROPE,
        widget="spot device",
        must=True,
        core="device_place",
        asked=("device_on", ""),
    )
    device_on: str = declared(
        "", label="Device stands at (a place of the site)", choices="spots", most=80, part=ROPE, core=""
    )
    notch: str = declared("", label="Kind of notch", choices="notches", part=CUT, asked=HINGED, core="cut.notch")
    opening_deg: float | None = declared(
        None, label="Notch opens (empty: as its kind does)", dimension="angle", range="notch_opening", part=CUT,
        asked=HINGED, core="cut.opening",
    )  # fmt: skip
    tilt_deg: float | None = declared(
        None, label="Hinge line rises to the right, seen the way it faces", dimension="angle", range="hinge_tilt",
        part=CUT, asked=HINGED, core="cut.tilt",
    )  # fmt: skip
    notch_m: float | None = declared(
        None, label="Notch deep (empty: a third)", dimension="cut", range="aloft_cut", part=CUT, asked=HINGED,
        core="cut.depth",
    )  # fmt: skip
    hinge_m: float | None = declared(
        None, label="Hinge thick (empty: a twentieth)", dimension="cut", range="aloft_cut", part=CUT, asked=HINGED,
        core="cut.hinge",
    )  # fmt: skip
    overlap_m: float | None = declared(
        None, label="The two cuts pass each other by (empty: a quarter)", dimension="cut", range="aloft_cut", part=CUT,
        asked=("cut", "step"), core="cut.overlap",
    )  # fmt: skip
    redirect: WoodEntry | None = declared(None, label="Rope led over", part=REDIRECT, widget="wood redirect", core="")
    far_anchor: WoodEntry | None = declared(
        None, label="Second high point", part=REDIRECT, widget="wood far", asked=FAR, core=""
    )
    sag: float = declared(
        0.1,
        label="Sag of a speed line under its load",
        dimension="share",
        range="speed_sag",
        part=REDIRECT,
        asked=SPEED,
    )
    rope: str = declared("", label="Rope", choices="gear rope", part=GEAR, core="")
    knot: str = declared("running_bowline", label="Tied with", choices="knots", part=GEAR)
    sling: str = declared("", label="Sling", choices="gear sling", part=GEAR, core="")
    sling_as: str = declared("choked", label="Sling set", choices="slings", part=GEAR, core="sling")
    block: str = declared("", label="Block or ring", choices="gear block ring", part=GEAR, core="")
    connector: str = declared("", label="Connector", choices="gear connector", part=GEAR, core="")
    device: str = declared("", label="Device, item", choices="gear device", part=GEAR, core="")
    base: str = declared("", label="Sling at the device", choices="gear sling", part=GEAR, core="")
    leg: str = declared("", label="Bridle leg", choices="gear leg", part=GEAR, asked=BRIDLE, core="")
    tag: str = declared("", label="Tag line", choices="gear tag rope", part=GEAR, core="")
    redirect_sling: str = declared("", label="Sling where it is led over", choices="gear sling", part=GEAR, core="")
    redirect_block: str = declared(
        "", label="Block where it is led over", choices="gear block ring", part=GEAR, core=""
    )
    design_school: str = declared("5", label="Design factor", choices="designs", part=GEAR, core="design")
    landing: str = declared("", label="Comes to", most=120, part=GROUND, core="")
    landing_on: str = declared(
        "", label="Put down on (a place of the site)", choices="spots", most=80, part=GROUND, core=""
    )
    landing_m: Two | None = declared(
        None,
        label="Put down",
        empty="under the point",
        dimension="length",
        part=GROUND,
        widget="spot land",
        core="landing",
        asked=("landing_on", ""),
    )
    tag_from_m: Two | None = declared(
        None,
        label="Tag line from",
        empty="beyond the landing",
        dimension="length",
        part=GROUND,
        widget="spot tag",
        core="tag_place",
        asked=("tag_from_on", ""),
    )
    tag_from_on: str = declared(
        "", label="Tag line held from (a place of the site)", choices="spots", most=80, part=GROUND, core=""
    )
    device_from_m: Two | None = declared(
        None,
        label="Person at the device",
        empty="where it is freest",
        dimension="length",
        part=GROUND,
        widget="spot from",
        core="device_from",
        asked=("device_from_on", ""),
    )
    device_from_on: str = declared(
        "", label="Person at the device stands at (a place of the site)", choices="spots", most=80, part=GROUND, core=""
    )
    bed: str = declared("none", label="Falls on", choices="beds", closed=True, part=GROUND, asked=FREE)
    bed_depth_m: float = declared(0.0, label="Bed deep", dimension="offset", part=GROUND, asked=FREE)
    bed_radius_m: float = declared(
        3.0, label="Bed from its middle to its edge", dimension="length", range="bed_radius", part=GROUND, asked=FREE
    )
    handlers: str = declared("", label="Who handles it (names, with commas)", most=120, part=GROUND, core="")
    away: str = declared("", label="Leaves its landing", choices="away", closed=True, part=GROUND)
    capacity_kg: float | None = declared(
        None, label="Crane or machine lifts there", dimension="mass", range="machine_lifts", part=GROUND
    )
    throat_m: float | None = declared(
        None, label="Chipper takes, thick", dimension="cut", range="chipper_throat", part=GROUND
    )
    note: str = declared("", label="Note to the crew", most=200, part=GROUND, core="")
    talks: str = declared("", label="Who talks to whom", most=120, part=GROUND, core="")
    test_lift: bool = declared(False, label="Lifted a little before it is let go", part=WEIGHED)
    weighed_kg: float | None = declared(
        None, label="Weighed, by cell or scale (empty: not weighed)", dimension="mass", range="piece_mass",
        part=WEIGHED, core="weighing.mass",
    )  # fmt: skip
    balanced_m: float | None = declared(
        None, label="Balanced, from the cut, on a test lift", dimension="length", range="piece_balance", part=WEIGHED,
        core="weighing.balance",
    )  # fmt: skip
    lift: bool = declared(False, label="Cut from a lift: nobody hangs in this tree", part=CLIMBER)
    climber: ClimberEntry | None = declared(None, label="Climber", part=CLIMBER, widget="climber", core="")


@dataclass(frozen=True, slots=True, kw_only=True)
class TakedownEntry:
    """A tree's takedown."""

    picks: tuple[PickEntry, ...] = declared(label="Picks, in order", most=120)
    access: AccessEntry | None = declared(None, label="Way up and down")
