"""Records of picks and fellings as they were done: kept once, held against the plan, one of each counting."""

from __future__ import annotations

import uuid
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any, NamedTuple

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext

from apps.briefing.planner import tells_of_weighings
from apps.crews import steps
from apps.day.planner import tree_work
from apps.daybook import planner as fellings
from apps.daybook.models import FELLING, RecordPhoto, WorkRecord
from apps.felling.planner import evaluated, in_sections
from apps.felling.planner import plan_for as felling_plan
from apps.gear.card_planner import Seen, tells_of_loads
from apps.takedown import planner as takedown
from apps.takedown.models import TakedownPlan
from cantrel.pictures import read_picture
from cantrel.quantities import text
from treecore.day.queueing import until_back
from treecore.day.times import THROAT
from treecore.errors import CoreError, NotSolvable
from treecore.estimate import Estimate, Kind
from treecore.formats.takedown_entry import USUAL
from treecore.learning.outcome import Outcome
from treecore.learning.pick_outcome import PickOutcome, PlannedPick, not_more_than_it_stood, pick_outcome
from treecore.tree.weigh import weigh

if TYPE_CHECKING:
    from django.core.files.uploadedfile import UploadedFile

    from apps.crews.models import Crew, Person
    from apps.jobs.models import Tree
    from apps.takedown.planner import Row, Scene
    from treecore.learning.outcome import Compared

READ = ("mass", "peak_point", "peak_base", "hand", "wraps", "run")
SAID = (*READ, "done", "mass_by", "started", "ended", "near_miss", "note")
AT_BASE = ("device", "base")
WEIGHED_BY = (WorkRecord.By.CELL, WorkRecord.By.SCALE)
AHEAD = timedelta(minutes=10)  # a phone's clock may be ahead of ours


class Made(NamedTuple):
    """Which record it is, by the id it was given where it was made; of which pick, and what that was called there."""

    uid: uuid.UUID
    pick: str
    what: str = ""


class Kept(NamedTuple):
    """What became of a record that was sent: ``kept``, ``again`` where it was here already, ``clash`` where another of
    its pick counts.
    """

    state: str
    record: WorkRecord


def picks_of(tree: Tree) -> list[dict[str, Any]]:
    """Picks of a tree as they are recorded: by id, number, what is cut, and its weight by the plan where it has one."""
    found = [
        {"id": pick["id"], "number": number, "what": pick.get("member") or gettext("stem"), "at_m": pick["at_m"]}
        for number, pick in enumerate(takedown.plan_for(tree).picks, start=1)
    ]
    plan = felling_plan(tree)
    if plan.method and not in_sections(plan):
        found.append({"id": FELLING, "number": None, "what": gettext("the felling"), "at_m": None})
    return found


def records_of(tree: Tree) -> dict[str, list[WorkRecord]]:
    """Records of a tree by pick, the one that counts first."""
    found: dict[str, list[WorkRecord]] = {}
    for row in WorkRecord.objects.filter(tree=tree).select_related("person").order_by("-counts", "pk"):
        found.setdefault(row.pick, []).append(row)
    return found


def compare(row: WorkRecord) -> tuple[Compared, ...]:
    """A record beside what the plan had of its pick, by the core."""
    return pick_outcome(plan_of(row.planned), outcome_of(row))


def outcome_of(row: WorkRecord) -> PickOutcome:
    """What was read, as the core takes it."""
    return PickOutcome(**{name: getattr(row, name) for name in READ}, seconds=seconds_of(row))


def seconds_of(row: WorkRecord) -> float | None:
    """How long it took [s]; None where nobody noted start or stop."""
    return (row.ended - row.started).total_seconds() if row.started and row.ended else None


def plan_of(planned: dict[str, Any]) -> PlannedPick:
    """What was planned, as the core takes it."""
    found: dict[str, Any] = {
        name: _estimate(planned.get(name)) for name in ("mass", "peak_point", "peak_base", "hand", "seconds")
    }
    return PlannedPick(**found, wraps=planned.get("wraps"), run=planned.get("run"))


