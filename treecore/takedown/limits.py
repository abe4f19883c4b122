"""The limits of a pick, each with its verdict."""

from __future__ import annotations

import math
from collections.abc import Iterator
from datetime import date

import shapely

from treecore.estimate import Estimate, Kind, exactly, product, times
from treecore.findings import Seen, everywhere, on_pick, undrawn_conductor
from treecore.kinds import kinds_that, worth_of
from treecore.rigging.bending import AnchorStress
from treecore.rigging.friction import devices
from treecore.rigging.landing import BEDS
from treecore.rigging.swing import Passing, drop_reach
from treecore.schools import constant
from treecore.site import Site, Target
from treecore.takedown.chain import gear_limits
from treecore.takedown.climber import climber_limits
from treecore.takedown.cutting import cut_limits
from treecore.takedown.ground import ground_limits, under_ground
from treecore.takedown.loads import Held
from treecore.takedown.members import Members, place_on
from treecore.takedown.obstacles import Met, chain_of
from treecore.takedown.peak_forces import loses_its_top
from treecore.takedown.pick import RigPoint, methods
from treecore.takedown.pick_result import FreePick, HeldPick, HookPick, Worked, on_hook
from treecore.takedown.wires import conductor_limits
from treecore.units import GRAVITY
from treecore.verdict import CLASSES, NOTHING, About, Limit, Verdict, held, ruling


def pick_limits(
    members: Members, worked: Worked, site: Site, today: date, seen: tuple[Seen, ...] = ()
) -> tuple[Limit, ...]:
    """Hold a pick against every limit.

    Parameters
    ----------
    members : Members
        The tree's members.
    worked : Worked
        The pick worked out.
    site : Site
        What is around.
    today : date
        Day of use.
    seen : tuple of Seen
        What the walk-up found present.
    """
    line = worked if isinstance(worked, HeldPick) else None
    parts = (
        _on_line(members, line, site) if line else (),
        gear_limits(members, worked, today),
        under_ground(members, line, site) if line else (),
        ground_limits(members, worked, site, _posted(seen)),
        cut_limits(members, worked),
        climber_limits(members, worked, site),
        _free(worked, site) if isinstance(worked, FreePick) else (),
        _hooked(worked) if isinstance(worked, HookPick) else (),
        conductor_limits(members, worked, site),
        undrawn_conductor(seen, bool(site.conductors)),
        everywhere(seen, members.tree),
        _seen(members, worked, seen),
        _dead_last(members, worked),
    )
    return tuple(limit for part in parts for limit in part)


def _on_line(members: Members, w: HeldPick, site: Site) -> Iterator[Limit]:
    """What only a piece on a line is held against."""
    yield from _tied(w)
    yield from _anchor(members, w)
    yield from _hands(w)
    yield from _ready(w)
    yield from _passing(w)
    yield from _meeting(members, w)
    yield from _landing(w)
    yield from _touching(w, site)


def _posted(seen: tuple[Seen, ...]) -> bool:
    """Whether the walk-up says what is done to keep people out."""
    return any(row.hazard == "people" and row.response.strip() for row in seen)


def _seen(members: Members, w: Worked, seen: tuple[Seen, ...]) -> Iterator[Limit]:
    """What the walk-up found and the tree's state close: climbing, tying in and rigging in this tree."""
    pick, climber = w.pick, w.pick.climber
    ties = []
    if climber is not None and climber.place is None:
        ties.append((climber.tie_member, climber.tie_at))
    if climber is not None and climber.second_member is not None:
        ties.append((climber.second_member, climber.second_at))
    points = [
        (p.member, p.at) for p in (pick.point, pick.redirect, pick.far_anchor) if p is not None and p.member is not None
    ]
    if methods()[pick.method].lines == 0:
        points = []  # a point left over from another method carries nothing

    def heights(places: list[tuple[str, float]]) -> tuple[float, ...]:
        return tuple(place_on(members, members.rows[m], at)[2] for m, at in places if m in members.rows)

    yield from on_pick(seen, members.tree, climber is not None, heights(ties), heights(points))


_STUB = 0.5  # what is left of a dead limb that is no longer up there [m]


def _dead_last(members: Members, w: Worked) -> Iterator[Limit]:
    """Dead wood that is left up while somebody in the tree cuts live wood; takedown (6)."""
    limbs = {limb.name: limb for limb in members.tree.limbs}
    cut = limbs.get(w.piece.cut.member)
    if w.pick.climber is None or (cut is not None and cut.dead):
        return
    left = [name for name, limb in limbs.items() if limb.dead and w.after.ends[members.rows[name]] > _STUB]
    if left:
        yield Limit("dead_last", Verdict.OVER, None, None, About(name=left[0]))


