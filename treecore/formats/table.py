"""Every limit of a document's results as a plain table."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from treecore.verdict import CLASSES, Verdict

Row = dict[str, Any]
_GRAVE = {Verdict.OVER.value: 0, Verdict.NOT_KNOWN.value: 0, Verdict.NEAR.value: 1, Verdict.WITHIN.value: 2}
_HEAD = ("verdict", "class", "limit", "where", "asked", "", "allowed", "unit", "about")


def limits_in(tree: Row) -> Iterator[tuple[str, Row]]:
    """Every limit of a tree's results, with where in its plan it stands.

    Parameters
    ----------
    tree : mapping
        As ``evaluate_document`` returns it.
    """
    for row in tree.get("felling", {}).get("limits", ()):
        yield "felling", row
    takedown = tree.get("takedown", {})
    for number, pick in enumerate(takedown.get("picks", ()), start=1):
        for row in pick.get("limits", ()):
            yield f"pick {number}", row
    for row in takedown.get("way_up", ()):
        yield "way up", row
    for row in tree.get("weak_places", ()):
        yield "tree", row


def limit_table(results: Row) -> list[str]:
    """Lines of a table, tree by tree, the gravest limit first.

    Parameters
    ----------
    results : mapping
        As ``evaluate_document`` returns them.
    """
    lines = []
    for tree in results["trees"]:
        rows = sorted(limits_in(tree), key=lambda r: (_GRAVE[r[1]["verdict"]], CLASSES.index(r[1]["class"])))
        cells = [_HEAD, *(_cells(where, row) for where, row in rows)]
        widths = [max(len(c[i]) for c in cells) for i in range(len(_HEAD))]
        lines.append(tree["name"])
        lines += ["  " + "  ".join(c.ljust(w) for c, w in zip(line, widths, strict=True)).rstrip() for line in cells]
        refused = [
            f"  pick {n}: refused: {pick['refused']}"
            for n, pick in enumerate(tree.get("takedown", {}).get("picks", ()), start=1)
            if "refused" in pick
        ]
        lines += refused
    return lines


def _cells(where: str, row: Row) -> tuple[str, ...]:
    sign = "≥" if row["least"] else "≤"
    demand, allowed = (_number(row[name]) for name in ("demand", "allowed"))
    about = ", ".join(f"{k} {v:.4g}" if isinstance(v, float) else str(v) for k, v in row["about"].items())
    shown = sign if demand and allowed else ""
    unit = row["unit"] if demand or allowed else ""
    return row["verdict"], row["class"], row["key"], where, demand, shown, allowed, unit, about


def _number(estimate: Row | None) -> str:
    if estimate is None:
        return ""
    value, low, high = (estimate[name] for name in ("value", "low", "high"))
    return f"{value:.4g}" if low == high else f"{value:.4g} ({low:.4g} to {high:.4g})"
