"""Which figures this release computes by: what a signature was made on, so that it lapses when they are corrected."""

from __future__ import annotations

import csv
import hashlib
from functools import cache
from importlib.resources import files
from pathlib import Path

RELEASE = "0.13.0"
COMPUTED = 5  # counts up whenever a formula is corrected


@cache
def figures_version() -> str:
    """Return the version of all figures: the count of corrected formulas, and a fingerprint of every figure in the
    tables.

    Words in the tables (sources, reasons, notes) may be put better without anyone signing again.
    """
    text = hashlib.sha256()
    folder = files("treecore").joinpath("data")
    for name in sorted(f.name.removesuffix(".csv") for f in folder.iterdir() if f.name.endswith(".csv")):
        if name in _REFUSE_ONLY:
            continue
        for row in csv.DictReader(folder.joinpath(f"{name}.csv").read_text(encoding="utf-8").splitlines()):
            if row.get("key") in _ONLY_PROPOSE:
                continue
            kept = [cell for heading, cell in row.items() if not _words(heading)]
            text.update(("\t".join([name, *kept]) + "\n").encode())
    return f"{COMPUTED}-{text.hexdigest()[:12]}"


@cache
def program_version() -> str:
    """Return the version of the program that computes: its release, and a fingerprint of every line and table."""
    text = hashlib.sha256()
    folder = Path(str(files("treecore")))
    for path in sorted(folder.rglob("*.py")) + sorted(folder.rglob("*.csv")):
        if "tests" not in path.relative_to(folder).parts:
            text.update(path.relative_to(folder).as_posix().encode() + b"\0" + path.read_bytes())
    return f"{RELEASE}-{text.hexdigest()[:12]}"


def same_figures(signed: str) -> bool:
    """Return whether what was signed on a version of the figures still stands on today's.

    Parameters
    ----------
    signed : str
        As ``figures_version`` gave it on that day.
    """
    return _SAME.get(signed, signed) == figures_version()


# Tables no plan is computed from: they refuse what nobody believes, or say how long work takes.
_REFUSE_ONLY = {"ranges", "times", "commands", "kit"}
# Constants by which something is proposed, which is then held like any other, or the day is reckoned.
_ONLY_PROPOSE = {
    "collar", "spar_left", "carried_at_once", "way_out_guess", "tree_alone", "pick_alone", "yard_pace",
    "chip_bulk", "green_energy",
}  # fmt: skip
# Versions that had the same figures: one counted such a table in, one had its own choices in the programs.
_SAME = {"4-9e30f122dab8": "4-941e20efd54a", "4-e8ed65fbb510": "4-941e20efd54a"}
_WORDS = {"source", "reason", "note", "name", "when", "wrong", "why", "common", "caution"}


def _words(heading: str) -> bool:
    """Whether a column holds words for people, which nothing is computed from."""
    return heading in _WORDS or heading.endswith("_source")
