"""A plan file on its way in: looked at line by line, then made a job whole or not at all."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils.translation import gettext, ngettext

from apps.exchange.models import PlanFile
from apps.exchange.planner import import_document
from apps.exchange.replacing_planner import SAME, compared, fingerprint, replace_job
from apps.jobs.planner import common_name_of
from cantrel.quantities import explain
from treecore.document.versions import SCHEMA
from treecore.errors import BadDocument
from treecore.formats.plan_document import load
from treecore.formats.refusals import refusals
from treecore.formats.tree_list import decoded

if TYPE_CHECKING:
    from collections.abc import Iterator

    from django.core.files.uploadedfile import UploadedFile

    from apps.crews.models import Crew
    from apps.jobs.models import Job
    from treecore.formats.refusals import Refusal

MOST = 20 * 1024 * 1024


def keep(crew: Crew, upload: UploadedFile, by: str) -> PlanFile:
    """Keep an uploaded plan file; refuses one that is too large. What is wrong inside is said when it is looked at."""
    size = upload.size or 0
    if size > MOST:
        raise BadDocument(field="file", why="it is {size:.0f} MB; at most 20 MB are taken", size=size / 1000000.0)
    text, _ = decoded(upload.read())
    return PlanFile.objects.create(crew=crew, name=(upload.name or "")[:200], text=text, by=by)


def is_plan(upload: UploadedFile) -> bool:
    """Whether an uploaded file says that it is a plan."""
    if (upload.size or 0) > MOST:
        return False
    text = upload.read()
    upload.seek(0)
    return text.lstrip()[:1] == b"{" and f'"{SCHEMA}"'.encode() in text


def file_for(crew: Crew, pk: int) -> PlanFile:
    """One plan file of the crew."""
    return get_object_or_404(PlanFile, crew=crew, pk=pk)


def look(kept: PlanFile, system: str, over: Job | None = None) -> dict[str, Any]:
    """What a plan file would bring, line by line, and everything it is refused for, in the person's units.

    ``over`` is a job it would be put over; a new one otherwise.
    """
    refused = [{"where": r.where, "why": _why(r, system)} for r in refusals(kept.text)]
    try:
        document = load(kept.text)
    except BadDocument:
        return {"refused": refused, "lines": [], "job": "", "good": False, "over": over}
    if over is not None:
        good = not [r for r in refused if ", pick " not in r["where"]]
        lines = compared(over, document)
        same = [name for name, what in lines if what == SAME]
        lines = [line for line in lines if line[1] != SAME]
        found = {"refused": refused, "lines": lines, "same": same, "good": good, "over": over}
        return found | {"job": document.get("job", {}).get("name", ""), "seen": fingerprint(over)}
    lines = [(row["name"], _tree_line(row)) for row in document["trees"]]
    lines += [
        (row["name"], row.get("kind", "other").replace("_", " ")) for row in document.get("site", {}).get("targets", ())
    ]
    lines += [(row["name"], f"gear: {row['kind']}") for row in document.get("gear", ())]
    blocked = [r for r in refused if ", pick " not in r["where"]]  # a refused pick comes in as it is, and says so there
    return {"refused": refused, "lines": lines, "job": document.get("job", {}).get("name", ""), "good": not blocked}


def _why(refusal: Refusal, system: str) -> str:
    if refusal.error is None:
        return refusal.why
    return f"{refusal.error.field.replace('_', ' ')}: {explain(refusal.error, system)}"


def _tree_line(row: dict[str, Any]) -> str:
    """A tree of a document in a few words."""
    parts = [gettext("tree, {species}").format(species=common_name_of(row["species"]))]
    parts += [pattern.format(n=n) for n, pattern in _counted(row)]
    parts += [gettext("felling plan")] if row.get("felling") else []
    return ", ".join(parts)


def _counted(row: dict[str, Any]) -> Iterator[tuple[int, str]]:
    """How many limbs, readings, walk-up lines and picks a tree brings, each with its words."""
    limbs, readings, lines = (len(row.get(key, ())) for key in ("limbs", "readings", "walk_up"))
    picks = len((row.get("takedown") or {}).get("picks", ()))
    for n, pattern in (
        (limbs, ngettext("{n} limb", "{n} limbs", limbs)),
        (readings, ngettext("{n} reading", "{n} readings", readings)),
        (lines, ngettext("{n} walk-up line", "{n} walk-up lines", lines)),
        (picks, ngettext("{n} pick", "{n} picks", picks)),
    ):
        if n:
            yield n, pattern


@transaction.atomic
def make_job(kept: PlanFile) -> Job:
    """Make a job of a plan file, once."""
    kept = PlanFile.objects.get(pk=kept.pk)
    if kept.made is not None:
        return kept.made
    kept.made = import_document(kept.crew, kept.text)
    kept.save()
    return kept.made


@transaction.atomic
def put_over(kept: PlanFile, job: Job, seen: str) -> Job:
    """Put a plan file over a job that was looked at."""
    replace_job(job, kept.text, seen)
    kept.made = job
    kept.save()
    return job
