"""A guy line against side lean: what it carries, and how its way changes while the tree turns on the hinge."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column
from treecore.felling.balance import pull_moments
from treecore.rigging.line import Guy

Array = NDArray[np.float64]


class GuyMoments(NamedTuple):
    """A guy line at work: tension a gust asks of it and tension in a calm [N], its lever across [m].

    ``along`` is what it pulls back in a gust, never above nothing, for what it would help may slacken; ``across`` what
    it takes off the side in a calm [N·m].
    """

    wanted: Column
    tension: Column
    along: Column
    across: Column
    lever: Column


def guy_moments(
    guy: Guy,
    lay: float,
    cut: float,
    pivot: float,
    lean: tuple[Column, Column],
    side: Column,
    gust: Column = 0.0,
    gain: Column = 1.0,
) -> GuyMoments:
    """Work out the line from the side moment it is there to hold; docs/methods.md, guy (1), (2).

    Parameters
    ----------
    guy : Guy
        The line.
    lay : float
        Bearing of the lay. [rad]
    cut, pivot : float
        Height of the hinge; its offset forward of the stem's centre. [m]
    lean : tuple of Column
        Tangent of the lean along and across. [-]
    side : Column
        Side moment of all else in a calm, to the right positive. [N·m]
    gust : Column
        Size of what a gust adds to it, to whichever side. [N·m]
    gain : Column
        Tension over what balances the side moment. [-]

    Returns
    -------
    GuyMoments
        Nothing where the line would have to push.

    References
    ----------
    T = side moment over the line's lever, its height times the cosine of its slope; no more than its limit.
    """
    along, across = pull_moments(guy.line(1.0), lay, cut, pivot, lean)
    lever = np.where(np.abs(across) < _NO_LEVER, math.inf, np.abs(across))
    against = -np.asarray(side) * np.sign(across)
    wanted = np.maximum(against + gust, 0.0) / lever * gain  # (1)
    tension = np.minimum(np.maximum(against, 0.0) / lever * gain, guy.limit)  # (2)
    back = np.minimum(wanted, guy.limit) * np.minimum(along, 0.0)
    return GuyMoments(wanted, tension, back, tension * across, across)


_NO_LEVER = 1e-3  # lever under which a line holds nothing across [m]


class GuyWay(NamedTuple):
    """Distance from tie to anchor [m] at each turn of the stem [rad]; ``out`` most to be let out and ``at`` which turn.

    ``slack`` is the most it shortens by [m].
    """

    turns: Array
    lengths: Array
    start: float
    out: float
    at: float
    slack: float


def guy_way(
    guy: Guy, lay: float, cut: float, pivot: float, lean: tuple[float, float], ends: float, steps: int = 90
) -> GuyWay:
    """Follow the way from tie to anchor while the stem turns about the hinge line; docs/methods.md, guy (3).

    Parameters
    ----------
    guy : Guy
        The line.
    lay : float
        Bearing of the lay. [rad]
    cut, pivot : float
        Height of the hinge; its offset forward of the stem's centre. [m]
    lean : tuple of float
        Tangent of the lean along and across. [-]
    ends : float
        Turn up to which it is followed. [rad]
    steps : int
        Steps of the turn. [-]

    References
    ----------
    Rotation of a point about an axis; the way stays the same only for an anchor on the hinge line, in plan and height.
    """
    turn = guy.azimuth - lay
    anchor = guy.distance * math.cos(turn) - pivot, guy.distance * math.sin(turn), guy.anchor - cut
    height = guy.tie - cut
    x, y = lean[0] * height - pivot, lean[1] * height
    turns = np.linspace(0.0, ends, steps + 1)
    ahead, up = x * np.cos(turns) + height * np.sin(turns), height * np.cos(turns) - x * np.sin(turns)
    lengths = np.sqrt((ahead - anchor[0]) ** 2 + (y - anchor[1]) ** 2 + (up - anchor[2]) ** 2)  # (3)
    start, most = float(lengths[0]), int(lengths.argmax())
    return GuyWay(turns, lengths, start, float(lengths[most]) - start, float(turns[most]), start - float(lengths.min()))


def torsion(weight: Column, aside: Column, turn: Column) -> Column:
    """Moment that twists the hinge when the weight hangs off to a side [N·m]; docs/methods.md, guy (4).

    Parameters
    ----------
    weight : Column
        Above the hinge. [N]
    aside : Column
        CG's offset to the right of the lay through the hinge. [m]
    turn : Column
        Past upright. [rad]

    References
    ----------
    Weight times its offset, the part of it square to the stem.
    """
    return weight * aside * np.sin(turn)  # (4)
