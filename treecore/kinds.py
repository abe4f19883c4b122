"""Which kinds of thing on a site count as what, from the columns of ``data/site_kinds.csv``: the one place that says
so.
"""

from __future__ import annotations

from functools import cache

from treecore.tables import rows

COUNTS = ("around", "walked", "passed", "dropped_on", "put_on", "paved", "lightly", "carries")


@cache
def _worths() -> dict[str, str]:
    return {row["key"]: row["worth"] for row in rows("site_kinds")}


def worth_of(kind: str) -> str:
    """Class a limit has that a kind of target decides: person, building or goods.

    Parameters
    ----------
    kind : str
        Of the target; one nobody knows counts as a building.
    """
    return _worths().get(kind, "building")


@cache
def kinds_that(count: str) -> frozenset[str]:
    """Return the kinds that count as something.

    Parameters
    ----------
    count : str
        ``around``, a tree can stand in the middle of it; ``walked``, it does not stop a person on foot; ``passed``, a
        moving piece is held against it; ``dropped_on``, one that falls; ``put_on``, one that is put down; ``paved``,
        its ground is hard; ``lightly``,
        a light touch of it can be tolerated at all; ``carries``, it can carry a line or a climber; ``crowd``, people
        may be there; ``hangs``, a falling tree may hang in it; ``stands``, a place of work that a falling tree must
        not reach.
    """
    return frozenset(row["key"] for row in rows("site_kinds") if row[count] == "yes")
