"""The ground a lay needs: footprint, clearance to targets, work zone, escape paths, and which lays are open."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import shapely
from shapely.geometry import Polygon

from treecore.errors import between
from treecore.estimate import COVERAGE, Estimate
from treecore.schools import constant, school
from treecore.site import Silhouette, Site, Target, clear_path, lying, place, swept
from treecore.tree.body import TreeInput
from treecore.verdict import Verdict


@dataclass(frozen=True, slots=True)
class Clearance:
    """A target against the swept footprint: gap [m], 0 when reached."""

    target: Target
    gap: float
    verdict: Verdict


@dataclass(frozen=True, slots=True)
class Escape:
    """One escape path: bearing [rad], clear length [m], what stops it, its end point [m], and
    whether that is enough.
    """

    side: str
    azimuth: float
    clear: float
    stopped_by: str
    end: tuple[float, float]
    enough: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """What a lay needs of the ground. Lengths [m], angles [rad]; outlines in site coordinates."""

    outline: tuple[tuple[float, float], ...]
    covered: tuple[tuple[tuple[float, float], ...], ...]
    reach: float
    scatter: float
    zone_radius: float
    clearances: tuple[Clearance, ...]
    escapes: tuple[Escape, Escape]
    better_escape: str
    in_zone: tuple[str, ...]
    tip_aside: float
    tip: tuple[float, float]


def silhouette(tree: TreeInput, height: Estimate, aside: float, stump: float, *, upper: bool = False) -> Silhouette:
    """Sizes of the tree above a cut, for its outline lying or standing.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    height : Estimate
        Its height. [m]
    aside, stump : float
        How far the tip stands to the right; height of the cut. [m]
    upper : bool
        Take the upper bounds of height and spread.
    """
    tall = (height.high if upper else height.value) - stump
    half = tree.half_crown.high if upper else tree.half_crown.value
    base = min(max(tree.crown_base_share * tree.height.value - stump, 0.1), 0.9 * tall)
    return Silhouette(
        length=tall,
        crown_from=base,
        half_crown=half,
        half_stem=tree.diameter.value / 2.0,
        aside=aside,
        form=tree.kind.form,
    )


def covered_ground(
    site: Site, azimuth: float, tree: TreeInput, height: Estimate, aside: float, stump: float
) -> Polygon:
    """Ground the tree may cover when laid along a bearing, at the upper bounds of length, spread and scatter.

    Parameters
    ----------
    site : Site
        The site.
    azimuth : float
        Bearing. [rad]
    tree : TreeInput
        The tree.
    height : Estimate
        Its height. [m]
    aside : float
        How far the tip stands to the right. [m]
    stump : float
        Height of the cut. [m]

    References
    ----------
    docs/methods.md, site (2): two standard deviations of the aim each way.
    """
    scatter = COVERAGE * constant("aim_scatter").value  # (2)
    return swept(site, azimuth, scatter, silhouette(tree, height, aside, stump, upper=True))


def _clearances(site: Site, covered: Polygon) -> tuple[Clearance, ...]:
    gaps = shapely.distance(site.shapes, covered).tolist() if site.targets else []
    found = [_judged(target, gap) for target, gap in zip(site.targets, gaps, strict=True)]
    return tuple(sorted(found, key=lambda c: c.gap))


def _judged(target: Target, gap: float) -> Clearance:
    if gap <= 0.0:
        return Clearance(target, 0.0, Verdict.NEAR if target.light_touch else Verdict.OVER)
    return Clearance(target, gap, Verdict.NEAR if gap < constant("clearance_near").value else Verdict.WITHIN)


@lru_cache(maxsize=64)
def lay_ground(
    site: Site,
    lay: float,
    tree: TreeInput,
    height: Estimate,
    aside: Estimate,
    zone: str,
    stump: float,
    side: float | None = None,
    bend: float = 0.0,
) -> Ground:
    """Work out the ground a lay needs.

    Parameters
    ----------
    site : Site
        The site.
    lay : float
        Bearing of the lay. [rad]
    tree : TreeInput
        The tree.
    height, aside : Estimate
        Its height, and how far its tip stands to the right of the lay. [m]
    zone : str
        School of the work zone's radius.
    stump : float
        Height of the cut. [m]
    side : float, optional
        Moment that takes the tree to the right of the lay, of stem, crown and all that pulls; its tip's place where
        that is not known. [N·m]
    bend : float
        Turn of the lay by a tapered hinge and a cut past the apex, to the right positive: it comes down that far off.
        [rad]

    References
    ----------
    docs/methods.md, site (2) to (4).
    """
    falls = lay + bend
    covered = covered_ground(site, falls, tree, height, aside.value, stump)
    radius = school("zone", zone).usual * height.high  # (3)
    nominal = silhouette(tree, height, aside.value, stump, upper=False)
    return Ground(
        outline=lying(site, falls, nominal),
        covered=_outlines(covered),
        reach=height.high - stump,
        scatter=COVERAGE * constant("aim_scatter").value,
        zone_radius=radius,
        clearances=_clearances(site, covered),
        escapes=(_escape(site, lay, "left"), _escape(site, lay, "right")),
        # Away from where it is taken to the side: the butt and the crown's limbs go that way first.
        better_escape="left" if (aside.value if side is None else side) > 0.0 else "right",
        in_zone=_within(site, radius),
        tip_aside=aside.value,
        tip=place(site, falls, nominal.length, aside.value),
    )


def _within(site: Site, radius: float) -> tuple[str, ...]:
    if not site.targets:
        return ()
    near = shapely.distance(site.shapes, site.stem) < radius
    return tuple(t.name for t, inside in zip(site.targets, near.tolist(), strict=True) if inside)


def _outlines(covered: Polygon) -> tuple[tuple[tuple[float, float], ...], ...]:
    parts = shapely.get_parts(covered)
    return tuple(tuple((x, y) for x, y in shapely.get_coordinates(part).tolist()) for part in parts)


def _escape(site: Site, lay: float, side: str) -> Escape:
    turn = math.pi - constant("escape_angle").value  # (4)
    azimuth = (lay + (turn if side == "right" else -turn)) % math.tau
    length = constant("escape_length").value
    clear, stopped = clear_path(site, azimuth, 2.0 * length)
    return Escape(side, azimuth, clear, stopped, place(site, azimuth, length, 0.0), clear >= length)


@dataclass(frozen=True, slots=True)
class OpenLay:
    """One bearing [rad] tried: smallest gap [m], to what, and the verdict."""

    azimuth: float
    gap: float
    nearest: str
    verdict: Verdict


def open_lays(site: Site, tree: TreeInput, stump: float, steps: int = 72) -> tuple[OpenLay, ...]:
    """Try every bearing round the tree for a whole felling.

    Parameters
    ----------
    site : Site
        The site.
    tree : TreeInput
        The tree.
    stump : float
        Height of the cut. [m]
    steps : int
        Bearings tried. [-]

    Raises
    ------
    OutOfRange
        Unless 8 to 720 steps.
    """
    between("steps", steps, 8, 720)
    lays = []
    for i in range(steps):
        azimuth = math.tau * i / steps
        aside = math.tan(tree.lean) * math.sin(tree.lean_azimuth - azimuth) * tree.stands.value
        ground = covered_ground(site, azimuth, tree, tree.stands, aside, stump)
        found = _clearances(site, ground)
        rank = {Verdict.OVER: 2, Verdict.NEAR: 1, Verdict.WITHIN: 0}
        worst = max(found, key=lambda c: (rank[c.verdict], -c.gap), default=None)
        lays.append(
            OpenLay(azimuth, worst.gap, worst.target.name, worst.verdict)
            if worst
            else OpenLay(azimuth, math.inf, "", Verdict.NOT_KNOWN)
        )
    return tuple(lays)
