"""Units: SI inside, metric or US customary outside. The one place that converts and rounds for display."""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

METRIC, US = "metric", "us"
SYSTEMS = (METRIC, US)


@dataclass(frozen=True, slots=True)
class Unit:
    """A display unit: ``SI value = shown value * factor``; ``decimals`` for results."""

    symbol: str
    factor: float
    decimals: int
    words: tuple[str, ...] = ()


# Exact factors by definition: international inch, foot and pound (NIST SP 811, appendix B).
INCH, FOOT, POUND, GRAVITY = 0.0254, 0.3048, 0.45359237, 9.80665
POUND_FORCE = POUND * GRAVITY
_DEGREE = math.pi / 180.0

_CM = Unit("cm", 0.01, 1, ("cm", "centimetre", "centimeter"))
_M = Unit("m", 1.0, 2, ("m", "metre", "meter"))
_MM = Unit("mm", 0.001, 0, ("mm", "millimetre", "millimeter"))
_IN = Unit("in", INCH, 1, ("in", "inch", "inches", '"', "″"))
_FT = Unit("ft", FOOT, 1, ("ft", "foot", "feet", "'", "′"))
_DEG = Unit("°", _DEGREE, 0, ("deg", "°", "degree", "degrees"))

DIMENSIONS: dict[str, dict[str, Unit]] = {
    "length": {METRIC: Unit("m", 1.0, 1, _M.words), US: Unit("ft", FOOT, 0, _FT.words)},
    "offset": {METRIC: _M, US: _FT},
    "girth": {METRIC: _CM, US: _IN},
    "cut": {METRIC: _CM, US: Unit("in", INCH, 2, _IN.words)},
    "thin": {METRIC: Unit("mm", 0.001, 1, _MM.words), US: Unit("in", INCH, 2, _IN.words)},
    "mass": {
        METRIC: Unit("kg", 1.0, 0, ("kg", "kilogram")),
        US: Unit("lb", POUND, 0, ("lb", "lbs", "pound", "pounds")),
    },
    "force": {METRIC: Unit("kN", 1000.0, 1, ("kn",)), US: Unit("lbf", POUND_FORCE, 0, ("lbf",))},
    "small_force": {METRIC: Unit("N", 1.0, 0, ("n",)), US: Unit("lbf", POUND_FORCE, 0, ("lbf",))},
    "moment": {
        METRIC: Unit("kN·m", 1000.0, 1, ("knm", "kn·m")),
        US: Unit("ft·lbf", FOOT * POUND_FORCE, 0, ("ft·lbf", "ftlbf")),
    },
    "inertia": {METRIC: Unit("t·m²", 1000.0, 1), US: Unit("ton·ft²", 2000.0 * POUND * FOOT**2, 0)},
    "line_mass": {METRIC: Unit("kg/m", 1.0, 0, ("kg/m",)), US: Unit("lb/ft", POUND / FOOT, 0, ("lb/ft",))},
    "stiffness": {METRIC: Unit("GPa", 1e9, 1, ("gpa",)), US: Unit("Mpsi", 1e6 * POUND_FORCE / INCH**2, 2, ("mpsi",))},
    "voltage": {METRIC: Unit("kV", 1000.0, 1, ("kv",)), US: Unit("kV", 1000.0, 1, ("kv",))},
    "angle": {METRIC: _DEG, US: _DEG},
    "fine_angle": {METRIC: Unit("°", _DEGREE, 1, _DEG.words), US: Unit("°", _DEGREE, 1, _DEG.words)},
    "speed": {METRIC: Unit("m/s", 1.0, 1, ("m/s",)), US: Unit("mph", 0.44704, 0, ("mph",))},
    "density": {
        METRIC: Unit("kg/m³", 1.0, 0, ("kg/m3", "kg/m³")),
        US: Unit("lb/ft³", POUND / FOOT**3, 0, ("lb/ft3", "lb/ft³")),
    },
    "strength": {
        METRIC: Unit("MPa", 1e6, 0, ("mpa",)),
        US: Unit("psi", POUND_FORCE / INCH**2, 0, ("psi",)),
    },
    "fine_strength": {METRIC: Unit("MPa", 1e6, 1, ("mpa",)), US: Unit("psi", POUND_FORCE / INCH**2, 0, ("psi",))},
    "time": {METRIC: Unit("s", 1.0, 1, ("s",)), US: Unit("s", 1.0, 1, ("s",))},
    "energy": {METRIC: Unit("kJ", 1000.0, 0, ("kj",)), US: Unit("ft·lbf", FOOT * POUND_FORCE, 0, ("ft·lbf",))},
    "volume": {METRIC: Unit("m³", 1.0, 3, ("m3", "m³")), US: Unit("ft³", FOOT**3, 1, ("ft3", "ft³"))},
    "area": {METRIC: Unit("m²", 1.0, 0, ("m2", "m²")), US: Unit("ft²", FOOT**2, 0, ("ft2", "ft²"))},
    "share": {METRIC: Unit("%", 0.01, 0, ("%",)), US: Unit("%", 0.01, 0, ("%",))},
    "count": {METRIC: Unit("", 1.0, 0), US: Unit("", 1.0, 0)},
    "ratio": {METRIC: Unit("", 1.0, 2), US: Unit("", 1.0, 2)},
}
SI_UNITS = {
    "length": "m", "offset": "m", "girth": "m", "cut": "m", "thin": "m", "mass": "kg", "force": "N",
    "small_force": "N", "moment": "N·m", "inertia": "kg·m2", "line_mass": "kg/m", "stiffness": "Pa", "voltage": "V",
    "angle": "rad",
    "fine_angle": "rad", "speed": "m/s", "density": "kg/m3", "strength": "Pa", "time": "s", "energy": "J",
    "volume": "m3", "fine_strength": "Pa", "area": "m2", "share": "1", "count": "1",
    "ratio": "1",
}  # fmt: skip


