"""A bare spar as a tree: two diameters and a length, from one and a half diameters on."""

from __future__ import annotations

from dataclasses import replace

from treecore.errors import between
from treecore.estimate import Estimate, exactly, times
from treecore.schools import constant
from treecore.tree.body import TreeInput
from treecore.tree.crown import SLOTS
from treecore.tree.stem import DiameterPoint

_FOOT = 0.02  # where the lower diameter is taken, clear of the ground [m]


def spar(like: TreeInput, foot: Estimate, length: Estimate, top: float) -> TreeInput:
    """Return a bare spar between two diameters; docs/methods.md, stem (10).

    Parameters
    ----------
    like : TreeInput
        A tree of its species, state, place and lean.
    foot : Estimate
        Diameter at its foot. [m]
    length : Estimate
        From the ground to its top. [m]
    top : float
        Diameter at its top. [m]

    Raises
    ------
    OutOfRange
        If it is shorter than one and a half diameters, or grows thicker upward.

    References
    ----------
    A cone that goes on to its apex: length·foot/(foot − top) above the ground.
    """
    low, tall = foot.value, length.value
    between("spar_top", top, 0.2 * low, low, "a spar's top is a fifth of its foot to as thick", "girth")
    between("height", tall, 1.5 * low, 130.0, "a spar is at least one and a half diameters long", "length")
    apex = tall * low / max(low - top, tall * low / (constant("spar_apex").value * low + tall))  # (10)
    breast = like.breast_height
    apex = max(apex, 2.1 * breast, 8.1 * low)
    at = low + (top - low) * breast / tall if breast <= tall else low * (1.0 - breast / apex)
    share = at / low
    return replace(
        like,
        diameter=times(foot, share),
        height=exactly(apex, length.kind),
        points=(DiameterPoint(_FOOT, low),) + ((DiameterPoint(tall, top),) if abs(tall - breast) > 0.06 else ()),
        limbs=(),
        replaced=frozenset(range(SLOTS)),
        fork=None,
        topped=tall,
        left=True,
    )
