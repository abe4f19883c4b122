"""A job, or a whole yard, as one file: every row with its history, every picture; and back again, byte for byte.

Accounts do not travel: who did what stays as a name. So a signature or a walk-up answer that came with a file is kept
to be read, but counts for nothing here until somebody signs or answers anew: a file can be written by anybody.
"""

from __future__ import annotations

import json
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cache
from typing import TYPE_CHECKING, Any, NamedTuple

from django.core.exceptions import ValidationError
from django.core.files.base import ContentFile
from django.db import IntegrityError, models, transaction

from apps.briefing.models import PlanReader, SignOff
from apps.briefing.planner import canonical, document
from apps.crews.models import Crew, Person
from apps.day.models import Booking, TreeWood, Workday, WorkItem, YardRates
from apps.daybook.models import FellingRecord, RecordPhoto, Trace, TraceSecond, WorkRecord
from apps.felling.models import FellingPlan, YardSchool
from apps.gear.models import DeviceReading, GearItem, Inspection
from apps.jobs.models import Job, Limb, Role, Target, Tree
from apps.keeping import activity_planner
from apps.site.models import ApproachDistance, SitePicture
from apps.species.models import YardSpecies
from apps.survey.models import CrewHazard, HazardAnswer, Reading
from apps.takedown.models import TakedownPlan
from cantrel.pictures import is_jpeg
from cantrel.rows import plain_date
from treecore.errors import BadDocument, CoreError
from treecore.formats.plan_document import load
from treecore.formats.reading import read_json

if TYPE_CHECKING:
    from typing import BinaryIO

KIND, FORM, ROWS = "cantrel-archive", 1, "rows.json"
YARD, JOB = "yard", "job"
MOST_FILES, MOST_BYTES = 20_000, 500_000_000  # of an archive, unpacked
FIXED = (1980, 1, 1, 0, 0, 0)  # every entry's date: the same rows are the same bytes

YARD_TABLES: tuple[type[models.Model], ...] = (
    YardSpecies,
    YardSchool,
    ApproachDistance,
    CrewHazard,
    GearItem,
    DeviceReading,
    Inspection,
    YardRates,
)
JOB_TABLES: tuple[type[models.Model], ...] = (
    Job,
    Role,
    Target,
    SitePicture,
    Tree,
    Limb,
    Reading,
    HazardAnswer,
    FellingPlan,
    TakedownPlan,
    SignOff,
    PlanReader,
    FellingRecord,
    WorkRecord,
    RecordPhoto,
    Trace,
    TraceSecond,
    WorkItem,
    Workday,
    Booking,
    TreeWood,
)
# By what a row of the yard is known that may be there already.
ONE_A_YARD = (YardRates,)  # tables with a single row for each yard; the one that is there stays
KNOWN_BY = {YardSpecies: "common", CrewHazard: "key", GearItem: "name"}
PAST = {"history_date", "history_type"}  # columns of a history row that are kept; who is kept as a name
DROPPED = (Crew, Person)  # rows of others that a row of an archive does not point to


class Summary(NamedTuple):
    """What an archive brought: the jobs, how many trees and pictures, how many signatures to be read only."""

    jobs: list[Job]
    trees: int
    pictures: int
    signatures: int


def label(model: type[models.Model]) -> str:
    """A table's name in an archive."""
    return str(model._meta.label)


# --- out ---------------------------------------------------------------------------------------------------------


@dataclass
class _Out:
    """Rows on their way out, numbered anew so that the same rows give the same file in any yard."""

    numbers: dict[str, dict[int, int]] = field(default_factory=dict)
    files: dict[str, int] = field(default_factory=dict)

    def number(self, model: type[models.Model], rows: list[Any], past: list[Any]) -> None:
        """Number the rows of a table, then those only their history knows, in the order they came to be."""
        ids = [row.pk for row in rows]
        known = set(ids)
        ids += [pk for pk in dict.fromkeys(row.id for row in past) if pk not in known]
        self.numbers[label(model)] = {pk: n for n, pk in enumerate(ids, start=1)}

    def row(self, model: type[models.Model], row: Any) -> dict[str, Any]:
        """A row's columns, other rows by their numbers."""
        found = {"#": self.numbers[label(model)][row.pk if isinstance(row, model) else row.id]}
        kept = {column.name for column in row._meta.concrete_fields}
        return found | {c.name: self._value(c, row) for c in _columns(model) if c.name in kept}

    def _value(self, column: Any, row: Any) -> Any:
        value = getattr(row, column.attname)
        if column.remote_field:
            return self.numbers.get(label(column.remote_field.model), {}).get(value)
        if isinstance(column, models.FileField):
            return self.files.setdefault(str(value), len(self.files) + 1) if value else None
        return plain_date(value)

    def past(self, model: type[models.Model], row: Any) -> dict[str, Any]:
        """A row of a history: its columns, when, how, and the name of whoever did it."""
        found = self.row(model, row) | {name: plain_date(getattr(row, name)) for name in PAST}
        return found | {"by": row.history_user.shown_name() if row.history_user else row.history_change_reason or ""}


