"""Labels of a drawing put where they lie on nothing: one placer for every drawing."""

from __future__ import annotations

import itertools
import math
from typing import TYPE_CHECKING, Any, NamedTuple

if TYPE_CHECKING:
    from collections.abc import Iterable

Spot = tuple[float, float]
Box = tuple[float, float, float, float]  # left, top, right, bottom [points]
AWAY = (
    13.0,
    19.0,
    28.0,
    40.0,
    56.0,
    78.0,
    104.0,
    136.0,
    176.0,
    220.0,
    270.0,
    330.0,
)  # how far off a label is tried, near ones first [points]
SIDES = ((1, 0), (-1, 0), (0, -1), (0, 1), (1, -1), (-1, -1), (1, 1), (-1, 1))
BETWEEN = ((1, -0.5), (-1, -0.5), (1, 0.5), (-1, 0.5))  # tried after the sides and corners
ANCHORS = {1: "start", -1: "end", 0: "middle"}
# Letters keep their size on the glass, so on a phone they are largest beside the picture: room is left for them there.
LETTER, TALL = 0.0192, 0.042  # width of a letter and height of a line, of the picture's width [-]
EDGE = 34.0  # a name starts at the edge of its shape where that is no further off than this [points]
LED = 22.0  # a label further off than this from its thing is led to it [points]


class Label(NamedTuple):
    """A placed label: its text, where its thing is, where the text begins from there, its anchor, whether it is led,
    and its box.
    """

    text: str
    at: Spot
    dx: float
    dy: float
    side: str
    led: bool
    box: Box


class Placer:
    """Puts labels one after another, most important first, each on free paper of a picture."""

    def __init__(self, width: float, height: float, shown: float = 390.0) -> None:
        """Take the picture's size, and the narrowest width it has on the glass [points]."""
        self.width, self.height = width, height
        self.letter, self.tall = LETTER * width * 390.0 / shown, TALL * width * 390.0 / shown
        self.taken: list[Box] = []
        self.lost: list[str] = []

    def take(self, *boxes: Box) -> None:
        """Mark paper as taken."""
        self.taken += boxes

    def around(self, at: Spot, radius: float) -> None:
        """Mark the paper round a thing as taken."""
        self.take((at[0] - radius, at[1] - radius, at[0] + radius, at[1] + radius))

    def along(self, places: Iterable[Spot], radius: float = 3.0) -> None:
        """Mark the paper along a line as taken, in short pieces."""
        for (ax, ay), (bx, by) in itertools.pairwise(places):
            pieces = max(int(max(abs(bx - ax), abs(by - ay)) / (4.0 * radius)), 1)
            for i in range(pieces + 1):
                share = i / pieces
                self.around((ax + (bx - ax) * share, ay + (by - ay) * share), radius)

    def put(self, text: str, at: Spot, first: str = "start", own: float = 0.0) -> Label | None:
        """Place a label beside its thing; None, and noted as lost, where no free place is near.

        ``own`` is the half size of the thing itself, which the label may lie near but not on.
        """
        wide = self.letter * len(text)
        sides = sorted(SIDES, key=lambda s: ANCHORS[s[0]] != first) if first == "end" else SIDES
        for away in AWAY:
            for sx, sy in (*sides, *BETWEEN):
                found = self._at(text, at, wide, away + own, sx, sy)
                if self.free(found.box):
                    self.take(found.box)
                    return found
        self.lost.append(text)
        return None

    def _at(self, text: str, at: Spot, wide: float, away: float, sx: int, sy: float) -> Label:
        dx, dy = sx * away * (0.75 if sx and sy else 1.0), sy * (away + 2.0) * (0.85 if sx and sy else 1.0) + 4.0
        left = at[0] + dx - {1: 0.0, -1: wide, 0: wide / 2.0}[sx]
        base = at[1] + dy
        box = (left - 1.0, base - 0.78 * self.tall, left + wide + 1.0, base + 0.22 * self.tall)
        return Label(text, at, round(dx, 1), round(dy, 1), ANCHORS[sx], away > LED, box)

    def free(self, box: Box) -> bool:
        """Whether a box lies on the picture and on nothing that is taken."""
        if box[0] < 1.0 or box[1] < 1.0 or box[2] > self.width - 1.0 or box[3] > self.height - 1.0:
            return False
        return not any(meet(box, other) for other in self.taken)


