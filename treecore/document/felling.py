"""The felling of a tree: cuts, wedges, lines, pulling system, the log after it."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.document.fields import declared, ident


@dataclass(frozen=True, slots=True, kw_only=True)
class TackleEntry:
    """What a line is made of, where it is made fast, and who pulls it."""

    strength_N: float | None = declared(None, label="Its rope breaks at", dimension="force", range="rope_strength")
    owned_m: float | None = declared(None, label="Its rope is", dimension="length", range="rope_length")
    knot: str = declared("unknown", label="Made fast to the tree by", choices="line_knots", closed=True)
    gear_N: float | None = declared(None, label="Weakest gear on it may carry", dimension="force", range="rating")
    rating_N: float | None = declared(None, label="Anchor may carry", dimension="force", range="rating")
    trunk_m: float | None = declared(
        None, label="or the anchor is a tree, thick", dimension="girth", range="anchor_trunk"
    )
    sling_m: float = declared(0.5, label="Sling up the anchor tree", dimension="length", range="sling_up", column="")
    design_school: str = declared(
        "5",
        label="Ropes and anchors carry at most 1 over",
        choices="designs",
        closed=True,
        core="design",
        column="/line_design",
    )
    by: str = declared("", label="Pulled by", choices="pullers", closed=True)
    people: int = declared(2, label="People on the rope", range="people_on_rope")


@dataclass(frozen=True, slots=True, kw_only=True)
class PullEntry:
    """A pull line."""

    tie_m: float = declared(label="Tied above the ground", dimension="length", range="line_tie")
    azimuth_deg: float = declared(label="Towards (bearing)", dimension="fine_angle")
    distance_m: float = declared(label="Anchor from the stem", dimension="length", range="anchor_off")
    anchor_m: float = declared(
        0.0, label="Anchor above the stem's ground", dimension="length", range="anchor_up", must=True
    )
    force_N: float = declared(label="Tension", dimension="force", range="line_force", must=True)
    tackle: TackleEntry = declared(TackleEntry(), label="What it is made of", column="*")


@dataclass(frozen=True, slots=True, kw_only=True)
class GuyEntry:
    """A guy line."""

    tie_m: float = declared(label="Tied above the ground", dimension="length", range="line_tie")
    azimuth_deg: float = declared(label="Towards (bearing)", dimension="fine_angle")
    distance_m: float = declared(label="Anchor from the stem", dimension="length", range="anchor_off")
    anchor_m: float = declared(
        0.0, label="Anchor above the stem's ground", dimension="length", range="anchor_up", must=True
    )
    limit_N: float = declared(label="May carry (leave empty for none)", dimension="force", range="line_limit")
    tended: bool = declared(False, label="Someone lets it out on the word")
    taut: bool = declared(False, label="Set taut before the back cut")
    tackle: TackleEntry = declared(TackleEntry(), label="What it is made of", column="*")


@dataclass(frozen=True, slots=True, kw_only=True)
class WedgesEntry:
    """Wedges behind the hinge."""

    count: int = declared(0, label="Wedges side by side", range="wedge_count", must=True)
    stacked: int = declared(1, label="Stacked", range="wedge_stacked", must=True)
    rise_m: float | None = declared(
        None, label="Lift of one driven home, if not the kind's", dimension="cut", range="wedge_rise"
    )
    tip_m: float | None = declared(
        None, label="Thickness of its tip, if not the kind's", dimension="cut", range="wedge_tip"
    )
    kind: str = declared("plastic", label="Kind of wedge", choices="wedge_kinds", closed=True)
    place_deg: float = declared(
        0.0, label="Driven round to the right of straight behind by", dimension="fine_angle", range="wedge_place"
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class PartEntry:
    """A part of a pulling system: what a rope runs over, is held by, or is pulled with."""

    id: str = ident()
    name: str = declared(label="Name", most=60)
    kind: str = declared(label="Kind", choices="pull_parts")
    x_m: float = declared(label="East", dimension="length", range="site_reach", core="x")
    y_m: float = declared(label="North", dimension="length", range="site_reach", core="y")
    height_m: float = declared(0.5, label="Above its ground", dimension="offset", range="part_up")
    on: str = declared("", label="Hangs on")
    people: int = declared(2, label="People", range="people_on_rope")
    force_N: float = declared(0.0, label="Winch pulls", dimension="force", range="line_force")
    mass_kg: float = declared(2000.0, label="Vehicle", dimension="mass", range="vehicle_mass")
    ground: str = declared("grass", label="Stands on", choices="traction")
    turns: float = declared(0.0, label="Extra turns", range="trunk_turns")
    rating_N: float | None = declared(None, label="May carry", dimension="force", range="rating")
    trunk_m: float | None = declared(None, label="Trunk", dimension="girth", range="anchor_trunk")


@dataclass(frozen=True, slots=True, kw_only=True)
class RopeEntry:
    """A rope of a pulling system, and its way from the load to the hand."""

    id: str = ident()
    name: str = declared(label="Name", most=60)
    path: tuple[str, ...] = declared(label="Its way, from the load to the hand", most=20)
    owned_m: float | None = declared(None, label="Owned", dimension="length", range="rope_length")
    strength_N: float | None = declared(None, label="Breaks at, new", dimension="force", range="rope_strength")
    join: str = declared("none", label="Joined by", choices="joins")
    knot: str = declared("unknown", label="Made fast to the tree by", choices="line_knots", closed=True)


@dataclass(frozen=True, slots=True, kw_only=True)
class SystemEntry:
    """A pulling system of parts and ropes."""

    tie_m: float = declared(label="Tied above the ground", dimension="length", range="line_tie")
    design_school: str = declared("5", label="Design factor", choices="designs", closed=True, core="design")
    takes: float = declared(1.0, label="Of what the hands can give", dimension="share", range="pull_share")
    parts: tuple[PartEntry, ...] = declared(label="Parts", most=40)
    ropes: tuple[RopeEntry, ...] = declared(label="Ropes", most=12)


@dataclass(frozen=True, slots=True, kw_only=True)
class LogEntry:
    """A log on its supports, and where it is cut."""

    from_m: float = declared(label="From, up the stem", dimension="length")
    to_m: float = declared(label="To, up the stem", dimension="length")
    supports_m: tuple[float, ...] = declared(label="Lies on something at, from its butt", dimension="length", most=20)
    cuts_m: tuple[float, ...] = declared((), label="Cut at, from its butt", dimension="length", most=40)
    cross_slope_deg: float = declared(0.0, label="Ground falls across it by", dimension="angle", range="cross_slope")
    spring: str = declared("", label="Bent sideways", choices="sides", closed=True)
    legs: bool = declared(False, label="Bottom limbs still hold it up")


@dataclass(frozen=True, slots=True, kw_only=True)
class FellingEntry:
    """The felling of a tree, or of what picks leave of it."""

    lay_deg: float = declared(label="Lay (bearing)", dimension="fine_angle", range="bearing", core="plan.lay")
    stump_m: float | None = declared(None, label="Cut above the ground", dimension="cut", range="stump", must=True)
    along_m: float | None = declared(None, label="Stem along the lay", dimension="cut", range="at_stump")
    across_m: float | None = declared(None, label="Stem across the lay", dimension="cut", range="at_stump")
    depth_m: float = declared(label="Notch depth", dimension="cut")
    opening_deg: float = declared(label="Notch opening", dimension="fine_angle", range="felling_opening")
    hinge_m: float = declared(label="Hinge thickness", dimension="cut")
    rise_m: float = declared(label="Back cut above the apex", dimension="cut", range="back_cut_rise")
    taper_m: float = declared(0.0, label="Left end thicker by", dimension="cut", must=True)
    bypass_m: float = declared(
        0.0, label="A cut runs past the apex by", dimension="cut", range="notch_bypass", must=True
    )
    bypass_side: str = declared("", label="On which side", choices="sides", closed=True)
    back_slope_deg: float = declared(
        0.0, label="Back cut slopes by", dimension="fine_angle", range="back_cut_slope", core="slope", must=True
    )
    notch_school: str = declared("conventional", label="Kind of notch", choices="notch_schools", closed=True)
    depth_school: str = declared("chord80", label="Depth by", choices="depth_schools", closed=True)
    thickness_school: str = declared("tenth", label="Thickness by", choices="thickness_schools", closed=True)
    zone_school: str = declared("1.5", label="Work zone", choices="zone_schools", closed=True, core="plan.zone")
    first_school: str = declared("sloping", label="First cut", choices="first_schools", closed=True, core="saw.first")
    pattern_school: str = declared(
        "straight", label="Back cut pattern", choices="pattern_schools", closed=True, core="saw.pattern"
    )
    position_school: str = declared(
        "kneeling", label="Cutting position", choices="position_schools", closed=True, core="saw.position"
    )
    bar_m: float | None = declared(None, label="Guide bar", dimension="cut", range="guide_bar", core="saw.bar")
    nicks: bool = declared(False, label="Side nicks at the hinge's ends", core="saw.nicks")
    escape_side: str = declared("", label="Escape path", choices="sides", closed=True, core="plan.escape")
    wedges: WedgesEntry = declared(WedgesEntry(), label="Wedges", column="wedge_*")
    pull: PullEntry | None = declared(None, label="Pull line", column="pull_*")
    guy: GuyEntry | None = declared(None, label="Guy line", column="guy_*")
    system: SystemEntry | None = declared(None, label="Pulling system")
    log: LogEntry | None = declared(None, label="Log")
    wind_m_s: float | None = declared(
        None, label="Mean wind at crown height (0 in a calm)", dimension="speed", range="felling_wind", core="plan.wind"
    )
    wind_from_deg: float | None = declared(
        None,
        label="Wind from (bearing; empty: from anywhere)",
        dimension="angle",
        range="bearing",
        core="plan.wind_from",
    )
    after_picks: int = declared(
        0, label="Felled after so many picks of its takedown (0: whole)", range="picks", core=""
    )
