"""The hinge: how thin it may be to hold sideways, how thick to bend."""

from __future__ import annotations

import numpy as np

from treecore.errors import Column, all_positive, between, positive

PLASTIC, YIELD = 4.0, 6.0  # section shape of a rectangle: fully plastic, first yield [-]


def thin_limit(side_moment: float, strength: float, kept: float, length: float) -> float:
    """Thinnest hinge whose strong axis holds the side moment [m]; docs/methods.md, hinge (1).

    Parameters
    ----------
    side_moment : float
        Moment across the lay at the hinge, either sign. [N·m]
    strength : float
        Green modulus of rupture. [Pa]
    kept : float
        Share of it the yielding fibres keep. [-]
    length : float
        Hinge length. [m]

    Raises
    ------
    OutOfRange
        Unless strength, share and length are above zero.

    References
    ----------
    Section modulus t·l²/6 of a rectangle about its strong axis (Gere & Timoshenko, Mechanics of Materials).
    """
    return (
        6.0
        * abs(side_moment)
        / (positive("kept", kept) * positive("strength", strength) * positive("length", length) ** 2)
    )  # (1)


def bending_moment(strength: float, length: float, thickness: float, shape: float = PLASTIC) -> float:
    """Moment that bends the hinge about its weak axis [N·m]; docs/methods.md, hinge (2).

    Parameters
    ----------
    strength : float
        Green modulus of rupture. [Pa]
    length, thickness : float
        Hinge length and thickness. [m]
    shape : float
        4 for a fully plastic section, 6 for first yield. [-]

    Raises
    ------
    OutOfRange
        Unless all are above zero and shape is 4 to 6.

    References
    ----------
    Elastic and plastic section moduli of a rectangle (Gere & Timoshenko, Mechanics of Materials).
    """
    between("shape", shape, PLASTIC, YIELD)
    return (
        positive("strength", strength) * positive("length", length) * positive("thickness", thickness) ** 2 / shape
    )  # (2)


def thick_limit(forward_moment: Column, strength: Column, length: float, shape: float = PLASTIC) -> Column:
    """Thickest hinge the moment at hand still bends [m]; docs/methods.md, hinge (3).

    Parameters
    ----------
    forward_moment : Column
        Moment left for the hinge after tipping the tree; at or below zero no hinge bends and the limit is 0. [N·m]
    strength : float
        Green modulus of rupture. [Pa]
    length : float
        Hinge length. [m]
    shape : float
        As in ``bending_moment``. [-]

    Raises
    ------
    OutOfRange
        As ``bending_moment``.

    References
    ----------
    Inverse of (2).
    """
    between("shape", shape, PLASTIC, YIELD)
    wood = all_positive("strength", strength) * positive("length", length)
    return np.sqrt(shape * np.maximum(forward_moment, 0.0) / wood)  # (3)
