"""A stem that is out of round, turned to the lay: where its hinge ends, what a tape reads round the bark, how deep a
bar goes.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import positive
from treecore.felling.notch import Cuts
from treecore.schools import constant
from treecore.site import Site, place

Array = NDArray[np.float64]
_STEPS = 7200  # points of the rim that a tape is laid over


class Turned(NamedTuple):
    """An ellipse turned to the lay: extent along it, width through its middle across it [m]; how far the middle of a
    width moves to the right for every metre forward [-].
    """

    along: float
    across: float
    skew: float


def turned_to(mean: float, oval: float, azimuth: float, lay: float) -> Turned:
    """An oval stem as its cuts see it; docs/methods.md, notch (6).

    Parameters
    ----------
    mean : float
        Diameter of the circle of the same area. [m]
    oval : float
        First diameter over the one at right angles. [-]
    azimuth : float
        Bearing of the first diameter. [rad]
    lay : float
        Bearing of the lay. [rad]

    Raises
    ------
    OutOfRange
        Unless diameter and ratio are positive.

    References
    ----------
    Conjugate diameters of an ellipse: middles of parallel chords lie on a line; extent times width through the middle
    is the product of the axes.
    """
    long = positive("mean", mean) * math.sqrt(positive("oval", oval))
    short, turn = long / oval, azimuth - lay
    along = math.hypot(long * math.cos(turn), short * math.sin(turn))
    skew = (long**2 - short**2) * math.sin(turn) * math.cos(turn) / along**2
    return Turned(along, mean**2 / along, skew)  # (6)


class Marks(NamedTuple):
    """What is marked on the bark: tape from the front mark, on the lay through the stem's middle, round each way [m].

    ``apex`` is where the notch's cuts meet the bark at each end of the hinge, ``back`` where the hinge's back does,
    ``behind`` the mark straight behind; ``notch`` and ``wood`` how deep a bar laid along the lay goes a quarter of the
    hinge in from that end, from the front and from behind. First of each pair left, then right.
    """

    apex: tuple[float, float]
    back: tuple[float, float]
    behind: tuple[float, float]
    notch: tuple[float, float]
    wood: tuple[float, float]


def bark_marks(cuts: Cuts) -> Marks:
    """Marks round the bark for a tape, and bar depths; docs/methods.md, notch (7).

    Parameters
    ----------
    cuts : Cuts
        The cuts, the oval turned to the lay among them.

    References
    ----------
    Arc length of the ellipse, laid over closely spaced points of it; within a thousandth of a millimetre on a stem of
    1 m.
    """
    turn = np.linspace(0.0, math.tau, _STEPS + 1)
    x, y = _rim(cuts, turn)  # from the furthest forward, to the right
    along = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(x), np.diff(y)))])
    girth = float(along[-1])

    def tape(angle: float) -> float:
        return float(np.interp(angle % math.tau, turn, along))

    half = cuts.along / 2.0
    front = tape(_through_middle(cuts))
    behind = tape(_through_middle(cuts) + math.pi)
    apex = half - cuts.depth
    ends = [apex - cuts.hinge - cuts.taper / 2.0, apex - cuts.hinge + cuts.taper / 2.0]

    def at(forward: float) -> float:
        return math.acos(max(-1.0, min(1.0, forward / half)))

    def round_to(angle: float, right: bool) -> float:
        way = (tape(angle) - front) if right else (front - tape(-angle))
        return way % girth

    apexes = round_to(at(apex), False), round_to(at(apex), True)
    backs = round_to(at(ends[0]), False), round_to(at(ends[1]), True)
    halfway = (front - behind) % girth, (behind - front) % girth
    quarter = _depths(cuts, apex)
    return Marks(apexes, backs, halfway, (quarter[0][0], quarter[1][0]), (quarter[0][1], quarter[1][1]))  # (7)


def _rim(cuts: Cuts, turn: Array) -> tuple[Array, Array]:
    """Points of the rim: forward and to the right of the stem's middle [m]."""
    x = cuts.along / 2.0 * np.cos(turn)
    return x, cuts.across / 2.0 * np.sin(turn) + cuts.skew * x


def _through_middle(cuts: Cuts) -> float:
    """Parameter of the rim straight ahead of the stem's middle."""
    return math.atan2(-cuts.skew * cuts.along / 2.0, cuts.across / 2.0)


def _depths(cuts: Cuts, apex: float) -> list[tuple[float, float]]:
    """Notch depth, and wood behind the hinge, along the lay a quarter of the hinge in from its
    left and right end [m].
    """
    half, wide = cuts.along / 2.0, cuts.across / 2.0
    chord = wide * math.sqrt(max(1.0 - (apex / half) ** 2, 0.0))
    found = []
    for side in (-0.5, 0.5):
        right = cuts.skew * apex + side * chord
        # x²/a² + (y − k·x)²/b² = 1 for x on a line along the lay.
        a = 1.0 / half**2 + cuts.skew**2 / wide**2
        b, c = -2.0 * cuts.skew * right / wide**2, right**2 / wide**2 - 1.0
        root = math.sqrt(max(b * b - 4.0 * a * c, 0.0))
        front, back = (-b + root) / (2.0 * a), (-b - root) / (2.0 * a)
        hinge = cuts.hinge + (-cuts.taper if side > 0.0 else cuts.taper) / 4.0
        found.append((front - apex, apex - hinge - back))
    return found


class Peg(NamedTuple):
    """Peg for the walk-out: how far out along the lay and to the right of the stem's middle [m], and where on the site
    [m].
    """

    out: float
    right: float
    place: tuple[float, float]


def peg(site: Site, lay: float, cuts: Cuts, length: float) -> Peg:
    """Peg to sight from and to: square to the hinge through its middle, half the tree's length out; notch (8).

    Parameters
    ----------
    site : Site
        Gives the stem's place.
    lay : float
        The lay. [rad]
    cuts : Cuts
        The cuts.
    length : float
        Of what falls. [m]
    """
    out, right = constant("peg_out").value * length, hinge_aside(cuts)
    return Peg(out, right, place(site, lay, out, right))  # (8)


def hinge_aside(cuts: Cuts) -> float:
    """How far the middle of the hinge lies to the right of the stem's middle [m]; docs/methods.md, notch (6).

    Parameters
    ----------
    cuts : Cuts
        The cuts.
    """
    return cuts.skew * (cuts.along / 2.0 - cuts.depth - cuts.hinge / 2.0)
