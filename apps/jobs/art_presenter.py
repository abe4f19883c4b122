"""Trees as they are drawn on every page: wood in metres put on the picture and drawn by the habit of its species."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from cantrel.art.habits import habit_of
from cantrel.art.tree import Art, Wood, drawn

if TYPE_CHECKING:
    from collections.abc import Iterable

    from cantrel.drawing import Frame
    from treecore.tree.body import TreeInput

Flat = tuple[float, float]


class Length(NamedTuple):
    """A length of wood from a side: foot and tip of its member, thickness at equal shares [m], the part of it there
    is, how it is known, whether it has leaves, and how far behind the stem it ends [m].
    """

    name: str
    foot: Flat
    tip: Flat
    widths: tuple[float, ...]
    style: str
    leafy: bool
    part: Flat = (0.0, 1.0)
    deep: float = 0.0
    straight: bool = False


def art(tree: TreeInput, lengths: Iterable[Length], frame: Frame) -> Art:
    """A tree's wood and foliage on a picture; the same tree is drawn the same on every page."""
    members = [
        Wood(
            name=row.name,
            foot=(frame.x(row.foot[0]), frame.y(row.foot[1])),
            tip=(frame.x(row.tip[0]), frame.y(row.tip[1])),
            widths=tuple(w * frame.scale for w in row.widths),
            style=row.style,
            leafy=row.leafy,
            low=row.part[0],
            high=row.part[1],
            deep=row.deep,
            straight=row.straight,
        )
        for row in lengths
    ]
    return drawn(members, habit_of(tree.kind.scientific, tree.kind.form), f"{tree.species} {tree.diameter.value:.3f}")
