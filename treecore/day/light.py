"""Daylight at the place of a job."""

from __future__ import annotations

from datetime import date, datetime
from typing import NamedTuple
from zoneinfo import ZoneInfo

from astral import Observer
from astral.sun import sun

from treecore.errors import NotSolvable


class Light(NamedTuple):
    """When it is light enough to work: dawn and dusk (sun 6° under the horizon), sunrise and sunset."""

    dawn: datetime
    sunrise: datetime
    sunset: datetime
    dusk: datetime


def daylight(latitude: float, longitude: float, day: date, zone: str) -> Light:
    """Return a day's light at a place; docs/methods.md, day (6).

    Parameters
    ----------
    latitude, longitude : float
        Of the place. [°]
    day : date
        Which day.
    zone : str
        Time zone, as the tz database names it.

    Raises
    ------
    NotSolvable
        Where the sun does not rise or set that day.

    References
    ----------
    J. Meeus (1998), Astronomical Algorithms, as in NOAA's sheets, by the library astral.
    """
    try:
        found = sun(Observer(latitude, longitude), date=day, tzinfo=ZoneInfo(zone))
    except ValueError as error:
        raise NotSolvable(what="daylight", why="the sun does not rise or set there on that day") from error
    return Light(found["dawn"], found["sunrise"], found["sunset"], found["dusk"])
