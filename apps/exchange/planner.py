"""Import and export of the plan document."""

import math

from django.db import transaction

from apps.felling.models import FellingPlan
from apps.felling.planner import LENGTHS, PLAIN, SCHOOLS, TACKLE, plan_for
from apps.gear.planner import from_entry
from apps.jobs.models import Job, Limb, Role, Target, Tree
from apps.jobs.planner import (
    JOB_TEXTS,
    LIMB_LENGTHS,
    LIMB_PLAIN,
    TARGET_LENGTHS,
    TARGET_PLAIN,
    TREE_ANGLES,
    TREE_LENGTHS,
    TREE_LISTS,
    TREE_PLAIN,
    WINDS,
)
from apps.species.models import YardSpecies
from apps.species.planner import save_row
from apps.survey.models import CrewHazard, HazardAnswer, Reading
from apps.takedown.planner import import_entries
from treecore.formats.plan_document import UNITS, evaluate_document, load
from treecore.species import FIGURES, WORDS


def read_document(text):
    """Read a plan document and hold every tree against the core; raises BadDocument."""
    document = load(text)
    evaluate_document(document)
    return document


@transaction.atomic
def import_document(crew, text):
    """Make a job of a plan document; all of it or nothing."""
    document = read_document(text)
    entry, site = document.get("job", {}), document.get("site", {})
    job = Job(crew=crew, **{k: entry[k] for k in JOB_TEXTS if k in entry})
    put_site(job, site)
    job.save()
    Role.objects.bulk_create(Role(job=job, **row) for row in entry.get("roles", ()))
    for row in site.get("targets", ()):
        target_of(job, row).save()
    for row in document.get("gear", ()):
        from_entry(crew, row)
    for row in document["trees"]:
        _import_tree(job, row)
    return job


def put_site(job, site):
    """Put a document's slope, winds and origin on a job."""
    for name in ("slope", "downhill", *WINDS):
        if site.get(f"{name}_deg") is not None:
            setattr(job, name, math.radians(site[f"{name}_deg"]))
    job.wind = site.get("wind_m_s", job.wind)
    if "origin" in site:
        job.origin_lat, job.origin_lon = site["origin"]["lat_deg"], site["origin"]["lon_deg"]


def target_of(job, row):
    """A target of a document's entry, not yet saved."""
    plain = {k: row[k] for k in TARGET_PLAIN if k in row}
    sizes = {n: row[f"{n}_m"] for n in TARGET_LENGTHS if row.get(f"{n}_m") is not None}
    ends = dict(zip(("end_a", "end_b"), row.get("ends_m", ()), strict=False))
    return Target(job=job, outline=row["outline_m"], **plain, **sizes, **ends)


def tree_of_entry(job, entry):
    """A tree of a document's entry, not yet saved."""
    tree = Tree(job=job, **{k: entry[k] for k in (*TREE_PLAIN, *TREE_LISTS) if k in entry})
    for name in TREE_LENGTHS:
        if entry.get(f"{name}_m") is not None:
            setattr(tree, name, entry[f"{name}_m"])
    for name in TREE_ANGLES:
        setattr(tree, name, math.radians(entry.get(f"{name}_deg", 0.0)))
    return tree


def _yard_row(crew, entry):
    """The yard's row a tree of a document stands on: one that is there already, or a new one."""
    row = entry["yard"]
    common = row.get("common", entry["species"])
    values = {"like": entry["species"], "common": common, "source": row.get("source", "the yard's own")}
    values |= {k: row[k] for k in ("scientific", "note", *WORDS) if k in row}
    for name, factor in FIGURES.items():
        three = row.get(f"{name}_{UNITS[name]}")
        if three:
            values |= dict(zip((name, f"{name}_low", f"{name}_high"), (v * factor for v in three), strict=True))
    found = YardSpecies.objects.filter(crew=crew, common=common).first()
    return found or save_row(crew, values)


def _import_limbs(tree, entry):
    made = {}
    for row in entry.get("limbs", ()):
        limb = Limb(tree=tree, **{k: row[k] for k in LIMB_PLAIN if k in row})
        for name in LIMB_LENGTHS:
            setattr(limb, name, row[f"{name}_m"])
        limb.azimuth, limb.rise = (math.radians(row[f"{n}_deg"]) for n in ("azimuth", "rise"))
        limb.save()
        made[limb.name] = limb
    for row in entry.get("limbs", ()):
        if row.get("parent"):
            made[row["name"]].parent = made[row["parent"]]
            made[row["name"]].save()


