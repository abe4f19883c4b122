"""Nothing is overwritten in silence: a save carries the revision it was made on, and is merged with what came since,
or refused.
"""

from __future__ import annotations

from copy import deepcopy
from itertools import takewhile
from typing import TYPE_CHECKING, Any, NamedTuple

from django.db import models, transaction
from django.utils.formats import date_format
from django.utils.timezone import localtime
from django.utils.translation import gettext, gettext_lazy
from simple_history.models import HistoricalRecords

from cantrel.border import whole_number
from cantrel.forms import as_shown, filled, rebased, value_in_words
from treecore.errors import CoreError

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping

    from django.http import QueryDict

    from cantrel.forms import UnitsForm


LOOKED_AT = 50  # records of a row that are asked whose a value is
LARGEST = 10**9  # revision
GONE = object()  # what is not there, told apart from an empty value


class Revised(models.Model):
    """A row that counts its saves, from none; its history keeps what each revision held."""

    revision = models.PositiveIntegerField(default=0)

    class Meta:
        abstract = True

    def save(self, *args: Any, **kwargs: Any) -> None:
        self.revision += 1
        super().save(*args, **kwargs)

    def as_of(self, revision: str | None) -> Any:
        """The row as it was at a revision: itself, a history record, or None where nobody knows that revision.

        A command that names no revision at all (None) is meant for the row as it stands; every page names its own.
        """
        if revision is None or str(revision) == str(self.revision):
            return self
        number = whole_number(str(revision), 0, LARGEST)
        if number is None:
            return None
        history: Any = self.history  # type: ignore[attr-defined]
        return history.filter(revision=number).order_by("-history_id").first()


class Conflict(NamedTuple):
    """A field that two people changed: what is stored, and what was sent."""

    theirs: object
    mine: object


class Merged(NamedTuple):
    """Values after a merge, fields changed by both in different ways, and fields that only the other changed."""

    values: dict
    conflicts: dict
    others: list


def merged(base: dict[str, Any], now: dict[str, Any], sent: dict[str, Any]) -> Merged:
    """Merge what was sent with what is stored: only fields that differ from the base they were made on are taken.

    ``base`` are the values the page was drawn from, ``now`` those stored, ``sent`` those of the page; each by field
    name.
    """
    values, conflicts, others = deepcopy(now), {}, []
    for name in {**base, **now, **sent}:
        was, stored, mine = (row.get(name, GONE) for row in (base, now, sent))
        if mine == was:
            if stored != was:
                others.append(name)
            continue
        if stored not in (was, mine):
            inner = _inside(was, stored, mine)
            if inner is None:
                conflicts[name] = Conflict(stored, mine)
                continue
            mine = inner
        if mine is GONE:
            values.pop(name, None)
        else:
            values[name] = mine
    return Merged(values, conflicts, others)


def whose(row: Revised, name: str = "", read: Callable[[Any], Any] | None = None) -> dict[str, str]:
    """Who made of a column what it is now, and when, for a sentence; of any column without a name.

    ``read`` gives the value in question of a past state of the row, where it is only a part of a column.
    """
    history: Any = row.history  # type: ignore[attr-defined]
    records = list(history.select_related("history_user").order_by("-history_id")[:LOOKED_AT])
    if not records:
        return {"who": gettext("Somebody else"), "at": ""}
    value = read or (lambda record: getattr(record, name, record.revision))
    now = value(records[0])
    found = list(takewhile(lambda record: value(record) == now, records))[-1]
    return {"who": _called(found.history_user), "at": date_format(localtime(found.history_date), "j F, H:i")}


def whoever() -> Any:
    """The person whose request this is; None for a command."""
    user = getattr(getattr(HistoricalRecords.context, "request", None), "user", None)
    return user if user is not None and user.is_authenticated else None


def _called(person: Any) -> str:
    if person is None:
        return gettext("Somebody else")
    return gettext("You, on another page,") if person == whoever() else person.shown_name()


