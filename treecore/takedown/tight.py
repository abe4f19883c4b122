"""When the rope of a pick comes tight: peaks by every school, legs, the wood of its anchors, device and hand."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import NamedTuple

from treecore.errors import CoreError, NotSolvable
from treecore.estimate import Estimate, Kind, times
from treecore.felling.balance import GRAVITY
from treecore.rigging.bending import AnchorStress, anchor_stress, limb_stress, split_force
from treecore.rigging.forces import (
    block_force,
    cg_fall,
    field_rule,
    hinged_lever,
    in_play,
    run_peak,
    stretch_peak,
    swing_tension,
    turn_between,
)
from treecore.rigging.friction import Device, devices, hand_force, passed_by_fork, rule_of_thumb, wraps_for
from treecore.rigging.spans import drift_pulls, speed_pull
from treecore.schools import constant
from treecore.takedown.members import Members, place_on, thickness
from treecore.takedown.pick import Pick, RigPoint, hold_place, point_place
from treecore.takedown.pieces import Piece, Standing, Taken

Place = tuple[float, float, float]
DOWN = (0.0, 0.0, -1.0)  # once it is caught the piece hangs under the point


class Peaks(NamedTuple):
    """Tension in the leg to the piece [N]: still, by the field rule, locked with stretch, let run; the one that counts."""

    still: Estimate
    field: Estimate
    stretch: Estimate
    run: Estimate
    counts: Estimate
    school: str


class Wraps(NamedTuple):
    """Wraps on a device [-]: least that hold the piece still, most that let it run, least that lock off its peak."""

    hold: float
    run: float
    lock: float


class Forces(NamedTuple):
    """Forces of a pick. ``fall`` of its balance [m]; tensions [N]; ``passed`` by point and lead [-]; ``hand`` at the device [N].

    ``force`` on the point: east, north, up [N]. ``wraps`` for this device; ``needed`` rope [m]; ``stiffness`` of the rope
    in play [N/m]; ``on_lead`` and ``lead_anchor`` where the rope is led over another place; ``lever`` tension that would
    hold the piece on its hinge; ``far`` pull on the second high point [N], and its wood.
    """

    fall: float
    peaks: Peaks
    passed: float
    rest: Estimate
    on_point: Estimate
    force: Place
    anchor: AnchorStress | None
    hand: Estimate
    wraps: Wraps
    thumb: float
    needed: float
    stiffness: float
    on_lead: Estimate | None
    lead_anchor: AnchorStress | None
    lever: float | None
    far: float | None
    far_anchor: AnchorStress | None

    @property
    def on_point_still(self) -> float:
        """Load on the rigging point while the piece hangs still [N]."""
        return self.on_point.value * self.peaks.still.value / self.peaks.counts.value

    def taken(self, pretension: float) -> float | None:
        """Share of what would hold the piece on its hinge that a tight line takes [-]; None without either.

        Parameters
        ----------
        pretension : float
            In the line before the cut. [N]
        """
        return pretension / self.lever if self.lever and pretension else None


class Route(NamedTuple):
    """The rope's way [m]: tie, point, where it is led over, device; length to the point and beyond, shares passed on [-]."""

    tie: Place
    point: Place
    led: Place | None
    device: Place
    hang: Place
    lengths: tuple[float, ...]
    passes: tuple[float, ...]


def route_of(members: Members, standing: Standing, pick: Pick, tie: Place, point: Place, hang: Place = DOWN) -> Route:
    """Follow the rope of a pick from its tie to the device; docs/methods.md, forces (5), friction (4).

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands while the piece comes off.
    pick : Pick
        How it is taken; with a rigging point.
    tie, point, hang : tuple of float
        Places of tie and rigging point [m]; unit direction of the loaded leg [-].

    Raises
    ------
    NotSolvable
        Where two parts of the rope lie on one another, or it is led over what does not stand.
    """
    assert pick.point is not None
    led = point_place(members, standing, pick.lead, "lead") if pick.lead else None
    stops = [point, *([led] if led else []), pick.device_place]
    ways = [hang, *(_unit(a, b) for a, b in pairwise(stops))]
    over = [pick.point, *([pick.lead] if pick.lead else [])]
    passes = []
    for i, where in enumerate(over):
        back = ways[i] if i == 0 else (-ways[i][0], -ways[i][1], -ways[i][2])
        passes.append(_passed(where, turn_between(back, ways[i + 1])))
    lengths = [max(math.dist(tie, point), 0.3) + pick.slack]
    lengths += [max(math.dist(a, b), 0.3) for a, b in pairwise(stops)]
    return Route(tie, point, led, pick.device_place, hang, tuple(lengths), tuple(passes))


