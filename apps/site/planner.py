"""The site: rows to the core and back. Every change is checked for all trees of the job and kept as a step."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, NamedTuple

from django.shortcuts import get_object_or_404
from django.utils.translation import gettext

from apps.crews import steps
from apps.jobs import scopes
from apps.jobs.models import Target
from apps.jobs.planner import own_approaches, site_entry, target_entry, tree_entry
from apps.site.models import ApproachDistance, SitePicture
from cantrel.pictures import read_picture
from cantrel.quantities import typed
from cantrel.words import said
from treecore.conductor import clearance
from treecore.errors import CoreError, NotSolvable
from treecore.features import feature_kinds, targets_of, triangulated, way_out
from treecore.formats.plan_document import feature_of, features_of, site_of, tree_of
from treecore.overhead import approaches
from treecore.places import Lying, laid, span, typed_bearing, typed_place

if TYPE_CHECKING:
    from contextlib import AbstractContextManager

    from django.core.files.uploadedfile import UploadedFile

    from apps.crews.models import Crew
    from apps.jobs.models import Job, Tree
    from treecore.features import Feature, FeatureKind, WayOut
    from treecore.overhead import Conductor
    from treecore.places import Span
    from treecore.verdict import Limit

FIELDS = (
    "name", "kind", "shape", "height", "width", "radius", "light_touch", "worth", "note", "voltage", "approach", "sag",
    "end_a", "end_b", "species", "diameter", "sound",
)  # fmt: skip


def kinds() -> dict[str, FeatureKind]:
    """Kinds of features by key."""
    return {key: said(kind, "name") for key, kind in feature_kinds().items()}


def voltage_choices(crew: Crew) -> list[tuple[str, str, float, bool, str]]:
    """Voltage classes with the distance that holds for this yard."""
    own = {row.voltage: row for row in crew.approaches.all()}
    return [
        (a.key, gettext(a.name), own[a.key].distance, True, own[a.key].source)
        if a.key in own
        else (a.key, gettext(a.name), a.distance, False, gettext(a.source))
        for a in approaches().values()
    ]


def known_places(job: Job) -> dict[str, Any]:
    """Places that have a name: trees, and the first point of every feature."""
    places = {t.name: (t.x, t.y) for t in job.trees.all()}
    if len(places) == 1:
        places["stem"] = next(iter(places.values()))
    places["origin"] = (0.0, 0.0)
    return {t.name: tuple(t.outline[0]) for t in job.targets.all()} | places


def checked(job: Job) -> None:
    """Hold the site as stored against the core, for every tree on it."""
    entry = site_entry(job)
    targets_of(features_of(entry))
    for tree in job.trees.all():
        site_of(entry, tree_entry(tree))


PICTURE = ("image", "wide", "high", "x", "y", "metres_per_pixel", "turned", "strength", "job_id")


def _recorded(job: Job, label: str, by: str) -> AbstractContextManager[None]:
    return steps.recorded("site", job, label, by)


def feature_for(job: Job, pk: int) -> Target:
    """One feature of the job."""
    return get_object_or_404(Target, job=job, pk=pk)


def free_name(job: Job, kind: str) -> str:
    """A name no feature has yet."""
    stem, taken = feature_kinds()[kind].name, set(job.targets.values_list("name", flat=True))
    return next(n for n in (stem, *(f"{stem} {i}" for i in range(2, len(taken) + 3))) if n not in taken)


def _rounded(points: list[Any]) -> list[list[float]]:
    return [[round(float(x), 3), round(float(y), 3)] for x, y in points]


def add(job: Job, kind: str, points: list[tuple[float, float]], by: str = "", **values: Any) -> Target:
    """Add a feature by its points; what is not said is usual for its kind."""
    if kind not in feature_kinds():
        raise NotSolvable(what="kind", why="“{kind}” is no kind of feature", kind=kind)
    usual = feature_kinds()[kind]
    row = Target(job=job, kind=kind, shape=usual.shape, outline=_rounded(points), height=usual.height)
    row.width, row.light_touch = usual.width, usual.light_touch
    if usual.shape == "spot":
        row.radius = 2.0 if kind == "tree" else 0.4
    for name, value in values.items():
        setattr(row, name, value)
    row.name = row.name or free_name(job, kind)
    with _recorded(job, gettext("{name} added").format(name=row.name), by):
        save_row(job, row)
    return row


def save_row(job: Job, row: Target) -> None:
    """Keep a feature once the core takes the whole site with it."""
    if job.targets.exclude(pk=row.pk).filter(name=row.name).exists():
        raise NotSolvable(what=f"target {row.name} name", why="another feature has this name")
    feature_of(target_entry(row))
    row.save()
    checked(job)


def change(job: Job, row: Target, values: dict[str, Any], by: str = "") -> None:
    """Change a feature by typed values."""
    with _recorded(job, gettext("{name} changed").format(name=row.name), by):
        for name, value in values.items():
            setattr(row, name, value)
        save_row(job, row)


def put_points(job: Job, row: Target, points: list[Any], by: str = "", what: str = "moved") -> None:
    """Give a feature other points."""
    with _recorded(job, f"{row.name} {what}", by):
        row.outline = _rounded(points)
        save_row(job, row)


def shift(job: Job, row: Target, dx: float, dy: float, by: str = "") -> None:
    """Move a feature."""
    put_points(job, row, [[x + dx, y + dy] for x, y in row.outline], by)


def delete(job: Job, row: Target, by: str = "") -> None:
    """Take a feature off."""
    with _recorded(job, gettext("{name} taken off").format(name=row.name), by):
        row.delete()


def place_tree(job: Job, tree: Tree, x: float, y: float, by: str = "") -> None:
    """Move a tree."""
    with _recorded(job, gettext("{name} moved").format(name=tree.name), by):
        tree.x, tree.y = round(x, 3), round(y, 3)
        tree.save()
        checked(job)


def save_ground(job: Job, values: dict[str, Any], by: str = "") -> None:
    """Change slope, winds and the origin's latitude and longitude."""
    with _recorded(job, gettext("ground and wind changed"), by):
        for name, value in values.items():
            setattr(job, name, value)
        job.save()
        checked(job)


