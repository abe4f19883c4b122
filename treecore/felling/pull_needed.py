"""The pull a felling needs, before anything is chosen: with it the whole interval of the balance goes over."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple

from treecore.felling.inputs import FellingInput
from treecore.felling.plan import evaluate
from treecore.felling.wedges import Wedges
from treecore.rigging.line import Pull
from treecore.rigging.pull_on_site import Rigged
from treecore.rigging.pulling import TREE

_TIE, _TIE_MOST = 0.5, 12.0  # a line nobody chose yet: half way up, where a throw line still reaches [-], [m]
_OFF, _UP = 1.5, 0.6  # its anchor: so many heights ahead, so high [-], [m]
_ONE = 1000.0  # the force two balances are compared at [N]
_NEAR = 1e-4  # of the force, where the search ends [-]
_TAKES, _TRIES = 0.05, 30  # least share of the hands that can be tried [-]


class NeededPull(NamedTuple):
    """Force with which the least favourable end of the balance still goes over, wedges left out [N].

    ``on_tree`` is along the line at its tie, ``at_hands`` what the hands of a system give for it (None without one);
    ``given`` is what the plan pulls now; ``tie`` [m], ``azimuth`` [rad] and ``distance`` [m] say which line, ``chosen``
    whether anybody chose it.
    """

    on_tree: float
    at_hands: float | None
    given: float
    tie: float
    azimuth: float
    distance: float
    chosen: bool

    @property
    def enough(self) -> bool:
        """Whether the plan pulls as much as it needs."""
        return self.given >= self.on_tree * (1.0 - 10.0 * _NEAR)


def needed_pull(plan: FellingInput) -> NeededPull:
    """Work out the pull a felling needs; docs/methods.md, pulling (13).

    Parameters
    ----------
    plan : FellingInput
        The plan; its wedges are left out, its wind and guy are not.

    References
    ----------
    Root of the balance's lower end over the force: it falls off a straight line only where another end of an interval
    becomes the worst.
    """
    bare = replace(plan, wedges=Wedges())
    rigged = plan.rigged
    if rigged is not None:
        takes = rigged.system.takes
        share = _root(lambda f: _left(_taking(bare, f)), min(1.0, 0.5 / takes), _TAKES / takes, 1.0 / takes)
        return NeededPull(
            share * rigged.pull.value,
            share * rigged.effort.value,
            rigged.pull.value,
            rigged.system.tie,
            rigged.azimuth,
            math.dist(rigged.places["tree"][:2], _end(rigged)),
            True,
        )
    line = plan.pull or usual_line(plan)
    force = _root(lambda f: _left(_pulling(bare, line, f)), _ONE)
    given = plan.pull.force if plan.pull is not None else 0.0
    return NeededPull(force, None, given, line.tie, line.azimuth, line.distance, plan.pull is not None)


def usual_line(plan: FellingInput) -> Pull:
    """Return a line for a plan that has none: half way up, along the lay, anchored one and a half heights off.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    """
    height = plan.tree.stands.value
    return Pull(tie=min(_TIE * height, _TIE_MOST), azimuth=plan.lay, distance=_OFF * height, anchor=_UP, force=_ONE)


def _end(rigged: Rigged) -> tuple[float, float]:
    """Where the first leg off the stem leads to [m]."""
    own = [TREE, *(p.name for p in rigged.system.parts if p.on == TREE)]
    leg = next(leg for leg in rigged.worked.legs if leg.a in own or leg.b in own)
    x, y, _ = leg.end if leg.a in own else leg.start
    return x, y


def _left(plan: FellingInput) -> float:
    """What is left over at the least favourable end [N·m]."""
    return evaluate(plan).estimates["margin"].low


def _taking(plan: FellingInput, share: float) -> FellingInput:
    """The plan with its hands giving another share of what they give; without its lines at none."""
    system = plan.system if share > 0.0 else None
    return replace(plan, system=system and replace(system, takes=min(system.takes * share, 1.0)))


def _pulling(plan: FellingInput, line: Pull, force: float) -> FellingInput:
    return replace(plan, pull=replace(line, force=force) if force > 0.0 else None)


def _root(left: Callable[[float], float], one: float, least: float = 0.0, most: float = math.inf) -> float:
    """Force at which nothing is missing any more, 0 where nothing is missing without any; outside ``least`` to
    ``most``, which can't be tried, along the straight line through the last two.
    """
    low, at_low = 0.0, left(0.0)
    if at_low >= 0.0:
        return 0.0
    high, at_high = one, left(one)
    for _ in range(_TRIES):
        if at_high <= at_low if high > low else at_high >= at_low:
            return math.inf
        found = high - at_high * (high - low) / (at_high - at_low)
        if not least <= found <= most or abs(found - high) <= _NEAR * found:
            return found
        low, at_low, high, at_high = high, at_high, found, left(found)
    return high
