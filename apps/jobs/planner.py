"""Jobs: rows to the plan document's entries, and changes to jobs, targets and trees."""

from __future__ import annotations

import math
from contextlib import nullcontext
from itertools import count
from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.db.models import prefetch_related_objects
from django.shortcuts import get_object_or_404
from django.utils.translation import gettext

from apps.crews import steps
from apps.jobs.models import Job, Limb, Target, Tree
from apps.species.models import YardSpecies
from apps.species.planner import yard_entry, yard_rows
from cantrel.rows import columns_of, entry_of, named
from cantrel.words import choices_of
from treecore.document.site import JobEntry, RoleEntry, SiteEntry, TargetEntry
from treecore.document.tree import LimbEntry, TreeEntry
from treecore.features import feature_kinds
from treecore.formats.leads import MOST, usual_leads
from treecore.formats.plan_document import site_of, tree_of
from treecore.site import bearing
from treecore.species import find, species_table, states
from treecore.tree.body import usual_spread
from treecore.tree.weigh import weigh

if TYPE_CHECKING:
    from django.db.models import QuerySet

    from apps.crews.models import Crew
    from treecore.tree.body import TreeInput
    from treecore.tree.weigh import TreeResult


def not_rectangles() -> set[str]:
    """Kinds that are not drawn as a plain rectangle."""
    return {key for key, kind in feature_kinds().items() if not kind.target or kind.shape != "area"}


def jobs_of(crew: Crew) -> QuerySet[Job]:
    """Jobs a crew sees, with their trees."""
    return Job.objects.for_crew(crew).prefetch_related("trees")


def job_for(crew: Crew, job_id: int) -> Job:
    """One job of the crew's own; another crew's is not found."""
    return get_object_or_404(Job.objects.for_crew(crew), pk=job_id)


def tree_for(crew: Crew, job_id: int, tree_id: int) -> Tree:
    """One tree of the crew's own."""
    trees = Tree.objects.select_related("job__crew").filter(job__in=Job.objects.for_crew(crew))
    return get_object_or_404(trees, pk=tree_id, job_id=job_id)


def whole(tree: Tree) -> Tree:
    """The tree with everything a page that shows it all asks for, in a few queries."""
    prefetch_related_objects([tree], "readings", "answers", "limbs", "job__targets", "job__roles")
    by_id = {limb.pk: limb for limb in tree.limbs.all()}
    for limb in by_id.values():
        if limb.parent_id:
            limb.parent = by_id[limb.parent_id]
    return tree


def degrees(value: float) -> float:
    """Radians to degrees without the last bit's noise."""
    return round(math.degrees(value), 10)


def target_entry(target: Target, own: dict[str, float] | None = None) -> dict[str, Any]:
    """The document's target; a conductor keeps the yard's own distance where the yard has one for its voltage."""
    entry = {k: v for k, v in entry_of(target, TargetEntry).items() if v not in ("", False) or k == "light_touch"}
    if target.end_a is not None and target.end_b is not None:
        entry["ends_m"] = [target.end_a, target.end_b]
    if target.kind == "conductor" and target.approach is None and (target.voltage or "unknown") in (own or {}):
        entry["approach_m"] = (own or {})[target.voltage or "unknown"]
    return entry | named("target", target)


def own_approaches(crew: Crew) -> dict[str, float]:
    """The yard's own approach distances by voltage class."""
    return {row.voltage: row.distance for row in crew.approaches.all()}


def site_entry(job: Job) -> dict[str, Any]:
    """The document's site."""
    rows = list(job.targets.all())
    own = own_approaches(job.crew) if any(t.kind == "conductor" for t in rows) else {}
    entry = entry_of(job, SiteEntry) | {"targets": [target_entry(t, own) for t in rows]}
    if job.origin_lat is not None and job.origin_lon is not None:
        entry["origin"] = {"lat_deg": job.origin_lat, "lon_deg": job.origin_lon}
    return entry


def limb_entry(limb: Limb) -> dict[str, Any]:
    """The document's limb."""
    parent = {"parent": limb.parent.name} if limb.parent else {}
    return entry_of(limb, LimbEntry) | parent | named("limb", limb)


