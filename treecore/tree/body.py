"""The whole tree as a body: stem, cavities, measured limbs and what is left of the assumed crown."""

from __future__ import annotations

import math
from dataclasses import dataclass, fields
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.crownforms import crown_forms
from treecore.errors import Column, NotSolvable, all_between, between, none_of
from treecore.estimate import Estimate, Kind, exactly, product, times
from treecore.ranges import believed, ends
from treecore.schools import constant, school
from treecore.species import Group, Species, State, find, groups, states
from treecore.tree.crown import SLOTS, Remainder, Slot, remainder, slots
from treecore.tree.limb import Limb, Placed, check_limbs, errors_of, limb_inputs, placed, projected_area, total
from treecore.tree.stem import Cavity, DiameterPoint, Reach, Stem, reaches, side_area, sum_sections


@dataclass(frozen=True, kw_only=True)
class TreeInput:
    """What is known of a tree. Lengths [m], angles [rad]; ``lean_azimuth`` clockwise from north.

    ``crown_base`` None means the group's usual share of the height. ``crown_east`` and ``crown_north`` are the plumbed
    offset of the crown's centre from the stem's axis; None means not plumbed. ``diameter`` is the mean of an oval stem:
    ``oval`` its diameter along ``oval_azimuth`` over the one across [-]. ``points`` are diameters at other heights,
    ``fork`` is where leads take over from the stem. ``replaced`` are the assumed limbs that are no longer there.
    ``topped`` is where the stem was cut off, ``left`` says that this is what picks have left of a tree.
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
    own: Species | None = None
    oval: float = 1.0
    oval_azimuth: float = 0.0
    points: tuple[DiameterPoint, ...] = ()
    cavities: tuple[Cavity, ...] = ()
    fork: float | None = None
    limbs: tuple[Limb, ...] = ()
    replaced: frozenset[int] = frozenset()
    topped: float | None = None
    left: bool = False

    def __post_init__(self) -> None:
        """Refuse what no tree is."""
        believed("diameter", self.diameter.value, "tree_diameter")
        believed("height", self.height.value, "tree_height")
        believed("spread", self.spread.value, "crown_spread")
        believed("lean", self.lean, "tree_lean")
        believed("lean_azimuth", self.lean_azimuth, "bearing")
        slender = self.height.value / self.diameter.value
        between(
            "height",
            self.height.value,
            8.0 * self.diameter.value,
            250.0 * self.diameter.value,
            "a tree stands 8 to 250 diameters tall",
            "length",
        ) if not 8.0 <= slender <= 250.0 else None
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
            raise none_of(what="state", given=self.state, known=states())
        find(self.species)
        between("oval", self.oval, 0.4, 2.5, "one diameter is at most two and a half times the other")
        for cavity in self.cavities:
            cavity.check(self.stem)
        if self.fork is not None and not self.left and not any(limb.codominant for limb in self.limbs):
            raise NotSolvable(what="fork", why="the stem ends at the fork: add the leads that take over there")
        check_limbs(self.limbs, self.stem) if not self.left else None
        _ = self.placed  # refuses limbs that grow from each other in a circle
        if not self.replaced <= frozenset(range(SLOTS)):
            raise NotSolvable(what="replaced", why="assumed limbs are numbered 0 to {SLOTS}", SLOTS=SLOTS - 1)

    def __hash__(self) -> int:
        """Hash of what it is made of, worked out once."""
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash(tuple(getattr(self, f.name) for f in fields(self)))

    @cached_property
    def stem(self) -> Stem:
        """The stem at its central values."""
        return Stem(
            self.diameter.value,
            self.height.value,
            self.group.taper.value,
            self.breast_height,
            self.points,
            self.fork,
            self.topped,
        )

    @cached_property
    def placed(self) -> Placed:
        """Where the measured limbs are; what is assumed of the crown hangs on the leads and is not counted on them
        again.
        """
        where = placed(tuple(self.limbs))
        if not self.limbs:
            return where
        lead = np.array([self.limbs[i].codominant for i in where.order], dtype=float)
        return where._replace(carries=where.carries * (1.0 - lead * self.remainder.share))

    @cached_property
    def uncertain(self) -> dict[str, Estimate]:
        """Every uncertain figure of the body by name, worked out once."""
        return _uncertain(self)

    @cached_property
    def limb_errors(self) -> NDArray[np.float64]:
        """Five independent moves of the measured limbs' mass and moments. [kg], [kg·m]."""
        centre = {name: e.value for name, e in (limb_inputs(self.group.limb_foliage) | _wood(self)).items()}
        return errors_of(self.placed, dict(centre), foliage_carried(self))

    @cached_property
    def remainder(self) -> Remainder:
        """What is left of the assumed crown."""
        return remainder(self.kind.form, self.group.crown_centre.value, self.slender, self.replaced)

    @cached_property
    def stands(self) -> Estimate:
        """How high it stands: its height, or where it was cut off [m]."""
        if self.topped is None or self.topped >= self.height.value:
            return self._without_leads if self.left and self.fork is not None else self.height
        return exactly(self.topped, Kind.MEASURED)

    @property
    def _without_leads(self) -> Estimate:
        """Height of what is left of a forked tree: its highest lead, or its fork where none is left [m]."""
        tops = [limb.at + limb.length * math.sin(limb.rise) for limb in self.limbs if not limb.parent]
        tall = max([self.fork or 0.0, *tops])
        return self.height if tall >= self.height.value else exactly(tall, Kind.MEASURED)

    def tip(self, x: dict[str, Column]) -> Column:
        """Height of its tip for many sets of inputs [m].

        Parameters
        ----------
        x : dict of Column
            Values for the names of ``uncertain``. [SI]
        """
        return x["height"] if self.stands is self.height else np.minimum(x["height"], self.stands.value)

    @cached_property
    def half_crown(self) -> Estimate:
        """Half the crown's width: of the whole crown, or of what is left of it [m]."""
        half = times(self.spread, 0.5)
        if not self.left:
            return half
        stem = self.diameter.value / 2.0
        left = [s.reach for s in self.remaining]
        limbs = [limb.length * math.cos(limb.rise) for limb in self.limbs]
        widest = max(left, default=0.0)
        reach = [max(e * widest, stem, *limbs) for e in (half.value, half.low, half.high)]
        return Estimate(reach[0], reach[1], reach[2], half.kind)

    @property
    def remaining(self) -> list[Slot]:
        """Assumed limbs that are still there."""
        rows = slots(self.kind.form, self.group.crown_centre.value, self.slender)
        return [row for row in rows if row.number not in self.replaced]

    @property
    def slender(self) -> float:
        """Half the crown's spread over its depth [-]."""
        return self.spread.value / 2.0 / (self.height.value * (1.0 - self.crown_base_share))

    def width_along(self, azimuth: float) -> float:
        """Stem diameter at breast height along a bearing [m].

        Parameters
        ----------
        azimuth : float
            Bearing. [rad]

        References
        ----------
        Width of an ellipse seen from a side: root of the summed squares of its turned axes.
        """
        first = self.diameter.value * math.sqrt(self.oval)
        turn = azimuth - self.oval_azimuth
        return math.hypot(first * math.cos(turn), first / self.oval * math.sin(turn))

    @property
    def breast_height(self) -> float:
        """Height at which the diameter is taken [m]."""
        return school("breast", self.breast).usual

    @property
    def kind(self) -> Species:
        """The species' row, or the yard's own."""
        return self.own or find(self.species)

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
    believed("diameter", diameter, "tree_diameter")
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
        between(name.split("_")[1], value, *ends("tree_height"), "a size above nothing", "length")
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
    """The tree above a cut: masses [kg], heights above the ground [m], offsets from the leaning axis [m].

    ``axis_height`` is the mean height at which the mass hangs on the axis: its own, but for a measured limb its
    union's. ``assumed`` is the mass of the assumed crown, part of ``crown_mass``; wind area [m2]; ``inertia`` about a
    level axis through the cut [kg·m2].
    """

    mass: Column
    stem_mass: Column
    crown_mass: Column
    assumed: Column
    cg_height: Column
    axis_height: Column
    east: Column
    north: Column
    wind_area: Column
    wind_height: Column
    inertia: Column


