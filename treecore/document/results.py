"""The shape of what ``python -m treecore evaluate`` prints: numbers in SI with their unit, most with an interval."""

from __future__ import annotations

import json
from importlib.resources import files
from typing import Any

import msgspec

FILE = "document/results.schema.json"
RESULTS = 3  # version of this shape


class Shape(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A part of the results."""


class Interval(Shape, frozen=True):
    """A number with its interval, its unit in SI, and how it is known."""

    value: float
    low: float
    high: float
    unit: str
    kind: str


class Number(Shape, frozen=True):
    """A number without an interval, with its unit in SI."""

    value: float
    unit: str


class Figure(Shape, frozen=True):
    """A figure with its why."""

    value: float
    low: float
    high: float
    unit: str
    kind: str
    label: str
    formula: str
    source: str
    widened_by: str


class Limit(Shape, frozen=True):
    """What is asked of something and what it allows."""

    key: str
    group: str = msgspec.field(name="class")
    verdict: str
    demand: Interval | None
    allowed: Interval | None
    unit: str
    least: bool
    about: dict[str, Any]


class LimbOut(Shape, frozen=True):
    """A limb weighed."""

    name: str
    mass: Interval
    balance: Interval
    two_thirds_m: float
    tie_up_to_m: float


class Link(Shape, frozen=True):
    """A part of the path from the piece to the ground."""

    role: str
    item: str
    demand: Interval
    allowed: Interval | None


class Wood(Shape, frozen=True):
    """What carries a rigging point, a redirect or a far anchor, where it is stressed most."""

    stress: Interval
    shear: Interval
    turning: Interval
    at_m: float
    what: str
    name: str
    union: str


class Motion(Shape, frozen=True):
    """How a piece moves on its rope."""

    run: Interval
    stops: bool
    always_stops: bool
    touch: Interval
    lowest_m: float
    turned_rad: float
    locked: bool


class Corrected(Shape, frozen=True):
    """By how much pieces weighed before it correct this one."""

    stem: float
    limbs: float
    pieces_weighed: int


class PickOut(Shape, frozen=True):
    """A pick worked out, or why it is refused; forces only where a line holds the piece."""

    refused: str | msgspec.UnsetType = msgspec.UNSET
    mass: Interval | msgspec.UnsetType = msgspec.UNSET
    balance: Interval | msgspec.UnsetType = msgspec.UNSET
    ruling: Limit | msgspec.UnsetType | None = msgspec.UNSET
    limits: list[Limit] | msgspec.UnsetType = msgspec.UNSET
    inertia: Number | msgspec.UnsetType = msgspec.UNSET
    length: Number | msgspec.UnsetType = msgspec.UNSET
    foliage: Number | msgspec.UnsetType = msgspec.UNSET
    chain: list[Link] | msgspec.UnsetType = msgspec.UNSET
    corrected: Corrected | msgspec.UnsetType = msgspec.UNSET
    peak: Interval | msgspec.UnsetType | None = msgspec.UNSET
    governing: str | msgspec.UnsetType = msgspec.UNSET
    peaks: dict[str, Interval] | msgspec.UnsetType = msgspec.UNSET
    on_point: Interval | msgspec.UnsetType | None = msgspec.UNSET
    force_on_point_N: list[float] | msgspec.UnsetType = msgspec.UNSET
    drop_height: Number | msgspec.UnsetType = msgspec.UNSET
    tension_ratio: Number | msgspec.UnsetType = msgspec.UNSET
    control_leg: Interval | msgspec.UnsetType = msgspec.UNSET
    hand: Interval | msgspec.UnsetType = msgspec.UNSET
    wraps: dict[str, float] | msgspec.UnsetType = msgspec.UNSET
    rope_needed: Number | msgspec.UnsetType = msgspec.UNSET
    stiffness_N_m: Interval | msgspec.UnsetType = msgspec.UNSET
    stiffness_known: str | msgspec.UnsetType = msgspec.UNSET
    wood: Wood | msgspec.UnsetType = msgspec.UNSET
    redirect_wood: Wood | msgspec.UnsetType = msgspec.UNSET
    far_anchor_wood: Wood | msgspec.UnsetType = msgspec.UNSET
    motion: Motion | msgspec.UnsetType = msgspec.UNSET
    on_redirect: Interval | msgspec.UnsetType = msgspec.UNSET
    on_far_anchor: Interval | msgspec.UnsetType = msgspec.UNSET


class TakedownOut(Shape, frozen=True):
    """A takedown worked out pick by pick."""

    picks: list[PickOut]
    left_kg: float
    way_up: list[Limit]


class Clearance(Shape, frozen=True):
    """How far a fall keeps from a target."""

    target: str
    gap_m: float
    verdict: str


class Escape(Shape, frozen=True):
    """A way out."""

    side: str
    azimuth_deg: float
    clear_m: float
    stopped_by: str


class Chance(Shape, frozen=True):
    """How often a sampled fall touches a target."""

    target: str
    chance: float
    error: float


class Footprint(Shape, frozen=True):
    """Where sampled falls come to lie."""

    samples: int
    chances: list[Chance]
    hinge_fails: float


class PartLoad(Shape, frozen=True):
    """What a part of a pulling system carries, and which way."""

    part: str
    force: Number
    direction: list[float]


class Leg(Shape, frozen=True):
    """A leg of rope between two parts."""

    rope: str
    a: str = msgspec.field(name="from")
    b: str = msgspec.field(name="to")
    at_load: Number
    at_haul: Number


class Foul(Shape, frozen=True):
    """A rope that passes a target too near."""

    rope: str
    target: str
    passes_m: float
    wanted_m: float


class Pulling(Shape, frozen=True):
    """A pulling system worked out."""

    purchase_ideal: float
    purchase: Interval
    effort: Interval
    pull: Interval
    azimuth_deg: float
    parts: list[PartLoad]
    legs: list[Leg]
    fouls: list[Foul]


class FellingOut(Shape, frozen=True):
    """A felling worked out."""

    figures: dict[str, Figure]
    besides: dict[str, Interval]
    ruling: Limit
    limits: list[Limit]
    clearances: list[Clearance]
    escapes: list[Escape]
    in_work_zone: list[str]
    fall: dict[str, Figure | str]
    footprint: Footprint
    pulling: Pulling | None
    marks: dict[str, list[float]]


class TreeOut(Shape, frozen=True):
    """A tree evaluated."""

    name: str
    diameter: Interval
    height: Interval
    standing: dict[str, Figure]
    limbs: list[LimbOut]
    weak_places: list[Limit]
    gates_open: list[str]
    takedown: TakedownOut | msgspec.UnsetType = msgspec.UNSET
    felling: FellingOut | msgspec.UnsetType = msgspec.UNSET


class Results(Shape, frozen=True):
    """Everything a plan document comes to."""

    schema: str
    version: int
    trees: list[TreeOut]


def write() -> str:
    """Return the text the schema of the results is checked in as."""
    found = msgspec.json.schema(Results)
    named = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": f"Cantrel results, version {RESULTS}"}
    return json.dumps(named | found, indent=1, ensure_ascii=False) + "\n"


def published() -> dict[str, Any]:
    """Return the schema of the results as it is checked in."""
    found: dict[str, Any] = json.loads(files("treecore").joinpath(FILE).read_text(encoding="utf-8"))
    return found
