"""Measuring: girth, height, lean, and combining readings. Heights are above the ground at the stem [m]."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache

from treecore.errors import NotSolvable, between
from treecore.estimate import COVERAGE, Estimate, Kind
from treecore.ranges import believed, ranges
from treecore.tables import rows

_STEEP = math.radians(80.0)


def diameter_from_girth(girth: float) -> float:
    """Diameter of a round stem from its girth [m]; docs/methods.md, measuring (1).

    Parameters
    ----------
    girth : float
        Tape length round the stem. [m]

    Raises
    ------
    OutOfRange
        If the diameter would lie outside what is believed.

    References
    ----------
    Circle; an oval stem is over-read by less than 1 % up to an axis ratio of 1.3.
    """
    low, high, _, why = ranges()["tree_diameter"]
    between("girth", girth, math.pi * low, math.pi * high, why, "girth")
    return girth / math.pi  # (1)


def height_by_stick(distance: float, stick: float, reach: float, sighted: float = 0.0) -> float:
    """Height by a stick held upright at arm's length; docs/methods.md, measuring (2).

    Parameters
    ----------
    distance : float
        Level distance from the eye to the stem. [m]
    stick, reach : float
        Stick length above the hand; distance from eye to hand. [m]
    sighted : float
        Height of the point sighted over the hand, above the ground. [m]

    Raises
    ------
    OutOfRange
        On a distance, stick or reach no person has.

    References
    ----------
    Similar triangles.
    """
    believed("distance", distance, "sighted_from")
    between("stick", stick, 0.05, 2.0, "a stick of 5 cm to 2 m can be held upright", "offset")
    between("reach", reach, 0.3, 1.2, "an arm holds a stick 0.3 to 1.2 m from the eye", "offset")
    between("sighted", sighted, -10.0, 10.0, "the sighted point is near the foot of the stem", "length")
    return _believed(distance * stick / reach + sighted)  # (2)


def height_by_tangent(distance: float, top: float, base: float, slope: float = 0.0, toward: float = 0.0) -> float:
    """Height by two angles and one distance; docs/methods.md, measuring (3).

    Parameters
    ----------
    distance : float
        From the eye to the stem, along the ground's slope. [m]
    top, base : float
        Signed angles above the level to the tip and to the foot. [rad]
    slope : float
        Signed slope along which the distance was taped; 0 for a level distance. [rad]
    toward : float
        How far the tip stands from the stem's foot towards the eye; negative away. [m]

    Raises
    ------
    OutOfRange
        On angles past 80 degrees or a distance out of reach.
    NotSolvable
        If the tip would stand behind the eye, or the top is sighted below the base.

    References
    ----------
    Plane trigonometry.
    """
    believed("distance", distance, "sighted_from")
    for name, angle in (("top", top), ("base", base), ("slope", slope)):
        between(name, angle, -_STEEP, _STEEP, "steeper sights than 80° read too coarsely: step back", "angle")
    between("toward", toward, -50.0, 50.0, "a tip stands within 50 m of its foot", "length")
    level = distance * math.cos(slope)
    if level - toward <= 0.5:
        raise NotSolvable(what="toward", why="the tip would stand over or behind your eye; sight from further away")
    if top <= base:
        raise NotSolvable(
            what="top", why="the tip is sighted below the foot of the stem; look at the signs of the angles"
        )
    return _believed((level - toward) * math.tan(top) - level * math.tan(base))  # (3)


def height_by_sine(to_top: float, top: float, to_base: float, base: float) -> float:
    """Height by two sloping distances and their angles, as a laser gives them; docs/methods.md, measuring (4).

    Parameters
    ----------
    to_top, to_base : float
        Straight-line distances from the eye to tip and foot. [m]
    top, base : float
        Signed angles above the level. [rad]

    Raises
    ------
    OutOfRange
        On distances or angles out of reach.

    References
    ----------
    Plane trigonometry; holds for a leaning tree too.
    """
    for name, length in (("to_top", to_top), ("to_base", to_base)):
        believed(name, length, "sighted_from")
    for name, angle in (("top", top), ("base", base)):
        between(name, angle, -math.pi / 2, math.pi / 2, "a sight lies between straight down and straight up", "angle")
    return _believed(to_top * math.sin(top) - to_base * math.sin(base))  # (4)


def height_by_rope(length: float, on_ground: float, above: float) -> float:
    """Height by a line doubled over a fork; docs/methods.md, measuring (5).

    Parameters
    ----------
    length, on_ground : float
        Whole line; what of it lies on the ground. [m]
    above : float
        Estimated rest of the tree above the fork. [m]

    Raises
    ------
    OutOfRange
        If more line lies on the ground than there is, or the rest is absurd.

    References
    ----------
    Half of the hanging line reaches from the ground to the fork.
    """
    between("length", length, 2.0, 400.0, "a climbing line is 2 to 400 m long", "length")
    between("on_ground", on_ground, 0.0, length, "no more can lie on the ground than the line is long", "length")
    between("above", above, 0.0, 60.0, "the rest above the fork is under 60 m", "length")
    return _believed((length - on_ground) / 2.0 + above)  # (5)


def lean_from_offset(offset: float, height: float) -> float:
    """Lean of a straight stem from how far its top stands off the foot [rad]; docs/methods.md, measuring (6).

    Parameters
    ----------
    offset : float
        Plumbed offset of the top. [m]
    height : float
        Height of the tree. [m]

    Raises
    ------
    OutOfRange
        On an offset larger than the tree is tall.

    References
    ----------
    Plane trigonometry.
    """
    believed("height", height, "tree_height")
    between("offset", offset, 0.0, height, "a standing tree's top is nearer to its foot than it is high", "length")
    return math.atan2(offset, height)  # (6)


def _believed(height: float) -> float:
    return believed("height", height, "tree_height")


@dataclass(frozen=True, slots=True)
class Method:
    """A way of measuring: its formula, what it takes, and its default standard deviation."""

    key: str
    quantity: str
    name: str
    formula: Callable[..., float]
    takes: tuple[tuple[str, str], ...]  # argument, dimension
    sd_share: float
    sd_least: float
    source: str

    def sd(self, value: float) -> float:
        """Return the default standard deviation of a reading, in the value's own unit [m]."""
        return math.hypot(self.sd_share * value, self.sd_least)


