"""The web's door to units: showing, typing and explaining quantities. No formula lives here."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.formats import get_format
from django.utils.translation import gettext, gettext_lazy

from cantrel.handbook import cited
from treecore import typed as reading
from treecore import units
from treecore.errors import OutOfRange
from treecore.estimate import Kind

if TYPE_CHECKING:
    from treecore.errors import CoreError
    from treecore.estimate import Estimate
    from treecore.figures import Figure

typed, parse = units.typed, reading.parse
SPACE = "\u00a0"
LENGTH_UNIT = {units.METRIC: 1.0, units.US: units.FOOT}  # one metre, or one foot [m]


def symbol(dimension: str, system: str) -> str:
    """Unit shown for a dimension."""
    return units.unit(dimension, system).symbol


def text(value: float, dimension: str, system: str, more: int = 0) -> str:
    """Value with its unit, rounded for display."""
    return with_unit(local(units.show(value, dimension, system, more)), symbol(dimension, system))


def with_unit(number: str, unit: str) -> str:
    """A number and its unit as one word."""
    return f"{number}{'' if unit in ('°', '%', '') else SPACE}{unit}"


def local(number: str) -> str:
    """A number with the reader's decimal mark."""
    mark = get_format("DECIMAL_SEPARATOR")
    return number if mark == "." else number.replace(".", mark)


_DIGITS = 7  # beyond the usual, where two figures that decide would read alike


def apart(first: float, second: float, dimension: str, system: str) -> tuple[str, str]:
    """Two values with their unit, with as many digits as it takes where they would read alike and are not."""
    said = text(first, dimension, system), text(second, dimension, system)
    for more in range(1, _DIGITS):
        if said[0] != said[1] or math.isclose(first, second, rel_tol=1e-9):
            break
        said = text(first, dimension, system, more), text(second, dimension, system, more)
    return said


def exact(value: float, dimension: str, system: str) -> str:
    """Value with its unit as a person would type it, not rounded for display."""
    unit = symbol(dimension, system)
    return f"{local(typed(value, dimension, system))}{'' if unit in ('°', '%', '') else SPACE}{unit}"


def refusal(error: CoreError) -> str:
    """Reason of a refusal, in words."""
    return gettext(error.pattern).format(**error.said) if error.said else gettext(error.why)


def explain(error: CoreError, system: str) -> str:
    """A core error in words, in the person's units."""
    if not isinstance(error, OutOfRange):
        why = refusal(error)
        return f"{why[:1].upper()}{why[1:]}."
    if not isinstance(error.value, (int, float)) or not math.isfinite(error.value):
        return gettext("This needs a finite number.")
    dimension = error.dimension or "ratio"

    def end(value: float) -> str:
        # Rounded in the unit it is shown in: 60° are 60°, not what four digits of radians make of them.
        shown = units.unit(dimension, system)
        said = f"{float(f'{value / shown.factor:.4g}'):.10g}" if math.isfinite(value) else str(value)
        return with_unit(said, shown.symbol)

    low, high = end(error.low), end(error.high)
    reason = f": {gettext(error.why)}" if error.why else ""
    return gettext("{exact} is outside {low} to {high}{reason}.").format(
        exact=exact(error.value, dimension, system), low=low, high=high, reason=reason
    )


def raw(value: float) -> str:
    """A number as a page carries it beside its words, SI; empty where it has no end."""
    return f"{value:.9g}" if math.isfinite(value) else ""


def estimate(e: Estimate, dimension: str, system: str) -> dict[str, str]:
    """An estimate as text parts: value, interval, unit, kind."""
    shown = [local(units.show(v, dimension, system)) for v in (e.value, e.low, e.high)]
    spread = "" if shown[1] == shown[2] else gettext("{shown} to {shown2}").format(shown=shown[1], shown2=shown[2])
    return {
        "value": shown[0],
        "spread": spread,
        "unit": symbol(dimension, system),
        "kind": e.kind.value,
        "known": str(KINDS[e.kind]),
    }


def deciding(name: str, e: Estimate | float, dimension: str, system: str, below: str = "") -> dict[str, str]:
    """One of the few large figures that decide: its name, value, unit, and below it its interval and what is asked."""
    if isinstance(e, float):
        shown = local(units.show(e, dimension, system))
        return {"name": name, "value": shown, "unit": symbol(dimension, system), "raw": raw(e), "below": below}
    shown = estimate(e, dimension, system)
    parts = [part for part in (shown["spread"], below) if part]
    return {
        "name": name,
        "value": shown["value"],
        "unit": shown["unit"],
        "raw": raw(e.value),
        "below": ", ".join(parts) or shown["known"],
    }


KINDS = {
    Kind.MEASURED: gettext_lazy("measured"),
    Kind.ESTIMATED: gettext_lazy("estimated"),
    Kind.ASSUMED: gettext_lazy("assumed"),
}


_INPUTS = {
    "density": gettext_lazy("density of the wood, knots and swellings"),
    "moisture": gettext_lazy("state of the wood"),
    "taper": gettext_lazy("taper of the stem"),
    "crown_scale": gettext_lazy("crown mass and spread"),
    "crown_centre": gettext_lazy("height of the crown's weight"),
    "crown_base": gettext_lazy("foot of the crown"),
    "lean_along": gettext_lazy("lean along the lay"),
    "lean_across": gettext_lazy("lean across the lay"),
    "crown_along": gettext_lazy("lopsided crown"),
    "crown_across": gettext_lazy("lopsided crown"),
    "mor": gettext_lazy("bending strength"),
    "kept": gettext_lazy("strength a yielding hinge keeps"),
    "drag": gettext_lazy("drag and spread of the crown"),
}


def figure(f: Figure, system: str) -> dict[str, Any]:
    """A core figure as a row for the page, with its why."""
    parts = estimate(f.estimate, f.dimension, system)
    terms = [
        {"symbol": gettext(t.symbol), "meaning": gettext(t.meaning), "value": text(t.value, t.dimension, system)}
        for t in f.terms
    ]
    widest = str(_INPUTS.get(f.widest, gettext(f.widest.replace("_", " "))))
    return parts | {
        "key": f.key,
        "label": gettext(f.label),
        "formula": gettext(f.formula),
        "terms": terms,
        "source": gettext(f.source),
        "methods": cited(f.source),
        "widest": widest,
        "raw": raw(f.estimate.value),
    }
