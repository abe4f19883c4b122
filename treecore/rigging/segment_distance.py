"""How far moving lines are from what stands: least distances between many segments at once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
_NOTHING = 1e-30  # in place of a square of nothing: a line that is a point, or two side by side


def apart(a: Array, b: Array, c: Array, d: Array) -> Array:
    """Least distance of every segment of one set from every segment of another [m]; docs/methods.md, swing (7).

    Parameters
    ----------
    a, b : array, shape (n, 3)
        Ends of the first set. [m]
    c, d : array, shape (m, 3)
        Ends of the second. [m]

    Returns
    -------
    array, shape (n, m)
        Distances. [m]

    References
    ----------
    Closest points of two segments (Ericson 2005, Real-Time Collision Detection, 5.1.9).
    """
    one, two = b - a, d - c
    off = a[:, None, :] - c[None, :, :]
    size_one = np.maximum(np.einsum("ij,ij->i", one, one), _NOTHING)[:, None]
    size_two = np.maximum(np.einsum("ij,ij->i", two, two), _NOTHING)[None, :]
    cross = one @ two.T
    on_one, on_two = np.einsum("ijk,ik->ij", off, one), np.einsum("ijk,jk->ij", off, two)
    flat = np.maximum(size_one * size_two - cross * cross, _NOTHING)
    s = _share((cross * on_two - on_one * size_two) / flat)
    t = _share((cross * s + on_two) / size_two)
    s = _share((cross * t - on_one) / size_one)
    gap = off + s[:, :, None] * one[:, None, :] - t[:, :, None] * two[None, :, :]
    return np.asarray(np.sqrt(np.einsum("ijk,ijk->ij", gap, gap)))


def _share(v: Array) -> Array:
    return np.minimum(np.maximum(v, 0.0), 1.0)
