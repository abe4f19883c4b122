"""The figures of a felling plan: labels, formulas with this case's values, sources."""

from __future__ import annotations

from typing import NamedTuple

from treecore.estimate import Estimate, exactly
from treecore.felling.balance import bearing_lever, pivot_offset, wedge_arm
from treecore.felling.hinge import hinge_wood, holding_shape, sound_length
from treecore.felling.inputs import FellingInput, Point
from treecore.felling.notch import aim_off
from treecore.figures import Figure, Term
from treecore.schools import constant
from treecore.species import hinge_qualities
from treecore.units import GRAVITY
from treecore.workzone import Ground


class _Row(NamedTuple):
    key: str
    label: str
    dimension: str
    formula: str
    terms: str
    source: str


_BEAM = "Section moduli of a rectangle; docs/methods.md hinge "
_STATICS = "Statics about the hinge's middle; docs/methods.md balance "
_ROWS = (
    _Row("hinge_length", "Hinge length", "cut", "ℓ = 2 · b · √(f − f²), f = depth / a", "b a depth",
    "Chord of an ellipse; docs/methods.md notch (1)"),
    _Row("thin", "Thin limit: holds sideways", "cut", "t = greatest of the side moment with what acts at once, twist "
                                                      "alone, and a floor", "M_most crush_s fv_s MOR k l g",
                                                      _BEAM + "(14) to (19)"),
    _Row("thin_joint", "Side moment with pressing, twist and shear", "cut", "((σ_b/k·MOR) + (σ_c/f_c)²)² + ((T/T_p) + "
    "(τ/f_v)²)² = 1", "M_most k MOR crush_s fv_s l g", _BEAM + "(15), (16)"),
    _Row("thin_twist", "Twist alone", "cut", "T = τ · t² · (3ℓ − t) / 6", "T_most tw l", _BEAM + "(14)"),
    _Row("thin_floor", "Floor, custom", "cut", "t = greater of the least and D/25", "a", _BEAM + "(19), own choice"),
    _Row("side_most", "Side moment at its worst, upright", "moment", "M = W · y at its worst + gust + pull at its "
    "worst", "W M_side s_wind", "docs/methods.md hinge (18)"),
    _Row("side_ends", "Lean, crown and pull at their ends, nothing helping", "moment", "M at its worst − |M in a "
    "calm| − gust", "M_most M_side s_wind", "docs/methods.md ledger (10)"),
    _Row("side_holds", "Side moment this hinge holds", "moment", "M beside pressing, twist and shear", "k MOR l t g",
    _BEAM + "(16)"),
    _Row("hold_turn", "Hinge must hold up to a turn of", "angle", "first of commitment, closing, parting", "opening",
    _BEAM + "(17)"),
    _Row("thick", "Thick limit: still bends", "cut", "t = √(6 · M_left / (MOR · (ℓ − h)) − taper²/12)",
    "M_left MOR l h taper", _BEAM + "(3), (4), (6); its lower end at four ninths more bending"),
    _Row("back_offset", "Balance behind the pivot", "offset", "b = D/2 − depth − t/2 − x_cg", "a depth t x_cg",
    _STATICS + "(1)"),
    _Row("weight_moment", "Weight", "moment", "M = −W · b", "W back", _STATICS + "(1)"),
    _Row("hinge_moment", "Bending the hinge", "moment", "M = MOR · (ℓ − h) · (t² + taper²/12) / 6", "MOR l h t taper",
    _BEAM + "(2), (4); upper end fully plastic, /4"),
    _Row("wind_along", "Gust against the lay", "moment", "M = −½ · ρ · c_d · A · (G · v)² · z_w, its part against; a "
                                                         "helping wind is nothing", "v G", "docs/methods.md gusts "
                                                         "(1), (2)"),
    _Row("wind_with", "Gust with the lay, not counted as help", "moment", "M = ½ · ρ · c_d · A · (G · v)² · z_w, its "
    "part with the lay", "v G", "docs/methods.md gusts (1), (2)"),
    _Row("pull_along", "Pull line", "moment", "M = z · F_x − x · F_z at the tie point", "F tie", _STATICS + "(5)"),
    _Row("wedge_moment", "Wedges at their usual lift", "moment", "M = n · F_w · a", "n F_w lever", _STATICS + "(2)"),
    _Row("needed", "Needed to go over", "moment", "M = W · b + hinge + gust against", "W back M_h wind",
    _STATICS + "(1), hinge (2)"),
    _Row("available", "At hand", "moment", "M = pull + wedges", "pull wedges", _STATICS + "(2), (5)"),
    _Row("margin", "Left over", "moment", "M = at hand − needed", "avail need", _STATICS + "(1) to (5)"),
    _Row("side_moment", "Side moment in a calm", "moment", "M = W · y_cg + pull off-line + guy line + wedges",
    "W y_cg s_pull s_guy s_wedge", "Statics; docs/methods.md ledger (1)"),
    _Row("wedge_side", "Wedges to one side", "moment", "M = −F · y of the wedges", "F_all", "docs/methods.md balance "
    "(8)"),
    _Row("m_lean", "Lean, along the lay", "moment", "M = W · (z_a − stump) · tan(lean along)", "W lean_t",
    "docs/methods.md ledger (5)"),
    _Row("m_crown", "Crown and limbs, along", "moment", "M = W · x_cg − lean", "W x_cg m_lean", "docs/methods.md "
    "ledger (5)"),
    _Row("m_pivot", "Pivot off the centre", "moment", "M = −W · (D/2 − depth − t/2)", "W a depth t",
    "docs/methods.md ledger (5)"),
    _Row("s_lean", "Lean, across the lay", "moment", "M = W · (z_a − stump) · tan(lean across)", "W",
    "docs/methods.md ledger (5)"),
    _Row("s_crown", "Crown and limbs, across", "moment", "M = W · y_cg − lean", "W y_cg", "docs/methods.md ledger (5)"),
    _Row("s_oval", "Hinge off the stem’s middle", "moment", "M = −W · k · pivot on a stem out of round", "W",
    "docs/methods.md notch (6)"),
    _Row("wind_across", "Gust across, to the worse side", "moment", "M = ½ · ρ · c_d · A · (G · v)² · z_w, its part "
    "across", "v G", "docs/methods.md gusts (1), (2)"),
    _Row("pull_across", "Pull off the lay", "moment", "M = z · F_y − y · F_z at the tie point", "F tie",
    _STATICS + "(5)"),
    _Row("guy_along", "Guy line, along the lay", "moment", "its tension × its lever along", "guy_T",
    "docs/methods.md guy (2)"),
    _Row("guy_across", "Guy line, across the lay", "moment", "its tension × its lever across", "guy_T",
    "docs/methods.md guy (2)"),
    _Row("guy_tension", "Tension in the guy line, in a calm", "force", "T = M_side / (h · cos φ), no more than its "
    "limit", "guy_T", "docs/methods.md guy (1), (2)"),
    _Row("guy_wanted", "Tension a gust asks of the guy line", "force", "T = (M_side + gust) / (h · cos φ)",
    "guy_T s_wind", "docs/methods.md guy (1)"),
    _Row("twist", "Greatest twist at the hinge", "moment", "M = W · y at its worst · sin(turn)", "W y_cg hold",
    "docs/methods.md guy (4), hinge (17)"),
    _Row("gust", "Gust that uses up what is left", "speed", "v = √(M_left / (½ · ρ · c_d · A · z_w)), from the worst "
    "side", "margin", "docs/methods.md ledger (6)"),
    _Row("root_moment", "Moment on the root plate", "moment", "pull, weight and gust about the stem's foot, along and "
    "across", "W x_cg", "docs/methods.md root plate (1)"),
    _Row("shear", "Shear in the hinge from the pull", "fine_strength", "τ = 1.5 · F_level / ((ℓ − h) · t)",
    "F_level l h t", _BEAM + "(10)"),
    _Row("turn_hinge", "Tapered hinge turns the lay", "fine_angle", "−atan(taper / 2ℓ), to the thicker end", "taper l",
    _BEAM + "(7)"),
    _Row("turn_bypass", "Bypass turns the lay", "fine_angle", "atan(other end / 2ℓ), away from it", "bypass l",
    _BEAM + "(8)"),
    _Row("lift", "Wedge lift until the weight commits", "cut", "lift = a · tan(turn at which it commits)",
    "lever commit_t", _STATICS + "(3)"),
    _Row("wedge_force", "Force under the wedges", "force", "F = (needed − pull) / a", "needed pull lever",
    _STATICS + "(2)"),
    _Row("wedge_each", "Force per wedge", "force", "F / n", "F_all n", _STATICS + "(2)"),
    _Row("drive", "Driving force per wedge", "force", "P = F · 2 · tan(α/2 + arctan μ)", "F_each alpha mu",
    "Wedge with friction; docs/methods.md balance (4)"),
    _Row("closing", "Notch closes, past upright", "angle", "opening + forward lean", "opening lean",
    "docs/methods.md notch (2)"),
    _Row("commit", "Weight commits, past upright", "angle", "lean + arctan(b / z_cg) + arcsin((M_h + gust) / (W · r))",
    "back z_cg M_h wind W", _STATICS + "(7)"),
    _Row("ground", "Meets the ground, past upright", "angle", "90° + falling ground", "ground", "docs/methods.md "
    "notch (3)"),
    _Row("mass", "Tree above the cut", "mass", "stem above the cut + crown", "mass", "docs/methods.md stem (2), crown "
    "(2)"),
    _Row("cg_height", "Balance (CG) above the cut", "length", "z_cg, first moments", "z_cg", "docs/methods.md crown "
    "(4)"),
    _Row("cg_along", "Balance along the lay, from the stem's centre", "offset", "x = z · tan(lean along) + m_c/m · "
    "crown offset", "z_cg x_cg", "docs/methods.md crown (5)"),
    _Row("cg_across", "Balance to the right of the lay", "offset", "y = z · tan(lean across) + m_c/m · crown offset",
    "z_cg y_cg", "docs/methods.md crown (5)"),
    _Row("length", "Length from the cut", "length", "H − stump", "H stump", "Geometry"),
)  # fmt: skip


