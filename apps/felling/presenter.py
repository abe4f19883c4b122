"""The felling drawings: stump from above, side view, plan, hinge window, moments. Numbers are the core's."""

from __future__ import annotations

import math
from functools import partial
from itertools import groupby
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext, gettext_lazy

from apps.felling import wording
from apps.felling.bars import ledger, window
from apps.felling.bench_planner import end_of, named_schools
from apps.felling.crewsteps import steps
from apps.felling.lines_presenter import aim_mark, lines_sheet, who
from apps.felling.sequence import sequence, stops
from apps.jobs.presenter import tree_art
from cantrel import quantities
from cantrel.drawing import Frame, compass, fitted, label
from cantrel.labels import Placer, fanned, named
from cantrel.limits import SHAPES, SIDES, VERDICTS, limit_said, worst_first
from treecore.errors import CoreError
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from collections.abc import Sequence

    from apps.felling.bench_planner import WorkedPlan
    from cantrel.art.tree import Art
    from treecore.felling.inputs import FellingInput
    from treecore.felling.notch import Cuts
    from treecore.felling.plan import FellingResult
    from treecore.rigging.line import Guy
    from treecore.site import Target
    from treecore.workzone import Ground, OpenLay

WIDE = 410


def _straight_ahead(cuts: Cuts) -> float:
    """Where the line of the lay through the stem's middle leaves the bark."""
    return cuts.along / 2.0 / math.hypot(1.0, cuts.skew * cuts.along / cuts.across)


def _stump_frame(given: FellingInput, height: int, bottom: float, top: float) -> Frame:
    half = max(given.cuts.along, given.cuts.across) * 0.5
    return fitted(WIDE, height, -1.4 * half, 2.3 * half, bottom * half, top * half, margin=6)


def stump(worked: WorkedPlan, system: str) -> dict[str, Any]:
    """The stump from above: the lay points right."""
    given, result = worked
    cuts = given.cuts
    frame = _stump_frame(given, 350, -1.62, 1.3)
    half, apex = cuts.along / 2.0, cuts.along / 2.0 - cuts.depth
    behind, chord = apex - cuts.hinge, result.estimates["hinge_length"].value / 2.0
    left, right = apex - cuts.hinge - cuts.taper / 2.0, apex - cuts.hinge + cuts.taper / 2.0
    past = cuts.bypass if cuts.bypass_side == "left" else -cuts.bypass
    out = cuts.across * 0.62
    cg_x, cg_y = (result.figures[k].estimate for k in ("cg_along", "cg_across"))
    wedge = cuts.across * 0.12
    rows = [(i - (given.wedges.count - 1) / 2.0) * wedge * 1.7 for i in range(given.wedges.count)]
    return {
        "frame": frame,
        "centre": (frame.x(0), frame.y(0)),
        "radii": (frame.size(half), frame.size(cuts.across / 2.0)),
        "skew": cuts.skew,
        "rings": [(round(frame.size(half) * r, 1), round(frame.size(cuts.across / 2.0) * r, 1)) for r in _RINGS],
        "square": frame.points([(at, worked.aside) for at in (-half * 1.1, half * 2.2)]),
        "front_mark": (frame.x(_straight_ahead(cuts)), frame.y(0)),
        "notch": (frame.x(apex), frame.size(cuts.depth) + 2),
        "hinge": frame.points(_strip(cuts, apex, chord)),
        "bypass": frame.points(
            [
                _turned_to_lay(cuts, x, y)
                for x, y in (
                    (apex, math.copysign(chord, past)),
                    (apex - cuts.bypass, math.copysign(chord, past)),
                    (apex, -math.copysign(chord, past)),
                )
            ]
        )
        if cuts.bypass
        else "",
        "core": frame.size(given.cavity / 2.0) if given.cavity else 0,
        "core_word": frame.y(-0.36 * given.cavity),
        "ends": ((frame.x(left), frame.y(out)), (frame.x(right), frame.y(-out))),
        "end_feet": [
            (frame.x(x), frame.y(y))
            for x, y in (_turned_to_lay(cuts, left, chord), _turned_to_lay(cuts, right, -chord))
        ],
        "marks": _marks(result),
        "turned": [{"y": frame.height - 21 + 14 * i, "text": t} for i, t in enumerate(_turned(result, system))],
        "top": frame.y(cuts.across / 2.0) - 4,
        "tall": frame.size(cuts.across) + 8,
        "apex": frame.x(apex),
        "behind": frame.x(behind),
        "chord": (frame.y(chord * 0.55), frame.y(-chord * 0.55)),
        "back": frame.x(-half),
        "front": frame.x(half),
        "pivot": frame.x(result.pivot),
        "cg": (frame.x(cg_x.value), frame.y(-cg_y.value)),
        "cg_radii": (frame.size((cg_x.high - cg_x.low) / 2), frame.size((cg_y.high - cg_y.low) / 2)),
        "wedges": [frame.points(_wedge(given, y, wedge)) for y in rows],
        "labels": {
            "depth": label(cuts.depth, "cut", system),
            "hinge": label(cuts.hinge, "cut", system),
            "length": label(2 * chord, "cut", system),
            "back": label(abs(result.figures["back_offset"].estimate.value), "cut", system),
        },
        "backward": result.figures["back_offset"].estimate.value >= 0,
        "low": frame.y(-cuts.across / 2.0),
        "bar": frame.bar(system),
    }


