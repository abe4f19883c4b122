"""The limits of what pulls: what its lines foul, who and what stands wrong, ropes, anchors and how far they reach."""

from __future__ import annotations

import math
from collections.abc import Iterator

from shapely.geometry import MultiPolygon, Point, Polygon

from treecore.estimate import Estimate, Kind, exactly, product, times
from treecore.felling.inputs import FellingInput
from treecore.felling.standing import guy_course
from treecore.rigging.line import Pull
from treecore.rigging.pull_on_site import (
    Foul,
    Rigged,
    anchor_allowed,
    fouls,
    people_places,
    rope_needs,
    tie_place,
    travel,
)
from treecore.rigging.pulling import TREE, Leg
from treecore.rigging.tackle import Tackle
from treecore.schools import constant
from treecore.units import GRAVITY
from treecore.verdict import About, Limit, Verdict, held
from treecore.workzone import Ground


def covered_shape(ground: Ground) -> MultiPolygon:
    """Ground the tree may cover, as a shape [m].

    Parameters
    ----------
    ground : Ground
        The ground its lay needs.
    """
    return MultiPolygon([Polygon(ring) for ring in ground.covered])


def line_limits(plan: FellingInput, e: dict[str, Estimate], ground: Ground) -> Iterator[Limit]:
    """Hold the pull and guy lines against what they must clear and carry; docs/methods.md, pulling (6) to (10).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    e : dict of Estimate
        Its computed quantities by name. [SI]
    ground : Ground
        The ground its lay needs. [m]
    """
    covered = covered_shape(ground)
    rigged = plan.rigged
    for found in _all_fouls(plan, rigged):
        yield Limit(
            "line_fouls",
            Verdict.OVER,
            exactly(found.passes, Kind.ESTIMATED),
            exactly(found.wanted, Kind.ESTIMATED),
            About(name=found.leg.rope, other=found.target),
        )
    for name, x, y in _anchors(plan, rigged):
        if covered.contains(Point(x, y)):
            yield Limit("anchor_in_fall", Verdict.OVER, None, None, About(name=name))
    if rigged is not None:
        yield from _system(plan, rigged, e, ground, covered)
    for name, line, tension, more in _single(plan, e):
        yield from _tackle(name, line, plan, tension, more)
        yield from _tie_wood(plan, line, tension)
    if plan.pull is not None:
        yield from _puller(plan.pull)
    for line in rigged.lines if rigged is not None else ():
        yield from _tie_wood(plan, line, times(plan.gain, line.force))


def _all_fouls(plan: FellingInput, rigged: Rigged | None) -> list[Foul]:
    found = list(rigged.fouls) if rigged is not None else []
    for name, line in (("Pull line", plan.pull), ("Guy line", plan.guy.line(1.0) if plan.guy else None)):
        if line is not None:
            found += fouls(_leg(name, plan, line), plan.site)
    return found


def _single(plan: FellingInput, e: dict[str, Estimate]) -> Iterator[tuple[str, Pull, Estimate, float]]:
    """Each line that is no system: its name, itself, its tension [N], and how much longer its way grows in the fall
    [m].
    """
    if plan.pull is not None:
        yield "Pull line", plan.pull, times(plan.gain, plan.pull.force), 0.0
    if plan.guy is not None:
        yield "Guy line", plan.guy.line(1.0), e["guy_wanted"], guy_course(plan, plan.guy).out


def _tackle(name: str, line: Pull, plan: FellingInput, tension: Estimate, more: float) -> Iterator[Limit]:
    """Rope, gear and anchor of a single line, what nobody said counting as not known; docs/methods.md, pulling (7) to
    (9).
    """
    tackle = line.tackle or Tackle()
    x, y = anchor_of(plan, line)
    way = math.dist(tie_place(plan.site, plan.tree, line.tie), (x, y, line.anchor))
    need = exactly(way + more + constant("rope_tail").value, Kind.ESTIMATED)
    owned = None if tackle.owned is None else exactly(tackle.owned)
    yield _known("rope_short", need, owned, name)
    yield _known("rope_strength", tension, tackle.rope_allowed, name)
    if tackle.gear is not None:
        yield _known("gear", tension, exactly(tackle.gear), name)
    yield _known("anchor", tension, tackle.anchor_allowed, name)


def _puller(line: Pull) -> Iterator[Limit]:
    """Who or what pulls a single line, and what people on a rope can give; docs/methods.md, pulling (11)."""
    tackle = line.tackle or Tackle()
    if tackle.by == "":
        yield Limit("puller_unsaid", Verdict.NOT_KNOWN, None, None, About(name="Pull line"))
    elif tackle.by == "people":
        each = product(constant("people_pull"), constant("body_mass"))
        gives = times(each, GRAVITY * tackle.people)  # (11)
        needs = exactly(line.force)
        yield held("pullers", needs, gives, About(factor=float(tackle.people)))


_SECTIONS = 24  # places of the stem between cut and tie that are looked at


