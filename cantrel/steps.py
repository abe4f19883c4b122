"""The strip of steps: each room tells whether its own are done, open or blocked; nothing here knows a room."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

from django.urls import reverse
from django.utils.translation import gettext_lazy

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from django.http import HttpRequest


STEPS = (
    ("site", gettext_lazy("Site")),
    ("walk-up", gettext_lazy("Walk-up")),
    ("measure", gettext_lazy("Measure")),
    ("method", gettext_lazy("Method")),
    ("fell", gettext_lazy("Fell")),
    ("takedown", gettext_lazy("Take down")),
    ("brief", gettext_lazy("Brief")),
    ("record", gettext_lazy("Record")),
)


STATES = {"done": gettext_lazy("done"), "open": gettext_lazy("open"), "blocked": gettext_lazy("blocked")}


class Teller(NamedTuple):
    """Who tells of some steps: ``states(tree)`` gives state and note by step, and True after them where its verdict is
    not known yet.

    The tree it is given has come in one query: with the rows ``joined`` to it, with those of ``rows`` beside it, and
    with what ``marks(tree's own reference)`` annotates.
    """

    states: object
    joined: tuple
    rows: tuple
    marks: object


_TELLERS = []


def tells(joined: Sequence[Any] = (), rows: Sequence[Any] = (), marks: Callable[..., Any] = dict) -> Callable[..., Any]:
    """Register a room's function that tells of its steps."""

    def register(states: Any) -> Any:
        _TELLERS.append(Teller(states, joined, rows, marks))
        return states

    return register


def loaded(tree: Any) -> Any:
    """The tree with everything the strip asks of it."""
    return all_loaded([tree])[0]


def all_loaded(trees: Sequence[Any]) -> list[Any]:
    """Trees with everything the strip asks of them, in as few queries as one; in their order."""
    if not trees:
        return []
    found = type(trees[0]).objects.select_related("job__crew", *(name for t in _TELLERS for name in t.joined))
    for teller in _TELLERS:
        found = found.annotate(**teller.marks()).prefetch_related(*teller.rows)
    rows = found.in_bulk([tree.pk for tree in trees])
    for row in rows.values():
        row.told = True
    return [rows[tree.pk] for tree in trees]


def strip(tree: Any, current: str) -> list[dict[str, Any]]:
    """Steps of a tree for the page's strip."""
    known, states = (tree if getattr(tree, "told", False) else loaded(tree)), {}
    for teller in _TELLERS:
        states |= teller.states(known)
    return [
        {
            "key": key,
            "name": name,
            "url": _address(key, tree),
            "state": states[key][0],
            "state_said": STATES[states[key][0]],
            "note": states[key][1],
            "unjudged": len(states[key]) > 2,
            "current": key == current,
        }
        for key, name in STEPS
    ]


def next_step(tree: Any) -> dict[str, Any]:
    """The step a tree stands at: the first that is blocked or open and is asked of it; the brief once none is left."""
    return first_open(strip(tree, ""))


def first_open(rows: list[dict[str, Any]]) -> dict[str, Any]:
    """The step of a strip that is next."""
    asked = (row for row in rows if row["key"] != "site" and (row["state"] == "blocked" or not row["note"]))
    brief = next(row for row in rows if row["key"] == "brief")
    return next((row for row in asked if row["state"] != "done"), brief)


def _address(key: str, tree: Any) -> str:
    """Where a step of a tree is; the site is the whole job's, seen from this tree."""
    if key == "site":
        return f"{reverse(key, args=[tree.job_id])}?tree={tree.pk}"
    return reverse(key, args=[tree.job_id, tree.pk])


def stripped(tree: Any, current: str) -> dict[str, Any]:
    """Context of a page's strip."""
    shown = current if current in dict(STEPS) else ""
    address = reverse("strip", args=[tree.job_id, tree.pk])
    return {"step": shown, "steps": strip(tree, shown), "strip_url": f"{address}?step={shown}"}


def page(request: HttpRequest, tree: Any, current: str, **more: Any) -> dict[str, Any]:
    """Context every page of a tree shares."""
    return {"job": tree.job, "tree": tree, "units": request.units, **stripped(tree, current), **more}
