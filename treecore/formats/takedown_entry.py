"""The takedown of a plan document, and the gear it names: entries to the core and back."""

from __future__ import annotations

import json
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import fields
from datetime import date
from functools import lru_cache
from typing import Any, NamedTuple

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
from treecore.takedown.pick import Pick, Place, RigPoint
from treecore.takedown.pieces import Cut, Standing, Taken, left_over, take, whole
from treecore.takedown.sawcut import SawCut
from treecore.takedown.tight import Forces
from treecore.takedown.weights import NONE, Correction, Weighing
from treecore.takedown.working import Worked, work
from treecore.tree.body import TreeInput
from treecore.verdict import Limit

ROLES = ("rope", "sling", "block", "connector", "device", "base", "leg", "tag", "lead_sling", "lead_block")
# Kinds of gear that do for a part of the path; else the part's own.
ACCEPTS = {
    "block": ("block", "ring"), "base": ("sling",), "lead_sling": ("sling",), "lead_block": ("block", "ring"), "tag": ("tag", "rope"),
}  # fmt: skip
# What a pick's entry leaves out.
USUAL: Entry = {
    "method": "butt", "cut": "hinge", "tie_m": 0.5, "slack_m": 0.0, "held": "soft", "run_m": 2.0, "device_kind": "bollard", "wraps": 2.0,
    "knot": "running_bowline", "sling_as": "choked", "design_school": "5", "pretension_N": 0.0, "head_m": 1.5, "sag": 0.1, "bed": "none",
    "bed_depth_m": 0.0, "bed_radius_m": 3.0,
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
        name=row["name"],
        kind=row["kind"],
        strength=row.get("strength_N"),
        diameter=row.get("diameter_m"),
        length=row.get("length_m"),
        modulus=row.get("modulus_N"),
        wear=row.get("wear", "good"),
        bought=_day(row, "bought"),
        inspected=_day(row, "inspected"),
        months=row.get("months", 6),
        retired=row.get("retired", ""),
        joined=row.get("joined", False),
        construction=row.get("construction", ""),
        readings=tuple(
            Reading(float(r["load_N"]), float(r["wraps"]), float(r["hand_N"])) for r in row.get("readings", ())
        ),
    )


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
    plain |= {"joined": True} if item.joined else {}
    plain |= {"construction": item.construction} if item.construction else {}
    if item.readings:
        plain["readings"] = [{"load_N": r.load, "wraps": r.wraps, "hand_N": r.hand} for r in item.readings]
    return plain | days | {k: v for k, v in sizes.items() if v is not None}


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
    mass, balance = row.get("weighed_kg"), row.get("balanced_m")
    if mass is None and balance is None:
        return None
    return Weighing(mass=None if mass is None else float(mass), balance=None if balance is None else float(balance))


def setting_of(row: Entry) -> int:
    """Setting of a device that has settings; entries from before there were any say it by their wraps.

    Parameters
    ----------
    row : mapping
        The pick's entry.
    """
    return int(row.get("setting") or (2 if float(row.get("wraps", USUAL["wraps"])) >= 1.0 else 1))


def cut_of(row: Entry) -> Cut:
    """Build the cut of a pick's entry.

    Parameters
    ----------
    row : mapping
        The pick: its member, empty for the stem, and where along it. [m]
    """
    return Cut(row.get("member", ""), float(row["at_m"]))