_RINGS = (0.14, 0.29, 0.43, 0.56, 0.68, 0.79, 0.88, 0.95)  # rings of growth drawn, of the radius [-]


def _wedge(given: FellingInput, aside: float, wide: float) -> list[tuple[float, float]]:
    """One wedge from above: from outside the rim to where it bears, turned to its place round the cut."""
    place, cuts = given.wedges.place, given.cuts
    turn, side = math.cos(place), math.sin(place)
    rim = 1.0 / math.hypot(2.0 * turn / cuts.along, 2.0 * side / cuts.across)
    corners = ((rim + 0.05, -wide / 2), (rim + 0.05, wide / 2), (rim - 0.12, wide / 3), (rim - 0.12, -wide / 3))
    return [(-out * turn + (aside + v) * side, -out * side - (aside + v) * turn) for out, v in corners]


def _strip(cuts: Cuts, apex: float, chord: float) -> list[tuple[float, float]]:
    """The hinge from above: its front at the apex, its back slanted by the taper, carried past the rim."""
    more = 1.3 * chord
    slant = cuts.taper / (2.0 * chord) if chord else 0.0
    back = apex - cuts.hinge
    corners = ((apex, more), (apex, -more), (back + slant * more, -more), (back - slant * more, more))
    return [_turned_to_lay(cuts, x, y) for x, y in corners]


def _turned_to_lay(cuts: Cuts, x: float, y: float) -> tuple[float, float]:
    """A place across the stump, from the middle of the width there, to the left."""
    return x, y - cuts.skew * x


MARKED = {
    "wedge_start": ("wedge", gettext_lazy("tip too thick for the kerf")),
    "wedge_hollow": ("wedge", gettext_lazy("no sound wood to lift on")),
    "wedge_dead": ("wedge", gettext_lazy("never in a dead tree")),
    "wedge_room": ("wedge", gettext_lazy("no room")),
    "leans": ("cg", gettext_lazy("leans disagree")),
    "bypass": ("bypass", gettext_lazy("past the apex")),
    "bypass_lean": ("bypass", gettext_lazy("past the apex")),
}


def _marks(result: FellingResult) -> dict[str, Any]:
    """Parts of the stump that a limit speaks of, with a word beside them."""
    rows = [MARKED[x.key] for x in result.limits if x.key in MARKED and x.verdict is not Verdict.WITHIN]
    return {part: word for part, word in reversed(rows)}


