"""Places in words and numbers: typed coordinates and offsets, distance and bearing, a picture laid on two known
points.
"""

from __future__ import annotations

import cmath
import math
import re
from collections.abc import Mapping
from typing import NamedTuple

from treecore.errors import CoreError, NotSolvable, between
from treecore.features import place_from
from treecore.ranges import believed
from treecore.site import bearing
from treecore.typed import parse

Spot = tuple[float, float]
_POINTS = ("n", "nne", "ne", "ene", "e", "ese", "se", "sse", "s", "ssw", "sw", "wsw", "w", "wnw", "nw", "nnw")
_WORDS = {
    "north": "n", "north-east": "ne", "northeast": "ne", "east": "e", "south-east": "se", "southeast": "se",
    "south": "s", "south-west": "sw", "southwest": "sw", "west": "w", "north-west": "nw", "northwest": "nw",
}  # fmt: skip
_OFFSET = re.compile(
    r"^\s*(?P<distance>.+?)\s+(?:at|to the|towards)\s+(?P<bearing>.+?)(?:\s+(?:of|from)\s+(?P<start>.+?))?\s*$", re.I
)


def typed_bearing(text: str) -> float:
    """Bearing typed as degrees or as a compass point [rad].

    Parameters
    ----------
    text : str
        Such as ``210``, ``210°`` or ``south-west``. [degrees]

    Raises
    ------
    NotSolvable
        If it is neither.
    """
    word = text.strip().lower().rstrip("°").strip()
    word = _WORDS.get(word, word)
    if word in _POINTS:
        return _POINTS.index(word) * math.tau / 16.0
    try:
        return bearing(parse(text, "angle", "metric"))[0]
    except CoreError:
        raise
    except ValueError:
        raise NotSolvable(
            what="place", why="“{text}” is no bearing: type degrees or a compass point such as NW", text=text
        ) from None


def typed_place(text: str, known: Mapping[str, Spot], system: str, start: Spot = (0.0, 0.0)) -> Spot:
    """Place typed as coordinates, or as an offset such as “7.5 m at 210° from the stem” [m].

    Parameters
    ----------
    text : str
        ``east, north`` or ``east; north``, or distance, bearing and where from.
    known : mapping
        Places that have a name. [m]
    system : str
        Units of numbers typed without one.
    start : tuple of float
        Where an offset begins that does not say. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        Saying what is not understood.
    """
    offset = _OFFSET.match(text)
    if offset:
        origin = start if offset["start"] is None else _known(offset["start"], known)
        return place_from(origin, _length(offset["distance"], system), typed_bearing(offset["bearing"]))
    parts = (
        re.split(r"\s*;\s*|,\s+|(?<=[a-z'\"])\s*,\s*", text.strip())
        if re.search(r"[;\s]|[a-z]", text)
        else text.split(",")
    )
    if len(parts) == 2:
        east, north = (_length(part, system) for part in parts)
        believed("place", east, "site_reach")
        believed("place", north, "site_reach")
        return east, north
    if text.strip().lower() in {name.lower() for name in known}:
        return _known(text, known)
    raise NotSolvable(
        what="place", why="“{text}” is no place: type “east; north”, or “7.5 m at 210° from the stem”", text=text
    )


def _known(name: str, known: Mapping[str, Spot]) -> Spot:
    wanted = name.strip().lower().removeprefix("the ")
    for label, spot in known.items():
        if label.lower().removeprefix("the ") == wanted:
            return spot
    raise NotSolvable(what="place", why="nothing here is called “{name}”", name=name.strip())


def distances(field: str, text: str, system: str) -> list[float]:
    """Read distances typed one after another, with “;” between [m].

    Parameters
    ----------
    field, text : str
        What they are of; as typed.
    system : str
        Units where none is typed.

    Raises
    ------
    NotSolvable
        Quoting what can't be read.
    """
    found = []
    for part in text.replace("\n", ";").split(";"):
        if part.strip():
            try:
                found.append(parse(part, "length", system))
            except ValueError:
                raise NotSolvable(field, "“{part}” is no distance; put “;” between them", part=part.strip()) from None
    return found


def _length(text: str, system: str) -> float:
    try:
        return parse(text, "length", system)
    except ValueError as error:
        raise NotSolvable(what="place", why="“{text}”: {error}", text=text.strip(), error=error) from None


class Span(NamedTuple):
    """Distance [m] and bearing [rad] from one place to another."""

    distance: float
    azimuth: float


def span(first: Spot, second: Spot) -> Span:
    """Measure from one place to another.

    Parameters
    ----------
    first, second : tuple of float
        East and north. [m]
    """
    east, north = second[0] - first[0], second[1] - first[1]
    return Span(math.hypot(east, north), math.atan2(east, north) % math.tau)


class Lying(NamedTuple):
    """How a picture lies: its lower left corner [m], a pixel's length [m], and its turn counter-clockwise [rad]."""

    x: float
    y: float
    metres_per_pixel: float
    turned: float

    def place(self, right: float, up: float) -> Spot:
        """Place of a pixel [m].

        Parameters
        ----------
        right, up : float
            Pixels from the lower left corner. [-]
        """
        at = complex(self.x, self.y) + complex(right, up) * self.metres_per_pixel * cmath.exp(1j * self.turned)
        return at.real, at.imag

    def pixel(self, x: float, y: float) -> Spot:
        """Pixel of a place, from the lower left corner [-].

        Parameters
        ----------
        x, y : float
            East and north. [m]
        """
        at = (complex(x, y) - complex(self.x, self.y)) / (self.metres_per_pixel * cmath.exp(1j * self.turned))
        return at.real, at.imag


def laid(first: tuple[Spot, Spot], second: tuple[Spot, Spot]) -> Lying:
    """Lay a picture so that two of its pixels fall on two known places.

    Parameters
    ----------
    first, second : tuple
        A pixel, right and up of the lower left corner [-], and its place [m].

    Raises
    ------
    NotSolvable, OutOfRange
        If the two are too near one another, or the scale is absurd.

    References
    ----------
    Similarity of the plane as a complex product; docs/methods.md, site (7).
    """
    (p1, w1), (p2, w2) = ((complex(*pixel), complex(*place)) for pixel, place in (first, second))
    if abs(p2 - p1) < 20.0:
        raise NotSolvable(what="picture", why="the two points are under 20 pixels apart; take two that lie far apart")
    if abs(w2 - w1) < 0.5:
        raise NotSolvable(
            what="picture", why="the two places are under half a metre apart; take two that lie far apart"
        )
    turn = (w2 - w1) / (p2 - p1)  # (7)
    between("picture", abs(turn), 1e-4, 10.0, "a pixel is 0.1 mm to 10 m long", "length")
    corner = w1 - p1 * turn
    return Lying(corner.real, corner.imag, abs(turn), cmath.phase(turn))
