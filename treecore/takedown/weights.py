"""What a piece weighs and where it balances, every uncertain figure moved; and what a weighed piece tells of the
next ones.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.document.fields import hold
from treecore.document.takedown import PickEntry
from treecore.errors import Column, NotSolvable, between
from treecore.estimate import Estimate, Kind, moves, root_sum, swings
from treecore.schools import constant
from treecore.takedown.members import Members, limb_parts, members_of, wood_inputs
from treecore.tree.body import TreeInput, stem_between
from treecore.tree.ladder import stem_inputs

Array = NDArray[np.float64]
Place = tuple[float, float, float]
Span = tuple[int, float, float]  # a member's row, from and to along it [m]


@dataclass(frozen=True, slots=True, kw_only=True)
class Correction:
    """What weighed pieces have shown: masses of stem and of limbs over the model's, and how much of their common
    error is left [-].
    """

    stem: float = 1.0
    stem_left: float = 1.0
    limbs: float = 1.0
    limbs_left: float = 1.0
    weighed: int = 0


NONE = Correction()


@dataclass(frozen=True, slots=True, kw_only=True)
class Weighing:
    """A piece that was weighed, or lifted to try: its mass [kg], its balance from the cut [m]; None where not read."""

    mass: float | None = None
    balance: float | None = None

    def __post_init__(self) -> None:
        """Refuse what no piece weighs."""
        if self.mass is None and self.balance is None:
            raise NotSolvable(what="weighing_mass", why="a weighing gives a mass, a balance, or both")
        hold(self, PickEntry, "weighing", "weighing_{}")


class Joint(NamedTuple):
    """Mass [kg], balance [m] and radius of gyration [m] that move together: a third of each as independent half widths.

    Row by row: the first moves all three with the mass, the second balance and gyration, the third gyration alone.
    ``down`` and ``up`` are the ends of the mass over the half width of the first row [-].
    """

    rows: tuple[Place, Place, Place]
    down: float
    up: float


class Weighed(NamedTuple):
    """A piece weighed: mass [kg], balance along its axis from the cut [m], its middle [m], inertia [kg·m2]; parts'
    masses [kg].
    """

    mass: Estimate
    balance: Estimate
    cg: Place
    inertia: float
    joint: Joint
    parts: tuple[float, ...]
    centres: tuple[Place, ...]


class Columns(NamedTuple):
    """Masses [kg], centres along their members [m] and spread about those [m2] of some lengths of wood, each (moves,
    lengths).
    """

    mass: Array
    along: Array
    spread: Array


def wood_columns(members: Members, spans: Sequence[Span], x: dict[str, Column]) -> Columns:
    """Mass and centre of lengths of stem and limbs under moves of what is uncertain; docs/methods.md, takedown (1),
    (2).

    Parameters
    ----------
    members : Members
        The tree's members.
    spans : sequence of tuple
        Rows and where along them. [m]
    x : dict of Column
        Values for the names of ``wood_inputs``; columns of one length, or numbers. [SI]

    References
    ----------
    Closed integrals: stem (2) to (7); a limb's axis by its taper, side wood and foliage by powers that keep their
    balance.
    """
    return _columns(members, spans, x, limb_parts(members.tree, members.placed, members.weights, x))


def _columns(
    members: Members, spans: Sequence[Span], x: dict[str, Column], parts: tuple[Array, Array, Array]
) -> Columns:
    count = max((np.size(v) for v in x.values()), default=1)
    mass, along, spread = (np.empty((count, len(spans))) for _ in range(3))
    limbs = [i for i, span in enumerate(spans) if span[0] > 0]
    for i, (row, low, high) in enumerate(spans):
        if row == 0:
            volume, moment, second = stem_between(members.tree, x, low, high)
            empty = np.asarray(volume) <= 1e-9  # the lowest credible tip lies below this length
            full = np.where(empty, 1.0, volume)
            mass[:, i] = np.where(empty, 0.0, volume * x["density"])
            along[:, i] = np.where(empty, (low + high) / 2.0, moment / full)
            spread[:, i] = np.where(
                empty, (high - low) ** 2 / 12.0, np.maximum(second / full - (moment / full) ** 2, 0.0)
            )
    if limbs:
        rows = np.array([spans[i][0] for i in limbs])
        length = members.end[rows]
        a = np.array([spans[i][1] for i in limbs]) / length
        b = np.minimum(np.array([spans[i][2] for i in limbs]) / length, 1.0)
        axis, side, leaves = (part[:, rows - 1] for part in parts)
        found = (
            (axis, _tapering(a, b, _column(x["limb_taper"]))),
            (side, _growing(a, b, _power(x["limb_side_cg"]))),
            (leaves, _growing(a, b, _power(x["limb_foliage_cg"]))),
        )
        weight, first, second = (sum(w * part[i] for w, part in found) for i in (0, 1, 2))
        some = np.maximum(weight, 1e-12)
        centre = np.where(weight > 0.0, first / some, (a + b) / 2.0)
        mass[:, limbs], along[:, limbs] = weight, centre * length
        spread[:, limbs] = np.maximum(second / some - centre**2, 0.0) * length**2
    return Columns(mass, along, spread)


def _column(value: Column) -> Array:
    return np.atleast_1d(np.asarray(value, dtype=float))[:, None]


def _power(centre: Column) -> Array:
    """Exponent of a mass that grows along a limb as a power, so that it balances at its centre."""
    at = np.clip(_column(centre), 0.02, 0.985)  # drawn samples may pass a limb's end; no wood does
    return at / (1.0 - at)


Moments = tuple[Array, Array, Array]


def _tapering(a: Array, b: Array, taper: Array) -> Moments:
    """Share of an axis' mass between two shares of its length, its first and second moment over the length; (1)."""
    p = 2.0 * taper + 1.0

    def up_to(s: Array) -> Moments:
        r = np.maximum(1.0 - s, 0.0)
        mass, once, twice = r**p, p / (p + 1.0) * r ** (p + 1.0), p / (p + 2.0) * r ** (p + 2.0)
        return mass, mass - once, mass - 2.0 * once + twice

    (m0, f0, s0), (m1, f1, s1) = up_to(a), up_to(b)
    return m0 - m1, f0 - f1, s0 - s1  # (1)