def _import_tree(job, entry):
    tree = tree_of_entry(job, entry)
    tree.yard = _yard_row(job.crew, entry) if "yard" in entry else None
    tree.save()
    _import_limbs(tree, entry)
    for row in entry.get("readings", ()):
        keys = ("quantity", "method", "arguments", "used", "by", "note")
        Reading.objects.create(tree=tree, sd=row.get("sd_m"), **{k: row[k] for k in keys if k in row})
    for row in entry.get("walk_up", ()):
        keys = ("finding", "side", "note", "response", "by")
        plain = {k: row[k] for k in keys if k in row}
        HazardAnswer.objects.create(tree=tree, hazard=_hazard(job.crew, row), height=row.get("height_m"), **plain)
    if "felling" in entry:
        _import_felling(tree, entry)
    elif entry.get("method", {}).get("choice"):
        _import_method(tree, entry["method"])
    if "takedown" in entry:
        import_entries(tree, entry["takedown"])
    return tree


def _hazard(crew, row):
    """Key of a walk-up line: the product's, or the crew's own one of that name, made if it is new."""
    if not row.get("name"):
        return row["hazard"]
    extra = {"group": row.get("group", "Crew"), "gate": row.get("gate", False), "caution": row.get("caution", "")}
    own, _ = CrewHazard.objects.get_or_create(crew=crew, name=row["name"], defaults=extra)
    return own.key


def import_trees(job, rows):
    """Make trees of a document's entries."""
    for row in rows:
        _import_tree(job, row)


def _import_method(tree, row):
    """A way chosen where no felling is planned: the usual cuts stand beside it."""
    plan = plan_for(tree)
    plan.method, plan.reason = row["choice"], row.get("reason", "")
    plan.save()


def _import_felling(tree, entry):
    row, method = entry["felling"], entry.get("method", {})
    plan = FellingPlan(tree=tree, method=method.get("choice", ""), reason=method.get("reason", ""))
    plan.stump = 0.3
    for name in LENGTHS:
        if row.get(f"{name}_m") is not None:
            setattr(plan, name, row[f"{name}_m"])
    for name in SCHOOLS:
        setattr(plan, name, row.get(name, getattr(plan, name)))
    plan.lay, plan.opening = math.radians(row["lay_deg"]), math.radians(row["opening_deg"])
    wedges, pull = row.get("wedges", {}), row.get("pull")
    plan.wedge_count, plan.wedge_stacked = wedges.get("count", 0), wedges.get("stacked", 1)
    plan.wedge_rise, plan.wedge_tip = wedges.get("rise_m"), wedges.get("tip_m")
    plan.wedge_kind = wedges.get("kind", plan.wedge_kind)
    plan.wedge_place = math.radians(wedges.get("place_deg", 0.0))
    for name in PLAIN:
        setattr(plan, name, row.get(name, getattr(plan, name)))
    plan.after_picks = row.get("after_picks", 0)
    plan.back_slope = math.radians(row.get("back_slope_deg", 0.0))
    plan.system, plan.log = row.get("system"), row.get("log")
    _import_guy(plan, row.get("guy"))
    if pull:
        plan.pull_force, plan.pull_tie, plan.pull_distance = pull["force_N"], pull["tie_m"], pull["distance_m"]
        plan.pull_azimuth, plan.pull_anchor = math.radians(pull["azimuth_deg"]), pull.get("anchor_m", 0.0)
        _import_tackle(plan, "pull", pull.get("tackle", {}))
        plan.pull_by = pull.get("tackle", {}).get("by", "")
        plan.pull_people = pull.get("tackle", {}).get("people", 2)
    plan.wind, wind_from = row.get("wind_m_s"), row.get("wind_from_deg")
    plan.wind_from = None if wind_from is None else math.radians(wind_from)
    plan.save()


def _import_guy(plan, guy):
    if guy:
        plan.guy_tie, plan.guy_distance, plan.guy_limit = guy["tie_m"], guy["distance_m"], guy["limit_N"]
        plan.guy_azimuth, plan.guy_anchor = math.radians(guy["azimuth_deg"]), guy.get("anchor_m", 0.0)
        plan.guy_tended, plan.guy_taut = guy.get("tended", False), guy.get("taut", False)
        _import_tackle(plan, "guy", guy.get("tackle", {}))


def _import_tackle(plan, line, row):
    for name, key in TACKLE.items():
        if row.get(key) is not None:
            setattr(plan, f"{line}_{name}", row[key])
    plan.line_design = row.get("design_school", plan.line_design)
