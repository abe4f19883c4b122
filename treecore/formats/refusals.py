"""Everything a plan document is refused for, named at its place, instead of the first thing alone."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, NamedTuple

from treecore.document.versions import upgraded
from treecore.errors import BadDocument, CoreError
from treecore.formats.plan_document import evaluate_tree, hold_site, load, schema_errors
from treecore.formats.reading import read_json, without_nulls
from treecore.formats.takedown_entry import store_of
from treecore.rigging.gear import Item


class Refusal(NamedTuple):
    """Where in a document something is refused, and why; the core's own error where there is one, to be said in other
    units.
    """

    where: str
    why: str
    error: CoreError | None = None


def refusals(text: str) -> tuple[Refusal, ...]:
    """Return everything a document is refused for; nothing for one that is read and worked out whole.

    Parameters
    ----------
    text : str
        JSON.

    References
    ----------
    What does not follow the schema; else what the core refuses, tree by tree and pick by pick.
    """
    try:
        document = load(text)
    except BadDocument as error:
        return _unreadable(text, error)
    return tuple(_refused(document))


def _unreadable(text: str, first: BadDocument) -> tuple[Refusal, ...]:
    """What keeps a document from being read: every entry beside the schema, or the one thing that stops reading."""
    try:
        document = without_nulls(read_json(text))
        found = schema_errors(upgraded(document) if isinstance(document, dict) else document)
    except BadDocument:
        found = []
    return tuple(Refusal(e.field, e.why) for e in found) or (Refusal(first.field, first.why),)


def _refused(document: dict[str, Any]) -> Iterator[Refusal]:
    gear: dict[str, Item] = {}
    for row in document.get("gear", ()):
        try:
            gear |= store_of({"gear": [row]})
        except CoreError as error:
            yield Refusal(f"gear “{row['name']}”", str(error), error)
    try:
        hold_site(document.get("site", {}))
    except CoreError as error:
        yield Refusal("site", str(error), error)
    for number, entry in enumerate(document["trees"]):
        where = f"trees[{number}] “{entry['name']}”"
        try:
            found = evaluate_tree(document.get("site", {}), entry, gear)
        except CoreError as error:
            yield Refusal(where, str(error), error)
            continue
        for place, pick in enumerate(found.get("takedown", {}).get("picks", ()), start=1):
            if "refused" in pick:
                yield Refusal(f"{where}, pick {place}", pick["refused"])
