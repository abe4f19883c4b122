"""What a field that is a choice may be: keys by the name of their table."""

from __future__ import annotations

from functools import cache

from treecore.tables import rows

# Choices that are no table of figures: what each means is said by whoever uses it.
PLAIN = {
    "held": ("lock", "soft", "run"),
    "ways": ("throw", "ladder", "lift", "spurs"),
    "anchors": ("saver", "base"),
    "beds": ("none", "brush", "logs"),
    "away": ("", "carried", "cut_up", "machine", "chipper"),
    "sides": ("", "left", "right"),
    "shapes": ("area", "line", "spot"),
    "pullers": ("", "people", "winch", "vehicle"),
    "kinds": ("measured", "estimated", "assumed"),
    "breasts": ("metric", "us"),
    "quantities": ("height", "diameter"),
    "findings": ("present", "absent", "not_looked"),
    "foliage": ("full", "thin", "none"),
    "unions": ("sound", "included", "strapped", "decayed", "cracked"),
    "method_choices": ("", "whole", "reduce", "spar", "freefall", "rigging", "speedline", "lift", "crane", "refer"),
}
# Tables under data/, and the heading of their keys.
TABLES = {
    "methods": "pick_methods", "cuts": "pick_cuts", "devices": "devices", "gear_kinds": "gear_kinds",
    "pull_parts": "pull_parts",
    "traction": "traction", "joins": "joins", "line_knots": "knots", "wedge_kinds": "wedge_kinds", "states": "states",
    "site_kinds": "site_kinds", "measuring": "measuring",
}  # fmt: skip
SCHOOLS = {
    "notch_schools": "notch", "depth_schools": "depth", "thickness_schools": "thickness", "zone_schools": "zone",
    "first_schools": "first", "pattern_schools": "pattern", "position_schools": "position", "designs": "design",
    "notches": "notch",
}  # fmt: skip
FACTORS = {"knots": "knot", "slings": "sling", "wear": "wear"}


@cache
def keys(name: str) -> tuple[str, ...]:
    """Return what a choice may be; nothing where it depends on the rest of the document.

    Parameters
    ----------
    name : str
        Of a field's ``choices``.
    """
    if name in PLAIN:
        return PLAIN[name]
    if name in TABLES:
        return tuple(r["key"] for r in rows(TABLES[name]))
    if name in SCHOOLS:
        found = tuple(r["key"] for r in rows("schools", "choice") if r["choice"] == SCHOOLS[name])
        return ("", *found) if name == "notches" else found
    if name in FACTORS:
        return tuple(r["key"] for r in rows("gear_factors", "choice") if r["choice"] == FACTORS[name])
    return ()
