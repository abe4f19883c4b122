"""The takedown drawn: the tree as it stands at a pick, the piece, its rope and way, the climber; from the side and
above.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from apps.jobs.art_presenter import Length, art
from apps.jobs.presenter import HEIGHT, WIDTH, frame_for
from apps.takedown.drawing_planner import cuts_seen, fork_of, ground_view, side_view, stands_beside, whole_view
from apps.takedown.planner import USUAL, usual_view
from cantrel.drawing import compass, fitted, label, marked, spaced
from cantrel.labels import Placer, beside, fanned, named
from cantrel.limits import PARTS, SHAPES, SHORT_WORDS, VERDICTS, gear_refused
from cantrel.quantities import raw
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from collections.abc import Callable

    from apps.takedown.drawing_planner import ClimberSeen, HeldAbove, Rope, Wood
    from apps.takedown.planner import Row, Scene
    from cantrel.art.tree import Art
    from cantrel.drawing import Frame
    from treecore.site import Site
    from treecore.takedown.order import Order
    from treecore.takedown.pieces import Standing


def _drawer(frame: Frame) -> Callable[..., Any]:
    """Places of a drawing in metres as places of the picture."""
    return lambda place: (frame.x(place[0]), frame.y(place[1]))


def _wood(rows: tuple[Wood, ...], frame: Frame, met: frozenset[str] = frozenset()) -> list[dict[str, Any]]:
    return [
        {
            "points": frame.points(w.corners),
            "style": w.style,
            "name": w.name or gettext("stem"),
            "met": w.name in met,
        }
        for w in rows
    ]


def _art(scene: Scene, drawn: Any, frame: Frame) -> Art:
    """The tree as it is drawn: what stays, and what this pick takes off."""
    rows = [(w, w.style) for w in drawn.kept] + [(w, "off") for w in drawn.off]
    lengths = [
        Length(w.name, *w.chord, w.widths, style, w.leafy, w.part, w.deep, w.style == "stem") for w, style in rows
    ]
    return art(scene.tree, lengths, frame)


def _line(places: tuple[Any, ...], at: Callable[..., Any]) -> str:
    return " ".join("{},{}".format(*at(place)) for place in places)


def _ends(view: float) -> dict[str, str]:
    """Which way is left and right for someone who faces a bearing."""
    turn = math.pi / 2.0
    return {"left": compass((view - turn) % math.tau), "right": compass((view + turn) % math.tau)}


SIDE, TALL = 568, 496  # width and height of the bench's picture from a side [points]
ABOVE = 280  # width of the one from above, as tall as that from a side [points]


def _close(places: Any) -> Any:
    """A frame round the piece, its rope and the climber."""
    xs, zs = zip(*places, strict=True)
    return fitted(SIDE, TALL - 30, min(xs) - 1.2, max(xs) + 1.2, min(zs) - 1.2, max(zs) + 1.2, margin=20)


def elevation(scene: Scene, row: Row, view: float, system: str, start: Standing, near: bool = False) -> dict[str, Any]:
    """The tree as it stands at a pick, seen from a side; as it is left where there is none."""
    drawn = side_view(scene, row, view, start)
    frame = _close(drawn.near) if near and drawn.near else frame_for(scene.tree, SIDE, TALL)
    at = _drawer(frame)
    shown = {
        "frame": frame,
        "width": SIDE,
        "height": TALL,
        "art": _art(scene, drawn, frame),
        "kept": _wood(drawn.kept, frame, drawn.met),
        "off": _wood(drawn.off, frame),
        "ground": frame.y(0),
        "bar": frame.bar(system),
        "view": round(math.degrees(view)) % 360,
    } | _ends(view)
    if drawn.cg:
        shown |= {"cg": at(drawn.cg), "cut": at(drawn.cut), "mass": label(row.step.piece.mass.value, "mass", system)}
    if drawn.rope:
        shown |= _rigged(drawn.rope, at, system) | {"arrow": _arrow(drawn.rope, at, system)}
    if drawn.climber:
        shown["climber"] = _climber(drawn.climber, at)
    placer, marks = _paper(shown), _knobs(shown)
    ruled = str(row.ruling.about.name) if row and row.ruling and row.ruling.verdict is not Verdict.WITHIN else ""
    return shown | {
        "knobs": _spoken(fanned(placer, [k for k in marks if k[0] not in _TEXTS]), row, system),
        "texts": beside(placer, [k for k in marks if k[0] in _TEXTS]),
        "beside": _beside(scene, view, frame, placer, ruled),
    }


_SLIVER = 24.0  # what is seen of a cropped thing narrower than this is not named [points]


def _beside(scene: Scene, view: float, frame: Frame, placer: Placer, ruled: str) -> list[dict[str, Any]]:
    """What stands round the tree, as it is seen behind or before it; the one that rules the pick is marked."""
    shown = []
    for thing in stands_beside(scene, view):
        left, right, top, foot = frame.x(thing.left), frame.x(thing.right), frame.y(thing.height), frame.y(0.0)
        if right < 2.0 or left > SIDE - 2.0 or (thing.line and top > TALL):
            continue
        box = (max(left, 2.0), max(top, 2.0), min(right, SIDE - 2.0), foot)
        if thing.line:
            box = (box[0], top, box[2], max(frame.y(z) for _, z in thing.line))
        sliver = (left < 2.0 or right > SIDE - 2.0) and box[2] - box[0] < _SLIVER
        shown.append(
            {
                "name": thing.name,
                "kind": thing.kind,
                "hit": thing.name == ruled,
                "points": frame.points(
                    thing.line
                    or [(thing.left, 0.0), (thing.left, thing.height), (thing.right, thing.height), (thing.right, 0.0)]
                ),
                "label": None if sliver else named(placer, thing.name, box, thing.name == ruled or bool(thing.line)),
            }
        )
    return shown


def _spoken(knobs: list[dict[str, Any]], row: Row | None, system: str) -> list[dict[str, Any]]:
    """Handles with what each says aloud: where it is, and the verdict of the pick."""
    if row is None:
        return knobs
    entry, climber = row.entry, row.entry.get("climber") or {}
    places = {
        "cut": entry.get("at_m"),
        "tie": entry.get("tie_m", USUAL["tie_m"]),
        "point": (entry.get("point") or {}).get("at_m"),
        "redirect": (entry.get("redirect") or {}).get("at_m"),
        "tie_in": climber.get("tie_m"),
        "stance": climber.get("stance_m"),
        "second_in": (climber.get("second") or {}).get("at_m"),
    }
    verdict = VERDICTS[row.ruling.verdict] if row.ruling else VERDICTS[Verdict.WITHIN]
    for knob in knobs:
        where = places.get(knob["name"])
        at = label(where, "length", system) if where is not None else ""
        knob["spoken"] = ", ".join(str(part) for part in (knob["label"], at, verdict) if part)
    return knobs


def _paper(shown: dict[str, Any]) -> Placer:
    """The picture's paper, with what no label may lie on taken: ropes, force, edges."""
    placer = Placer(SIDE, TALL)
    foot = TALL - 34.0
    placer.take((0.0, 0.0, 110.0, 42.0), (SIDE - 150.0, 0.0, SIDE, 58.0), (0.0, foot, 130.0, TALL))
    if shown.get("point"):
        placer.along([(float(x), float(y)) for x, y in (place.split() for place in shown["rope"].split("L"))])
    if shown.get("arrow"):
        placer.along([shown["arrow"]["from"], shown["arrow"]["to"]], 5.0)
    return placer