def _tied(w: HeldPick) -> Iterator[Limit]:
    """Where the tie is against the balance, by method; the lowest credible balance counts."""
    pick, piece = w.pick, w.piece
    tie, low = exactly(pick.tie), piece.balance
    if pick.method in ("balance", "butt", "bridle") and piece.slope < constant("upright").value:
        # In leaf the trade ties up to two thirds out, after a test lift; the model's own value is no wall there.
        thirds = constant("two_thirds").value * piece.length
        past = pick.tie > (thirds if piece.foliage > 0.0 and low.value < thirds <= low.high else low.value)
        near = pick.tie > low.low
        yield Limit("tie_past", Verdict.OVER if past else Verdict.NEAR if near else Verdict.WITHIN, tie, low)
    if pick.method == "negative" and pick.tie > low.low:
        yield Limit("tie_high", Verdict.NEAR, tie, low)
    if pick.method in ("both", "bridle") and pick.second_tie is None:
        yield Limit("second_tie", Verdict.NOT_KNOWN, None, None)
    above = methods()[pick.method].point
    if above == "above" and w.point[2] < piece.butt[2] and pick.method != "negative":
        yield Limit("point_below", Verdict.OVER, exactly(w.point[2]), exactly(piece.butt[2]))


def _anchor(members: Members, w: HeldPick) -> Iterator[Limit]:
    f, pick = w.forces, w.pick
    climbed = pick.climber is not None
    yield from _wood(members, pick.on, f.wood, f.on_point, climbed)
    for place, loaded in ((pick.redirect, f.redirect), (pick.far_anchor, f.far_anchor)):
        if place is not None and loaded is not None:
            yield from _wood(members, place, loaded.wood, loaded.load, climbed)
    if pick.method in ("speed", "drift") and pick.far_anchor is None:
        yield Limit("far_unknown", Verdict.NOT_KNOWN, None, None)
    yield from _top(members, w)


def _top(members: Members, w: HeldPick) -> Iterator[Limit]:
    """A stem that loses a top larger than such tests were made with: how it springs is not known; anchor (9)."""
    piece = w.piece
    if not loses_its_top(members, piece, w.pick):
        return
    length = float(members.end[piece.row])
    if w.before.ends[piece.row] < length - 0.01:
        return  # its top is off already
    share, most = exactly(piece.length / length, Kind.ESTIMATED), constant("top_most")
    if share.value > most.value:
        yield Limit("top_large", Verdict.NOT_KNOWN, share, most)


def _wood(members: Members, point: RigPoint, wood: Held | None, load: Estimate, climbed: bool) -> Iterator[Limit]:
    """What carries a point: its wood against a share of green strength, bent and turned, and its root plate."""
    tree, here = members.tree, point.member is not None
    if wood is None:
        yield Limit("anchor_other", Verdict.NOT_KNOWN, load, None, About(name=point.tree))
        return
    share, left = constant("anchor_share").value, tree.condition.strength.value
    green = times(tree.kind.mor, left) if here else constant("anchor_wood")
    where = _at(wood.anchor, climbed and here)
    if wood.anchor.strength_reduction is None:
        yield Limit("anchor_union", Verdict.NOT_KNOWN, wood.stress, None, where)
        return
    strength = times(green, share * wood.anchor.strength_reduction)
    yield held("anchor_bends", wood.stress, strength, where)
    if here and wood.twisted.strength_reduction is not None:
        shear = times(tree.kind.shear, share * left * wood.twisted.strength_reduction)
        at = _at(wood.twisted, climbed)
        yield held("anchor_twists", wood.twist, shear, at)
    if wood.size is None:
        yield Limit("root_plate", Verdict.NOT_KNOWN, wood.turning, None, About(name=point.tree))
        return
    holds = product(constant("anchorage"), wood.size)
    yield held("root_plate", wood.turning, holds, About(name=point.tree))


def _at(stressed: AnchorStress, climbed: bool) -> About:
    """Where wood is stressed most, what it is there, and whether somebody hangs on the same tree."""
    return About(at=stressed.height, why=stressed.why, name=stressed.name, union=stressed.union, reach=climbed)


def _hands(w: HeldPick) -> Iterator[Limit]:
    f, pick = w.forces, w.pick
    hold = constant("hand_hold")
    caught = pick.held != "lock" and f.course is not None and f.course.locked
    yield held("hand", f.hand, hold, About(why="held") if caught else NOTHING)
    yield from _running(w)
    locked = pick.held == "lock" or (f.course is not None and f.course.locked)
    fall = exactly(f.drop_height, Kind.ESTIMATED)
    if locked and f.drop_height > constant("locked_most").value:
        yield Limit("locked_fall", Verdict.OVER, fall, constant("locked_most"))
    if pick.on.fork and f.drop_height > constant("caught_from").value:
        least = exactly(0.9, Kind.ASSUMED)
        yield Limit("fork_caught", Verdict.OVER, exactly(f.tension_ratio), least, _reached(w))