def place(text: str, job: Job, system: str, start: tuple[float, float] = (0.0, 0.0)) -> tuple[float, float]:
    """A typed place."""
    return typed_place(text, known_places(job), system, start)


def points_text(outline: list[list[float]], system: str) -> str:
    """Points of a feature as they are typed, one a line."""
    return "\n".join("; ".join(typed(v, "length", system) for v in point) for point in outline)


def typed_points(text: str, job: Job, system: str) -> list[list[float]]:
    """Points typed one a line."""
    known = known_places(job)
    lines = [line for line in text.splitlines() if line.strip()]
    return [[round(v, 6) for v in typed_place(line, known, system)] for line in lines]


def bearing_of(text: str) -> float:
    """A typed bearing."""
    return typed_bearing(text)


def tape(
    first: tuple[float, float], second: tuple[float, float], from_first: float, from_second: float, side: str
) -> tuple[float, float]:
    """The place two tapes lead to, on the left or the right of the way from the first to the second."""
    left, right = triangulated(first, second, from_first, from_second)
    return left if side == "left" else right


def measured(first: tuple[float, float], second: tuple[float, float]) -> Span:
    """Distance and bearing between two places."""
    return span(first, second)


class Facts(NamedTuple):
    """What is worked out of one feature: area [m2], length [m], passage and corners of a way out, a conductor's line,
    how low that hangs [m], and how far it is from the stems: name, gap [m], bearing [rad].
    """

    feature: Feature
    area: float | None
    length: float | None
    way: WayOut | None
    conductor: Conductor | None
    lowest: float | None
    stems: list[tuple[str, float, float]]