def _growing(a: Array, b: Array, n: Array) -> Moments:
    """The same for a mass that grows as a power of the place; (2)."""
    return (
        b**n - a**n,
        n / (n + 1.0) * (b ** (n + 1.0) - a ** (n + 1.0)),
        n / (n + 2.0) * (b ** (n + 2.0) - a ** (n + 2.0)),
    )  # (2)


@lru_cache(maxsize=32)
def _centre(tree: TreeInput) -> dict[str, Column]:
    return {name: e.value for name, e in wood_inputs(tree).items()}


def central(members: Members, spans: Sequence[Span]) -> Columns:
    """Mass and centre of lengths of wood at the central values, one row.

    Parameters
    ----------
    members : Members
        The tree's members.
    spans : sequence of tuple
        Rows and where along them. [m]
    """
    parts = members.axis[None, 1:], members.side[None, 1:], members.leaves[None, 1:]
    return _columns(members, spans, _centre(members.tree), parts)


def within(members: Members, row: int, low: float, high: float) -> tuple[float, float]:
    """Mass between two places on a member [kg], and its mean place along it [m]; docs/methods.md, takedown (1), (2).

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        Which; row 0 is the stem, measured by height.
    low, high : float
        Places along it. [m]
    """
    if high - low <= 0.0:
        return 0.0, low
    found = central(members, [(row, low, high)])
    return float(found.mass[0, 0]), float(found.along[0, 0])