def _reached(w: HeldPick) -> About:
    """Somebody is in reach of a rope that holds where it was to give: the climber; else it is a loss of control."""
    return About(worth="person" if w.pick.climber is not None else "")


def _running(w: HeldPick) -> Iterator[Limit]:
    """What a piece that may run does: held by its wraps after all, or stopped by nothing before the ground."""
    f, pick, course = w.forces, w.pick, w.forces.course
    if course is None or pick.held == "lock":
        return
    if course.locked:
        device = devices()[pick.device]
        turns = exactly(pick.setting if device.settings else pick.wraps)
        yield Limit("stops_dead", Verdict.OVER, turns, exactly(f.wraps.run, Kind.ESTIMATED), _reached(w))
    room = exactly(max(w.piece.butt[2], 0.0), Kind.ESTIMATED)
    if not course.stops:
        yield Limit("runs_away", Verdict.OVER, course.run, room)
    elif course.run.value > 0.0 or not course.always_stops:
        yield held("runs_away", course.run, room, About(why="no_room"))


def _touching(w: HeldPick, site: Site) -> Iterator[Limit]:
    """An end that meets the ground before the piece hangs, held or let run alike: how hard, and what lies there."""
    course = w.forces.course
    if course is None or course.touch.high <= 0.0:
        return
    soft, (x, y) = constant("touch_speed"), course.touches_at
    spot = shapely.Point(x + site.tree_x, y + site.tree_y)
    what = _gravest(site.within(spot, constant("clearance_near").value, kinds_that("dropped_on")))
    verdict = Verdict.WITHIN
    if course.touch.value > soft.value:
        verdict = Verdict.OVER if what is None or not what.light_touch else Verdict.NEAR
    elif what is not None and course.touch.high > soft.value:
        verdict = Verdict.NEAR
    yield Limit("touches", verdict, course.touch, soft, _there(what, "bare"))


def _gravest(targets: list[Target]) -> Target | None:
    """Of what is met the one whose class is gravest."""
    return min(targets, key=lambda t: CLASSES.index(worth_of(t.kind)), default=None)


def _there(what: Target | None, nothing: str) -> About:
    """What lies there, or the word for nothing."""
    return About(why=nothing) if what is None else About(name=what.name, worth=worth_of(what.kind))


def _ready(w: HeldPick) -> Iterator[Limit]:
    """A line made tight before the cut: it must not lift the piece off its hinge."""
    f = w.forces
    if w.pick.pretension <= 0.0 or f.lever is None:
        return
    tight, lifts = exactly(w.pick.pretension), exactly(f.lever, Kind.ESTIMATED)
    verdict = Verdict.OVER if tight.value > lifts.value else Verdict.WITHIN
    yield Limit("lifted_early", verdict, tight, lifts)


def _passed(p: Passing, near: Estimate) -> Verdict:
    """What a gap comes to: a touch is over, but near where what is touched bears it; near where its low end is."""
    if p.gap <= 0.0:
        return Verdict.NEAR if p.light_touch else Verdict.OVER
    return Verdict.NEAR if p.low < near.value else Verdict.WITHIN


def _passing(w: HeldPick) -> Iterator[Limit]:
    least = constant("piece_clear")
    for p in w.passes:
        verdict = _passed(p, least)
        if verdict is Verdict.NEAR and p.gap < least.value and not p.light_touch:
            verdict = Verdict.OVER  # a gap that breaks its own least
        yield Limit("clears", verdict, p.room, least, About(name=p.name, worth=p.worth))
    if w.pick.bearing is None and w.piece.slope > constant("upright").value:
        yield Limit("way_unknown", Verdict.NOT_KNOWN, None, None)


def _meeting(members: Members, w: HeldPick) -> Iterator[Limit]:
    """Standing wood in the way of the piece and of its rope."""
    near, thin = constant("limb_clear"), constant("limb_thin").value
    for m in w.meets:
        name = members.names[m.row] or "the stem"
        if m.carries:
            yield _blow(members, w, m, name)
        elif m.when == "rope":
            guessed = bool(members.assumed[m.row])
            verdict = Verdict.NEAR if guessed else Verdict.OVER
            yield Limit("rope_through", verdict, None, None, About(name=name, why="assumed" if guessed else ""))
        else:
            caught = m.gap <= 0.0 and float(members.diameter[m.row]) > thin
            guessed = bool(members.assumed[m.row])  # a limb nobody has seen does not block; it is called out
            verdict = Verdict.OVER if caught and not guessed else Verdict.NEAR
            gap = exactly(m.gap, Kind.ESTIMATED)
            why = "assumed" if guessed else ""
            yield Limit("catches", verdict, gap, near, About(name=name, role=m.when, why=why))


