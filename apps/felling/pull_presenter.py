"""The pulling system drawn: from above, to be dragged, and from the side, over what it crosses."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any

from django.utils.translation import gettext

from apps.felling.bench_planner import end_of
from apps.felling.lines_presenter import where
from cantrel import quantities
from cantrel.drawing import fitted, label, marked
from cantrel.labels import Placer, beside
from cantrel.limits import SHAPES, SIDES, VERDICTS, limit_said
from treecore.verdict import Verdict

if TYPE_CHECKING:
    from collections.abc import Callable

    from apps.felling.bench_planner import WorkedPlan
    from cantrel.drawing import Frame
    from treecore.felling.inputs import FellingInput
    from treecore.felling.plan import FellingResult
    from treecore.felling.pull_needed import NeededPull
    from treecore.figures import Figure
    from treecore.rigging.pull_on_site import Rigged

WIDE, TALL, LOW = 560, 400, 172


def _frame(given: FellingInput, places: list[tuple[float, float]]) -> Frame:
    site, reach = given.site, 0.6 * given.tree.stands.high
    xs = [x for x, *_ in places] + [site.tree_x - reach, site.tree_x + reach]
    ys = [y for _, y, *_ in places] + [site.tree_y - reach, site.tree_y + reach]
    return fitted(WIDE, TALL, min(xs), max(xs), min(ys), max(ys), margin=46)


def above(
    given: FellingInput,
    entry: dict[str, Any],
    system: str,
    result: FellingResult | None = None,
    rigged: Rigged | None = None,
    bad: str = "",
) -> dict[str, Any]:
    """The plan of the system: legs, parts as handles, the fall's ground, what is wrong marked at its part."""
    parts = entry["parts"]
    places = [(p["x_m"], p["y_m"]) for p in parts]
    if rigged:
        places = [rigged.places[p["name"]][:2] for p in parts]
    frame = _frame(given, [*places, *([end_of(given, given.guy)] if given.guy else [])])
    placer = Placer(WIDE, TALL)
    placer.take(
        (0.0, 0.0, 120.0, 24.0),
        (0.0, TALL - 34.0, 130.0, float(TALL)),
        (WIDE - 50.0, TALL - 80.0, float(WIDE), float(TALL)),
    )
    legs = _legs(frame, rigged, system) if rigged else []
    for leg in legs:
        placer.along([leg["a"], leg["b"]])
    site, wrong = given.site, {bad: gettext("this is refused")} if bad else _wrong(result)
    rows = [_part(frame, p, at, wrong) for p, at in zip(parts, places, strict=True)]
    named = beside(placer, [(r["id"], r["name"], (r["x"], r["y"]), r["side"]) for r in rows if not r["hung"]], 11.0)
    places_of = {row["name"]: {k: row[k] for k in ("dx", "dy", "side", "shown")} for row in named}
    parted = [row | places_of.get(row["id"], {}) for row in rows]
    return {
        "frame": frame,
        "targets": marked(frame, site.targets, wrong, placer),
        "covered": [frame.points(part) for part in result.ground.covered] if result else [],
        "legs": legs,
        "forces": _forces(frame, rigged) if rigged else [],
        "parts": parted,
        "guy": _guy(given, frame),
        "stem": (frame.x(site.tree_x), frame.y(site.tree_y)),
        "lay": (
            frame.x(site.tree_x + 0.5 * given.tree.stands.value * math.sin(given.lay)),
            frame.y(site.tree_y + 0.5 * given.tree.stands.value * math.cos(given.lay)),
        ),
        "bar": frame.bar(system),
    }


def _guy(given: FellingInput, frame: Frame) -> tuple[float, float] | None:
    """Where the guy line ends on the drawing."""
    if given.guy is None:
        return None
    x, y = end_of(given, given.guy)
    return frame.x(x), frame.y(y)


def _wrong(result: FellingResult) -> dict[str, str]:
    """Names of parts, ropes and targets that a limit speaks of, when it is not kept."""
    found = {}
    for limit in result.limits if result else ():
        if limit.verdict in (Verdict.OVER, Verdict.NOT_KNOWN):
            found |= {name: limit.key for name in (limit.about.name, limit.about.other) if name}
    return found


def _part(frame: Frame, part: dict[str, Any], at: tuple[float, float], wrong: dict[str, str]) -> dict[str, Any]:
    x, y = frame.x(at[0]), frame.y(at[1])
    return {
        "id": part["id"],
        "name": part["name"],
        "kind": part["kind"],
        "x": x,
        "y": y,
        "hung": part.get("on") == "tree",
        "wrong": any(part["name"] == n or part["name"].startswith(n + " ") for n in wrong if n),
        "side": "end" if x > frame.width - 110 else "start",
        "dy": -12,
    }