def job_entry(job: Job) -> dict[str, Any]:
    """The document's job."""
    return entry_of(job, JobEntry) | {"roles": [entry_of(role, RoleEntry) for role in job.roles.all()]}


def tree_entry(tree: Tree) -> dict[str, Any]:
    """The document's tree, by its five numbers and what was measured of its body."""
    entry = {key: value for key, value in entry_of(tree, TreeEntry).items() if value != []}
    if tree.yard:
        entry["yard"] = yard_entry(tree.yard)
    there = "limbs" in getattr(tree, "_prefetched_objects_cache", ())
    rows = tree.limbs.all() if there else tree.limbs.select_related("parent") if tree.pk else ()
    limbs = [limb_entry(limb) for limb in rows]
    return entry | ({"limbs": limbs} if limbs else {})


def species_choices(crew: Crew | None = None) -> list[tuple[str, str]]:
    """Species for a select: the yard's own first, then the published ones by common name."""
    rows = sorted(species_table().values(), key=lambda s: s.common)
    own = (
        [(f"yard:{row.pk}", gettext("{common} (the yard’s own)").format(common=row.common)) for row in yard_rows(crew)]
        if crew
        else []
    )
    return own + [(s.key, f"{gettext(s.common)} ({s.scientific})") for s in rows]


def state_choices() -> list[tuple[str, str]]:
    """States for a select."""
    return choices_of(states().values())


def common_name(tree: Tree) -> str:
    """Common name of a tree's species."""
    return tree.yard.common if tree.yard else common_name_of(tree.species)


def common_name_of(species: str) -> str:
    """Common name of a published species."""
    return gettext(find(species).common)


def normal_bearing(azimuth: float, what: str = "bearing") -> tuple[float, bool]:
    """A bearing modulo a full turn, and whether it was changed; ``what`` is what an error calls it."""
    return bearing(azimuth, what)


# What a new tree is until somebody says otherwise.
NEW_TREE = {
    "state": "in_leaf",
    "x": 0.0,
    "y": 0.0,
    "lean_kind": "assumed",
    "diameter_kind": "measured",
    "height_kind": "estimated",
    "breast": "metric",
}


def first_guess(values: dict[str, Any]) -> dict[str, Any] | None:
    """Fill what is not typed yet so that species, diameter and height already give a tree; None without them."""
    if values.get("diameter") is None or values.get("height") is None:
        return None
    spread = values.get("spread")
    if spread is None:
        spread = usual_spread(_published(values["species"]), values["diameter"])
    lean = {"lean": 0.0, "lean_azimuth": 0.0, "lean_kind": "assumed"} if values.get("lean") is None else {}
    guess = values | {"spread": spread} | lean
    if guess.get("lean_azimuth") is None:
        guess["lean_azimuth"] = 0.0
    return guess | {n: values.get(n) or 0.0 for n in ("x", "y", "oval_azimuth")}


def next_name(job: Job) -> str:
    """A name for a tree nobody named: its number in the job, the first that is free."""
    taken = set(job.trees.values_list("name", flat=True))
    names = (gettext("Tree {number}").format(number=n) for n in count(1))
    return next(name for name in names if name not in taken)


MOST_LEADS = MOST
LEADS = ("leads", "leads_towards")  # what a new tree's form asks of its fork beside its height


def begun(job: Job, values: dict[str, Any]) -> tuple[Tree, dict[str, Any]] | None:
    """A tree that is not saved yet, and its entry with the leads of its fork; None while too little is typed."""
    guess = first_guess({name: value for name, value in values.items() if name not in LEADS})
    if guess is None:
        return None
    fork = guess.pop("fork", None)
    tree = put_tree(Tree(job=job), {name: value for name, value in guess.items() if value is not None})
    if fork is None:
        return tree, tree_entry(tree)
    whole, _, _ = tree_of(tree_entry(tree))
    tree.fork = fork
    leads = values.get("leads") or 2
    names = [gettext("Lead {number}").format(number=n + 1) for n in range(leads)]
    limbs = usual_leads(whole, fork, leads, values.get("leads_towards") or 0.0, names)
    return tree, tree_entry(tree) | {"limbs": limbs}


