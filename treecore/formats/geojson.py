"""GeoJSON of a site and its trees, in latitude and longitude (WGS 84) or in the site's own metres."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import pyproj

from treecore.document.codec import decode
from treecore.document.fields import hold_said
from treecore.document.site import TargetEntry
from treecore.document.tree import TreeEntry
from treecore.errors import BadDocument, CoreError
from treecore.features import feature_kinds
from treecore.formats.plan_document import feature_of, hold_site, tree_of
from treecore.formats.reading import read_json, without_nulls

Entry = Mapping[str, Any]
Origin = tuple[float, float]  # latitude, longitude [degrees]
Turn = Callable[[float, float], tuple[float, float]]
LOCAL, GLOBAL = "local metres", "WGS 84"
_KNOWN_CRS = ("CRS84", "EPSG:4326", "EPSG::4326", "WGS84", "WGS 84")
_FAR = 200_000.0  # a site further than this from where the job lies is a mistake [m]
_GEOMETRY = {"area": "Polygon", "line": "LineString", "spot": "Point"}


def projection(origin: Origin) -> tuple[Turn, Turn]:
    """Return the way from longitude and latitude to local metres, and the way back.

    Parameters
    ----------
    origin : tuple of float
        Latitude and longitude of the site's origin. [degrees]

    References
    ----------
    Transverse Mercator about the origin on the WGS 84 ellipsoid, scale 1 (PROJ); docs/methods.md, site (8).
    """
    local = pyproj.CRS.from_proj4(f"+proj=tmerc +lat_0={origin[0]} +lon_0={origin[1]} +k=1 +ellps=WGS84 +units=m")
    there = pyproj.Transformer.from_crs("EPSG:4326", local, always_xy=True)
    back = pyproj.Transformer.from_crs(local, "EPSG:4326", always_xy=True)
    return there.transform, back.transform


def write(site: Entry, trees: list[Entry], *, lat_lon: bool = False) -> dict[str, Any]:
    """Return a site and its trees as a FeatureCollection.

    Parameters
    ----------
    site : mapping
        The document's site; in latitude and longitude it needs its ``origin``.
    trees : list of mapping
        The document's trees.
    lat_lon : bool
        Write WGS 84 rather than local metres.

    Raises
    ------
    BadDocument
        Without an origin where one is needed.
    """
    turn: Turn = _identity
    if lat_lon:
        if "origin" not in site:
            raise BadDocument(field="origin", why="say at which latitude and longitude the site's origin lies first")
        turn = projection((site["origin"]["lat_deg"], site["origin"]["lon_deg"]))[1]
    rows = [_feature(row, turn, lat_lon) for row in site.get("targets", ())] + [
        _tree(row, turn, lat_lon) for row in trees
    ]
    ground = {k: v for k, v in site.items() if k != "targets"}
    return {
        "type": "FeatureCollection",
        "cantrel": {"frame": GLOBAL if lat_lon else LOCAL, "site": ground},
        "features": rows,
    }


def _identity(x: float, y: float) -> tuple[float, float]:
    return x, y


def _spot(point: tuple[float, float], turn: Turn, lat_lon: bool) -> list[float]:
    x, y = turn(float(point[0]), float(point[1]))
    return [round(x, 9), round(y, 9)] if lat_lon else [x, y]


def _feature(row: Entry, turn: Turn, lat_lon: bool) -> dict[str, Any]:
    shape = row.get("shape", "area")
    points = [_spot(p, turn, lat_lon) for p in row["outline_m"]]
    drawn: Any = {"area": [[*points, points[0]]], "line": points, "spot": points[0]}[shape]
    rest = {k: v for k, v in row.items() if k != "outline_m"}
    return {
        "type": "Feature",
        "geometry": {"type": _GEOMETRY[shape], "coordinates": drawn},
        "properties": {"what": "feature", **rest},
    }


def _tree(row: Entry, turn: Turn, lat_lon: bool) -> dict[str, Any]:
    rest = {k: v for k, v in row.items() if k not in ("x_m", "y_m")}
    point = _spot((row.get("x_m", 0.0), row.get("y_m", 0.0)), turn, lat_lon)
    return {
        "type": "Feature",
        "geometry": {"type": "Point", "coordinates": point},
        "properties": {"what": "tree", **rest},
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class Taken:
    """What a GeoJSON file holds: entries of the document, and what was refused by its number and why."""

    site: dict[str, Any]
    targets: tuple[dict[str, Any], ...]
    trees: tuple[dict[str, Any], ...]
    refused: tuple[tuple[int, str, str], ...]
    frame: str
    origin: Origin | None


def read(text: str, origin: Origin | None = None) -> Taken:
    """Read a FeatureCollection.

    Parameters
    ----------
    text : str
        GeoJSON; longitude before latitude, or local metres where the file says so.
    origin : tuple of float, optional
        Latitude and longitude of the job's origin, if it has one. [degrees]

    Raises
    ------
    BadDocument
        On no GeoJSON, an unknown projection, or numbers in the wrong order.

    References
    ----------
    RFC 7946; docs/methods.md, site (8).
    """
    data = _collection(text)
    member = data.get("cantrel")
    own: dict[str, Any] = member if isinstance(member, dict) else {}
    frame = LOCAL if own.get("frame") == LOCAL else GLOBAL
    _check_crs(data)
    site = _ground(own.get("site"))
    turn: Turn = _identity
    found = origin
    if frame == GLOBAL:
        found = _origin(data, site, origin)
        turn = projection(found)[0]
    targets: list[dict[str, Any]] = []
    trees: list[dict[str, Any]] = []
    refused: list[tuple[int, str, str]] = []
    for number, row in enumerate(data["features"], start=1):
        name = _called(row, number)
        try:
            kind, entry = _entry(row, number, turn, frame)
            (trees if kind == "tree" else targets).append(entry)
        except CoreError as error:
            refused.append((number, name, str(error)))
        except (KeyError, TypeError, ValueError, IndexError, AttributeError):
            refused.append((number, name, "its geometry or properties can't be read"))
    return Taken(
        site=site,
        targets=tuple(targets),
        trees=tuple(trees),
        refused=tuple(refused),
        frame=frame,
        origin=found if frame == GLOBAL else _stated(site) or origin,
    )


def _called(row: Any, number: int) -> str:
    """What a feature is called where something is said of it."""
    told = row.get("properties") if isinstance(row, dict) else None
    name = told.get("name") if isinstance(told, dict) else None
    return name if isinstance(name, str) and name else f"no. {number}"


def _collection(text: str) -> dict[str, Any]:
    data = without_nulls(read_json(text))
    if (
        not isinstance(data, dict)
        or data.get("type") != "FeatureCollection"
        or not isinstance(data.get("features"), list)
    ):
        raise BadDocument(field="document", why="not a GeoJSON FeatureCollection")
    return data


def _check_crs(data: dict[str, Any]) -> None:
    crs = data.get("crs")
    if crs is None:
        return
    told = crs.get("properties") if isinstance(crs, dict) else None
    name = str(told.get("name", crs) if isinstance(told, dict) else crs)
    if not any(known in name.upper().replace("CRS 84", "CRS84") for known in _KNOWN_CRS):
        raise BadDocument(
            field="crs", why="the projection “{name}” is not known here; save the file in WGS 84 (EPSG:4326)", name=name
        )


def _ground(said: Any) -> dict[str, Any]:
    """Slope, winds and origin of a file of ours, held as a plan's are."""
    if said is None:
        return {}
    if not isinstance(said, dict):
        raise BadDocument(field="site", why="it is no site")
    hold_site(said)
    return dict(said)