def meet(a: Box, b: Box) -> bool:
    """Whether two boxes lie on one another."""
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


APART = 46.0  # handles stand at least so far apart, for a thumb [points]
_FAN = tuple(
    (math.cos(math.tau * turn / 12.0) * far, math.sin(math.tau * turn / 12.0) * far)
    for far in (30.0, 46.0, 64.0, 84.0)
    for turn in range(12)
)


def fanned(placer: Placer, things: Iterable[tuple[str, str, Spot, str]]) -> list[dict[str, Any]]:
    """Handles with labels: where two would lie under one thumb, the later is held apart from its place and led to it.

    Each is (name, label, place, side tried first); ``at`` is where it is held, ``off`` the way from there to its place.
    """
    rows, holds = list(things), []
    for _, _, at, _ in rows:
        holds.append(_held(placer, at, holds))
    placed = beside(placer, [(n, text, hold, side) for (n, text, _, side), hold in zip(rows, holds, strict=True)])
    return [
        found | {"off": (round(at[0] - hold[0], 1), round(at[1] - hold[1], 1)), "fanned": at != hold}
        for found, (_, _, at, _), hold in zip(placed, rows, holds, strict=True)
    ]


def _held(placer: Placer, at: Spot, others: list[Spot]) -> Spot:
    """Where a handle is held: its place, else the nearest one clear of the other handles."""
    for dx, dy in ((0.0, 0.0), *_FAN):
        x, y = round(at[0] + dx, 1), round(at[1] + dy, 1)
        inside_it = (dx, dy) == (0.0, 0.0) or (12.0 < x < placer.width - 12.0 and 12.0 < y < placer.height - 12.0)
        if inside_it and all(math.dist((x, y), other) >= APART for other in others):
            return x, y
    return at


def beside(placer: Placer, things: Iterable[tuple[str, str, Spot, str]], radius: float = 9.0) -> list[dict[str, Any]]:
    """Labels of things, each (name, label, place, side tried first): every thing's own paper is taken first."""
    rows = list(things)
    for _, _, at, _ in rows:
        placer.around(at, radius)
    out = []
    for name, text, at, side in rows:
        label = placer.put(text, at, side, own=max(radius - 9.0, 0.0))
        place = {"dx": 0.0, "dy": 4.0, "led": False, "side": "middle", "shown": ""}
        if label:
            place = {"dx": label.dx, "dy": label.dy, "led": label.led, "side": label.side, "shown": text}
        out.append({"name": name, "label": text, "at": at} | place)
    return out


class Name(NamedTuple):
    """A name on a drawing: where it stands, from its anchor, and whether it is turned upright."""

    text: str
    at: Spot
    turned: bool
    side: str = "middle"
    dy: float = 4.5


def named(placer: Placer, text: str, box: Box, outside: bool = True) -> Name | None:
    """The name of an outline whose box on the picture is given: in it, upright in a tall one, else beside it where
    that is wanted; None where it is off the picture or has no room.
    """
    if box[0] >= box[2] or box[1] >= box[3]:
        return None
    middle = (box[0] + box[2]) / 2.0, (box[1] + box[3]) / 2.0
    half, line = placer.letter * len(text) / 2.0 + 1.0, placer.tall / 2.0
    wide, high = box[2] - box[0], box[3] - box[1]
    for turned, (w, h) in ((False, (half, line)), (True, (line, half))):
        if 2.0 * w > wide + (placer.tall if turned else 0.0) or 2.0 * h > high:
            continue
        for share in (0.0, -1.0, 1.0):
            at = (middle[0], middle[1] + share * (high / 2.0 - h))
            paper = (at[0] - w, at[1] - h, at[0] + w, at[1] + h)
            if placer.free(paper):
                placer.take(paper)
                return Name(text, at, turned)
    own = max(min((box[2] - box[0]) / 2.0 - 9.0, EDGE), 0.0)
    put = placer.put(text, middle, own=own) if outside else None
    return Name(text, (put.at[0] + put.dx, put.at[1] + put.dy), False, put.side, 0.0) if put else None
