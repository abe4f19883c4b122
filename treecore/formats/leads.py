"""Leads of a forked tree before anybody measured them, so that its stem does not end in the air."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from treecore.errors import between
from treecore.tree.body import TreeInput

Entry = dict[str, Any]

_STEEP, _FLAT = math.radians(80.0), math.radians(55.0)  # leads of a fork rise between these, by eye [rad]
_OUT = 0.3  # how far out a lead's tip stands, of the crown's spread [-]
MOST = 6  # leads of one fork that are begun with


def usual_leads(tree: TreeInput, fork: float, count: int, towards: float, names: Sequence[str]) -> list[Entry]:
    """Leads that take over at a fork, spaced evenly round it, as entries; docs/methods.md, crown (8).

    Parameters
    ----------
    tree : TreeInput
        The tree as if its stem went on to the tip.
    fork : float
        Where the leads take over. [m]
    count : int
        How many there are. [-]
    towards : float
        Bearing the first one goes to. [rad]
    names : sequence
        What they are called, one each.

    Raises
    ------
    OutOfRange
        If there are not two to six of them, or the fork is not between stump and tip.

    References
    ----------
    Together as thick as the stem below: C. Eloy (2011), Leonardo's rule, self-similarity, and wind-induced stresses in
    trees, Physical Review Letters 107, 258101.
    """
    between("leads", count, 2, MOST, "a fork has two to six leads")
    height = tree.stands.value
    between("fork", fork, 0.3, height - 1.0, "a fork is above the stump and below the tip", "length")
    rise = min(max(math.atan2(height - fork, _OUT * tree.spread.value), _FLAT), _STEEP)
    thick = tree.stem.diameter_at(fork) / math.sqrt(count)
    return [
        {
            "name": names[i],
            "at_m": fork,
            "azimuth_deg": round(math.degrees(towards + math.tau * i / count) % 360.0, 1),
            "rise_deg": round(math.degrees(rise), 1),
            "length_m": round((height - fork) / math.sin(rise), 2),
            "diameter_m": round(thick, 3),
            "codominant": True,
        }
        for i in range(count)
    ]
