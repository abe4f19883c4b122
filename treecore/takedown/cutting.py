"""The cut of a piece aloft: what turns it over its hinge, and a hinge asked to steer with the line slack."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from treecore.estimate import Estimate, Kind, exactly, product, times
from treecore.schools import constant
from treecore.takedown.members import Members
from treecore.takedown.pick import Pick, Place, kept_as_it_lies
from treecore.takedown.pick_result import HeldPick, HookPick, Worked
from treecore.takedown.pieces import Piece
from treecore.tree.chord import sound_chord
from treecore.units import GRAVITY
from treecore.verdict import About, Limit, Verdict, held


class Hinge(NamedTuple):
    """A notch and hinge aloft: depth, thickness and length [m]; how far the balance lies behind it [m].

    ``needed`` turns the piece over, its hinge bending; ``back`` is what of that is its own weight; ``pushed`` what a
    climber's push gives [N·m]; ``push`` the force that takes [N].
    """

    depth: float
    thick: float
    length: float
    behind: float
    needed: Estimate
    back: Estimate
    pushed: Estimate
    push: Estimate


def hinge_aloft(members: Members, piece: Piece, pick: Pick) -> Hinge | None:
    """Work out the hinge of a piece that stands upright; None for one that lies, or without a hinge. aloft (1) to (4).

    Parameters
    ----------
    members : Members
        The tree's members.
    piece : Piece
        The piece.
    pick : Pick
        How it is taken; the way its notch faces.

    References
    ----------
    docs/methods.md, aloft: the balance of a stem over its hinge, as at the stump. Where nobody said: a notch a third
    deep, so that little lies behind the hinge, and a hinge a twentieth of the diameter thick, as usual for short
    pieces.
    """
    if pick.bearing is None or piece.slope <= constant("upright").value or not pick.cut.type.on_hinge:
        return None
    thick = piece.diameter
    depth, wood, bark = pick.cut.depth_in(thick), pick.cut.hinge_in(thick), constant("bark")
    length = tuple(float(sound_chord(depth, thick, thick, b)) for b in (bark.value, bark.high, bark.low))
    ahead = (piece.cg[0] - piece.butt[0]) * math.sin(pick.bearing)
    ahead += (piece.cg[1] - piece.butt[1]) * math.cos(pick.bearing)
    behind = thick / 2.0 - depth - wood / 2.0 - ahead  # (1)
    low, high = sorted((piece.mass.low * GRAVITY * behind, piece.mass.high * GRAVITY * behind))
    back = Estimate(piece.mass.value * GRAVITY * behind, low, high, Kind.ESTIMATED)
    tree = members.tree
    bends = product(product(tree.kind.mor, tree.condition.strength), constant("hinge_section"))
    value, low, high = (of * wood**2 / 6.0 for of in length)
    bends = product(bends, Estimate(value, low, high, Kind.ASSUMED))  # (2)
    needed = Estimate(back.value + bends.value, back.low + bends.low, back.high + bends.high, Kind.ESTIMATED)
    arm = min(constant("push_reach").value, piece.length)
    pushed = times(constant("hand_push"), arm)  # (3)
    return Hinge(depth, wood, length[0], behind, needed, back, pushed, times(needed, 1.0 / arm))  # (4)


class StepCut(NamedTuple):
    """Two cuts that pass each other: their overlap [m]; the moment the wood between holds, its weight's, a hand's
    [N·m].
    """

    overlap: float
    holds: Estimate
    weight: Estimate
    pushed: Estimate


def step_aloft(members: Members, w: Worked) -> StepCut | None:
    """Work a bypass step cut out; None for other cuts. docs/methods.md, aloft (9), (10).

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick.

    References
    ----------
    A strip of wood as wide as the piece and as high as the overlap, pulled off across the grain: M = f·d·o²/6.
    """
    if w.pick.cut.key != "step":
        return None
    overlap = w.pick.cut.overlap_in(w.piece.diameter)
    across = times(constant("across_grain"), members.tree.condition.strength.value)
    holds = times(across, w.piece.diameter * overlap**2 / 6.0)  # (9)
    return StepCut(overlap, holds, moment_at_cut(w), _helped(w))


def moment_at_cut(w: Worked) -> Estimate:
    """Moment of a piece's weight about its cut, less what a tight line or a machine's hook takes [N·m]; aloft (10).

    Parameters
    ----------
    w : Worked
        The pick.
    """
    pick, piece = w.pick, w.piece
    out = np.array(piece.cg) - np.array(piece.butt)
    if isinstance(w, HookPick):
        return exactly(0.0, Kind.ESTIMATED)
    line = np.zeros(3)
    if isinstance(w, HeldPick) and pick.pretension > 0.0:
        along = piece.balance.value if kept_as_it_lies(pick) else pick.tie
        tie = np.array(piece.butt) + np.array(piece.way) * along
        to = np.array(w.point) - tie
        line = np.cross(tie - np.array(piece.butt), to * (pick.pretension / max(float(np.linalg.norm(to)), 0.05)))

    def moment(mass: float) -> float:
        return float(np.linalg.norm(np.cross(out, np.array([0.0, 0.0, -mass * GRAVITY])) + line))  # (10)

    at = [moment(m) for m in (piece.mass.value, piece.mass.low, piece.mass.high)]
    return Estimate(at[0], min(at), max(at), Kind.ESTIMATED)


def cut_limits(members: Members, w: Worked) -> Iterator[Limit]:
    """Hold a cut aloft against its limits.

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick.
    """
    yield from _turned_over(members, w)
    yield from _steered(w)
    yield from _stepped(members, w)
    yield from _splits(w)


def _turned_over(members: Members, w: Worked) -> Iterator[Limit]:
    """A piece turned over its hinge by hand or line: one that leans back closes the cut on the saw; aloft (5), (11)."""
    hinge = hinge_aloft(members, w.piece, w.pick)
    if hinge is None:
        return
    helped = _helped(w)
    if hinge.back.value > 0.0:
        yield held("kerf_closes", hinge.back, helped)  # (5)
    if w.pick.cut.hinge is not None:
        yield held("push_hard", hinge.needed, helped)  # (11)
    closes = w.pick.cut.closes
    if w.pick.cut.type.level and closes is not None:
        flat, opens = exactly(w.piece.slope, Kind.ESTIMATED), exactly(closes)
        yield held("reversed_closes", flat, opens)  # (12)


def _helped(w: Worked) -> Estimate:
    """Moment that a climber's push, a tag line and a line tight the way the notch faces give about a cut [N·m]."""
    helped = times(constant("hand_push"), min(constant("push_reach").value, w.piece.length))
    if "tag" in w.pick.gear:
        by_tag = times(constant("hand_hold"), constant("tag_tied").value * w.piece.length * constant("tag_level").value)
        helped = Estimate(helped.value + by_tag.value, helped.low + by_tag.low, helped.high + by_tag.high, Kind.ASSUMED)
    if isinstance(w, HeldPick) and w.pick.pretension > 0.0 and w.pick.bearing is not None:
        helped = _with_line(w, w.point, w.pick.bearing, helped)
    return helped


