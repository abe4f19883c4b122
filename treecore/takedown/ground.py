"""What a pick does on the ground: who is under it or in line with its rope, its zones, its way
out, and who lifts it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon
from shapely.geometry.base import BaseGeometry

from treecore.estimate import Estimate, Kind, exactly, times
from treecore.kinds import kinds_that
from treecore.rigging.pull_on_site import fouls, ground_at
from treecore.rigging.pulling import Leg
from treecore.rigging.swing import drop_reach
from treecore.schools import constant
from treecore.site import Site, Spot
from treecore.takedown.members import Members
from treecore.takedown.pick import Place, point_place, redirect_place
from treecore.takedown.pick_result import FreePick, HeldPick, HookPick, Worked, thrown_to, toss_reach
from treecore.verdict import About, Limit, Verdict, held

_VERTICAL = 0.5  # a leg shorter than this seen from above has no line of its own there [m]
_BEARINGS = 16  # places tried round a device for the person at it


class Stands(NamedTuple):
    """A person on the ground: what they do, where, on the site [m], and whether someone said so."""

    role: str
    place: tuple[float, float]
    said: bool


class Moving(NamedTuple):
    """Ground a piece moves over, on the site [m]: lines of its axis and half its width, and where it comes to lie."""

    axes: BaseGeometry
    half: float
    lies: BaseGeometry | None
    round_it: float

    def gap(self, shape: BaseGeometry) -> float:
        """Level distance of a shape from it [m].

        Parameters
        ----------
        shape : geometry
            On the site.
        """
        gap = float(shapely.distance(self.axes, shape)) - self.half
        if self.lies is not None:
            gap = min(gap, float(shapely.distance(self.lies, shape)) - self.round_it)
        return max(gap, 0.0)


_STEPS = 17  # places of a swing whose axes are looked at from above


def moves_over(w: Worked, site: Site) -> Moving:
    """Ground over which a piece moves, from release until it lies, with its leaves [m]; landing (4).

    Parameters
    ----------
    w : Worked
        The pick.
    site : Site
        Gives the stem's place.

    References
    ----------
    docs/methods.md, landing (4).
    """
    piece, foot = w.piece, np.array([site.tree_x, site.tree_y])
    half = max(_half_width(w), 0.1)
    if not isinstance(w, HeldPick):
        under, reach = Point(piece.cg[0] + foot[0], piece.cg[1] + foot[1]), drop_reach(piece.reach, piece.cg[2])
        if w.pick.method == "toss":
            return Moving(under, reach, Point(thrown_to(piece, w.pick, site)), toss_reach(piece))
        return Moving(under, reach, None, 0.0)
    steps = np.unique(np.linspace(0, len(w.path.butt) - 1, _STEPS).astype(int))
    axes = np.stack([w.path.butt[steps, :2], w.path.tip[steps, :2]], axis=1) + foot
    hangs = w.path.cg[w.path.rest, :2] + foot
    lies = np.array(w.pick.landing or w.point[:2]) + foot
    if w.pick.far_anchor is not None and w.pick.far_anchor.place is not None:
        axes = np.concatenate([axes, np.array([[w.point[:2], w.pick.far_anchor.place[:2]]]) + foot])
    way = LineString([hangs, lies]) if math.dist(hangs, lies) > 0.01 else Point(hangs)
    return Moving(shapely.multilinestrings(shapely.linestrings(axes)), half, way, 0.5 * piece.length + half)


def _half_width(w: Worked) -> float:
    if w.piece.foliage > 0.0:
        return constant("limb_width").value * w.piece.length / 2.0
    return w.piece.diameter / 2.0


def legs_of(members: Members, w: Worked, site: Site) -> tuple[Leg, ...]:
    """Tight legs of a pick's rope and of its far line, on the site [m].

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick.
    site : Site
        Gives the stem's place.
    """
    if not isinstance(w, HeldPick):
        return ()
    pick, rest = w.pick, w.forces.control_leg.value
    lead = redirect_place(members, w.after, pick)
    rope = [("rope to the device", w.point if lead is None else lead, pick.device_place)]
    if lead is not None:
        rope.append(("rope to where it is led over", w.point, lead))
    if pick.far_anchor is not None:
        far = pick.far_anchor.place or point_place(members, w.after, pick.far_anchor, "far_anchor")
        rope.append(("far line", w.point, far))
    return tuple(Leg(name, "", "", _on(a, site), _on(b, site), rest, rest) for name, a, b in rope)


def _on(place: Place, site: Site) -> Place:
    return place[0] + site.tree_x, place[1] + site.tree_y, place[2]


def recoil_of(leg: Leg) -> BaseGeometry:
    """Ground from which people keep off a tight leg: along it, beyond both its ends, and beside it [m]; landing (5).

    Parameters
    ----------
    leg : Leg
        The leg.

    References
    ----------
    docs/methods.md, landing (5).
    """
    a, b = np.array(leg.start[:2]), np.array(leg.end[:2])
    beside, along = constant("beside_clear").value, b - a
    flat = float(np.linalg.norm(along))
    if flat < _VERTICAL:
        return Point(b).buffer(beside)
    beyond = constant("recoil_reach").value * along
    cone = math.tan(constant("bight_cone").value) * constant("recoil_reach").value * flat
    side = np.array([-along[1], along[0]]) / flat
    fans = [
        Polygon([end, end + out + side * cone, end + out - side * cone]) for end, out in ((a, -beyond), (b, beyond))
    ]
    strip: BaseGeometry = LineString([a, b]).buffer(beside)
    for fan in fans:
        strip = strip.union(fan)
    return strip


def _round(device: tuple[float, float], far: float, away: float) -> list[tuple[float, float]]:
    """Places round a device, counted from the bearing away from the piece both ways."""
    turns = [away + math.tau * i / _BEARINGS for i in range(_BEARINGS)]
    return [(device[0] + far * math.sin(t), device[1] + far * math.cos(t)) for t in turns]


def stands_of(members: Members, w: Worked, site: Site) -> tuple[Stands, ...]:
    """Where people on the ground stand; where nobody said, the freest place near their device; landing (6).

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick.
    site : Site
        The site.

    References
    ----------
    docs/methods.md, landing (6): of places round the device, the one furthest from where the piece moves that is out of
    line with its rope.
    """
    if not isinstance(w, HeldPick):
        return ()
    pick, x, y = w.pick, site.tree_x, site.tree_y
    found = []
    if pick.device_from is not None:
        found.append(Stands("device", (pick.device_from[0] + x, pick.device_from[1] + y), True))
    else:
        found.append(Stands("device", _freest(members, w, site), False))
    if w.put.aside > constant("tag_room").value:
        if pick.tag_place is not None:
            found.append(Stands("tag", (pick.tag_place[0] + x, pick.tag_place[1] + y), True))
        else:
            found.append(Stands("tag", _beyond_landing(w, site), False))
    return tuple(found)


def _freest(members: Members, w: Worked, site: Site) -> tuple[float, float]:
    moves = moves_over(w, site)
    lines = shapely.union_all([recoil_of(leg) for leg in legs_of(members, w, site)])
    device = w.pick.device_place[0] + site.tree_x, w.pick.device_place[1] + site.tree_y
    away = math.atan2(device[0] - site.tree_x - w.piece.cg[0], device[1] - site.tree_y - w.piece.cg[1])
    least, first = constant("under_clear").value, constant("device_stands").value
    found = []
    for far in (first * more for more in _FURTHER):
        for place in _round(device, far, away):
            gap = moves.gap(Point(place))
            found.append((not shapely.intersects_xy(lines, *place), min(gap, least), -far, gap, place))
        if max(found)[:2] >= (True, least):
            break
    return max(found)[-1]


_FURTHER = (1.0, 1.5, 2.25, 3.5)  # how much further back someone goes where it is not clear nearer [-]


def _beyond_landing(w: HeldPick, site: Site) -> tuple[float, float]:
    """Beyond the landing as seen from the point, by the usual allowance."""
    lies = w.pick.landing or w.point[:2]
    out = np.array(lies) - np.array(w.point[:2])
    far = float(np.linalg.norm(out))
    x, y = np.array(lies) + (out / far if far > 0.01 else np.array([0.0, 1.0])) * constant("tag_stands").value
    return float(x) + site.tree_x, float(y) + site.tree_y


def ground_limits(members: Members, w: Worked, site: Site, posted: bool) -> Iterator[Limit]:
    """Hold a pick against people on the ground, ropes over targets, zones, the way out, and hands.

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick.
    site : Site
        What is around.
    posted : bool
        Whether the walk-up says what is done to keep people out.
    """
    yield from _people(members, w, site, posted)
    yield from _ropes(members, w, site)
    yield from _zones(w, site)
    yield from _away(w, site)


def _people(members: Members, w: Worked, site: Site, posted: bool) -> Iterator[Limit]:
    """Everyone on the ground against where the piece moves and against its tight ropes."""
    moves, least, beside = moves_over(w, site), constant("under_clear"), constant("beside_clear")
    crowd: list[tuple[str, BaseGeometry, bool]] = [
        (t.name, t.shape, posted) for t in site.targets if t.kind in kinds_that("crowd")
    ]
    crowd += [(name, shape, False) for name, shape in _manned(site)]
    crew = [(_ROLES[s.role], Point(s.place), False) for s in stands_of(members, w, site)]
    strips = [(leg.rope, recoil_of(leg)) for leg in legs_of(members, w, site)]
    for name, shape, out in (*crowd, *crew):
        gap = moves.gap(shape)
        if gap < _SAID * least.value:
            yield Limit("under_piece", _person(gap, least, out), exactly(gap, Kind.ESTIMATED), least, About(name=name))
        for rope, strip in strips:
            # The strip reaches as far beside the rope as people keep off it.
            away = float(shapely.distance(shape, strip))
            away = away + beside.value if away > 0.0 else 0.0
            if away < _SAID * beside.value:
                about = About(name=name, other=rope)
                yield Limit("recoil", _person(away, beside, out), exactly(away, Kind.ESTIMATED), beside, about)


def _manned(site: Site) -> Iterator[tuple[str, BaseGeometry]]:
    """Places where somebody is at work: vehicles that stand on the site, and the chipper at the end of its way."""
    for spot in site.places:
        if spot.kind in kinds_that("stands") and spot.kind not in kinds_that("carries"):
            yield spot.name, spot.shape
        elif spot.kind == "way_out":
            yield f"Chipper at the end of {spot.name}", Point(spot.outline[-1])


def _person(gap: float, least: Estimate, posted: bool) -> Verdict:
    """Over where a person is nearer than the least; near where someone keeps that place empty."""
    if gap >= least.value:
        return Verdict.WITHIN
    return Verdict.NEAR if posted else Verdict.OVER


_SAID = 2.0  # a gap twice the least and more is not worth a line
_ROLES = {"device": "The person at the device", "tag": "The person at the tag line"}


def _ropes(members: Members, w: Worked, site: Site) -> Iterator[Limit]:
    """Each tight leg against the targets under its whole way; docs/methods.md, pulling (6)."""
    for leg in legs_of(members, w, site):
        for foul in fouls(leg, site):
            passes, wanted = exactly(foul.passes, Kind.ESTIMATED), exactly(foul.wanted, Kind.ESTIMATED)
            yield Limit("rope_rubs", Verdict.OVER, passes, wanted, About(name=leg.rope, other=foul.target))


def _zones(w: Worked, site: Site) -> Iterator[Limit]:
    """What falls against the drop zone, what is let down against the landing zone, where either is drawn."""
    if isinstance(w, FreePick) and w.pick.method == "free":
        moves = moves_over(w, site)
        yield from _inside("outside_drop", moves.axes.buffer(moves.half), site.of("drop_zone"))
    if not isinstance(w, HeldPick):
        return
    lies = w.pick.landing or w.point[:2]
    round_it = 0.5 * w.piece.length
    circle = Point(lies[0] + site.tree_x, lies[1] + site.tree_y).buffer(round_it)
    yield from _inside("outside_landing", circle, site.of("landing_zone"))


def _inside(key: str, shape: BaseGeometry, zones: tuple[Spot, ...]) -> Iterator[Limit]:
    """How far a shape reaches beyond the zone that holds most of it; nothing where no zone is drawn."""
    if not zones:
        return
    over = [(float(shapely.hausdorff_distance(shape.union(z.shape), z.shape)), z) for z in zones]
    beyond, zone = min(over, key=lambda row: row[0])
    verdict = Verdict.OVER if beyond > _EDGE else Verdict.WITHIN
    yield Limit(key, verdict, exactly(max(beyond, 0.0), Kind.ESTIMATED), exactly(0.0), About(name=zone.name))


_EDGE = 0.05  # a zone is drawn no finer than this [m]


def _away(w: Worked, site: Site) -> Iterator[Limit]:
    """A piece that is carried away whole: past the corners of the way out, and by the hands there are; landing (3),
    (7).
    """
    pick = w.pick
    if pick.away == "machine" and not isinstance(w, HookPick):
        yield _machine(w)
    if pick.away == "chipper":
        throat = None if pick.throat is None else exactly(pick.throat)
        yield held("throat", exactly(w.piece.diameter, Kind.ESTIMATED), throat)
    carried = pick.away in ("carried", "chipper") or (pick.away == "" and pick.handlers > 0)
    if not carried:
        return
    most = constant("carry_most")
    if pick.handlers:
        each = times(w.piece.mass, 1.0 / pick.handlers)
        verdict = Verdict.OVER if each.high > most.value else Verdict.WITHIN
        yield Limit("lift_heavy", verdict, each, most, About(factor=float(pick.handlers)))
    else:
        yield Limit("lift_heavy", Verdict.NOT_KNOWN, w.piece.mass, None)
    ways = [(longest_past(spot.width, spot.corners, w), spot) for spot in site.of("way_out")]
    if ways:
        past, spot = max(ways, key=lambda row: row[0])
        length = exactly(w.piece.length, Kind.ESTIMATED)
        if math.isfinite(past):
            allowed = exactly(past, Kind.ESTIMATED)
            yield held("way_out", length, allowed, About(name=spot.name))


def _machine(w: Worked) -> Limit:
    """What a machine lifts where the piece lies, against the piece at its heaviest."""
    capacity = w.pick.capacity
    if capacity is None:
        return Limit("machine_lift", Verdict.NOT_KNOWN, w.piece.mass, None)
    return held("machine_lift", w.piece.mass, exactly(capacity))


def longest_past(width: float, corners: tuple[float, ...], w: Worked) -> float:
    """Longest piece of this kind that passes a way's corners and its narrowest [m]; landing (3).

    Parameters
    ----------
    width : float
        Narrowest width of the way. [m]
    corners : tuple of float
        Turns of its corners. [rad]
    w : Worked
        Gives thickness, or how wide a leafy piece is for its length.

    References
    ----------
    A rod of width d through a corner of turn f between equal passages: 2·(w/cos(f/2) − d)/tan(f/2); for a thin rod at a
    right angle the (w₁^⅔ + w₂^⅔)^(3/2) of textbooks.
    """
    leafy = constant("limb_width").value if w.piece.foliage > 0.0 else 0.0
    thick = 0.0 if leafy else w.piece.diameter
    longest = width / leafy if leafy else (math.inf if thick <= width else 0.0)
    for turn in corners:
        if turn < 0.02:
            continue
        half = min(turn, math.pi - 0.02) / 2.0
        past = 2.0 * (width / math.cos(half) - thick) / (math.tan(half) + 2.0 * leafy)  # (3)
        longest = min(longest, max(past, 0.0))
    return longest


_SOIL = 24  # places of a rope looked at against the ground


def _buried(leg: Leg, site: Site) -> float:
    """Least height of a straight leg over the ground [m]."""
    share = np.linspace(0.0, 1.0, _SOIL + 1)[:, None]
    places = np.array(leg.start) + share * (np.array(leg.end) - np.array(leg.start))
    return min(float(z) - ground_at(site, x, y) for x, y, z in places.tolist())


def under_ground(members: Members, w: HeldPick, site: Site) -> Iterator[Limit]:
    """No end of a piece, and no rope, passes through the ground, a leafy tip's brush left out; landing (8).

    Parameters
    ----------
    members : Members
        The tree's members.
    w : HeldPick
        The pick.
    site : Site
        Its slope is a plane through the stem's foot.
    """
    path = w.path
    for leg in legs_of(members, w, site):
        over = _buried(leg, site)
        if over < -_EDGE:
            low = exactly(over, Kind.ESTIMATED)
            yield Limit("ground", Verdict.OVER, low, exactly(0.0), About(name=leg.rope, why="rope"))
    tips = constant("tips_brush").value * w.piece.length if w.piece.foliage > 0.0 else 0.0
    x, y = site.tree_x, site.tree_y
    gaps = [
        float(end[2]) - ground_at(site, float(end[0]) + x, float(end[1]) + y) + soft
        for ends, soft in ((path.butt, 0.0), (path.tip, tips))
        for end in ends
    ]
    low = exactly(min(gaps), Kind.ESTIMATED)
    if low.value < -_EDGE:
        yield Limit("ground", Verdict.OVER, low, exactly(0.0))
