"""The plan document: a whole job as JSON, units in the key names. Web pages and command line read it alike."""

from __future__ import annotations

import json
import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

import jsonschema

from treecore.errors import BadDocument, CoreError
from treecore.estimate import Estimate, Kind
from treecore.felling.balance import Pull
from treecore.felling.inputs import FellingInput, Wedges, default_diameter
from treecore.felling.notch import Cuts
from treecore.felling.plan import FellingResult, evaluate
from treecore.felling.suggest import STUMP
from treecore.figures import Figure
from treecore.hazards import Answer, Finding, Gate, gates
from treecore.measuring import Combined, combine, read
from treecore.site import Site, Target
from treecore.tree.body import TreeInput, by_eye, said_measured
from treecore.tree.weigh import TreeResult, weigh
from treecore.units import SI_UNITS
from treecore.verdict import Limit

SCHEMA, VERSION = "cantrel-plan", 1
Entry = Mapping[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class TreePlan:
    """One tree of a document as core inputs; ``felling`` is None where no felling is planned yet."""

    name: str
    tree: TreeInput
    diameter: Combined | None
    height: Combined | None
    gates: tuple[Gate, ...]
    felling: FellingInput | None


@cache
def _validator() -> jsonschema.protocols.Validator:
    text = files("treecore").joinpath("formats/plan.schema.json").read_text(encoding="utf-8")
    return jsonschema.Draft202012Validator(json.loads(text))


def _no_constant(name: str) -> float:
    raise BadDocument("document", f"{name} is no number a plan can hold")


def load(text: str) -> dict[str, Any]:
    """Read a document and hold it against the schema.

    Parameters
    ----------
    text : str
        JSON.

    Raises
    ------
    BadDocument
        Naming the path of the first entry that does not fit.
    """
    try:
        document = json.loads(text, parse_constant=_no_constant)
    except json.JSONDecodeError as error:
        raise BadDocument(f"line {error.lineno}", f"not JSON: {error.msg}") from None
    if isinstance(document, dict) and document.get("version", VERSION) != VERSION:
        raise BadDocument("version", f"{document['version']} is not a version this program reads ({VERSION})")
    found = sorted(_validator().iter_errors(document), key=lambda e: (len(e.path), str(e.path)))
    if found:
        path = "".join(f"[{p}]" if isinstance(p, int) else f".{p}" for p in found[0].absolute_path).lstrip(".")
        same = [error.message for error in found if error.absolute_path == found[0].absolute_path]
        raise BadDocument(path or "document", "; ".join(same))
    return dict(document)


def _deg(entry: Entry, key: str, default: float = 0.0) -> float:
    value = entry.get(key)
    return math.radians(default if value is None else value)


def arguments(raw: Entry) -> dict[str, float]:
    """Turn arguments with units in their names into SI by plain name.

    Parameters
    ----------
    raw : mapping
        Keys ending in ``_m`` or ``_deg``. [m, degrees]
    """
    plain = {k[:-2]: float(v) for k, v in raw.items() if k.endswith("_m")}
    return plain | {k[:-4]: math.radians(v) for k, v in raw.items() if k.endswith("_deg")}


def _readings(entry: Entry, quantity: str) -> Combined | None:
    used = [r for r in entry.get("readings", ()) if r["quantity"] == quantity and r.get("used", True)]
    return combine([read(r["method"], arguments(r["arguments"]), r.get("sd_m")) for r in used]) if used else None


def _size(entry: Entry, quantity: str, combined: Combined | None) -> Estimate:
    if combined:
        return combined.estimate
    value = float(entry[f"{quantity}_m"])
    if entry.get(f"{quantity}_kind", "estimated") == Kind.MEASURED and quantity != "spread":
        return said_measured(value, quantity)
    return by_eye(value, quantity)


def tree_of(entry: Entry) -> tuple[TreeInput, Combined | None, Combined | None]:
    """Build the tree of an entry; used readings take the place of the typed diameter and height.

    Parameters
    ----------
    entry : mapping
        One of the document's trees.

    Raises
    ------
    CoreError
        Naming the quantity.
    """
    diameter, height = _readings(entry, "diameter"), _readings(entry, "height")
    tree = TreeInput(
        species=entry["species"],
        diameter=_size(entry, "diameter", diameter),
        height=_size(entry, "height", height),
        spread=_size(entry, "spread", None),
        lean=_deg(entry, "lean_deg"),
        lean_azimuth=_deg(entry, "lean_azimuth_deg"),
        lean_kind=Kind(entry.get("lean_kind", "estimated")),
        state=entry.get("state", "in_leaf"),
        crown_base=entry.get("crown_base_m"),
        crown_east=entry.get("crown_east_m"),
        crown_north=entry.get("crown_north_m"),
        breast=entry.get("breast", "metric"),
    )
    return tree, diameter, height


def site_of(site: Entry, entry: Entry) -> Site:
    """Build the site as one tree sees it.

    Parameters
    ----------
    site, entry : mapping
        The document's site, and one of its trees.

    Raises
    ------
    CoreError
        Naming the target or slope.
    """
    targets = tuple(
        Target(
            name=t["name"], kind=t.get("kind", "other"), outline=tuple((float(x), float(y)) for x, y in t["outline_m"]),
            height=float(t.get("height_m", 0.0)), light_touch=t.get("light_touch", False),
        )
        for t in site.get("targets", ())
    )  # fmt: skip
    return Site(
        tree_x=float(entry.get("x_m", 0.0)), tree_y=float(entry.get("y_m", 0.0)), targets=targets,
        slope=_deg(site, "slope_deg"), downhill=_deg(site, "downhill_deg"),
    )  # fmt: skip


def felling_of(entry: Entry, tree: TreeInput, site: Site) -> FellingInput:
    """Build the felling of an entry; stump diameters left out come from the taper curve.

    Parameters
    ----------
    entry : mapping
        The tree's ``felling``.
    tree : TreeInput
        The tree.
    site : Site
        Its site.

    Raises
    ------
    CoreError
        Naming the quantity.
    """
    stump = float(entry.get("stump_m", STUMP))
    lay = _deg(entry, "lay_deg")
    across = entry.get("across_m") or default_diameter(tree, stump, lay + math.pi / 2.0)
    along = entry.get("along_m") or (float(across) if entry.get("across_m") else default_diameter(tree, stump, lay))
    wedges, pull = entry.get("wedges", {}), entry.get("pull")
    return FellingInput(
        tree=tree,
        site=site,
        lay=lay,
        cuts=Cuts(
            along=float(along),
            across=float(across),
            stump=stump,
            depth=float(entry["depth_m"]),
            opening=_deg(entry, "opening_deg"),
            hinge=float(entry["hinge_m"]),
            rise=float(entry["rise_m"]),
            notch_school=entry.get("notch_school", "conventional"),
            depth_school=entry.get("depth_school", "chord80"),
            thickness_school=entry.get("thickness_school", "tenth"),
        ),
        wedges=Wedges(
            count=wedges.get("count", 0), stacked=wedges.get("stacked", 1), rise=float(wedges.get("rise_m", 0.025))
        ),
        pull=Pull(
            tie=float(pull["tie_m"]), azimuth=_deg(pull, "azimuth_deg"), distance=float(pull["distance_m"]),
            anchor=float(pull.get("anchor_m", 0.0)), force=float(pull["force_N"]),
        )
        if pull
        else None,
        wind=float(entry.get("wind_m_s", 0.0)),
        wind_from=_deg(entry, "wind_from_deg"),
        zone=entry.get("zone_school", "1.5"),
    )  # fmt: skip


def answers_of(entry: Entry) -> dict[str, Answer]:
    """Build the walk-up answers of an entry.

    Parameters
    ----------
    entry : mapping
        One of the document's trees.
    """
    return {a["hazard"]: Answer(Finding(a["finding"]), a.get("response", "")) for a in entry.get("walk_up", ())}


def tree_plan(site: Entry, entry: Entry) -> TreePlan:
    """Build everything the core computes from for one tree.

    Parameters
    ----------
    site, entry : mapping
        The document's site, and one of its trees.

    Raises
    ------
    CoreError
        Naming the quantity.
    """
    tree, diameter, height = tree_of(entry)
    felling = entry.get("felling")
    return TreePlan(
        name=entry["name"],
        tree=tree,
        diameter=diameter,
        height=height,
        gates=gates(answers_of(entry)),
        felling=felling_of(felling, tree, site_of(site, entry)) if felling else None,
    )


def evaluate_document(document: Entry) -> dict[str, Any]:
    """Evaluate every tree of a loaded document.

    Parameters
    ----------
    document : mapping
        As ``load`` returns it.

    Returns
    -------
    dict
        Results with value, low, high, unit (SI) and kind; no NaN.

    Raises
    ------
    BadDocument
        Naming the tree and the quantity that is refused.
    """
    results = []
    for number, entry in enumerate(document["trees"]):
        try:
            results.append(_evaluate_tree(document.get("site", {}), entry))
        except CoreError as error:
            raise BadDocument(f"trees[{number}] “{entry['name']}”", str(error)) from error
    return {"schema": "cantrel-results", "version": VERSION, "trees": results}


def _evaluate_tree(site: Entry, entry: Entry) -> dict[str, Any]:
    plan = tree_plan(site, entry)
    standing = weigh(plan.tree)
    out: dict[str, Any] = {
        "name": plan.name,
        "diameter": _estimate(plan.tree.diameter, "girth"),
        "height": _estimate(plan.tree.height, "length"),
        "standing": _standing(standing),
        "gates_open": [g.hazard.key for g in plan.gates if g.open],
    }
    if plan.felling:
        out["felling"] = felling_json(evaluate(plan.felling))
    return out


def _standing(result: TreeResult) -> dict[str, Any]:
    return {f.key: _figure(f) for f in result.figures}


def _estimate(e: Estimate, dimension: str) -> dict[str, Any]:
    return {"value": e.value, "low": e.low, "high": e.high, "unit": SI_UNITS[dimension], "kind": e.kind.value}


def _figure(figure: Figure) -> dict[str, Any]:
    return _estimate(figure.estimate, figure.dimension) | {
        "label": figure.label, "formula": figure.formula, "source": figure.source, "widened_by": figure.widest,
    }  # fmt: skip


def _limit(limit: Limit) -> dict[str, Any]:
    return {
        "limit": limit.key,
        "verdict": limit.verdict.value,
        "note": limit.note,
        "demand": _estimate(limit.demand, limit.dimension) if limit.demand else None,
        "allowed": _estimate(limit.allowed, limit.dimension) if limit.allowed else None,
        "least": limit.least,
    }


def felling_json(result: FellingResult) -> dict[str, Any]:
    """Return a felling result as plain data.

    Parameters
    ----------
    result : FellingResult
        The result.
    """
    ground = result.ground
    return {
        "figures": {key: _figure(figure) for key, figure in result.figures.items()},
        "ruling": _limit(result.ruling),
        "limits": [_limit(limit) for limit in result.limits],
        "clearances": [
            {"target": c.target.name, "gap_m": c.gap, "verdict": c.verdict.value} for c in ground.clearances
        ],
        "escapes": [
            {"side": p.side, "azimuth_deg": math.degrees(p.azimuth), "clear_m": p.clear, "stopped_by": p.stopped_by}
            for p in ground.escapes
        ],
        "in_work_zone": list(ground.in_zone),
    }
