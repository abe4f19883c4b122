"""Felling: rows to core and back; drags on the drawings become values here, computed by the core."""

import math

from django.db import transaction

from apps.felling.models import FellingPlan
from apps.jobs.planner import degrees, normal_bearing, site_entry
from apps.survey.planner import tree_entry as surveyed
from treecore.felling.plan import evaluate
from treecore.felling.suggest import suggest_cuts
from treecore.formats.plan_document import felling_of, site_of, tree_of
from treecore.schools import schools
from treecore.workzone import open_lays

LENGTHS = ("stump", "along", "across", "depth", "hinge", "rise")
SCHOOLS = ("notch_school", "depth_school", "thickness_school", "zone_school")
FIELDS = (
    "lay", *LENGTHS, "opening", *SCHOOLS, "wedge_count", "wedge_stacked", "wedge_rise",
    "pull_force", "pull_tie", "pull_azimuth", "pull_distance", "pull_anchor", "wind", "wind_from",
)  # fmt: skip


def plan_for(tree):
    """The tree's plan; a first one by the usual values of the schools, not yet saved, if there is none."""
    try:
        return tree.felling
    except FellingPlan.DoesNotExist:
        core, _, _ = tree_of(surveyed(tree))
        cuts = suggest_cuts(core)
        plan = FellingPlan(tree=tree, stump=cuts.stump, depth=cuts.depth, opening=cuts.opening, hinge=cuts.hinge)
        plan.rise, plan.lay = cuts.rise, tree.lean_azimuth
        return plan


def felling_entry(plan):
    """The document's felling."""
    entry = {f"{n}_m": getattr(plan, n) for n in LENGTHS if getattr(plan, n) is not None}
    entry |= {n: getattr(plan, n) for n in SCHOOLS}
    entry |= {"lay_deg": degrees(plan.lay), "opening_deg": degrees(plan.opening)}
    entry |= {"wedges": {"count": plan.wedge_count, "stacked": plan.wedge_stacked, "rise_m": plan.wedge_rise}}
    entry |= {"wind_m_s": plan.wind, "wind_from_deg": degrees(plan.wind_from)}
    if plan.pull_force and plan.pull_tie is not None and plan.pull_distance is not None:
        azimuth = plan.lay if plan.pull_azimuth is None else plan.pull_azimuth
        entry["pull"] = {
            "tie_m": plan.pull_tie, "azimuth_deg": degrees(azimuth), "distance_m": plan.pull_distance,
            "anchor_m": plan.pull_anchor, "force_N": plan.pull_force,
        }  # fmt: skip
    return entry


def tree_entry(tree, plan=None):
    """The document's tree with readings, walk-up, method and felling."""
    plan = plan or plan_for(tree)
    return surveyed(tree) | {
        "method": {"choice": plan.method, "reason": plan.reason},
        "felling": felling_entry(plan),
    }


def core_plan(tree, plan):
    """The core's input for a plan."""
    core, _, _ = tree_of(surveyed(tree))
    return felling_of(felling_entry(plan), core, site_of(site_entry(tree.job), surveyed(tree)))


def evaluated(tree, plan=None):
    """A plan evaluated: the core's input and its result."""
    given = core_plan(tree, plan or plan_for(tree))
    return given, evaluate(given)


def with_values(plan, values):
    """Put a form's values on a plan without saving; bearings are taken modulo a turn. Returns what was turned."""
    turned = []
    for name, value in values.items():
        if name in ("lay", "pull_azimuth", "wind_from") and value is not None:
            value, changed = normal_bearing(value)
            turned += [name] if changed else []
        setattr(plan, name, value)
    return turned


@transaction.atomic
def save_plan(plan):
    """Save a plan the core has taken; an unchanged one is left alone, so that undo has no empty steps."""
    before = FellingPlan.objects.filter(pk=plan.pk).first()
    names = (*FIELDS, "method", "reason")
    if before is None or any(getattr(before, n) != getattr(plan, n) for n in names):
        plan.save()
    return plan


