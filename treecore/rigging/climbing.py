"""The climber: what the tie-in carries, whether the line reaches the ground, the swing if a foot slips, lines near a
cut.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.document.fields import hold
from treecore.document.takedown import ClimberEntry
from treecore.ranges import believed
from treecore.schools import constant
from treecore.units import GRAVITY

Array = NDArray[np.float64]
Place = tuple[float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Climber:
    """Where the climber is: tie-in on a member and along it, stance on a member and along it [m], line length [m].

    ``based`` means the line goes over the tie-in to an anchor at the ground: the tie-in then carries about twice.
    ``place`` is a tie-in in another tree, from the stem's foot [m], and goes before the one on a member. The second
    tie-in is on a member or at a place in another tree; ``tree`` and ``second_tree`` name those. ``side`` is the side
    of an upright stem or lead they stand on [rad]; where nobody said, behind a piece that stands upright, right of one
    that lies.
    """

    tie_member: str
    tie_at: float
    stance_member: str
    stance_at: float
    line: float = 45.0
    based: bool = False
    lanyard: bool = True
    place: Place | None = None
    tree: str = ""
    second_member: str | None = None
    second_at: float = 0.0
    second_place: Place | None = None
    second_tree: str = ""
    side: float | None = None

    def __post_init__(self) -> None:
        """Refuse what no climber has."""
        hold(self, ClimberEntry, said="climber_{}")
        believed("second_at", self.second_at, "on_tree")
        for name, spot in (("tie_in", self.place), ("second_tie_in", self.second_place)):
            if spot is not None:
                believed(name, spot[2], "high_place")


class Hanging(NamedTuple):
    """What a climber's line comes to: its angle from upright [rad], load on the tie-in [N], swing [m] and speed [m/s].

    ``need`` is the line that reaches the ground [m].
    """

    angle: float
    load: float
    swing: float
    speed: float
    need: float


def hanging(tie: Place, stance: Place, based: bool) -> Hanging:
    """Work out a climber's line; docs/methods.md, climbing (1) to (4).

    Parameters
    ----------
    tie, stance : tuple of float
        Tie-in and stance. [m]
    based : bool
        Whether the line comes down again to an anchor at the ground.

    References
    ----------
    Two parts over the tie-in to the climber, or one part each side with a base anchor; pendulum of a slipping foot.
    """
    level = math.hypot(stance[0] - tie[0], stance[1] - tie[1])
    down = tie[2] - stance[2]
    rope = math.hypot(level, down)
    angle = math.atan2(level, max(down, 1e-6))  # (1)
    load = constant("climber_mass").value * GRAVITY * (2.0 if based else 1.0)  # (2)
    drop = rope - down
    speed = math.sqrt(max(2.0 * GRAVITY * drop, 0.0))  # (3)
    need = 2.0 * tie[2]  # (4) both legs, or up from the base anchor and down again
    return Hanging(angle, load, 2.0 * level if down > 0.0 else math.inf, speed, need)


def pendulum_swing(tie: Place, stance: Place) -> tuple[Array, Array]:
    """Way of a climber whose foot slips, to as far the other side, and the speed there [m], [m/s]; climbing (7).

    Parameters
    ----------
    tie, stance : tuple of float
        Tie-in and stance. [m]

    Returns
    -------
    tuple of arrays, shapes (n, 3) and (n,)
        Places and speeds; only the stance where the climber is level with the tie-in or above.

    References
    ----------
    Pendulum on a circle about the tie-in, from rest.
    """
    off = np.array(stance) - np.array(tie)
    level = float(np.hypot(off[0], off[1]))
    if off[2] >= 0.0 or level < 0.05:
        return np.array([stance]), np.zeros(1)
    rope, side = float(np.linalg.norm(off)), np.array([off[0], off[1], 0.0]) / level
    angles = math.atan2(level, -float(off[2])) * np.cos(math.pi * np.linspace(0.0, 1.0, 17))
    path = np.array(tie) + rope * (np.outer(np.sin(angles), side) - np.outer(np.cos(angles), [0.0, 0.0, 1.0]))
    return path, np.sqrt(np.maximum(2.0 * GRAVITY * (stance[2] - path[:, 2]), 0.0))  # (7)


def line_gap(tie: Place, stance: Place, cut: Place) -> float:
    """Distance of a cut from a climber's own line [m]: point to segment; docs/methods.md, climbing (5).

    Parameters
    ----------
    tie, stance, cut : tuple of float
        Ends of the line, and the cut. [m]

    References
    ----------
    Distance of a point from a segment.
    """
    way = [b - a for a, b in zip(tie, stance, strict=True)]
    size = sum(v * v for v in way)
    off = [c - a for a, c in zip(tie, cut, strict=True)]
    share = min(max(sum(a * b for a, b in zip(off, way, strict=True)) / size, 0.0), 1.0) if size > 0.0 else 0.0
    return math.dist(cut, [a + share * v for a, v in zip(tie, way, strict=True)])  # (5)


def opposed(first: Place, second: Place, stance: Place) -> bool:
    """Whether two tie-ins pull a climber to different sides, so that they hold one between them.

    Parameters
    ----------
    first, second, stance : tuple of float
        The tie-ins, and the climber. [m]
    """
    a, b = ((p[0] - stance[0], p[1] - stance[1]) for p in (first, second))
    return a[0] * b[0] + a[1] * b[1] <= 0.0


def two_anchors(first: Place, second: Place, stance: Place) -> tuple[float, float]:
    """Load on each of two tie-ins that hold a climber between them [N]; docs/methods.md, climbing (6).

    Parameters
    ----------
    first, second, stance : tuple of float
        The tie-ins, and the climber below them. [m]

    References
    ----------
    Triangle of forces in the plane of the lines; a climber straight under one hangs on that alone. Tie-ins on one side
    hold nobody between them: either may come to carry everything.
    """
    weight = constant("climber_mass").value * GRAVITY
    if not opposed(first, second, stance):
        return weight, weight
    ax, bx = (math.hypot(p[0] - stance[0], p[1] - stance[1]) for p in (first, second))
    az, bz = (max(p[2] - stance[2], 0.05) for p in (first, second))
    left, right = math.atan2(ax, az), math.atan2(bx, bz)
    both = math.sin(left + right)
    if both < 1e-6:
        return weight / 2.0, weight / 2.0
    return weight * math.sin(right) / both, weight * math.sin(left) / both  # (6)
