"""The order of the saw cuts as a row of small stumps, and the stop part way through the pull."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from apps.felling import wording
from cantrel.drawing import fitted, label

if TYPE_CHECKING:
    from apps.felling.bench_planner import WorkedPlan

SIZE = 148


def sequence(worked: WorkedPlan, system: str) -> dict[str, Any]:
    """Every cut as a picture: what is sawn, what was before, where the person stands, whether to stop and look."""
    cuts, saw, rows = worked.given.cuts, worked.given.saw, worked.cuts
    half = max(cuts.along, cuts.across) / 2.0
    frame = fitted(SIZE, SIZE, -1.75 * half, 1.9 * half, -1.7 * half, 1.7 * half, margin=4)
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
                "most": row is worked.longest,
            }
        )
    return {
        "rows": drawn,
        "size": SIZE,
        "centre": (frame.x(0), frame.y(0)),
        "radii": (frame.size(cuts.along / 2.0), frame.size(cuts.across / 2.0)),
        "why": wording.PATTERN_WHY[saw.pattern],
        "suits": _suits(worked),
        "arrow": (frame.x(half * 1.15), frame.y(0), frame.x(half * 1.8)),
    }


def _suits(worked: WorkedPlan) -> str:
    """What the plan itself speaks for, where another pattern is chosen."""
    key, why = worked.pattern
    return "" if key == worked.given.saw.pattern else wording.SUITS[why]


def stops(worked: WorkedPlan, system: str) -> list[str]:
    """What may come off the hinge at the stop part way through the pull."""
    return [wording.thinned(row, system) for row in worked.thinned]
