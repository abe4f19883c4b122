"""The takedown: picks as entries to the core and back; what a touch, a drag or a button changes."""

from __future__ import annotations

import math
import secrets
from collections import Counter
from dataclasses import dataclass, replace
from datetime import date
from functools import cached_property
from typing import TYPE_CHECKING, Any, NamedTuple

from django.core.cache import cache
from django.db import transaction
from django.utils.translation import gettext

from apps.crews import steps
from apps.gear.planner import gear_entry, rows_of, store, tells_of_use
from apps.jobs.planner import site_entry
from apps.survey.planner import found_present, measured_entry
from apps.takedown.models import TakedownPlan
from cantrel.revisions import TOO_OLD, clash_text, merged, whose
from cantrel.rows import new_id
from cantrel.words import choices_in, choices_of, said
from treecore.errors import CoreError, NotSolvable
from treecore.findings import Seen
from treecore.formats.plan_document import site_of, tree_of
from treecore.formats.setups import followed, setups
from treecore.formats.takedown_entry import (
    ACCEPTS,
    ROLES,
    USUAL,
    OtherTree,
    PickRow,
    cut_of,
    others_of,
    steps_of,
    worked_at,
)
from treecore.formats.takedown_entry import access_of as way_up_of
from treecore.formats.takedown_start import as_method, begun, mends, scored, taken
from treecore.rigging.friction import devices
from treecore.rigging.gear import Item, factors, refused
from treecore.rigging.landing import BEDS
from treecore.rigging.rope import stiffness_of
from treecore.rigging.swing import drop_reach
from treecore.schools import schools
from treecore.site import Site
from treecore.takedown.access import ANCHORS, WAYS, access_limits, fork_load
from treecore.takedown.aiming import aimed, along_at, changes, usual_point
from treecore.takedown.catching import friction_of
from treecore.takedown.chain import chain
from treecore.takedown.climber import aloft
from treecore.takedown.cutting import hinge_aloft, step_aloft
from treecore.takedown.ground import legs_of, recoil_of, stands_of
from treecore.takedown.laying_out import laid_out
from treecore.takedown.limits import ruling_of
from treecore.takedown.members import Members, members_of
from treecore.takedown.order import order_rules
from treecore.takedown.peak_forces import wraps_on
from treecore.takedown.pick import AWAY, Pick, methods
from treecore.takedown.pick_result import HeldPick, Worked, fall_energy, on_ground, two_ties, work
from treecore.takedown.pieces import Cut, Standing, Taken, left_over, take, whole
from treecore.takedown.proposing import Score, proposed
from treecore.takedown.sawcut import cut_types
from treecore.takedown.weights import Correction
from treecore.tree.body import TreeInput
from treecore.verdict import Limit, Verdict

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from shapely.geometry.base import BaseGeometry

    from apps.gear.models import GearItem
    from apps.jobs.models import Tree
    from treecore.estimate import Estimate
    from treecore.formats.takedown_start import Trial
    from treecore.rigging.friction import Device
    from treecore.takedown.access import Access
    from treecore.takedown.aiming import Change
    from treecore.takedown.chain import Link
    from treecore.takedown.climber import Aloft
    from treecore.takedown.ground import Stands
    from treecore.takedown.order import Order
    from treecore.takedown.peak_forces import Forces, Wraps
    from treecore.takedown.pick import Method
    from treecore.takedown.pick_result import FreePick, Shares
    from treecore.takedown.proposing import Proposal

Entry = dict[str, Any]
MOST = 120
FIRST_GEAR = ("rope", "sling", "block", "device", "base")  # what every pick on a line is held by
TREE = "tree:"  # before another tree's name among the choices of a place


def plan_for(tree: Tree) -> TakedownPlan:
    """The tree's takedown; an empty one, not yet saved, if there is none."""
    known = tree._state.fields_cache
    row = known["takedown"] if "takedown" in known else TakedownPlan.objects.filter(tree=tree).first()
    return row or TakedownPlan(tree=tree, picks=[])


