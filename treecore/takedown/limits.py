"""The limits of a pick, each with its verdict; and the rules of order."""

from __future__ import annotations

import math
from collections.abc import Iterator
from datetime import date
from typing import NamedTuple

from treecore.errors import NotSolvable
from treecore.estimate import Estimate, Kind, exactly, times
from treecore.rigging.climbing import Climber, hanging, line_gap
from treecore.rigging.gear import Item, bend_ratio, grips, refused, working_load
from treecore.rigging.swing import Passing, nearest
from treecore.schools import constant
from treecore.takedown.members import Members, place_on, thickness
from treecore.takedown.pick import Pick, Worked, methods
from treecore.takedown.pieces import Piece, Standing, Taken
from treecore.verdict import Limit, Verdict, judge, ruling

_PATH = ("rope", "sling", "block", "connector", "device")


class Link(NamedTuple):
    """One part of the chain from piece to ground: what it carries and may [N]; ``role`` in the path."""

    role: str
    name: str
    demand: Estimate
    allowed: Estimate | None
    why: str

    @property
    def verdict(self) -> Verdict:
        """How what it carries stands to what it may."""
        return Verdict.NOT_KNOWN if self.allowed is None else judge(self.demand, self.allowed)


def chain(worked: Worked, today: date) -> tuple[Link, ...]:
    """Every part of the path with what it carries and may; docs/methods.md, gear (2), (5).

    Parameters
    ----------
    worked : Worked
        The pick.
    today : date
        Day of use.

    References
    ----------
    The rope carries the leg's peak, block and sling both legs, the device what the block passes on.
    """
    f, pick = worked.forces, worked.pick
    if f is None:
        return ()
    carried = {
        "rope": f.peaks.counts,
        "sling": f.on_point,
        "block": f.on_point,
        "connector": f.on_point,
        "device": f.rest,
    }
    found = []
    for role in _PATH:
        item = pick.gear.get(role)
        if item is None:
            if role == "connector" or (role == "block" and pick.point is not None and pick.point.fork):
                continue
            found.append(Link(role, "", carried[role], None, "not chosen"))
            continue
        no = refused(item, today)
        knot = pick.knot if role == "rope" else "none"
        allowed = working_load(item, pick.design, knot, pick.sling if role == "sling" else "straight")
        found.append(Link(role, item.name, carried[role], allowed, no.why if no else ""))
    return tuple(found)


def pick_limits(members: Members, worked: Worked, today: date) -> tuple[Limit, ...]:
    """Hold a pick against every limit.

    Parameters
    ----------
    members : Members
        The tree's members.
    worked : Worked
        The pick worked out.
    today : date
        Day of use.
    """
    parts = (
        _tied(worked),
        _anchor(members, worked),
        _gear(worked, today),
        _hands(worked),
        _passing(worked),
        _climber(members, worked),
        _free(worked),
    )
    return tuple(limit for part in parts for limit in part)


def _tied(w: Worked) -> Iterator[Limit]:
    """Where the tie is against the balance, by method; the lowest credible balance counts."""
    pick, piece = w.pick, w.piece
    if w.forces is None:
        return
    tie, low = exactly(pick.tie), piece.balance
    if pick.method in ("balance", "butt", "bridle") and piece.slope < math.radians(75.0):
        past = pick.tie > low.value
        near = pick.tie > low.low
        yield Limit(
            key="tie_past", verdict=Verdict.OVER if past else Verdict.NEAR if near else Verdict.WITHIN, demand=tie,
            allowed=low, dimension="length", concern=1,
        )  # fmt: skip
    if pick.method == "negative" and pick.tie > low.low:
        yield Limit(key="tie_high", verdict=Verdict.NEAR, demand=tie, allowed=low, dimension="length", concern=3)
    above = methods()[pick.method].point
    if w.point is not None and above == "above" and w.point[2] < piece.butt[2] and pick.method != "negative":
        yield Limit(
            key="point_below",
            verdict=Verdict.OVER,
            demand=exactly(w.point[2]),
            allowed=exactly(piece.butt[2]),
            dimension="length",
            least=True,
            concern=1,
        )


