"""Felling: rows to core and back; drags on the drawings become values here, computed by the core."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, NamedTuple

from django.db import transaction
from django.utils.translation import gettext, gettext_lazy

from apps.crews import steps
from apps.felling.bench_planner import WorkedPlan
from apps.felling.models import FellingPlan, YardSchool
from apps.jobs.planner import common_name, normal_bearing, site_entry
from apps.survey.planner import every_gate, found_present, measured_entry
from apps.survey.planner import tree_entry as surveyed
from apps.takedown.planner import entries as takedown_entries
from cantrel.quantities import text
from cantrel.revisions import TOO_OLD, clash_text, merged, whose
from cantrel.rows import entry_of, paths
from cantrel.words import choices_in, choices_of, said
from treecore.document.felling import FellingEntry
from treecore.document.tree import MethodEntry
from treecore.felling.evaluate import complete
from treecore.felling.handles import drag, nudge
from treecore.felling.plan import evaluate
from treecore.felling.suggest import suggest_cuts, take_school
from treecore.felling.turned import line_end, stays, turned_place
from treecore.felling.wedges import wedge_kinds
from treecore.formats.felling_entry import felling_of
from treecore.formats.plan_document import after_picks, conductors_of, features_of, site_of, tree_of
from treecore.method import Scene, options
from treecore.ranges import ends
from treecore.rigging.tackle import PULLED_BY, knots
from treecore.schools import school, schools
from treecore.tree.weigh import weigh
from treecore.workzone import open_lays

if TYPE_CHECKING:
    from collections.abc import Callable

    from apps.crews.models import Crew
    from apps.jobs.models import Tree
    from treecore.felling.inputs import FellingInput
    from treecore.felling.plan import FellingResult
    from treecore.findings import Seen
    from treecore.method import Option
    from treecore.overhead import Conductor
    from treecore.site import Site
    from treecore.tree.body import TreeInput

COLUMNS = {field.name for field in FellingPlan._meta.get_fields()}
CHOICES = ("notch", "first", "depth", "thickness", "pattern", "position", "zone", "design")
# Columns of a plan that its entry declares; those of lines of their own (system, log) and of the way stand beside.
FIELDS = tuple(column for _, column in paths(FellingEntry) if column in COLUMNS and column not in ("system", "log"))
KEPT = (*FIELDS, "system", "log", "method", "reason")


def yard_schools(crew_id: int) -> dict[str, str]:
    """A yard's usual school for each choice it has one for."""
    return {row.choice: row.key for row in YardSchool.objects.filter(crew=crew_id) if row.key in schools(row.choice)}


@transaction.atomic
def save_yard_schools(crew: Crew, chosen: dict[str, str]) -> None:
    """Keep a yard's usual schools; an empty key takes the product's usual one again."""
    with steps.recorded("schools", crew, gettext("usual schools changed")):
        for choice, key in chosen.items():
            if not key:
                YardSchool.objects.filter(crew=crew, choice=choice).delete()
            else:
                YardSchool.objects.update_or_create(crew=crew, choice=choice, defaults={"key": school(choice, key).key})


SECTIONS = ("freefall", "rigging", "speedline", "lift", "crane")  # ways whose plan is the list of picks


def in_sections(plan: FellingPlan) -> bool:
    """Whether the way chosen takes the tree down piece by piece."""
    return plan.method in SECTIONS


def plan_for(tree: Tree) -> FellingPlan:
    """The tree's plan; a first one by the usual values of the schools, not yet saved, if there is none."""
    try:
        return tree.felling
    except FellingPlan.DoesNotExist:
        return _first_plan(tree)


def _first_plan(tree: Tree) -> FellingPlan:
    """A plan by the usual values of the schools, not saved."""
    core, _, _ = tree_of(measured_entry(tree))
    usual = yard_schools(tree.job.crew_id)
    cuts = suggest_cuts(core, **{c: usual[c] for c in ("notch", "depth", "thickness") if c in usual})
    plan = FellingPlan(tree=tree, stump=cuts.stump, depth=cuts.depth, opening=cuts.opening, hinge=cuts.hinge)
    for choice in CHOICES[:-1]:
        if choice in usual:
            setattr(plan, f"{choice}_school", usual[choice])
    plan.rise, plan.lay = cuts.rise, tree.lean_azimuth
    if tree.job.wind is not None and tree.job.wind_from is not None:
        plan.wind, plan.wind_from = min(tree.job.wind, ends("felling_wind")[1]), tree.job.wind_from
    return plan


def values_at(
    tree: Tree, plan: FellingPlan, revision: str | None, names: tuple[Any, ...] | None = None
) -> dict[str, Any] | None:
    """A plan's values as a page of that revision showed them; None where nobody knows that revision."""
    was = plan.as_of(revision) if plan.pk else None
    if was is None and revision in (None, "0", 0):
        was = _first_plan(tree)  # a page from before the first save
    return None if was is None else values_of(was, names)


