"""The fall: a rigid stem turning on its hinge from the first movement to the ground."""

from __future__ import annotations

from functools import lru_cache, partial
from typing import NamedTuple

import numpy as np

from treecore.errors import Column, NotSolvable
from treecore.estimate import Estimate, Kind, spread
from treecore.felling.balance import GRAVITY, commit_angle, pivot_offset, pull_moments, wedge_lever
from treecore.felling.hinge import bending_moment
from treecore.felling.inputs import FellingInput
from treecore.felling.notch import ground_angle, hinge_chord
from treecore.felling.plan import inputs_of
from treecore.figures import Figure, Term
from treecore.schools import constant
from treecore.tree.body import body_above
from treecore.tree.weigh import cg_offsets

STEPS = 120
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


def turned(t: Turning, closes: float, steps: int = STEPS) -> tuple[Column, Column, bool]:
    """Time from the first movement to the ground [s], turning speed there [rad/s], and whether it goes all the way.

    Parameters
    ----------
    t : Turning
        Inertia [kg·m2], weight [N], CG behind and above the pivot [m], hinge and helping moments [N·m], air: moment of the
        drag at 1 rad/s [N·m·s2], and the turn at which the ground is met [rad].
    closes : float
        Turn at which the notch closes and the hinge breaks. [rad]
    steps : int
        Steps of the turn. [-]

    References
    ----------
    I·ω·dω/dθ = W·r·sin(θ − balance) + help − hinge − air·ω², exact in ω² over each step; docs/methods.md, fall (1), (2).
    """
    marks = (np.arange(steps + 1) / steps) ** 1.7  # finer where it begins slowly
    # One row per step, one column per move.
    ends, inertia = np.atleast_1d(t.ends), np.atleast_1d(t.inertia)
    step, turn = np.outer(np.diff(marks), ends), np.outer((marks[1:] + marks[:-1]) / 2.0, ends)
    reach, balance = np.hypot(t.back, t.height), np.arctan2(t.back, t.height)
    commit = commit_angle(t.weight, t.back, t.height, t.hinge)
    driving = t.weight * reach * np.sin(turn - balance)
    driving = driving + np.where(turn < commit, t.help, 0.0) - np.where(turn < closes, t.hinge, 0.0)
    loss = 2.0 * np.maximum(t.air, 1e-9) / inertia
    kept, gained = np.exp(-loss * step), 2.0 * driving / inertia * -np.expm1(-loss * step) / loss
    squares = np.zeros((steps + 1, len(ends)))
    goes = True
    for i in range(steps):
        after = squares[i] * kept[i] + gained[i]  # (1)
        goes = goes and bool(after[0] > 0.0)
        squares[i + 1] = np.maximum(after, _SLOWEST)
    speeds = np.sqrt(squares)
    time = (2.0 * step / (speeds[:-1] + speeds[1:])).sum(axis=0)  # (2)
    return time, speeds[-1], goes


def _model(plan: FellingInput, x: dict[str, Column]) -> tuple[tuple[Column, ...], bool]:
    cuts = plan.cuts
    pivot, lever = pivot_offset(cuts.along, cuts.depth, cuts.hinge), wedge_lever(cuts.along, cuts.depth, cuts.hinge)
    body = body_above(plan.tree, x, cuts.stump)
    ahead, _ = cg_offsets(body, x, cuts.stump, plan.lay)
    back, height = pivot - ahead, body.cg_height - cuts.stump
    pull: Column = 0.0
    if plan.pull is not None:
        pull = pull_moments(plan.pull, plan.lay, cuts.stump, pivot, (x["lean_along"], x["lean_across"]))[0]
    wedges = x["wedge_force"] * (plan.wedges.count * lever if plan.tree.condition.wedges else 0.0)
    length = hinge_chord(cuts.depth, cuts.along, cuts.across)
    inertia = body.inertia + body.mass * back**2
    meets = ground_angle(plan.site.falling_ground(plan.lay)) - np.arctan(x["lean_along"])
    arm = body.wind_height - cuts.stump
    turning = Turning(
        inertia, body.mass * GRAVITY, back, height, bending_moment(1.0, length, cuts.hinge) * x["mor"], pull + wedges,
        0.5 * x["drag"] * body.wind_area * arm**3, meets,
    )  # fmt: skip
    time, speed, goes = turned(turning, cuts.opening)
    tip = speed * (x["height"] - cuts.stump)
    return (time, tip, 0.5 * inertia * speed**2, time * x["pace"], inertia), goes


class Fall(NamedTuple):
    """The fall: time, tip speed, energy and the way walked meanwhile as figures."""

    time: Figure
    tip_speed: Figure
    energy: Figure
    walked: Figure

    @property
    def figures(self) -> tuple[Figure, ...]:
        """Every figure in reading order."""
        return self.time, self.tip_speed, self.energy, self.walked


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
    inputs = inputs_of(plan) | {"pace": constant("pace")}
    if not _model(plan, {name: e.value for name, e in inputs.items()})[1]:
        raise NotSolvable("fall", "what is at hand does not bring it over, so there is no fall to work out")
    s = spread(lambda x: _model(plan, x)[0], inputs)
    e = [Estimate(v, max(low, 0.0), high, Kind.ESTIMATED) for v, low, high in zip(s.values, s.low, s.high, strict=True)]
    dress = partial(_figure, s.widest)
    mass = Term("I", "inertia about the pivot", e[4].value, "inertia")
    return Fall(
        dress(0, "fall_time", "From first movement to the ground", e[0], "time", "t = Σ Δθ / ω", (mass,)),
        dress(1, "tip_speed", "Tip speed at the ground", e[1], "speed", "v = ω · (H − stump)", (Term("ℓ", "from the cut to the tip", _reach(plan), "length"),)),
        dress(2, "energy", "Energy at the ground", e[2], "energy", "E = ½ · I · ω²", (mass,)),
        dress(3, "walked", "Way walked meanwhile", e[3], "length", "s = pace · t", (Term("pace", "walking", constant("pace").value, "speed"), Term("t", "of the fall", e[0].value, "time"))),
    )  # fmt: skip


def _reach(plan: FellingInput) -> float:
    return plan.tree.height.value - plan.cuts.stump


def _figure(
    widest: tuple[str, ...], i: int, key: str, label: str, e: Estimate, dimension: str, formula: str, terms: tuple[Term, ...]
) -> Figure:  # fmt: skip
    return Figure(
        key=key, label=label, estimate=e, dimension=dimension, formula=formula, terms=terms, widest=widest[i],
        source="Rigid stem on its hinge; docs/methods.md fall (1) to (3)",
    )  # fmt: skip