def relative_spread(tree: TreeInput) -> Estimate:
    """Crown spread over its own value: 1 with the spread's interval [-].

    Parameters
    ----------
    tree : TreeInput
        The tree; its spread goes into crown mass and wind as a factor of each.
    """
    return times(tree.spread, 1.0 / tree.spread.value)


def uncertain(tree: TreeInput) -> dict[str, Estimate]:
    """Return every uncertain figure of the body by name, for ``treecore.estimate.propagate``.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    """
    return tree.uncertain


def _uncertain(tree: TreeInput) -> dict[str, Estimate]:
    group = tree.group
    known = tree.crown_base is not None
    base = tree.crown_base_share
    inputs = _wood(tree) | {
        "diameter": tree.diameter,
        "height": tree.height,
        "taper": group.taper,
        "crown_scale": product(group.crown_scale, relative_spread(tree)),
        "crown_centre": group.crown_centre,
        "crown_base": exactly(base) if known else Estimate(base, 0.5 * base, min(1.6 * base, 0.9), Kind.ASSUMED),
        "wind_share": wind_share(tree),
    }
    if tree.points:
        inputs["upper"] = constant("upper_diameter")
    if tree.cavities:
        inputs |= {"cavity": constant("cavity"), "decay_lost": constant("decay_lost")}
    if tree.limbs:
        inputs |= limb_inputs(group.limb_foliage) | {"limb_width": constant("limb_width")}
        inputs |= {name: Estimate(0.0, -1.0, 1.0, Kind.ESTIMATED) for name in _ERRORS}
    return inputs


