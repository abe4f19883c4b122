"""The whole tree from five numbers: mass, balance and wind area. Issue-sized crown model: one mass on a leaning axis."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from treecore.errors import Column, NotSolvable, all_between, between
from treecore.estimate import Estimate, Kind, exactly, product, times
from treecore.measuring import DIAMETER_RANGE, HEIGHT_RANGE, TALL, THICK
from treecore.schools import constant, school
from treecore.species import Group, Species, State, find, groups, states
from treecore.tree.stem import section

SPREAD_RANGE = (0.3, 60.0)
LEAN_RANGE = (0.0, math.radians(60.0))
_SHAPE_FILL = {"cone": 0.5, "oval": math.pi / 4.0}  # share of depth times spread a crown outline covers


@dataclass(frozen=True, slots=True, kw_only=True)
class TreeInput:
    """What is known of a tree. Lengths [m], angles [rad]; ``lean_azimuth`` clockwise from north.

    ``crown_base`` None means the group's usual share of the height. ``crown_east`` and ``crown_north`` are the plumbed
    offset of the crown's centre from the stem's axis; None means not plumbed.
    """

    species: str
    diameter: Estimate
    height: Estimate
    spread: Estimate
    lean: float
    lean_azimuth: float
    lean_kind: Kind = Kind.ESTIMATED
    state: str = "in_leaf"
    crown_base: float | None = None
    crown_east: float | None = None
    crown_north: float | None = None
    breast: str = "metric"

    def __post_init__(self) -> None:
        """Refuse what no tree is."""
        between("diameter", self.diameter.value, *DIAMETER_RANGE, THICK, "girth")
        between("height", self.height.value, *HEIGHT_RANGE, TALL, "length")
        between("spread", self.spread.value, *SPREAD_RANGE, "crowns are believed from 0.3 to 60 m wide", "length")
        between("lean", self.lean, *LEAN_RANGE, "past 60° a stem is lying, not leaning", "fine_angle")
        between("lean_azimuth", self.lean_azimuth, 0.0, math.tau, "a bearing clockwise from north", "angle")
        slender = self.height.value / self.diameter.value
        between("height", self.height.value, 8.0 * self.diameter.value, 250.0 * self.diameter.value,
                "a tree stands 8 to 250 diameters tall", "length") if not 8.0 <= slender <= 250.0 else None  # fmt: skip
        between(
            "height",
            self.height.low,
            2.0 * self.breast_height,
            130.0,
            "even its low reading must clear twice breast height",
            "length",
        )
        if self.crown_base is not None:
            between("crown_base", self.crown_base, 0.0, 0.95 * self.height.value, "below the tip", "length")
        for name, offset in (("crown_east", self.crown_east), ("crown_north", self.crown_north)):
            if offset is not None:
                reach = self.spread.value / 2.0
                between(name, offset, -reach, reach, "a crown's centre lies within half its spread", "offset")
        if self.state not in states():
            raise NotSolvable("state", f"“{self.state}” is none of {', '.join(states())}")
        find(self.species)

    @property
    def breast_height(self) -> float:
        """Height at which the diameter is taken [m]."""
        return school("breast", self.breast).usual

    @property
    def kind(self) -> Species:
        """The species' row."""
        return find(self.species)

    @property
    def group(self) -> Group:
        """The body figures of the species' group."""
        return groups()[self.kind.group]

    @property
    def condition(self) -> State:
        """The state's row."""
        return states()[self.state]

    @property
    def crown_base_share(self) -> float:
        """Height of the crown's foot over the tree's height [-]."""
        return self.group.crown_base if self.crown_base is None else self.crown_base / self.height.value


def usual_spread(species: str, diameter: float) -> float:
    """Usual crown spread for a stem diameter, where it was not looked at [m].

    Parameters
    ----------
    species : str
        Key of the species.
    diameter : float
        At breast height. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        On an unknown species or a diameter no tree has.

    References
    ----------
    Ratio per group in data/groups.csv: assumed.
    """
    between("diameter", diameter, *DIAMETER_RANGE, THICK, "girth")
    return groups()[find(species).group].spread_per_diameter * diameter


def by_eye(value: float, quantity: str) -> Estimate:
    """Return a guessed height, diameter or spread with the allowance for guessing [m].

    Parameters
    ----------
    value : float
        The guess. [m]
    quantity : str
        height, diameter or spread.
    """
    return _allow(value, f"eye_{quantity}", Kind.ESTIMATED)


def said_measured(value: float, quantity: str) -> Estimate:
    """Return a height or diameter said to be measured, where the reading itself was not kept [m].

    Parameters
    ----------
    value : float
        The figure. [m]
    quantity : str
        height or diameter.
    """
    return _allow(value, f"tape_{quantity}", Kind.MEASURED)


