"""Steps and ways of a felling in words. The numbers come from the core; only the sentences are ours."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from cantrel.limits import SHAPES, SIDES
from cantrel.quantities import text
from treecore.schools import constant, schools
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from treecore.estimate import Estimate
    from treecore.felling.bucking import BuckCut
    from treecore.felling.evaluate import Opening, Thinning
    from treecore.method import Option, Stop

FITS = {
    Verdict.WITHIN: gettext_lazy("fits"),
    Verdict.OVER: gettext_lazy("rejected"),
    Verdict.NOT_KNOWN: gettext_lazy("not known yet"),
}
CUT_NAMES = {
    "notch_sloping": gettext_lazy("Notch, sloping cut"),
    "notch_level": gettext_lazy("Notch, level cut"),
    "nicks": gettext_lazy("Side nicks"),
    "back": gettext_lazy("Back cut"),
    "compression": gettext_lazy("Compression side"),
    "tension": gettext_lazy("Tension side"),
    "far_half": gettext_lazy("Far half"),
    "near_half": gettext_lazy("Near half"),
    "bore": gettext_lazy("Bore, set the hinge"),
    "trigger": gettext_lazy("Let the strap go"),
    "centre": gettext_lazy("Bore through the notch"),
}
SUITS = {
    "split": gettext_lazy("This tree speaks for bore and trigger: it leans forward in wood that splits."),
    "lean": gettext_lazy("This tree speaks for cutting from the lean side: it leans across the lay."),
    "small": gettext_lazy(
        "This tree speaks for a bore through the notch: behind the hinge there is no room for bar and wedge."
    ),
    "bar": gettext_lazy("The bar speaks for two half cuts: it is shorter than the stem."),
    "plain": gettext_lazy("Nothing here speaks against going straight in."),
}
PATTERN_WHY = {key: gettext_lazy(s.reason) for key, s in schools("pattern").items()}


def thinned(row: Thinning, system: str) -> str:
    """What may come off the hinge for a drift, in words."""
    if row.why:
        return gettext("Drifting {drift}: thin nothing; {why_}.").format(drift=SIDES[row.drift], why_=gettext(row.why))
    now, least = (text(v, "cut", system) for v in (row.now, row.least))
    turn = text(row.turn, "fine_angle", system)
    return gettext(
        "Drifting {drift}: thin the {end} end, now {now}, never below {least}; that turns it up to {turn} back."
    ).format(drift=SIDES[row.drift], end=SIDES[row.end], now=now, least=least, turn=turn)


def walked(way: Estimate, system: str) -> str:
    """How far a person gets while it falls, beside the least an escape path must be."""
    far, least = (text(v, "length", system) for v in (way.value, constant("escape_length").value))
    between = gettext("{low} to {high}").format(
        low=text(way.low, "length", system), high=text(way.high, "length", system)
    )
    return gettext(
        "Leaving at the first movement, a walk gets {far} ({between}) away before it is down; an escape path "
        "is at least {least}."
    ).format(far=far, between=between, least=least)


CAUTIONS = (
    gettext_lazy("Never cut through the hinge on either side."),
    gettext_lazy("Nobody stands behind the stump, in the bight, or in line with a tight rope."),
    gettext_lazy(
        "The model knows only what was measured. Local rules and a competent person at the tree have the last word."
    ),
)
DOWN = (
    gettext_lazy("Stand on the uphill side, never between logs, and clear of where a part falls or springs."),
    gettext_lazy("Keep the chain out of the soil. Keep bottom limbs as legs until the log lies still without them."),
    gettext_lazy(
        "The model is a straight log on hard supports: look at the kerf while you saw, and stop when it closes."
    ),
)


def bucked(cut: BuckCut, system: str) -> str:
    """How to make one cross-cut, in words."""
    first, stress = text(cut.first, "cut", system), f"{round(100 * (cut.stress or 0.0))} %"
    if cut.tension == "unknown":
        how = gettext(
            "Not known: what is left rests on one support or none, and may tip, drop or turn. Prop "
            "it and look anew before this cut."
        )
    elif cut.tension == "none":
        how = gettext("Hardly bent here: saw from the top, and watch the kerf.")
    elif cut.bore:
        how = gettext(
            "Bent to {stress} of its strength: bore in the middle, saw to the compression side, "
            "then let a strap go on the tension side."
        ).format(stress=stress)
    elif cut.tension == "bottom":
        how = gettext(
            "Top is pressed, bottom is stretched: from above {first} deep and no more, or the bar "
            "is pinched; then from below up to meet it."
        ).format(first=first)
    else:
        how = gettext(
            "Bottom is pressed, top is stretched: from below {first} deep, then from above down to "
            "meet it; it opens as you saw."
        ).format(first=first)
    stand = {
        "uphill": gettext("Stand uphill."),
        "either": gettext("Stand to one side, feet clear."),
        "left": gettext("Stand on the left."),
        "right": gettext("Stand on the right."),
    }
    falls = (
        gettext("Both parts stay.")
        if cut.falls == "nothing"
        else gettext("{upper}{falls} {x} free: {mass} or more moves.").format(
            upper=cut.falls[:1].upper(),
            falls=cut.falls[1:],
            x="come" if " and " in cut.falls else "comes",
            mass=text(cut.mass, "mass", system),
        )
    )
    return f"{how} {stand[cut.stand]} {falls}"


# What stops a way, and what would change that. {d} is asked, {a} what there is, {n} what names it.
STOPS = {
    "conductor": (
        gettext_lazy("{n} hangs {d} from the standing crown; {a} is to be kept."),
        gettext_lazy("The line made dead or shielded by its owner."),
    ),
    "reach": (
        gettext_lazy("It needs {d} on this lay; {n} stands at {a}."),
        gettext_lazy("Another lay, a shorter tree, or {n} moved."),
    ),
    "room_reduced": (
        gettext_lazy(
            "Even with the top out and half the spread it may be no longer than {a} before it "
            "reaches {n}; below {d} little is left to fell."
        ),
        gettext_lazy("Another lay."),
    ),
    "ground_round": (
        gettext_lazy("Pieces need {d} of open ground round the stem; {n} is at {a}."),
        gettext_lazy("Rig the pieces over it, or clear or cover {n}."),
    ),
    "tip": (
        gettext_lazy("Tipping it takes {d}; {a} is at hand."),
        gettext_lazy("Wedges, a harder or higher pull; see Fell."),
    ),
    "thin_shut": (
        gettext_lazy("The hinge window is shut: {a} must hold, less still bends."),
        gettext_lazy("A guy line, more pull or another lay; see Fell."),
    ),
    "thick_shut": (
        gettext_lazy("The hinge window is shut: only {a} bends."),
        gettext_lazy("A guy line, more pull or another lay; see Fell."),
    ),
    "split": (
        gettext_lazy("It comes to {d} of what practice warns of splitting up."),
        gettext_lazy("Bore and trigger, or open the notch; see Fell."),
    ),
    "weak": (
        gettext_lazy("Weak place, {n}: {d} where {a} is the caution."),
        gettext_lazy("Nobody climbs or rigs on it; another tree for tie-in, or a lift."),
    ),
    "dead_stem": (
        gettext_lazy("The stem is {n}: it is not climbed or rigged on."),
        gettext_lazy("A lift or a crane, or a pull from a distance."),
    ),
    "no_anchor": (
        gettext_lazy("No anchor is drawn on the site."),
        gettext_lazy("Draw a sound tree or a vehicle on the site plan."),
    ),
    "way_unknown": (
        gettext_lazy("No way in is drawn, so nothing says whether the machine gets here."),
        gettext_lazy("Draw the way out on the site plan."),
    ),
    "way_narrow": (
        gettext_lazy("The machine needs {d}; {n} leaves {a}."),
        gettext_lazy("A narrower machine, or a wider way in."),
    ),
    "slope": (
        gettext_lazy("The ground falls by {d}; it stands on up to {a}."),
        gettext_lazy("A machine for slopes, or a levelled stand."),
    ),
}


def stop(row: Stop, system: str) -> dict[str, str]:
    """What stops a way, and what would change that, in words."""
    if row.key.startswith("gate "):
        return {
            "why": gettext("Gate open: {name} — {note}.").format(name=row.hazard.name, note=row.note),
            "change": gettext("Look, and answer it at the walk-up."),
        }
    if row.key.startswith("seen "):
        return {
            "why": gettext("The walk-up found: {name}.").format(name=gettext(row.hazard.name)),
            "change": gettext(row.hazard.caution),
        }
    why, change = STOPS[row.key]
    said = {
        "d": text(row.demand.value, row.dimension, system) if row.demand else "",
        "a": text(row.allowed.value, row.dimension, system) if row.allowed else "",
        "n": row.note,
    }
    return {"why": why.format(**said), "change": change.format(**said)}


def option(row: Option, system: str, chosen: str) -> dict[str, Any]:
    """A way of taking the tree down for the page."""
    hours = row.hours
    return {
        "key": row.way.key,
        "name": gettext(row.way.name),
        "kit": gettext(row.way.kit),
        "risk": gettext(row.way.risk),
        "chosen": row.way.key == chosen,
        "verdict": FITS[row.verdict],
        "shape": SHAPES[row.verdict],
        "hours": gettext("{value:.0f} h ({low:.0f} to {high:.0f})").format(
            value=hours.value, low=hours.low, high=hours.high
        )
        if hours.value
        else "",
        "stops": [stop(s, system) for s in row.stops],
        "turn": text(row.turn, "angle", system) if row.turn is not None else "",
    }


def ways(rows: tuple[Option, ...], system: str, chosen: str) -> dict[str, Any]:
    """Every way for the page, and what stops them all, said once."""
    said = [option(row, system, chosen) for row in rows]
    others = [[s["why"] for s in o["stops"]] for o in said if o["key"] != "refer"]
    common = [why for why in others[0] if all(why in row for row in others)] if others else []
    for o in said:
        o["own"] = [s for s in o["stops"] if s["why"] not in common]
    return {"options": said, "common": common}


def thin_rule(rule: tuple[str, dict[str, float]], system: str) -> str:
    """Which term makes the thin limit, in words."""
    key, parts = rule
    if key == "floor":
        return gettext("Thin end ruled by the floor for hidden defects, a custom: all that is computed asks for less.")
    if key == "twist":
        return gettext("Thin end ruled by the weight to one side twisting the hinge.")
    shares = {name: text(share, "share", system) for name, share in parts.items()}
    return gettext(
        "Thin end ruled by the side moment, {side} of what the wood takes, with twist {twist}, "
        "pressing {press} and shear {shear} at the same time."
    ).format(side=shares["side"], twist=shares["twist"], press=shares["press"], shear=shares["shear"])


def opens(row: Opening | None, system: str) -> str:
    """What would open a shut hinge window, in words; '' where it is open."""
    if row is None:
        return ""
    pull, guy, tie = text(row.pull, "force", system), text(row.guy, "force", system), text(row.tie, "length", system)
    if row.across <= 0.0:
        return gettext(
            "To open it: about {pull} more pull {tie} up, or another lay; less side load does not help here."
        ).format(pull=pull, tie=tie)
    return gettext(
        "To open it: about {pull} more pull {tie} up, or {guy} less side load there (a guy "
        "line set taut, on the hinge's own line), or another lay."
    ).format(pull=pull, tie=tie, guy=guy)