def _legs(frame: Frame, rigged: Rigged, system: str) -> list[dict[str, Any]]:
    heavy = max(max(leg.load, leg.haul) for leg in rigged.worked.legs) or 1.0
    rows = []
    for leg in rigged.worked.legs:
        a, b = ((frame.x(p[0]), frame.y(p[1])) for p in (leg.start, leg.end))
        force = max(leg.load, leg.haul)
        rows.append(
            {
                "a": a,
                "b": b,
                "wide": round(1.2 + 4.0 * force / heavy, 1),
                "wrong": any(f.leg == leg for f in rigged.fouls),
                "middle": ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2 - 5),
                "far": math.dist(a, b) > 90,
                "said": label(force, "force", system),
            }
        )
    return rows


def _forces(frame: Frame, rigged: Rigged) -> list[dict[str, Any]]:
    """The resultant on the stem as an arrow."""
    x, y, _ = rigged.places["tree"]
    east, north, _ = rigged.worked.tree
    size = math.hypot(east, north) or 1.0
    x0, y0 = frame.x(x), frame.y(y)
    x1, y1 = x0 + 92 * east / size, y0 - 92 * north / size
    return [
        {"a": (x0, y0), "b": (round(x1, 1), round(y1, 1)), "turn": round(math.degrees(math.atan2(y1 - y0, x1 - x0)))}
    ]


def side(given: FellingInput, rigged: Rigged, result: FellingResult, system: str) -> dict[str, Any]:
    """The lines from the side, along the way they pull, with the roofs and walls they pass over."""
    s, c = math.sin(rigged.azimuth), math.cos(rigged.azimuth)
    site = given.site

    def along(place: tuple[float, ...]) -> float:
        return (place[0] - site.tree_x) * s + (place[1] - site.tree_y) * c

    rows = [(along(leg.start), leg.start[2], along(leg.end), leg.end[2]) for leg in rigged.worked.legs]
    tall = min(given.tree.stands.value, 1.35 * rigged.system.tie)
    ends = [v for r in rows for v in (r[0], r[2])] + [-2.0]
    low = min([0.0, *(v for r in rows for v in (r[1], r[3]))])
    frame = fitted(WIDE, LOW, min(ends) - 1, max(ends) + 2, low - 0.5, tall, margin=16)
    return {
        "frame": frame,
        "stem": (frame.x(0), frame.y(0), frame.y(tall), max(frame.size(given.tree.diameter.value), 3)),
        "legs": [(frame.x(a), frame.y(b), frame.x(x), frame.y(y)) for a, b, x, y in rows],
        "tie": (frame.x(along(rigged.places["tree"])), frame.y(rigged.system.tie)),
        "fouls": [
            {
                "x": frame.x(along((*f.at, 0))),
                "y": frame.y(f.passes),
                "top": frame.y(f.wanted),
                "name": f.target,
                "text": gettext("passes {passes}, wants {wanted}").format(
                    passes=label(f.passes, "length", system), wanted=label(f.wanted, "length", system)
                ),
            }
            for f in rigged.fouls
        ],
        "boxes": _boxes(frame, given, along),
        "ground": (
            frame.x(min(ends) - 1),
            frame.y(-math.tan(site.falling_ground(rigged.azimuth)) * (min(ends) - 1)),
            frame.x(max(ends) + 2),
            frame.y(-math.tan(site.falling_ground(rigged.azimuth)) * (max(ends) + 2)),
        ),
        "bar": frame.bar(system),
    }


def _boxes(frame: Frame, given: FellingInput, along: Callable[..., Any]) -> list[Any]:
    """Targets that stand within ten metres of the line, as seen from the side."""
    fall = math.tan(given.site.falling_ground(given.lay))
    rows = []
    for target in given.site.targets:
        spots = [along((x, y, 0)) for x, y in target.outline]
        if target.height <= 0.3 or target.kind in ("conductor", "people") or not given.rigged:
            continue
        if target.name in given.rigged.crosses:
            a, b = frame.x(min(spots)), frame.x(max(spots))
            base = -fall * (min(spots) + max(spots)) / 2
            rows.append(
                {
                    "x": a,
                    "wide": max(b - a, 2),
                    "y": frame.y(base + target.height),
                    "tall": frame.size(target.height),
                    "name": target.name,
                }
            )
    return rows


