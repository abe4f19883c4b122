"""What is called between the people of a crew, the reply, and the signal where nobody can hear, from
``data/commands.csv``.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import NamedTuple

from treecore.tables import rows


class Command(NamedTuple):
    """One command: who calls what, who answers what, the signal by hand, and what it means. ``when`` a plan has it."""

    key: str
    when: str
    caller: str
    said: str
    answerer: str
    reply: str
    signal: str
    meaning: str


@cache
def commands() -> tuple[Command, ...]:
    """Return every command, the one that stops all last."""
    return tuple(Command(*row.values()) for row in rows("commands"))


def commands_of(uses: Iterable[str]) -> tuple[Command, ...]:
    """Return the commands a piece of work uses; the one that stops all always.

    Parameters
    ----------
    uses : iterable of str
        What it is: rope, run, free, fell, pull.
    """
    asked = {*uses, "always"}
    return tuple(command for command in commands() if command.when in asked)


def uses_of_pick(lines: int, held: str) -> tuple[str, ...]:
    """Return what a pick uses: a piece that falls is called otherwise than one on a rope.

    Parameters
    ----------
    lines : int
        Lines that hold it. [-]
    held : str
        How its rope is held: lock, soft, run.
    """
    if lines == 0:
        return ("free",)
    return ("rope", "run") if held == "run" else ("rope",)
