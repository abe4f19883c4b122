"""The brief of a whole job as it is read, on a screen and on paper."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from apps.briefing.presenter import calls, map_link
from apps.felling.presenter import bench
from apps.gear.planner import state as item_state
from apps.jobs.planner import common_name
from apps.takedown import brief_rig, wording
from apps.takedown.brief import sheet
from apps.takedown.ground_picture import under
from apps.takedown.picture import STAND
from cantrel import quantities
from cantrel.drawing import fitted, label, marked
from cantrel.labels import Placer, beside
from cantrel.limits import PARTS
from cantrel.quantities import explain

if TYPE_CHECKING:
    from collections.abc import Callable

    from apps.briefing.job_planner import BriefTree, JobBrief
    from treecore.commands import Command
    from treecore.takedown.packing import Packed

WIDE, TALL = 700, 520
SMALL = 150, 112
ROLES = PARTS | {
    "sling": gettext_lazy("sling at the point"),
    "block": gettext_lazy("block or ring"),
    "device": gettext_lazy("friction device"),
}
GROUPS = {
    "person": gettext_lazy("Everybody"),
    "saw": gettext_lazy("Saws"),
    "climber": gettext_lazy("In the tree"),
    "rigging": gettext_lazy("Rigging"),
    "site": gettext_lazy("Site"),
}
CALLERS = {
    "climber": gettext_lazy("climber"),
    "device": gettext_lazy("at the device"),
    "ground": gettext_lazy("on the ground"),
    "charge": gettext_lazy("who fells"),
    "pull": gettext_lazy("at the pull line"),
    "anybody": gettext_lazy("anybody"),
    "everybody": gettext_lazy("everybody"),
}


def shown(brief: JobBrief, system: str, step: Callable[[str, int, int], None] = lambda *said: None) -> dict[str, Any]:
    """Everything the brief of a job shows; ``step`` is told which tree is drawn, how many are and of how many."""
    trees = []
    for number, one in enumerate(brief.trees):
        step(one.tree.name, number, len(brief.trees))
        trees.append(_tree(one, system))
    return {
        "job": brief.job,
        "trees": trees,
        "site": _site(brief, system),
        "items": [{"row": i, "after": i.after} for i in brief.items],
        "packed": [_packed(packed, brief, system) for packed in brief.packing.items],
        "lacking": [(ROLES[role], ", ".join(map(str, picks))) for role, picks in brief.packing.lacking],
        "checks": _checks(brief),
        "commands": [command_said(c, lambda role: str(CALLERS[role]), "…") for c in brief.commands],
        "calls": calls(brief.job.emergency_number),
        "map_link": map_link(brief.job),
        "place": brief.place,
        "roles": list(brief.job.roles.all()),
    }


def _tree(one: BriefTree, system: str) -> dict[str, Any]:
    found: dict[str, Any] = {
        "tree": one.tree,
        "species": common_name(one.tree),
        "method": one.method,
        "signed": one.signed,
        "refused": explain(one.refused, system) if one.refused else "",
        "picks": _picks(one, system),
        "takedown": sheet(one.takedown, system) if one.takedown else None,
    }
    if one.felling is not None:
        felled = bench(one.felling, system, tall=330)
        keys = ("hinge_length", "back_offset", "needed", "available", "gust", "zone")
        figures = one.felling.result.figures
        found["felling"] = felled | {
            "key_figures": [quantities.figure(figures[k], system) for k in keys if k in figures]
        }
    return found


def _picks(one: BriefTree, system: str) -> list[dict[str, Any]]:
    if one.takedown is None or not one.takedown.rows:
        return []
    return [_pick(one.takedown.scene, number, row, system) for number, row in enumerate(one.takedown.rows, start=1)]


def _pick(scene: Any, number: int, row: Any, system: str) -> dict[str, Any]:
    piece, entry = row.step.piece if row.step else None, row.entry
    shape, said = wording.verdict(row, system)
    facts = dict(brief_rig.short(row, system))
    return {
        "number": number,
        "what": entry.get("member") or gettext("stem"),
        "at": label(entry["at_m"], "length", system),
        "mass": label(piece.mass.value, "mass", system) if piece else "–",
        "most": label(piece.mass.high, "mass", system) if piece else "",
        "method": wording.method_name(entry.get("method", "butt")),
        "shape": shape,
        "verdict": wording.verdict_word(row),
        "said": said,
        **facts,
        "drawing": under(scene, row, system, *SMALL) if row.held or entry.get("method") == "free" else None,
    }


def _site(brief: JobBrief, system: str) -> dict[str, Any]:
    """The site with everything that comes down, swings or may recoil, and who stands where."""
    areas = brief.areas
    spots = [p for shape in (*areas.drops, *areas.swings, *areas.recoils) for p in shape]
    spots += [place for _, _, place in areas.people] + [place for _, place in areas.stems]
    spots = spots or [(0.0, 0.0)]
    xs, ys = [x for x, _ in spots], [y for _, y in spots]
    frame = fitted(WIDE, TALL, min(xs) - 4.0, max(xs) + 4.0, min(ys) - 4.0, max(ys) + 4.0, margin=10)
    at = lambda place: (frame.x(place[0]), frame.y(place[1]))  # noqa: E731
    placer = Placer(WIDE, TALL)
    targets = marked(frame, brief.targets, (), placer)
    stems = beside(placer, [(name, name, at(place), "start") for name, place in areas.stems], 8.0)
    first = {role: place for _, role, place in reversed(areas.people)}
    said = [
        (role, str(STAND[role]) if first[role] == place else "", at(place), "start") for _, role, place in areas.people
    ]
    people = beside(placer, said, 10.0)
    return {
        "frame": frame,
        "targets": targets,
        "drops": [frame.points(shape) for shape in areas.drops],
        "swings": [frame.points(shape) for shape in areas.swings],
        "recoils": [frame.points(shape) for shape in areas.recoils],
        "stems": stems,
        "people": people,
        "bar": frame.bar(system),
    }


def _packed(packed: Packed, brief: JobBrief, system: str) -> dict[str, Any]:
    row = next((row for row in brief.job.crew.gear.all() if row.name == packed.item.name), None)
    why = item_state(row)[0] if row else gettext("not in the store")
    found = {
        "name": packed.item.name,
        "roles": ", ".join(str(ROLES.get(role, role)) for role in packed.roles),
        "picks": len(packed.picks),
        "why": why,
        "length": label(packed.item.length, "length", system) if packed.item.length is not None else "",
    }
    if packed.longest is not None:
        found["longest"] = gettext("{long} for pick {number}").format(
            long=label(packed.longest, "length", system), number=packed.of_pick
        )
        spare = packed.spare
        found["spare"] = "" if spare is None else label(spare, "length", system)
        found["short"] = spare is not None and spare < 0.0
    return found


def _checks(brief: JobBrief) -> list[dict[str, Any]]:
    groups: dict[str, list[str]] = {}
    for check in brief.checks:
        groups.setdefault(check.group, []).append(gettext(check.name))
    return [{"name": GROUPS[group], "rows": rows} for group, rows in groups.items()]


def command_said(command: Command, called: Callable[[str], str], number: int | str) -> dict[str, str]:
    """A command as it is read: ``called`` names who calls and answers, ``number`` the pick."""
    return {
        "caller": called(command.caller),
        "said": gettext(command.said).format(number=number),
        "answerer": called(command.answerer),
        "reply": gettext(command.reply),
        "signal": gettext(command.signal),
        "meaning": gettext(command.meaning),
    }