def foliage_within(members: Members, row: int, low: float, high: float) -> float:
    """Mass of the foliage between two places on a member [kg]; docs/methods.md, takedown (2).

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        Which.
    low, high : float
        Places along it. [m]
    """
    if members.leaves[row] <= 0.0 or high <= low:
        return 0.0
    length = float(members.end[row])
    share, _, _ = _growing(
        np.array([low / length]), np.array([min(high / length, 1.0)]), _power(constant("limb_foliage_cg").value)
    )
    return float(members.leaves[row] * share[0, 0])


class _Moves(NamedTuple):
    """Moves of what a tree's wood shares: the columns, and the limbs' parts under them."""

    x: dict[str, Column]
    parts: tuple[Array, Array, Array]


@lru_cache(maxsize=32)
def _moves(tree: TreeInput) -> _Moves:
    inputs = wood_inputs(tree)
    loose = [name for name, e in inputs.items() if e.low != e.high]
    x, members = moves(inputs, loose), members_of(tree)
    return _Moves(x, limb_parts(tree, members.placed, members.weights, x))


@lru_cache(maxsize=32)
def _stem_moves(tree: TreeInput) -> _Moves:
    inputs = stem_inputs(tree)
    return _Moves(moves(inputs, list(inputs)), (np.zeros((1, 0)),) * 3)


def weigh_piece(
    members: Members, spans: Sequence[Span], butt: Place, way: Place, length: float, corrected: Correction = NONE
) -> Weighed:
    """Weigh a piece by the model, with its intervals; docs/methods.md, takedown (4), (5), (8).

    Parameters
    ----------
    members : Members
        The tree's members.
    spans : sequence of tuple
        Lengths of members it is made of, its own first.
    butt, way : tuple of float
        Its cut [m], and the unit direction of its axis [-].
    length : float
        Of it. [m]
    corrected : Correction
        By the pieces weighed before it.

    References
    ----------
    Each shared figure moved to its ends (Kragten 1994), the errors of single limbs beside them, summed in squares.
    """
    alone = len(spans) == 1 and spans[0][0] == 0
    moved = _stem_moves(members.tree) if alone else _moves(members.tree)
    table = _corrected(_columns(members, spans, moved.x, moved.parts), spans, corrected)
    rows = np.array([span[0] for span in spans])
    ends = members.base[rows] - np.array(butt)
    lies, out = ends @ np.array(way), members.way[rows] @ np.array(way)
    mass, along, gyration = _whole(members, spans, table, lies, out)
    moved_by = np.column_stack([mass, along, gyration])
    fall, rise = swings(moved_by)
    own = _own(members, spans, table, along[0], gyration[0], lies, out)
    down, up = np.hypot(root_sum(fall), own.down), np.hypot(root_sum(rise), own.up)
    joint = _joint(np.vstack([_signed(moved_by), own.moves]), down[0], up[0])
    centres = members.base[rows] + members.way[rows] * table.along[0][:, None]
    cg = (table.mass[0] @ centres) / mass[0]
    x, y, z = cg.tolist()
    return Weighed(
        mass=Estimate(float(mass[0]), max(float(mass[0] - down[0]), 0.0), float(mass[0] + up[0]), _kind(members, rows)),
        balance=_within(float(along[0]), float(down[1]), float(up[1]), length),
        cg=(x, y, z),
        inertia=float(mass[0] * gyration[0] ** 2),
        joint=joint,
        parts=tuple(table.mass[0].tolist()),
        centres=tuple((p[0], p[1], p[2]) for p in centres.tolist()),
    )


def _within(value: float, down: float, up: float, length: float) -> Estimate:
    return Estimate(value, max(value - down, min(0.0, value)), max(min(value + up, length), value), Kind.ESTIMATED)


def _kind(members: Members, rows: NDArray[np.int_]) -> Kind:
    return Kind.ASSUMED if bool(members.assumed[rows].all()) else Kind.ESTIMATED


def _corrected(table: Columns, spans: Sequence[Span], by: Correction) -> Columns:
    """Masses by what weighed pieces showed: their value times that, their common swings narrowed; takedown (8)."""
    if by == NONE:
        return table
    on_stem = np.array([span[0] == 0 for span in spans])
    factor, left = np.where(on_stem, by.stem, by.limbs), np.where(on_stem, by.stem_left, by.limbs_left)
    base = table.mass[:1]
    return table._replace(mass=factor * (base + left * (table.mass - base)))  # (8)


