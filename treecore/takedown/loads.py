"""What carries a rope: its wood under the worst force of the motion and under what still stands above and out on it."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.estimate import Estimate, Kind, reach
from treecore.rigging.bending import (
    Above,
    AnchorStress,
    limb_stress,
    split_force,
    stem_sections,
    stem_stress,
    twist_stress,
)
from treecore.schools import constant
from treecore.takedown.members import Members, members_of, thickness
from treecore.takedown.pick import RigPoint
from treecore.takedown.pieces import Standing
from treecore.takedown.weights import central
from treecore.tree.body import TreeInput
from treecore.tree.limb import doubtful
from treecore.tree.shaping import axis_at
from treecore.units import GRAVITY

Array = NDArray[np.float64]
Place = tuple[float, float, float]


class Held(NamedTuple):
    """Wood that carries a rope: where it is stressed most, that stress and the shear of turning [Pa], moment about
    the foot [N·m].

    ``twisted`` is where it turns most. ``size`` is the stem mass the root plate's strength goes by [kg], none where
    unknown.
    """

    anchor: AnchorStress
    stress: Estimate
    twisted: AnchorStress
    twist: Estimate
    turning: Estimate
    size: Estimate | None


class _Wood(NamedTuple):
    """What stands on limbs: mass of each [kg], its middle [m], and the height on the stem its chain grows from [m]."""

    rows: NDArray[np.int_]
    mass: Array
    middle: Array
    root: Array


@lru_cache(maxsize=256)
def _standing_limbs(tree: TreeInput, ends: tuple[float, ...]) -> _Wood:
    members = members_of(tree)
    spans = [(i, 0.0, end) for i, end in enumerate(ends) if i > 0 and end > 0.0]
    rows = np.array([span[0] for span in spans], dtype=int)
    if not spans:
        return _Wood(rows, np.zeros(0), np.zeros((0, 3)), np.zeros(0))
    found = central(members, spans)
    middle = members.base[rows] + members.way[rows] * found.along[0][:, None]
    return _Wood(rows, found.mass[0], middle, members.placed.root[rows - 1])


@lru_cache(maxsize=256)
def standing_above(tree: TreeInput, ends: tuple[float, ...], heights: tuple[float, ...]) -> Above:
    """Weight and lean of what stands above each of some heights of the stem; docs/methods.md, anchor (7).

    Parameters
    ----------
    tree : TreeInput
        The tree.
    ends : tuple of float
        How far each member stands. [m]
    heights : tuple of float
        On the stem. [m]

    References
    ----------
    Moments of the masses about the leaning axis at each height.
    """
    members, z, limbs = members_of(tree), np.array(heights), _standing_limbs(tree, ends)
    out_e, out_n = axis_at(tree, 1.0)
    carried = limbs.root[None, :] >= z[:, None]
    weight, east, north = (carried * (GRAVITY * limbs.mass * v) for v in (1.0, limbs.middle[:, 0], limbs.middle[:, 1]))
    stem = central(members, [(0, min(h, ends[0]), ends[0]) for h in heights]) if ends[0] > 0.0 else None
    above = GRAVITY * stem.mass[0] if stem is not None else np.zeros(len(z))
    middle = stem.along[0] if stem is not None else z
    total = weight.sum(axis=1) + above
    return Above(
        total,
        east.sum(axis=1) + above * middle * out_e - total * out_e * z,
        north.sum(axis=1) + above * middle * out_n - total * out_n * z,
    )  # (7)


@lru_cache(maxsize=16)
def _grown_on(tree: TreeInput) -> NDArray[np.bool_]:
    """For each member, by rows, which others it is or grow on it."""
    parent = members_of(tree).parent
    grown = np.eye(len(parent), dtype=bool)
    for i in range(1, len(parent)):  # parents come before their children
        grown[:, i] |= grown[:, parent[i]]
    return grown


def _beyond(members: Members, standing: Standing, row: int) -> Array:
    """Moment of what stands out on a limb about its union, by its weight; a level vector [N·m]."""
    limbs = _standing_limbs(members.tree, standing.ends)
    here = _grown_on(members.tree)[row, limbs.rows]
    weight = GRAVITY * limbs.mass[here]
    arm = limbs.middle[here] - members.base[row]
    return np.array([-(arm[:, 1] * weight).sum(), (arm[:, 0] * weight).sum(), 0.0])


class _Site(NamedTuple):
    """A section that carries: what is said of it, its stress and shear under each force [Pa], what it turns the foot
    by [N·m].
    """

    said: AnchorStress
    stress: Array
    twist: Array
    turning: Array
    girth: str


def held(
    members: Members, standing: Standing, point: RigPoint, place: Place, forces: Array, factor: float = 1.0
) -> Held | None:
    """Stress in the wood that carries a force; None in another tree of which nobody said how thick and sound it is.

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands while the piece comes off.
    point : RigPoint
        What carries it.
    place : tuple of float
        Where the rope really hangs, on the bark. [m]
    forces : array, shape (moves, forces, 3)
        East, north, up: the central values first. [N]
    factor : float
        On bending by the force, for wood that springs. [-]

    References
    ----------
    docs/methods.md, anchor (1) to (8): the stem, and every union on the way down to it.
    """
    sites = _sites(members, standing, point, place, forces.reshape(-1, 3), factor)
    if not sites:
        return None
    count, each = forces.shape[:2]

    def rows(values: Array) -> Array:
        return np.asarray(values.reshape(count, each).max(axis=1))

    stressed = max(sites, key=lambda s: float(rows(s.stress)[0]) / (s.said.strength_reduction or 1e-9))
    twisted = max(sites, key=lambda s: float(rows(s.twist)[0]) / (s.said.strength_reduction or 1e-9))
    springs = constant("top_factor") if factor != 1.0 else None
    turning = max((rows(s.turning) for s in sites), key=lambda v: float(v[0]))
    return Held(
        anchor=stressed.said._replace(stress=float(rows(stressed.stress)[0]), turning=float(turning[0])),
        stress=_estimate(rows(stressed.stress), stressed.girth, springs, members, 3.0),
        twisted=twisted.said._replace(twist=float(rows(twisted.twist)[0])),
        twist=_estimate(rows(twisted.twist), twisted.girth, None, members, 3.0),
        turning=_estimate(turning, "", springs, members, 0.0),
        size=_root_size(members, point),
    )


def _estimate(rows: Array, girth: str, springs: Estimate | None, members: Members, power: float) -> Estimate:
    """An interval of moves of the forces, of the wood's own thickness, and of how it springs; summed in squares."""
    moved = reach(rows)
    value, down, up = moved.value, [moved.value - moved.low], [moved.high - moved.value]
    if girth:
        thick = _girth(members, girth)
        down.append(value * (1.0 - thick.high**-power))
        up.append(value * (thick.low**-power - 1.0))
    if springs is not None:
        down.append(value * (1.0 - springs.low / springs.value))
        up.append(value * (springs.high / springs.value - 1.0))
    return Estimate(value, max(value - math.hypot(*down), 0.0), value + math.hypot(*up), Kind.ESTIMATED)


