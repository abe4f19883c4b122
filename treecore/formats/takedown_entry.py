"""The takedown of a plan document, and the gear it names: entries to the core and back."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import date
from functools import lru_cache
from typing import Any, NamedTuple

from treecore.document.codec import decode
from treecore.document.fields import for_core, specs, usual
from treecore.document.gear import GearEntry
from treecore.document.takedown import AccessEntry, ClimberEntry, PickEntry, WoodEntry
from treecore.errors import CoreError, NotSolvable
from treecore.findings import Seen
from treecore.formats.plain import Entry, estimate_json, limit_json, plain_json
from treecore.kinds import kinds_that
from treecore.rigging.climbing import Climber
from treecore.rigging.friction import Reading
from treecore.rigging.gear import Item
from treecore.site import Site
from treecore.takedown.access import Access, access_limits
from treecore.takedown.chain import Link, chain
from treecore.takedown.limits import pick_limits, ruling_of
from treecore.takedown.members import members_of
from treecore.takedown.peak_forces import Forces
from treecore.takedown.pick import Pick, Place, RigPoint
from treecore.takedown.pick_result import HeldPick, Worked, work
from treecore.takedown.pieces import Cut, Standing, Taken, left_over, take, whole
from treecore.takedown.sawcut import SawCut
from treecore.takedown.weights import NONE, Correction, Weighing
from treecore.tree.body import TreeInput
from treecore.verdict import Limit

_GEAR = {
    key: spec.choices.removeprefix("gear ")
    for key, spec in specs(PickEntry).items()
    if spec.choices.startswith("gear ")
}
ROLES = tuple(_GEAR)
ACCEPTS = {role: tuple(kinds.split()) for role, kinds in _GEAR.items()}  # kinds of gear that do for a part of the path
USUAL: Entry = usual(PickEntry)  # what a pick's entry leaves out


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
    entry = decode(GearEntry, row)
    readings = tuple(Reading(**for_core(r)) for r in entry.readings)
    days = {"bought": _day(entry.name, entry.bought), "inspected": _day(entry.name, entry.inspected)}
    return Item(**{"strength": None} | for_core(entry) | days, readings=readings)


def _day(name: str, typed: str | None) -> date | None:
    try:
        return date.fromisoformat(typed) if typed else None
    except ValueError:
        raise NotSolvable(what=f"gear {name}", why="“{typed}” is no date; write 2026-11-23", typed=typed) from None


def weighing_of(row: Entry) -> Weighing | None:
    """What was read of a piece, None where nobody weighed or lifted it.

    Parameters
    ----------
    row : mapping
        The pick's entry.

    Raises
    ------
    CoreError
        On a weight no piece has.
    """
    read = for_core(decode(PickEntry, row), "weighing")
    return Weighing(**read) if read else None


def cut_of(row: Entry) -> Cut:
    """Build the cut of a pick's entry.

    Parameters
    ----------
    row : mapping
        The pick: its member, empty for the stem, and where along it. [m]
    """
    return Cut(row.get("member", ""), float(row["at_m"]))


class OtherTree(NamedTuple):
    """A tree beside the one taken down: its name, place from the stem's foot [m], height [m],
    thickness [m] if known.
    """

    name: str
    east: float
    north: float
    height: float
    diameter: float | None
    sound: bool


def others_of(site: Entry, entry: Entry) -> tuple[OtherTree, ...]:
    """Trees of a site that can carry a line or a climber, as one tree sees them.

    Parameters
    ----------
    site, entry : mapping
        The document's site, and one of its trees.
    """
    x, y = float(entry.get("x_m", 0.0)), float(entry.get("y_m", 0.0))
    found = []
    for row in site.get("targets", ()):
        if row.get("kind") in kinds_that("carries"):
            places = row["outline_m"]
            east, north = (sum(p[i] for p in places) / len(places) for i in (0, 1))
            found.append(
                OtherTree(
                    row["name"],
                    east - x,
                    north - y,
                    float(row.get("height_m") or 10.0),
                    row.get("diameter_m"),
                    bool(row.get("sound", False)),
                )
            )
    return tuple(found)


def people_in(typed: str) -> int:
    """How many people a typed list of names holds [-].

    Parameters
    ----------
    typed : str
        Names with commas, semicolons, plus or ampersand signs, or “and” between them.
    """
    return len([name for name in re.split(r"[,;+&]|\band\b", typed) if name.strip()])


def pick_of(row: Entry, store: Mapping[str, Item], others: Sequence[OtherTree] = ()) -> Pick:
    """Build a pick.

    Parameters
    ----------
    row : mapping
        The pick's entry.
    store : mapping of str to Item
        Gear by name.
    others : sequence of OtherTree
        Trees it may name.

    Raises
    ------
    CoreError
        Naming what is wrong with it.
    """
    entry = decode(PickEntry, row)
    points = {key: _point(getattr(entry, key), others, what) for key, what in _POINTS.items() if getattr(entry, key)}
    bearing = {} if entry.bearing_deg is None else {"bearing": math.radians(entry.bearing_deg % 360.0)}
    return Pick(
        **for_core(entry) | points | bearing,
        cut=saw_cut_of(entry),
        gear=_chosen(entry, store),
        climber=_climber(entry.climber, others) if entry.climber else None,
        handlers=people_in(entry.handlers),
    )


# Places a pick names on the site, each with the field it stands for and the height of what stands there [m].
NAMED_PLACES = {
    "landing_on": ("landing_m", None),
    "device_on": ("device_at", 1.0),
    "tag_from_on": ("tag_from_m", None),
    "device_from_on": ("device_from_m", None),
}


def on_places(row: Entry, site: Site) -> dict[str, Any]:
    """Return a pick's entry with the places it names on the site where they are, from the stem's foot.

    Parameters
    ----------
    row : mapping
        The pick's entry.
    site : Site
        Its site.

    Raises
    ------
    NotSolvable
        If a place is not on the site any more.
    """
    found = dict(row)
    for key, (field, height) in NAMED_PLACES.items():
        name = row.get(key)
        if not name:
            continue
        spot = next((s for s in site.places if s.name == name), None)
        if spot is None:
            raise NotSolvable(key, "there is no place “{name}” on the site", name=name)
        middle = spot.shape.representative_point()
        place = [round(middle.x - site.tree_x, 2), round(middle.y - site.tree_y, 2)]
        high = (row.get(field) or (0.0, 0.0, height))[2] if height is not None else None
        found[field] = place if high is None else [*place, high]
    return found


def saw_cut_of(entry: PickEntry) -> SawCut:
    """Build a pick's cut as it is designed.

    Parameters
    ----------
    entry : PickEntry
        The pick's entry.

    Raises
    ------
    CoreError
        Naming what is wrong with it.
    """
    return SawCut(**for_core(entry, "cut"))


_POINTS = {"point": "rigging_point", "redirect": "redirect", "far_anchor": "far_anchor"}


def _point(entry: WoodEntry, others: Sequence[OtherTree], what: str) -> RigPoint:
    if entry.at_m is None and entry.place_m is None:
        raise NotSolvable(what, "say how high, or how far along it, it is")
    point = RigPoint(member=entry.member, at=entry.at_m or 0.0, fork=entry.fork, efficiency=entry.efficiency)
    if entry.tree and entry.at_m is not None:
        tree, place = _in_tree(entry.tree, entry.at_m, others, what)
        known = replace(
            point, member=None, at=0.0, place=place, tree=tree.name, diameter=tree.diameter, sound=tree.sound
        )
        return replace(known, high=tree.height)
    return point if entry.place_m is None else replace(point, member=None, at=0.0, place=entry.place_m)


def _in_tree(name: str, at: float, others: Sequence[OtherTree], what: str) -> tuple[OtherTree, Place]:
    tree = next((t for t in others if t.name == name), None)
    if tree is None:
        raise NotSolvable(what, "there is no tree “{name}” on the site", name=name)
    if at > tree.height:
        raise NotSolvable(what, "“{name}” is {height:.1f} m high", name=name, height=tree.height)
    return tree, (tree.east, tree.north, float(at))


def _climber(entry: ClimberEntry, others: Sequence[OtherTree]) -> Climber:
    plain, second = for_core(entry), entry.second
    if entry.tie_tree:
        plain["place"] = _in_tree(entry.tie_tree, entry.tie_m, others, "tie_in")[1]
    if second and second.tree:
        plain["second_place"] = _in_tree(second.tree, second.at_m, others, "second_tie_in")[1]
    elif second:
        plain["second_member"] = second.member
    if second:
        plain |= {"second_at": second.at_m, "second_tree": second.tree}
    return Climber(**plain)


def _chosen(entry: PickEntry, store: Mapping[str, Item]) -> dict[str, Item]:
    found = {}
    for role in ROLES:
        name = getattr(entry, role)
        if not name:
            continue
        if name not in store:
            raise NotSolvable(role, "there is no “{name}” in the gear store", name=name)
        if store[name].role not in ACCEPTS[role]:
            raise NotSolvable(role, "“{name}” is no {replace}", name=name, replace=role.replace("_", " "))
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


def access_of(row: Entry) -> Access | None:
    """Build the way up of a takedown; None where nobody said.

    Parameters
    ----------
    row : mapping
        The takedown's ``access``.

    Raises
    ------
    CoreError
        Naming what is wrong with it.
    """
    said = {key: value for key, value in row.items() if value not in (None, "")}
    return Access(**for_core(decode(AccessEntry, said))) if said else None


class PickRow(NamedTuple):
    """A pick worked out of its entry, as far as it goes: None where it is refused, with the error."""

    step: Taken | None
    pick: Pick | None
    worked: Worked | None
    limits: tuple[Limit, ...]
    error: CoreError | None


@lru_cache(maxsize=2048)
def pick_row(
    tree: TreeInput,
    site: Site,
    entry: str,
    ends: tuple[float, ...],
    items: tuple[Item, ...],
    others: tuple[OtherTree, ...],
    today: date,
    corrected: Correction = NONE,
    seen: tuple[Seen, ...] = (),
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
    others : tuple of OtherTree
        Trees beside it.
    today : date
        Day of use.
    corrected : Correction
        By the pieces weighed before it.
    seen : tuple of Seen
        What the walk-up found present.
    """
    members, row = members_of(tree), json.loads(entry)
    step, pick = None, None
    try:
        step = take(members, Standing(ends), cut_of(row), corrected, weighing_of(row))
        pick = pick_of(on_places(row, site), {item.name: item for item in items}, others)
        worked = work(members, step, pick, site)
        return PickRow(step, pick, worked, pick_limits(members, worked, site, today, seen), None)
    except CoreError as error:
        return PickRow(step, pick, None, (), error)


