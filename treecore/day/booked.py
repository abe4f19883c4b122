"""Machines that several crews share: who has which from when to when, and who has it at the same time as another."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from treecore.errors import NotSolvable


class Booked(NamedTuple):
    """A machine for a crew: what, for whom, from when to when from midnight [s]."""

    what: str
    who: str
    start: float
    end: float


def forwards(booked: Booked) -> Booked:
    """Refuse a booking that ends before it begins.

    Parameters
    ----------
    booked : Booked
        The booking.

    Raises
    ------
    NotSolvable
        Naming it.
    """
    if booked.end <= booked.start:
        raise NotSolvable(what="end", why="“{name}” would be given back before it is there", name=booked.what)
    return booked


def clashes(bookings: Sequence[Booked]) -> tuple[tuple[Booked, Booked], ...]:
    """Return pairs of bookings of one machine by two crews at the same time; docs/methods.md, day (9).

    Parameters
    ----------
    bookings : sequence of Booked
        Of one day.
    """
    found = []
    rows = sorted(bookings, key=lambda b: (b.what, b.start))
    for number, first in enumerate(rows):
        for second in rows[number + 1 :]:
            if second.what == first.what and second.who != first.who and second.start < first.end:
                found.append((first, second))
    return tuple(found)
