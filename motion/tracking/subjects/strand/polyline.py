"""A line of points, and the places at some distances along it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def along(points: Floats) -> Floats:
    """(n,) how far along the line each of its points (n, 2) lies, px."""
    return np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])


def placed(points: Floats, wanted: Floats) -> Floats:
    """(m, 2) the places so far along a line of points, px."""
    far = along(points)
    return np.stack([np.interp(wanted, far, points[:, axis]) for axis in (0, 1)], axis=1)
