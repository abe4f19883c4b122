"""Import and export of the plan document."""

import math

from django.db import transaction

from apps.felling.models import FellingPlan
from apps.felling.planner import LENGTHS, SCHOOLS
from apps.jobs.models import Job, Role, Target, Tree
from apps.jobs.planner import JOB_TEXTS, TREE_ANGLES, TREE_LENGTHS, TREE_PLAIN
from apps.survey.models import HazardAnswer, Reading
from treecore.formats.plan_document import evaluate_document, load


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
    job.slope, job.downhill = math.radians(site.get("slope_deg", 0)), math.radians(site.get("downhill_deg", 0))
    job.save()
    Role.objects.bulk_create(Role(job=job, **row) for row in entry.get("roles", ()))
    for row in site.get("targets", ()):
        Target.objects.create(
            job=job, name=row["name"], kind=row.get("kind", "other"), height=row.get("height_m", 0.0),
            light_touch=row.get("light_touch", False), outline=row["outline_m"],
        )  # fmt: skip
    for row in document["trees"]:
        _import_tree(job, row)
    return job


def _import_tree(job, entry):
    tree = Tree(job=job, **{k: entry[k] for k in TREE_PLAIN if k in entry})
    for name in TREE_LENGTHS:
        if entry.get(f"{name}_m") is not None:
            setattr(tree, name, entry[f"{name}_m"])
    for name in TREE_ANGLES:
        setattr(tree, name, math.radians(entry[f"{name}_deg"]))
    tree.save()
    for row in entry.get("readings", ()):
        keys = ("quantity", "method", "arguments", "used", "by", "note")
        Reading.objects.create(tree=tree, sd=row.get("sd_m"), **{k: row[k] for k in keys if k in row})
    for row in entry.get("walk_up", ()):
        keys = ("hazard", "finding", "side", "note", "response", "by")
        HazardAnswer.objects.create(tree=tree, height=row.get("height_m"), **{k: row[k] for k in keys if k in row})
    if "felling" in entry:
        _import_felling(tree, entry)
    return tree


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
    plan.wedge_rise = wedges.get("rise_m", plan.wedge_rise)
    if pull:
        plan.pull_force, plan.pull_tie, plan.pull_distance = pull["force_N"], pull["tie_m"], pull["distance_m"]
        plan.pull_azimuth, plan.pull_anchor = math.radians(pull["azimuth_deg"]), pull.get("anchor_m", 0.0)
    plan.wind, plan.wind_from = row.get("wind_m_s", 0.0), math.radians(row.get("wind_from_deg", 0.0))
    plan.save()
