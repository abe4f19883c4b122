"""Readings and the walk-up: rows to core, and their changes."""

from django.db import transaction

from apps.jobs.planner import degrees
from apps.jobs.planner import tree_entry as five_numbers
from apps.survey.models import HazardAnswer, Reading
from treecore.formats.plan_document import answers_of, arguments, tree_of
from treecore.hazards import gates, hazards
from treecore.measuring import methods, read
from treecore.tree.assumed import assumed_limbs
from treecore.tree.weigh import limb_rows, weigh

ANGLES = ("top", "base", "slope")


def reading_entry(reading):
    """The document's reading."""
    entry = {
        "quantity": reading.quantity,
        "method": reading.method,
        "arguments": reading.arguments,
        "used": reading.used,
        "by": reading.by,
        "note": reading.note,
    }
    return entry | ({"sd_m": reading.sd} if reading.sd else {})


def answer_entry(answer):
    """The document's walk-up answer."""
    keys = ("hazard", "finding", "side", "note", "response", "by")
    height = {"height_m": answer.height} if answer.height is not None else {}
    return {k: getattr(answer, k) for k in keys} | height


def measured_entry(tree):
    """The document's tree with its readings: all its body is computed from."""
    return five_numbers(tree) | {"readings": [reading_entry(r) for r in tree.readings.all()]}


def tree_entry(tree):
    """The document's tree with its readings and walk-up."""
    return measured_entry(tree) | {"walk_up": [answer_entry(a) for a in tree.answers.order_by("pk")]}


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
    kept.save()
    return kept


@transaction.atomic
def use_reading(reading, used):
    """Take a reading into the result or set it aside; it stays kept."""
    reading.used = used
    reading.save()
    tree_of(tree_entry(reading.tree))


def walk_up(tree):
    """Every hazard with its answer and gate."""
    answers = {a.hazard: a for a in tree.answers.all()}
    gated = {g.hazard.key: g for g in gates(answers_of({"walk_up": [answer_entry(a) for a in answers.values()]}))}
    return [{"hazard": h, "answer": answers.get(h.key), "gate": gated.get(h.key)} for h in hazards().values()]


def open_gates(tree):
    """Gates that still block sign-off."""
    return [row["gate"] for row in walk_up(tree) if row["gate"] and row["gate"].open]


@transaction.atomic
def answer(tree, hazard, values, person):
    """Keep an answer with who gave it."""
    kept, _ = HazardAnswer.objects.get_or_create(tree=tree, hazard=hazard)
    for name, value in values.items():
        setattr(kept, name, value)
    kept.person, kept.by = person, person.shown_name()
    gates(answers_of({"walk_up": [answer_entry(kept)]}))
    kept.save()
    return kept
