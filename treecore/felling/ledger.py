"""Every moment at the stump for many sets of inputs at once, and what follows from them: hinge window, wedges, gust."""

from __future__ import annotations

import math
from functools import lru_cache
from itertools import product as pairs
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column
from treecore.estimate import Estimate, product
from treecore.felling.balance import commit_angle, pivot_offset, pull_moments, wedge_arm, wedge_lift, wind_force
from treecore.felling.gusts import Gusts, gust_shares
from treecore.felling.guying import Guy, GuyMoments, GuyWay, guy_moments, guy_way, torsion
from treecore.felling.hinge import (
    ELASTIC,
    HingeWood,
    bending_shape,
    hinge_wood,
    holding_shape,
    net_length,
    shear_stress,
    sound_length,
    thick_limit,
)
from treecore.felling.holding import Fibre, Load, closes_in, joint_limit, shares, side_held, twist_limit
from treecore.felling.inputs import FellingInput, Point
from treecore.felling.notch import closing_angle, ground_angle
from treecore.schools import constant
from treecore.species import hinge_parts, hinge_qualities
from treecore.tree.body import Body, TreeInput, body_above, relative_spread, uncertain
from treecore.tree.weigh import cg_offsets, lean_inputs
from treecore.units import GRAVITY

Columns = dict[str, Column]
Array = NDArray[np.float64]
_SIDES = (1.0, -1.0)
_TURNS = (0.0, 0.5, 1.0)  # shares of the turn through which the hinge has to hold


def inputs_of(plan: FellingInput) -> dict[str, Estimate]:
    """Return every uncertain figure a felling is computed from, by name.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    """
    found = _of_tree(plan.tree) | lean_inputs(plan.tree, plan.lay) | {"wedge_force": plan.wedges.sort.force}
    if plan.lines:
        found |= {"pull_gain": plan.gain, "pull_turn": constant("pull_direction")}
    return found | ({"guy_gain": constant("guy_tension")} if plan.guy else {})


@lru_cache(maxsize=64)
def _of_tree(tree: TreeInput) -> dict[str, Estimate]:
    """What is uncertain whatever the plan is."""
    wood, strength = tree.kind, tree.condition.strength
    return uncertain(tree) | {
        "mor": product(wood.mor, strength),
        "crush": product(wood.compression, strength),
        "shear": product(wood.shear, strength),
        "torsion": constant("twist_strength"),
        "section": constant("hinge_section"),
        "bark": constant("bark"),
        "kept": hinge_qualities()[wood.hinge],
        "parts": hinge_parts()[wood.hinge],
        "drag": product(product(constant("drag"), constant("air_density")), relative_spread(tree)),
        "gust": constant("gust_factor"),
        "wedge_inside": constant("wedge_inside"),
    }


class Fixed(NamedTuple):
    """What the planner's choices alone decide.

    ``pivot`` of the hinge forward of the stem's centre [m]; ``ends`` where lean and crown are for the side they are worst on,
    right first; ``guyed`` whether a guy line stays taut from before the back cut until the tree is down.
    """

    pivot: float
    wood: HingeWood
    gusts: Gusts
    wedges: int
    ends: tuple[Columns, Columns]
    pull_off: float
    guyed: bool


def fixed_of(plan: FellingInput) -> Fixed:
    """Work out what does not move with the uncertain inputs.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    """
    cuts, lean = plan.cuts, lean_inputs(plan.tree, plan.lay)
    right: Columns = {name: lean[name].high for name in ("lean_across", "crown_across")}
    left: Columns = {name: lean[name].low for name in ("lean_across", "crown_across")}
    pivot = pivot_offset(cuts.along, cuts.depth, cuts.hinge)
    return Fixed(
        pivot=pivot,
        wood=hinge_wood(cuts, plan.cavity),
        gusts=gust_shares(plan.wind_from, plan.lay),
        wedges=plan.wedges.count if plan.tree.condition.wedges else 0,
        ends=(right, left),
        pull_off=constant("pull_direction").high,
        guyed=_stays_taut(plan),
    )


