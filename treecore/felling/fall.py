"""The fall: a rigid stem turning on its hinge from the first movement to the ground."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import lru_cache, partial
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from treecore.errors import Column, NotSolvable
from treecore.estimate import Spread, propagate
from treecore.felling.balance import bearing_lever, commit_angle, given_over, wedge_arm
from treecore.felling.hinge import ELASTIC, bending_shape, sound_length
from treecore.felling.inputs import FellingInput
from treecore.felling.notch import Cuts, ground_angle
from treecore.felling.standing import fixed_of, inputs_of, pulled_by, wind_on
from treecore.figures import Figure, Term
from treecore.schools import constant
from treecore.tree.body import body_above
from treecore.tree.weigh import cg_offsets
from treecore.units import GRAVITY

Array = NDArray[np.float64]
STEPS = 120
WALKED = ("pace", "reaction", "break_strain", "stump_off")  # what the fall needs beside the balance
# Square of the slowest turning counted, so that a move that hangs takes long rather than for ever [rad2/s2].
_SLOWEST = 1e-7


class Turning(NamedTuple):
    """What turns and what drives it, about the pivot: columns in SI."""

    inertia: Column
    weight: Column
    back: Column
    height: Column
    hinge: Column
    help: Column
    air: Column
    ends: Column
    blow: Column = 0.0


def turned(t: Turning, closes: float, steps: int = STEPS) -> tuple[Column, Column, bool]:
    """Time from the first movement to the ground [s], turning speed there [rad/s], and whether it goes all the way.

    Parameters
    ----------
    t : Turning
        Inertia [kg·m2], weight [N], CG behind and above the pivot [m], hinge and helping moments [N·m], air: moment of
        the drag at 1 rad/s [N·m·s2], the turn at which the ground is met [rad], and a gust's moment on the standing
        tree [N·m].
    closes : float
        Turn at which the notch closes and the hinge breaks. [rad]
    steps : int
        Steps of the turn. [-]

    References
    ----------
    I·ω·dω/dθ = W·r·sin(θ − balance) + help + gust·cos²θ − hinge − air·ω², exact in ω² over each step; docs/methods.md,
    fall (1), (2).
    """
    course = marched(t, closes, steps)
    return course.time[-1], course.speed[-1], course.goes


class Course(NamedTuple):
    """The turn step by step: turn [rad], speed [rad/s] and time [s], one row per step and one column per move."""

    turn: Array
    speed: Array
    time: Array
    goes: bool


def marched(t: Turning, closes: float, steps: int = STEPS) -> Course:
    """March the turn from the first movement to the ground; docs/methods.md, fall (1), (2).

    Parameters
    ----------
    t : Turning
        As for ``turned``. [SI]
    closes : float
        Turn at which the notch closes and the hinge breaks. [rad]
    steps : int
        Steps of the turn. [-]

    References
    ----------
    As ``turned``.
    """
    marks = (np.arange(steps + 1) / steps) ** 1.7  # finer where it begins slowly
    # One row per step, one column per move.
    ends, inertia = np.atleast_1d(t.ends), np.atleast_1d(t.inertia)
    step, turn = np.outer(np.diff(marks), ends), np.outer((marks[1:] + marks[:-1]) / 2.0, ends)
    reach, balance = np.hypot(t.back, t.height), np.arctan2(t.back, t.height)
    commit = commit_angle(t.weight, t.back, t.height, t.hinge)
    driving = t.weight * reach * np.sin(turn - balance)
    driving = driving + np.where(turn < commit, t.help, 0.0) - np.where(turn < closes, t.hinge, 0.0)
    driving = driving + t.blow * np.where(turn < math.pi / 2.0, np.cos(turn), 0.0) ** 2
    loss = 2.0 * np.maximum(t.air, 1e-9) / inertia
    kept, gained = np.exp(-loss * step), 2.0 * driving / inertia * -np.expm1(-loss * step) / loss
    squares = np.zeros((steps + 1, len(ends)))
    goes = True
    for i in range(steps):
        after = squares[i] * kept[i] + gained[i]  # (1)
        goes = goes and bool(after[0] > 0.0)
        squares[i + 1] = np.maximum(after, _SLOWEST)
    speeds = np.sqrt(squares)
    time = np.zeros_like(speeds)
    time[1:] = (2.0 * step / (speeds[:-1] + speeds[1:])).cumsum(axis=0)  # (2)
    return Course(np.outer(marks, ends), speeds, time, goes)


def _turning(plan: FellingInput, x: dict[str, Column]) -> tuple[Turning, Column]:
    """What turns and drives, and how far the hinge's pivot lies from the balance [m]."""
    cuts, fixed = plan.cuts, fixed_of(plan)
    body = body_above(plan.tree, x, cuts.stump)
    ahead, _ = cg_offsets(body, x, cuts.stump, plan.lay)
    back, height = fixed.pivot - ahead, body.cg_height - cuts.stump
    pull = pulled_by(plan, fixed.pivot, x, x.get("pull_turn", 0.0)).along
    behind = wedge_arm(cuts.along, cuts.across, x["wedge_inside"], plan.wedges.place, cuts.skew)[0]
    lever = bearing_lever(fixed.pivot, behind)
    wedges = x["wedge_force"] * fixed.wedges * lever
    inertia = body.inertia + body.mass * back**2
    meets = ground_angle(plan.site.falling_ground(plan.lay)) - np.arctan(x["lean_along"])
    arm = body.wind_height - cuts.stump
    bends = x["section"] * x["mor"] * bending_shape(fixed.wood, sound_length(cuts, x["bark"])) / ELASTIC
    helped = pull + wedges
    if plan.saw.pattern != "bore":
        helped = given_over(helped, body.mass * GRAVITY, back, bends, x["pull_more"])  # (6)
    turning = Turning(
        inertia,
        body.mass * GRAVITY,
        back,
        height,
        bends,
        helped,
        0.5 * x["drag"] * body.wind_area * arm**3,
        meets,
        wind_on(plan, body, x).gust * fixed.gusts.along,
    )
    return turning, np.hypot(back, height)