def values_of(plan):
    """A plan's values by name, SI."""
    return {name: getattr(plan, name) for name in FIELDS}


def school_choices(choice):
    """Schools for a select."""
    return [(s.key, s.name) for s in schools(choice).values()]


def school_reason(choice, key):
    """Why a school does it its way."""
    return schools(choice)[key].reason


def lays(given):
    """Every bearing tried for a whole felling."""
    return open_lays(given.site, given.tree, given.cuts.stump)


def moved(handle, x, y, given):
    """What dragging a handle to a point means: field values, SI.

    Stump drawing: x along the lay, y to the right, from the stem's centre. Side drawing: x along the lay, y up from the
    ground. Plan: x east, y north.
    """
    cuts, site = given.cuts, given.site
    front = cuts.along / 2.0
    apex = front - cuts.depth
    if handle == "depth":
        return {"depth": _snap(front - x, 0.001)}
    if handle == "hinge":
        return {"hinge": _snap(apex - x, 0.001)}
    if handle == "rise":
        return {"rise": _snap(y - cuts.stump, 0.001)}
    if handle == "stump":
        return {"stump": _snap(y, 0.005)}
    if handle == "opening":
        lower = {"conventional": 0.0, "reversed": 1.0, "open": 0.25}[cuts.notch_school]
        angle = math.atan2(abs(y - cuts.stump), max(front - apex, 1e-6))
        return {"opening": _snap(angle / (1.0 - lower if lower < 1.0 else 1.0), math.radians(1.0))}
    if handle == "lay":
        return {"lay": _snap(math.atan2(x - site.tree_x, y - site.tree_y), math.radians(0.5)) % math.tau}
    if handle == "anchor":
        east, north = x - site.tree_x, y - site.tree_y
        return {
            "pull_azimuth": _snap(math.atan2(east, north), math.radians(0.5)) % math.tau,
            "pull_distance": _snap(math.hypot(east, north), 0.1),
        }
    return {}


STEPS = {
    "depth": 0.005, "hinge": 0.0025, "rise": 0.005, "stump": 0.01,
    "opening": math.radians(1.0), "lay": math.radians(1.0),
}  # fmt: skip


def nudged(handle, dx, dy, given, plan):
    """What an arrow key on a handle means: dx, dy in steps to the right and up on the drawing."""
    if handle == "depth":
        return {"depth": plan.depth - dx * STEPS["depth"]}
    if handle == "hinge":
        return {"hinge": plan.hinge - dx * STEPS["hinge"]}
    if handle in ("rise", "stump"):
        return {handle: getattr(plan, handle) + dy * STEPS[handle]}
    if handle == "opening":
        return {"opening": plan.opening + dy * STEPS["opening"]}
    if handle == "lay":
        return {"lay": (plan.lay + (dx or dy) * STEPS["lay"]) % math.tau}
    if handle == "anchor" and given.pull:
        return {
            "pull_azimuth": (given.pull.azimuth + dx * STEPS["lay"]) % math.tau,
            "pull_distance": given.pull.distance + dy * 0.5,
        }
    return {}


def _snap(value, step):
    return round(value / step) * step


@transaction.atomic
def undo(plan):
    """Take back the last change; again for the one before. False when there is nothing left."""
    records = list(plan.history.order_by("history_id"))
    here = len(records) - 1
    while here >= 0 and (records[here].history_change_reason or "").startswith("undo:"):
        target = int(records[here].history_change_reason.split(":")[1])
        here = next(i for i, r in enumerate(records) if r.history_id == target)
    if here <= 0:
        return False
    before = records[here - 1]
    for name in (*FIELDS, "method", "reason"):
        setattr(plan, name, getattr(before, name))
    plan._change_reason = f"undo:{before.history_id}"
    plan.save()
    return True
