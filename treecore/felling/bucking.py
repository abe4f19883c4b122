"""After it is down: a log on its supports, where it is in tension and compression, which side to cut first, what
moves.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.document.felling import LogEntry
from treecore.document.fields import hold
from treecore.errors import NotSolvable, between
from treecore.schools import constant
from treecore.units import GRAVITY

Array = NDArray[np.float64]
SPRINGS = ("", "left", "right")
_ELEMENTS = 96


@dataclass(frozen=True, slots=True, kw_only=True)
class Log:
    """A log lying on supports. Distances from its butt [m], diameters [m], density [kg/m3], stiffness and strength
    [Pa].

    ``cross_slope`` is the fall of the ground square to it [rad]; ``spring`` the side it is bent towards, if any;
    ``legs`` whether bottom limbs still hold it up.
    """

    length: float
    butt: float
    tip: float
    density: float
    stiffness: float
    strength: float
    supports: tuple[float, ...]
    cross_slope: float = 0.0
    spring: str = ""
    legs: bool = False

    def __post_init__(self) -> None:
        """Refuse what no log is."""
        between("log_length", self.length, 0.5, 60.0, "logs are 0.5 to 60 m long", "length")
        between("log_butt", self.butt, 0.03, 4.0, "logs are 3 cm to 4 m thick", "girth")
        between("log_tip", self.tip, 0.01, 4.0, "logs are 1 cm to 4 m thick", "girth")
        hold(self, LogEntry)
        if self.spring not in SPRINGS:
            raise NotSolvable(what="spring", why="a log is bent to the left, to the right, or not at all")
        if not self.supports:
            raise NotSolvable(what="supports", why="say where the log lies on something")
        for at in self.supports:
            between("supports", at, 0.0, self.length, "a support lies under the log", "length")
        if len({round(at, 2) for at in self.supports}) < len(self.supports):
            raise NotSolvable(what="supports", why="two supports lie at the same place")


class Bending(NamedTuple):
    """Moment along a log, sagging positive [N·m], at places from the butt [m]; load on each support, 0 where it lifts
    [N].
    """

    x: Array
    moment: Array
    loads: tuple[float, ...]


class BuckCut(NamedTuple):
    """One cross-cut: where [m], order, thickness [m], bending stress over strength [-], and how to make it.

    ``tension`` is top, bottom or none, or unknown where what is left no longer rests on two supports: then ``stress``
    is None; ``first`` the depth of the first cut, on the other side [m]; ``stand`` the side to stand on; ``falls``
    what moves when it parts; ``bore`` whether to plunge and leave a strap.
    """

    at: float
    order: int
    thick: float
    stress: float | None
    tension: str
    first: float
    bore: bool
    stand: str
    falls: str
    mass: float


class Bucked(NamedTuple):
    """A log, the bending before any cut, the cuts as asked for [m] and in their order, and whether it may roll."""

    log: Log
    bending: Bending
    asked: tuple[float, ...]
    cuts: tuple[BuckCut, ...]
    mass: float
    rolls: bool


def thickness(log: Log, x: float) -> float:
    """Diameter of a log at a place [m].

    Parameters
    ----------
    log : Log
        The log; it tapers evenly.
    x : float
        From the butt. [m]
    """
    return log.butt + (log.tip - log.butt) * x / log.length


def mass_between(log: Log, low: float, high: float) -> float:
    """Mass of a part of a log [kg]: frustum, docs/methods.md, bucking (1).

    Parameters
    ----------
    log : Log
        The log.
    low, high : float
        Ends of the part from the butt. [m]

    References
    ----------
    Volume of a frustum.
    """
    a, b = thickness(log, low), thickness(log, high)
    return log.density * math.pi / 12.0 * (high - low) * (a * a + a * b + b * b)  # (1)


def bending(log: Log) -> Bending:
    """Bending of a log under its own weight on supports that only push; docs/methods.md, bucking (2).

    Parameters
    ----------
    log : Log
        The log.

    Raises
    ------
    NotSolvable
        If it does not lie still on these supports.

    References
    ----------
    Euler-Bernoulli beam in finite elements (Przemieniecki 1968, Theory of matrix structural analysis); supports that
    would have to pull are let go, one at a time.
    """
    marks = np.union1d(np.linspace(0.0, log.length, _ELEMENTS + 1), np.array(log.supports))
    marks = marks[np.concatenate([[True], np.diff(marks) > 1e-6])]
    _check_rests(log)
    stiff, load = _assembled(log, marks)
    nodes = [int(np.abs(marks - at).argmin()) for at in log.supports]
    held = list(nodes)
    while True:
        bent, forces = _solved(stiff, load, held)
        lifted = [n for n, f in zip(held, forces, strict=True) if f < -1e-6 * float(load[::2].sum())]
        if not lifted or len(held) <= 2:
            break
        held.remove(min(zip(held, forces, strict=True), key=lambda r: r[1])[0])
    found = dict(zip(held, forces, strict=True))
    return Bending(marks, _moments(log, marks, bent), tuple(max(found.get(n, 0.0), 0.0) for n in nodes))


def _check_rests(log: Log) -> None:
    """Refuse a log whose balance does not lie between its outer supports."""
    if len(log.supports) < 2:
        raise NotSolvable(
            what="supports", why="one support alone does not hold a log still; give the ground it touches too"
        )
    centre = balance(log, 0.0, log.length)
    if not min(log.supports) <= centre <= max(log.supports):
        raise NotSolvable(
            what="supports",
            why="it would tip: its balance lies {centre:.1f} m from the butt, beyond the supports",
            centre=centre,
        )


def balance(log: Log, low: float, high: float) -> float:
    """Balance of a part of a log from the butt [m]; docs/methods.md, bucking (3).

    Parameters
    ----------
    log : Log
        The log.
    low, high : float
        Ends of the part from the butt. [m]

    References
    ----------
    Centre of a frustum.
    """
    a, b = thickness(log, low), thickness(log, high)
    return low + (high - low) * (a * a + 2.0 * a * b + 3.0 * b * b) / (4.0 * (a * a + a * b + b * b))  # (3)


def _assembled(log: Log, marks: Array) -> tuple[Array, Array]:
    size = 2 * len(marks)
    stiff, load = np.zeros((size, size)), np.zeros(size)
    for i in range(len(marks) - 1):
        k, f = _element(log, marks[i], marks[i + 1])
        at = slice(2 * i, 2 * i + 4)
        stiff[at, at] += k
        load[at] += f
    return stiff, load


def _element(log: Log, low: float, high: float) -> tuple[Array, Array]:
    """Stiffness and even load of one element, down and turning; its bending stiffness is the middle's."""
    length, thick = high - low, thickness(log, (low + high) / 2.0)
    weight = mass_between(log, low, high) * GRAVITY / length
    flex = log.stiffness * math.pi / 64.0 * thick**4
    h = length
    k = (
        flex
        / h**3
        * np.array(
            [
                [12, 6 * h, -12, 6 * h],
                [6 * h, 4 * h * h, -6 * h, 2 * h * h],
                [-12, -6 * h, 12, -6 * h],
                [6 * h, 2 * h * h, -6 * h, 4 * h * h],
            ]
        )
    )
    return k, weight * h / 12.0 * np.array([6.0, h, 6.0, -h])


