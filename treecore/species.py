"""Species and wood: one table with a source per figure. Densities and strengths are of green wood."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cache
from typing import Any

from treecore.errors import NotSolvable, between, none_of
from treecore.estimate import Estimate, Kind
from treecore.tables import rows


@dataclass(frozen=True, slots=True, kw_only=True)
class Species:
    """One row of ``data/species.csv``: densities [kg/m3], strengths and stiffness of green wood [Pa].

    ``density`` is green, ``basic`` dry mass over green volume. ``sources`` names the source of each figure; ``own`` is
    True for a yard's own row.
    """

    key: str
    common: str
    scientific: str
    group: str
    form: str
    region: str
    density: Estimate
    basic: float
    mor: Estimate
    moe: Estimate
    compression: Estimate
    shear: Estimate
    hinge: str
    splits: str
    brittle: str
    decay: str
    sources: Mapping[str, str] = field(hash=False)
    note: str = ""
    own: bool = False

    @property
    def moisture(self) -> float:
        """Water over dry mass that density and basic density imply [-]: density = basic · (1 + moisture)."""
        return self.density.value / self.basic - 1.0

    @property
    def density_source(self) -> str:
        """Citation of the green density."""
        return self.sources["density"]


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
    limb_foliage: Estimate  # fresh foliage a limb carries per area of its base [kg/m2]
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class State:
    """What being in leaf, bare, dead or soaked does to a tree; see ``data/states.csv``."""

    key: str
    name: str
    density: Estimate  # factor on green density [-]
    strength: Estimate  # factor on green strength [-]
    foliage: float  # share of foliage carried [-]
    wind: Estimate  # factor on the outline area the wind feels, leafless trees only [-]
    wedges: bool
    climbs: bool  # whether it is climbed and rigged from
    note: str


def _three(row: dict[str, str], name: str, kind: Kind, factor: float = 1.0) -> Estimate:
    return Estimate(
        float(row[name]) * factor, float(row[f"{name}_low"]) * factor, float(row[f"{name}_high"]) * factor, kind
    )


FIGURES = {"density": 1.0, "mor": 1e6, "moe": 1e9, "compression": 1e6, "shear": 1e6}  # factor to SI
WORDS = {
    "hinge": ("holds long", "fair", "snaps early"),
    "splits": ("low", "medium", "high"),
    "brittle": ("low", "medium", "high"),
    "decay": ("slow", "fast"),
}
_PLAIN = ("key", "common", "scientific", "group", "form", "region", "hinge", "splits", "brittle", "decay", "note")


@cache
def citations() -> dict[str, str]:
    """Return every source of the species table by key."""
    return {row["key"]: row["citation"] for row in rows("sources")}


def _species(row: dict[str, str]) -> Species:
    figures: dict[str, Any] = {name: _three(row, name, Kind.ESTIMATED, factor) for name, factor in FIGURES.items()}
    sources = {name: citations()[row[f"{name}_source"]] for name in (*FIGURES, "basic", "habit")}
    plain: dict[str, Any] = {k: row[k] for k in _PLAIN}
    return Species(basic=float(row["basic"]), sources=sources, **plain, **figures)


@cache
def species_table() -> dict[str, Species]:
    """Return every published species by key."""
    return {row["key"]: _species(row) for row in rows("species")}


def own_species(like: str, changes: Mapping[str, object], source: str) -> Species:
    """Return a yard's own row: a published species with some figures replaced.

    Parameters
    ----------
    like : str
        Published species it takes everything else from.
    changes : mapping
        Estimates by figure name [SI], words by habit, and names.
    source : str
        Where the yard has its figures from.

    Raises
    ------
    NotSolvable, OutOfRange
        On an unknown species or habit, or a figure no green wood has.
    """
    base = find(like)
    for name, words in WORDS.items():
        if changes.get(name, words[0]) not in words:
            raise none_of(what=name, given=changes[name], known=words)
    for name in FIGURES:
        figure = changes.get(name)
        if isinstance(figure, Estimate):
            low, high, why = _BELIEVED[name]
            for end in (figure.low, figure.high):
                between(name, end, low, high, why, "density" if name == "density" else "strength")
    figured = dict.fromkeys((n for n in FIGURES if n in changes), source)
    return replace(base, sources={**base.sources, **figured}, own=True, **changes)  # type: ignore[arg-type]


_BELIEVED = {
    "density": (200.0, 1600.0, "green wood weighs 200 to 1600 kg/m³"),
    "mor": (5e6, 250e6, "green bending strengths are 5 to 250 MPa"),
    "moe": (1e9, 30e9, "green wood is 1 to 30 GPa stiff"),
    "compression": (2e6, 120e6, "along the grain, 2 to 120 MPa"),
    "shear": (0.5e6, 40e6, "along the grain, 0.5 to 40 MPa"),
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
            limb_foliage=_three(row, "limb_foliage", Kind.ASSUMED),
            source=row["source"],
        )
        for row in rows("groups")
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
            wind=_three(row, "wind", Kind.ASSUMED),
            wedges=row["wedges"] == "yes",
            climbs=row["climbs"] == "yes",
            note=row["note"],
        )
        for row in rows("states")
    }


@cache
def hinge_parts() -> dict[str, Estimate]:
    """Return the turn of the stem at which a hinge parts by itself, its notch still open, by hinge quality [rad]."""
    return {row["key"]: _three(row, "parts", Kind.ASSUMED) for row in rows("hinge_quality")}


@cache
def hinge_qualities() -> dict[str, Estimate]:
    """Return the share of green strength a hinge keeps while it yields, by hinge quality [-]."""
    return {row["key"]: _three(row, "kept", Kind.ASSUMED) for row in rows("hinge_quality")}


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
        raise NotSolvable(what="species", why="“{key}” is not in the species table", key=key) from None