def _tie_wood(plan: FellingInput, line: Pull, tension: Estimate) -> Iterator[Limit]:
    """Wood that a line's tie bends, and would tear out; docs/methods.md, pulling (12)."""
    tree, low = plan.tree, plan.cuts.stump
    if tree.fork is not None and line.tie > tree.stem.top - 0.01:
        yield Limit("tie_breaks", Verdict.NOT_KNOWN, None, None, About(at=line.tie, why="fork"))
        return
    x, y, z = tie_place(plan.site, tree, line.tie)
    to = anchor_of(plan, line)
    flat, drop = math.dist((x, y), to), z - line.anchor
    level = flat / math.hypot(flat, drop) if flat > 0.0 else 0.0
    heights = [low + (line.tie - low) * i / _SECTIONS for i in range(_SECTIONS)]
    per = {h: (line.tie - h) / _section(plan, h) for h in heights}
    at = max(per, key=per.__getitem__)
    stress = times(tension, level * per[at])  # (12)
    share = constant("anchor_share").value
    allowed = times(product(tree.kind.mor, tree.condition.strength), share)
    yield held("tie_breaks", stress, allowed, About(at=at))
    torn = times(tension, level * 4.0 / 3.0 / (math.pi / 4.0 * tree.stem.diameter_at(line.tie) ** 2))  # (12)
    holds = times(product(tree.kind.shear, tree.condition.strength), share)
    yield held("tie_tears", torn, holds, About(at=line.tie))


def _section(plan: FellingInput, height: float) -> float:
    """Section modulus of the stem, less its cavities [m3]."""
    stem = plan.tree.stem
    left = [c.strength_left(stem) for c in plan.tree.cavities if c.low <= height <= c.high]
    return math.pi * stem.diameter_at(height) ** 3 / 32.0 * min(left, default=1.0)


def _leg(name: str, plan: FellingInput, line: Pull) -> Leg:
    x, y = anchor_of(plan, line)
    return Leg(
        name, TREE, "anchor", tie_place(plan.site, plan.tree, line.tie), (x, y, line.anchor), line.force, line.force
    )


def anchor_of(plan: FellingInput, line: Pull) -> tuple[float, float]:
    """Place of a single line's anchor on the site [m].

    Parameters
    ----------
    plan : FellingInput
        The plan.
    line : Pull
        The line.
    """
    site = plan.site
    return (
        site.tree_x + line.distance * math.sin(line.azimuth),
        site.tree_y + line.distance * math.cos(line.azimuth),
    )


def _anchors(plan: FellingInput, rigged: Rigged | None) -> list[tuple[str, float, float]]:
    found = [("Pull line", *anchor_of(plan, plan.pull))] if plan.pull is not None else []
    if plan.guy is not None:
        found.append(("Guy line", *anchor_of(plan, plan.guy.line(1.0))))
    parts = rigged.system.parts if rigged is not None else ()
    # What grips a line may hang over the lay; what stands on the ground may not.
    return found + [(p.name, p.x, p.y) for p in parts if p.on == "" and p.role != "hand"]


def _system(
    plan: FellingInput, rigged: Rigged, e: dict[str, Estimate], ground: Ground, covered: MultiPolygon
) -> Iterator[Limit]:
    far = system_travel(plan, rigged, e)
    for need in rope_needs(rigged, far):
        owned = need.rope.owned
        yield _known(
            "rope_short", exactly(need.need, Kind.ESTIMATED), None if owned is None else exactly(owned), need.rope.name
        )
        yield _known("rope_strength", need.tension, need.allowed, need.rope.name)
        stops = [p.name for p in rigged.system.parts if p.name in need.rope.path[1:-1] and p.role == "turn"]
        if need.rope.join != "none" and stops:
            about = About(name=need.rope.name, other=stops[0])
            yield Limit("join_stopped", Verdict.NOT_KNOWN, None, None, about)
    for load in rigged.worked.loads:
        part = next(p for p in rigged.system.parts if p.name == load.part)
        # People stand; a vehicle slides before it breaks; a winch needs an anchor of its own.
        if (part.role != "hand" or part.kind == "winch") and part.on == "" and load.force > 0.0:
            allowed = anchor_allowed(part, rigged.system.design)
            yield _known("anchor", times(rigged.gain, load.force), allowed, part.name)
    for place in people_places(rigged, covered):
        yield Limit("people_place", place.verdict, None, None, About(name=place.part, other=place.other, why=place.why))


def system_travel(plan: FellingInput, rigged: Rigged, e: dict[str, Estimate]) -> float:
    """How far the tie comes towards a system until the weight commits [m]; docs/methods.md, pulling (7).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    rigged : Rigged
        Its system worked out.
    e : dict of Estimate
        Its computed quantities by name. [SI]
    """
    turn = min(max(e["commit"].value, 0.0), plan.cuts.opening)
    return travel(rigged.system, rigged.places, (plan.site.tree_x, plan.site.tree_y), plan.lay, turn)


def _known(key: str, demand: Estimate, allowed: Estimate | None, name: str) -> Limit:
    return held(key, demand, allowed, About(name=name))
