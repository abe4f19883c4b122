"""Readings and the walk-up: rows to core, and their changes."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.utils.translation import gettext

from apps.crews import steps
from apps.jobs import scopes
from apps.jobs.planner import degrees
from apps.jobs.planner import tree_entry as five_numbers
from apps.survey.models import CrewHazard, HazardAnswer, Reading
from apps.survey.wording import binds
from cantrel.pictures import read_picture
from cantrel.rows import entry_of, named
from cantrel.words import said
from treecore.document.tree import AnswerEntry, ReadingEntry
from treecore.errors import NotSolvable
from treecore.formats.plan_document import arguments, seen_of, tree_of
from treecore.hazards import Answer, Finding, Hazard, differ, gates, hazards, together
from treecore.measuring import methods, read
from treecore.tree.assumed import assumed_limbs
from treecore.tree.weigh import limb_rows, weigh

if TYPE_CHECKING:
    from collections.abc import Iterable

    from django.core.files.uploadedfile import UploadedFile

    from apps.crews.models import Crew, Person
    from apps.jobs.models import Job, Tree
    from treecore.estimate import Estimate
    from treecore.findings import Seen
    from treecore.hazards import Gate
    from treecore.measuring import Method
    from treecore.tree.assumed import AssumedLimb
    from treecore.tree.body import TreeInput
    from treecore.tree.limb import LimbFigure
    from treecore.tree.weigh import TreeResult

ANGLES = ("top", "base", "slope")


def reading_entry(reading: Reading) -> dict[str, Any]:
    """The document's reading."""
    return entry_of(reading, ReadingEntry) | named("reading", reading)


def answer_entry(answer: HazardAnswer, own: dict[str, CrewHazard] | None = None) -> dict[str, Any]:
    """The document's walk-up answer; a crew's own line brings its name along."""
    line = (own or {}).get(answer.hazard)
    words = {"name": line.name, "group": line.group, "gate": line.gate, "caution": line.caution} if line else {}
    return entry_of(answer, AnswerEntry) | words | named("answer", answer)


def own_lines(crew: Crew) -> dict[str, CrewHazard]:
    """A crew's own lines of the walk-up list by key."""
    return {row.key: row for row in crew.hazards.all()}


def walk_entries(tree: Tree) -> list[dict[str, Any]]:
    """The document's walk-up of a tree."""
    own = own_lines(tree.job.crew)
    return [answer_entry(a, own) for a in sorted(tree.answers.all(), key=lambda a: a.pk)]


def found_present(tree: Tree) -> tuple[Seen, ...]:
    """What the walk-up found present, as the core takes it."""
    return seen_of({"walk_up": [answer_entry(a) for a in tree.answers.all()]})


def measured_entry(tree: Tree) -> dict[str, Any]:
    """The document's tree with its readings: all its body is computed from."""
    return five_numbers(tree) | {"readings": [reading_entry(r) for r in tree.readings.all()]}


def tree_entry(tree: Tree) -> dict[str, Any]:
    """The document's tree with its readings and walk-up."""
    return measured_entry(tree) | {"walk_up": walk_entries(tree)}


def standing(tree: Tree) -> tuple[Any, ...]:
    """The core's tree, its result, and the combined diameter and height."""
    core, diameter, height = tree_of(measured_entry(tree))
    return core, weigh(core), diameter, height


def limbs_of(core: TreeInput, result: TreeResult) -> tuple[tuple[LimbFigure, ...], tuple[AssumedLimb, ...]]:
    """Measured limbs weighed, and what is left of the assumed ones."""
    return limb_rows(core), assumed_limbs(core, result.whole_crown)


def used_readings(tree: Tree) -> list[dict[str, Any]]:
    """Readings the plan stands on: what, how, by whom, and what each comes to."""
    rows = [r for r in tree.readings.all() if r.used]
    return [
        {"quantity": r.quantity, "method": methods()[r.method].name, "by": r.by, "result": result_of(r)} for r in rows
    ]


def method_table() -> dict[str, Method]:
    """Ways of measuring, for forms."""
    return {key: said(method, "name", "source") for key, method in methods().items()}


def keyed(values: dict[str, float]) -> dict[str, float]:
    """Arguments in SI by plain name to the document's keys."""
    angles = {f"{k}_deg": degrees(v) for k, v in values.items() if k in ANGLES}
    return {f"{k}_m": v for k, v in values.items() if k not in ANGLES} | angles


