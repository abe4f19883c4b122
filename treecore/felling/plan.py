"""A felling plan evaluated whole: figures, limits, footprint."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache, cached_property, lru_cache, partial
from typing import NamedTuple

import numpy as np

from treecore.errors import Column
from treecore.estimate import Estimate, Kind, Spread, exactly, product, spread, times, worst
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
from treecore.tree.body import TreeInput, body_above, relative_spread, uncertain
from treecore.tree.weigh import cg_offsets, lean_inputs
from treecore.verdict import Limit, ruling
from treecore.workzone import Ground, lay_ground

# Sizes: their intervals stop at nothing.
_SIZES = ("mass", "cg_height", "thin", "thick", "lift", "wedge_force", "wedge_each", "length")


@dataclass(frozen=True, kw_only=True)
class FellingResult:
    """A felling evaluated: ``estimates`` by name, ``limits`` and the one that rules, and the ground it needs.

    Lengths [m], angles [rad], as ``Point`` says for the rest.
    """

    plan: FellingInput
    point: Point
    estimates: dict[str, Estimate]
    widest: dict[str, str]
    limits: tuple[Limit, ...]
    ruling: Limit
    ground: Ground
    pivot: float
    forward_lean: float
    side_lean: float

    @cached_property
    def figures(self) -> dict[str, Figure]:
        """The estimates by key, each with its label and its why; dressed when first asked for."""
        return figures_of(self.plan, self.estimates, self.widest, self.point, self.ground)


def inputs_of(plan: FellingInput) -> dict[str, Estimate]:
    """Return every uncertain figure a felling is computed from, by name.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    """
    return _of_tree(plan.tree) | lean_inputs(plan.tree, plan.lay)


@lru_cache(maxsize=64)
def _of_tree(tree: TreeInput) -> dict[str, Estimate]:
    """What is uncertain whatever the plan is."""
    return uncertain(tree) | {
        "mor": product(tree.kind.mor, tree.condition.strength),
        "kept": hinge_qualities()[tree.kind.hinge],
        "drag": product(product(constant("drag"), constant("air_density")), relative_spread(tree)),
        "wedge_force": constant("wedge_force"),
    }


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


def _point(plan: FellingInput, fixed: _Fixed, x: dict[str, Column]) -> tuple[Column, ...]:
    """Every quantity of ``Point``, in its order, for all moves at once; docs/methods.md, ledger (1) to (4)."""
    cuts = plan.cuts
    pivot, lever, count = fixed.pivot, fixed.lever, fixed.wedges
    body = body_above(plan.tree, x, cuts.stump)
    ahead, aside = cg_offsets(body, x, cuts.stump, plan.lay)
    lever_up = body.cg_height - cuts.stump
    back, weight = pivot - ahead, body.mass * GRAVITY
    wind = wind_force(body.wind_area, plan.wind, x["drag"]) * (body.wind_height - cuts.stump)
    wind_along, wind_across = wind * fixed.downwind, wind * fixed.crosswind
    pull_along, pull_across = _pulled(plan, pivot, x)
    strength = x["mor"]
    side = weight * aside + wind_across + pull_across  # (1)
    bends = fixed.bends * strength
    tip = weight * back - wind_along  # (2)
    needed = tip + bends
    wedge_moment = x["wedge_force"] * (count * lever)
    available = pull_along + wedge_moment  # (3)
    spare = available - tip
    # What the wedges must lift is what the line leaves to them.
    wedge_force = np.maximum(needed - pull_along, 0.0) / lever  # (4)
    lean = np.arctan(x["lean_along"])
    turn = commit_angle(weight, back, lever_up, bends + np.maximum(-wind_along, 0.0))
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
        needed,  # needed
        wedge_moment,  # wedge_moment
        available,  # available
        spare - bends,  # margin
        spare,  # tip_margin
        fixed.holds * np.abs(side) / (x["kept"] * strength),  # thin
        thick_limit(spare, strength, fixed.length),  # thick
        wedge_lift(lever, back, lever_up),  # lift
        wedge_force,  # wedge_force
        wedge_force / max(plan.wedges.count, 1),  # wedge_each
        turn + lean,  # commit
        closing_angle(cuts.opening, lean),  # closing
        cuts.opening - turn,  # commit_margin
        reach,  # length
        x["lean_across"] * reach,  # top_aside
    )


def _pulled(plan: FellingInput, pivot: float, x: dict[str, Column]) -> tuple[Column, Column]:
    if plan.pull is None:
        return 0.0, 0.0
    return pull_moments(plan.pull, plan.lay, plan.cuts.stump, pivot, (x["lean_along"], x["lean_across"]))


@cache
def _drive_share() -> Estimate:
    """Driving force over the load on the wedge [-]."""
    friction, taper = constant("wedge_friction"), constant("wedge_taper").value
    low, value, high = (wedge_drive(1.0, taper, mu) for mu in (friction.low, friction.value, friction.high))
    return Estimate(value, low, high, Kind.ASSUMED)


def _estimates(plan: FellingInput, s: Spread) -> dict[str, Estimate]:
    kind = worst([e.kind for e in (plan.tree.diameter, plan.tree.height, plan.tree.spread)])
    named = {
        name: Estimate(value, low, high, kind)
        for name, value, low, high in zip(Point._fields, s.values, s.low, s.high, strict=True)
    }
    for name in _SIZES:
        size = named[name]
        if size.low < 0.0:
            named[name] = Estimate(size.value, 0.0, size.high, kind)
    return named


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
    s = spread(partial(_point, plan, fixed), inputs_of(plan))
    estimates = _estimates(plan, s)
    lean = math.atan(math.tan(plan.tree.lean) * math.cos(plan.tree.lean_azimuth - plan.lay))
    side = math.atan(math.tan(plan.tree.lean) * math.sin(plan.tree.lean_azimuth - plan.lay))
    ground = lay_ground(
        plan.site, plan.lay, plan.tree, plan.tree.height, estimates["top_aside"], plan.zone, plan.cuts.stump
    )
    meets = ground_angle(plan.site.falling_ground(plan.lay))
    estimates["ground"] = exactly(meets, Kind.ESTIMATED)
    # The limit grows with the root of the section's shape, whatever the inputs are.
    estimates["thick_yield"] = times(estimates["thick"], math.sqrt(YIELD / PLASTIC))
    drive = _drive_share()
    each = estimates["wedge_each"]
    estimates["drive"] = product(each, drive) if each.value > 0.0 else times(each, drive.value)
    estimates["hinge_length"] = exactly(fixed.length, Kind.ESTIMATED)
    limits = limits_of(plan, estimates, ground)
    return FellingResult(
        plan=plan,
        point=Point(*s.values),
        estimates=estimates,
        widest=dict(zip(Point._fields, s.widest, strict=True)),
        limits=limits,
        ruling=ruling(limits),
        ground=ground,
        pivot=fixed.pivot,
        forward_lean=lean,
        side_lean=side,
    )