@dataclass
class Scene:
    """What picks are worked out on: tree, members, site, trees beside it, gear store, and what the walk-up found."""

    tree: TreeInput
    members: Members
    site: Site
    others: tuple[OtherTree, ...]
    store: dict[str, Item]
    found: tuple[Seen, ...]

    @cached_property
    def choices(self) -> dict[str, list[tuple[Any, str]]]:
        """Choices of the pick's form."""
        return _choices(self)


class Row(NamedTuple):
    """A pick of the list worked out in its turn: what stands before and after it, and what came of it; where it is
    refused, the error, and the tree stays as it was.
    """

    entry: Entry
    before: Standing
    after: Standing
    corrected: Correction
    ruling: Limit | None
    step: Taken | None
    pick: Pick | None
    worked: Worked | None
    limits: tuple[Limit, ...]
    error: CoreError | None

    @property
    def held(self) -> HeldPick | None:
        """The pick, where it is on a line."""
        return self.worked if isinstance(self.worked, HeldPick) else None


def scene_of(tree: Tree) -> Scene:
    """Members, site and gear store; read once for all picks."""
    entry, site = measured_entry(tree), site_entry(tree.job)
    core = tree_of(entry)[0]
    return Scene(
        tree=core,
        members=members_of(core),
        site=site_of(site, entry),
        others=others_of(site, entry),
        store=store(tree.job.crew),
        found=found_present(tree),
    )


def work_out(scene: Scene, picks: list[dict[str, Any]]) -> list[Row]:
    """Every pick worked out in order on what then stands; one that is refused leaves the tree as it was."""
    steps = steps_of(picks, scene.tree, scene.site, scene.store, scene.others, date.today(), scene.found)
    return [
        Row(
            entry=dict(s.entry),
            before=s.before,
            after=s.after,
            corrected=s.corrected,
            ruling=ruling_of(s.done.limits),
            **s.done._asdict(),
        )
        for s in steps
    ]


def roles_used(tree: Tree) -> set[str]:
    """What a list of picks asks of the crew: a climber, and somebody at the device."""
    picks = plan_for(tree).picks
    climbs = {"climb" for p in picks if p.get("climber")}
    return climbs | {"lower" for p in picks if p.get("method", USUAL["method"]) not in ("free", "toss")}


def worst(rows: list[Row]) -> int | None:
    """Number of the pick to name first: one that is refused, else the one whose limit rules them all; None without
    any.
    """
    for number, row in enumerate(rows):
        if row.error:
            return number
    ruled = [(row.ruling.order, -number) for number, row in enumerate(rows) if row.ruling]
    return -max(ruled)[1] if ruled else None


def orders(scene: Scene, rows: list[Row]) -> dict[int, Order]:
    """Rules of order that are not kept, by pick number."""
    good = [(i, r) for i, r in enumerate(rows) if r.step and r.pick]
    steps_taken = tuple(r.step for _, r in good if r.step)
    found = order_rules(scene.members, steps_taken, tuple(r.pick for _, r in good if r.pick))
    return {good[o.number - 1][0]: o for o in reversed(found)}


def chain_of(row: Row) -> tuple[Link, ...]:
    """The chain of gear of a pick worked out."""
    return chain(row.worked, date.today()) if row.worked else ()


def carries_at_point(row: Row) -> float | None:
    """What the weakest part at the rigging point may carry [N]; None where none is chosen or one is not known."""
    at_point = [link.allowed for link in chain_of(row) if link.role in ("block", "sling")]
    if not at_point or None in at_point:
        return None
    return min(allowed.value for allowed in at_point if allowed)


def changes_of(scene: Scene, row: Row) -> tuple[Change, ...]:
    """Small changes of a pick and what each does."""
    if row.worked is None or row.step is None:
        return ()
    return changes(scene.members, row.step, row.worked.pick, scene.site, date.today())


@transaction.atomic
def keep(plan: TakedownPlan, picks: list[dict[str, Any]]) -> TakedownPlan:
    """Save the picks; unchanged ones leave no step for undo."""
    before = TakedownPlan.objects.filter(pk=plan.pk).first()
    plan.picks = with_ids(picks)
    if before is None or before.picks != plan.picks:
        with steps.recorded("takedown", plan.tree, gettext("picks changed")):
            plan.save()
    return plan