def _turned(result: FellingResult, system: str) -> list[str]:
    """What a bypass takes, and how far it and the hinge turn the lay, in words."""
    bend, cuts = result.bend, result.plan.cuts
    end = cuts.hinge + (cuts.taper if cuts.bypass_side == "left" else -cuts.taper) / 2.0
    lost = (
        [gettext("bypass takes {bypass} of that end").format(bypass=label(cuts.bypass / end, "share", system))]
        if cuts.bypass
        else [""]
    )
    to = SIDES["right" if bend > 0 else "left"]
    return [
        *lost,
        gettext("turns the lay {bend} to the {to}").format(bend=label(abs(bend), "fine_angle", system), to=to)
        if abs(bend) >= 0.002
        else "",
    ]


def side(worked: WorkedPlan, system: str) -> dict[str, Any]:
    """The stump from its left side: the lay points right, as in the drawing above."""
    given, result = worked
    cuts, height = given.cuts, 330
    half = max(given.cuts.along, given.cuts.across) * 0.5
    bottom = cuts.stump / half - 0.95
    frame = _stump_frame(given, height, bottom, bottom + 2.75)
    front = cuts.along / 2.0
    apex, lower, upper = worked.notch
    behind = apex[0] - cuts.hinge
    top, base = cuts.stump + half * 1.5, cuts.stump - half * 0.85
    lean, fall = math.tan(result.forward_lean), math.tan(given.site.falling_ground(given.lay))
    stem = ((-front, base), (front, base), (front + lean * (top - base), top), (-front + lean * (top - base), top))
    far = half * 3.0
    handle = upper if cuts.notch_school != "reversed" else lower
    return {
        "frame": frame,
        "stem": frame.points(stem),
        "bark": _bark(frame, cuts, base, top, lean),
        "notch": frame.points((apex, lower, (front + 0.06, lower[1]), (front + 0.06, upper[1]), upper)),
        "face": frame.points((lower, apex, upper)),
        "cut": (frame.x(-front), frame.x(behind), frame.y(cuts.stump + cuts.rise)),
        "hinge": (
            frame.x(behind),
            frame.y(cuts.stump + max(cuts.rise, 0.012)),
            frame.size(cuts.hinge),
            max(frame.size(max(cuts.rise, 0.012)), 5),
        ),
        "ground": frame.points(((-far, fall * far), (far, -fall * far), (far, -9), (-far, -9))),
        "ground_line": (frame.x(-far), frame.y(fall * far), frame.x(far), frame.y(-fall * far)),
        "apex": (frame.x(apex[0]), frame.y(apex[1])),
        "mouth": (frame.x(handle[0]), frame.y(handle[1])),
        "back": frame.x(-front),
        "dial": _dial(frame, (result.pivot, cuts.stump), half * 0.98, result),
        "labels": {
            "opening": label(cuts.opening, "angle", system),
            "rise": label(cuts.rise, "cut", system),
            "stump": label(cuts.stump, "cut", system),
            "lean": f"{label(abs(result.forward_lean), 'fine_angle', system)} "
            f"{'forward' if result.forward_lean > 0 else 'back'}",
            "slope": gettext("ground {falling_ground} {x}").format(
                falling_ground=label(abs(given.site.falling_ground(given.lay)), "fine_angle", system),
                x="down" if fall >= 0 else "up",
            ),
        },
        "ground_y": frame.y(0),
        "bar": frame.bar(system),
    }


def _bark(frame: Frame, cuts: Cuts, base: float, top: float, lean: float) -> str:
    """Short strokes down the stem that say bark, at the same places every time."""
    tall, wide, strokes = top - base, cuts.along, []
    for row in range(_STROKES):
        for column in range(_STROKES):
            share = (column + 0.5 + 0.35 * math.sin(2.1 * row)) / _STROKES
            low = base + tall * (row + 0.3 + 0.3 * math.sin(1.7 * column)) / _STROKES
            x, y = frame.x((share - 0.5) * wide + lean * (low - base)), frame.y(low)
            strokes.append(f"M{x:.0f} {y:.0f}v-{7 + (3 * row + 5 * column) % 9}")
    return "".join(strokes)


_STROKES = 8  # rows and columns of strokes of bark


