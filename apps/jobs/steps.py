"""Taking changes back: rows of a site or a tree's body before and after, kept as steps."""

from contextlib import contextmanager

from django.db import models, transaction

from apps.jobs.models import Job, Limb, Step, Target, Tree
from apps.site.models import SitePicture

KEEP = 200  # steps kept for each site and each tree
BODY = (
    "species", "state", "diameter", "diameter_kind", "height", "height_kind", "spread", "lean", "lean_azimuth",
    "lean_kind", "crown_base", "crown_east", "crown_north", "breast", "yard_id", "diameter_across", "oval_azimuth", "fork", "spar_top",
    "points", "cavities", "replaced",
)  # fmt: skip
GROUND = ("slope", "downhill", "prevailing_from", "wind_from", "wind", "origin_lat", "origin_lon")
PICTURE = ("image", "wide", "high", "x", "y", "metres_per_pixel", "turned", "strength")


def _fields(model):
    return [f.attname for f in model._meta.concrete_fields if not isinstance(f, models.AutoField | models.BigAutoField)]


def _row(row, fields):
    return {name: str(value) if name == "image" else value for name in fields for value in [getattr(row, name)]}


def _site(job):
    seen = {f"job:{job.pk}": _row(Job.objects.get(pk=job.pk), GROUND)}
    seen |= {f"target:{t.pk}": _row(t, _fields(Target)) for t in Target.objects.filter(job=job)}
    seen |= {f"tree:{t.pk}": _row(t, ("x", "y")) for t in Tree.objects.filter(job=job)}
    return seen | {f"picture:{p.pk}": _row(p, (*PICTURE, "job_id")) for p in SitePicture.objects.filter(job=job)}


def _body(tree):
    seen = {f"tree:{tree.pk}": _row(Tree.objects.get(pk=tree.pk), BODY)}
    return seen | {f"limb:{b.pk}": _row(b, _fields(Limb)) for b in Limb.objects.filter(tree=tree)}


@contextmanager
def recorded(job, tree, label, by=""):
    """Keep what the block changes of a site (``tree`` None) or of a tree's body as one step; an error changes nothing."""
    with transaction.atomic():
        look = (lambda: _body(tree)) if tree else (lambda: _site(job))
        before = look()
        yield
        after = look()
        keys = [k for k in {**before, **after} if before.get(k) != after.get(k)]
        if not keys:
            return
        scope = Step.objects.filter(job=job, tree=tree)
        scope.filter(undone=True).delete()
        changes = {k: [before.get(k), after.get(k)] for k in keys}
        Step.objects.create(job=job, tree=tree, label=label[:120], changes=changes, by=by[:150])
        old = list(scope.order_by("-pk").values_list("pk", flat=True)[KEEP:])
        scope.filter(pk__in=old).delete()


def _put(key, values):
    kind, pk = key.split(":")
    model = {"job": Job, "target": Target, "tree": Tree, "limb": Limb, "picture": SitePicture}[kind]
    row = model.objects.filter(pk=pk).first()
    if values is None:
        if row:
            row.delete()
        return
    row = row or model(pk=pk)
    for name, value in values.items():
        setattr(row, name, value)
    row.save()


def _apply(step, side):
    for key, sides in step.changes.items():
        _put(key, sides[side])


@transaction.atomic
def undo(job, tree=None):
    """Take back the last step; its label, or None when nothing is left."""
    step = Step.objects.filter(job=job, tree=tree, undone=False).order_by("-pk").first()
    if step is None:
        return None
    _apply(step, 0)
    step.undone = True
    step.save(update_fields=["undone"])
    return step.label


@transaction.atomic
def redo(job, tree=None):
    """Do again the last step taken back; its label, or None when nothing is left."""
    step = Step.objects.filter(job=job, tree=tree, undone=True).order_by("pk").first()
    if step is None:
        return None
    _apply(step, 1)
    step.undone = False
    step.save(update_fields=["undone"])
    return step.label


def state(job, tree=None):
    """Labels of what undo and redo would do next."""
    scope = Step.objects.filter(job=job, tree=tree)
    back, again = scope.filter(undone=False).order_by("-pk").first(), scope.filter(undone=True).order_by("pk").first()
    return {"undo": back.label if back else "", "redo": again.label if again else ""}