_TEXTS = ("force", "mass", "weak")  # labels of what is drawn without a handle


def _knobs(shown: dict[str, Any]) -> list[Any]:
    """Handles of the picture: name, label, place, side of its label."""
    climber, arrow = shown.get("climber") or {}, shown.get("arrow")
    weak = shown.get("weak")
    rows = [
        (
            "weak",
            gettext("bends most: {get}").format(get=shown.get("weakly")),
            weak and (shown["weakat"] + 27, weak),
            "start",
        ),
        ("mass", shown.get("mass"), shown.get("cg"), "start"),
        ("force", arrow and arrow["text"], arrow and arrow["to"], "start"),
        ("cut", gettext("Cut"), shown.get("cut"), "end"),
        ("tie", gettext("Tie"), shown.get("tie"), "start"),
        ("point", gettext("Rigging point"), shown.get("point") if shown.get("own") else None, "start"),
        ("redirect", gettext("Led over"), shown.get("led"), "start"),
        ("tie_in", gettext("Tie-in"), climber.get("tie") if climber.get("own") else None, "end"),
        ("stance", gettext("Climber"), climber.get("stance"), "end"),
        ("second_in", gettext("Second tie-in"), climber.get("second") if climber.get("second_own") else None, "end"),
    ]
    return [row for row in rows if row[2]]


