"""The site in the strip of steps."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.db.models import Count, OuterRef, Subquery
from django.utils.translation import ngettext

from apps.jobs.models import Target
from cantrel.steps import tells

if TYPE_CHECKING:
    from apps.jobs.models import Tree


def _marks() -> dict[str, Any]:
    things = Target.objects.filter(job=OuterRef("job")).order_by().values("job").annotate(n=Count("pk"))
    return {"things": Subquery(things.values("n"))}


@tells(marks=_marks)
def states(tree: Tree) -> dict[str, Any]:
    """How many things stand on the site; what is not drawn is not counted."""
    count = tree.things or 0
    said = ngettext("{count} thing", "{count} things", count).format(count=count)
    return {"site": ("done" if count else "open", said if count else "")}
