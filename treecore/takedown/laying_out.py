"""A lead, a limb or the stem laid out in pieces: cuts proposed by length and mass, and where each is begun from."""

from __future__ import annotations

from typing import NamedTuple

from treecore.errors import NotSolvable, between
from treecore.schools import constant
from treecore.takedown.members import Members, is_upright, place_on, thickness
from treecore.takedown.pieces import SHORTEST, Cut, Piece, Standing, take

STEP = 0.1  # cuts are proposed on tenths of a metre [m]
LEAST = 0.5  # a piece shorter than this is none a person plans [m]


class Stance(NamedTuple):
    """Where a climber begins a cut from: member and place of the feet, member and place of the tie-in [m]."""

    member: str
    at: float
    tie_member: str
    tie_at: float


def laid_out(
    members: Members, standing: Standing, member: str, longest: float, heaviest: float
) -> tuple[tuple[Cut, Piece], ...]:
    """Propose the cuts that bring a member down: docs/methods.md, takedown (11).

    Its limbs first, from the lowest up, each from its tip in; then itself from its tip to the first cut above its
    union. A piece is as long as it may be: no longer than asked, and by its central mass no
    heavier; its interval is held by every limit of the pick, not here.

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands before the first.
    member : str
        Which; empty for the stem, which is left as a spar.
    longest : float
        Longest piece. [m]
    heaviest : float
        Heaviest piece, by its central mass. [kg]

    Raises
    ------
    NotSolvable
        If there is no such member, or it is gone.
    OutOfRange
        If a piece would have to be shorter or lighter than any.

    References
    ----------
    Own choice of an order that keeps what is above the climber least; the rules of order hold it like any other.
    """
    between("longest", longest, 0.5, 20.0, "pieces are between half a metre and 20 m long", "length")
    between("heaviest", heaviest, 5.0, 20000.0, "pieces are between 5 kg and 20 t", "mass")
    row = members.rows.get(member, -1)
    if row < 0 or standing.ends[row] < 0.0:
        raise NotSolvable(what="member", why="“{member}” does not stand on this tree", member=member)
    found: list[tuple[Cut, Piece]] = []
    dead = {limb.name for limb in members.tree.limbs if limb.dead}
    borne = sorted(_borne(members, standing, row), key=lambda i: members.names[i] not in dead)  # dead wood first
    for limb in (*borne, row):
        while (cut := _next_cut(members, standing, limb, longest, heaviest)) is not None:
            taken = take(members, standing, cut)
            found.append((cut, taken.piece))
            standing = taken.after
    return tuple(found)


def _borne(members: Members, standing: Standing, row: int) -> list[int]:
    """Members that grow on another, each behind those that grow on it; from the lowest up."""
    own = [i for i in range(1, len(members.names)) if members.parent[i] == row and standing.ends[i] >= 0.0]
    own.sort(key=lambda i: (members.leads[i], float(members.at[i])))
    return [j for i in own for j in ((*_borne(members, standing, i), i) if members.leads[i] else (i,))]


def _first(members: Members, row: int) -> float:
    """The lowest cut on a member: beyond the collar of its union; of the stem, where a spar begins [m]."""
    return constant("spar_left").value if row == 0 else constant("collar").value


def _next_cut(members: Members, standing: Standing, row: int, longest: float, heaviest: float) -> Cut | None:
    """The cut nearest to the union whose piece is no longer and no heavier than asked; None where nothing is left."""
    end, low, name = standing.ends[row], _first(members, row), members.names[row]
    if end - low < (SHORTEST if end == members.end[row] else LEAST):  # a stub too short for a piece of its own stays
        return None

    def fits(at: float) -> bool:
        piece = take(members, standing, Cut(name, at)).piece
        return piece.length <= longest and piece.mass.value <= heaviest

    if fits(low):
        return Cut(name, low)
    # What lies beyond a cut gets less as the cut moves out: halved until the nearest tenth that fits is known.
    near, far = 0, int((end - low - LEAST) / STEP)
    if far < 1 or not fits(_tenth(low, far)):
        raise NotSolvable(
            what="heaviest",
            why="half a metre of “{name}” is more than that",
            name=name or "the stem",
        )
    while far - near > 1:
        middle = (near + far) // 2
        near, far = (near, middle) if fits(_tenth(low, middle)) else (middle, far)
    return Cut(name, _tenth(low, far))


def _tenth(low: float, steps: int) -> float:
    return round(low + steps * STEP, 2)


def stance_for(members: Members, after: Standing, piece: Piece) -> Stance:
    """Where a climber begins a cut from: docs/methods.md, takedown (11).

    Beside the union of a limb cut near it, else within an arm's reach below the cut on the wood itself; tied in as
    high as the wood is thick enough on what they stand on, or on another lead where the stance is on what comes down.

    Parameters
    ----------
    members : Members
        The tree's members.
    after : Standing
        What stands after the piece is gone.
    piece : Piece
        The piece.

    References
    ----------
    Own choice to begin from; every limit of the climber holds it like any other place.
    """
    row, at, reach = piece.row, piece.cut.at, constant("arm_reach").low
    parent = members.parent[row]
    if row > 0 and at <= reach and not is_upright(members, row):
        feet = parent, max(float(members.at[row]) - constant("collar").value, 0.0)
    else:
        feet = row, max(at - reach, 0.0)
    leads = [i for i in range(len(members.names)) if i == 0 or members.leads[i] or i == feet[0]]
    ties = [(i, high) for i in leads if (high := _thick_up_to(members, after, i)) is not None]
    height = place_on(members, *feet)[2]
    above = [(i, high) for i, high in ties if place_on(members, i, high)[2] > height + reach]
    beside = [tie for tie in ties if tie[0] == feet[0] != row and tie[1] >= feet[1]]
    own = [tie for tie in above if tie[0] == feet[0]]
    tie = max(own or above or beside, key=lambda t: place_on(members, *t)[2], default=None)
    if tie is None:  # the top of what is left: tied in between the feet and the cut
        tie = row, max(at - reach, 0.0) + constant("lanyard_clear").value
    return Stance(members.names[feet[0]], round(feet[1], 2), members.names[tie[0]], round(tie[1], 2))


def _thick_up_to(members: Members, after: Standing, row: int) -> float | None:
    """How far up a member a line may be tied in: to where it gets thinner than a tie-in asks; None where nowhere."""
    end, thick = after.ends[row], constant("tie_in_wood").high
    if end < STEP or thickness(members, row, STEP) < thick:
        return None
    steps = int(end / STEP)
    return round(STEP * max(n for n in range(1, steps + 1) if thickness(members, row, n * STEP) >= thick), 2)
