"""The chain of gear from piece to ground: what each part carries and may, and parts that do not go together."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date
from typing import NamedTuple

from treecore.estimate import Estimate, Kind, exactly, times
from treecore.rigging.gear import Item, Refusal, bend_ratio, grips, refused, working_load
from treecore.schools import constant
from treecore.takedown.members import Members, thickness
from treecore.takedown.pick import Pick, RigPoint
from treecore.takedown.pick_result import HeldPick, HookPick, Worked, on_hook, two_ties
from treecore.units import GRAVITY
from treecore.verdict import About, Limit, Verdict, held, judge

_PATH = ("leg", "rope", "sling", "block", "connector", "redirect_sling", "redirect_block", "device", "base", "tag")
_STRAPPED = ("bollard", "drum")  # devices that hang in a sling of their own at the base


class Link(NamedTuple):
    """One part of the chain from piece to ground: what it carries and may [N]; ``role`` in the path."""

    role: str
    name: str
    demand: Estimate
    allowed: Estimate | None
    refused: Refusal | None = None
    lifted: bool = False

    @property
    def verdict(self) -> Verdict:
        """How what it carries stands to what it may.

        What it may carries its design factor already; what comes to it counts with its upper end, or by its own value
        where the piece is lifted to try before it is let go.
        """
        if self.allowed is None:
            return Verdict.NOT_KNOWN
        comes = exactly(self.demand.value, self.demand.kind) if self.lifted else self.demand
        return judge(comes, exactly(self.allowed.value, self.allowed.kind))

    @property
    def share(self) -> float | None:
        """What it carries over what it may [-]; None where that is not known."""
        return None if self.allowed is None else self.demand.value / self.allowed.value


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
    The rope carries the leg's peak, block and sling both legs, device and base sling what reaches them.
    """
    if isinstance(worked, HookPick):
        roles = ["sling"] + (["connector"] if "connector" in worked.pick.gear else [])
        return tuple(_link(role, worked.pick, on_hook(worked.piece), today) for role in roles)
    if not isinstance(worked, HeldPick):
        return ()
    return tuple(
        _link(role, worked.pick, demand, today) for role, demand in _carried(worked).items() if demand is not None
    )


def _carried(w: HeldPick) -> dict[str, Estimate | None]:
    """What each part of the path carries [N]; None for a part this pick has not got."""
    f, pick = w.forces, w.pick
    legs = two_ties(w.piece, pick) if pick.method == "bridle" else None
    put, fork = w.put, pick.on.fork
    aside = put.aside > constant("tag_room").value
    led = f.redirect.load if f.redirect and not (pick.redirect and pick.redirect.fork) else None
    carried = {
        "leg": times(f.peaks.governing, max(legs[:2]) / (w.piece.mass.value * GRAVITY)) if legs else None,
        "rope": f.peaks.governing,
        "sling": None if fork else f.on_point,
        "block": None if fork else f.on_point,
        "connector": f.on_point if "connector" in pick.gear else None,
        "redirect_sling": led,
        "redirect_block": led,
        "device": f.control_leg if pick.device != "trunk" and pick.device != "hand" else None,
        "base": f.control_leg if pick.device in _STRAPPED else None,
        "tag": put.drawn if aside else None,
    }
    return {role: carried[role] for role in _PATH}


_KNOTTED = {"leg": "prusik", "tag": "running_bowline"}


def _link(role: str, pick: Pick, demand: Estimate, today: date) -> Link:
    item = pick.gear.get(role)
    if item is None:
        return Link(role, "", demand, None)
    knot = pick.knot if role == "rope" else _KNOTTED.get(role, "none")
    shape = pick.sling if role in ("sling", "redirect_sling", "base") else "straight"
    allowed = working_load(item, pick.design, knot, shape)
    return Link(role, item.name, demand, allowed, refused(item, today), pick.test_lift)


def gear_limits(members: Members, w: Worked, today: date) -> Iterator[Limit]:
    """Hold every part of the chain against what it may carry, and parts against each other.

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick.
    today : date
        Day of use.
    """
    for link in chain(w, today):
        if link.refused:
            no = link.refused
            about = About(name=link.name, why=no.key, other=no.note, factor=no.years)
            yield Limit("gear_refused", Verdict.OVER, None, None, about)
        yield Limit("chain", link.verdict, link.demand, link.allowed, About(name=link.name, role=link.role))
    if not isinstance(w, HeldPick):
        return
    f, pick = w.forces, w.pick
    rope = pick.gear.get("rope")
    if rope is not None:
        yield _long_enough("rope_short", rope, f.needed)
        yield from _bends(members, pick, rope)
        if rope.joined:
            yield Limit("joined", Verdict.OVER, None, None, About(name=rope.name))
    yield from _bridled(w, rope)
    connector = pick.gear.get("connector")
    if connector is not None and connector.kind == "karabiner" and f.drop_height > constant("connector_turns").value:
        yield Limit(
            "connector_drop",
            Verdict.OVER,
            exactly(f.drop_height),
            constant("connector_turns"),
            About(name=connector.name),
        )


def _long_enough(key: str, item: Item, needed: float) -> Limit:
    need = exactly(needed, Kind.ESTIMATED)
    owned = None if item.length is None else exactly(item.length)
    return held(key, need, owned, About(name=item.name))


def _bridled(w: HeldPick, rope: Item | None) -> Iterator[Limit]:
    """A bridle's leg line that would slip on the main line, or is too short for its longer leg."""
    leg, legs = w.pick.gear.get("leg"), two_ties(w.piece, w.pick)
    if w.pick.method != "bridle" or leg is None:
        return
    if legs is not None:
        yield _long_enough("leg_short", leg, max(legs.first_leg, legs.second_leg) + constant("leg_knots").value)
    fits = grips(leg, rope) if rope is not None else None
    if rope is None or fits is True:
        return
    demand, allowed = (None if v is None else exactly(v) for v in (leg.diameter, rope.diameter))
    yield Limit("leg_slips", Verdict.NOT_KNOWN if fits is None else Verdict.OVER, demand, allowed, About(name=leg.name))


def _bends(members: Members, pick: Pick, rope: Item) -> Iterator[Limit]:
    """How sharply the loaded rope is bent round block or fork, the place it is led over, and the device."""
    least = constant("bend_least")
    for role in ("block", "redirect_block", "device"):
        item = pick.gear.get(role)
        point = pick.redirect if role == "redirect_block" else pick.point if role == "block" else None
        if point is not None and point.fork:
            round_what, ratio = "the fork", _fork_ratio(members, point, rope)
        elif item is None:
            continue
        else:
            round_what, ratio = item.name, bend_ratio(item, rope)
        about = About(name=rope.name, other=round_what)
        if ratio is None:
            yield Limit("bent_sharply", Verdict.NOT_KNOWN, None, least, about)
        else:
            yield held("bent_sharply", exactly(ratio), least, about)


def _fork_ratio(members: Members, point: RigPoint, rope: Item) -> float | None:
    """A fork bends the rope round its own wood; docs/methods.md, gear (6)."""
    if rope.diameter is None or (point.member is None and point.diameter is None):
        return None
    thick = point.diameter if point.member is None else thickness(members, members.rows[point.member], point.at)
    return None if thick is None else thick / rope.diameter  # (6)
