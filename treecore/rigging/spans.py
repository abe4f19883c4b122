"""Lines between two high points: a speed line with its load, and a piece that drifts across on two ropes."""

from __future__ import annotations

import math

import numpy as np

from treecore.errors import NotSolvable, positive
from treecore.ranges import believed


def speed_pulls(weight: float, level: float, rise: float, sag: float) -> tuple[float, float]:
    """Tension of a speed line at its first and second end, the load hanging still at its middle [N]; forces (13).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    level, rise : float
        Level distance of its ends, and how much higher the second stands. [m]
    sag : float
        Of the line under the load, plumb below its chord, over the chord's length. [-]

    Raises
    ------
    OutOfRange
        Unless it sags by 1 to 50 % of its span.

    References
    ----------
    Triangle of forces at the load: level pull W·l/4f on both sides; the line's own weight is left out.
    """
    believed("sag", sag, "speed_sag")
    drop, half = sag * math.hypot(positive("span", level), rise), level / 2.0
    pull = weight * level / (4.0 * drop)
    first, second = (pull * math.hypot(half, drop - end * rise / 2.0) / half for end in (1.0, -1.0))
    return first, second  # (13)


def drift_pulls(weight: float, apart: float, rise: float, below: float) -> tuple[float, float]:
    """Most that either rope carries while a piece drifts level from under one point to under another [N]; forces (14).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    apart : float
        Level distance of the points. [m]
    rise : float
        How much higher the second stands. [m]
    below : float
        How far under the first the piece goes. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        Where the piece is as high as one of the points.

    References
    ----------
    Triangle of forces at twenty places between them.
    """
    positive("below", below)
    if below + rise <= 0.0:
        raise NotSolvable(what="far_anchor", why="the second high point lies below the piece: it can't drift there")
    x = np.linspace(0.02, 0.98, 20) * positive("apart", apart)
    left, right = np.arctan2(x, below), np.arctan2(apart - x, below + rise)
    both = np.sin(left + right)
    return weight * float((np.sin(right) / both).max()), weight * float((np.sin(left) / both).max())  # (14)
