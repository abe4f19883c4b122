"""Times of the clock for a course of work: when it begins, with breaks while nothing hangs."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from treecore.day.queueing import Course
from treecore.errors import between

HANGING = ("cut", "lower", "untie")  # parts of a pick that no break comes into


class Break(NamedTuple):
    """A break: after how much work it is due and how long it is [s]."""

    due: float
    long: float


USUAL = (Break(2.0 * 3600.0, 900.0), Break(4.0 * 3600.0, 1800.0), Break(6.0 * 3600.0, 900.0))


class Clock(NamedTuple):
    """Work turned into times of the clock: when it begins, and when each break begins in hours of work [s]."""

    start: float
    breaks: tuple[Break, ...]

    def at(self, work: float) -> float:
        """When some work is done, from midnight [s].

        Parameters
        ----------
        work : float
            From the beginning, without breaks. [s]
        """
        return self.start + work + sum(b.long for b in self.breaks if b.due < work)


def clock(course: Course, start: float, breaks: Sequence[Break] = USUAL) -> Clock:
    """Put breaks where they are due, or as soon after as nothing hangs; docs/methods.md, day (7).

    Parameters
    ----------
    course : Course
        What is done when.
    start : float
        From midnight. [s]
    breaks : sequence of Break
        Due after how much work, and how long.

    Raises
    ------
    OutOfRange
        On a start that is no time of a day.
    """
    between("start", start, 0.0, 86400.0, "a day begins within itself")
    hangs = sorted((s.start, s.end) for s in course.spans if s.part in HANGING)
    found = []
    for rest in breaks:
        due = rest.due
        for low, high in hangs:
            if low <= due < high:
                due = high
        if due < course.finish:
            found.append(Break(due, rest.long))
    return Clock(start, tuple(found))
