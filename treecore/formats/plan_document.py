"""The plan document: a whole job as JSON, units in the key names. Web pages and command line read it alike."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Any

import jsonschema

from treecore.document.codec import decode, enforced
from treecore.document.fields import for_core, hold_said
from treecore.document.results import RESULTS
from treecore.document.site import SiteEntry
from treecore.document.tree import LimbEntry, TreeEntry
from treecore.document.versions import VERSION, upgraded
from treecore.errors import BadDocument, CoreError, NotSolvable, none_of
from treecore.estimate import Estimate, Kind, times
from treecore.features import Feature, site_with
from treecore.felling.inputs import FellingInput
from treecore.findings import Seen
from treecore.formats.felling_entry import felling_json, felling_of
from treecore.formats.plain import Entry, deg, estimate_json, figure_json, limit_json
from treecore.formats.reading import path_said, read_json, without_nulls
from treecore.formats.takedown_entry import cut_of, others_of, store_of, takedown_json
from treecore.hazards import Answer, Finding, Gate, Hazard, gates, hazards, together
from treecore.measuring import Combined, combine, read
from treecore.overhead import Conductor, approaches
from treecore.ranges import believed
from treecore.rigging.gear import Item
from treecore.site import Site
from treecore.species import FIGURES, WORDS, Species, own_species
from treecore.takedown.left import left_after
from treecore.tree.body import TreeInput, by_eye, said_measured
from treecore.tree.limb import Limb, LimbFigure
from treecore.tree.soundness import weak_places
from treecore.tree.spar import spar
from treecore.tree.stem import Cavity, DiameterPoint
from treecore.tree.weigh import TreeResult, limb_rows, weigh


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
    return jsonschema.Draft202012Validator(enforced())


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
    document = without_nulls(read_json(text))
    if isinstance(document, dict):
        document = upgraded(document)
        if document.get("version", VERSION) != VERSION:
            raise BadDocument(
                field="version",
                why="{version} is not a version this program reads (1 to {VERSION})",
                version=document["version"],
                VERSION=VERSION,
            )
    found = schema_errors(document)
    if found:
        where = found[0].field
        raise BadDocument(where, "; ".join(error.why for error in found if error.field == where))
    return dict(document)


def schema_errors(document: Any) -> list[BadDocument]:
    """Return every entry that does not follow the schema, the outermost first.

    Parameters
    ----------
    document : object
        As JSON gives it.
    """
    told = [part for error in _validator().iter_errors(document) for part in _innermost(error)]
    found = sorted(told, key=lambda e: (len(e.absolute_path), str(e.absolute_path)))
    return [
        BadDocument(path_said(tuple(error.absolute_path)) or "document", _shortened(error.message)) for error in found
    ]


def _shortened(said: str) -> str:
    """A sentence that may quote a whole entry, cut off in its middle where it is long."""
    return said if len(said) < 400 else f"{said[:200]} … {said[-180:]}"


def _innermost(error: jsonschema.ValidationError) -> list[jsonschema.ValidationError]:
    """What is wrong inside an entry that may also be left out: that, not the choice between the two."""
    inside = [e for e in error.context or () if e.schema_path and e.schema_path[0] == 0]
    if error.validator != "anyOf" or not inside or not isinstance(error.instance, dict):
        return [error]
    return [part for e in inside for part in _innermost(e)]


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


def _size(value: float, quantity: str, kind: str, combined: Combined | None) -> Estimate:
    if combined:
        return combined.estimate
    return said_measured(value, quantity) if kind == Kind.MEASURED else by_eye(value, quantity)


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
    body = {key: value for key, value in entry.items() if key not in _BESIDE_THE_BODY}
    return _tree_of(json.dumps(body, sort_keys=True))


_BESIDE_THE_BODY = ("walk_up", "method", "felling", "takedown", "record")


@lru_cache(maxsize=256)
def _tree_of(text: str) -> tuple[TreeInput, Combined | None, Combined | None]:
    """Build a tree once for the same entry: benches ask for it again with every move of the hand."""
    return build_tree(json.loads(text))


def build_tree(entry: Entry) -> tuple[TreeInput, Combined | None, Combined | None]:
    """Build the tree of an entry anew, as for one of thousands that is not asked for again.

    Parameters
    ----------
    entry : mapping
        One of the document's trees, without its walk-up and plans.

    Raises
    ------
    CoreError
        Naming the quantity.
    """
    diameter, height = _readings(entry, "diameter"), _readings(entry, "height")
    said = decode(TreeEntry, entry)
    first, tall = (
        _size(said.diameter_m, "diameter", said.diameter_kind, diameter),
        _size(said.height_m, "height", said.height_kind, height),
    )
    if said.spar_top_m is not None:
        return spar(_like(said, entry, first), first, tall, said.spar_top_m), diameter, height
    across = said.diameter_across_m
    oval = 1.0 if across is None else first.value / believed("diameter_across", across, "tree_diameter")
    tree = TreeInput(
        **for_core(said),
        own=_own(entry),
        diameter=times(first, 1.0 / math.sqrt(oval)),
        oval=oval,
        oval_azimuth=math.radians(said.oval_azimuth_deg or 0.0),
        height=tall,
        spread=by_eye(said.spread_m, "spread"),
        lean_kind=Kind(said.lean_kind),
        points=tuple(DiameterPoint(p.height_m, p.diameter_m) for p in said.points),
        cavities=tuple(Cavity(**for_core(c)) for c in said.cavities),
        limbs=tuple(_limb_of(limb) for limb in said.limbs),
        replaced=frozenset(said.replaced),
    )
    return tree, diameter, height


def _like(said: TreeEntry, entry: Entry, foot: Estimate) -> TreeInput:
    """A tree of a spar's species, state and lean, to be cut down to it."""
    return TreeInput(
        species=said.species,
        own=_own(entry),
        diameter=foot,
        height=times(foot, max(20.0, 3.0 / foot.low)),
        spread=by_eye(1.0, "spread"),
        lean=math.radians(said.lean_deg),
        lean_azimuth=math.radians(said.lean_azimuth_deg),
        lean_kind=Kind(said.lean_kind),
        state=said.state,
        breast=said.breast,
        cavities=tuple(Cavity(**for_core(c)) for c in said.cavities),
    )


