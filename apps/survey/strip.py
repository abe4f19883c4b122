"""Walk-up and measuring in the strip of steps."""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Any

from django.db.models import Aggregate, Exists, F, OuterRef, Subquery, TextField
from django.db.models.functions import JSONObject
from django.utils.translation import gettext

from apps.survey.models import CrewHazard, Reading
from apps.survey.planner import looked_at
from cantrel.steps import tells

if TYPE_CHECKING:
    from apps.jobs.models import Tree


class Gathered(Aggregate):
    """Rows of a subquery as one JSON list, so that a few short rows come along with another query."""

    function = "JSON_GROUP_ARRAY"
    output_field = TextField()


LINE = ("key", "group", "name", "gate", "caution", "retired")


def _marks() -> dict[str, Any]:
    own = CrewHazard.objects.filter(crew=OuterRef("job__crew")).order_by().values("crew")
    gathered = own.annotate(rows=Gathered(JSONObject(**{name: F(name) for name in LINE}))).values("rows")
    return {"has_readings": Exists(Reading.objects.filter(tree=OuterRef("pk"))), "own_lines": Subquery(gathered)}


@tells(rows=("answers",), marks=_marks)
def states(tree: Tree) -> dict[str, Any]:
    """Whether the walk-up's gates stand open, and whether anything was measured."""
    own = [CrewHazard(**row) for row in json.loads(tree.own_lines or "[]")]
    gates, looked = looked_at(list(tree.answers.all()), own)
    walked = ("blocked", gettext("{gates} open").format(gates=gates)) if gates else ("done" if looked else "open", "")
    measured = tree.has_readings or tree.diameter_kind == "measured"
    return {"walk-up": walked, "measure": ("done" if measured else "open", "")}
