"""Reading what people type: numbers with commas, fractions, feet and inches, and the units in common use."""

from __future__ import annotations

import math
import re
from typing import NamedTuple

from treecore.units import FOOT, GRAVITY, INCH, POUND, POUND_FORCE, SYSTEMS, US, unit

_LENGTHS = {"mm": 0.001, "cm": 0.01, "m": 1.0, "in": INCH, "ft": FOOT, "yd": 3.0 * FOOT}
_MASSES = {"g": 0.001, "kg": 1.0, "t": 1000.0, "lb": POUND, "short ton": 2000.0 * POUND, "long ton": 2240.0 * POUND}
_FORCES = {"n": 1.0, "dan": 10.0, "kn": 1000.0, "kgf": GRAVITY, "lbf": POUND_FORCE}
_MOMENTS = {"n·m": 1.0, "kn·m": 1000.0, "ft·lbf": FOOT * POUND_FORCE}
_SPEEDS = {"m/s": 1.0, "km/h": 1.0 / 3.6, "mph": 0.44704, "kn": 1852.0 / 3600.0}
_DEGREE = math.pi / 180.0
# What may be typed in a field whatever units it shows, by kind of quantity.
_KINDS: dict[str, dict[str, float]] = {
    **dict.fromkeys(("length", "offset", "girth", "cut", "thin"), _LENGTHS),
    "mass": _MASSES,
    "force": _FORCES,
    "small_force": _FORCES,
    "moment": _MOMENTS,
    "speed": _SPEEDS,
    "angle": {"°": _DEGREE, "rad": 1.0},
    "fine_angle": {"°": _DEGREE, "rad": 1.0},
    "share": {"%": 0.01},
    "density": {"kg/m3": 1.0, "lb/ft3": POUND / FOOT**3},
    "strength": {"pa": 1.0, "kpa": 1e3, "mpa": 1e6, "n/mm2": 1e6, "gpa": 1e9, "psi": POUND_FORCE / INCH**2},
}
_KINDS["fine_strength"] = _KINDS["stiffness"] = _KINDS["strength"]
_SAME = {
    "millimetre": "mm", "millimeter": "mm", "centimetre": "cm", "centimeter": "cm", "metre": "m", "meter": "m",
    "metres": "m", "meters": "m",
    '"': "in", "inch": "in", "inches": "in", "'": "ft", "foot": "ft", "feet": "ft", "yard": "yd", "yards": "yd",
    "kilo": "kg", "kilos": "kg", "kilogram": "kg", "kilograms": "kg", "kgs": "kg", "lbs": "lb", "pound": "lb",
    "pounds": "lb",
    "tonne": "t", "tonnes": "t", "metric ton": "t", "metric tons": "t", "short tons": "short ton",
    "us ton": "short ton", "us tons": "short ton",
    "long tons": "long ton", "imperial ton": "long ton", "newton": "n", "newtons": "n", "kilonewton": "kn",
    "kp": "kgf", "lb-f": "lbf",
    "nm": "n·m", "n m": "n·m", "knm": "kn·m", "kn m": "kn·m", "ftlbf": "ft·lbf", "ft lbf": "ft·lbf", "ft-lb": "ft·lbf",
    "ft lb": "ft·lbf",
    "ms": "m/s", "kmh": "km/h", "kph": "km/h", "km/hr": "km/h", "mi/h": "mph", "kt": "kn", "knot": "kn", "knots": "kn",
    "deg": "°", "degree": "°", "degrees": "°", "percent": "%", "kg/m³": "kg/m3", "lb/ft³": "lb/ft3", "n/mm²": "n/mm2",
}  # fmt: skip
_QUOTES = str.maketrans(
    {"’": "'", "‘": "'", "′": "'", "´": "'", "`": "'", "”": '"', "“": '"', "″": '"', "−": "-", "–": "-"}
)
_SPACES = str.maketrans(dict.fromkeys("\u00a0\u202f\u2009\t", " "))
_PARTS = {"½": "1/2", "⅓": "1/3", "⅔": "2/3", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
_MIXED = r"(?:(?:\d+ +)?\d+ *\/ *\d+)"
_PLAIN = r"(?:\d{1,3}(?: \d{3})+(?:[.,]\d+)?|\d[\d.,]*(?:e[-+]?\d+)?|[.,]\d+)"
_ONE = re.compile(rf"^(-|\+)?({_MIXED}|{_PLAIN}) *(.*)$", re.IGNORECASE)
_FEET = re.compile(
    rf"^(-|\+)?(\d+(?:\.\d+)?) *(?:'|ft\.?|feet|foot) *({_MIXED}|\d+(?:\.\d+)?) *(?:\"|''|in\.?|inch|inches)?$",
    re.IGNORECASE,
)
# The sixteen points of the compass, from north by east.
_POINTS = ("n", "nne", "ne", "ene", "e", "ese", "se", "sse", "s", "ssw", "sw", "wsw", "w", "wnw", "nw", "nnw")
_QUADRANT = re.compile(r"^([ns]) *(\d+(?:\.\d+)?) *°? *([ew])$", re.IGNORECASE)


class Read(NamedTuple):
    """What was understood: the number as typed, the word of its unit, the value [SI]."""

    number: float
    unit: str
    value: float


def parse(text: str, dimension: str, system: str) -> float:
    """Read what a person typed, with or without a unit [SI].

    Parameters
    ----------
    text : str
        For instance ``24.5``, ``1,200 lb``, ``24,5``, ``7' 6 1/2"``, ``5 ft 6``, ``½``, ``62 cm``, ``1.2 t``,
        ``N45E``, ``SSW``, ``8 %``.
    dimension, system : str
        Kind of quantity, and the unit meant where none is typed.

    Raises
    ------
    ValueError
        If it is no number, may be two, or its unit does not fit; says what to write instead.
    """
    return read(text, dimension, system).value


def read(text: str, dimension: str, system: str) -> Read:
    """Read what a person typed, and say what was understood.

    Parameters
    ----------
    text : str
        As for ``parse``.
    dimension, system : str
        As for ``parse``.

    Raises
    ------
    ValueError
        As for ``parse``.
    """
    plain = _plain(text)
    lengths, angles = dimension in ("length", "offset", "girth", "cut", "thin"), dimension in ("angle", "fine_angle")
    feet = _FEET.match(plain) if lengths else None
    if feet:
        return _feet_and_inches(feet, text)
    if angles and plain.lower() in _POINTS:
        degrees = 22.5 * _POINTS.index(plain.lower())
        return Read(degrees, "°", degrees * _DEGREE)
    quadrant = _QUADRANT.match(plain) if angles else None
    if quadrant:
        return _quadrant(quadrant, text)
    found = _ONE.match(plain)
    if not found:
        msg = f"“{text.strip()}” is not a number."
        raise ValueError(msg)
    number = _number(found[2], text, system) * (-1.0 if found[1] == "-" else 1.0)
    if not math.isfinite(number):
        msg = f"“{text.strip()}” is not a number."
        raise ValueError(msg)
    word = found[3].strip().lower()
    if angles and word in ("%", "percent"):
        return Read(number, "%", math.atan(number / 100.0))
    factor = _factor(word, dimension, system)
    return Read(number, word or unit(dimension, system).symbol, float(number * factor))


def _plain(text: str) -> str:
    """The same in one kind of quotes, spaces and fractions."""
    plain = text.translate(_QUOTES).translate(_SPACES).replace("''", '"')
    for sign, words in _PARTS.items():
        plain = plain.replace(sign, f" {words}")
    return " ".join(plain.split())


def _feet_and_inches(found: re.Match[str], text: str) -> Read:
    inches = _fraction(found[3])
    if inches >= 12.0:
        msg = f"“{text.strip()}”: inches beside feet go up to 11."
        raise ValueError(msg)
    feet = (float(found[2]) + inches / 12.0) * (-1.0 if found[1] == "-" else 1.0)
    return Read(feet, "ft", feet * FOOT)


def _quadrant(found: re.Match[str], text: str) -> Read:
    """A bearing counted from north or south towards east or west."""
    turn = float(found[2])
    if turn > 90.0:
        msg = f"“{text.strip()}”: from north or south it is 90° at most to east or west."
        raise ValueError(msg)
    east = found[3].lower() == "e"
    degrees = (turn if east else -turn) if found[1].lower() == "n" else (180.0 - turn if east else 180.0 + turn)
    degrees %= 360.0
    return Read(degrees, "°", degrees * _DEGREE)


def _fraction(words: str) -> float:
    """A decimal, a fraction, or a whole number with one."""
    if "/" not in words:
        return float(words)
    joined = re.sub(r" */ *", "/", words.strip())
    whole, _, part = joined.rpartition(" ")
    top, bottom = (float(v) for v in part.split("/"))
    if bottom == 0.0:
        msg = f"“{words.strip()}” divides by nothing."
        raise ValueError(msg)
    return (float(whole) if whole else 0.0) + top / bottom


def _number(words: str, text: str, system: str) -> float:
    """A number with its commas and points told apart; one that may be two is asked about."""
    if "/" in words:
        return _fraction(words)
    digits = words.replace(" ", "")
    commas, points = digits.count(","), digits.count(".")
    if commas and points:
        last = max(digits.rfind(","), digits.rfind("."))
        whole, part = re.sub(r"[.,]", "", digits[:last]), digits[last + 1 :]
        grouped = re.fullmatch(r"\d{1,3}(?:[.,]\d{3})+", digits[:last])
        if not grouped or (min(commas, points) > 1 and max(commas, points) > 1) or digits[last] in digits[:last]:
            msg = f"“{text.strip()}” is not a number."
            raise ValueError(msg)
        return float(f"{whole}.{part}")
    if commas == 1 and re.fullmatch(r"[1-9]\d{0,2},\d{3}", digits):
        if system == US:
            return float(digits.replace(",", ""))
        plain, split = digits.replace(",", ""), f"{float(digits.replace(',', '.')):g}"
        msg = f"“{text.strip()}” may be {plain} or {split}: write one of them."
        raise ValueError(msg)
    if commas > 1 or points > 1:
        sign = "," if commas else "."
        if not re.fullmatch(rf"\d{{1,3}}(?:{re.escape(sign)}\d{{3}})+", digits):
            msg = f"“{text.strip()}” is not a number."
            raise ValueError(msg)
        return float(digits.replace(sign, ""))
    return float(digits.replace(",", "."))


def _factor(word: str, dimension: str, system: str) -> float:
    shown = unit(dimension, system)
    if not word:
        return float(shown.factor)
    known = _KINDS.get(dimension, {})
    name = _SAME.get(word.rstrip("."), word.rstrip("."))
    if dimension in ("force", "small_force") and name == "lb":
        name = "lbf"  # pounds in a field of force are pounds of force
    if name in ("ton", "tons") and dimension == "mass":
        msg = "A ton may be short (907 kg), long (1016 kg) or metric (1000 kg): write short ton, long ton or t."
        raise ValueError(msg)
    if name in known:
        return known[name]
    for candidate in (unit(dimension, s) for s in SYSTEMS):
        if word in candidate.words or word == candidate.symbol.lower():
            return float(candidate.factor)
    msg = f"The unit “{word}” does not fit here; use {shown.symbol}."
    raise ValueError(msg)