def _anchor(members: Members, w: Worked) -> Iterator[Limit]:
    f, pick = w.forces, w.pick
    if f is None or pick.point is None:
        return
    if f.anchor is None:
        yield Limit(
            key="anchor_other", verdict=Verdict.NOT_KNOWN, demand=f.on_point, allowed=None, dimension="force", concern=2
        )
        return
    tree = members.tree
    strength = times(tree.kind.mor, tree.condition.strength.value * constant("anchor_share").value)
    share = f.on_point
    stress = Estimate(
        f.anchor.stress,
        f.anchor.stress * share.low / share.value,
        f.anchor.stress * share.high / share.value,
        Kind.ESTIMATED,
    )
    yield Limit(
        key="anchor_bends", verdict=judge(stress, strength), demand=stress, allowed=strength, dimension="fine_strength", concern=1,
        note=f"{f.anchor.height:.1f}|{f.anchor.why}",
    )  # fmt: skip
    holds = times(constant("anchorage"), float(members.axis[0]))
    moment = times(share, f.anchor.across / share.value * pick.point.at if share.value > 0.0 else 0.0)
    yield Limit(
        key="root_plate", verdict=judge(moment, holds), demand=moment, allowed=holds, dimension="moment", concern=2
    )


def _gear(w: Worked, today: date) -> Iterator[Limit]:
    f, pick = w.forces, w.pick
    if f is None:
        return
    for link in chain(w, today):
        if link.why and link.name:
            yield Limit(
                key="gear_refused",
                verdict=Verdict.OVER,
                demand=None,
                allowed=None,
                dimension="force",
                concern=0,
                note=f"{link.name}: {link.why}",
            )
        yield Limit(
            key="chain",
            verdict=link.verdict,
            demand=link.demand,
            allowed=link.allowed,
            dimension="force",
            concern=1,
            note=f"{link.role}|{link.name}",
        )
    rope = pick.gear.get("rope")
    if rope is not None:
        need = exactly(f.needed, Kind.ESTIMATED)
        owned = None if rope.length is None else exactly(rope.length)
        yield Limit(
            key="rope_short",
            verdict=Verdict.NOT_KNOWN if owned is None else judge(need, owned),
            demand=need,
            allowed=owned,
            dimension="length",
            concern=1,
            note=rope.name,
        )
    yield from _fitting(w, rope)


def _fitting(w: Worked, rope: Item | None) -> Iterator[Limit]:
    """Parts that do not go together: a leg line that slips, a connector that could be loaded across."""
    pick, f = w.pick, w.forces
    if rope is not None:
        yield from _bends(pick, rope)
    leg = pick.gear.get("leg")
    if pick.method == "bridle" and rope is not None and leg is not None:
        fits = grips(leg, rope)
        if fits is not True:
            demand, allowed = (None if v is None else exactly(v) for v in (leg.diameter, rope.diameter))
            yield Limit(
                key="leg_slips",
                verdict=Verdict.NOT_KNOWN if fits is None else Verdict.OVER,
                demand=demand,
                allowed=allowed,
                dimension="thin",
                concern=1,
                note=leg.name,
            )
    connector = pick.gear.get("connector")
    if connector is not None and connector.kind == "karabiner" and f is not None and f.fall > 0.3:
        yield Limit(
            key="connector_drop",
            verdict=Verdict.OVER,
            demand=exactly(f.fall),
            allowed=exactly(0.3, Kind.ASSUMED),
            dimension="length",
            concern=1,
            note=connector.name,
        )


def _bends(pick: Pick, rope: Item) -> Iterator[Limit]:
    """How sharply the loaded rope is bent round the block and the device."""
    least = constant("bend_least")
    for role in ("block", "device"):
        item = pick.gear.get(role)
        if item is None:
            continue
        ratio = bend_ratio(item, rope)
        bent = None if ratio is None else exactly(ratio)
        verdict = Verdict.NOT_KNOWN if bent is None else judge(bent, least, least=True)
        yield Limit(
            key="bent_sharply", verdict=verdict, demand=bent, allowed=least, dimension="ratio", least=True, concern=4,
            note=f"{rope.name}|{item.name}",
        )  # fmt: skip


