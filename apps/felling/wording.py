"""Limits and steps in words. The numbers come from the core; only the sentences are ours."""

import math

from cantrel.quantities import apart, text
from treecore.hazards import hazards
from treecore.schools import constant, schools
from treecore.verdict import Verdict

SHAPES = {Verdict.WITHIN: "within", Verdict.NEAR: "near", Verdict.OVER: "over", Verdict.NOT_KNOWN: "unknown"}

# name, sentence, what to change. {d} is the demand, {a} what is allowed, {n} the note.
WORDS = {
    "conductor": ("Overhead conductor", "{n} hangs {d} from the standing crown; {a} is to be kept.", "Keep off: ask the line's owner to make it dead or shield it. The local code goes first."),
    "fit": ("Room on the ground", "{n} clears the fall by {d}.", "Turn the lay, or take the tree down in part first."),
    "fit_unknown": ("Room on the ground", "No target is drawn, so nothing says whether it fits.", "Draw what must not be hit on the Method page."),
    "escape": ("Escape paths", "The shorter path runs {d} clear; {a} is the least.", "Clear the path, or turn the lay."),
    "tip": ("Tipping the tree", "Tipping it takes {d}, no wind helping; {a} is at hand.", "Add wedges, pull harder, or tie the line higher."),
    "thin": ("Hinge holding sideways", "The hinge is {d}; sideways it needs at least {a}, with lean, crown and a gust at their worst.", "Thicken the hinge, lengthen it, or take side load off."),
    "thick": ("Hinge bending", "The hinge is {d}; what is at hand bends up to {a}.", "Thin the hinge, or add pull."),
    "thin_shut": ("Hinge window is shut", "The least that holds ({a}) is more than what still bends.", "Add a guy line or more pull, or change lay or method."),
    "thick_shut": ("Hinge window is shut", "The hinge is {d}; only up to {a} bends, less than what must hold.", "Add a guy line or more pull, or change lay or method."),
    "commit": ("Notch closing", "It closes at {d} past upright; the weight carries on only from {a}.", "Open the notch wider, or thin the hinge."),
    "parts": ("Hinge parting by itself", "Wood of this kind parts at {d} past upright; the weight carries on only from {a}.", "Thin the hinge so that less turn is needed, or pull it further over before letting go."),
    "close_school": ("Notch closing on a back leaner", "It closes at {d} past upright; “{n}” asks {a}.", "Open the notch wider, or leave that school."),
    "early": ("Notch closing above the ground", "It closes at {d} past upright; this school wants {a}.", "Open the notch wider."),
    "depth_school": ("Notch depth", "{d} of the stem; “{n}” ends at {a}.", "Change the depth, or the school."),
    "opening_school": ("Notch opening", "{d}; “{n}” ends at {a}.", "Change the opening, or the kind of notch."),
    "hinge_school": ("Hinge thickness", "{d}; “{n}” ends at {a}.", "Change the thickness, or the school."),
    "rise_school": ("Back cut", "{d} above the apex; “{n}” ends at {a}.", "Cut level within the school's range."),
    "rise_below": ("Back cut below the apex", "{d} from the apex: the butt can slide back over the stump.", "Raise the back cut to the apex or above."),
    "wedge_dead": ("Wedges in a dead tree", "Hammering shakes dead tops loose: never wedge a dead tree.", "Pull it from a distance, use a machine, or refer it."),
    "wedge_room": ("Room for wedges", "{d} of wood behind the hinge; a wedge needs about {a}.", "Make the notch shallower."),
    "wedge_lift": ("Lift of the wedges", "Until the weight carries on it needs {d} of lift; the wedges reach {a}.", "Stack wedges, or add a pull line."),
    "wedge_force": ("Force per wedge", "Each would carry {d}; one of this kind lifts about {a}.", "Add wedges or a pull line, or thin the hinge."),
    "back_slope": ("Sloping back cut", "It falls at {d}: {times} times the cutting, and the wedge of wood it leaves shears off along the grain.", "Cut level."),
    "bar": ("Guide bar", "The longest cut of this order needs {d} of bar; {a} is on the saw.", "Cut in two halves, bore, or take a longer bar."),
    "split": ("Stem splitting up", "Balance, pull and gust forward, wood, notch and hinge come to {d} of what practice warns at.", "Pull no harder than it needs until the hinge is set, bore and trigger, open the notch, thin the hinge, or choose another lay."),
    "position": ("Cutting position", "The cut is {d} up; “{n}” ends at {a}.", "Change the height of the cut, or how you stand."),
    "gust": ("Wind", "Gusts may reach {d}; {a} from the worst side uses up what is left over.", "Wait for less wind, add pull or a guy line, or lengthen the hinge."),
    "wind_unknown": ("Wind", "Nobody gave the wind. A gust of {a} from the worst side uses up what is left over.", "Give the mean wind at crown height; 0 in a calm."),
    "early_move": ("Moving before it is cut", "Gusts with the lay push with {d}; balance and hinge hold it back with {a} until the cut is done.", "Bore and trigger with a strap at the back, or wait for less wind."),
    "line_slack": ("Pull line going slack", "Gusts with the lay push with {d}, the line with {a}: it may hang slack and then snatch.", "Keep it taken up as the tree moves; do not steer by it."),
    "gear": ("Gear on the line", "{n} carries {d}; its weakest piece may carry {a}.", "Take stronger gear, or pull less."),
    "chance": ("Chance of touching", "{n} is touched {d} of the times, hinge, aim, wind and sizes scattered; {a} is the most.", "Turn the lay, thicken the hinge, or take the top out first."),
    "root_plate": ("Root plate", "Pull, weight and gust turn it with {d}; plates of this size are known to go over from {a}.", "Pull less or lower, take the top out, or refer it."),
    "shear": ("Hinge sheared by the pull", "The pull shears it with {d}; this wood takes {a}.", "Pull softly until the hinge is set, or leave more hinge."),
    "leans": ("Leans that disagree", "The stem leans one way and the plumbed crown hangs the other; which side the weight is on is a small difference of the two.", "Plumb both again from two sides before the lay is chosen."),
    "bypass": ("Cut past the apex", "On the {n} the kerf closes at {d} past upright; the weight carries on only from {a}.", "Clean the apex: end both cuts on one line."),
    "bypass_lean": ("Cut past the apex on the lean side", "On the {n} the kerf closes at {d} and the hinge is thinner where it is pressed; it turns the tree or tears the other end.", "Clean the apex, deepen the notch to sound wood, or change the lay."),
    "escape_side": ("Escape on the lean side", "The {n} path lies where the weight leans: butt and limbs come that way first.", "Take the other path, or clear it first."),
    "escape_time": ("Way walked while it falls", "At a walk {d} is covered before it is down; the path is {a}.", "Leave at the first movement; clear the path; have one person only at the stump."),
    "wedge_hollow": ("Wedges in a hollow stem", "The wall at the back is {d}; a wedge needs {a} of sound wood.", "Pull it, or cut higher in sound wood."),
    "wedge_start": ("Wedge too thick to start", "Its tip is {d}; the kerf is {a}.", "Take a wedge with a thinner tip."),
    "guy_wanted": ("Side load on a hinge that snaps early", "The side moment takes {d} of what the hinge holds; from {a} this wood wants a guy line.", "Add a guy line, take the load off that side, or change the lay."),
    "guy_side": ("Guy line on the wrong side", "It pulls the way the tree already leans: it carries nothing.", "Move its anchor to the other side of the lay."),
    "guy_force": ("Tension in the guy line", "It would carry {d}; {a} is its limit.", "Tie it higher, stand the anchor further off, or take a stronger line."),
    "guy_out": ("Guy line tightens in the fall", "Its way grows by {d} by {turn} of turn: it stops or turns the tree unless it is let out.", "Put the anchor on the hinge's own line, or have someone let it out on the word."),
    "guy_slack": ("Guy line slackens in the fall", "Its way shortens by {d}: it no longer holds the side when it should.", "Put the anchor on the hinge's own line, in plan and height."),
    "line_fouls": ("Line over an obstacle", "The {n} passes {d} up over {other}, where it needs {a}.", "Tie higher, move the anchor, or lead the line round it."),
    "anchor_in_fall": ("Anchor inside the fall", "{n} stands on ground the tree may cover.", "Move it out of the fall, or turn the line round an anchor to one side."),
    "rope_short": ("Rope length", "{n} needs {d} for its way, travel and knots; {a} is owned.", "Take a longer rope, join with a known bend, or move the anchor nearer."),
    "rope_strength": ("Rope under load", "{n} carries {d}; {a} is its working load.", "Take a stronger rope, a higher purchase nearer the anchor, or pull less."),
    "anchor": ("Anchor", "{n} carries {d}; {a} is what it may.", "Choose a stouter anchor, sling it lower, or share the load between two."),
    "people_place": ("Where people stand", "{n} stands wrong.", "Move them, or redirect the line."),
}  # fmt: skip
# Advice where the usual one would be wrong: by key and cause.
CAUSES = {
    (
        "tip",
        "no_wedges",
    ): "Pull harder, or tie the line higher; no wedges in this tree: hammering shakes dead wood loose.",
    ("thick", "no_wedges"): "Thin the hinge, or add pull; no wedges in this tree.",
}
PLACES = {
    "fall": "{n} stands where the tree comes down.",
    "bight": "{n} stands in the bight of “{other}”.",
    "recoil": "{n} stands in the line of recoil of “{other}”.",
    "in_line": "{n} hauls in line with the tight rope; a redirect would take them out of it.",
}
UNKNOWN = {
    "bar": "The longest cut of this order needs {d} of bar; nobody said what is on the saw.",
    "rope_short": "{n} needs {d} for its way, travel and knots; nobody said how long it is.",
    "rope_strength": "{n} carries {d}; nobody said what it breaks at.",
    "anchor": "{n} carries {d}; nobody said what it may.",
}
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


