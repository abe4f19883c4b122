"""What a hinge holds sideways: bending across the lay with the pressing, shear and twist that act at the same time."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from treecore.errors import Column
from treecore.felling.hinge import ELASTIC

_ROUNDS = 7  # Newton's steps; they come from below and double their digits each


class Load(NamedTuple):
    """What acts on a hinge at one turn: moment about its strong axis [N·m], weight on it, shear [N], twist [N·m]."""

    side: Column
    press: Column
    shear: Column
    twist: Column


class Fibre(NamedTuple):
    """What a hinge's wood takes: in bending across the lay, pressed, sheared and twisted off [Pa]; its lengths [m].

    ``length`` is the sound wood from end to end, ``net`` that less a hole.
    """

    bending: Column
    crushing: Column
    shear: Column
    torsion: Column
    length: Column
    net: Column


class Shares(NamedTuple):
    """Shares of what a thickness takes [-]: side moment, pressing (squared), twist, shear (squared)."""

    side: Column
    press: Column
    twist: Column
    shear: Column

    @property
    def use(self) -> Column:
        """All of them together; 1 where the hinge gives way. Docs/methods.md, hinge (16)."""
        return (self.side + self.press) ** 2 + (self.twist + self.shear) ** 2  # (16)


def twist_held(thick: Column, length: Column, strength: Column) -> Column:
    """Twist that a strip gives way under, yielding all through [N·m]; docs/methods.md, hinge (14).

    Parameters
    ----------
    thick, length : Column
        Its sides; the shorter counts as thickness. [m]
    strength : Column
        Shear stress at which it yields. [Pa]

    References
    ----------
    Plastic torsion of a rectangle by the sand heap, τ·s²·(3·l − s)/6 (Nádai 1931, Plasticity).
    """
    short, long = np.minimum(thick, length), np.maximum(thick, length)
    return strength * short**2 * (3.0 * long - short) / 6.0  # (14)


def twist_limit(twist: Column, length: Column, strength: Column) -> Column:
    """Thinnest hinge that is not twisted off by a twist that acts alone [m]; docs/methods.md, hinge (14) solved.

    Parameters
    ----------
    twist : Column
        Its size. [N·m]
    length : Column
        Of the sound hinge; no thicker one is looked for. [m]
    strength : Column
        As for ``twist_held``. [Pa]

    References
    ----------
    Fixed point of t = √(6·T/(τ·(3·l − t))).
    """
    thick = np.zeros_like(np.asarray(twist * length))
    for _ in range(30):
        thick = np.minimum(np.sqrt(6.0 * twist / (strength * (3.0 * length - thick))), length)
    return thick


def shares(thick: Column, load: Load, wood: Fibre) -> Shares:
    """How much of what a hinge takes each load uses up; docs/methods.md, hinge (15).

    Parameters
    ----------
    thick : Column
        Its thickness. [m]
    load : Load
        What acts on it at once.
    wood : Fibre
        What its wood takes.

    References
    ----------
    Pressing and bending as in EN 1995-1-1, 6.2.4 (pressing squared, bending straight); twist and shear as proposed for
    its next edition (twist straight, shear squared); shear 1.5 times the mean in a rectangle.
    """
    return Shares(
        side=ELASTIC * load.side / (wood.bending * thick * wood.length**2),
        press=(load.press / (wood.crushing * thick * wood.net)) ** 2,
        twist=load.twist / twist_held(thick, wood.length, wood.torsion),
        shear=(1.5 * load.shear / (wood.shear * thick * wood.net)) ** 2,
    )  # (15)


def joint_limit(load: Load, wood: Fibre) -> Column:
    """Thinnest hinge that takes all loads at once [m]; docs/methods.md, hinge (16) solved for the thickness.

    Parameters
    ----------
    load : Load
        What acts on it at once; something presses.
    wood : Fibre
        What its wood takes.

    References
    ----------
    Normal and shear stress on a circle of interaction (Norris 1962, USDA FPL Report 1816). The logarithm of the use
    bends upward over that of the thickness, so Newton's steps from a thickness that one load alone uses up stay below
    the answer and run up to it.
    """
    thick = np.maximum(
        ELASTIC * load.side / (wood.bending * wood.length**2), load.press / (wood.crushing * wood.net)
    )  # no more than the answer: each alone
    thick = np.maximum(thick, np.sqrt(2.0 * load.twist / (wood.torsion * wood.length)))
    for _ in range(_ROUNDS):
        part = shares(thick, load, wood)
        flat = np.minimum(thick / wood.length, 1.0)
        falls = 2.0 - flat / (3.0 - flat)
        slope = -2.0 * (part.side + part.press) * (part.side + 2.0 * part.press)
        slope = slope - 2.0 * (part.twist + part.shear) * (falls * part.twist + 2.0 * part.shear)
        thick = thick * np.exp(np.minimum(-np.log(part.use) * part.use / slope, 2.0))
    return thick


def side_held(thick: Column, load: Load, wood: Fibre) -> Column:
    """Side moment a hinge holds beside everything else that acts on it [N·m]; hinge (16) solved for the moment.

    Parameters
    ----------
    thick : Column
        Its thickness. [m]
    load : Load
        What acts at once; its side moment is not used.
    wood : Fibre
        What its wood takes.

    References
    ----------
    As ``joint_limit``.
    """
    part = shares(thick, load._replace(side=0.0), wood)
    left = np.sqrt(np.maximum(1.0 - (part.twist + part.shear) ** 2, 0.0)) - part.press
    return np.maximum(left, 0.0) * wood.bending * thick * wood.length**2 / ELASTIC


def closes_in(turn: Column, opening: float, parts: Column) -> Column:
    """Turn up to which the hinge has to hold: weight committed, notch closed or fibres parted, whichever is first
    [rad].

    Parameters
    ----------
    turn : Column
        At which the weight commits. [rad]
    opening : float
        Of the notch. [rad]
    parts : Column
        Turn at which a hinge of this wood parts by itself. [rad]

    References
    ----------
    docs/methods.md, hinge (17).
    """
    return np.minimum(np.minimum(np.maximum(turn, 0.0), opening), np.minimum(parts, math.pi / 2.0))  # (17)
