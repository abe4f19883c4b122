"""The tree as members that can be cut: the stem, its limbs measured and assumed, and where along each its mass lies."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column
from treecore.estimate import Estimate
from treecore.schools import constant
from treecore.tree.assumed import assumed_limbs
from treecore.tree.body import TreeInput, foliage_carried, uncertain, whole_assumed
from treecore.tree.limb import Limb, Placed, limb_inputs, masses, placed
from treecore.tree.shaping import axis_at
from treecore.tree.weigh import weigh

Array = NDArray[np.float64]
STEM = ""


class Members(NamedTuple):
    """Everything that can be cut, parents before their children; the stem is row 0 and is measured by height.

    ``at`` is the union's height on the stem, or its distance along the parent [m]; ``base`` the union, ``way`` the unit
    direction, from the stem's foot; ``end`` how far each reaches [m]. Masses [kg]; ``own`` half widths of each one's
    own error, downward and upward [-]; ``unions`` how each is joined to what it grows on, ``leads`` which are leads of
    a fork. ``placed`` are the limbs as the body has them, ``weights`` each assumed one's share of the whole crown,
    none for a measured one [-].
    """

    tree: TreeInput
    names: tuple[str, ...]
    rows: dict[str, int]
    parent: tuple[int, ...]
    at: Array
    base: Array
    way: Array
    end: Array
    diameter: Array
    axis: Array
    side: Array
    leaves: Array
    own: Array
    assumed: NDArray[np.bool_]
    unions: tuple[str, ...]
    leads: tuple[bool, ...]
    placed: Placed
    weights: Array


@lru_cache(maxsize=16)
def members_of(tree: TreeInput) -> Members:
    """Take a tree apart into members; docs/methods.md, takedown (1), (2).

    Parameters
    ----------
    tree : TreeInput
        The tree.

    References
    ----------
    Limb (1), (2) and crown (6); lengths as the limbs were measured.
    """
    standing = weigh(tree)
    guessed = assumed_limbs(tree, standing.whole_crown)
    limbs = [*tree.limbs, *(a.limb for a in guessed)]
    where = placed(tuple(limbs))
    rows = [limbs[i] for i in where.order]
    names = (STEM, *(limb.name for limb in rows))
    lean = np.array([(*axis_at(tree, float(z)), 0.0) for z in where.root])
    lead = np.array([limb.codominant for limb in rows], dtype=float)
    where = where._replace(carries=_carries(tree, rows) * (1.0 - lead * tree.remainder.share))
    shares = {a.limb.name: a.mass.value / standing.whole_crown.value for a in guessed}
    weights = np.array([shares.get(limb.name, 0.0) for limb in rows])
    centre: dict[str, Column] = {name: e.value for name, e in wood_inputs(tree).items()}
    axis, side, leaves = (part[0] for part in limb_parts(tree, where, weights, centre))
    stem_way = np.array(
        [[math.tan(tree.lean) * math.sin(tree.lean_azimuth), math.tan(tree.lean) * math.cos(tree.lean_azimuth), 1.0]]
    )
    own = np.array([(0.0, 0.0), *(_own(limb) for limb in rows)])
    return Members(
        tree=tree,
        names=names,
        rows={name: i for i, name in enumerate(names)},
        parent=(-1, *(p + 1 for p in where.parent)),
        at=np.concatenate([[0.0], [limb.at for limb in rows]]),
        base=np.vstack([np.zeros((1, 3)), where.base + lean if rows else np.zeros((0, 3))]),
        way=np.vstack([stem_way, where.direction]),
        end=np.concatenate([[tree.stem.top], where.length]),
        diameter=np.concatenate([[tree.diameter.value], where.diameter]),
        axis=np.concatenate([[standing.stem_mass.estimate.value], axis]),
        side=np.concatenate([[0.0], side]),
        leaves=np.concatenate([[0.0], leaves]),
        own=own,
        assumed=np.array([False, *(limb.name not in {b.name for b in tree.limbs} for limb in rows)]),
        unions=("sound", *(limb.union for limb in rows)),
        leads=(False, *(limb.codominant for limb in rows)),
        placed=where,
        weights=weights,
    )


def _own(limb: Limb) -> tuple[float, float]:
    e = constant(f"limb_{limb.kind.value}")
    return -e.low, e.high


_STEM_AND_CROWN = (
    "density", "diameter", "height", "taper", "upper", "cavity", "decay_lost", "crown_scale", "crown_base",
    "crown_centre",
)  # fmt: skip


def wood_inputs(tree: TreeInput) -> dict[str, Estimate]:
    """Uncertain figures that decide what any member weighs, by name.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    """
    known = {name: e for name, e in uncertain(tree).items() if name in _STEM_AND_CROWN}
    return known | limb_inputs(tree.group.limb_foliage)


def limb_parts(tree: TreeInput, where: Placed, weights: Array, x: dict[str, Column]) -> tuple[Array, Array, Array]:
    """Axis, side wood and foliage of every limb [kg], each (moves, limbs): the measured by their formula, assumed as
    shares.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    where : Placed
        Its limbs, assumed ones with them.
    weights : array
        Share of the whole assumed crown of each, none for a measured one. [-]
    x : dict of Column
        Values for the names of ``wood_inputs``. [SI]

    References
    ----------
    Limb (1); docs/methods.md, crown (2), (6).
    """
    if not len(weights):
        return (np.zeros((1, 0)),) * 3
    carried = foliage_carried(tree)
    total, bare = masses(where, x, carried)[0], masses(where, x, 0.0)[0]
    axis = bare / (1.0 + np.atleast_1d(np.asarray(x["limb_side"], dtype=float))[:, None] * where.carries)
    crown = np.atleast_1d(np.asarray(whole_assumed(tree, x), dtype=float))[:, None]
    scale = np.where(weights > 0.0, crown * weights / total, 1.0)
    return axis * scale, (bare - axis) * scale, (total - bare) * scale


def _carries(tree: TreeInput, rows: list[Limb]) -> Array:
    """Share of side wood and foliage of each limb's own; assumed limbs on a lead do not take from it."""
    last = {limb.name: 0.0 for limb in rows}
    for limb in tree.limbs:
        if limb.parent:
            last[limb.parent] = max(last[limb.parent], limb.at)
    return np.array([1.0 - last[limb.name] / limb.length for limb in rows])


