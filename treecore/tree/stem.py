"""Stem taper and volume in closed form, over bark, through measured diameters; cavities; crews' own volume rules."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from treecore.errors import Column, NotSolvable, between, inside

TAPER_RANGE = (0.0, 2.0)
# Between two measured diameters: a swollen butt falls off fast, a bulge hardly rises.
FITTED_RANGE = (-0.2, 40.0)


def section(
    diameter: Column, height: Column, taper: Column, breast: float, low: Column, high: Column
) -> tuple[Column, Column, Column]:
    """Volume [m3], first [m4] and second moment [m5] about the ground of a stem length, for inputs already checked.

    Parameters
    ----------
    diameter, height, breast : Column
        As in ``Stem``. [m]
    taper : Column
        Exponent. [-]
    low, high : Column
        Heights above the ground. [m]

    References
    ----------
    Exact integrals of the taper curve; docs/methods.md, stem (2), (3), (4).
    """
    e = 2.0 * taper + 1.0
    scale = math.pi / 4.0 * diameter**2 / (height - breast) ** (2.0 * taper)
    near, far = np.maximum(height - high, 0.0), np.maximum(height - low, 0.0)
    upper, lower = near**e, far**e
    first = (lower - upper) / e
    second = (lower * far - upper * near) / (e + 1.0)
    third = (lower * far**2 - upper * near**2) / (e + 2.0)
    moment = height * first - second
    return scale * first, scale * moment, scale * (height * (moment - second) + third)  # (2), (3), (4)


class DiameterPoint(NamedTuple):
    """A diameter taken somewhere else than at breast height: swollen butt or upper stem. [m]."""

    height: float
    diameter: float


class Reach(NamedTuple):
    """One length of stem: from ``low`` to ``high``, tapering by ``taper`` from ``diameter`` at ``at``; [m], [-]."""

    low: Column
    high: Column
    diameter: Column
    at: float
    taper: Column


def reaches(
    diameter: Column,
    height: Column,
    taper: Column,
    breast: float,
    points: tuple[tuple[float, Column], ...],
    top: Column,
) -> tuple[Reach, ...]:
    """Lengths of a stem between its measured diameters, for points already checked; docs/methods.md, stem (5).

    Parameters
    ----------
    diameter, height, taper, breast : Column
        As in ``Stem``. [m], [-]
    points : tuple
        Heights and diameters taken elsewhere. [m]
    top : Column
        Where the stem ends: its tip, or a fork. [m]

    References
    ----------
    D. W. Ormerod (1986), The diameter-point method for tree taper description, Can. J. Forest Research 16, 484-490.
    """
    if not points:
        return (Reach(0.0, top, diameter, breast, taper),)
    marks: list[tuple[float, Column]] = sorted([*points, (breast, diameter)], key=lambda m: m[0])
    found: list[Reach] = []
    for (low, thick), (high, thin) in itertools.pairwise(marks):
        fitted = _fit(low, thick, high, thin, height)
        found.append(Reach(low, high, thick, low, fitted))
    below = found[0].taper if marks[0][0] < breast else taper  # a swollen butt goes on swelling
    found.insert(0, Reach(0.0, marks[0][0], marks[0][1], marks[0][0], below))
    found.append(Reach(marks[-1][0], top, marks[-1][1], marks[-1][0], taper))
    return tuple(found)


def _fit(low: float, thick: Column, high: float, thin: Column, height: Column) -> Column:
    return np.log(thin / thick) / np.log((height - high) / (height - low))  # (5)


@dataclass(frozen=True, slots=True)
class Stem:
    """A stem that tapers to a point; docs/methods.md, stem (1).

    ``diameter`` is taken at ``breast`` above the ground, ``height`` is the tip's [m]; ``taper`` is the exponent [-]:
    0 cylinder, 0.5 paraboloid, 1 cone, 1.5 neiloid. ``points`` are other diameters; ``fork`` is where leads take over,
    ``topped`` where it was cut off.

    References
    ----------
    D. W. Ormerod (1973), A simple bole model, Forestry Chronicle 49, 136-138.
    """

    diameter: float
    height: float
    taper: float
    breast: float = 1.3
    points: tuple[DiameterPoint, ...] = ()
    fork: float | None = None
    topped: float | None = None

    def __post_init__(self) -> None:
        """Refuse a stem that does not reach well above breast height, and points that fit no stem."""
        between("height", self.height, 2.0 * self.breast, 130.0, "the taper curve needs twice breast height", "length")
        between("taper", self.taper, *TAPER_RANGE)
        inside("diameter", self.diameter, 0.0, 12.0, "a stem's diameter", "girth")
        check_points(self.points, self.diameter, self.height, self.breast)
        if self.fork is not None:
            between("fork", self.fork, 0.3, self.height, "a fork is above the stump and below the tip", "length")
        if self.topped is not None:
            between("topped", self.topped, 0.1, self.height, "what was cut off left a stem", "length")

    @property
    def top(self) -> float:
        """Where the stem ends [m]."""
        return min(v for v in (self.height, self.fork, self.topped) if v is not None)

    @property
    def reaches(self) -> tuple[Reach, ...]:
        """Its lengths between measured diameters."""
        return reaches(self.diameter, self.height, self.taper, self.breast, self.points, self.top)

    def diameter_at(self, z: float) -> float:
        """Diameter at height z [m].

        Parameters
        ----------
        z : float
            Height above the ground, 0 to the top. [m]

        Raises
        ------
        OutOfRange
            Outside the stem.

        References
        ----------
        Ormerod (1973).
        """
        between("z", z, 0.0, self.top, "inside the stem", "length")
        reach = next(r for r in reversed(self.reaches) if z >= r.low)
        share = (self.height - z) / (self.height - reach.at)
        return float(reach.diameter * math.pow(share, float(reach.taper)))  # (1)

    def volume_and_moment(self, low: float, high: float) -> tuple[float, float]:
        """Volume [m3] between two heights, and its first moment about the ground [m4].

        Parameters
        ----------
        low, high : float
            Heights above the ground, low <= high. [m]

        Raises
        ------
        OutOfRange
            Outside the stem, or in the wrong order.

        References
        ----------
        Exact integrals of the taper curve; docs/methods.md, stem (2), (3).
        """
        between("high", high, 0.0, self.top, "inside the stem", "length")
        between("low", low, 0.0, high, "below the upper cut", "length")
        volume, moment, _ = sum_sections(self.reaches, self.height, low, high)
        return float(volume), float(moment)


def check_points(points: tuple[DiameterPoint, ...], diameter: float, height: float, breast: float) -> None:
    """Refuse diameters that fit no stem.

    Parameters
    ----------
    points : tuple of DiameterPoint
        Other diameters. [m]
    diameter, height, breast : float
        At breast height; the tip's height; breast height. [m]

    Raises
    ------
    OutOfRange, NotSolvable
        Naming the point: outside the stem, twice at one height, or thicker than the stem below it.
    """
    marks = sorted([*points, DiameterPoint(breast, diameter)])
    for point in points:
        between("point_height", point.height, 0.0, 0.95 * height, "on the stem", "length")
        between("point_diameter", point.diameter, 0.01, 12.0, "a stem's diameter", "girth")
    for below, above in itertools.pairwise(marks):
        if above.height - below.height < 0.05:
            raise NotSolvable(
                what="point_height", why="two diameters stand {height:g} m up; keep one of them", height=above.height
            )
        fitted = math.log(above.diameter / below.diameter) / math.log((height - above.height) / (height - below.height))
        if not FITTED_RANGE[0] <= fitted <= FITTED_RANGE[1]:
            raise NotSolvable(
                what="point_diameter",
                why="the stem would go from {diameter:.3g} m at {height:g} m to {diameter2:.3g} m at "
                "{height2:g} m: no stem tapers so; read them again",
                diameter=below.diameter,
                height=below.height,
                diameter2=above.diameter,
                height2=above.height,
            )


def sum_sections(parts: tuple[Reach, ...], height: Column, low: Column, high: Column) -> tuple[Column, Column, Column]:
    """Volume and moments of what lies between two heights, over all lengths of a stem.

    Parameters
    ----------
    parts : tuple of Reach
        Lengths of the stem.
    height, low, high : Column
        Tip, and the two cuts. [m]

    References
    ----------
    docs/methods.md, stem (2) to (5).
    """
    if len(parts) == 1:
        only = parts[0]
        return section(only.diameter, height, only.taper, only.at, low, np.minimum(high, only.high))
    volume: Column = 0.0
    moment: Column = 0.0
    second: Column = 0.0
    for reach in parts:
        bottom, top = np.clip(low, reach.low, reach.high), np.clip(high, reach.low, reach.high)
        v, m, s = section(reach.diameter, height, reach.taper, reach.at, bottom, top)
        volume, moment, second = volume + v, moment + m, second + s
    return volume, moment, second


def side_area(parts: tuple[Reach, ...], height: Column, low: Column, high: Column) -> tuple[Column, Column]:
    """Area of a stem length seen from the side [m2], and its first moment about the ground [m3].

    Parameters
    ----------
    parts : tuple of Reach
        Lengths of the stem.
    height, low, high : Column
        Tip, and the two ends. [m]

    References
    ----------
    Exact integrals of the taper curve; docs/methods.md, wind (1).
    """
    area: Column = 0.0
    moment: Column = 0.0
    for reach in parts:
        far = np.maximum(height - np.clip(low, reach.low, reach.high), 0.0)
        near = np.maximum(height - np.clip(high, reach.low, reach.high), 0.0)
        p = reach.taper + 1.0
        scale = reach.diameter / (height - reach.at) ** reach.taper
        first = (far**p - near**p) / p
        second = (far ** (p + 1.0) - near ** (p + 1.0)) / (p + 1.0)
        area, moment = area + scale * first, moment + scale * (height * first - second)
    return area, moment


@dataclass(frozen=True, slots=True, kw_only=True)
class Cavity:
    """A hollow or decayed length: heights, its diameter [m]; ``decayed`` wood is still there; ``open`` to outside."""

    low: float
    high: float
    across: float
    decayed: bool = False
    open: bool = False

    def check(self, stem: Stem) -> None:
        """Refuse a cavity that does not fit into its stem.

        Parameters
        ----------
        stem : Stem
            The stem. [m]

        Raises
        ------
        OutOfRange
            Naming the end or the cavity's diameter.
        """
        between("cavity_high", self.high, 0.0, stem.top, "inside the stem", "length")
        between("cavity_low", self.low, 0.0, self.high, "below the cavity's upper end", "length")
        thin = stem.diameter_at(self.high)
        inside("cavity_across", self.across, 0.0, thin, "a hollow is thinner than the stem around it", "girth")

    def wall_share(self, stem: Stem) -> float:
        """Residual wall over the stem's radius where it is thinnest [-].

        Parameters
        ----------
        stem : Stem
            The stem. [m]

        References
        ----------
        t/R of C. Mattheck & H. Breloer (1994), The body language of trees.
        """
        return 1.0 - self.across / stem.diameter_at(self.high)

    def strength_left(self, stem: Stem) -> float:
        """Section modulus left, as a share of the sound stem's [-].

        Parameters
        ----------
        stem : Stem
            The stem. [m]

        References
        ----------
        Ring over disc: 1 − (d/D)^4 (Gere & Timoshenko, Mechanics of Materials).
        """
        return 1.0 - (1.0 - self.wall_share(stem)) ** 4


class VolumeRules(NamedTuple):
    """Volume of one length by four ways [m3]."""

    integrated: float
    newton: float
    smalian: float
    huber: float


def volume_rules(stem: Stem, low: float, high: float) -> VolumeRules:
    """Volume between two cuts by integration and by the rules crews know [m3]; docs/methods.md, stem (6).

    Parameters
    ----------
    stem : Stem
        The stem.
    low, high : float
        The cuts, above the ground. [m]

    Raises
    ------
    OutOfRange
        If the cuts are not on the stem in this order.

    References
    ----------
    B. Husch, T. W. Beers & J. A. Kershaw (2003), Forest Mensuration, 4th ed.: Newton, Smalian, Huber.
    """
    exact, _ = stem.volume_and_moment(low, high)
    foot, middle, head = (math.pi / 4.0 * stem.diameter_at(z) ** 2 for z in (low, (low + high) / 2.0, high))
    length = high - low
    return VolumeRules(
        exact, length * (foot + 4.0 * middle + head) / 6.0, length * (foot + head) / 2.0, length * middle
    )  # (6)
