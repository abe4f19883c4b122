"""Where the climber is at a pick: tie-in, stance, second tie-in."""

from __future__ import annotations

import math
from typing import NamedTuple

from treecore.errors import NotSolvable
from treecore.schools import constant
from treecore.takedown.members import Members, beside
from treecore.takedown.pick import Pick
from treecore.takedown.pieces import Piece, Standing

Place = tuple[float, float, float]


class Stand(NamedTuple):
    """Places of tie-in, stance and second tie-in, from the stem's foot [m]; None for what does not stand or is not
    there.
    """

    tie: Place | None
    stance: Place | None
    second: Place | None


def stand_of(members: Members, standing: Standing, piece: Piece, pick: Pick) -> Stand | None:
    """Where a pick's climber is, beside upright wood on their side of it; None without one. climbing (10).

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands while the piece comes off.
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.

    Raises
    ------
    NotSolvable
        If the climber is on no limb of this tree.
    """
    climber = pick.climber
    if climber is None:
        return None
    goes = pick.bearing if pick.bearing is not None else math.atan2(piece.way[0], piece.way[1])
    turned = math.pi if piece.slope > constant("upright").value else math.pi / 2.0
    side = climber.side if climber.side is not None else goes + turned

    def spot(member: str, at: float, off: float, what: str) -> Place | None:
        row = members.rows.get(member, -1)
        if row < 0:
            raise NotSolvable(what, "there is no limb “{member}” on this tree", member=member)
        return beside(members, row, at, side, off) if standing.has(row, at) else None

    stance = spot(climber.stance_member, climber.stance_at, constant("off_bark").value, "stance")
    tie = climber.place or spot(climber.tie_member, climber.tie_at, 0.0, "tie_in")
    second = climber.second_place
    if climber.second_member is not None:
        second = spot(climber.second_member, climber.second_at, 0.0, "second_tie_in")
    return Stand(tie, stance, second)  # (10)
