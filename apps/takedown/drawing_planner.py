"""What the takedown's pictures show, worked out by the core: places in metres, from a side or from above.

From a side a place is how far it lies to the right of the stem's foot and how high; from above it is east and north.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from shapely import Polygon

from apps.takedown.planner import Entry, Row, Scene, climber_of, people_of
from treecore.rigging.bending import split_along
from treecore.rigging.climbing import Climber, pendulum_swing
from treecore.rigging.swing import drop_circle, swept
from treecore.takedown.climber import Aloft
from treecore.takedown.members import Members, place_on, thickness
from treecore.takedown.pick import hold_place, point_place, redirect_place, tie_place
from treecore.takedown.pick_result import HeldPick, Worked
from treecore.takedown.pieces import Piece, Standing, whole
from treecore.tree.shaping import across_view

Flat = tuple[float, float]
Place = tuple[float, float, float]
_SHOWN = 0.01  # wood shorter than this is not drawn [m]
NOTCH = 2.5  # how far from the cut the handle of the way a notch faces is drawn [m]
_SLIP = 9  # places of a slip that are drawn


@dataclass(frozen=True)
class Wood:
    """A length of a member as a narrow shape: its corners, how it is known, and its name; none for the stem.

    ``chord`` are foot and tip of the whole member, ``widths`` how thick it is at equal shares of it [m], ``part`` from
    which share to which it is there; ``leafy`` whether it has foliage, ``deep`` how far behind the stem it ends [m].
    """

    corners: tuple[Flat, ...]
    style: str
    name: str
    chord: tuple[Flat, Flat]
    widths: tuple[float, ...]
    part: tuple[float, float]
    leafy: bool
    deep: float


@dataclass(frozen=True, kw_only=True)
class Rope:
    """Rope and way of a piece on a line, from a side.

    ``legs`` of a bridle; ``rope`` its stops from the piece to the device; ``far`` both ends of a line it goes along;
    ``swept`` the outline of its way, ``ghosts`` places it passes. ``weak`` is where the stem bends most, by height.
    ``push`` and ``corner`` are the force on the point and its part along the wood, as shares of that force.
    """

    tie: Flat
    legs: tuple[tuple[Flat, Flat], ...]
    point: Flat
    device: Flat
    own: bool
    led: Flat | None
    rope: tuple[Flat, ...]
    far: tuple[Flat, Flat] | None
    swept: tuple[Flat, ...]
    way: tuple[Flat, ...]
    ghosts: tuple[tuple[Flat, Flat], ...]
    weak: float | None
    stress: float | None
    force: float
    across: float | None
    push: Flat
    corner: Flat


@dataclass(frozen=True, kw_only=True)
class ClimberSeen:
    """A climber from a side: stance and tie-ins, the way of a slip, and which ties are on this tree."""

    stance: Flat
    tie: Flat
    second: Flat | None
    slip: tuple[Flat, ...]
    own: bool
    second_own: bool


@dataclass(frozen=True, kw_only=True)
class SideView:
    """The tree as it stands at a pick, from a side; ``near`` the places a close view keeps in sight."""

    view: float
    kept: tuple[Wood, ...]
    off: tuple[Wood, ...]
    met: frozenset[str]
    cg: Flat | None
    cut: Flat | None
    rope: Rope | None
    climber: ClimberSeen | None
    near: tuple[Flat, ...]


@dataclass(frozen=True, kw_only=True)
class GroundView:
    """The ground under a pick, from above, on the site [m].

    ``moves`` is the ground under the way of the piece, or where one that falls may come to.
    """

    moves: tuple[Flat, ...]
    keep: tuple[Flat, ...]
    hit: frozenset[str]
    people: tuple[tuple[str, Flat, bool], ...]
    strips: tuple[tuple[tuple[float, ...], ...], ...]
    climber: tuple[Flat, Flat] | None
    bed: tuple[Flat, float] | None
    held: HeldAbove | None


@dataclass(frozen=True, kw_only=True)
class HeldAbove:
    """A piece on a line, from above: its rope's stops, its cut, device, landing, and where its notch faces."""

    rope: tuple[Flat, ...]
    butt: Flat
    point: Flat
    device: Flat
    landing: Flat
    said: bool
    faces: Flat
    faces_said: bool


