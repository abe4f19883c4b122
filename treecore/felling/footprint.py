"""Where the tree may come to lie: samples of every stated uncertainty, and the chance of touching each target."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from treecore.errors import Column, between
from treecore.estimate import Estimate
from treecore.felling.gusts import blows
from treecore.felling.inputs import FellingInput
from treecore.felling.ledger import point_columns
from treecore.felling.standing import inputs_of
from treecore.schools import constant
from treecore.site import Target, outline_rows
from treecore.workzone import silhouette

Array = NDArray[np.float64]
USUAL = 10_000
_LINES = 90


class Chance(NamedTuple):
    """Chance that a target is touched [-], and two standard errors of that count [-]."""

    target: Target
    share: float
    error: float


class Footprint(NamedTuple):
    """Where the samples came to lie. ``turns`` off the lay, right positive [rad]; ``tips`` of a few of them [m].

    ``bounds`` are the turns that hold the middle 50, 90 and 99 % [rad]; ``fails`` how often the hinge gave way [-].
    """

    chances: tuple[Chance, ...]
    mean: float
    bounds: tuple[tuple[float, float], ...]
    tips: tuple[tuple[float, float], ...]
    fails: float
    samples: int


def drawn(e: Estimate, normal: Array) -> Array:
    """Samples of an estimate, its interval taken as two standard deviations to each side; docs/methods.md, footprint
    (1).

    Parameters
    ----------
    e : Estimate
        The estimate. [SI]
    normal : array
        Standard normal samples. [-]

    References
    ----------
    Split normal distribution (Fechner 1897; Wallis 2014, Statistical Science 29:106-112).
    """
    return e.value + np.where(normal < 0.0, (e.value - e.low) / 2.0, (e.high - e.value) / 2.0) * normal  # (1)


def _columns(plan: FellingInput, rng: np.random.Generator, count: int) -> dict[str, Column]:
    """Samples of every uncertain input; sizes and strengths stay above a tenth of their value."""
    found: dict[str, Column] = {}
    for name, e in inputs_of(plan).items():
        if e.low == e.high:
            found[name] = e.value
            continue
        column = drawn(e, np.clip(rng.standard_normal(count), -3.0, 3.0))
        found[name] = np.maximum(column, 0.1 * e.value) if e.low > 0.0 else column
    return found


def _turns(plan: FellingInput, p: dict[str, Column], rng: np.random.Generator, count: int) -> tuple[Array, Array]:
    """How far each sample lies off the lay [rad], and where its hinge gave way; docs/methods.md, footprint (2), (3)."""
    aim, uneven = (constant(n).value * rng.standard_normal(count) for n in ("aim_scatter", "hinge_scatter"))
    gust = np.maximum(1.0 + constant("gust_scatter").value * rng.standard_normal(count), 0.0) ** 2
    if plan.wind_from is None:  # from anywhere
        anywhere = rng.uniform(0.0, math.tau, count)
        ahead, right = np.cos(anywhere), np.sin(anywhere)
    else:
        ahead, right = (np.full(count, part) for part in blows(plan.wind_from, plan.lay))
    wind = np.asarray(p["gale"]) * (plan.wind or 0.0) ** 2 * gust
    side = np.asarray(p["side_moment"]) + wind * right
    load = np.abs(side) / np.maximum(np.asarray(p["side_holds"]), 1.0)
    per = drawn(constant("side_turn"), rng.standard_normal(count))
    yields = np.maximum(per, 0.0) * load * np.sign(side)  # (2)
    forward = np.maximum(np.asarray(p["tip_margin"]) - np.asarray(p["wind_along"]) + wind * ahead, 1.0)
    fails = load > 1.0
    turn = np.where(fails, np.arctan2(side, forward), yields)  # (3)
    return aim + uneven + turn, fails


@lru_cache(maxsize=16)
def footprint(plan: FellingInput, bend: float = 0.0, count: int = USUAL, seed: int = 7) -> Footprint:
    """Sample where the tree comes to lie.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    bend : float
        Turn of the lay by a tapered hinge or a bypass, right positive. [rad]
    count : int
        Samples, 1,000 to 1,000,000. [-]
    seed : int
        Of the random numbers: the same plan gives the same chances. [-]

    Raises
    ------
    OutOfRange
        On too few or too many samples.

    References
    ----------
    Monte Carlo; docs/methods.md, footprint (1) to (5).
    """
    between("count", count, 1000, 1_000_000, "1,000 to 1,000,000 samples")
    rng = np.random.default_rng(seed)
    x = _columns(plan, rng, count)
    p = point_columns(plan, x)
    turns, fails = _turns(plan, p, rng, count)
    turns = turns + bend
    length = np.broadcast_to(np.asarray(p["length"]), count)
    wide = np.clip(drawn(plan.tree.spread, rng.standard_normal(count)) / plan.tree.spread.value, 0.2, 3.0)
    aside = np.broadcast_to(np.asarray(p["top_aside"]), count)
    touched = _touched(plan, turns, length, wide, aside)
    chances = [
        Chance(t, float(hit), 2.0 * math.sqrt(max(hit * (1.0 - hit), 1.0 / count) / count))
        for t, hit in zip(plan.site.targets, touched, strict=True)
    ]
    ends = [np.quantile(turns, [0.5 - part / 2.0, 0.5 + part / 2.0]) for part in (0.5, 0.9, 0.99)]
    return Footprint(
        chances=tuple(sorted(chances, key=lambda c: -c.share)),
        mean=float(turns.mean()),
        bounds=tuple((float(a), float(b)) for a, b in ends),
        tips=_tips(plan, turns, length, aside),
        fails=float(np.mean(np.broadcast_to(fails, count))),
        samples=count,
    )


def _tips(plan: FellingInput, turns: Array, length: Array, aside: Array) -> tuple[tuple[float, float], ...]:
    way = plan.lay + turns[:_LINES]
    s, c, a, b = np.sin(way), np.cos(way), length[:_LINES], aside[:_LINES]
    x, y = plan.site.tree_x + a * s + b * c, plan.site.tree_y + a * c - b * s
    return tuple(zip(x.tolist(), y.tolist(), strict=True))


def _rim(target: Target, apart: float) -> Array:
    """Points on a target's outline no further apart than a step [m]."""
    rows: Array = shapely.get_coordinates(shapely.segmentize(target.shape.exterior, apart))
    return rows


