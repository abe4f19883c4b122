"""The one way plain text becomes data: JSON whose numbers are measures, whose words can be stored, of few levels."""

from __future__ import annotations

import json
import math
import re
from typing import Any, NoReturn

from treecore.errors import BadDocument

DEEPEST = 40  # levels; the deepest place in a plan is the twelfth
LARGEST = 10**18  # of a whole number: what a row can hold
_NO_TEXT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff]")  # control characters, halves of a character


def read_json(text: str | bytes, what: str = "document") -> Any:
    """Read JSON.

    Parameters
    ----------
    text : str or bytes
        JSON, UTF-8 where it is bytes.
    what : str
        What an error that concerns the whole calls it.

    Raises
    ------
    BadDocument
        If it is no JSON, or holds what no plan holds: a number that is infinite or none or too long, a word with
        control characters, levels without end. Names the line or the path.

    References
    ----------
    RFC 8259; §9 lets a reader set limits to numbers, depth and characters.
    """
    try:
        found = json.loads(text, parse_constant=lambda name: _no_number(what, name))
    except json.JSONDecodeError as error:
        raise BadDocument(field=f"line {error.lineno}", why="not JSON: {msg}", msg=error.msg) from None
    except BadDocument:
        raise
    except UnicodeDecodeError:
        raise BadDocument(what, "its letters can't be read: save it in UTF-8") from None
    except ValueError:
        raise BadDocument(what, "it holds a number too long for any measure") from None
    except RecursionError:
        raise BadDocument(what, "it is nested deeper than any plan") from None
    hold_plain(found, what)
    return found


def _no_number(what: str, name: str) -> NoReturn:
    raise BadDocument(what, "{name} is no number a plan can hold", name=name)


def hold_plain(data: Any, what: str = "document") -> None:
    """Refuse plain data that holds what no plan holds.

    Parameters
    ----------
    data : object
        As JSON gives it.
    what : str
        What an error calls the whole.

    Raises
    ------
    BadDocument
        Naming the path.
    """
    waiting: list[tuple[tuple[str | int, ...], Any]] = [((), {"": data})]
    while waiting:
        path, rows = waiting.pop()
        for key, value in rows.items() if isinstance(rows, dict) else enumerate(rows):
            if isinstance(value, dict | list):
                inner = (*path, key)
                if len(inner) > DEEPEST:
                    raise BadDocument(what, "it is nested deeper than any plan")
                waiting.append((inner, value))
            why = _odd(value) or (_odd(key) if isinstance(key, str) else "")
            if why:
                where = path_said((*path, key)[1:])
                raise BadDocument(_NO_TEXT.sub("�", where) or what, why, name=value)


def _odd(value: Any) -> str:
    """Why a number or a text is none that a plan holds; nothing where it is."""
    if isinstance(value, float):
        return "" if math.isfinite(value) else "{name} is no number a plan can hold"
    if isinstance(value, str):
        return "it holds characters that are no text" if _NO_TEXT.search(value) else ""
    return "it holds a number too long for any measure" if isinstance(value, int) and abs(value) > LARGEST else ""


def without_nulls(data: Any) -> Any:
    """Return plain data without keys that hold nothing: what is null counts as left out.

    Parameters
    ----------
    data : object
        As JSON gives it, held against ``DEEPEST``.
    """
    if isinstance(data, dict):
        return {key: without_nulls(value) for key, value in data.items() if value is not None}
    return [without_nulls(value) for value in data] if isinstance(data, list) else data


def path_said(parts: tuple[str | int, ...]) -> str:
    """Return a path as errors write it.

    Parameters
    ----------
    parts : tuple of str or int
        Keys and places in lists.
    """
    return "".join(f"[{p}]" if isinstance(p, int) else f".{p}" for p in parts).lstrip(".")
