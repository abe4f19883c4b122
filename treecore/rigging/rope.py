"""How stiff a rope is: by its maker's modulus, or by its construction and thickness, with how that is known."""

from __future__ import annotations

from functools import cache
from typing import NamedTuple

from treecore.errors import none_of
from treecore.estimate import Estimate, Kind, times
from treecore.schools import constant
from treecore.tables import rows


class Stiffness(NamedTuple):
    """Modulus EA of a rope [N] and where it comes from: ``stated``, ``table``, ``interpolated``, ``extended`` or
    ``unknown``.
    """

    axial_stiffness: Estimate
    known: str
    source: str


@cache
def constructions() -> dict[str, str]:
    """Return the constructions of ropes by key: their names."""
    return {row["construction"]: row["name"] for row in rows("rope_stiffness", "construction")}


@cache
def _table(construction: str) -> tuple[tuple[float, Estimate, str], ...]:
    found = [
        (
            float(row["diameter"]),
            Estimate(float(row["modulus"]), float(row["low"]), float(row["high"]), Kind.ASSUMED),
            row["source"],
        )
        for row in rows("rope_stiffness", "construction")
        if row["construction"] == construction
    ]
    return tuple(sorted(found))


def stiffness_of(construction: str, diameter: float | None, stated: float | None) -> Stiffness:
    """Modulus of a rope; docs/methods.md, rope (1).

    Parameters
    ----------
    construction : str
        Key of the table; empty where nobody knows.
    diameter : float, optional
        Of the rope. [m]
    stated : float, optional
        Modulus EA its maker or a crew gives; goes before the table. [N]

    Raises
    ------
    NotSolvable
        On a construction that is not in the table.

    References
    ----------
    data/rope_stiffness.csv; between two thicknesses straight, beyond the table with the thickness squared.
    """
    if stated is not None:
        return Stiffness(times(constant("modulus_stated"), stated), "stated", "as the store has it")
    if not construction or diameter is None:
        return Stiffness(constant("rope_modulus"), "unknown", "construction or thickness not known")
    if construction not in constructions():
        raise none_of(what="construction", given=construction, known=constructions())
    return _looked_up(_table(construction), diameter)


def _looked_up(table: tuple[tuple[float, Estimate, str], ...], diameter: float) -> Stiffness:
    for thick, axial_stiffness, source in table:
        if abs(thick - diameter) < 1e-4:
            return Stiffness(axial_stiffness, "table", source)
    below, above = ([r for r in table if (r[0] < diameter) == side] for side in (True, False))
    if not below or not above:
        thick, axial_stiffness, source = (below or above[:1])[-1]
        return Stiffness(times(axial_stiffness, (diameter / thick) ** 2), "extended", source)  # (1)
    (low, one, source), (high, two, _) = below[-1], above[0]
    share = (diameter - low) / (high - low)
    ends = (a + share * (b - a) for a, b in ((one.value, two.value), (one.low, two.low), (one.high, two.high)))
    value, least, most = ends
    return Stiffness(Estimate(value, least, most, Kind.ASSUMED), "interpolated", source)  # (1)