def _whole(
    members: Members, spans: Sequence[Span], table: Columns, lies: Array, out: Array
) -> tuple[Array, Array, Array]:
    """Mass [kg], balance along the axis and radius of gyration [m] under every move."""
    rows = np.array([span[0] for span in spans])
    mass = table.mass.sum(axis=1)
    # The lowest credible tip may lie below the whole piece: nothing is left then, and it balances where it always did.
    some = np.where(mass[:, None] > 1e-6, table.mass, table.mass[:1])
    share = some / some.sum(axis=1)[:, None]
    along = (share * (lies + table.along * out)).sum(axis=1)
    centres = members.base[rows] + members.way[rows] * table.along[:, :, None]
    middle = (share[:, :, None] * centres).sum(axis=1)
    apart = ((centres - middle[:, None, :]) ** 2).sum(axis=2)
    gyration = np.sqrt((share * (apart + table.spread)).sum(axis=1))
    return mass, along, gyration


def _signed(table: Array) -> Array:
    """Half the way from each input's low to its high end, in mass, balance and gyration."""
    n = (len(table) - 1) // 2
    half: Array = (table[1 + n :] - table[1 : 1 + n]) / 2.0
    return half


class _Alone(NamedTuple):
    """Errors of single limbs: downward and upward in mass, balance and gyration, and as joint moves."""

    down: Array
    up: Array
    moves: Array


def _own(
    members: Members, spans: Sequence[Span], table: Columns, along: float, gyration: float, lies: Array, out: Array
) -> _Alone:
    """Each limb's own error moves its mass and so the balance; its length, not taped, moves balance and gyration."""
    rows = np.array([span[0] for span in spans])
    mass, total = table.mass[0], float(table.mass[0].sum())
    less, more = (members.own[rows, side] * mass for side in (0, 1))
    lever = (lies + table.along[0] * out - along) / total
    half = 0.5 * (less + more)
    spread = 0.0 if spans[0][0] == 0 else constant("limb_length").high
    stretch = np.array([[0.0, spread * along, spread * gyration]])
    moved = np.vstack([np.column_stack([half, half * lever, np.zeros_like(half)]), stretch])
    sizes = np.sqrt((moved**2).sum(axis=0))
    down, up = sizes.copy(), sizes.copy()
    down[0], up[0] = float(np.sqrt((less**2).sum())), float(np.sqrt((more**2).sum()))
    return _Alone(down, up, moved)


def _joint(half: Array, down: float, up: float) -> Joint:
    """The same spread and correlation as three moves, by the root of the covariance (Cholesky)."""
    covariance = half.T @ half
    first = math.sqrt(max(float(covariance[0, 0]), 1e-18))
    one = covariance[0] / first
    rest = covariance - np.outer(one, one)
    second = math.sqrt(max(float(rest[1, 1]), 1e-18))
    two = np.array([0.0, second, float(rest[1, 2]) / second])
    third = math.sqrt(max(float(rest[2, 2]) - float(two[2]) ** 2, 0.0))
    rows = ((first, float(one[1]), float(one[2])), (0.0, second, float(two[2])), (0.0, 0.0, third))
    return Joint(rows, down / first, up / first)


