"""The chord of an oval section that a hinge is cut along."""

from __future__ import annotations

import math

from treecore.errors import inside, positive


def hinge_chord(depth: float, along: float, across: float) -> float:
    """Hinge length across an oval stem [m]: chord of an ellipse, docs/methods.md, notch (1).

    Parameters
    ----------
    depth, along, across : float
        Notch depth; stem diameter along the lay; stem diameter across it. [m]

    Raises
    ------
    OutOfRange
        Unless 0 < depth < along and 0 < across; names the field, the value and the range.

    References
    ----------
    Chord of an ellipse.
    """
    fraction = inside("depth", depth, 0.0, positive("along", along), "inside the stem", "cut") / along
    return 2.0 * positive("across", across) * math.sqrt(fraction - fraction**2)  # (1)
