"""The job's papers, and the ground: its slope, winds and what stands on it."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.document.fields import declared, ident


@dataclass(frozen=True, slots=True, kw_only=True)
class RoleEntry:
    """Who does what."""

    role: str = declared(label="Role", most=120)
    name: str = declared(label="Name", most=120)


@dataclass(frozen=True, slots=True, kw_only=True)
class JobEntry:
    """A job's papers."""

    name: str = declared("", label="Name", most=160, must=True)
    address: str = declared("", label="Address")
    access: str = declared("", label="Access for people and vehicles")
    client: str = declared("", label="Client", most=200)
    emergency_number: str = declared("", label="Emergency number", most=60)
    hospital: str = declared("", label="Nearest emergency department", most=200)
    meeting_point: str = declared("", label="Meeting point for the ambulance", most=200)
    first_aider: str = declared("", label="First aider and kit", most=200)
    rescue_plan: str = declared("", label="Rescue plan")
    phone_coverage: str = declared("", label="Phone coverage", most=200)
    notes: str = declared("", label="Notes")
    roles: tuple[RoleEntry, ...] = declared((), label="Who does what", column="")


@dataclass(frozen=True, slots=True, kw_only=True)
class TargetEntry:
    """What stands or runs on the site: a building, a line, a spot, a tree, a zone."""

    id: str = ident()
    name: str = declared(label="Name", most=80)
    kind: str = declared("other", label="Kind", choices="site_kinds")
    shape: str = declared("area", label="Shape", choices="shapes", closed=True)
    outline_m: tuple[tuple[float, float], ...] = declared(
        label="Its points, east and north of the origin", dimension="length"
    )
    height_m: float | None = declared(None, label="Height", dimension="length", range="target_height", must=True)
    width_m: float | None = declared(None, label="Width", dimension="length", range="line_width")
    radius_m: float | None = declared(None, label="Radius", dimension="length", range="spot_radius")
    light_touch: bool = declared(False, label="A light touch is tolerable")
    worth: str = declared("", label="What it is worth, in words", most=200)
    note: str = declared("", label="Note", most=500, core="")
    voltage: str = declared("", label="Voltage", choices="voltages", core="")
    approach_m: float | None = declared(
        None, label="Approach distance, if the owner gave one", dimension="length", range="approach"
    )
    sag_m: float | None = declared(None, label="Sag in the middle", dimension="offset")
    ends_m: tuple[float, float] | None = declared(None, label="Height at both ends", dimension="length", column="")
    species: str = declared("", label="Species", choices="species", core="")
    diameter_m: float | None = declared(None, label="Diameter", dimension="girth", range="tree_diameter", core="")
    sound: bool = declared(False, label="Looked at and sound", core="")


@dataclass(frozen=True, slots=True, kw_only=True)
class OriginEntry:
    """Where the site's origin lies on the globe."""

    lat_deg: float = declared(label="Latitude", column="origin_lat", range="latitude", closed=True)
    lon_deg: float = declared(label="Longitude", column="origin_lon", range="longitude", closed=True)


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteEntry:
    """The ground and what stands on it."""

    slope_deg: float = declared(0.0, label="Slope of the ground", dimension="angle", range="site_slope")
    downhill_deg: float = declared(0.0, label="Falls towards (bearing)", dimension="angle", range="bearing")
    prevailing_from_deg: float | None = declared(
        None, label="Wind mostly from (bearing)", dimension="angle", range="bearing"
    )
    wind_from_deg: float | None = declared(None, label="Today from (bearing)", dimension="angle", range="bearing")
    wind_m_s: float | None = declared(None, label="Today’s wind at crown height", dimension="speed", range="job_wind")
    origin: OriginEntry | None = declared(None, label="Origin on the globe", column="")
    targets: tuple[TargetEntry, ...] = declared((), label="What stands on it", column="")
