"""What of a job, its site and its trees can be taken back together."""

from apps.crews import steps
from apps.jobs.models import Job, Limb, Role, Target, Tree

GROUND = ("slope", "downhill", "prevailing_from", "wind_from", "wind", "origin_lat", "origin_lon")
TEXTS = (
    "name", "client", "address", "access", "emergency_number", "hospital", "meeting_point", "first_aider",
    "rescue_plan",
    "phone_coverage", "notes", "slope", "downhill",
)  # fmt: skip
BODY = (
    "name", "species", "state", "diameter", "diameter_kind", "height", "height_kind", "spread", "lean", "lean_azimuth",
    "lean_kind", "crown_base", "crown_east", "crown_north", "breast", "yard_id", "diameter_across", "oval_azimuth",
    "fork", "spar_top",
    "points", "cavities", "replaced", "x", "y",
)  # fmt: skip
# The parts of a site and of a tree's body that this room keeps; others add theirs when they are ready.
SITE = (
    steps.Part("job", Job, GROUND, lambda job: Job.objects.filter(pk=job.pk)),
    steps.Part("target", Target, steps.all_columns(Target), lambda job: Target.objects.filter(job=job)),
    steps.Part("tree", Tree, ("x", "y"), lambda job: Tree.objects.filter(job=job)),
)
TREE = (
    steps.Part("tree", Tree, BODY, lambda tree: Tree.objects.filter(pk=tree.pk)),
    steps.Part("limb", Limb, steps.all_columns(Limb), lambda tree: Limb.objects.filter(tree=tree)),
)
steps.register(
    "paper",
    steps.Part("job", Job, TEXTS, lambda job: Job.objects.filter(pk=job.pk)),
    steps.Part("role", Role, steps.all_columns(Role), lambda job: Role.objects.filter(job=job)),
)
