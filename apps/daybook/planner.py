"""The record: what was planned beside what happened."""

from django.db import transaction

from apps.briefing.planner import document, signed_state
from apps.daybook.models import FellingRecord
from treecore.felling.plan import evaluate
from treecore.formats.plan_document import tree_plan
from treecore.learning.outcome import Outcome, outcome


def planned(tree):
    """The document a record is held against: the last signed one, else the plan as it stands."""
    record = FellingRecord.objects.filter(tree=tree).first()
    if record:
        return record.document
    last = signed_state(tree)["last"]
    return last.document if last else document(tree)


def planned_core(tree):
    """The planned felling as the core takes it, and its result."""
    plan_document = planned(tree)
    given = tree_plan(plan_document["site"], plan_document["trees"][0]).felling
    return given, evaluate(given)


def compare(given, record):
    """Estimate beside actual, by the core."""
    actual = Outcome(
        height=record.height if record else None,
        lay=record.lay if record else None,
        hinge_left=record.hinge_left if record else None,
        hinge_right=record.hinge_right if record else None,
    )
    return outcome(given, actual)


@transaction.atomic
def save_record(tree, values, person, record=None):
    """Keep what happened; the plan it is held against is fixed with the first save."""
    record = (
        record or FellingRecord.objects.filter(tree=tree).first() or FellingRecord(tree=tree, document=planned(tree))
    )
    for name, value in values.items():
        setattr(record, name, value)
    record.by = record.by or person.shown_name()
    compare(planned_core(tree)[0], record)
    record.save()
    return record


def record_of(tree):
    """The record, or None."""
    return FellingRecord.objects.filter(tree=tree).first()
