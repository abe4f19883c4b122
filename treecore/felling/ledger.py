"""Every moment at the stump for many sets of inputs at once, and what follows from them: window, wedges, gust."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from treecore.errors import Column
from treecore.felling.balance import bearing_lever, commit_angle, given_over, pull_moments, wedge_arm, wedge_lift
from treecore.felling.gusts import Gusts
from treecore.felling.guying import GuyMoments, guy_moments
from treecore.felling.hinge import (
    ELASTIC,
    HingeWood,
    bending_shape,
    net_length,
    shear_stress,
    sound_length,
    thick_limit,
)
from treecore.felling.inputs import FellingInput
from treecore.felling.notch import closing_angle
from treecore.felling.splitting import narrow, split_use
from treecore.felling.standing import Columns, Fixed, Pulled, Wind, fixed_of, inputs_of, pulled_by, wind_on
from treecore.felling.window import Upright, held_sideways
from treecore.tree.body import Body, body_above
from treecore.tree.weigh import cg_offsets
from treecore.units import GRAVITY


class _Hangs(NamedTuple):
    """The weight above the cut [N]; where its balance is from the stem's centre, behind the pivot, and to the right of
    the hinge's middle [m].
    """

    body: Body
    weight: Column
    ahead: Column
    aside: Column
    up: Column
    back: Column
    off: Column


class _Acts(NamedTuple):
    """What lines, guy line and gusts do; ``against``, ``across`` and ``along`` are a gust's moments that way [N·m]."""

    pulled: Pulled
    guy: GuyMoments
    wind: Wind
    against: Column
    across: Column
    along: Column


class _Over(NamedTuple):
    """What it takes to go over, what is at hand, and the wedges' part [N·m], [m], [N]; turn at commitment [rad]."""

    bends: Column
    lever: Column
    wedge_moment: Column
    wedge_force: Column
    wedge_side: Column
    needed: Column
    available: Column
    spare: Column
    turn: Column


def columns_of(plan: FellingInput, fixed: Fixed, x: Columns) -> Columns:
    """Every quantity of ``Point`` by name, for all moves at once; docs/methods.md, ledger (1) to (10).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    fixed : Fixed
        What its choices alone decide.
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]
    """
    length = sound_length(plan.cuts, x["bark"])
    h = _hangs(plan, fixed, x)
    a = _acts(plan, fixed, x, h)
    o = _over(plan, fixed, x, h, a, length)
    stands = Upright(h.body, h.weight, a.wind, a.across, o.wedge_side, a.guy, o.turn, length)
    held = held_sideways(plan, fixed, x, stands)
    return (
        held
        | _weight_rows(plan, fixed, x, h)
        | _line_rows(plan, fixed, x, h, a, length)
        | _over_rows(plan, fixed, x, a, o, length)
        | _side_rows(h, a, o, held, fixed.gusts)
        | _split_rows(plan, fixed, x, h, a, o, length)
        | _turn_rows(plan, x, h, a, o)
    )


def _hangs(plan: FellingInput, fixed: Fixed, x: Columns) -> _Hangs:
    body = body_above(plan.tree, x, plan.cuts.stump)
    ahead, aside = cg_offsets(body, x, plan.cuts.stump, plan.lay)
    return _Hangs(
        body,
        body.mass * GRAVITY,
        ahead,
        aside,
        body.cg_height - plan.cuts.stump,
        fixed.pivot - ahead,
        aside - fixed.beside,
    )


def _acts(plan: FellingInput, fixed: Fixed, x: Columns, h: _Hangs) -> _Acts:
    wind, pulled = wind_on(plan, h.body, x), pulled_by(plan, fixed.pivot, x, x.get("pull_turn", 0.0))
    gusts = fixed.gusts
    against, across, along = wind.gust * gusts.against, wind.gust * gusts.across, wind.gust * gusts.along
    guy = GuyMoments(0.0, 0.0, 0.0, 0.0, 0.0)
    if plan.guy is not None:
        lean, side = (x["lean_along"], x["lean_across"]), h.weight * h.off + pulled.across
        guy = guy_moments(plan.guy, plan.lay, plan.cuts.stump, fixed.pivot, lean, side, across, x["guy_gain"])
    return _Acts(pulled, guy, wind, against, across, along)