def _stated(site: Entry) -> Origin | None:
    origin = site.get("origin")
    return (float(origin["lat_deg"]), float(origin["lon_deg"])) if origin else None


def _pairs(geometry: Any) -> list[tuple[float, float]]:
    if not isinstance(geometry, dict):
        return []
    flat: list[tuple[float, float]] = []

    def walk(part: Any) -> None:
        if isinstance(part, list) and len(part) >= 2 and all(isinstance(v, (int, float)) for v in part[:2]):
            flat.append((float(part[0]), float(part[1])))
        elif isinstance(part, list):
            for inner in part:
                walk(inner)

    walk(geometry.get("coordinates"))
    return flat


def _origin(data: dict[str, Any], site: Entry, origin: Origin | None) -> Origin:
    """Origin the file is read against, after a look whether its numbers can be longitude and latitude at all."""
    spots = [p for row in data["features"] if isinstance(row, dict) for p in _pairs(row.get("geometry"))]
    if not spots:
        return origin or _stated(site) or (0.0, 0.0)
    for x, y in spots:
        if not (math.isfinite(x) and math.isfinite(y)) or abs(x) > 360.0 or (abs(y) > 90.0 and abs(x) > 90.0):
            raise BadDocument(
                field="coordinates",
                why="{x:g}, {y:g} is no longitude and latitude: is the file in another projection?",
                x=x,
                y=y,
            )
        if abs(y) > 90.0:
            raise BadDocument(
                field="coordinates",
                why="{x:g}, {y:g}: the second number must be a latitude. The order is longitude, latitude; "
                "these look swapped.",
                x=x,
                y=y,
            )
    mean = math.fsum(p[1] for p in spots) / len(spots), math.fsum(p[0] for p in spots) / len(spots)
    start = _stated(site) or origin
    if start is None:
        return round(mean[0], 7), round(mean[1], 7)
    if origin is not None and _away(origin, mean) > _FAR:
        swapped = _away(origin, (mean[1], mean[0])) if abs(mean[1]) <= 90.0 else math.inf
        why = "latitude and longitude look swapped" if swapped < _FAR else "is it the right file?"
        raise BadDocument(
            field="coordinates",
            why="the file lies {away:.0f} km from this job: {why_}",
            away=_away(origin, mean) / 1000,
            why_=why,
        )
    return origin or start


