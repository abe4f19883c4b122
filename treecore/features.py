"""What stands or lies on a site, as it is drawn: areas, lines and spots; and what each comes to as a target."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import cache, cached_property

import shapely
from shapely.geometry import LineString, Point, Polygon
from shapely.ops import nearest_points

from treecore.errors import NotSolvable, between, none_of
from treecore.kinds import kinds_that
from treecore.overhead import Conductor
from treecore.ranges import believed
from treecore.site import Site, Spot, Target, turn_to
from treecore.tables import rows

_LEAST = {"area": (3, "three corners"), "line": (2, "two points"), "spot": (1, "a place")}


@dataclass(frozen=True, slots=True)
class FeatureKind:
    """One kind of thing on a site: its usual shape, whether it is a target or a place of work, and usual sizes [m]."""

    key: str
    name: str
    shape: str
    target: bool
    layer: str
    height: float
    width: float | None
    light_touch: bool
    hint: str


@cache
def feature_kinds() -> dict[str, FeatureKind]:
    """Return every kind by key, in the order of the toolbar."""
    return {
        row["key"]: FeatureKind(
            row["key"],
            row["name"],
            row["shape"],
            row["role"] == "target",
            row["layer"],
            float(row["height"]),
            float(row["width"]) if row["width"] else None,
            row["touch"] == "yes",
            row["hint"],
        )
        for row in rows("site_kinds")
    }


@dataclass(frozen=True, kw_only=True)
class Feature:
    """Something on a site, as drawn: points [m], width of a line, radius of a spot, height above its ground [m].

    ``worth`` says in words what it is worth. A conductor also has ``ends``, heights at its two ends, its ``sag``, and
    the ``approach`` distance to keep [m].
    """

    name: str
    kind: str
    points: tuple[tuple[float, float], ...]
    shape: str = "area"
    width: float | None = None
    radius: float | None = None
    height: float = 0.0
    light_touch: bool = False
    worth: str = ""
    ends: tuple[float, float] | None = None
    sag: float | None = None
    approach: float | None = None

    def __post_init__(self) -> None:
        """Refuse what can't be drawn; the error names the feature and the field."""
        at = f"target {self.name}"
        if self.kind not in feature_kinds():
            raise none_of(what=f"{at} kind", given=self.kind, known=feature_kinds())
        if self.shape not in _LEAST:
            raise none_of(what=f"{at} shape", given=self.shape, known=_LEAST)
        for point in self.points:
            for axis, value in zip(("x", "y"), point, strict=True):
                believed(f"{at} {axis}", value, "site_reach")
        least, words = _LEAST[self.shape]
        if len(self.points) < least:
            raise NotSolvable(at, "it needs at least {words}", words=words)
        believed(f"{at} height", self.height, "target_height")
        if self.width is not None:
            believed(f"{at} width", self.width, "line_width")
        if self.radius is not None:
            believed(f"{at} radius", self.radius, "spot_radius")
        if self.kind == "conductor":
            _ = self.conductor
        _ = self.polygon

    @property
    def what(self) -> FeatureKind:
        """Its kind's row."""
        return feature_kinds()[self.kind]

    @cached_property
    def conductor(self) -> Conductor:
        """Its line in space, for a conductor.

        Raises
        ------
        NotSolvable, OutOfRange
            Where it does not have two ends apart, or hangs into the ground.
        """
        at = f"target {self.name}"
        if len(self.points) != 2:
            raise NotSolvable(at, "a conductor runs between two ends; draw one for each span")
        high = self.ends or (self.height, self.height)
        return Conductor(
            name=self.name,
            start=(*self.points[0], high[0]),
            end=(*self.points[1], high[1]),
            sag=self.sag,
            approach=self.approach,
        )

    @cached_property
    def polygon(self) -> Polygon:
        """Ground it takes up [m]; for a conductor the ground within its approach distance.

        Raises
        ------
        NotSolvable
            If its outline crosses itself or encloses nothing.
        """
        at = f"target {self.name}"
        if self.shape == "spot":
            return Point(self.points[0]).buffer(self.radius or 0.5, quad_segs=6)
        if self.shape == "line":
            line = LineString(self.points)
            if line.length <= 0.0:
                raise NotSolvable(at, "its points lie on one another")
            half = self.conductor.keep if self.kind == "conductor" else (self.width or self.what.width or 0.1) / 2.0
            return line.buffer(half, cap_style="round" if self.kind == "conductor" else "flat", join_style="mitre")
        shape = Polygon(self.points)
        if not shape.is_valid or shape.area <= 0.0:
            raise NotSolvable(at, "its outline crosses itself or encloses nothing")
        return shape

    def nearest(self, x: float, y: float) -> tuple[float, float]:
        """Level distance of a place from it and the bearing of its nearest point [m], [rad]; of a conductor from the
        line itself, not from the ground it keeps. Inside it the distance is nothing and the bearing its middle's.

        Parameters
        ----------
        x, y : float
            East and north. [m]
        """
        place = Point(x, y)
        shape = self._line if self.kind == "conductor" else self.polygon
        gap = float(shape.distance(place))
        near = nearest_points(shape, place)[0] if gap > 0.0 else shape.centroid
        return gap, math.atan2(near.x - x, near.y - y) % math.tau

    @property
    def _line(self) -> LineString:
        return LineString([self.conductor.start[:2], self.conductor.end[:2]])

    @cached_property
    def target(self) -> Target:
        """The prism that must not be hit, with the ground it takes up as its outline [m]."""
        ring = shapely.get_coordinates(self.polygon.exterior)[:-1].tolist()
        corners = tuple((x, y) for x, y in ring) if self.shape != "area" else self.points
        return Target(
            name=self.name,
            kind=self.kind,
            outline=corners,
            height=self.height,
            light_touch=self.light_touch and self.kind in kinds_that("lightly"),
        )