def _touched(plan: FellingInput, turns: Array, length: Array, wide: Array, aside: Array) -> list[float]:
    """Share of the samples whose outline covers a point of each target's rim; docs/methods.md, footprint (4), (5)."""
    site = plan.site
    shape = silhouette(plan.tree, plan.tree.stands, 0.0, plan.cuts.stump)
    rows = np.array(outline_rows(shape))
    marks, widths = rows[:, 0] / shape.length, rows[:, 1]
    crowned = rows[:, 0] > shape.crown_from
    order = np.argsort(turns)
    sorted_turns, length, wide, aside = turns[order], length[order], wide[order], aside[order]
    way = plan.lay + sorted_turns
    far, most = float(length.max()), float((widths.max() * wide).max() + np.abs(aside).max())
    found = []
    for target in site.targets:
        rim = _rim(target, min(0.5, 1.2 * shape.half_stem)) - (site.tree_x, site.tree_y)
        hit = np.zeros(len(turns), dtype=bool)
        for dx, dy, first, last in _in_fan(rim, plan.lay, sorted_turns, far, most):
            part = slice(first, last)
            hit[part] |= _covers(dx, dy, way[part], length[part], wide[part], aside[part], marks, widths, crowned)
        found.append(float(hit.mean()))
    return found


def _in_fan(rim: Array, lay: float, turns: Array, far: float, most: float) -> list[tuple[float, float, int, int]]:
    """Points of a rim any sample could reach, each with the run of sorted samples that could."""
    away = np.hypot(rim[:, 0], rim[:, 1])
    off = (np.arctan2(rim[:, 0], rim[:, 1]) - lay + math.pi) % math.tau - math.pi
    room = np.where(away > most, np.arcsin(np.minimum(most / np.maximum(away, 1e-6), 1.0)), math.tau)
    first, last = np.searchsorted(turns, off - room), np.searchsorted(turns, off + room, side="right")
    near = (away <= far + most) & (last > first)
    rows = np.column_stack([rim[near], first[near], last[near]]).tolist()
    return [(dx, dy, int(a), int(b)) for dx, dy, a, b in rows]


def _covers(
    dx: float,
    dy: float,
    way: Array,
    length: Array,
    wide: Array,
    aside: Array,
    marks: Array,
    widths: Array,
    crowned: NDArray[np.bool_],
) -> NDArray[np.bool_]:
    """Where an outline turned each way covers a point."""
    s, c = np.sin(way), np.cos(way)
    share = (dx * s + dy * c) / length
    across = np.abs(dx * c - dy * s - aside * share)
    half = np.interp(share, marks, np.where(crowned, widths, 0.0)) * wide + np.interp(
        share, marks, np.where(crowned, 0.0, widths)
    )
    found: NDArray[np.bool_] = (share >= 0.0) & (share <= 1.0) & (across <= half)
    return found