def _hands(w: Worked) -> Iterator[Limit]:
    f, pick = w.forces, w.pick
    if f is None:
        return
    hold, run = constant("hand_hold"), constant("hand_run")
    yield Limit(
        key="hand", verdict=judge(f.hand, hold), demand=f.hand, allowed=hold, dimension="small_force", concern=1
    )
    if pick.held == "run" and f.hand.value < run.low:
        yield Limit(
            key="stops_dead",
            verdict=Verdict.NEAR,
            demand=f.hand,
            allowed=run,
            dimension="small_force",
            least=True,
            concern=2,
        )
    if pick.held == "lock" and f.fall > 1.0:
        yield Limit(
            key="locked_fall",
            verdict=Verdict.OVER,
            demand=exactly(f.fall, Kind.ESTIMATED),
            allowed=exactly(1.0, Kind.ASSUMED),
            dimension="length",
            concern=2,
        )
    if pick.point is not None and not pick.point.fork and f.fall > 0.0 and pick.held == "lock":
        return
    if pick.point is not None and pick.point.fork and f.fall > 0.3:
        yield Limit(
            key="fork_caught",
            verdict=Verdict.NEAR,
            demand=exactly(f.passed),
            allowed=exactly(0.9, Kind.ASSUMED),
            dimension="ratio",
            least=True,
            concern=3,
        )


def _passed(p: Passing, near: Estimate) -> Verdict:
    """What a gap comes to: a touch is over, but near where what is touched bears it."""
    if p.gap <= 0.0:
        return Verdict.NEAR if p.light_touch else Verdict.OVER
    return Verdict.NEAR if p.gap < near.value else Verdict.WITHIN


def _passing(w: Worked) -> Iterator[Limit]:
    near = exactly(constant("piece_clear").value, Kind.ASSUMED)
    for p in w.passes if w.path is not None else ():
        yield Limit(
            key="clears",
            verdict=_passed(p, near),
            demand=exactly(max(p.gap, 0.0), Kind.ESTIMATED),
            allowed=near,
            dimension="length",
            least=True,
            concern=1,
            note=p.name,
        )
    if w.path is not None and w.path.low < 0.0 and w.piece.butt[2] > w.piece.length:
        yield Limit(
            key="ground",
            verdict=Verdict.NEAR,
            demand=exactly(w.path.low, Kind.ESTIMATED),
            allowed=exactly(0.0),
            dimension="length",
            least=True,
            concern=4,
        )


def _place(
    members: Members, standing: Standing, member: str, at: float, what: str
) -> tuple[float, float, float] | None:
    row = members.rows.get(member, -1)
    if row < 0:
        raise NotSolvable(what, f"there is no limb “{member}” on this tree")
    return place_on(members, row, at) if standing.has(row, at) else None


def _climber(members: Members, w: Worked) -> Iterator[Limit]:
    climber = w.pick.climber
    if climber is None:
        return
    tie = _place(members, w.after, climber.tie_member, climber.tie_at, "tie_in")
    stance = _place(members, w.after, climber.stance_member, climber.stance_at, "stance")
    for what, place, member in (
        ("tie_in_gone", tie, climber.tie_member),
        ("stance_gone", stance, climber.stance_member),
    ):
        if place is None:
            yield Limit(
                key=what,
                verdict=Verdict.OVER,
                demand=None,
                allowed=None,
                dimension="length",
                concern=0,
                note=member or "stem",
            )
    if tie is None or stance is None:
        return
    thick = exactly(thickness(members, members.rows[climber.tie_member], climber.tie_at), Kind.ESTIMATED)
    yield Limit(
        key="tie_in_thin",
        verdict=judge(thick, constant("tie_in_wood"), least=True),
        demand=thick,
        allowed=constant("tie_in_wood"),
        dimension="cut",
        least=True,
        concern=1,
    )
    yield from _line(w, climber, tie, stance)


