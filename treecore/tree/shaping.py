"""Limbs shaped on a drawing: drawn from the stem, dragged by union or tips, split in two. The picture is seen from one
side.
"""

from __future__ import annotations

import math
from dataclasses import replace

from treecore.errors import NotSolvable
from treecore.ranges import ends
from treecore.schools import constant
from treecore.tree.body import TreeInput
from treecore.tree.limb import Limb

_GRIP = 0.35  # how near a limb a drag must begin to grow from it [m]


def across_view(view: float, east: float, north: float) -> float:
    """How far right a place lies in a picture taken towards a bearing [m]; docs/methods.md, elevation (1).

    Parameters
    ----------
    view : float
        Bearing the onlooker faces. [rad]
    east, north : float
        The place, from the stem's foot. [m]

    References
    ----------
    Level projection at right angles to the bearing.
    """
    return east * math.cos(view) - north * math.sin(view)  # (1)


def axis_at(tree: TreeInput, z: float) -> tuple[float, float]:
    """Where the leaning stem's middle is at a height, east and north of its foot [m].

    Parameters
    ----------
    tree : TreeInput
        The tree.
    z : float
        Height above the ground. [m]
    """
    out = z * math.tan(tree.lean)
    return out * math.sin(tree.lean_azimuth), out * math.cos(tree.lean_azimuth)


def drawn(tree: TreeInput, view: float, start: tuple[float, float], end: tuple[float, float]) -> Limb:
    """Return a limb drawn from the stem, or from another limb, to its tips.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    view : float
        Bearing the onlooker faces. [rad]
    start, end : tuple of float
        Ends of the stroke in the picture: right of the foot, and above the ground. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        If the stroke is too short, or begins off the tree.

    References
    ----------
    docs/methods.md, elevation (2): it is taken to lie in the plane of the picture.
    """
    across, up = end[0] - start[0], end[1] - start[1]
    length = math.hypot(across, up)
    if length < 0.3:
        raise NotSolvable(what="limb", why="draw at least 0.3 m, from the stem outward")
    parent, at = _grows_from(tree, view, start)
    azimuth = (view + (math.pi / 2.0 if across >= 0.0 else -math.pi / 2.0)) % math.tau
    thick = parent.diameter if parent else tree.stem.diameter_at(min(at, 0.99 * tree.stem.top))
    across_wood = min(max(length / constant("limb_slender").value, ends("limb_diameter")[0]), 0.9 * thick)
    return Limb(
        name=free_name(tree),
        parent=parent.name if parent else "",
        at=round(at, 2),
        azimuth=azimuth,
        rise=math.atan2(up, abs(across)),
        length=round(length, 2),
        diameter=round(across_wood, 3),
    )


def _grows_from(tree: TreeInput, view: float, start: tuple[float, float]) -> tuple[Limb | None, float]:
    best: tuple[float, Limb | None, float] = (math.inf, None, 0.0)
    where = tree.placed if tree.limbs else None
    for k, i in enumerate(where.order if where else ()):
        limb = tree.limbs[i]
        base, way = where.base[k], where.direction[k]  # type: ignore[union-attr]
        lean_e, lean_n = axis_at(tree, float(where.root[k]))  # type: ignore[union-attr]
        x0 = across_view(view, float(base[0]) + lean_e, float(base[1]) + lean_n)
        dx, dz = across_view(view, float(way[0]), float(way[1])), float(way[2])
        flat = dx * dx + dz * dz
        along = ((start[0] - x0) * dx + (start[1] - float(base[2])) * dz) / flat if flat > 1e-6 else 0.0
        along = min(max(along, 0.0), limb.length)
        gap = math.hypot(start[0] - x0 - along * dx, start[1] - float(base[2]) - along * dz)
        if gap < best[0] and along > 0.15 * limb.length:
            best = gap, limb, along
    z = min(max(start[1], 0.3), 0.98 * tree.stem.top)
    off = abs(start[0] - across_view(view, *axis_at(tree, z)))
    if best[0] < min(_GRIP, off):
        return best[1], best[2]
    if off > max(1.0, tree.diameter.value):
        raise NotSolvable(what="limb", why="begin on the stem or on a limb")
    return None, z


