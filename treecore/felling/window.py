"""The thin end of the hinge window: what a hinge must hold sideways with everything that acts at once."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column
from treecore.felling.guying import GuyMoments, torsion
from treecore.felling.hinge import holding_shape, net_length
from treecore.felling.holding import Fibre, Load, closes_in, joint_limit, shares, side_held, twist_limit
from treecore.felling.inputs import FellingInput
from treecore.felling.standing import Columns, Fixed, Wind, pulled_by
from treecore.rigging.line import Guy
from treecore.schools import constant
from treecore.tree.body import Body
from treecore.tree.weigh import cg_offsets

Array = NDArray[np.float64]
_SIDES = (1.0, -1.0)
_TURNS = (0.0, 0.5, 1.0)  # shares of the turn through which the hinge has to hold


class Upright(NamedTuple):
    """The standing tree as the hinge feels it."""

    body: Body
    weight: Column
    wind: Wind
    gust: Column
    wedge_side: Column
    guy: GuyMoments
    turn: Column
    length: Column


def held_sideways(plan: FellingInput, fixed: Fixed, x: Columns, stands: Upright) -> Columns:
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
    rows = [
        row
        for side, worst in zip(_SIDES, fixed.ends, strict=True)
        for row in _loaded(plan, fixed, x | worst, stands, side, ends)
    ]
    table = np.stack(np.broadcast_arrays(*(cell for row in rows for cell in row)))
    side, press, shear, twist, shape = table.reshape(len(rows), 5, *table.shape[1:]).swapaxes(0, 1)
    load = Load(side, press, shear, twist)
    wood = Fibre(
        x["kept"] * x["mor"] * shape,
        x["crush"],
        x["shear"],
        x["torsion"] * x["shear"],
        stands.length,
        net_length(fixed.wood, stands.length),
    )
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
    plan: FellingInput, fixed: Fixed, x: Columns, stands: Upright, side: float, ends: Column
) -> list[tuple[Column, ...]]:
    """What the hinge feels on one side at each turn, lean, crown and pull at their worst, and its shape [-]; hinge
    (18).
    """
    _, offset = cg_offsets(stands.body, x, plan.cuts.stump, plan.lay)
    off = side * (offset - fixed.beside)  # to this side of the hinge's middle
    pulled = pulled_by(plan, fixed.pivot, x, side * fixed.pull_off)
    # What helps against this side may slacken or slip: it counts for nothing.
    pull = np.maximum(side * np.asarray(pulled.across), 0.0)
    wedge = np.maximum(side * np.asarray(stands.wedge_side), 0.0)
    besides = stands.gust + pull + wedge
    level = np.maximum(side * np.asarray(pulled.level_across), 0.0) + stands.gust / stands.wind.arm
    along = np.maximum(pulled.level, 0.0)
    shape = holding_shape(fixed.wood, side, stands.length)
    rows: list[tuple[Column, ...]] = []
    for share in _TURNS:
        turn = share * ends
        moment = np.maximum(stands.weight * off * np.cos(turn) + besides, 0.0)  # (18)
        if fixed.guyed and plan.guy is not None:
            moment = moment - _taken_by_guy(plan.guy, stands.guy, side, moment)
        twist = np.maximum(torsion(stands.weight, off, turn), 0.0)
        shear = np.hypot(level, along + stands.weight * np.sin(turn))
        rows.append((moment, stands.weight * np.cos(turn), shear, twist, shape))
    return rows


def _taken_by_guy(guy: Guy, works: GuyMoments, side: float, moment: Column) -> Column:
    """What a guy line that stays taut takes off one side at the lower end of its tension [N·m]; hinge (18)."""
    low = constant("guy_tension").low
    lever = np.maximum(-side * np.asarray(works.lever), 0.0)
    taken: Column = np.minimum(low * moment, low * guy.limit * lever) * (lever > 0.0)
    return taken


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
