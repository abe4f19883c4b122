"""Limits and steps in words. The numbers come from the core; only the sentences are ours."""

from cantrel.quantities import text
from treecore.schools import constant
from treecore.verdict import Verdict

SHAPES = {Verdict.WITHIN: "within", Verdict.NEAR: "near", Verdict.OVER: "over", Verdict.NOT_KNOWN: "unknown"}

# name, sentence, what to change. {d} is the demand, {a} what is allowed, {n} the note.
WORDS = {
    "conductor": ("Overhead conductor", "{n} hangs {d} from the standing crown; {a} is to be kept.", "Keep off: ask the line's owner to make it dead or shield it. The local code goes first."),
    "fit": ("Room on the ground", "{n} clears the fall by {d}.", "Turn the lay, or take the tree down in part first."),
    "fit_unknown": ("Room on the ground", "No target is drawn, so nothing says whether it fits.", "Draw what must not be hit on the Method page."),
    "escape": ("Escape paths", "The shorter path runs {d} clear; {a} is the least.", "Clear the path, or turn the lay."),
    "tip": ("Tipping the tree", "Tipping it takes {d}; {a} is at hand.", "Add wedges, pull harder, or tie the line higher."),
    "thin": ("Hinge holding sideways", "The hinge is {d}; sideways it needs at least {a}.", "Thicken the hinge, lengthen it, or take side load off."),
    "thick": ("Hinge bending", "The hinge is {d}; what is at hand bends up to {a}.", "Thin the hinge, or add pull."),
    "thin shut": ("Hinge window is shut", "The least that holds ({a}) is more than what still bends.", "Add a guy line or more pull, or change lay or method."),
    "thick shut": ("Hinge window is shut", "The hinge is {d}; only up to {a} bends, less than what must hold.", "Add a guy line or more pull, or change lay or method."),
    "commit": ("Notch closing", "It closes at {d} past upright; the weight carries on only from {a}.", "Open the notch wider, or thin the hinge."),
    "early": ("Notch closing above the ground", "It closes at {d} past upright; this school wants {a}.", "Open the notch wider."),
    "depth_school": ("Notch depth", "{d} of the stem; “{n}” ends at {a}.", "Change the depth, or the school."),
    "opening_school": ("Notch opening", "{d}; “{n}” ends at {a}.", "Change the opening, or the kind of notch."),
    "hinge_school": ("Hinge thickness", "{d}; “{n}” ends at {a}.", "Change the thickness, or the school."),
    "rise_school": ("Back cut", "{d} above the apex; “{n}” ends at {a}.", "Cut level within the school's range."),
    "rise_below": ("Back cut below the apex", "{d} from the apex: the butt can slide back over the stump.", "Raise the back cut to the apex or above."),
    "wedge_dead": ("Wedges in a dead tree", "Hammering shakes dead tops loose: never wedge a dead tree.", "Pull it from a distance, use a machine, or refer it."),
    "wedge_room": ("Room for wedges", "{d} of wood behind the hinge; a wedge needs about {a}.", "Make the notch shallower."),
    "wedge_lift": ("Lift of the wedges", "Balance needs {d} of lift; the wedges reach {a}.", "Stack wedges, or add a pull line."),
    "wedge_force": ("Force per wedge", "Each would carry {d}; one driven by hand lifts about {a}.", "Add wedges or a pull line, or thin the hinge."),
}  # fmt: skip


def limit(row, system):
    """A limit as words: name, sentence, change, verdict word and shape, use as a share."""
    name, sentence, change = WORDS[row.key]
    said = {
        "d": text(row.demand.value, row.dimension, system) if row.demand else "",
        "a": text(row.allowed.value, row.dimension, system) if row.allowed else "",
        "n": row.note,
    }
    if row.key == "fit" and row.demand.value <= 0.0:
        sentence = "{n} is within reach of the fall, scatter and upper length counted."
    if row.key == "escape" and not row.note:
        sentence = "Both run clear for {d} or more; {a} is the least."
    if row.key == "escape" and row.note:
        sentence = "{n} stops a path after {d}; {a} is the least."
    return {
        "key": row.key.replace(" ", "-"),
        "name": name,
        "sentence": sentence.format(**said),
        "change": "" if row.verdict is Verdict.WITHIN else change,
        "verdict": row.verdict.value,
        "shape": SHAPES[row.verdict],
        "note": row.note,
    }


def walked(way, system):
    """How far a person gets while it falls, beside the least an escape path must be."""
    far, least = (text(v, "length", system) for v in (way.value, constant("escape_length").value))
    between = f"{text(way.low, 'length', system)} to {text(way.high, 'length', system)}"
    return f"At a walk {far} ({between}) is covered before it is down; an escape path is at least {least}. Leave at the first movement."


def steps(given, result, system):
    """The crew's steps in order, with this plan's figures and where to stop and look."""
    cuts, figures = given.cuts, result.figures

    def said(value, dimension):
        return text(value, dimension, system)

    lay = said(given.lay, "angle")
    side = "left" if result.ground.better_escape == "left" else "right"
    pull = given.pull
    out = [
        f"Close the zone at {said(result.ground.zone_radius, 'length')}; guards call clear. Everyone may say stop.",
        f"Walk both escape paths; the {side} one is the better. Look up once more.",
    ]
    if pull:
        out.append(
            f"Tie the line {said(pull.tie, 'length')} up, anchor {said(pull.distance, 'length')} off, taut but not hard."
        )
    out += [
        f"Cut the notch {said(cuts.depth, 'cut')} deep, open {said(cuts.opening, 'angle')}, apex {said(cuts.stump, 'cut')} above the ground, aimed at {lay}.",
        "Stop and look: clean apex on both sides, sights on the lay from both sides of the bar; walk out and look back.",
        f"Back cut level, {said(cuts.rise, 'cut')} above the apex, up to a hinge {said(cuts.hinge, 'cut')} thick and {said(figures['hinge_length'].estimate.value, 'cut')} long. Never through.",
    ]
    if given.wedges.count and given.tree.condition.wedges:
        out.append(
            f"Set {given.wedges.count} wedge{'s' if given.wedges.count > 1 else ''} as soon as the cut takes them; lift to balance {said(figures['lift'].estimate.value, 'cut')}."
        )
    if pull:
        out.append(
            f"Saw out, faller back. On the agreed word take up to {said(pull.force, 'force')}; stop part way, look at both ends of the hinge."
        )
    out.append(f"When it moves, leave by the {side} path and keep looking up until it lies still.")
    return out


CAUTIONS = (
    "Never cut through the hinge on either side.",
    "Nobody stands behind the stump, in the bight, or in line with a tight rope.",
    "The model knows only what was measured. Local rules and a competent person at the tree have the last word.",
)
