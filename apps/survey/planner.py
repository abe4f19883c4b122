"""Readings and the walk-up: rows to core, and their changes."""

from django.db import transaction

from apps.crews import steps
from apps.jobs import scopes
from apps.jobs.planner import degrees
from apps.jobs.planner import tree_entry as five_numbers
from apps.survey.models import CrewHazard, HazardAnswer, Reading
from apps.survey.wording import binds
from cantrel.pictures import read_picture
from cantrel.rows import entry_of, named
from treecore.document.tree import AnswerEntry, ReadingEntry
from treecore.errors import NotSolvable
from treecore.formats.plan_document import answers_of, arguments, seen_of, tree_of
from treecore.hazards import Answer, Finding, Hazard, differ, gates, hazards, together
from treecore.measuring import methods, read
from treecore.tree.assumed import assumed_limbs
from treecore.tree.weigh import limb_rows, weigh

ANGLES = ("top", "base", "slope")


def reading_entry(reading):
    """The document's reading."""
    return entry_of(reading, ReadingEntry) | named("reading", reading)


def answer_entry(answer, own=None):
    """The document's walk-up answer; a crew's own line brings its name along."""
    line = (own or {}).get(answer.hazard)
    words = {"name": line.name, "group": line.group, "gate": line.gate, "caution": line.caution} if line else {}
    return entry_of(answer, AnswerEntry) | words | named("answer", answer)


def own_lines(crew):
    """A crew's own lines of the walk-up list by key."""
    return {row.key: row for row in crew.hazards.all()}


def walk_entries(tree):
    """The document's walk-up of a tree."""
    own = own_lines(tree.job.crew)
    return [answer_entry(a, own) for a in sorted(tree.answers.all(), key=lambda a: a.pk)]


def found_present(tree):
    """What the walk-up found present, as the core takes it."""
    return seen_of({"walk_up": [answer_entry(a) for a in tree.answers.all()]})


def measured_entry(tree):
    """The document's tree with its readings: all its body is computed from."""
    return five_numbers(tree) | {"readings": [reading_entry(r) for r in tree.readings.all()]}


def tree_entry(tree):
    """The document's tree with its readings and walk-up."""
    return measured_entry(tree) | {"walk_up": walk_entries(tree)}


def standing(tree):
    """The core's tree, its result, and the combined diameter and height."""
    core, diameter, height = tree_of(measured_entry(tree))
    return core, weigh(core), diameter, height


def limbs_of(core, result):
    """Measured limbs weighed, and what is left of the assumed ones."""
    return limb_rows(core), assumed_limbs(core, result.whole_crown)


def used_readings(tree):
    """Readings the plan stands on: what, how, by whom, and what each comes to."""
    rows = [r for r in tree.readings.all() if r.used]
    return [
        {"quantity": r.quantity, "method": methods()[r.method].name, "by": r.by, "result": result_of(r)} for r in rows
    ]


def method_table():
    """Ways of measuring, for forms."""
    return methods()


def keyed(values):
    """Arguments in SI by plain name to the document's keys."""
    angles = {f"{k}_deg": degrees(v) for k, v in values.items() if k in ANGLES}
    return {f"{k}_m": v for k, v in values.items() if k not in ANGLES} | angles


def result_of(reading):
    """What one stored reading comes to."""
    return read(reading.method, arguments(reading.arguments), reading.sd)


@transaction.atomic
def add_reading(tree, method, values, *, sd=None, by="", note=""):
    """Keep a reading once the core takes it, and the tree with it."""
    read(method, values, sd)
    kept = Reading(
        tree=tree, quantity=methods()[method].quantity, method=method, arguments=keyed(values), sd=sd, by=by, note=note
    )
    entry = tree_entry(tree)
    entry["readings"].append(reading_entry(kept))
    tree_of(entry)
    with steps.recorded("body", tree, f"{method} reading kept", by):
        kept.save()
    return kept


@transaction.atomic
def use_reading(reading, used):
    """Take a reading into the result or set it aside; it stays kept."""
    reading.used = used
    with steps.recorded("body", reading.tree, "reading taken in" if used else "reading set aside"):
        reading.save()
    tree_of(tree_entry(reading.tree))


def looked_at(answers, own):
    """How many gates stand open, and whether somebody looked at every line, the crew's own among them."""
    lines, by_line = _with_own(answers, own), {}
    for row in answers:
        by_line.setdefault(row.hazard, []).append(Answer(Finding(row.finding), row.response))
    seen = {key for key, found in by_line.items() if together(found).finding is not Finding.NOT_LOOKED}
    return sum(g.open for g in _gates(answers, lines)), all(line.key in seen for line in lines)


def _lines(tree, answers):
    """The product's hazards, then the crew's own."""
    return _with_own(answers, own_lines(tree.job.crew).values())


def _with_own(answers, rows):
    """The product's hazards, then a crew's own: those retired only while an answer stands."""
    answered = {a.hazard for a in answers}
    own = [row for row in rows if not row.retired or row.key in answered]
    return [*hazards().values(), *(Hazard(r.key, r.group, r.name, r.gate, r.caution) for r in own)]


def _gates(answers, lines):
    return gates(
        answers_of({"walk_up": [answer_entry(a) for a in answers]}),
        [h for h in lines if h.key not in hazards()],
    )


def walk_up(tree, person=None):
    """Every hazard with each person's answer, what they come to together, whether they differ, and its gate."""
    rows, answers = {}, sorted(tree.answers.all(), key=lambda a: a.pk)
    for answer in answers:
        rows.setdefault(answer.hazard, []).append(answer)
    lines = _lines(tree, answers)
    gated = {g.hazard.key: g for g in _gates(answers, lines)}
    return [_line(h, rows.get(h.key, []), gated.get(h.key), person) for h in lines]


def _line(hazard, answers, gate, person):
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


def every_gate(tree):
    """Every gate with its state."""
    answers = list(tree.answers.all())
    return _gates(answers, _lines(tree, answers))


def open_gates(tree):
    """Gates that still block sign-off."""
    return [g for g in every_gate(tree) if g.open]


@transaction.atomic
def answer(tree, hazard, values, person, photo=None):
    """Keep one person's answer, with a photo if there is one."""
    content = read_picture(photo)[0] if photo else None
    rows = HazardAnswer.objects.filter(tree=tree, hazard=hazard)
    # One that came with a file under this name and belongs to nobody yet is taken over; another person's never is.
    kept = rows.filter(person=person).first() or rows.filter(person=None, by=person.shown_name()).first()
    kept = kept or HazardAnswer(tree=tree, hazard=hazard, by=person.shown_name())
    for name, value in values.items():
        setattr(kept, name, value)
    kept.person = person
    if content is not None:
        kept.photo = content
    with steps.recorded("walk", tree, f"answer to {hazard} kept", person.shown_name()):
        kept.save()
    return kept


@transaction.atomic
def add_line(crew, values):
    """Add a line to the crew's own walk-up list; one taken off before comes back."""
    row, made = CrewHazard.objects.get_or_create(
        crew=crew, name=values["name"].strip(), defaults={k: values[k] for k in ("gate", "caution")}
    )
    if not made and not row.retired:
        raise NotSolvable(what="name", why="this line is on the list already")
    with steps.recorded("lines", crew, f"{row.name} on the list"):
        row.retired, row.gate, row.caution = False, values["gate"], values["caution"]
        row.save()
    return row


def retire_line(crew, pk):
    """Take a line off the crew's list; answers given to it stay."""
    for row in CrewHazard.objects.filter(crew=crew, pk=pk, retired=False):
        with steps.recorded("lines", crew, f"{row.name} off the list"):
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
