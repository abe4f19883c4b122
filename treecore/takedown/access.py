"""Getting up, staying up, getting down: the first line over its fork, and what it has to stand."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.document.fields import hold
from treecore.document.takedown import AccessEntry
from treecore.errors import NotSolvable, none_of
from treecore.estimate import Estimate, Kind, exactly, times
from treecore.schools import constant
from treecore.takedown.members import Members, place_on, thickness
from treecore.tree.limb import doubtful
from treecore.units import GRAVITY
from treecore.verdict import Limit, Verdict, held

WAYS = {"throw": "throw line shot over a fork", "ladder": "ladder", "lift": "lift", "spurs": "spurs from the ground"}
ANCHORS = {"saver": "friction saver at the fork", "base": "base anchor, line over the fork"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Access:
    """How the climber gets up: a way, and for a line its fork (member and place on it [m]), anchor and length [m].

    ``isolated`` one branch under the line alone; ``tested`` by two people's weight; ``spurs`` worn.
    """

    way: str = "throw"
    member: str = ""
    at: float = 0.0
    anchor: str = "saver"
    line: float = 45.0
    isolated: bool = False
    tested: bool = False
    spurs: bool = False

    def __post_init__(self) -> None:
        """Refuse what is no way up."""
        for what, value, words in (("way", self.way, WAYS), ("anchor", self.anchor, ANCHORS)):
            if value not in words:
                raise none_of(what=what, given=value, known=words)
        hold(self, AccessEntry)


def fork_load(access: Access) -> Estimate:
    """Load on the fork a line goes over [N]: the climber, twice that with a base anchor; docs/methods.md, climbing (2).

    Parameters
    ----------
    access : Access
        The way up.
    """
    return times(constant("climber_mass"), GRAVITY * (2.0 if access.anchor == "base" else 1.0))  # (2)


def access_limits(members: Members, access: Access) -> tuple[Limit, ...]:
    """Hold a way up against its limits; docs/methods.md, climbing (9).

    Parameters
    ----------
    members : Members
        The tree's members.
    access : Access
        The way up.

    Raises
    ------
    NotSolvable
        If the fork is on no limb of this tree, or beyond its end.
    """
    if access.way != "throw":
        return ()
    row = members.rows.get(access.member, -1)
    if row < 0 or access.at > float(members.end[row]):
        raise NotSolvable(what="at", why="the line has to go over something that stands: a limb, and a place on it")
    high = place_on(members, row, access.at)[2]
    need = exactly(2.0 * high, Kind.ESTIMATED)  # (9)
    thick, least = exactly(thickness(members, row, access.at), Kind.ESTIMATED), constant("tie_in_wood")
    limb = next((b for b in members.tree.limbs if b.name == access.member), None)
    weak = limb is not None and (limb.dead or doubtful(limb.union, limb.codominant))
    found = [
        held("fork_thin", thick, least),
        held("access_line", need, exactly(access.line)),
    ]
    for key, bad in (("not_isolated", not access.isolated), ("not_tested", not access.tested)):
        if bad:
            found.append(_said(key, Verdict.NOT_KNOWN))
    return (*found, _said("fork_weak", Verdict.OVER)) if weak else tuple(found)


def _said(key: str, verdict: Verdict) -> Limit:
    return Limit(key, verdict, None, None)
