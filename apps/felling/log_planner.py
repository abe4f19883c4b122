"""The log on its supports: its entry, and how it is sawn."""

from __future__ import annotations

import math
from typing import Any

from treecore.errors import NotSolvable
from treecore.felling.bucking import Bucked, buck
from treecore.formats.felling_entry import log_of
from treecore.places import distances
from treecore.tree.body import TreeInput

Entry = dict[str, Any]


def first_log(tree: TreeInput) -> Entry:
    """A first log: the stem below the crown and a little above, on two supports, cut in three."""
    length = round(min(max(0.55 * tree.height.value, 1.0), 0.9 * tree.stem.top - 0.4), 1)
    return {
        "from_m": 0.4,
        "to_m": round(0.4 + length, 1),
        "supports_m": [round(0.1 * length, 1), round(0.75 * length, 1)],
        "cuts_m": [round(length * k / 4, 1) for k in (1, 2, 3)],
        "cross_slope_deg": 0.0,
        "spring": "",
        "legs": False,
    }


def log_entry(values: dict[str, Any], system: str) -> Entry:
    """A typed log as the document's entry."""
    return {
        "from_m": values["log_from"],
        "to_m": values["log_to"],
        "supports_m": distances("supports", values["supports"], system),
        "cuts_m": distances("cuts", values["cuts"], system),
        "cross_slope_deg": math.degrees(values["cross_slope"] or 0.0),
        "spring": values["spring"],
        "legs": values["legs"],
    }


def bucked(entry: Entry, tree: TreeInput) -> Bucked:
    """How a log is sawn at the places its entry says."""
    log, cuts = log_of(entry, tree)
    if not cuts:
        raise NotSolvable(what="cuts", why="say where it is cut")
    return buck(log, cuts)
