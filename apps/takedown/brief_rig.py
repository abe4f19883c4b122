"""What holds a piece, for the paper: ties, point, rope and gear, device, forces, tag line and far point."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.takedown import planner
from cantrel.drawing import compass, label
from cantrel.quantities import estimate, with_unit

if TYPE_CHECKING:
    from apps.takedown.planner import Row

TWO_TIES = ("both", "bridle")


def facts(row: Row, system: str) -> list[tuple[str, str]]:
    """Labels and values of all that holds a piece, empty where nothing does; nothing of what is not in use."""
    if row.held is None:
        return []
    entry, pick = row.entry, row.pick
    found = [
        (gettext("Tied"), _ties(entry, system)),
        (gettext("Over"), placed(entry.get("point"), system)),
        (gettext("Led over"), placed(entry.get("redirect"), system)),
        (gettext("Second point"), placed(entry.get("far_anchor"), system) if _far(pick.method) else ""),
        (gettext("Gear"), _gear(row)),
        (gettext("Device"), gettext("{wraps}, {held}").format(wraps=_wraps(row), held=_held(row, system))),
        (gettext("Device stands"), _where(row, pick.device_place, system)),
        *_forces(row, system),
        (gettext("Tag line"), _tag(row, system)),
    ]
    return [(name, value) for name, value in found if value]


def placed(place: dict[str, Any] | None, system: str) -> str:
    """A place on the wood: which member, how far along it; empty without one."""
    if not place:
        return ""
    where = place.get("tree") or place.get("member") or gettext("stem")
    return f"{where}, {label(place['at_m'], 'length', system)}"


def _ties(entry: dict[str, Any], system: str) -> str:
    """Where it is tied; a second tie left from another way of taking it is none."""
    ties = [entry.get("tie_m", planner.USUAL["tie_m"])]
    if entry.get("method") in TWO_TIES and entry.get("second_tie_m"):
        ties.append(entry["second_tie_m"])
    said = [label(t, "length", system) for t in ties]
    both = gettext("{first} and {second}").format(first=said[0], second=said[1]) if len(said) > 1 else said[0]
    return gettext("{ties} from the cut").format(ties=both)


def _far(method: str) -> bool:
    return method in ("speed", "drift")


def _gear(row: Row) -> str:
    named = [(role, item.name) for role, item in row.pick.gear.items() if role not in ("tag", "device")]
    return ", ".join(name for _, name in named) or gettext("not chosen")


def _wraps(row: Row) -> str:
    device = row.pick.gear.get("device")
    name = device.name if device else dict(planner.device_names())[row.pick.device].lower()
    turns = planner.turns_taken(row.pick)
    if turns.replace(".", "").isdigit():
        return gettext("{turns} wraps on {name}").format(turns=turns, name=name)
    return gettext("{name}, {turns}").format(turns=turns, name=name)


def _held(row: Row, system: str) -> str:
    held, run = row.pick.held, label(row.pick.run, "length", system)
    words = {
        "lock": gettext("locked off"),
        "soft": gettext("held softly"),
        "run": gettext("let run {run} before the hand closes").format(run=run),
    }
    return words[held]


def _forces(row: Row, system: str) -> list[tuple[str, str]]:
    forces = row.held.forces
    return [
        (gettext("On the point"), _said(forces.on_point, "force", system)),
        (gettext("At the hand"), _said(forces.hand, "small_force", system)),
        (gettext("Rope it takes"), label(forces.needed, "length", system)),
    ]


def _said(found: Any, dimension: str, system: str) -> str:
    parts = estimate(found, dimension, system)
    said = with_unit(parts["value"], parts["unit"])
    return f"{said} ({parts['spread']})" if parts["spread"] else said


def _where(row: Row, place: tuple[float, ...], system: str) -> str:
    """A place given east and north of the stem, as distance and compass from it."""
    if math.hypot(*place[:2]) < 0.6:
        return gettext("at the stem")
    return gettext("{far} {compass} of the stem").format(
        far=label(math.hypot(*place[:2]), "length", system), compass=compass(math.atan2(place[0], place[1]) % math.tau)
    )


def _tag(row: Row, system: str) -> str:
    """The tag line where the piece is put beside its point, or one was named: what it needs, and from where."""
    put, pick = row.held.put, row.pick
    named = pick.gear.get("tag")
    if put.aside <= 0.0 and not named:
        return ""
    parts = [named.name] if named else []
    if pick.tag_place:
        parts.append(gettext("from {place}").format(place=_where(row, pick.tag_place, system)))
    if put.aside > 0.0:
        parts.append(
            gettext("{least} to {most}").format(
                least=label(put.least, "small_force", system), most=label(put.most, "small_force", system)
            )
        )
    return ", ".join(parts)


def short(row: Row, system: str) -> list[tuple[str, str]]:
    """What a line of the brief says of a pick's rope: wraps, force in the hand, run, rope it takes; dashes without."""
    if row.held is None:
        return [(name, "–") for name in ("wraps", "hand", "run", "rope")]
    forces, pick = row.held.forces, row.held.pick
    run = (
        label(pick.run, "length", system) if pick.held == "run" else {"lock": gettext("locked"), "soft": "–"}[pick.held]
    )
    return [
        ("wraps", planner.turns_taken(pick)),
        ("hand", label(forces.hand.high, "small_force", system)),
        ("run", run),
        ("rope", label(forces.needed, "length", system)),
    ]
