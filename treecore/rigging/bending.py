"""A stem as an anchor: the force of a block split along and across it, and the stress at its weakest section."""

from __future__ import annotations

import math
from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column, NotSolvable, between
from treecore.tree.body import TreeInput
from treecore.tree.shaping import axis_at
from treecore.tree.stem import Cavity

Vector = tuple[float, float, float]
Array = NDArray[np.float64]
_STEPS = 40


class AnchorStress(NamedTuple):
    """Force along the stem (down positive) and across it [N], greatest stress [Pa] and where [m]; what weakens it
    there: ``hollow``, the ``union`` of a limb of that ``name``, or that it is ``other`` wood, of a tree of that name.

    ``strength_reduction`` is the share of its strength the wood has there [-], None where nobody knows; ``turning``
    the moment about the foot, of the force and of what stands [N·m]; ``twist`` the shear by turning about the wood's
    own axis [Pa].
    """

    along: float
    across: float
    stress: float
    height: float
    why: str
    strength_reduction: float | None = 1.0
    turning: float = 0.0
    twist: float = 0.0
    name: str = ""
    union: str = ""


class Above(NamedTuple):
    """Weight of what stands above each of some heights [N], and its level moments about the stem's axis there, east
    and north [N·m].
    """

    weight: Array
    east: Array
    north: Array


def split_force(force: Vector, way: Vector) -> tuple[float, float]:
    """Split a force along a stem's axis, towards its foot positive, and across it [N]; docs/methods.md, anchor (1).

    Parameters
    ----------
    force : tuple of float
        On the stem. [N]
    way : tuple of float
        Unit direction of the stem's axis, upward. [-]

    References
    ----------
    Projection of a vector.
    """
    along = -sum(a * b for a, b in zip(force, way, strict=True))
    size = math.sqrt(sum(v * v for v in force))
    return along, math.sqrt(max(size * size - along * along, 0.0))  # (1)


def split_along(force: Vector, way: Vector) -> Vector:
    """Part of a force along an axis [N]; docs/methods.md, anchor (1).

    Parameters
    ----------
    force : tuple of float
        Force. [N]
    way : tuple of float
        Direction of the axis, of any length. [-]

    References
    ----------
    Projection of a vector.
    """
    share = sum(a * b for a, b in zip(force, way, strict=True)) / sum(float(v) ** 2 for v in way)
    x, y, z = (share * float(v) for v in way)
    return x, y, z  # (1)


def section_modulus(thick: float, hollow: float = 0.0) -> float:
    """Elastic section modulus of a round, maybe hollow section [m3]; docs/methods.md, anchor (2).

    Parameters
    ----------
    thick, hollow : float
        Outer diameter, and of the hollow or decayed core. [m]

    Raises
    ------
    OutOfRange
        Unless the core is thinner than the stem.

    References
    ----------
    π/32·d³·(1 − (h/d)⁴) (Gere & Timoshenko, Mechanics of Materials).
    """
    between("hollow", hollow, 0.0, 0.999 * thick, "a core is thinner than its stem", "girth")
    return math.pi / 32.0 * thick**3 * (1.0 - (hollow / thick) ** 4)  # (2)


def core_at(cavities: tuple[Cavity, ...], height: float) -> float:
    """Diameter of a hollow or decayed core at a height [m].

    Parameters
    ----------
    cavities : tuple of Cavity
        Of the stem. [m]
    height : float
        Above the ground. [m]
    """
    return max((c.across for c in cavities if c.low <= height <= c.high), default=0.0)


class StemStress(NamedTuple):
    """Stress in a stem under some forces, one row a force: worst [Pa] and where [m], what weakens it there; moments
    [N·m].

    ``twist`` is the shear at the foot of the way by turning about the stem's axis [Pa].
    """

    stress: Array
    height: Array
    hollow: Array
    turning: Array
    twist: Array


def stem_sections(tree: TreeInput, height: float) -> tuple[float, ...]:
    """Heights of the sections looked at under a point [m]; docs/methods.md, anchor (3).

    Parameters
    ----------
    tree : TreeInput
        The stem.
    height : float
        Of the point. [m]
    """
    return tuple(_sections(tree, height)[0].tolist())


