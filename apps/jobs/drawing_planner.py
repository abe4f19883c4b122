"""A standing tree from a side, by the core: places are how far right of the stem's foot, and how high [m]."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from treecore.tree.assumed import AssumedLimb
from treecore.tree.body import TreeInput
from treecore.tree.crown import half_widths
from treecore.tree.limb import LimbFigure
from treecore.tree.shaping import across_view, axis_at
from treecore.tree.weigh import TreeResult

Flat = tuple[float, float]
Place = tuple[float, float, float]
_STEPS = 16  # heights between which the stem is drawn straight


@dataclass(frozen=True)
class Spar:
    """A limb as a narrow triangle: its corners, its union and its tips, how far behind the stem it lies [m], and how
    thick it is at its union [m].
    """

    corners: tuple[Flat, ...]
    foot: Flat
    tip: Flat
    deep: float
    thick: float


@dataclass(frozen=True, kw_only=True)
class TreeView:
    """A tree from a side: its crown as far as it is assumed, its stem and cavities, its limbs each with its balance,
    where its own balance is and how far that may lie aside, and its top.
    """

    view: float
    crown: tuple[Flat, ...]
    stem: tuple[Flat, ...]
    cavities: tuple[tuple[tuple[Flat, ...], bool], ...]
    limbs: tuple[tuple[Spar, Flat], ...]
    assumed: tuple[Spar, ...]
    cg: float
    cg_slack: float
    tip: float
    axis: tuple[Flat, Flat]
    widths: tuple[float, ...]


def across_lean(tree: TreeInput) -> float:
    """The view in which the lean is seen in full, towards the right [rad]."""
    return (tree.lean_azimuth - math.pi / 2.0) % math.tau


def tree_view(
    tree: TreeInput,
    result: TreeResult,
    view: float,
    limbs: Sequence[LimbFigure] = (),
    assumed: Sequence[AssumedLimb] = (),
) -> TreeView:
    """The standing tree, seen by someone who faces the bearing ``view`` [rad]."""
    share = tree.width_along(view + math.pi / 2.0) / tree.diameter.value
    return TreeView(
        view=view,
        crown=_outline(tree, view) if tree.remainder.share > 0.0 and not tree.left else (),
        stem=_wood(tree, view, 0.0, tree.stem.top, lambda z: tree.stem.diameter_at(z) * share),
        cavities=tuple((_wood(tree, view, c.low, c.high, _as_wide(c.across), 1), c.decayed) for c in tree.cavities),
        limbs=tuple(_limb(tree, view, row, limb.diameter) for limb, row in zip(tree.limbs, limbs, strict=False)),
        assumed=tuple(_assumed(tree, view, row) for row in assumed),
        cg=across_view(view, result.east.value, result.north.value),
        cg_slack=_cg_slack(result, view),
        tip=across_view(view, *axis_at(tree, tree.stands.value)),
        axis=((0.0, 0.0), (across_view(view, *axis_at(tree, tree.stem.top)), tree.stem.top)),
        widths=tuple(tree.stem.diameter_at(tree.stem.top * i / _STEPS) * share for i in range(_STEPS + 1)),
    )


def _cg_slack(result: TreeResult, view: float) -> float:
    east, north = ((e.high - e.low) / 2.0 for e in (result.east, result.north))
    return math.hypot(east * math.cos(view), north * math.sin(view))


def _outline(tree: TreeInput, view: float) -> tuple[Flat, ...]:
    """The assumed crown's outline round its leaning axis."""
    foot = tree.crown_base_share * tree.height.value
    depth, half = tree.height.value - foot, tree.spread.value / 2.0
    off = across_view(view, tree.crown_east or 0.0, tree.crown_north or 0.0)
    rows = [(foot + depth * z, half * w) for z, w in half_widths(tree.kind.form)]
    return _both_sides([(across_view(view, *axis_at(tree, z)) + off, w, z) for z, w in rows])


def _wood(
    tree: TreeInput, view: float, low: float, high: float, width: Callable[[float], float], steps: int = _STEPS
) -> tuple[Flat, ...]:
    heights = [low + (high - low) * i / steps for i in range(steps + 1)]
    return _both_sides([(across_view(view, *axis_at(tree, z)), width(z) / 2.0, z) for z in heights])


def _as_wide(across: float) -> Callable[[float], float]:
    return lambda _: across


def _both_sides(rows: Sequence[tuple[float, float, float]]) -> tuple[Flat, ...]:
    """An outline from its middle, half its width, and height: up on the right, down on the left."""
    return (*((x + w, z) for x, w, z in rows), *((x - w, z) for x, w, z in reversed(rows)))


def _spar(tree: TreeInput, view: float, base: Place, tip: Place, thick: float, root: float) -> Spar:
    lean = axis_at(tree, root)
    x0, x1 = (across_view(view, p[0] + lean[0], p[1] + lean[1]) for p in (base, tip))
    run = math.hypot(x1 - x0, tip[2] - base[2]) or 1.0
    nx, nz = -(tip[2] - base[2]) / run * thick / 2.0, (x1 - x0) / run * thick / 2.0
    corners = ((x0 + nx, base[2] + nz), (x0 - nx, base[2] - nz), (x1, tip[2]))
    deep = tip[0] * math.sin(view) + tip[1] * math.cos(view)
    return Spar(corners, (x0, base[2]), (x1, tip[2]), deep, thick)


def _limb(tree: TreeInput, view: float, row: LimbFigure, thick: float) -> tuple[Spar, Flat]:
    lean = axis_at(tree, row.root)
    balance = across_view(view, row.cg[0] + lean[0], row.cg[1] + lean[1]), row.cg[2]
    return _spar(tree, view, row.base, row.tip, thick, row.root), balance


def _assumed(tree: TreeInput, view: float, row: AssumedLimb) -> Spar:
    limb, (east, north, up) = row.limb, row.base
    level = math.cos(limb.rise) * limb.length
    tip = (
        east + level * math.sin(limb.azimuth),
        north + level * math.cos(limb.azimuth),
        up + math.sin(limb.rise) * limb.length,
    )
    return _spar(tree, view, row.base, tip, limb.diameter, row.root)
