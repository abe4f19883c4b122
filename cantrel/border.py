"""The border: what a browser sends besides forms is read here; what is no number, place, word or row of ours is a 400
or a 404 that changes nothing.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.core.exceptions import BadRequest
from django.http import Http404

from cantrel.converters import DIGITS
from treecore.errors import BadDocument
from treecore.formats.reading import read_json

if TYPE_CHECKING:
    from collections.abc import Mapping

    from django.http import QueryDict

MOST_JSON = 1_000_000  # characters; the fullest rig a page sends has some ten thousand


class Unreadable(BadRequest):
    """What a page's script sent is no number, place or word of ours; nothing was changed by it."""


def word(data: QueryDict, name: str) -> str:
    """A word a script sent."""
    if name not in data:
        raise Unreadable(name)
    return data[name]


def finite(text: float | str) -> float:
    """A finite number of a text."""
    try:
        number = float(text)
    except (TypeError, ValueError):
        raise Unreadable(str(text)) from None
    if not math.isfinite(number):
        raise Unreadable(str(text))
    return number


def number(data: QueryDict, name: str) -> float:
    """A finite number a script sent."""
    return finite(word(data, name))


def digits(text: str | None, most: int = DIGITS) -> int | None:
    """A whole number written in at most so many plain digits; nothing where it is none."""
    if text is None or not (text.isascii() and text.isdigit() and len(text) <= most):
        return None
    return int(text)


def count(data: QueryDict, name: str) -> int:
    """A whole number from nought a script sent."""
    found = digits(word(data, name), 6)
    if found is None:
        raise Unreadable(name)
    return found


def metres(text: str, x: str, y: str) -> tuple[float, float]:
    """Metres of a picture point, by the text of the frame it was drawn with."""
    frame = [finite(part) for part in text.split(",")]
    if len(frame) != 3 or not frame[2]:
        raise Unreadable(text)
    x0, y0, scale = frame
    found = (finite(x) - x0) / scale, (y0 - finite(y)) / scale
    return finite(found[0]), finite(found[1])


def place(data: QueryDict, x: str = "x", y: str = "y") -> tuple[float, float]:
    """Metres of the place a script sent, on the drawing it was put on."""
    return metres(word(data, "frame"), word(data, x), word(data, y))


def row_id(text: str | None) -> int:
    """The id of a row; not found where no row can have it."""
    found = digits(text)
    if found is None:
        raise Http404(text)
    return found


def whole_number(text: str | None, low: int, high: int) -> int | None:
    """A whole number held between two ends; nothing where it is none."""
    plain = (text or "").strip()
    found = digits(plain.removeprefix("-"))
    if found is None:
        return None
    return min(max(-found if plain.startswith("-") else found, low), high)


def plain(data: QueryDict | Mapping[str, str], name: str) -> Any:
    """What a script sent as JSON."""
    text = data.get(name, "")
    if len(text) > MOST_JSON:
        raise Unreadable(name)
    try:
        return read_json(text, name)
    except BadDocument as error:
        raise Unreadable(str(error)) from None


def points(data: QueryDict, name: str) -> list[list[float]]:
    """Places a script sent, each of two finite numbers."""
    found = plain(data, name)
    if not isinstance(found, list) or not all(isinstance(p, list) and len(p) == 2 for p in found):
        raise Unreadable(name)
    return [[_said(value) for value in p] for p in found]


def _said(value: Any) -> float:
    """A number of JSON; true and words that read like one are none."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise Unreadable(str(value))
    return finite(value)
