"""When the rope comes tight: how far the balance falls, and the peak by each school; legs, lever, bridle and two
lines.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from treecore.errors import Column, NotSolvable, all_between, between, positive
from treecore.ranges import all_believed
from treecore.units import FOOT

Vector = tuple[float, float, float]


def cg_fall(tie_above: float, apart: float, cg_beyond: Column, rise: Column, slack: Column) -> Column:
    """Most that the balance may fall until the line is tight [m]; docs/methods.md, forces (1).

    Parameters
    ----------
    tie_above : float
        Height of the tie above its block; below nothing where the line holds from above. [m]
    apart : float
        Straight distance of tie and block. [m]
    cg_beyond : Column
        How far the balance lies from the tie along the piece. [m]
    rise : Column
        Of the piece from its tie towards its balance, above level. [rad]
    slack : Column
        Rope that is out beyond what the way needs. [m]

    Raises
    ------
    OutOfRange
        On less than no slack, or sizes no pick has.

    References
    ----------
    Geometry: the tie goes from above the block to its rope's length below it, the balance from where it stands to
    straight below the tie. An upper bound, for a swing keeps part of it; the motion rules.
    """
    all_believed("slack", slack, "rope_slack")
    between("tie_above", tie_above, -60.0, 20.0, "a tie lies up to 20 m above its block", "length")
    all_between("cg_beyond", cg_beyond, 0.0, 30.0, "a balance lies up to 30 m beyond its tie", "length")
    if tie_above < 0.0:
        return slack  # the line holds from above: only what is slack is fallen through
    found: Column = tie_above + apart + cg_beyond * (1.0 + np.sin(rise)) + slack
    return found  # (1)


def field_rule(weight: Column, fall: Column) -> Column:
    """Peak by the rule of the trade: weight times two plus the fall in feet [N]; docs/methods.md, forces (2).

    Parameters
    ----------
    weight, fall : Column
        Of the piece [N]; of its balance until the line is tight [m].

    References
    ----------
    Rule of thumb of the trade.
    """
    return weight * (2.0 + fall / FOOT)  # (2)


def stretch_peak(weight: Column, fall: Column, stiffness: Column) -> Column:
    """Peak by energy taken up by the rope's stretch [N]; docs/methods.md, forces (3).

    Parameters
    ----------
    weight, fall, stiffness : Column
        Of the piece [N]; of its balance until the line is tight [m]; of the rope really in play, modulus over length
        [N/m].

    References
    ----------
    Energy of a falling weight and a spring (Wexler 1950, American Alpine Journal; Timoshenko, Strength of Materials).
    """
    found: Column = weight * (1.0 + np.sqrt(1.0 + 2.0 * np.maximum(fall, 0.0) * stiffness / weight))
    return found  # (3)


def run_out(weight: Column, fall: Column, stiffness: Column, brake: Column) -> Column:
    """Way a piece runs against an even brake until it stops [m]: none where the rope holds it, no end where it never
    does.

    Parameters
    ----------
    weight : Column
        Of the piece. [N]
    fall : Column
        Until the line is tight. [m]
    stiffness : Column
        Of the rope in play. [N/m]
    brake : Column
        Tension at the piece at which its rope runs. [N]

    References
    ----------
    Work of weight, brake and rope, W·(h + F/k + s) = F·s + F²/2k, for the run s; without one F is the locked peak (3).
    """
    left = weight * (fall + brake / stiffness) - brake**2 / (2.0 * stiffness)
    over = brake - weight
    way = np.maximum(left, 0.0) / np.where(over > 0.0, over, 1.0)
    return np.where((over > 0.0) | (left <= 0.0), way, np.inf)  # (4)


class LetRun(NamedTuple):
    """A piece let run: tension at the piece [N], way it runs [m], without end where nothing stops it."""

    peak: Column
    run: Column


def let_run(weight: Column, fall: Column, stiffness: Column, brakes: tuple[Column, Column], let: float) -> LetRun:
    """Let a piece run against a loose hand for a way, then against a closed one; docs/methods.md, forces (4).

    Parameters
    ----------
    weight : Column
        Of the piece. [N]
    fall : Column
        Until the line is tight. [m]
    stiffness : Column
        Of the rope in play. [N/m]
    brakes : tuple of Column
        Tension at the piece at which its rope runs, by a loose and by a closed hand. [N]
    let : float
        Way it is let run before the hand closes. [m]

    References
    ----------
    Forces (4) twice. Where the loose hand holds it already it is locked; where the closed one snatches it, it is locked
    after the greater fall.
    """
    loose, closed = brakes
    first = run_out(weight, fall, stiffness, loose)
    stops = first <= let
    further = fall + let * np.maximum(1.0 - loose / weight, 0.0)
    second = run_out(weight, further, stiffness, closed)
    peak = np.where(
        stops,
        np.minimum(loose, stretch_peak(weight, fall, stiffness)),
        np.maximum(loose, np.minimum(closed, stretch_peak(weight, further, stiffness))),
    )
    return LetRun(peak, np.where(stops, first, let + second))


def rope_in_play(lengths: Sequence[Column], tension_ratios: Sequence[Column]) -> Column:
    """Length of rope that stretches under a load, as if it all carried the whole of it [m]; docs/methods.md, forces
    (5).

    Parameters
    ----------
    lengths : sequence of Column
        Of the legs from the piece to the device. [m]
    tension_ratios : sequence of Column
        Share of the tension passed on between each two of them. [-]

    References
    ----------
    Elongation of bars in a row, each under the tension that reaches it: 1/k = (L1 + e1·L2 + e1·e2·L3)/EA.
    """
    total: Column = lengths[0]
    tension_ratio: Column = 1.0
    for length, share in zip(lengths[1:], tension_ratios, strict=True):
        tension_ratio = tension_ratio * share
        total = total + length * tension_ratio
    return total  # (5)


def block_force(lead: Vector, rest: Vector, tension: float, tension_ratio: float) -> Vector:
    """Force of both legs on a block or fork [N]; docs/methods.md, forces (6).

    Parameters
    ----------
    lead, rest : tuple of float
        Unit directions from the block along the leg to the piece and the leg to the device. [-]
    tension : float
        In the leg to the piece. [N]
    tension_ratio : float
        Share of it in the other leg. [-]

    References
    ----------
    Vector sum.
    """
    x, y, z = (tension * (a + tension_ratio * b) for a, b in zip(lead, rest, strict=True))
    return x, y, z  # (6)


def turn_between(lead: Vector, rest: Vector) -> float:
    """Angle a rope turns through at a block [rad]: a half turn where both legs hang side by side.

    Parameters
    ----------
    lead, rest : tuple of float
        Unit directions from the block along both legs. [-]
    """
    return math.pi - math.acos(min(max(sum(a * b for a, b in zip(lead, rest, strict=True)), -1.0), 1.0))


def hinged_lever(weight: float, cg: float, tie: float, slope: float, angle: float) -> float:
    """Tension in a line tied out along a piece that still hangs on its hinge [N]; docs/methods.md, forces (7).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    cg, tie : float
        Balance and tie along it from the hinge. [m]
    slope : float
        Of the piece above level. [rad]
    angle : float
        Between rope and piece. [rad]

    Raises
    ------
    NotSolvable, OutOfRange
        If the rope runs along the piece.

    References
    ----------
    Moments about the hinge.
    """
    if abs(math.sin(angle)) < 0.02:
        raise NotSolvable(what="tie", why="the rope runs along the piece: it can't hold it up")
    return weight * cg * math.cos(slope) / (positive("tie", tie) * abs(math.sin(angle)))  # (7)


def two_legs(weight: float, left: float, right: float) -> tuple[float, float]:
    """Tension in two legs that hold a weight between them [N]; docs/methods.md, forces (8).

    Parameters
    ----------
    weight : float
        Held. [N]
    left, right : float
        Angles of the legs from upright. [rad]

    Raises
    ------
    NotSolvable
        If the legs lie level.

    References
    ----------
    Triangle of forces.
    """
    both = math.sin(left + right)
    if both < 1e-3:
        if left < 1e-3 and right < 1e-3:
            return weight / 2.0, weight / 2.0
        raise NotSolvable(what="bridle", why="level legs hold nothing up")
    return weight * math.sin(right) / both, weight * math.sin(left) / both  # (8)


def shared(weight: float, first: float, second: float, cg: float) -> tuple[float, float]:
    """Share of a level piece's weight on two upright lines [N]; docs/methods.md, forces (9).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    first, second, cg : float
        Where along it the lines are tied, and its balance. [m]

    Raises
    ------
    NotSolvable
        If both are tied at one place.

    References
    ----------
    Moments about each tie; a line that would have to push is slack.
    """
    if abs(second - first) < 0.05:
        raise NotSolvable(what="second_tie", why="two lines tied at one place share nothing")
    on_second = min(max((cg - first) / (second - first), 0.0), 1.0)
    return weight * (1.0 - on_second), weight * on_second  # (9)


def bridle_legs(
    head: float, ties: tuple[float, float], cg: float, slope: float = 0.0
) -> tuple[tuple[float, float], tuple[float, float]]:
    """Legs that keep a piece as it lies, from a head straight above its balance; docs/methods.md, forces (10).

    Parameters
    ----------
    head : float
        Height of the head above the balance. [m]
    ties : tuple of float
        Where along it the legs are tied, one on either side of the balance. [m]
    cg : float
        Its balance along it. [m]
    slope : float
        Of the piece above level. [rad]

    Returns
    -------
    tuple
        Lengths [m], and angles from upright [rad].

    Raises
    ------
    NotSolvable, OutOfRange
        If both legs are tied on one side of the balance, or a tie lies above the head.

    References
    ----------
    Triangles from the head to both ties.
    """
    off = [tie - cg for tie in ties]
    if off[0] * off[1] > 0.0:
        raise NotSolvable(what="second_tie", why="both legs are tied on one side of the balance: it would turn")
    level = [abs(d) * math.cos(slope) for d in off]
    under = [positive("head", head) - d * math.sin(slope) for d in off]
    if min(under) <= 0.0:
        raise NotSolvable(what="head", why="a leg would have to go up from the head: hang it higher above the piece")
    lengths = math.hypot(level[0], under[0]), math.hypot(level[1], under[1])
    return lengths, (math.atan2(level[0], under[0]), math.atan2(level[1], under[1]))  # (10)


def swing_tension(weight: float, angle: float) -> float:
    """Tension at the bottom of a swing that began at rest [N]; docs/methods.md, forces (11).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    angle : float
        Of the rope from upright at the start. [rad]

    References
    ----------
    Pendulum: W·(3 − 2·cos).
    """
    return weight * (3.0 - 2.0 * math.cos(angle))  # (11)


def tag_force(weight: float, off: float, below: float) -> float:
    """Tension of a line that draws a hanging piece off to a side [N]; docs/methods.md, forces (12).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    off, below : float
        Main rope off plumb; tag line below level. [rad]

    References
    ----------
    Triangle of forces: T = W·sin φ/cos(φ + α); at a right angle of both it only pulls down.
    """
    both = off + below
    return weight * math.sin(off) / max(math.cos(both), 1e-3) if off > 0.0 else 0.0  # (12)
