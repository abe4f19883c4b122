"""What a piece that falls freely does to the ground, and what a bed of brush or logs takes of it."""

from __future__ import annotations

from treecore.errors import between, none_of
from treecore.estimate import Estimate, Kind
from treecore.schools import constant

BEDS = {"none": "bare ground", "brush": "brush", "logs": "logs"}


def give(bed: str, depth: float) -> Estimate:
    """How far ground and bed give under a piece [m]; docs/methods.md, landing (1).

    Parameters
    ----------
    bed : str
        Bare ground, brush or logs.
    depth : float
        Of the bed. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        On a bed nobody knows, or deeper than any.

    References
    ----------
    Shares by which beds are crushed: own allowances.
    """
    if bed not in BEDS:
        raise none_of(what="bed", given=bed, known=BEDS)
    between("bed_depth", depth, 0.0, 4.0, "beds are up to 4 m deep", "length")
    ground = constant("ground_give")
    if bed == "none":
        return ground
    crushed = constant(f"bed_{bed}")
    value, low, high = (
        g + depth * c
        for g, c in ((ground.value, crushed.value), (ground.low, crushed.low), (ground.high, crushed.high))
    )
    return Estimate(value, low, high, Kind.ASSUMED)  # (1)


def ground_force(weight: float, drop: float, soft: Estimate) -> Estimate:
    """Mean force on the ground under a piece that is stopped over what gives [N]; docs/methods.md, landing (2).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    drop : float
        Of its balance. [m]
    soft : Estimate
        How far ground and bed give. [m]

    References
    ----------
    Work of an even force: W·(1 + h/s).
    """
    value, high, low = (weight * (1.0 + max(drop, 0.0) / s) for s in (soft.value, soft.low, soft.high))
    return Estimate(value, low, high, Kind.ASSUMED)  # (2)