def worked_at(
    before: Standing,
    tree: TreeInput,
    site: Site,
    store: Mapping[str, Item],
    others: tuple[OtherTree, ...],
    today: date,
    corrected: Correction = NONE,
    seen: tuple[Seen, ...] = (),
) -> Callable[[Entry], PickRow]:
    """Return what works any entry out in one place of the order; arguments as ``steps_of`` takes them.

    Parameters
    ----------
    before : Standing
        What stands before it.
    tree : TreeInput
        The tree.
    site : Site
        Its site.
    store : mapping of str to Item
        Gear by name.
    others : tuple of OtherTree
        Trees beside it.
    today : date
        Day of use.
    corrected : Correction
        By the pieces weighed before it.
    seen : tuple of Seen
        What the walk-up found present.
    """

    def worked(entry: Entry) -> PickRow:
        items = tuple(store[entry[r]] for r in ROLES if entry.get(r) in store)
        text = json.dumps(entry, sort_keys=True)
        return pick_row(tree, site, text, before.ends, items, others, today, corrected, seen)

    return worked


class PickInOrder(NamedTuple):
    """A pick in its place in the order: its entry, what stands before and after it, the pick worked out.

    ``corrected`` is what pieces weighed before it tell of it.
    """

    entry: Entry
    before: Standing
    done: PickRow
    after: Standing
    corrected: Correction