def result_of(reading: Reading) -> Estimate:
    """What one stored reading comes to."""
    return read(reading.method, arguments(reading.arguments), reading.sd)


@transaction.atomic
def add_reading(
    tree: Tree, method: str, values: dict[str, float], *, sd: Any = None, by: str = "", note: str = ""
) -> Reading:
    """Keep a reading once the core takes it, and the tree with it."""
    read(method, values, sd)
    kept = Reading(
        tree=tree, quantity=methods()[method].quantity, method=method, arguments=keyed(values), sd=sd, by=by, note=note
    )
    entry = tree_entry(tree)
    entry["readings"].append(reading_entry(kept))
    tree_of(entry)
    with steps.recorded("body", tree, gettext("{method} reading kept").format(method=method), by):
        kept.save()
    return kept


@transaction.atomic
def use_reading(reading: Reading, used: bool) -> None:
    """Take a reading into the result or set it aside; it stays kept."""
    reading.used = used
    with steps.recorded("body", reading.tree, gettext("reading taken in") if used else gettext("reading set aside")):
        reading.save()
    tree_of(tree_entry(reading.tree))


def looked_at(answers: list[HazardAnswer], own: list[CrewHazard]) -> tuple[int, bool]:
    """How many gates stand open, and whether somebody looked at every line, the crew's own among them."""
    lines = _with_own(answers, own)
    by_line: dict[str, list[Answer]] = {}
    for row in answers:
        by_line.setdefault(row.hazard, []).append(_counted(row))
    seen = {key for key, found in by_line.items() if together(found).finding is not Finding.NOT_LOOKED}
    return sum(g.open for g in _gates(answers, lines)), all(line.key in seen for line in lines)


def _counted(answer: HazardAnswer) -> Answer:
    """What an answer counts for a gate: what a file says was absent, nobody of this yard has looked at; what it says is
    there counts, but nobody of this yard has said what is done about it.
    """
    finding = Finding(answer.finding)
    if answer.person_id is not None:
        return Answer(finding, answer.response)
    return Answer(Finding.PRESENT if finding is Finding.PRESENT else Finding.NOT_LOOKED)


def _lines(tree: Tree, answers: list[HazardAnswer]) -> list[Hazard]:
    """The product's hazards, then the crew's own."""
    return _with_own(answers, own_lines(tree.job.crew).values())


def _with_own(answers: list[HazardAnswer], rows: Iterable[Any] | list[CrewHazard]) -> list[Hazard]:
    """The product's hazards, then a crew's own: those retired only while an answer stands."""
    answered = {a.hazard for a in answers}
    own = [row for row in rows if not row.retired or row.key in answered]
    listed = [said(hazard, "name", "group", "caution") for hazard in hazards().values()]
    return [*listed, *(Hazard(r.key, r.group, r.name, r.gate, r.caution) for r in own)]


def _gates(answers: list[HazardAnswer], lines: list[Hazard]) -> tuple[Gate, ...]:
    by_line: dict[str, list[Answer]] = {}
    for row in answers:
        by_line.setdefault(row.hazard, []).append(_counted(row))
    found = {key: together(rows) for key, rows in by_line.items()}
    return gates(found, [h for h in lines if h.key not in hazards()])


def walk_up(tree: Tree, person: Person | None = None) -> list[dict[str, Any]]:
    """Every hazard with each person's answer, what they come to together, whether they differ, and its gate."""
    rows: dict[str, list[HazardAnswer]] = {}
    answers = sorted(tree.answers.all(), key=lambda a: a.pk)
    for answer in answers:
        rows.setdefault(answer.hazard, []).append(answer)
    lines = _lines(tree, answers)
    gated = {g.hazard.key: g for g in _gates(answers, lines)}
    return [_line(h, rows.get(h.key, []), gated.get(h.key), person) for h in lines]


def _line(hazard: Hazard, answers: list[HazardAnswer], gate: Gate | None, person: Person | None) -> dict[str, Any]:
    core = [Answer(Finding(a.finding), a.response) for a in answers]
    worst = together(core).finding.value if core else ""
    name = person.shown_name() if person else ""
    own = [a for a in answers if person and (a.person_id == person.pk or (a.person_id is None and a.by == name))]
    mine = max(own, key=lambda a: a.person_id is not None, default=None)
    shown = mine or next((a for a in answers if a.finding == worst), None)
    return {
        "hazard": hazard,
        "answer": next((a for a in answers if a.finding == worst), None),
        "mine": mine,
        "shown": shown,
        "answers": answers,
        "differ": differ(core),
        "gate": gate,
        "binds": binds(hazard),
        "present": worst == "present",
    }


