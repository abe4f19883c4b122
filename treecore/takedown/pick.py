"""How a piece is taken: method, cut, ties, rigging point, rope, device, gear, climber, and what it comes down on."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache

from treecore.document.fields import hold
from treecore.document.takedown import PickEntry, WoodEntry
from treecore.errors import NotSolvable, between, none_of
from treecore.ranges import believed
from treecore.rigging.climbing import Climber
from treecore.rigging.friction import devices
from treecore.rigging.gear import Item
from treecore.rigging.landing import give
from treecore.schools import constant
from treecore.tables import rows
from treecore.takedown.members import Members, beside, place_on
from treecore.takedown.pieces import Piece, Standing
from treecore.takedown.sawcut import SawCut

Place = tuple[float, float, float]
HELD = ("lock", "soft", "run")
AWAY = {
    "": "as usual",
    "carried": "carried whole",
    "cut_up": "cut up where it lands",
    "machine": "by a machine",
    "chipper": "whole into the chipper",
}


@dataclass(frozen=True, slots=True)
class Method:
    """A way of taking a piece: lines it needs, and where its rigging point lies: none, above or below the cut, or a
    machine's hook.
    """

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


@dataclass(frozen=True, slots=True, kw_only=True)
class RigPoint:
    """A rigging point, or a place the rope is led over: on a member of this tree, or in another (from the stem's foot)
    [m].

    ``fork`` is a natural fork instead of a block; ``efficiency`` what a block passes on over half a turn [-]. Of
    another tree ``tree`` is its name, ``diameter`` its diameter and ``high`` its height [m] where they are known,
    ``sound`` whether someone looked at it.
    """

    member: str | None = None
    at: float = 0.0
    place: Place | None = None
    fork: bool = False
    efficiency: float = 0.95
    tree: str = ""
    diameter: float | None = None
    sound: bool = False
    high: float | None = None

    def __post_init__(self) -> None:
        """Refuse a point that is nowhere."""
        if (self.member is None) == (self.place is None):
            raise NotSolvable(what="rigging_point", why="a rigging point is on this tree or at a place in another")
        hold(self, WoodEntry, said="rigging_point")
        if self.diameter is not None:
            believed("rigging_point", self.diameter, "other_trunk")
        if self.place is not None:
            believed("rigging_point", self.place[2], "high_place")


@dataclass(frozen=True, slots=True, kw_only=True)
class Pick:
    """How a piece is taken. Ties along it from the cut [m], slack and run [m], the device's place from the foot [m].

    ``gear`` names items of the store by what they are in the path. ``bearing`` is the way its notch faces [rad],
    ``redirect`` a place the rope goes over between point and device, ``pretension`` in the line before the cut [N],
    ``head`` how high a bridle's head is above the piece [m]. ``far_anchor`` is the second high point of a drift or
    speed line, ``sag`` of the latter under its load over the span [-]. ``landing`` is where it is put down, east and
    north of the foot; the bed it falls on is ``bed_depth`` deep and ``bed_radius`` round [m]. ``capacity`` is what a
    crane or machine lifts there [kg]. ``setting`` is that of a device with settings; ``tag_place`` and ``device_from``
    where the people at the tag line and at the device stand, east and north [m]. ``lift`` says that it is cut from a
    lift; ``away`` how it leaves its landing: carried whole by ``handlers`` people, cut up, by a machine of that
    ``capacity``, or into a chipper of that ``throat`` [m]; ``test_lift`` that it is lifted a little before it is let
    go.
    """

    name: str
    method: str = "butt"
    cut: SawCut = field(default_factory=SawCut)
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
    bearing: float | None = None
    redirect: RigPoint | None = None
    pretension: float = 0.0
    head: float = 1.5
    far_anchor: RigPoint | None = None
    sag: float = 0.1
    bed: str = "none"
    bed_depth: float = 0.0
    bed_radius: float = 3.0
    capacity: float | None = None
    setting: int = 1
    tag_place: tuple[float, float] | None = None
    device_from: tuple[float, float] | None = None
    lift: bool = False
    away: str = ""
    handlers: int = 0
    throat: float | None = None
    test_lift: bool = False

    def __post_init__(self) -> None:
        """Refuse what no pick is."""
        if self.method not in methods():
            raise none_of(what="method", given=self.method, known=methods())
        if self.away not in AWAY:
            raise none_of(what="away", given=self.away, known=(w for w in AWAY if w))
        if self.held not in HELD:
            raise none_of(what="held", given=self.held, known=HELD)
        if self.device not in devices():
            raise none_of(what="device", given=self.device, known=devices())
        hold(self, PickEntry)
        if not devices()[self.device].settings:  # one with settings takes no wraps: what was typed stays, unused
            between("wraps", self.wraps, 0.0, devices()[self.device].most, "as many as the device takes")
        devices()[self.device].turns(0.0, self.setting)
        give(self.bed, self.bed_depth)
        if self.pretension > 0.0 and self.slack > 0.0:
            raise NotSolvable(what="pretension", why="a line with slack in it is not tight before the cut")
        if methods()[self.method].lines and self.point is None:
            raise NotSolvable(what="rigging_point", why="this method needs a rigging point")

    @property
    def on(self) -> RigPoint:
        """The rigging point of a pick that is held by a line.

        Raises
        ------
        NotSolvable
            If it has none.
        """
        if self.point is None:
            raise NotSolvable(what="rigging_point", why="this method needs a rigging point")
        return self.point

    @property
    def goes(self) -> float | None:
        """Bearing an upright piece goes: as its notch faces, turned by a tilted hinge [rad]; None where nobody said."""
        return None if self.bearing is None else (self.bearing + self.cut.aside()) % math.tau


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


def kept_as_it_lies(pick: Pick) -> bool:
    """Whether two lines or legs keep a piece as it lies.

    Parameters
    ----------
    pick : Pick
        How it is taken.
    """
    return pick.method in ("both", "bridle") and pick.second_tie is not None


def hold_place(piece: Piece, pick: Pick) -> Place:
    """Where the main line takes hold, from the stem's foot [m]: the tie, or a bridle's head above the balance.

    Parameters
    ----------
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.

    Raises
    ------
    OutOfRange
        If a tie is not on the piece.
    """
    tie = tie_place(piece, pick.tie)
    if pick.second_tie is None or pick.method != "bridle":
        return tie
    tie_place(piece, pick.second_tie)
    x, y, z = tie_place(piece, min(piece.balance.value, piece.length))
    return x, y, z + pick.head


def point_place(
    members: Members, standing: Standing, point: RigPoint, what: str = "rigging_point", side: float | None = None
) -> Place:
    """Where a rigging point is, from the stem's foot [m]; on an upright member against its bark; swing (10).

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands while the piece comes off.
    point : RigPoint
        The point.
    what : str
        What an error names.
    side : float, optional
        Side of an upright member it hangs on; its axis where none is said. [rad]

    Raises
    ------
    NotSolvable
        If it is on what does not stand.
    """
    if point.place is not None:
        return point.place
    row = members.rows.get(point.member or "", -1)
    if row < 0:
        raise NotSolvable(what, "there is no limb “{member}” on this tree", member=point.member)
    if not standing.has(row, point.at):
        raise NotSolvable(what, "it is above, or beyond, what stands when this piece comes off")
    if side is None:
        return place_on(members, row, point.at)
    return beside(members, row, point.at, side, 0.0)  # (10)


def redirect_place(members: Members, standing: Standing, pick: Pick) -> Place | None:
    """Where the rope is led over, on the bark towards its device, from the stem's foot [m]; None where it is not led.

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands while the piece comes off.
    pick : Pick
        How it is taken.

    Raises
    ------
    NotSolvable
        If it is led over what does not stand.
    """
    if pick.redirect is None:
        return None
    axis = point_place(members, standing, pick.redirect, "redirect")
    side = math.atan2(pick.device_place[0] - axis[0], pick.device_place[1] - axis[1])
    return point_place(members, standing, pick.redirect, "redirect", side)


def side_of(members: Members, piece: Piece, pick: Pick) -> float:
    """Side on which the rigging point hangs: where an upright piece goes, else towards the tie [rad]; swing (10).

    Parameters
    ----------
    members : Members
        The tree's members.
    piece : Piece
        The piece.
    pick : Pick
        How it is taken.
    """
    if pick.bearing is not None and (piece.slope > constant("upright").value or pick.method == "negative"):
        return pick.bearing
    tie = [b + w * pick.tie for b, w in zip(piece.butt, piece.way, strict=True)]
    point = pick.point
    row = members.rows.get(point.member or "", 0) if point is not None else 0
    axis = place_on(members, row, point.at if point is not None else 0.0)
    return math.atan2(tie[0] - axis[0], tie[1] - axis[1])  # (10)
