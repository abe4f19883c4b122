"""The felling of a plan document: its entry to core inputs, and its results as plain data."""

from __future__ import annotations

import json
import math
from dataclasses import asdict
from typing import Any

from treecore.document.codec import decode
from treecore.document.felling import FellingEntry, GuyEntry, LogEntry, PartEntry, PullEntry, RopeEntry, SystemEntry
from treecore.document.fields import for_core, of_core
from treecore.errors import BadDocument
from treecore.felling.bucking import Log
from treecore.felling.evaluate import complete
from treecore.felling.fall import Fall
from treecore.felling.footprint import footprint
from treecore.felling.inputs import FellingInput, oval_at
from treecore.felling.notch import Cuts
from treecore.felling.oval import bark_marks
from treecore.felling.plan import FellingResult
from treecore.felling.sawing import Saw
from treecore.felling.wedges import Wedges
from treecore.findings import Seen
from treecore.formats.plain import Entry, estimate_json, figure_json, limit_json, plain_json
from treecore.overhead import Conductor
from treecore.rigging.line import Guy, Pull
from treecore.rigging.pulling import Part, PullSystem, Rope
from treecore.rigging.tackle import Tackle
from treecore.schools import constant
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
    said = decode(FellingEntry, entry)
    return FellingInput(
        **for_core(said, "plan"),
        tree=tree,
        site=site,
        cuts=_cuts(said, tree),
        wedges=Wedges(**for_core(said.wedges)),
        pull=_pull(said.pull) if said.pull and not said.system else None,  # a line beside a system waits
        conductors=conductors,
        saw=Saw(**for_core(said, "saw")),
        guy=_guy(said.guy) if said.guy else None,
        system=_system(said.system) if said.system else None,
        seen=seen,
    )


def _cuts(entry: FellingEntry, tree: TreeInput) -> Cuts:
    stump = constant("usual_stump").value if entry.stump_m is None else entry.stump_m
    oval = oval_at(tree, stump, math.radians(entry.lay_deg))
    across = entry.across_m or oval.across
    along = entry.along_m or (across if entry.across_m else oval.along)
    return Cuts(**for_core(entry) | {"along": along, "across": across, "stump": stump, "skew": oval.skew})


def _pull(entry: PullEntry) -> Pull:
    return Pull(**for_core(entry), tackle=Tackle(**for_core(entry.tackle)))


def _guy(entry: GuyEntry) -> Guy:
    return Guy(**for_core(entry), tackle=Tackle(**for_core(entry.tackle)))


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
    return _system(decode(SystemEntry, row))


def _system(entry: SystemEntry) -> PullSystem:
    parts = tuple(Part(**for_core(part)) for part in entry.parts)
    ropes = tuple(Rope(**for_core(rope)) for rope in entry.ropes)
    return PullSystem(**for_core(entry) | {"parts": parts, "ropes": ropes})


def system_entry(system: PullSystem) -> dict[str, Any]:
    """Write a pulling system as an entry.

    Parameters
    ----------
    system : PullSystem
        The system.
    """
    whole = {"parts": [asdict(of_core(PartEntry, p)) for p in system.parts]}
    whole |= {"ropes": [asdict(of_core(RopeEntry, r)) for r in system.ropes]}
    plain = {"tie_m": system.tie, "design_school": system.design, "takes": system.takes}
    written: dict[str, Any] = json.loads(json.dumps(whole))
    return plain | written


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
    entry = decode(LogEntry, row)
    low, high = entry.from_m, entry.to_m
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
        supports=entry.supports_m,
        cross_slope=math.radians(entry.cross_slope_deg),
        spring=entry.spring,
        legs=entry.legs,
    )
    return log, entry.cuts_m


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
    "commit_margin": "angle", "parts_margin": "angle", "level_pull": "force", "stem_mass": "mass",
    "tip_margin": "moment",
    "top_aside": "offset", "split_moment": "moment", "split": "ratio", "split_straight": "ratio", "held_back": "moment",
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
