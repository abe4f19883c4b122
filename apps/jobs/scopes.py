"""What of a job, its site and its trees can be taken back together."""

from apps.crews import steps
from apps.jobs.models import Job, Limb, Role, Target, Tree
from cantrel.rows import paths
from treecore.document.site import JobEntry, SiteEntry
from treecore.document.tree import TreeEntry

# What rows keep of an entry is what its undo goes over.
GROUND = (*(column for _, column in paths(SiteEntry)), "origin_lat", "origin_lon")
TEXTS = (*(column for _, column in paths(JobEntry)), "slope", "downhill")
BODY = (*(column for _, column in paths(TreeEntry)), "yard_id")
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
