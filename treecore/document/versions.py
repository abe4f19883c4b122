"""Versions of the plan document: a file of any of them opens, brought up to today's step by step."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from treecore.tables import rows

SCHEMA, VERSION = "cantrel-plan", 4


def upgraded(document: dict[str, Any], to: int = VERSION) -> dict[str, Any]:
    """Return a document in today's version, or one asked for; one of that, or of none there ever was, as it is.

    Parameters
    ----------
    document : dict
        As JSON gives it; shapes that are not as they should be are left for the schema to name.
    to : int
        Version to stop at.
    """
    found, version = document, document.get("version")
    while isinstance(version, int) and version in _STEPS and version < to:
        found = _STEPS[version](found) | {"version": version + 1}
        version += 1
    return found


def _settings_said(document: dict[str, Any]) -> dict[str, Any]:
    """From 1 to 2: a device that has settings says its own; it was told by wraps before."""
    with_settings = {row["device"] for row in rows("device_settings", "device")}

    def said(pick: Any) -> Any:
        if not isinstance(pick, dict) or pick.get("device_kind") not in with_settings or pick.get("setting"):
            return pick
        wraps = pick.get("wraps", 2.0)
        return pick | {"setting": 2 if isinstance(wraps, int | float) and wraps >= 1.0 else 1}

    return _each_takedown(document, lambda takedown: takedown | {"picks": [said(p) for p in takedown["picks"]]})


def _each_takedown(document: dict[str, Any], change: Callable[[dict[str, Any]], dict[str, Any]]) -> dict[str, Any]:
    """A document with every takedown that has a list of picks changed."""

    def of_tree(tree: Any) -> Any:
        takedown = tree.get("takedown") if isinstance(tree, dict) else None
        if not isinstance(takedown, dict) or not isinstance(takedown.get("picks"), list):
            return tree
        return tree | {"takedown": change(takedown)}

    trees = document.get("trees")
    return document | {"trees": [of_tree(tree) for tree in trees]} if isinstance(trees, list) else document


# From 2 to 3: the field's own words for a redirect, a far anchor, a codominant stem, and how stiff a rope is.
_WORDS = {"lead": "redirect", "lead_sling": "redirect_sling", "lead_block": "redirect_block", "far": "far_anchor"}


def _renamed(row: Any, words: dict[str, str]) -> Any:
    return {words.get(key, key): value for key, value in row.items()} if isinstance(row, dict) else row


def _fields_words(document: dict[str, Any]) -> dict[str, Any]:
    found = _each_takedown(document, lambda t: t | {"picks": [_renamed(pick, _WORDS) for pick in t["picks"]]})
    if isinstance(found.get("gear"), list):
        found = found | {"gear": [_renamed(row, {"modulus_N": "axial_stiffness_N"}) for row in found["gear"]]}

    def of_tree(tree: Any) -> Any:
        if not isinstance(tree, dict) or not isinstance(tree.get("limbs"), list):
            return tree
        return tree | {"limbs": [_renamed(limb, {"lead": "codominant"}) for limb in tree["limbs"]]}

    trees = found.get("trees")
    return found | {"trees": [of_tree(tree) for tree in trees]} if isinstance(trees, list) else found


# From 3 to 4: what a choice may be is named by keys.
_UNIONS = {"included bark": "included", "included, strapped": "strapped"}


def _keys(document: dict[str, Any]) -> dict[str, Any]:
    def said(row: Any, key: str, words: dict[str, str]) -> Any:
        if not isinstance(row, dict) or not isinstance(row.get(key), str):
            return row
        return row | {key: words.get(row[key], row[key])}

    def of_tree(tree: Any) -> Any:
        if not isinstance(tree, dict):
            return tree
        found = dict(tree)
        if isinstance(tree.get("limbs"), list):
            found["limbs"] = [said(limb, "union", _UNIONS) for limb in tree["limbs"]]
        if isinstance(tree.get("walk_up"), list):
            found["walk_up"] = [said(line, "finding", {"not looked at": "not_looked"}) for line in tree["walk_up"]]
        return found

    trees = document.get("trees")
    return document | {"trees": [of_tree(tree) for tree in trees]} if isinstance(trees, list) else document


_STEPS = {1: _settings_said, 2: _fields_words, 3: _keys}
