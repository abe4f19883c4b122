"""The saw and the back cut: what each cut asks of the bar, patterns and their order."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

from treecore.document.felling import FellingEntry
from treecore.document.fields import hold
from treecore.felling.notch import Cuts
from treecore.schools import constant, school
from treecore.tree.chord import hinge_chord


@dataclass(frozen=True, slots=True, kw_only=True)
class Saw:
    """How the cuts are made: bar length, None if not said [m], first cut, pattern of the back cut,
    side nicks, stance.
    """

    bar: float | None = None
    first: str = "sloping"
    pattern: str = "straight"
    nicks: bool = False
    position: str = "kneeling"

    def __post_init__(self) -> None:
        """Refuse what no saw or school is."""
        hold(self, FellingEntry, "saw")
        for choice, key in (("first", self.first), ("pattern", self.pattern), ("position", self.position)):
            school(choice, key)


class SawCut(NamedTuple):
    """One cut of the sequence, in the stump's drawing: x along the lay from the stem's centre, y to the left. [m].

    ``area`` is what the bar sweeps; ``bar`` what it must reach; ``stands`` where the person is; ``look`` whether they
    stop and look when it is done.
    """

    key: str
    area: tuple[tuple[float, float], ...]
    bar: float
    stands: tuple[float, float]
    look: bool


def half_width(cuts: Cuts, x: float) -> float:
    """Half the stem's width across the lay at a place along it [m].

    Parameters
    ----------
    cuts : Cuts
        Give the oval.
    x : float
        From the stem's centre, along the lay. [m]

    References
    ----------
    Ellipse.
    """
    part = 2.0 * x / cuts.along
    return cuts.across / 2.0 * math.sqrt(max(1.0 - part * part, 0.0))


def _slice(
    cuts: Cuts, low: Callable[[float], float], high: Callable[[float], float], y0: float, y1: float
) -> tuple[tuple[float, float], ...]:
    """Outline of the stump between two lines across it, from y0 to y1."""
    rows = [y0 + (y1 - y0) * i / 12.0 for i in range(13)]

    def rim(y: float) -> float:
        part = 2.0 * y / cuts.across
        return cuts.along / 2.0 * math.sqrt(max(1.0 - part * part, 0.0))

    def held(x: float, y: float) -> tuple[float, float]:
        return min(max(x, -rim(y)), rim(y)), y

    front = [held(high(y), y) for y in rows]
    outline = front + [held(min(low(y), high(y)), y) for y in reversed(rows)]
    return tuple((x, y - cuts.skew * x) for x, y in outline)


class _Scene(NamedTuple):
    cuts: Cuts
    saw: Saw
    apex: float
    half: float
    tension: float  # +1 where the fibres in tension are on the left, -1 on the right
    out: float  # +1 where the escape lies to the left, -1 to the right

    def behind(self, y: float) -> float:
        """Back edge of the hinge at a place across [m]."""
        chord = hinge_chord(self.cuts.depth, self.cuts.along, self.cuts.across)
        return self.apex - self.cuts.hinge - self.cuts.taper * y / chord


def _notch(s: _Scene) -> list[SawCut]:
    """The two cuts of the notch, from one side or both."""
    area = _slice(s.cuts, lambda y: s.apex, lambda y: s.cuts.along, -s.half, s.half)
    chord = hinge_chord(s.cuts.depth, s.cuts.along, s.cuts.across)
    need = _reached(s, chord)
    stands = (s.cuts.along * 0.1, s.out * s.half * 1.5)
    order = ("notch_sloping", "notch_level") if s.saw.first == "sloping" else ("notch_level", "notch_sloping")
    return [SawCut(key, area, need, stands, look) for key, look in zip(order, (True, True), strict=True)]


def _whole(s: _Scene, key: str, side: float, look: bool) -> SawCut:
    """Back cut from the rim to the hinge in one go."""
    area = _slice(s.cuts, lambda y: -s.cuts.along, s.behind, -s.half, s.half)
    return SawCut(key, area, _widest(s), (-s.cuts.along * 0.25, side * s.half * 1.5), look)


def _reached(s: _Scene, wide: float) -> float:
    """What a cut made from one side, or where the bar is short from both, asks of it [m]."""
    return wide / 2.0 if s.saw.bar is not None and s.saw.bar < wide else wide


def _widest(s: _Scene) -> float:
    """Widest place of the stem behind the hinge [m]."""
    back = s.apex - s.cuts.hinge
    return 2.0 * (s.cuts.across / 2.0 if back >= 0.0 else half_width(s.cuts, back))


def _half(s: _Scene, key: str, side: float, look: bool) -> SawCut:
    """Back cut of one side only, a little past the middle."""
    over = 0.08 * s.half
    low, high = (-over, s.half) if side > 0.0 else (-s.half, over)
    area = _slice(s.cuts, lambda y: -s.cuts.along, s.behind, low, high)
    return SawCut(key, area, _widest(s) / 2.0 + over, (-s.cuts.along * 0.25, side * s.half * 1.5), look)


def _bored(s: _Scene) -> tuple[SawCut, SawCut]:
    """Plunge that leaves a strap at the back, and the strap."""
    strap = -s.cuts.along / 2.0 + constant("strap").value * s.cuts.along
    area = _slice(s.cuts, lambda y: strap, s.behind, -s.half, s.half)
    rest = _slice(s.cuts, lambda y: -s.cuts.along, lambda y: strap, -s.half, s.half)
    need = _reached(s, _widest(s))
    stands = (-s.cuts.along * 0.1, s.out * s.half * 1.5)
    return (
        SawCut("bore", area, need, stands, True),
        SawCut(
            "trigger",
            rest,
            _reached(s, 2.0 * half_width(s.cuts, strap)),
            (-s.cuts.along * 0.45, s.out * s.half * 1.5),
            False,
        ),
    )


def _centre(s: _Scene) -> SawCut:
    """Plunge through the middle of the notch, from the front."""
    wide = hinge_chord(s.cuts.depth, s.cuts.along, s.cuts.across) / 6.0  # to either side: a third of the hinge
    area = _slice(s.cuts, lambda y: -s.cuts.along * 0.22, s.behind, -wide, wide)
    return SawCut("centre", area, s.cuts.depth + s.cuts.hinge + 0.3 * s.cuts.along, (s.cuts.along * 0.8, 0.0), True)


def _straight(s: _Scene) -> list[SawCut]:
    return [_whole(s, "back", s.out, True)]


def _lean_side(s: _Scene) -> list[SawCut]:
    return [_half(s, "compression", -s.tension, True), _half(s, "tension", s.tension, True)]


def _halves(s: _Scene) -> list[SawCut]:
    return [_half(s, "far_half", -s.out, True), _half(s, "near_half", s.out, True)]


def _bore(s: _Scene) -> list[SawCut]:
    return list(_bored(s))


def _middle(s: _Scene) -> list[SawCut]:
    return [_centre(s), _half(s, "far_half", -s.out, False), _half(s, "near_half", s.out, True)]


_PATTERNS: dict[str, Callable[[_Scene], list[SawCut]]] = {
    "straight": _straight, "lean_side": _lean_side, "halves": _halves, "bore": _bore, "middle": _middle,
}  # fmt: skip


def cut_sequence(cuts: Cuts, saw: Saw, tension_left: bool, escape_left: bool) -> tuple[SawCut, ...]:
    """Every saw cut in the order it is made; docs/methods.md, back cut (1), (2).

    Parameters
    ----------
    cuts : Cuts
        The cuts.
    saw : Saw
        How they are made.
    tension_left, escape_left : bool
        Whether the fibres in tension, and the escape, are on the left.

    References
    ----------
    Order: compression side first, then tension, finishing where the escape is; geometry of the oval stump.
    """
    apex = cuts.along / 2.0 - cuts.depth
    s = _Scene(cuts, saw, apex, cuts.across / 2.0, 1.0 if tension_left else -1.0, 1.0 if escape_left else -1.0)
    made = _notch(s)
    if saw.nicks:
        made.append(_nicks(s))
    return tuple(made + _PATTERNS[saw.pattern](s))


def _nicks(s: _Scene) -> SawCut:
    """Small cuts into the bark and sapwood at both ends of the hinge."""
    deep = constant("nick").value
    ends = []
    for side in (1.0, -1.0):
        rows = (s.apex - s.cuts.hinge, s.apex)
        y = [half_width(s.cuts, x) * side for x in rows]
        ends += [(rows[0], y[0]), (rows[1], y[1]), (rows[1], y[1] - side * deep), (rows[0], y[0] - side * deep)]
    ends = [(x, y - s.cuts.skew * x) for x, y in ends]
    return SawCut("nicks", tuple(ends), deep, (0.0, s.out * s.half * 1.5), False)


def longest_cut(sequence: tuple[SawCut, ...]) -> SawCut:
    """Return the cut that asks most of the bar.

    Parameters
    ----------
    sequence : tuple of SawCut
        At least one.
    """
    return max(sequence, key=lambda c: c.bar)
