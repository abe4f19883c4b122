"""Pages of people."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import segno
from django.utils.safestring import mark_safe

from apps.crews import people_planner

if TYPE_CHECKING:
    from datetime import datetime

    from apps.crews.models import Crew, Person, SignIn

KINDS = (("iPhone", "iPhone"), ("Android", "Android"), ("Windows", "Windows"), ("Macintosh", "Mac"), ("Linux", "Linux"))
BROWSERS = (("Firefox/", "Firefox"), ("Edg/", "Edge"), ("Chrome/", "Chrome"), ("Safari/", "Safari"))


def machine(agent: str) -> str:
    """A browser's own account of itself in two words."""
    found = [next((said for mark, said in marks if mark in agent), "") for marks in (BROWSERS, KINDS)]
    return ", ".join(word for word in found if word) or agent[:60] or "?"


def picture(text: str) -> str:
    """A text as a square a phone reads."""
    return mark_safe(segno.make(text, error="m").svg_inline(scale=4, border=2, dark="#111", light="#fff"))


def _session(row: SignIn, seen: datetime, key: str | None) -> dict[str, Any]:
    return {"row": row, "machine": machine(row.agent), "here": row.session == key, "seen": seen}


def account(person: Person, key: str | None) -> dict[str, Any]:
    """A person's own page."""
    sessions = [_session(row, seen, key) for row, seen in people_planner.sessions_of(person)]
    refused = person.sign_ins.exclude(outcome="in")[:5]
    return {
        "sessions": sessions,
        "others": any(not s["here"] for s in sessions),
        "refused": [{"row": row, "machine": machine(row.agent)} for row in refused],
        "rescue_left": len(person.rescue_codes),
    }


def set_up(person: Person, secret: str) -> dict[str, Any]:
    """The secret of a second factor, as a picture and in words."""
    parts = [secret[i : i + 4] for i in range(0, len(secret), 4)]
    return {"picture": picture(people_planner.secret_address(person, secret)), "secret": " ".join(parts)}


def people(crew: Crew, me: Person) -> dict[str, Any]:
    """Everybody of a yard, and who is invited."""
    rows = [{"person": p, "me": p.pk == me.pk} for p in people_planner.people_of(crew)]
    return {
        "here": [r for r in rows if r["person"].is_active],
        "gone": [r for r in rows if not r["person"].is_active],
        "invitations": people_planner.invitations_of(crew),
    }


def door(route: str, name: str, link: str, sent: bool) -> dict[str, Any]:
    """A link that is shown once, with its picture for a phone."""
    return {"route": route, "name": name, "link": link, "sent": sent, "picture": picture(link)}
