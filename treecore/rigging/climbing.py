"""The climber: what the tie-in carries, whether the line reaches the ground, the swing if a foot slips, lines near a cut."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

from treecore.errors import between
from treecore.felling.balance import GRAVITY
from treecore.schools import constant

Place = tuple[float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class Climber:
    """Where the climber is: tie-in on a member and along it, stance on a member and along it [m], line length [m].

    ``based`` means the line goes over the tie-in to an anchor at the ground: the tie-in then carries about twice. ``second``
    is another tie-in, by member and place, or a place in another tree.
    """

    tie_member: str
    tie_at: float
    stance_member: str
    stance_at: float
    line: float = 45.0
    based: bool = False
    lanyard: bool = True
    second_member: str | None = None
    second_at: float = 0.0

    def __post_init__(self) -> None:
        """Refuse what no climber has."""
        between("climber_line", self.line, 5.0, 200.0, "climbing lines are 5 to 200 m long", "length")
        for name, value in (("tie_at", self.tie_at), ("stance_at", self.stance_at), ("second_at", self.second_at)):
            between(name, value, 0.0, 130.0, "a place on the tree", "length")


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
    need = 2.0 * tie[2] if not based else rope + 2.0 * tie[2]  # (4)
    return Hanging(angle, load, 2.0 * level if down > 0.0 else math.inf, speed, need)


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


def two_anchors(first: Place, second: Place, stance: Place) -> tuple[float, float]:
    """Load on each of two tie-ins that hold a climber between them [N]; docs/methods.md, climbing (6).

    Parameters
    ----------
    first, second, stance : tuple of float
        The tie-ins, and the climber below them. [m]

    References
    ----------
    Triangle of forces in the plane of the lines; a climber straight under one hangs on that alone.
    """
    weight = constant("climber_mass").value * GRAVITY
    ax, bx = (math.hypot(p[0] - stance[0], p[1] - stance[1]) for p in (first, second))
    az, bz = (max(p[2] - stance[2], 0.05) for p in (first, second))
    left, right = math.atan2(ax, az), math.atan2(bx, bz)
    both = math.sin(left + right)
    if both < 1e-6:
        return weight / 2.0, weight / 2.0
    return weight * math.sin(right) / both, weight * math.sin(left) / both  # (6)
