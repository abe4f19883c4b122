"""A felling plan evaluated whole: figures, limits, footprint."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from operator import itemgetter
from typing import NamedTuple

from treecore.errors import between
from treecore.estimate import Estimate, Kind, exactly, product, spread, times, worst
from treecore.felling.balance import (
    GRAVITY,
    Pull,
    commit_angle,
    pivot_offset,
    pull_moments,
    wedge_drive,
    wedge_lever,
    wedge_lift,
    wind_force,
)
from treecore.felling.figuring import figures_of
from treecore.felling.hinge import PLASTIC, YIELD, bending_moment, thick_limit, thin_limit
from treecore.felling.limits import limits_of
from treecore.felling.notch import Cuts, closing_angle, ground_angle, hinge_chord
from treecore.figures import Figure
from treecore.schools import constant, school
from treecore.site import Site
from treecore.species import hinge_qualities
from treecore.tree.body import Body, TreeInput, body_above, uncertain
from treecore.tree.stem import Stem
from treecore.tree.weigh import cg_offsets, lean_inputs
from treecore.verdict import Limit, ruling
from treecore.workzone import Ground, lay_ground

WIND_RANGE = (0.0, 30.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Wedges:
    """Wedges side by side, how many lie one on another, and the lift of one driven home [m]."""

    count: int = 0
    stacked: int = 1
    rise: float = 0.025

    def __post_init__(self) -> None:
        """Refuse a pile nobody can drive."""
        between("wedge_count", self.count, 0, 8, "up to eight wedges side by side")
        between("wedge_stacked", self.stacked, 1, 3, "wedges are stacked three high at most")
        between("wedge_rise", self.rise, 0.005, 0.1, "a wedge lifts 0.5 to 10 cm", "cut")

    @property
    def reach(self) -> float:
        """Lift of the stack driven home [m]."""
        return self.rise * self.stacked


@dataclass(frozen=True, slots=True, kw_only=True)
class FellingInput:
    """Everything a felling is computed from; angles [rad], wind [m/s] at crown height, ``wind_from`` a bearing."""

    tree: TreeInput
    site: Site
    lay: float
    cuts: Cuts
    wedges: Wedges = Wedges()
    pull: Pull | None = None
    wind: float = 0.0
    wind_from: float = 0.0
    zone: str = "1.5"

    def __post_init__(self) -> None:
        """Refuse what the model does not cover."""
        between("wind", self.wind, *WIND_RANGE, "nobody fells in more than 30 m/s of wind", "speed")
        between("lay", self.lay, 0.0, math.tau, "a bearing clockwise from north", "angle")
        school("zone", self.zone)
        top = 0.5 * self.tree.height.low
        between("stump", self.cuts.stump, 0.0, top, "the cut lies below half the tree", "cut")
        if self.pull is not None:
            between(
                "pull_tie",
                self.pull.tie,
                self.cuts.stump + 0.1,
                self.tree.height.low,
                "between the cut and the lowest credible tip",
                "length",
            )


class Point(NamedTuple):
    """Every computed quantity for one set of inputs, SI; the order of ``spread``'s results."""

    mass: float
    cg_height: float
    cg_along: float
    cg_across: float
    back_offset: float
    weight_moment: float
    wind_along: float
    pull_along: float
    side_moment: float
    hinge_moment: float
    needed: float
    wedge_moment: float
    available: float
    margin: float
    tip_margin: float
    thin: float
    thick: float
    lift: float
    wedge_force: float
    wedge_each: float
    commit: float
    closing: float
    commit_margin: float
    length: float
    top_aside: float
    cg_aside: float
    height: float


# Sizes: their intervals stop at nothing.
_SIZES = {"mass", "cg_height", "thin", "thick", "thick_yield", "lift", "wedge_force", "wedge_each", "drive", "length"}


@dataclass(frozen=True, slots=True, kw_only=True)
class FellingResult:
    """A felling evaluated: ``figures`` by key, ``limits`` and the one that rules, and the ground it needs."""

    figures: dict[str, Figure]
    limits: tuple[Limit, ...]
    ruling: Limit
    ground: Ground
    pivot: float
    forward_lean: float
    side_lean: float


def default_diameter(tree: TreeInput, stump: float) -> float:
    """Stem diameter at a cut by the taper curve, where it was not measured [m].

    Parameters
    ----------
    tree : TreeInput
        The tree.
    stump : float
        Height of the cut above the ground. [m]

    Raises
    ------
    OutOfRange
        If the cut is not on the stem.

    References
    ----------
    Ormerod (1973), without butt swell.
    """
    between("stump", stump, 0.0, 3.0, "a felling cut is made standing on the ground, at most 3 m up", "cut")
    return Stem(tree.diameter.value, tree.height.value, tree.group.taper.value, tree.breast_height).diameter_at(stump)


def _inputs(plan: FellingInput) -> dict[str, Estimate]:
    tree = plan.tree
    return (
        uncertain(tree)
        | lean_inputs(tree, plan.lay)
        | {
            "mor": product(tree.kind.mor, tree.condition.strength),
            "kept": hinge_qualities()[tree.kind.hinge],
            "drag": product(constant("drag"), constant("air_density")),
            "wedge_force": constant("wedge_force"),
        }
    )


class _Fixed(NamedTuple):
    """What the planner's choices alone decide: pivot and wedge lever [m], hinge length [m]; where the wind goes [-]."""

    pivot: float
    lever: float
    length: float
    downwind: float
    crosswind: float
    wedges: int


def _fixed(plan: FellingInput) -> _Fixed:
    cuts = plan.cuts
    return _Fixed(
        pivot_offset(cuts.along, cuts.depth, cuts.hinge),
        wedge_lever(cuts.along, cuts.depth, cuts.hinge),
        hinge_chord(cuts.depth, cuts.along, cuts.across),
        math.cos(plan.wind_from + math.pi - plan.lay),
        math.sin(plan.wind_from + math.pi - plan.lay),
        plan.wedges.count if plan.tree.condition.wedges else 0,
    )


