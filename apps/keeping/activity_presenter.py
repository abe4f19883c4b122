"""Who changed what, in words and in the reader's units."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, ngettext

from cantrel import quantities

if TYPE_CHECKING:
    from apps.keeping.activity_planner import Change, Event
    from apps.keeping.archive_planner import Summary

LONG = 160  # letters of a value that are shown


def shown(event: Event, system: str) -> dict[str, Any]:
    """One event for the page."""
    return {
        "at": event.at,
        "by": event.by.shown_name() if event.by else event.brought,
        "table": event.table,
        "named": event.named,
        "kind": event.kind,
        "new": all(change.old in (None, "") for change in event.changes),
        "changes": [_change(change, system) for change in event.changes],
        "more": event.more,
    }


def _change(change: Change, system: str) -> dict[str, str]:
    if change.dimension == "order":
        return {"name": change.name, "old": "", "new": gettext("another order")}
    sides = {side: _said(getattr(change, side), change.dimension, system) for side in ("old", "new")}
    return {"name": gettext(change.name) if change.name else "", **sides}


def _said(value: Any, dimension: str, system: str) -> str:
    if value is None or value == "":
        return gettext("nothing")
    if isinstance(value, bool):
        return gettext("yes") if value else gettext("no")
    if isinstance(value, float) and dimension:
        return quantities.text(value, dimension, system)
    if isinstance(value, list) and len(value) > 1:
        return gettext("{n} entries").format(n=len(value))
    text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
    return text if len(text) <= LONG else text[:LONG] + "…"


def came_in(found: Summary) -> str:
    """What an archive brought, in a sentence or two."""
    trees = ngettext("{n} tree", "{n} trees", found.trees).format(n=found.trees)
    pictures = ngettext("{n} picture", "{n} pictures", found.pictures).format(n=found.pictures)
    said = gettext("Taken in: {jobs}; {trees}, {pictures}.").format(
        jobs=", ".join(job.name for job in found.jobs[:5]) or gettext("no job"), trees=trees, pictures=pictures
    )
    beside = gettext("Signatures and walk-up answers came to be read; they count once somebody signs and answers here.")
    return f"{said} {beside}"
