"""A felling judged whole: the balance at the stump and the fall, and advice for the stop part way through the pull."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import NamedTuple

from treecore.errors import CoreError
from treecore.estimate import Kind, exactly
from treecore.felling.fall import Fall, fall
from treecore.felling.hinge import PLASTIC, HingeWood, holding_shape
from treecore.felling.inputs import FellingInput
from treecore.felling.plan import FellingResult, evaluate
from treecore.schools import constant
from treecore.verdict import CUSTOM, Limit, Verdict, ruling

_LEVEL = 0.94  # level share of a line that falls 20°: a usual slope


class Whole(NamedTuple):
    """A felling with its fall; ``why`` says what keeps the fall from being worked out."""

    result: FellingResult
    fall: Fall | None
    why: CoreError | None


def judged(plan: FellingInput) -> Whole:
    """Evaluate a plan with its fall; the way a person gets meanwhile joins the limits.

    Parameters
    ----------
    plan : FellingInput
        The plan.

    Raises
    ------
    CoreError
        As ``evaluate``.

    References
    ----------
    docs/methods.md, fall (3).
    """
    result = evaluate(plan)
    try:
        fallen = fall(plan)
    except CoreError as error:
        return Whole(result, None, error)
    limits = (*result.limits, _escape_time(fallen))
    return Whole(replace(result, limits=limits, ruling=ruling(limits)), fallen, None)


def _escape_time(fallen: Fall) -> Limit:
    walked, need = fallen.walked.estimate, constant("escape_length").value
    return Limit(
        key="escape_time", verdict=Verdict.WITHIN if walked.value >= need else Verdict.NEAR, demand=walked,
        allowed=exactly(need, Kind.ASSUMED), dimension="length", least=True, concern=6 if walked.value < need else CUSTOM,
    )  # fmt: skip


class Thinning(NamedTuple):
    """Which end of the hinge to thin against a drift, from and to which thickness [m], and what it turns [rad].

    ``why`` is filled where nothing may come off.
    """

    drift: str
    end: str
    now: float
    least: float
    turn: float
    why: str


def thinning(result: FellingResult) -> tuple[Thinning, Thinning]:
    """Return what may come off the hinge at the stop part way, for a drift to the left and to the right; hinge (11).

    Parameters
    ----------
    result : FellingResult
        The plan evaluated.

    References
    ----------
    The stem turns towards the thicker end; the least that stays still holds the side moment at its upper bound.
    """
    return _thinned(result, "left"), _thinned(result, "right")


def _thinned(result: FellingResult, drift: str) -> Thinning:
    wood = result.wood
    now = wood.left if drift == "left" else wood.right
    floor = constant("hand_left").value
    if _holds(result, wood) < 0.0:
        return Thinning(drift, drift, now, now, 0.0, "the hinge holds the side moment only just; nothing may come off")
    least = _least(result, drift, floor, now)
    if now - least < 0.002:
        return Thinning(drift, drift, now, now, 0.0, "what is there is needed to hold sideways")
    turn = math.atan((now - least) / (2.0 * wood.length))  # (11)
    return Thinning(drift, drift, now, least, turn, "")


def _holds(result: FellingResult, wood: HingeWood) -> float:
    """What a hinge holds beyond the side moment's upper bound, as mean thickness of an even hinge [m]."""
    side = result.point.side_moment
    even = float(result.estimates["thin"].high * holding_shape(result.wood, side))
    return float(wood.mean * holding_shape(wood, side)) - even


def _least(result: FellingResult, end: str, low: float, high: float) -> float:
    """Least thickness of one end that still holds, by halving."""
    if _holds(result, _with_end(result.wood, end, low)) >= 0.0:
        return low
    for _ in range(40):
        middle = (low + high) / 2.0
        if _holds(result, _with_end(result.wood, end, middle)) >= 0.0:
            high = middle
        else:
            low = middle
    return high


def _with_end(wood: HingeWood, end: str, thick: float) -> HingeWood:
    left, right = (thick, wood.right) if end == "left" else (wood.left, thick)
    return wood._replace(mean=(left + right) / 2.0, taper=left - right)


class Opening(NamedTuple):
    """What opens a shut hinge window: more moment along, or less across [N·m]; as pull and as guy tension [N].

    ``tie`` is the height the two forces are given for [m].
    """

    along: float
    across: float
    pull: float
    guy: float
    tie: float


def to_open(result: FellingResult) -> Opening | None:
    """Return what would open the hinge window, or None where it is open; docs/methods.md, hinge (12).

    Parameters
    ----------
    result : FellingResult
        The plan evaluated.

    References
    ----------
    The thick limit solved for the moment that bends the thin limit; the thin limit solved for the side moment the thick holds.
    """
    p, plan, wood = result.point, result.plan, result.wood
    if p.thick >= p.thin:
        return None
    strength = plan.tree.kind.mor.value * plan.tree.condition.strength.value
    bend = strength * (wood.length - wood.hole) * (p.thin**2 + wood.taper**2 / 12.0) / PLASTIC
    along = bend - p.tip_margin  # (12)
    across = abs(p.side_moment) * (1.0 - p.thick / p.thin)
    tie = plan.lines[0].tie if plan.lines else 0.5 * plan.tree.height.value
    arm = tie - plan.cuts.stump
    return Opening(along, across, along / (arm * _LEVEL), across / (arm * _LEVEL), tie)
