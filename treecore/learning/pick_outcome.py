"""Estimate beside actual for one pick, or for any piece of work that was planned and timed."""

from __future__ import annotations

from dataclasses import dataclass

from treecore.errors import NotSolvable, between
from treecore.estimate import Estimate, exactly
from treecore.learning.outcome import Compared, plainly
from treecore.ranges import believed

_LONGEST = 24 * 3600.0  # one piece of work is done in a day [s]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedPick:
    """What the plan had of a pick: mass [kg], peaks at the point and at the device [N], wraps [-], rope let run [m],
    time [s]; None where it had none.
    """

    mass: Estimate | None = None
    peak_point: Estimate | None = None
    peak_base: Estimate | None = None
    hand: Estimate | None = None
    wraps: float | None = None
    run: float | None = None
    seconds: Estimate | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PickOutcome:
    """What was read of a pick: mass [kg], peaks at the point and at the device [N], force in the hand [N], wraps [-],
    rope let run [m], time [s]; None where nobody read it.
    """

    mass: float | None = None
    peak_point: float | None = None
    peak_base: float | None = None
    hand: float | None = None
    wraps: float | None = None
    run: float | None = None
    seconds: float | None = None

    def __post_init__(self) -> None:
        """Refuse what no pick is."""
        for name, key in (("mass", "piece_mass"), ("peak_point", "recorded_peak"), ("peak_base", "recorded_peak")):
            value = getattr(self, name)
            if value is not None:
                believed(name, value, key)
        for name, key in (("hand", "recorded_hand"), ("wraps", "recorded_wraps"), ("run", "recorded_run")):
            value = getattr(self, name)
            if value is not None:
                believed(name, value, key)
        if self.seconds is not None:
            between("seconds", self.seconds, 0.0, _LONGEST, "a pick is done within a day", "time")


def not_more_than_it_stood(mass: float, standing: float) -> None:
    """Refuse a piece heavier than the whole tree can have been.

    Parameters
    ----------
    mass, standing : float
        Of the piece, and the highest credible of the tree before anything was cut. [kg]

    Raises
    ------
    NotSolvable
        Naming both.
    """
    if mass > standing:
        why = (
            "{mass:.0f} kg is more than the whole tree weighs at the most ({standing:.0f} kg): a unit or a digit is off"
        )
        raise NotSolvable(what="mass", why=why, mass=mass, standing=standing)


def pick_outcome(plan: PlannedPick, actual: PickOutcome) -> tuple[Compared, ...]:
    """Set a pick's plan beside what was read; what the plan had nothing of is left out.

    Parameters
    ----------
    plan : PlannedPick
        The plan.
    actual : PickOutcome
        What was read.
    """
    rows = (
        ("mass", "Mass", "mass", plan.mass, actual.mass),
        ("peak_point", "Peak at the rigging point", "force", plan.peak_point, actual.peak_point),
        ("peak_base", "Peak at the device", "force", plan.peak_base, actual.peak_base),
        ("hand", "Force in the hand", "small_force", plan.hand, actual.hand),
        ("wraps", "Wraps", "ratio", _chosen(plan.wraps), actual.wraps),
        ("run", "Rope let run", "length", _chosen(plan.run), actual.run),
        ("seconds", "Time", "time", plan.seconds, actual.seconds),
    )
    return tuple(plainly(*row[:3], row[3], row[4]) for row in rows if row[3] is not None)


def _chosen(value: float | None) -> Estimate | None:
    return None if value is None else exactly(value)
