"""The hinge: how thin it may be to hold sideways, how thick to bend."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from treecore.errors import Column, NotSolvable, all_positive, positive
from treecore.felling.notch import Cuts
from treecore.tree.chord import hinge_chord, sound_chord

ELASTIC = 6.0  # moment of a rectangle's outer fibre: width times thickness squared over this [-]


def thin_limit(side_moment: float, strength: float, strength_reduction: float, length: float) -> float:
    """Thinnest hinge whose strong axis holds a side moment that acts alone [m]; docs/methods.md, hinge (1).

    Parameters
    ----------
    side_moment : float
        Moment across the lay at the hinge, either sign. [N·m]
    strength : float
        Green modulus of rupture. [Pa]
    strength_reduction : float
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
    wood = (
        positive("strength_reduction", strength_reduction)
        * positive("strength", strength)
        * positive("length", length) ** 2
    )
    return ELASTIC * abs(side_moment) / wood  # (1)


def bending_moment(strength: float, length: float, thickness: float, section: float = 1.0) -> float:
    """Moment that bends the hinge about its weak axis [N·m]; docs/methods.md, hinge (2).

    Parameters
    ----------
    strength : float
        Green modulus of rupture. [Pa]
    length, thickness : float
        Hinge length and thickness. [m]
    section : float
        What it takes over that: 1 as MOR is tabulated, 1.5 for a fully plastic section. [-]

    Raises
    ------
    OutOfRange
        Unless all are above zero.

    References
    ----------
    MOR is the moment at failure over the elastic section modulus (ASTM D143; USDA Wood Handbook), so that the
    sixth is the ultimate moment already.
    """
    wood = positive("strength", strength) * positive("length", length) * positive("section", section)
    return wood * positive("thickness", thickness) ** 2 / ELASTIC  # (2)


def thick_limit(forward_moment: Column, strength: Column, length: Column, section: Column = 1.0) -> Column:
    """Thickest hinge the moment at hand still bends [m]; docs/methods.md, hinge (3).

    Parameters
    ----------
    forward_moment : Column
        Moment left for the hinge after tipping the tree; at or below zero no hinge bends and the limit is 0. [N·m]
    strength : Column
        Green modulus of rupture. [Pa]
    length : Column
        Hinge length. [m]
    section : Column
        As in ``bending_moment``. [-]

    Raises
    ------
    OutOfRange
        As ``bending_moment``.

    References
    ----------
    Inverse of (2).
    """
    wood = all_positive("strength", strength) * all_positive("length", length) * all_positive("section", section)
    return np.sqrt(ELASTIC * np.maximum(forward_moment, 0.0) / wood)  # (3)


def sound_length(cuts: Cuts, bark: Column) -> Column:
    """Hinge length less the bark at its two ends, which holds nothing [m]; docs/methods.md, hinge (13).

    Parameters
    ----------
    cuts : Cuts
        The cuts.
    bark : Column
        Thickness of the bark on one side over the stem's diameter. [-]

    References
    ----------
    Chord of the ellipse inside the bark, at the same apex.
    """
    return sound_chord(cuts.depth, cuts.along, cuts.across, bark)  # (13)


class HingeWood(NamedTuple):
    """What is left to hold and bend in a hinge: mean thickness, left end less right end, length, hole's mean chord [m].

    ``front`` is how far the front recedes at the left end and at the right for a cut that ran past the apex [m].
    """

    mean: float
    taper: float
    length: float
    hole: float
    front: tuple[float, float]

    @property
    def left(self) -> float:
        """Thickness at the left end [m]."""
        return self.mean + self.taper / 2.0

    @property
    def right(self) -> float:
        """Thickness at the right end [m]."""
        return self.mean - self.taper / 2.0


def hinge_wood(cuts: Cuts, cavity: float = 0.0) -> HingeWood:
    """Wood of the hinge after a tapered back cut, a cut past the apex and a cavity; docs/methods.md, hinge (4) to (6).

    Parameters
    ----------
    cuts : Cuts
        The cuts.
    cavity : float
        Diameter of a hollow or decayed core round the stem's centre at the cut. [m]

    Raises
    ------
    NotSolvable
        If the core leaves no hinge.

    References
    ----------
    Geometry; decayed wood is counted as none.
    """
    length = hinge_chord(cuts.depth, cuts.along, cuts.across)
    apex = cuts.along / 2.0 - cuts.depth
    hole = core_chord(cavity, apex - cuts.hinge, apex)
    if hole > 0.95 * length:
        raise NotSolvable(what="hinge", why="the hollow or decayed core leaves no wood for a hinge; choose another way")
    left = cuts.bypass if cuts.bypass_side == "left" else 0.0
    right = cuts.bypass if cuts.bypass_side == "right" else 0.0
    return HingeWood(cuts.hinge - (left + right) / 2.0, cuts.taper - left + right, length, hole, (left, right))  # (5)


