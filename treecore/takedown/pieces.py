"""Pieces in their order: each is what lies beyond its cut of what still stands when its turn comes."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from treecore.errors import NotSolvable
from treecore.estimate import Estimate
from treecore.takedown.members import Members, place_on, thickness
from treecore.takedown.weights import (
    NONE,
    Correction,
    Joint,
    Span,
    Weighed,
    Weighing,
    as_weighed,
    central,
    foliage_within,
    learned,
    weigh_piece,
)

Place = tuple[float, float, float]
SHORTEST = 0.1  # pieces shorter than this are no picks [m]


class Cut(NamedTuple):
    """Where a piece is cut off: the member's name, empty for the stem, and how far along it (the
    stem: how high) [m].
    """

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

    ``way`` is the unit direction of its axis from the butt; ``reach`` how far any end lies from the cut [m];
    ``inertia`` about a level axis through its CG [kg·m2]; ``foliage`` what of its mass are leaves [kg]; ``joint`` how
    mass, balance and gyration move together.
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
    diameter: float
    inertia: float
    parts: tuple[Part, ...]
    foliage: float
    joint: Joint

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
    """One step of a takedown: what stands before it, the piece, and what stands after.

    ``corrected`` is what pieces weighed up to this one tell of those that follow.
    """

    before: Standing
    piece: Piece
    after: Standing
    corrected: Correction = NONE


def whole(members: Members) -> Standing:
    """Return the tree before anything is cut.

    Parameters
    ----------
    members : Members
        The tree's members.
    """
    return Standing(tuple(members.end.tolist()))


def take(
    members: Members, standing: Standing, cut: Cut, corrected: Correction = NONE, weighing: Weighing | None = None
) -> Taken:
    """Take one piece off what stands; docs/methods.md, takedown (3), (4), (8).

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands before.
    cut : Cut
        Where it is cut.
    corrected : Correction
        By the pieces weighed before it.
    weighing : Weighing, optional
        What was read of this one.

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
        raise NotSolvable(what="cut", why="there is no limb “{member}” on this tree", member=cut.member)
    if standing.ends[row] < 0.0:
        raise NotSolvable(what="cut", why="“{name}” is gone already: an earlier piece took it", name=name)
    if cut.at < 0.0:
        raise NotSolvable(what="cut", why="a cut on “{name}” lies on it, from its union outward", name=name)
    if standing.ends[row] - cut.at < SHORTEST:
        short = standing.ends[row] - cut.at
        raise NotSolvable(
            what="cut",
            why=f"nothing of “{name}” is left beyond this cut" if short <= 0.0 else f"a piece of {short:.2f} m is none",
        )
    ends, spans = list(standing.ends), []
    for i, low in _beyond(members, standing, row, cut.at):
        spans.append((i, low, ends[i]))
        ends[i] = cut.at if i == row else -1.0
    butt, tip = place_on(members, row, cut.at), place_on(members, row, spans[0][2])
    length = math.dist(butt, tip)
    way = _along(butt, tip, length)
    found = modelled = weigh_piece(members, spans, butt, way, length, corrected)
    if weighing is not None:
        found = as_weighed(modelled, weighing, way, length)
        corrected = learned(members.tree, corrected, found, modelled, spans, weighing)
    piece = _piece(members, cut, row, spans, found, (butt, tip, way, length))
    return Taken(standing, piece, Standing(tuple(ends)), corrected)


def _beyond(members: Members, standing: Standing, row: int, at: float) -> list[tuple[int, float]]:
    """Members beyond a cut and from where each belongs to the piece; parents come before their children."""
    inside = {row: at}
    for i in range(1, len(members.names)):
        parent = members.parent[i]
        if parent in inside and standing.ends[i] >= 0.0 and float(members.at[i]) >= inside[parent]:
            inside[i] = 0.0
    return list(inside.items())


def _piece(
    members: Members, cut: Cut, row: int, spans: list[Span], found: Weighed, lies: tuple[Place, Place, Place, float]
) -> Piece:
    butt, tip, way, length = lies
    return Piece(
        cut=cut,
        row=row,
        mass=found.mass,
        cg=found.cg,
        butt=butt,
        tip=tip,
        way=way,
        length=length,
        reach=max(math.dist(place_on(members, i, high), butt) for i, _, high in spans),
        balance=found.balance,
        diameter=thickness(members, row, cut.at),
        inertia=found.inertia,
        parts=tuple(
            Part(i, low, high, mass, centre)
            for (i, low, high), mass, centre in zip(spans, found.parts, found.centres, strict=True)
        ),
        foliage=sum(foliage_within(members, i, low, high) for i, low, high in spans),
        joint=found.joint,
    )


def _along(butt: Place, tip: Place, length: float) -> Place:
    x, y, z = ((t - b) / length for b, t in zip(butt, tip, strict=True))
    return x, y, z


def takedown(
    members: Members, cuts: Sequence[Cut], weighings: Mapping[int, Weighing] | None = None
) -> tuple[Taken, ...]:
    """Take pieces off in their order; each is what stands beyond its cut when its turn comes.

    Parameters
    ----------
    members : Members
        The tree's members.
    cuts : sequence of Cut
        In order.
    weighings : mapping of int to Weighing, optional
        What was read of pieces, by the number of the pick.

    Raises
    ------
    NotSolvable
        Naming the pick by its number.
    """
    steps, standing, corrected = [], whole(members), NONE
    for number, cut in enumerate(cuts, start=1):
        try:
            step = take(members, standing, cut, corrected, (weighings or {}).get(number))
        except NotSolvable as error:
            raise NotSolvable(what=f"pick {number}", why=error.why) from error
        steps.append(step)
        standing, corrected = step.after, step.corrected
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
    spans = [(i, 0.0, end) for i, end in enumerate(standing.ends) if end > 0.0]
    return float(central(members, spans).mass.sum()) if spans else 0.0
