"""The work of a tree from its geometry: each pick of a takedown, or a whole felling, as tasks with their amounts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from treecore.day.queueing import PickWork
from treecore.day.times import DENSITY, THROAT, Task, disc
from treecore.felling.inputs import FellingInput
from treecore.schools import constant
from treecore.site import Site
from treecore.takedown.members import Members, thickness
from treecore.takedown.pick import methods
from treecore.takedown.pick_result import HeldPick, Worked
from treecore.takedown.pieces import Piece
from treecore.tree.stem import Stem

Place = tuple[float, float, float]
Flat = tuple[float, float]
_LENGTH = 1.0  # wood too thick to chip is cut to such lengths, where nobody said another [m]
_MORE = {"hinge": 1.35, "reversed": 1.35, "side": 1.25, "step": 1.15, "top": 1.0}  # sawn area over the cross section


class Ground(NamedTuple):
    """What of the site the work needs: the length of the way out and where it begins [m], and the chipper's throat
    [m]; ``guessed`` that nobody drew a way.
    """

    way: float
    start: Flat | None
    throat: float
    guessed: bool


def ground_of(site: Site, throat: float = THROAT) -> Ground:
    """Return the way out of a site: as drawn, else straight from the tree to where vehicles stand, else a guess.

    Parameters
    ----------
    site : Site
        The site.
    throat : float
        Of the chipper. [m]
    """
    ways = [spot for spot in site.places if spot.kind == "way_out"]
    if ways:
        near = ways[0].shape.representative_point()
        return Ground(ways[0].length, (near.x - site.tree_x, near.y - site.tree_y), throat, False)
    parked = [spot.shape.centroid for spot in site.places if spot.kind == "parking"]
    if parked:
        return Ground(math.dist((site.tree_x, site.tree_y), (parked[0].x, parked[0].y)), None, throat, False)
    return Ground(constant("way_out_guess").value, None, throat, True)


def takedown_work(members: Members, picks: Sequence[Worked], ground: Ground) -> tuple[PickWork, ...]:
    """Return the work of picks in their order; docs/methods.md, day (1).

    Parameters
    ----------
    members : Members
        The tree's members.
    picks : sequence of Worked
        Worked out, in order.
    ground : Ground
        Way out and chipper.
    """
    found, last, rigged = [], (0.0, 0.0, 0.0), None
    hard = members.tree.kind.density.value / DENSITY
    for number, worked in enumerate(picks, start=1):
        here = worked.stand.stance if worked.stand and worked.stand.stance else last
        on = (worked.pick.on.member, worked.pick.on.at) if isinstance(worked, HeldPick) else None
        found.append(_pick(members, worked, ground, hard, number, (last, here), on is not None and on != rigged))
        last, rigged = here, on or rigged
    return tuple(found)


def _pick(
    members: Members,
    worked: Worked,
    ground: Ground,
    hard: float,
    number: int,
    way: tuple[Place, Place],
    anew: bool,
) -> PickWork:
    piece, lines = worked.piece, methods()[worked.pick.method].lines
    held = isinstance(worked, HeldPick)
    thin = chipped(members, piece, ground.throat)
    climbs = math.dist(*way) if worked.stand else 0.0
    area = disc(piece.diameter) * _MORE[worked.pick.cut.key]
    return PickWork(
        name=str(number),
        before=(Task("climb", climbs), Task("set_up", 1.0), Task("rig", float(anew))),
        tie=(Task("tie", float(lines)),),
        cut=(Task("call", 1.0), Task("cut", area, hard)),
        lower=(Task("lower", max(piece.cg[2], 0.0) if lines else 0.0),),
        untie=(Task("untie", float(lines)),),
        back=(Task("rope_back", worked.point[2] if isinstance(worked, HeldPick) else 0.0),),
        drag=(Task("drag", trips(piece.mass.value) * _carried(worked, ground, held)),),
        chip=(Task("chip", thin),),
        log=(Task("log", _log_cuts(members, piece, ground.throat), hard),),
    )


def trips(mass: float) -> int:
    """How often somebody walks with a piece.

    Parameters
    ----------
    mass : float
        Of the piece. [kg]
    """
    return max(math.ceil(mass / constant("carried_at_once").value), 1)


def _carried(worked: Worked, ground: Ground, held: bool) -> float:
    """How far a piece is carried: from where it comes down to the way, and along it [m]."""
    if ground.start is None:
        return ground.way
    landing = worked.pick.landing if held else None
    at = landing or (worked.piece.cg[0], worked.piece.cg[1])
    return ground.way / 2.0 + math.dist(at, ground.start)


def chipped(members: Members, piece: Piece, throat: float) -> float:
    """Return what of a piece a chipper takes: wood thinner than its throat, each member as a cone, and the leaves.

    Parameters
    ----------
    members : Members
        The tree's members.
    piece : Piece
        The piece.
    throat : float
        Of the chipper. [m]
    """
    total = 0.0
    for part in piece.parts:
        thick, end = (thickness(members, part.row, at) for at in (part.low, max(part.high - 1e-3, part.low)))
        total += part.mass * thin_share(thick, end, throat)
    return min(total, piece.mass.value)


def thin_share(thick: float, end: float, throat: float) -> float:
    """Return the share of a cone frustum that is thinner than a throat [-].

    Parameters
    ----------
    thick, end : float
        Diameters at its ends. [m]
    throat : float
        What is taken. [m]
    """
    if thick <= throat:
        return 1.0
    if end >= throat:
        return 0.0
    return float((throat**3 - end**3) / (thick**3 - end**3))


def thick_length(members: Members, piece: Piece, throat: float) -> float:
    """Return how much of a piece's wood is too thick for a throat, all its members together [m].

    Parameters
    ----------
    members : Members
        The tree's members.
    piece : Piece
        The piece.
    throat : float
        Of the chipper. [m]
    """
    return sum(_thick_until(members, part.row, part.low, part.high, throat) - part.low for part in piece.parts)


def _thick_until(members: Members, row: int, low: float, high: float, throat: float) -> float:
    """Where along a member it gets thinner than a throat, within its part of a piece [m]."""
    last = max(high - 1e-3, low)
    if thickness(members, row, low) <= throat:
        return low
    if thickness(members, row, last) > throat:
        return high
    near, far = low, last
    for _ in range(40):
        middle = (near + far) / 2.0
        near, far = (middle, far) if thickness(members, row, middle) > throat else (near, middle)
    return far


def thick_stem(stem: Stem, length: float, throat: float) -> float:
    """Return how much of a lying stem is too thick for a throat [m].

    Parameters
    ----------
    stem : Stem
        The stem, thinner towards its top.
    length : float
        Of it, from the cut. [m]
    throat : float
        Of the chipper. [m]
    """
    last = min(length, 0.98 * stem.top)
    if stem.diameter_at(last) > throat:
        return length
    low, high = 0.0, last
    for _ in range(40):
        middle = (low + high) / 2.0
        low, high = (middle, high) if stem.diameter_at(middle) > throat else (low, middle)
    return high


def _log_cuts(members: Members, piece: Piece, throat: float) -> float:
    """Sawn area of the cuts that make wood too thick to chip into lengths [m2]."""
    area = 0.0
    for part in piece.parts:
        at = part.low + _LENGTH
        while at < part.high and (thick := thickness(members, part.row, at)) > throat:
            area += disc(thick)
            at += _LENGTH
    return area


def felling_work(given: FellingInput, crown: float, lines: int, length: float, ground: Ground) -> PickWork:
    """Return the work of a felling as one piece; docs/methods.md, day (4).

    Parameters
    ----------
    given : FellingInput
        The plan.
    crown : float
        Limbs and leaves. [kg]
    lines : int
        Pull and guy lines that are set. [-]
    length : float
        Of the stem that is made into logs. [m]
    ground : Ground
        Way out and chipper.
    """
    cuts, hard = given.cuts, given.tree.kind.density.value / DENSITY
    notch = segment(cuts.along, cuts.across, cuts.depth)
    back = segment(cuts.along, cuts.across, cuts.along - cuts.depth - cuts.hinge)
    stem = given.tree.stem
    count = max(int(length / _LENGTH), 0)
    logs = sum(disc(stem.diameter_at(min(i * _LENGTH, 0.98 * stem.top))) for i in range(1, count + 1))
    return PickWork(
        name="felling",
        before=(Task("clear", 1.0), Task("line", float(lines))),
        tie=(),
        cut=(
            Task("call", 1.0),
            Task("cut", 2.0 * notch + back, hard),
            Task("wedge", float(given.wedges.count)),
            Task("fall", 1.0),
        ),
        lower=(),
        untie=(),
        back=(),
        drag=(Task("limb_up", crown), Task("drag", trips(crown) * ground.way)),
        chip=(Task("chip", crown),),
        log=(Task("log", logs, hard),),
    )


def segment(along: float, across: float, depth: float) -> float:
    """Area a straight cut of some depth takes of an oval [m2].

    Parameters
    ----------
    along, across : float
        Its axes, along the cut's depth and across it. [m]
    depth : float
        How far in. [m]

    References
    ----------
    Circular segment, stretched: (θ − sin θ)/8·along·across with cos(θ/2) = 1 − 2·depth/along.
    """
    share = min(max(1.0 - 2.0 * depth / along, -1.0), 1.0)
    angle = 2.0 * math.acos(share)
    return (angle - math.sin(angle)) / 8.0 * along * across