def _same(value: float) -> float:
    return value


_FORMULAS: dict[str, tuple[Callable[..., float], tuple[tuple[str, str], ...]]] = {
    "stick": (
        height_by_stick,
        (("distance", "length"), ("stick", "offset"), ("reach", "offset"), ("sighted", "offset")),
    ),
    "tangent": (
        height_by_tangent,
        (("distance", "length"), ("top", "angle"), ("base", "angle"), ("slope", "angle"), ("toward", "offset")),
    ),
    "sine": (height_by_sine, (("to_top", "length"), ("top", "angle"), ("to_base", "length"), ("base", "angle"))),
    "rope": (height_by_rope, (("length", "length"), ("on_ground", "length"), ("above", "length"))),
    "girth": (diameter_from_girth, (("girth", "girth"),)),
    "calliper": (_same, (("value", "girth"),)),
}


@cache
def methods() -> dict[str, Method]:
    """Return every way of measuring by key, with defaults from ``data/measuring.csv``."""
    return {
        row["key"]: Method(
            row["key"],
            row["quantity"],
            row["name"],
            *_FORMULAS[row["key"]],
            float(row["sd_share"]),
            float(row["sd_least"]),
            row["source"],
        )
        for row in rows("measuring")
    }


def read(method: str, arguments: Mapping[str, float], sd: float | None = None) -> Estimate:
    """Work out one reading with its interval.

    Parameters
    ----------
    method : str
        Key of ``methods``.
    arguments : mapping of str to float
        What was read, by argument name. [SI]
    sd : float, optional
        Standard deviation where the person knows better than the default. [m]

    Raises
    ------
    OutOfRange, NotSolvable
        As the method's formula does.
    """
    way = methods()[method]
    taken = {name for name, _ in way.takes}
    for name in [*arguments, *sorted(taken)]:
        if name not in arguments or name not in taken:
            raise NotSolvable(
                name, "the method “{method}” takes {taken}", method=method, taken=", ".join(sorted(taken))
            )
    value = way.formula(**arguments)
    spread = way.sd(value) if sd is None else between("sd", sd, 1e-4, 20.0, "a spread of 0.1 mm to 20 m", "offset")
    return Estimate(value, value - COVERAGE * spread, value + COVERAGE * spread, Kind.MEASURED)


@dataclass(frozen=True, slots=True)
class Combined:
    """Several readings made one. ``disagreement`` is the Birge ratio [-]; above 1 it has widened the interval."""

    estimate: Estimate
    weights: tuple[float, ...]
    disagreement: float


def combine(readings: Sequence[Estimate]) -> Combined:
    """Combine readings by inverse variance; readings that disagree widen the result.

    Parameters
    ----------
    readings : sequence of Estimate
        At least one, in one unit. [SI]

    Raises
    ------
    NotSolvable
        Without any reading.

    References
    ----------
    R. T. Birge (1932), Physical Review 40, 207-227: ratio of external to internal consistency;
    docs/methods.md, measuring (7), (8).
    """
    if not readings:
        raise NotSolvable(what="readings", why="there is no reading to combine")
    inverse = [1.0 / r.sd**2 for r in readings]
    total = math.fsum(inverse)
    value = math.fsum(w * r.value for w, r in zip(inverse, readings, strict=True)) / total  # (7)
    chi2 = math.fsum(w * (r.value - value) ** 2 for w, r in zip(inverse, readings, strict=True))
    ratio = math.sqrt(chi2 / (len(readings) - 1)) if len(readings) > 1 else 0.0
    sd = max(1.0, ratio) / math.sqrt(total)  # (8)
    estimate = Estimate(value, value - COVERAGE * sd, value + COVERAGE * sd, Kind.MEASURED)
    return Combined(estimate, tuple(w / total for w in inverse), ratio)
