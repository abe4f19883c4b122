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
from treecore.tree.body import Body, body_above, relative_spread, uncertain
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
            "drag": product(product(constant("drag"), constant("air_density")), relative_spread(tree)),
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
    bends: float  # bending moment for 1 Pa; it grows with the strength [m3]
    holds: float  # thin limit for 1 N·m and 1 Pa; it grows with their ratio [1/m2]


def _fixed(plan: FellingInput) -> _Fixed:
    cuts = plan.cuts
    length = hinge_chord(cuts.depth, cuts.along, cuts.across)
    return _Fixed(
        pivot_offset(cuts.along, cuts.depth, cuts.hinge),
        wedge_lever(cuts.along, cuts.depth, cuts.hinge),
        length,
        math.cos(plan.wind_from + math.pi - plan.lay),
        math.sin(plan.wind_from + math.pi - plan.lay),
        plan.wedges.count if plan.tree.condition.wedges else 0,
        bending_moment(1.0, length, cuts.hinge),
        thin_limit(1.0, 1.0, 1.0, length),
    )


def _point(
    plan: FellingInput, fixed: _Fixed, body: Body, pull: tuple[float, float], x: dict[str, float]
) -> tuple[float, ...]:
    """Every quantity of ``Point``, in its order, for one set of inputs; docs/methods.md, ledger (1) to (4)."""
    cuts = plan.cuts
    pivot, lever, downwind, crosswind, count = fixed.pivot, fixed.lever, fixed.downwind, fixed.crosswind, fixed.wedges
    ahead, aside = cg_offsets(body, x, cuts.stump)
    lever_up = body.cg_height - cuts.stump
    back, weight = pivot - ahead, body.mass * GRAVITY
    wind = wind_force(body.wind_area, plan.wind, x["drag"]) * (body.crown_cg - cuts.stump)
    wind_along, wind_across = wind * downwind, wind * crosswind
    pull_along, pull_across = pull
    strength = x["mor"]
    side = weight * aside + wind_across + pull_across  # (1)
    bends = fixed.bends * strength
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
    return (
        body.mass,  # mass
        lever_up,  # cg_height
        ahead,  # cg_along
        aside,  # cg_across
        back,  # back_offset
        -weight * back,  # weight_moment
        wind_along,  # wind_along
        pull_along,  # pull_along
        side,  # side_moment
        bends,  # hinge_moment
        tip + bends,  # needed
        wedge_moment,  # wedge_moment
        available,  # available
        spare - bends,  # margin
        spare,  # tip_margin
        fixed.holds * abs(side) / (x["kept"] * strength),  # thin
        thick_limit(spare, strength, fixed.length),  # thick
        wedge_lift(lever, back, lever_up),  # lift
        wedge_force,  # wedge_force
        each,  # wedge_each
        committed,  # commit
        closing_angle(cuts.opening, lean),  # closing
        cuts.opening - (committed - lean),  # commit_margin
        reach,  # length
        x["lean_across"] * reach,  # top_aside
        aside,  # cg_aside
        x["height"],  # height
    )


def _ends(e: Estimate) -> tuple[float, float, float]:
    return e.low, e.value, e.high


def _model(plan: FellingInput, fixed: _Fixed) -> Callable[[dict[str, float]], tuple[float, ...]]:
    """Return the model for ``spread``; body and pull are worked out once for all inputs that leave them as they are."""
    names, leans = itemgetter(*uncertain(plan.tree)), itemgetter("lean_along", "lean_across")
    bodies: dict[tuple[float, ...], Body] = {}
    pulls: dict[tuple[float, float], tuple[float, float]] = {}

    def model(x: dict[str, float]) -> tuple[float, ...]:
        key, lean = names(x), leans(x)
        if key not in bodies:
            bodies[key] = body_above(plan.tree, x, plan.cuts.stump)
        if lean not in pulls:
            pulls[lean] = (
                pull_moments(plan.pull, plan.lay, plan.cuts.stump, fixed.pivot, lean) if plan.pull else (0.0, 0.0)
            )
        return _point(plan, fixed, bodies[key], pulls[lean], x)

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