def free_name(tree: TreeInput, stem: str = "Limb") -> str:
    """Return a name no limb of the tree has yet.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    stem : str
        What it begins with.
    """
    names = {limb.name for limb in tree.limbs}
    return next(f"{stem} {n}" for n in range(1, len(names) + 2) if f"{stem} {n}" not in names)


def moved(tree: TreeInput, name: str, handle: str, view: float, at: tuple[float, float]) -> Limb:
    """Return a limb with its union or its tips dragged to a place in the picture; what lies in depth stays.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    name, handle : str
        Which limb; union or tips.
    view : float
        Bearing the onlooker faces. [rad]
    at : tuple of float
        Right of the foot, and above the ground. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        If there is no such limb or handle, or the limb would be none.

    References
    ----------
    docs/methods.md, elevation (2).
    """
    row = next((k for k, i in enumerate(tree.placed.order) if tree.limbs[i].name == name), None)
    if row is None or handle not in ("union", "tips"):
        raise NotSolvable(what="limb", why="there is no “{name}” to drag by its {handle}", name=name, handle=handle)
    limb, base = tree.limbs[tree.placed.order[row]], tree.placed.base[row]
    if handle == "union":
        if not limb.parent:
            return replace(limb, at=round(min(max(at[1], 0.0), tree.stem.top), 2))
        up = tree.placed.parent[row]
        foot, way = tree.placed.base[up], tree.placed.direction[up]
        lean = axis_at(tree, float(tree.placed.root[up]))
        x0, dx = (
            across_view(view, float(foot[0]) + lean[0], float(foot[1]) + lean[1]),
            across_view(view, float(way[0]), float(way[1])),
        )
        flat = max(dx * dx + float(way[2]) ** 2, 1e-6)
        along = ((at[0] - x0) * dx + (at[1] - float(foot[2])) * float(way[2])) / flat
        return replace(limb, at=round(min(max(along, 0.0), float(tree.placed.length[up])), 2))
    lean = axis_at(tree, float(tree.placed.root[row]))
    right = at[0] - across_view(view, float(base[0]) + lean[0], float(base[1]) + lean[1])
    way = tree.placed.direction[row] * limb.length
    deep = float(way[0]) * math.sin(view) + float(way[1]) * math.cos(view)
    up_by = at[1] - float(base[2])
    east, north = right * math.cos(view) + deep * math.sin(view), deep * math.cos(view) - right * math.sin(view)
    level = math.hypot(east, north)
    azimuth = math.atan2(east, north) % math.tau if level > 1e-6 else limb.azimuth
    return replace(
        limb, azimuth=azimuth, rise=math.atan2(up_by, level), length=max(round(math.hypot(level, up_by), 2), 0.1)
    )


def split(tree: TreeInput, name: str) -> tuple[Limb, Limb]:
    """Return the two limbs one turned out to be: side by side, half its wood and foliage each.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    name : str
        Which limb.

    Raises
    ------
    NotSolvable
        If there is no such limb.

    References
    ----------
    Equal areas: each base is the old diameter over the root of two; docs/methods.md, limb (6).
    """
    limb = next((b for b in tree.limbs if b.name == name), None)
    if limb is None:
        raise NotSolvable(what="limb", why="there is no “{name}” to split", name=name)
    apart, thin = math.radians(20.0), limb.diameter / math.sqrt(2.0)  # (6)
    return (
        replace(limb, name=f"{name} a", azimuth=(limb.azimuth - apart) % math.tau, diameter=thin),
        replace(limb, name=f"{name} b", azimuth=(limb.azimuth + apart) % math.tau, diameter=thin),
    )