@dataclass(frozen=True, kw_only=True)
class Beside:
    """Something that stands on the site, from a side: from where to where and how high, and how far behind the stem
    [m]; ``line`` are the places of a conductor.
    """

    name: str
    kind: str
    left: float
    right: float
    height: float
    deep: float
    line: tuple[Flat, ...] = ()


def projected(view: float) -> Callable[[Place], Flat]:
    """How places are seen by someone who faces a bearing [rad]: to the right, and up [m]."""

    def at(place: Place) -> Flat:
        return across_view(view, place[0], place[1]), float(place[2])

    return at


def side_view(scene: Scene, row: Row | None, view: float, start: Standing) -> SideView:
    """The tree as it stands at a pick, or as ``start`` says without one."""
    at = projected(view)
    before, after = (row.before, row.after) if row else (start, start)
    held = row.held if row else None
    kept, off = standing(scene.members, before, after, view)
    aloft = climber_of(scene, row) if row else None
    piece = row.step.piece if row and row.step else None
    return SideView(
        view=view,
        kept=kept,
        off=off,
        met=frozenset(scene.members.names[m.row] for m in held.meets if not m.carries) if held else frozenset(),
        cg=at(piece.cg) if piece else None,
        cut=at(piece.butt) if piece else None,
        rope=_rope(scene.members, held, view, at) if held else None,
        climber=_climber(aloft, row.pick.climber, at) if aloft and row and row.pick and row.pick.climber else None,
        near=tuple(at(place) for place in _close(piece, held)) if piece else (),
    )


_RISES = 0.3  # what is lower than this is not seen from a side [m]


def stands_beside(scene: Scene, view: float) -> tuple[Beside, ...]:
    """What stands round the tree, from a side, the furthest first: buildings, other trees, conductors."""
    x0, y0 = scene.site.tree_x, scene.site.tree_y
    found = []
    for target in scene.site.targets:
        if target.height < _RISES:
            continue
        across = [across_view(view, x - x0, y - y0) for x, y in target.outline]
        deep = min(_behind(view, x - x0, y - y0) for x, y in target.outline)
        found.append(
            Beside(
                name=target.name, kind=target.kind, left=min(across), right=max(across), height=target.height, deep=deep
            )
        )
    for tree in scene.others:
        at, wide = across_view(view, tree.east, tree.north), (tree.diameter or _TRUNK) / 2.0
        deep = _behind(view, tree.east, tree.north)
        found.append(
            Beside(name=tree.name, kind="tree", left=at - wide, right=at + wide, height=tree.height, deep=deep)
        )
    for span in scene.site.conductors:
        hangs = tuple((across_view(view, x - x0, y - y0), z) for x, y, z in span.curve()[::4].tolist())
        low, high = min(x for x, _ in hangs), max(x for x, _ in hangs)
        top = max(z for _, z in hangs)
        found.append(Beside(name=span.name, kind="conductor", left=low, right=high, height=top, deep=0.0, line=hangs))
    return tuple(sorted(found, key=lambda b: -b.deep))


_TRUNK = 0.3  # how thick a trunk is drawn that nobody measured [m]


def _behind(view: float, x: float, y: float) -> float:
    """How far a place on the ground lies behind the stem for someone who faces a bearing [m]."""
    return x * math.sin(view) + y * math.cos(view)


def whole_view(scene: Scene, view: float) -> SideView:
    """The tree before anything is cut."""
    return side_view(scene, None, view, whole(scene.members))


def standing(
    members: Members, before: Standing, after: Standing, view: float
) -> tuple[tuple[Wood, ...], tuple[Wood, ...]]:
    """What stands before a pick: what stays, and what comes off."""
    kept, off = [], []
    for row, end in enumerate(before.ends):
        if end <= 0.0:
            continue
        stays = min(max(after.ends[row], 0.0), end)
        style = "stem" if row == 0 else "assumed" if members.assumed[row] else "measured"
        name = members.names[row]
        if stays > _SHOWN:
            kept.append(_wood(members, row, 0.0, stays, view, style, name))
        if end - stays > _SHOWN:
            off.append(_wood(members, row, stays, end, view, style, name))
    return tuple(kept), tuple(off)


_WIDTHS = 6  # shares of a member at which its thickness is drawn


