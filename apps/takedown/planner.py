"""The takedown: picks as entries to the core and back; what a touch, a drag or a button changes."""

import json
import math
from datetime import date

from django.db import transaction

from apps.felling.planner import core_tree
from apps.gear.models import GearItem
from apps.gear.planner import gear_entry, store
from apps.jobs.planner import site_entry
from apps.survey.planner import measured_entry
from apps.takedown.models import TakedownPlan
from cantrel.history import undone
from treecore.errors import NotSolvable
from treecore.formats.plan_document import site_of
from treecore.formats.takedown_entry import ROLES, USUAL, cut_of, pick_row
from treecore.rigging.climbing import hanging
from treecore.rigging.friction import devices
from treecore.rigging.gear import factors, refused
from treecore.rigging.swing import drop_reach
from treecore.schools import schools
from treecore.takedown.aiming import aimed, along_at, changes, proposed
from treecore.takedown.limits import chain, order_rules, ruling_of
from treecore.takedown.members import members_of, place_on
from treecore.takedown.pick import cut_types, fall_energy, methods, two_ties
from treecore.takedown.pieces import left_over, whole

MOST = 120


def plan_for(tree):
    """The tree's takedown; an empty one, not yet saved, if there is none."""
    return TakedownPlan.objects.filter(tree=tree).first() or TakedownPlan(tree=tree, picks=[])


def scene(tree):
    """Members, site and gear store; read once for all picks."""
    core = core_tree(tree)
    entry = measured_entry(tree)
    return {
        "tree": core,
        "members": members_of(core),
        "site": site_of(site_entry(tree.job), entry),
        "store": store(tree.job.crew_id),
    }


def run(seen, picks):
    """Every pick worked out in order on what then stands; one that is refused leaves the tree as it was."""
    members, standing, rows, today = seen["members"], whole(seen["members"]), [], date.today()
    for entry in picks:
        items = tuple(seen["store"][entry[r]] for r in ROLES if entry.get(r) in seen["store"])
        done = pick_row(seen["tree"], seen["site"], json.dumps(entry, sort_keys=True), standing.ends, items, today)
        row = {
            "entry": entry,
            "before": standing,
            "members": members,
            "ruling": ruling_of(done.limits),
        } | done._asdict()
        standing = done.step.after if done.step else standing
        rows.append(row | {"after": standing})
    return rows


def orders(seen, rows):
    """Rules of order that are not kept, by pick number."""
    good = [(i, r) for i, r in enumerate(rows) if r["step"] and r.get("pick")]
    found = order_rules(seen["members"], tuple(r["step"] for _, r in good), tuple(r["pick"] for _, r in good))
    return {good[o.number - 1][0]: o for o in reversed(found)}


def chain_of(row):
    """The chain of gear of a pick worked out."""
    return chain(row["worked"], date.today()) if row["worked"] else ()


def changes_of(seen, row):
    """Small changes of a pick and what each does."""
    if not row["worked"]:
        return ()
    return changes(seen["members"], row["step"], row["pick"], seen["site"], date.today())


@transaction.atomic
def keep(plan, picks):
    """Save the picks; unchanged ones leave no step for undo."""
    before = TakedownPlan.objects.filter(pk=plan.pk).first()
    plan.picks = picks
    if before is None or before.picks != picks:
        plan.save()
    return plan


def undo(plan):
    """Take back the last change; False when there is nothing left."""
    return undone(plan, ("picks",))


def new_pick(seen, picks, member, at):
    """A pick of a cut, with the usual values and what of the last pick carries over."""
    if len(picks) >= MOST:
        raise NotSolvable("pick", f"a takedown has up to {MOST} picks")
    kept = (
        {
            k: v
            for k, v in picks[-1].items()
            if k in ("device_kind", "device_at", "wraps", "knot", "sling_as", "design_school", *ROLES)
        }
        if picks
        else _first_gear(seen)
    )
    return {**USUAL, "member": member, "at_m": at, "method": "free", **kept}


def _first_gear(seen):
    """The first item of each part of the path that may be used today."""
    found = {}
    for item in seen["store"].values():
        if (
            item.role in ("rope", "sling", "block", "device")
            and item.role not in found
            and refused(item, date.today()) is None
        ):
            found[item.role] = item.name
    return found