def _allow(value: float, name: str, kind: Kind) -> Estimate:
    share = constant(name)
    if not math.isfinite(value) or value <= 0.0:
        between(name.split("_")[1], value, *HEIGHT_RANGE, "a size above nothing", "length")
    return Estimate(value, value * (1.0 + share.low), value * (1.0 + share.high), kind)


def crown_ratio(group: Group, diameter: Column, foliage: float) -> Column:
    """Mass of branches and foliage over that of stem and bark [-]; docs/methods.md, crown (1).

    Parameters
    ----------
    group : Group
        Coefficients.
    diameter : Column
        At breast height. [m]
    foliage : float
        Share of foliage carried. [-]

    References
    ----------
    J. C. Jenkins et al. (2003), Forest Science 49, 12-35, table 6: ratio = exp(b0 + b1/dbh), dbh in cm.
    """
    per_cm = 0.01 / diameter

    def part(b: tuple[float, float]) -> Column:
        return np.exp(b[0] + b[1] * per_cm)

    leaves, bark, wood = part(group.foliage_b), part(group.bark_b), part(group.wood_b)
    branches = np.maximum(1.0 - leaves - bark - wood, 0.0)
    return (branches + foliage * leaves) / (bark + wood)  # (1)


class Body(NamedTuple):
    """Masses [kg], heights above the ground [m] and wind area [m2] of the tree above a cut."""

    mass: Column
    stem_mass: Column
    crown_mass: Column
    cg_height: Column
    crown_cg: Column
    wind_area: Column


def relative_spread(tree: TreeInput) -> Estimate:
    """Crown spread over its own value: 1 with the spread's interval [-].

    Parameters
    ----------
    tree : TreeInput
        The tree; its spread goes into crown mass and wind as a factor of each.
    """
    return times(tree.spread, 1.0 / tree.spread.value)


def uncertain(tree: TreeInput) -> dict[str, Estimate]:
    """Return every uncertain figure of the body by name, for ``treecore.estimate.spread``.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    """
    state, group = tree.condition, tree.group
    known = tree.crown_base is not None
    base = tree.crown_base_share
    return {
        "diameter": tree.diameter,
        "height": tree.height,
        "density": product(product(tree.kind.density, state.density), constant("swelling")),
        "taper": group.taper,
        "crown_scale": product(group.crown_scale, relative_spread(tree)),
        "crown_centre": group.crown_centre,
        "crown_base": exactly(base) if known else Estimate(base, 0.5 * base, min(1.6 * base, 0.9), Kind.ASSUMED),
    }


def foliage_carried(tree: TreeInput) -> float:
    """Share of foliage the tree carries in its state [-].

    Parameters
    ----------
    tree : TreeInput
        The tree; an evergreen keeps its leaves when its state is bare.
    """
    return 1.0 if tree.state == "bare" and tree.group.leaf_on else tree.condition.foliage


def body_above(tree: TreeInput, x: dict[str, Column], cut: float) -> Body:
    """Body above a level cut; docs/methods.md, crown (2) to (4).

    Parameters
    ----------
    tree : TreeInput
        For its group and state.
    x : dict of Column
        Values for each name of ``uncertain``. [SI]
    cut : float
        Height of the cut above the ground; the crown counts whole. [m]

    Raises
    ------
    OutOfRange
        If the cut is not below the crown's centre or the stem can't be modelled.

    References
    ----------
    Stem: Ormerod (1973). Crown share: Jenkins et al. (2003), scaled by spread (own assumption).
    """
    group, height, breast = tree.group, x["height"], tree.breast_height
    all_between("height", height, 2.0 * breast, HEIGHT_RANGE[1], "the taper curve needs twice breast height", "length")
    between("stump", cut, 0.0, float(np.min(height)), "inside the stem", "cut")
    shape = (x["diameter"], height, x["taper"], breast)
    wood = x["density"]
    whole = section(*shape, 0.0, height)[0] * wood
    volume, moment = section(*shape, cut, height)
    usual = group.spread_per_diameter * x["diameter"]
    ratio = crown_ratio(group, x["diameter"], foliage_carried(tree))
    crown = whole * ratio * x["crown_scale"] * tree.spread.value / usual  # (2)
    depth = height * (1.0 - x["crown_base"])
    crown_cg = height - depth * (1.0 - x["crown_centre"])  # (3)
    mass = volume * wood + crown
    cg = (moment * wood + crown * crown_cg) / mass  # (4)
    area = tree.spread.value * depth * _SHAPE_FILL[tree.kind.form]
    return Body(mass, volume * wood, crown, cg, crown_cg, area)
