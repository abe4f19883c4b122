"""First cuts for a tree by the usual values of its schools: a starting point, not a verdict."""

from __future__ import annotations

import math
from dataclasses import dataclass

from treecore.felling.inputs import FellingInput, default_diameter
from treecore.felling.notch import Cuts
from treecore.schools import School, constant, school, schools
from treecore.tree.body import TreeInput
from treecore.tree.chord import hinge_chord


def suggest_cuts(
    tree: TreeInput, notch: str = "conventional", depth: str = "chord80", thickness: str = "tenth"
) -> Cuts:
    """Return cuts at the usual values of the schools named.

    Parameters
    ----------
    tree : TreeInput
        The tree; its stump is taken round, by the taper curve.
    notch, depth, thickness : str
        Schools.

    Raises
    ------
    NotSolvable
        On an unknown school.
    """
    across = default_diameter(tree, constant("usual_stump").value)
    opening, back = school("notch", notch).usual, school("backcut", notch).usual
    rule = school("thickness", thickness)
    return Cuts(
        along=across,
        across=across,
        stump=constant("usual_stump").value,
        depth=_cut(school("depth", depth).usual * across),
        opening=opening,
        hinge=_cut(rule.usual * (tree.diameter.value if rule.dimension == "share" else 1.0)),
        rise=back,
        notch_school=notch,
        depth_school=depth,
        thickness_school=thickness,
    )


def _cut(size: float) -> float:
    """A size as it is shown: to a tenth of a millimetre, so that a tenth of ten inches stays an inch [m]."""
    return round(size, 4)


def suggest_pattern(plan: FellingInput, side: float, splits: float) -> tuple[str, str]:
    """Back-cut pattern that suits a plan, and why: split, lean, bar, small or plain.

    Parameters
    ----------
    plan : FellingInput
        The plan.
    side : float
        Side moment at the hinge. [N·m]
    splits : float
        Share of what splits the stem that it carries, sawn straight in. [-]

    References
    ----------
    docs/methods.md, back cut (2), (3): forward lean in wood that splits first, then side lean, then the bar.
    """
    cuts, lean = plan.cuts, math.tan(plan.tree.lean) * math.cos(plan.tree.lean_azimuth - plan.lay)
    if splits > constant("bore_advised").value:
        return "bore", "split"
    tips = math.tan(plan.tree.lean) * abs(math.sin(plan.tree.lean_azimuth - plan.lay))
    if tips > math.tan(constant("side_lean").value) and side:
        return "lean_side", "lean"
    if cuts.along < constant("small_stem").value and lean < 0.0 and plan.wedges.count:
        return "middle", "small"
    if plan.saw.bar is not None and plan.saw.bar < cuts.across:
        return "halves", "bar"
    return "straight", "plain"


@dataclass(frozen=True, slots=True)
class SchoolValue:
    """What one school gives for a plan: its usual value and range [m], and the hinge length it
    leaves [m] for a depth.
    """

    school: School
    usual: float
    low: float
    high: float
    hinge_length: float | None
    chosen: bool


def by_school(plan: FellingInput) -> dict[str, tuple[SchoolValue, ...]]:
    """Return what every school of depth and of thickness gives for a plan, by choice.

    Parameters
    ----------
    plan : FellingInput
        The plan; depth schools take the stem along the lay, thickness schools by share the diameter at breast height.

    References
    ----------
    data/schools.csv; hinge length by docs/methods.md, notch (1).
    """
    cuts = plan.cuts
    depth = tuple(_value(s, cuts.along, cuts, s.key == cuts.depth_school) for s in schools("depth").values())
    thickness = tuple(
        _value(s, plan.tree.diameter.value if s.dimension == "share" else 1.0, None, s.key == cuts.thickness_school)
        for s in schools("thickness").values()
    )
    return {"depth": depth, "thickness": thickness}


def _value(rule: School, scale: float, cuts: Cuts | None, chosen: bool) -> SchoolValue:
    usual = _cut(rule.usual * scale)
    length = hinge_chord(usual, cuts.along, cuts.across) if cuts else None
    return SchoolValue(rule, usual, rule.low * scale, rule.high * scale, length, chosen)


def take_school(choice: str, key: str, plan: FellingInput) -> dict[str, float | str]:
    """Return the plan's values when a school's usual value is taken; empty for an unknown school.

    Parameters
    ----------
    choice, key : str
        depth or thickness, and one of its schools.
    plan : FellingInput
        The plan.
    """
    field = {"depth": "depth", "thickness": "hinge"}.get(choice, "")
    for value in by_school(plan).get(choice, ()):
        if value.school.key == key:
            return {field: value.usual, f"{choice}_school": key}
    return {}
