"""The record: what was planned beside what happened."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.utils.translation import gettext

from apps.briefing.planner import document
from apps.crews import steps
from apps.daybook.models import FellingRecord
from apps.felling.bench_planner import WorkedPlan
from apps.felling.planner import evaluated
from treecore.document.versions import upgraded
from treecore.felling.plan import evaluate
from treecore.formats.plan_document import tree_plan
from treecore.learning.outcome import Outcome, outcome
from treecore.site import place

if TYPE_CHECKING:
    from apps.crews.models import Person
    from apps.jobs.models import Tree
    from treecore.felling.inputs import FellingInput
    from treecore.learning.outcome import Compared


def planned(tree: Tree, record: FellingRecord | None = None) -> dict[str, Any]:
    """The document a record is held against: the one kept with it, else the last signed one, else the plan as it
    stands.
    """
    if record:
        return record.document
    last = tree.signoffs.first()
    return last.document if last else document(tree)


def planned_core(tree: Tree, record: FellingRecord | None = None) -> WorkedPlan:
    """The planned felling as the core takes it, and its result."""
    kept = record.document if record else getattr(tree.signoffs.first(), "document", None)
    if kept is None:
        return evaluated(tree, quick=True)
    kept = upgraded(kept)
    given = tree_plan(kept["site"], kept["trees"][0]).felling
    if given is None:
        return evaluated(tree, quick=True)  # what was signed was no felling
    return WorkedPlan(given, evaluate(given))


def came_to_lie(given: FellingInput, record: FellingRecord | None) -> tuple[float, float] | None:
    """Where the top came to lie by the lay and the height of a record, on the site [m]; None where nobody said."""
    if record is None or record.lay is None:
        return None
    length = (record.height or given.tree.height.value) - given.cuts.stump
    return place(given.site, record.lay, length, 0.0)


def compare(given: FellingInput, record: FellingRecord | None) -> tuple[Compared, ...]:
    """Estimate beside actual, by the core."""
    actual = Outcome(
        height=record.height if record else None,
        lay=record.lay if record else None,
        hinge_left=record.hinge_left if record else None,
        hinge_right=record.hinge_right if record else None,
    )
    return outcome(given, actual)


@transaction.atomic
def save_record(
    tree: Tree, values: dict[str, Any], person: Person, record: FellingRecord | None = None
) -> FellingRecord:
    """Keep what happened; the plan it is held against is fixed with the first save."""
    record = record or record_of(tree) or FellingRecord(tree=tree, document=planned(tree))
    for name, value in values.items():
        setattr(record, name, value)
    record.by = record.by or person.shown_name()
    rows = compare(planned_core(tree, record)[0], record)
    estimates = {row.key: [row.estimate.value, row.estimate.low, row.estimate.high] for row in rows}
    record.planned = record.planned or {**estimates, "by": _height_by(record.document), "species": tree.species}
    with steps.recorded("record", tree, gettext("record kept"), person.shown_name()):
        record.save()
    return record


def _height_by(plan_document: dict[str, Any]) -> str:
    """Who read the height a plan stands on; empty where it was typed."""
    readings = plan_document["trees"][0].get("readings", ())
    return next((r.get("by", "") for r in readings if r["quantity"] == "height" and r.get("used", True)), "")


def record_of(tree: Tree) -> FellingRecord | None:
    """The record, or None."""
    return FellingRecord.objects.filter(tree=tree).first()


TOLD = ("height", "lay", "hinge_left", "hinge_right", "minutes", "near_miss", "notes")
steps.register(
    "record",
    steps.Part("record", FellingRecord, TOLD, lambda tree: FellingRecord.objects.filter(tree=tree), True),
)
