"""What a felling is computed from, and the quantities computed for one set of inputs."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

from treecore.conductor import Conductor
from treecore.errors import between
from treecore.felling.balance import Pull
from treecore.felling.notch import Cuts
from treecore.schools import school
from treecore.site import Site
from treecore.tree.body import TreeInput

WIND_RANGE = (0.0, 30.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Wedges:
    """Wedges side by side, how many lie one on another, and the lift of one driven home [m]."""

    count: int = 0
    stacked: int = 1
    rise: float = 0.025

    def __post_init__(self) -> None:
        """Refuse a pile nobody can drive."""
        between("wedge_count", self.count, 0, 8, "up to eight wedges side by side")
        between("wedge_stacked", self.stacked, 1, 3, "wedges are stacked three high at most")
        between("wedge_rise", self.rise, 0.005, 0.1, "a wedge lifts 0.5 to 10 cm", "cut")

    @property
    def reach(self) -> float:
        """Lift of the stack driven home [m]."""
        return self.rise * self.stacked


@dataclass(frozen=True, slots=True, kw_only=True)
class FellingInput:
    """Everything a felling is computed from; angles [rad], wind [m/s] at crown height, ``wind_from`` a bearing."""

    tree: TreeInput
    site: Site
    lay: float
    cuts: Cuts
    wedges: Wedges = Wedges()
    pull: Pull | None = None
    wind: float = 0.0
    wind_from: float = 0.0
    zone: str = "1.5"
    conductors: tuple[Conductor, ...] = ()

    def __post_init__(self) -> None:
        """Refuse what the model does not cover."""
        between("wind", self.wind, *WIND_RANGE, "nobody fells in more than 30 m/s of wind", "speed")
        between("lay", self.lay, 0.0, math.tau, "a bearing clockwise from north", "angle")
        school("zone", self.zone)
        top = 0.5 * self.tree.height.low
        between("stump", self.cuts.stump, 0.0, top, "the cut lies below half the tree", "cut")
        if self.pull is not None:
            between(
                "pull_tie",
                self.pull.tie,
                self.cuts.stump + 0.1,
                self.tree.height.low,
                "between the cut and the lowest credible tip",
                "length",
            )


class Point(NamedTuple):
    """Every computed quantity for one set of inputs, SI; the order of ``spread``'s results."""

    mass: float
    cg_height: float
    cg_along: float
    cg_across: float
    back_offset: float
    weight_moment: float
    wind_along: float
    pull_along: float
    side_moment: float
    hinge_moment: float
    needed: float
    wedge_moment: float
    available: float
    margin: float
    tip_margin: float
    thin: float
    thick: float
    lift: float
    wedge_force: float
    wedge_each: float
    commit: float
    closing: float
    commit_margin: float
    length: float
    top_aside: float


def default_diameter(tree: TreeInput, stump: float, azimuth: float | None = None) -> float:
    """Stem diameter at a cut by the taper curve, where it was not measured [m].

    Parameters
    ----------
    tree : TreeInput
        The tree.
    stump : float
        Height of the cut above the ground. [m]
    azimuth : float, optional
        Bearing along which an oval stem is measured; None for its mean. [rad]

    Raises
    ------
    OutOfRange
        If the cut is not on the stem.

    References
    ----------
    Ormerod (1973, 1986); an oval stem keeps its shape.
    """
    between("stump", stump, 0.0, 3.0, "a felling cut is made standing on the ground, at most 3 m up", "cut")
    mean = tree.stem.diameter_at(stump)
    return mean if azimuth is None else mean * tree.width_along(azimuth) / tree.diameter.value
