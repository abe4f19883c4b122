"""The hinge window as a band, and the moments at the hinge as bars."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from apps.felling import wording
from cantrel.drawing import label

if TYPE_CHECKING:
    from collections.abc import Callable

    from apps.felling.bench_planner import WorkedPlan
    from treecore.felling.plan import FellingResult


def window(worked: WorkedPlan, system: str, width: Any = 440, height: Any = 126) -> dict[str, Any]:
    """The hinge window as a band: too thin on the left, too thick on the right."""
    given, result = worked
    thin, thick = (result.figures[k].estimate for k in ("thin", "thick"))
    low, high = worked.thickness
    end = max(thick.high, thin.high, given.cuts.hinge, high) * 1.12
    left, right = 12, width - 12

    def x(metres: float) -> float:
        return round(left + (right - left) * min(max(metres / end, 0.0), 1.0), 1)

    return {
        "width": width,
        "height": height,
        "frame": f"{left},0,{(right - left) / end:.5f}",
        "left": left,
        "right": right,
        "thin": (x(thin.low), x(thin.value), x(thin.high)),
        "thick": (x(thick.low), x(thick.value), x(thick.high)),
        "said": min(max(x(thick.value), left + 96), right - 92),  # clear of the other label and of the edge
        "school": (x(low), x(high) - x(low)),
        "others": _other_schools(worked, x, system),
        "opens": wording.opens(worked.opening, system),
        "rules": wording.thin_rule(result.thin_rule, system),
        "now": x(result.wood.mean),
        "shut": thin.value > thick.value,
        "labels": {
            "thin": label(thin.value, "cut", system),
            "thick": label(thick.value, "cut", system),
            "now": label(result.wood.mean, "cut", system),
            "school": gettext(next(v.school.name for v in worked.schools["thickness"] if v.chosen)),
        },
    }


ALONG = (
    (gettext_lazy("Lean"), "m_lean"),
    (gettext_lazy("Crown"), "m_crown"),
    (gettext_lazy("Pivot"), "m_pivot"),
    (gettext_lazy("Gust against"), "wind_along"),
    (gettext_lazy("Hinge"), "hinge_moment"),
    (gettext_lazy("Wedges"), "wedge_moment"),
    (gettext_lazy("Pull"), "pull_along"),
    (gettext_lazy("Guy line"), "guy_along"),
    (gettext_lazy("Left over"), "margin"),
)
ACROSS = (
    (gettext_lazy("Lean"), "s_lean"),
    (gettext_lazy("Crown"), "s_crown"),
    (gettext_lazy("Oval stem"), "s_oval"),
    (gettext_lazy("Pull"), "pull_across"),
    (gettext_lazy("Guy line"), "guy_across"),
    (gettext_lazy("Wedges"), "wedge_side"),
    (gettext_lazy("In a calm"), "side_moment"),
    (gettext_lazy("Gust, either side"), "wind_across"),
    (gettext_lazy("Worst ends"), "side_ends"),
    (gettext_lazy("At its worst"), "side_most"),
)

TOTALS = ("margin", "side_moment", "side_most")


def _other_schools(worked: WorkedPlan, x: Callable[..., Any], system: str) -> list[dict[str, Any]]:
    """What the other schools would give, as ticks on the band."""
    found = []
    for value in sorted(worked.schools["thickness"], key=lambda v: v.usual):
        if not value.chosen:
            at = x(value.usual)
            apart = not found or at - found[-1]["x"] > 46
            found.append(
                {"x": at, "text": label(value.usual, "cut", system), "name": gettext(value.school.name), "said": apart}
            )
    return found


def ledger(result: FellingResult, system: str, width: Any = 440) -> dict[str, Any]:
    """Moments at the hinge as bars about a middle line: along the lay, and across it."""
    size = max(abs(result.estimates[key].value) for _, key in (*ALONG, *ACROSS)) or 1.0
    along, tall = _bars(result, system, ALONG, width, 22, size)
    across, end = _bars(result, system, ACROSS, width, tall + 28, size)
    return {
        "along": along,
        "across": across,
        "middle": width * 0.46,
        "width": width,
        "height": end + 4,
        "next": tall + 18,
    }


def _bars(
    result: FellingResult, system: str, rows: tuple[tuple[str, str], ...], width: int, top: int, largest: float
) -> tuple[list[dict[str, Any]], int]:
    middle, half, out = width * 0.46, width * 0.22, []
    for i, (name, key) in enumerate(rows):
        value = result.estimates[key].value * (-1.0 if key == "hinge_moment" else 1.0)
        size = round(half * abs(value) / largest, 1)
        out.append(
            {
                "name": name,
                "value": label(value, "moment", system),
                "x": round(middle - (size if value < 0 else 0), 1),
                "width": size,
                "y": top + 19 * i,
                "back": value < 0,
                "total": key in TOTALS,
                "key": key,
                "none": abs(value) < 1.0 and key not in TOTALS,
            }
        )
    return out, top + 19 * len(rows)
