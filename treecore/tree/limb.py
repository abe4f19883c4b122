"""Limbs and leads: where they are, what they weigh, where they balance."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.document.fields import hold
from treecore.document.tree import LimbEntry
from treecore.errors import Column, NotSolvable, between, none_of
from treecore.estimate import Estimate, Kind, moves, root_sum, swings
from treecore.schools import constant
from treecore.tree.stem import Stem

Array = NDArray[np.float64]
FOLIAGE = {"full": 1.0, "thin": 0.5, "none": 0.0}  # share of the usual foliage; full is the reference
INCLUDED, STRAPPED = "included", "strapped"  # bark between leads; a strap or brace holds them together
UNIONS = ("sound", INCLUDED, STRAPPED, "decayed", "cracked")


@dataclass(frozen=True, slots=True, kw_only=True)
class Limb:
    """A limb or lead as a straight, tapering axis with side wood and foliage. Lengths [m], angles [rad].

    ``parent`` is empty for the stem, ``at`` then the union's height above the ground; else it names a limb or lead, and
    ``at`` is measured along that from its own union. ``rise`` is above level, ``azimuth`` clockwise from north.
    """

    name: str
    at: float
    azimuth: float
    rise: float
    length: float
    diameter: float
    parent: str = ""
    foliage: str = "full"
    dead: bool = False
    union: str = "sound"
    codominant: bool = False
    kind: Kind = Kind.ESTIMATED

    def __post_init__(self) -> None:
        """Refuse what no limb is; the error names the limb."""
        at = f"limb {self.name} "
        hold(self, LimbEntry, said=at + "{}")
        for field, value, words in (("foliage", self.foliage, tuple(FOLIAGE)), ("union", self.union, UNIONS)):
            if value not in words:
                raise none_of(what=at + field, given=value, known=words)
        if not self.name.strip():
            raise NotSolvable(what="limb name", why="a limb needs a name to be talked about")


def doubtful(union: str, lead: bool) -> bool:
    """Whether nobody can say what a union bears: decay, a crack, or a fork with included bark whose leads nothing
    holds together.

    Parameters
    ----------
    union : str
        One of ``UNIONS``.
    lead : bool
        Whether a lead grows from it.
    """
    return union in ("decayed", "cracked") or (lead and union == INCLUDED)


class Placed(NamedTuple):
    """Limbs as arrays, parents before their children; unions relative to the leaning axis of the stem. [m]."""

    order: tuple[int, ...]
    parent: tuple[int, ...]  # index into the arrays, -1 for the stem
    generations: tuple[tuple[int, int], ...]  # where each begins and ends
    base: Array  # (n, 3) east, north, up
    # height on the stem where the chain of limbs begins: a limb stands as it was measured, whatever the stem leans
    root: Array
    direction: Array  # (n, 3)
    length: Array
    diameter: Array
    carries: Array  # share of side wood and foliage of its own, beyond the last limb that is listed on it
    foliage: Array
    dead: Array
    error: Array  # half width of the mass for measuring it [-], two standard deviations
    guess: Array  # 1 for limbs of the assumed crown, whose errors go together


def check_limbs(limbs: Sequence[Limb], stem: Stem) -> None:
    """Refuse limbs that can't be on this stem together.

    Parameters
    ----------
    limbs : sequence of Limb
        All of them.
    stem : Stem
        What they stand on. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        Naming the limb: twice the same, no such parent, off its parent, or wider than it.
    """
    named: dict[str, Limb] = {}
    for limb in limbs:
        if limb.name in named:
            raise NotSolvable(what=f"limb {limb.name}", why="another limb has this name")
        named[limb.name] = limb
    seen: dict[tuple[str, int, int], str] = {}
    for limb in limbs:
        twin = seen.setdefault((limb.parent, round(limb.at / 0.02), round(math.degrees(limb.azimuth))), limb.name)
        if twin != limb.name:
            raise NotSolvable(
                what=f"limb {limb.name}", why="it grows from the same place the same way as “{twin}”", twin=twin
            )
        _check_parent(limb, named, stem)


def _check_parent(limb: Limb, named: dict[str, Limb], stem: Stem) -> None:
    field = f"limb {limb.name} "
    if not limb.parent:
        why = "the union lies on the stem" + (", which ends at the fork" if stem.fork is not None else "")
        between(field + "at", limb.at, 0.0, stem.top, why, "length")
        thick, on = stem.diameter_at(min(limb.at, 0.999 * stem.height)), "the stem"
    else:
        parent = named.get(limb.parent)
        if parent is None:
            raise NotSolvable(field + "parent", "there is no limb “{parent}” for it to grow from", parent=limb.parent)
        between(field + "at", limb.at, 0.0, parent.length, f"the union lies on “{parent.name}”", "length")
        thick, on = parent.diameter, f"“{parent.name}”"
    if limb.codominant and not limb.parent and stem.fork is not None:
        return  # at a fork the stem ends: leads together may be wider than it
    between(field + "diameter", limb.diameter, 0.0, thick, f"a limb is no wider than {on} where it grows", "girth")


@lru_cache(maxsize=64)
def placed(limbs: tuple[Limb, ...]) -> Placed:
    """Work out where every limb is.

    Parameters
    ----------
    limbs : tuple of Limb
        Already checked.

    Raises
    ------
    NotSolvable
        If limbs grow from each other in a circle.
    """
    order, generations = _parents_first(limbs)
    rows = [limbs[i] for i in order]
    index = {limb.name: k for k, limb in enumerate(rows)} | {"": -1}
    parent = np.array([index[limb.parent] for limb in rows], dtype=int)
    numbers = np.array(
        [(limb.at, limb.azimuth, limb.rise, limb.length, limb.diameter, limb.dead) for limb in rows], dtype=float
    ).reshape(-1, 6)
    at, azimuth, rise, length, diameter, dead = numbers.T
    direction = np.column_stack([np.cos(rise) * np.sin(azimuth), np.cos(rise) * np.cos(azimuth), np.sin(rise)])
    base = np.zeros((len(rows), 3))
    base[:, 2] = np.where(parent < 0, at, 0.0)
    root = base[:, 2].copy()
    for low, high in generations[1:]:
        up = parent[low:high]
        base[low:high] = base[up] + direction[up] * at[low:high, None]
        root[low:high] = root[up]
    last = np.zeros(len(rows))
    np.maximum.at(last, parent[parent >= 0], at[parent >= 0])
    allowance = {kind: constant(f"limb_{kind.value}") for kind in Kind}
    slack = {kind: (e.high - e.low) / 2.0 for kind, e in allowance.items()}
    return Placed(
        tuple(order),
        tuple(parent.tolist()),
        tuple(generations),
        base,
        root,
        direction,
        length,
        diameter,
        1.0 - last / length,
        np.array([FOLIAGE[limb.foliage] for limb in rows]) * (1.0 - dead),
        dead,
        np.array([slack[limb.kind] for limb in rows]),
        np.array([limb.kind is Kind.ASSUMED for limb in rows], dtype=float),
    )


def _parents_first(limbs: Sequence[Limb]) -> tuple[list[int], list[tuple[int, int]]]:
    """Order the limbs by generation; where each generation begins and ends in that order."""
    done: set[str] = {""}
    order: list[int] = []
    generations: list[tuple[int, int]] = []
    waiting = list(range(len(limbs)))
    while waiting:
        ready = [i for i in waiting if limbs[i].parent in done]
        if not ready:
            raise NotSolvable(
                what=f"limb {limbs[waiting[0]].name} parent", why="these limbs grow from each other in a circle"
            )
        generations.append((len(order), len(order) + len(ready)))
        order += ready
        waiting = [i for i in waiting if limbs[i].parent not in done]
        done |= {limbs[i].name for i in ready}
    return order, generations


def limb_inputs(foliage: Estimate) -> dict[str, Estimate]:
    """Uncertain figures all limbs share, by name, for ``treecore.estimate.propagate``.

    Parameters
    ----------
    foliage : Estimate
        Fresh foliage per area of the limb's base in the species' group. [kg/m2]
    """
    names = ("limb_taper", "limb_side", "limb_side_cg", "limb_foliage_cg", "limb_dead")
    return {name: constant(name) for name in names} | {"limb_foliage": foliage}


def _column(value: Column) -> Array:
    return np.atleast_1d(np.asarray(value, dtype=float))[:, None]


def masses(limbs: Placed, x: dict[str, Column], carried: float) -> tuple[Array, Array]:
    """Mass of every limb alone [kg], and its CG along it from the union [m]; docs/methods.md, limb (1), (2).

    Parameters
    ----------
    limbs : Placed
        The limbs.
    x : dict of Column
        ``density`` [kg/m3] and the names of ``limb_inputs``.
    carried : float
        Share of foliage the tree's state leaves. [-]

    Returns
    -------
    tuple of array
        Each (moves, limbs).

    References
    ----------
    Axis: Ormerod (1973). Foliage: pipe model, Shinozaki et al. (1964). Side wood: own allowance.
    """
    q = _column(x["limb_taper"])
    area = math.pi / 4.0 * limbs.diameter**2
    wood = _column(x["density"]) * (1.0 + limbs.dead * (_column(x["limb_dead"]) - 1.0))
    axis = wood * (area * limbs.length) / (2.0 * q + 1.0)
    side = axis * _column(x["limb_side"]) * limbs.carries
    leaves = _column(x["limb_foliage"]) * (area * limbs.foliage * limbs.carries * carried)
    mass = axis + side + leaves  # (1)
    moment = axis / (2.0 * q + 2.0) + side * _column(x["limb_side_cg"]) + leaves * _column(x["limb_foliage_cg"])
    return mass, moment * limbs.length / mass  # (2)


class Total(NamedTuple):
    """All limbs together: mass [kg], moments east, north and up [kg·m], second moment about the ground [kg·m2].

    ``axis`` is the moment of the masses at the heights where they hang on the stem [kg·m].
    """

    mass: Column
    east: Column
    north: Column
    up: Column
    second: Column
    axis: Column


def total(limbs: Placed, x: dict[str, Column], carried: float, cut: float) -> Total:
    """Sum up the limbs whose unions stand above a cut; docs/methods.md, limb (1), (2), (5).

    Wood, side wood and foliage each grow with a few shared figures, so the limbs are added up before those move.

    Parameters
    ----------
    limbs : Placed
        The limbs.
    x : dict of Column
        As for ``masses``. [SI]
    carried : float
        Share of foliage the tree's state leaves. [-]
    cut : float
        Height of the cut above the ground. [m]

    References
    ----------
    As ``masses``.
    """
    above = limbs.base[:, 2] >= cut
    area = math.pi / 4.0 * limbs.diameter**2 * above
    wood = area * limbs.length
    dead, alive = wood * limbs.dead, wood * (1.0 - limbs.dead)
    leaves = area * limbs.foliage * limbs.carries * carried
    weights = np.array([alive, dead, alive * limbs.carries, dead * limbs.carries, leaves])
    sums = weights @ _features(limbs)
    q, shrink, density = (x[name] for name in ("limb_taper", "limb_dead", "density"))
    axis = density / (2.0 * q + 1.0)
    mass, first, second, axis_moment = 0.0, np.zeros((1, 3)), np.zeros(1), 0.0
    for factor, at, row in (
        (axis, 1.0 / (2.0 * q + 2.0), _column(shrink) * sums[1] + sums[0]),
        (axis * x["limb_side"], x["limb_side_cg"], _column(shrink) * sums[3] + sums[2]),
        (x["limb_foliage"], x["limb_foliage_cg"], sums[4][None, :]),
    ):
        part, f = _column(factor) * row, _column(at)
        mass = mass + part[:, 0]  # (1)
        first = first + part[:, 1:4] + f * part[:, 4:7]  # (2)
        second = second + part[:, 7] + 2.0 * f[:, 0] * part[:, 8] + f[:, 0] ** 2 * part[:, 9]  # (5)
        axis_moment = axis_moment + part[:, 10]
    return Total(mass, first[:, 0], first[:, 1], first[:, 2], second, axis_moment)


def _features(limbs: Placed) -> Array:
    """Places of each limb's union and of its whole length, and their products as second moments need them."""
    far = limbs.direction * limbs.length[:, None]
    squares = np.array([0.5, 0.5, 1.0])  # about a level axis: height squared and half the level distance squared
    products = [(a * b) @ squares for a, b in ((limbs.base, limbs.base), (limbs.base, far), (far, far))]
    return np.column_stack([np.ones(len(far)), limbs.base, far, *products, limbs.root])