def _dial(frame: Frame, pivot: tuple[float, float], reach: float, result: FellingResult) -> dict[str, Any]:
    """Angles past upright on a quarter circle about the hinge."""

    def at(angle: Any, share: Any = 1.0) -> Any:
        return frame.x(pivot[0] + reach * share * math.sin(angle)), frame.y(pivot[1] + reach * share * math.cos(angle))

    marks = []
    for key, word in (("commit", gettext("commits")), ("closing", gettext("closes")), ("ground", gettext("ground"))):
        e = result.figures[key].estimate
        angle = min(max(e.value, -0.4), 2.0)
        x, y = at(angle)
        near, far = at(angle, 0.93), at(angle, 1.06)
        label_x, label_y = at(angle, 1.1)
        marks.append(
            {
                "key": key,
                "word": word,
                "near": near,
                "far": far,
                "label": (label_x, label_y + 4),
                "at": (x, y),
                "end": key == "commit",
                "text": f"{round(math.degrees(e.value))}°",
            }
        )
    start, end = at(result.forward_lean), at(min(result.figures["ground"].estimate.value, 2.0))
    radius = frame.size(reach)
    return {"marks": marks, "arc": f"M{start[0]},{start[1]} A{radius},{radius} 0 0 1 {end[0]},{end[1]}"}


def site_frame(given: FellingInput, width: int, height: int) -> Frame:
    """A frame for the site that does not move while the lay is dragged."""
    site, reach = given.site, 1.04 * given.tree.stands.high
    far = 1.6 * reach  # a target far off must not shrink the tree to a dot

    def ends(at: float, places: list[float]) -> tuple[float, float]:
        seen = [min(max(p, at - far), at + far) for p in places]
        return min([at - reach, *seen]), max([at + reach, *seen])

    left, right = ends(site.tree_x, [x for t in site.targets for x, _ in t.outline])
    bottom, top = ends(site.tree_y, [y for t in site.targets for _, y in t.outline])
    return fitted(width, height, left, right, bottom, top, margin=16)


def plan(worked: WorkedPlan, system: str, width: int = 440, height: int = 430) -> dict[str, Any]:
    """The site from above, north up: footprint, zone, escape paths, targets."""
    given, result = worked
    site, ground = given.site, result.ground
    frame = site_frame(given, width, height)
    verdicts = {c.target.name: c.verdict for c in ground.clearances}
    struck = {x.about.name for x in result.limits if x.key in ("anchor_in_fall", "line_fouls")}
    pegged, placer = worked.peg, _plan_paper(frame)
    stem, tip = (frame.x(site.tree_x), frame.y(site.tree_y)), (frame.x(ground.tip[0]), frame.y(ground.tip[1]))
    pull = _far(frame, given, given.pull, "Pull line" in struck)
    guy = _far(frame, given, given.guy, "Guy line" in struck)
    held = [("lay", gettext("Lay"), tip, "start")]
    held += [("anchor", gettext("Anchor"), pull["at"], "start")] if pull else []
    held += [("guy", gettext("Guy"), guy["at"], "start")] if guy else []
    placer.around(stem, 8.0)
    for path in ground.escapes:
        placer.along([stem, (frame.x(path.end[0]), frame.y(path.end[1]))])
    for _, _, at, _ in held:
        placer.around(at, 9.0)
    return {
        "frame": frame,
        "targets": [_target(frame, t, verdicts[t.name], placer) for t in site.targets],
        "knobs": fanned(placer, held),
        "escapes": _escapes(placer, frame, ground),
        "covered": [frame.points(part) for part in ground.covered],
        "outline": frame.points(ground.outline),
        "art": _lying(worked, frame),
        "turn": round(math.degrees(given.lay), 2),
        "stem": stem,
        "tip": tip,
        "crown": frame.size(given.tree.spread.value / 2),
        "zone": frame.size(ground.zone_radius),
        "peg": (frame.x(pegged.place[0]), frame.y(pegged.place[1])),
        "pulls": _lines(frame, given),
        "pull": pull,
        "guy": guy,
        "rose": _rose(frame, given, worked.lays),
        "labels": {
            "lay": label(given.lay, "angle", system),
            "reach": label(ground.reach, "length", system),
            "zone": label(ground.zone_radius, "length", system),
            "compass": compass(given.lay),
        },
        "bar": frame.bar(system),
    }


