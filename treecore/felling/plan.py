"""A felling plan evaluated whole: figures, limits, footprint."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property, partial

from treecore.estimate import Estimate, Kind, Spread, exactly, product, propagate, times, worst
from treecore.felling.figures import figures_of
from treecore.felling.hinge import HingeWood, turn_by_bypass, turn_by_hinge
from treecore.felling.inputs import FellingInput, Point
from treecore.felling.ledger import columns_of
from treecore.felling.limits import limits_of
from treecore.felling.notch import ground_angle
from treecore.felling.standing import Columns, Fixed, fixed_of, inputs_of
from treecore.felling.window import least_hinge
from treecore.figures import Figure
from treecore.verdict import Limit, ruling
from treecore.workzone import Ground, lay_ground

# Sizes: their intervals stop at nothing.
_SIZES = frozenset((
    "mass", "cg_height", "thin", "thin_joint", "thin_twist", "thick", "lift", "wedge_force", "wedge_each", "length",
    "guy_wanted", "guy_tension", "gust", "gale", "stem_mass", "shear", "side_most", "side_holds", "twist", "hold_turn",
    "root_moment", "wind_across", "wind_with", "split", "split_straight",
))  # fmt: skip


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

    @property
    def thin_rule(self) -> tuple[str, dict[str, float]]:
        """Which term makes the thin limit: floor, twist or joint; and the shares of what acts at
        once in the last [-].
        """
        p = self.point
        terms = {"floor": self.estimates["thin_floor"].value, "twist": p.thin_twist, "joint": p.thin_joint}
        parts = {"side": p.use_side, "press": p.use_press, "twist": p.use_twist, "shear": p.use_shear}
        whole = sum(parts.values())
        return max(terms, key=terms.__getitem__), {name: part / whole for name, part in parts.items()}

    @cached_property
    def figures(self) -> dict[str, Figure]:
        """The estimates by key, each with its label and its why; dressed when first asked for."""
        return figures_of(self.plan, self.estimates, self.widest, self.point, self.ground)


def _estimates(plan: FellingInput, found: dict[str, Spread]) -> dict[str, Estimate]:
    kind = worst([e.kind for e in (plan.tree.diameter, plan.tree.height, plan.tree.spread)])
    return {name: s.size(kind) if name in _SIZES else s.estimate(kind) for name, s in found.items()}


def _columns(plan: FellingInput, fixed: Fixed, x: Columns) -> Columns:
    found = columns_of(plan, fixed, x)
    return {name: found[name] for name in Point._fields}


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
    fixed = fixed_of(plan)
    found = propagate(partial(_columns, plan, fixed), inputs_of(plan))
    estimates = _estimates(plan, found)
    lean = math.atan(math.tan(plan.tree.lean) * math.cos(plan.tree.lean_azimuth - plan.lay))
    side = math.atan(math.tan(plan.tree.lean) * math.sin(plan.tree.lean_azimuth - plan.lay))
    turns = exactly(turn_by_hinge(fixed.wood), Kind.ESTIMATED), exactly(turn_by_bypass(fixed.wood), Kind.ESTIMATED)
    bends = turns[0].value + turns[1].value
    ground = lay_ground(
        plan.site,
        plan.lay,
        plan.tree,
        plan.tree.stands,
        estimates["top_aside"],
        plan.zone,
        plan.cuts.stump,
        estimates["side_moment"].value,
        bends,
    )
    meets = ground_angle(plan.site.falling_ground(plan.lay))
    estimates["ground"] = exactly(meets, Kind.ESTIMATED)
    estimates["thin_floor"] = exactly(least_hinge(plan), Kind.ASSUMED)
    drive = plan.wedges.sort.drive
    each = estimates["wedge_each"]
    estimates["drive"] = product(each, drive) if each.value > 0.0 else times(each, drive.value)
    estimates["hinge_length"] = exactly(fixed.wood.length, Kind.ESTIMATED)
    estimates["turn_hinge"], estimates["turn_bypass"] = turns
    limits = limits_of(plan, estimates, ground, fixed.wood)
    return FellingResult(
        plan=plan,
        point=Point(**{name: s.value for name, s in found.items()}),
        estimates=estimates,
        widest={name: s.widest for name, s in found.items()},
        limits=limits,
        ruling=ruling(limits),
        ground=ground,
        wood=fixed.wood,
        pivot=fixed.pivot,
        forward_lean=lean,
        side_lean=side,
    )