def _solved(stiff: Array, load: Array, held: list[int]) -> tuple[Array, list[float]]:
    fixed = [2 * n for n in held]
    free = np.setdiff1d(np.arange(len(load)), fixed)
    bent = np.zeros(len(load))
    bent[free] = np.linalg.solve(stiff[np.ix_(free, free)], load[free])
    return bent, [float(load[n] - stiff[n] @ bent) for n in fixed]


def _moments(log: Log, marks: Array, bent: Array) -> Array:
    """Sagging moment at every mark from the elements' end moments."""
    found = np.zeros(len(marks))
    for i in range(len(marks) - 1):
        k, f = _element(log, marks[i], marks[i + 1])
        ends = k @ bent[2 * i : 2 * i + 4] - f
        found[i] = ends[1]
    return found


def buck(log: Log, cuts: tuple[float, ...]) -> Bucked:
    """Work out the cross-cuts of a log, in the order to make them; docs/methods.md, bucking (2) to (6).

    Parameters
    ----------
    log : Log
        The log.
    cuts : tuple of float
        Places from the butt. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        Naming the cut or the support.

    References
    ----------
    Compression side first, then tension; nearest the free end first.
    """
    bent = bending(log)
    for at in cuts:
        between("cuts", at, 0.05, log.length - 0.05, "a cut lies on the log", "length")
    if len({round(at, 2) for at in cuts}) < len(cuts):
        raise NotSolvable(what="cuts", why="two cuts lie at the same place")
    found, rest, low, high = [], log, 0.0, log.length
    for number, at in enumerate(_ordered(log, cuts), start=1):
        now = _lying(rest, low, high)
        found.append(_cut(log, now, at, number, low, high))
        low, high = _kept(log, at, low, high)
    slope = log.cross_slope / (2.0 if log.legs else 1.0)
    return Bucked(
        log, bent, cuts, tuple(found), mass_between(log, 0.0, log.length), slope > constant("roll_slope").value
    )


