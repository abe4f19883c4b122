"""The limits of a felling plan, each with its verdict; the page names the ruling one first."""

from __future__ import annotations

import math
from collections.abc import Iterator

from treecore.conductor import clearance
from treecore.estimate import Estimate, Kind, exactly, product, times
from treecore.felling.ground import fit_limits, notch_limits, people_limits, slope_limits
from treecore.felling.guylimits import guy_limits
from treecore.felling.hinge import HingeWood, bypass_closes
from treecore.felling.inputs import FellingInput
from treecore.felling.lines import line_limits
from treecore.felling.sawing import cut_sequence, longest_cut
from treecore.findings import everywhere, on_felling, undrawn_conductor
from treecore.schools import constant, school
from treecore.verdict import NOTHING, About, Limit, Verdict, held, judge
from treecore.workzone import Ground

Figures = dict[str, Estimate]


def limits_of(plan: FellingInput, e: Figures, ground: Ground, wood: HingeWood) -> tuple[Limit, ...]:
    """Hold a plan against every limit.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    e : dict of Estimate
        Its computed quantities by name. [SI]
    ground : Ground
        The ground its lay needs. [m]
    wood : HingeWood
        What is left of the hinge.
    """
    parts = (
        _lines(plan),
        everywhere(plan.seen, plan.tree),
        on_felling(plan.seen, plan.zone, plan.wedges.count, plan.tree.stands.high),
        fit_limits(plan, ground),
        people_limits(plan),
        slope_limits(plan, ground),
        notch_limits(plan),
        _escapes(plan, ground, e["side_moment"]),
        line_limits(plan, e, ground),
        guy_limits(plan, e, wood),
        _bypass(plan, e, wood),
        _saw(plan, e, ground),
        _wind(plan, e),
        _strength(plan, e),
        _hinge(plan, e, wood),
        _closing(plan, e),
        _schools(plan, e),
        _wedges(plan, e),
    )
    return tuple(limit for part in parts for limit in part)


def _lines(plan: FellingInput) -> Iterator[Limit]:
    for conductor in plan.conductors:
        yield clearance(conductor, plan.tree, plan.site.tree_x, plan.site.tree_y)
    yield from undrawn_conductor(plan.seen, bool(plan.conductors))


def _escapes(plan: FellingInput, ground: Ground, side: Estimate) -> Iterator[Limit]:
    need = constant("escape_length").value
    clear = [path.clear >= need for path in ground.escapes]
    verdict = Verdict.WITHIN if all(clear) else Verdict.NEAR if any(clear) else Verdict.OVER
    shorter = min(ground.escapes, key=lambda path: path.clear)
    yield Limit(
        "escape",
        verdict,
        exactly(shorter.clear, Kind.ESTIMATED),
        exactly(need, Kind.ASSUMED),
        About(name=shorter.stopped_by),
    )
    leans = abs(side.value) > side.sd  # a moment within one standard deviation of nothing has no side
    if leans and plan.escape not in ("", ground.better_escape):
        yield Limit("escape_side", Verdict.OVER, None, None, About(side=plan.escape))


def _by_margin(margin: Estimate) -> Verdict:
    return Verdict.WITHIN if margin.low >= 0.0 else Verdict.NEAR if margin.value >= 0.0 else Verdict.OVER


def _signed(key: str, needed: Estimate, available: Estimate, margin: Estimate, about: About) -> Limit:
    """Judge by the margin: both sides share their uncertain inputs."""
    return Limit(key, _by_margin(margin), needed, available, about)


def _hinge(plan: FellingInput, e: Figures, wood: HingeWood) -> Iterator[Limit]:
    hinge = exactly(wood.mean)  # what a cut past the apex has left
    tip = exactly(e["available"].value - e["tip_margin"].value, Kind.ESTIMATED)
    dead = About(why="no_wedges") if not plan.tree.condition.wedges else NOTHING
    yield _signed("tip", tip, e["available"], e["tip_margin"], dead)
    shut = About(why="shut") if e["thick"].value < e["thin"].value else NOTHING
    yield held("thin", hinge, e["thin"], shut)
    if e["tip_margin"].value > 0.0:
        # The margin decides, as for tipping; the thickness is what a person can change.
        verdict = _by_margin(e["margin"])
        yield Limit("thick", verdict, hinge, e["thick"], dead if shut is NOTHING else shut)


