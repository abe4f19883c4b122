"""A day as an event of a calendar (iCalendar, RFC 5545)."""

from __future__ import annotations

from datetime import datetime, time, timedelta
from typing import TYPE_CHECKING
from zoneinfo import ZoneInfo

from django.conf import settings
from django.utils.timezone import now
from django.utils.translation import gettext
from icalendar import Calendar, Event

from apps.day.wording import time_of

if TYPE_CHECKING:
    from apps.day.planner import DayWorked


def event(worked: DayWorked) -> bytes:
    """The day from its beginning to when it is done by the central values, with what there is to know."""
    workday, job, zone = worked.workday, worked.workday.job, ZoneInfo(settings.TIME_ZONE)
    midnight = datetime.combine(workday.on, time(), zone)
    begins = midnight + timedelta(minutes=workday.start)
    ends = midnight + timedelta(seconds=round(worked.clock.at(worked.day.finish.value)))
    found = Event()
    found.add("uid", f"cantrel-day-{workday.pk}@{job.crew_id}")
    found.add("dtstamp", now())
    found.add("dtstart", begins)
    found.add("dtend", ends)
    found.add("summary", " · ".join(part for part in (job.name, workday.name) if part))
    found.add("location", job.address)
    trees = ", ".join(work.tree.name for work in worked.trees)
    late = time_of(worked.clock.at(worked.day.finish.high))
    found.add("description", gettext("{trees}. Done by {late} on most days.").format(trees=trees, late=late))
    book = Calendar()
    book.add("prodid", "-//Cantrel//Day//EN")
    book.add("version", "2.0")
    book.add_component(found)
    return book.to_ical()
