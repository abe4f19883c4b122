"""Ready-made pulling systems, laid out between the tree, an anchor and the people; each can be changed afterwards."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from treecore.errors import NotSolvable, none_of
from treecore.rigging.pulling import TREE, Part, PullSystem, Rope

Spot = tuple[float, float]
NAMES = {
    "straight": "Straight pull",
    "redirect": "Redirect at an anchor",
    "hitch": "Rope-made hitch purchase",
    "three": "3 to 1",
    "five": "5 to 1",
    "piggy": "Piggy-back 2 on 3",
    "moving": "Moving block on the stem",
}


def _between(a: Spot, b: Spot, share: float) -> Spot:
    return a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share


def _beside(a: Spot, b: Spot, metres: float) -> Spot:
    """Place beside b, square to the way from a."""
    d = math.dist(a, b) or 1.0
    return b[0] + (b[1] - a[1]) / d * metres, b[1] - (b[0] - a[0]) / d * metres


def _part(name: str, kind: str, at: Spot, on: str = "", height: float = 0.6) -> Part:
    return Part(name=name, kind=kind, x=round(at[0], 2), y=round(at[1], 2), on=on, height=height)


def _straight(tree: Spot, anchor: Spot) -> tuple[tuple[Part, ...], tuple[Rope, ...]]:
    return (_part("Hands", "people", anchor, height=1.0),), (Rope(name="Pull line", path=(TREE, "Hands")),)


def _redirect(tree: Spot, anchor: Spot) -> tuple[tuple[Part, ...], tuple[Rope, ...]]:
    hands = _beside(tree, _between(tree, anchor, 0.95), 9.0)
    parts = (_part("Anchor block", "block", anchor), _part("Hands", "people", hands, height=1.0))
    return parts, (Rope(name="Pull line", path=(TREE, "Anchor block", "Hands")),)


def _purchase(turns: tuple[str, str], tree: Spot, anchor: Spot) -> tuple[tuple[Part, ...], tuple[Rope, ...]]:
    hands = _between(tree, anchor, 1.12)
    parts = (
        _part("Anchor turn", turns[0], anchor),
        _part("Grip", turns[1], _between(tree, anchor, 0.86), on="Pull line"),
        _part("Hands", "people", hands, height=1.0),
    )
    return parts, (Rope(name="Pull line", path=(TREE, "Anchor turn", "Grip", "Hands")),)


def _hitch(tree: Spot, anchor: Spot) -> tuple[tuple[Part, ...], tuple[Rope, ...]]:
    return _purchase(("trunk", "loop"), tree, anchor)


def _three(tree: Spot, anchor: Spot) -> tuple[tuple[Part, ...], tuple[Rope, ...]]:
    return _purchase(("block", "block"), tree, anchor)


def _five(tree: Spot, anchor: Spot) -> tuple[tuple[Part, ...], tuple[Rope, ...]]:
    grip = _between(tree, anchor, 0.86)
    parts = (
        _part("Anchor block", "block", anchor),
        _part("First grip", "block", grip, on="Pull line"),
        _part("Second block", "block", _beside(tree, anchor, 0.4)),
        _part("Second grip", "block", _between(tree, anchor, 0.85), on="Pull line"),
        _part("Hands", "people", _between(tree, anchor, 1.12), height=1.0),
    )
    path = (TREE, "Anchor block", "First grip", "Second block", "Second grip", "Hands")
    return parts, (Rope(name="Pull line", path=path),)


def _piggy(tree: Spot, anchor: Spot) -> tuple[tuple[Part, ...], tuple[Rope, ...]]:
    parts = (
        _part("Anchor block", "block", anchor),
        _part("Grip", "block", _between(tree, anchor, 0.82), on="Pull line"),
        _part("Runner", "block", _between(tree, anchor, 0.93)),
        _part("Back anchor", "tie", _between(tree, anchor, 1.08)),
        _part("Hands", "people", _between(tree, anchor, 1.2), height=1.0),
    )
    return parts, (
        Rope(name="Pull line", path=(TREE, "Anchor block", "Grip", "Runner")),
        Rope(name="Second rope", path=("Back anchor", "Runner", "Hands")),
    )


def _moving(tree: Spot, anchor: Spot) -> tuple[tuple[Part, ...], tuple[Rope, ...]]:
    parts = (
        _part("Fixed end", "tie", anchor),
        _part("Stem block", "block", tree, on=TREE),
        _part("Hands", "people", _beside(tree, anchor, 6.0), height=1.0),
    )
    return parts, (Rope(name="Pull line", path=("Fixed end", "Stem block", "Hands")),)


_MADE: dict[str, Callable[[Spot, Spot], tuple[tuple[Part, ...], tuple[Rope, ...]]]] = {
    "straight": _straight, "redirect": _redirect, "hitch": _hitch, "three": _three, "five": _five, "piggy": _piggy,
    "moving": _moving,
}  # fmt: skip


def pulled_by(system: PullSystem, name: str, kind: str, at: Spot | None = None) -> PullSystem:
    """Put who or what pulls at the hauling ends of a system.

    Parameters
    ----------
    system : PullSystem
        A system hauled by hands.
    name, kind : str
        What pulls: its name, and its kind of part.
    at : tuple of float, optional
        Where it stands; where the hands stood without. [m]
    """
    hands = {p.name for p in system.parts if p.role == "hand"}
    named = {old: name if i == 0 else f"{name} {i + 1}" for i, old in enumerate(sorted(hands))}
    parts = tuple(_hauling(p, named[p.name], kind, at) if p.name in named else p for p in system.parts)
    ropes = tuple(replace(r, path=tuple(named.get(n, n) for n in r.path)) for r in system.ropes)
    return replace(system, parts=parts, ropes=ropes)


def _hauling(part: Part, name: str, kind: str, at: Spot | None) -> Part:
    x, y = at or (part.x, part.y)
    return replace(part, name=name, kind=kind, x=round(x, 2), y=round(y, 2), force=_BEGUN if kind == "winch" else 0.0)


_BEGUN = 1000.0  # a winch pulls something until what is needed is known [N]


def ready_made(kind: str, tree: Spot, anchor: Spot, tie: float) -> PullSystem:
    """Lay out a ready-made system between a tree and an anchor.

    Parameters
    ----------
    kind : str
        Key of ``NAMES``.
    tree, anchor : tuple of float
        East and north of the stem and of the anchor. [m]
    tie : float
        Height of the tie. [m]

    Raises
    ------
    NotSolvable
        On an unknown kind, or an anchor at the stem.
    """
    if kind not in _MADE:
        raise none_of(what="system", given=kind, known=_MADE)
    if math.dist(tree, anchor) < 3.0:
        raise NotSolvable(what="anchor", why="the anchor stands at the stem; put it at least 3 m off")
    parts, ropes = _MADE[kind](tree, anchor)
    return PullSystem(tie=tie, parts=parts, ropes=ropes)
