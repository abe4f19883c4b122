"""Rules of order of a takedown, and where a list of picks goes against them."""

from __future__ import annotations

import math
from typing import NamedTuple

from treecore.schools import constant
from treecore.takedown.members import Members, place_on
from treecore.takedown.pick import Pick
from treecore.takedown.pieces import Cut, Taken, take, whole


class Order(NamedTuple):
    """A rule of order that a pick does not keep: which pick by its number, the rule, and what it names."""

    number: int
    rule: str
    what: str


def order_rules(members: Members, steps: tuple[Taken, ...], picks: tuple[Pick, ...]) -> tuple[Order, ...]:
    """Return where the order goes against practice; docs/methods.md, takedown (6).

    Parameters
    ----------
    members : Members
        The tree's members.
    steps : tuple of Taken
        Pieces in order.
    picks : tuple of Pick
        How each is taken.

    References
    ----------
    Deadwood and what hangs first; the rigging point above the work; stem pieces only once their limbs are off; what
    stands kept in balance.
    """
    found = []
    dead = {limb.name for limb in members.tree.limbs if limb.dead}
    leans = _leaning(members, steps)
    for number, (step, pick) in enumerate(zip(steps, picks, strict=True), start=1):
        cut = step.piece.cut
        left = sorted({s.piece.cut.member for s in steps[number:]} & dead)
        if cut.member not in dead and left:
            found.append(Order(number, "dead_first", left[0]))
        if step.piece.row == 0 and len(step.piece.parts) > 4:
            found.append(Order(number, "limbs_on_stem", str(len(step.piece.parts) - 1)))
        point = pick.point
        if point is not None and point.member in members.rows and pick.method != "negative":
            up = place_on(members, members.rows[point.member], point.at)[2]
            if up < step.piece.butt[2]:
                found.append(Order(number, "point_low", f"{step.piece.butt[2]:.1f}"))
        if leans[number - 1] > constant("off_balance").value:
            found.append(Order(number, "off_balance", f"{leans[number - 1]:.1f}"))
    return tuple(found)


def _leaning(members: Members, steps: tuple[Taken, ...]) -> list[float]:
    """How much further off the foot the balance of what stands lies after each pick [m]; nothing
    left counts as none.
    """
    tree = take(members, whole(members), Cut("", 0.0)).piece
    mass, east, north = tree.mass.value, tree.mass.value * tree.cg[0], tree.mass.value * tree.cg[1]
    far, found = math.hypot(east, north) / mass, []
    for step in steps:
        piece = step.piece
        mass -= piece.mass.value
        east, north = east - piece.mass.value * piece.cg[0], north - piece.mass.value * piece.cg[1]
        now = math.hypot(east, north) / mass if mass > 1.0 else 0.0
        found.append(now - far)
        far = now
    return found