def _stays_taut(plan: FellingInput) -> bool:
    """Whether a guy line is set before the cut and never slackens on the way to the ground."""
    if plan.guy is None or not plan.guy.taut:
        return False
    way = guy_course(plan, plan.guy)
    return way.slack <= constant("guy_tight").value * way.start


def guy_course(plan: FellingInput, guy: Guy) -> GuyWay:
    """Follow a guy line's way from where the stem stands to the ground; docs/methods.md, guy (3).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    guy : Guy
        Its guy line.

    References
    ----------
    ``treecore.felling.guying.guy_way``.
    """
    lean, cuts = lean_inputs(plan.tree, plan.lay), plan.cuts
    leans = lean["lean_along"].value, lean["lean_across"].value
    pivot = pivot_offset(cuts.along, cuts.depth, cuts.hinge)
    return guy_way(guy, plan.lay, cuts.stump, pivot, leans, fall_turn(plan, leans[0]))


def fall_turn(plan: FellingInput, lean: float) -> float:
    """Turn of the stem from where it stands to the ground [rad].

    Parameters
    ----------
    plan : FellingInput
        The plan.
    lean : float
        Tangent of the lean along the lay. [-]
    """
    return ground_angle(plan.site.falling_ground(plan.lay)) - math.atan(lean)


class Pulled(NamedTuple):
    """What all lines do: moments about the hinge [N·m], about the stem's foot [N·m], level force along and across [N]."""

    along: Column = 0.0
    across: Column = 0.0
    foot_along: Column = 0.0
    foot_across: Column = 0.0
    level: Column = 0.0
    level_across: Column = 0.0


def pulled_by(plan: FellingInput, pivot: float, x: Columns, off: Column) -> Pulled:
    """Add up what all pull lines do; docs/methods.md, balance (5).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    pivot : float
        Hinge forward of the stem's centre. [m]
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]
    off : Column
        How far the lines pull to the right of their plan. [rad]
    """
    total, lean, gain = Pulled(), (x["lean_along"], x["lean_across"]), x.get("pull_gain", 1.0)
    for line in plan.lines:
        hinge = pull_moments(line, plan.lay, plan.cuts.stump, pivot, lean, off)
        foot = pull_moments(line, plan.lay, 0.0, 0.0, lean, off)
        level = line.force * line.distance / math.hypot(line.distance, line.anchor - line.tie)
        way = line.azimuth - plan.lay + off
        parts = (*hinge, *foot, level * np.cos(way), level * np.sin(way))
        total = Pulled(*(a + b * gain for a, b in zip(total, parts, strict=True)))
    return total


class Wind(NamedTuple):
    """Moment of 1 m/s about the hinge and force of 1 m/s [N·m·s2/m2], [N·s2/m2]; moment of a gust, its height [N·m], [m]."""

    gale: Column
    force: Column
    gust: Column
    arm: Column


def wind_on(plan: FellingInput, body: Body, x: Columns) -> Wind:
    """Moment of a gust about the hinge; nobody's wind counts as none here and as not known among the limits.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    body : Body
        The tree above the cut.
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]

    References
    ----------
    docs/methods.md, balance (6), gusts (2).
    """
    arm = body.wind_height - plan.cuts.stump
    force = wind_force(body.wind_area, 1.0, x["drag"])
    return Wind(force * arm, force, force * arm * ((plan.wind or 0.0) * x["gust"]) ** 2, arm)


