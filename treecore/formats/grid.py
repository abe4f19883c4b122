"""A place on the globe as people who come to help can read it: degrees and minutes, and the metric grid of its zone."""

from __future__ import annotations

import math

import pyproj

from treecore.errors import between

_BANDS = "CDEFGHJKLMNPQRSTUVWX"


def degrees_and_minutes(latitude: float, longitude: float) -> str:
    """Return a place in degrees and decimal minutes, as marine and rescue radios take it.

    Parameters
    ----------
    latitude, longitude : float
        Of the place. [deg]
    """
    between("latitude", latitude, -90.0, 90.0)
    between("longitude", longitude, -180.0, 180.0)
    return f"{_one(latitude, 'N', 'S')} {_one(longitude, 'E', 'W')}"


def _one(value: float, positive: str, negative: str) -> str:
    minutes = round(abs(value) * 60.0, 3)
    whole = math.floor(minutes / 60.0)
    return f"{whole}° {minutes - 60.0 * whole:06.3f}′ {positive if value >= 0.0 else negative}"


def metric_grid(latitude: float, longitude: float) -> str:
    """Return a place in the Universal Transverse Mercator grid, to the metre; empty near the poles.

    Parameters
    ----------
    latitude, longitude : float
        Of the place, WGS 84. [deg]

    References
    ----------
    Zones of 6°, bands of 8° (DMA TM 8358.2, 1989); without the two exceptions in the far north, whose own zone is named
    with the place all the same.
    """
    if not -80.0 <= latitude <= 84.0:
        return ""
    zone = min(math.floor((longitude + 180.0) / 6.0) + 1, 60)
    band = _BANDS[min(math.floor((latitude + 80.0) / 8.0), len(_BANDS) - 1)]
    grid = pyproj.CRS.from_proj4(
        f"+proj=utm +zone={zone} +datum=WGS84 +units=m" + (" +south" if latitude < 0.0 else "")
    )
    east, north = pyproj.Transformer.from_crs("EPSG:4326", grid, always_xy=True).transform(longitude, latitude)
    return f"{zone}{band} {round(east)} {round(north)}"
