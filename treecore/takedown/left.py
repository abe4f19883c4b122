"""What picks leave standing, as a tree that can be felled: shorter, lighter, with what is left of its crown."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from treecore.errors import NotSolvable
from treecore.estimate import Kind
from treecore.schools import constant
from treecore.takedown.members import Members, members_of
from treecore.takedown.pieces import Cut, Standing, take, whole
from treecore.tree.assumed import assumed_limbs
from treecore.tree.body import TreeInput
from treecore.tree.limb import Limb
from treecore.tree.weigh import weigh

_STUB = 0.1  # what is left of a limb shorter than this is nothing [m]
_WHOLE = 0.02  # a limb shortened by less than this is whole [m]


def left_after(tree: TreeInput, cuts: Sequence[Cut]) -> TreeInput:
    """Return the tree as it stands after pieces were taken off; docs/methods.md, takedown (10).

    Parameters
    ----------
    tree : TreeInput
        The tree.
    cuts : sequence of Cut
        Where each piece was cut, in order.

    Raises
    ------
    NotSolvable
        If a cut is impossible, or too little is left to be felled.

    References
    ----------
    The body without the members that are gone; a limb that was shortened keeps the wood of its inner part.
    """
    if not cuts:
        return tree
    members = members_of(tree)
    standing = whole(members)
    for cut in cuts:
        standing = take(members, standing, cut).after
    return _left(tree, members, standing)


def _left(tree: TreeInput, members: Members, standing: Standing) -> TreeInput:
    ends = dict(zip(members.names, standing.ends, strict=True))
    if ends[""] < constant("spar_least").value * tree.diameter.value:
        raise NotSolvable(
            what="after_picks", why="{x:.1f} m of stem is left: that is cut off, not felled", x=max(ends[""], 0.0)
        )
    parents = {limb.parent for limb in tree.limbs if ends[limb.name] > 0.0}
    stands = [b for b in tree.limbs if ends[b.name] > _STUB or (ends[b.name] > 0.0 and b.name in parents)]
    limbs = [_shortened(limb, max(ends[limb.name], _STUB)) for limb in stands]
    gone = {
        a.number
        for a in assumed_limbs(tree, weigh(tree).whole_crown)
        if ends.get(a.limb.name, -1.0) < a.limb.length - _WHOLE
    }
    fork, topped = tree.fork, tree.topped
    if fork is not None and not any(limb.codominant for limb in limbs):
        topped = min(fork, ends[""])
        fork = None
    elif ends[""] < tree.stem.top - _WHOLE:
        topped = ends[""]
    return replace(
        tree,
        limbs=tuple(limbs),
        replaced=tree.replaced | gone,
        fork=fork,
        topped=topped,
        left=True,
        cavities=tuple(c for c in tree.cavities if c.high <= (topped or tree.stem.top)),
    )


def _shortened(limb: Limb, end: float) -> Limb:
    """A limb cut at a place along it: as thick as gives its inner part's wood under the taper of a whole one."""
    if end >= limb.length - _WHOLE:
        return limb
    power = 2.0 * constant("limb_taper").value + 1.0
    inner = limb.length * (1.0 - (1.0 - end / limb.length) ** power) / end
    leafy = limb.foliage if end > 0.5 * limb.length else "none"  # its leaves hang further out
    return replace(limb, length=end, diameter=limb.diameter * math.sqrt(inner), foliage=leafy, kind=Kind.ASSUMED)
