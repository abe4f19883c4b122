"""Steps and ways of a felling in words. The numbers come from the core; only the sentences are ours."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from cantrel.limits import SHAPES
from cantrel.quantities import text
from treecore.schools import constant, schools

if TYPE_CHECKING:
    from treecore.estimate import Estimate
    from treecore.felling.bucking import BuckCut
    from treecore.felling.evaluate import Opening, Thinning
    from treecore.method import Option, Stop

CUT_NAMES = {
    "notch_sloping": "Notch, sloping cut", "notch_level": "Notch, level cut", "nicks": "Side nicks", "back": "Back cut",
    "compression": "Compression side", "tension": "Tension side", "far_half": "Far half", "near_half": "Near half",
    "bore": "Bore, set the hinge", "trigger": "Let the strap go", "centre": "Bore through the notch",
}  # fmt: skip
SUITS = {
    "split": "This tree speaks for bore and trigger: it leans forward in wood that splits.",
    "lean": "This tree speaks for cutting from the lean side: it leans across the lay.",
    "small": "This tree speaks for a bore through the notch: behind the hinge there is no room for bar and wedge.",
    "bar": "The bar speaks for two half cuts: it is shorter than the stem.",
    "plain": "Nothing here speaks against going straight in.",
}
PATTERN_WHY = {key: s.reason for key, s in schools("pattern").items()}


def thinned(row: Thinning, system: str) -> str:
    """What may come off the hinge for a drift, in words."""
    if row.why:
        return f"Drifting {row.drift}: thin nothing; {row.why}."
    now, least = (text(v, "cut", system) for v in (row.now, row.least))
    turn = text(row.turn, "fine_angle", system)
    return (
        f"Drifting {row.drift}: thin the {row.end} end, now {now}, never below {least}; that turns it up to {turn} "
        f"back."
    )


def walked(way: Estimate, system: str) -> str:
    """How far a person gets while it falls, beside the least an escape path must be."""
    far, least = (text(v, "length", system) for v in (way.value, constant("escape_length").value))
    between = f"{text(way.low, 'length', system)} to {text(way.high, 'length', system)}"
    return (
        f"At a walk {far} ({between}) is covered before it is down; an escape path is at least {least}. Leave at "
        f"the first movement."
    )


CAUTIONS = (
    "Never cut through the hinge on either side.",
    "Nobody stands behind the stump, in the bight, or in line with a tight rope.",
    "The model knows only what was measured. Local rules and a competent person at the tree have the last word.",
)
DOWN = (
    "Stand on the uphill side, never between logs, and clear of where a part falls or springs.",
    "Keep the chain out of the soil. Keep bottom limbs as legs until the log lies still without them.",
    "The model is a straight log on hard supports: look at the kerf while you saw, and stop when it closes.",
)


def bucked(cut: BuckCut, system: str) -> str:
    """How to make one cross-cut, in words."""
    first, stress = text(cut.first, "cut", system), f"{round(100 * (cut.stress or 0.0))} %"
    if cut.tension == "unknown":
        how = (
            "Not known: what is left rests on one support or none, and may tip, drop or turn. Prop it and look anew "
            "before this cut."
        )
    elif cut.tension == "none":
        how = "Hardly bent here: saw from the top, and watch the kerf."
    elif cut.bore:
        how = (
            f"Bent to {stress} of its strength: bore in the middle, saw to the compression side, then let a strap "
            f"go on the tension side."
        )
    elif cut.tension == "bottom":
        how = (
            f"Top is pressed, bottom is stretched: from above {first} deep and no more, or the bar is pinched; then "
            f"from below up to meet it."
        )
    else:
        how = (
            f"Bottom is pressed, top is stretched: from below {first} deep, then from above down to meet it; it "
            f"opens as you saw."
        )
    stand = {
        "uphill": "Stand uphill.",
        "either": "Stand to one side, feet clear.",
        "left": "Stand on the left.",
        "right": "Stand on the right.",
    }
    falls = (
        "Both parts stay."
        if cut.falls == "nothing"
        else f"{cut.falls[:1].upper()}{cut.falls[1:]} {'come' if ' and ' in cut.falls else 'comes'} free: "
        f"{text(cut.mass, 'mass', system)} or more moves."
    )
    return f"{how} {stand[cut.stand]} {falls}"


# What stops a way, and what would change that. {d} is asked, {a} what there is, {n} what names it.
STOPS = {
    "conductor": ("{n} hangs {d} from the standing crown; {a} is to be kept.", "The line made dead or shielded by its "
    "owner."),
    "reach": ("It needs {d} on this lay; {n} stands at {a}.", "Another lay, a shorter tree, or {n} moved."),
    "room_reduced": ("Even with the top out and half the spread it may be no longer than {a} before it reaches {n}; "
                     "below {d} little is left to fell.", "Another lay."),
    "ground_round": ("Pieces need {d} of open ground round the stem; {n} is at {a}.", "Rig the pieces over it, or "
    "clear or cover {n}."),
    "tip": ("Tipping it takes {d}; {a} is at hand.", "Wedges, a harder or higher pull; see Fell."),
    "thin_shut": ("The hinge window is shut: {a} must hold, less still bends.", "A guy line, more pull or another "
    "lay; see Fell."),
    "thick_shut": ("The hinge window is shut: only {a} bends.", "A guy line, more pull or another lay; see Fell."),
    "split": ("It comes to {d} of what practice warns of splitting up.", "Bore and trigger, or open the notch; see "
    "Fell."),
    "weak": ("Weak place, {n}: {d} where {a} is the caution.", "Nobody climbs or rigs on it; another tree for tie-in, "
    "or a lift."),
    "dead_stem": ("The stem is {n}: it is not climbed or rigged on.", "A lift or a crane, or a pull from a distance."),
    "no_anchor": ("No anchor is drawn on the site.", "Draw a sound tree or a vehicle on the site plan."),
    "way_unknown": ("No way in is drawn, so nothing says whether the machine gets here.", "Draw the way out on the "
    "site plan."),
    "way_narrow": ("The machine needs {d}; {n} leaves {a}.", "A narrower machine, or a wider way in."),
    "slope": ("The ground falls by {d}; it stands on up to {a}.", "A machine for slopes, or a levelled stand."),
}  # fmt: skip


def stop(row: Stop, system: str) -> dict[str, str]:
    """What stops a way, and what would change that, in words."""
    if row.key.startswith("gate "):
        return {"why": f"Gate open: {row.hazard.name} — {row.note}.", "change": "Look, and answer it at the walk-up."}
    if row.key.startswith("seen "):
        return {"why": f"The walk-up found: {row.hazard.name}.", "change": row.hazard.caution}
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
        "name": row.way.name,
        "kit": row.way.kit,
        "risk": row.way.risk,
        "chosen": row.way.key == chosen,
        "verdict": {"within limits": "fits", "over a limit": "rejected", "not known": "not known yet"}[
            row.verdict.value
        ],
        "shape": SHAPES[row.verdict],
        "hours": f"{hours.value:.0f} h ({hours.low:.0f} to {hours.high:.0f})" if hours.value else "",
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
        return "Thin end ruled by the floor for hidden defects, a custom: all that is computed asks for less."
    if key == "twist":
        return "Thin end ruled by the weight to one side twisting the hinge."
    shares = {name: text(share, "share", system) for name, share in parts.items()}
    return (
        f"Thin end ruled by the side moment, {shares['side']} of what the wood takes, with twist {shares['twist']}, "
        f"pressing {shares['press']} and shear {shares['shear']} at the same time."
    )


def opens(row: Opening | None, system: str) -> str:
    """What would open a shut hinge window, in words; '' where it is open."""
    if row is None:
        return ""
    pull, guy, tie = text(row.pull, "force", system), text(row.guy, "force", system), text(row.tie, "length", system)
    if row.across <= 0.0:
        return f"To open it: about {pull} more pull {tie} up, or another lay; less side load does not help here."
    return (
        f"To open it: about {pull} more pull {tie} up, or {guy} less side load there (a guy line set taut, on the "
        f"hinge's own line), or another lay."
    )