def errors_of(limbs: Placed, x: dict[str, Column], carried: float) -> Array:
    """Independent errors of measuring the limbs, as five moves of mass and its first moments; docs/methods.md, limb
    (4).

    Parameters
    ----------
    limbs : Placed
        The limbs.
    x : dict of Column
        Central values, as for ``masses``. [SI]
    carried : float
        Share of foliage the tree's state leaves. [-]

    Returns
    -------
    array
        (5, 5): each row one independent move of mass [kg] and of its moments east, north, up and where it hangs [kg·m].

    References
    ----------
    Eigenvectors of the covariance: independent moves with the same variances (principal components, Jolliffe 2002).
    """
    mass, along = masses(limbs, x, carried)
    at = limbs.base + limbs.direction * along[0][:, None]
    moves = (mass[0] * limbs.error)[:, None] * np.column_stack([np.ones(len(at)), at, limbs.root])
    values, vectors = np.linalg.eigh(moves.T @ moves)
    found: Array = (vectors * np.sqrt(np.maximum(values, 0.0))).T
    return found


def projected_area(limbs: Placed, carried: float, bare: Column, width: Column) -> tuple[Column, Column]:
    """Outline the wind meets on the limbs [m2], and its first moment about the ground [m3]; docs/methods.md, wind (3).

    Parameters
    ----------
    limbs : Placed
        The limbs.
    carried : float
        Share of foliage carried. [-]
    bare : Column
        Share of the outline a leafless limb shows. [-]
    width : Column
        Width of a leafy limb over its length. [-]

    References
    ----------
    Own assumption: a leafy limb is an ellipse as long as the limb; beneath it stands its wood.
    """
    outline = math.pi / 4.0 * limbs.length**2 * limbs.carries
    leafy = limbs.foliage * min(carried, 1.0) > 0.0
    height = limbs.base[:, 2] + limbs.direction[:, 2] * 0.6 * limbs.length
    wood = limbs.diameter * limbs.length / 1.8  # side view of an axis that tapers as limbs do
    full, open_ = float(outline[leafy].sum()), float(outline[~leafy].sum())
    high, low = float((outline * height)[leafy].sum()), float((outline * height)[~leafy].sum())
    stick, lever = float(wood.sum()), float((wood * height).sum())
    return width * (full + bare * open_) + stick, width * (high + bare * low) + lever  # (3)


