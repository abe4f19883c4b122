"""Undo by a row's history: each undo is a history row itself, so nothing is lost."""


def undone(row, names):
    """Take back the last change of the named fields; False when there is nothing left."""
    records = list(row.history.order_by("history_id")) if row.pk else []
    here = len(records) - 1
    while here >= 0 and (records[here].history_change_reason or "").startswith("undo:"):
        target = int(records[here].history_change_reason.split(":")[1])
        here = next(i for i, r in enumerate(records) if r.history_id == target)
    if here <= 0:
        return False
    before = records[here - 1]
    for name in names:
        setattr(row, name, getattr(before, name))
    row._change_reason = f"undo:{before.history_id}"
    row.save()
    return True