def _closing(plan: FellingInput, e: Figures) -> Iterator[Limit]:
    closing = e["closing"]
    # Whatever school: a notch that may close before the weight commits tears the hinge.
    early = Verdict.OVER if e["commit_margin"].low < 0.0 else Verdict.WITHIN
    yield Limit("commit", early, closing, e["commit"])
    parts = e["parts_margin"]
    yield Limit(
        "parts",
        Verdict.WITHIN if parts.low >= 0.0 else Verdict.OVER if parts.value < 0.0 else Verdict.NEAR,
        Estimate(
            e["commit"].value + parts.value, e["commit"].value + parts.low, e["commit"].value + parts.high, Kind.ASSUMED
        ),
        e["commit"],
    )
    least = school("closing", "back_lean")
    if _leans(plan)[0] < 0.0:
        late = closing.value >= least.usual
        yield Limit(
            "close_school",
            Verdict.WITHIN if late else Verdict.NEAR,
            closing,
            exactly(least.usual, Kind.ASSUMED),
            About(name=least.name),
        )
    if plan.cuts.notch_school != "open":
        return  # the other schools accept a notch that closes early
    above = e["ground"].value - constant("above_ground").value
    late = closing.value >= above
    yield Limit("early", Verdict.WITHIN if late else Verdict.NEAR, closing, exactly(above, Kind.ASSUMED))


def _range(key: str, value: float, low: float, high: float, name: str) -> Limit:
    allowed = exactly(low if value < low else high, Kind.ASSUMED)
    verdict = Verdict.WITHIN if low - 1e-6 <= value <= high + 1e-6 else Verdict.NEAR
    return Limit(key, verdict, exactly(value), allowed, About(name=name))


def _schools(plan: FellingInput, e: Figures) -> Iterator[Limit]:
    cuts = plan.cuts
    depth, notch = school("depth", cuts.depth_school), school("notch", cuts.notch_school)
    back = school("backcut", cuts.notch_school)
    low, high = thickness_range(plan)
    yield _range("depth_school", cuts.depth / cuts.along, depth.low, depth.high, depth.name)
    yield _range("opening_school", cuts.opening, notch.low, notch.high, notch.name)
    yield _range("hinge_school", cuts.hinge, low, high, school("thickness", cuts.thickness_school).name)
    below = cuts.rise < 0.0
    limit = _range("rise_school", cuts.rise, back.low, back.high, back.name)
    yield limit if not below else Limit("rise_below", Verdict.OVER, exactly(cuts.rise), exactly(0.0))


def thickness_range(plan: FellingInput) -> tuple[float, float]:
    """Range the chosen school gives for the hinge thickness [m].

    Parameters
    ----------
    plan : FellingInput
        The plan; schools by share take the diameter at breast height.
    """
    chosen = school("thickness", plan.cuts.thickness_school)
    scale = plan.tree.diameter.value if chosen.dimension == "share" else 1.0
    return chosen.low * scale, chosen.high * scale


def _wedges(plan: FellingInput, e: Figures) -> Iterator[Limit]:
    wedges = plan.wedges
    if wedges.count == 0:
        return
    if not plan.tree.condition.wedges:
        yield Limit("wedge_dead", Verdict.OVER, exactly(wedges.count), exactly(0.0))
        return
    room, kerf = _room_needed(plan), constant("kerf")
    wall = exactly((plan.cuts.along - plan.cavity) / 2.0)
    if plan.cavity and wall.value < room.value:
        yield Limit("wedge_hollow", Verdict.OVER, wall, room)
    yield held("wedge_room", exactly(plan.cuts.room), room)
    if wedges.starts > kerf.value and wedges.sort.struck:
        yield Limit("wedge_start", Verdict.OVER, exactly(wedges.starts), kerf)
    if plan.lines and e["pull_along"].value >= e["needed"].high:
        return  # the line does the work; the wedges only follow it
    reach = exactly(wedges.reach)
    yield held("wedge_lift", e["lift"], reach)
    force = wedges.sort.force
    yield held("wedge_force", e["wedge_each"], force)


def _room_needed(plan: FellingInput) -> Estimate:
    """Wood a wedge needs behind the hinge, and the bar beside it where the saw stays in the cut [m]."""
    room, bar = constant("wedge_room"), constant("bar_width")
    if plan.saw.pattern != "straight":
        return room
    return Estimate(room.value + bar.value, room.low + bar.low, room.high + bar.high, Kind.ASSUMED)


def _leans(plan: FellingInput) -> tuple[float, float]:
    turn, lean = plan.tree.lean_azimuth - plan.lay, math.tan(plan.tree.lean)
    return lean * math.cos(turn), lean * math.sin(turn)