@transaction.atomic
def keep_fields(
    tree: Tree, plan: FellingPlan, revision: str | None, names: tuple[Any, ...], say: Callable[[str, Any], str]
) -> dict[str, str]:
    """Save fields that a page changed on a plan, put together with what others saved since that page was drawn.

    Returns what is said at a field that two people changed, by its name; nothing is saved then. ``say`` puts a value
    of a field into words.
    """
    stored = FellingPlan.objects.filter(tree=tree).first()
    base = values_at(tree, stored or plan, revision, names)
    if base is None:
        return {"__all__": str(TOO_OLD)}
    sent = values_of(plan, names)
    found = merged(base, values_of(stored, names) if stored else base, sent)
    if found.conflicts:
        row = stored or plan
        return {n: clash_text(say(n, c.theirs), whose(row, n), say(n, c.mine)) for n, c in found.conflicts.items()}
    row = stored or plan
    for name, value in found.values.items():
        setattr(row, name, value)
        setattr(plan, name, value)
    save_plan(row)
    plan.revision = row.revision
    return {}


def felling_entry(plan: FellingPlan) -> dict[str, Any]:
    """The document's felling."""
    entry = entry_of(plan, FellingEntry)
    if not (plan.guy_limit and plan.guy_tie is not None and plan.guy_distance is not None):
        entry.pop("guy", None)
    elif plan.guy_azimuth is None:
        entry["guy"]["azimuth_deg"] = 0.0
    if not (plan.pull_force and plan.pull_tie is not None and plan.pull_distance is not None):
        entry.pop("pull", None)
    elif plan.pull_azimuth is None:
        entry["pull"]["azimuth_deg"] = entry["lay_deg"]
    return {key: value for key, value in entry.items() if key not in ("after_picks", "system", "log") or value}


def tree_entry(tree: Tree, plan: FellingPlan | None = None) -> dict[str, Any]:
    """The document's tree with readings, walk-up, method and felling."""
    plan = plan or plan_for(tree)
    return surveyed(tree) | {
        "method": entry_of(plan, MethodEntry),
        "felling": felling_entry(plan),
    }


def core_tree(tree: Tree) -> TreeInput:
    """The core's tree alone."""
    return tree_of(measured_entry(tree))[0]


class PlanScene(NamedTuple):
    """What plans for a tree are evaluated on: the core's tree, its site and conductors, what the walk-up found."""

    tree: TreeInput
    site: Site
    conductors: tuple[Conductor, ...]
    found: tuple[Seen, ...]


def scene(tree: Tree) -> PlanScene:
    """The core's tree, site, conductors and findings; read once where several plans for it are evaluated."""
    entry, ground = measured_entry(tree), site_entry(tree.job)
    return PlanScene(tree_of(entry)[0], site_of(ground, entry), conductors_of(ground), found_present(tree))


def core_plan(tree: Tree, plan: FellingPlan, seen: PlanScene | None = None) -> FellingInput:
    """The core's input for a plan."""
    core, site, conductors, found = seen or scene(tree)
    if plan.after_picks:
        core = after_picks(core, takedown_entries(tree)[0].get("picks", ()), plan.after_picks)
    return felling_of(felling_entry(plan), core, site, conductors, found)


def evaluated(
    tree: Tree,
    plan: FellingPlan | None = None,
    seen: PlanScene | None = None,
    quick: bool = False,
) -> WorkedPlan:
    """A plan evaluated, ready for its pages; fall and footprint are among its limits unless ``quick``."""
    given = core_plan(tree, plan or plan_for(tree), seen)
    return WorkedPlan(given, evaluate(given) if quick else complete(given).result)


def with_picks(plan: FellingPlan, count: int) -> FellingPlan:
    """A plan felled after another number of picks, not saved."""
    plan.after_picks = count
    return plan


def with_values(plan: FellingPlan, values: dict[str, Any]) -> list[str]:
    """Put a form's values on a plan without saving; bearings are taken modulo a turn, and lines that end at no place of
    the site go along with the lay. Returns what was turned.
    """
    turned: list[str] = []
    was = {name: getattr(plan, name) for name in ("lay", *BEARINGS)}
    for name, value in values.items():
        if name in ("lay", "pull_azimuth", "guy_azimuth", "wind_from") and value is not None:
            value, changed = normal_bearing(value, name)
            turned += [name] if changed else []
        setattr(plan, name, value)
    plan.went_along = _gone_along(plan, was)
    return [*turned, *plan.went_along]


BEARINGS = {"pull_azimuth": "pull_distance", "guy_azimuth": "guy_distance"}  # of the lines, and how far each goes


def _gone_along(plan: FellingPlan, was: dict[str, Any]) -> tuple[str, ...]:
    """Turn the lines that end at no place of the site as the lay was turned; those said anew stay as they are said."""
    turn, tree = plan.lay - was["lay"], plan.tree
    if abs(turn) < _STILL:
        return ()
    stem, fixed = (tree.x, tree.y), _line_places(tree)
    changed = []
    for name, far in BEARINGS.items():
        azimuth, distance = getattr(plan, name), getattr(plan, far)
        said_anew = azimuth != was[name]
        if azimuth is None or distance is None or said_anew or stays(line_end(stem, azimuth, distance), fixed):
            continue
        setattr(plan, name, (azimuth + turn) % math.tau)
        changed.append(name)
    if plan.system:
        for part in plan.system["parts"]:
            east, north = turned_place((part["x_m"], part["y_m"]), stem, turn, fixed)
            part["x_m"], part["y_m"] = round(east, 2), round(north, 2)
    return tuple(changed)