def _blow(members: Members, w: HeldPick, met: Met, name: str) -> Limit:
    """A piece that comes against what its point hangs on: over where that carries somebody and the blow is hard."""
    climber, energy = w.pick.climber, 0.5 * w.piece.mass.high * met.speed**2
    on: tuple[str | None, ...] = ()
    if climber is not None:
        tied = None if climber.place is not None else climber.tie_member
        on = (climber.stance_member, tied, climber.second_member)
    carries = any(met.row in chain_of(members, member) for member in on if member is not None)
    speed, hard, blow = exactly(met.speed, Kind.ESTIMATED), constant("meet_speed"), constant("blow_speed")
    about = About(name=name, worth="person" if carries else "", why="carries" if carries else "")
    if carries and met.speed > blow.value and energy > constant("blow_energy").value:
        return Limit("meets_stem", Verdict.OVER, speed, blow, about)
    felt = met.speed > hard.value and energy > constant("meet_energy").value
    return Limit("meets_stem", Verdict.NEAR if felt else Verdict.WITHIN, speed, hard, about)


def _landing(w: HeldPick) -> Iterator[Limit]:
    """Where it is put down, and the line that brings it there."""
    near = constant("clearance_near")
    for p in w.put.passes[:3]:
        yield Limit("put_on", _passed(p, near), p.room, near, About(name=p.name, worth=p.worth))
    if w.put.aside > constant("tag_room").value:
        # Drawn aside once it is down, as crews do; while it is high it takes more, which the figures say.
        yield held("tag", w.put.drawn, constant("hand_hold"))
        down, first = w.put.steep
        # Where nobody said where they stand, they stand further off while it is high.
        steep = Estimate(down, down, first if w.pick.tag_place else down, Kind.ESTIMATED)
        yield held("tag_steep", steep, constant("tag_steep"))


def _free(w: FreePick, site: Site) -> Iterator[Limit]:
    """Free fall: what lies where it may come to; toss: what a hand holds."""
    near = constant("clearance_near")
    for p in w.passes[:3]:
        yield Limit("drops_on", _passed(p, near), p.room, near, About(name=p.name, worth=p.worth))
    yield from _rolls(w, site)
    if w.pick.method == "free" and w.pick.bed != "none":
        far = exactly(drop_reach(w.piece.reach, w.piece.cg[2]), Kind.ESTIMATED)
        bed = exactly(w.pick.bed_radius)
        verdict = Verdict.NEAR if far.value > bed.value else Verdict.WITHIN
        yield Limit("bed_small", verdict, far, bed, About(name=BEDS[w.pick.bed]))
    if w.pick.method == "toss":
        hold = times(constant("hand_hold"), 1.0 / GRAVITY)
        yield held("toss_heavy", w.piece.mass, hold)


_ROLLS = 30.0  # how far down a slope what may stop a log, or be struck by it, is looked for [m]


def _rolls(w: FreePick, site: Site) -> Iterator[Limit]:
    """A bare log let fall on a slope that it rolls or slides down: what it comes to there; landing (9)."""
    steep = constant("roll_slope")
    if w.piece.foliage > 0.0 or len(w.piece.parts) > 1 or w.pick.bed != "none" or site.slope < steep.low:
        return
    x, y = w.piece.cg[0] + site.tree_x, w.piece.cg[1] + site.tree_y
    way = shapely.LineString([(x, y), (x + _ROLLS * math.sin(site.downhill), y + _ROLLS * math.cos(site.downhill))])
    first = _gravest(site.within(way, 0.5 * w.piece.length + 0.5, kinds_that("dropped_on")))
    verdict = Verdict.OVER if first is not None and site.slope >= steep.value else Verdict.NEAR
    yield Limit("rolls", verdict, exactly(site.slope, Kind.ESTIMATED), exactly(steep.value), _there(first, "clear"))


def _hooked(w: HookPick) -> Iterator[Limit]:
    """What a crane or machine has to lift against what it may there."""
    load = times(on_hook(w.piece), 1.0 / GRAVITY)
    if w.pick.capacity is None:
        yield Limit("hook", Verdict.NOT_KNOWN, load, None)
    else:
        most = exactly(w.pick.capacity)
        yield held("hook", load, most)


def ruling_of(limits: tuple[Limit, ...]) -> Limit | None:
    """Return the limit of a pick to name first, or None where none applies.

    Parameters
    ----------
    limits : tuple of Limit
        Its limits.
    """
    return ruling(limits) if limits else None
