"""The site: rows to the core and back. Every change is checked for all trees of the job and kept as a step."""

from django.shortcuts import get_object_or_404

from apps.crews import steps
from apps.jobs import scopes
from apps.jobs.models import Target
from apps.jobs.planner import own_approaches, site_entry, target_entry, tree_entry
from apps.site.models import ApproachDistance, SitePicture
from cantrel.pictures import read_picture
from cantrel.quantities import typed
from treecore.conductor import clearance
from treecore.errors import CoreError, NotSolvable
from treecore.features import feature_kinds, targets_of, triangulated, way_out
from treecore.formats.plan_document import feature_of, features_of, site_of, tree_of
from treecore.overhead import approaches
from treecore.places import Lying, laid, span, typed_bearing, typed_place

FIELDS = (
    "name", "kind", "shape", "height", "width", "radius", "light_touch", "worth", "note", "voltage", "approach", "sag",
    "end_a", "end_b", "species", "diameter", "sound",
)  # fmt: skip


def kinds():
    """Kinds of features by key."""
    return feature_kinds()


def voltage_choices(crew):
    """Voltage classes with the distance that holds for this yard."""
    own = own_approaches(crew)
    return [(a.key, a.name, own.get(a.key, a.distance), a.key in own, a.source) for a in approaches().values()]


def known_places(job):
    """Places that have a name: trees, and the first point of every feature."""
    places = {t.name: (t.x, t.y) for t in job.trees.all()}
    if len(places) == 1:
        places["stem"] = next(iter(places.values()))
    places["origin"] = (0.0, 0.0)
    return {t.name: tuple(t.outline[0]) for t in job.targets.all()} | places


def checked(job):
    """Hold the site as stored against the core, for every tree on it."""
    entry = site_entry(job)
    targets_of(features_of(entry))
    for tree in job.trees.all():
        site_of(entry, tree_entry(tree))


PICTURE = ("image", "wide", "high", "x", "y", "metres_per_pixel", "turned", "strength", "job_id")


def _recorded(job, label, by):
    return steps.recorded("site", job, label, by)


def feature_for(job, pk):
    """One feature of the job."""
    return get_object_or_404(Target, job=job, pk=pk)


def free_name(job, kind):
    """A name no feature has yet."""
    stem, taken = feature_kinds()[kind].name, set(job.targets.values_list("name", flat=True))
    return next(n for n in (stem, *(f"{stem} {i}" for i in range(2, len(taken) + 3))) if n not in taken)


def _rounded(points):
    return [[round(float(x), 3), round(float(y), 3)] for x, y in points]


def add(job, kind, points, by="", **values):
    """Add a feature by its points; what is not said is usual for its kind."""
    if kind not in feature_kinds():
        raise NotSolvable(what="kind", why=f"“{kind}” is no kind of feature")
    usual = feature_kinds()[kind]
    row = Target(job=job, kind=kind, shape=usual.shape, outline=_rounded(points), height=usual.height)
    row.width, row.light_touch = usual.width, usual.light_touch
    if usual.shape == "spot":
        row.radius = 2.0 if kind == "tree" else 0.4
    for name, value in values.items():
        setattr(row, name, value)
    row.name = row.name or free_name(job, kind)
    with _recorded(job, f"{row.name} added", by):
        save_row(job, row)
    return row


def save_row(job, row):
    """Keep a feature once the core takes the whole site with it."""
    if job.targets.exclude(pk=row.pk).filter(name=row.name).exists():
        raise NotSolvable(what=f"target {row.name} name", why="another feature has this name")
    feature_of(target_entry(row))
    row.save()
    checked(job)


def change(job, row, values, by=""):
    """Change a feature by typed values."""
    with _recorded(job, f"{row.name} changed", by):
        for name, value in values.items():
            setattr(row, name, value)
        save_row(job, row)


def put_points(job, row, points, by="", what="moved"):
    """Give a feature other points."""
    with _recorded(job, f"{row.name} {what}", by):
        row.outline = _rounded(points)
        save_row(job, row)


def shift(job, row, dx, dy, by=""):
    """Move a feature."""
    put_points(job, row, [[x + dx, y + dy] for x, y in row.outline], by)


def delete(job, row, by=""):
    """Take a feature off."""
    with _recorded(job, f"{row.name} taken off", by):
        row.delete()