def _ordered(log: Log, cuts: tuple[float, ...]) -> list[float]:
    """Cuts nearest a free end first, so that what is left keeps its supports; docs/methods.md, bucking (4)."""
    first, last = min(log.supports), max(log.supports)

    def depth(at: float) -> float:
        """How far inside the supports a cut lies; overhanging ones are negative."""
        return min(at - first, last - at)

    return sorted(cuts, key=lambda at: (depth(at), -at))


def _lying(log: Log, low: float, high: float) -> Bending | None:
    """Bending of what is left, or None where it no longer rests on two supports."""
    left = tuple(at - low for at in log.supports if low <= at <= high)
    try:
        return bending(
            Log(
                length=high - low,
                butt=thickness(log, low),
                tip=thickness(log, high),
                density=log.density,
                stiffness=log.stiffness,
                strength=log.strength,
                supports=left,
            )
        )
    except (NotSolvable, ValueError):
        return None


def _kept(log: Log, at: float, low: float, high: float) -> tuple[float, float]:
    """The part that stays on its supports after a cut; the heavier if both do."""
    parts = [(low, at), (at, high)]
    stay = [p for p in parts if _rests(log, *p)]
    return max(stay or parts, key=lambda p: mass_between(log, *p))


def _rests(log: Log, low: float, high: float) -> bool:
    under = [s for s in log.supports if low <= s <= high]
    return len(under) >= 2 and min(under) <= balance(log, low, high) <= max(under)


def _cut(log: Log, now: Bending | None, at: float, number: int, low: float, high: float) -> BuckCut:
    thick = thickness(log, at)
    stress, tension = _bent(log, now, at - low, thick)
    names = (("the butt part", low, at), ("the tip part", at, high))
    falls = [name for name, a, b in names if not _rests(log, a, b)]
    return BuckCut(
        at=at,
        order=number,
        thick=thick,
        stress=stress,
        tension=tension,
        first=constant("first_third").value * thick,
        bore=stress is not None and stress > constant("bore_share").value,
        stand=_stand(log),
        falls=" and ".join(falls) if falls else "nothing",
        mass=min(mass_between(log, low, at), mass_between(log, at, high)),
    )


def _bent(log: Log, now: Bending | None, at: float, thick: float) -> tuple[float | None, str]:
    """Bending stress over strength at a cut and which side is stretched; not known on one support; bucking (5)."""
    if now is None:
        return None, "unknown"
    moment = float(np.interp(at, now.x, now.moment))
    stress = abs(moment) * 32.0 / (math.pi * thick**3) / log.strength  # (5)
    return stress, "none" if stress < 0.002 else "bottom" if moment > 0.0 else "top"


def _stand(log: Log) -> str:
    """Side to stand on: uphill, and not where a bent log springs to; docs/methods.md, bucking (6)."""
    if log.spring:
        return "right" if log.spring == "left" else "left"  # (6)
    return "uphill" if log.cross_slope > math.radians(2.0) else "either"