def _stepped(members: Members, w: Worked) -> Iterator[Limit]:
    """A step cut holds the piece until it is meant to go, and a hand snaps it then; aloft (9), (10)."""
    step = step_aloft(members, w)
    if step is None:
        return
    yield held("step_holds", step.weight, step.holds)
    if not isinstance(w, HookPick):
        yield held("step_snaps", step.holds, step.pushed)


def _splits(w: Worked) -> Iterator[Limit]:
    """A plain top cut on wood that hangs on it: holds at the collar, splits further out; aloft (13)."""
    pick, piece = w.pick, w.piece
    if pick.cut.key != "top" or piece.row == 0 or piece.slope > constant("upright").value:
        return
    if pick.method == "toss":
        return  # a hand carries it, and is held against its weight
    weight = piece.mass.value * GRAVITY * math.hypot(piece.cg[0] - piece.butt[0], piece.cg[1] - piece.butt[1])
    if moment_at_cut(w).value < constant("hangs_on_cut").value * weight:
        return
    collar = exactly(constant("collar_most").value * piece.diameter, Kind.ASSUMED)
    out = exactly(piece.cut.at)
    verdict = Verdict.OVER if out.value > collar.value else Verdict.WITHIN
    yield Limit("top_splits", verdict, out, collar, About(name=piece.cut.member))  # (13)


def _with_line(w: Worked, point: Place, faces: float, pushed: Estimate) -> Estimate:
    """The push and what a line made tight before the cut turns the way its notch faces."""
    piece, pick = w.piece, w.pick
    tie = [b + u * pick.tie for b, u in zip(piece.butt, piece.way, strict=True)]
    to = [p - t for p, t in zip(point, tie, strict=True)]
    far = math.hypot(*to)
    if far < 0.05:
        return pushed
    ahead = (to[0] * math.sin(faces) + to[1] * math.cos(faces)) / far
    gives = max(pick.pretension * ahead * pick.tie, 0.0)
    return Estimate(pushed.value + gives, pushed.low + gives, pushed.high + gives, Kind.ASSUMED)


def _steered(w: Worked) -> Iterator[Limit]:
    """A limb turned aside by its hinge alone while its line hangs slack; aloft (6)."""
    pick, piece = w.pick, w.piece
    if (
        pick.bearing is None
        or not isinstance(w, HeldPick)
        or pick.slack <= 0.0
        or piece.slope > constant("upright").value
    ):
        return
    natural = math.atan2(piece.way[0], piece.way[1])
    turned = abs(math.remainder(pick.bearing - natural, math.tau))
    most = constant("steer_most")
    yield held("steered_slack", exactly(turned), most)  # (6)
