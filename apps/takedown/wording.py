"""Methods and changes of a takedown in words."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy, ngettext

from apps.takedown.planner import axial_stiffness_of, method
from cantrel.drawing import compass
from cantrel.limits import SHAPES, SHORT_WORDS, VERDICTS, limit_said, wood_there
from cantrel.quantities import estimate, explain, text
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from apps.takedown.planner import Row
    from treecore.errors import NotSolvable, OutOfRange
    from treecore.estimate import Estimate
    from treecore.formats.takedown_start import Trial
    from treecore.rigging.bending import AnchorStress
    from treecore.rigging.gear import Item
    from treecore.takedown.aiming import Change
    from treecore.takedown.order import Order
    from treecore.takedown.peak_forces import Course, Wraps
    from treecore.takedown.proposing import Proposal
    from treecore.takedown.weights import Correction
    from treecore.verdict import Limit

ORDERS = {
    "dead_first": gettext_lazy("dead wood first: {} still hangs"),
    "limbs_on_stem": gettext_lazy("{} limbs are still on this length of stem"),
    "point_low": gettext_lazy("its rigging point is below the work at {} m"),
    "off_balance": gettext_lazy("what stands leans {} m more to one side after it"),
}
CHANGES = {
    "slack": gettext_lazy("{} less slack"),
    "run": gettext_lazy("let it run {}"),
    "tie": gettext_lazy("tie it {} from the cut"),
    "shorter": gettext_lazy("a piece {} shorter"),
}
CAUTIONS = (
    gettext_lazy(
        "Two attachments whenever the saw runs; both hands on it; stand where a slip takes you away from the chain."
    ),
    gettext_lazy("Nobody under the piece, in the bight, or in line with a tight rope. Call, and wait for the reply."),
    gettext_lazy(
        "The model knows only what was measured. Local rules and a competent person at the tree have the last word."
    ),
)


def shape_of(row: Row) -> str:
    """Shape of a pick's verdict."""
    if row.error:
        return "over"
    return SHAPES[row.ruling.verdict if row.ruling else Verdict.WITHIN]


def verdict(row: Row, system: str) -> tuple[str, str]:
    """Shape of a pick's verdict, and what rules it in a few words, empty within limits."""
    if row.error:
        return shape_of(row), refused(row.error, system)
    if shape_of(row) == "within":
        return "within", ""
    return shape_of(row), limit_said(row.ruling, system)["name"]


def verdict_word(row: Row) -> str:
    """A pick's verdict as a word, to stand beside its shape."""
    if row.error:
        return gettext("refused")
    return str(VERDICTS[row.ruling.verdict if row.ruling else Verdict.WITHIN])


def tally(rows: list[Row]) -> str:
    """How many picks of the list have which verdict."""
    shapes = [shape_of(row) for row in rows]
    counts = [(shapes.count(shape), word) for shape, word in SHORT_WORDS.items()]
    return ", ".join(f"{count} {word}" for count, word in counts if count)


def worst(number: int, rows: list[Row], system: str) -> dict[str, Any]:
    """The pick that rules the whole list, in words: one that is refused before any limit; None
    where nothing is held.
    """
    if number is None:
        return None
    row = rows[number]
    if row.error:
        said = {
            "shape": "over",
            "name": gettext("Refused"),
            "verdict": gettext("not worked out"),
            "sentence": refused(row.error, system),
        }
    else:
        said = limit_said(row.ruling, system)
    return said | {"number": number + 1, "n": number, "id": row.entry.get("id", "")}


def bends_at(anchor: AnchorStress, system: str) -> str:
    """Where the wood under a rigging point is stressed most."""
    if anchor.why == "union" or not anchor.height:
        return wood_there(anchor.why, anchor.name, anchor.union) or gettext("at the ground")
    return gettext("{high} up").format(high=text(anchor.height, "length", system))


def wraps(row: Wraps) -> dict[str, str]:
    """Wraps that hold, let run and lock off; what the device can't is said."""
    return {
        name: f"{value:.1f}" if math.isfinite(value) else gettext("it can’t")
        for name, value in (("hold", row.hold), ("run", row.run), ("lock", row.lock))
    }


def course(row: Course, held: str, system: str) -> str:
    """What comes of the motion, in a sentence."""
    run = text(row.run.value, "length", system)
    if held == "lock":
        return gettext("The device holds; nothing runs.")
    if row.locked:
        return gettext("Meant to run, but these wraps hold it: it is worked out as held fast.")
    if not row.stops:
        return gettext("The device slides on and does not stop it: {run} of rope has run by then.").format(run=run)
    sure = "" if row.always_stops else gettext(" At the slippery end the device does not stop it.")
    return (
        gettext("{run} of rope runs, then it stops.").format(run=run)
        if row.run.value > 0.01
        else gettext("The hand holds it; nothing runs.")
    ) + sure


KNOWN = {
    "stated": gettext_lazy("by the store"),
    "table": gettext_lazy("by construction and thickness"),
    "interpolated": gettext_lazy("by construction, between two thicknesses of the table"),
    "extended": gettext_lazy("by construction, beyond the thicknesses of the table"),
    "unknown": gettext_lazy("assumed: construction or thickness not known"),
}


def stiffness(rope: Item | None, known: str, system: str) -> str:
    """Modulus of the rope with its interval, and how it is known."""
    shown = axial_stiffness_of(rope)
    parts = estimate(shown, "force", system)
    return f"{parts['value']} {parts['unit']} ({parts['spread']}), {KNOWN[known]}"


