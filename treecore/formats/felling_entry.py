"""The felling of a plan document: its entry to core inputs, and its results as plain data."""

from __future__ import annotations

import math
from typing import Any

from treecore.errors import BadDocument
from treecore.felling.balance import Pull
from treecore.felling.bucking import Log
from treecore.felling.fall import Fall
from treecore.felling.footprint import footprint
from treecore.felling.guying import Guy
from treecore.felling.inputs import FellingInput, oval_at
from treecore.felling.notch import Cuts
from treecore.felling.oval import bark_marks
from treecore.felling.plan import FellingResult
from treecore.felling.pulling import Part, PullSystem, Rope
from treecore.felling.sawing import Saw
from treecore.felling.suggest import STUMP
from treecore.felling.tackle import Tackle
from treecore.felling.wedges import Wedges
from treecore.felling.whole import complete
from treecore.findings import Seen
from treecore.formats.plain import Entry, deg, estimate_json, figure_json, limit_json, plain_json
from treecore.overhead import Conductor
from treecore.site import Site
from treecore.tree.body import TreeInput


def felling_of(
    entry: Entry, tree: TreeInput, site: Site, conductors: tuple[Conductor, ...] = (), seen: tuple[Seen, ...] = ()
) -> FellingInput:
    """Build the felling of an entry; stump diameters left out come from the taper curve.

    Parameters
    ----------
    entry : mapping
        The tree's ``felling``.
    tree : TreeInput
        The tree.
    site : Site
        Its site.
    conductors : tuple of Conductor
        Overhead lines on it.
    seen : tuple of Seen
        What the walk-up found present.

    Raises
    ------
    CoreError
        Naming the quantity.
    """
    lay, pull, guy, system = deg(entry, "lay_deg"), entry.get("pull"), entry.get("guy"), entry.get("system")
    return FellingInput(
        tree=tree,
        site=site,
        lay=lay,
        cuts=_cuts(entry, tree, lay),
        wedges=_wedges(entry.get("wedges", {})),
        pull=_pull(pull) if pull and not system else None,  # a line beside a system waits
        wind=_maybe(entry.get("wind_m_s")),
        wind_from=deg(entry, "wind_from_deg") if entry.get("wind_from_deg") is not None else None,
        zone=entry.get("zone_school", "1.5"),
        conductors=conductors,
        saw=Saw(
            bar=entry.get("bar_m"),
            first=entry.get("first_school", "sloping"),
            pattern=entry.get("pattern_school", "straight"),
            nicks=entry.get("nicks", False),
            position=entry.get("position_school", "kneeling"),
        ),
        guy=_guy(guy) if guy else None,
        system=system_of(system) if system else None,
        escape=entry.get("escape_side", ""),
        seen=seen,
    )


def _cuts(entry: Entry, tree: TreeInput, lay: float) -> Cuts:
    stump = float(entry.get("stump_m", STUMP))
    oval = oval_at(tree, stump, lay)
    across = entry.get("across_m") or oval.across
    along = entry.get("along_m") or (float(across) if entry.get("across_m") else oval.along)
    return Cuts(
        along=float(along),
        across=float(across),
        stump=stump,
        depth=float(entry["depth_m"]),
        opening=deg(entry, "opening_deg"),
        hinge=float(entry["hinge_m"]),
        rise=float(entry["rise_m"]),
        taper=float(entry.get("taper_m", 0.0)),
        bypass=float(entry.get("bypass_m", 0.0)),
        bypass_side=entry.get("bypass_side", ""),
        slope=deg(entry, "back_slope_deg"),
        skew=oval.skew,
        notch_school=entry.get("notch_school", "conventional"),
        depth_school=entry.get("depth_school", "chord80"),
        thickness_school=entry.get("thickness_school", "tenth"),
    )


def _wedges(row: Entry) -> Wedges:
    return Wedges(
        count=row.get("count", 0),
        stacked=row.get("stacked", 1),
        kind=row.get("kind", "plastic"),
        rise=_maybe(row.get("rise_m")),
        tip=_maybe(row.get("tip_m")),
        place=deg(row, "place_deg"),
    )


