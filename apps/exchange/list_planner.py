"""Taking in GeoJSON and tree lists: kept as they came, looked at, set right, then taken in whole or not at all."""

from __future__ import annotations

import hashlib
import json
import threading
import time
from contextlib import ExitStack, contextmanager
from functools import partial
from typing import TYPE_CHECKING, Any

from django.core.cache import cache
from django.core.serializers.json import DjangoJSONEncoder
from django.db import connection, transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.translation import get_language, gettext
from simple_history.utils import bulk_create_with_history

from apps.exchange.models import Intake
from apps.exchange.planner import import_trees, put_site, target_of, tree_of_entry
from apps.jobs.models import Job, Target, Tree
from apps.jobs.planner import site_entry, tree_entry
from apps.site.planner import checked
from cantrel.border import digits
from cantrel.quantities import explain
from treecore.errors import BadDocument, CoreError, NotSolvable
from treecore.formats import geojson, tree_list
from treecore.formats.plan_document import site_of

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator

    from django.core.files.uploadedfile import UploadedFile
    from django.http import QueryDict

    from apps.crews.models import Person
    from treecore.formats.tree_list import Line

MOST = 20 * 1024 * 1024
CHUNK = 250
PAUSE = 0.03  # between two parts, for others who save [s]
ALIVE = 20  # how long a taking in that says nothing counts as running [s]
REMEMBERED = 3600  # how long a look is kept [s]


def origin_of(job: Job) -> tuple[float, float] | None:
    """Latitude and longitude of the job's origin, if it has one."""
    return (job.origin_lat, job.origin_lon) if job.origin_lat is not None and job.origin_lon is not None else None


def geojson_of(job: Job, lat_lon: bool = False) -> dict[str, Any]:
    """Site and trees as GeoJSON."""
    return geojson.write(site_entry(job), [tree_entry(t) for t in job.trees.all()], lat_lon=lat_lon)


def tree_list_of(job: Job) -> str:
    """Trees as CSV."""
    return tree_list.write([tree_entry(t) for t in job.trees.all()])


def keep(job: Job, upload: UploadedFile, by: str, units: str) -> Intake:
    """Keep an uploaded file until it is confirmed; refuses what can't be read at all."""
    size = upload.size or 0
    if size > MOST:
        raise BadDocument(field="file", why="it is {size:.0f} MB; at most 20 MB are taken", size=size / 1000000.0)
    text, encoding = tree_list.decoded(upload.read())
    row = Intake(job=job, name=(upload.name or "")[:200], encoding=encoding, text=text, by=by, units=units)
    if text.lstrip()[:1] in ("{", "["):
        row.kind = Intake.Kind.GEOJSON
        geojson.read(text, origin_of(job))
    else:
        row.kind, row.mapping = Intake.Kind.CSV, tree_list.guessed(tree_list.sheet(text).headings)
    row.save()
    return row


def intake_for(job: Job, pk: int) -> Intake:
    """One file of the job."""
    return get_object_or_404(Intake, job=job, pk=pk)


def correct(kept: Intake, data: QueryDict) -> None:
    """Take other columns and lines typed anew."""
    if kept.kind == Intake.Kind.CSV and kept.taken is None:
        headings = tree_list.sheet(kept.text).headings
        known = {f.key for f in tree_list.FIELDS}
        for i, heading in enumerate(headings):
            if f"column-{i}" in data:
                kept.mapping[heading] = data[f"column-{i}"] if data[f"column-{i}"] in known else ""
        for key in data:
            kind, _, number = key.partition("-")
            if kind == "line" and digits(number) is not None:
                kept.corrections[number] = data.getlist(key)
        kept.save()


def _lines(kept: Intake) -> Iterator[tree_list.Line]:
    origin = origin_of(kept.job)
    place = geojson.projection(origin)[0] if origin else None
    ground = site_entry(kept.job)
    for line in tree_list.lines(
        tree_list.sheet(kept.text),
        kept.mapping,
        kept.units,
        {int(k): tuple(v) for k, v in kept.corrections.items()},
        place,
        frozenset(kept.job.trees.values_list("name", flat=True)),
    ):
        yield _on_ground(line, ground)


