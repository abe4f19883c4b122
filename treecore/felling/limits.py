"""The limits of a felling plan, each with its verdict; the page names the ruling one first."""

from __future__ import annotations

from collections.abc import Iterator

from treecore.conductor import clearance
from treecore.estimate import Estimate, Kind, exactly
from treecore.felling.inputs import FellingInput
from treecore.schools import constant, school
from treecore.verdict import Limit, Verdict, judge
from treecore.workzone import Ground

Figures = dict[str, Estimate]


def limits_of(plan: FellingInput, e: Figures, ground: Ground) -> tuple[Limit, ...]:
    """Hold a plan against every limit.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    e : dict of Estimate
        Its computed quantities by name. [SI]
    ground : Ground
        The ground its lay needs. [m]
    """
    parts = (
        _lines(plan),
        _fit(ground),
        _escapes(ground),
        _hinge(plan, e),
        _closing(plan, e),
        _schools(plan, e),
        _wedges(plan, e),
    )
    return tuple(limit for part in parts for limit in part)


def _lines(plan: FellingInput) -> Iterator[Limit]:
    for conductor in plan.conductors:
        yield clearance(conductor, plan.tree, plan.site.tree_x, plan.site.tree_y)


def _fit(ground: Ground) -> Iterator[Limit]:
    near = exactly(constant("clearance_near").value, Kind.ASSUMED)
    for c in ground.clearances:
        yield Limit(
            key="fit", verdict=c.verdict, demand=exactly(c.gap, Kind.ESTIMATED), allowed=near, dimension="length",
            least=True, concern=1, note=c.target.name,
        )  # fmt: skip
    if not ground.clearances:
        yield Limit(
            key="fit_unknown", verdict=Verdict.NOT_KNOWN, demand=None, allowed=None, dimension="length", concern=1
        )


def _escapes(ground: Ground) -> Iterator[Limit]:
    need = constant("escape_length").value
    clear = [path.clear >= need for path in ground.escapes]
    verdict = Verdict.WITHIN if all(clear) else Verdict.NEAR if any(clear) else Verdict.OVER
    shorter = min(ground.escapes, key=lambda path: path.clear)
    yield Limit(
        key="escape", verdict=verdict, demand=exactly(shorter.clear, Kind.ESTIMATED), allowed=exactly(need, Kind.ASSUMED),
        dimension="length", least=True, concern=2, note=shorter.stopped_by,
    )  # fmt: skip


def _by_margin(margin: Estimate) -> Verdict:
    return Verdict.WITHIN if margin.low >= 0.0 else Verdict.NEAR if margin.value >= 0.0 else Verdict.OVER


def _signed(key: str, needed: Estimate, available: Estimate, margin: Estimate, concern: int) -> Limit:
    """Judge by the margin: both sides share their uncertain inputs."""
    return Limit(
        key=key, verdict=_by_margin(margin), demand=needed, allowed=available, dimension="moment", concern=concern
    )


def _hinge(plan: FellingInput, e: Figures) -> Iterator[Limit]:
    hinge = exactly(plan.cuts.hinge)
    tip = exactly(e["available"].value - e["tip_margin"].value, Kind.ESTIMATED)
    yield _signed("tip", tip, e["available"], e["tip_margin"], 2)
    shut = " shut" if e["thick"].value < e["thin"].value else ""
    yield Limit(
        key="thin" + shut, verdict=judge(hinge, e["thin"], least=True), demand=hinge, allowed=e["thin"], dimension="cut",
        least=True, concern=3,
    )  # fmt: skip
    if e["tip_margin"].value > 0.0:
        # The margin decides, as for tipping; the thickness is what a person can change.
        verdict = _by_margin(e["margin"])
        yield Limit(key="thick" + shut, verdict=verdict, demand=hinge, allowed=e["thick"], dimension="cut", concern=3)


def _closing(plan: FellingInput, e: Figures) -> Iterator[Limit]:
    closing = e["closing"]
    yield Limit(
        key="commit", verdict=_by_margin(e["commit_margin"]), demand=closing, allowed=e["commit"],
        dimension="angle", least=True, concern=3,
    )  # fmt: skip
    if plan.cuts.notch_school != "open":
        return  # the other schools accept a notch that closes early
    above = e["ground"].value - constant("above_ground").value
    late = closing.value >= above
    yield Limit(
        key="early", verdict=Verdict.WITHIN if late else Verdict.NEAR, demand=closing,
        allowed=exactly(above, Kind.ASSUMED), dimension="angle", least=True, concern=6,
    )  # fmt: skip


def _range(key: str, value: float, low: float, high: float, dimension: str, note: str) -> Limit:
    allowed = exactly(low if value < low else high, Kind.ASSUMED)
    verdict = Verdict.WITHIN if low - 1e-6 <= value <= high + 1e-6 else Verdict.NEAR
    return Limit(
        key=key, verdict=verdict, demand=exactly(value), allowed=allowed, dimension=dimension, least=value < low,
        concern=7, note=note,
    )  # fmt: skip


def _schools(plan: FellingInput, e: Figures) -> Iterator[Limit]:
    cuts = plan.cuts
    depth, notch = school("depth", cuts.depth_school), school("notch", cuts.notch_school)
    back = school("backcut", cuts.notch_school)
    low, high = thickness_range(plan)
    yield _range("depth_school", cuts.depth / cuts.along, depth.low, depth.high, "share", depth.name)
    yield _range("opening_school", cuts.opening, notch.low, notch.high, "angle", notch.name)
    yield _range("hinge_school", cuts.hinge, low, high, "cut", school("thickness", cuts.thickness_school).name)
    below = cuts.rise < 0.0
    limit = _range("rise_school", cuts.rise, back.low, back.high, "cut", back.name)
    yield limit if not below else Limit(
        key="rise_below", verdict=Verdict.OVER, demand=exactly(cuts.rise), allowed=exactly(0.0), dimension="cut",
        least=True, concern=4,
    )  # fmt: skip


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
        yield Limit(
            key="wedge_dead", verdict=Verdict.OVER, demand=exactly(wedges.count), allowed=exactly(0.0), dimension="count",
            concern=0,
        )  # fmt: skip
        return
    room = constant("wedge_room")
    yield Limit(
        key="wedge_room", verdict=judge(exactly(plan.cuts.room), room, least=True), demand=exactly(plan.cuts.room),
        allowed=room, dimension="cut", least=True, concern=4,
    )  # fmt: skip
    if plan.pull is not None and e["pull_along"].value >= e["needed"].high:
        return  # the line does the work; the wedges only follow it
    reach = exactly(wedges.reach)
    yield Limit(
        key="wedge_lift", verdict=judge(e["lift"], reach), demand=e["lift"], allowed=reach, dimension="cut", concern=4
    )
    force = constant("wedge_force")
    yield Limit(
        key="wedge_force", verdict=judge(e["wedge_each"], force), demand=e["wedge_each"], allowed=force,
        dimension="force", concern=4,
    )  # fmt: skip
