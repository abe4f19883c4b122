"""The chord of an oval section that a hinge is cut along."""

from __future__ import annotations

import math

import numpy as np

from treecore.errors import Column, inside, positive


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


def sound_chord(depth: float, along: float, across: float, bark: Column) -> Column:
    """Hinge length less the bark at its two ends, which holds nothing [m]; docs/methods.md, hinge (13).

    Parameters
    ----------
    depth, along, across : float
        Notch depth; diameter along the lay; diameter across it. [m]
    bark : Column
        Thickness of the bark on one side over the diameter. [-]

    References
    ----------
    Chord of the ellipse inside the bark, at the same apex.
    """
    apex = along / 2.0 - depth
    part = np.maximum(1.0 - (apex / (along / 2.0 - bark * along)) ** 2, 1e-4)
    sound: Column = (across - 2.0 * bark * across) * np.sqrt(part)  # (13)
    return sound