def _on_ground(line: Line, ground: dict[str, Any]) -> Line:
    """Refuse a line whose tree would stand inside something."""
    if line.entry is None or not ground["targets"]:
        return line
    try:
        site_of(ground, line.entry)
    except CoreError as error:
        return line._replace(entry=None, refused=error)
    return line


def look(kept: Intake, shown: int) -> dict[str, Any]:
    """What a file would bring, for the page: worked out once for the same file, columns, corrections and job."""
    key = f"look-{kept.pk}-{_stands_on(kept)}-{kept.fingerprint()}-{get_language()}-{shown}"
    found = cache.get(key)
    if found is None:
        found = _look_list(kept, shown) if kept.kind == Intake.Kind.CSV else _look_geojson(kept)
        cache.set(key, found, REMEMBERED)
    return found


def _stands_on(kept: Intake) -> str:
    """Fingerprint of what of a job decides on a file's lines: its ground, its origin and the names that are taken."""
    job = Job.objects.get(pk=kept.job_id)
    names = sorted(job.trees.values_list("name", flat=True))
    whole = json.dumps([site_entry(job), names], sort_keys=True, cls=DjangoJSONEncoder)
    return hashlib.sha256(whole.encode()).hexdigest()


def _look_list(kept: Intake, shown: int) -> dict[str, Any]:
    table = tree_list.sheet(kept.text)
    lack = tree_list.missing(kept.mapping)
    columns = [
        {
            "n": i,
            "heading": h,
            "field": kept.mapping.get(h, ""),
            "first": table.lines[0][1][i] if i < len(table.lines[0][1]) else "",
        }
        for i, h in enumerate(table.headings)
    ]
    rows = [] if lack else list(_lines(kept))
    good, bad = [r for r in rows if r.entry], [r for r in rows if not r.entry]
    wide = len(table.headings)
    return {
        "columns": columns,
        "fields": tree_list.FIELDS,
        "lack": lack,
        "headings": table.headings,
        "good": len(good),
        "bad": len(bad),
        "rows": good[:shown],
        "refused": [
            {"number": r.number, "cells": (list(r.cells) + [""] * wide)[:wide], "why": _why(r.refused, kept.units)}
            for r in bad[:200]
            if r.refused
        ],
        "separator": {"\t": "tab"}.get(table.separator, table.separator),
    }


def _why(error: CoreError, system: str) -> str:
    return f"{error.field.replace('_', ' ')}: {explain(error, system)}"


def _read(kept: Intake) -> tuple[Any, ...]:
    """What a GeoJSON file holds, and besides what it can't bring because of what is there already."""
    found = geojson.read(kept.text, origin_of(kept.job))
    targets, there = _new(found.targets, kept.job.targets, gettext("something of this name is on the plan already"))
    trees, twins = _new(found.trees, kept.job.trees, gettext("a tree of this job has this name already"))
    return found, targets, trees, [*found.refused, *there, *twins]


def _new(
    entries: Iterable[dict[str, Any]], stored: Any, why: str
) -> tuple[list[dict[str, Any]], list[tuple[int, str, str]]]:
    """Entries with names nobody has yet, and the others refused."""
    names, fresh, refused = set(stored.values_list("name", flat=True)), [], []
    for number, row in enumerate(entries, start=1):
        if row["name"] in names:
            refused.append((number, row["name"], why))
        else:
            names.add(row["name"])
            fresh.append(row)
    return fresh, refused


def _look_geojson(kept: Intake) -> dict[str, Any]:
    found, targets, trees, refused = _read(kept)
    return {
        "frame": found.frame,
        "origin": found.origin,
        "targets": targets[:200],
        "trees": trees[:200],
        "good": len(targets) + len(trees),
        "refused_things": refused,
        "bad": len(refused),
    }


def take(kept: Intake, by: Person | None, report: Callable[..., Any] = lambda done, of: None) -> int:
    """Take a file's good lines in, all of them or none; how many there were. ``report`` hears how far it is.

    Everything is read before anything is written, and a list's trees are stored in parts out of sight before one short
    step puts all of them on the job: nobody who saves meanwhile waits for long.
    """
    _not_twice(kept)
    stood_on = _stands_on(kept)
    with ExitStack() as beside:
        write = (
            beside.enter_context(_staged(kept, by, report)) if kept.kind == Intake.Kind.CSV else _read_geojson(kept, by)
        )
        with transaction.atomic():
            _not_twice(Intake.objects.get(pk=kept.pk))
            if _stands_on(kept) != stood_on:
                raise NotSolvable(what="file", why="the job changed while the file was read: look at it again")
            count = write()
            kept.taken, kept.fault = count, ""
            kept.save()
    report(count, count)
    return count


