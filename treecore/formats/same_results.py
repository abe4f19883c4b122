"""Whether two evaluations of one plan say the same, to the rounding people are shown."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

SHARE = 0.005  # three figures are shown of a number
# Half of the last place shown, where a number is small; by SI unit.
PLACES = {
    "m": 0.005,
    "kg": 0.5,
    "N": 0.5,
    "N·m": 50.0,
    "rad": math.radians(0.05),
    "s": 0.05,
    "m/s": 0.05,
    "1": 0.005,
}
WORDS = {"label", "formula", "source", "widened_by", "schema", "version", "about"}


def changed_results(kept: dict[str, Any], now: dict[str, Any]) -> list[str]:
    """Return the paths at which two results of ``evaluate_document`` differ by more than is shown.

    Parameters
    ----------
    kept, now : dict
        Results of one document, kept and computed anew. Results of different versions of their shape are compared in
        what both have.

    Returns
    -------
    list of str
        Words of a path, parted by blanks; empty where everything is the same.
    """
    lenient = kept.get("version") != now.get("version")
    return list(_differing(kept, now, "", "", lenient))


def _differing(kept: Any, now: Any, path: str, unit: str, lenient: bool) -> Iterator[str]:
    if isinstance(kept, dict) and isinstance(now, dict):
        unit = str(now.get("unit") or kept.get("unit") or _unit_of(path) or unit)
        for key in [*kept, *(key for key in now if key not in kept)]:
            if key in WORDS or (lenient and not (key in kept and key in now)):
                continue
            yield from _differing(kept.get(key), now.get(key), f"{path} {key}".strip(), unit, lenient)
    elif isinstance(kept, list) and isinstance(now, list) and len(kept) == len(now):
        for number, (a, b) in enumerate(zip(_ordered(kept), _ordered(now), strict=True), start=1):
            yield from _differing(a, b, f"{path} {_named(b, number)}", unit, lenient)
    elif _number(kept) and _number(now):
        if abs(kept - now) > max(SHARE * abs(kept), PLACES.get(unit, 0.0)):
            yield path
    elif kept != now:
        yield path


def _number(value: Any) -> bool:
    return isinstance(value, (int, float)) and not isinstance(value, bool)


def _ordered(rows: list[Any]) -> list[Any]:
    """Limits stand in the order of their gravity: compared they are by what they are."""
    if not rows or not all(isinstance(row, dict) and "key" in row for row in rows):
        return rows
    return sorted(rows, key=lambda row: (row["key"], str(row.get("about"))))


def _named(row: Any, number: int) -> str:
    return str(row["key"]) if isinstance(row, dict) and "key" in row else str(number)


def _unit_of(path: str) -> str:
    """The unit at the end of a key (``rope_m``)."""
    last = path.rpartition("_")[2]
    return last if last in ("m", "kg", "N", "rad", "s") else ""