@cache
def _columns(model: type[models.Model]) -> tuple[Any, ...]:
    """Columns that travel: all but the row's own number, whose yard it is, accounts, and what is this server's."""
    return tuple(
        column
        for column in model._meta.concrete_fields
        if not column.primary_key
        and not (column.remote_field and column.remote_field.model in DROPPED)
        and column.name not in ("staging", "deleted_at", "uid")
    )


def job_archive(job: Job, to: BinaryIO) -> None:
    """Write a job with all of its past, and what of its yard it stands on."""
    trees = job.trees.all()
    gear = {entry["name"] for tree in trees for entry in document(tree).get("gear", ())}
    answered = HazardAnswer.objects.filter(tree__job=job).values("hazard")
    yard = {
        YardSpecies: job.crew.species.filter(pk__in=trees.exclude(yard=None).values("yard")),
        CrewHazard: job.crew.hazards.filter(key__in=answered),
        GearItem: job.crew.gear.filter(name__in=gear),
        DeviceReading: DeviceReading.objects.filter(item__crew=job.crew, item__name__in=gear),
        Inspection: Inspection.objects.filter(item__crew=job.crew, item__name__in=gear),
    }
    _write(JOB, [(model, rows, ()) for model, rows in yard.items()] + _of_jobs([job]), "", to)


def yard_archive(crew: Crew, to: BinaryIO) -> None:
    """Write everything a yard has, but for its people's accounts and what is on its way in or out."""
    past = {kept.model: kept.model.history.filter(kept.rows(crew)) for kept in activity_planner.YARD}  # type: ignore[attr-defined]
    tables: list[Any] = [(model, _of_crew(model, crew), past[model]) for model in YARD_TABLES]
    _write(YARD, tables + _of_jobs(list(Job.objects.for_crew(crew).order_by("pk"))), crew.name, to)


def _of_crew(model: type[models.Model], crew: Crew) -> Any:
    return model._default_manager.filter(**{"item__crew" if model in (DeviceReading, Inspection) else "crew": crew})


def _of_jobs(jobs: list[Job]) -> list[Any]:
    """Tables of jobs: model, rows, past rows."""
    ids = [job.pk for job in jobs]
    trees = set(Tree.history.filter(job_id__in=ids).values_list("id", flat=True))
    trees |= set(Tree.objects.filter(job_id__in=ids).values_list("pk", flat=True))
    found: list[Any] = []
    for model in JOB_TABLES:
        names = {column.name for column in model._meta.concrete_fields}
        where: dict[str, Any] = {"job_id__in": ids} if "job" in names else {"tree_id__in": trees}
        where = {"id__in": ids} if model is Job else where
        if model is Booking:
            where = {"workday_id__in": list(Workday.history.filter(job_id__in=ids).values_list("id", flat=True))}
        if model is TraceSecond:  # what was read is never changed, so it has no past
            found.append((model, TraceSecond.objects.filter(trace__tree_id__in=trees), ()))
            continue
        found.append((model, model._default_manager.filter(**where), model.history.filter(**where)))  # type: ignore[attr-defined]
    return found


def _write(of: str, tables: Iterable[tuple[Any, Any, Any]], name: str, to: BinaryIO) -> None:
    out, loaded, rows = _Out(), [], []
    for model, query, past in tables:
        kept = list(query.order_by("pk"))
        gone = list(past.select_related("history_user").order_by("history_id")) if past != () else []
        out.number(model, kept, gone)
        loaded.append((model, kept, gone))
    for model, kept, gone in loaded:
        table = {"table": label(model), "rows": [out.row(model, row) for row in kept]}
        rows.append(table | {"past": [out.past(model, row) for row in gone]})
    whole = {"kind": KIND, "form": FORM, "of": of, "name": name, "tables": rows}
    with zipfile.ZipFile(to, "w") as packed:
        text = json.dumps(whole, ensure_ascii=False, sort_keys=True, separators=(",\n", ":"))
        packed.writestr(_entry(ROWS, zipfile.ZIP_DEFLATED), text.encode())
        storage = SitePicture._meta.get_field("image").storage
        for path, number in out.files.items():
            if storage.exists(path):
                with storage.open(path) as picture:
                    packed.writestr(_entry(f"pictures/{number}.jpg", zipfile.ZIP_STORED), picture.read())