def _point(plan: FellingInput, fixed: _Fixed, body: Body, x: dict[str, float]) -> Point:
    """Every quantity for one set of inputs; docs/methods.md, ledger (1) to (6)."""
    cuts = plan.cuts
    pivot, lever, length, downwind, crosswind, count = fixed
    ahead, aside = cg_offsets(body, x, cuts.stump)
    lever_up = body.cg_height - cuts.stump
    back, weight = pivot - ahead, body.mass * GRAVITY
    wind = wind_force(body.wind_area, plan.wind, x["drag"]) * (body.crown_cg - cuts.stump)
    wind_along, wind_across = wind * downwind, wind * crosswind
    pull_along, pull_across = (
        pull_moments(plan.pull, plan.lay, cuts.stump, pivot, (x["lean_along"], x["lean_across"]))
        if plan.pull
        else (0.0, 0.0)
    )
    strength = x["mor"]
    side = weight * aside + wind_across + pull_across  # (1)
    bends = bending_moment(strength, length, cuts.hinge)
    tip = weight * back - wind_along  # (2)
    wedge_moment = count * x["wedge_force"] * lever
    available = pull_along + wedge_moment  # (3)
    spare = available - tip
    # What the wedges must lift is what the line leaves to them.
    wedge_force = max(tip + bends - pull_along, 0.0) / lever  # (4)
    each = wedge_force / max(plan.wedges.count, 1)
    lean = math.atan(x["lean_along"])
    committed = commit_angle(weight, back, lever_up, bends + max(-wind_along, 0.0)) + lean
    reach = x["height"] - cuts.stump
    return Point(
        mass=body.mass,
        cg_height=lever_up,
        cg_along=ahead,
        cg_across=aside,
        back_offset=back,
        weight_moment=-weight * back,
        wind_along=wind_along,
        pull_along=pull_along,
        side_moment=side,
        hinge_moment=bends,
        needed=tip + bends,
        wedge_moment=wedge_moment,
        available=available,
        margin=spare - bends,
        tip_margin=spare,
        thin=thin_limit(side, strength, x["kept"], length),
        thick=thick_limit(spare, strength, length),
        lift=wedge_lift(lever, back, lever_up),
        wedge_force=wedge_force,
        wedge_each=each,
        commit=committed,
        closing=closing_angle(cuts.opening, lean),
        commit_margin=cuts.opening - (committed - lean),
        length=reach,
        top_aside=x["lean_across"] * reach,
        cg_aside=aside,
        height=x["height"],
    )


def _ends(e: Estimate) -> tuple[float, float, float]:
    return e.low, e.value, e.high


def _model(plan: FellingInput, fixed: _Fixed) -> Callable[[dict[str, float]], Point]:
    """Return the model for ``spread``; a body is weighed once for all inputs that leave it as it is."""
    names = itemgetter(*uncertain(plan.tree))
    weighed: dict[tuple[float, ...], Body] = {}

    def model(x: dict[str, float]) -> Point:
        key = names(x)
        body = weighed.get(key)
        if body is None:
            body = weighed[key] = body_above(plan.tree, x, plan.cuts.stump)
        return _point(plan, fixed, body, x)

    return model


def evaluate(plan: FellingInput) -> FellingResult:
    """Evaluate a felling plan whole.

    Parameters
    ----------
    plan : FellingInput
        The plan.

    Raises
    ------
    OutOfRange, NotSolvable
        If a quantity leaves the range its formula holds for.

    References
    ----------
    docs/methods.md, one section per module.
    """
    fixed = _fixed(plan)
    s = spread(_model(plan, fixed), _inputs(plan))
    base = Point(*s.values)
    kind = worst([e.kind for e in (plan.tree.diameter, plan.tree.height, plan.tree.spread)])
    estimates = {
        name: Estimate(value, max(low, 0.0) if name in _SIZES else low, high, kind)
        for name, value, low, high in zip(Point._fields, s.values, s.low, s.high, strict=True)
    }
    lean = math.atan(math.tan(plan.tree.lean) * math.cos(plan.tree.lean_azimuth - plan.lay))
    side = math.atan(math.tan(plan.tree.lean) * math.sin(plan.tree.lean_azimuth - plan.lay))
    ground = lay_ground(
        plan.site, plan.lay, plan.tree, estimates["height"], estimates["top_aside"], plan.zone, plan.cuts.stump
    )
    meets = ground_angle(plan.site.falling_ground(plan.lay))
    estimates["ground"] = exactly(meets, Kind.ESTIMATED)
    # The limit grows with the root of the section's shape, whatever the inputs are.
    estimates["thick_yield"] = times(estimates["thick"], math.sqrt(YIELD / PLASTIC))
    drives = [wedge_drive(1.0, constant("wedge_taper").value, mu) for mu in _ends(constant("wedge_friction"))]
    drive = Estimate(drives[1], drives[0], drives[2], Kind.ASSUMED)
    each = estimates["wedge_each"]
    estimates["drive"] = product(each, drive) if each.value > 0.0 else times(each, drive.value)
    estimates["hinge_length"] = exactly(fixed.length, Kind.ESTIMATED)
    widest = dict(zip(Point._fields, s.widest, strict=True))
    figures = figures_of(plan, estimates, widest, base, ground)
    limits = limits_of(plan, estimates, ground)
    return FellingResult(
        figures=figures,
        limits=limits,
        ruling=ruling(limits),
        ground=ground,
        pivot=fixed.pivot,
        forward_lean=lean,
        side_lean=side,
    )
