"""Limits, methods and changes of a takedown in words."""

from apps.felling.wording import SHAPES
from apps.takedown.planner import method
from cantrel.quantities import explain, text
from treecore.verdict import Verdict

WORDS = {
    "tie_past": ("Tied past the balance", "Tied {d} out; it may balance from {a}: the butt drops and the tips rise to the climber.", "Tie nearer the butt, or use a tip tie and keep clear."),
    "tie_high": ("Tie near the balance", "Tied {d} up a piece that balances at {a}: it may turn over its own tie.", "Tie lower on the piece."),
    "point_below": ("Rigging point below the cut", "It hangs {d} up, under the cut at {a}.", "Take it negative, or hang the block higher."),
    "anchor_bends": ("Anchor stem bending", "{w}: it is stressed {d}; a third of its strength is {a}.", "Shorten the piece, let it run, hang the block lower, or bring the rope down the stem."),
    "anchor_other": ("Anchor in another tree", "It carries {d}; nobody said what it stands.", "Look at it, measure it, and judge it as a tree of its own."),
    "root_plate": ("Root plate", "The rope turns it with {d}; plates of this size go over from {a}.", "Bring the rope down the stem."),
    "gear_refused": ("Gear that may not be used", "{n}.", "Choose another item."),
    "chain": ("Weakest part of the chain", "The {role} {item} carries {d}; {a} is its working load.", "Stronger gear, a shorter piece, less slack, or let it run."),
    "rope_short": ("Rope length", "“{n}” needs {d} for both legs, the way down and knots; {a} is there.", "A longer rope, or a lower rigging point."),
    "leg_slips": ("Bridle leg that will not grip", "“{n}” is {d} thick on a main line of {a}: a hitch slips.", "A leg line two sizes thinner than the main line."),
    "bent_sharply": ("Rope bent sharply", "{pair} bends it {d} times its own thickness; {a} is the least.", "A larger sheave, ring or drum, or a thinner rope."),
    "connector_drop": ("Connector that could be loaded across", "“{n}” in a fall of {d}.", "A shackle or a sling; connectors only where they can't turn."),
    "hand": ("Hand at the device", "{d} comes to the hand; {a} is held at ease.", "Add a wrap, shorten the piece, or let it run."),
    "stops_dead": ("Too many wraps to run", "Only {d} comes to the hand: below {a} it stops dead.", "Take a wrap off for a piece that should run."),
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
}  # fmt: skip
UNKNOWN = {
    "chain": "The {role} {item} carries {d}; what it may is not known.",
    "bent_sharply": "{pair}: nobody said how thick the one and how large the other is.",
    "rope_short": "“{n}” needs {d}; nobody said how long it is.",
}
ORDERS = {
    "dead_first": "dead wood first: {} still hangs", "limbs_on_stem": "{} limbs are still on this length of stem",
    "point_low": "its rigging point is below the work at {} m",
}  # fmt: skip
CHANGES = {
    "slack": "{} less slack",
    "wraps": "{} more wraps",
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
    role, _, item = row.note.partition("|")
    said = {
        "d": text(row.demand.value, row.dimension, system) if row.demand else "", "a": text(row.allowed.value, row.dimension, system) if row.allowed else "",
        "pair": f"“{role}” round “{item}”", "n": row.note, "role": role, "item": f"“{item}”" if item else "(not chosen)", "w": _where(row.note, system) if row.key == "anchor_bends" else "",
    }  # fmt: skip
    if row.key == "drops_on" and row.demand.value <= 0.0:
        sentence = "{n} lies where it may come to."
    if row.key == "clears" and row.demand.value <= 0.0:
        sentence = "{n} is in the way of it."
    return {
        "key": row.key, "name": name, "sentence": sentence.format(**said), "verdict": row.verdict.value, "shape": SHAPES[row.verdict],
        "change": "" if row.verdict is Verdict.WITHIN else change,
    }  # fmt: skip


def _where(note, system):
    height, _, why = note.partition("|")
    return f"At {text(float(height), 'length', system)} up" + (f", {why}" if why else "")


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
    return {
        "what": CHANGES[row.key].format(text(row.amount, dimension, system)),
        "peak": f"{100 * row.peak:+.0f} %",
        "mends": row.mends,
        "raw": f"{row.peak:.6g}",
    }
