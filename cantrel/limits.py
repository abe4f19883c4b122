"""A limit as words: which entry of the catalogue fits, and what is filled into it. No number is made here."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from cantrel.limitwords import CASES, WORDS
from cantrel.quantities import apart, text
from treecore.hazards import hazards
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from cantrel.limitwords import Said
    from treecore.verdict import About, Limit

SHAPES = {Verdict.WITHIN: "within", Verdict.NEAR: "near", Verdict.OVER: "over", Verdict.NOT_KNOWN: "unknown"}
NEARS = {
    "standing": "what stands",
    "climber": "the climber",
    "piece": "the piece on its way",
    "rope": "the rope",
    "far_line": "the far line",
    "way_down": "the piece let down",
    "machine": "the machine’s reach",
}
PARTS = {
    "base": "sling at the device",
    "tag": "tag line",
    "leg": "bridle leg",
    "lead_sling": "sling where it is led over",
    "lead_block": "block where it is led over",
}
MOMENTS = {"swing": "swings", "lowered": "is let down"}
SHORT = ("rope_short", "leg_short", "line_short", "access_line")  # where the missing length is said as well


def asked(row: Limit, system: str) -> tuple[str, str]:
    """What is asked of a limit and what it allows, in words; the end of the interval that rules beside the first."""
    if row.demand is None or row.allowed is None:
        return tuple("" if e is None else text(e.value, row.dimension, system) for e in (row.demand, row.allowed))
    demand, allowed = apart(row.demand.value, row.allowed.value, row.dimension, system)
    if row.verdict not in (Verdict.NEAR, Verdict.OVER) or _crosses(row):
        return demand, allowed
    worse = text(row.demand.low if row.least else row.demand.high, row.dimension, system)
    if worse == demand:
        return demand, allowed
    return f"{demand} ({'as little as' if row.least else 'up to'} {worse})", allowed


def _crosses(row: Limit) -> Any:
    """Whether the central values are over already, so that no end of an interval need be said."""
    return row.demand.value < row.allowed.value if row.least else row.demand.value > row.allowed.value


def _case(row: Limit) -> Said:
    """Entry of the catalogue: the one for its cause, for what is not known or reached, else the usual one."""
    about = row.about
    kinds = [about.why]
    if not about.name:
        kinds.append("nothing")
    if row.allowed is None:
        kinds.append("unknown")
    if row.demand is not None and row.demand.value <= 0.0:
        kinds.append("reached")
    for kind in kinds:
        found = CASES.get(f"{row.key}/{kind}") if kind else None
        if found:
            return found
    return WORDS[row.key]


def filled(row: Limit, system: str) -> dict[str, str]:
    """What a sentence may name, by its place in the braces."""
    about, (demand, allowed) = row.about, asked(row, system)
    ends = [text(e, row.dimension, system) for e in (row.demand.low, row.demand.high)] if row.demand else ["", ""]
    named = about.name or about.side
    listed = hazards().get(about.why)
    return {
        "d": demand,
        "a": allowed,
        "low": ends[0],
        "high": ends[1],
        "n": named,
        "cause": f"{named}: {about.why}" if named and about.why else named or about.why,
        "seen": listed.name if listed else about.why,
        "other": about.other,
        "pair": f"“{about.name}” round “{about.other}”",
        "item": f"“{about.name}”" if about.name else "(not chosen)",
        "role": PARTS.get(about.role, about.role),
        "near": NEARS.get(about.role, ""),
        "moment": MOMENTS.get(about.role, ""),
        "times": f"{about.factor:.2f}" if about.factor else "",
        "count": f"{about.factor:.0f}" if about.factor else "",
        "share": f"{100 * about.factor:.0f} %" if about.factor else "",
        "turn": f"{round(math.degrees(about.turn))}°" if about.turn is not None else "",
        "where": "" if about.at is None else f"{text(about.at, 'length', system)} up",
        "w": "" if about.at is None else _where(about, system),
    }


def _where(about: About, system: str) -> str:
    """How high a place is, and what is wrong or joined there."""
    return f"At {text(about.at, 'length', system)} up" + (f", {about.why}" if about.why else "")


def limit_said(row: Limit, system: str) -> dict[str, str]:
    """A limit as words: name, sentence, what to change, verdict word and shape."""
    said = _case(row)
    sentence = said.sentence.format(**filled(row, system))
    if row.key in SHORT and row.allowed and row.demand.value > row.allowed.value:
        sentence = sentence[:-1] + f": {text(row.demand.value - row.allowed.value, row.dimension, system)} too short."
    return {
        "key": row.key,
        "group": row.group,
        "name": said.name,
        "sentence": sentence[:1].upper() + sentence[1:],
        "change": "" if row.verdict is Verdict.WITHIN else said.change,
        "verdict": row.verdict.value,
        "shape": SHAPES[row.verdict],
        "note": row.about.name,
    }