class Fallen(NamedTuple):
    """A fall for many sets of inputs, as ``Fall`` names them; SI. ``inertia`` about the pivot [kg·m2]."""

    time: Column
    tip_speed: Column
    energy: Column
    walked: Column
    inertia: Column
    closes: Column
    breaks: Column
    rise: Column
    jump: Column
    off: Column


def fall_columns(plan: FellingInput, x: dict[str, Column]) -> Fallen:
    """The fall for many sets of inputs at once; docs/methods.md, fall (1) to (5).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    x : dict of Column
        Values for the names of ``inputs_of`` and of ``WALKED``. [SI]
    """
    return _model(plan, x)[0]


def _model(plan: FellingInput, x: dict[str, Column]) -> tuple[Fallen, bool]:
    cuts = plan.cuts
    turning, reach = _turning(plan, x)
    course = marched(turning, cuts.opening)
    time, speed = course.time[-1], course.speed[-1]
    tall = plan.tree.tip(x) - cuts.stump
    tip = speed * tall
    breaks = cuts.opening + broken_after(cuts, x["break_strain"])
    at_close, at_break = _at(course, cuts.opening), _at(course, breaks)
    off = x["stump_off"] + np.maximum(at_break[0] - x["reaction"], 0.0) * x["pace"]  # (7)
    up, ahead = butt_jump(reach, turning.ends, at_break[1], breaks, tall)
    walked = np.maximum(time - x["reaction"], 0.0) * x["pace"]  # (3)
    lean = np.arctan(x["lean_along"])
    return Fallen(
        time, tip, 0.5 * turning.inertia * speed**2, walked, turning.inertia, at_close[0], breaks + lean, up, ahead, off
    ), course.goes


