"""Jobs: rows to the plan document's entries, and changes to jobs, targets and trees."""

import math

from django.db import transaction
from django.shortcuts import get_object_or_404

from apps.jobs.models import Job, Target, Tree
from treecore.formats.plan_document import site_of, tree_of
from treecore.site import bearing
from treecore.species import find, species_table, states
from treecore.tree.body import usual_spread
from treecore.tree.weigh import weigh

JOB_TEXTS = (
    "name", "client", "address", "access", "emergency_number", "hospital", "meeting_point", "first_aider", "rescue_plan",
    "phone_coverage", "notes",
)  # fmt: skip
# Tree columns by their key in the document; angles are degrees there.
TREE_PLAIN = ("name", "species", "state", "diameter_kind", "height_kind", "lean_kind", "breast")
TREE_LENGTHS = ("x", "y", "diameter", "height", "spread", "crown_base", "crown_east", "crown_north")
TREE_ANGLES = ("lean", "lean_azimuth")


def jobs_of(crew):
    """Jobs a crew sees, with their trees."""
    return Job.objects.for_crew(crew).prefetch_related("trees")


def job_for(crew, job_id):
    """One job of the crew's own; another crew's is not found."""
    return get_object_or_404(Job.objects.for_crew(crew), pk=job_id)


def tree_for(crew, job_id, tree_id):
    """One tree of the crew's own."""
    trees = Tree.objects.select_related("job").filter(job__in=Job.objects.for_crew(crew))
    return get_object_or_404(trees, pk=tree_id, job_id=job_id)


def degrees(value):
    """Radians to degrees without the last bit's noise."""
    return round(math.degrees(value), 10)


def site_entry(job):
    """The document's site."""
    targets = [
        {"name": t.name, "kind": t.kind, "height_m": t.height, "light_touch": t.light_touch, "outline_m": t.outline}
        for t in job.targets.all()
    ]
    return {"slope_deg": degrees(job.slope), "downhill_deg": degrees(job.downhill), "targets": targets}


def job_entry(job):
    """The document's job."""
    texts = {name: getattr(job, name) for name in JOB_TEXTS}
    return texts | {"roles": [{"role": r.role, "name": r.name} for r in job.roles.all()]}


def tree_entry(tree):
    """The document's tree, by its five numbers."""
    entry = {name: getattr(tree, name) for name in TREE_PLAIN}
    entry |= {f"{n}_m": getattr(tree, n) for n in TREE_LENGTHS if getattr(tree, n) is not None}
    return entry | {f"{n}_deg": degrees(getattr(tree, n)) for n in TREE_ANGLES}


def species_choices():
    """Species for a select, by common name."""
    rows = sorted(species_table().values(), key=lambda s: s.common)
    return [(s.key, f"{s.common} ({s.scientific})") for s in rows]


def state_choices():
    """States for a select."""
    return [(s.key, s.name) for s in states().values()]


def common_name(key):
    """A species' common name."""
    return find(key).common


def normal_bearing(azimuth):
    """A bearing modulo a full turn, and whether it was changed."""
    return bearing(azimuth)


def first_guess(values):
    """Fill what is not typed yet so that species, diameter and height already give a tree; None without them."""
    if values.get("diameter") is None or values.get("height") is None:
        return None
    spread = (
        values["spread"] if values.get("spread") is not None else usual_spread(values["species"], values["diameter"])
    )
    lean = {"lean": 0.0, "lean_azimuth": 0.0, "lean_kind": "assumed"} if values.get("lean") is None else {}
    guess = values | {"spread": spread} | lean
    if guess.get("lean_azimuth") is None:
        guess["lean_azimuth"] = 0.0
    return guess | {"x": values.get("x") or 0.0, "y": values.get("y") or 0.0}


def weigh_entry(entry):
    """Weigh the tree of an entry; returns the core's tree and result."""
    tree, _, _ = tree_of(entry)
    return tree, weigh(tree)


@transaction.atomic
def save_job(crew, values, job=None):
    """Make or change a job."""
    job = job or Job(crew=crew)
    for name, value in values.items():
        setattr(job, name, value)
    site_of(site_entry(job) if job.pk else {"slope_deg": degrees(job.slope)}, {})
    job.save()
    return job


@transaction.atomic
def save_tree(job, values, tree=None):
    """Make or change a tree once the core takes it; returns the tree and its result."""
    tree = tree or Tree(job=job)
    for name, value in values.items():
        setattr(tree, name, value)
    _, result = weigh_entry(tree_entry(tree))
    site_of(site_entry(job), tree_entry(tree))
    tree.save()
    return tree, result


def rectangle(values):
    """Corners of a rectangle by its centre, sides and bearing of its long side [m]."""
    x, y, turn = values["x"], values["y"], values["turned"]
    s, c = math.sin(turn), math.cos(turn)
    half = ((values["long"] / 2, values["wide"] / 2), (values["long"] / 2, -values["wide"] / 2))
    corners = [*half, *((-a, -b) for a, b in half)]
    return [[round(x + a * s + b * c, 3), round(y + a * c - b * s, 3)] for a, b in corners]


@transaction.atomic
def save_target(job, values, target=None):
    """Add or change a target once every tree's site takes it."""
    target = target or Target(job=job)
    for name, value in values.items():
        setattr(target, name, value)
    entry = site_entry(job)
    entry["targets"] = [t for t in entry["targets"] if t["name"] != target.name]
    entry["targets"].append({"name": target.name, "height_m": target.height, "outline_m": target.outline})
    for tree in job.trees.all():
        site_of(entry, tree_entry(tree))
    target.save()
    return target
