"""Species and wood: one table with a source per figure. Densities and strengths are of green wood."""

from __future__ import annotations

import csv
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from treecore.errors import NotSolvable
from treecore.estimate import Estimate, Kind


@dataclass(frozen=True, slots=True, kw_only=True)
class Species:
    """One row of ``data/species.csv``: density [kg/m3], strengths [Pa], taper exponent [-]."""

    key: str
    common: str
    scientific: str
    group: str
    density: Estimate
    mor: Estimate
    hinge: str
    splits: str
    form: str
    density_source: str
    strength_source: str
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """Body figures shared by a group of species; see ``data/groups.csv``."""

    key: str
    taper: Estimate  # exponent of the taper equation [-]
    crown_scale: Estimate  # crown mass against the published ratio [-]
    spread_per_diameter: float  # usual crown spread over stem diameter [-]
    crown_base: float  # usual height of the crown's foot over tree height [-]
    crown_centre: Estimate  # centre of crown mass within the crown's depth [-]
    foliage_b: tuple[float, float]
    bark_b: tuple[float, float]
    wood_b: tuple[float, float]
    leaf_on: bool  # keeps its leaves in winter
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class State:
    """What being in leaf, bare, dead or soaked does to a tree; see ``data/states.csv``."""

    key: str
    name: str
    density: Estimate  # factor on green density [-]
    strength: Estimate  # factor on green strength [-]
    foliage: float  # share of foliage carried [-]
    wedges: bool
    note: str


def _rows(name: str) -> list[dict[str, str]]:
    text = files("treecore").joinpath(f"data/{name}.csv").read_text(encoding="utf-8")
    return [row for row in csv.DictReader(text.splitlines()) if row["key"] != "unit"]


def _three(row: dict[str, str], name: str, kind: Kind, factor: float = 1.0) -> Estimate:
    return Estimate(
        float(row[name]) * factor, float(row[f"{name}_low"]) * factor, float(row[f"{name}_high"]) * factor, kind
    )


@cache
def species_table() -> dict[str, Species]:
    """Return every species by key."""
    return {
        row["key"]: Species(
            density=_three(row, "density", Kind.ESTIMATED),
            mor=_three(row, "mor", Kind.ESTIMATED, 1e6),
            **{k: row[k] for k in ("key", "common", "scientific", "group", "hinge", "splits", "form")},
            **{k: row[k] for k in ("density_source", "strength_source", "note")},
        )
        for row in _rows("species")
    }


@cache
def groups() -> dict[str, Group]:
    """Return every body group by key."""
    return {
        row["key"]: Group(
            key=row["key"],
            taper=_three(row, "taper", Kind.ASSUMED),
            crown_scale=_three(row, "crown_scale", Kind.ASSUMED),
            crown_centre=_three(row, "crown_centre", Kind.ASSUMED),
            spread_per_diameter=float(row["spread_per_diameter"]),
            crown_base=float(row["crown_base"]),
            foliage_b=(float(row["foliage_b0"]), float(row["foliage_b1"])),
            bark_b=(float(row["bark_b0"]), float(row["bark_b1"])),
            wood_b=(float(row["wood_b0"]), float(row["wood_b1"])),
            leaf_on=row["leaf_on"] == "yes",
            source=row["source"],
        )
        for row in _rows("groups")
    }


@cache
def states() -> dict[str, State]:
    """Return every state a tree can be in by key."""
    return {
        row["key"]: State(
            key=row["key"],
            name=row["name"],
            density=_three(row, "density", Kind.ASSUMED),
            strength=_three(row, "strength", Kind.ASSUMED),
            foliage=float(row["foliage"]),
            wedges=row["wedges"] == "yes",
            note=row["note"],
        )
        for row in _rows("states")
    }


@cache
def hinge_qualities() -> dict[str, Estimate]:
    """Return the share of green strength a hinge keeps while it yields, by hinge quality [-]."""
    return {row["key"]: _three(row, "kept", Kind.ASSUMED) for row in _rows("hinge_quality")}


def find(key: str) -> Species:
    """Return one species.

    Parameters
    ----------
    key : str
        Key in the table.

    Raises
    ------
    NotSolvable
        If the table has no such species.
    """
    try:
        return species_table()[key]
    except KeyError:
        raise NotSolvable("species", f"“{key}” is not in the species table") from None