def _at(course: Course, turn: Column) -> tuple[Array, Array]:
    """Time [s] and speed [rad/s] of every move when a turn is reached; at the ground if it lies beyond it."""
    columns = range(course.turn.shape[1])
    turns = np.broadcast_to(turn, course.turn.shape[1])
    time = [np.interp(turns[i], course.turn[:, i], course.time[:, i]) for i in columns]
    speed = [np.interp(turns[i], course.turn[:, i], course.speed[:, i]) for i in columns]
    return np.array(time), np.array(speed)


def broken_after(cuts: Cuts, strain: Column) -> Column:
    """Turn past the notch's closing at which the hinge's fibres part [rad]; docs/methods.md, fall (4).

    Parameters
    ----------
    cuts : Cuts
        The cuts.
    strain : Column
        At which bent green fibres part. [-]

    References
    ----------
    Closed, the stem turns about the notch's mouth: fibres as long as the step stretch with their distance from it.
    """
    free = max(cuts.rise, 0.02)
    return strain * free / (cuts.depth + cuts.hinge / 2.0)  # (4)


def butt_jump(reach: Column, ends: Column, speed: Column, breaks: Column, length: Column) -> tuple[Column, Column]:
    """How far the butt rises and goes forward once the hinge has parted, before the top lands [m]; fall (5).

    Parameters
    ----------
    reach : Column
        From the hinge to the balance. [m]
    ends, speed : Column
        Turn at the ground [rad]; turning speed when the hinge parts. [rad/s]
    breaks : Column
        Turn at which it parts. [rad]
    length : Column
        From the hinge to the top. [m]

    References
    ----------
    Free flight of a rigid stem: its balance falls, its turning goes on.
    """
    left = np.maximum(np.atleast_1d(ends) - breaks, 0.0)
    speed, reach = np.maximum(np.atleast_1d(speed), 1e-3), np.atleast_1d(reach)
    time = np.linspace(0.0, 1.0, 25)[:, None] * (left / speed)
    angle = breaks + speed * time
    ahead = reach * (np.sin(breaks) + speed * np.cos(breaks) * time) - reach * np.sin(angle)
    up = reach * (np.cos(breaks) - speed * np.sin(breaks) * time) - GRAVITY * time**2 / 2.0 - reach * np.cos(angle)
    flying = up + length * np.cos(angle) > 0.0  # until the top is down
    rise, far = np.where(flying, up, 0.0), np.where(flying, ahead, 0.0)
    return np.maximum(rise.max(axis=0), 0.0), np.maximum(far.max(axis=0), 0.0)  # (5)


class Path(NamedTuple):
    """The central fall: angle past upright [rad] at each time [s]."""

    angle: tuple[float, ...]
    time: tuple[float, ...]

    def when(self, angle: float) -> float:
        """Time at which an angle is reached; the end if it lies beyond the ground [s].

        Parameters
        ----------
        angle : float
            Past upright. [rad]
        """
        return float(np.interp(angle, self.angle, self.time))


def fall_course(plan: FellingInput) -> Path:
    """Follow the central fall for a drawing.

    Parameters
    ----------
    plan : FellingInput
        The plan.

    References
    ----------
    docs/methods.md, fall (1), (2).
    """
    x: dict[str, Column] = {name: e.value for name, e in inputs_of(plan).items()}
    course = marched(_turning(plan, x)[0], plan.cuts.opening)
    lean = math.atan(float(x["lean_along"]))
    return Path(tuple((course.turn[:, 0] + lean).tolist()), tuple(course.time[:, 0].tolist()))


class Fall(NamedTuple):
    """The fall as figures: time, tip speed, energy, the way walked meanwhile, the hinge's end, the butt's jump."""

    time: Figure
    tip_speed: Figure
    energy: Figure
    walked: Figure
    closes: Figure
    breaks: Figure
    rise: Figure
    jump: Figure
    off: Figure

    @property
    def figures(self) -> tuple[Figure, ...]:
        """Every figure in reading order."""
        return tuple(self)


