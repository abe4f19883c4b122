"""The notch: hinge length, opening and the angle at which it closes."""

from __future__ import annotations

import math
from dataclasses import dataclass

from treecore.document.felling import FellingEntry
from treecore.document.fields import hold
from treecore.errors import Column, NotSolvable, between, inside, positive
from treecore.schools import school

# Share of the opening that lies below the level through the apex, by kind of notch.
BELOW = {"conventional": 0.0, "reversed": 1.0, "open": 0.25}
SIDES = ("", "left", "right")


@dataclass(frozen=True, slots=True, kw_only=True)
class Cuts:
    """The cuts at the stump. Lengths [m], angles [rad]; the apex stands ``stump`` above the ground.

    ``along`` is the stem's extent along the lay at the cut, ``across`` its width across the lay through its middle, and
    ``skew`` how far the middle of a width moves to the right for every metre forward, on a stem out of round [-].
    ``hinge`` is the mean thickness, ``taper`` its left end less its right end. ``bypass`` is how far one notch cut ran
    past the other at ``bypass_side``'s end. ``slope`` is how steeply the back cut falls towards the hinge.
    """

    along: float
    across: float
    stump: float
    depth: float
    opening: float
    hinge: float
    rise: float
    taper: float = 0.0
    bypass: float = 0.0
    bypass_side: str = ""
    slope: float = 0.0
    skew: float = 0.0
    notch_school: str = "conventional"
    depth_school: str = "chord80"
    thickness_school: str = "tenth"

    def __post_init__(self) -> None:
        """Refuse cuts no stem can take."""
        hold(self, FellingEntry)
        between("skew", self.skew, -3.0, 3.0, "an oval stem turned to the lay")
        if not 1.0 / 3.0 <= self.along / self.across <= 3.0:
            raise NotSolvable(what="across", why="one diameter is over three times the other; measure the stump again")
        inside(
            "depth", self.depth, 0.0, 0.75 * self.along, "a notch goes into the stem, to three quarters at most", "cut"
        )
        inside("hinge", self.hinge, 0.0, self.along - self.depth, "a hinge is cut from what the notch leaves", "cut")
        self._check_ends()
        (
            school("notch", self.notch_school),
            school("depth", self.depth_school),
            school("thickness", self.thickness_school),
        )

    def _check_ends(self) -> None:
        """Refuse a hinge with an end cut through."""
        if self.bypass_side not in SIDES:
            raise NotSolvable(
                what="bypass_side", why="a cut runs past the apex on the left, on the right, or not at all"
            )
        if self.bypass > 0.0 and not self.bypass_side:
            raise NotSolvable(what="bypass_side", why="say on which side the cut ran past the apex")
        most = 2.0 * self.hinge
        inside("taper", self.taper, -most, most, "or one end of the hinge is cut through", "cut")
        if self.hinge + abs(self.taper) / 2.0 >= self.along - self.depth:
            raise NotSolvable(what="taper", why="the thicker end of the hinge reaches the back of the stem")
        end = self.hinge + (self.taper if self.bypass_side == "left" else -self.taper) / 2.0
        if self.bypass_side and self.bypass >= end:
            raise NotSolvable(
                what="bypass",
                why="it runs through the whole hinge on the {bypass_side}: nothing holds there",
                bypass_side=self.bypass_side,
            )

    @property
    def room(self) -> float:
        """Wood behind the hinge, where wedges go [m]."""
        return self.along - self.depth - self.hinge


def closing_angle(opening: float, forward_lean: Column) -> Column:
    """Stem angle past upright at which the notch closes [rad]; docs/methods.md, notch (2).

    Parameters
    ----------
    opening : float
        Opening of the notch. [rad]
    forward_lean : Column
        Lean towards the lay, negative for back lean. [rad]

    References
    ----------
    The stem starts at its lean and turns by the opening.
    """
    return opening + forward_lean  # (2)


def ground_angle(falling: float) -> float:
    """Stem angle past upright at which a straight stem meets the ground [rad]; docs/methods.md, notch (3).

    Parameters
    ----------
    falling : float
        Slope of the ground along the lay, positive downhill. [rad]

    References
    ----------
    A right angle to level ground, more downhill, less uphill.
    """
    return math.pi / 2.0 + falling  # (3)


def aim_off(aside: float, reach: float) -> float:
    """Angle to aim the hinge the other way so that a point lands on the lay [rad]; docs/methods.md, notch (4).

    Parameters
    ----------
    aside : float
        How far the point stands to the right of the lay through the hinge. [m]
    reach : float
        The point's distance from the hinge. [m]

    Raises
    ------
    NotSolvable
        If the point stands further aside than it is away.

    References
    ----------
    Turning about the hinge line keeps each point's sideways distance.
    """
    if abs(aside) >= positive("reach", reach):
        raise NotSolvable(what="aside", why="the point stands further aside than its distance from the hinge")
    return math.asin(aside / reach)  # (4)


def notch_outline(cuts: Cuts) -> tuple[tuple[float, float], ...]:
    """Side view of the notch: apex, lower and upper mouth corners [m].

    Parameters
    ----------
    cuts : Cuts
        Cuts; x runs along the lay from the stem's centre, z up from the ground.

    Returns
    -------
    tuple
        Three (x, z) points.
    """
    front, apex = cuts.along / 2.0, cuts.along / 2.0 - cuts.depth
    share = BELOW[cuts.notch_school]
    below, above = share * cuts.opening, (1.0 - share) * cuts.opening

    def mouth(angle: float, sign: float) -> tuple[float, float]:
        # Past 60° the cut leaves through the top of the drawing; its corner stays on a steep line.
        steep = min(angle, math.radians(72.0))
        return front, cuts.stump + sign * cuts.depth * math.tan(steep)

    return (apex, cuts.stump), mouth(below, -1.0), mouth(above, 1.0)
