"""A tree drawn whole: its wood by how it is known, its twigs, its foliage, far things first."""

from __future__ import annotations

import math
from dataclasses import dataclass
from random import Random
from typing import TYPE_CHECKING

from cantrel.art.axes import Axis, grown, outline, width_at
from cantrel.art.foliage import bough, mass
from cantrel.art.paths import curve, line

if TYPE_CHECKING:
    from collections.abc import Sequence

    from cantrel.art.habits import Habit

Spot = tuple[float, float]
FAINT = 0.5  # thinner wood than this is drawn this thick [points]
BLUE = 2.0  # wood thinner than this carries no line of what was measured [points]
SMALL = 26.0  # a limb shorter than this has no shoots of its own [points]
REACH = 44.0  # a shoot of a long limb or lead is about so long [points]
LEAST = 3  # with fewer shoots than this a limb carries one mass of leaves [-]
SHOOTS = 140  # shoots a whole tree is drawn with; many limbs share them, so that no drawing grows heavy
MANY = 110  # limbs from which on foliage is drawn in one tone
FULL = 46  # more limbs than this carry no line of what was measured


@dataclass(frozen=True, kw_only=True)
class Wood:
    """A length of wood in points of the picture: foot and tip of the whole member, thickness at equal shares of it,
    which part of it there is (``low`` to ``high``), and how it is known.

    ``style`` is stem, measured, assumed, dead or off (what comes off); ``cut`` says that its upper end is sawn.
    """

    name: str
    foot: Spot
    tip: Spot
    widths: tuple[float, ...]
    style: str
    leafy: bool = False
    low: float = 0.0
    high: float = 1.0
    deep: float = 0.0
    straight: bool = False


@dataclass(frozen=True, kw_only=True)
class Layer:
    """Paths of one kind: the name of its style, and what is drawn."""

    style: str
    path: str


@dataclass(frozen=True, kw_only=True)
class Art:
    """A drawn tree: foliage behind the wood, the wood, and what lies before it."""

    behind: tuple[Layer, ...]
    wood: tuple[Layer, ...]
    marks: tuple[Layer, ...]

    @property
    def size(self) -> int:
        """Signs its paths take."""
        return sum(len(layer.path) for layers in (self.behind, self.wood, self.marks) for layer in layers)


ORDER = ("assumed", "dead", "measured", "stem", "off")


def drawn(members: Sequence[Wood], habit: Habit, seed: str) -> Art:
    """Draw a tree; the same seed and members draw the same tree."""
    leaves: list[tuple[float, str, str, str]] = []
    wood: dict[str, list[str]] = {style: [] for style in ORDER}
    twigs: dict[str, list[str]] = {style: [] for style in ORDER}
    axes, ends, bark = [], [], []
    coarse = len(members) > FULL
    each = SHOOTS // max(sum(not m.straight for m in members), 1)
    for member in members:
        draw = Random(f"{seed} {member.name}")
        axis = _axis(member, habit, draw)
        wood[member.style].append(line(outline(axis, _seen(member), member.low, member.high), closed=True))
        if member.style == "measured" and not coarse:
            axes.append(_measured(axis, member))
        if member.high < 0.999 and member.style != "off":
            ends.append(_sawn(axis, member, member.high))
        if member.style == "off" and member.low > 0.0:
            ends.append(_sawn(axis, member, member.low))
        if member.style == "stem":
            bark += _bark(axis, member, draw)
        if not member.straight:
            found = _shoots(member, axis, habit, draw, each)
            twigs[member.style] += found[0]
            leaves += found[1]
    leaves.sort(key=lambda row: -row[0])
    behind = [
        Layer(style=f"{light} {style}", path=path)
        for _, style, shade, lit in leaves
        for light, path in (("shade", shade), ("light", lit if len(members) < MANY else ""))
        if path
    ]
    return Art(
        behind=tuple(_merged(behind)),
        wood=tuple(
            Layer(style=f"{kind} {style}", path="".join(paths))
            for style in ORDER
            for kind, paths in (("twigs", twigs[style]), ("wood", wood[style]))
            if paths
        ),
        marks=tuple(
            Layer(style=style, path="".join(paths))
            for style, paths in (("bark", bark), ("measured-axis", axes), ("sawn", ends))
            if paths
        ),
    )


def _merged(layers: Sequence[Layer]) -> list[Layer]:
    """Neighbours of one style as one path; masses keep their order, far ones first."""
    found: list[Layer] = []
    for layer in layers:
        if found and found[-1].style == layer.style:
            found[-1] = Layer(style=layer.style, path=found[-1].path + layer.path)
        else:
            found.append(layer)
    return found


def _axis(member: Wood, habit: Habit, draw: Random) -> Axis:
    if member.straight:
        middle = (member.foot[0] + member.tip[0]) / 2.0, (member.foot[1] + member.tip[1]) / 2.0
        return Axis(member.foot, middle, member.tip)
    return grown(member.foot, member.tip, habit, draw.uniform(-1.0, 1.0), member.style != "assumed")