def every_gate(tree: Tree) -> tuple[Gate, ...]:
    """Every gate with its state."""
    answers = list(tree.answers.all())
    return _gates(answers, _lines(tree, answers))


def open_gates(tree: Tree) -> list[Gate]:
    """Gates that still block sign-off."""
    return [g for g in every_gate(tree) if g.open]


@transaction.atomic
def answer(
    tree: Tree, hazard: str, values: dict[str, Any], person: Person, photo: UploadedFile | None = None
) -> HazardAnswer:
    """Keep one person's answer, with a photo if there is one."""
    content = read_picture(photo)[0] if photo else None
    kept = _own_answer(tree, hazard, person)
    for name, value in values.items():
        setattr(kept, name, value)
    if content is not None:
        kept.photo = content
    with steps.recorded("walk", tree, gettext("answer to {hazard} kept").format(hazard=hazard), person.shown_name()):
        kept.save()
    return kept


def _own_answer(tree: Tree, hazard: str, person: Person) -> HazardAnswer:
    """A person's answer to a line, as stored or new; not saved.

    One that came with a file under this name and belongs to nobody yet is taken over; another person's never is.
    """
    rows = HazardAnswer.objects.filter(tree=tree, hazard=hazard)
    own = rows.filter(person=person).first() or rows.filter(person=None, by=person.shown_name()).first()
    own = own or HazardAnswer(tree=tree, hazard=hazard)
    own.person, own.by = person, person.shown_name()
    return own


def rest_absent(tree: Tree, keys: Iterable[str], person: Person) -> int:
    """Keep of these lines that a person looked and found nothing, where they have not said otherwise; how many.

    One step for the undo. A line answered in the meantime stays as it was answered.
    """
    known = {row["hazard"].key for row in walk_up(tree)}
    found = [_own_answer(tree, key, person) for key in dict.fromkeys(keys) if key in known]
    left = [row for row in found if row.finding == "not_looked"]
    said = gettext("{count} lines looked at, absent").format(count=len(left))
    with steps.recorded("walk", tree, said, person.shown_name()):
        for row in left:
            row.finding = "absent"
            row.save()
    return len(left)


def claim(job: Job, person: Person) -> None:
    """Answers a file brought under a person's name are theirs: for whoever makes the person with the file."""
    HazardAnswer.objects.filter(tree__job=job, person=None, by=person.shown_name()).update(person=person)


@transaction.atomic
def add_line(crew: Crew, values: dict[str, Any]) -> CrewHazard:
    """Add a line to the crew's own walk-up list; one taken off before comes back."""
    row, made = CrewHazard.objects.get_or_create(
        crew=crew, name=values["name"].strip(), defaults={k: values[k] for k in ("gate", "caution")}
    )
    if not made and not row.retired:
        raise NotSolvable(what="name", why="this line is on the list already")
    with steps.recorded("lines", crew, gettext("{name} on the list").format(name=row.name)):
        row.retired, row.gate, row.caution = False, values["gate"], values["caution"]
        row.save()
    return row


def retire_line(crew: Crew, pk: int) -> None:
    """Take a line off the crew's list; answers given to it stay."""
    for row in CrewHazard.objects.filter(crew=crew, pk=pk, retired=False):
        with steps.recorded("lines", crew, gettext("{name} off the list").format(name=row.name)):
            row.retired = True
            row.save()


steps.register(
    "body",
    *scopes.TREE,
    steps.Part("reading", Reading, steps.all_columns(Reading), lambda tree: Reading.objects.filter(tree=tree)),
)
steps.register(
    "walk",
    steps.Part(
        "answer", HazardAnswer, steps.all_columns(HazardAnswer), lambda tree: HazardAnswer.objects.filter(tree=tree)
    ),
)
steps.register(
    "lines",
    steps.Part(
        "line", CrewHazard, steps.all_columns(CrewHazard), lambda crew: CrewHazard.objects.filter(crew=crew), True
    ),
)