def place_on(members: Members, row: int, along: float) -> tuple[float, float, float]:
    """Where a place along a member is, from the stem's foot [m].

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        Which.
    along : float
        Along it; for the stem the height. [m]
    """
    (x, y, z), (east, north, up) = members.base[row].tolist(), members.way[row].tolist()
    return x + east * along, y + north * along, z + up * along


def beside(members: Members, row: int, along: float, azimuth: float, off: float) -> tuple[float, float, float]:
    """Place beside an upright member, off its bark to a side; on the axis of one that lies; from the stem's foot [m].

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        Which.
    along : float
        Along it; for the stem the height. [m]
    azimuth : float
        Side. [rad]
    off : float
        From its bark. [m]
    """
    x, y, z = place_on(members, row, along)
    if not is_upright(members, row):
        return x, y, z
    out = 0.5 * thickness(members, row, along) + off
    return x + out * math.sin(azimuth), y + out * math.cos(azimuth), z


def is_upright(members: Members, row: int) -> bool:
    """Whether a member stands so steep that a person stands beside it, and what swings under it meets it.

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        Which.
    """
    east, north, up = members.way[row].tolist()
    return bool(up >= _UPRIGHT * math.sqrt(east * east + north * north + up * up))


_UPRIGHT = math.sin(math.radians(60.0))  # members steeper than this are stood beside, not on


def thickness(members: Members, row: int, along: float) -> float:
    """Diameter of a member at a place along it [m].

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        Which.
    along : float
        Along it; for the stem the height. [m]

    References
    ----------
    Ormerod (1973), as limb (1).
    """
    if row == 0:
        return members.tree.stem.diameter_at(min(along, 0.999 * members.tree.stem.top))
    share = min(along / float(members.end[row]), 0.999)
    return float(float(members.diameter[row]) * (1.0 - share) ** constant("limb_taper").value)