_SPLIT = tuple((row, tuple(row.terms.split())) for row in _ROWS)


def _terms(plan: FellingInput, p: Point, e: dict[str, Estimate]) -> dict[str, Term]:
    cuts, strength = plan.cuts, plan.tree.kind.mor.value * plan.tree.condition.strength.value
    pivot = pivot_offset(cuts.along, cuts.depth, cuts.hinge)
    inside = constant("wedge_inside").value
    behind = wedge_arm(cuts.along, cuts.across, inside, plan.wedges.place, cuts.skew)[0]
    lever = float(bearing_lever(pivot, behind))
    rows = {
        "a": ("a", "diameter along the lay", cuts.along, "cut"),
        "b": ("b", "diameter across the lay", cuts.across, "cut"),
        "depth": ("depth", "of the notch", cuts.depth, "cut"),
        "t": ("t", "hinge thickness", cuts.hinge, "cut"),
        "l": ("ℓ", "hinge length less bark", float(sound_length(cuts, constant("bark").value)), "cut"),
        "k": ("k", f"strength kept while yielding, hinge “{plan.tree.kind.hinge}”", _kept(plan), "ratio"),
        "MOR": ("MOR", "green bending strength in this state", strength, "strength"),
        "M_side": ("M_side", "side moment in a calm", p.side_moment, "moment"),
        "M_most": ("M_side", "side moment at its worst", p.side_most, "moment"),
        "T_most": ("T", "twist at its worst", p.twist, "moment"),
        "tw": ("τ", "at which it twists off", constant("twist_strength").value * _wood(plan, "shear"), "fine_strength"),
        "crush_s": ("f_c", "pressed along the grain, in this state", _wood(plan, "compression"), "strength"),
        "fv_s": ("f_v", "sheared along the grain, in this state", _wood(plan, "shear"), "fine_strength"),
        "G": ("G", "gust over the mean wind", constant("gust_factor").value, "ratio"),
        "s_wedge": ("wedges", "to one side", p.wedge_side, "moment"),
        "hold": ("turn", "the hinge must hold up to", p.hold_turn, "angle"),
        "commit_t": ("turn", "at which it commits", p.commit - p.closing + cuts.opening, "fine_angle"),
        "M_left": ("M_left", "moment left after tipping", p.tip_margin, "moment"),
        "x_cg": ("x_cg", "balance forward of the stem's centre", p.cg_along, "offset"),
        "y_cg": ("y_cg", "balance to the right", p.cg_across, "offset"),
        "z_cg": ("z_cg", "balance above the hinge", p.cg_height, "length"),
        "g": ("g", "what taper and a hollow leave of an even hinge", _shape(plan, p), "ratio"),
        "h": ("h", "hole in the hinge", hinge_wood(cuts, plan.cavity).hole, "cut"),
        "taper": ("taper", "left end less right end", cuts.taper, "cut"),
        "bypass": ("bypass", "past the apex", cuts.bypass, "cut"),
        "s_wind": ("gust", "across the lay", p.wind_across, "moment"),
        "s_pull": ("pull", "across the lay", p.pull_across, "moment"),
        "s_guy": ("guy", "across the lay", p.guy_across, "moment"),
        "m_lean": ("lean", "moment along", p.m_lean, "moment"),
        "lean_t": ("lean", "forward, negative back", p.closing - cuts.opening, "fine_angle"),
        "guy_T": ("T", "tension of the guy line", p.guy_tension, "force"),
        "margin": ("left over", "along the lay", p.margin, "moment"),
        "F_level": ("F_level", "level part of the pull", p.level_pull, "force"),
        "W": ("W", "weight above the cut", p.mass * GRAVITY, "force"),
        "back": ("b", "balance behind the pivot", p.back_offset, "offset"),
        "M_h": ("hinge", "bending the hinge", p.hinge_moment, "moment"),
        "wind": ("gust", "moment against the lay", -p.wind_along, "moment"),
        "pull": ("pull", "moment of the line", p.pull_along, "moment"),
        "wedges": ("wedges", "moment of the wedges", p.wedge_moment, "moment"),
        "needed": ("W · b + hinge + gust", "needed", p.needed, "moment"),
        "avail": ("at hand", "pull and wedges", p.available, "moment"),
        "need": ("needed", "to go over", p.needed, "moment"),
        "v": ("v", "wind at crown height", plan.wind or 0.0, "speed"),
        "F": ("F", "force of the lines", sum(line.force for line in plan.lines), "force"),
        "tie": ("z", "tie above the ground", plan.lines[0].tie if plan.lines else 0.0, "length"),
        "n": ("n", "wedges side by side", float(plan.wedges.count), "count"),
        "F_w": ("F_w", "usual lift of one wedge", plan.wedges.sort.force.value, "force"),
        "F_all": ("F", "under the wedges", p.wedge_force, "force"),
        "F_each": ("F", "per wedge", p.wedge_each, "force"),
        "alpha": ("α", "angle of the wedge", plan.wedges.sort.taper, "fine_angle"),
        "mu": ("μ", "friction", plan.wedges.sort.friction.value, "ratio"),
        "lever": ("a", "hinge to where a wedge bears", lever, "cut"),
        "opening": ("opening", "of the notch", cuts.opening, "angle"),
        "lean": ("lean", "forward, negative back", p.closing - cuts.opening, "fine_angle"),
        "ground": ("falling ground", "along the lay", plan.site.falling_ground(plan.lay), "fine_angle"),
        "mass": ("m", "above the cut", p.mass, "mass"),
        "H": ("H", "height", plan.tree.height.value, "length"),
        "stump": ("stump", "height of the cut", cuts.stump, "cut"),
    }
    return {key: Term(*row) for key, row in rows.items()}


