"""How far moving lines are from what stands: least distances between many segments at once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


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
    size_one, size_two = (np.maximum((v * v).sum(axis=1), 1e-12) for v in (one, two))
    cross = one @ two.T
    on_one, on_two = (off * one[:, None, :]).sum(axis=2), (off * two[None, :, :]).sum(axis=2)
    flat = size_one[:, None] * size_two[None, :] - cross**2
    s = np.clip((cross * on_two - on_one * size_two[None, :]) / np.maximum(flat, 1e-12), 0.0, 1.0)
    t = np.clip((cross * s + on_two) / size_two[None, :], 0.0, 1.0)
    s = np.clip((cross * t - on_one) / size_one[:, None], 0.0, 1.0)
    gap = off + s[:, :, None] * one[:, None, :] - t[:, :, None] * two[None, :, :]
    return np.asarray(np.sqrt((gap * gap).sum(axis=2)))