def thinned(row, system):
    """What may come off the hinge for a drift, in words."""
    if row.why:
        return f"Drifting {row.drift}: thin nothing; {row.why}."
    now, least = (text(v, "cut", system) for v in (row.now, row.least))
    turn = text(row.turn, "fine_angle", system)
    return f"Drifting {row.drift}: thin the {row.end} end, now {now}, never below {least}; that turns it up to {turn} back."


def asked(row, system):
    """What is asked of a limit and what it allows, in words; the end of the interval that rules beside the first."""
    if row.demand is None or row.allowed is None:
        return tuple("" if e is None else text(e.value, row.dimension, system) for e in (row.demand, row.allowed))
    demand, allowed = apart(row.demand.value, row.allowed.value, row.dimension, system)
    if row.verdict is not Verdict.NEAR:
        return demand, allowed
    worse = text(row.demand.low if row.least else row.demand.high, row.dimension, system)
    if worse == demand:
        return demand, allowed
    return f"{demand} ({'as little as' if row.least else 'up to'} {worse})", allowed


def limit(row, system):
    """A limit as words: name, sentence, change, verdict word and shape, use as a share."""
    about = row.about
    name, sentence, change = WORDS[row.key + ("_shut" if about.why == "shut" else "")]
    demand, allowed = asked(row, system)
    change = CAUSES.get((row.key, about.why), change)
    said = {
        "d": demand,
        "a": allowed,
        "n": about.name or about.side,
        "other": about.other,
        "times": f"{about.factor:.2f}" if about.factor else "",
        "turn": f"{round(math.degrees(about.turn))}°" if about.turn is not None else "",
    }
    if row.allowed is None and row.key in UNKNOWN:
        sentence = UNKNOWN[row.key]
    if row.key == "people_place":
        sentence = PLACES[about.why]
    if row.key == "fit" and row.demand.value <= 0.0:
        sentence = "{n} is within reach of the fall, scatter and upper length counted."
    if row.key == "escape_time":
        ends = (text(v, row.dimension, system) for v in (row.demand.low, row.demand.high))
        sentence = (
            f"At a walk {' to '.join(ends)} is covered before it is down; an escape path runs at least {said['a']}."
        )
    if row.key == "escape" and not about.name:
        sentence = "Both run clear for {d} or more; {a} is the least."
    if row.key == "escape" and about.name:
        sentence = "{n} stops a path after {d}; {a} is the least."
    return {
        "key": row.key,
        "name": name,
        "sentence": sentence.format(**said),
        "change": "" if row.verdict is Verdict.WITHIN else change,
        "verdict": row.verdict.value,
        "shape": SHAPES[row.verdict],
        "note": about.name,
    }