_STILL = 1e-6  # less than this is no turn [rad]


def _line_places(tree: Tree) -> list[tuple[float, float]]:
    """Places of the site a line can end at: anchors, vehicles and trees."""
    drawn = [row["outline_m"][0] for row in site_entry(tree.job).get("targets", ()) if row["kind"] in LINE_ENDS]
    others = [(t.x, t.y) for t in tree.job.trees.all() if t.pk != tree.pk]
    return [(x, y) for x, y in drawn] + others


ANCHORS = ("anchor_tree", "anchor_vehicle")
LINE_ENDS = (*ANCHORS, "tree")


@transaction.atomic
def save_plan(plan: FellingPlan) -> FellingPlan:
    """Save a plan the core has taken; an unchanged one is left alone, so that undo has no empty steps."""
    before = FellingPlan.objects.filter(pk=plan.pk).first()
    names = KEPT
    if before is None or any(getattr(before, n) != getattr(plan, n) for n in names):
        with steps.recorded("felling", plan.tree, gettext("felling plan changed")):
            plan.save()
    return plan


def values_of(plan: FellingPlan, names: tuple[Any, ...] | None = None) -> dict[str, Any]:
    """A plan's values by name, SI: those of the bench, or the ones named."""
    return {name: getattr(plan, name) for name in names or FIELDS}


def wedge_choices() -> list[tuple[str, str]]:
    """Kinds of wedge for a select."""
    return choices_of(wedge_kinds().values())


def knot_choices() -> list[tuple[str, str]]:
    """Ways a line is made fast to the tree, for a select."""
    return choices_in({key: name for key, (name, _) in knots().items()})


def puller_choices() -> list[tuple[str, str]]:
    """Who or what pulls a line, for a select."""
    return choices_in(PULLED_BY)


def school_choices(choice: str) -> list[tuple[str, str]]:
    """Schools for a select."""
    return choices_of(schools(choice).values())


def method_options(tree: Tree, given: FellingInput, result: FellingResult) -> tuple[Option, ...]:
    """Every way of taking the tree down, judged by the plan, its gates and the site."""
    features = features_of(site_entry(tree.job))
    return options(Scene(result, every_gate(tree), open_lays(given.site, given.tree, given.cuts.stump), features))


def referred(tree: Tree, system: str) -> dict[str, Any]:
    """What whoever takes a referred tree over is told."""
    standing = weigh(core_tree(tree))
    return {
        "plan_row": plan_for(tree),
        "gates": [g for g in every_gate(tree) if g.open],
        "species": common_name(tree),
        "height": text(tree.height, "length", system),
        "diameter": text(tree.diameter, "girth", system),
        "mass": text(standing.mass.estimate.value, "mass", system),
    }


TITLES = {
    "notch": gettext_lazy("Kind of notch"),
    "first": gettext_lazy("First cut"),
    "depth": gettext_lazy("Notch depth"),
    "thickness": gettext_lazy("Hinge thickness"),
    "pattern": gettext_lazy("Back cut"),
    "position": gettext_lazy("Cutting position"),
    "zone": gettext_lazy("Work zone"),
    "design": gettext_lazy("Design factor of ropes and anchors"),
}


def school_table() -> list[dict[str, Any]]:
    """Every choice with its schools and their reasons."""
    return [
        {"key": c, "title": TITLES[c], "rows": [said(s, "name", "reason") for s in schools(c).values()]}
        for c in CHOICES
    ]


def taken(choice: str, key: str, given: FellingInput) -> dict[str, Any]:
    """Values when a school's usual value is taken."""
    return take_school(choice, key, given)


def moved(handle: str, x: float, y: float, given: FellingInput) -> dict[str, float]:
    """What dragging a handle to a point of its drawing means: field values, SI."""
    return drag(handle, x, y, given)


def nudged(handle: str, dx: float, dy: float, given: FellingInput) -> dict[str, float]:
    """What arrow keys on a handle mean: field values, SI."""
    return nudge(handle, dx, dy, given)


def step_back(plan: FellingPlan, revision: str | None, forth: bool = False) -> str:
    """Take back the last change of the plan, or bring it back; why not, in words, or nothing."""
    return steps.of_revision("felling", plan.tree, plan, revision, forth)


steps.register(
    "felling",
    steps.Part("felling", FellingPlan, KEPT, lambda tree: FellingPlan.objects.filter(tree=tree), True),
)
steps.register(
    "schools",
    steps.Part("school", YardSchool, steps.all_columns(YardSchool), lambda crew: YardSchool.objects.filter(crew=crew)),
)
