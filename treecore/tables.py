"""The tables under ``data/``: CSV with headings, and often a row of units that is no entry."""

from __future__ import annotations

import csv
from importlib.resources import files


def rows(name: str, first: str = "key") -> list[dict[str, str]]:
    """Return the entries of a table by heading, without its row of units.

    Parameters
    ----------
    name : str
        File name in ``data/`` without its ending.
    first : str
        Heading of the first column, where the row of units says so.
    """
    text = files("treecore").joinpath(f"data/{name}.csv").read_text(encoding="utf-8")
    return [row for row in csv.DictReader(text.splitlines()) if row[first] != "unit"]