def _shape(plan: FellingInput, p: Point) -> float:
    wood = hinge_wood(plan.cuts, plan.cavity)
    return float(holding_shape(wood, p.side_moment, wood.length))


def _wood(plan: FellingInput, name: str) -> float:
    strength: Estimate = getattr(plan.tree.kind, name)
    return strength.value * plan.tree.condition.strength.value


def _kept(plan: FellingInput) -> float:
    return hinge_qualities()[plan.tree.kind.hinge].value


def figures_of(
    plan: FellingInput, e: dict[str, Estimate], widest: dict[str, str], p: Point, ground: Ground
) -> dict[str, Figure]:
    """Dress the computed quantities as figures with their why.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    e : dict of Estimate
        Computed quantities by name. [SI]
    widest : dict of str
        Input that widens each most.
    p : Point
        Central values. [SI]
    ground : Ground
        The ground the lay needs. [m]
    """
    terms = _terms(plan, p, e)
    figures = {
        row.key: Figure(
            key=row.key,
            label=row.label,
            estimate=e[row.key],
            dimension=row.dimension,
            formula=row.formula,
            terms=tuple([terms[t] for t in names]),
            source=row.source,
            widest=widest.get(row.key, ""),
        )
        for row, names in _SPLIT
    }
    return figures | _aims(e, plan.tree.stands, ground) | _room(plan)


