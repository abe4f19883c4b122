"""Taking changes back: what a change did to rows is kept as a step, for every page that changes something.

Each room registers its scopes: which rows of a job, a tree or a crew one undo goes over. A step is taken back only
while what it changed is still as it left it: nothing that came since is overwritten unseen.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, NamedTuple

from django.core.serializers.json import DjangoJSONEncoder
from django.db import IntegrityError, models, transaction
from django.utils.translation import gettext, gettext_lazy

from apps.crews.models import Step
from cantrel.revisions import UNSEEN, whoever
from treecore.errors import NotSolvable

if TYPE_CHECKING:
    from collections.abc import Iterator

    from cantrel.revisions import Revised


KEEP = 200  # steps kept for each scope
TAKEN = gettext_lazy(
    "What it would bring back can't stand any more: something of its name is there by now, or what it hung on is gone. "
    "Rename or remove that first. Nothing was changed."
)


class Part(NamedTuple):
    """Rows a scope goes over: a name of their own, their model, the columns, and which rows of an owner.

    ``stays`` says that a first row is not taken off again: the page shows its first state either way.
    """

    kind: str
    model: type
    columns: tuple
    rows: Callable
    stays: bool = False


SCOPES: dict[str, tuple[Part, ...]] = {}


def register(scope: str, *parts: Any) -> None:
    """Let changes of these rows be taken back under the name of a scope."""
    SCOPES[scope] = parts


def all_columns(model: Any) -> tuple[Any, ...]:
    """Every column of a model but its key, and those that count or date saves."""
    fields = [f for f in model._meta.concrete_fields if not isinstance(f, models.AutoField | models.BigAutoField)]
    dated = {f.attname for f in fields if getattr(f, "auto_now", False) or getattr(f, "auto_now_add", False)}
    return tuple(f.attname for f in fields if f.attname not in dated | {"revision"})


def _row(row: Any, columns: tuple[Any, ...]) -> dict[str, Any]:
    held = {name: getattr(row, name) for name in columns}
    plain = {name: str(v) if isinstance(v, models.fields.files.FieldFile) else v for name, v in held.items()}
    return json.loads(json.dumps(plain, cls=DjangoJSONEncoder))


def _look(scope: str, owner: models.Model) -> dict[str, Any]:
    return {f"{part.kind}:{row.pk}": _row(row, part.columns) for part in SCOPES[scope] for row in part.rows(owner)}


def _steps(scope: str, owner: models.Model) -> Any:
    return Step.objects.filter(scope=scope, **{owner._meta.model_name: owner})


def _owned(owner: models.Model) -> dict[str, Any]:
    """A step belongs to a crew, a job or a tree by the name of its model; a tree's to its job as well."""
    found = {owner._meta.model_name: owner}
    return found | ({"job_id": owner.job_id} if "tree" in found else {})


@contextmanager
def recorded(scope: Any, owner: Any, label: Any, by: Any = "") -> Iterator[Any]:
    """Keep what the block changes of a scope as one step; an error changes nothing."""
    with transaction.atomic():
        before = _look(scope, owner)
        yield
        after = _look(scope, owner)
        staying = {part.kind for part in SCOPES[scope] if part.stays}
        changes = {}
        for key in {**before, **after}:
            was, now = before.get(key), after.get(key)
            if was == now or (was is None and key.partition(":")[0] in staying):
                continue
            changes[key] = _differing(was, now)
        if not changes:
            return
        _steps(scope, owner).filter(undone=True).delete()
        person = whoever()
        by = by or (person.shown_name() if person else "")
        kept = {"label": label[:120], "changes": changes, "by": by[:150], "person": person}
        Step.objects.create(scope=scope, **kept, **_owned(owner))
        old = list(_steps(scope, owner).order_by("-pk").values_list("pk", flat=True)[KEEP:])
        _steps(scope, owner).filter(pk__in=old).delete()


def _differing(was: dict[str, Any] | None, now: dict[str, Any] | None) -> list[Any]:
    """Both sides of a row's change: only the columns that differ, or the whole row where there is none on one side."""
    if was is None or now is None:
        return [was, now]
    names = [name for name in was if was[name] != now.get(name)]
    return [{name: was[name] for name in names}, {name: now.get(name) for name in names}]