def _estimate(kept: list[float] | None) -> Estimate | None:
    return None if kept is None else Estimate(kept[0], kept[1], kept[2], Kind.ESTIMATED)


def _kept(e: Estimate | None) -> list[float] | None:
    return None if e is None else [e.value, e.low, e.high]


def planned(tree: Tree, pick: str) -> dict[str, Any]:
    """What the plan has of a pick, or of the felling, its own weighing left out; empty where it can't be worked out."""
    try:
        return _planned_felling(tree) if pick == FELLING else _planned_pick(tree, pick)
    except CoreError:
        return {}


def _planned_pick(tree: Tree, pick: str) -> dict[str, Any]:
    picks = takedown.plan_for(tree).picks
    place = next((i for i, entry in enumerate(picks) if entry["id"] == pick), None)
    if place is None:
        return {}
    bare = [{k: v for k, v in p.items() if k != "weighed_kg"} if i == place else p for i, p in enumerate(picks)]
    scene = takedown.scene_of(tree)
    row = takedown.work_out(scene, bare)[place]
    method = bare[place].get("method", USUAL["method"])
    found: dict[str, Any] = {"species": tree.species, "method": method, "by": _planner_of(tree)}
    if row.step:
        found["mass"] = _kept(row.step.piece.mass)
        found |= {"modelled": _modelled(scene, bare, place), "density": scene.tree.kind.density.value}
        found["standing"] = weigh(scene.tree).mass.estimate.high
    if row.held:
        forces, entry = row.held.forces, row.entry
        found |= {"peak_point": _kept(forces.on_point), "peak_base": _kept(forces.control_leg)}
        found |= {"tension_ratio": forces.tension_ratio, "rope": entry.get("rope", "")}
        found |= {"hand": _kept(forces.hand), "wraps": entry.get("wraps", USUAL["wraps"])}
        found |= {
            "run": entry.get("run_m", USUAL["run_m"]),
            "gear": _loads(row),
            "device": entry.get("device", ""),
        }
    if row.ruling:
        found["ruling"] = {"key": row.ruling.key, "verdict": row.ruling.verdict.value}
    return found | {"seconds": _seconds_of_pick(tree, place)}


def _planner_of(tree: Tree) -> str:
    """Whose plan it is: who signed it last."""
    last = tree.signoffs.defer("document", "results").first()
    return last.name if last else ""


def _modelled(scene: Scene, picks: list[dict[str, Any]], place: int) -> float | None:
    """What a piece weighs by the model alone, none before it weighed [kg]: its wood's density is learnt from it."""
    bare = [{k: v for k, v in pick.items() if k != "weighed_kg"} for pick in picks]
    step = takedown.work_out(scene, bare)[place].step
    return step.piece.mass.value if step else None


def _loads(row: Row) -> list[dict[str, Any]]:
    """What every item of gear on the path was to carry, and may [N]."""
    return [
        {"role": link.role, "name": link.name, "demand": _kept(link.demand), "allowed": _kept(link.allowed)}
        for link in takedown.chain_of(row)
        if link.name
    ]


def _seconds_of_pick(tree: Tree, place: int) -> list[float] | None:
    work = tree_work(tree, THROAT)
    names = {pick.name: pick for pick in work.picks}
    found = names.get(str(place + 1))
    return _kept(until_back(found)) if found else None


def _planned_felling(tree: Tree) -> dict[str, Any]:
    given, _ = evaluated(tree, felling_plan(tree), quick=True)
    mass = weigh(given.tree).mass.estimate
    work = tree_work(tree, THROAT)
    seconds = _kept(until_back(work.picks[0])) if work.picks else None
    return {
        "species": tree.species,
        "method": FELLING,
        "mass": _kept(mass),
        "standing": mass.high,
        "seconds": seconds,
        "by": _planner_of(tree),
    }