def _lying(worked: WorkedPlan, frame: Frame) -> Art:
    """The tree drawn upright at its stump to the plan's scale; the picture turns it to the lay."""
    site = worked.given.site
    upright = Frame(frame.width, frame.height, frame.x(site.tree_x), frame.y(site.tree_y), frame.scale)
    return tree_art(worked.given.tree, worked.seen, upright)


def _plan_paper(frame: Frame) -> Placer:
    """The plan's paper, its corner marks taken."""
    placer, wide, tall = Placer(frame.width, frame.height), frame.width, frame.height
    placer.take((0.0, 0.0, 132.0, 58.0), (0.0, tall - 34.0, 130.0, tall), (wide - 50.0, tall - 80.0, wide, tall))
    return placer


def _escapes(placer: Placer, frame: Frame, ground: Ground) -> list[dict[str, Any]]:
    """Both escape paths with their labels, the better one said to be it."""
    found = []
    for path in ground.escapes:
        end, better = (frame.x(path.end[0]), frame.y(path.end[1])), path.side == ground.better_escape
        said = gettext("escape, the better") if better else gettext("escape")
        put = placer.put(said if path.enough else gettext("escape stopped"), end, "end")
        found.append(
            {"x": end[0], "y": end[1], "blocked": not path.enough, "better": better, "side": path.side, "label": put}
        )
    return found


def _target(frame: Frame, target: Target, verdict: Verdict, placer: Placer) -> dict[str, Any]:
    xs, ys = zip(*((frame.x(x), frame.y(y)) for x, y in target.outline), strict=True)
    box = (max(min(xs), 2.0), max(min(ys), 2.0), min(max(xs), frame.width - 2.0), min(max(ys), frame.height - 2.0))
    return {
        "name": target.name,
        "kind": target.kind,
        "points": frame.points(target.outline),
        "label": named(placer, target.name, box),
        "shape": SHAPES[verdict],
    }


def _far(frame: Frame, given: FellingInput, line: Guy | None, wrong: bool = False) -> dict[str, Any] | None:
    """An anchor's place on the plan, held inside the picture."""
    if line is None:
        return None
    east, north = end_of(given, line)
    x, y = frame.x(east), frame.y(north)
    shown = (min(max(x, 10), frame.width - 10), min(max(y, 10), frame.height - 10))
    return {"at": shown, "side": "end" if shown[0] > frame.width - 40 else "middle", "wrong": wrong}


def _lines(frame: Frame, given: FellingInput) -> list[tuple[float, float, float, float]]:
    """Legs of a pulling system in plan."""
    if given.rigged is None:
        return []
    return [
        (frame.x(a[0]), frame.y(a[1]), frame.x(b[0]), frame.y(b[1]))
        for a, b in ((leg.start, leg.end) for leg in given.rigged.worked.legs)
    ]


def _rose(frame: Frame, given: FellingInput, rows: Sequence[OpenLay]) -> list[dict[str, Any]]:
    """A ring of bearings round the tree, each run of one verdict an arc: forbidden ones weigh more than open ones."""
    radius = frame.size(given.tree.stands.high) * _ROSE
    cx, cy, half = frame.x(given.site.tree_x), frame.y(given.site.tree_y), math.pi / max(len(rows), 1)

    def at(angle: float) -> str:
        return f"{cx + radius * math.sin(angle):.1f},{cy - radius * math.cos(angle):.1f}"

    out, arc = [], f"A{radius:.1f},{radius:.1f} 0 0 1"
    for run in _runs(rows):
        start, end = run[0].azimuth - half, run[-1].azimuth + half
        middle = (start + end) / 2.0
        near = ", ".join(dict.fromkeys(row.nearest for row in run if row.nearest))
        bearings = f"{round(math.degrees(run[0].azimuth)) % 360}° – {round(math.degrees(run[-1].azimuth)) % 360}°"
        out.append(
            {
                "path": f"M{at(start)}{arc} {at(middle)}{arc} {at(end)}",
                "shape": SHAPES[run[0].verdict],
                "title": f"{bearings}: {VERDICTS[run[0].verdict]}{', ' + near if near else ''}",
            }
        )
    return out