def back(scope: str, owner: models.Model, seen: str | None = None) -> str:
    """Take back the last step; why not, in words, or nothing. ``seen`` is the step the page
    offered, where it says so.
    """
    return _gone(scope, owner, seen, undone=False)


def forth(scope: str, owner: models.Model, seen: str | None = None) -> str:
    """Do again the last step taken back; why not, in words, or nothing."""
    return _gone(scope, owner, seen, undone=True)


def _gone(scope: str, owner: models.Model, seen: str | None, undone: bool) -> str:
    """Go one step; what the database can't take is no failure of the program, and stays to be tried again."""
    try:
        return _go(scope, owner, seen, undone)
    except IntegrityError:
        return TAKEN


def or_refused(said: str) -> None:
    """Raise what keeps a step from being taken back, for a bench that answers with its errors."""
    if said and said in (UNSEEN, TAKEN):
        raise NotSolvable(what="undo", why=said[0].lower() + said[1:].rstrip("."))


@transaction.atomic
def _go(scope: str, owner: models.Model, seen: str | None, undone: bool) -> str:
    step = _next(scope, owner, undone)
    if step is None:
        return gettext("Nothing left to {x}.").format(x="redo" if undone else "undo")
    if seen not in (None, "") and str(step.pk) != str(seen):
        return UNSEEN
    parts = {part.kind: part for part in SCOPES[scope]}
    here, there = (0, 1) if undone else (1, 0)
    for key, sides in step.changes.items():
        if not _as_left(parts[key.partition(":")[0]], key, sides[here]):
            return UNSEEN
    # First rows that stay, so that nothing hangs any more on those that go; last those that come back, whose names are
    # free then.
    order = {(False, False): 0, (False, True): 1, (True, False): 2}
    for key, sides in sorted(
        step.changes.items(), key=lambda item: order[item[1][here] is None, item[1][there] is None]
    ):
        _put(parts[key.partition(":")[0]], key, sides[there])
    step.undone = not undone
    step.save(update_fields=["undone"])
    return ""


def _next(scope: str, owner: models.Model, undone: bool) -> Step | None:
    found = _steps(scope, owner).filter(undone=undone)
    return found.order_by("pk" if undone else "-pk").first()


def _as_left(part: Part, key: str, values: dict[str, Any] | None) -> bool:
    """Whether a row is still as the step left it, in what the step changed."""
    row = part.model.objects.filter(pk=key.partition(":")[2]).first()
    if row is None or values is None:
        return row is None and values is None
    return _row(row, tuple(values)) == values


def _put(part: Part, key: str, values: dict[str, Any] | None) -> None:
    pk = key.partition(":")[2]
    row = part.model.objects.filter(pk=pk).first()
    if values is None and row is None:
        return  # gone with what it hung on
    if values is None:
        try:
            row.delete()
        except models.ProtectedError:
            raise NotSolvable(what="undo", why="something else stands on it by now") from None
        return
    row = row or part.model(pk=pk)
    for name, value in values.items():
        setattr(row, name, value)
    row.save()


def _other(step: Step | None) -> str:
    """Whose step it is where it is not one's own."""
    person = whoever()
    if step is None or person is None or step.person_id in (None, person.pk):
        return ""
    return step.by or gettext("somebody else")


def state(scope: str, owner: models.Model) -> dict[str, Any]:
    """What undo and redo would do next: their labels and steps."""
    mine = _steps(scope, owner)
    ends = [mine.filter(undone=False).order_by("-pk"), mine.filter(undone=True).order_by("pk")]
    found = mine.filter(models.Q(*(("pk", models.Subquery(end.values("pk")[:1])) for end in ends), _connector="OR"))
    last, again = (next((step for step in found if step.undone is undone), None) for undone in (False, True))
    return {
        "scope": scope,
        "undo": last.label if last else "",
        "redo": again.label if again else "",
        "undo_by": _other(last),
        "redo_by": _other(again),
        "step": last.pk if last else "",
        "again": again.pk if again else "",
    }


def of_revision(scope: str, tree: models.Model, plan: Revised, revision: str | None, forward: bool) -> str:
    """Take back the last change of a tree's plan, or bring it back, for a page of that revision of it."""
    if revision is not None and plan.pk and str(plan.revision) != str(revision):
        return UNSEEN
    return (forth if forward else back)(scope, tree)
