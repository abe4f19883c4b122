"""The order of the saw cuts as a row of small stumps, and the stop part way through the pull."""

from apps.felling import wording
from cantrel.drawing import fitted, label
from treecore.felling.evaluate import thinning
from treecore.felling.sawing import cut_sequence, longest_cut
from treecore.felling.suggest import suggest_pattern

SIZE = 148


def sequence(given, result, system):
    """Every cut as a picture: what is sawn, what was before, where the person stands, whether to stop and look."""
    cuts, saw = given.cuts, given.saw
    escape_left = (given.escape or result.ground.better_escape) == "left"
    rows = cut_sequence(cuts, saw, result.point.side_moment >= 0.0, escape_left)
    half = max(cuts.along, cuts.across) / 2.0
    frame = fitted(SIZE, SIZE, -1.75 * half, 1.9 * half, -1.7 * half, 1.7 * half, margin=4)
    most = longest_cut(rows)
    drawn = []
    for i, row in enumerate(rows):
        drawn.append(
            {
                "n": i + 1,
                "name": wording.CUT_NAMES[row.key],
                "area": frame.points(row.area),
                "before": [frame.points(b.area) for b in rows[:i] if b.key != "nicks"],
                "stands": (frame.x(row.stands[0]), frame.y(row.stands[1])),
                "look": row.look,
                "bar": label(row.bar, "cut", system),
                "short": saw.bar is not None and row.bar > saw.bar,
                "most": row is most,
            }
        )
    return {
        "rows": drawn,
        "size": SIZE,
        "centre": (frame.x(0), frame.y(0)),
        "radii": (frame.size(cuts.along / 2.0), frame.size(cuts.across / 2.0)),
        "why": wording.PATTERN_WHY[saw.pattern],
        "suits": _suits(given, result),
        "arrow": (frame.x(half * 1.15), frame.y(0), frame.x(half * 1.8)),
    }


def _suits(given, result):
    """What the plan itself speaks for, where another pattern is chosen."""
    key, why = suggest_pattern(given, result.point.side_moment, result.point.split_lean)
    return "" if key == given.saw.pattern else wording.SUITS[why]


def stops(result, system):
    """What may come off the hinge at the stop part way through the pull."""
    return [wording.thinned(row, system) for row in thinning(result)]