def placed(seen, standing, view, x, z):
    """Member and place of a touch on the picture."""
    row, along = aimed(seen["members"], standing, view, x, z)
    return seen["members"].names[row], along


def dragged(seen, row, handle, view, x, z):
    """What dragging a handle of the picture to a place means for a pick's entry."""
    members, entry = seen["members"], row["entry"]
    if handle == "tie" and row["step"]:
        piece = row["step"].piece
        along, _ = along_at(members, piece.row, view, x, z, members.end[piece.row])
        return {"tie_m": round(min(max(along - entry["at_m"], 0.0), piece.length), 2)}
    if handle == "cut":
        which = members.rows[entry["member"]]
        return {"at_m": round(along_at(members, which, view, x, z, row["before"].ends[which])[0], 2)}
    if handle == "point":
        which, along = aimed(members, row["after"], view, x, z)
        return {"point": (entry.get("point") or {}) | {"member": members.names[which], "at_m": along}}
    if handle in ("stance", "tie_in"):
        which, along = aimed(members, row["after"], view, x, z)
        name = "tie" if handle == "tie_in" else "stance"
        return {"climber": (entry.get("climber") or {}) | {f"{name}_member": members.names[which], f"{name}_m": along}}
    return {}


def proposed_order(seen, picks):
    """The picks in a usual order."""
    return [picks[i] for i in proposed(seen["members"], [cut_of(p) for p in picks])]


def choices(seen):
    """Choices of the pick's form."""
    by_role = {
        role: [("", "none"), *((i.name, i.name) for i in seen["store"].values() if i.role == role)] for role in ROLES
    }
    return by_role | {
        "method": [(m.key, m.name) for m in methods().values()], "cut": [(k, name) for k, (name, _) in cut_types().items()],
        "device_kind": [(d.key, d.name) for d in devices().values()], "knot": [(f.key, f.name) for f in factors("knot").values()],
        "sling_as": [(f.key, f.name) for f in factors("sling").values()], "design_school": [(s.key, s.name) for s in schools("design").values()],
        "members": [(n, n or "the stem") for n in seen["members"].names],
    }  # fmt: skip


def method(key):
    """A method's row: when it fits and what goes wrong."""
    return methods()[key]


def usual_view(tree):
    """Bearing from which the lean is seen in full [rad]."""
    return (tree.lean_azimuth - math.pi / 2.0) % math.tau


def left_standing(seen, rows):
    """What stands after the last pick."""
    return rows[-1]["after"] if rows else whole(seen["members"])


def standing_mass(seen, rows):
    """Mass of what stands after the last pick [kg]."""
    return left_over(seen["members"], left_standing(seen, rows))


def entries(tree):
    """The document's picks of a tree, and the gear they name."""
    picks = plan_for(tree).picks
    named = {p[role] for p in picks for role in ROLES if p.get(role)}
    rows = GearItem.objects.filter(crew=tree.job.crew_id, name__in=named) if named else ()
    return picks, [gear_entry(row) for row in rows]


@transaction.atomic
def import_entries(tree, picks):
    """Keep the picks of a document's tree."""
    TakedownPlan.objects.create(tree=tree, picks=list(picks))


def shares(worked):
    """Both ties of a piece that has two, or None."""
    return two_ties(worked.piece, worked.pick)


def energy(worked):
    """Energy of a piece at the ground [J]."""
    return fall_energy(worked.piece)


def spread(worked):
    """How far a freely falling piece may come to from under its balance [m]."""
    return drop_reach(worked.piece.reach, worked.piece.cg[2])


def climber_line(row):
    """The climber's line worked out, or None without one whose places stand."""
    climber, members = row["pick"].climber, row["members"]
    if climber is None or not {climber.tie_member, climber.stance_member} <= set(members.rows):
        return None
    tie, stance = (
        place_on(members, members.rows[m], at)
        for m, at in ((climber.tie_member, climber.tie_at), (climber.stance_member, climber.stance_at))
    )
    return hanging(tie, stance, climber.based)
