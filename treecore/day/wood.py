"""The wood of a tree that is down: logs to length, chip, loads, energy."""

from __future__ import annotations

import math
from typing import NamedTuple

from treecore.errors import between
from treecore.estimate import Estimate, Kind, times
from treecore.schools import constant


class Wood(NamedTuple):
    """What a tree comes to: how many logs of a length [-], their mass [kg] and solid volume [m3]; chip's mass [kg] and
    loose volume [m3]; loads of a truck [-]; energy of what is burnt [kWh].
    """

    logs: int
    log_mass: Estimate
    log_volume: Estimate
    chip_mass: Estimate
    chip_volume: Estimate
    loads: int
    energy: Estimate


class Truck(NamedTuple):
    """What carries it away: loose volume [m3] and mass [kg] it takes."""

    volume: float = 12.0
    mass: float = 3500.0


def wood_of(
    mass: Estimate, chip_share: float, density: Estimate, thick: float, log_length: float, truck: Truck = Truck()
) -> Wood:
    """Return what a tree's wood comes to; docs/methods.md, day (10).

    Parameters
    ----------
    mass : Estimate
        Of all that is taken off. [kg]
    chip_share : float
        Of it that a chipper takes. [-]
    density : Estimate
        Green. [kg/m3]
    thick : float
        Length of all wood too thick to chip. [m]
    log_length : float
        Of a log. [m]
    truck : Truck
        What carries it away: volume [m3], mass [kg].

    Raises
    ------
    OutOfRange
        On a length no log has, a truck that takes nothing.
    """
    between("log_length", log_length, 0.1, 20.0, "logs are 10 cm to 20 m long", "length")
    between("load_volume", truck.volume, 0.1, 200.0, "trucks take 0.1 to 200 m³", "volume")
    between("load_mass", truck.mass, 50.0, 60000.0, "trucks take 50 kg to 60 t", "mass")
    between("chip_share", chip_share, 0.0, 1.0, "a share lies between none and all")
    chip, logs = times(mass, chip_share), times(mass, 1.0 - chip_share)
    bulk, energy = constant("chip_bulk"), constant("green_energy")
    volume = over(logs, density)
    loose = over(chip, bulk)
    # Whichever is full first: logs stacked take about one and a half times their solid volume.
    by_volume = (loose.value + 1.5 * volume.value) / truck.volume
    loads = math.ceil(max(by_volume, mass.value / truck.mass) - 1e-9)
    burnt = Estimate(mass.value * energy.value, mass.low * energy.low, mass.high * energy.high, Kind.ESTIMATED)
    return Wood(math.ceil(thick / log_length - 1e-9), logs, volume, chip, loose, loads, burnt)


def over(mass: Estimate, density: Estimate) -> Estimate:
    """Return the volume of a mass, the ends of both against one another [m3].

    Parameters
    ----------
    mass, density : Estimate
        Of it [kg], and how heavy it lies [kg/m3].
    """
    return Estimate(mass.value / density.value, mass.low / density.high, mass.high / density.low, Kind.ESTIMATED)