def limb_of(row: Entry) -> Limb:
    """Build a limb of an entry.

    Parameters
    ----------
    row : mapping
        One of a tree's limbs.

    Raises
    ------
    CoreError
        Naming the limb and the quantity.
    """
    return _limb_of(decode(LimbEntry, row))


def _limb_of(entry: LimbEntry) -> Limb:
    return Limb(**for_core(entry) | {"parent": entry.parent, "kind": Kind(entry.kind)})


def _own(entry: Entry) -> Species | None:
    row = entry.get("yard")
    return None if row is None else own_row(entry["species"], row)


def own_row(like: str, row: Entry) -> Species:
    """Build a yard's own species.

    Parameters
    ----------
    like : str
        Published species it takes everything else from.
    row : mapping
        ``yard`` of a tree's entry: figures as [value, low, high] in the unit of their key.

    Raises
    ------
    CoreError
        Naming the figure.
    """
    changes: dict[str, Any] = {k: row[k] for k in (*WORDS, "key", "common", "scientific", "note") if row.get(k)}
    for name, factor in FIGURES.items():
        values = row.get(f"{name}_{UNITS[name]}")
        if values:
            value, low, high = (float(v) * factor for v in values)
            changes[name] = Estimate(value, low, high, Kind.ESTIMATED)
    return own_species(like, changes, row.get("source", "the yard's own"))


UNITS = {"density": "kg_m3", "mor": "MPa", "moe": "GPa", "compression": "MPa", "shear": "MPa"}


def feature_of(row: Entry) -> Feature:
    """Build a feature of a site's entry.

    Parameters
    ----------
    row : mapping
        One of the site's targets.

    Raises
    ------
    CoreError
        Naming the feature and the field.
    """
    return _feature_of(json.dumps(row, sort_keys=True))