def _girth(members: Members, of: str) -> Estimate:
    """How well a thickness is known, over its value [-]: the stem's diameter, or a limb's by how that was taken."""
    if of == "stem":
        d = members.tree.diameter
        return Estimate(1.0, d.low / d.value, d.high / d.value, d.kind)
    return constant(f"girth_{of}")


def _sites(
    members: Members, standing: Standing, point: RigPoint, place: Place, forces: Array, factor: float
) -> list[_Site]:
    if point.member is None:
        return _elsewhere(point, forces)
    row = members.rows[point.member]
    sites = []
    while row > 0:
        sites.append(union_stress(members, standing, row, place, forces, factor))
        row = members.parent[row]
    at = point.at if not sites else min(_root(members, members.rows[point.member]), 0.98 * members.tree.stem.top)
    sites.append(_stem_stress_at(members, standing, at, place, forces, factor))
    return sites


def _stem_stress_at(
    members: Members, standing: Standing, at: float, place: Place, forces: Array, factor: float
) -> _Site:
    tree = members.tree
    above = standing_above(tree, standing.ends, stem_sections(tree, at))
    found = stem_stress(tree, at, place, forces, above, factor)
    out_e, out_n = axis_at(tree, 1.0)
    way = math.sqrt(1.0 + out_e**2 + out_n**2)
    first = forces[0].tolist()
    along, across = split_force((first[0], first[1], first[2]), (out_e / way, out_n / way, 1.0 / way))
    why = "hollow" if bool(found.hollow[0]) else ""
    said = AnchorStress(along, across, float(found.stress[0]), float(found.height[0]), why)
    return _Site(said, found.stress, found.twist, found.turning, "stem")


