"""A plan as it was signed: the figures kept with the signature, in the reader's units."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.briefing import planner
from apps.briefing.presenter import KEY
from cantrel import quantities
from cantrel.limits import SHAPES, VERDICTS
from cantrel.limitwords import WORDS
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from apps.briefing.models import SignOff

LONG = 160  # letters of a value that are shown
# How a kept number is shown, by its SI unit.
SHOWN_AS = {
    "m": "offset",
    "kg": "mass",
    "N": "force",
    "N·m": "moment",
    "rad": "fine_angle",
    "m/s": "speed",
    "s": "time",
    "1": "ratio",
    "Pa": "strength",
    "V": "voltage",
    "J": "energy",
}


def _said(value: dict[str, Any] | None, unit: str, system: str) -> str:
    """A kept number with its interval."""
    if value is None:
        return ""
    dimension = SHOWN_AS.get(value.get("unit", unit), "ratio")
    ends = [quantities.text(value[end], dimension, system) for end in ("value", "low", "high") if end in value]
    return (
        ends[0]
        if len(ends) < 3
        else gettext("{value} ({low} to {high})").format(value=ends[0], low=ends[1], high=ends[2])
    )


def _limit(row: dict[str, Any], system: str) -> dict[str, str]:
    verdict, unit = Verdict(row["verdict"]), row["unit"]
    return {
        "name": gettext(WORDS[row["key"]].name) if row["key"] in WORDS else row["key"],
        "about": row.get("about", {}).get("name", ""),
        "verdict": str(VERDICTS[verdict]),
        "shape": SHAPES[verdict],
        "demand": _said(row["demand"], unit, system),
        "allowed": _said(row["allowed"], unit, system),
    }


def _figures(tree: dict[str, Any], system: str) -> list[dict[str, str]]:
    found = tree["standing"] | tree.get("felling", {}).get("figures", {})
    first = [key for key in KEY if key in found]
    return [{"label": gettext(found[key]["label"]), "shown": _said(found[key], "1", system)} for key in first]


def _picks(entry: dict[str, Any], tree: dict[str, Any], system: str) -> list[dict[str, Any]]:
    rows = zip(entry.get("takedown", {}).get("picks", ()), tree.get("takedown", {}).get("picks", ()), strict=False)
    return [_pick(number, said, out, system) for number, (said, out) in enumerate(rows, start=1)]


def _pick(number: int, said: dict[str, Any], out: dict[str, Any], system: str) -> dict[str, Any]:
    return {
        "number": number,
        "what": said.get("member") or gettext("stem"),
        "at": quantities.text(said["at_m"], "length", system),
        "mass": _said(out.get("mass"), "kg", system),
        "peak": _said(out.get("peak"), "N", system),
        "hand": _said(out.get("hand"), "N", system),
        "ruling": _limit(out["ruling"], system) if out.get("ruling") else None,
        "refused": out.get("refused", ""),
    }


def changed(signed: SignOff, later: SignOff | None, system: str) -> dict[str, Any]:
    """The page of what changed between a signed plan and a later one, or the plan as it stands."""
    rows = planner.changed_since(signed.tree, signed, later)
    return {
        "row": signed,
        "later": later,
        "tree": signed.tree,
        "job": signed.tree.job,
        "others": [other for other in signed.tree.signoffs.all() if other.pk > signed.pk],
        "changes": [
            {
                "where": " · ".join(gettext(word) for word in row.path),
                "old": _value(row.old, row.dimension, system),
                "new": _value(row.new, row.dimension, system),
            }
            for row in rows
        ],
    }


def _value(value: Any, dimension: str, system: str) -> str:
    if value is None or value in ("", [], ()):
        return gettext("nothing")
    if isinstance(value, bool):
        return gettext("yes") if value else gettext("no")
    if isinstance(value, int | float) and dimension:
        return quantities.text(float(value), dimension, system)
    if isinstance(value, list | tuple | dict):
        return json.dumps(value, ensure_ascii=False)[:LONG]
    return str(value)


def whole(signed: SignOff, system: str) -> dict[str, Any]:
    """Everything the page of a signature shows."""
    document, tree = signed.document, signed.tree
    entry, kept = document["trees"][0], (signed.results or {"trees": [None]})["trees"][0]
    numbers = {
        "figures": _figures(kept, system),
        "limits": [_limit(row, system) for row in kept.get("felling", {}).get("limits", ())],
        "picks": _picks(entry, kept, system),
    }
    return {
        "row": signed,
        "tree": tree,
        "job": tree.job,
        "said": document["job"],
        "entry": entry,
        "checked": planner.verified(signed),
        "newest": tree.signoffs.first() == signed,
        "state": planner.signed_state(tree),
    } | (numbers if kept else {})
