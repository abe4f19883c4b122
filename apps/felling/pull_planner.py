"""The pulling system of a plan: its entry changed by a drag, a button or a typed form, and worked out by the core."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, NamedTuple

from django.utils.translation import gettext

from apps.felling.planner import ANCHORS, core_plan, evaluated, keep_fields
from apps.gear.planner import rows_of, state
from apps.jobs.planner import site_entry
from cantrel.rows import new_id
from cantrel.words import choices_in, choices_of, said
from treecore.document.codec import decode
from treecore.document.felling import SystemEntry
from treecore.errors import BadDocument, NotSolvable
from treecore.features import feature_kinds
from treecore.felling.lines import system_travel
from treecore.felling.pull_needed import NeededPull, needed_pull
from treecore.felling.turned import AT
from treecore.formats.felling_entry import system_entry
from treecore.formats.pull_start import End, Puller, RopeOf, guy_laid_out, pull_laid_out
from treecore.rigging.pull_on_site import rigged_figures, rope_needs
from treecore.rigging.pulling import joins, part_kinds, tractions
from treecore.rigging.readymade import NAMES
from treecore.rigging.tackle import knots
from treecore.schools import schools

if TYPE_CHECKING:
    from apps.felling.bench_planner import WorkedPlan
    from apps.felling.models import FellingPlan
    from apps.felling.planner import PlanScene
    from apps.jobs.models import Job, Tree
    from treecore.felling.inputs import FellingInput
    from treecore.figures import Figure
    from treecore.rigging.pull_on_site import Rigged, RopeNeed
    from treecore.rigging.pulling import Named

ROPES = ("rope", "tag", "leg")
PULLER_NAMES = {"people": "Hands", "winch": "Winch", "vehicle": "Truck"}
FRESH = {"x_m": 0.0, "y_m": 0.0, "height_m": 0.6}


class RigWorked(NamedTuple):
    """A pulling system in its plan: the plan and the rig worked out, what each rope must be, its travel [m]."""

    worked: WorkedPlan
    rigged: Rigged
    needs: tuple[RopeNeed, ...]
    figures: tuple[Figure, ...]
    travel: float


def choices() -> dict[str, Any]:
    """Kinds, grounds, joins, design factors and ready-made systems for selects and buttons."""
    return {
        "kinds": choices_of(part_kinds().values()),
        "grounds": choices_of(tractions().values()),
        "joins": choices_of(joins().values()),
        "knots": choices_in({key: name for key, (name, _) in knots().items()}),
        "designs": choices_of(schools("design").values()),
        "ready": choices_in(NAMES),
    }


def sent(entry: Any) -> dict[str, Any]:
    """A system as a page sent it along; refused where it is not what an entry declares."""
    if not isinstance(entry, dict):
        raise BadDocument(field="entry", why="it is no pulling system")
    decode(SystemEntry, entry)
    return with_ids(entry)


def with_ids(entry: dict[str, Any]) -> dict[str, Any]:
    """A system whose parts and ropes all have a name that stays; one from before they had is named by its place."""
    for key, letter in (("parts", "p"), ("ropes", "r")):
        for i, row in enumerate(entry[key]):
            row.setdefault("id", f"{letter}{i}")
    return entry


def named(entry: dict[str, Any], key: str, name: str) -> dict[str, Any]:
    """A part or rope by its id."""
    row = next((row for row in entry[key] if row["id"] == name), None)
    if row is None:
        raise NotSolvable(what="pull", why="this {key} is no longer there", key=key[:-1])
    return row


def join_rows() -> list[Named]:
    """Ways to join ropes: name, strength kept, whether they come undone."""
    return [said(j, "name", "words") for j in joins().values() if j.key != "none"]


def anchors(job: Job) -> list[dict[str, Any]]:
    """Anchors drawn on the site: name, kind, place, trunk."""
    found = []
    for row in site_entry(job).get("targets", ()):
        if feature_kinds()[row["kind"]].key in ANCHORS:
            x, y = row["outline_m"][0]
            found.append({"name": row["name"], "kind": row["kind"], "x": x, "y": y, "trunk": row.get("diameter_m")})
    return found


def ends(tree: Tree) -> list[End]:
    """Everything on the job a line can end at: anchors and trees drawn on the site, vehicles, the job's other trees."""
    drawn = [End(a["name"], (a["x"], a["y"]), a["trunk"]) for a in anchors(tree.job)]
    taken = {end.name for end in drawn}
    others = [t for t in tree.job.trees.all() if t.pk != tree.pk and t.name not in taken]
    return drawn + [End(t.name, (t.x, t.y), t.diameter) for t in others]


