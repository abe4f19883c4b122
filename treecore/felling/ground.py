"""What a felling does on its ground beyond room for it: hang-ups, places of work in the way, people near, paths on a
slope.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import shapely
from shapely.geometry import Point

from treecore.estimate import Kind, exactly
from treecore.felling.inputs import FellingInput
from treecore.felling.lines import covered_shape
from treecore.kinds import kinds_that, worth_of
from treecore.schools import constant
from treecore.verdict import About, Limit, Verdict
from treecore.workzone import Clearance, Ground


def fit_limits(plan: FellingInput, ground: Ground) -> Iterator[Limit]:
    """Hold the ground a fall covers against targets, standing trees and places of work; docs/methods.md, site (2), (7).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    ground : Ground
        The ground its lay needs.
    """
    near = exactly(constant("clearance_near").value, Kind.ASSUMED)
    for c in ground.clearances:
        yield _fits(c)
    covered = covered_shape(ground)
    for spot in plan.site.places:
        if spot.kind not in kinds_that("stands"):
            continue
        gap = float(shapely.distance(spot.shape, covered))
        about = About(name=spot.name, worth=worth_of(spot.kind))
        if spot.kind in kinds_that("hangs") and gap <= 0.0:
            yield Limit("hung_up", Verdict.OVER, None, None, About(name=spot.name))
        else:
            verdict = Verdict.OVER if gap <= 0.0 else Verdict.NEAR if gap < near.value else Verdict.WITHIN
            yield Limit("fit", verdict, exactly(gap, Kind.ESTIMATED), near, about)
    if not ground.clearances:
        yield Limit("fit_unknown", Verdict.NOT_KNOWN, None, None)


def _fits(c: Clearance) -> Limit:
    """One target: a standing tree that is reached is a hang-up, whatever touch it would bear."""
    near = exactly(constant("clearance_near").value, Kind.ASSUMED)
    if c.target.kind in kinds_that("hangs") and c.gap <= 0.0:
        return Limit("hung_up", Verdict.OVER, None, None, About(name=c.target.name))
    gap = exactly(c.gap, Kind.ESTIMATED)
    return Limit("fit", c.verdict, gap, near, About(name=c.target.name, worth=worth_of(c.target.kind)))


def people_limits(plan: FellingInput) -> Iterator[Limit]:
    """People areas within the tree's height, behind it as well: emptied by somebody, or over; docs/methods.md, site
    (9).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    """
    tall = plan.tree.stands
    posted = any(row.hazard == "people" and row.response.strip() for row in plan.seen)
    stem = Point(plan.site.tree_x, plan.site.tree_y)
    for target in plan.site.targets:
        away = float(target.shape.distance(stem))
        if target.kind in kinds_that("crowd") and away < tall.high:  # (9)
            verdict = Verdict.WITHIN if posted else Verdict.OVER
            yield Limit("people_near", verdict, exactly(away, Kind.ESTIMATED), tall, About(name=target.name))


def slope_limits(plan: FellingInput, ground: Ground) -> Iterator[Limit]:
    """Escape paths that fall steeply or have to be climbed; the chosen one, or both where none is; docs/methods.md,
    site (10).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    ground : Ground
        The ground its lay needs.
    """
    falls, climbs = constant("escape_slope"), constant("escape_climb")
    taken = [path for path in ground.escapes if plan.escape in ("", path.side)]
    bad = []
    for path in taken:
        fall = plan.site.falling_ground(path.azimuth)
        if fall > falls.value:
            bad.append(("downhill", path.side, fall, falls))
        elif -fall > climbs.value:
            bad.append(("", path.side, -fall, climbs))
    for why, side, steep, most in bad:
        verdict = Verdict.OVER if len(bad) == len(taken) else Verdict.NEAR
        yield Limit("escape_slope", verdict, exactly(steep), most, About(side=side, why=why))  # (10)


def notch_limits(plan: FellingInput) -> Iterator[Limit]:
    """A deep notch on a back leaner, and a hinge in unsound wood; docs/methods.md, notch (5), hinge (20).

    Parameters
    ----------
    plan : FellingInput
        The plan.
    """
    cuts, most = plan.cuts, constant("deep_most")
    back = -math.atan(math.tan(plan.tree.lean) * math.cos(plan.tree.lean_azimuth - plan.lay))
    share = cuts.depth / cuts.along
    if back > _BACK and share > most.value:
        now = cuts.along - cuts.depth
        cost = 1.0 - now / (cuts.along * (1.0 - constant("shallow_depth").value))  # (5)
        yield Limit("deep_back", Verdict.OVER, exactly(share), exactly(most.value), About(factor=cost))
    yield from _unsound(plan)


_BACK = math.radians(1.0)  # lean away from the lay from which it is called a back leaner


def _unsound(plan: FellingInput) -> Iterator[Limit]:
    """Share of the hinge that lies in a cavity or decay at the height of the cut; hinge (20)."""
    cuts, stump = plan.cuts, plan.cuts.stump
    chord = 2.0 * math.sqrt(max(cuts.depth / cuts.along - (cuts.depth / cuts.along) ** 2, 0.0)) * cuts.across
    allowed = constant("sound_share")
    for cavity in plan.tree.cavities:
        if not cavity.low - constant("decay_spreads").value <= stump <= cavity.high + constant("decay_spreads").value:
            continue
        off = abs(cuts.along / 2.0 - cuts.depth - cuts.hinge / 2.0)
        half = math.sqrt(max((cavity.across / 2.0) ** 2 - off**2, 0.0))
        share = exactly(min(2.0 * half / chord, 1.0) if chord > 0.0 else 1.0, Kind.ESTIMATED)  # (20)
        verdict = Verdict.OVER if share.value > allowed.value else Verdict.WITHIN
        yield Limit("hinge_decay", verdict, share, allowed, About(why="decayed" if cavity.decayed else "hollow"))
