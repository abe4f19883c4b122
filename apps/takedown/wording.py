"""Limits, methods and changes of a takedown in words."""

import math

from apps.felling.wording import SHAPES, asked
from apps.takedown.planner import method, modulus_of
from cantrel.quantities import estimate, explain, text
from treecore.verdict import Verdict

WORDS = {
    "conductor": ("Overhead conductor", "{n}: {near} comes within {d}; {a} is to be kept.", "Keep off: ask the line's owner to make it dead or shield it. The local code goes first."),
    "tie_past": ("Tied past the balance", "Tied {d} out; it may balance from {a}: the butt drops and the tips rise to the climber.", "Tie nearer the butt; or lift first, a little, and look which end goes down; or use a tip tie and keep clear."),
    "tie_high": ("Tie near the balance", "Tied {d} up a piece that balances at {a}: it may turn over its own tie.", "Tie lower on the piece."),
    "point_below": ("Rigging point below the cut", "It hangs {d} up, under the cut at {a}.", "Take it negative, or hang the block higher."),
    "anchor_bends": ("Anchor stem bending", "{w}: it is stressed {d}; {a} is a third of what it stands there.", "Shorten the piece, let it run, hang the block lower, or bring the rope down the stem."),
    "anchor_other": ("Anchor in another tree", "It carries {d}; nobody said what it stands.", "Look at it, measure it, and judge it as a tree of its own."),
    "root_plate": ("Root plate", "The rope turns it with {d}; plates of this size go over from {a}.", "Bring the rope down the stem."),
    "gear_refused": ("Gear that may not be used", "{n}.", "Choose another item."),
    "chain": ("Weakest part of the chain", "The {role} {item} carries {d}; {a} is its working load.", "Stronger gear, a shorter piece, less slack, or let it run."),
    "rope_short": ("Rope length", "“{n}” needs {d} for both legs, the way down and knots; {a} is there.", "A longer rope, or a lower rigging point."),
    "leg_slips": ("Bridle leg that will not grip", "“{n}” is {d} thick on a main line of {a}: a hitch slips.", "A leg line two sizes thinner than the main line."),
    "bent_sharply": ("Rope bent sharply", "{pair} bends it {d} times its own thickness; {a} is the least.", "A larger sheave, ring or drum, or a thinner rope."),
    "connector_drop": ("Connector that could be loaded across", "“{n}” in a fall of {d}.", "A shackle or a sling; connectors only where they can't turn."),
    "hand": ("Hand at the device", "{d} is needed at the hand; {a} is held at ease.", "Add a wrap, shorten the piece, or let it run."),
    "stops_dead": ("Too many wraps to run", "{d} turns hold it from {a} up: it does not run, and counts as locked.", "Take a wrap off for a piece that should run."),
    "locked_fall": ("Locked off with a long fall", "The balance falls {d} onto a rope that does not run.", "Take the slack out, or let it run."),
    "fork_caught": ("Natural fork taken as a block", "The fork passes on {d} of the tension: a caught piece meets a short, stiff rope.", "Hang a block, or lower without slack."),
    "clears": ("Clearance", "{n} is passed by {d}.", "Move the rigging point, tie it otherwise, shorten it, or hold it off with a tag line."),
    "ground": ("Reaches the ground", "Its lowest point would be {d} against the stem's foot.", "Less slack, or let it down as it comes round."),
    "tie_in_gone": ("Tie-in that is not there", "The {n} the climber is tied in to goes with this piece, or is gone.", "Tie in below, or in another tree."),
    "stance_gone": ("Stance that is not there", "The {n} the climber stands on goes with this piece, or is gone.", "Stand on what stays."),
    "tie_in_thin": ("Tie-in wood", "It is {d} thick; {a} is the least.", "Tie in lower, in thicker wood."),
    "line_short": ("Climbing line", "It takes {d} to reach the ground; {a} is on it.", "A longer line, or a lower tie-in."),
    "line_at_cut": ("Climber's line near the cut", "Their own line passes {d} from the cut; {a} is the least.", "Stand on the other side, or move the tie-in."),
    "reach": ("Reach to the cut", "The cut is {d} from the stance; {a} is an arm and a saw.", "Move nearer."),
    "piece_at_climber": ("Piece comes at the climber", "It passes {d} from the stance; {a} is the least.", "Stand on the other side, tie it otherwise, or move the rigging point."),
    "drops_on": ("What lies under it", "{n} lies {d} from where it may come to.", "Rig it, toss it by hand in small pieces, or clear the ground."),
    "second_tie": ("Second tie", "This way of taking it needs a second tie; nobody said where.", "Say where the second line or leg is tied."),
    "toss_heavy": ("Too heavy to toss", "It weighs {d}; {a} is held in one hand at ease.", "Lower it, or cut it shorter."),
    "anchor_union": ("Union that carries the rope", "{w}: what it still stands is not known.", "Hang the block below it, on other wood or in another tree."),
    "far_unknown": ("Second high point", "This way of taking it needs one; nobody said where it is.", "Say on what and how high."),
    "joined": ("Joined rope", "“{n}” is made of two: the join meets block, fork or device.", "A rope in one piece."),
    "leg_short": ("Bridle leg length", "“{n}” has to reach {d} with its knots; {a} is there.", "A longer leg line, or a lower head."),
    "lifted_early": ("Tight before the cut", "{d} is in the line; {a} lifts the piece off its hinge.", "Less pull: the hinge must still hold it down."),
    "hook": ("What the machine lifts", "About {d} comes to the hook with a jerk; it may lift {a} there.", "Shorter pieces, or a hook nearer the machine."),
    "runs_away": ("Runs to the ground", "Nothing stops it: {d} of rope runs out, it hangs {a} up.", "More wraps, another setting, a line held softly, or a smaller piece."),
    "anchor_twists": ("Turning of the wood that carries the rope", "{w}: turned about its own axis it sees {d}; {a} is a third of what it stands.", "A point nearer over the work, or a block hung on the side of the pull."),
    "top_large": ("Large top", "It is {d} of the stem; how a stem springs that loses more than {a} is not known.", "A smaller top."),
    "tag_steep": ("Tag line too steep", "Tag line and main rope stand {d} off together; from {a} it pulls down rather than off.", "Stand further off with the tag line, put it down nearer, or let it down first."),
    "way_unknown": ("Which way it goes", "It stands upright and nobody said which way its notch faces.", "Say where the notch faces, or drag its handle from above."),
    "meets_stem": ("Comes against the stem", "It swings against {n} at up to {d}; {a} is called hard.", "Nobody there; let it run, tie it nearer its balance, or hang the point further out."),
    "rope_through": ("Rope through wood", "The rope to the piece runs through {n}.", "Move the tie or the rigging point, or take that away first."),
    "catches": ("Standing wood in its way", "It passes {d} from {role} as it {item}; {a} is called near.", "Take that limb first, tie it otherwise, or move the rigging point."),
    "put_on": ("Where it is put down", "{n} is {d} from where it comes to lie.", "Say where it is put down, and bring it there by a tag line."),
    "tag": ("Tag line", "{d} at least has to be held beside it, more while it is high; {a} is held at ease.", "Put it down nearer, more people or a turn round a tree, or another rigging point."),
    "tie_in_other": ("Tie-in in another tree", "Nobody here has judged {n}.", "Look at it from the ground, test it, and judge it as a tree of its own."),
    "tie_in_bends": ("Tie-in bending", "{w}: a slip stresses it {d}; {a} is a third of what it stands there.", "Tie in nearer the stem, in thicker wood, or nearer over the work."),
    "tie_in_weak": ("Tie-in wood", "{n}.", "Tie in to living wood with a sound union."),
    "one_attachment": ("One attachment", "No lanyard and no second tie-in while the saw runs.", "Two attachments whenever the saw runs."),
    "above_tie_in": ("Above the tie-in", "The stance is level with the tie-in or above it: a slip is a fall.", "Tie in higher, or stand lower."),
    "slip": ("A slipping foot", "It swings the climber {slip}at {d}; {a} is called hard.", "Stand nearer under the tie-in, tie in over the work, or use a second tie-in."),
    "piece_at_line": ("Piece comes at the climber’s line", "It passes {d} from their own line; {a} is the least.", "Stand on the other side, or move the tie-in or the rigging point."),
    "rope_at_climber": ("Rope sweeps the climber", "The loaded rope passes {d} from the stance; {a} is the least.", "Stand on the other side of the rope."),
    "bed_small": ("Bed smaller than the fall", "It may come to {d} from under its balance; the bed of {n} reaches {a}.", "A wider bed, or smaller pieces."),
    "fork_thin": ("Fork for the line", "It is {d} thick; {a} is the least.", "A lower fork, in thicker wood."),
    "fork_weak": ("Fork for the line", "It is dead, or its union is not sound.", "Another fork."),
    "access_line": ("Climbing line", "It takes {d} to come down again; {a} is on it.", "A longer line, or a lower fork."),
    "not_isolated": ("Branches under the line", "Nobody said that one branch alone is under it.", "Shift the line until it lies over one branch."),
    "not_tested": ("Test of the fork", "Nobody said that it was tested.", "Two people’s weight on the line, before anyone leaves the ground."),
}  # fmt: skip
# Advice where the usual one would be wrong: by key and cause.
CAUSES = {("hand", "held"): "A smaller piece, or a device that lets it run: these wraps hold it already."}
NEARS = {
    "standing": "what stands", "climber": "the climber", "piece": "the piece on its way", "rope": "the rope", "way_down": "the piece let down",
    "machine": "the machine’s reach",
}  # fmt: skip
SLIPS = {True: "against {n} ", False: ""}
PARTS = {
    "base": "sling at the device",
    "tag": "tag line",
    "leg": "bridle leg",
    "lead_sling": "sling where it is led over",
    "lead_block": "block where it is led over",
}
UNKNOWN = {
    "chain": "The {role} {item} carries {d}; what it may is not known.",
    "bent_sharply": "{pair}: nobody said how thick the one and how large the other is.",
    "hook": "{d} may come to the hook; nobody said what the machine lifts there.",
    "rope_short": "“{n}” needs {d}; nobody said how long it is.",
    "root_plate": "{d} comes to the roots of {n}; how tall and thick it is, is not known.",
}
ORDERS = {
    "dead_first": "dead wood first: {} still hangs", "limbs_on_stem": "{} limbs are still on this length of stem",
    "point_low": "its rigging point is below the work at {} m", "off_balance": "what stands leans {} m more to one side after it",
}  # fmt: skip
CHANGES = {
    "slack": "{} less slack",
    "wraps": "{} wrap{} more",
    "run": "let it run {}",
    "tie": "tie it {} from the cut",
    "shorter": "a piece {} shorter",
}
CAUTIONS = (
    "Two attachments whenever the saw runs; both hands on it; stand where a slip takes you away from the chain.",
    "Nobody under the piece, in the bight, or in line with a tight rope. Call, and wait for the reply.",
    "The model knows only what was measured. Local rules and a competent person at the tree have the last word.",
)