def columns_of(plan: FellingInput, fixed: Fixed, x: Columns) -> Columns:
    """Every quantity of ``Point`` by name, for all moves at once; docs/methods.md, ledger (1) to (10).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    fixed : Fixed
        What its choices alone decide.
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]
    """
    cuts, pivot, wood = plan.cuts, fixed.pivot, fixed.wood
    body = body_above(plan.tree, x, cuts.stump)
    ahead, aside = cg_offsets(body, x, cuts.stump, plan.lay)
    up, back, weight = body.cg_height - cuts.stump, pivot - ahead, body.mass * GRAVITY
    leaned = weight * (body.axis_height - cuts.stump)
    m_lean, s_lean = leaned * x["lean_along"], leaned * x["lean_across"]
    wind, pulled = wind_on(plan, body, x), pulled_by(plan, pivot, x, x.get("pull_turn", 0.0))
    against, across = wind.gust * fixed.gusts.against, wind.gust * fixed.gusts.across
    length = sound_length(cuts, x["bark"])
    bends = x["section"] * x["mor"] * bending_shape(wood, length) / ELASTIC
    behind, beside = wedge_arm(cuts.along, cuts.across, x["wedge_inside"], plan.wedges.place)
    lever = pivot + behind
    wedge_moment = x["wedge_force"] * fixed.wedges * lever
    guy = GuyMoments(0.0, 0.0, 0.0, 0.0, 0.0)
    if plan.guy is not None:
        lean = (x["lean_along"], x["lean_across"])
        side_load = weight * aside + pulled.across
        guy = guy_moments(plan.guy, plan.lay, cuts.stump, pivot, lean, side_load, across, x["guy_gain"])
    tip = weight * back + against - guy.along  # (2)
    needed, available = tip + bends, pulled.along + wedge_moment  # (3)
    spare = available - tip
    # What the wedges must lift is what the line leaves to them.
    wedge_force = np.maximum(needed - pulled.along, 0.0) / lever  # (4)
    wedge_side = -wedge_force * beside * (1.0 if fixed.wedges else 0.0)
    side = weight * aside + pulled.across + guy.across + wedge_side  # (1)
    lean_angle = np.arctan(x["lean_along"])
    turn = commit_angle(weight, back, up, bends + against)
    held = held_sideways(plan, fixed, x, _Upright(body, weight, wind, across, wedge_side, guy, turn, length))
    reach = x["height"] - cuts.stump
    crown_up = x["height"] * (x["crown_base"] + x["crown_centre"] * (1.0 - x["crown_base"])) - cuts.stump
    return held | {
        "mass": body.mass,
        "cg_height": up,
        "cg_along": ahead,
        "cg_across": aside,
        "back_offset": back,
        "weight_moment": -weight * back,
        "wind_along": -against,
        "wind_with": wind.gust * fixed.gusts.along,
        "pull_along": pulled.along,
        "side_moment": side,
        "side_ends": held["side_most"] - np.abs(side) - across,  # (10)
        "hinge_moment": bends,
        "needed": needed,
        "wedge_moment": wedge_moment,
        "available": available,
        "margin": spare - bends,
        "tip_margin": spare,
        "thick": _thickest(spare, x, wood, length),
        "lift": wedge_lift(lever, turn),
        "wedge_force": wedge_force,
        "wedge_each": wedge_force / max(plan.wedges.count, 1),
        "wedge_side": wedge_side,
        "commit": turn + lean_angle,
        "closing": closing_angle(cuts.opening, lean_angle),
        "commit_margin": cuts.opening - turn,
        "parts_margin": x["parts"] - turn,
        "length": reach,
        "top_aside": x["lean_across"] * reach,
        "crown_up": crown_up,
        "crown_aside": x["lean_across"] * crown_up + x["crown_across"],
        "m_lean": m_lean,
        "m_crown": weight * ahead - m_lean,
        "m_pivot": -weight * pivot,
        "s_lean": s_lean,
        "s_crown": weight * aside - s_lean,
        "wind_across": across,
        "pull_across": pulled.across,
        "guy_wanted": guy.wanted,
        "guy_tension": guy.tension,
        "guy_along": guy.along,
        "guy_across": guy.across,
        "gust": np.sqrt(np.maximum(np.minimum(spare - bends + against, held["gust_side"]), 0.0) / wind.gale),  # (6)
        "gale": wind.gale,
        "root_moment": _rooted(plan, fixed, pulled, guy, (weight * ahead, weight * aside), wind, x),
        "stem_mass": body.stem_mass,
        "level_pull": pulled.level,
        "shear": shear_stress(1.0, wood) * np.abs(pulled.level),
        "split_lean": np.arctan((weight * ahead + pulled.along + wind.gust * fixed.gusts.along) / (weight * up)),  # (8)
        "held_back": weight * back + bends - wind.gust * fixed.gusts.along,  # (9)
    }


