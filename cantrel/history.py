"""Undo and redo by a row's history: each step is a history row itself, so nothing is lost and nothing is counted twice.

A step back or forth says in its reason which row it went to and which it came from; the row that counts is always one that
a person made.
"""

from typing import NamedTuple


class Step(NamedTuple):
    """What a history row is: a person's own change (its id alone), or a step to another row and the one it came from."""

    at: int
    came: int | None


def _step(record):
    """Which row a history row stands for."""
    kind, _, rest = (record.history_change_reason or "").partition(":")
    if kind not in ("undo", "redo"):
        return Step(record.history_id, None)
    to, _, came = rest.partition(":")
    return Step(int(to), int(came) if came else None)


def undone(row, names):
    """Take back the last change of the named fields; False when there is nothing left."""
    latest = _latest(row)
    if latest is None:
        return False
    here = _step(latest).at
    before = row.history.filter(history_id__lt=here).order_by("-history_id").first()
    if before is None:
        return False
    return _go(row, _step(before).at, here, "undo", names)


def redone(row, names):
    """Bring back the last change that was taken back; False where a new change was made since, or there is none."""
    latest = _latest(row)
    if latest is None:
        return False
    here = _step(latest).at
    for record in row.history.order_by("-history_id").iterator(chunk_size=20):
        step = _step(record)
        if step.came is None:
            return False  # a person's own change: nothing before it can be brought back
        if record.history_change_reason.startswith("undo") and step.at == here:
            return _go(row, step.came, here, "redo", names)
    return False


def _latest(row):
    return row.history.order_by("-history_id").first() if row.pk else None


def _go(row, to, came, kind, names):
    """Put the named fields back to what a history row holds."""
    record = row.history.filter(history_id=to).first()
    if record is None:
        return False
    for name in names:
        setattr(row, name, getattr(record, name))
    row._change_reason = f"{kind}:{to}:{came}"
    row.save()
    return True