_ROSE = 0.34  # radius of the ring of bearings, of the tree's height [-]


def _runs(rows: Sequence[OpenLay]) -> list[list[OpenLay]]:
    """Neighbouring bearings of one verdict, in order; the ring opens at north."""
    return [list(run) for _, run in groupby(rows, key=lambda row: row.verdict)]


GROUPS = (
    (
        gettext_lazy("Lay"),
        ("aim_tip", "aim_equal", "aim_crown", "aim_equal_crown", "aim_cg", "reach", "zone", "length"),
        ("lay", "zone_school", "escape_side"),
    ),
    (
        gettext_lazy("Notch"),
        ("hinge_length", "closing", "commit", "ground"),
        ("notch_school", "first_school", "opening", "depth_school", "depth", "stump", "position_school"),
    ),
    (
        gettext_lazy("Hinge"),
        (
            "thin",
            "thin_joint",
            "thin_twist",
            "thin_floor",
            "thick",
            "side_most",
            "side_holds",
            "twist",
            "hold_turn",
            "hinge_moment",
            "turn_hinge",
            "turn_bypass",
            "shear",
        ),
        ("thickness_school", "hinge", "taper", "bypass_side", "bypass"),
    ),
    (
        gettext_lazy("Back cut and saw"),
        ("room",),
        ("pattern_school", "bar", "rise", "back_slope", "nicks", "along", "across"),
    ),
    (
        gettext_lazy("Balance"),
        (
            "back_offset",
            "mass",
            "cg_height",
            "cg_along",
            "cg_across",
            "weight_moment",
            "m_lean",
            "m_crown",
            "m_pivot",
            "wind_along",
            "wind_with",
            "needed",
            "available",
            "margin",
            "s_lean",
            "s_crown",
            "s_oval",
            "pull_across",
            "side_moment",
            "wind_across",
            "side_ends",
            "gust",
        ),
        ("after_picks", "wind", "wind_from"),
    ),
    (
        gettext_lazy("Wedges"),
        ("lift", "wedge_force", "wedge_each", "drive", "wedge_moment", "wedge_side"),
        ("wedge_kind", "wedge_count", "wedge_stacked", "wedge_place", "wedge_rise", "wedge_tip"),
    ),
    (
        gettext_lazy("Pull line"),
        ("pull_along", "root_moment"),
        (
            "pull_force",
            "pull_tie",
            "pull_azimuth",
            "pull_distance",
            "pull_anchor",
            "pull_strength",
            "pull_owned",
            "pull_knot",
            "pull_gear",
            "pull_rating",
            "pull_trunk",
            "pull_by",
            "pull_people",
            "line_design",
        ),
    ),
    (
        gettext_lazy("Guy line"),
        ("guy_wanted", "guy_tension", "guy_along", "guy_across"),
        (
            "guy_limit",
            "guy_tie",
            "guy_azimuth",
            "guy_distance",
            "guy_anchor",
            "guy_tended",
            "guy_taut",
            "guy_strength",
            "guy_owned",
            "guy_knot",
            "guy_gear",
            "guy_rating",
            "guy_trunk",
        ),
    ),
)


def numbers(worked: WorkedPlan, system: str, whole: bool = True) -> list[dict[str, Any]]:
    """Figures in groups."""
    result = worked.result
    groups = [
        {
            "title": title,
            "slug": title.lower().replace(" ", "-"),
            "rows": [quantities.figure(result.figures[k], system) for k in keys],
            "fields": fields,
        }
        for title, keys, fields in GROUPS
    ]
    return [*groups, _fall(worked, system)] if whole else groups


def _fall(worked: WorkedPlan, system: str) -> dict[str, Any]:
    """The fall as a group of its own: its figures and the escape, or why there is none."""
    group = {"title": gettext("The fall"), "slug": "the-fall", "rows": [], "fields": ()}
    fallen = worked.fall
    if isinstance(fallen, CoreError):
        return group | {"said": quantities.explain(fallen, system)}
    return group | {
        "rows": [quantities.figure(f, system) for f in fallen.figures],
        "said": wording.walked(fallen.walked.estimate, system),
    }