def _thickest(spare: Column, x: Columns, wood: HingeWood, length: Column) -> Column:
    """Thickest mean of a hinge with this taper that the moment at hand still bends [m]; docs/methods.md, hinge (3), (4)."""
    even = thick_limit(spare, x["mor"], net_length(wood, length), x["section"])
    return np.sqrt(np.maximum(even**2 - wood.taper**2 / 12.0, 0.0)) if wood.taper else even


class _Upright(NamedTuple):
    """The standing tree as the hinge feels it."""

    body: Body
    weight: Column
    wind: Wind
    gust: Column
    wedge_side: Column
    guy: GuyMoments
    turn: Column
    length: Column


def held_sideways(plan: FellingInput, fixed: Fixed, x: Columns, stands: _Upright) -> Columns:
    """Thin limit and what it is made of, over both sides and the turn through which the hinge must hold.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    fixed : Fixed
        What its choices alone decide.
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]
    stands : tuple
        The standing tree.

    References
    ----------
    docs/methods.md, hinge (14) to (18).
    """
    ends = closes_in(stands.turn, plan.cuts.opening, x["parts"])
    rows, gusts = [], []
    for (side, worst), share in pairs(zip(_SIDES, fixed.ends, strict=True), _TURNS):
        load, shape = _loaded(plan, fixed, x | worst, stands, side, share * ends)
        gusts.append(stands.gust)
        rows.append((*load, shape))
    table = np.stack(np.broadcast_arrays(*(cell for row in rows for cell in row)))
    side, press, shear, twist, shape = table.reshape(len(rows), 5, *table.shape[1:]).swapaxes(0, 1)
    load = Load(side, press, shear, twist)
    wood = Fibre(
        x["kept"] * x["mor"] * shape, x["crush"], x["shear"], x["torsion"] * x["shear"], stands.length,
        net_length(fixed.wood, stands.length),
    )  # fmt: skip
    joint = np.asarray(joint_limit(load, wood))
    alone = twist_limit(twist.max(axis=0), wood.length, wood.torsion)
    most, floor = joint.max(axis=0), least_hinge(plan)
    part = shares(joint, load, wood)
    rules = joint.argmax(axis=0)

    def ruling(column: Column) -> Array:
        rows = np.broadcast_to(column, joint.shape)
        found: Array = np.take_along_axis(rows, np.expand_dims(rules, 0), axis=0)[0]
        return found

    capacity = np.asarray(side_held(fixed.wood.mean, load, wood))
    return {
        "thin": np.maximum(np.maximum(most, alone), floor),
        "thin_joint": most,
        "thin_twist": alone,
        "side_most": side[:: len(_TURNS)].max(axis=0),
        "side_holds": capacity[:: len(_TURNS)].min(axis=0),
        "gust_side": (capacity - side).min(axis=0) + stands.gust,
        "twist": twist.max(axis=0),
        "hold_turn": ends,
        "use_side": ruling(part.side),
        "use_press": ruling(part.press),
        "use_twist": ruling(part.twist),
        "use_shear": ruling(part.shear),
    }