def _passed(point: RigPoint, turn: float) -> float:
    if point.fork:
        return passed_by_fork(constant("bark_friction").value, turn)
    return float(point.efficiency ** (turn / math.pi))


def _unit(a: Place, b: Place) -> Place:
    d = math.dist(a, b)
    if d < 0.02:
        raise NotSolvable("rigging_point", "two parts of the rope lie on one another")
    return (b[0] - a[0]) / d, (b[1] - a[1]) / d, (b[2] - a[2]) / d


def _stretching(route: Route) -> float:
    """Length of rope that takes part in stretching [m]: each part by what reaches it, squared; forces (5)."""
    length, passed = route.lengths[0], 1.0
    for part, share in zip(route.lengths[1:], route.passes, strict=True):
        passed *= share
        length = in_play(length, part, passed)
    return length  # (5)


def forces_of(members: Members, step: Taken, pick: Pick, point: Place) -> Forces:
    """Work out the forces of a pick that is held by a line.

    Parameters
    ----------
    members : Members
        The tree's members.
    step : Taken
        The piece, and what stands before and after.
    pick : Pick
        How it is taken; with a rigging point.
    point : tuple of float
        Where that is. [m]

    Raises
    ------
    NotSolvable, OutOfRange
        Naming what is wrong with the pick.

    References
    ----------
    docs/methods.md, forces (1) to (7), (13), (14), friction (1) to (4), anchor (1) to (5).
    """
    assert pick.point is not None
    piece, tie = step.piece, hold_place(step.piece, pick)
    span = _span(members, step, pick, point)
    hang = span.hang if span else DOWN
    route = route_of(members, step.after, pick, tie, point, hang)
    weight = times(piece.mass, GRAVITY)
    beyond = (piece.balance.value - pick.tie) * piece.way[2]
    fall = cg_fall(tie[2] - point[2], beyond, pick.slack)
    stiffness = _modulus(pick) / _stretching(route)
    peaks = _peaks(pick, weight, fall, stiffness, tie, point, span)
    passed = math.prod(route.passes)
    first = _unit(point, route.led or route.device)
    force = block_force(hang, first, peaks.counts.value, route.passes[0])
    led = _led(members, step, pick, route, peaks.counts.value) if route.led and pick.lead else None
    device = devices()[pick.device]
    on_device = times(peaks.counts, passed)
    landing = (*pick.landing, 0.0) if pick.landing else (point[0], point[1], 0.0)
    needed = max(route.lengths[0], math.dist(point, landing)) + sum(route.lengths[1:]) + constant("rope_tail").value
    return Forces(
        fall, peaks, passed, on_device, _scaled(peaks.counts, math.hypot(*force)), force,
        wood_under(members, pick.point, force), _hand(on_device, device, pick.wraps), wraps_on(peaks, passed, device),
        rule_of_thumb(piece.mass.value), needed, stiffness,
        _scaled(peaks.counts, math.hypot(*led)) if led else None,
        wood_under(members, pick.lead, led) if led and pick.lead else None,
        _lever(piece, pick, tie, point, weight.value), span.far if span else None,
        wood_under(members, pick.far, span.force) if span and pick.far else None,
    )  # fmt: skip


def _scaled(e: Estimate, value: float) -> Estimate:
    return times(e, value / max(e.value, 1e-9))


def _hand(load: Estimate, device: Device, wraps: float) -> Estimate:
    held = wraps + device.base
    return Estimate(
        hand_force(load.value, device.friction.value, held), hand_force(load.low, device.friction.high, held),
        hand_force(load.high, device.friction.low, held), Kind.ESTIMATED,
    )  # fmt: skip