def core_chord(cavity: float, low: float, high: float) -> float:
    """Mean chord of a round core over a strip of it [m]; docs/methods.md, hinge (6).

    Parameters
    ----------
    cavity : float
        Diameter of the core. [m]
    low, high : float
        Ends of the strip from the core's centre. [m]

    References
    ----------
    Area of a circle between two parallel lines over their distance.
    """
    radius = cavity / 2.0
    if radius <= 0.0 or low >= radius or high <= -radius:
        return 0.0

    def area(x: float) -> float:
        x = min(max(x, -radius), radius)
        return x * math.sqrt(radius**2 - x**2) + radius**2 * math.asin(x / radius)

    return (area(high) - area(low)) / (high - low)  # (6)


def holding_shape(wood: HingeWood, side: Column, length: Column) -> Column:
    """How the hinge's taper and its hole change what it holds sideways, 1 for an even, whole one [-]; hinge (4), (6).

    Parameters
    ----------
    wood : HingeWood
        The hinge.
    side : Column
        Side moment, to the right positive: the left end is then in tension. [N·m]
    length : Column
        Of its sound wood. [m]

    References
    ----------
    Section modulus of a trapezoid about its strong axis at the end in tension (Gere & Timoshenko, Mechanics of
    Materials).
    """
    uneven = wood.taper / wood.mean * np.where(np.asarray(side) >= 0.0, 1.0, -1.0)
    even = (1.0 - uneven**2 / 12.0) / (1.0 - uneven / 6.0)  # (4)
    return even * (1.0 - np.minimum(wood.hole / length, 0.99) ** 3)  # (6)


def bending_shape(wood: HingeWood, length: Column) -> Column:
    """Length times mean squared thickness of a tapered hinge with a hole in it [m3]; docs/methods.md, hinge (4), (6).

    Parameters
    ----------
    wood : HingeWood
        The hinge.
    length : Column
        Of its sound wood. [m]

    References
    ----------
    Mean of the square of a thickness that runs evenly from end to end.
    """
    return net_length(wood, length) * (wood.mean**2 + wood.taper**2 / 12.0)  # (4)


def net_length(wood: HingeWood, length: Column) -> Column:
    """Length of a hinge less its hole; a fiftieth is left where decay takes all [m].

    Parameters
    ----------
    wood : HingeWood
        The hinge.
    length : Column
        Of its sound wood. [m]
    """
    return np.maximum(length - wood.hole, 0.02 * wood.length)


def turn_by_hinge(wood: HingeWood) -> float:
    """How far a tapered hinge turns the lay, to the right positive [rad]; docs/methods.md, hinge (7).

    Parameters
    ----------
    wood : HingeWood
        The hinge; a bypass is left to ``turn_by_bypass``.

    References
    ----------
    The stem turns about the hinge's middle line, which slants when one end is thicker.
    """
    cut = wood.taper + wood.front[0] - wood.front[1]
    return -math.atan(cut / (2.0 * wood.length))  # (7)


def turn_by_bypass(wood: HingeWood) -> float:
    """How far a cut past the apex turns the lay once it closes, to the right positive [rad]; docs/methods.md, hinge
    (8).

    Parameters
    ----------
    wood : HingeWood
        The hinge.

    References
    ----------
    The stem then turns about the mouth of the closed kerf and the middle of the other end.
    """
    left, right = wood.front
    if left <= 0.0 and right <= 0.0:
        return 0.0
    other = wood.right if left > 0.0 else wood.left
    return math.copysign(math.atan(other / (2.0 * wood.length)), left - right)  # (8)


def bypass_closes(bypass: float, kerf: float) -> float:
    """Turn of the stem at which a kerf run past the apex closes [rad]; docs/methods.md, hinge (9).

    Parameters
    ----------
    bypass : float
        How far it ran past. [m]
    kerf : float
        Its height. [m]

    Raises
    ------
    OutOfRange
        Unless both are above zero.

    References
    ----------
    Its mouth has fallen by its height.
    """
    return math.atan(positive("kerf", kerf) / positive("bypass", bypass))  # (9)


def shear_stress(force: Column, wood: HingeWood, length: Column) -> Column:
    """Greatest shear in the hinge under a level pull before the tree moves [Pa]; docs/methods.md, hinge (10).

    Parameters
    ----------
    force : Column
        Level part of the pull along the lay. [N]
    wood : HingeWood
        The hinge.
    length : Column
        Of its sound wood. [m]

    References
    ----------
    One and a half times the mean in a rectangle (Gere & Timoshenko, Mechanics of Materials).
    """
    stress: Column = 1.5 * np.abs(force) / (net_length(wood, length) * wood.mean)  # (10)
    return stress