def walked(way, system):
    """How far a person gets while it falls, beside the least an escape path must be."""
    far, least = (text(v, "length", system) for v in (way.value, constant("escape_length").value))
    between = f"{text(way.low, 'length', system)} to {text(way.high, 'length', system)}"
    return f"At a walk {far} ({between}) is covered before it is down; an escape path is at least {least}. Leave at the first movement."


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


def bucked(cut, system):
    """How to make one cross-cut, in words."""
    first, stress = text(cut.first, "cut", system), f"{round(100 * (cut.stress or 0.0))} %"
    if cut.tension == "unknown":
        how = "Not known: what is left rests on one support or none, and may tip, drop or turn. Prop it and look anew before this cut."
    elif cut.tension == "none":
        how = "Hardly bent here: saw from the top, and watch the kerf."
    elif cut.bore:
        how = f"Bent to {stress} of its strength: bore in the middle, saw to the compression side, then let a strap go on the tension side."
    elif cut.tension == "bottom":
        how = f"Top is pressed, bottom is stretched: from above {first} deep and no more, or the bar is pinched; then from below up to meet it."
    else:
        how = f"Bottom is pressed, top is stretched: from below {first} deep, then from above down to meet it; it opens as you saw."
    stand = {
        "uphill": "Stand uphill.",
        "either": "Stand to one side, feet clear.",
        "left": "Stand on the left.",
        "right": "Stand on the right.",
    }
    falls = (
        "Both parts stay."
        if cut.falls == "nothing"
        else f"{cut.falls[:1].upper()}{cut.falls[1:]} {'come' if ' and ' in cut.falls else 'comes'} free: {text(cut.mass, 'mass', system)} or more moves."
    )
    return f"{how} {stand[cut.stand]} {falls}"