def clash_text(theirs: str, hand: Mapping[str, str], mine: str = "") -> str:
    """What a field says whose stored value is somebody else's by now: whose, since when, and both values.

    ``hand`` is what ``whose`` found.
    """
    parts = {**hand, "theirs": theirs or gettext("nothing"), "mine": mine or gettext("nothing")}
    if not hand["at"]:
        return gettext("{who} changed this to {theirs}; yours is {mine}. Save again to keep yours.").format(**parts)
    return gettext("{who} changed this to {theirs} on {at}; yours is {mine}. Save again to keep yours.").format(**parts)


UNSEEN = gettext_lazy("Somebody else saved since this page was drawn: look at it first. Nothing was changed.")
TOO_OLD = gettext_lazy("This page is older than anything kept of this: load it again. Nothing was changed.")


def posted(
    row: Revised | None,
    revision: str | None,
    build: Callable[..., Any],
    data: QueryDict,
    save: Callable[..., Any],
) -> tuple[Any, ...]:
    """Save a form that was drawn from a revision of a row: fields nobody touched there stay as others left them.

    Without a row (None) there is nothing to merge with: the form makes a new one.

    ``build(row, data)`` makes the form, bound where there are data; ``save(values, row)`` keeps the values. Answers
    what was saved, or None and the form that says why not, with both values where two people changed one field.
    """
    if row is None:
        form = build(None, data)
        return form.run(lambda values: save(values, None)), form
    with transaction.atomic():
        now = type(row)._default_manager.get(pk=row.pk)
        base = now.as_of(revision)
        form = build(base or now, filled(data, build(base or now, None)))
        if base is None:
            form.is_valid()
            form.add_error(None, TOO_OLD)
        if not form.is_valid():
            return None, form
        before, after = build(base, None), build(now, None)
        found = merged(as_shown(before), as_shown(after), form.cleaned_data)
        if found.conflicts:
            return None, _both(now, build(now, rebased(form, before, after)), after, found.conflicts)
        try:
            return save(found.values, now), form
        except CoreError as error:
            form.refuse(error)
            return None, form


def _both(row: Revised, form: UnitsForm, stored: UnitsForm, conflicts: dict[str, Conflict]) -> UnitsForm:
    """A form with one's own values typed in it and, beside them, what somebody else stored."""
    form.is_valid()
    for name in conflicts:
        form.add_error(name, clash_text(value_in_words(stored, name), whose(row, name), value_in_words(form, name)))
    return form


def _inside(was: Any, stored: Any, mine: Any) -> dict[str, Any] | list[dict[str, Any]] | None:
    """Two changes of one value that has parts of its own, merged part by part; None where they meet."""
    if all(_rows(value) for value in (was, stored, mine)):
        return _row_by_row(was, stored, mine)
    if not all(isinstance(row, dict) for row in (was, stored, mine)):
        return None
    found = merged(was, stored, mine)
    return None if found.conflicts else found.values


def _rows(value: Any) -> bool:
    """Whether a value is a list of rows that each have a name of their own."""
    return isinstance(value, list) and all(isinstance(row, dict) and row.get("id") for row in value)


def _row_by_row(
    was: list[dict[str, Any]], stored: list[dict[str, Any]], mine: list[dict[str, Any]]
) -> list[dict[str, Any]] | None:
    """Two changes of one list of rows, row by row; None where both changed one field of a row, or both the order."""
    found = merged(*({row["id"]: row for row in rows} for rows in (was, stored, mine)))
    orders = [[row["id"] for row in rows if row["id"] in found.values] for rows in (was, stored, mine)]
    common = [{name for name in found.values if all(name in order for order in orders)}] * 3
    kept = [[name for name in order if name in both] for order, both in zip(orders, common, strict=True)]
    if found.conflicts or (kept[1] != kept[0] and kept[2] != kept[0] and kept[1] != kept[2]):
        return None
    order = orders[2] if kept[2] != kept[0] else orders[1]
    return [found.values[name] for name in (*order, *(n for n in found.values if n not in order))]
