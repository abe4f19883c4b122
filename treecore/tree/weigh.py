"""What a person first wants of a tree: mass, balance and how far it hangs over."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from treecore.errors import Column
from treecore.estimate import Estimate, Kind, exactly, product, propagate, times
from treecore.figures import Figure, Term
from treecore.schools import constant
from treecore.tree.assumed import with_assumed
from treecore.tree.body import (
    Body,
    TreeInput,
    body_above,
    crown_ratio,
    foliage_carried,
    relative_spread,
    uncertain,
    wind_share,
)
from treecore.tree.limb import LimbFigure, LimbTable, limb_table
from treecore.tree.stem import Stem


@dataclass(frozen=True, slots=True, kw_only=True)
class TreeResult:
    """The standing tree. ``east``, ``north``: offset of the CG from the stem's foot [m]."""

    mass: Figure
    stem_mass: Figure
    crown_mass: Figure
    whole_crown: Estimate  # the assumed crown as if nothing of it were replaced [kg]
    cg_height: Figure
    cg_offset: Figure
    top_offset: Figure
    inertia: Figure
    wind_area: Figure
    wind_height: Figure
    east: Estimate
    north: Estimate
    crown_base: float
    stem: Stem

    @property
    def figures(self) -> tuple[Figure, ...]:
        """Every figure in reading order."""
        return (
            self.mass,
            self.stem_mass,
            self.crown_mass,
            self.cg_height,
            self.cg_offset,
            self.top_offset,
            self.inertia,
            self.wind_area,
            self.wind_height,
        )


def lean_inputs(tree: TreeInput, azimuth: float) -> dict[str, Estimate]:
    """Uncertain lean and crown offset along a bearing and to its right.

    Parameters
    ----------
    tree : TreeInput
        The tree.
    azimuth : float
        Bearing of the forward direction. [rad]

    Returns
    -------
    dict of Estimate
        ``lean_along``, ``lean_across``: tangent of the lean [-]; ``crown_along``, ``crown_across``: offset of the
        crown's centre from the leaning axis [m].
    """
    turn = tree.lean_azimuth - azimuth
    slack = math.tan(constant(f"lean_{tree.lean_kind.value}").high)
    lean = math.tan(tree.lean)
    plumbed = tree.crown_east is not None and tree.crown_north is not None
    east, north = tree.crown_east or 0.0, tree.crown_north or 0.0
    loose = tree.spread.value * constant("lopsided").high * (0.5 if plumbed else 1.0)
    kind = Kind.MEASURED if plumbed else Kind.ASSUMED
    along = north * math.cos(azimuth) + east * math.sin(azimuth)
    across = east * math.cos(azimuth) - north * math.sin(azimuth)
    ahead, aside = lean * math.cos(turn), lean * math.sin(turn)
    return {
        "lean_along": Estimate(ahead, ahead - slack, ahead + slack, tree.lean_kind),
        "lean_across": Estimate(aside, aside - slack, aside + slack, tree.lean_kind),
        "crown_along": Estimate(along, along - loose, along + loose, kind),
        "crown_across": Estimate(across, across - loose, across + loose, kind),
    }


def cg_offsets(body: Body, x: dict[str, Column], cut: float, azimuth: float) -> tuple[Column, Column]:
    """Offset of the CG from the stem's centre at the cut, along and across [m]; docs/methods.md, crown (5).

    Parameters
    ----------
    body : Body
        The tree above the cut.
    x : dict of Column
        Values for the names of ``lean_inputs``. [SI]
    cut : float
        Height of the cut. [m]
    azimuth : float
        Bearing ``along`` points to, as given to ``lean_inputs``. [rad]

    References
    ----------
    First moments about the cut's centre.
    """
    lever, share = body.axis_height - cut, body.assumed / body.mass
    s, c = math.sin(azimuth), math.cos(azimuth)
    return (
        lever * x["lean_along"] + share * x["crown_along"] + body.north * c + body.east * s,
        lever * x["lean_across"] + share * x["crown_across"] + body.east * c - body.north * s,
    )  # (5)