def _pull(row: Entry) -> Pull:
    return Pull(
        tie=float(row["tie_m"]),
        azimuth=deg(row, "azimuth_deg"),
        distance=float(row["distance_m"]),
        anchor=float(row.get("anchor_m", 0.0)),
        force=float(row["force_N"]),
        tackle=_tackle(row.get("tackle", {})),
    )


def _guy(row: Entry) -> Guy:
    return Guy(
        tie=float(row["tie_m"]),
        azimuth=deg(row, "azimuth_deg"),
        distance=float(row["distance_m"]),
        anchor=float(row.get("anchor_m", 0.0)),
        limit=float(row["limit_N"]),
        tended=row.get("tended", False),
        taut=row.get("taut", False),
        tackle=_tackle(row.get("tackle", {})),
    )


def _tackle(row: Entry) -> Tackle:
    return Tackle(
        strength=_maybe(row.get("strength_N")),
        owned=_maybe(row.get("owned_m")),
        knot=row.get("knot", "unknown"),
        gear=_maybe(row.get("gear_N")),
        rating=_maybe(row.get("rating_N")),
        trunk=_maybe(row.get("trunk_m")),
        sling=float(row.get("sling_m", 0.5)),
        design=row.get("design_school", "5"),
        by=row.get("by", ""),
        people=int(row.get("people", 2)),
    )


def _maybe(value: float | str | None) -> float | None:
    return None if value is None else float(value)


def system_of(row: Entry) -> PullSystem:
    """Build a pulling system of an entry.

    Parameters
    ----------
    row : mapping
        The felling's ``system``.

    Raises
    ------
    CoreError
        Naming the part or rope.
    """
    return PullSystem(
        tie=float(row["tie_m"]),
        parts=tuple(_part(p) for p in row["parts"]),
        ropes=tuple(
            Rope(
                name=r["name"],
                path=tuple(r["path"]),
                owned=r.get("owned_m"),
                strength=r.get("strength_N"),
                join=r.get("join", "none"),
                knot=r.get("knot", "unknown"),
            )
            for r in row["ropes"]
        ),
        design=row.get("design_school", "5"),
        takes=float(row.get("takes", 1.0)),
    )


def _part(row: Entry) -> Part:
    return Part(
        name=row["name"],
        kind=row["kind"],
        x=float(row["x_m"]),
        y=float(row["y_m"]),
        height=float(row.get("height_m", 0.5)),
        on=row.get("on", ""),
        people=row.get("people", 2),
        force=float(row.get("force_N", 0.0)),
        mass=float(row.get("mass_kg", 2000.0)),
        ground=row.get("ground", "grass"),
        turns=float(row.get("turns", 0.0)),
        rating=row.get("rating_N"),
        trunk=row.get("trunk_m"),
    )


def system_entry(system: PullSystem) -> dict[str, Any]:
    """Write a pulling system as an entry.

    Parameters
    ----------
    system : PullSystem
        The system.
    """
    return {
        "tie_m": system.tie,
        "design_school": system.design,
        "takes": system.takes,
        "parts": [_part_entry(p) for p in system.parts],
        "ropes": [
            {
                "name": r.name,
                "path": list(r.path),
                "owned_m": r.owned,
                "strength_N": r.strength,
                "join": r.join,
                "knot": r.knot,
            }
            for r in system.ropes
        ],
    }


def _part_entry(part: Part) -> dict[str, Any]:
    return {
        "name": part.name,
        "kind": part.kind,
        "x_m": part.x,
        "y_m": part.y,
        "height_m": part.height,
        "on": part.on,
        "people": part.people,
        "force_N": part.force,
        "mass_kg": part.mass,
        "ground": part.ground,
        "turns": part.turns,
        "rating_N": part.rating,
        "trunk_m": part.trunk,
    }