def _line(
    w: Worked, climber: Climber, tie: tuple[float, float, float], stance: tuple[float, float, float]
) -> Iterator[Limit]:
    hangs = hanging(tie, stance, climber.based)
    need, owned = exactly(hangs.need, Kind.ESTIMATED), exactly(climber.line)
    yield Limit(key="line_short", verdict=judge(need, owned), demand=need, allowed=owned, dimension="length", concern=1)
    gap, least = (
        exactly(line_gap(tie, stance, w.piece.butt), Kind.ESTIMATED),
        exactly(constant("line_off_cut").value, Kind.ASSUMED),
    )
    if math.dist(stance, w.piece.butt) > least.value:
        verdict = Verdict.OVER if gap.value < least.value else Verdict.WITHIN
        yield Limit(
            key="line_at_cut", verdict=verdict, demand=gap, allowed=least, dimension="length", least=True, concern=1
        )
    reach = exactly(math.dist(stance, w.piece.butt), Kind.ESTIMATED)
    yield Limit(
        key="reach",
        verdict=judge(reach, constant("arm_reach")),
        demand=reach,
        allowed=constant("arm_reach"),
        dimension="length",
        concern=3,
    )
    if w.path is not None:
        away, off = exactly(nearest(w.path, stance), Kind.ESTIMATED), exactly(constant("stand_off").value, Kind.ASSUMED)
        yield Limit(
            key="piece_at_climber",
            verdict=Verdict.OVER if away.value < off.value else Verdict.WITHIN,
            demand=away,
            allowed=off,
            dimension="length",
            least=True,
            concern=1,
        )


def _free(w: Worked) -> Iterator[Limit]:
    """Free fall: what lies where it may come to; toss: what a hand holds."""
    if w.pick.method == "free":
        near = exactly(constant("clearance_near").value, Kind.ASSUMED)
        for p in w.passes[:3]:
            yield Limit(
                key="drops_on",
                verdict=_passed(p, near),
                demand=exactly(p.gap, Kind.ESTIMATED),
                allowed=near,
                dimension="length",
                least=True,
                concern=1,
                note=p.name,
            )
    if w.pick.method == "toss":
        hold = times(constant("hand_hold"), 1.0 / 9.80665)
        yield Limit(
            key="toss_heavy",
            verdict=judge(w.piece.mass, hold),
            demand=w.piece.mass,
            allowed=hold,
            dimension="mass",
            concern=1,
        )
    if w.pick.method in ("both", "bridle") and w.pick.second_tie is None:
        yield Limit(
            key="second_tie", verdict=Verdict.NOT_KNOWN, demand=None, allowed=None, dimension="length", concern=2
        )


def ruling_of(limits: tuple[Limit, ...]) -> Limit | None:
    """Return the limit of a pick to name first, or None where none applies.

    Parameters
    ----------
    limits : tuple of Limit
        Its limits.
    """
    return ruling(limits) if limits else None


class Order(NamedTuple):
    """A rule of order that a pick does not keep: which pick by its number, the rule, and what it names."""

    number: int
    rule: str
    what: str


def order_rules(members: Members, steps: tuple[Taken, ...], picks: tuple[Pick, ...]) -> tuple[Order, ...]:
    """Return where the order goes against practice; docs/methods.md, takedown (6).

    Parameters
    ----------
    members : Members
        The tree's members.
    steps : tuple of Taken
        Pieces in order.
    picks : tuple of Pick
        How each is taken.

    References
    ----------
    Deadwood and what hangs first; the rigging point above the work; stem pieces only once their limbs are off.
    """
    found = []
    dead = {limb.name for limb in members.tree.limbs if limb.dead}
    for number, (step, pick) in enumerate(zip(steps, picks, strict=True), start=1):
        later = {s.piece.cut.member for s in steps[number:]}
        if step.piece.cut.member not in dead:
            left = sorted(later & dead)
            if left:
                found.append(Order(number, "dead_first", left[0]))
        if step.piece.row == 0 and len(step.piece.parts) > 4:
            found.append(Order(number, "limbs_on_stem", str(len(step.piece.parts) - 1)))
        if pick.point is not None and pick.point.member == "" and pick.method != "negative":
            high = _height(step.piece)
            if pick.point.at < high:
                found.append(Order(number, "point_low", f"{high:.1f}"))
    return tuple(found)


def _height(piece: Piece) -> float:
    return piece.butt[2]
