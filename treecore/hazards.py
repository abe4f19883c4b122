"""The walk-up: hazards, and the gates that block sign-off until they are answered."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cache

from treecore.errors import NotSolvable
from treecore.tables import rows


class Finding(StrEnum):
    """What was seen of a hazard."""

    PRESENT = "present"
    ABSENT = "absent"
    NOT_LOOKED = "not_looked"


@dataclass(frozen=True, slots=True)
class Hazard:
    """One line of the walk-up list; ``gate`` ones block sign-off while open.

    ``closes`` are ways of taking the tree down that it rules out while it is present, ``effects`` what else it closes
    or demands (docs/methods.md, findings).
    """

    key: str
    group: str
    name: str
    gate: bool
    caution: str
    closes: tuple[str, ...] = ()
    effects: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Answer:
    """What was found, and for a hazard that is present, what is done about it."""

    finding: Finding
    response: str = ""


@dataclass(frozen=True, slots=True)
class Gate:
    """A gate and whether it still blocks; ``why`` in words."""

    hazard: Hazard
    open: bool
    why: str
    looked: bool = True


@cache
def hazards() -> dict[str, Hazard]:
    """Return the walk-up list by key, in walking order."""
    return {
        row["key"]: Hazard(
            row["key"],
            row["group"],
            row["name"],
            row["gate"] == "yes",
            row["caution"],
            tuple(row["closes"].split()),
            tuple(row["effects"].split()),
        )
        for row in rows("hazards")
    }


def together(answers: Sequence[Answer]) -> Answer:
    """Return what several people's answers to one hazard come to: the worst that anyone saw.

    Parameters
    ----------
    answers : sequence of Answer
        At least one; who did not look says nothing against who did.
    """
    looked = [a for a in answers if a.finding is not Finding.NOT_LOOKED]
    present = [a for a in looked if a.finding is Finding.PRESENT]
    if not looked:
        return Answer(Finding.NOT_LOOKED)
    said = next((a.response for a in present or looked if a.response.strip()), "")
    return Answer(Finding.PRESENT if present else Finding.ABSENT, said)


def differ(answers: Sequence[Answer]) -> bool:
    """Whether people who looked found different things.

    Parameters
    ----------
    answers : sequence of Answer
        One from each person.
    """
    return len({a.finding for a in answers} - {Finding.NOT_LOOKED}) > 1


def gates(answers: Mapping[str, Answer], own: Sequence[Hazard] = ()) -> tuple[Gate, ...]:
    """Return every gate with its state: not looked at counts as open.

    Parameters
    ----------
    answers : mapping of str to Answer
        By hazard key; a missing one was not looked at.
    own : sequence of Hazard
        A yard's additions to the list.

    Raises
    ------
    NotSolvable
        On an answer to a hazard the list does not have.
    """
    listed = hazards() | {h.key: h for h in own}
    for key in answers:
        if key not in listed:
            raise NotSolvable(what="walk_up", why="“{key}” is not on the walk-up list", key=key)
    return tuple(_gate(h, answers.get(h.key, Answer(Finding.NOT_LOOKED))) for h in listed.values() if h.gate)


def _gate(hazard: Hazard, answer: Answer) -> Gate:
    if answer.finding is Finding.NOT_LOOKED:
        return Gate(hazard, True, "not looked at: unknown counts as present", looked=False)
    if answer.finding is Finding.PRESENT and not answer.response.strip():
        return Gate(hazard, True, "present, and nothing is said about what is done")
    return Gate(hazard, False, answer.response.strip() or "absent")
