"""The brief of a whole job: its trees in order, the ground of all of them, what to pack, who has to have signed."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

import shapely

from apps.briefing.planner import still_signed
from apps.day.planner import items_of, trees_of, workday_of
from apps.felling.planner import evaluated, in_sections
from apps.felling.planner import plan_for as felling_plan
from apps.jobs.planner import site_entry
from apps.takedown.brief import worked_picks
from apps.takedown.drawing_planner import ground_view
from treecore.commands import Command, commands, commands_of
from treecore.errors import CoreError
from treecore.formats.grid import degrees_and_minutes, metric_grid
from treecore.formats.plan_document import features_of
from treecore.kit import Check, checks_of
from treecore.takedown.packing import Packing, packing

if TYPE_CHECKING:
    from collections.abc import Callable

    from shapely.geometry.base import BaseGeometry

    from apps.day.models import WorkItem
    from apps.felling.bench_planner import WorkedPlan
    from apps.jobs.models import Job, Tree
    from apps.takedown.brief import WorkedTakedown

Flat = tuple[float, float]


class BriefTree(NamedTuple):
    """A tree of the brief: its picks worked out, or its felling, or why neither can be; whether it stands signed."""

    tree: Tree
    sections: bool
    method: str
    takedown: WorkedTakedown | None
    felling: WorkedPlan | None
    refused: CoreError | None
    signed: bool


class Outlined(NamedTuple):
    """Something of the site from above [m]."""

    name: str
    kind: str
    outline: tuple[Flat, ...]


def outlined(job: Job) -> tuple[Outlined, ...]:
    """What is on a job's site, from above."""
    return tuple(
        Outlined(feature.name, feature.kind, outline)
        for feature in features_of(site_entry(job))
        for outline in _outlines([feature.polygon])
    )


class Areas(NamedTuple):
    """The ground of a job on the site [m]: where pieces and trees come down, what they pass over, what tight ropes may
    sweep, and who stands where as tree, role and place.
    """

    drops: tuple[tuple[Flat, ...], ...]
    swings: tuple[tuple[Flat, ...], ...]
    recoils: tuple[tuple[Flat, ...], ...]
    people: tuple[tuple[str, str, Flat], ...]
    stems: tuple[tuple[str, Flat], ...]


class JobBrief(NamedTuple):
    """Everything a job's brief stands on."""

    job: Job
    trees: tuple[BriefTree, ...]
    items: tuple[WorkItem, ...]
    areas: Areas
    packing: Packing
    checks: tuple[Check, ...]
    commands: tuple[Command, ...]
    targets: tuple[Outlined, ...]
    place: tuple[str, str] | None


def trees_in_order(job: Job) -> list[Tree]:
    """Trees of a job as its day takes them."""
    return trees_of(workday_of(job))


def brief_of(job: Job, step: Callable[[str, int, int], None] = lambda *said: None) -> JobBrief:
    """Work a job's brief out; ``step`` is told which tree is next, how many are done and of how many."""
    trees = trees_in_order(job)
    found = []
    for number, tree in enumerate(trees):
        step(tree.name, number, len(trees))
        found.append(_tree(tree))
    worked = [row.worked for one in found if one.takedown and one.takedown.rows for row in one.takedown.rows]
    uses = _uses(found)
    return JobBrief(
        job=job,
        trees=tuple(found),
        items=tuple(items_of(job)),
        areas=_areas(found),
        packing=packing(worked),
        checks=checks_of(uses),
        commands=tuple(c for c in commands() if c in set(commands_of([*uses, "rope", "run", "free"]))),
        targets=outlined(job),
        place=_place(job),
    )


def _tree(tree: Tree) -> BriefTree:
    plan = felling_plan(tree)
    sections = in_sections(plan)
    takedown = worked_picks(tree)
    felling, refused = None, None
    if not sections:
        try:
            felling = evaluated(tree, plan)
        except CoreError as error:
            refused = error
    return BriefTree(
        tree, sections, plan.get_method_display() if plan.method else "", takedown, felling, refused, still_signed(tree)
    )


def _uses(trees: list[BriefTree]) -> list[str]:
    """What the job's plans have that has to be looked over or called."""
    uses = {"chip"}
    for one in trees:
        rows = one.takedown.rows if one.takedown and one.takedown.rows else []
        uses |= {"climb"} if any(row.entry.get("climber") for row in rows) else set()
        uses |= {"lower"} if any(row.held for row in rows) else set()
        if one.felling is not None:
            uses |= {"fell"} | ({"pull"} if one.felling.given.pull else set())
    return sorted(uses)


def _areas(trees: list[BriefTree]) -> Areas:
    drops: list[BaseGeometry] = []
    swings: list[BaseGeometry] = []
    recoils: list[BaseGeometry] = []
    people: dict[tuple[str, str, Flat], None] = {}
    for one in trees:
        for row in one.takedown.rows if one.takedown and one.takedown.rows else ():
            seen = ground_view(one.takedown.scene, row)  # type: ignore[union-attr,arg-type]
            if len(seen.moves) > 3:
                (swings if seen.held else drops).append(shapely.Polygon(seen.moves).buffer(0))
            if seen.held:
                drops.append(shapely.Point(seen.held.landing).buffer(row.held.piece.length / 2.0 + 0.5))
            recoils += [shapely.Polygon(strip).buffer(0) for strip in seen.strips]
            for role, place, _ in seen.people:
                people.setdefault((one.tree.name, role, (round(place[0]), round(place[1]))))
        if one.felling is not None:
            drops += [shapely.Polygon(part).buffer(0) for part in one.felling.result.ground.covered]
    stems = tuple((one.tree.name, (one.tree.x, one.tree.y)) for one in trees)
    return Areas(_outlines(drops), _outlines(swings), _outlines(recoils), tuple(people), stems)


def _outlines(shapes: list[BaseGeometry]) -> tuple[tuple[Flat, ...], ...]:
    """Outlines of what shapes cover together."""
    whole = shapely.union_all(shapes) if shapes else None
    parts = list(getattr(whole, "geoms", [whole])) if whole is not None and not whole.is_empty else []
    return tuple(tuple((x, y) for x, y, *_ in part.exterior.coords) for part in parts if part.geom_type == "Polygon")


def _place(job: Job) -> tuple[str, str] | None:
    """Where the job is on the globe, as a radio takes it and in the metric grid."""
    if job.origin_lat is None or job.origin_lon is None:
        return None
    return degrees_and_minutes(job.origin_lat, job.origin_lon), metric_grid(job.origin_lat, job.origin_lon)
