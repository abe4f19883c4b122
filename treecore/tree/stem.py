"""Stem taper and volume in closed form, over bark."""

from __future__ import annotations

import math
from dataclasses import dataclass

from treecore.errors import Column, between, inside

TAPER_RANGE = (0.0, 2.0)


def section(
    diameter: Column, height: Column, taper: Column, breast: float, low: float, high: Column
) -> tuple[Column, Column]:
    """Volume [m3] and first moment about the ground [m4] of a stem between two heights, for inputs already checked.

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
    Exact integrals of the taper curve; docs/methods.md, stem (2), (3).
    """
    e = 2.0 * taper + 1.0
    scale = math.pi / 4.0 * diameter**2 / (height - breast) ** (2.0 * taper)
    near, far = height - high, height - low
    upper, lower = near**e, far**e
    first = (lower - upper) / e
    second = (lower * far - upper * near) / (e + 1.0)
    return scale * first, scale * (height * first - second)  # (2), (3)


@dataclass(frozen=True, slots=True)
class Stem:
    """A stem that tapers to a point; docs/methods.md, stem (1).

    ``diameter`` is taken at ``breast`` above the ground, ``height`` is the tip's [m]; ``taper`` is the exponent [-]:
    0 cylinder, 0.5 paraboloid, 1 cone, 1.5 neiloid.

    References
    ----------
    D. W. Ormerod (1973), A simple bole model, Forestry Chronicle 49, 136-138.
    """

    diameter: float
    height: float
    taper: float
    breast: float = 1.3

    def __post_init__(self) -> None:
        """Refuse a stem that does not reach well above breast height."""
        between("height", self.height, 2.0 * self.breast, 130.0, "the taper curve needs twice breast height", "length")
        between("taper", self.taper, *TAPER_RANGE)
        inside("diameter", self.diameter, 0.0, 12.0, "a stem's diameter", "girth")

    def diameter_at(self, z: float) -> float:
        """Diameter at height z [m].

        Parameters
        ----------
        z : float
            Height above the ground, 0 to the tip. [m]

        Raises
        ------
        OutOfRange
            Outside the stem.

        References
        ----------
        Ormerod (1973).
        """
        between("z", z, 0.0, self.height, "inside the stem", "length")
        share = (self.height - z) / (self.height - self.breast)
        return self.diameter * math.pow(share, self.taper)  # (1)

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
        between("high", high, 0.0, self.height, "inside the stem", "length")
        between("low", low, 0.0, high, "below the upper cut", "length")
        volume, moment = section(self.diameter, self.height, self.taper, self.breast, low, high)
        return float(volume), float(moment)