_ERRORS = ("limbs_1", "limbs_2", "limbs_3", "limbs_4", "limbs_5")


def _wood(tree: TreeInput) -> dict[str, Estimate]:
    return {"density": product(product(tree.kind.density, tree.condition.density), constant("swelling"))}


def wind_share(tree: TreeInput) -> Estimate:
    """Share of the crown's outline the wind feels in this state [-].

    Parameters
    ----------
    tree : TreeInput
        The tree; an evergreen stays closed in winter.
    """
    return exactly(1.0, Kind.ASSUMED) if tree.state == "bare" and tree.group.leaf_on else tree.condition.wind


def foliage_carried(tree: TreeInput) -> float:
    """Share of foliage the tree carries in its state [-].

    Parameters
    ----------
    tree : TreeInput
        The tree; an evergreen keeps its leaves when its state is bare.
    """
    return 1.0 if tree.state == "bare" and tree.group.leaf_on else tree.condition.foliage


def body_above(tree: TreeInput, x: dict[str, Column], cut: float) -> Body:
    """Body above a level cut; docs/methods.md, crown (2) to (7).

    Parameters
    ----------
    tree : TreeInput
        For its group and state.
    x : dict of Column
        Values for each name of ``uncertain``. [SI]
    cut : float
        Height of the cut above the ground; the assumed crown counts whole, measured limbs from the cut up. [m]

    Raises
    ------
    OutOfRange
        If the cut is not below the crown's centre or the stem can't be modelled.

    References
    ----------
    Stem: Ormerod (1973). Crown share: Jenkins et al. (2003), scaled by spread (own assumption).
    """
    height, breast = x["height"], tree.breast_height
    all_between(
        "height", height, 2.0 * breast, ends("tree_height")[1], "the taper curve needs twice breast height", "length"
    )
    between("stump", cut, 0.0, float(np.min(height)), "inside the stem", "cut")
    stem = _stem_above(tree, x, cut)
    crown = _assumed(tree, x, cut)
    limbs = _limbs_above(tree, x, cut)
    parts = (stem, crown, limbs)
    mass = stem.mass + crown.mass + limbs.mass
    area, lever = _wind(tree, x, cut)
    return Body(
        mass,
        stem.mass,
        crown.mass + limbs.mass,
        crown.mass,
        sum(p.up for p in parts) / mass,  # (4)
        (stem.up + crown.up + limbs.axis) / mass,
        (crown.east + limbs.east) / mass,
        (crown.north + limbs.north) / mass,
        area,
        lever / area,
        sum(p.second for p in parts),  # (7)
    )


class _Part(NamedTuple):
    """Mass [kg], first moments [kg·m], second moment about the cut [kg·m2]; ``axis`` as ``Body.axis_height`` [kg·m]."""

    mass: Column
    up: Column
    east: Column
    north: Column
    second: Column
    axis: Column


_NOTHING = _Part(0.0, 0.0, 0.0, 0.0, 0.0, 0.0)


def _reaches(tree: TreeInput, x: dict[str, Column], top: Column) -> tuple[Reach, ...]:
    points = tuple((p.height, p.diameter * x["upper"]) for p in tree.points)
    return reaches(x["diameter"], x["height"], x["taper"], tree.breast_height, points, top)


def _stem_above(tree: TreeInput, x: dict[str, Column], cut: float) -> _Part:
    """Stem between the cut and its top, less what is rotten or hollow; docs/methods.md, stem (2) to (5), (7)."""
    height, wood = x["height"], x["density"]
    top = height
    for end in (tree.fork, tree.topped):
        top = top if end is None else np.minimum(top, end)
    volume, moment, second = stem_between(tree, x, cut, top)
    about_cut = second - 2.0 * cut * moment + cut**2 * volume
    return _Part(volume * wood, moment * wood, 0.0, 0.0, about_cut * wood, moment * wood)