def _seen(member: Wood) -> tuple[float, ...]:
    """Thickness as it is drawn: never thinner than a line, a little thicker at the union or the ground."""
    widths = [max(w, FAINT) for w in member.widths]
    return (widths[0] * (1.18 if member.straight else 1.25), *widths[1:])


def _measured(axis: Axis, member: Wood) -> str:
    """The line down measured wood, as far as it is thick enough to carry one."""
    shares = [member.low + (member.high - member.low) * i / 10.0 for i in range(11)]
    thick = [s for s in shares if width_at(member.widths, s) >= BLUE]
    return line([axis.at(s) for s in thick]) if len(thick) > 1 else ""


def _sawn(axis: Axis, member: Wood, share: float) -> str:
    """End grain: a narrow oval across the axis."""
    half = max(width_at(member.widths, share), 2.0) / 2.0
    (x, y), turn = axis.at(share), axis.turn(share)
    across, along = (-math.sin(turn), math.cos(turn)), (math.cos(turn), math.sin(turn))
    rim = []
    for i in range(8):
        a, b = half * math.cos(math.tau * i / 8.0), 0.34 * half * math.sin(math.tau * i / 8.0)
        rim.append((x + across[0] * a + along[0] * b, y + across[1] * a + along[1] * b))
    return line(rim, closed=True)


def _bark(axis: Axis, member: Wood, draw: Random) -> list[str]:
    """Short strokes down the shaded side of the stem."""
    out = []
    for i in range(14):
        share = member.low + (member.high - member.low) * (i + 0.3 + 0.5 * draw.random()) / 14.0
        (x, y), half = axis.at(share), width_at(member.widths, share) / 2.0
        if half < 3.0:
            continue
        off = half * draw.uniform(0.25, 0.8)
        out.append(line([(x + off, y), (x + off - 0.5, y - draw.uniform(4.0, 9.0))]))
    return out


def _shoots(
    member: Wood, axis: Axis, habit: Habit, draw: Random, each: int
) -> tuple[list[str], list[tuple[float, str, str, str]]]:
    """Side shoots of a limb, and the foliage at their ends; only on the part that is there."""
    style = "off" if member.style == "off" else "assumed" if member.style == "assumed" else "kept"
    if member.style == "dead":
        style = "dead"
    run = axis.run
    if habit.leaf == "spray":
        return _sprayed(member, axis, draw, style)
    if run < SMALL or each < LEAST:
        if not member.leafy or member.high < 0.7:
            return [], []
        return [], [(member.deep, style, *mass(axis.at(0.85), min(max(0.3 * run, 7.0), 40.0), draw, habit.leaf))]
    twigs, leaves = [], []
    wanted = habit.shoots + int(run / 150.0)
    count = min(wanted, each)
    wider = math.sqrt(wanted / count)  # fewer masses are larger
    for i in range(count):
        share = 0.34 + 0.62 * (i + 0.35 * draw.random()) / (count - 1)
        if not member.low <= share <= min(member.high, 0.97):
            continue
        side = 1.0 if i % 2 else -1.0
        turn = axis.turn(share) + side * habit.split * draw.uniform(0.75, 1.2)
        long = min(run * habit.share, REACH + 0.06 * run) * (1.15 - 0.6 * share) * draw.uniform(0.8, 1.15)
        foot = axis.at(share)
        tip = foot[0] + long * math.cos(turn), foot[1] + long * math.sin(turn) - habit.lift * long * 0.5
        twigs += _shoot(foot, tip, turn, draw)
        if member.leafy:
            radius = min(max(0.62 * long * wider, 8.0), 38.0)
            leaves.append((member.deep, style, *mass(tip, radius, draw, habit.leaf)))
    if member.leafy and member.high > 0.9:
        leaves.append((member.deep, style, *mass(axis.at(0.97), min(max(0.16 * run, 7.0), 30.0), draw, habit.leaf)))
    return twigs, leaves


def _shoot(foot: Spot, tip: Spot, turn: float, draw: Random) -> list[str]:
    """One shoot with two or three of its own."""
    out = [curve([foot, _between(foot, tip, 0.55, draw), tip])]
    for i in range(draw.randint(2, 3)):
        share = 0.4 + 0.25 * i
        base = foot[0] + (tip[0] - foot[0]) * share, foot[1] + (tip[1] - foot[1]) * share
        long, way = 0.36 * math.dist(foot, tip), turn + (0.7 if i % 2 else -0.7)
        out.append(line([base, (base[0] + long * math.cos(way), base[1] + long * math.sin(way))]))
    return out


def _between(a: Spot, b: Spot, share: float, draw: Random) -> Spot:
    off = 0.08 * math.dist(a, b) * draw.uniform(-1.0, 1.0)
    return a[0] + (b[0] - a[0]) * share + off, a[1] + (b[1] - a[1]) * share - off


def _sprayed(member: Wood, axis: Axis, draw: Random, style: str) -> tuple[list[str], list[tuple[float, str, str, str]]]:
    """A conifer's limb is a bough along its outer part."""
    low = max(member.low, 0.12)
    if not member.leafy or member.high <= low + 0.1:
        return [], []
    return [], [(member.deep, style, *bough(axis.at(low), axis.at(member.high), draw))]
