"""The ground crew's screens: the ruling sentence first, then big figures, the words to say, and where to stand."""

from __future__ import annotations

import math
from functools import partial
from typing import TYPE_CHECKING, Any

from django.utils.text import capfirst
from django.utils.translation import gettext

from apps.briefing.job_presenter import CALLERS, command_said
from apps.briefing.planner import crew_of, has_read, still_signed
from apps.felling.planner import evaluated
from apps.felling.presenter import bench
from apps.phone import planner
from apps.takedown import planner as takedown
from apps.takedown import wording
from apps.takedown.ground_picture import under
from apps.takedown.picture import STAND
from cantrel import quantities
from cantrel.answers import or_broken
from cantrel.drawing import compass, label
from cantrel.limits import limit_said

if TYPE_CHECKING:
    from apps.crews.models import Person
    from apps.jobs.models import Tree
    from apps.phone.planner import Piece
    from apps.takedown.planner import Row, Scene
    from treecore.commands import Command

WIDE, TALL = 390, 330


def listed(tree: Tree, person: Person, system: str) -> dict[str, Any]:
    """All screens of a tree: what is cut, its mass, its verdict, whether it is recorded; and who of the crew signed."""
    done, stands = planner.recorded(tree), still_signed(tree)
    return {
        "screens": [_line(piece, piece.id in done, system) for piece in planner.pieces(tree)],
        "stands": stands,
        "signed": {"last": tree.signoffs.defer("document", "results").first(), "valid": stands},
        "crew": crew_of(tree),
        "have_read": has_read(tree, person),
        "phone": True,
    }


def _line(piece: Piece, done: bool, system: str) -> dict[str, Any]:
    found: dict[str, Any] = {"id": piece.id, "number": piece.number, "what": gettext("The felling"), "done": done}
    row = piece.row
    if row is None:
        return found | {"shape": "unknown" if piece.number else ""}
    mass = label(row.step.piece.mass.value, "mass", system) if row.step else ""
    what = row.entry.get("member") or gettext("Stem")
    return found | {"what": what, "mass": mass, "shape": wording.shape_of(row), "word": wording.verdict_word(row)}


def card(tree: Tree, piece: Piece, system: str) -> dict[str, Any]:
    """One screen."""
    shown = {
        "piece": piece,
        "before": _neighbour(piece.before),
        "after": _neighbour(piece.after),
        "record": planner.recorded(tree).get(piece.id),
        "signed": still_signed(tree),
    }
    if piece.number is None:
        return shown | or_broken(partial(_felling, tree, piece, system), system)
    return shown | _pick(tree, piece, system)


def _neighbour(entry: dict[str, Any] | None) -> dict[str, Any] | None:
    if entry is None:
        return None
    said = gettext("Pick {number}").format(number=entry["number"]) if entry["number"] else gettext("The felling")
    return {"id": entry["id"], "said": said, "what": entry["what"] if entry["number"] else ""}


def _felling(tree: Tree, piece: Piece, system: str) -> dict[str, Any]:
    worked = evaluated(tree, quick=True)
    found = bench(worked, system, tall=TALL)
    return found | {
        "title": gettext("Felling {name}").format(name=tree.name),
        "figures": [_deciding(row) for row in found["decides"]],
        "words": _words(tree, planner.words_of(piece, bool(worked.given.pull))),
        "shape": found["ruling"]["shape"],
        "verdict": found["ruling"]["verdict"],
        "sentence": found["ruling"]["sentence"],
    }


def _deciding(row: dict[str, str]) -> dict[str, str]:
    return {"name": row["name"], "value": row["value"], "unit": row["unit"], "note": row["below"]}


def _pick(tree: Tree, piece: Piece, system: str) -> dict[str, Any]:
    row, scene = piece.row, piece.scene
    if row is None or scene is None:
        return {
            "title": gettext("Pick {number}").format(number=piece.number),
            "broken": gettext("The tree is refused."),
        }
    shape, name = wording.verdict(row, system)
    said = limit_said(row.ruling, system) if row.ruling and not row.error else None
    return {
        "title": row.entry.get("member") or gettext("Stem"),
        "about": _about(row, system),
        "shape": shape,
        "verdict": wording.verdict_word(row),
        "sentence": name if row.error else (said["sentence"] if said else gettext("Keep the ground under it clear.")),
        "figures": _figures(row, system),
        "words": _words(tree, planner.words_of(piece, pulled=False), piece.number),
        "stands": _stands(scene, row, system),
        "drawing": under(scene, row, system, WIDE, TALL),
        "note": row.entry.get("note", ""),
        "talks": row.entry.get("talks", ""),
    }