def weigh(tree: TreeInput) -> TreeResult:
    """Weigh the standing tree.

    Parameters
    ----------
    tree : TreeInput
        The tree.

    Raises
    ------
    OutOfRange
        If the body can't be modelled.
    """
    inputs = uncertain(tree) | lean_inputs(tree, 0.0)

    def model(x: dict[str, Column]) -> dict[str, Column]:
        body = body_above(tree, x, 0.0)
        north, east = cg_offsets(body, x, 0.0, 0.0)
        top = tree.tip(x) * np.hypot(x["lean_along"], x["lean_across"])
        off, aside = _turned(north, east)
        top_off, top_aside = (tree.tip(x) * part for part in _turned(x["lean_along"], x["lean_across"]))
        return {
            "mass": body.mass,
            "stem_mass": body.stem_mass,
            "crown_mass": body.crown_mass,
            "cg_height": body.cg_height,
            "cg_offset": np.hypot(north, east),
            "top_offset": top,
            "inertia": body.inertia,
            "wind_area": body.wind_area,
            "wind_height": body.wind_height,
            "north": north,
            "east": east,
            "assumed": body.assumed,
            "axis_height": body.axis_height,
            "cg_offset_along": off,
            "cg_offset_aside": aside,
            "top_offset_along": top_off,
            "top_offset_aside": top_aside,
        }

    found = propagate(model, inputs)

    def est(name: str) -> Estimate:
        return found[name].estimate() if name in ("north", "east") else found[name].size()

    def size(name: str) -> Estimate:
        return size_of(found[f"{name}_along"].estimate(), found[f"{name}_aside"].estimate())

    terms = _terms(tree, {name: s.value for name, s in found.items()})

    def figure(key: str, label: str, dim: str, formula: str, names: str, source: str) -> Figure:
        chosen = tuple(terms[n] for n in names.split())
        return Figure(
            key=key,
            label=label,
            estimate=size(key) if f"{key}_along" in found else est(key),
            dimension=dim,
            formula=formula,
            terms=chosen,
            source=source,
            widest=found[key].widest,
        )

    curve = f"Stem: Ormerod 1973, docs/methods.md stem (2). Density: {tree.kind.density_source}."
    share = tree.remainder.share
    # The spread widens the outline; in the mass it is a factor already.
    outline = product(est("wind_area"), relative_spread(tree))
    return TreeResult(
        mass=figure("mass", "Whole tree", "mass", "m = m_s + m_c", "m_s m_c", curve),
        stem_mass=figure(
            "stem_mass",
            "Stem",
            "mass",
            "m_s = ρ · ∫ π/4 · d(z)² dz, d(z) = D · ((H−z)/(H−breast height))^p",
            "rho D H p",
            curve,
        ),
        crown_mass=figure(
            "crown_mass",
            "Crown",
            "mass",
            "m_c = m_s · ratio · spread / usual spread · share still assumed + measured limbs",
            "m_s c S Su n",
            tree.group.source,
        ),
        cg_height=figure(
            "cg_height",
            "Balance (CG) height",
            "length",
            "z = (m_s·z_s + m_c·z_c) / m",
            "m_s m_c",
            "First moments; docs/methods.md crown (4)",
        ),
        cg_offset=figure(
            "cg_offset",
            "Balance (CG) off the foot",
            "offset",
            "e = z_a · tan(lean) + m_c/m · crown offset, limbs at their unions’ height",
            "z_a L m_c",
            "First moments; docs/methods.md crown (5)",
        ),
        top_offset=figure(
            "top_offset", "Top off the foot", "offset", "o = H · tan(lean)", "H L", "Straight leaning stem"
        ),
        inertia=figure(
            "inertia",
            "Inertia about the foot",
            "inertia",
            "I = ∫ z² dm, and half the crown’s width squared",
            "m z",
            "Second moments; docs/methods.md crown (7)",
        ),
        wind_area=figure(
            "wind_area",
            "Wind area",
            "area",
            "A = stem below the crown + outline · share felt",
            "S depth w",
            "docs/methods.md wind (1) to (3)",
        )._replace(estimate=outline),
        wind_height=figure(
            "wind_height",
            "Middle of the wind area",
            "length",
            "z_w, first moment of the area",
            "S depth w",
            "docs/methods.md wind (1) to (3)",
        ),
        whole_crown=times(est("assumed"), 1.0 / share) if share else exactly(0.0, Kind.ASSUMED),
        north=est("north"),
        east=est("east"),
        crown_base=tree.crown_base_share * tree.height.value,
        stem=tree.stem,
    )