# What stops a way, and what would change that. {d} is asked, {a} what there is, {n} what names it.
STOPS = {
    "conductor": ("{n} hangs {d} from the standing crown; {a} is to be kept.", "The line made dead or shielded by its owner."),
    "reach": ("It needs {d} on this lay; {n} stands at {a}.", "Another lay, a shorter tree, or {n} moved."),
    "room_reduced": ("Even with the top out and half the spread it may be no longer than {a} before it reaches {n}; below {d} little is left to fell.", "Another lay."),
    "ground_round": ("Pieces need {d} of open ground round the stem; {n} is at {a}.", "Rig the pieces over it, or clear or cover {n}."),
    "tip": ("Tipping it takes {d}; {a} is at hand.", "Wedges, a harder or higher pull; see Fell."),
    "thin_shut": ("The hinge window is shut: {a} must hold, less still bends.", "A guy line, more pull or another lay; see Fell."),
    "thick_shut": ("The hinge window is shut: only {a} bends.", "A guy line, more pull or another lay; see Fell."),
    "split": ("It comes to {d} of what practice warns of splitting up.", "Bore and trigger, or open the notch; see Fell."),
    "weak": ("Weak place, {n}: {d} where {a} is the caution.", "Nobody climbs or rigs on it; another tree for tie-in, or a lift."),
    "dead_stem": ("The stem is {n}: it is not climbed or rigged on.", "A lift or a crane, or a pull from a distance."),
    "no_anchor": ("No anchor is drawn on the site.", "Draw a sound tree or a vehicle on the site plan."),
    "way_unknown": ("No way in is drawn, so nothing says whether the machine gets here.", "Draw the way out on the site plan."),
    "way_narrow": ("The machine needs {d}; {n} leaves {a}.", "A narrower machine, or a wider way in."),
    "slope": ("The ground falls by {d}; it stands on up to {a}.", "A machine for slopes, or a levelled stand."),
}  # fmt: skip


def stop(row, system):
    """What stops a way, and what would change that, in words."""
    if row.key.startswith("gate "):
        hazard = hazards()[row.key.split(" ", 1)[1]]
        return {"why": f"Gate open: {hazard.name} — {row.note}.", "change": "Look, and answer it at the walk-up."}
    why, change = STOPS[row.key]
    said = {
        "d": text(row.demand.value, row.dimension, system) if row.demand else "",
        "a": text(row.allowed.value, row.dimension, system) if row.allowed else "", "n": row.note,
    }  # fmt: skip
    return {"why": why.format(**said), "change": change.format(**said)}


def option(row, system, chosen):
    """A way of taking the tree down for the page."""
    hours = row.hours
    return {
        "key": row.way.key, "name": row.way.name, "kit": row.way.kit, "risk": row.way.risk, "chosen": row.way.key == chosen,
        "verdict": {"within limits": "fits", "over a limit": "rejected", "not known": "not known yet"}[row.verdict.value], "shape": SHAPES[row.verdict],
        "hours": f"{hours.value:.0f} h ({hours.low:.0f} to {hours.high:.0f})" if hours.value else "",
        "stops": [stop(s, system) for s in row.stops],
        "turn": text(row.turn, "angle", system) if row.turn is not None else "",
    }  # fmt: skip


def ways(rows, system, chosen):
    """Every way for the page, and what stops them all, said once."""
    said = [option(row, system, chosen) for row in rows]
    others = [[s["why"] for s in o["stops"]] for o in said if o["key"] != "refer"]
    common = [why for why in others[0] if all(why in row for row in others)] if others else []
    for o in said:
        o["own"] = [s for s in o["stops"] if s["why"] not in common]
    return {"options": said, "common": common}


def thin_rule(rule, system):
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


def opens(row, system):
    """What would open a shut hinge window, in words; '' where it is open."""
    if row is None:
        return ""
    pull, guy, tie = text(row.pull, "force", system), text(row.guy, "force", system), text(row.tie, "length", system)
    if row.across <= 0.0:
        return f"To open it: about {pull} more pull {tie} up, or another lay; less side load does not help here."
    return f"To open it: about {pull} more pull {tie} up, or {guy} less side load there (a guy line set taut, on the hinge's own line), or another lay."