def targets_of(features: tuple[Feature, ...]) -> tuple[Target, ...]:
    """Return what must not be hit among a site's features; places of work are not targets.

    Parameters
    ----------
    features : tuple of Feature
        All of them. [m]

    Raises
    ------
    NotSolvable
        If two have one name.
    """
    names: set[str] = set()
    for feature in features:
        if feature.name in names:
            raise NotSolvable(what=f"target {feature.name}", why="another target has this name")
        names.add(feature.name)
    return tuple(feature.target for feature in features if feature.what.target)


@dataclass(frozen=True, slots=True)
class WayOut:
    """A way to carry brush along: its length and narrowest width [m], what narrows it, and its corners [rad]."""

    name: str
    length: float
    narrowest: float
    narrowed_by: str
    corners: tuple[float, ...]


def way_out(feature: Feature, others: tuple[Feature, ...]) -> WayOut:
    """Measure a way out: how long, how narrow, how crooked.

    Parameters
    ----------
    feature : Feature
        A line.
    others : tuple of Feature
        What may stand beside it. [m]

    References
    ----------
    Least distance of an obstacle from the line, twice, where that is less than the width drawn; docs/methods.md, site
    (6).
    """
    line = LineString(feature.points)
    width, by = feature.width or feature.what.width or 1.0, ""
    for other in others:
        if other.name == feature.name or not other.what.target or other.height < 0.3 or other.kind == "conductor":
            continue
        free = 2.0 * float(line.distance(other.polygon))  # (6)
        if free < width:
            width, by = free, other.name
    return WayOut(feature.name, float(line.length), width, by, _corners(feature.points))


def _corners(points: tuple[tuple[float, float], ...]) -> tuple[float, ...]:
    legs = [math.atan2(b[0] - a[0], b[1] - a[1]) for a, b in itertools.pairwise(points) if a != b]
    return tuple(abs(turn_to(b - a)) for a, b in itertools.pairwise(legs))


def place_from(origin: tuple[float, float], distance: float, azimuth: float) -> tuple[float, float]:
    """Point at a distance and bearing from another [m].

    Parameters
    ----------
    origin : tuple of float
        East and north. [m]
    distance : float
        Level distance. [m]
    azimuth : float
        Bearing. [rad]

    Raises
    ------
    OutOfRange
        On a distance no tape spans.
    """
    between("distance", distance, 0.0, 2000.0, "taped distances are 0 to 2 km", "length")
    return origin[0] + distance * math.sin(azimuth), origin[1] + distance * math.cos(azimuth)


def triangulated(
    first: tuple[float, float], second: tuple[float, float], from_first: float, from_second: float
) -> tuple[tuple[float, float], tuple[float, float]]:
    """Both points at taped distances from two known ones: left and right of the way from the first to the second [m].

    Parameters
    ----------
    first, second : tuple of float
        Known points, east and north. [m]
    from_first, from_second : float
        Taped level distances. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        If the tapes do not meet, or the known points are one.

    References
    ----------
    Intersection of two circles; docs/methods.md, site (5).
    """
    for name, distance in (("from_first", from_first), ("from_second", from_second)):
        between(name, distance, 0.01, 1000.0, "taped distances are 1 cm to 1 km", "length")
    base = math.dist(first, second)
    if base < 0.01:
        raise NotSolvable(what="second", why="the two known points are the same")
    along = (from_first**2 - from_second**2 + base**2) / (2.0 * base)  # (5)
    square = from_first**2 - along**2
    # A tape lies a little off: up to 2 cm short of meeting counts as meeting on the line.
    if square < -2.0 * 0.02 * from_first:
        gap = (
            abs(base - from_first - from_second)
            if from_first + from_second < base
            else abs(from_first - from_second) - base
        )
        raise NotSolvable(
            what="from_second",
            why="the tapes do not meet: they miss by {gap:.2f} m over a base of {base:.2f} m",
            gap=gap,
            base=base,
        )
    aside = math.sqrt(max(square, 0.0))
    ex, ey = (second[0] - first[0]) / base, (second[1] - first[1]) / base
    foot = first[0] + along * ex, first[1] + along * ey
    return (foot[0] - aside * ey, foot[1] + aside * ex), (foot[0] + aside * ey, foot[1] - aside * ex)


def site_with(
    features: tuple[Feature, ...], tree: tuple[float, float], slope: float = 0.0, downhill: float = 0.0
) -> Site:
    """Return a site as one tree sees it.

    Parameters
    ----------
    features : tuple of Feature
        Everything on it. [m]
    tree : tuple of float
        Where the tree stands. [m]
    slope, downhill : float
        Fall of the ground, and its bearing. [rad]

    Raises
    ------
    CoreError
        Naming the feature.
    """
    lines = tuple(f.conductor for f in features if f.kind == "conductor")
    return Site(
        tree_x=tree[0],
        tree_y=tree[1],
        targets=targets_of(features),
        slope=slope,
        downhill=downhill,
        conductors=lines,
        places=tuple(_spot(f, features) for f in features if not f.what.target),
    )


def _spot(feature: Feature, features: tuple[Feature, ...]) -> Spot:
    """A place of work; a way with its narrowest and its corners."""
    ring = shapely.get_coordinates(feature.polygon.exterior)[:-1].tolist()
    outline = tuple((x, y) for x, y in ring)
    if feature.kind != "way_out":
        return Spot(name=feature.name, kind=feature.kind, shape=feature.polygon, outline=outline)
    way = way_out(feature, features)
    return Spot(
        name=feature.name,
        kind=feature.kind,
        shape=feature.polygon,
        outline=outline,
        width=way.narrowest,
        length=way.length,
        corners=way.corners,
    )
