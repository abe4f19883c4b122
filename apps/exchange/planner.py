"""Import and export of the plan document."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.utils.translation import gettext

from apps.felling.models import FellingPlan
from apps.felling.planner import plan_for
from apps.gear.planner import from_entry
from apps.jobs.models import Job, Limb, Role, Target, Tree
from apps.species.models import YardSpecies
from apps.species.planner import save_row
from apps.survey.models import CrewHazard, HazardAnswer, Reading
from apps.takedown.planner import import_entries
from cantrel.rows import columns_of, put
from treecore.document.felling import FellingEntry
from treecore.document.site import JobEntry, RoleEntry, SiteEntry, TargetEntry
from treecore.document.tree import AnswerEntry, LimbEntry, MethodEntry, ReadingEntry, TreeEntry
from treecore.formats.plan_document import UNITS, evaluate_document, load
from treecore.schools import constant
from treecore.species import FIGURES, WORDS

if TYPE_CHECKING:
    from apps.crews.models import Crew


def read_document(text: str) -> dict[str, Any]:
    """Read a plan document and hold every tree against the core; raises BadDocument."""
    document = load(text)
    evaluate_document(document)
    return document


@transaction.atomic
def import_document(crew: Crew, text: str) -> Job:
    """Make a job of a plan document; all of it or nothing."""
    document = read_document(text)
    entry, site = document.get("job", {}), document.get("site", {})
    job = Job(crew=crew, **columns_of(entry, JobEntry))
    put_site(job, site)
    job.save()
    import_roles(job, entry)
    for row in site.get("targets", ()):
        target_of(job, row).save()
    for row in document.get("gear", ()):
        from_entry(crew, row)
    for row in document["trees"]:
        _import_tree(job, row)
    return job


def import_roles(job: Job, entry: dict[str, Any]) -> None:
    """Keep who does what by a document's job."""
    Role.objects.bulk_create(Role(job=job, **columns_of(row, RoleEntry)) for row in entry.get("roles", ()))


def put_site(job: Job, site: dict[str, Any]) -> None:
    """Put a document's slope, winds and origin on a job."""
    put(job, site, SiteEntry)
    if "origin" in site:
        job.origin_lat, job.origin_lon = site["origin"]["lat_deg"], site["origin"]["lon_deg"]


def target_of(job: Job, row: dict[str, Any]) -> Target:
    """A target of a document's entry, not yet saved."""
    ends = dict(zip(("end_a", "end_b"), row.get("ends_m") or (), strict=False))
    return Target(job=job, **columns_of(row, TargetEntry), **ends)


def tree_of_entry(job: Job, entry: dict[str, Any]) -> Tree:
    """A tree of a document's entry, not yet saved."""
    return put(Tree(job=job), entry, TreeEntry)


def yard_row(crew: Crew, entry: dict[str, Any]) -> YardSpecies:
    """The yard's row a tree of a document stands on: one that is there already, or a new one."""
    row = entry["yard"]
    common = row.get("common", entry["species"])
    values = {"like": entry["species"], "common": common, "source": row.get("source", gettext("the yard's own"))}
    values |= {k: row[k] for k in ("scientific", "note", *WORDS) if k in row}
    for name, factor in FIGURES.items():
        three = row.get(f"{name}_{UNITS[name]}")
        if three:
            values |= dict(zip((name, f"{name}_low", f"{name}_high"), (v * factor for v in three), strict=True))
    found = YardSpecies.objects.filter(crew=crew, common=common).first()
    return found or save_row(crew, values)


def import_limbs(tree: Tree, entry: dict[str, Any]) -> None:
    """Keep the limbs of a document's tree."""
    made = {}
    for row in entry.get("limbs", ()):
        limb = Limb(tree=tree, **columns_of(row, LimbEntry))
        limb.save()
        made[limb.name] = limb
    for row in entry.get("limbs", ()):
        if row.get("parent"):
            made[row["name"]].parent = made[row["parent"]]
            made[row["name"]].save()


def import_readings(tree: Tree, entry: dict[str, Any]) -> None:
    """Keep the readings of a document's tree."""
    for row in entry.get("readings", ()):
        Reading.objects.create(tree=tree, **columns_of(row, ReadingEntry))


def with_yard(job: Job, entry: dict[str, Any]) -> Tree:
    """A tree of a document's entry with the yard's row it stands on, not yet saved."""
    tree = tree_of_entry(job, entry)
    tree.yard = yard_row(job.crew, entry) if "yard" in entry else None
    return tree


def _import_tree(job: Job, entry: dict[str, Any]) -> Tree:
    tree = with_yard(job, entry)
    tree.save()
    import_limbs(tree, entry)
    import_readings(tree, entry)
    import_walk(tree, entry)
    if "felling" in entry:
        import_felling(tree, entry).save()
    elif entry.get("method", {}).get("choice"):
        import_method(tree, entry["method"])
    if "takedown" in entry:
        import_entries(tree, entry["takedown"])
    return tree


def _hazard(crew: Crew, row: dict[str, Any]) -> str:
    """Key of a walk-up line: the product's, or the crew's own one of that name, made if it is new."""
    if not row.get("name"):
        return row["hazard"]
    extra = {"group": row.get("group", "Crew"), "gate": row.get("gate", False), "caution": row.get("caution", "")}
    own, _ = CrewHazard.objects.get_or_create(crew=crew, name=row["name"], defaults=extra)
    return own.key


def import_trees(job: Job, rows: list[dict[str, Any]]) -> None:
    """Make trees of a document's entries."""
    for row in rows:
        _import_tree(job, row)


def import_method(tree: Tree, row: dict[str, str]) -> None:
    """A way chosen where no felling is planned: the usual cuts stand beside it."""
    plan = plan_for(tree)
    put(plan, row, MethodEntry).save()


def import_felling(tree: Tree, entry: dict[str, Any]) -> FellingPlan:
    """A felling plan of a document's tree, not yet saved."""
    plan = put(FellingPlan(tree=tree, stump=constant("usual_stump").value), entry["felling"], FellingEntry)
    return put(plan, entry.get("method") or {}, MethodEntry)


def import_walk(tree: Tree, entry: dict[str, Any]) -> None:
    """Keep a document's walk-up: an answer by the same name to the same hazard is put anew, all others stay."""
    for row in entry.get("walk_up", ()):
        said = columns_of(row, AnswerEntry) | {"hazard": _hazard(tree.job.crew, row)}
        known = HazardAnswer.objects.filter(tree=tree, hazard=said["hazard"], by=said.get("by", "")).first()
        answer = known or HazardAnswer(tree=tree)
        put(answer, row, AnswerEntry)
        answer.hazard = said["hazard"]
        answer.save()
