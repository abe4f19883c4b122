"""Records of picks as they are read: beside the plan, which one counts, what was said of a photo."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.daybook import work_planner
from apps.daybook.presenter import rows_of
from cantrel import quantities

if TYPE_CHECKING:
    from apps.daybook.forms import WorkForm
    from apps.daybook.models import WorkRecord
    from apps.daybook.work_planner import Kept
    from apps.jobs.models import Tree


def told(kept: Kept) -> str:
    """What became of a record that was sent, in words."""
    row = kept.record
    named = title(row)
    if kept.state == "again":
        return gettext("{what} was recorded already; nothing is doubled.").format(what=named)
    if kept.state == "clash":
        first = work_planner.records_of(row.tree)[row.pick][0]
        said = gettext("{what} was recorded by {other} already. Both are kept: say on the record page which counts.")
        return said.format(what=named, other=first.by)
    return gettext("{what} recorded.").format(what=named)


def title(row: WorkRecord) -> str:
    """What a record is of."""
    if row.number is None:
        return row.what[:1].upper() + row.what[1:]
    return gettext("Pick {number}, {what}").format(number=row.number, what=row.what)


def errors(form: WorkForm) -> str:
    """Everything that is wrong with a record, in one sentence after the other."""
    labels = {name: field.label for name, field in form.fields.items()}
    rows = [(labels.get(name), text) for name, texts in form.errors.items() for text in texts]
    return " ".join(f"{label}: {text}" if label else text for label, text in rows)


def one(row: WorkRecord, system: str) -> dict[str, Any]:
    """A record beside its plan, with its photos."""
    return {
        "title": title(row),
        "rows": rows_of(work_planner.compare(row), system),
        "photos": work_planner.photos(row.tree, row.pick),
    }


def _short(row: WorkRecord, system: str) -> dict[str, Any]:
    seconds = work_planner.seconds_of(row)
    planned = work_planner.plan_of(row.planned)
    return {
        "row": row,
        "title": title(row),
        "mass": quantities.text(row.mass, "mass", system) if row.mass is not None else "",
        "planned_mass": quantities.text(planned.mass.value, "mass", system) if planned.mass else "",
        "peak": quantities.text(row.peak_point, "force", system) if row.peak_point is not None else "",
        "planned_peak": quantities.text(planned.peak_point.value, "force", system) if planned.peak_point else "",
        "minutes": "" if seconds is None else f"{seconds / 60:.0f}",
        "planned_minutes": f"{planned.seconds.value / 60:.0f}" if planned.seconds else "",
    }


def listed(tree: Tree, system: str) -> dict[str, Any]:
    """All records of a tree's picks, those that clash, and the picks without one."""
    found = work_planner.records_of(tree)
    every = work_planner.picks_of(tree)
    gone = [pick for pick in found if pick not in {entry["id"] for entry in every}]
    return {
        "works": [_short(found[p][0], system) for p in [*(e["id"] for e in every), *gone] if p in found],
        "clashing": [
            {"counts": _short(c.counts, system), "others": [_short(o, system) for o in c.others]}
            for c in work_planner.clashes(tree)
        ],
        "without": [entry for entry in every if entry["id"] not in found],
        "photos": work_planner.photos(tree),
    }