def as_weighed(found: Weighed, weighing: Weighing, way: Place, length: float) -> Weighed:
    """Put what was read of a piece in place of the model's; docs/methods.md, takedown (8).

    Parameters
    ----------
    found : Weighed
        By the model.
    weighing : Weighing
        What was read.
    way : tuple of float
        Unit direction of its axis. [-]
    length : float
        Of it. [m]

    Raises
    ------
    OutOfRange
        If the balance does not lie on the piece.
    """
    scale, joint = 1.0, found.joint
    mass, balance, cg = found.mass, found.balance, found.cg
    if weighing.mass is not None:
        scale = weighing.mass / mass.value
        read = constant("weight_reading")
        mass = Estimate(weighing.mass, weighing.mass * read.low, weighing.mass * read.high, Kind.MEASURED)
    if weighing.balance is not None:
        at = between("weighing_balance", weighing.balance, 0.0, length, "a balance lies on the piece", "length")
        loose = constant("tie_off").high
        shift = at - balance.value
        balance = Estimate(at, max(at - loose, 0.0), min(at + loose, max(length, at)), Kind.MEASURED)
        x, y, z = (c + w * shift for c, w in zip(cg, way, strict=True))
        cg = (x, y, z)
    widths = (mass.high - mass.low) / 2.0, (balance.high - balance.low) / 2.0
    known_mass, known_at = weighing.mass is not None, weighing.balance is not None
    first = (widths[0], 0.0, 0.0) if known_mass or known_at else joint.rows[0]
    joint = Joint(
        (first, (0.0, widths[1], 0.0), (0.0, 0.0, joint.rows[2][2] + abs(joint.rows[0][2]))),
        1.0 if known_mass else (mass.value - mass.low) / widths[0],
        1.0 if known_mass else (mass.high - mass.value) / widths[0],
    )
    parts = tuple(m * scale for m in found.parts)
    return found._replace(mass=mass, balance=balance, cg=cg, inertia=found.inertia * scale, joint=joint, parts=parts)


def common_errors(tree: TreeInput) -> tuple[float, float]:
    """Half width of what all stem wood, and of what all limbs, have in common over their mass [-]; takedown (8).

    Parameters
    ----------
    tree : TreeInput
        The tree.

    References
    ----------
    Density and thickness of the stem; density and the scale of the crown.
    """
    inputs = wood_inputs(tree)
    density, thick, crown = (_relative(inputs[name]) for name in ("density", "diameter", "crown_scale"))
    return math.hypot(density, 2.0 * thick), math.hypot(density, crown)


def _relative(e: Estimate) -> float:
    return (e.high - e.low) / 2.0 / e.value


def learned(
    tree: TreeInput, before: Correction, found: Weighed, modelled: Weighed, spans: Sequence[Span], weighing: Weighing
) -> Correction:
    """What a weighed piece tells of those that follow; docs/methods.md, takedown (8).

    Parameters
    ----------
    tree : TreeInput
        The tree.
    before : Correction
        As it was for this piece.
    found, modelled : Weighed
        The piece as weighed, and as the model had it.
    spans : sequence of tuple
        What it is made of.
    weighing : Weighing
        What was read.

    References
    ----------
    Linear update of a normal prior with a normal reading (Gelman et al. 2013, Bayesian Data Analysis, 2.5): the
    common error of stem or limbs is corrected by its share of the whole variance.
    """
    if weighing.mass is None:
        return before
    on_stem = sum(m for m, span in zip(modelled.parts, spans, strict=True) if span[0] == 0)
    share = on_stem / sum(modelled.parts)
    half, reading = _relative(modelled.mass), _relative(found.mass)
    stem, limbs = common_errors(tree)
    # What a tip or a single limb is off by alone, by its height or its length, says nothing of the others.
    common = min(constant("weights_common").value * half, share * stem + (1.0 - share) * limbs)
    gain = common**2 / (half**2 + reading**2)
    off = gain * (weighing.mass / modelled.mass.value - 1.0)
    # Further off than their common error reaches, the piece itself was not what it was taken for.
    ratio = 1.0 + min(max(off, -common), common)
    left = math.sqrt(1.0 - gain)

    def moved(value: float, by: float, part: float) -> float:
        return value * (1.0 + part * (by - 1.0))

    return Correction(
        stem=moved(before.stem, ratio, share),
        stem_left=moved(before.stem_left, left, share),
        limbs=moved(before.limbs, ratio, 1.0 - share),
        limbs_left=moved(before.limbs_left, left, 1.0 - share),
        weighed=before.weighed + 1,
    )  # (8)