def _entry(name: str, how: int) -> zipfile.ZipInfo:
    found = zipfile.ZipInfo(name, FIXED)
    found.compress_type, found.external_attr = how, 0o600 << 16
    return found


# --- in ----------------------------------------------------------------------------------------------------------


def take_in(crew: Crew, upload: BinaryIO) -> Summary:
    """Make of an archive what it holds, all of it or nothing: a job beside others, or a yard where nothing is yet."""
    with _opened(upload) as packed:
        whole = _rows(packed)
        if whole["of"] == YARD and not _empty(crew):
            raise BadDocument(
                field="archive", why="a whole yard can only come into a yard without jobs, gear and lists"
            )
        try:
            with transaction.atomic():
                found = _In(crew, packed).everything(whole)
                _held(found)
        except ValidationError as error:
            raise BadDocument(field="archive", why="{said}", said="; ".join(error.messages)) from None
        except IntegrityError as error:
            raise BadDocument(field="archive", why="a row does not fit: {said}", said=error) from None
        except CoreError:
            raise
        except (KeyError, TypeError, ValueError, AttributeError, IndexError, OverflowError) as error:
            said = f"{type(error).__name__} {error}"
            raise BadDocument(
                field="archive", why="its rows are not what this program writes ({said})", said=said
            ) from None
    return found


def _empty(crew: Crew) -> bool:
    rows = (crew.jobs.all(), crew.gear.all(), crew.species.all(), crew.hazards.all(), crew.schools.all())
    return not any(one.exists() for one in rows)


def _opened(upload: BinaryIO) -> zipfile.ZipFile:
    """The archive, looked at before it is unpacked."""
    try:
        packed = zipfile.ZipFile(upload)
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError):
        raise BadDocument(field="archive", why="this is no archive of this program, or it is cut off") from None
    entries = packed.infolist()
    if len(entries) > MOST_FILES or sum(entry.file_size for entry in entries) > MOST_BYTES:
        raise BadDocument(field="archive", why="it holds more than can be unpacked here")
    return packed


def _rows(packed: zipfile.ZipFile) -> dict[str, Any]:
    try:
        whole = read_json(packed.read(ROWS), "archive")
    except (KeyError, zipfile.BadZipFile, RuntimeError, NotImplementedError, EOFError, OSError):
        raise BadDocument(field="archive", why="this is no archive of this program, or it is cut off") from None
    if not isinstance(whole, dict) or (whole.get("kind"), whole.get("form")) != (KIND, FORM):
        raise BadDocument(field="archive", why="this is no archive of this program, or one of a newer program")
    if whole.get("of") not in (YARD, JOB):
        raise BadDocument(field="archive", why="it holds neither a job nor a yard")
    return whole