def _over(plan: FellingInput, fixed: Fixed, x: Columns, h: _Hangs, a: _Acts, length: Column) -> _Over:
    cuts = plan.cuts
    bends = x["section"] * x["mor"] * bending_shape(fixed.wood, length) / ELASTIC
    behind, beside = wedge_arm(cuts.along, cuts.across, x["wedge_inside"], plan.wedges.place, cuts.skew)
    lever = bearing_lever(fixed.pivot, behind)
    wedges = x["wedge_force"] * fixed.wedges * lever
    tip = h.weight * h.back + a.against - a.guy.along  # (2)
    needed, available = tip + bends, a.pulled.along + wedges  # (3)
    # What the wedges must lift is what the line leaves to them.
    under = np.maximum(needed - a.pulled.along, 0.0) / lever  # (4)
    aside = -under * (beside - fixed.beside) * (1.0 if fixed.wedges else 0.0)
    turn = commit_angle(h.weight, h.back, h.up, bends + a.against)
    return _Over(bends, lever, wedges, under, aside, needed, available, available - tip, turn)


def _weight_rows(plan: FellingInput, fixed: Fixed, x: Columns, h: _Hangs) -> Columns:
    """The weight and its moments in parts; ledger (5)."""
    leaned = h.weight * (h.body.axis_height - plan.cuts.stump)
    m_lean, s_lean = leaned * x["lean_along"], leaned * x["lean_across"]
    return {
        "mass": h.body.mass,
        "stem_mass": h.body.stem_mass,
        "cg_height": h.up,
        "cg_along": h.ahead,
        "cg_across": h.aside,
        "back_offset": h.back,
        "weight_moment": -h.weight * h.back,
        "m_lean": m_lean,
        "m_crown": h.weight * h.ahead - m_lean,
        "m_pivot": -h.weight * fixed.pivot,
        "s_lean": s_lean,
        "s_crown": h.weight * h.aside - s_lean,
        "s_oval": -h.weight * fixed.beside,
    }


def _line_rows(plan: FellingInput, fixed: Fixed, x: Columns, h: _Hangs, a: _Acts, length: Column) -> Columns:
    """Lines, guy line and gusts, and what they do to the roots and to the uncut hinge."""
    return {
        "wind_along": -a.against,
        "wind_with": a.along,
        "wind_across": a.across,
        "gale": a.wind.gale,
        "pull_along": a.pulled.along,
        "pull_across": a.pulled.across,
        "level_pull": a.pulled.level,
        "shear": shear_stress(a.pulled.level, fixed.wood, length),
        "guy_wanted": a.guy.wanted,
        "guy_tension": a.guy.tension,
        "guy_along": a.guy.along,
        "guy_across": a.guy.across,
        "root_moment": root_plate_moment(plan, fixed, h, a, x),
    }


def _over_rows(plan: FellingInput, fixed: Fixed, x: Columns, a: _Acts, o: _Over, length: Column) -> Columns:
    """What it takes and what is at hand, and the thick end of the window."""
    return {
        "hinge_moment": o.bends,
        "needed": o.needed,
        "available": o.available,
        "margin": o.spare - o.bends,
        "tip_margin": o.spare,
        "wedge_moment": o.wedge_moment,
        "wedge_force": o.wedge_force,
        "wedge_each": o.wedge_force / max(plan.wedges.count, 1),
        "thick": _thickest(o.spare, x, fixed.wood, length),
    }


_LEAST_SHARE = 0.01  # a gust that does not blow that way at all uses up ten times what a straight one does, and no more


def _side_rows(h: _Hangs, a: _Acts, o: _Over, held: Columns, gusts: Gusts) -> Columns:
    """The side moment in a calm, what stands between that and the worst, and the gust that uses up what is left."""
    side = h.weight * h.off + a.pulled.across + a.guy.across + o.wedge_side  # (1)
    # What is left along is used up only by what of a gust blows against the lay, what is left across by what blows
    # across.
    along, across = (np.maximum(left, 0.0) for left in (o.spare - o.bends + a.against, held["gust_side"]))
    any_way = np.minimum(along, across)
    left = np.minimum(along / max(gusts.against, _LEAST_SHARE), across / max(gusts.across, _LEAST_SHARE))
    return {
        "wedge_side": o.wedge_side,
        "side_moment": side,
        "side_ends": held["side_most"] - np.abs(side) - a.across,  # (10)
        "gust": np.sqrt(any_way / np.maximum(a.wind.gale, 1e-9)),  # (6)
        "gust_here": np.sqrt(left / np.maximum(a.wind.gale, 1e-9)),  # (6)
        "held_back": h.weight * h.back + o.bends - a.along,  # (9)
    }