def _loaded(
    plan: FellingInput, fixed: Fixed, x: Columns, stands: _Upright, side: float, turn: Column
) -> tuple[Load, Column]:
    """What the hinge feels on one side at one turn, lean, crown and pull at their worst; hinge (18). And its shape [-]."""
    _, offset = cg_offsets(stands.body, x, plan.cuts.stump, plan.lay)
    off = side * offset  # to this side
    pulled = pulled_by(plan, fixed.pivot, x, side * fixed.pull_off)
    # What helps against this side may slacken or slip: it counts for nothing.
    pull = np.maximum(side * np.asarray(pulled.across), 0.0)
    wedge = np.maximum(side * np.asarray(stands.wedge_side), 0.0)
    moment = np.maximum(stands.weight * off * np.cos(turn) + stands.gust + pull + wedge, 0.0)  # (18)
    if fixed.guyed and plan.guy is not None:
        low = constant("guy_tension").low
        lever = np.maximum(-side * np.asarray(stands.guy.lever), 0.0)
        moment = moment - np.minimum(low * moment, low * plan.guy.limit * lever) * (lever > 0.0)
    level = np.maximum(side * np.asarray(pulled.level_across), 0.0) + stands.gust / stands.wind.arm
    shear = np.hypot(level, np.maximum(pulled.level, 0.0) + stands.weight * np.sin(turn))
    twist = np.maximum(torsion(stands.weight, off, turn), 0.0)
    return Load(moment, stands.weight * np.cos(turn), shear, twist), holding_shape(fixed.wood, side, stands.length)


def capacity_at(plan: FellingInput, thick: float) -> float:
    """Side moment that a hinge of another thickness would hold upright, with what acts at the same time [N·m].

    Parameters
    ----------
    plan : FellingInput
        The plan; its cuts else as they are.
    thick : float
        Mean thickness. [m]

    References
    ----------
    docs/methods.md, hinge (16).
    """
    if thick <= 0.0:
        return 0.0
    fixed = fixed_of(plan)
    x: Columns = {name: e.value for name, e in inputs_of(plan).items()}
    found = columns_of(plan, fixed._replace(wood=fixed.wood._replace(mean=thick)), x)["side_holds"]
    return float(np.ravel(found)[0])


def least_hinge(plan: FellingInput) -> float:
    """Thinnest hinge whatever is computed [m]; docs/methods.md, hinge (19).

    Parameters
    ----------
    plan : FellingInput
        The plan.

    References
    ----------
    Custom, own choice: an allowance for hidden defects.
    """
    return max(constant("thin_least").value, constant("thin_share").value * plan.cuts.along)  # (19)


def _rooted(
    plan: FellingInput, fixed: Fixed, pulled: Pulled, guy: GuyMoments, hangs: tuple[Column, Column], wind: Wind, x: Columns
) -> Column:  # fmt: skip
    """Whole overturning moment on the root plate, a gust from its worst side with it; docs/methods.md, root plate (1)."""
    along, across = pulled.foot_along + hangs[0], pulled.foot_across + hangs[1]
    if plan.guy is not None:
        pull = np.minimum(guy.wanted, plan.guy.limit)
        unit = pull_moments(plan.guy.line(1.0), plan.lay, 0.0, 0.0, (x["lean_along"], x["lean_across"]))
        along, across = along + pull * unit[0], across + pull * unit[1]
    gust = wind.gust * (wind.arm + plan.cuts.stump) / wind.arm
    blown = np.where(np.asarray(along) >= 0.0, fixed.gusts.along, fixed.gusts.against)
    return np.hypot(np.abs(along) + gust * blown, np.abs(across) + gust * fixed.gusts.across)  # (1)


def point_columns(plan: FellingInput, x: Columns) -> Columns:
    """Every quantity of ``Point`` for many sets of inputs at once, by name.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]
    """
    return columns_of(plan, fixed_of(plan), x)


def ordered(plan: FellingInput, fixed: Fixed, x: Columns) -> tuple[Column, ...]:
    """As ``columns_of``, in the order of ``Point``.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    fixed : Fixed
        What its choices alone decide.
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]
    """
    found = columns_of(plan, fixed, x)
    return tuple(found[name] for name in Point._fields)