@lru_cache(maxsize=1024)
def _feature_of(text: str) -> Feature:
    """Build a feature once for the same entry."""
    row: Entry = json.loads(text)
    ends, approach = row.get("ends_m"), row.get("approach_m")
    if approach is None and row.get("voltage", "unknown") != "unknown":
        if row["voltage"] not in approaches():
            raise none_of(what=f"{row['name']} voltage", given=row["voltage"], known=approaches())
        approach = approaches()[row["voltage"]].distance
    return Feature(
        name=row["name"],
        kind=row.get("kind", "other"),
        shape=row.get("shape", "area"),
        points=tuple((float(x), float(y)) for x, y in row["outline_m"]),
        width=row.get("width_m"),
        radius=row.get("radius_m"),
        height=float(row.get("height_m", 0.0)),
        light_touch=row.get("light_touch", False),
        worth=row.get("worth", ""),
        ends=(float(ends[0]), float(ends[1])) if ends else None,
        sag=row.get("sag_m"),
        approach=approach,
    )


def features_of(site: Entry) -> tuple[Feature, ...]:
    """Build every feature of a site's entry.

    Parameters
    ----------
    site : mapping
        The document's site.

    Raises
    ------
    CoreError
        Naming the feature and the field.
    """
    return _features_of(json.dumps(site.get("targets", ())))


@lru_cache(maxsize=64)
def _features_of(text: str) -> tuple[Feature, ...]:
    return tuple(feature_of(row) for row in json.loads(text))


def conductors_of(site: Entry) -> tuple[Conductor, ...]:
    """Build the overhead conductors of a site's entry.

    Parameters
    ----------
    site : mapping
        The document's site.

    Raises
    ------
    CoreError
        Naming the conductor.
    """
    return tuple(f.conductor for f in features_of(site) if f.kind == "conductor")


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
    place = float(entry.get("x_m", 0.0)), float(entry.get("y_m", 0.0))
    return _site_of(features_of(site), place, deg(site, "slope_deg"), deg(site, "downhill_deg"))


# The same features at the same place make the same site; a drag on a bench asks for it with every move.
_site_of = lru_cache(maxsize=64)(site_with)


def answers_of(entry: Entry) -> dict[str, Answer]:
    """Build the walk-up answers of an entry; several people's answers to one hazard are taken together.

    Parameters
    ----------
    entry : mapping
        One of the document's trees.
    """
    found: dict[str, list[Answer]] = {}
    for a in entry.get("walk_up", ()):
        found.setdefault(a["hazard"], []).append(Answer(Finding(a["finding"]), a.get("response", "")))
    return {key: together(answers) for key, answers in found.items()}


def seen_of(entry: Entry) -> tuple[Seen, ...]:
    """Build what the walk-up found present; of several people's heights the lowest counts, and none where one gave
    none.

    Parameters
    ----------
    entry : mapping
        One of the document's trees.

    Raises
    ------
    CoreError
        On a height on no tree.
    """
    heights: dict[str, list[float | None]] = {}
    for a in entry.get("walk_up", ()):
        if a["finding"] == Finding.PRESENT:
            heights.setdefault(a["hazard"], []).append(a.get("height_m"))
    found = answers_of(entry)
    return tuple(
        Seen(
            hazard=key,
            response=found[key].response,
            height=None if None in rows else min(h for h in rows if h is not None),
        )
        for key, rows in heights.items()
    )


def own_hazards(entry: Entry) -> tuple[Hazard, ...]:
    """Build the yard's own hazards that an entry's walk-up answers: those that bring their name along.

    Parameters
    ----------
    entry : mapping
        One of the document's trees.
    """
    rows = {a["hazard"]: a for a in entry.get("walk_up", ()) if a.get("name")}
    return tuple(
        Hazard(key, a.get("group", "Crew"), a["name"], a.get("gate", False), a.get("caution", ""))
        for key, a in rows.items()
        if key not in hazards()
    )


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
    felled = felled_tree(entry, tree)
    return TreePlan(
        name=entry["name"],
        tree=tree,
        diameter=diameter,
        height=height,
        gates=gates(answers_of(entry), own_hazards(entry)),
        felling=felling_of(felling, felled, site_of(site, entry), conductors_of(site), seen_of(entry))
        if felling
        else None,
    )


