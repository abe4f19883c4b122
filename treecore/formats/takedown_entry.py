"""The takedown of a plan document, and the gear it names: entries to the core and back."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import date
from functools import lru_cache
from typing import Any, NamedTuple

from treecore.errors import CoreError, NotSolvable
from treecore.formats.plain import Entry, estimate_json, limit_json
from treecore.rigging.climbing import Climber
from treecore.rigging.gear import Item
from treecore.site import Site
from treecore.takedown.limits import pick_limits, ruling_of
from treecore.takedown.members import members_of
from treecore.takedown.pick import Pick, RigPoint, Worked, work
from treecore.takedown.pieces import Cut, Standing, Taken, left_over, take, whole
from treecore.tree.body import TreeInput
from treecore.verdict import Limit

ROLES = ("rope", "sling", "block", "connector", "device", "leg")
# What a pick's entry leaves out.
USUAL: Entry = {
    "method": "butt", "cut": "hinge", "tie_m": 0.5, "slack_m": 0.0, "held": "soft", "run_m": 2.0, "device_kind": "bollard", "wraps": 2.0,
    "knot": "running_bowline", "sling_as": "choked", "design_school": "5",
}  # fmt: skip


def item_of(row: Entry) -> Item:
    """Build an item of gear.

    Parameters
    ----------
    row : mapping
        The document's gear entry.

    Raises
    ------
    CoreError
        Naming the item.
    """
    return Item(
        name=row["name"], kind=row["kind"], strength=row.get("strength_N"), diameter=row.get("diameter_m"),
        length=row.get("length_m"), modulus=row.get("modulus_N"), wear=row.get("wear", "good"), bought=_day(row, "bought"),
        inspected=_day(row, "inspected"), months=row.get("months", 6), retired=row.get("retired", ""),
    )  # fmt: skip


def _day(row: Entry, key: str) -> date | None:
    try:
        return date.fromisoformat(row[key]) if row.get(key) else None
    except ValueError:
        raise NotSolvable(f"gear {row.get('name', '')}", f"“{row[key]}” is no date; write 2026-11-23") from None


def item_entry(item: Item) -> dict[str, Any]:
    """Write an item of gear as an entry.

    Parameters
    ----------
    item : Item
        The item.
    """
    days = {n: d.isoformat() for n, d in (("bought", item.bought), ("inspected", item.inspected)) if d}
    sizes = {
        "strength_N": item.strength,
        "diameter_m": item.diameter,
        "length_m": item.length,
        "modulus_N": item.modulus,
    }
    plain = {"name": item.name, "kind": item.kind, "wear": item.wear, "months": item.months, "retired": item.retired}
    return plain | days | {k: v for k, v in sizes.items() if v is not None}


def cut_of(row: Entry) -> Cut:
    """Build the cut of a pick's entry.

    Parameters
    ----------
    row : mapping
        The pick: its member, empty for the stem, and where along it. [m]
    """
    return Cut(row.get("member", ""), float(row["at_m"]))


def pick_of(row: Entry, store: Mapping[str, Item]) -> Pick:
    """Build a pick.

    Parameters
    ----------
    row : mapping
        The pick's entry.
    store : mapping of str to Item
        Gear by name.

    Raises
    ------
    CoreError
        Naming what is wrong with it.
    """
    row = {**USUAL, **row}
    point, climber, place = row.get("point"), row.get("climber"), row.get("device_at", (0.0, 0.0, 1.0))
    return Pick(
        name=row.get("name", ""), method=row["method"], cut_type=row["cut"], tie=float(row["tie_m"]),
        second_tie=row.get("second_tie_m"), point=_point(point) if point else None, slack=float(row["slack_m"]), held=row["held"],
        run=float(row["run_m"]), device=row["device_kind"], device_place=(float(place[0]), float(place[1]), float(place[2])),
        wraps=float(row["wraps"]), gear=_chosen(row, store), knot=row["knot"], sling=row["sling_as"],
        design=row["design_school"], climber=_climber(climber) if climber else None,
    )  # fmt: skip


def _point(row: Entry) -> RigPoint:
    if "place_m" in row:
        x, y, z = (float(v) for v in row["place_m"])
        return RigPoint(place=(x, y, z), fork=row.get("fork", False), efficiency=row.get("efficiency", 0.95))
    return RigPoint(
        member=row.get("member", ""),
        at=float(row["at_m"]),
        fork=row.get("fork", False),
        efficiency=row.get("efficiency", 0.95),
    )


def _climber(row: Entry) -> Climber:
    return Climber(
        tie_member=row.get("tie_member", ""), tie_at=float(row["tie_m"]), stance_member=row.get("stance_member", ""),
        stance_at=float(row["stance_m"]), line=float(row.get("line_m", 45.0)), based=row.get("based", False),
    )  # fmt: skip


def _chosen(row: Entry, store: Mapping[str, Item]) -> dict[str, Item]:
    found = {}
    for role in ROLES:
        name = row.get(role, "")
        if not name:
            continue
        if name not in store:
            raise NotSolvable(role, f"there is no “{name}” in the gear store")
        if store[name].role != role:
            raise NotSolvable(role, f"“{name}” is no {role}")
        found[role] = store[name]
    return found


def store_of(document: Entry) -> dict[str, Item]:
    """Build the gear a document names, by name.

    Parameters
    ----------
    document : mapping
        The whole document.

    Raises
    ------
    CoreError
        Naming the item.
    """
    return {row["name"]: item_of(row) for row in document.get("gear", ())}


class PickRow(NamedTuple):
    """A pick worked out of its entry, as far as it goes: None where it is refused, with the error."""

    step: Taken | None
    pick: Pick | None
    worked: Worked | None
    limits: tuple[Limit, ...]
    error: CoreError | None


@lru_cache(maxsize=2048)
def pick_row(
    tree: TreeInput, site: Site, entry: str, ends: tuple[float, ...], items: tuple[Item, ...], today: date
) -> PickRow:
    """Work out one pick of a takedown; the same pick on the same tree is worked out once.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    site : Site
        Its site.
    entry : str
        The pick's entry as JSON.
    ends : tuple of float
        How far each member reaches before it. [m]
    items : tuple of Item
        Gear it may name.
    today : date
        Day of use.
    """
    members, row = members_of(tree), json.loads(entry)
    step, pick = None, None
    try:
        step = take(members, Standing(ends), cut_of(row))
        pick = pick_of(row, {item.name: item for item in items})
        worked = work(members, step, pick, site)
        return PickRow(step, pick, worked, pick_limits(members, worked, today), None)
    except CoreError as error:
        return PickRow(step, pick, None, (), error)


def takedown_json(
    row: Entry, tree: TreeInput, site: Site, store: Mapping[str, Item], today: date | None = None
) -> dict[str, Any]:
    """Return a takedown's results as plain data, pick by pick; a pick that is refused says why and takes nothing.

    Parameters
    ----------
    row : mapping
        The tree's ``takedown``.
    tree : TreeInput
        The tree.
    site : Site
        Its site.
    store : mapping of str to Item
        Gear by name.
    today : date, optional
        Day of use; the day it is asked by default.
    """
    members = members_of(tree)
    standing = whole(members)
    found: list[dict[str, Any]] = []
    for entry in row["picks"]:
        items = tuple(store[entry[r]] for r in ROLES if entry.get(r) in store)
        done = pick_row(tree, site, json.dumps(entry, sort_keys=True), standing.ends, items, today or date.today())
        standing = done.step.after if done.step else standing
        if done.step is None or done.worked is None:
            found.append({"refused": str(done.error)})
            continue
        step, worked = done.step, done.worked
        rules = ruling_of(done.limits)
        forces = worked.forces
        found.append(
            {
                "mass": estimate_json(step.piece.mass, "mass"),
                "balance": estimate_json(step.piece.balance, "length"),
                "ruling": limit_json(rules) if rules else None,
                "peak": estimate_json(forces.peaks.counts, "force") if forces else None,
                "on_point": estimate_json(forces.on_point, "force") if forces else None,
            }
        )
    return {"picks": found, "left_kg": left_over(members, standing)}
