"""Friction: what a block, a fork and the wraps of a device leave of a tension."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np

from treecore.document.fields import hold
from treecore.document.gear import DeviceReadingEntry
from treecore.errors import Column, NotSolvable, between, positive
from treecore.estimate import Estimate, Kind
from treecore.schools import constant
from treecore.tables import rows


@dataclass(frozen=True, slots=True)
class Setting:
    """One setting of a device that has settings instead of wraps: its number, name, turns of a bollard it holds like
    [-].
    """

    number: int
    name: str
    turns: Estimate


@dataclass(frozen=True, slots=True)
class Device:
    """A friction device: friction of rope on it [-], wraps it counts as by itself [-], most wraps it takes [-].

    One with ``settings`` holds by its setting and takes no wraps.
    """

    key: str
    name: str
    friction: Estimate
    base: Estimate
    most: float
    source: str
    settings: tuple[Setting, ...] = ()

    def turns(self, wraps: float, setting: int = 1) -> Estimate:
        """Whole turns the rope is held by [-]: the wraps and what the device counts as, or its setting.

        Parameters
        ----------
        wraps : float
            Taken on it. [-]
        setting : int
            Which, on a device with settings.

        Raises
        ------
        NotSolvable
            On a setting it has not got.
        """
        if self.settings:
            for one in self.settings:
                if one.number == setting:
                    return one.turns
            raise NotSolvable(
                what="setting",
                why="{name} has the settings 1 to {settings}",
                name=self.name.lower(),
                settings=len(self.settings),
            )
        return Estimate(wraps + self.base.value, wraps + self.base.low, wraps + self.base.high, Kind.ASSUMED)


@cache
def devices() -> dict[str, Device]:
    """Return the devices by key."""
    settings: dict[str, list[Setting]] = {}
    for r in rows("device_settings", "device"):
        turns = Estimate(float(r["turns"]), float(r["low"]), float(r["high"]), Kind.ASSUMED)
        settings.setdefault(r["device"], []).append(Setting(int(r["setting"]), r["name"], turns))
    return {
        r["key"]: Device(
            key=r["key"],
            name=r["name"],
            friction=_assumed(r, "mu"),
            base=_assumed(r, "base"),
            most=float(r["most"]),
            source=r["source"],
            settings=tuple(settings.get(r["key"], ())),
        )
        for r in rows("devices")
    }


def _assumed(row: dict[str, str], name: str) -> Estimate:
    return Estimate(float(row[name]), float(row[f"{name}_low"]), float(row[f"{name}_high"]), Kind.ASSUMED)


@dataclass(frozen=True, slots=True)
class Reading:
    """What a crew read off its own device: a known load [N] that just creeps over wraps [-] against a force at the
    hand [N].
    """

    load: float
    wraps: float
    hand: float

    def __post_init__(self) -> None:
        """Refuse what shows no friction."""
        hold(self, DeviceReadingEntry)
        if self.hand >= self.load:
            raise NotSolvable(what="hand", why="the hand holds more than the load: nothing is left for the device")


def measured_friction(readings: Sequence[Reading]) -> Estimate | None:
    """Friction of a crew's own rope on its own device, by its readings [-]; None without any; docs/methods.md,
    friction (6).

    Parameters
    ----------
    readings : sequence of Reading
        Known weight, wraps or turns, force at the hand.

    References
    ----------
    Inverse of (1) for each reading with the allowance for reading it; the mean of several, their spread by Student's t
    (JCGM 100:2008, 4.2 and G.3).
    """
    if not readings:
        return None
    each = [math.log(r.load / r.hand) / (math.tau * r.wraps) for r in readings]
    value, n = sum(each) / len(each), len(each)
    scale, grip = constant("weight_reading"), constant("grip_reading")
    # The hand and the scale are the same in every reading: their allowance does not shrink with the number.
    shared = math.hypot(math.log(scale.high), math.log(grip.high))
    allowance = shared / math.tau * sum(1.0 / r.wraps for r in readings) / n
    spread = math.sqrt(sum((v - value) ** 2 for v in each) / (n - 1)) * student(n - 1) / math.sqrt(n) if n > 1 else 0.0
    half = math.hypot(allowance, spread)
    return Estimate(value, max(value - half, 0.2 * value), value + half, Kind.MEASURED)  # (6)


_STUDENT = (12.71, 4.30, 3.18, 2.78, 2.57, 2.45, 2.36, 2.31, 2.26)


def student(freedom: int) -> float:
    """Student's t for 95 % between both ends [-].

    Parameters
    ----------
    freedom : int
        Degrees of freedom, 1 and more.

    References
    ----------
    JCGM 100:2008, table G.2; two beyond nine degrees errs by a tenth at most.
    """
    return _STUDENT[freedom - 1] if freedom <= len(_STUDENT) else 2.23


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
        raise NotSolvable(what="friction", why="without friction no wraps hold")
    return math.log(load / hand) / (math.tau * friction)  # (2)


def rule_of_thumb(mass: float) -> float:
    """Wraps by the trade's rule: about one for light pieces, up to two for most, three for the heaviest [-];
    friction (3).

    Parameters
    ----------
    mass : float
        Of the piece. [kg]

    References
    ----------
    Rule of thumb of the trade; the masses between its steps are our own choice.
    """
    return 1.0 if mass < 60.0 else 1.5 if mass < 150.0 else 2.0 if mass < 400.0 else 3.0  # (3)


def fork_tension_ratio(friction: Column, turn: float) -> Column:
    """Share of the tension a rope keeps over a natural fork [-]; docs/methods.md, friction (4).

    Parameters
    ----------
    friction : Column
        Of rope on bark. [-]
    turn : float
        Angle it turns through. [rad]

    References
    ----------
    Capstan equation.
    """
    found: Column = np.exp(-np.asarray(friction) * turn)
    return found  # (4)