def _rigged(rope: Rope, at: Callable[..., Any], system: str) -> dict[str, Any]:
    """Rope, point, and the way of the piece."""
    return {
        "tie": at(rope.tie),
        "legs": [(*at(a), *at(b)) for a, b in rope.legs],
        "point": at(rope.point),
        "device": at(rope.device),
        "own": rope.own,
        "led": at(rope.led) if rope.led else None,
        "rope": "L".join("{} {}".format(*at(place)) for place in rope.rope),
        "far": (*at(rope.far[0]), *at(rope.far[1])) if rope.far else None,
        "sweptside": _line(rope.swept, at),
        "way": _line(rope.way, at),
        "ghosts": [(*at(b), *at(t)) for b, t in rope.ghosts],
        "weak": at((0.0, rope.weak))[1] if rope.weak is not None else None,
        "weakat": round(at((0.0, 0.0))[0]),
        "weakly": label(rope.stress, "fine_strength", system) if rope.stress is not None else "",
    }


_ARROW = 74.0  # points on the picture for the force on the rigging point


def _arrow(rope: Rope, at: Callable[..., Any], system: str) -> dict[str, Any]:
    """The force on the rigging point as an arrow, and its parts along and across what carries it."""
    x, y = at(rope.point)

    def end(share: Any) -> Any:
        return round(x + share[0] * _ARROW, 1), round(y - share[1] * _ARROW, 1)

    said = label(rope.force, "force", system)
    return {"from": (x, y), "to": end(rope.push), "corner": end(rope.corner), "text": said}


def way_up(scene: Scene, access: dict[str, Any], system: str) -> dict[str, Any]:
    """The whole tree with the first line over its fork."""
    drawn = whole_view(scene, usual_view(scene.tree))
    frame = frame_for(scene.tree)
    shown = {
        "width": WIDTH,
        "height": HEIGHT,
        "art": _art(scene, drawn, frame),
        "kept": _wood(drawn.kept, frame),
        "ground": frame.y(0),
        "bar": frame.bar(system),
    }
    fork = fork_of(scene, access, drawn.view)
    if fork is None:
        return shown
    (x, y), foot = _drawer(frame)(fork), frame.y(0.0)
    line = f"{x - 14} {foot}L{x} {y}L{x + 14} {foot}"
    return shown | {"fork": (x, y), "line": line, "high": label(fork[1], "length", system)}


def numbered(scene: Scene, rows: list[Row], system: str) -> dict[str, Any]:
    """The whole tree with every cut at its place, numbered in order."""
    view = usual_view(scene.tree)
    drawn, (ends, places) = whole_view(scene, view), cuts_seen(scene, rows, view)
    xs = [0.0, *(x for x, _ in ends)]
    frame = fitted(WIDTH, HEIGHT, min(xs) - 0.5, max(xs) + 0.5, -0.8, max(z for _, z in ends) + 0.3, margin=12)
    at = _drawer(frame)
    cuts = [(str(n), str(n), at(place), "start" if n % 2 else "end") for n, place in places.items()]
    return {
        "width": WIDTH,
        "height": HEIGHT,
        "art": _art(scene, drawn, frame),
        "kept": _wood(drawn.kept, frame),
        "ground": frame.y(0),
        "bar": frame.bar(system),
        "cuts": spaced(cuts, WIDTH, HEIGHT),
    } | _ends(view)


def _climber(seen: ClimberSeen, at: Callable[..., Any]) -> dict[str, Any]:
    return {
        "stance": at(seen.stance),
        "tie": at(seen.tie),
        "second": at(seen.second) if seen.second else None,
        "slip": _line(seen.slip, at),
        "own": seen.own,
        "second_own": seen.second_own,
    }


