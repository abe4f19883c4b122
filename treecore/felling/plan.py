"""A felling plan evaluated whole: figures, limits, footprint."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from operator import itemgetter
from typing import NamedTuple

from treecore.estimate import Estimate, Kind, exactly, product, spread, times, worst
from treecore.felling.balance import (
    GRAVITY,
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
from treecore.felling.inputs import FellingInput, Point
from treecore.felling.limits import limits_of
from treecore.felling.notch import closing_angle, ground_angle, hinge_chord
from treecore.figures import Figure
from treecore.schools import constant
from treecore.species import hinge_qualities
from treecore.tree.body import Body, body_above, uncertain
from treecore.tree.weigh import cg_offsets, lean_inputs
from treecore.verdict import Limit, ruling
from treecore.workzone import Ground, lay_ground

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