def stem_stress(
    tree: TreeInput, height: float, place: Vector, forces: Array, above: Above, factor: float = 1.0
) -> StemStress:
    """Stress in a stem that carries a block, at its weakest section between block and ground; docs/methods.md,
    anchor (3), (6).

    Parameters
    ----------
    tree : TreeInput
        The stem with its taper, lean and cavities.
    height : float
        Where what carries the block joins the stem. [m]
    place : tuple of float
        Of the block: on the bark, or out on a limb that grows at ``height``. [m]
    forces : array, shape (n, 3)
        On the block: east, north, up. [N]
    above : Above
        What stands above each section.
    factor : float
        On bending by the force, for a stem that springs as it loses its top. [-]

    Raises
    ------
    NotSolvable, OutOfRange
        If the block hangs above the stem.

    References
    ----------
    Bending M/S and pressure N/A added (Gere & Timoshenko, Mechanics of Materials); sections every fortieth of the
    way, and at the ends of every cavity; torsion 16·T/(π·d³) less the hollow.
    """
    if height > tree.stem.top:
        raise NotSolvable(what="rigging_point", why="the rigging point is above what stands")
    out_e, out_n = axis_at(tree, 1.0)
    z, core, modulus, area = _sections(tree, height)
    east, north, up = (forces[:, i, None] for i in (0, 1, 2))
    # Level parts turn about the section; the part downward turns by how far the block hangs out over it.
    off_e, off_n, off_z = place[0] - out_e * z, place[1] - out_n * z, place[2] - z
    to_east = factor * (east * off_z - up * off_e) + above.east
    to_north = factor * (north * off_z - up * off_n) + above.north
    pressed = np.maximum(above.weight - up, 0.0) / area
    stress = np.hypot(to_east, to_north) / modulus + pressed  # (3)
    worst = stress.argmax(axis=1)
    twist = np.abs(off_e * north - off_n * east) / (2.0 * modulus)  # polar modulus is twice the elastic; (6)
    turning = np.hypot(
        factor * (forces[:, 0] * place[2] - forces[:, 2] * place[0]) + above.east[0],
        factor * (forces[:, 1] * place[2] - forces[:, 2] * place[1]) + above.north[0],
    )
    return StemStress(stress.max(axis=1), z[worst], core[worst] > 0.0, turning, twist.max(axis=1))


@lru_cache(maxsize=512)
def _sections(tree: TreeInput, height: float) -> tuple[Array, Array, Array, Array]:
    """Sections looked at under a point: heights, cores [m], moduli [m3] and areas [m2]."""
    marks = {height * i / _STEPS for i in range(_STEPS)} | {
        z for c in tree.cavities for z in (c.low, c.high) if z < height
    }
    z = np.array(sorted(marks))
    thick = np.array([tree.stem.diameter_at(min(max(v, 0.05), 0.98 * tree.stem.top)) for v in z.tolist()])
    core = np.array([core_at(tree.cavities, v) for v in z.tolist()])
    modulus = math.pi / 32.0 * thick**3 * (1.0 - (core / thick) ** 4)  # (2)
    return z, core, modulus, math.pi / 4.0 * (thick**2 - core**2)


def twist_stress(moment: Column, thick: float) -> Column:
    """Shear in round wood that is turned about its own axis [Pa]; docs/methods.md, anchor (6).

    Parameters
    ----------
    moment : Column
        About the axis. [N·m]
    thick : float
        Diameter. [m]

    References
    ----------
    16·T/(π·d³) (Gere & Timoshenko, Mechanics of Materials).
    """
    return np.abs(moment) * 16.0 / (math.pi * thick**3)  # (6)


def limb_stress(force: float, arm: Column, thick: Column) -> Column:
    """Stress in a limb that carries a block out along it [Pa]; docs/methods.md, anchor (4).

    Parameters
    ----------
    force : float
        Square to the limb. [N]
    arm : Column
        From the section to the block. [m]
    thick : Column
        Diameter at the section. [m]

    References
    ----------
    Cantilever with a round section.
    """
    return abs(force) * np.asarray(arm) * 32.0 / (math.pi * thick**3)  # (4)
