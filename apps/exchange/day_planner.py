"""A day that is over, as a file: answers, who signed, how the crew was, what was recorded. Taken in by the same ways as
a person's typing, all of it or nothing.
"""

from __future__ import annotations

import uuid
from datetime import date, datetime
from typing import TYPE_CHECKING, Any

from django.db import transaction
from django.utils import timezone

from apps.briefing import planner as briefing
from apps.crews.models import Person
from apps.day import planner as days
from apps.daybook import planner as daybook
from apps.daybook import work_planner
from apps.daybook.models import FELLING
from apps.gear import card_planner
from apps.survey import planner as survey
from treecore.document.fields import to_si, unit_of
from treecore.errors import BadDocument

if TYPE_CHECKING:
    from apps.crews.models import Crew
    from apps.jobs.models import Job, Tree

SCHEMA = "cantrel-day"


@transaction.atomic
def take_in(crew: Crew, written: dict[str, Any]) -> Job:
    """Take a day in for the job it names."""
    if written.get("schema") != SCHEMA or written.get("version") != 1:
        raise BadDocument(field="schema", why="it is no day of this program")
    job = crew.jobs.filter(name=written["job"]).first()
    if job is None:
        raise BadDocument(field="job", why="there is no job “{name}” in this yard", name=written["job"])
    people = {person.username: person for person in Person.objects.filter(crew=crew)}
    trees = {tree.name: tree for tree in job.trees.all()}
    for said in written.get("answers", ()):
        values = {name: said.get(name, "") for name in ("finding", "note", "response", "side")}
        survey.answer(trees[said["tree"]], said["hazard"], values, people[said["by"]])
    for said in written.get("items", ()):
        values = {**said, "tree_id": trees[said["tree"]].pk if said.get("tree") else None, "after_id": None}
        days.save_item(job, {k: v for k, v in values.items() if k not in ("tree", "by")}, None, said.get("by", ""))
    for said in written.get("wood", ()):
        values = _si(said, ("tree", "by"))
        days.save_wood(trees[said["tree"]], values, None, said.get("by", ""))
    _day(job, written.get("day"))
    for said in written.get("signed", ()):
        _signed(trees[said["tree"]], people[said["by"]], [people[name] for name in said.get("readers", ())])
    for said in written.get("records", ()):
        _record(trees[said["tree"]], people[said["by"]], said)
    for said in written.get("fellings", ()):
        values = {"near_miss": "", "notes": "", **_si(said, ("tree", "by"))}
        daybook.save_record(trees[said["tree"]], values, people[said["by"]])
    for said in written.get("inspections", ()):
        row = crew.gear.get(name=said["item"])
        values = {
            "on": date.fromisoformat(said["on"]),
            "passed": said.get("passed", True),
            "note": said.get("note", ""),
        }
        card_planner.inspect(row, values, people[said["by"]])
    return job


def _si(said: dict[str, Any], but: tuple[str, ...]) -> dict[str, Any]:
    """Values by column, quantities in SI; their unit is the ending of their key."""
    found = {}
    for key, value in said.items():
        if key in but:
            continue
        ending = unit_of(key)
        found[key.removesuffix(ending) if ending else key] = to_si(key, value) if ending else value
    return found


def _day(job: Job, said: dict[str, Any] | None) -> None:
    if said is None:
        return
    hour, minute = (int(part) for part in said.get("start", "8:00").split(":"))
    values = {**said, "on": date.fromisoformat(said["on"]), "start": 60 * hour + minute}
    days.save_day(days.new_day(job), values, "")


def _signed(tree: Tree, person: Person, readers: list[Person]) -> None:
    said = briefing.sign(tree, person, briefing.keep_seen(briefing.document(tree)))
    if said:
        raise BadDocument(field="signed", why="{tree}: {said}", tree=tree.name, said=said)
    number = tree.signoffs.first()
    for reader in readers:
        briefing.read(tree, reader, number.pk if number else 0)


def _record(tree: Tree, person: Person, said: dict[str, Any]) -> None:
    """One pick by its number in the list, or the felling."""
    picks = {entry["number"]: entry["id"] for entry in work_planner.picks_of(tree)}
    pick = FELLING if said["pick"] == FELLING else picks[said["pick"]]
    values = _si(said, ("tree", "by", "pick", "started", "ended"))
    for name in ("started", "ended"):
        if said.get(name):
            values[name] = timezone.make_aware(datetime.fromisoformat(said[name]))
    values = {"done": "planned", "mass_by": "", "near_miss": "", "note": "", **values}
    uid = uuid.uuid5(uuid.NAMESPACE_URL, f"{tree.pk}-{pick}-{said.get('started', '')}")
    work_planner.keep(tree, work_planner.Made(uid, pick), values, person)
