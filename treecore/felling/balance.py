"""The balance at the stump: pivot, wedges, pull line, wind. Moments forward positive, to the right positive [N·m]."""

from __future__ import annotations

import math

import numpy as np

from treecore.errors import Column, NotSolvable, all_positive, between, positive
from treecore.rigging.line import Pull

_WEDGED = math.radians(75.0)


def pivot_offset(along: float, depth: float, hinge: float) -> float:
    """How far the hinge's middle stands forward of the stem's centre [m]; docs/methods.md, balance (1).

    Parameters
    ----------
    along, depth, hinge : float
        Stem diameter along the lay, notch depth, hinge thickness. [m]

    Raises
    ------
    OutOfRange
        Unless depth and hinge fit into the stem.

    References
    ----------
    Geometry; a plumb, even tree sits back by this much.
    """
    between("depth", depth, 0.0, positive("along", along), "inside the stem", "cut")
    between("hinge", hinge, 0.0, along - depth, "a hinge is cut from what the notch leaves", "cut")
    return along / 2.0 - depth - hinge / 2.0  # (1)


def wedge_lever(along: float, depth: float, hinge: float) -> float:
    """Distance from the hinge's middle to the back rim [m]; docs/methods.md, balance (2).

    Parameters
    ----------
    along, depth, hinge : float
        Stem diameter along the lay, notch depth, hinge thickness. [m]

    Raises
    ------
    OutOfRange
        As ``pivot_offset``.

    References
    ----------
    Geometry.
    """
    return along / 2.0 + pivot_offset(along, depth, hinge)  # (2)


def wedge_lift(lever: Column, turn: Column) -> Column:
    """Lift at the wedge that turns the stem by an angle [m]; docs/methods.md, balance (3).

    Parameters
    ----------
    lever : Column
        Hinge to wedge. [m]
    turn : Column
        At which the weight commits, the hinge still bending; at or below zero no lift is needed. [rad]

    Raises
    ------
    OutOfRange
        Unless the lever is above zero.

    References
    ----------
    lift = lever · tan(turn); no turn beyond 75 degrees is looked for, no wedge goes there.
    """
    lift: Column = all_positive("lever", lever) * np.tan(np.clip(turn, 0.0, _WEDGED))  # (3)
    return lift


def wedge_arm(along: float, across: float, inside: Column, place: float, skew: float = 0.0) -> tuple[Column, Column]:
    """Where a driven wedge bears, behind the stem's centre and to the right of it [m]; docs/methods.md, balance (8).

    Parameters
    ----------
    along, across : float
        Stem diameters along and across the lay. [m]
    inside : Column
        How far inside the rim it bears. [m]
    place : float
        Where round the cut it is driven: from straight behind, to the right positive. [rad]
    skew : float
        How far widths move to the right for every metre forward. [-]

    References
    ----------
    Radius of an ellipse along a bearing, less that way.
    """
    ahead, right = -math.cos(place), math.sin(place)
    rim = 1.0 / math.hypot(2.0 * ahead / along, 2.0 * (right - skew * ahead) / across)
    bears = np.maximum(rim - inside, 0.1 * rim)
    return bears * math.cos(place), bears * math.sin(place)  # (8)


_LEAST_LEVER = 0.005  # a wedge that bears at the hinge or ahead of it turns nothing; figures stay finite [m]


def bearing_lever(pivot: float, behind: Column) -> Column:
    """Lever of a wedge about the hinge [m], none to speak of where notch and hinge leave it no wood behind them.

    Parameters
    ----------
    pivot : float
        Hinge forward of the stem's centre. [m]
    behind : Column
        Where the wedge bears, behind the stem's centre. [m]

    References
    ----------
    docs/methods.md, balance (8).
    """
    lever: Column = np.maximum(pivot + behind, _LEAST_LEVER)
    return lever


