"""A plan file over a job that is there: what would change, line by line, then all of it or nothing; undo takes it back.

Trees and things on the site are known by their names. What the file does not hold stays: trees beside its own, and what
other people answered on the walk-up.
"""

from __future__ import annotations

import hashlib
import json
from contextlib import ExitStack
from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.utils.translation import gettext, gettext_noop

from apps.briefing.planner import canonical, differences, document
from apps.crews import steps
from apps.exchange.planner import (
    import_felling,
    import_limbs,
    import_method,
    import_readings,
    import_roles,
    import_walk,
    put_site,
    read_document,
    target_of,
    with_yard,
)
from apps.felling.models import FellingPlan
from apps.gear.planner import from_entry
from apps.jobs.models import Job, Target, Tree
from apps.jobs.planner import job_entry, site_entry
from apps.takedown.models import TakedownPlan
from apps.takedown.planner import with_ids
from cantrel.rows import paths, put
from treecore.document.felling import FellingEntry
from treecore.document.site import JobEntry
from treecore.document.tree import TreeEntry
from treecore.document.versions import SCHEMA, VERSION
from treecore.errors import NotSolvable

if TYPE_CHECKING:
    from collections.abc import Hashable, Sequence

SAME = gettext_noop("stays as it is")


def fingerprint(job: Job) -> str:
    """Fingerprint of a whole job, so that nothing is replaced that was not looked at."""
    trees = [document(tree)["trees"][0] for tree in job.trees.all()]
    whole = {"job": job_entry(job), "site": site_entry(job), "trees": trees}
    return hashlib.sha256(json.dumps(whole, sort_keys=True).encode()).hexdigest()


def compared(job: Job, plan: dict[str, Any]) -> list[tuple[str, str]]:
    """What a document would change of a job: name and what happens to it, for its papers, things on the site and
    trees.
    """
    lines = [(gettext("Papers"), _changed(job_entry(job), plan.get("job", {})))] if "job" in plan else []
    if "site" in plan:
        lines += _site_lines(job, plan["site"])
    there = {tree.name: tree for tree in job.trees.all()}
    for row in plan["trees"]:
        tree = there.get(row["name"])
        lines.append((row["name"], _tree_line(tree, row) if tree else gettext("new tree")))
    return lines


def _site_lines(job: Job, site: dict[str, Any]) -> list[tuple[str, str]]:
    ground = {key: value for key, value in site_entry(job).items() if key != "targets"}
    lines = [(gettext("Ground"), _changed(ground, {k: v for k, v in site.items() if k != "targets"}))]
    there, sent = ({t["name"]: t for t in rows} for rows in (site_entry(job)["targets"], site.get("targets", ())))
    lines += [(name, _changed(there[name], row) if name in there else "new") for name, row in sent.items()]
    return lines + [(name, gettext("taken off")) for name in there if name not in sent]


def _tree_line(tree: Tree, row: dict[str, Any]) -> str:
    def whole(entry: Any) -> Any:
        return canonical({"schema": SCHEMA, "version": VERSION, "trees": [entry]})["trees"][0]

    return _words({path.split()[0] for path in differences(whole(document(tree)["trees"][0]), whole(row))})


def _changed(there: dict[str, Any], sent: dict[str, Any]) -> str:
    plain = [{k: v for k, v in row.items() if k != "id" and v not in ("", None, False, [])} for row in (there, sent)]
    return _words({key for key in {**plain[0], **plain[1]} if plain[0].get(key) != plain[1].get(key)})


def _words(keys: set[str]) -> str:
    said = sorted(key.removesuffix("_m").removesuffix("_deg").removesuffix("_m_s").replace("_", " ") for key in keys)
    return "changed: " + ", ".join(said) if said else SAME


@transaction.atomic
def replace_job(job: Job, text: str, seen: str) -> Job:
    """Put a document over a job; refused where the job is not the one that was looked at."""
    plan = read_document(text)
    if seen != fingerprint(job):
        raise NotSolvable(
            what="file", why="the job changed since this was shown: look at it again; nothing was changed"
        )
    for row in plan.get("gear", ()):
        from_entry(job.crew, row)
    with ExitStack() as kept:
        for scope in ("paper", "site"):
            kept.enter_context(steps.recorded(scope, job, gettext("plan file taken in")))
        _put_papers(job, plan)
        if "site" in plan:
            _put_things(job, plan["site"])
    for row in plan["trees"]:
        _put_tree(job, row)
    return job


def _put_papers(job: Job, plan: dict[str, Any]) -> None:
    job = Job.objects.get(pk=job.pk)
    put(job, plan.get("job", {}), JobEntry)
    put_site(job, plan.get("site", {}))
    job.save()
    if "roles" in plan.get("job", {}):
        job.roles.all().delete()
        import_roles(job, plan["job"])


def _put_things(job: Job, site: dict[str, Any]) -> None:
    there = {target.name: target for target in Target.objects.filter(job=job)}
    for row in site.get("targets", ()):
        target = target_of(job, row)
        old = there.pop(target.name, None)
        if old is not None:
            target.pk, target.revision, target._state.adding = old.pk, old.revision, False
        target.save()
    for target in there.values():
        target.delete()


def _put_tree(job: Job, row: dict[str, Any]) -> None:
    tree = Tree.objects.filter(job=job, name=row["name"]).first()
    fresh = with_yard(job, row)
    if tree is None:
        fresh.save()
        tree = fresh
    with ExitStack() as kept:
        for scope in ("body", "walk", "felling", "takedown"):
            kept.enter_context(steps.recorded(scope, tree, gettext("plan file taken in")))
        _copy(fresh, tree, TreeEntry, ("yard_id",))
        tree.limbs.all().delete()
        import_limbs(tree, row)
        tree.readings.all().delete()
        import_readings(tree, row)
        import_walk(tree, row)
        _put_plans(tree, row)


def _put_plans(tree: Tree, row: dict[str, Any]) -> None:
    old = FellingPlan.objects.filter(tree=tree).first()
    if "felling" in row:
        fresh = import_felling(tree, row)
        if old is None:
            fresh.save()
        else:
            _copy(fresh, old, FellingEntry, ("method", "reason"))
    elif row.get("method", {}).get("choice"):
        import_method(tree, row["method"])
    if "takedown" in row:
        plan = TakedownPlan.objects.filter(tree=tree).first() or TakedownPlan(tree=tree)
        plan.picks, plan.access = with_ids(row["takedown"]["picks"]), row["takedown"].get("access") or {}
        plan.save()


def _copy(
    fresh: FellingPlan | Tree,
    row: FellingPlan | Tree,
    entry: Hashable,
    more: Sequence[Any] = (),
) -> None:
    """Put everything an entry declares, said or left out, from one row on another, and save it."""
    for column in (*(column for _, column in paths(entry) if hasattr(fresh, column)), *more):
        setattr(row, column, getattr(fresh, column))
    row.save()
