"""Overhead conductors: spans as they hang, and the distance to keep from them."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from treecore.errors import NotSolvable, between
from treecore.ranges import believed
from treecore.schools import constant
from treecore.tables import rows
from treecore.verdict import Verdict

Array = NDArray[np.float64]
_FOLLOWED = 41  # places of a span between which it is taken straight


@dataclass(frozen=True, slots=True)
class Approach:
    """One voltage class and the distance to keep from it [V], [m]."""

    key: str
    name: str
    low: float
    high: float
    distance: float
    source: str


@cache
def approaches() -> dict[str, Approach]:
    """Return the usual approach distances by class; a yard and the local code go before them."""
    return {
        row["key"]: Approach(
            row["key"], row["name"], float(row["low"]), float(row["high"]), float(row["distance"]), row["source"]
        )
        for row in rows("approach")
    }


def sag_parameter(span: float, sag: float, rise: float = 0.0) -> float:
    """Parameter a of the catenary y = a·cosh(x/a) through two ends [m]; docs/methods.md, conductor (1).

    Parameters
    ----------
    span, rise : float
        Level distance of the ends, and how much higher the second is. [m]
    sag : float
        How far the middle hangs below the straight line between the ends. [m]

    Raises
    ------
    OutOfRange
        On a span or sag no conductor has.

    References
    ----------
    Catenary between unlike supports (H. M. Irvine 1981, Cable Structures); solved by halving.
    """
    between("span", span, 0.5, 1000.0, "spans are 0.5 to 1000 m", "length")
    between("sag", sag, 1e-4 * span, 0.3 * span, "a line sags up to 30 % of its span", "length")

    def hangs(a: float) -> float:
        half = span / (2.0 * a)
        lean = math.asinh(rise / (2.0 * a * math.sinh(half)))
        return a * math.cosh(lean) * (math.cosh(half) - 1.0)  # (1)

    low, high = span / 20.0, 1e6 * span
    for _ in range(200):
        middle = math.sqrt(low * high)
        low, high = (middle, high) if hangs(middle) > sag else (low, middle)
    return math.sqrt(low * high)


@dataclass(frozen=True, slots=True, kw_only=True)
class Conductor:
    """One span between two ends, east, north, up [m]; ``sag`` None means the usual one;
    ``approach`` None, not known.
    """

    name: str
    start: tuple[float, float, float]
    end: tuple[float, float, float]
    sag: float | None = None
    approach: float | None = None

    def __post_init__(self) -> None:
        """Refuse a span that is none, or hangs into the ground."""
        at = f"target {self.name} "
        for height in (self.start[2], self.end[2]):
            believed(at + "ends", height, "high_place")
        if self.span < 0.5:
            raise NotSolvable(at + "ends", "its two ends are in one place")
        if self.approach is not None:
            between(at + "approach", self.approach, 0.3, 30.0, "approach distances are 0.3 to 30 m", "length")
        if self.sag is not None:
            between(at + "sag", self.sag, 0.0, 0.3 * self.span, "a line sags up to 30 % of its span", "length")
        if float(self.curve()[:, 2].min()) < 0.2:
            raise NotSolvable(at + "sag", "with this sag it would hang down to the ground")

    @property
    def span(self) -> float:
        """Level distance of its ends [m]."""
        return math.dist(self.start[:2], self.end[:2])

    @property
    def keep(self) -> float:
        """Distance to keep [m]: its own, or that of an unknown voltage."""
        return approaches()["unknown"].distance if self.approach is None else self.approach

    def level_distance(self, x: float, y: float) -> float:
        """Level distance of a place from the line as it is drawn [m].

        Parameters
        ----------
        x, y : float
            East and north. [m]
        """
        (x0, y0), (x1, y1) = self.start[:2], self.end[:2]
        along = ((x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)) / self.span**2
        part = min(max(along, 0.0), 1.0)
        return math.hypot(x - x0 - part * (x1 - x0), y - y0 - part * (y1 - y0))

    def curve(self, points: int = 81) -> Array:
        """Points along the hanging line: east, north, up [m]; docs/methods.md, conductor (1), (2).

        Parameters
        ----------
        points : int
            How many. [-]
        """
        part = np.linspace(0.0, 1.0, points)
        (x0, y0, z0), (x1, y1, z1) = self.start, self.end
        level = np.column_stack([x0 + (x1 - x0) * part, y0 + (y1 - y0) * part])
        sag = constant("span_sag").value * self.span if self.sag is None else self.sag
        if sag < 1e-4 * self.span:
            return np.column_stack([level, z0 + (z1 - z0) * part])
        a = sag_parameter(self.span, sag, z1 - z0)
        half = self.span / (2.0 * a)
        lean = math.asinh((z1 - z0) / (2.0 * a * math.sinh(half)))
        bend = lean + half * (2.0 * part - 1.0)
        return np.column_stack([level, z0 + a * (np.cosh(bend) - math.cosh(lean - half))])  # (2)

    def nearest(self, places: Array, reach: Array) -> tuple[float, int]:
        """Least distance of places from the hanging line, less what reaches round each of them [m], and which place
        that is.

        Parameters
        ----------
        places : array
            East, north, up, row by row. [m]
        reach : array
            Round each place. [m]

        References
        ----------
        A place is no nearer than its level distance, so only those that could be the nearest are followed along the
        line.
        """
        (x0, y0), (x1, y1) = self.start[:2], self.end[:2]
        off = places[:, :2] - (x0, y0)
        way = np.array([x1 - x0, y1 - y0])
        share = np.clip(off @ way / self.span**2, 0.0, 1.0)
        least = np.linalg.norm(off - share[:, None] * way, axis=1) - reach
        first = int(least.argmin())
        most = float(self.distances(places[first : first + 1])[0] - reach[first])
        asked = np.flatnonzero(least <= most)
        gaps = self.distances(places[asked]) - reach[asked]
        at = int(gaps.argmin())
        return float(gaps[at]), int(asked[at])

    def distances(self, places: Array) -> Array:
        """Distance of each place from the hanging line [m]; docs/methods.md, conductor (4).

        Parameters
        ----------
        places : array
            East, north, up, row by row. [m]

        References
        ----------
        Point to straight pieces of the curve.
        """
        line = self.curve(_FOLLOWED)
        start, way = line[:-1], np.diff(line, axis=0)
        off = places[:, None, :] - start
        share = np.clip((off * way).sum(axis=2) / (way**2).sum(axis=1), 0.0, 1.0)
        found: Array = np.linalg.norm(off - share[:, :, None] * way, axis=2).min(axis=1)  # (4)
        return found

    def verdict(self, gap: float) -> Verdict:
        """What a gap to it comes to: over below the distance to keep, never better than not known without a voltage.

        Parameters
        ----------
        gap : float
            Least distance. [m]
        """
        if gap < self.keep:
            return Verdict.OVER
        if self.approach is None:
            return Verdict.NOT_KNOWN
        return Verdict.NEAR if gap < 1.5 * self.keep else Verdict.WITHIN