@lru_cache(maxsize=32)
def fall(plan: FellingInput) -> Fall:
    """Work out the fall of a plan.

    Parameters
    ----------
    plan : FellingInput
        The plan.

    Raises
    ------
    NotSolvable
        If what is at hand does not bring it over, so that there is no fall to work out.

    References
    ----------
    docs/methods.md, fall (1) to (3).
    """
    inputs = inputs_of(plan) | {name: constant(name) for name in WALKED}
    # Whether it goes at all is asked without a wind that helps.
    if not _model(replace(plan, wind=None), {name: e.value for name, e in inputs.items()})[1]:
        raise NotSolvable(what="fall", why="what is at hand does not bring it over, so there is no fall to work out")
    found = propagate(lambda x: _model(plan, x)[0]._asdict(), inputs)
    dress = partial(_figure, found)
    mass = Term("I", "inertia about the pivot", found["inertia"].value, "inertia")
    return Fall(
        time=dress("time", "fall_time", "From first movement to the ground", "time", "t = Σ Δθ / ω", (mass,)),
        tip_speed=dress(
            "tip_speed",
            "tip_speed",
            "Tip speed at the ground",
            "speed",
            "v = ω · (H − stump)",
            (Term("ℓ", "from the cut to the tip", _reach(plan), "length"),),
        ),
        energy=dress("energy", "energy", "Energy at the ground", "energy", "E = ½ · I · ω²", (mass,)),
        walked=dress(
            "walked",
            "walked",
            "Way walked meanwhile",
            "length",
            "s = pace · (t − t₀)",
            (
                Term("pace", "walking", constant("pace").value, "speed"),
                Term("t", "of the fall", found["time"].value, "time"),
                Term("t₀", "until one walks", constant("reaction").value, "time"),
            ),
        ),
        closes=dress(
            "closes",
            "closes_after",
            "Notch closes after",
            "time",
            "t = Σ Δθ / ω up to the opening",
            (Term("opening", "of the notch", plan.cuts.opening, "angle"),),
        ),
        breaks=dress(
            "breaks",
            "breaks",
            "Hinge parts, past upright",
            "angle",
            "closing + strain · step / (depth + t/2)",
            (
                Term("strain", "at which fibres part", constant("break_strain").value, "ratio"),
                Term("step", "back cut above the apex", plan.cuts.rise, "cut"),
                Term("depth", "of the notch", plan.cuts.depth, "cut"),
                Term("t", "hinge thickness", plan.cuts.hinge, "cut"),
            ),
        ),
        rise=dress("rise", "butt_rise", "Butt rises, hinge gone", "offset", "free flight about the balance", (mass,)),
        off=dress(
            "off",
            "butt_off",
            "Off the butt when the hinge parts",
            "length",
            "s = s₀ + pace · (t − t₀)",
            (
                Term("s₀", "beside the stem at first", constant("stump_off").value, "length"),
                Term("pace", "walking", constant("pace").value, "speed"),
                Term("t₀", "until one walks", constant("reaction").value, "time"),
            ),
        ),
        jump=dress("jump", "butt_jump", "Butt goes forward", "offset", "free flight about the balance", (mass,)),
    )


def _reach(plan: FellingInput) -> float:
    return plan.tree.stands.value - plan.cuts.stump


def _figure(
    found: dict[str, Spread],
    name: str,
    key: str,
    label: str,
    dimension: str,
    formula: str,
    terms: tuple[Term, ...],
) -> Figure:
    return Figure(
        key=key,
        label=label,
        estimate=found[name].size(),
        dimension=dimension,
        formula=formula,
        terms=terms,
        widest=found[name].widest,
        source="Rigid stem on its hinge; docs/methods.md fall (1) to (5)",
    )