def _aims(e: dict[str, Estimate], height: Estimate, ground: Ground) -> dict[str, Figure]:
    """Aim offsets for tip and CG, and what the lay needs of the ground."""
    out = {}
    for key, label, aside, reach in (
        ("aim_tip", "Aim off for the tip, to the left", "top_aside", "length"),
        ("aim_crown", "Aim off for the crown’s middle, to the left", "crown_aside", "crown_up"),
        ("aim_cg", "Aim off for the balance, to the left", "cg_across", "cg_height"),
    ):
        far = e[reach].value
        value, low, high = (aim_off(v, far) for v in (e[aside].value, e[aside].low, e[aside].high))
        out[key] = Figure(
            key=key,
            label=label,
            estimate=Estimate(value, low, high, e[aside].kind),
            dimension="fine_angle",
            formula="angle = arcsin(s / ℓ)",
            source="docs/methods.md notch (4)",
            terms=(
                Term("s", "to the right of the lay", e[aside].value, "offset"),
                Term("ℓ", "from the hinge", far, "length"),
            ),
        )
    for key, label, aside, formula in (
        (
            "aim_equal",
            "Equal offset for the tip, to the left",
            "top_aside",
            "a mark beside where the tip should lie, as far off as the tip stands to the right",
        ),
        (
            "aim_equal_crown",
            "Equal offset for the crown, to the left",
            "crown_aside",
            "a mark beside where the crown’s middle should lie, as far off as it stands to the right",
        ),
    ):
        out[key] = Figure(
            key=key,
            label=label,
            estimate=e[aside],
            dimension="offset",
            formula=formula,
            source="The trade’s rule; docs/methods.md notch (4)",
            terms=(Term("s", "to the right of the lay", e[aside].value, "offset"),),
        )
    zone = ground.zone_radius
    out["zone"] = Figure(
        key="zone",
        label="Work zone radius",
        estimate=exactly(zone, height.kind),
        dimension="length",
        formula="R = factor · upper bound of the height",
        source="docs/methods.md site (3)",
        terms=(Term("H", "upper bound", height.high, "length"),),
    )
    out["reach"] = Figure(
        key="reach",
        label="Ground needed along the lay",
        estimate=exactly(ground.reach, height.kind),
        dimension="length",
        formula="upper bound of H − stump",
        source="docs/methods.md site (2)",
        terms=(Term("H", "upper bound", height.high, "length"),),
    )
    return out


def _room(plan: FellingInput) -> dict[str, Figure]:
    cuts = plan.cuts
    figure = Figure(
        key="room",
        label="Room for wedges behind the hinge",
        estimate=exactly(cuts.room),
        dimension="cut",
        formula="a − depth − t",
        source="Geometry",
        terms=(
            Term("a", "diameter along the lay", cuts.along, "cut"),
            Term("depth", "of the notch", cuts.depth, "cut"),
            Term("t", "hinge thickness", cuts.hinge, "cut"),
        ),
    )
    return {"room": figure}
