"""Which way to take a tree down: what stops each, what would change that, rough time and kit."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache
from typing import NamedTuple

import shapely

from treecore.estimate import Estimate, Kind, exactly
from treecore.features import Feature, way_out
from treecore.felling.plan import FellingResult
from treecore.hazards import Gate, Hazard, hazards
from treecore.kinds import kinds_that
from treecore.schools import constant
from treecore.site import Silhouette, Site, swept, turn_to
from treecore.tables import rows
from treecore.tree.soundness import weak_places
from treecore.verdict import Limit, Verdict
from treecore.workzone import OpenLay, silhouette


@dataclass(frozen=True, slots=True)
class Way:
    """A row of ``data/ways.csv``: times in hours and hours per tonne."""

    key: str
    name: str
    climbs: bool
    hours: float
    per_tonne: float
    kit: str
    risk: str


class Stop(NamedTuple):
    """What stops a way: a gate or a number. ``demand`` and ``allowed`` in SI of ``dimension``; ``note`` names what.

    ``unknown`` marks what nobody has looked at or drawn yet; ``hazard`` is the line of the walk-up it comes from.
    """

    key: str
    demand: Estimate | None = None
    allowed: Estimate | None = None
    dimension: str = "length"
    note: str = ""
    unknown: bool = False
    hazard: Hazard | None = None


class Option(NamedTuple):
    """One way with what stops it and its rough time [h]. ``turn`` is another lay that is open [rad], or None."""

    way: Way
    verdict: Verdict
    stops: tuple[Stop, ...]
    hours: Estimate
    turn: float | None


class Scene(NamedTuple):
    """All a choice of method looks at."""

    result: FellingResult
    gates: tuple[Gate, ...]
    lays: tuple[OpenLay, ...]
    features: tuple[Feature, ...]


@cache
def ways() -> dict[str, Way]:
    """Return every way of taking a tree down by key, the simplest first."""
    return {
        r["key"]: Way(
            r["key"], r["name"], r["climbs"] == "yes", float(r["hours"]), float(r["per_tonne"]), r["kit"], r["risk"]
        )
        for r in rows("ways")
    }


def options(scene: Scene) -> tuple[Option, ...]:
    """Judge every way; docs/methods.md, method (1) to (6).

    Parameters
    ----------
    scene : Scene
        The plan as it stands, its gates, the lays tried, and what is on the site.

    References
    ----------
    Own rules, each tied to a gate or a number.
    """
    return tuple(_option(way, scene) for way in ways().values())


def _option(way: Way, scene: Scene) -> Option:
    stops = tuple(_gates(way, scene)) + tuple(_numbers(way, scene))
    tonnes = scene.result.estimates["mass"].value / 1000.0
    hours = way.hours + way.per_tonne * tonnes  # (1)
    unsure = [s for s in stops if s.unknown]
    verdict = Verdict.WITHIN if not stops else Verdict.NOT_KNOWN if len(unsure) == len(stops) else Verdict.OVER
    turn = _other_lay(scene) if way.key == "whole" else None
    return Option(way, verdict, stops, Estimate(hours, 0.6 * hours, 2.0 * hours, Kind.ASSUMED), turn)


def _gates(way: Way, scene: Scene) -> list[Stop]:
    """What the walk-up closes a way for, gates nobody looked at, and conductors; docs/methods.md, method (2).

    What is present closes by ``closes`` of ``data/hazards.csv``, whatever is said in reply; a gate counts against the
    ways it would close, or against all where it would close none.
    """
    if way.key == "refer":
        return []
    found = [
        Stop(f"seen {row.hazard}", hazard=hazards()[row.hazard])
        for row in scene.result.plan.seen
        if way.key in _closed(row.hazard)
    ]
    closed = {stop.key.removeprefix("seen ") for stop in found}
    for gate in scene.gates:
        ways_closed = gate.hazard.closes or tuple(ways())
        if gate.open and way.key in ways_closed and gate.hazard.key not in closed:
            found.append(Stop(f"gate {gate.hazard.key}", note=gate.why, unknown=not gate.looked, hazard=gate.hazard))
    for limit in scene.result.limits:
        if limit.key == "conductor" and limit.verdict in (Verdict.OVER, Verdict.NOT_KNOWN):
            found.append(Stop("conductor", limit.demand, limit.allowed, "length", limit.about.name))
    return found


def _closed(hazard: str) -> tuple[str, ...]:
    listed = hazards().get(hazard)
    return listed.closes if listed is not None else ()


def _numbers(way: Way, scene: Scene) -> list[Stop]:
    rule = {
        "whole": _whole,
        "reduce": _reduce,
        "spar": _spar,
        "freefall": _freefall,
        "rigging": _rigging,
        "speedline": _speedline,
        "lift": _lift,
        "crane": _crane,
    }.get(way.key)
    return rule(scene) if rule else []


def _whole(scene: Scene) -> list[Stop]:
    """What the fall on this lay reaches, and any limit at the stump that is over; method (3)."""
    free = _room(scene, 1.0)
    stops = [] if free is None else [_short(scene, free)]
    for limit in scene.result.limits:
        shut = limit.about.why == "shut"
        if limit.verdict is Verdict.OVER and (limit.key in ("tip", "split") or shut):
            key = f"{limit.key}_shut" if shut else limit.key
            stops.append(Stop(key, limit.demand, limit.allowed, limit.dimension))
    return stops


def _short(scene: Scene, room: tuple[float, str]) -> Stop:
    reach = scene.result.estimates["length"]
    return Stop("reach", reach, exactly(room[0], Kind.ESTIMATED), "length", room[1])


def _room(scene: Scene, crown: float) -> tuple[float, str] | None:
    """Longest length that may be laid on this lay and what ends it, or None where the whole fits; method (3).

    ``crown`` is the share of the spread that is left.
    """
    plan = scene.result.plan
    tall = silhouette(plan.tree, plan.tree.stands, scene.result.ground.tip_aside, plan.cuts.stump, upper=True)
    name = _reached(plan.site, plan.lay, scene.result.ground.scatter, tall, tall.length, crown)
    if not name:
        return None
    low, high = 0.5, tall.length
    while high - low > 0.05:
        middle = (low + high) / 2.0
        hit = _reached(plan.site, plan.lay, scene.result.ground.scatter, tall, middle, crown)
        low, high, name = (low, middle, hit) if hit else (middle, high, name)
    return low, name


def _reached(site: Site, lay: float, scatter: float, tall: Silhouette, length: float, crown: float) -> str:
    """First target a tree cut to a length, with a share of its crown, reaches on a lay; '' for none."""
    share = length / tall.length
    cut = Silhouette(
        length=length,
        crown_from=min(tall.crown_from, 0.9 * length),
        half_crown=max(tall.half_crown * crown, tall.half_stem),
        half_stem=tall.half_stem,
        aside=tall.aside * share,
        form=tall.form,
    )
    ground = swept(site, lay, scatter, cut)
    hits = shapely.intersects(site.shapes, ground).tolist() if site.targets else []
    return next((t.name for t, hit in zip(site.targets, hits, strict=True) if hit and not t.light_touch), "")


def _reduce(scene: Scene) -> list[Stop]:
    """Shortened and half its spread: at least two fifths of the height must be left to fell; method (4)."""
    room = _room(scene, 0.5)
    if room is None:
        return []
    least = 0.4 * scene.result.plan.tree.height.value
    if room[0] >= least:
        return []
    return [Stop("room_reduced", exactly(least, Kind.ASSUMED), exactly(room[0], Kind.ESTIMATED), "length", room[1])]


def _spar(scene: Scene) -> list[Stop]:
    """Limbs off, whole height; method (3)."""
    room = _room(scene, 0.0)
    return [] if room is None else [_short(scene, room)]


def _nearest(scene: Scene) -> tuple[float, str]:
    site = scene.result.plan.site
    found = [
        (float(t.shape.distance(site.stem)), t.name)
        for t in site.targets
        if not t.light_touch and t.kind in kinds_that("dropped_on")
    ]
    return min(found, default=(math.inf, ""))


def _freefall(scene: Scene) -> list[Stop]:
    """Open ground round the stem for half the spread and a metre; method (5)."""
    need = scene.result.plan.tree.spread.value / 2.0 + constant("clearance_near").value
    free, name = _nearest(scene)
    return [] if free >= need else [Stop("ground_round", exactly(need, Kind.ASSUMED), exactly(free), "length", name)]


def _rigging(scene: Scene) -> list[Stop]:
    """A stem that can carry the forces: nothing weak over its limit, not dead."""
    return _climbable(scene)


def _weak_name(limit: Limit) -> str:
    """A weak place by name: a limb with its union, or what is wrong with the stem."""
    about = limit.about
    return f"{about.name}: {about.why}" if about.name else ", ".join(w for w in (about.why, about.other) if w)


def _climbable(scene: Scene) -> list[Stop]:
    tree = scene.result.plan.tree
    weak = [
        Stop("weak", limit.demand, limit.allowed, limit.dimension, _weak_name(limit))
        for limit in weak_places(tree)
        if limit.verdict is Verdict.OVER
    ]
    return weak + ([] if tree.condition.wedges else [Stop("dead_stem", note=tree.condition.name)])


def _speedline(scene: Scene) -> list[Stop]:
    anchors = [f for f in scene.features if f.kind in ("anchor_tree", "anchor_vehicle")]
    stops = _climbable(scene)
    return stops if anchors else [*stops, Stop("no_anchor")]


def _narrowest(scene: Scene) -> tuple[float, str] | None:
    found = [way_out(f, scene.features) for f in scene.features if f.kind == "way_out"]
    if not found:
        return None
    best = max(found, key=lambda w: w.narrowest)
    return best.narrowest, best.narrowed_by or best.name


def _machine(scene: Scene, width: float, slope: float) -> list[Stop]:
    """Room to get in, and ground a machine stands on; method (6)."""
    stops, way = [], _narrowest(scene)
    if way is None:
        stops.append(Stop("way_unknown", unknown=True))
    elif way[0] < width:
        stops.append(Stop("way_narrow", exactly(width, Kind.ASSUMED), exactly(way[0]), "length", way[1]))
    steep = scene.result.plan.site.slope
    if steep > slope:
        stops.append(Stop("slope", exactly(steep), exactly(slope, Kind.ASSUMED), "angle"))
    return stops


def _lift(scene: Scene) -> list[Stop]:
    return _machine(scene, constant("lift_width").value, math.radians(10.0))


def _crane(scene: Scene) -> list[Stop]:
    return _machine(scene, constant("crane_width").value, math.radians(4.0))


def _other_lay(scene: Scene) -> float | None:
    """Open lay nearest to the chosen one, where the chosen one is not open [rad]."""
    lay = scene.result.plan.lay

    def off(azimuth: float) -> float:
        return abs(turn_to(azimuth - lay))

    if _room(scene, 1.0) is None:
        return None
    open_ = [row.azimuth for row in scene.lays if row.verdict is Verdict.WITHIN]
    return min(open_, key=off) if open_ else None