def above(scene: Scene, row: Row, system: str) -> dict[str, Any]:
    """The ground under a pick: targets, the swept way or where a free piece may come to, rope, landing, notch."""
    site, drawn = scene.site, ground_view(scene, row)
    frame = _around(site, [*drawn.moves, *drawn.keep, *(place for _, place, _ in drawn.people)])
    at = _drawer(frame)
    placer = Placer(frame.width, frame.height, shown=ABOVE)
    placer.take((0.0, 0.0, 110.0, 24.0), (0.0, frame.height - 30.0, 120.0, float(frame.height)))
    placer.take((ABOVE - 40.0, TALL - 66.0, ABOVE, TALL))
    knobs = fanned(placer, _handles_above(drawn.held, at)) if drawn.held else []
    people = [(str(STAND[role]), str(STAND[role]), at(place), "start") for role, place, _ in drawn.people]
    placed = beside(placer, people)
    shown = {
        "knobs": knobs,
        "frame": frame,
        "stem": (frame.x(site.tree_x), frame.y(site.tree_y)),
        "swept": frame.points(drawn.moves),
        "bar": frame.bar(system),
        "targets": marked(frame, site.targets, drawn.hit, placer),
        "others": [{"at": at((t.east + site.tree_x, t.north + site.tree_y)), "name": t.name} for t in scene.others],
        "people": [row | {"said": said} for row, (_, _, said) in zip(placed, drawn.people, strict=True)],
        "strips": [frame.points(strip) for strip in drawn.strips],
    }
    if drawn.climber:
        shown["climber"] = (*at(drawn.climber[0]), *at(drawn.climber[1]))
    if drawn.bed:
        shown["bed"] = (*at(drawn.bed[0]), frame.size(drawn.bed[1]))
    return shown | (_from_above(drawn.held, at) if drawn.held else {})


STAND = {"device": gettext_lazy("at the device"), "tag": gettext_lazy("at the tag line")}


def _around(site: Site, places: list[tuple[float, float]]) -> Frame:
    """A frame round the stem that shows all places and what stands near them."""
    xs, ys = [site.tree_x, *(x for x, _ in places)], [site.tree_y, *(y for _, y in places)]
    left, right, bottom, top = min(xs) - 2.5, max(xs) + 2.5, min(ys) - 2.5, max(ys) + 2.5
    wide, tall = max(right - left, _LEAST), max(top - bottom, _LEAST)
    x, y = (left + right) / 2.0, (bottom + top) / 2.0
    return fitted(ABOVE, TALL, x - wide / 2.0, x + wide / 2.0, y - tall / 2.0, y + tall / 2.0, margin=14)


_LEAST = 9.0  # so much of the ground is always shown [m]


def _from_above(held: HeldAbove, at: Callable[..., Any]) -> dict[str, Any]:
    """Rope, device, landing and the way the notch faces, from above."""
    return {
        "rope": _line(held.rope, at),
        "butt": at(held.butt),
        "known": held.faces_said,
        "tag": held.said and (*at(held.point), *at(held.landing)),
        "way": at(held.faces),
    }


def _handles_above(held: HeldAbove, at: Callable[..., Any]) -> list[Any]:
    """Handles of the picture from above: name, label, place, side of its label."""
    return [
        ("faces", gettext("Notch faces"), at(held.faces), "start"),
        ("device", gettext("Device"), at(held.device), "end"),
        ("landing", gettext("Put down"), at(held.landing), "start"),
    ]


def links(rows: tuple[Any, ...], system: str) -> list[dict[str, Any]]:
    """The chain of gear as bars in path order, the fullest marked."""
    fullest = max((r for r in rows if r.share is not None), key=lambda r: r.share, default=None)
    out = []
    for r in rows:
        out.append(
            {
                "role": PARTS.get(r.role, r.role),
                "name": r.name or gettext("not chosen"),
                "why": gear_refused(r.refused.key, r.refused.note, r.refused.years) if r.refused else "",
                "shape": "over" if r.refused else SHAPES[r.verdict],
                "weakest": r is fullest,
                "demand": label(r.demand.value, "force", system),
                "may": label(r.allowed.value, "force", system) if r.allowed else gettext("not known"),
                "share": f"{100 * r.share:.0f} %" if r.share is not None else "",
                "wide": round(min(r.share or 0.0, 1.4) * 100),
                "raw": raw(r.demand.value),
            }
        )
    return out


def listed(rows: list[Row], orders: dict[int, Order], picked: int, system: str, words: Any) -> list[dict[str, Any]]:
    """The picks in order with what each weighs and its ruling."""
    out = []
    for i, row in enumerate(rows):
        piece = row.step.piece if row.step else None
        shape, said = words.verdict(row, system)
        out.append(
            {
                "n": i,
                "id": row.entry.get("id", ""),
                "number": i + 1,
                "picked": i == picked,
                "what": row.entry["member"] or gettext("stem"),
                "at": label(row.entry["at_m"], "length", system),
                "mass": label(piece.mass.value, "mass", system) if piece else "",
                "raw": raw(piece.mass.value) if piece else "",
                "method": words.method_name(row.entry.get("method", USUAL["method"])),
                "shape": shape,
                "word": SHORT_WORDS[shape],
                "said": said,
                "order": words.order(orders[i]) if i in orders else "",
            }
        )
    return out
