"""The lines as the crew finds and rigs them: where each end stands, what each hand gives, how long each rope is."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy, ngettext

from cantrel.drawing import compass
from cantrel.limits import SIDES
from cantrel.quantities import estimate, text, with_unit

if TYPE_CHECKING:
    from apps.felling.bench_planner import WorkedPlan
    from treecore.felling.line_places import LineSheet, RopeRun, Stand

STRAIGHT = math.radians(1.0)  # nobody sights closer than this by eye
SIDE_OF = {
    "left": gettext_lazy("left of the lay"),
    "right": gettext_lazy("right of the lay"),
    "ahead": gettext_lazy("ahead, along the lay"),
    "behind": gettext_lazy("behind the tree"),
}
PULLS = {
    "people": gettext_lazy("people"),
    "winch": gettext_lazy("winch"),
    "vehicle": gettext_lazy("truck or tractor"),
}


def where(stand: Stand, system: str) -> str:
    """A place from the stem: bearing, distance, side of the lay, height and what it is beside."""
    said = gettext("{far} from the stem, bearing {bearing} ({compass}), {side}, {height} up").format(
        far=text(stand.distance, "length", system),
        bearing=text(stand.bearing, "angle", system),
        compass=compass(stand.bearing),
        side=SIDE_OF[stand.side],
        height=text(stand.height, "length", system),
    )
    if stand.landmark is None:
        return said + gettext("; nothing named stands near")
    if stand.landmark.off < 0.3:
        return said + gettext("; at {name}").format(name=stand.landmark.name)
    off = text(stand.landmark.off, "length", system)
    return said + gettext("; {off} from {name}").format(off=off, name=stand.landmark.name)


def who(stand: Stand) -> str:
    """Who or what pulls at a hand."""
    if stand.people:
        return ngettext("{n} person", "{n} people", stand.people).format(n=stand.people)
    return str(PULLS.get(stand.kind, gettext("nobody said who")))


def at_the_hands(sheet: LineSheet, system: str) -> str:
    """What each hand is told to pull, and what of it the tree gets."""
    given = gettext("; ").join(
        gettext("{who} ({name}) {force}").format(
            who=who(h), name=h.name, force=text(h.force.value if h.force else 0.0, "force", system)
        )
        for h in sheet.hands
    )
    return gettext("{given} at the hand; the tree gets {pull}").format(
        given=given, pull=text(sheet.on_tree.value if sheet.on_tree else 0.0, "force", system)
    )


def lines_sheet(worked: WorkedPlan, system: str) -> dict[str, Any] | None:
    """The lines for the paper: rows of places, rows of ropes; None where nothing is rigged."""
    sheet = worked.line_sheet
    if not (sheet.hands or sheet.guy):
        return None
    places = [_placed(h, gettext("pulls"), who(h), system) for h in sheet.hands]
    places += [_placed(p, gettext("carries"), "", system) for p in sheet.parts]
    if sheet.guy:
        places.append(_placed(sheet.guy, gettext("guy, up to"), "", system))
    return {
        "tie": text(sheet.tie, "length", system) if sheet.tie is not None else "",
        "guy_tie": text(sheet.guy_tie, "length", system) if sheet.guy_tie is not None else "",
        "on_tree": _force(sheet.on_tree, system),
        "places": places,
        "ropes": [_rope(r, system) for r in sheet.ropes],
    }


def aim_mark(worked: WorkedPlan, system: str) -> str:
    """What to look at along the lay; where nothing named lies there, the peg alone."""
    seen = worked.aim
    if seen is None:
        return gettext("nothing named lies along the lay: sight to the peg")
    far, off = text(seen.distance, "length", system), text(abs(seen.right), "angle", system)
    if abs(seen.right) < STRAIGHT:
        return gettext("{name}, {far} off, straight along the lay").format(name=seen.name, far=far)
    aside = gettext("{off} to the {side} of the lay").format(
        off=off, side=SIDES["right" if seen.right > 0.0 else "left"]
    )
    return gettext("{name}, {far} off, its middle {aside}").format(name=seen.name, far=far, aside=aside)


def _placed(stand: Stand, does: str, by: str, system: str) -> dict[str, Any]:
    return {
        "name": stand.name,
        "does": does,
        "who": by,
        "where": where(stand, system),
        "force": _force(stand.force, system),
        "raw": stand.force.value if stand.force else 0.0,
    }


def _force(force: Any, system: str) -> str:
    if force is None:
        return ""
    parts = estimate(force, "force", system)
    said = with_unit(parts["value"], parts["unit"])
    return f"{said} ({parts['spread']})" if parts["spread"] else said


def _rope(rope: RopeRun, system: str) -> dict[str, Any]:
    named = {"tree": gettext("tree"), "anchor": gettext("anchor")}
    return {
        "name": rope.name,
        "path": " – ".join(named.get(p, p) for p in rope.path),
        "way": text(rope.way, "length", system),
        "need": text(rope.need, "length", system),
        "owned": text(rope.owned, "length", system) if rope.owned else gettext("not said"),
        "bends": ngettext("{n} bend", "{n} bends", rope.bends).format(n=rope.bends)
        if rope.bends
        else gettext("straight"),
        "tension": _force(rope.tension, system),
    }
