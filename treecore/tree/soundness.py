"""Weak places of a tree held against their limits: thin walls, open cavities, unions that are not sound."""

from __future__ import annotations

from collections.abc import Iterator

from treecore.estimate import Kind, exactly
from treecore.schools import constant
from treecore.tree.body import TreeInput
from treecore.tree.limb import INCLUDED, STRAPPED, Limb
from treecore.tree.stem import Cavity
from treecore.verdict import About, Limit, Verdict


def weak_places(tree: TreeInput) -> tuple[Limit, ...]:
    """Hold every cavity and union against its limit.

    Parameters
    ----------
    tree : TreeInput
        The tree.

    References
    ----------
    Residual wall over radius: Mattheck & Breloer (1994); an open cavity counts as near a limit whatever its wall.
    """
    cavities = (_wall(tree, cavity) for cavity in tree.cavities)
    unions = (limit for limb in tree.limbs for limit in _union(limb))
    return (*cavities, *unions)


def _wall(tree: TreeInput, cavity: Cavity) -> Limit:
    share, least = cavity.wall_share(tree.stem), constant("wall_caution")
    verdict = (
        Verdict.OVER
        if share < least.value
        else Verdict.NEAR
        if cavity.open or share < 1.2 * least.value
        else Verdict.WITHIN
    )
    about = About(why="decay" if cavity.decayed else "hollow", other="open" if cavity.open else "", at=cavity.low)
    return Limit("wall", verdict, exactly(share, Kind.ESTIMATED), exactly(least.value, Kind.ASSUMED), about)


def _union(limb: Limb) -> Iterator[Limit]:
    if limb.union == "sound":
        return
    verdict = (
        Verdict.NEAR
        if limb.union in (INCLUDED, STRAPPED)
        else Verdict.OVER
        if limb.union == "cracked"
        else Verdict.NOT_KNOWN
    )
    yield Limit("union", verdict, None, None, About(name=limb.name, why=limb.union))