def with_ids(picks: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Picks, each under an id of its own; those that have one keep it."""
    taken, found = set(), []
    for pick in picks:
        name = pick.get("id") or new_id("p")
        name = new_id("p") if name in taken else name
        taken.add(name)
        found.append({**pick, "id": name})
    return found


def known_picks(plan: TakedownPlan, revision: str) -> list[dict[str, Any]] | None:
    """Picks as a page of that revision knew them; None where nobody knows that revision."""
    was = plan.as_of(revision) if plan.pk else None
    if was is None:
        return [] if plan.pk is None or str(revision) == "0" else None  # a page from before the first save knew none
    return was.picks


def on_setups(before: list[dict[str, Any]], picks: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Picks after a change, with what their set-ups make of it."""
    return followed(before, picks)


def setup_names(picks: list[dict[str, Any]]) -> list[tuple[str, int]]:
    """Set-ups of a list by name, and how many picks are taken on each."""
    return [(s.name, s.picks) for s in setups(picks)]


def step_back(plan: TakedownPlan, revision: str | None, forth: bool = False) -> str:
    """Take back the last change of the plan, or bring it back; why not, in words, or nothing."""
    return steps.of_revision("takedown", plan.tree, plan, revision, forth)


steps.register(
    "takedown",
    steps.Part(
        "takedown", TakedownPlan, ("picks", "access"), lambda tree: TakedownPlan.objects.filter(tree=tree), True
    ),
)


class Laid(NamedTuple):
    """Picks that are being laid out: entries so far, and how many of them were looked at."""

    entries: list[Entry]
    seen: int


def lay_out(scene: Scene, picks: list[Entry], member: str, longest: float, heaviest: float) -> Laid:
    """Picks that bring a member down, each begun as the last of its kind was taken; not kept."""
    standing = left_standing(scene, work_out(scene, picks))
    entries: list[Entry] = []
    for cut, _ in laid_out(scene.members, standing, member, longest, heaviest):
        step = take(scene.members, standing, cut)
        entries.append({**begun(scene.members, step, [*picks, *entries], _first_gear(scene)), "id": new_id("p")})
        standing = step.after
    if len(picks) + len(entries) > MOST:
        raise NotSolvable(what="pick", why="a takedown has up to {MOST} picks", MOST=MOST)
    return Laid(entries, 0)


def mended(scene: Scene, picks: list[Entry], laid: Laid) -> Laid:
    """The next of the laid-out picks, changed by the nearest change that passes where it does not pass as it is."""
    entries = list(laid.entries)
    number = len(picks) + laid.seen
    row = work_out(scene, [*picks, *entries])[number]
    found = _mends(scene, row, most=1)
    if found:
        entries[laid.seen] = found[0].entry
    return Laid(entries, laid.seen + 1)


def row_of(row: Row) -> PickRow:
    """A row's pick worked out, as the core gives it."""
    return PickRow(row.step, row.pick, row.worked, row.limits, row.error)


def _mends(scene: Scene, row: Row, most: int = 3) -> tuple[Trial, ...]:
    """The nearest changes that mend a pick; none where it passes as it is."""
    now = row_of(row)
    if not scored(now)[0]:
        return ()
    place = worked_at(
        row.before, scene.tree, scene.site, scene.store, scene.others, date.today(), row.corrected, scene.found
    )
    return mends(scene.members, row.entry, now, place, most)


def mends_of(scene: Scene, row: Row) -> list[tuple[Trial, Limit | None]]:
    """The nearest changes that mend a pick, each with what rules it then."""
    return [(trial, ruling_of(trial.row.limits)) for trial in _mends(scene, row)]


LAID_FOR = 3600  # how long picks laid out wait to be taken [s]


def keep_laid(scene: Scene, picks: list[Entry], laid: Laid, token: str = "") -> str:
    """Put picks by that are being laid out on these; what they are asked for by."""
    token = token or secrets.token_hex(8)
    cache.set(f"laid-{token}", (scene.tree, picks, laid), LAID_FOR)
    return token


def laid_under(scene: Scene, picks: list[Entry], token: str) -> Laid:
    """Picks laid out that were put by; NotSolvable where nobody knows them, or list or tree are others by now."""
    tree, base, laid = cache.get(f"laid-{token}") or (None, None, None)
    if laid is None or (tree, base) != (scene.tree, picks):
        raise NotSolvable(what="pick", why="the list changed since these picks were laid out: lay them out again")
    return laid


def mend_taken(scene: Scene, row: Row, wanted: list[tuple[str, str]]) -> Entry:
    """A pick's entry with a change put in that was offered."""
    return taken(scene.members, row.entry, row_of(row), wanted)


def new_pick(scene: Scene, picks: list[Any], member: str, at: float) -> dict[str, Any]:
    """A pick of a cut, with the usual values and what of the last pick carries over."""
    if len(picks) >= MOST:
        raise NotSolvable(what="pick", why="a takedown has up to {MOST} picks", MOST=MOST)
    standing = left_standing(scene, work_out(scene, picks))
    try:
        step = take(scene.members, standing, Cut(member, at))
    except CoreError:  # a cut that takes nothing is put down all the same, and says why it is refused
        return {**USUAL, "id": new_id("p"), "member": member, "at_m": at, "method": "free", **_first_gear(scene)}
    return {**begun(scene.members, step, picks, _first_gear(scene)), "id": new_id("p")}


def with_usual_point(scene: Scene, entry: dict[str, Any]) -> dict[str, Any]:
    """A pick that is held by a line, with a usual rigging point to drag from where it has none."""
    way = methods().get(str(entry.get("method", USUAL["method"])))
    if way is None or way.lines == 0 or entry.get("point"):
        return entry
    place = usual_point(scene.members, cut_of(entry), way)
    return entry | ({"point": {"member": place.member, "at_m": place.at}} if place else {})


def _first_gear(scene: Scene) -> dict[str, str]:
    """For each part of the path the strongest item that may be used today; each item once."""
    found: dict[str, str] = {}
    usable = [item for item in scene.store.values() if refused(item, date.today()) is None]
    for role in FIRST_GEAR:
        fits = [item for item in usable if item.role in ACCEPTS[role] and item.name not in found.values()]
        if fits:
            found[role] = max(fits, key=lambda item: item.strength or 0.0).name
    return found


def placed(scene: Scene, standing: Standing, view: float, x: float, z: float) -> tuple[str, float]:
    """Member and place of a touch on the picture."""
    row, along = aimed(scene.members, standing, view, x, z)
    return scene.members.names[row], along


def dragged(scene: Scene, row: Row, handle: str, view: float, x: float, z: float) -> dict[str, Any]:
    """What dragging a handle of the picture to a place means for a pick's entry."""
    members, entry = scene.members, row.entry
    if handle == "tie" and row.step:
        piece = row.step.piece
        along, _ = along_at(members, piece.row, view, x, z, members.end[piece.row])
        return {"tie_m": round(min(max(along - entry["at_m"], 0.0), piece.length), 2)}
    if handle == "cut":
        which = members.rows.get(entry.get("member", ""))
        if which is None:
            raise NotSolvable(what="cut", why="the limb it was on is no longer there")
        return {"at_m": round(along_at(members, which, view, x, z, row.before.ends[which])[0], 2)}
    if handle == "point":
        which, along = aimed(members, row.after, view, x, z)
        kept = {k: v for k, v in (entry.get("point") or {}).items() if k not in ("tree", "place_m")}
        return {"point": kept | {"member": members.names[which], "at_m": along}}
    if handle in ("stance", "tie_in"):
        which, along = aimed(members, row.after, view, x, z)
        name = "tie" if handle == "tie_in" else "stance"
        kept = {k: v for k, v in (entry.get("climber") or {}).items() if name != "tie" or k != "tie_tree"}
        return {"climber": kept | {f"{name}_member": members.names[which], f"{name}_m": along}}
    if handle == "redirect":
        which, along = aimed(members, row.after, view, x, z)
        return {"redirect": (entry.get("redirect") or {}) | {"member": members.names[which], "at_m": along}}
    if handle == "second_in":
        which, along = aimed(members, row.after, view, x, z)
        return {"climber": (entry.get("climber") or {}) | {"second": {"member": members.names[which], "at_m": along}}}
    return _dragged_above(scene, row, handle, x, z)


def _dragged_above(scene: Scene, row: Row, handle: str, x: float, y: float) -> dict[str, Any]:
    """What dragging a handle of the picture from above means: east and north of the site's origin [m]."""
    site, step = scene.site, row.step
    east, north = x - site.tree_x, y - site.tree_y
    if handle == "landing":
        return {"landing_m": [round(east, 2), round(north, 2)], "landing_on": ""}
    if handle == "device":
        high = (row.entry.get("device_at") or (0.0, 0.0, 1.0))[2]
        return {"device_at": [round(east, 2), round(north, 2), high], "device_on": ""}
    if handle == "faces" and step:
        way = math.atan2(east - step.piece.butt[0], north - step.piece.butt[1])
        return {"bearing_deg": round(math.degrees(way)) % 360}
    return {}


def with_method(scene: Scene, picks: list[dict[str, Any]], place: int, before: dict[str, Any]) -> dict[str, Any]:
    """A pick whose method was changed, tied, hung and cut as that method begins; what else was changed with it stays
    as it was said.
    """
    entry = picks[place]
    method = str(entry.get("method", USUAL["method"]))
    if method == before.get("method", USUAL["method"]):
        return entry
    step = work_out(scene, picks)[place].step
    if step is None:
        return entry
    patch = as_method(scene.members, step.piece, before, method)
    return entry | {key: value for key, value in patch.items() if entry.get(key) == before.get(key)}


def proposal(scene: Scene, picks: list[dict[str, Any]]) -> Proposal:
    """An order that is nowhere worse than the one there is, with what moves and why."""

    def judged(order: Sequence[int]) -> Score:
        rows = work_out(scene, [picks[i] for i in order])
        count = Counter("refused" if r.error else r.ruling.verdict if r.ruling else "" for r in rows)
        return Score(
            count["refused"],
            count[Verdict.OVER],
            count[Verdict.NOT_KNOWN],
            len(orders(scene, rows)),
            count[Verdict.NEAR],
        )

    return proposed(scene.members, [cut_of(p) for p in picks], judged)


def _choices(scene: Scene) -> dict[str, Any]:
    by_role = {
        "gear " + " ".join(kinds): [
            ("", gettext("none")),
            *((i.name, i.name) for i in scene.store.values() if i.role in kinds),
        ]
        for kinds in ACCEPTS.values()
    }
    return by_role | {
        "methods": choices_of(methods().values()),
        "cuts": choices_of(cut_types().values()),
        "devices": device_names(),
        "knots": choices_of(factors("knot").values()),
        "slings": choices_of(factors("sling").values()),
        "designs": choices_of(schools("design").values()),
        "notches": [("", gettext("not said")), *choices_of(schools("notch").values())],
        "members": [(n, n or gettext("the stem")) for n in scene.members.names],
        "held": [("lock", gettext("locked off")), ("soft", gettext("held softly")), ("run", gettext("let run"))],
        "settings": settings_named(),
        "spots": [("", gettext("typed or drawn here")), *((s.name, s.name) for s in scene.site.places)],
        "beds": listed("beds"),
        "away": listed("away"),
        "trees": [(f"{TREE}{t.name}", gettext("{name}, another tree").format(name=t.name)) for t in scene.others],
    }


def listed(what: str) -> list[tuple[str, str]]:
    """Choices that are the same everywhere: beds, ways up, anchors of a first line."""
    return choices_in({"beds": BEDS, "ways": WAYS, "anchors": ANCHORS, "away": AWAY}[what])


def method(key: str) -> Method:
    """A method's row: when it fits and what goes wrong."""
    return said(methods()[key], "name", "when", "wrong")


def ways_needing() -> dict[str, str]:
    """Parts of a pick's form that only some ways of taking a piece need, with the keys of those ways."""
    on_lines = " ".join(key for key, way in methods().items() if way.lines)
    hung = " ".join(key for key, way in methods().items() if way.lines or way.point == "hook")
    return {"rope": on_lines, "redirect": on_lines, "gear": hung}


def usual_view(tree: Tree | TreeInput) -> float:
    """Bearing from which the lean is scene in full [rad]."""
    return (tree.lean_azimuth - math.pi / 2.0) % math.tau


def whole_tree(scene: Scene) -> Standing:
    """The tree before anything is cut."""
    return whole(scene.members)


def left_standing(scene: Scene, rows: list[Row]) -> Standing:
    """What stands after the last pick."""
    return rows[-1].after if rows else whole(scene.members)


def standing_mass(scene: Scene, rows: list[Row]) -> float:
    """Mass of what stands after the last pick [kg]."""
    return left_over(scene.members, left_standing(scene, rows))


def entries(tree: Tree) -> tuple[Entry, list[Entry]]:
    """The document's takedown of a tree, empty without one, and the gear it names."""
    plan = plan_for(tree)
    picks = plan.picks
    named = {p[role] for p in picks for role in ROLES if p.get(role)}
    rows = [row for row in rows_of(tree.job.crew) if row.name in named] if named else ()
    takedown = {"picks": picks} | ({"access": plan.access} if plan.access else {}) if picks or plan.access else {}
    return takedown, [gear_entry(row) for row in rows]


@tells_of_use
def planned_with(row: GearItem) -> str:
    """The takedown that names an item of gear, in words; empty without one."""
    for plan in TakedownPlan.objects.filter(tree__job__crew=row.crew_id).select_related("tree"):
        if any(row.name in (p.get(role) for role in ROLES) for p in plan.picks):
            return gettext("the takedown of {name}").format(name=plan.tree.name)
    return ""


@transaction.atomic
def import_entries(tree: Tree, takedown: dict[str, Any]) -> None:
    """Keep the takedown of a document's tree."""
    TakedownPlan.objects.create(tree=tree, picks=with_ids(takedown["picks"]), access=takedown.get("access") or {})


def shares(worked: FreePick | HeldPick) -> Shares | None:
    """Both ties of a piece that has two, or None."""
    return two_ties(worked.piece, worked.pick)


def energy(worked: FreePick) -> float:
    """Energy of a piece at the ground [J]."""
    return fall_energy(worked.piece)


def spread(worked: FreePick) -> float:
    """How far a freely falling piece may come to from under its balance [m]."""
    return drop_reach(worked.piece.reach, worked.piece.cg[2])


def standing(scene: Scene, row: Row) -> tuple[Stands, ...]:
    """Where people on the ground stand at a pick worked out."""
    return stands_of(scene.members, row.worked, scene.site) if row.worked else ()


def people_of(scene: Scene, row: Row) -> tuple[tuple[Stands, ...], list[BaseGeometry]]:
    """Where people on the ground stand at a pick worked out, and the ground they keep off: strips
    of its tight ropes.
    """
    if not row.worked:
        return (), []
    return standing(scene, row), [recoil_of(leg) for leg in legs_of(scene.members, row.worked, scene.site)]


def climber_of(scene: Scene, row: Row) -> Aloft | None:
    """The climber of a pick worked out, or None without one whose places stand."""
    return aloft(scene.members, row.worked, scene.site) if row.worked else None


def ground_force(worked: FreePick) -> Estimate:
    """Mean force on the ground or its bed under a piece that falls [N]."""
    return on_ground(worked.piece, worked.pick)


def other_point(scene: Scene, row: Row) -> Forces | None:
    """The same pick over a fork instead of its block, or the other way round: its forces, or None."""
    if row.held is None or row.step is None:
        return None
    on = row.held.pick.on
    turned = replace(row.held.pick, point=replace(on, fork=not on.fork))
    try:
        other = work(scene.members, row.step, turned, scene.site, swing=False)  # shown without intervals
    except CoreError:
        return None
    return other.forces if isinstance(other, HeldPick) else None


def wraps_table(held: HeldPick) -> list[tuple[Device, Wraps]]:
    """Wraps to hold, let run and lock off on every device: its row, the wraps."""
    forces, pick = held.forces, held.pick
    own = friction_of(pick)
    return [
        (d, wraps_on(forces.peaks, forces.tension_ratio, d, own if d.key == pick.device else None))
        for d in devices().values()
    ]


def device_names() -> list[tuple[str, str]]:
    """Kinds of friction devices: key and name."""
    return choices_of(devices().values())


def settings_named() -> list[tuple[int, str]]:
    """Settings of devices that hold by their setting: number and name."""
    return [(s.number, gettext(s.name)) for d in devices().values() for s in d.settings]


def axial_stiffness_of(rope: Item | None) -> Estimate:
    """Modulus of a pick's rope, or of one nobody chose."""
    return rope.stiffness.axial_stiffness if rope else stiffness_of("", None, None).axial_stiffness


def turns_taken(pick: Pick) -> str:
    """Wraps on a pick's device, or the name of its setting."""
    device = devices()[pick.device]
    named = {s.number: s.name for s in device.settings}
    return named[pick.setting].lower() if named else f"{pick.wraps:g}"


def friction_used(pick: Pick) -> tuple[Estimate, int]:
    """Friction of rope on the pick's device, and how many readings of the crew stand behind it."""
    item = pick.gear.get("device")
    return friction_of(pick), len(item.readings) if item else 0


def access_of(scene: Scene, plan: TakedownPlan) -> tuple[Access, tuple[Limit, ...], Estimate] | None:
    """The way up as the core takes it, its limits and the load on its fork; None where nobody said."""
    way = way_up_of(plan.access)
    if way is None:
        return None
    return way, access_limits(scene.members, way), fork_load(way)


def way_name(way: Access) -> str:
    """A way up in words, with its anchor."""
    return gettext(WAYS[way.way]) + (f", {gettext(ANCHORS[way.anchor])}" if way.way == "throw" else "")


def cut_name(key: str) -> str:
    """Name of a cut."""
    return gettext(cut_types()[key].name)


class CutFigures(NamedTuple):
    """A pick's cut: turn at which it parts [rad], how far its hinge sends it aside [rad], its hinge or step."""

    turns: tuple
    aside: float
    hinge: object
    step: object


def cut_of_pick(scene: Scene, worked: Worked) -> CutFigures:
    """A pick's cut worked out."""
    pick, piece, members = worked.pick, worked.piece, scene.members
    hinge = hinge_aloft(members, piece, pick)
    return CutFigures(
        turns=pick.cut.parts(piece.slope),
        aside=pick.cut.aside() if hinge else 0.0,
        hinge=hinge,
        step=step_aloft(members, worked),
    )


def _whose_way(plan: TakedownPlan, key: str) -> dict[str, str]:
    """Who made of a part of the way up what it is."""
    return whose(plan, read=lambda was: was.access.get(key))


@transaction.atomic
def keep_access(
    scene: Scene, plan: TakedownPlan, values: dict[str, Any], revision: str | None, say: Callable[[str, Any], str]
) -> dict[str, Any]:
    """Save the way up once the core takes it, put together with what others saved; conflicts by key, nothing saved
    then. ``say`` puts a value of a field into words.
    """
    row = TakedownPlan.objects.filter(pk=plan.pk).first() or plan
    base = row.as_of(revision) if row.pk else row
    if base is None and revision != "0":
        return {"__all__": str(TOO_OLD)}
    entry = {k: v for k, v in values.items() if v not in (None, "")}
    found = merged(base.access if base else {}, row.access, entry)
    if found.conflicts:
        return {
            key: clash_text(say(key, both.theirs), _whose_way(row, key), say(key, both.mine))
            for key, both in found.conflicts.items()
        }
    way = way_up_of(found.values)
    if way is not None:
        access_limits(scene.members, way)
    with steps.recorded("takedown", row.tree, gettext("way up changed")):
        row.access = found.values
        row.save()
    return {}