@transaction.atomic
def keep(tree: Tree, made: Made, values: dict[str, Any], person: Person, photo: UploadedFile | None = None) -> Kept:
    """Keep a record that was made somewhere: once by its id, however often it is sent, and beside another of the same
    pick where there is one.
    """
    there = WorkRecord.objects.filter(uid=made.uid).first()
    if there is not None:
        if there.tree_id != tree.pk:
            raise NotSolvable(what="pick", why="a record of this id belongs to another tree")
        return Kept("again", there)
    row = begun(tree, made)
    row.counts = not WorkRecord.objects.filter(tree=tree, pick=made.pick, counts=True).exists()
    row.person, row.by = person, person.shown_name()
    values = values | {"note": _after_the_fall(tree, values, person)}
    saved = save(row, values, photo)
    return Kept("kept" if saved.counts else "clash", saved)


AFTER = {"lay": "fine_angle", "hinge_left": "cut", "hinge_right": "cut"}


def _after_the_fall(tree: Tree, values: dict[str, Any], person: Person) -> str:
    """Put what was read after a fall into the felling's record where nobody has; what another reading stands against is
    kept in the note, which is given back.
    """
    read = {name: values[name] for name in AFTER if values.get(name) is not None}
    note = str(values.get("note", ""))
    if not read:
        return note
    Outcome(**read)  # refuses what no felling leaves
    row = fellings.record_of(tree)
    new = {name: value for name, value in read.items() if row is None or getattr(row, name) is None}
    if new:
        fellings.save_record(tree, new, person, row)
    others = [name for name in read if name not in new and getattr(row, name) != read[name]]
    said = [f"{name.replace('_', ' ')} {text(read[name], AFTER[name], 'metric')}" for name in others]
    return "\n".join(part for part in (note, ", ".join(said)) if part)


def begun(tree: Tree, made: Made) -> WorkRecord:
    """A record of a pick that is not saved yet, with what the plan has of it; of one that is no longer in the plan
    with what was known of it where it was made.
    """
    entry = next((entry for entry in picks_of(tree) if entry["id"] == made.pick), None)
    if entry is None:
        return WorkRecord(
            tree=tree, uid=made.uid, pick=made.pick, what=made.what or gettext("a pick no longer planned")
        )
    found, what = planned(tree, made.pick), entry["what"]
    return WorkRecord(tree=tree, uid=made.uid, pick=made.pick, number=entry["number"], what=what, planned=found)


@transaction.atomic
def save(row: WorkRecord, values: dict[str, Any], photo: UploadedFile | None = None) -> WorkRecord:
    """Keep what was read of a pick once the core takes it; a weighed piece corrects the rest of the list."""
    before = row.mass
    for name, value in values.items():
        if name in SAID:
            setattr(row, name, value)
    _forwards(row.started, row.ended)
    compare(row)
    if row.mass is not None and row.planned.get("standing"):
        not_more_than_it_stood(row.mass, row.planned["standing"])
    picture = read_picture(photo)[0] if photo else None
    with steps.recorded("work", row.tree, gettext("record of {what} kept").format(what=row.what), row.by):
        row.save()
        if picture:
            RecordPhoto.objects.create(tree=row.tree, pick=row.pick, image=picture, by=row.by)
        _weighed(row, before)
    return row


def _forwards(started: datetime | None, ended: datetime | None) -> None:
    """Refuse times that run backwards, or come from tomorrow."""
    if started and ended and ended < started:
        raise NotSolvable(what="ended", why="it ended before it began: a clock was set back, or the times are swapped")
    if any(at > timezone.now() + AHEAD for at in (started, ended) if at):
        raise NotSolvable(what="ended", why="that time has not come yet: the phone's clock is ahead")


