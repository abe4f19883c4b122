"""What the wind counts as: what helps counts for nothing, what hinders counts at gust and from where it does worst."""

from __future__ import annotations

import math
from typing import NamedTuple

from treecore.schools import constant


class Gusts(NamedTuple):
    """Greatest share of a gust that blows against the lay, with it, and to one of its sides, whichever is worse [-]."""

    against: float
    along: float
    across: float


def gust_shares(wind_from: float | None, lay: float) -> Gusts:
    """How much of a gust may blow each way, as it comes from beside the wind's bearing too; docs/methods.md, gusts (1).

    Parameters
    ----------
    wind_from : float or None
        Bearing the wind comes from; None counts as any. [rad]
    lay : float
        Bearing of the lay. [rad]

    References
    ----------
    Greatest cosine and sine over a fan of bearings.
    """
    if wind_from is None:
        return Gusts(1.0, 1.0, 1.0)
    veer = constant("wind_veer").value
    off = abs(math.remainder(wind_from - lay, math.tau))  # from straight ahead: 0; from straight behind: π
    return Gusts(
        against=max(math.cos(max(off - veer, 0.0)), 0.0),
        along=max(-math.cos(min(off + veer, math.pi)), 0.0),
        across=1.0 if abs(off - math.pi / 2.0) <= veer else max(abs(math.sin(off - veer)), abs(math.sin(off + veer))),
    )  # (1)


def blows(wind_from: float, lay: float) -> tuple[float, float]:
    """Parts of the wind as it was given, with the lay and to its right [-].

    Parameters
    ----------
    wind_from : float
        Bearing the wind comes from. [rad]
    lay : float
        Bearing of the lay. [rad]
    """
    to = wind_from + math.pi - lay
    return math.cos(to), math.sin(to)
