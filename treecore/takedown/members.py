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
from treecore.tree.assumed import AssumedLimb, assumed_limbs
from treecore.tree.body import TreeInput, stem_between, uncertain
from treecore.tree.ladder import stem_inputs
from treecore.tree.limb import Limb, masses, placed
from treecore.tree.shaping import axis_at
from treecore.tree.weigh import TreeResult, weigh

Array = NDArray[np.float64]
STEM = ""


class Members(NamedTuple):
    """Everything that can be cut, parents before their children; the stem is row 0 and is measured by height.

    ``at`` is the union's height on the stem, or its distance along the parent [m]; ``base`` the union, ``way`` the unit
    direction, from the stem's foot; ``end`` how far each reaches [m]. Masses [kg]; ``shared`` and ``own`` half widths of
    their errors, those of all members together, and downward and upward of each alone [-]; ``unions`` how each is joined to
    what it grows on.
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
    shared: Array
    own: Array
    assumed: NDArray[np.bool_]
    unions: tuple[str, ...]


def _taper() -> float:
    return constant("limb_taper").value


def _power(name: str) -> float:
    """Exponent of a mass that grows along a limb as a power, so that it balances at its constant's share."""
    centre = constant(name).value
    return centre / (1.0 - centre)


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
    where = placed(limbs)
    rows = [limbs[i] for i in where.order]
    names = (STEM, *(limb.name for limb in rows))
    lean = np.array([(*axis_at(tree, float(z)), 0.0) for z in where.root])
    axis, side, leaves = _masses(tree, standing, guessed, rows)
    stem_way = np.array(
        [[math.tan(tree.lean) * math.sin(tree.lean_azimuth), math.tan(tree.lean) * math.cos(tree.lean_azimuth), 1.0]]
    )
    crown, stem = _relative(standing.crown_mass.estimate), _relative(standing.stem_mass.estimate)
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
        shared=np.concatenate([[stem], np.full(len(rows), crown)]),
        own=own,
        assumed=np.array([False, *(limb.name not in {b.name for b in tree.limbs} for limb in rows)]),
        unions=("sound", *(limb.union for limb in rows)),
    )


def _relative(e: Estimate) -> float:
    return max(e.high - e.value, e.value - e.low) / e.value if e.value > 0.0 else 0.0


def _own(limb: Limb) -> tuple[float, float]:
    e = constant(f"limb_{limb.kind.value}")
    return -e.low, e.high


def _masses(
    tree: TreeInput, standing: TreeResult, guessed: tuple[AssumedLimb, ...], rows: list[Limb]
) -> tuple[Array, Array, Array]:
    """Axis, side wood and foliage of every limb [kg]: the measured by their formula, the assumed as shares of the crown."""
    if not rows:
        return np.zeros(0), np.zeros(0), np.zeros(0)
    x: dict[str, Column] = {name: e.value for name, e in uncertain(tree).items()}
    x |= {n: constant(n).value for n in ("limb_taper", "limb_side", "limb_side_cg", "limb_foliage_cg", "limb_dead")}
    x["limb_foliage"] = tree.group.limb_foliage.value
    carried = tree.condition.foliage if not (tree.state == "bare" and tree.group.leaf_on) else 1.0
    where = placed([*tree.limbs, *(a.limb for a in guessed)])
    lead = np.array([limb.lead for limb in rows], dtype=float)
    where = where._replace(carries=_carries(tree, rows) * (1.0 - lead * tree.remainder.share))
    total = masses(where, x, carried)[0][0]
    bare = masses(where, x, 0.0)[0][0]
    side_share = x["limb_side"]
    axis = bare / (1.0 + side_share * where.carries)
    shares = {a.limb.name: a.mass.value for a in guessed}
    scale = np.array([shares[limb.name] / total[i] if limb.name in shares else 1.0 for i, limb in enumerate(rows)])
    return axis * scale, (bare - axis) * scale, (total - bare) * scale


def _carries(tree: TreeInput, rows: list[Limb]) -> Array:
    """Share of side wood and foliage of each limb's own; assumed limbs on a lead do not take from it."""
    last = {limb.name: 0.0 for limb in rows}
    for limb in tree.limbs:
        if limb.parent:
            last[limb.parent] = max(last[limb.parent], limb.at)
    return np.array([1.0 - last[limb.name] / limb.length for limb in rows])


def within(members: Members, row: int, low: float, high: float) -> tuple[float, float]:
    """Mass between two places on a member [kg], and its mean place along it [m]; docs/methods.md, takedown (1), (2).

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        Which; row 0 is the stem, measured by height.
    low, high : float
        Places along it. [m]

    References
    ----------
    Closed integrals: axis by its taper, side wood and foliage by powers that keep their balance.
    """
    if high - low <= 0.0:
        return 0.0, low
    if row == 0:
        x: dict[str, Column] = {n: e.value for n, e in stem_inputs(members.tree).items()}
        volume, moment, _ = stem_between(members.tree, x, low, high)
        mass = float(volume) * float(x["density"])
        return mass, float(moment) / float(volume) if mass > 0.0 else (low + high) / 2.0
    length = float(members.end[row])
    a, b = low / length, min(high / length, 1.0)
    mass, first = 0.0, 0.0
    for weight, (m, f) in (
        (float(members.axis[row]), _tapering(a, b)),
        (float(members.side[row]), _growing(a, b, _power("limb_side_cg"))),
        (float(members.leaves[row]), _growing(a, b, _power("limb_foliage_cg"))),
    ):
        mass, first = mass + weight * m, first + weight * f
    return mass, first / mass * length if mass > 0.0 else (low + high) / 2.0


def foliage_within(members: Members, row: int, low: float, high: float) -> float:
    """Mass of the foliage between two places on a member [kg]; docs/methods.md, takedown (2).

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        Which.
    low, high : float
        Places along it. [m]
    """
    if members.leaves[row] <= 0.0 or high <= low:
        return 0.0
    length = float(members.end[row])
    share, _ = _growing(low / length, min(high / length, 1.0), _power("limb_foliage_cg"))
    return float(members.leaves[row]) * share


def _tapering(a: float, b: float) -> tuple[float, float]:
    """Share of an axis' mass between two shares of its length, and its first moment over the length; (1)."""
    p = 2.0 * _taper() + 1.0

    def up_to(s: float) -> tuple[float, float]:
        rest = max(1.0 - s, 0.0) ** p
        return 1.0 - rest, (1.0 - rest * (1.0 + p * s)) / (p + 1.0)

    (m0, f0), (m1, f1) = up_to(a), up_to(b)
    return m1 - m0, f1 - f0  # (1)


def _growing(a: float, b: float, n: float) -> tuple[float, float]:
    """The same for a mass that grows as a power of the place; (2)."""
    return b**n - a**n, n / (n + 1.0) * (b ** (n + 1.0) - a ** (n + 1.0))  # (2)


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
    return float(float(members.diameter[row]) * (1.0 - share) ** _taper())