@transaction.atomic
def begin_tree(job: Job, values: dict[str, Any]) -> tuple[Tree, TreeResult]:
    """Make a tree of what was typed; the rest as ``NEW_TREE`` says and as its species usually is."""
    said = {name: value for name, value in values.items() if value not in (None, "")}
    begun_with = begun(job, {name: said.get(name) for name in values} | NEW_TREE | said)
    if begun_with is None:
        return save_tree(job, said)
    tree, entry = begun_with
    _, result = weigh_entry(entry)
    site_of(site_entry(job), entry)
    tree.save()
    for row in entry.get("limbs", ()):
        Limb.objects.create(tree=tree, **columns_of(row, LimbEntry))
    return tree, result


def weigh_entry(entry: dict[str, Any]) -> tuple[TreeInput, TreeResult]:
    """Weigh the tree of an entry; returns the core's tree and result."""
    tree, _, _ = tree_of(entry)
    return tree, weigh(tree)


@transaction.atomic
def save_job(crew: Crew, values: dict[str, Any], job: Job | None = None) -> Job:
    """Make or change a job."""
    with steps.recorded("paper", job, gettext("job changed")) if job else nullcontext():
        job = job or Job(crew=crew)
        for name, value in values.items():
            setattr(job, name, value)
        site_of(site_entry(job) if job.pk else {"slope_deg": degrees(job.slope)}, {})
        job.save()
    return job


@transaction.atomic
def save_tree(job: Job, values: dict[str, Any], tree: Tree | None = None) -> tuple[Tree, TreeResult]:
    """Make or change a tree once the core takes it; returns the tree and its result."""
    with steps.recorded("body", tree, gettext("tree changed")) if tree else nullcontext():
        tree = put_tree(tree or Tree(job=job), values)
        _, result = weigh_entry(tree_entry(tree))
        site_of(site_entry(job), tree_entry(tree))
        tree.save()
    return tree, result


def _published(species: str) -> str:
    """Published species behind what a species select posts."""
    if not species.startswith("yard:"):
        return species
    return get_object_or_404(YardSpecies, pk=species.removeprefix("yard:")).like


def put_tree(tree: Tree, values: dict[str, Any]) -> Tree:
    """Put a form's values on a tree; a species of the yard's own brings its row along."""
    for name, value in values.items():
        setattr(tree, name, value)
    if "species" in values:
        tree.yard = None
    if tree.species.startswith("yard:"):
        tree.yard = get_object_or_404(yard_rows(tree.job.crew), pk=tree.species.removeprefix("yard:"))
        tree.species = tree.yard.like
    return tree


def rectangle(values: dict[str, Any]) -> list[list[float]]:
    """Corners of a rectangle by its centre, sides and bearing of its long side [m]."""
    x, y, turn = values["x"], values["y"], values["turned"]
    s, c = math.sin(turn), math.cos(turn)
    half = ((values["long"] / 2, values["wide"] / 2), (values["long"] / 2, -values["wide"] / 2))
    corners = [*half, *((-a, -b) for a, b in half)]
    return [[round(x + a * s + b * c, 3), round(y + a * c - b * s, 3)] for a, b in corners]


@transaction.atomic
def save_target(job: Job, values: dict[str, Any], target: Target | None = None) -> Target:
    """Add or change a target once every tree's site takes it."""
    target = target or Target(job=job)
    for name, value in values.items():
        setattr(target, name, value)
    entry = site_entry(job)
    entry["targets"] = [t for t in entry["targets"] if t["name"] != target.name]
    entry["targets"].append(target_entry(target))
    for tree in job.trees.all():
        site_of(entry, tree_entry(tree))
    with steps.recorded("site", job, gettext("{name} kept").format(name=target.name)):
        target.save()
    return target


def remove_target(target: Target) -> None:
    """Take a target off the site; its history stays, and undo brings it back."""
    with steps.recorded("site", target.job, gettext("{name} taken off").format(name=target.name)):
        target.delete()
