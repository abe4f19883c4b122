"""The tree as it stands before it falls: what is uncertain, what the choices fix, what lines and wind do to it."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from treecore.errors import Column
from treecore.estimate import Estimate, product
from treecore.felling.balance import pivot_offset, pull_moments, wind_force
from treecore.felling.gusts import Gusts, gust_shares
from treecore.felling.guying import GuyWay, guy_way
from treecore.felling.hinge import HingeWood, hinge_wood
from treecore.felling.inputs import FellingInput
from treecore.felling.notch import ground_angle
from treecore.felling.oval import hinge_aside
from treecore.felling.splitting import toughness
from treecore.rigging.line import Guy
from treecore.schools import constant
from treecore.species import hinge_parts, hinge_qualities
from treecore.tree.body import Body, TreeInput, relative_spread, uncertain
from treecore.tree.weigh import lean_inputs

Columns = dict[str, Column]


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
        "moe": wood.moe,
        "tough": product(toughness(wood.splits), strength),
        "pull_more": constant("pull_more"),
        "bark": constant("bark"),
        "kept": hinge_qualities()[wood.hinge],
        "parts": hinge_parts()[wood.hinge],
        "drag": product(product(constant("drag"), constant("air_density")), relative_spread(tree)),
        "gust": constant("gust_factor"),
        "wedge_inside": constant("wedge_inside"),
    }


class Fixed(NamedTuple):
    """What the planner's choices alone decide.

    ``pivot`` of the hinge forward of the stem's centre, ``beside`` its middle to the right of it [m]; ``ends`` where
    lean and crown are for the side they are worst on, right first; ``guyed`` whether a guy line stays taut from before
    the back cut until the tree is down.
    """

    pivot: float
    beside: float
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
        beside=hinge_aside(cuts),
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
    """What all lines do: moments about the hinge [N·m], about the stem's foot [N·m], level force
    along and across [N].
    """

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
    """Moment of 1 m/s about the hinge and force of 1 m/s [N·m·s2/m2], [N·s2/m2]; moment of a gust, its height [N·m],
    [m].
    """

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
