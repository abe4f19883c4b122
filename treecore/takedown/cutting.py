"""The cut of a piece aloft: what turns it over its hinge, and a hinge asked to steer with the line slack."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

from treecore.estimate import Estimate, Kind, exactly, product, times
from treecore.felling.notch import hinge_chord
from treecore.schools import constant, school
from treecore.takedown.members import Members
from treecore.takedown.pick import Pick, Place, cut_types
from treecore.takedown.pieces import Piece
from treecore.takedown.working import Worked
from treecore.units import GRAVITY
from treecore.verdict import Limit, held

_REACH = 1.5  # how far above the cut a climber pushes at most [m]


_TIED_UP, _LEVEL = 0.8, 0.7  # where up a piece a tag line is tied, and the level share of a hand's pull from the ground


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
    docs/methods.md, aloft: the balance of a stem over its hinge, as at the stump; a notch a third deep, so that little
    lies behind the hinge, and a hinge a twentieth of the diameter thick, as usual for short pieces with little leverage.
    """
    if pick.bearing is None or piece.slope <= constant("upright").value or not cut_types()[pick.cut_type].on_hinge:
        return None
    thick = piece.thick
    depth, wood = school("depth", "third").usual * thick, school("thickness", "twentieth").usual * thick
    length = hinge_chord(depth, thick, thick)
    ahead = (piece.cg[0] - piece.butt[0]) * math.sin(pick.bearing)
    ahead += (piece.cg[1] - piece.butt[1]) * math.cos(pick.bearing)
    behind = thick / 2.0 - depth - wood / 2.0 - ahead  # (1)
    low, high = sorted((piece.mass.low * GRAVITY * behind, piece.mass.high * GRAVITY * behind))
    back = Estimate(piece.mass.value * GRAVITY * behind, low, high, Kind.ESTIMATED)
    tree = members.tree
    bends = product(product(tree.kind.mor, tree.condition.strength), constant("hinge_section"))
    bends = times(bends, length * wood**2 / 6.0)  # (2)
    needed = Estimate(back.value + bends.value, back.low + bends.low, back.high + bends.high, Kind.ESTIMATED)
    arm = min(_REACH, piece.length)
    pushed = times(constant("hand_push"), arm)  # (3)
    return Hinge(depth, wood, length, behind, needed, back, pushed, times(needed, 1.0 / arm))  # (4)


def cut_limits(members: Members, w: Worked) -> Iterator[Limit]:
    """Hold a cut aloft against its limits.

    Parameters
    ----------
    members : Members
        The tree's members.
    w : Worked
        The pick.
    """
    yield from _closes(members, w)
    yield from _steered(w)


def _closes(members: Members, w: Worked) -> Iterator[Limit]:
    """A piece that leans back over its cut closes it on the saw unless a hand or a line turns it; aloft (5)."""
    hinge = hinge_aloft(members, w.piece, w.pick)
    if hinge is None or hinge.back.value <= 0.0:
        return
    helped = hinge.pushed
    if "tag" in w.pick.gear:
        arm = _TIED_UP * w.piece.length * _LEVEL
        by_tag = times(constant("hand_hold"), arm)
        helped = Estimate(helped.value + by_tag.value, helped.low + by_tag.low, helped.high + by_tag.high, Kind.ASSUMED)
    if w.pick.pretension > 0.0 and w.point is not None and w.pick.bearing is not None:
        helped = _with_line(w, w.point, w.pick.bearing, helped)
    yield held("kerf_closes", hinge.back, helped)  # (5)


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
    if pick.bearing is None or w.forces is None or pick.slack <= 0.0 or piece.slope > constant("upright").value:
        return
    natural = math.atan2(piece.way[0], piece.way[1])
    turned = abs(math.remainder(pick.bearing - natural, math.tau))
    most = constant("steer_most")
    yield held("steered_slack", exactly(turned), most)  # (6)
