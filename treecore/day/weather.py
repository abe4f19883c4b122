"""Gusts by the hour against what the plans stand: when nobody works on."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from treecore.errors import between

HOUR = 3600.0


class Window(NamedTuple):
    """A time with more gust than the plans stand: from and to, from midnight [s], and the most gust in it [m/s]."""

    start: float
    end: float
    gust: float


def over(gusts: Sequence[tuple[int, float]], limit: float) -> tuple[Window, ...]:
    """Return the times whose gust is more than a limit; each hour's gust holds from it to the next; docs/methods.md,
    day (8).

    Parameters
    ----------
    gusts : sequence of tuple
        Hour of the day [-] and gust [m/s].
    limit : float
        What the weakest plan stands. [m/s]

    Raises
    ------
    OutOfRange
        On an hour that is none, or a gust below nothing.
    """
    found: list[Window] = []
    for hour, gust in sorted(gusts):
        between("gust_hour", hour, 0, 23, "a day has its hours from 0 to 23")
        between("gust", gust, 0.0, 100.0, "gusts are 0 to 100 m/s", "speed")
        if gust <= limit:
            continue
        start, end = HOUR * hour, HOUR * (hour + 1)
        if found and found[-1].end == start:
            found[-1] = Window(found[-1].start, end, max(found[-1].gust, gust))
        else:
            found.append(Window(start, end, gust))
    return tuple(found)


def stops(windows: Sequence[Window], start: float, end: float) -> Window | None:
    """Return the first time that work from start to end runs into; None where it runs into none.

    Parameters
    ----------
    windows : sequence of Window
        Times with too much gust.
    start, end : float
        Of the work, from midnight. [s]
    """
    return next((window for window in windows if window.start < end and window.end > start), None)
