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
    commit_angle,
    pivot_offset,
    pull_moments,
    wedge_drive,
    wedge_lever,
    wedge_lift,
    wind_force,
)
from treecore.felling.figuring import figures_of
from treecore.felling.guying import GuyMoments, guy_moments, torsion
from treecore.felling.hinge import (
    PLASTIC,
    YIELD,
    HingeWood,
    bending_shape,
    hinge_wood,
    holding_shape,
    shear_stress,
    thick_limit,
    thin_limit,
    turn_by_bypass,
    turn_by_hinge,
)
from treecore.felling.inputs import FellingInput, Point
from treecore.felling.limits import limits_of
from treecore.felling.notch import closing_angle, ground_angle
from treecore.figures import Figure
from treecore.schools import constant
from treecore.species import hinge_qualities
from treecore.tree.body import TreeInput, body_above, relative_spread, uncertain
from treecore.tree.weigh import cg_offsets, lean_inputs
from treecore.units import GRAVITY
from treecore.verdict import Limit, ruling
from treecore.workzone import Ground, lay_ground

# Sizes: their intervals stop at nothing.
_SIZES = ("mass", "cg_height", "thin", "thick", "lift", "wedge_force", "wedge_each", "length", "guy_wanted", "guy_tension", "gust", "stem_mass", "shear",
)  # fmt: skip


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
    wood: HingeWood
    pivot: float
    forward_lean: float
    side_lean: float

    @property
    def bend(self) -> float:
        """Turn of the lay by a tapered hinge and a cut past the apex, right positive [rad]."""
        return self.estimates["turn_hinge"].value + self.estimates["turn_bypass"].value

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
    pulls = {"pull_gain": plan.gain} if plan.system is not None else {}
    return _of_tree(plan.tree) | lean_inputs(plan.tree, plan.lay) | pulls


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
    wood: HingeWood
    bends: float  # bending moment for 1 Pa; it grows with the strength [m3]
    holds: float  # thin limit of an even, whole hinge for 1 N·m and 1 Pa; it grows with their ratio [1/m2]


def _fixed(plan: FellingInput) -> _Fixed:
    cuts = plan.cuts
    wood = hinge_wood(cuts, plan.cavity)
    return _Fixed(
        pivot_offset(cuts.along, cuts.depth, cuts.hinge),
        wedge_lever(cuts.along, cuts.depth, cuts.hinge),
        wood.length,
        math.cos(plan.wind_from + math.pi - plan.lay),
        math.sin(plan.wind_from + math.pi - plan.lay),
        plan.wedges.count if plan.tree.condition.wedges else 0,
        wood,
        bending_shape(wood) / PLASTIC,
        thin_limit(1.0, 1.0, 1.0, wood.length),
    )


def _point(plan: FellingInput, fixed: _Fixed, x: dict[str, Column]) -> tuple[Column, ...]:
    """Every quantity of ``Point``, in its order, for all moves at once; docs/methods.md, ledger (1) to (6)."""
    cuts = plan.cuts
    pivot, lever, count = fixed.pivot, fixed.lever, fixed.wedges
    body = body_above(plan.tree, x, cuts.stump)
    ahead, aside = cg_offsets(body, x, cuts.stump, plan.lay)
    lever_up = body.cg_height - cuts.stump
    back, weight = pivot - ahead, body.mass * GRAVITY
    leaned = weight * (body.axis_height - cuts.stump)
    m_lean, s_lean = leaned * x["lean_along"], leaned * x["lean_across"]
    gale = wind_force(body.wind_area, 1.0, x["drag"]) * (body.wind_height - cuts.stump)  # for 1 m/s
    wind = gale * plan.wind**2
    wind_along, wind_across = wind * fixed.downwind, wind * fixed.crosswind
    pulled = _pulled(plan, pivot, x)
    strength = x["mor"]
    side_load = weight * aside + wind_across + pulled.across
    guy = _guyed(plan, pivot, x, side_load)
    side = side_load + guy.across  # (1)
    bends = fixed.bends * strength
    tip = weight * back - wind_along - guy.along  # (2)
    needed = tip + bends
    wedge_moment = x["wedge_force"] * (count * lever)
    available = pulled.along + wedge_moment  # (3)
    spare = available - tip
    # What the wedges must lift is what the line leaves to them.
    wedge_force = np.maximum(needed - pulled.along, 0.0) / lever  # (4)
    lean = np.arctan(x["lean_along"])
    turn = commit_angle(weight, back, lever_up, bends + np.maximum(-wind_along, 0.0))
    reach = x["height"] - cuts.stump
    holds = x["kept"] * strength * holding_shape(fixed.wood, side) / fixed.holds  # per metre of thickness
    return (
        body.mass,  # mass
        lever_up,  # cg_height
        ahead,  # cg_along
        aside,  # cg_across
        back,  # back_offset
        -weight * back,  # weight_moment
        wind_along,  # wind_along
        pulled.along,  # pull_along
        side,  # side_moment
        bends,  # hinge_moment
        needed,  # needed
        wedge_moment,  # wedge_moment
        available,  # available
        spare - bends,  # margin
        spare,  # tip_margin
        np.abs(side) / holds,  # thin
        _thickest(spare, strength, fixed.wood),  # thick
        wedge_lift(lever, back, lever_up),  # lift
        wedge_force,  # wedge_force
        wedge_force / max(plan.wedges.count, 1),  # wedge_each
        turn + lean,  # commit
        closing_angle(cuts.opening, lean),  # closing
        cuts.opening - turn,  # commit_margin
        reach,  # length
        x["lean_across"] * reach,  # top_aside
        m_lean,  # m_lean
        weight * ahead - m_lean,  # m_crown
        -weight * pivot,  # m_pivot
        s_lean,  # s_lean
        weight * aside - s_lean,  # s_crown
        wind_across,  # wind_across
        pulled.across,  # pull_across
        guy.wanted,  # guy_wanted
        guy.tension,  # guy_tension
        guy.along,  # guy_along
        guy.across,  # guy_across
        _gust(fixed.wood.mean * holds - np.abs(side - wind_across), spare - bends - wind_along, gale),  # gust
        torsion(weight, aside, cuts.opening),  # twist
        pulled.root + weight * ahead + wind_along,  # root_moment
        body.stem_mass,  # stem_mass
        pulled.level,  # level_pull
        shear_stress(1.0, fixed.wood) * np.abs(pulled.level),  # shear
    )