def _split_rows(plan: FellingInput, fixed: Fixed, x: Columns, h: _Hangs, a: _Acts, o: _Over, length: Column) -> Columns:
    """What the stem carries as it begins to move, over what splits it: as it is sawn, and sawn straight in."""
    asked = given_over(o.available, h.weight, h.back, o.bends, x["pull_more"])
    moment = (o.available if _unread(plan) else asked) - h.weight * h.back + a.along  # (8)
    cuts, wood = plan.cuts, (x["tough"], x["moe"], length)
    sawn = (cuts.along, cuts.depth, cuts.hinge)
    return {
        "split_moment": moment,
        "split": narrow(cuts.opening) * split_use(moment, o.bends, wood, sawn, plan.saw.pattern == "bore"),
        "split_straight": narrow(cuts.opening) * split_use(moment, o.bends, wood, sawn, False),
    }


def _unread(plan: FellingInput) -> bool:
    """Whether a machine pulls that nothing reads or limits, or nobody said what pulls: it may give all it can."""
    if plan.system is not None:
        return any(part.kind == "vehicle" for part in plan.system.parts)
    tackle = plan.pull.tackle if plan.pull is not None else None
    return plan.pull is not None and (tackle is None or tackle.by in ("", "vehicle"))


def _turn_rows(plan: FellingInput, x: Columns, h: _Hangs, a: _Acts, o: _Over) -> Columns:
    """Angles at which the weight commits, the notch closes and the hinge parts; what stands aside of the lay."""
    stump, lean = plan.cuts.stump, np.arctan(x["lean_along"])
    reach = plan.tree.tip(x) - stump
    middle = x["height"] * (x["crown_base"] + x["crown_centre"] * (1.0 - x["crown_base"]))
    crown_up = np.minimum(middle, plan.tree.tip(x)) - stump
    return {
        "lift": wedge_lift(o.lever, o.turn),
        "commit": o.turn + lean,
        "closing": closing_angle(plan.cuts.opening, lean),
        "commit_margin": plan.cuts.opening - o.turn,
        "parts_margin": x["parts"] - o.turn,
        "length": reach,
        "top_aside": x["lean_across"] * reach,
        "crown_up": crown_up,
        "crown_aside": x["lean_across"] * crown_up + x["crown_across"],
    }


def _thickest(spare: Column, x: Columns, wood: HingeWood, length: Column) -> Column:
    """Thickest mean of a hinge with this taper that the moment at hand still bends [m]; docs/methods.md, hinge (3),
    (4).
    """
    even = thick_limit(spare, x["mor"], net_length(wood, length), x["section"])
    return np.sqrt(np.maximum(even**2 - wood.taper**2 / 12.0, 0.0)) if wood.taper else even


def root_plate_moment(plan: FellingInput, fixed: Fixed, h: _Hangs, a: _Acts, x: Columns) -> Column:
    """Whole overturning moment on the root plate, a gust from its worst side with it [N·m].

    Parameters
    ----------
    plan : FellingInput
        The plan.
    fixed : Fixed
        What its choices alone decide.
    h, a : tuple
        The weight above the cut; what lines, guy line and gusts do.
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]

    References
    ----------
    docs/methods.md, root plate (1).
    """
    along, across = a.pulled.foot_along + h.weight * h.ahead, a.pulled.foot_across + h.weight * h.aside
    if plan.guy is not None:
        pull = np.minimum(a.guy.wanted, plan.guy.limit)
        unit = pull_moments(plan.guy.line(1.0), plan.lay, 0.0, 0.0, (x["lean_along"], x["lean_across"]))
        along, across = along + pull * unit[0], across + pull * unit[1]
    gust = a.wind.gust * (a.wind.arm + plan.cuts.stump) / a.wind.arm
    blown = np.where(np.asarray(along) >= 0.0, fixed.gusts.along, fixed.gusts.against)
    return np.hypot(np.abs(along) + gust * blown, np.abs(across) + gust * fixed.gusts.across)  # (1)


def capacity_at(plan: FellingInput, thick: float) -> float:
    """Side moment that a hinge of another thickness would hold upright, with what acts at the same time [N·m].

    Parameters
    ----------
    plan : FellingInput
        The plan; its cuts else as they are.
    thick : float
        Mean thickness. [m]

    References
    ----------
    docs/methods.md, hinge (16).
    """
    if thick <= 0.0:
        return 0.0
    fixed = fixed_of(plan)
    x: Columns = {name: e.value for name, e in inputs_of(plan).items()}
    found = columns_of(plan, fixed._replace(wood=fixed.wood._replace(mean=thick)), x)["side_holds"]
    return float(np.ravel(found)[0])


def point_columns(plan: FellingInput, x: Columns) -> Columns:
    """Every quantity of ``Point`` for many sets of inputs at once, by name.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    x : dict of Column
        Values for the names of ``inputs_of``. [SI]
    """
    return columns_of(plan, fixed_of(plan), x)