def _away(first: Origin, second: Origin) -> float:
    _, _, distance = pyproj.Geod(ellps="WGS84").inv(first[1], first[0], second[1], second[0])
    return float(distance)


def _entry(row: Any, number: int, turn: Turn, frame: str) -> tuple[str, dict[str, Any]]:
    properties, geometry = dict(row.get("properties") or {}), row["geometry"]
    what = properties.pop("what", None)
    points = [turn(x, y) for x, y in _pairs(geometry)]
    kind = geometry["type"]
    if kind not in _GEOMETRY.values():
        raise BadDocument(
            field=f"feature {number}", why="{kind} is not taken; make single areas, lines and points of it", kind=kind
        )
    if kind == "Polygon" and len(geometry["coordinates"]) > 1:
        raise BadDocument(field=f"feature {number}", why="an area with holes is not taken; draw it without")
    if what == "tree" or (what is None and kind == "Point" and "species" in properties):
        tree = properties | {"x_m": round(points[0][0], 3), "y_m": round(points[0][1], 3)}
        tree.setdefault("name", f"Tree {number}")
        hold_said(decode(TreeEntry, tree), "tree")
        tree_of(tree)
        return "tree", tree
    shape = next(k for k, v in _GEOMETRY.items() if v == kind)
    corners = points[:-1] if shape == "area" and points[0] == points[-1] else points
    entry = _foreign(properties, shape, number) if what is None else properties
    entry |= {"shape": shape, "outline_m": [[round(x, 3), round(y, 3)] for x, y in corners]}
    hold_said(decode(TargetEntry, entry), "feature")
    feature_of(entry)
    return "feature", entry


def _foreign(properties: dict[str, Any], shape: str, number: int) -> dict[str, Any]:
    """Properties of somebody else's feature, as far as they mean something here."""
    kind = str(properties.get("kind", "other"))
    height = properties.get("height_m", properties.get("height", 1.0))
    return {
        "name": str(properties.get("name") or f"{shape.capitalize()} {number}"),
        "kind": kind if kind in feature_kinds() else "other",
        "height_m": float(height),
    }
