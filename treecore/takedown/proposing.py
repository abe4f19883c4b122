"""An order of picks proposed: never worse than the one there is, and what moves in it with the rule it follows."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Sequence
from typing import NamedTuple

from treecore.takedown.members import Members
from treecore.takedown.pieces import Cut


class Score(NamedTuple):
    """What is wrong with a list of picks: refused, over a limit, not known, rules of order not kept, near a limit."""

    refused: int
    over: int
    unknown: int
    rules: int
    near: int

    def worse_than(self, other: Score) -> bool:
        """Whether anything is worse than in another list; one with fewer refused picks is not: a refused pick has no
        limits yet.

        Parameters
        ----------
        other : Score
            Of the list there is.
        """
        if self.refused != other.refused:
            return self.refused > other.refused
        return any(mine > theirs for mine, theirs in zip(self._tallies(), other._tallies(), strict=True))

    def _tallies(self) -> tuple[int, ...]:
        """How many picks are at least as bad as each verdict, and the rules: mended from over to near is no worse."""
        blocked = self.over + self.unknown
        return self.over, blocked, self.rules, blocked + self.near


class Move(NamedTuple):
    """A pick that moves: its number now and then, counted from one, and why: dead, limb or stem."""

    was: int
    becomes: int
    why: str


class Proposal(NamedTuple):
    """An order as indices into the picks, what is wrong before and after, and what moves; no moves where none is
    better.
    """

    order: tuple[int, ...]
    before: Score
    after: Score
    moves: tuple[Move, ...]


def proposed(members: Members, cuts: Sequence[Cut], judged: Callable[[Sequence[int]], Score]) -> Proposal:
    """Propose an order of picks; docs/methods.md, takedown (6).

    Single moves towards the usual order that mend something and make nothing worse; the whole of it where that mends
    more. An order with a refused pick is never proposed.

    Parameters
    ----------
    members : Members
        The tree's members.
    cuts : sequence of Cut
        As they are now.
    judged : callable
        Works an order out and says what is wrong with it.

    References
    ----------
    Rules of order: dead limbs; limbs from the lowest up and from their tips in; the stem from its top.
    """
    now, usual = tuple(range(len(cuts))), usual_order(members, cuts)
    before, whole = judged(now), judged(usual)
    best, score = _step_by_step(now, usual, before, judged)
    if whole < score and not whole.worse_than(before):
        best, score = usual, whole
    if score >= before or score.refused:
        return Proposal(now, before, before, ())
    return Proposal(best, before, score, moves_of(members, cuts, best))


def _step_by_step(
    now: tuple[int, ...], usual: tuple[int, ...], before: Score, judged: Callable[[Sequence[int]], Score]
) -> tuple[tuple[int, ...], Score]:
    """Single moves of the usual order that mend something, one after another."""
    best, score = now, before
    for pick in usual:
        rest = [i for i in best if i != pick]
        to = usual.index(pick)
        # Behind the last of those that the usual order has before it.
        earlier = [rest.index(i) for i in usual[:to]]
        tried = (*rest[: (max(earlier) + 1 if earlier else 0)], pick, *rest[(max(earlier) + 1 if earlier else 0) :])
        if tried == best:
            continue
        found = judged(tried)
        if found < score and not found.worse_than(score):
            best, score = tried, found
    return best, score


def usual_order(members: Members, cuts: Sequence[Cut]) -> tuple[int, ...]:
    """Numbers of cuts in a usual order: dead limbs, limbs from the lowest up and from their tips in, the stem from the
    top.

    Parameters
    ----------
    members : Members
        The tree's members.
    cuts : sequence of Cut
        As they are now.
    """

    def key(i: int) -> tuple[float, ...]:
        cut = cuts[i]
        kind = _KINDS[_why(members, cut)]
        row = members.rows.get(cut.member, 0)
        return kind, 0.0 if row == 0 else float(members.base[row][2]), -cut.at

    return tuple(sorted(range(len(cuts)), key=key))


_KINDS = {"dead": 0.0, "limb": 1.0, "stem": 2.0}


def _why(members: Members, cut: Cut) -> str:
    """Which rule a cut follows: dead wood first, then limbs, then the stem."""
    if members.rows.get(cut.member, 0) == 0:
        return "stem"
    return "dead" if any(limb.dead and limb.name == cut.member for limb in members.tree.limbs) else "limb"


def moves_of(members: Members, cuts: Sequence[Cut], order: Sequence[int]) -> tuple[Move, ...]:
    """The fewest picks that move to make an order, each with its rule.

    Parameters
    ----------
    members : Members
        The tree's members.
    cuts : sequence of Cut
        As they are now.
    order : sequence of int
        Of their indices.
    """
    stays = _longest_rising(order)
    return tuple(Move(i + 1, at, _why(members, cuts[i])) for at, i in enumerate(order, start=1) if i not in stays)


def _longest_rising(order: Sequence[int]) -> set[int]:
    """Longest subsequence that rises: what need not move (patience sorting)."""
    ends: list[int] = []
    before: dict[int, int | None] = {}
    for i in order:
        place = bisect_left(ends, i)
        before[i] = ends[place - 1] if place else None
        ends[place : place + 1] = [i]
    found, at = set(), ends[-1] if ends else None
    while at is not None:
        found.add(at)
        at = before[at]
    return found