def limit(row, system):
    """A limit of a pick as words."""
    name, sentence, change = WORDS[row.key]
    if row.allowed is None and row.key in UNKNOWN:
        sentence = UNKNOWN[row.key]
    about, item = row.about, row.about.name
    demand, allowed = asked(row, system)
    change = CAUSES.get((row.key, about.why), change)
    said = {
        "d": demand, "a": allowed,
        "pair": f"“{item}” round “{about.other}”", "n": f"{item}: {about.why}" if item and about.why else item, "role": PARTS.get(about.role, about.role),
        "near": NEARS.get(about.role, ""), "item": f"“{item}”" if item else "(not chosen)", "w": _where(about, system),
    }  # fmt: skip
    if row.key == "drops_on" and row.demand.value <= 0.0:
        sentence = "{n} lies where it may come to."
    if row.key == "clears" and row.demand.value <= 0.0:
        sentence = "{n} is in the way of it."
    if (
        row.key in ("rope_short", "leg_short", "line_short", "access_line")
        and row.allowed
        and row.demand.value > row.allowed.value
    ):
        sentence = sentence[:-1] + f": {text(row.demand.value - row.allowed.value, row.dimension, system)} too short."
    if row.key == "chain" and not item:
        sentence, change = "Nothing is chosen as {role}; it carries {d}.", "Choose one from the gear."
    if row.key == "catches":
        said |= {"role": item, "item": {"swing": "swings", "lowered": "is let down"}[about.role]}
    if row.key == "slip":
        said["slip"] = SLIPS[bool(item)].format(n=item)
    if row.key == "put_on" and row.demand.value <= 0.0:
        sentence = "{n} is where it comes to lie."
    if row.key == "tie_in_other" and not item:
        said["n"] = "it"
    return {
        "key": row.key, "name": name, "sentence": sentence.format(**said), "verdict": row.verdict.value, "shape": SHAPES[row.verdict],
        "change": "" if row.verdict is Verdict.WITHIN else change,
    }  # fmt: skip