def log_of(row: Entry, tree: TreeInput) -> tuple[Log, tuple[float, ...]]:
    """Build the log of an entry, and where it is cut; its diameters come from the stem it was.

    Parameters
    ----------
    row : mapping
        The felling's ``log``: from and to along the stem, supports and cuts from its butt. [m]
    tree : TreeInput
        The tree it was.

    Raises
    ------
    CoreError
        Naming the quantity.
    """
    low, high = float(row["from_m"]), float(row["to_m"])
    if not 0.0 <= low < high <= tree.stem.height:
        field = "log_to" if high > low else "log_from"
        raise BadDocument(field, "the log ends beyond the stem, or before it begins")
    ends = [max(tree.stem.diameter_at(min(z, 0.97 * tree.stem.height)), 0.03) for z in (low, high)]
    log = Log(
        length=high - low,
        butt=ends[0],
        tip=ends[1],
        density=tree.kind.density.value * tree.condition.density.value,
        stiffness=tree.kind.moe.value,
        strength=tree.kind.mor.value * tree.condition.strength.value,
        supports=tuple(float(v) for v in row["supports_m"]),
        cross_slope=deg(row, "cross_slope_deg"),
        spring=row.get("spring", ""),
        legs=row.get("legs", False),
    )
    return log, tuple(float(v) for v in row.get("cuts_m", ()))


def felling_json(plan: FellingInput) -> dict[str, Any]:
    """Return a felling's results as plain data.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    """
    whole = complete(plan)
    result, ground = whole.result, whole.result.ground
    return {
        "figures": {key: figure_json(figure) for key, figure in result.figures.items()},
        "besides": {
            key: estimate_json(result.estimates[key], dimension)
            for key, dimension in _BESIDES.items()
            if key in result.estimates and key not in result.figures
        },
        "ruling": limit_json(result.ruling),
        "limits": [limit_json(limit) for limit in result.limits],
        "clearances": [
            {"target": c.target.name, "gap_m": c.gap, "verdict": c.verdict.value} for c in ground.clearances
        ],
        "escapes": [
            {"side": p.side, "azimuth_deg": math.degrees(p.azimuth), "clear_m": p.clear, "stopped_by": p.stopped_by}
            for p in ground.escapes
        ],
        "in_work_zone": list(ground.in_zone),
        "fall": _fall(whole.fall) if whole.fall else {"not_known": getattr(whole.why, "why", str(whole.why))},
        "footprint": _footprint(result),
        "pulling": _pulling(plan),
        "marks": {f"{name}_m": list(pair) for name, pair in bark_marks(plan.cuts)._asdict().items()},
    }


# What a felling is judged by without a figure of its own on a page: dimension by key.
_BESIDES = {
    "commit_margin": "angle", "parts_margin": "angle", "level_pull": "force", "stem_mass": "mass", "tip_margin": "moment",
    "top_aside": "offset", "split_lean": "fine_angle", "held_back": "moment",
}  # fmt: skip


def _fall(fallen: Fall) -> dict[str, Any]:
    return {f.key: figure_json(f) for f in fallen.figures}


def _footprint(result: FellingResult) -> dict[str, Any]:
    found = footprint(result.plan, result.bend)
    return {
        "samples": found.samples,
        "chances": [{"target": c.target.name, "chance": c.share, "error": c.error} for c in found.chances],
        "hinge_fails": found.fails,
    }


def _pulling(plan: FellingInput) -> dict[str, Any] | None:
    rigged = plan.rigged
    if rigged is None:
        return None
    return {
        "purchase_ideal": rigged.ideal,
        "purchase": estimate_json(rigged.purchase, "ratio"),
        "effort": estimate_json(rigged.effort, "force"),
        "pull": estimate_json(rigged.pull, "force"),
        "azimuth_deg": math.degrees(rigged.azimuth),
        "parts": [
            {"part": load.part, "force": plain_json(load.force, "force"), "direction": list(load.direction)}
            for load in rigged.worked.loads
        ],
        "legs": [
            {
                "rope": leg.rope,
                "from": leg.a,
                "to": leg.b,
                "at_load": plain_json(leg.load, "force"),
                "at_haul": plain_json(leg.haul, "force"),
            }
            for leg in rigged.worked.legs
        ],
        "fouls": [
            {"rope": f.leg.rope, "target": f.target, "passes_m": f.passes, "wanted_m": f.wanted} for f in rigged.fouls
        ],
    }
