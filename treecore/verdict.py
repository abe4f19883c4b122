"""Verdicts on limits. Unknown counts as bad: it outranks *near* and stands just below *over*."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum
from typing import NamedTuple

from treecore.estimate import Estimate

NEAR = 0.9  # share of a limit from which a demand is called near it


CUSTOM = 7  # concern from which a limit is a school's custom rather than a strength or a distance


class Verdict(StrEnum):
    """The four words; there is no better one than *within limits*."""

    WITHIN = "within limits"
    NEAR = "near a limit"
    NOT_KNOWN = "not known"
    OVER = "over a limit"


_RANK = {Verdict.WITHIN: 0, Verdict.NEAR: 1, Verdict.NOT_KNOWN: 2, Verdict.OVER: 3}


class Limit(NamedTuple):
    """One limit and how the plan stands to it.

    ``demand`` and ``allowed`` share the unit of ``dimension``; ``least`` is True where the demand must stay above.
    ``concern`` orders limits of equal verdict: lower is named first.
    """

    key: str
    verdict: Verdict
    demand: Estimate | None
    allowed: Estimate | None
    dimension: str
    least: bool = False
    concern: int = 5
    note: str = ""

    @property
    def use(self) -> float:
        """Share of the limit that is used up, 1.0 at the limit [-]."""
        if self.demand is None or self.allowed is None:
            return 1.0
        part, whole = (self.allowed, self.demand) if self.least else (self.demand, self.allowed)
        return part.value / whole.value if whole.value > 0 else (0.0 if part.value <= 0 else 99.0)


def judge(demand: Estimate, allowed: Estimate, *, least: bool = False) -> Verdict:
    """Hold a demand against what is allowed, intervals included.

    Parameters
    ----------
    demand, allowed : Estimate
        In one unit. [SI]
    least : bool
        True where ``allowed`` is a least value rather than a most.

    Returns
    -------
    Verdict
        Over if the central values cross, near if the intervals do or the demand is past nine tenths of the limit.
    """
    lower, upper = (allowed, demand) if least else (demand, allowed)
    if lower.value > upper.value:
        return Verdict.OVER
    if lower.high > upper.low or lower.value > NEAR * upper.value > 0.0:
        return Verdict.NEAR
    return Verdict.WITHIN


def ruling(limits: Iterable[Limit]) -> Limit:
    """Return the limit to name first: worst verdict, then the graver concern, then the fuller use.

    Where nothing is near a limit, the fullest one is named.

    Parameters
    ----------
    limits : iterable of Limit
        At least one.
    """

    def order(limit: Limit) -> tuple[float, float, float]:
        rank = _RANK[limit.verdict]
        if rank:
            return rank, -limit.concern, limit.use
        return rank, 0, limit.use if limit.concern < CUSTOM else 0.0

    return max(limits, key=order)