def stem_between(tree: TreeInput, x: dict[str, Column], cut: Column, top: Column) -> tuple[Column, Column, Column]:
    """Volume [m3], first [m4] and second moment [m5] of the wood between two cuts; docs/methods.md, stem (2) to (7).

    Parameters
    ----------
    tree : TreeInput
        The tree.
    x : dict of Column
        Values for the names of ``uncertain`` that decide the stem. [SI]
    cut, top : Column
        The cuts, above the ground. [m]

    References
    ----------
    Ormerod (1973, 1986); a cavity is a cylinder taken out.
    """
    volume, moment, second = sum_sections(_reaches(tree, x, top), x["height"], cut, top)
    for cavity in tree.cavities:
        low, high = (np.clip(end, cut, top) for end in (cavity.low, cavity.high))
        share = x["decay_lost"] if cavity.decayed else 1.0
        lost = math.pi / 4.0 * (cavity.across * x["cavity"]) ** 2 * share  # (7)
        volume = volume - lost * (high - low)
        moment = moment - lost * (high**2 - low**2) / 2.0
        second = second - lost * (high**3 - low**3) / 3.0
    return volume, moment, second


def _assumed(tree: TreeInput, x: dict[str, Column], cut: float) -> _Part:
    """What is left of the assumed crown; docs/methods.md, crown (2), (3), (6)."""
    left = tree.remainder
    if left.share == 0.0:
        return _NOTHING
    group, height = tree.group, x["height"]
    whole = sum_sections(_reaches(tree, x, height), height, 0.0, height)[0] * x["density"]
    usual = group.spread_per_diameter * x["diameter"]
    ratio = crown_ratio(group, x["diameter"], foliage_carried(tree))
    mass = left.share * whole * ratio * x["crown_scale"] * tree.spread.value / usual  # (2)
    depth, half = height * (1.0 - x["crown_base"]), tree.spread.value / 2.0
    up = height - depth * (1.0 - x["crown_centre"] - left.rise)  # (3)
    second = mass * ((up - cut) ** 2 + left.spread2 * depth**2 + left.reach2 * half**2 / 2.0)
    return _Part(mass, mass * up, mass * half * left.east, mass * half * left.north, second, mass * up)


def assumed_crown(tree: TreeInput) -> float:
    """Mass of the whole assumed crown at the central values, as if nothing of it were replaced [kg].

    Parameters
    ----------
    tree : TreeInput
        The tree.
    """
    return float(whole_assumed(tree, {name: e.value for name, e in uncertain(tree).items()}))


def whole_assumed(tree: TreeInput, x: dict[str, Column]) -> Column:
    """Mass of the whole assumed crown, as if nothing of it were replaced [kg]; docs/methods.md, crown (2).

    Parameters
    ----------
    tree : TreeInput
        The tree.
    x : dict of Column
        Values for each name of ``uncertain``. [SI]
    """
    if tree.remainder.share == 0.0:
        return 0.0
    return _assumed(tree, x, 0.0).mass / tree.remainder.share


def _limbs_above(tree: TreeInput, x: dict[str, Column], cut: float) -> _Part:
    """Measured limbs whose union stands above the cut; docs/methods.md, limb (1) to (4)."""
    if not tree.limbs:
        return _NOTHING
    limbs = total(tree.placed, x, foliage_carried(tree), cut)
    moved = np.column_stack([np.broadcast_to(x[name], np.shape(limbs.mass)) for name in _ERRORS]) @ tree.limb_errors
    mass, up = limbs.mass + moved[:, 0], limbs.up + moved[:, 3]
    second = limbs.second - 2.0 * cut * limbs.up + cut**2 * limbs.mass
    return _Part(mass, up, limbs.east + moved[:, 1], limbs.north + moved[:, 2], second, limbs.axis + moved[:, 4])


def _wind(tree: TreeInput, x: dict[str, Column], cut: float) -> tuple[Column, Column]:
    """Area the wind meets above the cut [m2], and its moment about the ground [m3];
    docs/methods.md, wind (1) to (3).
    """
    height, depth = x["height"], x["height"] * (1.0 - x["crown_base"])
    # Where limbs are off, the stem they hid meets the wind up to its tip.
    foot = tree.tip(x) if tree.left else np.maximum(height - depth, cut)
    area, lever = side_area(_reaches(tree, x, foot), height, cut, foot)  # (1)
    form = crown_forms()[tree.kind.form]
    crown = tree.spread.value * depth * form.fill * tree.remainder.share * x["wind_share"]
    middle = np.minimum(height - depth * (1.0 - form.middle - (tree.remainder.rise if tree.left else 0.0)), tree.tip(x))
    area, lever = area + crown, lever + crown * middle  # (2)
    if tree.limbs:
        more, high = projected_area(tree.placed, foliage_carried(tree), x["wind_share"], x["limb_width"])
        area, lever = area + more, lever + high  # (3)
    return area, lever
