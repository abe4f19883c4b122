"""What the ground crew's phone shows: the picks of a tree in order, or its felling, and who calls and answers."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, NamedTuple

from apps.daybook.models import FELLING
from apps.daybook.work_planner import picks_of, records_of
from apps.takedown.brief import worked_picks
from treecore.commands import Command, commands_of, uses_of_pick
from treecore.roles import role_kinds
from treecore.takedown.pick import methods
from treecore.units import GRAVITY

if TYPE_CHECKING:
    from apps.daybook.models import WorkRecord
    from apps.jobs.models import Job, Tree
    from apps.takedown.planner import Row, Scene


class Piece(NamedTuple):
    """One screen: which of how many, what came of it, and the ids before and after it; no row for a felling."""

    id: str
    number: int | None
    every: int
    scene: Scene | None
    row: Row | None
    before: dict[str, Any] | None
    after: dict[str, Any] | None


def screens_of(tree: Tree) -> list[str]:
    """Ids of a tree's screens in order; nothing is worked out."""
    return [entry["id"] for entry in picks_of(tree)]


def pieces(tree: Tree) -> list[Piece]:
    """Every screen of a tree in order."""
    every = picks_of(tree)
    worked = worked_picks(tree) if any(entry["id"] != FELLING for entry in every) else None
    rows = worked.rows if worked and worked.rows else []
    found = []
    for place, entry in enumerate(every):
        before = every[place - 1] if place else None
        after = every[place + 1] if place + 1 < len(every) else None
        row = rows[place] if entry["id"] != FELLING and place < len(rows) else None
        scene: Any = worked.scene if worked else None
        found.append(Piece(entry["id"], entry["number"], len(every), scene, row, before, after))
    return found


def piece_of(tree: Tree, pick: str) -> Piece | None:
    """The screen of one pick; None where the plan has no such pick."""
    return next((piece for piece in pieces(tree) if piece.id == pick), None)


def words_of(piece: Piece, pulled: bool) -> tuple[Command, ...]:
    """What is called and answered at a piece; ``pulled`` that somebody pulls a tree over."""
    if piece.row is None:
        return commands_of(["fell", "pull"] if pulled else ["fell"])
    pick = piece.row.pick
    if pick is None:
        return commands_of([])
    return commands_of(uses_of_pick(methods()[pick.method].lines, pick.held))


def person_for(job: Job, key: str) -> str:
    """Who was named for a role of the core's; empty where nobody was."""
    words = next((kind.words for kind in role_kinds() if kind.key == key), (key,))
    return next((r.name for r in job.roles.all() if any(word in r.role.lower() for word in words)), "")


def like_mass(force: float) -> float:
    """The mass that hangs as heavily as a force [kg]."""
    return force / GRAVITY


def recorded(tree: Tree) -> dict[str, WorkRecord]:
    """The record of each pick that counts."""
    return {pick: rows[0] for pick, rows in records_of(tree).items()}
