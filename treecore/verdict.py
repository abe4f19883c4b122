"""Verdicts on limits. Unknown counts as bad: as grave as *over* for the same people, named after it for the same
class.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from functools import cache

from treecore.estimate import Estimate, exactly
from treecore.tables import rows

# Who or what is hurt, the gravest first.
CLASSES = ("person", "control", "gear", "building", "goods", "custom")
_FULL = 2.0  # fullness of a gap counted at most: one of nothing is not a hundredfold
# What comes first, by consequence: whom or what it hurts, and how it comes to that; the gravest first.
CONSEQUENCES = ("first", "person", "reach", "struck", "control", "gear", "building", "goods", "custom")
_PLAIN = 5.0  # what is simply wrong or simply not known, without a number


class Verdict(StrEnum):
    """The four words; there is no better one than *within limits*."""

    WITHIN = "within"
    NEAR = "near"
    NOT_KNOWN = "not_known"
    OVER = "over"


# What blocks comes first; a line nobody knows the voltage of before a bar that is a centimetre short.
_RANK = {Verdict.WITHIN: 0.0, Verdict.NEAR: 1.0, Verdict.NOT_KNOWN: 2.0, Verdict.OVER: 2.0}


@dataclass(frozen=True, slots=True)
class LimitKind:
    """One limit there is: whom it concerns (``CLASSES``), its dimension, and which side its demand must keep.

    ``side`` is most, least or range; ``figures`` are shown with it; ``source`` says where it comes from. ``factored``
    says that what is allowed carries a stated factor or is a school's figure already: it has no second interval.
    ``unsaid`` says that its not known means a figure nobody gave, rather than something there that nobody can judge.
    ``near_is_over`` says that intervals that meet count as over, because somebody is hurt by the worse end.
    ``consequence`` is a word of ``CONSEQUENCES`` where the class alone does not say it: ``reach`` for a loss of control
    that puts somebody in reach, ``struck`` for property that the planned course itself strikes.
    """

    key: str
    group: str
    dimension: str
    side: str
    figures: tuple[str, ...]
    factored: bool
    unsaid: bool
    near_is_over: bool
    consequence: str
    source: str


@cache
def limit_kinds() -> dict[str, LimitKind]:
    """Return every limit by key, from ``data/limits.csv``."""
    return {
        r["key"]: LimitKind(
            r["key"],
            r["class"],
            r["dimension"],
            r["side"],
            tuple(r["figures"].split()),
            r["factored"] == "yes",
            r["unsaid"] == "yes",
            r["near_is_over"] == "yes",
            r["consequence"],
            r["source"],
        )
        for r in rows("limits")
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class About:
    """What a limit is about, each part where it has one.

    ``name`` of a target, part, rope, item, member, school or tree; ``other`` what meets it or what it hangs on;
    ``role`` in a chain or moment of a motion; ``side`` left or right; ``why`` the reason, a word of its own table;
    ``at`` a place along or up [m]; ``turn`` [rad]; ``factor`` [-]; ``union`` how a limb is joined. ``worth`` is the
    class where the thing met decides it; ``reach`` says that losing it puts somebody in reach.
    """

    name: str = ""
    other: str = ""
    role: str = ""
    side: str = ""
    why: str = ""
    at: float | None = None
    turn: float | None = None
    factor: float | None = None
    union: str = ""
    worth: str = ""
    reach: bool = False


NOTHING = About()


@dataclass(frozen=True, slots=True)
class Limit:
    """One limit and how the plan stands to it; ``demand`` and ``allowed`` share the unit of its dimension."""

    key: str
    verdict: Verdict
    demand: Estimate | None
    allowed: Estimate | None
    about: About = NOTHING

    @property
    def kind(self) -> LimitKind:
        """Its row in the table of limits."""
        return limit_kinds()[self.key]

    @property
    def dimension(self) -> str:
        """Kind of quantity of its demand."""
        return self.kind.dimension

    @property
    def group(self) -> str:
        """Who or what is hurt: the thing met where that decides, else as the table says."""
        return self.about.worth or self.kind.group

    @property
    def least(self) -> bool:
        """Whether the demand must stay above what is allowed."""
        side = self.kind.side
        if side == "range" and self.demand is not None and self.allowed is not None:
            return self.verdict is not Verdict.WITHIN and self.demand.value < self.allowed.value
        return side == "least"

    @property
    def consequence(self) -> str:
        """What it comes to, a word of ``CONSEQUENCES``; docs/methods.md, verdicts."""
        group, own = self.group, "reach" if self.about.reach else self.kind.consequence
        if own == "struck":  # what is met decides: a bed of roses stays behind what may let go
            passed = self.least and self.demand is not None and self.demand.value > 0.0  # too near, not struck
            return own if group == "building" and self.verdict is Verdict.OVER and not passed else group
        return group if own == "reach" and group == "person" else own or group

    @property
    def use(self) -> float:
        """Share of the limit that is used up, 1.0 at the limit [-]."""
        if self.demand is None or self.allowed is None:
            return 1.0
        part, whole = (self.allowed, self.demand) if self.least else (self.demand, self.allowed)
        return part.value / whole.value if whole.value > 0 else (0.0 if part.value <= 0 else 99.0)

    @property
    def order(self) -> tuple[float, float, float, float]:
        """What comes first when limits are named; greater is graver.

        Whether it blocks, is near or neither; then consequence; then over before not known; then fullness, that of a
        gap capped. A figure that nobody gave stands behind people, control and gear that are over, and before property
        that is only near.
        """
        rank, place = _RANK[self.verdict], CONSEQUENCES.index(self.consequence)
        grave = -float(place)
        if self.verdict is Verdict.NOT_KNOWN and self.kind.unsaid:
            grave = -(max(place, CONSEQUENCES.index("gear")) + 0.25 + 0.05 * place)
        if rank:
            plain = self.demand is None or self.allowed is None  # simply wrong, or simply not known
            full = _PLAIN if plain else min(self.use, _FULL) if self.least else self.use
            return rank, grave, float(self.verdict is Verdict.OVER), full
        return 0.0, 0.0, 0.0, self.use if self.group != "custom" else 0.0


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
        Over if the central values cross, near if the intervals meet, else within.
    """
    lower, upper = (allowed, demand) if least else (demand, allowed)
    if lower.value > upper.value:
        return Verdict.OVER
    if lower.high > upper.low:
        return Verdict.NEAR
    return Verdict.WITHIN


def held(key: str, demand: Estimate, allowed: Estimate | None, about: About = NOTHING) -> Limit:
    """Return a limit judged by its row of the table; what nobody said to be allowed is not known.

    Parameters
    ----------
    key : str
        Of ``data/limits.csv``.
    demand, allowed : Estimate
        In the unit of its dimension; None where nobody said what is allowed. [SI]
    about : About
        What it is about.

    References
    ----------
    docs/methods.md, verdicts: near where the intervals meet; over where the table says so.
    """
    if allowed is None:
        return Limit(key, Verdict.NOT_KNOWN, demand, None, about)
    kind = limit_kinds()[key]
    bound = exactly(allowed.value, allowed.kind) if kind.factored else allowed
    verdict = judge(demand, bound, least=kind.side == "least")
    if verdict is Verdict.NEAR and kind.near_is_over:
        verdict = Verdict.OVER
    return Limit(key, verdict, demand, bound, about)


def ruling(limits: Iterable[Limit]) -> Limit:
    """Return the limit to name first: what blocks, then the graver consequence, then the fuller use.

    Where nothing is near a limit, the fullest one is named.

    Parameters
    ----------
    limits : iterable of Limit
        At least one.
    """
    return max(limits, key=lambda limit: limit.order)
