"""Set-ups of a takedown: a rigging named once and shared by the picks that are taken on it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from treecore.formats.plain import Entry

# What a set-up is: what hangs in the tree and stands on the ground, not how one piece is cut, tied or held.
SHARED = (
    "point", "redirect", "far_anchor", "sag", "device_kind", "device_at", "device_from_m", "rope", "knot", "sling",
    "sling_as", "block", "connector", "device", "base", "redirect_sling", "redirect_block", "design_school", "landing",
    "landing_m", "tag", "tag_from_m", "landing_on", "device_on", "tag_from_on", "device_from_on",
)  # fmt: skip


class SetUp(NamedTuple):
    """A set-up by its name: how many picks are taken on it, and the entry that says what it is."""

    name: str
    picks: int
    entry: Entry


def setups(entries: Sequence[Entry]) -> tuple[SetUp, ...]:
    """Return the set-ups of a list in the order they are first used.

    Parameters
    ----------
    entries : sequence of mapping
        Its picks.
    """
    names = [str(e.get("setup", "")) for e in entries]
    firsts = {name: entries[i] for i, name in reversed(list(enumerate(names))) if name}
    return tuple(SetUp(name, names.count(name), firsts[name]) for name in dict.fromkeys(names) if name)


def followed(before: Sequence[Entry], entries: Sequence[Entry]) -> list[dict[str, Any]]:
    """Return entries with what their set-ups make of a change: who joins one takes it over, who changes it, changes it
    for all.

    Parameters
    ----------
    before, entries : sequence of mapping
        Picks before and after a change, known by their ids.
    """
    was = {e.get("id"): e for e in before}
    found: list[dict[str, Any]] = [dict(e) for e in entries]
    for i, entry in enumerate(entries):
        name, old = entry.get("setup", ""), was.get(entry.get("id"))
        if not name or old is None:
            continue
        if old.get("setup", "") != name:
            found[i] |= _joined(entry, before, name)
        elif _shared(old) != _shared(entry):
            found = [{**e, **_shared(entry)} if e.get("setup") == name else e for e in found]
    return [{k: v for k, v in e.items() if v is not _NONE} for e in found]


_NONE = object()


def _shared(entry: Entry) -> dict[str, Any]:
    """What of an entry its set-up says; what it leaves out counts as said."""
    return {key: entry.get(key, _NONE) for key in SHARED}


def _joined(entry: Entry, before: Sequence[Entry], name: str) -> dict[str, Any]:
    """What an entry takes over from the set-up it joins; nothing from one that is new."""
    other = next((e for e in before if e.get("setup") == name and e.get("id") != entry.get("id")), None)
    return {} if other is None else _shared(other)