def wraps_on(peaks: Peaks, passed: float, device: Device) -> Wraps:
    """Wraps that hold a piece, let it run, and lock off its peak; docs/methods.md, friction (2).

    Parameters
    ----------
    peaks : Peaks
        Tensions of the pick. [N]
    passed : float
        Share of them that reaches the device. [-]
    device : Device
        Which; what it counts as by itself is taken off.
    """
    at_ease, friction = constant("hand_hold").value, device.friction.value

    def wraps(load: float, hand: float) -> float:
        return max(wraps_for(load * passed, hand, friction) - device.base, 0.0)

    return Wraps(
        wraps(peaks.still.value, at_ease),
        wraps(peaks.still.value, constant("hand_run").value),
        wraps(peaks.stretch.value, at_ease),
    )


def _modulus(pick: Pick) -> float:
    rope = pick.gear.get("rope")
    return rope.modulus if rope is not None and rope.modulus else constant("rope_modulus").value


class _Span(NamedTuple):
    """A second high point: most tension in the line per newton of the piece [-], pull on the far end [N]; the loaded leg's
    way [-]; force on the far end: east, north, up [N].
    """

    pull: float
    far: float
    hang: Place
    force: Place


def _span(members: Members, step: Taken, pick: Pick, point: Place) -> _Span | None:
    if pick.far is None or pick.method not in ("speed", "drift"):
        return None
    far, weight = point_place(members, step.after, pick.far, "far"), step.piece.mass.value * GRAVITY
    level, rise = math.hypot(far[0] - point[0], far[1] - point[1]), far[2] - point[2]
    if level < 1.0:
        raise NotSolvable("far", "the second high point stands at least 1 m aside of the first")
    middle = tuple((a + b) / 2.0 for a, b in zip(point, far, strict=True))
    if pick.method == "speed":
        pull = speed_pull(1.0, math.dist(point, far), pick.sag)
        dip = pick.sag * math.dist(point, far)
        load = middle[0], middle[1], middle[2] - dip
        return _Span(pull, pull * weight, _unit(point, load), _times(_unit(far, load), pull * weight))
    below = max(point[2] - step.piece.cg[2], 0.5)
    first, second = drift_pulls(1.0, level, rise, below)
    load = middle[0], middle[1], point[2] - below
    return _Span(first, second * weight, _unit(point, load), _times(_unit(far, load), second * weight))


def _times(way: Place, size: float) -> Place:
    return way[0] * size, way[1] * size, way[2] * size


def _peaks(
    pick: Pick, weight: Estimate, fall: float, stiffness: float, tie: Place, point: Place, span: _Span | None
) -> Peaks:
    angle = math.atan2(math.hypot(tie[0] - point[0], tie[1] - point[1]), max(point[2] - tie[2], 1e-6))
    ends = (weight.value, max(weight.low, 1.0), weight.high)
    swings = [swing_tension(w, angle) if tie[2] < point[2] else 0.0 for w in ends]
    spans = [w * span.pull if span else 0.0 for w in ends]

    def three(values: list[float]) -> Estimate:
        value, low, high = (max(v) for v in zip(values, swings, spans, [pick.pretension] * 3, strict=True))
        return Estimate(value, min(low, value), max(high, value), Kind.ESTIMATED)

    # A line already tight before the cut takes over its share without a jerk; the rest comes suddenly.
    ready = [min(pick.pretension, w) if fall <= 0.0 else 0.0 for w in ends]
    ruled = three([field_rule(w, fall) for w in ends])
    stretched = three([stretch_peak(w, fall, stiffness) - r for w, r in zip(ends, ready, strict=True)])
    running = three([run_peak(w, fall, pick.run) for w in ends])
    counts, school = (running, "run") if pick.held == "run" else (stretched, "stretch")
    still = max(weight.value, spans[0])
    return Peaks(times(weight, still / weight.value), ruled, stretched, running, counts, school)


def _led(members: Members, step: Taken, pick: Pick, route: Route, tension: float) -> Place:
    """Force on the place the rope is led over [N]."""
    assert route.led is not None
    reached = tension * route.passes[0]
    return block_force(_unit(route.led, route.point), _unit(route.led, route.device), reached, route.passes[1])


