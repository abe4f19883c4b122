"""Axes and outlines of wood: curves that begin and end exactly where they were measured, as thick as they are there."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

    from cantrel.art.habits import Habit

Spot = tuple[float, float]
_MOST = 5.0  # an axis with places on it never strays further from its chord than this [points]


@dataclass(frozen=True)
class Axis:
    """A curve from ``foot`` over ``bend`` to ``tip`` [points], with a crook that is nil at both ends."""

    foot: Spot
    bend: Spot
    tip: Spot
    crook: float = 0.0

    @property
    def run(self) -> float:
        """Length of its chord."""
        return math.dist(self.foot, self.tip)

    def at(self, share: float) -> Spot:
        """The place a share of the way along it."""
        a, b, c = (1.0 - share) ** 2, 2.0 * share * (1.0 - share), share**2
        x, y = (a * p + b * q + c * r for p, q, r in zip(self.foot, self.bend, self.tip, strict=True))
        nx, ny = self.across()
        off = self.crook * math.sin(math.tau * share) * math.sin(math.pi * share)
        return x + nx * off, y + ny * off

    def across(self) -> Spot:
        """Unit vector square to its chord."""
        run = self.run or 1.0
        return (self.foot[1] - self.tip[1]) / run, (self.tip[0] - self.foot[0]) / run

    def turn(self, share: float) -> float:
        """The way it runs at a share of its length [rad]."""
        low, high = self.at(max(share - 0.02, 0.0)), self.at(min(share + 0.02, 1.0))
        return math.atan2(high[1] - low[1], high[0] - low[0])


def grown(foot: Spot, tip: Spot, habit: Habit, lean: float, measured: bool = True) -> Axis:
    """The axis of a limb between two measured places; ``lean`` of -1 to 1 varies it. Up is a smaller y."""
    run = math.dist(foot, tip)
    level = abs(tip[0] - foot[0]) / run if run > 0.0 else 0.0
    most = _MOST if measured else 3.0 * _MOST
    bow = min(abs(habit.bow) * (1.0 + 0.4 * lean) * run * level, most) * math.copysign(2.0, habit.bow)
    crook = min(habit.crook * run, most / 2.0) * lean
    middle = (foot[0] + tip[0]) / 2.0, (foot[1] + tip[1]) / 2.0 - bow
    return Axis(foot, middle, tip, crook)


def outline(axis: Axis, widths: Sequence[float], low: float = 0.0, high: float = 1.0, steps: int = 7) -> list[Spot]:
    """Both edges of a length of an axis, out along one and back along the other; ``widths`` are at equal shares."""
    left, right = [], []
    for i in range(steps + 1):
        share = low + (high - low) * i / steps
        (x, y), turn, half = axis.at(share), axis.turn(share), width_at(widths, share) / 2.0
        left.append((x + half * math.sin(turn), y - half * math.cos(turn)))
        right.append((x - half * math.sin(turn), y + half * math.cos(turn)))
    return left + right[::-1]


def width_at(widths: Sequence[float], share: float) -> float:
    """Thickness at a share of the way, straight between the ones given."""
    place = min(max(share, 0.0), 1.0) * (len(widths) - 1)
    i = min(int(place), len(widths) - 2)
    return widths[i] + (widths[i + 1] - widths[i]) * (place - i)