def _about(row: Row, system: str) -> str:
    piece = row.step.piece if row.step else None
    if piece is None:
        return wording.method_name(row.entry.get("method", takedown.USUAL["method"]))
    return gettext("{mass}, up to {most} · {how} · {goes}").format(
        mass=label(piece.mass.value, "mass", system),
        most=label(piece.mass.high, "mass", system),
        how=wording.method_name(row.entry.get("method", takedown.USUAL["method"])).lower(),
        goes=row.entry.get("landing")
        or row.entry.get("landing_on")
        or gettext("{long} long").format(long=label(piece.length, "length", system)),
    )


def _figures(row: Row, system: str) -> list[dict[str, str]]:
    """Wraps, force in the hand, run, rope out; of a piece that falls its mass, length and where it may come to."""
    if row.held is None:
        return _free(row, system)
    forces, pick = row.held.forces, row.held.pick
    hand = quantities.deciding(gettext("In the hand"), forces.hand, "small_force", system)
    like = gettext("like {mass}; {spread}").format(
        mass=label(planner.like_mass(forces.hand.value), "mass", system), spread=hand["below"]
    )
    device = pick.gear.get("device")
    on = device.name if device else dict(takedown.device_names())[pick.device].lower()
    held = {"lock": gettext("locked off"), "soft": gettext("held softly, no run")}
    run = label(pick.run, "length", system).rpartition("\xa0")
    needed = label(forces.needed, "length", system).rpartition("\xa0")
    runs = pick.held == "run"
    return [
        {
            "name": gettext("Wraps"),
            "value": takedown.turns_taken(pick),
            "unit": "",
            "note": gettext("on {device}").format(device=on),
        },
        {"name": gettext("In the hand"), "value": hand["value"], "unit": hand["unit"], "note": like},
        {
            "name": gettext("Let it run"),
            "value": run[0] if runs else "–",
            "unit": run[2] if runs else "",
            "note": gettext("then slow; do not lock") if runs else held[pick.held],
        },
        {"name": gettext("Rope it takes"), "value": needed[0], "unit": needed[2], "note": _rope(row)},
    ]


def _rope(row: Row) -> str:
    rope = row.held.pick.gear.get("rope")
    return rope.name if rope else gettext("no rope chosen")


def _free(row: Row, system: str) -> list[dict[str, str]]:
    if row.step is None:
        return []
    piece = row.step.piece
    found = [quantities.deciding(gettext("Piece"), piece.mass, "mass", system)]
    found.append(quantities.deciding(gettext("Length"), piece.length, "length", system))
    if row.worked is not None and row.entry.get("method", "") == "free":
        far = takedown.spread(row.worked)
        found.append(quantities.deciding(gettext("May come to, from under it"), far, "length", system))
    return [_deciding(figure) for figure in found]


def _words(tree: Tree, commands: tuple[Command, ...], number: int | None = None) -> list[dict[str, Any]]:
    """What is called and answered, by whom; the first and the one that stops all are read at once."""
    called = partial(_called, tree)
    return [
        command_said(c, called, number or "") | {"key": c.key, "first": c in (commands[0], commands[-1])}
        for c in commands
    ]


def _called(tree: Tree, role: str) -> str:
    return planner.person_for(tree.job, role) or capfirst(str(CALLERS[role]))


def _stands(scene: Scene, row: Row, system: str) -> list[dict[str, str]]:
    """Where each person stands: from the stem, as distance and compass."""
    found = []
    for who in takedown.standing(scene, row):
        east, north = who.place[0] - scene.site.tree_x, who.place[1] - scene.site.tree_y
        far = label(math.hypot(east, north), "length", system)
        where = gettext("{far} {compass} of the stem").format(
            far=far, compass=compass(math.atan2(east, north) % math.tau)
        )
        found.append({"role": who.role, "name": str(STAND[who.role]), "where": where})
    return found