def point_columns(plan: FellingInput, x: dict[str, Column]) -> tuple[Column, ...]:
    """Every quantity of ``Point`` for many sets of inputs at once, in its order.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]
    """
    return _point(plan, _fixed(plan), x)


def _thickest(spare: Column, strength: Column, wood: HingeWood) -> Column:
    """Thickest mean of a hinge with this taper that the moment at hand still bends [m]; docs/methods.md, hinge (3), (4)."""
    even = thick_limit(spare, strength, wood.length - wood.hole)
    return np.sqrt(np.maximum(even**2 - wood.taper**2 / 12.0, 0.0)) if wood.taper else even


def _gust(across: Column, along: Column, gale: Column) -> Column:
    """Wind from the worst side that uses up what is left over in a calm [m/s]; docs/methods.md, ledger (6)."""
    return np.sqrt(np.maximum(np.minimum(along, across), 0.0) / gale)  # (6)


class _Pulled(NamedTuple):
    """Moments of all lines about the hinge along and across, about the stem's foot along [N·m]; level force along [N]."""

    along: Column
    across: Column
    root: Column
    level: Column


def _pulled(plan: FellingInput, pivot: float, x: dict[str, Column]) -> _Pulled:
    along: Column = 0.0
    across: Column = 0.0
    root: Column = 0.0
    level: Column = 0.0
    lean, gain = (x["lean_along"], x["lean_across"]), x.get("pull_gain", 1.0)
    for line in plan.lines:
        forward, right = pull_moments(line, plan.lay, plan.cuts.stump, pivot, lean)
        along, across = along + forward * gain, across + right * gain
        root = root + pull_moments(line, plan.lay, 0.0, 0.0, lean)[0] * gain
        run = math.hypot(line.distance, line.anchor - line.tie)
        level = level + line.force * line.distance / run * math.cos(line.azimuth - plan.lay) * gain
    return _Pulled(along, across, root, level)


def _guyed(plan: FellingInput, pivot: float, x: dict[str, Column], side: Column) -> GuyMoments:
    if plan.guy is None:
        return GuyMoments(0.0, 0.0, 0.0, 0.0)
    return guy_moments(plan.guy, plan.lay, plan.cuts.stump, pivot, (x["lean_along"], x["lean_across"]), side)


@cache
def _drive_share() -> Estimate:
    """Driving force over the load on the wedge [-]."""
    friction, taper = constant("wedge_friction"), constant("wedge_taper").value
    low, value, high = (wedge_drive(1.0, taper, mu) for mu in (friction.low, friction.value, friction.high))
    return Estimate(value, low, high, Kind.ASSUMED)


def _at_yield(thick: Estimate, taper: float) -> Estimate:
    """Thick limit at first yield: the bending shape grows with the ratio of the sections, taper kept."""
    uneven, ratio = taper**2 / 12.0, YIELD / PLASTIC

    def grown(t: float) -> float:
        return math.sqrt(max(ratio * (t * t + uneven) - uneven, 0.0)) if t > 0.0 else 0.0

    return Estimate(grown(thick.value), grown(thick.low), grown(thick.high), thick.kind)


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
        plan.site, plan.lay, plan.tree, plan.tree.height, estimates["top_aside"], plan.zone, plan.cuts.stump,
        estimates["side_moment"].value,
    )
    meets = ground_angle(plan.site.falling_ground(plan.lay))
    estimates["ground"] = exactly(meets, Kind.ESTIMATED)
    estimates["thick_yield"] = _at_yield(estimates["thick"], fixed.wood.taper)
    drive = _drive_share()
    each = estimates["wedge_each"]
    estimates["drive"] = product(each, drive) if each.value > 0.0 else times(each, drive.value)
    estimates["hinge_length"] = exactly(fixed.length, Kind.ESTIMATED)
    estimates["turn_hinge"] = exactly(turn_by_hinge(fixed.wood), Kind.ESTIMATED)
    estimates["turn_bypass"] = exactly(turn_by_bypass(fixed.wood), Kind.ESTIMATED)
    limits = limits_of(plan, estimates, ground, fixed.wood)
    return FellingResult(
        plan=plan,
        point=Point(*s.values),
        estimates=estimates,
        widest=dict(zip(Point._fields, s.widest, strict=True)),
        limits=limits,
        ruling=ruling(limits),
        ground=ground,
        wood=fixed.wood,
        pivot=fixed.pivot,
        forward_lean=lean,
        side_lean=side,
    )
