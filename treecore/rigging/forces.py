"""When the rope comes tight: how far the balance falls, and the peak by each school; legs, lever, bridle and two lines."""

from __future__ import annotations

import math

from treecore.errors import NotSolvable, between, positive

FOOT = 0.3048
Vector = tuple[float, float, float]


def cg_fall(tie_above: float, cg_beyond: float, slack: float) -> float:
    """Fall of the balance until the line is tight, for a piece above its block that goes right over [m]; forces (1).

    Parameters
    ----------
    tie_above : float
        Height of the tie above the block, or of the block above the tie if negative. [m]
    cg_beyond : float
        How far the balance lies beyond the tie, towards the tips. [m]
    slack : float
        Rope that is out beyond what the way needs. [m]

    Raises
    ------
    OutOfRange
        On less than no slack, or sizes no pick has.

    References
    ----------
    Geometry: the tie goes from above the block to as far below it, and the balance from above the tie to below it.
    """
    between("slack", slack, 0.0, 30.0, "rope that is out beyond what is needed, 0 to 30 m", "length")
    between("tie_above", tie_above, -60.0, 20.0, "a tie lies up to 20 m above its block", "length")
    between("cg_beyond", cg_beyond, -30.0, 30.0, "a balance lies up to 30 m beyond its tie", "length")
    if tie_above <= 0.0:
        return slack  # the line holds from above: only what is slack is fallen through
    return max(2.0 * (tie_above + cg_beyond) + slack, slack)  # (1)


def field_rule(weight: float, fall: float) -> float:
    """Peak by the rule of the trade: weight times two plus the fall in feet [N]; docs/methods.md, forces (2).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    fall : float
        Of its balance until the line is tight. [m]

    References
    ----------
    Rule of thumb of the trade.
    """
    return weight * (2.0 + fall / FOOT)  # (2)


def stretch_peak(weight: float, fall: float, stiffness: float) -> float:
    """Peak by energy taken up by the rope's stretch [N]; docs/methods.md, forces (3).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    fall : float
        Of its balance until the line is tight. [m]
    stiffness : float
        Of the rope really in play, modulus over length. [N/m]

    Raises
    ------
    OutOfRange
        Unless weight and stiffness are above zero.

    References
    ----------
    Energy of a falling weight and a spring (Wexler 1950, American Alpine Journal; Timoshenko, Strength of Materials).
    """
    k = positive("stiffness", stiffness)
    return positive("weight", weight) * (1.0 + math.sqrt(1.0 + 2.0 * max(fall, 0.0) * k / weight))  # (3)


def run_peak(weight: float, fall: float, run: float) -> float:
    """Force of a brake that stops it over a run [N]; docs/methods.md, forces (4).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    fall, run : float
        Fall until the line is tight, and the way it is let run. [m]

    Raises
    ------
    OutOfRange
        Unless it runs at all.

    References
    ----------
    Work of an even force over the run.
    """
    return weight * (1.0 + max(fall, 0.0) / positive("run", run))  # (4)


def in_play(lead: float, rest: float, passed: float) -> float:
    """Length of rope that takes part in stretching [m]; docs/methods.md, forces (5).

    Parameters
    ----------
    lead, rest : float
        Rope from piece to block, and from block to device. [m]
    passed : float
        Share of the tension the block passes on. [-]

    References
    ----------
    Beyond the block the strain is less in proportion, and the block sees only its share: springs in series.
    """
    return lead + rest * passed**2  # (5)


def block_force(lead: Vector, rest: Vector, tension: float, passed: float) -> Vector:
    """Force of both legs on a block or fork [N]; docs/methods.md, forces (6).

    Parameters
    ----------
    lead, rest : tuple of float
        Unit directions from the block along the leg to the piece and the leg to the device. [-]
    tension : float
        In the leg to the piece. [N]
    passed : float
        Share of it in the other leg. [-]

    References
    ----------
    Vector sum.
    """
    x, y, z = (tension * (a + passed * b) for a, b in zip(lead, rest, strict=True))
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
        raise NotSolvable("tie", "the rope runs along the piece: it can't hold it up")
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
        raise NotSolvable("bridle", "level legs hold nothing up")
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
        raise NotSolvable("second_tie", "two lines tied at one place share nothing")
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
        raise NotSolvable("second_tie", "both legs are tied on one side of the balance: it would turn")
    level = [abs(d) * math.cos(slope) for d in off]
    under = [positive("head", head) - d * math.sin(slope) for d in off]
    if min(under) <= 0.0:
        raise NotSolvable("head", "a leg would have to go up from the head: hang it higher above the piece")
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


def tag_force(weight: float, aside: float, below: float) -> float:
    """Level force that holds a hanging piece off to a side [N]; docs/methods.md, forces (12).

    Parameters
    ----------
    weight : float
        Of the piece. [N]
    aside, below : float
        How far it is held aside, and how far below its block it hangs. [m]

    References
    ----------
    Triangle of forces.
    """
    return weight * max(aside, 0.0) / positive("below", below)  # (12)
