"""Pieces in their order: each is what lies beyond its cut of what still stands when its turn comes."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from treecore.errors import NotSolvable
from treecore.estimate import Estimate, Kind
from treecore.takedown.members import Members, foliage_within, place_on, thickness, within

Place = tuple[float, float, float]
SHORTEST = 0.1  # pieces shorter than this are no picks [m]


class Cut(NamedTuple):
    """Where a piece is cut off: the member's name, empty for the stem, and how far along it (the stem: how high) [m]."""

    member: str
    at: float


class Part(NamedTuple):
    """A length of one member in a piece: row, from and to [m], mass [kg] and its centre [m]."""

    row: int
    low: float
    high: float
    mass: float
    centre: Place


class Piece(NamedTuple):
    """A piece as it comes off. Places from the stem's foot [m]; ``balance`` along its axis from the cut [m].

    ``way`` is the unit direction of its axis from the butt; ``reach`` how far any end lies from the cut [m]; ``inertia``
    about a level axis through its CG [kg·m2]; ``foliage`` what of its mass are leaves [kg].
    """

    cut: Cut
    row: int
    mass: Estimate
    cg: Place
    butt: Place
    tip: Place
    way: Place
    length: float
    reach: float
    balance: Estimate
    thick: float
    inertia: float
    parts: tuple[Part, ...]
    foliage: float

    @property
    def slope(self) -> float:
        """Angle of its axis above level [rad]."""
        return math.asin(max(min(self.way[2], 1.0), -1.0))


class Standing(NamedTuple):
    """What still stands: how far each member reaches, below zero where it is gone [m]."""

    ends: tuple[float, ...]

    def has(self, row: int, along: float) -> bool:
        """Whether a place on a member still stands.

        Parameters
        ----------
        row : int
            Which member.
        along : float
            Along it. [m]
        """
        return self.ends[row] >= along


class Taken(NamedTuple):
    """One step of a takedown: what stands before it, the piece, and what stands after."""

    before: Standing
    piece: Piece
    after: Standing


def whole(members: Members) -> Standing:
    """Return the tree before anything is cut.

    Parameters
    ----------
    members : Members
        The tree's members.
    """
    return Standing(tuple(members.end.tolist()))


def take(members: Members, standing: Standing, cut: Cut) -> Taken:
    """Take one piece off what stands; docs/methods.md, takedown (3), (4).

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands before.
    cut : Cut
        Where it is cut.

    Raises
    ------
    NotSolvable
        If there is no such member, it is gone already, or nothing lies beyond the cut.

    References
    ----------
    Masses and first moments of everything beyond the cut.
    """
    row = members.rows.get(cut.member, -1)
    name = cut.member or "the stem"
    if row < 0:
        raise NotSolvable("cut", f"there is no limb “{cut.member}” on this tree")
    if standing.ends[row] < 0.0:
        raise NotSolvable("cut", f"“{name}” is gone already: an earlier piece took it")
    if cut.at < 0.0:
        raise NotSolvable("cut", f"a cut on “{name}” lies on it, from its union outward")
    if standing.ends[row] - cut.at < SHORTEST:
        short = standing.ends[row] - cut.at
        raise NotSolvable(
            "cut",
            f"nothing of “{name}” is left beyond this cut" if short <= 0.0 else f"a piece of {short:.2f} m is none",
        )
    ends, parts = list(standing.ends), []
    for i, low in _beyond(members, standing, row, cut.at):
        mass, along = within(members, i, low, ends[i])
        parts.append(Part(i, low, ends[i], mass, place_on(members, i, along)))
        ends[i] = cut.at if i == row else -1.0
    return Taken(standing, _piece(members, cut, row, tuple(parts)), Standing(tuple(ends)))


def _beyond(members: Members, standing: Standing, row: int, at: float) -> list[tuple[int, float]]:
    """Members beyond a cut and from where each belongs to the piece; parents come before their children."""
    inside = {row: at}
    for i in range(1, len(members.names)):
        parent = members.parent[i]
        if parent in inside and standing.ends[i] >= 0.0 and float(members.at[i]) >= inside[parent]:
            inside[i] = 0.0
    return list(inside.items())


def _piece(members: Members, cut: Cut, row: int, parts: tuple[Part, ...]) -> Piece:
    mass = sum(p.mass for p in parts)
    rows = [p.row for p in parts]
    together = sum(float(members.shared[p.row]) * p.mass for p in parts)
    down, up = (math.hypot(together, *(float(members.own[p.row, side]) * p.mass for p in parts)) for side in (0, 1))
    cg = _middle(parts, mass)
    butt, tip = place_on(members, row, cut.at), place_on(members, row, parts[0].high)
    length = math.dist(butt, tip)
    way = _along(butt, tip, length)
    reach = max(math.dist(place_on(members, p.row, p.high), butt) for p in parts)
    along = sum((c - b) * w for c, b, w in zip(cg, butt, way, strict=True))
    inertia = sum(p.mass * (math.dist(p.centre, cg) ** 2 + (p.high - p.low) ** 2 / 12.0) for p in parts)
    kind = Kind.ASSUMED if all(members.assumed[i] for i in rows) else Kind.ESTIMATED
    return Piece(
        cut=cut,
        row=row,
        mass=Estimate(mass, max(mass - down, 0.0), mass + up, kind),
        cg=cg,
        butt=butt,
        tip=tip,
        way=way,
        length=length,
        reach=reach,
        balance=_balance(members, parts, along, length),
        thick=thickness(members, row, cut.at),
        inertia=inertia,
        parts=parts,
        foliage=sum(foliage_within(members, p.row, p.low, p.high) for p in parts),
    )


def _balance(members: Members, parts: tuple[Part, ...], along: float, length: float) -> Estimate:
    """Interval of the balance: bare and leafy ends of what is known of the distribution; takedown (5)."""
    loose = 0.12 if len(parts) == 1 and parts[0].row == 0 else 0.22
    return Estimate(
        along, max((1.0 - loose) * along, 0.0), min((1.0 + loose) * along, max(length, along)), Kind.ESTIMATED
    )  # (5)


def _middle(parts: tuple[Part, ...], mass: float) -> Place:
    x, y, z = (sum(p.mass * p.centre[i] for p in parts) / mass for i in (0, 1, 2))
    return x, y, z


def _along(butt: Place, tip: Place, length: float) -> Place:
    x, y, z = ((t - b) / length for b, t in zip(butt, tip, strict=True))
    return x, y, z


def takedown(members: Members, cuts: Sequence[Cut]) -> tuple[Taken, ...]:
    """Take pieces off in their order; each is what stands beyond its cut when its turn comes.

    Parameters
    ----------
    members : Members
        The tree's members.
    cuts : sequence of Cut
        In order.

    Raises
    ------
    NotSolvable
        Naming the pick by its number.
    """
    steps, standing = [], whole(members)
    for number, cut in enumerate(cuts, start=1):
        try:
            step = take(members, standing, cut)
        except NotSolvable as error:
            raise NotSolvable(f"pick {number}", error.why) from error
        steps.append(step)
        standing = step.after
    return tuple(steps)


def left_over(members: Members, standing: Standing) -> float:
    """Mass of what still stands [kg].

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands.
    """
    return sum(within(members, i, 0.0, end)[0] for i, end in enumerate(standing.ends) if end > 0.0)