class LimbFigure(NamedTuple):
    """What a person asks of one limb, with all that grows on it.

    Mass [kg]; ``balance`` and ``tie`` from its cut along it [m]; ``thirds`` the trade's rule [m]; places [m] relative
    to the leaning axis at ``root``, the height on the stem it hangs from [m].
    """

    name: str
    mass: Estimate
    balance: Estimate
    thirds: float
    tie: float
    base: tuple[float, float, float]
    tip: tuple[float, float, float]
    cg: tuple[float, float, float]
    root: float
    kind: Kind


class LimbTable(NamedTuple):
    """All limbs weighed, each with what grows on it, as arrays in the order they were given; [kg], [m].

    ``mass`` and ``balance`` have three rows: value, low, high. ``tie`` is where a tie stays on the butt side.
    """

    limbs: tuple[Limb, ...]
    mass: Array
    balance: Array
    base: Array
    tip: Array
    cg: Array
    root: Array

    def row(self, i: int) -> LimbFigure:
        """Return one limb's figures.

        Parameters
        ----------
        i : int
            Its number in the order given.
        """
        limb = self.limbs[i]
        kind = limb.kind if limb.kind is Kind.ASSUMED else Kind.ESTIMATED
        (weight, light, heavy), (value, low, high) = self.mass[:, i].tolist(), self.balance[:, i].tolist()
        return LimbFigure(
            limb.name,
            Estimate(weight, light, heavy, kind),
            Estimate(value, low, high, kind),
            constant("two_thirds").value * limb.length,
            low,
            _triple(self.base[i]),
            _triple(self.tip[i]),
            _triple(self.cg[i]),
            float(self.root[i]),
            limb.kind,
        )

    @property
    def rows(self) -> tuple[LimbFigure, ...]:
        """Every limb's figures."""
        return tuple(self.row(i) for i in range(len(self.limbs)))


