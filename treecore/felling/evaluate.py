"""A felling judged whole: the balance at the stump and the fall, and advice for the stop part way through the pull."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from typing import NamedTuple

from treecore.errors import CoreError
from treecore.estimate import Estimate, Kind, exactly
from treecore.felling.fall import Fall, fall
from treecore.felling.footprint import Chance, footprint
from treecore.felling.hinge import HingeWood, holding_shape
from treecore.felling.inputs import FellingInput
from treecore.felling.ledger import capacity_at
from treecore.felling.plan import FellingResult, evaluate
from treecore.kinds import worth_of
from treecore.schools import constant
from treecore.verdict import About, Limit, Verdict, judge, ruling


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
    limits = (*result.limits, _escape_time(plan, fallen))
    return Whole(replace(result, limits=limits, ruling=ruling(limits)), fallen, None)


def _escape_time(plan: FellingInput, fallen: Fall) -> Limit:
    """Whoever walks away against what the butt may reach as the hinge parts; docs/methods.md, fall (7)."""
    off, reach = fallen.off.estimate, butt_reach(plan)
    return Limit("escape_time", Verdict.WITHIN if off.low >= reach else Verdict.NEAR, off, exactly(reach, Kind.ASSUMED))


def butt_reach(plan: FellingInput) -> float:
    """How far behind and beside the stump the butt may come as the hinge parts [m]; docs/methods.md, fall (7).

    Parameters
    ----------
    plan : FellingInput
        The plan.

    References
    ----------
    Own choice: a share of the stem's length; felled uphill it slides back as far as an escape path is long.
    """
    if -plan.site.falling_ground(plan.lay) > constant("uphill_slides").value:
        return constant("escape_length").value
    return constant("butt_share").value * plan.tree.stands.value


def complete(plan: FellingInput) -> Whole:
    """Judge a plan with its fall and with where it may come to lie.

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
    docs/methods.md, footprint (6).
    """
    whole = judged(plan)
    limits = (*whole.result.limits, *_chances(whole.result))
    return whole._replace(result=replace(whole.result, limits=limits, ruling=ruling(limits)))


def _chances(result: FellingResult) -> Iterator[Limit]:
    """Every target too likely touched, or else the likeliest; footprint (6)."""
    for i, row in enumerate(footprint(result.plan, result.bend).chances):
        limit = chance_limit(row)
        if i == 0 or limit.verdict is not Verdict.WITHIN:
            yield limit


def chance_limit(row: Chance) -> Limit:
    """Hold the chance of touching a target against the most; docs/methods.md, footprint (6).

    Parameters
    ----------
    row : Chance
        The target and its chance.

    References
    ----------
    Own choice; a light touch that is tolerated is near at worst.
    """
    most = constant("touched_most")
    chance = Estimate(row.share, max(row.share - row.error, 0.0), row.share + row.error, Kind.ESTIMATED)
    verdict = judge(chance, most)
    if verdict is Verdict.OVER and row.target.light_touch:
        verdict = Verdict.NEAR
    return Limit("chance", verdict, chance, most, About(name=row.target.name, worth=worth_of(row.target.kind)))


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
    floor = constant("thin_least").value
    if _holds(result, wood) < 0.0:
        return Thinning(drift, drift, now, now, 0.0, "the hinge holds the side moment only just; nothing may come off")
    least = _least(result, drift, floor, now)
    if now - least < 0.002:
        return Thinning(drift, drift, now, now, 0.0, "what is there is needed to hold sideways")
    turn = math.atan((now - least) / (2.0 * wood.length))  # (11)
    return Thinning(drift, drift, now, least, turn, "")


def _holds(result: FellingResult, wood: HingeWood) -> float:
    """What a hinge holds beyond the side moment's upper bound, as mean thickness of an even hinge [m]."""
    side, length = result.point.side_moment, result.wood.length
    even = float(result.estimates["thin"].high * holding_shape(result.wood, side, length))
    return float(wood.mean * holding_shape(wood, side, length)) - even


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

    ``tie`` is the height the two forces are given for [m]. Nothing across helps where twist or a floor rules: 0.
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
    The thick limit solved for the moment that bends the thin limit; the thin limit solved for the side moment the
    thick holds.
    """
    p, plan = result.point, result.plan
    if p.thick >= p.thin:
        return None
    along = _bend(result)
    across = max(p.side_most - capacity_at(plan, p.thick), 0.0) if p.thin_joint >= p.thin else 0.0  # (12)
    tie = plan.lines[0].tie if plan.lines else 0.5 * plan.tree.stands.value
    arm = tie - plan.cuts.stump
    level = arm * constant("line_level").value
    return Opening(along, across, along / level, across / level, tie)


def _bend(result: FellingResult) -> float:
    """Moment that is missing to bend the thin limit [N·m]: bending grows with the square of the thickness, its taper
    kept.
    """
    p, wood = result.point, result.wood
    now = wood.mean**2 + wood.taper**2 / 12.0
    return p.hinge_moment * (p.thin**2 + wood.taper**2 / 12.0) / now - p.tip_margin