def felled_tree(entry: Entry, tree: TreeInput) -> TreeInput:
    """Return the tree that is felled: whole, or what the first picks of its takedown leave of it.

    Parameters
    ----------
    entry : mapping
        One of the document's trees.
    tree : TreeInput
        It whole.

    Raises
    ------
    CoreError
        If a pick can't be taken, or too little is left.
    """
    count = (entry.get("felling") or {}).get("after_picks") or 0
    return after_picks(tree, (entry.get("takedown") or {}).get("picks", ()), count)


def after_picks(tree: TreeInput, picks: Sequence[Entry], count: int) -> TreeInput:
    """Return what a number of picks leave of a tree.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    picks : sequence of mapping
        Picks of its takedown, in order.
    count : int
        How many are taken before it is felled. [-]

    Raises
    ------
    CoreError
        If there are fewer, one can't be taken, or too little is left.
    """
    if not count:
        return tree
    if count > len(picks):
        raise NotSolvable(
            what="after_picks",
            why="there are {picks} picks; it can't be felled after {count}",
            picks=len(picks),
            count=count,
        )
    return _after(tree, tuple(cut_of(row) for row in picks[:count]))


# The same tree and cuts leave the same; a drag on a bench asks for it with every move.
_after = lru_cache(maxsize=64)(left_after)


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
    gear = store_of(document)
    try:
        hold_site(document.get("site", {}))
    except CoreError as error:
        raise BadDocument(field="site", why=str(error)) from error
    for number, entry in enumerate(document["trees"]):
        try:
            results.append(evaluate_tree(document.get("site", {}), entry, gear))
        except CoreError as error:
            raise BadDocument(field=f"trees[{number}] “{entry['name']}”", why=str(error)) from error
    return {"schema": "cantrel-results", "version": RESULTS, "trees": results}


def hold_site(site: Entry) -> None:
    """Hold a site's entry against what is believed of its slope, winds, origin and everything that stands on it.

    Parameters
    ----------
    site : mapping
        The document's site.

    Raises
    ------
    CoreError
        Naming the field.
    """
    said = decode(SiteEntry, site)
    for entry, where in ((said, ""), *((target, f"target {target.name}") for target in said.targets)):
        hold_said(entry, where)
    site_of(site, {})


def evaluate_tree(site: Entry, entry: Entry, gear: dict[str, Item]) -> dict[str, Any]:
    """Evaluate one tree of a document.

    Parameters
    ----------
    site, entry : mapping
        The document's site, and the tree.
    gear : dict of str to Item
        Gear it may name.

    Raises
    ------
    CoreError
        Naming what is refused.
    """
    _hold_tree(entry)
    plan = tree_plan(site, entry)
    standing = weigh(plan.tree)
    out: dict[str, Any] = {
        "name": plan.name,
        "diameter": estimate_json(plan.tree.diameter, "girth"),
        "height": estimate_json(plan.tree.height, "length"),
        "standing": _standing(standing),
        "limbs": [_limb(row) for row in limb_rows(plan.tree)],
        "weak_places": [limit_json(limit) for limit in weak_places(plan.tree)],
        "gates_open": [g.hazard.key for g in plan.gates if g.open],
    }
    if entry.get("takedown"):
        out["takedown"] = takedown_json(
            entry["takedown"], plan.tree, site_of(site, entry), gear, others=others_of(site, entry), seen=seen_of(entry)
        )
    if plan.felling:
        out["felling"] = felling_json(plan.felling)
    return out


def _hold_tree(entry: Entry) -> None:
    """Hold what nothing is computed from as well: where the tree stands, and after how many picks it is felled."""
    said = decode(TreeEntry, {key: value for key, value in entry.items() if key != "takedown"})
    for part in (said, said.felling):
        if part is not None:
            hold_said(part)


def _standing(result: TreeResult) -> dict[str, Any]:
    return {f.key: figure_json(f) for f in result.figures}


def _limb(row: LimbFigure) -> dict[str, Any]:
    return {
        "name": row.name,
        "mass": estimate_json(row.mass, "mass"),
        "balance": estimate_json(row.balance, "length"),
        "two_thirds_m": row.thirds,
        "tie_up_to_m": row.tie,
    }
