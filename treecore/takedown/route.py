"""The rope's way from the tie over its point to the device, and a second high point where there is one."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from treecore.errors import Column, NotSolvable
from treecore.estimate import Estimate
from treecore.rigging.forces import turn_between
from treecore.rigging.friction import fork_tension_ratio
from treecore.rigging.spans import drift_pulls, speed_pulls
from treecore.schools import constant
from treecore.takedown.members import Members
from treecore.takedown.pick import Pick, RigPoint, point_place, redirect_place
from treecore.takedown.pieces import Standing, Taken

Place = tuple[float, float, float]
DOWN = (0.0, 0.0, -1.0)
SHORTEST = 0.3  # no part of a rope is shorter: the knot and the block take that much [m]


class Route(NamedTuple):
    """The rope's way [m]: tie, point, where it is led over, device; lengths of its legs, slack left out.

    ``over`` are what it goes over, ``turns`` the angle it turns through at each [rad].
    """

    tie: Place
    point: Place
    led: Place | None
    device: Place
    hang: Place
    lengths: tuple[float, ...]
    over: tuple[RigPoint, ...]
    turns: tuple[float, ...]

    @property
    def beyond(self) -> Place:
        """Unit direction in which the rope goes on from its point."""
        return unit(self.point, self.led or self.device)

    @property
    def onward(self) -> tuple[Place, Place] | None:
        """Unit directions from where the rope is led over, back to the point and on to the device; None where it is
        not.
        """
        return None if self.led is None else (unit(self.led, self.point), unit(self.led, self.device))


def route_of(members: Members, standing: Standing, pick: Pick, tie: Place, point: Place, hang: Place = DOWN) -> Route:
    """Follow the rope of a pick from its tie to the device; docs/methods.md, forces (5), friction (4).

    Parameters
    ----------
    members : Members
        The tree's members.
    standing : Standing
        What stands while the piece comes off.
    pick : Pick
        How it is taken; with a rigging point.
    tie, point, hang : tuple of float
        Places of tie and rigging point [m]; unit direction of the loaded leg [-].

    Raises
    ------
    NotSolvable
        Where two parts of the rope lie on one another, or it is led over what does not stand.
    """
    led = redirect_place(members, standing, pick)
    stops = [point, *([led] if led else []), pick.device_place]
    ways = [hang, *(unit(a, b) for a, b in pairwise(stops))]
    over = (pick.on, *([pick.redirect] if pick.redirect else []))
    turns = []
    for i in range(len(over)):
        back = ways[i] if i == 0 else (-ways[i][0], -ways[i][1], -ways[i][2])
        turns.append(turn_between(back, ways[i + 1]))
    lengths = [max(math.dist(a, b), SHORTEST) for a, b in pairwise([tie, *stops])]
    return Route(tie, point, led, pick.device_place, hang, tuple(lengths), over, tuple(turns))


def tension_ratio_of(point: RigPoint, turn: float, bark: Column, loss: Column) -> Column:
    """Share of a tension that a block or a fork passes on over an angle [-]; docs/methods.md, friction (4).

    Parameters
    ----------
    point : RigPoint
        What the rope goes over.
    turn : float
        Angle it turns through. [rad]
    bark : Column
        Friction of rope on bark. [-]
    loss : Column
        Loss at a block over the stated one. [-]
    """
    if point.fork:
        return fork_tension_ratio(bark, turn)
    kept = np.maximum(1.0 - (1.0 - point.efficiency) * np.asarray(loss), 0.05)
    return np.asarray(kept ** (turn / math.pi))


def unit(a: Place, b: Place) -> Place:
    """Unit direction from one place to another.

    Parameters
    ----------
    a, b : tuple of float
        Places. [m]

    Raises
    ------
    NotSolvable
        If they are one.
    """
    d = math.dist(a, b)
    if d < 0.02:
        raise NotSolvable(what="rigging_point", why="two parts of the rope lie on one another")
    return (b[0] - a[0]) / d, (b[1] - a[1]) / d, (b[2] - a[2]) / d


class Span(NamedTuple):
    """A second high point: tension at the first and at the second end per newton of the piece [-], ways to the load
    [-].

    ``jerk`` is what the load let go onto it makes of the still pull [-].
    """

    pull: float
    far: float
    hang: Place
    away: Place
    jerk: Estimate


def span_of(members: Members, step: Taken, pick: Pick, point: Place) -> Span | None:
    """Statics of a speed or drift line; None without one; docs/methods.md, forces (13), (14).

    Parameters
    ----------
    members : Members
        The tree's members.
    step : Taken
        The piece, and what stands.
    pick : Pick
        How it is taken.
    point : tuple of float
        Its rigging point. [m]

    Raises
    ------
    NotSolvable
        If the second high point stands over the first.
    """
    if pick.far_anchor is None or pick.method not in ("speed", "drift"):
        return None
    far = point_place(members, step.after, pick.far_anchor, "far_anchor")
    level, rise = math.hypot(far[0] - point[0], far[1] - point[1]), far[2] - point[2]
    if level < 1.0:
        raise NotSolvable(what="far_anchor", why="the second high point stands at least 1 m aside of the first")
    middle = tuple((a + b) / 2.0 for a, b in zip(point, far, strict=True))
    if pick.method == "speed":
        first, second = speed_pulls(1.0, level, rise, pick.sag)
        load = middle[0], middle[1], middle[2] - pick.sag * math.dist(point, far)
        return Span(first, second, unit(point, load), unit(far, load), constant("speed_jerk"))
    below = max(point[2] - step.piece.cg[2], 0.5)
    first, second = drift_pulls(1.0, level, rise, below)
    load = middle[0], middle[1], point[2] - below
    return Span(first, second, unit(point, load), unit(far, load), constant("drift_jerk"))