def friction(used: Estimate, readings: int) -> str:
    """Friction of rope on the device, and whether the crew measured it."""
    said = gettext("{value:.2f} ({low:.2f} to {high:.2f})").format(value=used.value, low=used.low, high=used.high)
    if not readings:
        return gettext("{said}, assumed").format(said=said)
    pattern = ngettext("{said}, measured: {n} reading", "{said}, measured: {n} readings", readings)
    return pattern.format(said=said, n=readings)


def corrected(by: Correction) -> str:
    """What pieces weighed before this one make of its weight; empty where none were."""
    if not by.weighed:
        return ""
    shares = [
        f"{name} {100 * (factor - 1):+.0f} %"
        for name, factor in ((gettext("stem wood"), by.stem), (gettext("limbs"), by.limbs))
        if abs(factor - 1.0) >= 0.005
    ]
    pattern = ngettext("{n} piece weighed before this one", "{n} pieces weighed before this one", by.weighed)
    pieces = pattern.format(n=by.weighed)
    return (
        f"{pieces}: {', '.join(shares)}." if shares else gettext("{pieces}: as the model had it.").format(pieces=pieces)
    )


def refused(error: NotSolvable | OutOfRange, system: str) -> str:
    """Why a pick can't be worked out."""
    return explain(error, system)


def method_name(key: str) -> str:
    """Name of a method."""
    return gettext(method(key).name)


def order(row: Order) -> str:
    """A rule of order that is not kept."""
    return ORDERS[row.rule].format(row.what)


def change(row: Change, system: str) -> dict[str, Any]:
    """A small change of a pick and what it does to the peak."""
    pattern = CHANGES[row.key] if row.key in CHANGES else ngettext("{} wrap more", "{} wraps more", round(row.amount))
    return {
        "what": pattern.format(text(row.amount, "length" if row.key in CHANGES else "count", system)),
        "peak": f"{100 * row.peak:+.0f} %",
        "mends": row.mends,
        "raw": f"{row.peak:.6g}",
    }


WHY_MOVED = {
    "dead": gettext_lazy("dead wood first"),
    "limb": gettext_lazy("limbs from the lowest up, tips in"),
    "stem": gettext_lazy("the stem from its top, its limbs off"),
}
FAULTS = (
    ("over", gettext_lazy("over a limit")),
    ("unknown", gettext_lazy("not known")),
    ("rules", gettext_lazy("out of the usual order")),
    ("near", gettext_lazy("near a limit")),
)


def proposal(found: Proposal, listed: list[dict[str, Any]]) -> dict[str, Any]:
    """A proposed order: what moves and why, and what it mends."""
    if not found.moves:
        faults = (
            gettext("it has a refused pick")
            if found.before.refused
            else gettext("no order tried is better in anything without being worse in something")
        )
        return {"title": gettext("The order stays."), "effect": f"{faults[:1].upper()}{faults[1:]}.", "moves": []}
    changed = [
        f"{getattr(found.before, key)} → {getattr(found.after, key)} {name}"
        for key, name in FAULTS
        if getattr(found.before, key) != getattr(found.after, key)
    ]
    moves = [
        gettext("{was} {what_} at {at} becomes {becomes}: {WHY_MOVED}").format(
            was=m.was,
            what_=listed[m.was - 1]["what"],
            at=listed[m.was - 1]["at"],
            becomes=m.becomes,
            WHY_MOVED=WHY_MOVED[m.why],
        )
        for m in found.moves
    ]
    return {"title": gettext("Proposed order; nothing is worse."), "effect": ", ".join(changed) + ".", "moves": moves}


MENDS = {
    "wraps": (gettext_lazy("{} wraps"), "count"),
    "held": (gettext_lazy("Let it run"), ""),
    "run": (gettext_lazy("Let it run {} before the hand closes"), "length"),
    "tie": (gettext_lazy("Tie it {} from the cut"), "length"),
    "point": (gettext_lazy("Rigging point at {}"), "length"),
    "faces": (gettext_lazy("Notch faces {}"), "bearing"),
    "side": (gettext_lazy("Climber on the {} side"), "compass"),
    "tie_in": (gettext_lazy("Climber tied in at {}"), "length"),
    "stance": (gettext_lazy("Climber stands at {}"), "length"),
    "shorter": (gettext_lazy("Cut {} further out"), "length"),
    "butt": (gettext_lazy("On a line from above"), ""),
    "free": (gettext_lazy("Let it fall free"), ""),
}
COSTS = (
    gettext_lazy("rope work only"),
    gettext_lazy("one place moved"),
    gettext_lazy("two things changed"),
    gettext_lazy("one more pick"),
)


def mend(trial: Trial, ruling: Limit | None, system: str) -> dict[str, Any]:
    """A change that passes: what to change, what rules it then, what it costs; ``take`` names it for the server."""
    said = []
    for key, amount in trial.changes:
        pattern, dimension = MENDS[str(amount) if key == "method" else key]
        said.append(pattern.format(_amount(amount, dimension, system)))
    fine = ruling is None or ruling.verdict is Verdict.WITHIN
    shape = "within" if fine else SHAPES[ruling.verdict]
    gives = gettext("No limit reached in this model") if fine else limit_said(ruling, system)["name"]
    named = " ".join(f"{key} {amount}" for key, amount in trial.changes)
    words = ", ".join([said[0], *(f"{s[:1].lower()}{s[1:]}" for s in said[1:])])
    return {
        "what": words,
        "shape": shape,
        "gives": gives,
        "cost": COSTS[min(trial.cost, len(COSTS) - 1)],
        "take": named,
    }


def _amount(amount: float | str, dimension: str, system: str) -> str:
    if isinstance(amount, str) or not dimension:
        return ""
    if dimension == "bearing":
        return f"{amount:.0f}°"
    if dimension == "compass":
        return compass(math.radians(amount))
    return text(amount, dimension, system)
