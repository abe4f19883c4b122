"""The ground: targets as shapes, slope, bearings. Local metres, x east, y north; bearings clockwise from north."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import cast

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Point, Polygon
from shapely.geometry.base import BaseGeometry

from treecore.crownforms import crown_forms
from treecore.errors import NotSolvable, between
from treecore.kinds import kinds_that
from treecore.overhead import Conductor
from treecore.ranges import believed


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """Something that must not be hit: outline [m], height [m], and whether a light touch is tolerable."""

    name: str
    kind: str
    outline: tuple[tuple[float, float], ...]
    height: float = 0.0
    light_touch: bool = False
    shape: Polygon = field(init=False, compare=False, repr=False)

    def __post_init__(self) -> None:
        """Refuse an outline that is no simple shape."""
        for point in self.outline:
            for axis, value in zip(("x", "y"), point, strict=True):
                believed(f"target {self.name} {axis}", value, "site_reach")
        believed(f"target {self.name} height", self.height, "target_height")
        if len(self.outline) < 3:
            raise NotSolvable(what=f"target {self.name}", why="an outline needs at least three corners")
        shape = Polygon(self.outline)
        if not shape.is_valid or shape.area <= 0.0:
            raise NotSolvable(what=f"target {self.name}", why="its outline crosses itself or encloses nothing")
        object.__setattr__(self, "shape", shape)


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """A place of work on the site: its kind and shape; of a way, its narrowest width and its length [m], and the turns
    of its corners [rad].
    """

    name: str
    kind: str
    shape: Polygon = field(compare=False, repr=False)
    outline: tuple[tuple[float, float], ...]
    width: float = 0.0
    length: float = 0.0
    corners: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Site:
    """Where the tree stands among targets, conductors and places of work; ``slope`` falls towards
    ``downhill`` [rad].
    """

    tree_x: float = 0.0
    tree_y: float = 0.0
    targets: tuple[Target, ...] = ()
    slope: float = 0.0
    downhill: float = 0.0
    conductors: tuple[Conductor, ...] = ()
    places: tuple[Spot, ...] = ()
    shapes: NDArray[np.object_] = field(init=False, compare=False, repr=False)
    boxes: NDArray[np.float64] = field(init=False, compare=False, repr=False)
    stem: Point = field(init=False, compare=False, repr=False)

    def __post_init__(self) -> None:
        """Refuse a cliff, and a solid target around the stem."""
        object.__setattr__(self, "shapes", np.array([t.shape for t in self.targets], dtype=object))
        object.__setattr__(self, "boxes", shapely.bounds(self.shapes).reshape(-1, 4))
        object.__setattr__(self, "stem", Point(self.tree_x, self.tree_y))
        believed("slope", self.slope, "site_slope")
        for target in self.targets:
            if target.kind not in kinds_that("around") and target.shape.contains(self.stem):
                raise NotSolvable(what=f"target {target.name}", why="the stem stands inside it")

    def of(self, kind: str) -> tuple[Spot, ...]:
        """Places of work of one kind.

        Parameters
        ----------
        kind : str
            Key of ``data/site_kinds.csv``.
        """
        return tuple(p for p in self.places if p.kind == kind)

    def within(self, ground: BaseGeometry, gap: float, kinds: frozenset[str]) -> list[Target]:
        """Targets of some kinds that are nearer to a shape than a gap.

        Parameters
        ----------
        ground : geometry
            On the site.
        gap : float
            Level distance. [m]
        kinds : set of str
            Keys of ``data/site_kinds.csv``.
        """
        far = shapely.distance(self.shapes, ground).tolist()
        return [t for t, off in zip(self.targets, far, strict=True) if off < gap and t.kind in kinds]

    def near(self, west: float, south: float, east: float, north: float, within: float) -> list[int]:
        """Targets whose boxes lie within a distance of a box; others are further off than that.

        Parameters
        ----------
        west, south, east, north, within : float
            The box on the site, and the distance. [m]
        """
        if not self.targets:
            return []
        b = self.boxes
        close = (b[:, 0] <= east + within) & (b[:, 2] >= west - within)
        close &= (b[:, 1] <= north + within) & (b[:, 3] >= south - within)
        return list(np.flatnonzero(close).tolist())

    def falling_ground(self, azimuth: float) -> float:
        """Slope of the ground along a bearing, positive downhill [rad].

        Parameters
        ----------
        azimuth : float
            Bearing. [rad]

        References
        ----------
        Directional derivative of a plane; docs/methods.md, site (1).
        """
        return math.atan(math.tan(self.slope) * math.cos(azimuth - self.downhill))  # (1)


def turn_to(angle: float) -> float:
    """Return the shortest turn an angle comes to, -pi up to pi [rad].

    Parameters
    ----------
    angle : float
        Any angle. [rad]
    """
    return (angle + math.pi) % math.tau - math.pi


def bearing(azimuth: float, what: str = "bearing") -> tuple[float, bool]:
    """Take a bearing modulo a full turn.

    Parameters
    ----------
    azimuth : float
        An angle. [rad]
    what : str
        What an error calls it.

    Returns
    -------
    tuple
        The bearing in [0, 2 pi) [rad], and whether it was changed.

    Raises
    ------
    OutOfRange
        If it is not finite, or more than one turn beside 0 to 360°: that is a slip of the hand, not a bearing.
    """
    between(what, azimuth, -math.tau, 2.0 * math.tau, "a bearing is counted from north, 0 to 360°", "angle")
    turned = math.fmod(azimuth, math.tau)
    turned = turned + math.tau if turned < 0.0 else turned
    turned = 0.0 if turned >= math.tau else turned
    return turned, not 0.0 <= azimuth < math.tau


def place(site: Site, azimuth: float, along: float, across: float) -> tuple[float, float]:
    """Point on the ground from the stem, along a bearing and to its right [m].

    Parameters
    ----------
    site : Site
        Gives the stem's position.
    azimuth : float
        Bearing. [rad]
    along, across : float
        Distances forward and to the right. [m]
    """
    return _places(site, azimuth, ((along, across),))[0]


def _places(site: Site, azimuth: float, points: Iterable[tuple[float, float]]) -> tuple[tuple[float, float], ...]:
    """Turn (along, across) pairs into site coordinates; the bearing is resolved once."""
    s, c, x, y = math.sin(azimuth), math.cos(azimuth), site.tree_x, site.tree_y
    return tuple([(x + a * s + b * c, y + a * c - b * s) for a, b in points])


@dataclass(frozen=True, slots=True, kw_only=True)
class Silhouette:
    """The tree as it would lie: lengths from the stump [m] and half widths [m]; ``aside`` moves the tip right [m].

    ``form`` is a key of ``crown_forms``.
    """

    length: float
    crown_from: float
    half_crown: float
    half_stem: float
    aside: float
    form: str


def lying(site: Site, azimuth: float, tree: Silhouette) -> tuple[tuple[float, float], ...]:
    """Outline of the tree lying along a bearing [m].

    Parameters
    ----------
    site : Site
        Gives the stem's position.
    azimuth : float
        Bearing of the lay. [rad]
    tree : Silhouette
        Sizes; the stem is straight, so what stands aside lies aside in proportion to its height.
    """
    top, side = tree.length, outline_rows(tree)
    right = [(z, tree.aside * z / top + w) for z, w in side]
    left = [(z, tree.aside * z / top - w) for z, w in reversed(side)]
    return _places(site, azimuth, (*right, *left))


def outline_rows(tree: Silhouette) -> list[tuple[float, float]]:
    """Half widths of the lying tree at distances from its stump [m].

    Parameters
    ----------
    tree : Silhouette
        Sizes.
    """
    base, depth = tree.crown_from, tree.length - tree.crown_from
    side = [(0.0, tree.half_stem), (base, tree.half_stem)]
    return side + [(base + depth * part, tree.half_crown * width) for part, width in crown_forms()[tree.form].outline]


def _polygon(points: Sequence[tuple[float, float]]) -> Polygon:
    return cast(Polygon, shapely.polygons(np.array(points)))


def swept(site: Site, azimuth: float, scatter: float, tree: Silhouette) -> Polygon:
    """Ground the lying tree may cover: its outline turned through the scatter each way [m].

    One polygon: the right side turned fully right, an arc at the tip, the left side turned fully left. Every turn in
    between lies inside.

    Parameters
    ----------
    site : Site
        Gives the stem's position.
    azimuth, scatter : float
        Bearing of the lay, and half the angle swept. [rad]
    tree : Silhouette
        Sizes, at their upper bounds.
    """
    right = lying(site, azimuth + scatter, tree)
    left = lying(site, azimuth - scatter, tree)
    half = len(right) // 2
    arc = [place(site, azimuth + scatter * part, tree.length, tree.aside) for part in (0.5, 0.0, -0.5)]
    shape = _polygon([*right[:half], *arc, *left[half:]])
    return shape if shape.is_valid else shape.buffer(0)


def clear_path(site: Site, azimuth: float, length: float, width: float = 0.8) -> tuple[float, str]:
    """How far a path runs clear from the stem [m], and what stops it ('' if nothing).

    Parameters
    ----------
    site : Site
        Targets.
    azimuth : float
        Bearing of the path. [rad]
    length, width : float
        Length looked at; width a person needs. [m]
    """
    half = width / 2.0
    corners = ((0.0, half), (length, half), (length, -half), (0.0, -half))
    path = _polygon(_places(site, azimuth, corners))
    best, name = length, ""
    if not site.targets:
        return length, ""
    crossed = shapely.intersects(site.shapes, path)
    for target, met in zip(site.targets, crossed, strict=True):
        if met and target.kind not in kinds_that("walked"):
            hit = path.intersection(target.shape).distance(site.stem)
            if hit < best:
                best, name = hit, target.name
    return best, name