def unit(dimension: str, system: str) -> Unit:
    """Return the display unit of a dimension.

    Parameters
    ----------
    dimension : str
        Key of ``DIMENSIONS``.
    system : str
        ``metric`` or ``us``.
    """
    return DIMENSIONS[dimension][system]


def show(value: float, dimension: str, system: str, more: int = 0) -> str:
    """Round an SI value for display, without its unit.

    Parameters
    ----------
    value : float
        Quantity. [SI]
    dimension, system : str
        As in ``unit``.
    more : int
        Digits beyond the usual, where two figures would read alike. [-]
    """
    shown = unit(dimension, system)
    number = value / shown.factor
    decimals = shown.decimals + more
    if dimension == "cut" and system == US:
        return _fraction_of_inches(number, more) or f"{number:.{decimals}f}".replace("-", "−")
    # Three figures say what an estimate knows; more would pretend.
    if shown.symbol in ("kg", "lb", "psi", "lbf", "ft·lbf") and abs(number) >= 1000:
        step = 10.0 ** (math.floor(math.log10(abs(number))) - 2 - more)
        number, decimals = round(number / step) * step, shown.decimals
    text = f"{number:,.{decimals}f}".replace(",", "\u00a0")
    return text.replace("-", "−") if float(f"{number:.{decimals}f}") != 0.0 else text.replace("-", "")


_SIXTEENTHS = 16  # saw cuts are marked and cut to a sixteenth of an inch at best


def _mixed(number: Fraction) -> str:
    """A whole number and a fraction beside it, each where there is one."""
    return " ".join(str(part) for part in divmod(number, 1) if part)


def _fraction_of_inches(number: float, more: int) -> str:
    """Inches as a tape shows them, to a sixteenth, finer where asked; empty where they are less than that and not
    nothing.
    """
    parts = _SIXTEENTHS * 2**more
    count = round(abs(number) * parts)
    if count == 0:
        return "0" if number == 0.0 else ""
    words = _mixed(Fraction(count, parts))
    return words if number > 0.0 else f"−{words}"


def _feet_and_inches(feet: float) -> str:
    """Feet with inches to a thirty-second, as a tape is read; empty where they are no such thing."""
    parts = abs(feet) * 12.0 * 2 * _SIXTEENTHS
    if abs(parts - round(parts)) > 1e-6:
        return ""
    whole, inches = divmod(Fraction(round(parts), 2 * _SIXTEENTHS), 12)
    return f"{'-' if feet < 0.0 else ''}{whole}' {_mixed(inches)}\""


def typed(value: float, dimension: str, system: str) -> str:
    """Return an SI value as a person would type it, without padding.

    A number typed in this unit (up to five decimals) comes back digit for digit, feet with inches as feet with inches
    where decimal feet would not say them; one that was typed in another unit is
    rounded one decimal finer than results are, and to three significant figures at least.

    Parameters
    ----------
    value : float
        Quantity. [SI]
    dimension, system : str
        As in ``unit``.
    """
    shown = unit(dimension, system)
    number = value / shown.factor
    decimals = 5
    if abs(number - round(number, decimals)) > 1e-9 * max(1.0, abs(number)):
        tape = _feet_and_inches(number) if shown.symbol == "ft" else ""
        if tape:
            return tape
        decimals = max(shown.decimals + 1, 2 - math.floor(math.log10(abs(number))))
    text = f"{number:.{decimals}f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