def _turned(north: Column, east: Column) -> tuple[Column, Column]:
    """Parts of an offset along its central direction and square to it, under every move."""
    at = [float(np.ravel(part)[0]) for part in (north, east)]
    size = math.hypot(*at)
    c, s = (at[0] / size, at[1] / size) if size > 1e-9 else (1.0, 0.0)
    return north * c + east * s, east * c - north * s


def size_of(out: Estimate, aside: Estimate) -> Estimate:
    """Size of an offset from its parts, which may change sign: its interval is not folded; docs/methods.md, intervals
    (4).

    Parameters
    ----------
    out, aside : Estimate
        Its part along the central direction and the one square to it. [one unit]

    References
    ----------
    A round scatter about nothing holds 95 % within 2.45 standard deviations (Rayleigh): two along and the root of two
    aside. Shortest is nothing where the part along may change sign.
    """
    far = math.hypot(out.high, max(aside.high, -aside.low) / math.sqrt(2.0))
    return Estimate(abs(out.value), max(out.low, 0.0), far, Kind.ESTIMATED)


def _terms(tree: TreeInput, values: dict[str, float]) -> dict[str, Term]:
    group = tree.group
    density = tree.kind.density.value * tree.condition.density.value
    return {
        "rho": Term("ρ", "green density in this state", density, "density"),
        "D": Term("D", "diameter at breast height", tree.diameter.value, "girth"),
        "H": Term("H", "height", tree.height.value, "length"),
        "p": Term("p", "taper exponent", group.taper.value, "ratio"),
        "m_s": Term("m_s", "stem", values["stem_mass"], "mass"),
        "m_c": Term("m_c", "crown", values["crown_mass"], "mass"),
        "c": Term(
            "ratio",
            "crown over stem, published, with the group's scale",
            float(crown_ratio(group, tree.diameter.value, foliage_carried(tree))) * group.crown_scale.value,
            "ratio",
        ),
        "n": Term("share", "of the crown still assumed; the rest are measured limbs", tree.remainder.share, "share"),
        "m": Term("m", "whole tree", values["mass"], "mass"),
        "depth": Term("depth", "of the crown", tree.height.value * (1.0 - tree.crown_base_share), "length"),
        "w": Term("share felt", "of the outline in this state", wind_share(tree).value, "ratio"),
        "S": Term("spread", "crown spread", tree.spread.value, "length"),
        "Su": Term("usual spread", "for this diameter", group.spread_per_diameter * tree.diameter.value, "length"),
        "z": Term("z", "CG height", values["cg_height"], "length"),
        "z_a": Term("z_a", "mean height on the axis, measured limbs at their unions", values["axis_height"], "length"),
        "L": Term("lean", "of the stem", tree.lean, "fine_angle"),
    }


def limb_rows(tree: TreeInput) -> tuple[LimbFigure, ...]:
    """Weigh every measured limb with all that grows on it.

    Parameters
    ----------
    tree : TreeInput
        The tree.

    References
    ----------
    docs/methods.md, limb (1) to (4).
    """
    if not tree.limbs:
        return ()
    table = limb_figures(tree)
    return tuple(table.row(i) for i in range(len(tree.limbs)))


def limb_figures(tree: TreeInput) -> LimbTable:
    """Weigh every measured limb with all that grows on it, as arrays; leads carry their part of the assumed crown.

    Parameters
    ----------
    tree : TreeInput
        The tree; at least one limb.

    References
    ----------
    docs/methods.md, limb (1) to (4), crown (6).
    """
    where = tree.placed
    if tree.fork is not None and tree.remainder.share > 0.0:
        where = with_assumed(tree)
    return limb_table(tree.limbs, where, uncertain(tree)["density"], tree.group.limb_foliage, foliage_carried(tree))
