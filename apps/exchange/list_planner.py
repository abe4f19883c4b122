"""Taking in GeoJSON and tree lists: kept as they came, looked at, set right, then taken in whole or not at all."""

from __future__ import annotations

import threading
from functools import partial
from typing import TYPE_CHECKING, Any

from django.core.cache import cache
from django.db import connection, transaction
from django.shortcuts import get_object_or_404
from django.utils.translation import gettext
from simple_history.utils import bulk_create_with_history

from apps.exchange.models import Intake
from apps.exchange.planner import import_trees, put_site, target_of, tree_of_entry
from apps.jobs.models import Target, Tree
from apps.jobs.planner import site_entry, tree_entry
from apps.site.planner import checked
from cantrel.quantities import explain
from treecore.errors import BadDocument, CoreError
from treecore.formats import geojson, tree_list
from treecore.formats.plan_document import site_of

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator

    from django.core.files.uploadedfile import UploadedFile
    from django.http import QueryDict

    from apps.jobs.models import Job
    from treecore.formats.tree_list import Line

MOST = 20 * 1024 * 1024
CHUNK = 250


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
            if kind == "line" and number.isdigit():
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
    """What a file would bring, for the page."""
    return _look_list(kept, shown) if kept.kind == Intake.Kind.CSV else _look_geojson(kept)


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


def take(kept: Intake, by: str, report: Callable[..., Any] = lambda done, of: None) -> int:
    """Take a file's good lines in, all of them or none; how many there were. ``report`` hears how far it is."""
    if kept.taken is not None:
        raise BadDocument(field="file", why="this file has been taken in already")
    with transaction.atomic():
        count = (_take_list if kept.kind == Intake.Kind.CSV else _take_geojson)(kept, report)
        kept.taken, kept.fault = count, ""
        kept.save()
    return count


def _take_list(kept: Intake, report: Callable[..., Any]) -> int:
    of = len(tree_list.sheet(kept.text).lines)
    waiting, count = [], 0
    for number, line in enumerate(_lines(kept), start=1):
        if line.entry:
            waiting.append(tree_of_entry(kept.job, line.entry))
        if len(waiting) >= CHUNK:
            count += _store(waiting)
            waiting = []
        if number % CHUNK == 0:
            report(number, of)
    count += _store(waiting)
    report(of, of)
    return count


def _store(rows: list[Tree]) -> int:
    bulk_create_with_history(rows, Tree, batch_size=CHUNK)
    return len(rows)


def _take_geojson(kept: Intake, report: Callable[..., Any]) -> int:
    found, targets, trees, _ = _read(kept)
    job, of = kept.job, len(targets) + len(trees)
    if not job.targets.exists() and not job.trees.exists():
        put_site(job, found.site)
    if found.origin and origin_of(job) is None:
        job.origin_lat, job.origin_lon = found.origin
    job.save()
    bulk_create_with_history([target_of(job, row) for row in targets], Target, batch_size=CHUNK)
    report(len(targets), of)
    import_trees(job, trees)
    checked(job)
    report(of, of)
    return of


def _key(kept: Intake) -> str:
    return f"intake-{kept.pk}"


def progress(kept: Intake) -> dict[str, Any]:
    """How far the taking in is: lines done, of how many, and how it ended."""
    now = cache.get(_key(kept)) or {"done": 0, "of": 0}
    return now | {"taken": kept.taken, "fault": kept.fault}


def start(kept: Intake, by: str) -> None:
    """Take the file in beside the page, which asks how far it is."""
    if cache.add(_key(kept) + "-running", True, 600):
        threading.Thread(target=partial(_run, kept.pk, by), daemon=True).start()


def _run(pk: int, by: str) -> None:
    kept = Intake.objects.select_related("job").get(pk=pk)
    try:
        take(kept, by, lambda done, of: cache.set(_key(kept), {"done": done, "of": of}, 600))
    except CoreError as error:
        Intake.objects.filter(pk=pk).update(fault=f"{error.field}: {error}")
    except Exception:
        Intake.objects.filter(pk=pk).update(fault=gettext("the program failed; nothing was taken in"))
        raise
    finally:
        cache.delete(_key(kept) + "-running")
        connection.close()