def _wood(members: Members, row: int, low: float, high: float, view: float, style: str, name: str) -> Wood:
    at, full = projected(view), float(members.end[row])
    foot, tip = place_on(members, row, 0.0), place_on(members, row, full)
    widths = tuple(thickness(members, row, min(i / (_WIDTHS - 1), 0.995) * full) for i in range(_WIDTHS))
    return Wood(
        _corners(members, row, low, high, view),
        style,
        name,
        (at(foot), at(tip)),
        widths,
        (low / full, min(high / full, 1.0)),
        bool(members.leaves[row] > 0.0) and members.tree.state != "bare",
        _behind(view, tip[0], tip[1]),
    )


def _corners(members: Members, row: int, low: float, high: float, view: float) -> tuple[Flat, ...]:
    """Corners of a length of a member, as thick as it is at both ends."""
    ends = []
    for along in (low, high):
        x, y, z = place_on(members, row, along)
        ends.append((across_view(view, x, y), z, thickness(members, row, min(along, 0.995 * float(members.end[row])))))
    (x0, z0, w0), (x1, z1, w1) = ends
    run = math.hypot(x1 - x0, z1 - z0) or 1.0
    nx, nz = -(z1 - z0) / run / 2.0, (x1 - x0) / run / 2.0
    return (
        (x0 + nx * w0, z0 + nz * w0),
        (x0 - nx * w0, z0 - nz * w0),
        (x1 - nx * w1, z1 - nz * w1),
        (x1 + nx * w1, z1 + nz * w1),
    )


def _close(piece: Piece, held: HeldPick | None) -> Iterator[Place]:
    """Places round the piece and its rope."""
    yield from (piece.butt, piece.tip, piece.cg)
    if held:
        yield held.point
        yield from held.path.tip[::6].tolist()
        yield from held.path.butt[::6].tolist()


def _rope(members: Members, held: HeldPick, view: float, at: Callable[[Place], Flat]) -> Rope:
    pick, path, piece = held.pick, held.path, held.piece
    led = redirect_place(members, held.after, pick)
    stops = [hold_place(piece, pick), held.point, *([led] if led else []), pick.device_place]
    butts, tips = path.butt.tolist(), path.tip.tolist()
    steps = [(at(b), at(t)) for b, t in zip(butts, tips, strict=True)]
    own, weak = pick.on.member is not None, held.forces.anchor
    force, size = held.forces.force, math.hypot(*held.forces.force) or 1.0
    way = members.way[members.rows[pick.on.member]] if pick.on.member in members.rows else (0.0, 0.0, 1.0)
    corner = split_along(force, way)
    return Rope(
        tie=at(tie_place(piece, pick.tie)),
        legs=_legs(held, at),
        point=at(held.point),
        device=at(pick.device_place),
        own=own,
        led=at(led) if led else None,
        rope=tuple(at(place) for place in stops),
        far=_far(members, held, at),
        swept=(*(t for _, t in steps), *(b for b, _ in reversed(steps))),
        way=tuple(at(place) for place in path.cg.tolist()),
        ghosts=tuple(steps[3:-1:5]),
        weak=weak.height if weak and own else None,
        stress=weak.stress if weak else None,
        force=size,
        across=weak.across if weak else None,
        push=(across_view(view, force[0], force[1]) / size, force[2] / size),
        corner=(across_view(view, corner[0], corner[1]) / size, corner[2] / size),
    )


def _far(members: Members, held: HeldPick, at: Callable[[Place], Flat]) -> tuple[Flat, Flat] | None:
    """Both ends of the line a piece goes along."""
    anchor = held.pick.far_anchor
    if anchor is None or held.forces.far_anchor is None:
        return None
    return at(held.point), at(point_place(members, held.after, anchor, "far_anchor"))


def _legs(held: HeldPick, at: Callable[[Place], Flat]) -> tuple[tuple[Flat, Flat], ...]:
    """A bridle's legs from its head to both ties."""
    pick, piece = held.pick, held.piece
    if pick.method != "bridle" or pick.second_tie is None:
        return ()
    head = at(hold_place(piece, pick))
    return tuple((head, at(tie_place(piece, tie))) for tie in (pick.tie, pick.second_tie))


