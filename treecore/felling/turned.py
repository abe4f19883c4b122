"""Lines of a felling turned along with its lay: what stands at no place of the site keeps its place to the lay."""

from __future__ import annotations

import math
from collections.abc import Sequence

Flat = tuple[float, float]
AT = 1.2  # what stands so near a place of the site stands on it [m]


def turned_place(place: Flat, stem: Flat, turn: float, fixed: Sequence[Flat]) -> Flat:
    """Return where a part stands after the lay was turned about the stem; one at a place of the site stays.

    Parameters
    ----------
    place, stem : (float, float)
        East and north of the part and of the stem. [m]
    turn : float
        Of the lay, clockwise. [rad]
    fixed : sequence of (float, float)
        Places of the site a line can end at. [m]

    References
    ----------
    docs/methods.md, pulling (14). Rotation of a point.
    """
    if stays(place, fixed):
        return place
    east, north = place[0] - stem[0], place[1] - stem[1]
    s, c = math.sin(turn), math.cos(turn)
    return stem[0] + east * c + north * s, stem[1] + north * c - east * s


def line_end(stem: Flat, azimuth: float, distance: float) -> Flat:
    """Return where a line from the stem ends, east and north.

    Parameters
    ----------
    stem : (float, float)
        Of the tree. [m]
    azimuth : float
        Bearing it goes. [rad]
    distance : float
        How far. [m]
    """
    return stem[0] + distance * math.sin(azimuth), stem[1] + distance * math.cos(azimuth)


def stays(place: Flat, fixed: Sequence[Flat]) -> bool:
    """Whether a place is one of the site's.

    Parameters
    ----------
    place : (float, float)
        East and north. [m]
    fixed : sequence of (float, float)
        Places of the site a line can end at. [m]
    """
    return any(math.dist(place, other) < AT for other in fixed)
