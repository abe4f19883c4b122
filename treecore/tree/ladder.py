"""Pieces of stem and the weight ladder: mass of any length, and how long a piece may be for a given mass."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column, NotSolvable, between, inside
from treecore.estimate import Estimate, Kind, moves, propagate, root_sum, swings
from treecore.tree.body import TreeInput, stem_between, uncertain
from treecore.tree.stem import VolumeRules, volume_rules

Columns = dict[str, Column]
Array = NDArray[np.float64]
_STEM_INPUTS = ("density", "diameter", "height", "taper", "upper", "cavity", "decay_lost")


class Piece(NamedTuple):
    """A length of stem between two cuts: mass [kg], CG height above the ground [m], volume by four rules [m3]."""

    low: float
    high: float
    mass: Estimate
    cg: Estimate
    rules: VolumeRules


def stem_inputs(tree: TreeInput) -> dict[str, Estimate]:
    """Uncertain figures that decide the stem's mass, by name.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    """
    return {name: e for name, e in uncertain(tree).items() if name in _STEM_INPUTS}


def piece(tree: TreeInput, low: float, high: float) -> Piece:
    """Weigh the stem between two cuts; limbs are not in it.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    low, high : float
        The cuts, above the ground. [m]

    Raises
    ------
    OutOfRange
        If the cuts are not on the stem in this order.

    References
    ----------
    docs/methods.md, stem (2) to (7).
    """
    between("high", high, 0.0, tree.stem.top, "inside the stem", "length")
    inside("low", low, -0.001, high, "below the upper cut", "length")
    s = propagate(lambda x: _mass_and_cg(tree, x, low, high), stem_inputs(tree))
    return Piece(low, high, s["mass"].size(), s["cg"].size(), volume_rules(tree.stem, low, high))


def _mass_and_cg(tree: TreeInput, x: Columns, low: float, high: float) -> Columns:
    volume, moment, _ = stem_between(tree, x, low, high)
    empty = np.asarray(volume) <= 1e-9  # the lowest credible tip lies below this piece
    cg = np.where(empty, (low + high) / 2.0, moment / np.where(empty, 1.0, volume))
    return {"mass": volume * x["density"], "cg": cg}


class Rung(NamedTuple):
    """One rung of the ladder: height [m], mass per metre [kg/m], and how long a piece from here up may be [m]."""

    height: float
    per_metre: Estimate
    length: float
    reaches_top: bool


def ladder(tree: TreeInput, limit: float, step: float = 1.0) -> tuple[Rung, ...]:
    """Climb the stem rung by rung; piece lengths hold for the upper bound of the mass.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    limit : float
        What a piece may weigh at most. [kg]
    step : float
        Between rungs. [m]

    Raises
    ------
    OutOfRange
        On a limit nobody lowers, or a step that is no ladder.

    References
    ----------
    docs/methods.md, ladder (1), (2).
    """
    between("limit", limit, 5.0, 20000.0, "pieces of 5 kg to 20 t", "mass")
    between("step", step, 0.1, 5.0, "rungs 0.1 to 5 m apart", "length")
    top = tree.stem.top
    heights = np.append(np.arange(0.0, top - 0.3 * step, step), top)
    if len(heights) < 3:
        raise NotSolvable(what="step", why="the stem is shorter than two rungs; take smaller steps")
    inputs = stem_inputs(tree)
    # One row per move, one column per rung.
    x: Columns = {name: np.asarray(column)[..., None] for name, column in moves(inputs, list(inputs)).items()}
    rungs = _masses(tree, x, heights[:-1], heights[1:]) / np.diff(heights)  # (1)
    fall, rise = swings(rungs)
    low, high = rungs[0] - root_sum(fall), rungs[0] + root_sum(rise)
    lengths = _lengths(tree, x, heights[:-1], limit)
    return tuple(
        Rung(
            float(h),
            Estimate(float(rungs[0, i]), max(float(low[i]), 0.0), float(high[i]), Kind.ESTIMATED),
            float(lengths[i]),
            bool(h + lengths[i] >= top - 1e-6),
        )
        for i, h in enumerate(heights[:-1])
    )


def _masses(tree: TreeInput, x: Columns, low: Array, high: Array) -> Array:
    found: Array = np.asarray(stem_between(tree, x, low, high)[0] * x["density"])
    return found


def _lengths(tree: TreeInput, x: Columns, low: Array, limit: float) -> Array:
    """Lengths of the pieces from each rung up whose upper bound keeps the limit, by halving; docs/methods.md, ladder
    (2).
    """
    near, far = low, np.full_like(low, tree.stem.top)
    for step in range(34):
        middle = (near + far) / 2.0 if step else far
        table = _masses(tree, x, low, middle)
        light = table[0] + root_sum(swings(table)[1]) <= limit  # (2)
        near, far = np.where(light, middle, near), np.where(light, far, middle)
    return near - low