def _climber(aloft: Aloft, climber: Climber, at: Callable[[Place], Flat]) -> ClimberSeen:
    slip = [] if aloft.loads else pendulum_swing(aloft.tie, aloft.stance)[0][:_SLIP].tolist()
    return ClimberSeen(
        stance=at(aloft.stance),
        tie=at(aloft.tie),
        second=at(aloft.second) if aloft.second else None,
        slip=tuple(at(place) for place in slip),
        own=climber.place is None,
        second_own=climber.second_place is None,
    )


def fork_of(scene: Scene, access: Entry, view: float) -> Flat | None:
    """Where the first line of a way up goes over its fork, from a side; None without one."""
    row = scene.members.rows.get(access.get("member", ""), -1)
    if access.get("way") != "throw" or row < 0 or access.get("at_m") is None:
        return None
    return projected(view)(place_on(scene.members, row, access["at_m"]))


def cuts_seen(scene: Scene, rows: list[Row], view: float) -> tuple[tuple[Flat, ...], dict[int, Flat]]:
    """Ends of every member of the whole tree, and each pick's cut by its number in the order, from a side."""
    at, start = projected(view), whole(scene.members)
    ends = tuple(at(place_on(scene.members, row, end)) for row, end in enumerate(start.ends))
    cuts = {number: at(row.step.piece.butt) for number, row in enumerate(rows, start=1) if row.step}
    return ends, cuts


def ground_view(scene: Scene, row: Row | None) -> GroundView:
    """The ground under a pick: the way of the piece, rope, landing, people and what they keep off."""
    x0, y0 = scene.site.tree_x, scene.site.tree_y

    def on(place: tuple[float, ...]) -> Flat:
        return place[0] + x0, place[1] + y0

    worked = row.worked if row else None
    held = row.held if row else None
    moves = _moves(row, held)
    stands, strips = people_of(scene, row) if row else ((), [])
    aloft = climber_of(scene, row) if row else None
    return GroundView(
        moves=tuple(on(place) for place in moves),
        keep=tuple(on(place) for place in _kept_in_sight(held)),
        hit=frozenset(p.name for p in getattr(worked, "passes", ()) if p.gap <= 0.0),
        people=tuple((s.role, s.place, s.said) for s in stands),
        strips=tuple(tuple(s.exterior.coords) for s in strips if isinstance(s, Polygon)),
        climber=(on(aloft.tie), on(aloft.stance)) if aloft else None,
        bed=_bed(worked, on) if worked else None,
        held=_above(held, on) if held else None,
    )


def _moves(row: Row | None, held: HeldPick | None) -> list[tuple[float, ...]]:
    """Outline of the ground under the way of a piece, or where one that falls may come to, from the stem's foot."""
    if held:
        return list(swept(held.path).exterior.coords)
    if row and row.step and row.entry.get("method") == "free":
        piece = row.step.piece
        return list(drop_circle(piece.reach, piece.cg[2], (piece.cg[0], piece.cg[1])).exterior.coords)
    return []


def _kept_in_sight(held: HeldPick | None) -> Iterator[tuple[float, ...]]:
    """Places on the ground that a pick needs in sight."""
    if held:
        yield from (held.point, held.pick.device_place)
        if held.pick.landing:
            yield held.pick.landing


def _bed(worked: Worked, on: Callable[[tuple[float, ...]], Flat]) -> tuple[Flat, float] | None:
    pick = worked.pick
    return (on(worked.piece.cg), pick.bed_radius) if pick.method == "free" and pick.bed != "none" else None


def _above(held: HeldPick, on: Callable[[tuple[float, ...]], Flat]) -> HeldAbove:
    piece, pick = held.piece, held.pick
    bearing = pick.bearing if pick.bearing is not None else math.atan2(piece.way[0], piece.way[1])
    return HeldAbove(
        rope=tuple(on(place) for place in (hold_place(piece, pick), held.point, pick.device_place)),
        butt=on(piece.butt),
        point=on(held.point),
        device=on(pick.device_place),
        landing=on(pick.landing or held.point),
        said=pick.landing is not None,
        faces=on((piece.butt[0] + NOTCH * math.sin(bearing), piece.butt[1] + NOTCH * math.cos(bearing))),
        faces_said=pick.bearing is not None,
    )