def ropes(job: Job) -> list[RopeOf]:
    """Ropes of the store that may be used today."""
    rows = [row for row in rows_of(job.crew) if row.kind in ROPES and not state(row)[0]]
    return [RopeOf(row.name, row.length, row.strength) for row in rows]


def pullers(tree: Tree) -> list[tuple[str, str]]:
    """Who or what can pull: people, a winch, a truck, and the vehicles drawn on the site by name."""
    usual = [("people", gettext("people")), ("winch", gettext("winch")), ("vehicle", gettext("truck or tractor"))]
    return usual + [(f"vehicle {a['name']}", a["name"]) for a in anchors(tree.job) if a["kind"] == "anchor_vehicle"]


class Offers(NamedTuple):
    """What lines can be laid out with, as choices: ends, ropes, and who pulls."""

    ends: list[tuple[str, str]]
    ropes: list[tuple[str, str]]
    pullers: list[tuple[str, str]]


def offers(tree: Tree) -> Offers:
    """What lines of a tree can be laid out with."""
    named = [end.name for end in ends(tree)], [rope.name for rope in ropes(tree.job)]
    found = [[(name, name) for name in names] for names in named]
    return Offers(found[0], found[1], pullers(tree))


def _puller(tree: Tree, key: str) -> Puller:
    kind, _, name = key.partition(" ")
    place = next(((a["x"], a["y"]) for a in anchors(tree.job) if a["name"] == name), None)
    if name and place is None:
        raise NotSolvable(what="pull", why="“{name}” is no longer on the site", name=name)
    return Puller(kind, name or PULLER_NAMES[kind], place)


def laid_out(tree: Tree, plan: FellingPlan, design: str, anchor: str, by: str, rope: str) -> dict[str, Any]:
    """A ready-made system to a named anchor, pulled by whom it is said, giving what the plan needs."""
    given = core_plan(tree, plan)
    chosen = next((r for r in ropes(tree.job) if r.name == rope), None)
    entry = system_entry(pull_laid_out(given, design, ends(tree), anchor, _puller(tree, by), chosen))
    for key in ("parts", "ropes"):
        for row in entry[key]:
            row["id"] = new_id(key[0])
    return entry


GUY = ("tie", "azimuth", "distance", "anchor", "limit", "tended", "taut")
GUY_TACKLE = ("strength", "owned", "trunk")


def guyed(tree: Tree, plan: FellingPlan, anchor: str, rope: str, tended: bool) -> dict[str, Any]:
    """Values of a plan with a guy line to a named anchor."""
    end = next((e for e in ends(tree) if e.name == anchor), None)
    if end is None:
        raise NotSolvable(what="anchor", why="“{name}” is no longer on the site", name=anchor)
    chosen = next((r for r in ropes(tree.job) if r.name == rope), None)
    guy = guy_laid_out(core_plan(tree, plan), end, chosen, tended)
    values = {f"guy_{name}": getattr(guy, name) for name in GUY}
    return values | {f"guy_{name}": getattr(guy.tackle, name) for name in GUY_TACKLE}


def keep_guy(tree: Tree, plan: FellingPlan, values: dict[str, Any], revision: str | None) -> dict[str, str]:
    """Save a plan's guy line; what is said where somebody else changed it since."""
    for name, value in values.items():
        setattr(plan, name, value)
    evaluated(tree, plan)
    return keep_fields(tree, plan, revision, tuple(values), lambda _, value: str(value))


def needed(tree: Tree, plan: FellingPlan) -> NeededPull:
    """The pull a plan needs."""
    return needed_by(core_plan(tree, plan))


def needed_by(given: FellingInput) -> NeededPull:
    """The pull a plan needs, as the core takes the plan."""
    return needed_pull(given)


