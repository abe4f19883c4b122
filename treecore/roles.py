"""Roles a plan uses, from ``data/roles.csv``, and whether somebody is named for each."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import NamedTuple

from treecore.tables import rows


class RoleKind(NamedTuple):
    """One role: its name, the words people write it with, and what in a plan asks for it."""

    key: str
    name: str
    words: tuple[str, ...]
    when: str


@cache
def role_kinds() -> tuple[RoleKind, ...]:
    """Return every role."""
    return tuple(RoleKind(r["key"], r["name"], tuple(r["words"].split()), r["when"]) for r in rows("roles"))


def unfilled(uses: Iterable[str], named: Iterable[tuple[str, str]]) -> tuple[RoleKind, ...]:
    """Roles a plan uses that nobody is named for.

    Parameters
    ----------
    uses : iterable of str
        What the plan has that asks for a role: always, pull, guy, climb, lower.
    named : iterable of tuple
        Role as it was written, and who.
    """
    asked, written = set(uses), [role.lower() for role, name in named if name.strip()]
    return tuple(
        kind
        for kind in role_kinds()
        if kind.when in asked and not any(word in role for role in written for word in kind.words)
    )
