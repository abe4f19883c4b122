"""What dragging or nudging a handle on a felling drawing means for the plan.

Stump drawing: x along the lay from the stem's centre, y up. Side drawing: x along the lay, y up from the ground. Plan:
x east, y north. All in metres.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from treecore.felling.inputs import FellingInput
from treecore.felling.notch import BELOW

Values = dict[str, float]
FINE, COARSE, TURN = 0.001, 0.005, math.radians(0.5)
STEPS = {
    "depth": 0.005,
    "hinge": 0.0025,
    "rise": 0.005,
    "stump": 0.01,
    "opening": math.radians(1),
    "lay": math.radians(1),
    "anchor": 0.5,
}


def _snap(value: float, step: float) -> float:
    return round(value / step) * step


def _depth(x: float, y: float, plan: FellingInput) -> Values:
    return {"depth": _snap(plan.cuts.along / 2.0 - x, FINE)}


def _hinge(x: float, y: float, plan: FellingInput) -> Values:
    return {"hinge": _snap(plan.cuts.along / 2.0 - plan.cuts.depth - x, FINE)}


def _ends(left: float, right: float) -> Values:
    return {"hinge": _snap((left + right) / 2.0, FINE / 2.0), "taper": _snap(left - right, FINE)}


def _left(x: float, y: float, plan: FellingInput) -> Values:
    cuts = plan.cuts
    return _ends(cuts.along / 2.0 - cuts.depth - x, cuts.hinge - cuts.taper / 2.0)


def _right(x: float, y: float, plan: FellingInput) -> Values:
    cuts = plan.cuts
    return _ends(cuts.hinge + cuts.taper / 2.0, cuts.along / 2.0 - cuts.depth - x)


def _guy(x: float, y: float, plan: FellingInput) -> Values:
    east, north = x - plan.site.tree_x, y - plan.site.tree_y
    turn = _snap(math.atan2(east, north), TURN) % math.tau
    return {"guy_azimuth": turn, "guy_distance": _snap(math.hypot(east, north), 0.1)}


def _rise(x: float, y: float, plan: FellingInput) -> Values:
    return {"rise": _snap(y - plan.cuts.stump, FINE)}


def _stump(x: float, y: float, plan: FellingInput) -> Values:
    return {"stump": _snap(y, COARSE)}


def _opening(x: float, y: float, plan: FellingInput) -> Values:
    """Angle at the apex to the mouth's corner on the stem's face, less the part below the level."""
    below = BELOW[plan.cuts.notch_school]
    angle = math.atan2(abs(y - plan.cuts.stump), plan.cuts.depth)
    return {"opening": _snap(angle / (1.0 - below if below < 1.0 else 1.0), math.radians(1))}


def _lay(x: float, y: float, plan: FellingInput) -> Values:
    east, north = x - plan.site.tree_x, y - plan.site.tree_y
    return {"lay": _snap(math.atan2(east, north), TURN) % math.tau}


def _anchor(x: float, y: float, plan: FellingInput) -> Values:
    east, north = x - plan.site.tree_x, y - plan.site.tree_y
    turn = _snap(math.atan2(east, north), TURN) % math.tau
    return {"pull_azimuth": turn, "pull_distance": _snap(math.hypot(east, north), 0.1)}


_DRAGS: dict[str, Callable[[float, float, FellingInput], Values]] = {
    "depth": _depth, "hinge": _hinge, "rise": _rise, "stump": _stump, "opening": _opening, "lay": _lay,
    "anchor": _anchor, "left_end": _left, "right_end": _right, "guy": _guy,
}  # fmt: skip


def drag(handle: str, x: float, y: float, plan: FellingInput) -> Values:
    """Values of the plan when a handle is dragged to a point; empty for an unknown handle.

    Parameters
    ----------
    handle : str
        Name of the handle.
    x, y : float
        Point on its drawing. [m]
    plan : FellingInput
        The plan before.
    """
    move = _DRAGS.get(handle)
    return move(x, y, plan) if move else {}


def nudge(handle: str, dx: float, dy: float, plan: FellingInput) -> Values:
    """Values of the plan after arrow keys on a handle; empty for an unknown handle.

    Parameters
    ----------
    handle : str
        Name of the handle.
    dx, dy : float
        Steps to the right and up on the drawing. [-]
    plan : FellingInput
        The plan before.
    """
    step, cuts = STEPS.get(handle, 0.0), plan.cuts
    if handle in ("left_end", "right_end"):
        side = 1.0 if handle == "left_end" else -1.0
        more = -dx * STEPS["hinge"]
        return {"hinge": cuts.hinge + more / 2.0, "taper": cuts.taper + side * more}
    if handle == "guy" and plan.guy:
        turn = (plan.guy.azimuth + dx * STEPS["lay"]) % math.tau
        return {"guy_azimuth": turn, "guy_distance": plan.guy.distance + dy * STEPS["anchor"]}
    if handle in ("depth", "hinge"):
        return {handle: getattr(cuts, handle) - dx * step}  # to the right is towards the front
    if handle in ("rise", "stump", "opening"):
        return {handle: getattr(cuts, handle) + dy * step}
    if handle == "lay":
        return {"lay": (plan.lay + (dx or dy) * step) % math.tau}
    if handle == "anchor" and plan.pull:
        turn = (plan.pull.azimuth + dx * STEPS["lay"]) % math.tau
        return {"pull_azimuth": turn, "pull_distance": plan.pull.distance + dy * step}
    return {}