def steps_of(
    picks: Sequence[Entry],
    tree: TreeInput,
    site: Site,
    store: Mapping[str, Item],
    others: tuple[OtherTree, ...],
    today: date,
    seen: tuple[Seen, ...] = (),
) -> list[PickInOrder]:
    """Work picks out in order, each on what then stands; one that is refused leaves the tree as it was.

    Parameters
    ----------
    picks : sequence of mapping
        Their entries.
    tree : TreeInput
        The tree.
    site : Site
        Its site.
    store : mapping of str to Item
        Gear by name.
    others : tuple of OtherTree
        Trees beside it.
    today : date
        Day of use.
    seen : tuple of Seen
        What the walk-up found present.
    """
    standing, corrected, found = whole(members_of(tree)), NONE, []
    for entry in picks:
        done = worked_at(standing, tree, site, store, others, today, corrected, seen)(entry)
        after = done.step.after if done.step else standing
        found.append(PickInOrder(entry, standing, done, after, corrected))
        standing, corrected = after, done.step.corrected if done.step else corrected
    return found


def takedown_json(
    row: Entry,
    tree: TreeInput,
    site: Site,
    store: Mapping[str, Item],
    today: date | None = None,
    others: tuple[OtherTree, ...] = (),
    seen: tuple[Seen, ...] = (),
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
    others : tuple of OtherTree
        Trees beside it.
    seen : tuple of Seen
        What the walk-up found present.
    """
    members = members_of(tree)
    standing = whole(members)
    found: list[dict[str, Any]] = []
    day = today or date.today()
    for step in steps_of(row["picks"], tree, site, store, others, day, seen):
        standing = step.after
        found.append(_pick_json(step, day))
    access = access_of(row.get("access") or {})
    way_up = [limit_json(x) for x in access_limits(members, access)] if access else []
    return {"picks": found, "left_kg": left_over(members, standing), "way_up": way_up}


def _pick_json(step: PickInOrder, today: date) -> dict[str, Any]:
    """Every figure and every limit of a pick as plain data."""
    done = step.done
    if done.step is None or done.worked is None:
        return {"refused": str(done.error)}
    piece, rules = done.step.piece, ruling_of(done.limits)
    found = {
        "mass": estimate_json(piece.mass, "mass"),
        "balance": estimate_json(piece.balance, "length"),
        "ruling": limit_json(rules) if rules else None,
        "limits": [limit_json(limit) for limit in done.limits],
        "inertia": plain_json(piece.inertia, "inertia"),
        "length": plain_json(piece.length, "length"),
        "foliage": plain_json(piece.foliage, "mass"),
        "chain": [_link_json(link) for link in chain(done.worked, today)],
    }
    corrected = step.corrected
    if corrected.weighed:
        found["corrected"] = {"stem": corrected.stem, "limbs": corrected.limbs, "pieces_weighed": corrected.weighed}
    return found | (
        _forces_json(done.worked.forces) if isinstance(done.worked, HeldPick) else {"peak": None, "on_point": None}
    )


def _link_json(link: Link) -> dict[str, Any]:
    allowed = None if link.allowed is None else estimate_json(link.allowed, "force")
    return {"role": link.role, "item": link.name, "demand": estimate_json(link.demand, "force"), "allowed": allowed}


def _forces_json(f: Forces) -> dict[str, Any]:
    """Forces of a pick; an end that nothing reaches is left out, for a document holds no infinite numbers."""
    peaks = {
        name: estimate_json(e, "force")
        for name, e in f.peaks._asdict().items()
        if name not in ("school", "governing") and e is not None
    }
    found = {
        "peak": estimate_json(f.peaks.governing, "force"),
        "governing": f.peaks.school,
        "peaks": peaks,
        "on_point": estimate_json(f.on_point, "force"),
        "force_on_point_N": list(f.force),
        "drop_height": plain_json(f.drop_height, "length"),
        "tension_ratio": plain_json(f.tension_ratio, "ratio"),
        "control_leg": estimate_json(f.control_leg, "force"),
        "hand": estimate_json(f.hand, "small_force"),
        "wraps": {k: v for k, v in f.wraps._asdict().items() if math.isfinite(v)},
        "rope_needed": plain_json(f.needed, "length"),
        "stiffness_N_m": estimate_json(f.stiffness, "ratio") | {"unit": "N/m"},
        "stiffness_known": f.known,
    }
    beyond = {"redirect": f.redirect, "far_anchor": f.far_anchor}
    woods = {"wood": f.wood} | {f"{name}_wood": found.wood for name, found in beyond.items() if found is not None}
    for name, wood in woods.items():
        if wood is not None:
            found[name] = {
                "stress": estimate_json(wood.stress, "fine_strength"),
                "shear": estimate_json(wood.twist, "fine_strength"),
                "turning": estimate_json(wood.turning, "moment"),
                "at_m": wood.anchor.height,
                "what": wood.anchor.why,
                "name": wood.anchor.name,
                "union": wood.anchor.union,
            }
    if f.course is not None:
        found["motion"] = {
            "run": estimate_json(f.course.run, "length"),
            "stops": f.course.stops,
            "always_stops": f.course.always_stops,
            "touch": estimate_json(f.course.touch, "speed"),
            "lowest_m": f.course.lowest,
            "turned_rad": f.course.turned,
            "locked": f.course.locked,
        }
    for name, loaded in beyond.items():
        if loaded is not None:
            found[f"on_{name}"] = estimate_json(loaded.load, "force")
    return found
