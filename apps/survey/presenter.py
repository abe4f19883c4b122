"""Measuring and the walk-up, as their pages show them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.jobs.presenter import elevation, tree_figures
from apps.survey import planner
from cantrel import quantities

if TYPE_CHECKING:
    from apps.jobs.models import Tree
    from apps.survey.models import HazardAnswer
    from treecore.measuring import Combined
    from treecore.tree.body import TreeInput
    from treecore.tree.weigh import TreeResult


def body(core: TreeInput, result: TreeResult, system: str) -> dict[str, Any]:
    """The tree's drawing and figures for the page."""
    limbs, assumed = planner.limbs_of(core, result)
    return {
        "drawing": elevation(core, result, system, limbs=limbs, assumed=assumed),
        "figures": tree_figures(result, system),
        "units": system,
    }


def readings_of(tree: Tree, diameter: Combined | None, height: Combined | None, system: str) -> list[dict[str, Any]]:
    """Readings with what each comes to, and what they come to together."""
    groups = []
    for quantity, title, dimension, together in (
        ("height", gettext("Height"), "length", height),
        ("diameter", gettext("Diameter"), "girth", diameter),
    ):
        rows = [
            {
                "reading": r,
                "method": planner.method_table()[r.method].name,
                "source": planner.method_table()[r.method].source,
                "result": quantities.estimate(planner.result_of(r), dimension, system),
            }
            for r in tree.readings.all()
            if r.quantity == quantity
        ]
        shown = quantities.estimate(together.estimate, dimension, system) if together else None
        apart = round(together.disagreement, 1) if together and together.disagreement > 1 else None
        groups.append({"title": title, "rows": rows, "together": shown, "apart": apart})
    return groups


def measured(tree: Tree, system: str) -> dict[str, Any]:
    """The tree as it was measured: drawn, in figures, and its readings."""
    core, result, diameter, height = planner.standing(tree)
    return body(core, result, system) | {"groups": readings_of(tree, diameter, height, system)}


def seen(answer: HazardAnswer, system: str) -> dict[str, Any]:
    """An answer, and where on the tree it was found."""
    height = ""
    if answer.height is not None:
        height = gettext(", {high} up").format(high=quantities.text(answer.height, "length", system))
    return {"row": answer, "where": f"{answer.side}{height}".strip(", ")}


def walk(rows: list[dict[str, Any]], name: str) -> dict[str, Any]:
    """The walk-up list, what of it blocks and what people saw differently; ``name`` is who looks."""
    return {
        "rows": rows,
        "gates": [r for r in rows if r["gate"] and r["gate"].open],
        "differing": [r for r in rows if r["differ"]],
        "left": sum(1 for r in rows if not r["answer"] or r["answer"].finding == "not_looked"),
        "own_left": [r for r in rows if not r["mine"] or r["mine"].finding == "not_looked"],
        "people": sorted({a.by for r in rows for a in r["answers"]} | {name}),
        "name": name,
    }