def tables(
    given: FellingInput, result: FellingResult, rigged: Rigged, needs: tuple[Any, ...], system: str
) -> tuple[list[dict[str, str]], list[dict[str, str]]]:
    """Forces on anchors and legs, and what each rope must be."""
    loads = {p.part: p for p in rigged.worked.loads}
    limits = {(x.key, x.about.name): x for x in result.limits}
    parts = []
    for part in rigged.system.parts:
        load, judged = loads[part.name], limits.get(("anchor", part.name))
        parts.append(
            {
                "name": part.name,
                "force": label(load.force, "force", system),
                "raw": quantities.raw(load.force),
                "may": label(judged.allowed.value, "force", system) if judged and judged.allowed else "",
                "verdict": VERDICTS[judged.verdict] if judged else "",
                "shape": SHAPES[judged.verdict] if judged else "",
            }
        )
    ropes = []
    for need in needs:
        judged = limits[("rope_short", need.rope.name)]
        ropes.append(
            {
                "name": need.rope.name,
                "way": label(need.path, "length", system),
                "need": label(need.need, "length", system),
                "raw": quantities.raw(need.need),
                "owned": label(need.rope.owned, "length", system) if need.rope.owned else gettext("not said"),
                "over": label(need.need - need.rope.owned, "length", system)
                if need.rope.owned and need.need > need.rope.owned
                else "",
                "tension": label(need.tension.value, "force", system),
                "may": label(need.allowed.value, "force", system) if need.allowed else gettext("not said"),
                "verdict": VERDICTS[judged.verdict],
                "shape": SHAPES[judged.verdict],
            }
        )
    return parts, ropes


def shown(figures: tuple[Figure, ...], system: str) -> list[dict[str, Any]]:
    """Figures as rows."""
    return [quantities.figure(f, system) for f in figures]


def needed(pull: NeededPull, system: str) -> dict[str, Any]:
    """The pull the plan needs, in words, and whether it has it."""
    if not math.isfinite(pull.on_tree):
        return {"shape": "over", "said": gettext("No pull along this line brings it over: lay and line point apart.")}
    line = gettext("tied {tie} up, {far} off, bearing {bearing}").format(
        tie=label(pull.tie, "length", system),
        far=label(pull.distance, "length", system),
        bearing=label(pull.azimuth, "angle", system),
    )
    if pull.on_tree <= 0.0:
        return {"shape": "within", "said": gettext("It goes over without a pull; a line still steers it.")}
    shape = "within" if pull.enough else "unknown" if not pull.given else "over"
    return {
        "shape": shape,
        "raw": quantities.raw(pull.on_tree),
        "force": label(pull.on_tree, "force", system),
        "hands": label(pull.at_hands, "force", system) if pull.at_hands is not None else "",
        "given": label(pull.given, "force", system) if pull.given else "",
        "line": line,
        "chosen": pull.chosen,
    }


def guy_side(worked: WorkedPlan) -> str:
    """Where the tree goes by itself, and so where its guy belongs."""
    side = worked.guy_side
    return gettext("By itself it goes to the {other} of the lay: a guy belongs on the {side}.").format(
        other=SIDES["left" if side == "right" else "right"], side=SIDES[side]
    )


def guy(worked: WorkedPlan, system: str) -> dict[str, Any] | None:
    """The guy line in words: where it stands, what it holds, what it may carry; None without one."""
    plan, found = worked.given.guy, worked.line_sheet.guy
    if plan is None or found is None:
        return None
    judged = worked.ruling_of(("guy_force",))
    return {
        "where": where(found, system),
        "tie": label(plan.tie, "length", system),
        "force": label(found.force.value if found.force else 0.0, "force", system),
        "raw": quantities.raw(found.force.value if found.force else 0.0),
        "may": label(plan.limit, "force", system),
        "shape": SHAPES[judged.verdict] if judged else "within",
        "verdict": VERDICTS[judged.verdict] if judged else "",
    }


LINES = (
    "line_fouls", "anchor_in_fall", "rope_short", "rope_strength", "anchor", "people_place", "root_plate", "shear",
    "tip", "guy_force",
    "guy_out", "guy_slack", "guy_side",
)  # fmt: skip


def of_lines(worked: WorkedPlan, system: str) -> dict[str, str] | None:
    """The worst limit of the lines themselves, where something else rules the plan."""
    if worked.result.ruling.key in LINES:
        return None
    worst = worked.ruling_of(LINES)
    return limit_said(worst, system) if worst else None