def schools_of(worked: WorkedPlan, system: str) -> list[dict[str, Any]]:
    """What every school gives here, with its reason."""
    given = worked.given
    titles = {"depth": gettext("Notch depth, and the hinge length it leaves"), "thickness": gettext("Hinge thickness")}
    sized = [
        {
            "choice": choice,
            "title": titles[choice],
            "rows": [
                {
                    "key": v.school.key,
                    "name": gettext(v.school.name),
                    "reason": gettext(v.school.reason),
                    "usual": label(v.usual, "cut", system),
                    "range": gettext("{low} to {high}").format(
                        low=label(v.low, "cut", system), high=label(v.high, "cut", system)
                    ),
                    "length": label(v.hinge_length, "cut", system) if v.hinge_length else "",
                    "chosen": v.chosen,
                }
                for v in values
            ],
        }
        for choice, values in worked.schools.items()
    ]
    return sized + [_named_schools(given, choice, title) for choice, title in NAMED]


NAMED = (
    ("notch", gettext_lazy("Kind of notch")),
    ("first", gettext_lazy("First cut")),
    ("pattern", gettext_lazy("Back cut")),
    ("zone", gettext_lazy("Work zone")),
    ("position", gettext_lazy("Cutting position")),
)


def _named_schools(given: FellingInput, choice: str, title: str) -> dict[str, Any]:
    """Schools that are chosen by name, each with its reason."""
    chosen = {
        "notch": given.cuts.notch_school,
        "first": given.saw.first,
        "pattern": given.saw.pattern,
        "zone": given.zone,
        "position": given.saw.position,
    }[choice]
    rows = [
        {"name": gettext(s.name), "reason": gettext(s.reason), "chosen": s.key == chosen} for s in named_schools(choice)
    ]
    return {"choice": choice, "title": title, "rows": rows, "named": True}


def escapes(result: FellingResult, system: str) -> list[dict[str, Any]]:
    """Both escape paths as rows."""
    return [
        {
            "side": path.side,
            "bearing": label(path.azimuth, "angle", system),
            "clear": label(path.clear, "length", system),
            "stopped": path.stopped_by,
            "better": path.side == result.ground.better_escape,
        }
        for path in result.ground.escapes
    ]


def fit(result: FellingResult, system: str) -> list[dict[str, str]]:
    """Clearances as rows."""
    return [
        {
            "name": c.target.name,
            "gap": label(c.gap, "length", system),
            "verdict": VERDICTS[c.verdict],
            "shape": SHAPES[c.verdict],
        }
        for c in result.ground.clearances
    ]


def felled(given: FellingInput, result: FellingResult, system: str) -> str:
    """What of the tree is felled, where picks went before or only a spar stands; empty for the whole tree."""
    if not given.tree.left:
        return ""
    mass = result.figures["mass"].estimate.value
    return gettext("Felled is what then stands: {value} high, {mass}.").format(
        value=label(given.tree.stands.value, "length", system), mass=label(mass, "mass", system)
    )


def bark(worked: WorkedPlan, system: str) -> dict[str, Any]:
    """What is marked on the bark before a cut is made, and the peg to sight to."""
    given = worked.given
    marks, pegged = worked.marks, worked.peg

    def row(name: str, pair: tuple[float, ...]) -> dict[str, Any]:
        return {"name": name, "cells": [{"text": label(v, "cut", system), "raw": quantities.raw(v)} for v in pair]}

    side = SIDES["right" if pegged.right > 0 else "left"]
    off = label(abs(pegged.right), "cut", system)
    square = (
        gettext("{off} to the {side} of the line through the stem’s middle").format(off=off, side=side)
        if abs(pegged.right) >= 0.005
        else gettext("on the line through the stem’s middle")
    )
    return {
        "rows": [
            row(gettext("Tape round to the notch’s end"), marks.apex),
            row(gettext("round to the hinge’s back"), marks.back),
            row(gettext("round to straight behind"), marks.behind),
            row(gettext("Bar in from the front, a quarter of the hinge in"), marks.notch),
            row(gettext("Bar in from behind, there"), marks.wood),
        ],
        "peg": gettext("Peg {out} out along the lay, {square}: square to the hinge through its middle.").format(
            out=label(pegged.out, "length", system), square=square
        ),
        "raw": quantities.raw(pegged.right),
        "oval": abs(given.cuts.skew) > 0.01,
    }