def wedge_drive(lift_force: float, taper: float, friction: float) -> float:
    """Force that drives a wedge under a load, friction on both faces [N]; docs/methods.md, balance (4).

    Parameters
    ----------
    lift_force : float
        Load on the wedge. [N]
    taper : float
        Angle between the wedge's faces. [rad]
    friction : float
        Coefficient. [-]

    Raises
    ------
    OutOfRange
        On a wedge or friction nobody has.

    References
    ----------
    Wedge with friction angle on both faces (Meriam & Kraige, Statics).
    """
    between("taper", taper, 0.01, 0.6, "wedges taper 1° to 35°", "angle")
    between("friction", friction, 0.0, 1.0)
    return lift_force * 2.0 * math.tan(taper / 2.0 + math.atan(friction))  # (4)


def pull_moments(
    pull: Pull, lay: float, cut: float, pivot: float, lean: tuple[Column, Column], off: Column = 0.0
) -> tuple[Column, Column]:
    """Moments of a pull line about the hinge's middle, forward and to the right [N·m]; docs/methods.md, balance (5).

    Parameters
    ----------
    pull : Pull
        The line.
    lay : float
        Bearing of the lay. [rad]
    cut, pivot : float
        Height of the hinge above the ground; its offset forward of the stem's centre. [m]
    lean : tuple of Column
        Tangent of the lean along and across the lay. [-]
    off : Column
        Bearing of its anchor against the one planned, to the right positive. [rad]

    Raises
    ------
    NotSolvable
        If the line is tied at or below the hinge.

    References
    ----------
    Cross product of the tie's position and the line's force.
    """
    if pull.tie <= cut:
        raise NotSolvable(what="pull_tie", why="the line is tied at or below the cut; tie it higher")
    turn = pull.azimuth - lay + off
    height = pull.tie - cut
    tie_x, tie_y = lean[0] * height - pivot, lean[1] * height
    to_x = pull.distance * np.cos(turn) - pivot - tie_x
    to_y = pull.distance * np.sin(turn) - tie_y
    to_z = pull.anchor - pull.tie
    unit = pull.force / np.sqrt(to_x**2 + to_y**2 + to_z**2)
    return (height * to_x - tie_x * to_z) * unit, (height * to_y - tie_y * to_z) * unit  # (5)


def wind_force(area: Column, speed: float, drag: Column) -> Column:
    """Drag of the wind on the crown [N]; docs/methods.md, balance (6).

    Parameters
    ----------
    area : Column
        Outline area. [m2]
    speed : float
        Wind at crown height. [m/s]
    drag : Column
        Drag coefficient times the density of the air. [kg/m3]

    References
    ----------
    Half density times speed squared times drag area.
    """
    return 0.5 * drag * area * speed**2  # (6)


def given_over(at_hand: Column, weight: Column, back: Column, resisting: Column, more: Column) -> Column:
    """Moment that pull and wedges give as a tree goes over [N·m]: what that asks and a little more; fall (6).

    Parameters
    ----------
    at_hand : Column
        What they could give. [N·m]
    weight, back : Column
        Above the hinge [N]; its balance behind the pivot [m].
    resisting : Column
        Moment of the bending hinge. [N·m]
    more : Column
        What is given over what is asked. [-]

    References
    ----------
    It is cut and pulled until it starts, not from rest under all a line could give.
    """
    asked = np.maximum(weight * back + resisting, 0.0)
    given: Column = np.minimum(at_hand, asked * more)
    return given


def commit_angle(weight: Column, back: Column, height: Column, resisting: Column) -> Column:
    """Turn of the stem after which its weight alone carries on [rad]; docs/methods.md, balance (7).

    Parameters
    ----------
    weight : Column
        Above the hinge. [N]
    back, height : Column
        CG behind the pivot and above it. [m]
    resisting : Column
        Moment of the bending hinge and any headwind. [N·m]

    Returns
    -------
    Column
        Turn from where it stands; a quarter turn past balance where the weight never outdoes the resistance. [rad]

    References
    ----------
    W·r·sin(turn − balance) = resisting moment, r the CG's distance from the pivot.
    """
    balance = np.arctan2(back, all_positive("height", height))
    share = resisting / (all_positive("weight", weight) * np.hypot(back, height))
    return balance + np.arcsin(np.minimum(np.maximum(share, -1.0), 1.0))  # (7)