def _where(about, system):
    """How high a place is, and what is wrong or joined there."""
    if about.at is None:
        return ""
    return f"At {text(about.at, 'length', system)} up" + (f", {about.why}" if about.why else "")


def verdict(row, system):
    """Shape of a pick's verdict, and what rules it in a few words, empty within limits."""
    if row["error"]:
        return "over", refused(row["error"], system)
    if row["ruling"] is None or row["ruling"].verdict is Verdict.WITHIN:
        return "within", ""
    return SHAPES[row["ruling"].verdict], limit(row["ruling"], system)["name"]


def worst_first(limits, system):
    """Limits in words, in the order they are named."""
    return [limit(x, system) for x in sorted(limits, key=lambda x: x.order, reverse=True)]


def worst(number, rows, system):
    """The pick that rules the whole list, in words: one that is refused before any limit; None where nothing is held."""
    if number is None:
        return None
    row = rows[number]
    if row["error"]:
        said = {
            "shape": "over",
            "name": "Refused",
            "verdict": "not worked out",
            "sentence": refused(row["error"], system),
        }
    else:
        said = limit(row["ruling"], system)
    return said | {"number": number + 1, "n": number}


def bends_at(anchor, system):
    """Where the wood under a rigging point is stressed most."""
    if anchor.why.startswith("union") or not anchor.height:
        return anchor.why or "at the ground"
    return text(anchor.height, "length", system) + " up"