def spoken(worked: WorkedPlan, system: str) -> dict[str, str]:
    """What each handle says aloud: its value, what it may be, and the verdict of the plan."""
    given, result = worked
    cuts, wood, e = given.cuts, result.wood, result.estimates
    low, high = (label(e[name].value, "cut", system) for name in ("thin", "thick"))
    window = gettext("holds from {low}, bends up to {high}").format(low=low, high=high)
    said = {
        "lay": label(given.lay, "angle", system),
        "opening": label(cuts.opening, "angle", system),
        "rise": label(cuts.rise, "cut", system),
        "depth": label(cuts.depth, "cut", system),
        "hinge": gettext("{hinge}, {window}").format(hinge=label(cuts.hinge, "cut", system), window=window),
        "left_end": gettext("{hinge}, {window}").format(hinge=label(wood.left, "cut", system), window=window),
        "right_end": gettext("{hinge}, {window}").format(hinge=label(wood.right, "cut", system), window=window),
    }
    worst = limit_said(result.ruling, system)
    return {key: f"{text}; {worst['name']}: {worst['verdict']}" for key, text in said.items()}


def _decides(worked: WorkedPlan, system: str) -> list[dict[str, str]]:
    """The three figures that decide a felling: hinge, pull at the hand that pulls, room."""
    result = worked.result
    thin, thick = (label(result.estimates[name].value, "cut", system) for name in ("thin", "thick"))
    holds = gettext("holds from {thin}, bends from {thick}").format(thin=thin, thick=thick)
    hinge = quantities.deciding(gettext("Hinge"), float(result.wood.mean), "cut", system, holds)
    hands = [hand for hand in worked.line_sheet.hands if hand.force]
    if hands:
        hand = max(hands, key=lambda h: h.force.value)
        second = quantities.deciding(gettext("Pull, {who}").format(who=who(hand)), hand.force, "force", system)
    else:
        back = result.figures["back_offset"].estimate
        name = gettext("Balance behind") if back.value >= 0 else gettext("Balance ahead")
        second = quantities.deciding(name, abs(back.value), "cut", system, gettext("of the hinge"))
    rows = result.ground.clearances
    if not rows:
        return [hinge, second]
    tight = min(rows, key=lambda row: row.gap)
    return [hinge, second, quantities.deciding(gettext("Room"), tight.gap, "length", system, tight.target.name)]


def bench(worked: WorkedPlan, system: str, tall: int = 430, whole: bool = True) -> dict[str, Any]:
    """Everything the bench shows; while a cut is dragged the fall waits until it is let go."""
    given, result = worked
    return {
        "spoken": spoken(worked, system),
        "decides": _decides(worked, system),
        "stump": stump(worked, system),
        "side": side(worked, system),
        "site_plan": partial(plan, worked, system, 440, tall),  # drawn when a template asks for it
        "window": window(worked, system),
        "ledger": ledger(result, system),
        "felled": felled(given, result, system),
        "ruling": limit_said(result.ruling, system),
        "limits": worst_first(result.limits, system),
        "groups": numbers(worked, system, whole),
        "schools": partial(schools_of, worked, system),
        "paths": escapes(result, system),
        "lines_sheet": partial(lines_sheet, worked, system),
        "aim": partial(aim_mark, worked, system),
        "crew_steps": partial(steps, worked, system),
        "marks": partial(bark, worked, system),
        "sequence": partial(sequence, worked, system),
        "stops": partial(stops, worked, system),
        "pulls_on": bool(given.lines),
        "cautions": wording.CAUTIONS,
        "units": system,
    }
