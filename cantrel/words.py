"""Words of the core's own tables, said in the reader's language: the core itself knows none but its own."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping


def choices_of(rows: Iterable[Any]) -> list[tuple[Any, Any]]:
    """Rows of a table for a select: key and name."""
    return [(row.key, gettext_lazy(row.name)) for row in rows]


def choices_in(words: Mapping[str, str]) -> list[tuple[str, Any]]:
    """Words by key for a select; an empty one stays empty."""
    return [(key, gettext_lazy(name) if name else "") for key, name in words.items()]


def said(row: Any, *fields: str) -> Any:
    """A row of the core's, its words in the reader's language."""
    words = {name: gettext(getattr(row, name)) for name in fields}
    return row._replace(**words) if hasattr(row, "_replace") else replace(row, **words)