def _not_twice(kept: Intake) -> None:
    if kept.taken is not None:
        raise BadDocument(field="file", why="this file has been taken in already")


@contextmanager
def _staged(kept: Intake, by: Person | None, report: Callable[..., Any]) -> Iterator[Callable[[], int]]:
    """A list's good trees stored on a job nobody sees; what is given puts them on theirs. Afterwards that job is gone,
    and so is everything on it if they did not get there.
    """
    of = len(tree_list.sheet(kept.text).lines)
    aside = Job(crew=kept.job.crew, name=kept.name, staging=True, deleted_at=timezone.now())
    aside.skip_history_when_saving = True  # type: ignore[attr-defined]
    aside.save()
    try:
        for waiting in _chunks(kept, of, report):
            trees = [tree_of_entry(aside, entry) for entry in waiting]
            with transaction.atomic():
                bulk_create_with_history(trees, Tree, batch_size=CHUNK, default_user=by)
            time.sleep(PAUSE)
        yield partial(_put_over_to, kept.job, aside)
    finally:
        with transaction.atomic():
            number, _ = aside.pk, aside.delete()
            Tree.history.filter(job_id=number).delete()


def _chunks(kept: Intake, of: int, report: Callable[..., Any]) -> Iterator[list[dict[str, Any]]]:
    """Entries of a list's good lines, in parts."""
    waiting = []
    for number, line in enumerate(_lines(kept), start=1):
        if line.entry:
            waiting.append(line.entry)
        if number % CHUNK == 0:
            yield waiting
            report(number, of)
            waiting = []
    yield waiting


def _put_over_to(job: Job, aside: Job) -> int:
    """Put the trees of a job nobody sees, and what is known of them, on another."""
    Tree.history.filter(job_id=aside.pk).update(job_id=job.pk)
    return Tree.objects.filter(job=aside).update(job=job)


def _read_geojson(kept: Intake, by: Person | None) -> Callable[[], int]:
    """Read what a GeoJSON file can bring; what is returned writes it."""
    found, targets, trees, _ = _read(kept)
    of = len(targets) + len(trees)

    def write() -> int:
        job = Job.objects.get(pk=kept.job_id)
        if not job.targets.exists() and not job.trees.exists():
            put_site(job, found.site)
        if found.origin and origin_of(job) is None:
            job.origin_lat, job.origin_lon = found.origin
        job.save()
        bulk_create_with_history([target_of(job, row) for row in targets], Target, batch_size=CHUNK, default_user=by)
        import_trees(job, trees)
        checked(job)
        return of

    return write


def _key(kept: Intake) -> str:
    return f"intake-{kept.pk}"


def progress(kept: Intake) -> dict[str, Any]:
    """How far the taking in is: lines done, of how many, and how it ended."""
    now = cache.get(_key(kept)) or {"done": 0, "of": 0}
    return now | {"taken": kept.taken, "fault": kept.fault}


def start(kept: Intake, by: Person) -> None:
    """Take the file in beside the page, which asks how far it is."""
    if cache.add(_running(kept), True, ALIVE):
        threading.Thread(target=partial(_run, kept.pk, by), daemon=True).start()


def _running(kept: Intake) -> str:
    return f"{_key(kept)}-running"


def _run(pk: int, by: Person) -> None:
    kept = Intake.objects.select_related("job").get(pk=pk)

    def told(done: int, of: int) -> None:
        cache.set(_key(kept), {"done": done, "of": of}, REMEMBERED)
        cache.touch(_running(kept), ALIVE)

    try:
        take(kept, by, told)
    except CoreError as error:
        Intake.objects.filter(pk=pk).update(fault=f"{error.field}: {error}")
    except Exception:
        Intake.objects.filter(pk=pk).update(fault=gettext("the program failed; nothing was taken in"))
        raise
    finally:
        cache.delete(_running(kept))
        connection.close()