def _bypass(plan: FellingInput, e: Figures, wood: HingeWood) -> Iterator[Limit]:
    cuts = plan.cuts
    if cuts.bypass <= 0.0:
        return
    kerf, lean = constant("kerf"), math.atan(_leans(plan)[0])
    value, low, high = (bypass_closes(cuts.bypass, k) + lean for k in (kerf.value, kerf.low, kerf.high))
    closes = Estimate(value, low, high, Kind.ESTIMATED)
    side = e["s_lean"].value + e["s_crown"].value + e["s_oval"].value
    lean_side = "right" if side > 0.0 else "left"
    early = closes.low < min(e["commit"].high, e["closing"].value)
    worse = early or cuts.bypass_side == lean_side
    yield Limit(
        "bypass_lean" if cuts.bypass_side == lean_side else "bypass",
        Verdict.OVER if worse else Verdict.NEAR,
        closes,
        e["commit"],
        About(side=cuts.bypass_side),
    )


def _saw(plan: FellingInput, e: Figures, ground: Ground) -> Iterator[Limit]:
    cuts, saw = plan.cuts, plan.saw
    if cuts.slope > constant("back_slope").value:
        yield Limit(
            "back_slope",
            Verdict.OVER,
            exactly(cuts.slope),
            constant("back_slope"),
            About(factor=1.0 / math.cos(cuts.slope)),
        )
    side = e["side_moment"].value
    most = longest_cut(cut_sequence(cuts, saw, side >= 0.0, (plan.escape or ground.better_escape) == "left"))
    need = exactly(most.bar, Kind.ESTIMATED)
    bar = None if saw.bar is None else exactly(saw.bar)
    fits = Verdict.NOT_KNOWN if bar is None else Verdict.OVER if need.value > bar.value else Verdict.WITHIN
    yield Limit("bar", fits, need, bar, About(role=most.key))
    yield held("split", e["split"], exactly(1.0, Kind.ASSUMED))
    stance = school("position", saw.position)
    yield _range("position", cuts.stump, stance.low, stance.high, stance.name)


def _wind(plan: FellingInput, e: Figures) -> Iterator[Limit]:
    """What gusts do: use up what is left, start the tree early, slacken the line. A wind nobody gave is not known."""
    if plan.wind is None:
        yield Limit("wind_unknown", Verdict.NOT_KNOWN, None, e["gust"])
        return
    if e["gust"].value > 0.0:  # else nothing is left over even in a calm: tipping or the hinge says so
        wind = times(constant("gust_factor"), plan.wind)
        # Tipping and the hinge carry the intervals of everything else, this gust counted.
        verdict = judge(wind, exactly(e["gust_here"].value))
        yield Limit("gust", verdict, wind, e["gust_here"])
    blown, back = e["wind_with"], e["held_back"]
    if plan.saw.pattern != "bore" and back.value + blown.value > 0.0 > back.low:
        yield Limit(
            "early_move",
            Verdict.OVER if back.value < 0.0 else Verdict.NEAR,
            blown,
            exactly(back.value + blown.value, Kind.ESTIMATED),
        )
    pull = e["pull_along"]
    if plan.lines and blown.high > pull.low:
        yield Limit("line_slack", Verdict.NEAR, blown, pull)


def _strength(plan: FellingInput, e: Figures) -> Iterator[Limit]:
    """Root plate under the pull, hinge sheared by it, and leans that say different things."""
    if plan.lines or plan.guy is not None:
        holds = product(constant("anchorage"), e["stem_mass"])
        yield held("root_plate", e["root_moment"], holds)
    if plan.lines:
        allowed = product(plan.tree.kind.shear, plan.tree.condition.strength)
        yield held("shear", e["shear"], allowed)
    if _leans_apart(plan):
        yield Limit("leans", Verdict.NEAR, None, None)


def _leans_apart(plan: FellingInput) -> bool:
    """Whether stem and plumbed crown lean to opposite sides, each by more than half a metre."""
    tree = plan.tree
    if tree.crown_east is None or tree.crown_north is None:
        return False
    out = math.tan(tree.lean) * tree.height.value / 2.0
    crown = math.hypot(tree.crown_east, tree.crown_north)
    along = tree.crown_east * math.sin(tree.lean_azimuth) + tree.crown_north * math.cos(tree.lean_azimuth)
    return out > 0.5 and crown > 0.5 and along < -0.5 * crown