@dataclass
class _In:
    """Rows on their way in: numbers of the archive become rows of this yard."""

    crew: Crew
    packed: zipfile.ZipFile
    rows: dict[str, dict[int, int]] = field(default_factory=dict)
    gone: dict[str, dict[int, int]] = field(default_factory=dict)  # rows that only their past knows
    files: dict[int, str] = field(default_factory=dict)
    keys: dict[str, str] = field(default_factory=dict)  # of the yard's own lines that are there by another key

    def everything(self, whole: dict[str, Any]) -> Summary:
        """Every table, rows before their past."""
        known = {label(model): model for model in (*YARD_TABLES, *JOB_TABLES)}
        for table in whole["tables"]:
            model = known[table["table"]]
            self.rows[label(model)], self.gone[label(model)] = {}, {}
            for row in table["rows"]:
                self.row(model, row)
            self._own_links(model, table["rows"])
            for row in table["past"]:
                self.past(model, row)
        jobs = list(Job.objects.filter(pk__in=self.rows[label(Job)].values()))
        trees = Tree.objects.filter(job__in=jobs)
        signed = SignOff.objects.filter(tree__in=trees).count()
        return Summary(jobs, trees.count(), len(self.files), signed)

    def row(self, model: type[models.Model], row: dict[str, Any]) -> None:
        """One row; one of the yard's that is there already stays as it is."""
        there = self._there(model, row)
        if there is None:
            there = model(**self._columns(model, row))
            if any(column.name == "crew" for column in model._meta.concrete_fields):
                there.crew = self.crew  # type: ignore[attr-defined]
            others = [c.name for c in model._meta.concrete_fields if c.remote_field or isinstance(c, models.FileField)]
            there.clean_fields(exclude=others)
            there.save_base(raw=True, force_insert=True)
        self.rows[label(model)][int(row["#"])] = there.pk

    def _there(self, model: type[models.Model], row: dict[str, Any]) -> Any:
        if model in ONE_A_YARD:
            return model._default_manager.filter(crew=self.crew).first()
        column = KNOWN_BY.get(model)
        if column is None:
            return None
        found = model._default_manager.filter(crew=self.crew, **{column: row[column]}).first()
        if found is None and model is CrewHazard:
            found = CrewHazard.objects.filter(crew=self.crew, name=row["name"]).first()
            if found is not None:
                self.keys[row["key"]] = found.key
        return found

    def _columns(self, model: type[models.Model], row: dict[str, Any], past: bool = False) -> dict[str, Any]:
        """A row's columns by the names they have on it; what another program did not write stays at its default."""
        found: dict[str, Any] = {}
        unknown = set(row) - {c.name for c in _columns(model)} - ({"#", "by"} | PAST if past else {"#"})
        if unknown:
            raise BadDocument(field=label(model), why="it has no column {name}", name=min(unknown))
        for column in _columns(model):
            if column.name not in row:
                continue
            value = row[column.name]
            if column.remote_field:
                itself = column.remote_field.model is model
                found[column.attname] = None if itself and not past else self._linked(column, value, past)
            elif isinstance(column, models.FileField):
                found[column.attname] = self._picture(model, value) if value else ""
            else:
                found[column.attname] = _typed(column, value)
        if model is HazardAnswer:
            found["hazard"] = self.keys.get(found["hazard"], found["hazard"])
        return found

    def _linked(self, column: Any, number: int | None, past: bool) -> int | None:
        """The row a number stands for; for a row of the past, one that may be gone, or was never in the archive."""
        name = label(column.remote_field.model)
        if number is None:
            return None
        if not past:
            return self.rows[name][number]
        return self.rows[name].get(number, self.gone[name].get(number))

    def _own_links(self, model: type[models.Model], rows: list[dict[str, Any]]) -> None:
        """Links between rows of one table, once all of them are there."""
        names = [c for c in _columns(model) if c.remote_field and c.remote_field.model is model]
        ids = self.rows[label(model)]
        for column in names:
            for row in rows:
                if row.get(column.name) is not None:
                    target: dict[str, int] = {column.attname: ids[row[column.name]]}
                    model._default_manager.filter(pk=ids[row["#"]]).update(**target)

    def past(self, model: type[models.Model], row: dict[str, Any]) -> None:
        """One row of a history; a row that is no more gets a number below nought that no row has."""
        history: Any = model.history.model  # type: ignore[attr-defined]
        number, here, gone = int(row["#"]), self.rows[label(model)], self.gone[label(model)]
        if number not in here and number not in gone:
            least = history.objects.aggregate(models.Min("id"))["id__min"] or 0
            gone[number] = min(0, least) - 1
        kept = {c.attname for c in history._meta.concrete_fields}
        values = {k: v for k, v in self._columns(model, row, past=True).items() if k in kept}
        values |= {"id": here.get(number) or gone[number], "history_change_reason": str(row["by"])[:100]}
        values |= {name: _typed(history._meta.get_field(name), row[name]) for name in PAST}
        if any(column.name == "crew" for column in model._meta.concrete_fields):
            values["crew_id"] = self.crew.pk
        history(**values).save_base(raw=True, force_insert=True)

    def _picture(self, model: type[models.Model], number: int) -> str:
        """Keep a picture under a name of this server; one the archive lacks keeps a name under which nothing is."""
        if number not in self.files:
            column: Any = next(c for c in model._meta.concrete_fields if isinstance(c, models.FileField))
            name = f"archives/{self.crew.pk}/{number}.jpg"
            try:
                content = self.packed.read(f"pictures/{int(number)}.jpg")
            except KeyError:
                self.files[number] = column.storage.get_available_name(name)
            else:
                if not is_jpeg(content):
                    raise BadDocument(field="pictures", why="a picture in it is none") from None
                self.files[number] = column.storage.save(name, ContentFile(content))
        return self.files[number]


def _typed(column: Any, value: Any) -> Any:
    """A value as its column holds it; refused where it can't be."""
    return value if isinstance(column, models.JSONField) or value is None else column.to_python(value)


def _held(found: Summary) -> None:
    """Hold the plans that came in against their schema: what a page can't show does not stay. What the core refuses may
    stay as it did in its own yard: its page says why.
    """
    for job in found.jobs:
        for tree in job.trees.all():
            load(json.dumps(document(tree)))
            documents = [*tree.signoffs.values_list("document", flat=True)]
            documents += FellingRecord.objects.filter(tree=tree).values_list("document", flat=True)
            for kept in documents:
                canonical(kept)