def _weighed(row: WorkRecord, before: float | None) -> None:
    """Put a weighing of the record that counts into the plan's pick, so that it corrects what comes after it."""
    mass = row.mass if row.counts and row.mass_by in WEIGHED_BY else None
    plan = takedown.plan_for(row.tree)
    picks = [dict(pick) for pick in plan.picks]
    mine = next((pick for pick in picks if pick.get("id") == row.pick), None)
    if mine is None or mine.get("weighed_kg") == mass:
        return
    if mass is None and (not row.counts or mine.get("weighed_kg") != before):
        return  # what stands there was typed at the bench
    mine["weighed_kg"] = mass
    plan.picks = [{k: v for k, v in p.items() if k != "weighed_kg" or v is not None} for p in picks]
    plan.save()


@tells_of_weighings
def weighings(tree: Tree) -> dict[str, float]:
    """What pieces were weighed while the plan was worked, by pick [kg]."""
    rows = WorkRecord.objects.filter(tree=tree, counts=True, mass__isnull=False, mass_by__in=WEIGHED_BY)
    return {row.pick: row.mass for row in rows if row.mass is not None}


@transaction.atomic
def let_count(row: WorkRecord) -> None:
    """Let one of several records of a pick count; the others are kept beside it."""
    others = WorkRecord.objects.filter(tree=row.tree, pick=row.pick, counts=True).exclude(pk=row.pk)
    with steps.recorded("work", row.tree, gettext("which record of {what} counts").format(what=row.what)):
        for other in others:
            other.counts = False
            other.save()
        row.counts = True
        row.save()
        _weighed(row, None)


class Clash(NamedTuple):
    """Two records or more of one pick: the one that counts, and the others."""

    counts: WorkRecord
    others: list[WorkRecord]


def clashes(tree: Tree) -> list[Clash]:
    """Picks of which there is more than one record."""
    found = records_of(tree).values()
    return [Clash(rows[0], rows[1:]) for rows in found if len(rows) > 1 and rows[0].counts]


def photos(tree: Tree, pick: str | None = None) -> list[RecordPhoto]:
    """Photos of what was done at a tree, or at one pick."""
    rows = RecordPhoto.objects.filter(tree=tree)
    return list(rows if pick is None else rows.filter(pick=pick))


ROWS = (*SAID, "counts", "number", "what", "pick", "tree_id", "uid", "planned", "by", "person_id")
steps.register(
    "work",
    steps.Part("work", WorkRecord, ROWS, lambda tree: WorkRecord.objects.filter(tree=tree)),
    steps.Part("takedown", TakedownPlan, ("picks",), lambda tree: TakedownPlan.objects.filter(tree=tree), True),
)


@tells_of_loads
def loads_seen(crew: Crew) -> dict[str, list[Seen]]:
    """What a cell read, as it came to every item on the path: as the plan had it, by how much more or less was read."""
    found: dict[str, list[Seen]] = {}
    rows = WorkRecord.objects.filter(tree__job__crew=crew, counts=True).select_related("tree__job")
    for row in rows.exclude(peak_point=None, peak_base=None):
        for link in row.planned.get("gear", ()):
            share = _read_share(row, at_base=link["role"] in AT_BASE)
            if share is not None and link["demand"]:
                where = f"{row.tree.job.name}, {row.tree.name}, {row.number}"
                allowed = link["allowed"][0] if link["allowed"] else None
                found.setdefault(link["name"], []).append(
                    Seen(where, row.ended or row.at, link["demand"][0] * share, allowed)
                )
    return found


def _read_share(row: WorkRecord, at_base: bool) -> float | None:
    """What was read over what was planned, at the end of the rope an item hangs at, else at the other one [-]."""
    ends = ("peak_base", "peak_point") if at_base else ("peak_point", "peak_base")
    for end in ends:
        planned, actual = row.planned.get(end), getattr(row, end)
        if planned and planned[0] > 0.0 and actual is not None:
            return float(actual / planned[0])
    return None