class OtherTree(NamedTuple):
    """A tree beside the one taken down: its name, place from the stem's foot [m], height [m], thickness [m] if known."""

    name: str
    east: float
    north: float
    height: float
    thick: float | None
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
        if row["kind"] in kinds_that("carries"):
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
    row = {**USUAL, **row}
    climber, place = row.get("climber"), row.get("device_at", (0.0, 0.0, 1.0))
    point, lead, far = (_point(row[key], others, what) if row.get(key) else None for key, what in _POINTS.items())
    landing, bearing, stands = row.get("landing_m"), row.get("bearing_deg"), row.get("tag_from_m")
    at_device = row.get("device_from_m")
    return Pick(
        name=row.get("name", ""),
        method=row["method"],
        cut=saw_cut_of(row),
        tie=float(row["tie_m"]),
        second_tie=row.get("second_tie_m"),
        point=point,
        lead=lead,
        far=far,
        slack=float(row["slack_m"]),
        held=row["held"],
        run=float(row["run_m"]),
        device=row["device_kind"],
        device_place=(float(place[0]), float(place[1]), float(place[2])),
        wraps=float(row["wraps"]),
        gear=_chosen(row, store),
        knot=row["knot"],
        sling=row["sling_as"],
        design=row["design_school"],
        climber=_climber(climber, others) if climber else None,
        landing=(float(landing[0]), float(landing[1])) if landing else None,
        bed=row["bed"],
        bearing=None if bearing is None else math.radians(float(bearing) % 360.0),
        pretension=float(row["pretension_N"]),
        head=float(row["head_m"]),
        sag=float(row["sag"]),
        bed_depth=float(row["bed_depth_m"]),
        bed_radius=float(row["bed_radius_m"]),
        capacity=None if row.get("capacity_kg") is None else float(row["capacity_kg"]),
        setting=setting_of(row),
        tag_place=(float(stands[0]), float(stands[1])) if stands else None,
        device_from=(float(at_device[0]), float(at_device[1])) if at_device else None,
        lift=bool(row.get("lift", False)),
        away=row.get("away", ""),
        handlers=people_in(row.get("handlers", "")),
        test_lift=bool(row.get("test_lift", False)),
        throat=row.get("throat_m"),
    )


def saw_cut_of(row: Entry) -> SawCut:
    """Build a pick's cut as it is designed.

    Parameters
    ----------
    row : mapping
        The pick's entry.

    Raises
    ------
    CoreError
        Naming what is wrong with it.
    """
    opening = row.get("opening_deg")
    return SawCut(
        key=row["cut"],
        notch=row.get("notch", ""),
        opening=None if opening is None else math.radians(float(opening)),
        tilt=math.radians(float(row.get("tilt_deg") or 0.0)),
        depth=row.get("notch_m"),
        hinge=row.get("hinge_m"),
        overlap=row.get("overlap_m"),
    )


_POINTS = {"point": "rigging_point", "lead": "lead", "far": "far"}


def _point(row: Entry, others: Sequence[OtherTree], what: str) -> RigPoint:
    plain = {"fork": row.get("fork", False), "efficiency": row.get("efficiency", 0.95)}
    if row.get("at_m") is None and "place_m" not in row:
        raise NotSolvable(what, "say how high, or how far along it, it is")
    if row.get("tree"):
        tree, place = _in_tree(row["tree"], row["at_m"], others, what)
        return RigPoint(place=place, tree=tree.name, thick=tree.thick, sound=tree.sound, high=tree.height, **plain)
    if "place_m" in row:
        x, y, z = (float(v) for v in row["place_m"])
        return RigPoint(place=(x, y, z), **plain)
    return RigPoint(member=row.get("member", ""), at=float(row["at_m"]), **plain)


def _in_tree(name: str, at: float, others: Sequence[OtherTree], what: str) -> tuple[OtherTree, Place]:
    tree = next((t for t in others if t.name == name), None)
    if tree is None:
        raise NotSolvable(what, f"there is no tree “{name}” on the site")
    if at > tree.height:
        raise NotSolvable(what, f"“{name}” is {tree.height:.1f} m high")
    return tree, (tree.east, tree.north, float(at))


def _climber(row: Entry, others: Sequence[OtherTree]) -> Climber:
    second, spot = row.get("second"), None
    first = _in_tree(row["tie_tree"], row["tie_m"], others, "tie_in")[1] if row.get("tie_tree") else None
    if second and second.get("tree"):
        spot = _in_tree(second["tree"], second["at_m"], others, "second_tie_in")[1]
    return Climber(
        tie_member=row.get("tie_member", ""),
        tie_at=float(row["tie_m"]),
        stance_member=row.get("stance_member", ""),
        stance_at=float(row["stance_m"]),
        line=float(row.get("line_m", 45.0)),
        based=row.get("based", False),
        lanyard=row.get("lanyard", True),
        place=first,
        tree=row.get("tie_tree", ""),
        second_place=spot,
        second_member=second.get("member", "") if second and spot is None else None,
        second_at=float(second["at_m"]) if second else 0.0,
        second_tree=(second or {}).get("tree", ""),
        side=None if row.get("side_deg") is None else math.radians(float(row["side_deg"])),
    )


