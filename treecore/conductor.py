"""A standing tree against an overhead conductor."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from treecore.estimate import Kind, exactly
from treecore.overhead import Conductor
from treecore.tree.body import TreeInput
from treecore.tree.crown import half_widths
from treecore.verdict import About, Limit

Array = NDArray[np.float64]


@lru_cache(maxsize=256)
def clearance(conductor: Conductor, tree: TreeInput, x: float, y: float) -> Limit:
    """Least distance of the standing tree from a conductor, against the distance to keep; docs/methods.md, conductor
    (3).

    Parameters
    ----------
    conductor : Conductor
        The span.
    tree : TreeInput
        The tree, at the upper bounds of height and spread.
    x, y : float
        Where it stands. [m]

    References
    ----------
    Distance of points on the curve from the crown as a body of turned outline round the leaning axis.
    """
    gap = _distance(conductor.curve(), tree, x, y)
    return conductor_limit(conductor, gap, "standing")


def conductor_limit(conductor: Conductor, gap: float, role: str) -> Limit:
    """Hold a least distance against the one to keep; one rule for felling and takedown.

    Parameters
    ----------
    conductor : Conductor
        The span.
    gap : float
        Least distance. [m]
    role : str
        What comes so near: standing, climber, piece, rope, way_down or machine.
    """
    keep = exactly(conductor.keep, Kind.ASSUMED)
    return Limit(
        "conductor", conductor.verdict(gap), exactly(gap, Kind.ESTIMATED), keep, About(name=conductor.name, role=role)
    )


def _distance(curve: Array, tree: TreeInput, x: float, y: float) -> float:
    height, half = tree.stands.high, tree.half_crown.high
    foot = tree.crown_base_share * tree.height.value
    share, widths = np.array(half_widths(tree.kind.form)).T
    z = np.concatenate([[0.0, foot], foot + (height - foot) * share, [height]])
    r = np.concatenate([[0.1, tree.diameter.value / 2.0], half * widths, [0.0]])
    fine = np.linspace(0.0, height, 200)
    radius = np.interp(fine, z, r)
    lean = math.tan(tree.lean)
    axis_x = x + fine * lean * math.sin(tree.lean_azimuth) + (tree.crown_east or 0.0) * (fine > foot)
    axis_y = y + fine * lean * math.cos(tree.lean_azimuth) + (tree.crown_north or 0.0) * (fine > foot)
    away = np.hypot(curve[:, :1] - axis_x, curve[:, 1:2] - axis_y) - radius
    up = curve[:, 2:] - fine
    return float(np.hypot(np.maximum(away, 0.0), up).min())  # (3)
