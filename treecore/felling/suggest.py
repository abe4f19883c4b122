"""First cuts for a tree by the usual values of its schools: a starting point, not a verdict."""

from __future__ import annotations

from treecore.felling.notch import Cuts
from treecore.felling.plan import default_diameter
from treecore.schools import school
from treecore.tree.body import TreeInput

STUMP = 0.3  # usual height of the apex [m]


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
    across = default_diameter(tree, STUMP)
    opening, back = school("notch", notch).usual, school("backcut", notch).usual
    rule = school("thickness", thickness)
    return Cuts(
        along=across,
        across=across,
        stump=STUMP,
        depth=school("depth", depth).usual * across,
        opening=opening,
        hinge=rule.usual * (tree.diameter.value if rule.dimension == "share" else 1.0),
        rise=back,
        notch_school=notch,
        depth_school=depth,
        thickness_school=thickness,
    )
