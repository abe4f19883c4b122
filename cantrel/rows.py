"""Rows of the database to entries of the plan document and back, column by column as the declarations name them."""

from __future__ import annotations

from dataclasses import is_dataclass
from datetime import date
from functools import cache
from secrets import token_hex
from typing import TYPE_CHECKING, Any, get_type_hints

from treecore.document.fields import bare, from_si, specs, to_si, unit_of

if TYPE_CHECKING:
    from collections.abc import Iterator


def plain_type(hint: Any) -> Any:
    """Type of a declared field without the None of one that may be left out."""
    left = [part for part in getattr(hint, "__args__", ()) if part is not type(None)]
    return left[0] if len(left) == 1 and type(None) in getattr(hint, "__args__", ()) else hint


@cache
def types(entry: Any) -> dict[str, Any]:
    """Type of every field of an entry, by key: worked out of its declaration once."""
    return {key: plain_type(hint) for key, hint in get_type_hints(entry).items()}


def declaring_of(entry: Any, path: tuple[Any, ...]) -> Any:
    """Declaration that the last key of a path belongs to."""
    for key in path[:-1]:
        entry = types(entry)[key]
    return entry


@cache
def paths(entry: Any) -> tuple[tuple[tuple[str, ...], str], ...]:
    """Where rows keep every field of an entry: its path of keys, and the column; entries inside it among them."""
    return tuple(_paths(entry))


def _paths(entry: Any, before: Any = "") -> Iterator[Any]:
    for key, spec in specs(entry).items():
        column = bare(key) if spec.column is None else spec.column
        if not column:
            continue
        inner = types(entry)[key]
        if is_dataclass(inner) and column.endswith("*"):
            yield from (((key, *path), name) for path, name in _paths(inner, before + column.removesuffix("*")))
        else:
            yield (key,), column.removeprefix("/") if column.startswith("/") else before + column


def entry_of(row: Any, entry: Any) -> dict[str, Any]:
    """The document's entry of a row; what a row does not know is left out."""
    found: dict[str, Any] = {}
    for path, column in paths(entry):
        value = getattr(row, column, None)
        if value is None:
            continue
        inside = found
        for key in path[:-1]:
            inside = inside.setdefault(key, {})
        inside[path[-1]] = _written(path[-1], value)
    return found


def columns_of(written: dict[str, Any], entry: Any) -> dict[str, Any]:
    """Values by column, SI, of a document's entry; what it leaves out is left out."""
    found = {}
    for path, column in paths(entry):
        value: Any = written
        for key in path:
            value = value.get(key) if isinstance(value, dict) else None
        if value is not None:
            number = isinstance(value, int | float) and not isinstance(value, bool) and unit_of(path[-1])
            found[column] = to_si(path[-1], value) if number else value
    return found


def put(row: Any, written: dict[str, Any], entry: Any) -> Any:
    """Put a document's entry on a row; columns the row does not have are passed over."""
    for column, value in columns_of(written, entry).items():
        if hasattr(row, column):
            setattr(row, column, value)
    return row


def new_id(letter: str) -> str:
    """A name for a new entry of a list that stays with it: never all digits, so that no place is taken for one."""
    return f"{letter}{token_hex(4)}"


def named(kind: str, row: Any) -> dict[str, str]:
    """Name that an entry of a row keeps: every kind has its own, so that none is taken for another's."""
    return {"id": f"{kind}-{row.pk}"} if row.pk else {}


def plain_date(value: Any) -> Any:
    """A value as JSON holds it: dates and times written out."""
    return value.isoformat() if isinstance(value, date) else value


def _written(key: str, value: Any) -> Any:
    return from_si(key, value) if isinstance(value, float) else plain_date(value)
