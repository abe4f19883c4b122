"""A limit as words: which entry of the catalogue fits, and what is filled into it. No number is made here."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from cantrel.handbook import cited
from cantrel.limitwords import CASES, WORDS
from cantrel.quantities import apart, text
from treecore.hazards import hazards
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from collections.abc import Iterable

    from cantrel.limitwords import Said
    from treecore.verdict import About, Limit

VERDICTS = {
    Verdict.WITHIN: gettext_lazy("within limits"),
    Verdict.NEAR: gettext_lazy("near a limit"),
    Verdict.OVER: gettext_lazy("over a limit"),
    Verdict.NOT_KNOWN: gettext_lazy("not known"),
}
UNIONS = {
    "sound": gettext_lazy("sound"),
    "included": gettext_lazy("included bark"),
    "strapped": gettext_lazy("included bark, strapped"),
    "decayed": gettext_lazy("decayed"),
    "cracked": gettext_lazy("cracked"),
}
CAUSES = UNIONS | {
    "dead": gettext_lazy("dead"),
    "decay": gettext_lazy("decay"),
    "hollow": gettext_lazy("hollow"),
    "open": gettext_lazy("open"),
}
SHAPES = {Verdict.WITHIN: "within", Verdict.NEAR: "near", Verdict.OVER: "over", Verdict.NOT_KNOWN: "unknown"}
SHORT_WORDS = {
    "within": gettext_lazy("within"),
    "near": gettext_lazy("near"),
    "over": gettext_lazy("over"),
    "unknown": gettext_lazy("not known"),
}
NEARS = {
    "standing": gettext_lazy("what stands"),
    "climber": gettext_lazy("the climber"),
    "piece": gettext_lazy("the piece on its way"),
    "rope": gettext_lazy("the rope"),
    "far_line": gettext_lazy("the far line"),
    "way_down": gettext_lazy("the piece let down"),
    "machine": gettext_lazy("the machine’s reach"),
}
SIDES = {"left": gettext_lazy("left"), "right": gettext_lazy("right")}
PARTS = {
    "rope": gettext_lazy("rope"),
    "sling": gettext_lazy("sling"),
    "block": gettext_lazy("block"),
    "connector": gettext_lazy("connector"),
    "device": gettext_lazy("device"),
    "base": gettext_lazy("sling at the device"),
    "tag": gettext_lazy("tag line"),
    "leg": gettext_lazy("bridle leg"),
    "redirect_sling": gettext_lazy("sling where it is led over"),
    "redirect_block": gettext_lazy("block where it is led over"),
}
MOMENTS = {"swing": gettext_lazy("swings"), "lowered": gettext_lazy("is let down")}
GEAR = {
    "retired": gettext_lazy("retired: {note}"),
    "poor": gettext_lazy("marked poor"),
    "old": gettext_lazy("bought {note}, kept {years:g} years at most"),
    "uninspected": gettext_lazy("never inspected"),
    "overdue": gettext_lazy("inspection was due {note}"),
}
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
    return f"{demand} ({gettext('as little as') if row.least else gettext('up to')} {worse})", allowed


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


def _why(row: Limit) -> str:
    """The reason a limit gives, in words."""
    about = row.about
    if row.key == "gear_refused" and about.why in GEAR:
        return gear_refused(about.why, about.other, about.factor)
    return str(CAUSES.get(about.why, gettext(about.why)))


def filled(row: Limit, system: str) -> dict[str, str]:
    """What a sentence may name, by its place in the braces."""
    about, (demand, allowed) = row.about, asked(row, system)
    ends = [text(e, row.dimension, system) for e in (row.demand.low, row.demand.high)] if row.demand else ["", ""]
    named, why = about.name or _place(about, system), _why(row)
    listed = hazards().get(about.why)
    return {
        "d": demand,
        "a": allowed,
        "below": text(-row.demand.value, row.dimension, system) if row.demand else "",
        "low": ends[0],
        "high": ends[1],
        "n": named,
        "cause": f"{named}: {why}" if named and why else named or why,
        "seen": gettext(listed.name) if listed else why,
        "other": about.other,
        "pair": gettext("“{name}” round “{other}”").format(name=about.name, other=about.other),
        "item": f"“{about.name}”" if about.name else gettext("(not chosen)"),
        "role": str(PARTS.get(about.role, gettext(about.role))),
        "near": str(NEARS.get(about.role, "")),
        "moment": str(MOMENTS.get(about.role, "")),
        "times": f"{about.factor:.2f}" if about.factor else "",
        "count": f"{about.factor:.0f}" if about.factor else "",
        "share": f"{100 * about.factor:.0f} %" if about.factor else "",
        "turn": f"{round(math.degrees(about.turn))}°" if about.turn is not None else "",
        "where": "" if about.at is None else gettext("{high} up").format(high=text(about.at, "length", system)),
        "w": "" if about.at is None else _where(about, system),
    }


def gear_refused(key: str, note: str, years: float | None) -> str:
    """Why an item of gear may not be used."""
    return GEAR[key].format(note=note, years=years or 0.0)


def _place(about: About, system: str) -> str:
    """A place on the stem where nothing is named; a side of the cut."""
    if about.side:
        return str(SIDES[about.side])
    if about.at is None or about.why not in ("decay", "hollow"):
        return ""
    return gettext("stem, {high} up").format(high=text(about.at, "length", system))


def _where(about: About, system: str) -> str:
    """How high a place is, and what is wrong or joined there."""
    high = gettext("At {high} up").format(high=text(about.at or 0.0, "length", system))
    what = wood_there(about.why, about.name, about.union)
    return f"{high}, {what}" if what else high


def wood_there(why: str, name: str, union: str) -> str:
    """What wood is where it is stressed most: a union, a hollow, another tree; empty for plain sound wood."""
    if why == "union":
        said = gettext("union of {name}").format(name=name)
        return said if union == "sound" else f"{said}, {UNIONS[union]}"
    if why == "other":
        return name or gettext("another tree")
    return gettext("hollow or decayed there") if why == "hollow" else ""


def limit_said(row: Limit, system: str) -> dict[str, str]:
    """A limit as words: name, sentence, what to change, verdict word and shape."""
    said = _case(row)
    sentence = gettext(said.sentence).format(**filled(row, system))
    if row.key in SHORT and row.allowed and row.demand.value > row.allowed.value:
        sentence = sentence[:-1] + gettext(": {value} too short.").format(
            value=text(row.demand.value - row.allowed.value, row.dimension, system)
        )
    return {
        "key": row.key,
        "group": row.group,
        "name": gettext(said.name),
        "sentence": sentence[:1].upper() + sentence[1:],
        "change": "" if row.verdict is Verdict.WITHIN else gettext(said.change),
        "verdict": str(VERDICTS[row.verdict]),
        "shape": SHAPES[row.verdict],
        "note": row.about.name,
        "methods": cited(row.kind.source),
    }


def worst_first(limits: Iterable[Limit], system: str) -> list[dict[str, str]]:
    """Limits in words, in the order they are named."""
    return [limit_said(limit, system) for limit in sorted(limits, key=lambda limit: limit.order, reverse=True)]
