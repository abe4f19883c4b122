"""The crown nobody measured: limbs by form, spread and crown base, each marked *assumed* until a measured one replaces
it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from treecore.crownforms import crown_forms
from treecore.schools import constant

SLOTS = max(form.levels * form.whorl for form in crown_forms().values())
_GOLDEN = math.radians(137.508)  # turn between whorls: no limb stands right over another


def half_widths(form: str) -> tuple[tuple[float, float], ...]:
    """Outline of a crown: height over its depth, half width over half its spread [-].

    Parameters
    ----------
    form : str
        Key of ``crown_forms``.
    """
    return crown_forms()[form].outline


class Slot(NamedTuple):
    """One assumed limb in a crown of depth 1 and half spread 1: shares and angles [-], [rad].

    ``union`` height above the crown's foot over its depth; ``reach`` level length over half the spread; ``weight`` its
    share of the crown's mass; ``cg`` height of its CG like ``union``.
    """

    number: int
    azimuth: float
    rise: float
    union: float
    reach: float
    weight: float
    cg: float


@lru_cache(maxsize=128)
def slots(form: str, centre: float, slender: float) -> tuple[Slot, ...]:
    """Limbs of the assumed crown; their weights put its CG where the group's figures say.

    Parameters
    ----------
    form : str
        Key of ``crown_forms``.
    centre : float
        Height of the crown's CG over its depth. [-]
    slender : float
        Half the spread over the crown's depth. [-]

    References
    ----------
    Whorls, level for level in balance round the stem; docs/methods.md, crown (6).
    """
    shape, balance = crown_forms()[form], constant("assumed_balance").value
    (low, high), whorl, rows = shape.rise, shape.whorl, []
    for level in range(shape.levels):
        part = (level + 0.5) / shape.levels
        rise = low + (high - low) * part
        reach = shape.half_width(part)
        climb = reach * slender * math.tan(rise)
        union = min(max(part - climb, 0.0), 0.98)
        rows.append((part, rise, union, reach, union + balance * climb))
    weights = _tilted([r[3] ** 2.5 for r in rows], [r[4] for r in rows], centre)
    return tuple(
        Slot(
            level * whorl + k,
            (level * _GOLDEN + k * math.tau / whorl) % math.tau,
            rise,
            union,
            reach,
            weights[level] / whorl,
            cg,
        )
        for level, (_, rise, union, reach, cg) in enumerate(rows)
        for k in range(whorl)
    )


def _tilted(weights: list[float], heights: list[float], centre: float) -> list[float]:
    """Weights times exp(tilt · height), normed, the tilt chosen by halving so that their mean height is ``centre``."""
    aim = min(max(centre, min(heights) + 0.02), max(heights) - 0.02)
    low, high = -60.0, 60.0
    for _ in range(60):
        tilt = (low + high) / 2.0
        tilted = [w * math.exp(tilt * h) for w, h in zip(weights, heights, strict=True)]
        total = math.fsum(tilted)
        mean = math.fsum(w * h for w, h in zip(tilted, heights, strict=True)) / total
        low, high = (tilt, high) if mean < aim else (low, tilt)
    return [w / total for w in tilted]


@dataclass(frozen=True, slots=True)
class Remainder:
    """What is left of the assumed crown when some of its limbs have been replaced; shares of the whole one [-].

    ``rise`` and ``spread2`` are mean height of the CG against the crown's own, and its variance, over the depth;
    ``east`` and ``north`` the mean offset, ``reach2`` the mean squared one, over half the spread.
    """

    share: float
    rise: float
    spread2: float
    east: float
    north: float
    reach2: float


@lru_cache(maxsize=256)
def remainder(form: str, centre: float, slender: float, replaced: frozenset[int]) -> Remainder:
    """Sum up the assumed limbs that are still there.

    Parameters
    ----------
    form : str
        Key of ``crown_forms``.
    centre, slender : float
        As for ``slots``. [-]
    replaced : frozenset of int
        Numbers of the limbs that a person replaced or took away.
    """
    left = [s for s in slots(form, centre, slender) if s.number not in replaced]
    share = math.fsum(s.weight for s in left)
    if share <= 0.0:
        return Remainder(0.0, 0.0, 0.0, 0.0, 0.0, 0.0)

    def mean(values: list[float]) -> float:
        return math.fsum(s.weight * v for s, v in zip(left, values, strict=True)) / share

    balance = constant("assumed_balance").value
    rise = mean([s.cg for s in left]) - centre if replaced else 0.0
    east = mean([balance * s.reach * math.sin(s.azimuth) for s in left]) if replaced else 0.0
    north = mean([balance * s.reach * math.cos(s.azimuth) for s in left]) if replaced else 0.0
    reach2 = mean([(balance * s.reach) ** 2 for s in left])
    middle = mean([s.cg for s in left])
    return Remainder(share, rise, mean([(s.cg - middle) ** 2 for s in left]), east, north, reach2)
