"""The felling of a tree: cuts, wedges, lines, pulling system, the log after it."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.document.fields import declared, ident


@dataclass(frozen=True, slots=True, kw_only=True)
class TackleEntry:
    """What a line is made of, where it is made fast, and who pulls it."""

    strength_N: float | None = declared(None, label="Rope breaks at, new", dimension="force", range="rope_strength")
    owned_m: float | None = declared(None, label="Rope owned", dimension="length", range="rope_length")
    knot: str = declared("unknown", label="Made fast to the tree by", choices="line_knots", closed=True)
    gear_N: float | None = declared(None, label="Weakest item of gear", dimension="force", range="rating")
    rating_N: float | None = declared(None, label="Anchor may carry", dimension="force", range="rating")
    trunk_m: float | None = declared(None, label="Anchor tree’s trunk", dimension="girth", range="anchor_trunk")
    sling_m: float = declared(0.5, label="Sling up the anchor tree", dimension="length", range="sling_up", column="")
    design_school: str = declared(
        "5", label="Design factor", choices="designs", closed=True, core="design", column="/line_design"
    )
    by: str = declared("", label="Pulled by", choices="pullers", closed=True)
    people: int = declared(2, label="People on the rope", range="people_on_rope")


@dataclass(frozen=True, slots=True, kw_only=True)
class PullEntry:
    """A pull line."""

    tie_m: float = declared(label="Tied above the ground", dimension="length", range="line_tie")
    azimuth_deg: float = declared(label="Anchor lies at (bearing)", dimension="angle")
    distance_m: float = declared(label="Anchor off by", dimension="length", range="anchor_off")
    anchor_m: float = declared(0.0, label="Anchor higher by", dimension="length", range="anchor_up")
    force_N: float = declared(label="Pull", dimension="force", range="line_force")
    tackle: TackleEntry = declared(TackleEntry(), label="What it is made of", column="*")


@dataclass(frozen=True, slots=True, kw_only=True)
class GuyEntry:
    """A guy line."""

    tie_m: float = declared(label="Tied above the ground", dimension="length", range="line_tie")
    azimuth_deg: float = declared(label="Anchor lies at (bearing)", dimension="angle")
    distance_m: float = declared(label="Anchor off by", dimension="length", range="anchor_off")
    anchor_m: float = declared(0.0, label="Anchor higher by", dimension="length", range="anchor_up")
    limit_N: float = declared(label="Carries", dimension="force", range="line_limit")
    tended: bool = declared(False, label="Tended while it falls")
    taut: bool = declared(False, label="Taut before the cut")
    tackle: TackleEntry = declared(TackleEntry(), label="What it is made of", column="*")


@dataclass(frozen=True, slots=True, kw_only=True)
class WedgesEntry:
    """Wedges behind the hinge."""

    count: int = declared(0, label="Wedges", range="wedge_count")
    stacked: int = declared(1, label="Stacked", range="wedge_stacked")
    rise_m: float | None = declared(None, label="Each lifts", dimension="cut", range="wedge_rise")
    tip_m: float | None = declared(None, label="Tip thick", dimension="cut", range="wedge_tip")
    kind: str = declared("plastic", label="Kind of wedge", choices="wedge_kinds", closed=True)
    place_deg: float = declared(0.0, label="Driven aside by", dimension="angle", range="wedge_place")


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

    lay_deg: float = declared(label="Lay (bearing)", dimension="angle", range="bearing", core="plan.lay")
    stump_m: float | None = declared(None, label="Stump", dimension="cut", range="stump")
    along_m: float | None = declared(None, label="Along the lay", dimension="girth", range="at_stump")
    across_m: float | None = declared(None, label="Across the lay", dimension="girth", range="at_stump")
    depth_m: float = declared(label="Notch depth", dimension="cut")
    opening_deg: float = declared(label="Notch opens", dimension="angle", range="felling_opening")
    hinge_m: float = declared(label="Hinge", dimension="cut")
    rise_m: float = declared(label="Back cut above the apex", dimension="cut", range="back_cut_rise")
    taper_m: float = declared(0.0, label="Hinge thicker to the right", dimension="cut")
    bypass_m: float = declared(0.0, label="Notch cuts run past", dimension="cut", range="notch_bypass")
    bypass_side: str = declared("", label="Past on", choices="sides", closed=True)
    back_slope_deg: float = declared(
        0.0, label="Back cut slopes up", dimension="angle", range="back_cut_slope", core="slope"
    )
    notch_school: str = declared("conventional", label="Kind of notch", choices="notch_schools", closed=True)
    depth_school: str = declared("chord80", label="Notch depth by", choices="depth_schools", closed=True)
    thickness_school: str = declared("tenth", label="Hinge by", choices="thickness_schools", closed=True)
    zone_school: str = declared("1.5", label="Work zone", choices="zone_schools", closed=True, core="plan.zone")
    first_school: str = declared("sloping", label="First cut", choices="first_schools", closed=True, core="saw.first")
    pattern_school: str = declared(
        "straight", label="Back cut", choices="pattern_schools", closed=True, core="saw.pattern"
    )
    position_school: str = declared(
        "kneeling", label="Cutting position", choices="position_schools", closed=True, core="saw.position"
    )
    bar_m: float | None = declared(None, label="Bar", dimension="length", range="guide_bar", core="saw.bar")
    nicks: bool = declared(False, label="Nicks at the hinge’s ends", core="saw.nicks")
    escape_side: str = declared("", label="Way out on", choices="sides", closed=True, core="plan.escape")
    wedges: WedgesEntry = declared(WedgesEntry(), label="Wedges", column="wedge_*")
    pull: PullEntry | None = declared(None, label="Pull line", column="pull_*")
    guy: GuyEntry | None = declared(None, label="Guy line", column="guy_*")
    system: SystemEntry | None = declared(None, label="Pulling system")
    log: LogEntry | None = declared(None, label="Log")
    wind_m_s: float | None = declared(None, label="Wind", dimension="speed", range="felling_wind", core="plan.wind")
    wind_from_deg: float | None = declared(
        None, label="Wind from", dimension="angle", range="bearing", core="plan.wind_from"
    )
    after_picks: int = declared(0, label="Felled after picks", range="picks", core="")