def _lever(piece: Piece, pick: Pick, tie: Place, point: Place, weight: float) -> float | None:
    """Tension that would hold a piece on its hinge; None for upright pieces and ties right at the hinge."""
    if pick.method == "bridle" or pick.tie < 0.05 or point[2] <= tie[2] or piece.slope > constant("upright").value:
        return None
    rope = _unit(tie, point)
    between = math.acos(min(max(sum(a * b for a, b in zip(rope, piece.way, strict=True)), -1.0), 1.0))
    try:
        return hinged_lever(weight, piece.balance.value, pick.tie, piece.slope, between)
    except CoreError:
        return None


def wood_under(members: Members, point: RigPoint, force: Place) -> AnchorStress | None:
    """Stress in the wood that carries a force; None in another tree of which nobody said how thick and sound it is.

    Parameters
    ----------
    members : Members
        The tree's members.
    point : RigPoint
        Where the force acts.
    force : tuple of float
        East, north, up. [N]

    References
    ----------
    docs/methods.md, anchor (1) to (5): the stem, and every union on the way down to it.
    """
    if point.member is None:
        return _elsewhere(point, force)
    row = members.rows[point.member]
    if row == 0:
        return anchor_stress(members.tree, point.at, force, 0.0)
    place = place_on(members, row, point.at)
    foot = anchor_stress(members.tree, min(_root(members, row), 0.98 * members.tree.stem.top), force, 0.0, place=place)
    unions = at_unions(members, row, place, force)
    worst = max((foot, *unions), key=_strain)
    return worst._replace(along=unions[0].along, across=unions[0].across, turning=foot.turning)


def _strain(a: AnchorStress) -> float:
    return math.inf if a.kept is None else a.stress / a.kept


def at_unions(members: Members, row: int, place: Place, force: Place) -> list[AnchorStress]:
    """Stress at every union between a place on a limb and the stem; docs/methods.md, anchor (4).

    Parameters
    ----------
    members : Members
        The tree's members.
    row : int
        The limb.
    place, force : tuple of float
        Where the force acts, from the stem's foot [m], and the force: east, north, up [N].
    """
    found = []
    while row > 0:
        found.append(_at_union(members, row, place, force))
        row = members.parent[row]
    return found


def _at_union(members: Members, row: int, place: Place, force: Place) -> AnchorStress:
    """Stress at a limb's union under a force at a place beyond it; docs/methods.md, anchor (4)."""
    way, base = members.way[row].tolist(), members.base[row].tolist()
    arm = [p - b for p, b in zip(place, base, strict=True)]
    moment = (
        arm[1] * force[2] - arm[2] * force[1], arm[2] * force[0] - arm[0] * force[2], arm[0] * force[1] - arm[1] * force[0]
    )  # fmt: skip
    twist = sum(m * w for m, w in zip(moment, way, strict=True))
    bending = math.sqrt(max(sum(m * m for m in moment) - twist * twist, 0.0))
    along, across = split_force(force, (way[0], way[1], way[2]))
    union = members.unions[row]
    kept: float | None = 1.0
    if union == "included bark":
        kept = constant("union_included").value
    elif union != "sound":
        kept = None
    why = f"union of {members.names[row]}" + ("" if union == "sound" else f", {union}")
    stress = float(limb_stress(1.0, bending, thickness(members, row, 0.0)))
    return AnchorStress(along, across, stress, base[2], why, kept)  # (4)


def _elsewhere(point: RigPoint, force: Place) -> AnchorStress | None:
    """Another tree bends as a cantilever from its foot; docs/methods.md, anchor (5)."""
    if point.thick is None or not point.sound or point.place is None:
        return None
    across = math.hypot(force[0], force[1])
    pressed = max(-force[2], 0.0) / (math.pi / 4.0 * point.thick**2)
    stress = float(limb_stress(across, point.place[2], point.thick)) + pressed
    return AnchorStress(-force[2], across, stress, 0.0, point.tree or "another tree")  # (5)


def _root(members: Members, row: int) -> float:
    while members.parent[row] > 0:
        row = members.parent[row]
    return float(members.at[row])
