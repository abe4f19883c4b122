"""What is looked over before anybody starts, from ``data/kit.csv``."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import NamedTuple

from treecore.tables import rows


class Check(NamedTuple):
    """One thing to look over: of what, and when a plan has it."""

    key: str
    group: str
    when: str
    name: str


@cache
def checks() -> tuple[Check, ...]:
    """Return everything that may have to be looked over."""
    return tuple(Check(row["key"], row["group"], row["when"], row["name"]) for row in rows("kit"))


def checks_of(uses: Iterable[str]) -> tuple[Check, ...]:
    """Return what has to be looked over for a job.

    Parameters
    ----------
    uses : iterable of str
        What it has: fell, pull, climb, lower, chip.
    """
    asked = {*uses, "always"}
    return tuple(check for check in checks() if check.when in asked)