def _stand_on(part: dict[str, Any], anchor: dict[str, Any]) -> None:
    """A part dropped at an anchor of the site takes its place and its trunk."""
    hand = part["kind"] in ("people", "winch", "vehicle")
    if not hand and math.dist((anchor["x"], anchor["y"]), (part["x_m"], part["y_m"])) < AT:
        part["x_m"], part["y_m"] = anchor["x"], anchor["y"]
        part["trunk_m"] = anchor["trunk"] or part.get("trunk_m")


def moved(part: dict[str, Any], x: float, y: float, job: Job) -> None:
    """A part put at a place; near an anchor of the site it stands on that."""
    part["x_m"], part["y_m"] = round(x, 2), round(y, 2)
    for anchor in anchors(job):
        _stand_on(part, anchor)


def added(entry: dict[str, Any], kind: str, tree: Tree) -> None:
    """A new part of a kind beside the tree, with a name of its own."""
    if kind not in part_kinds():
        raise NotSolvable(what="pull", why="“{kind}” is no kind of part", kind=kind)
    name = part_kinds()[kind].name
    names = {p["name"] for p in entry["parts"]}
    free = next(n for n in (name, *(f"{name} {i}" for i in range(2, 60))) if n not in names)
    spot = FRESH | {"x_m": round(tree.x + 6.0, 2), "y_m": round(tree.y - 6.0, 2)}
    entry["parts"].append({"id": new_id("p"), "name": free, "kind": kind} | spot)


def dropped(entry: dict[str, Any], part: dict[str, Any]) -> None:
    """Take a part off, out of every rope it is on; ropes left with one end go too."""
    entry["parts"].remove(part)
    name = part["name"]
    for rope in entry["ropes"]:
        rope["path"] = [p for p in rope["path"] if p != name]
    entry["ropes"] = [r for r in entry["ropes"] if len(r["path"]) > 1]


def new_rope(entry: dict[str, Any]) -> None:
    """A rope from the first part to the last, to be led by typing its way."""
    names = [p["name"] for p in entry["parts"]]
    if len(names) < 2:
        raise NotSolvable(what="pull", why="a second rope needs two parts to run between")
    taken = {r["name"] for r in entry["ropes"]}
    name = next(gettext("Rope {i}").format(i=i) for i in range(2, 40) if gettext("Rope {i}").format(i=i) not in taken)
    entry["ropes"].append(
        {
            "id": new_id("r"),
            "name": name,
            "path": [names[0], names[-1]],
            "owned_m": None,
            "strength_N": None,
            "join": "none",
            "knot": "unknown",
        }
    )


def renamed(entry: dict[str, Any], before: dict[str, Any]) -> None:
    """Carry new names of parts and ropes into paths and grips."""
    parts = {old["name"]: new["name"] for old, new in zip(before["parts"], entry["parts"], strict=False)}
    for rope in entry["ropes"]:
        rope["path"] = [parts.get(name, name) for name in rope["path"]]
    ropes = {old["name"]: new["name"] for old, new in zip(before["ropes"], entry["ropes"], strict=False)}
    for part in entry["parts"]:
        part["on"] = ropes.get(part.get("on", ""), part.get("on", ""))


def work(
    tree: Tree,
    plan: FellingPlan,
    entry: dict[str, Any],
    seen: PlanScene,
) -> RigWorked:
    """The system worked out in its plan: the core's input and result, the rig, its ropes, its figures."""
    plan.system = entry
    worked = evaluated(tree, plan, seen)
    given, result = worked
    rigged = given.rigged
    if rigged is None:
        raise NotSolvable(what="pull", why="there is no pulling system on this plan")
    way = system_travel(given, rigged, result.estimates)
    return RigWorked(worked, rigged, rope_needs(rigged, way), rigged_figures(rigged, given.lay), way)


def keep(tree: Tree, plan: FellingPlan, entry: dict[str, Any] | None, revision: str | None) -> dict[str, str]:
    """Save the plan with this system, or without one; what is said where somebody else changed it since."""
    plan.system = entry
    own = gettext("a pulling system of one’s own")
    return keep_fields(tree, plan, revision, ("system",), lambda _, system: own if system else "")
