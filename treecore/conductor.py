"""Overhead conductors: the curve they hang in, how far from a tree they are, and the distance to keep."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache, lru_cache

import numpy as np
from numpy.typing import NDArray

from treecore.errors import NotSolvable, between
from treecore.estimate import Kind, exactly
from treecore.ranges import believed
from treecore.tables import rows
from treecore.tree.body import TreeInput
from treecore.tree.crown import half_widths
from treecore.verdict import About, Limit, Verdict

Array = NDArray[np.float64]
USUAL_SAG = 0.02  # share of the span, where nobody looked [-]


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
    """One span between two ends, east, north, up [m]; ``sag`` None means the usual one; ``approach`` None, not known."""

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
        sag = USUAL_SAG * self.span if self.sag is None else self.sag
        if sag < 1e-4 * self.span:
            return np.column_stack([level, z0 + (z1 - z0) * part])
        a = sag_parameter(self.span, sag, z1 - z0)
        half = self.span / (2.0 * a)
        lean = math.asinh((z1 - z0) / (2.0 * a * math.sinh(half)))
        bend = lean + half * (2.0 * part - 1.0)
        return np.column_stack([level, z0 + a * (np.cosh(bend) - math.cosh(lean - half))])  # (2)


@lru_cache(maxsize=256)
def clearance(conductor: Conductor, tree: TreeInput, x: float, y: float) -> Limit:
    """Least distance of the standing tree from a conductor, against the distance to keep; docs/methods.md, conductor (3).

    Parameters
    ----------
    conductor : Conductor
        The span.
    tree : TreeInput
        The tree, at the upper bounds of height and spread.
    x, y : float
        Where it stands. [m]

    References
    ----------
    Distance of points on the curve from the crown as a body of turned outline round the leaning axis.
    """
    gap = _distance(conductor.curve(), tree, x, y)
    keep = exactly(conductor.keep, Kind.ASSUMED)
    near = conductor.keep * 1.5
    verdict = Verdict.OVER if gap < conductor.keep else Verdict.NEAR if gap < near else Verdict.WITHIN
    if conductor.approach is None and verdict is not Verdict.OVER:
        verdict = Verdict.NOT_KNOWN
    return Limit("conductor", verdict, exactly(gap, Kind.ESTIMATED), keep, About(name=conductor.name))


def _distance(curve: Array, tree: TreeInput, x: float, y: float) -> float:
    height, half = tree.height.high, tree.spread.high / 2.0
    foot = tree.crown_base_share * tree.height.value
    share, widths = np.array(half_widths(tree.kind.form)).T
    z = np.concatenate([[0.0, foot], foot + (height - foot) * share, [height]])
    r = np.concatenate([[0.1, tree.diameter.value / 2.0], half * widths, [0.0]])
    fine = np.linspace(0.0, height, 200)
    radius = np.interp(fine, z, r)
    lean = math.tan(tree.lean)
    axis_x = x + fine * lean * math.sin(tree.lean_azimuth) + (tree.crown_east or 0.0) * (fine > foot)
    axis_y = y + fine * lean * math.cos(tree.lean_azimuth) + (tree.crown_north or 0.0) * (fine > foot)
    away = np.hypot(curve[:, :1] - axis_x, curve[:, 1:2] - axis_y) - radius
    up = curve[:, 2:] - fine
    return float(np.hypot(np.maximum(away, 0.0), up).min())  # (3)