def facts(job: Job, row: Target) -> Facts:
    """What is worked out of one feature: area, length, distances from the stems, passage and corners of a way out."""
    feature = feature_of(target_entry(row, own_approaches(job.crew)))
    legs = zip(feature.points, feature.points[1:], strict=False)
    line = feature.conductor if feature.kind == "conductor" else None
    stems = []
    for tree in job.trees.all()[:6]:
        stems.append((tree.name, *feature.nearest(tree.x, tree.y)))
    return Facts(
        feature=feature,
        area=feature.polygon.area if feature.shape == "area" else None,
        length=sum(span(a, b).distance for a, b in legs) if feature.shape == "line" else None,
        way=way_out(feature, features_of(site_entry(job))) if feature.kind == "way_out" else None,
        conductor=line,
        lowest=float(line.curve()[:, 2].min()) if line else None,
        stems=stems,
    )


def conductor_limits(job: Job) -> list[tuple[str, Limit]]:
    """Every conductor against every tree, worst first."""
    lines = [f.conductor for f in features_of(site_entry(job)) if f.kind == "conductor"]
    if not lines:
        return []
    limits = []
    for tree in job.trees.all()[:50]:
        try:
            core = tree_of(tree_entry(tree))[0]
        except CoreError:
            continue
        limits += [(tree.name, clearance(line, core, tree.x, tree.y)) for line in lines]
    return sorted(limits, key=_room)


def _room(row: tuple[str, Limit]) -> float:
    """How much nearer than it may a conductor is; one whose distance nobody knows comes first [m]."""
    demand, allowed = row[1].demand, row[1].allowed
    return -math.inf if demand is None or allowed is None else demand.value - allowed.value


def put_picture(job: Job, upload: UploadedFile, by: str = "") -> SitePicture:
    """Lay a picture under the plan, about the trees, to be scaled by two points."""
    content, wide, high = read_picture(upload)
    with _recorded(job, gettext("background picture added"), by):
        row = SitePicture.objects.filter(job=job).first() or SitePicture(job=job)
        row.image, row.wide, row.high = content, wide, high
        row.metres_per_pixel, row.turned = 60.0 / max(wide, high), 0.0
        row.x, row.y = -wide * row.metres_per_pixel / 2, -high * row.metres_per_pixel / 2
        row.save()
    return row


def scale_picture(job: Job, pairs: list[tuple[tuple[float, float], tuple[float, float]]], by: str = "") -> None:
    """Scale, turn and move the picture so that two places on it, as it lies now, fall on two known places."""
    row = get_object_or_404(SitePicture, job=job)
    now = Lying(row.x, row.y, row.metres_per_pixel, row.turned)
    (seen1, real1), (seen2, real2) = pairs
    lying = laid((now.pixel(*seen1), real1), (now.pixel(*seen2), real2))
    with _recorded(job, gettext("background picture scaled"), by):
        row.x, row.y, row.metres_per_pixel, row.turned = lying
        row.save()


def remove_picture(job: Job, by: str = "") -> None:
    """Take the picture off; undo brings it back."""
    with _recorded(job, gettext("background picture taken off"), by):
        SitePicture.objects.filter(job=job).delete()


def save_approach(crew: Crew, voltage: str, distance: float | None, source: str) -> None:
    """Keep the yard's own distance for a voltage class; None takes the usual one again."""
    if voltage not in approaches():
        raise NotSolvable(what="voltage", why="there is no such class")
    if distance is None:
        ApproachDistance.objects.filter(crew=crew, voltage=voltage).delete()
        return
    ApproachDistance.objects.update_or_create(
        crew=crew, voltage=voltage, defaults={"distance": distance, "source": source}
    )


def facts_conductor(row: Target) -> Conductor:
    """The line of a conductor's row."""
    return feature_of(target_entry(row, own_approaches(row.job.crew))).conductor


steps.register(
    "site",
    *scopes.SITE,
    steps.Part("picture", SitePicture, PICTURE, lambda job: SitePicture.objects.filter(job=job)),
)
