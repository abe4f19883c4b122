"""Lines between two high points: a speed line with its load, and a piece that drifts across on two ropes."""

from __future__ import annotations

import math

import numpy as np

from treecore.errors import NotSolvable, between, positive


def speed_pull(weight: float, span: float, sag: float) -> float:
    """Tension of a speed line with its load at the middle [N]; docs/methods.md, forces (13).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    span : float
        Between its ends. [m]
    sag : float
        Of the line under the load over its span. [-]

    Raises
    ------
    OutOfRange
        Unless it sags by 1 to 50 % of its span.

    References
    ----------
    Triangle of forces at the load; the line's own weight is left out.
    """
    between("sag", sag, 0.01, 0.5, "a loaded line sags by 1 to 50 % of its span")
    positive("span", span)
    return weight * math.hypot(0.5, 1.0 / (4.0 * sag))  # (13)


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
        raise NotSolvable("far", "the second high point lies below the piece: it can't drift there")
    x = np.linspace(0.02, 0.98, 20) * positive("apart", apart)
    left, right = np.arctan2(x, below), np.arctan2(apart - x, below + rise)
    both = np.sin(left + right)
    return weight * float((np.sin(right) / both).max()), weight * float((np.sin(left) / both).max())  # (14)
