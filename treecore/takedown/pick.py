"""One pick worked out whole: forces, anchor, friction, chain of gear, way, climber, and every limit on it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import NamedTuple

import shapely

from treecore.errors import NotSolvable, between
from treecore.estimate import Estimate, Kind, times
from treecore.felling.balance import GRAVITY
from treecore.rigging.bending import AnchorStress, anchor_stress, limb_stress
from treecore.rigging.climbing import Climber
from treecore.rigging.forces import (
    block_force,
    bridle_legs,
    cg_fall,
    field_rule,
    in_play,
    run_peak,
    shared,
    stretch_peak,
    swing_tension,
    turn_between,
    two_legs,
)
from treecore.rigging.friction import devices, hand_force, passed_by_fork, rule_of_thumb, wraps_for
from treecore.rigging.gear import Item
from treecore.rigging.swing import Passing, Swing, drop_circle, passings, swing
from treecore.schools import constant
from treecore.site import Site
from treecore.tables import rows
from treecore.takedown.members import Members, place_on, thickness
from treecore.takedown.pieces import Piece, Standing, Taken

Place = tuple[float, float, float]
HELD = ("lock", "soft", "run")


@dataclass(frozen=True, slots=True)
class Method:
    """A way of taking a piece: lines it needs, and where its rigging point lies: none, above or below the cut."""

    key: str
    name: str
    lines: int
    point: str
    when: str
    wrong: str


@cache
def methods() -> dict[str, Method]:
    """Return every way of taking a piece by key."""
    return {
        r["key"]: Method(r["key"], r["name"], int(r["lines"]), r["point"], r["when"], r["wrong"])
        for r in rows("pick_methods")
    }


@cache
def cut_types() -> dict[str, tuple[str, str]]:
    """Return every type of cut by key: its name and its reason."""
    return {r["key"]: (r["name"], r["reason"]) for r in rows("pick_cuts")}


@dataclass(frozen=True, slots=True, kw_only=True)
class RigPoint:
    """A rigging point: on a member of this tree, or at a place in another (from the stem's foot) [m].

    ``fork`` is a natural fork instead of a block; ``efficiency`` what a block passes on over half a turn [-].
    """

    member: str | None = None
    at: float = 0.0
    place: Place | None = None
    fork: bool = False
    efficiency: float = 0.95

    def __post_init__(self) -> None:
        """Refuse a point that is nowhere."""
        if (self.member is None) == (self.place is None):
            raise NotSolvable("rigging_point", "a rigging point is on this tree or at a place in another")
        between("rigging_point", self.efficiency, 0.3, 1.0, "a block passes on 0.3 to all of a tension")


@dataclass(frozen=True, slots=True, kw_only=True)
class Pick:
    """How a piece is taken. Ties along it from the cut [m], slack and run [m], the device's place from the foot [m].

    ``gear`` names items of the store by what they are in the path.
    """

    name: str
    method: str = "butt"
    cut_type: str = "hinge"
    tie: float = 0.5
    second_tie: float | None = None
    point: RigPoint | None = None
    slack: float = 0.0
    held: str = "soft"
    run: float = 2.0
    device: str = "bollard"
    device_place: Place = (0.0, 0.0, 1.0)
    wraps: float = 2.0
    gear: Mapping[str, Item] = field(default_factory=dict)
    knot: str = "running_bowline"
    sling: str = "choked"
    design: str = "5"
    climber: Climber | None = None
    landing: tuple[float, float] | None = None

    def __post_init__(self) -> None:
        """Refuse what no pick is."""
        if self.method not in methods():
            raise NotSolvable("method", f"“{self.method}” is none of {', '.join(methods())}")
        if self.cut_type not in cut_types():
            raise NotSolvable("cut_type", f"“{self.cut_type}” is none of {', '.join(cut_types())}")
        if self.held not in HELD:
            raise NotSolvable("held", f"“{self.held}” is none of {', '.join(HELD)}")
        if self.device not in devices():
            raise NotSolvable("device", f"“{self.device}” is none of {', '.join(devices())}")
        between("slack", self.slack, 0.0, 30.0, "0 to 30 m of rope", "length")
        between("run", self.run, 0.05, 60.0, "5 cm to 60 m", "length")
        between("wraps", self.wraps, 0.0, devices()[self.device].most, "as many as the device takes")
        if methods()[self.method].lines and self.point is None:
            raise NotSolvable("rigging_point", "this method needs a rigging point")


class Peaks(NamedTuple):
    """Tension in the leg to the piece [N]: still, by the field rule, locked with stretch, let run; the one that counts."""

    still: Estimate
    field: Estimate
    stretch: Estimate
    run: Estimate
    counts: Estimate
    school: str


class Forces(NamedTuple):
    """Forces of a pick. ``fall`` of its balance [m]; tensions [N]; ``passed`` over the point [-]; ``hand`` at the device [N].

    ``wraps`` that hold it by a comfortable hand [-]; ``needed`` rope [m]; ``stiffness`` of the rope in play [N/m].
    """

    fall: float
    peaks: Peaks
    passed: float
    rest: Estimate
    on_point: Estimate
    anchor: AnchorStress | None
    hand: Estimate
    wraps: float
    thumb: float
    needed: float
    stiffness: float


class Worked(NamedTuple):
    """A pick worked out: its piece, its forces and way, None for what is not held by a line."""

    pick: Pick
    piece: Piece
    before: Standing
    after: Standing
    point: Place | None
    forces: Forces | None
    path: Swing | None
    passes: tuple[Passing, ...]


def tie_place(piece: Piece, along: float) -> Place:
    """Where along a piece a tie is, from the stem's foot [m].

    Parameters
    ----------
    piece : Piece
        The piece.
    along : float
        From its cut. [m]

    Raises
    ------
    OutOfRange
        If it is not on the piece.
    """
    between("tie", along, 0.0, piece.length, "a tie lies on the piece, from its cut to its tips", "length")
    x, y, z = (b + w * along for b, w in zip(piece.butt, piece.way, strict=True))
    return x, y, z


def point_place(members: Members, standing: Standing, point: RigPoint) -> Place:
    """Where a rigging point is, from the stem's foot [m].

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands while the piece comes off.
    point : RigPoint
        The point.

    Raises
    ------
    NotSolvable
        If it is on what does not stand.
    """
    if point.place is not None:
        return point.place
    row = members.rows.get(point.member or "", -1)
    if row < 0:
        raise NotSolvable("rigging_point", f"there is no limb “{point.member}” on this tree")
    if not standing.has(row, point.at):
        raise NotSolvable("rigging_point", "it is above, or beyond, what stands when this piece comes off")
    return place_on(members, row, point.at)


def work(members: Members, step: Taken, pick: Pick, site: Site) -> Worked:
    """Work a pick out as the tree stands when its turn comes.

    Parameters
    ----------
    members : Members
        The tree's members.
    step : Taken
        The piece, and what stands before and after.
    pick : Pick
        How it is taken.
    site : Site
        What is around.

    Raises
    ------
    NotSolvable, OutOfRange
        Naming what is wrong with the pick.

    References
    ----------
    docs/methods.md, forces (1) to (6), friction (1), anchor (1) to (4), swing (1) to (4).
    """
    piece = step.piece
    if methods()[pick.method].lines == 0 or pick.point is None:
        return Worked(pick, piece, step.before, step.after, None, None, None, drops(piece, pick, site))
    point = point_place(members, step.after, pick.point)
    tie_place(piece, pick.tie)
    forces = _forces(members, step, pick, point)
    path = swing(
        piece.butt,
        piece.tip,
        min(piece.balance.value, piece.length),
        pick.tie,
        point,
        pick.slack,
        constant("hang_over").value,
    )
    return Worked(pick, piece, step.before, step.after, point, forces, path, passings(path, site))


def drops(piece: Piece, pick: Pick, site: Site) -> tuple[Passing, ...]:
    """Return how far every target lies from where a freely falling piece may come to; a tossed one goes where it is thrown.

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    site : Site
        Targets as prisms.

    References
    ----------
    docs/methods.md, swing (6).
    """
    if pick.method != "free" or not site.targets:
        return ()
    ground = drop_circle(piece.reach, piece.cg[2], (piece.cg[0] + site.tree_x, piece.cg[1] + site.tree_y))
    gaps = shapely.distance(site.shapes, ground).tolist()
    rows = [
        Passing(t.name, gap, False, t.light_touch)
        for t, gap in zip(site.targets, gaps, strict=True)
        if t.kind not in ("lane", "conductor")
    ]
    return tuple(sorted(rows, key=lambda p: p.gap))


def fall_energy(piece: Piece) -> float:
    """Energy of a piece that falls freely to the ground [J].

    Parameters
    ----------
    piece : Piece
        The piece.

    References
    ----------
    Weight times the height of its balance.
    """
    return piece.mass.value * GRAVITY * max(piece.cg[2], 0.0)


class Shares(NamedTuple):
    """Two lines or two legs of one piece: tension in each [N], and the legs' lengths [m], 0 for two lines."""

    first: float
    second: float
    first_leg: float
    second_leg: float


def two_ties(piece: Piece, pick: Pick, head: float = 1.5) -> Shares | None:
    """Share of the weight on both ties of a piece that is kept as it lies; None where it has one.

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken; tip and butt, or a bridle.
    head : float
        Height of a bridle's head above the piece. [m]

    Raises
    ------
    NotSolvable
        If both are tied at one place.

    References
    ----------
    docs/methods.md, forces (8) to (10).
    """
    if pick.second_tie is None or pick.method not in ("both", "bridle"):
        return None
    weight, cg = piece.mass.value * GRAVITY, piece.balance.value
    if pick.method == "both":
        return Shares(*shared(weight, pick.tie, pick.second_tie, cg), 0.0, 0.0)
    legs = bridle_legs(head, (pick.tie, pick.second_tie), cg)
    left, right = (math.atan2(abs(t - cg), head) for t in (pick.tie, pick.second_tie))
    return Shares(*two_legs(weight, left, right), *legs)


def _unit(a: Place, b: Place) -> Place:
    d = math.dist(a, b)
    if d < 0.02:
        raise NotSolvable("rigging_point", "two parts of the rope lie on one another")
    return (b[0] - a[0]) / d, (b[1] - a[1]) / d, (b[2] - a[2]) / d


def _forces(members: Members, step: Taken, pick: Pick, point: Place) -> Forces:
    piece = step.piece
    assert pick.point is not None
    tie = tie_place(piece, pick.tie)
    weight = times(piece.mass, GRAVITY)
    beyond = (piece.balance.value - pick.tie) * piece.way[2]
    fall = cg_fall(tie[2] - point[2], beyond, pick.slack)
    lead = max(math.dist(tie, point), 0.3) + pick.slack
    rest = max(math.dist(point, pick.device_place), 0.3)
    hang = (0.0, 0.0, -1.0)  # once it is caught the piece hangs under the point
    down = _unit(point, pick.device_place)
    turn = turn_between(hang, down)
    passed = (
        passed_by_fork(constant("bark_friction").value, turn)
        if pick.point.fork
        else pick.point.efficiency ** (turn / math.pi)
    )
    stiffness = _modulus(pick) / in_play(lead, rest, passed)
    peaks = _peaks(pick, piece, weight, fall, stiffness, tie, point)
    counts = peaks.counts
    force = block_force(hang, down, counts.value, passed)
    device = devices()[pick.device]
    on_device = times(counts, passed)
    held = pick.wraps + device.base
    hand = Estimate(
        hand_force(on_device.value, device.friction.value, held), hand_force(on_device.low, device.friction.high, held),
        hand_force(on_device.high, device.friction.low, held), Kind.ESTIMATED,
    )  # fmt: skip
    still = times(peaks.still, passed).value
    needed = lead + rest + max(point[2], 0.0) + constant("rope_tail").value
    return Forces(
        fall, peaks, passed, on_device, times(counts, math.hypot(*force) / max(counts.value, 1e-9)),
        _anchor(members, step, pick, force), hand,
        max(wraps_for(still, constant("hand_hold").value, device.friction.value) - device.base, 0.0),
        rule_of_thumb(piece.mass.value), needed, stiffness,
    )  # fmt: skip


def _modulus(pick: Pick) -> float:
    rope = pick.gear.get("rope")
    return rope.modulus if rope is not None and rope.modulus else constant("rope_modulus").value


def _peaks(
    pick: Pick, piece: Piece, weight: Estimate, fall: float, stiffness: float, tie: Place, point: Place
) -> Peaks:
    angle = math.atan2(math.hypot(tie[0] - point[0], tie[1] - point[1]), max(point[2] - tie[2], 1e-6))
    swings = [swing_tension(w, angle) if tie[2] < point[2] else 0.0 for w in (weight.value, weight.low, weight.high)]

    def three(values: list[float]) -> Estimate:
        value, low, high = (max(v, s) for v, s in zip(values, swings, strict=True))
        return Estimate(value, min(low, value), max(high, value), Kind.ESTIMATED)

    ends = (weight.value, max(weight.low, 1.0), weight.high)
    ruled = three([field_rule(w, fall) for w in ends])
    stretched = three([stretch_peak(w, fall, stiffness) for w in ends]) if fall > 0.0 else three(list(ends))
    running = three([run_peak(w, fall, pick.run) for w in ends])
    counts, school = {"lock": (stretched, "stretch"), "soft": (stretched, "stretch"), "run": (running, "run")}[
        pick.held
    ]
    return Peaks(weight, ruled, stretched, running, counts, school)


def _anchor(members: Members, step: Taken, pick: Pick, force: Place) -> AnchorStress | None:
    """Stress in this tree's wood under the rigging point; another tree's is not known."""
    point = pick.point
    if point is None or point.member is None:
        return None
    row = members.rows[point.member]
    if row == 0:
        return anchor_stress(members.tree, point.at, force, 0.0)
    foot = anchor_stress(members.tree, min(_root(members, row), 0.98 * members.tree.stem.top), force, 0.0)
    x, y, z = members.way[row].tolist()
    along = force[0] * x + force[1] * y + force[2] * z
    across = math.sqrt(max(sum(v * v for v in force) - along * along, 0.0))
    stress = float(limb_stress(across, point.at, thickness(members, row, 0.0)))
    worse = stress > foot.stress
    return AnchorStress(
        -along,
        across,
        max(stress, foot.stress),
        0.0 if worse else foot.height,
        f"union of {point.member}" if worse else foot.why,
    )


def _root(members: Members, row: int) -> float:
    while members.parent[row] > 0:
        row = members.parent[row]
    return float(members.at[row])