def place_tree(job, tree, x, y, by=""):
    """Move a tree."""
    with _recorded(job, f"{tree.name} moved", by):
        tree.x, tree.y = round(x, 3), round(y, 3)
        tree.save()
        checked(job)


def save_ground(job, values, by=""):
    """Change slope, winds and the origin's latitude and longitude."""
    with _recorded(job, "ground and wind changed", by):
        for name, value in values.items():
            setattr(job, name, value)
        job.save()
        checked(job)


def place(text, job, system, start=(0.0, 0.0)):
    """A typed place."""
    return typed_place(text, known_places(job), system, start)


def points_text(outline, system):
    """Points of a feature as they are typed, one a line."""
    return "\n".join("; ".join(typed(v, "length", system) for v in point) for point in outline)


def typed_points(text, job, system):
    """Points typed one a line."""
    known = known_places(job)
    lines = [line for line in text.splitlines() if line.strip()]
    return [[round(v, 6) for v in typed_place(line, known, system)] for line in lines]


def bearing_of(text):
    """A typed bearing."""
    return typed_bearing(text)


def tape(first, second, from_first, from_second, side):
    """The place two tapes lead to, on the left or the right of the way from the first to the second."""
    left, right = triangulated(first, second, from_first, from_second)
    return left if side == "left" else right


def measured(first, second):
    """Distance and bearing between two places."""
    return span(first, second)


def facts(job, row):
    """What is worked out of one feature: area, length, distances from the stems, passage and corners of a way out."""
    feature = feature_of(target_entry(row, own_approaches(job.crew)))
    out = {"feature": feature, "area": None, "length": None, "way": None, "conductor": None, "stems": []}
    if feature.shape == "area":
        out["area"] = feature.polygon.area
    if feature.shape == "line":
        legs = zip(feature.points, feature.points[1:], strict=False)
        out["length"] = sum(span(a, b).distance for a, b in legs)
    if feature.kind == "way_out":
        out["way"] = way_out(feature, features_of(site_entry(job)))
    if feature.kind == "conductor":
        out["conductor"] = feature.conductor
    for tree in job.trees.all()[:6]:
        gap, first = feature.gap_from(tree.x, tree.y), feature.points[0]
        out["stems"].append((tree.name, gap, span((tree.x, tree.y), first).azimuth))
    return out


def conductor_limits(job):
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
    return sorted(limits, key=lambda row: row[1].demand.value - row[1].allowed.value)


def put_picture(job, upload, by=""):
    """Lay a picture under the plan, about the trees, to be scaled by two points."""
    content, wide, high = read_picture(upload)
    with _recorded(job, "background picture added", by):
        row = SitePicture.objects.filter(job=job).first() or SitePicture(job=job)
        row.image, row.wide, row.high = content, wide, high
        row.metres_per_pixel, row.turned = 60.0 / max(wide, high), 0.0
        row.x, row.y = -wide * row.metres_per_pixel / 2, -high * row.metres_per_pixel / 2
        row.save()
    return row


def scale_picture(job, pairs, by=""):
    """Scale, turn and move the picture so that two places on it, as it lies now, fall on two known places."""
    row = get_object_or_404(SitePicture, job=job)
    now = Lying(row.x, row.y, row.metres_per_pixel, row.turned)
    (seen1, real1), (seen2, real2) = pairs
    lying = laid((now.pixel(*seen1), real1), (now.pixel(*seen2), real2))
    with _recorded(job, "background picture scaled", by):
        row.x, row.y, row.metres_per_pixel, row.turned = lying
        row.save()


def remove_picture(job, by=""):
    """Take the picture off; undo brings it back."""
    with _recorded(job, "background picture taken off", by):
        SitePicture.objects.filter(job=job).delete()


def save_approach(crew, voltage, distance, source):
    """Keep the yard's own distance for a voltage class; None takes the usual one again."""
    if voltage not in approaches():
        raise NotSolvable(what="voltage", why="there is no such class")
    if distance is None:
        ApproachDistance.objects.filter(crew=crew, voltage=voltage).delete()
        return
    ApproachDistance.objects.update_or_create(
        crew=crew, voltage=voltage, defaults={"distance": distance, "source": source}
    )


def facts_conductor(row):
    """The line of a conductor's row."""
    return feature_of(target_entry(row, own_approaches(row.job.crew))).conductor


steps.register(
    "site",
    *scopes.SITE,
    steps.Part("picture", SitePicture, PICTURE, lambda job: SitePicture.objects.filter(job=job)),
)