def _chosen(row: Entry, store: Mapping[str, Item]) -> dict[str, Item]:
    found = {}
    for role in ROLES:
        name = row.get(role, "")
        if not name:
            continue
        if name not in store:
            raise NotSolvable(role, f"there is no “{name}” in the gear store")
        if store[name].role not in ACCEPTS.get(role, (role,)):
            raise NotSolvable(role, f"“{name}” is no {role.replace('_', ' ')}")
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


_ACCESS = {"at_m": "at", "line_m": "line"}  # names of an entry's way up that differ from the core's


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
    known = {f.name for f in fields(Access)}
    values = {_ACCESS.get(key, key): value for key, value in row.items() if value not in (None, "")}
    values = {key: value for key, value in values.items() if key in known}
    return Access(**values) if values else None


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
        pick = pick_of(row, {item.name: item for item in items}, others)
        worked = work(members, step, pick, site)
        return PickRow(step, pick, worked, pick_limits(members, worked, site, today, seen), None)
    except CoreError as error:
        return PickRow(step, pick, None, (), error)


class Step(NamedTuple):
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
) -> list[Step]:
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
        items = tuple(store[entry[r]] for r in ROLES if entry.get(r) in store)
        done = pick_row(
            tree, site, json.dumps(entry, sort_keys=True), standing.ends, items, others, today, corrected, seen
        )
        after = done.step.after if done.step else standing
        found.append(Step(entry, standing, done, after, corrected))
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


def _pick_json(step: Step, today: date) -> dict[str, Any]:
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
    return found | (_forces_json(done.worked.forces) if done.worked.forces else {"peak": None, "on_point": None})


def _link_json(link: Link) -> dict[str, Any]:
    allowed = None if link.allowed is None else estimate_json(link.allowed, "force")
    return {"role": link.role, "item": link.name, "demand": estimate_json(link.demand, "force"), "allowed": allowed}


def _forces_json(f: Forces) -> dict[str, Any]:
    """Forces of a pick; an end that nothing reaches is left out, for a document holds no infinite numbers."""
    peaks = {
        name: estimate_json(e, "force")
        for name, e in f.peaks._asdict().items()
        if name not in ("school", "counts") and e is not None
    }
    found = {
        "peak": estimate_json(f.peaks.counts, "force"),
        "counts": f.peaks.school,
        "peaks": peaks,
        "on_point": estimate_json(f.on_point, "force"),
        "force_on_point_N": list(f.force),
        "fall": plain_json(f.fall, "length"),
        "passed_on": plain_json(f.passed, "ratio"),
        "at_device": estimate_json(f.rest, "force"),
        "hand": estimate_json(f.hand, "small_force"),
        "wraps": {k: v for k, v in f.wraps._asdict().items() if math.isfinite(v)},
        "rope_needed": plain_json(f.needed, "length"),
        "stiffness_N_m": estimate_json(f.stiffness, "ratio") | {"unit": "N/m"},
        "stiffness_known": f.known,
    }
    for name, wood in (("wood", f.wood), ("lead_wood", f.lead_wood), ("far_wood", f.far_wood)):
        if wood is not None:
            found[name] = {
                "stress": estimate_json(wood.stress, "fine_strength"),
                "shear": estimate_json(wood.twist, "fine_strength"),
                "turning": estimate_json(wood.turning, "moment"),
                "at_m": wood.anchor.height,
                "what": wood.anchor.why,
            }
    if f.course is not None:
        found["motion"] = {
            "run": estimate_json(f.course.run, "length"),
            "stops": f.course.stops,
            "always_stops": f.course.always_stops,
            "lowest_m": f.course.lowest,
            "turned_rad": f.course.turned,
            "locked": f.course.locked,
        }
    for name, value in (("on_lead", f.on_lead), ("far", f.far)):
        if value is not None:
            found[name] = estimate_json(value, "force")
    return found
