"""Friction: what a block, a fork and the wraps of a device leave of a tension."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

from treecore.errors import NotSolvable, between, positive
from treecore.estimate import Estimate, Kind
from treecore.tables import rows


@dataclass(frozen=True, slots=True)
class Device:
    """A friction device: friction of rope on it [-], wraps it counts as by itself [-], most wraps it takes [-]."""

    key: str
    name: str
    friction: Estimate
    base: float
    most: float
    source: str


@cache
def devices() -> dict[str, Device]:
    """Return the devices by key."""
    return {
        r["key"]: Device(
            r["key"], r["name"], Estimate(float(r["mu"]), float(r["mu_low"]), float(r["mu_high"]), Kind.ASSUMED),
            float(r["base"]), float(r["most"]), r["source"],
        )
        for r in rows("devices")
    }  # fmt: skip


def hand_force(load: float, friction: float, wraps: float) -> float:
    """Force at the hand that holds a load over wraps [N]; docs/methods.md, friction (1).

    Parameters
    ----------
    load : float
        Tension that comes to the device. [N]
    friction : float
        Of rope on drum. [-]
    wraps : float
        Whole turns. [-]

    Raises
    ------
    OutOfRange
        On less than none, or more than ten.

    References
    ----------
    Capstan equation (Euler 1769; Eytelwein 1808).
    """
    between("wraps", wraps, 0.0, 10.0, "none to ten wraps")
    return load * math.exp(-math.tau * friction * wraps)  # (1)


def wraps_for(load: float, hand: float, friction: float) -> float:
    """Wraps that bring a load down to a force at the hand [-]; docs/methods.md, friction (2).

    Parameters
    ----------
    load, hand : float
        Tension that comes to the device; force at the hand. [N]
    friction : float
        Of rope on drum. [-]

    Raises
    ------
    NotSolvable, OutOfRange
        On no friction or no hand.

    References
    ----------
    Inverse of (1).
    """
    if positive("hand", hand) >= load:
        return 0.0
    if friction <= 0.0:
        raise NotSolvable("friction", "without friction no wraps hold")
    return math.log(load / hand) / (math.tau * friction)  # (2)


def rule_of_thumb(mass: float) -> float:
    """Wraps by the trade's rule: about one for light pieces, up to two for most, three for the heaviest [-]; friction (3).

    Parameters
    ----------
    mass : float
        Of the piece. [kg]

    References
    ----------
    Rule of thumb of the trade; the masses between its steps are our own choice.
    """
    return 1.0 if mass < 60.0 else 1.5 if mass < 150.0 else 2.0 if mass < 400.0 else 3.0  # (3)


def passed_by_fork(friction: float, turn: float) -> float:
    """Share of the tension a rope keeps over a natural fork [-]; docs/methods.md, friction (4).

    Parameters
    ----------
    friction : float
        Of rope on bark. [-]
    turn : float
        Angle it turns through. [rad]

    References
    ----------
    Capstan equation.
    """
    return math.exp(-friction * turn)  # (4)