def limb_table(limbs: Sequence[Limb], where: Placed, density: Estimate, foliage: Estimate, carried: float) -> LimbTable:
    """Weigh every limb with all that grows on it, intervals included, all at once.

    Parameters
    ----------
    limbs : sequence of Limb
        Checked limbs.
    where : Placed
        The same, placed.
    density : Estimate
        Green density in the tree's state. [kg/m3]
    foliage : Estimate
        Fresh foliage per area of a limb's base. [kg/m2]
    carried : float
        Share of foliage the state leaves. [-]

    References
    ----------
    docs/methods.md, limb (1) to (4).
    """
    table = limb_inputs(foliage) | {"density": density}
    alone, along = masses(where, moves(table, list(table)), carried)
    grown = _grown_on(where)
    base, way = where.base.T, where.direction.T
    moments = [alone * (base[i] + way[i] * along) for i in range(3)]
    mass, *sums = np.concatenate([alone, *moments]).dot(grown).reshape(4, *alone.shape)
    reach = sum(s * w for s, w in zip(sums, way, strict=True)) / mass - (base * way).sum(axis=0)  # (3)
    cg = np.column_stack([s[0] / mass[0] for s in sums])
    apart = alone[0] * where.error
    own = np.hypot(np.sqrt(((apart * (1.0 - where.guess)) ** 2) @ grown), (apart * where.guess) @ grown)  # (4)
    slack = constant("limb_length").high
    heavy = _ends(mass, own)
    far = _ends(reach, reach[0] * np.hypot(slack, 0.1 * own / mass[0]))
    back = np.argsort(np.array(where.order, dtype=int))[: len(limbs)]  # those beyond are assumed ones on the leads
    value = reach[0]
    balance = np.array([value, np.clip(far[0], 0.0, value), np.maximum(np.minimum(far[1], where.length), value)])
    weight = np.array([mass[0], np.maximum(heavy[0], 0.0), heavy[1]])
    tip = where.base + where.direction * where.length[:, None]
    return LimbTable(
        tuple(limbs), weight[:, back], balance[:, back], where.base[back], tip[back], cg[back], where.root[back]
    )


def _grown_on(limbs: Placed) -> Array:
    """Matrix with a one where the row's limb is the column's limb or grows on it."""
    grown = np.eye(len(limbs.parent))
    parent = np.array(limbs.parent)
    for low, high in limbs.generations[1:]:
        grown[low:high] += grown[parent[low:high]]
    return grown


def _triple(row: Array) -> tuple[float, float, float]:
    east, north, up = row.tolist()
    return east, north, up


def _ends(table: Array, own: Array) -> tuple[Array, Array]:
    """Interval ends of every limb from its moves, and its own error; swings summed in squares."""
    fall, rise = swings(table)
    return table[0] - np.hypot(root_sum(fall), own), table[0] + np.hypot(root_sum(rise), own)
