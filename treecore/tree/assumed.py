"""The assumed crown limb by limb: where each hangs, how thick its share of the mass makes it, what it weighs."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.estimate import Estimate, Kind, product, times
from treecore.schools import constant
from treecore.tree.body import TreeInput, assumed_crown, foliage_carried, uncertain
from treecore.tree.crown import slots
from treecore.tree.limb import Limb, Placed

Array = NDArray[np.float64]


class Hanging(NamedTuple):
    """Assumed limbs still there, as arrays: numbers, what each grows from (-1 the stem), places
    [m], sizes [m], [rad].
    """

    number: Array
    parent: NDArray[np.int_]
    at: Array
    base: Array
    root: Array
    azimuth: Array
    rise: Array
    length: Array
    diameter: Array
    weight: Array


@lru_cache(maxsize=128)
def _slot_array(form: str, centre: float, slender: float) -> Array:
    return np.array(slots(form, centre, slender))


def hanging(tree: TreeInput, crown: float) -> Hanging:
    """Work out where the assumed limbs hang; above a fork each on the lead on its side.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    crown : float
        Mass of the whole assumed crown, none of it replaced. [kg]

    References
    ----------
    Inverse of limb (1); docs/methods.md, crown (6).
    """
    rows = _slot_array(tree.kind.form, tree.group.crown_centre.value, tree.slender)
    gone = np.isin(rows[:, 0], list(tree.replaced)) if tree.replaced else np.zeros(len(rows), dtype=bool)
    number, azimuth, rise, union, reach, weight, _ = rows[~gone].T
    foot = tree.crown_base_share * tree.height.value
    height = foot + (tree.height.value - foot) * union
    length = np.maximum(tree.spread.value / 2.0 * reach / np.cos(rise), 0.2)
    parent, at, base, root, thick = _grown_from(tree, height, azimuth)
    density = uncertain(tree)["density"].value
    leaves = tree.group.limb_foliage.value * foliage_carried(tree)
    wood = density * length / (2.0 * constant("limb_taper").value + 1.0) * (1.0 + constant("limb_side").value)
    across = np.sqrt(crown * weight / (math.pi / 4.0 * (wood + leaves)))
    across = np.maximum(np.minimum(across, thick), 0.005)
    return Hanging(number, parent, at, base, root, azimuth, rise, length, across, weight)


def _grown_from(tree: TreeInput, height: Array, azimuth: Array) -> tuple[NDArray[np.int_], Array, Array, Array, Array]:
    """What each grows from, where along it, its place, its height on the stem, and how thick that is there."""
    top = tree.stem.top
    at = np.minimum(height, 0.95 * top)
    base = np.column_stack([np.zeros_like(at), np.zeros_like(at), at])
    parent, thick = np.full(len(at), -1), np.array([tree.stem.diameter_at(z) for z in at.tolist()])
    if tree.fork is None:
        return parent, at, base, at, thick
    where = tree.placed
    leads = np.array([k for k, i in enumerate(where.order) if tree.limbs[i].codominant])
    turn = np.column_stack([np.sin(azimuth), np.cos(azimuth)])
    nearest = leads[(turn @ where.direction[leads, :2].T).argmax(axis=1)]
    climb = np.maximum(where.direction[nearest, 2], 0.1)
    along = np.clip((height - where.base[nearest, 2]) / climb, 0.0, 0.9 * where.length[nearest])
    above = height > top
    place = where.base[nearest] + where.direction[nearest] * along[:, None]
    return (
        np.where(above, nearest, -1),
        np.where(above, along, at),
        np.where(above[:, None], place, base),
        np.where(above, where.root[nearest], at),
        np.where(above, where.diameter[nearest], thick),
    )


def with_assumed(tree: TreeInput) -> Placed:
    """Return the tree's limbs placed together with the assumed ones that hang on its leads.

    Parameters
    ----------
    tree : TreeInput
        A forked tree with some of its crown assumed.
    """
    rows = hanging(tree, assumed_crown(tree))
    on = rows.parent >= 0
    where, n, k = tree.placed, len(tree.limbs), int(on.sum())
    level = np.cos(rows.rise)
    direction = np.column_stack([level * np.sin(rows.azimuth), level * np.cos(rows.azimuth), np.sin(rows.rise)])
    loose = constant("limb_assumed")
    ones = np.ones(k)
    return Placed(
        (*where.order, *range(n, n + k)),
        (*where.parent, *rows.parent[on].tolist()),
        (*where.generations, (n, n + k)),
        np.vstack([where.base, rows.base[on]]),
        np.append(where.root, rows.root[on]),
        np.vstack([where.direction, direction[on]]),
        np.append(where.length, rows.length[on]),
        np.append(where.diameter, rows.diameter[on]),
        np.append(where.carries, ones),
        np.append(where.foliage, ones),
        np.append(where.dead, 0.0 * ones),
        np.append(where.error, ones * (loose.high - loose.low) / 2.0),
        np.append(where.guess, ones),
    )


class AssumedLimb(NamedTuple):
    """One limb of the assumed crown as a person could have measured it, its mass [kg], union and height on the stem
    [m].
    """

    number: int
    limb: Limb
    mass: Estimate
    base: tuple[float, float, float]
    root: float


def assumed_limbs(tree: TreeInput, crown: Estimate) -> tuple[AssumedLimb, ...]:
    """Return the limbs of the assumed crown that are still there, with the diameters their masses ask for.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    crown : Estimate
        Mass of the whole assumed crown, none of it replaced. [kg]

    References
    ----------
    docs/methods.md, crown (6).
    """
    if len(tree.replaced) and tree.remainder.share == 0.0:
        return ()
    rows, loose = hanging(tree, crown.value), constant("limb_assumed")
    own = Estimate(1.0, 1.0 + loose.low, 1.0 + loose.high, Kind.ASSUMED)
    whole = product(crown, own)
    names = [tree.limbs[i].name for i in tree.placed.order] if tree.fork is not None else []
    found = []
    for k, number in enumerate(rows.number.astype(int).tolist()):
        at, azimuth, rise, length, across, weight = (
            float(a[k]) for a in (rows.at, rows.azimuth, rows.rise, rows.length, rows.diameter, rows.weight)
        )
        parent = int(rows.parent[k])
        limb = Limb(
            name=f"assumed {number + 1}",
            parent=names[parent] if parent >= 0 else "",
            at=at,
            azimuth=azimuth,
            rise=rise,
            length=length,
            diameter=across,
            kind=Kind.ASSUMED,
        )
        east, north, up = rows.base[k].tolist()
        found.append(AssumedLimb(number, limb, times(whole, weight), (east, north, up), float(rows.root[k])))
    return tuple(found)