def wraps(row):
    """Wraps that hold, let run and lock off; what the device can't is said."""
    return {
        name: f"{value:.1f}" if math.isfinite(value) else "it can’t"
        for name, value in (("hold", row.hold), ("run", row.run), ("lock", row.lock))
    }


def course(row, held, system):
    """What comes of the motion, in a sentence."""
    run = text(row.run.value, "length", system)
    if held == "lock":
        return "The device holds; nothing runs."
    if row.locked:
        return "Meant to run, but these wraps hold it: it counts as locked."
    if not row.stops:
        return f"Nothing stops it before the ground: {run} of rope has run by then."
    sure = "" if row.always_stops else " At the slippery end nothing stops it before the ground."
    return (
        f"{run} of rope runs, then it stops." if row.run.value > 0.01 else "The hand holds it; nothing runs."
    ) + sure


KNOWN = {
    "stated": "by the store",
    "table": "by construction and thickness",
    "interpolated": "by construction, between two thicknesses of the table",
    "extended": "by construction, beyond the thicknesses of the table",
    "unknown": "assumed: construction or thickness not known",
}


def stiffness(rope, known, system):
    """Modulus of the rope with its interval, and how it is known."""
    shown = modulus_of(rope)
    parts = estimate(shown, "force", system)
    return f"{parts['value']} {parts['unit']} ({parts['spread']}), {KNOWN[known]}"


def friction(used, readings):
    """Friction of rope on the device, and whether the crew measured it."""
    said = f"{used.value:.2f} ({used.low:.2f} to {used.high:.2f})"
    return f"{said}, measured: {readings} reading{'s' if readings != 1 else ''}" if readings else f"{said}, assumed"


def corrected(by):
    """What pieces weighed before this one make of its weight; empty where none were."""
    if not by.weighed:
        return ""
    shares = [
        f"{name} {100 * (factor - 1):+.0f} %"
        for name, factor in (("stem wood", by.stem), ("limbs", by.limbs))
        if abs(factor - 1.0) >= 0.005
    ]
    pieces = f"{by.weighed} piece{'s' if by.weighed != 1 else ''} weighed before this one"
    return f"{pieces}: {', '.join(shares)}." if shares else f"{pieces}: as the model had it."


def refused(error, system):
    """Why a pick can't be worked out."""
    return explain(error, system)


def method_name(key):
    """Name of a method."""
    return method(key).name


def order(row):
    """A rule of order that is not kept."""
    return ORDERS[row.rule].format(row.what)


def change(row, system):
    """A small change of a pick and what it does to the peak."""
    dimension = "count" if row.key == "wraps" else "length"
    plural = "s" if row.key == "wraps" and row.amount != 1.0 else ""
    return {
        "what": CHANGES[row.key].format(text(row.amount, dimension, system), plural),
        "peak": f"{100 * row.peak:+.0f} %",
        "mends": row.mends,
        "raw": f"{row.peak:.6g}",
    }
