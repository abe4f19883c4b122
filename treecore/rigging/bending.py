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
    """Force along the stem (down positive) and across it [N], greatest stress [Pa] and where [m]; what weakens it there.

    ``kept`` is the share of its strength the wood has there [-], None where nobody knows; ``turning`` the moment about the
    foot [N·m].
    """

    along: float
    across: float
    stress: float
    height: float
    why: str
    kept: float | None = 1.0
    turning: float = 0.0


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


def anchor_stress(
    tree: TreeInput, height: float, force: Vector, weight: float, lean_out: float = 0.0, place: Vector | None = None
) -> AnchorStress:
    """Stress in a stem that carries a block, at its weakest section between block and ground; docs/methods.md, anchor (3).

    Parameters
    ----------
    tree : TreeInput
        The stem with its taper, lean and cavities.
    height : float
        Of the block above the ground. [m]
    force : tuple of float
        On the block: east, north, up. [N]
    weight : float
        Of what still stands above and leans on it. [N]
    lean_out : float
        How far that weight's balance lies off the foot, level. [m]
    place : tuple of float, optional
        Where the force acts, where that is beyond the stem: out on a limb or lead that grows at ``height``. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        If the block hangs above the stem.

    References
    ----------
    Bending M/S and pressure N/A added; sections every fortieth of the way, and at the ends of every cavity.
    """
    stem = tree.stem
    if height > stem.top:
        raise NotSolvable("rigging_point", "the rigging point is above what stands")
    out_e, out_n = axis_at(tree, 1.0)
    way = math.sqrt(1.0 + out_e**2 + out_n**2)
    along, across = split_force(force, (out_e / way, out_n / way, 1.0 / way))
    z, core, modulus, area = _sections(tree, height)
    at = place or (out_e * height, out_n * height, height)
    # Level parts turn about the section; the part downward turns by how far the block hangs out over it.
    about_north = force[0] * (at[2] - z) - force[2] * (at[0] - out_e * z)
    about_east = force[1] * (at[2] - z) - force[2] * (at[1] - out_n * z)
    standing = weight * np.maximum(lean_out - math.hypot(out_e, out_n) * z, 0.0)
    moment = np.sqrt(about_north**2 + about_east**2) + standing
    stress = moment / modulus + max(-force[2] + weight, 0.0) / area  # (3)
    worst = int(stress.argmax())
    why = "hollow or decayed there" if core[worst] > 0.0 else ""
    turning = math.hypot(force[0] * at[2] - force[2] * at[0], force[1] * at[2] - force[2] * at[1])
    return AnchorStress(along, across, float(stress[worst]), float(z[worst]), why, 1.0, turning)


@lru_cache(maxsize=256)
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


def limb_stress(force: float, arm: float, thick: Column) -> Column:
    """Stress in a limb that carries a block out along it [Pa]; docs/methods.md, anchor (4).

    Parameters
    ----------
    force : float
        Square to the limb. [N]
    arm : float
        From the section to the block. [m]
    thick : Column
        Diameter at the section. [m]

    References
    ----------
    Cantilever with a round section.
    """
    return abs(force) * arm * 32.0 / (math.pi * thick**3)  # (4)