def union_stress(
    members: Members, standing: Standing, row: int, place: Place, forces: Array, factor: float = 1.0
) -> _Site:
    """Stress at a limb's union under forces at a place beyond it; docs/methods.md, anchor (4), (6), (7).

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands.
    row : int
        The limb.
    place : tuple of float
        Where the forces act, from the stem's foot. [m]
    forces : array, shape (n, 3)
        East, north, up. [N]
    factor : float
        On what the forces do, for wood that springs. [-]
    """
    way, base = members.way[row], members.base[row]
    moment = factor * np.cross(np.array(place) - base, forces) + _beyond(members, standing, row)
    twist = moment @ way
    bending = np.sqrt(np.maximum((moment**2).sum(axis=1) - twist**2, 0.0))
    first = forces[0].tolist()
    along, across = split_force((first[0], first[1], first[2]), (float(way[0]), float(way[1]), float(way[2])))
    union, thick = members.unions[row], thickness(members, row, 0.0)
    stress = np.asarray(limb_stress(1.0, bending, thick))  # (4)
    turned = np.asarray(twist_stress(twist, thick))  # (6)
    said = AnchorStress(
        along=along,
        across=across,
        stress=float(stress[0]),
        height=float(base[2]),
        why="union",
        strength_reduction=_strength_reduction(union, members.leads[row]),
        name=members.names[row],
        union=union,
    )
    return _Site(said, stress, turned, np.zeros(len(forces)), _how_known(members, row))


def _strength_reduction(union: str, lead: bool) -> float | None:
    """Share of its strength a union keeps; None for one that nobody knows."""
    if doubtful(union, lead):
        return None
    return 1.0 if union == "sound" else constant("union_included").value


def _how_known(members: Members, row: int) -> str:
    name = members.names[row]
    return next((limb.kind.value for limb in members.tree.limbs if limb.name == name), "assumed")


def _elsewhere(point: RigPoint, forces: Array) -> list[_Site]:
    """Another tree bends as a cantilever from its foot; docs/methods.md, anchor (5)."""
    if point.diameter is None or not point.sound or point.place is None:
        return []
    across, high = np.hypot(forces[:, 0], forces[:, 1]), point.place[2]
    # The rope hangs on its bark: what presses down bends it too.
    moment = across * high + np.maximum(-forces[:, 2], 0.0) * point.diameter / 2.0
    pressed = np.maximum(-forces[:, 2], 0.0) / (math.pi / 4.0 * point.diameter**2)
    stress = np.asarray(limb_stress(1.0, moment, point.diameter)) + pressed
    twist = np.asarray(twist_stress(across * point.diameter / 2.0, point.diameter))
    said = AnchorStress(float(-forces[0, 2]), float(across[0]), float(stress[0]), 0.0, "other", name=point.tree)
    return [_Site(said, stress, twist, moment, "measured")]  # (5)


def _root_size(members: Members, point: RigPoint) -> Estimate | None:
    """Stem mass that a root plate's strength goes by [kg]; of another tree by its thickness and height; anchor (8)."""
    if point.member is not None:
        mass = float(members.axis[0])
        return Estimate(mass, mass, mass, Kind.ESTIMATED)
    if point.diameter is None or point.high is None:
        return None
    wood, form = constant("other_density"), constant("other_form")
    cylinder = math.pi / 4.0 * point.diameter**2 * point.high
    value, low, high = (
        d * f * cylinder for d, f in ((wood.value, form.value), (wood.low, form.low), (wood.high, form.high))
    )
    return Estimate(value, low, high, Kind.ASSUMED)  # (8)


def _root(members: Members, row: int) -> float:
    while members.parent[row] > 0:
        row = members.parent[row]
    return float(members.at[row])
