"""What changed between two plan documents, place by place, with the words of their declarations."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import is_dataclass
from functools import cache
from typing import Any, NamedTuple, get_args, get_origin, get_type_hints

from treecore.document.fields import specs, to_si, unit_of
from treecore.document.whole import PlanDocument

_NAMES = ("name", "role", "hazard", "quantity", "member")  # by which an entry of a list is called


class Changed(NamedTuple):
    """A value that differs: the way to it in words, how it is shown (a key of ``treecore.units``, or nothing), and what
    it was and is [SI]; None where it is not there.
    """

    path: tuple[str, ...]
    dimension: str
    old: Any
    new: Any


@cache
def _types(entry: Any) -> dict[str, Any]:
    return dict(get_type_hints(entry).items())


def _inner(hint: Any) -> tuple[Any, bool]:
    """The declaration inside a type, and whether it is a list of them; None where it is a plain value."""
    parts = [part for part in get_args(hint) if part is not type(None)]
    if get_origin(hint) is tuple and parts and is_dataclass(parts[0]):
        return parts[0], True
    if is_dataclass(hint):
        return hint, False
    found = next((part for part in parts if is_dataclass(part)), None)
    return found, False


def changes(old: Mapping[str, Any], new: Mapping[str, Any]) -> list[Changed]:
    """Return everything in which two documents of the newest version differ.

    Parameters
    ----------
    old, new : mapping
        As ``treecore.document.codec.encode`` writes them.
    """
    return list(_entry(PlanDocument, old, new, ()))


def _entry(entry: Any, old: Mapping[str, Any], new: Mapping[str, Any], path: tuple[str, ...]) -> Iterator[Changed]:
    for key, spec in specs(entry).items():
        was, now = old.get(key), new.get(key)
        if was == now or key == "id":
            continue
        inner, many = _inner(_types(entry)[key])
        here = (*path, spec.label or key.replace("_", " "))
        if inner is None:
            yield Changed(here, spec.dimension, _si(key, was), _si(key, now))
        elif many:
            yield from _list(inner, was or (), now or (), path if key == "trees" else here)
        elif was is None or now is None:
            yield Changed(here, "", None if was is None else _called(was), None if now is None else _called(now))
        else:
            yield from _entry(inner, was, now, here)


def _list(
    entry: Any, old: Sequence[Mapping[str, Any]], new: Sequence[Mapping[str, Any]], path: tuple[str, ...]
) -> Iterator[Changed]:
    """Entries of a list by the names that stay with them, by their place where they have none."""
    was, now = (_by_name(rows) for rows in (old, new))
    for name, (number, row) in now.items():
        here = (*path, f"{number}, {_called(row)}" if _called(row) else str(number))
        if name not in was:
            yield Changed(here, "", None, _called(row) or str(number))
        elif was[name][1] != row:
            yield from _entry(entry, was[name][1], row, here)
    for name, (number, row) in was.items():
        if name not in now:
            yield Changed((*path, f"{number}, {_called(row)}"), "", _called(row) or str(number), None)
    if set(was) == set(now) and list(was) != list(now):
        before, after = (", ".join(str(was[name][0]) for name in order) for order in (was, now))
        yield Changed((*path, "order"), "", before, after)


def _by_name(rows: Sequence[Mapping[str, Any]]) -> dict[str, tuple[int, Mapping[str, Any]]]:
    return {str(row.get("id") or row.get("name") or number): (number, row) for number, row in enumerate(rows, start=1)}


def _called(row: Mapping[str, Any]) -> str:
    return next((str(row[name]) for name in _NAMES if row.get(name)), "")


def _si(key: str, value: Any) -> Any:
    number = isinstance(value, int | float) and not isinstance(value, bool)
    return to_si(key, value) if number and unit_of(key) else value
