"""Whether a stem splits up from the back cut: the moment it carries at the hinge against what would split it."""

from __future__ import annotations

from functools import cache

import numpy as np

from treecore.errors import Column, none_of
from treecore.estimate import Estimate, Kind
from treecore.schools import constant
from treecore.tables import rows

_MOST = 0.95  # the wood that still holds, over all behind the notch: more is no cut yet [-]


@cache
def toughness(splits: str) -> Estimate:
    """Energy that splits green wood along the grain [J/m2], by how readily its species splits.

    Parameters
    ----------
    splits : str
        Tendency of the species: low, medium or high.

    Raises
    ------
    NotSolvable
        On an unknown tendency.
    """
    table = {r["key"]: r for r in rows("splitting")}
    if splits not in table:
        raise none_of(what="splits", given=splits, known=table)
    value, low, high = (float(table[splits][n]) for n in ("value", "low", "high"))
    return Estimate(value, low, high, Kind.ASSUMED)


def splitting_moment(tough: Column, stiff: Column, wide: Column, along: float, front: Column) -> Column:
    """Moment at which a split runs up a stem of which only the front part stands on the stump [N·m]; back cut (3).

    Parameters
    ----------
    tough : Column
        Energy that splits it along the grain. [J/m2]
    stiff : Column
        Its modulus of elasticity. [Pa]
    wide : Column
        Length of the hinge. [m]
    along : float
        Diameter along the lay. [m]
    front : Column
        Wood in front of the split: notch and what is not sawn yet. [m]

    References
    ----------
    Energy released by a beam of which one part goes on alone, G = M²/2Eb·(1/I₁ − 1/I₀), as for end-notched beams in
    Gustafsson 1988 (CIB-W18/21-10-1), the basis of EN 1995-1-1, 6.5.
    """
    share = front / along
    return wide * along**2 * np.sqrt(tough * stiff / (6.0 * along * (1.0 / share**3 - 1.0)))  # (3)


def split_use(
    moment: Column, bends: Column, split: tuple[Column, Column, Column], cuts: tuple[float, float, float], bored: bool
) -> Column:
    """Share of the splitting moment that the stem carries as it begins to move [-]; docs/methods.md, back cut (3), (4).

    Parameters
    ----------
    moment : Column
        Forward at the hinge: weight, gust, and what pulls and wedges really give. [N·m]
    bends : Column
        What bends the hinge as planned. [N·m]
    split : tuple of Column
        Toughness [J/m2], modulus of elasticity [Pa], length of the hinge [m].
    cuts : tuple of float
        Diameter along the lay, notch depth, hinge thickness. [m]
    bored : bool
        Whether the hinge is set first and the tree held by a strap.

    References
    ----------
    Sawn from behind, the stem moves when what is left bends, ``c·MOR·ℓ·t²/6``; no hinge passes on more than bends it.
    """
    along, depth, hinge = cuts
    forward = np.maximum(moment, 0.0)
    thick: Column = hinge
    if not bored:  # where sawing comes to as it moves
        thick = np.clip(hinge * np.sqrt(forward / bends), hinge, _MOST * (along - depth))
    carried = np.minimum(forward, bends * (thick / hinge) ** 2)
    used: Column = carried / splitting_moment(*split, along, depth + thick)
    return used


def narrow(opening: float) -> float:
    """How much a narrow notch adds, that closes before the hinge has parted [-]; docs/methods.md, back cut (4).

    Parameters
    ----------
    opening : float
        Of the notch. [rad]
    """
    return max(1.0, float(np.sqrt(constant("split_opening").value / opening)))
