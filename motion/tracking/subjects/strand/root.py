"""The point from which a strand hangs: through which the middle lines of all drawings lead on."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from motion.ranks import median

Floats = NDArray[np.float64]
Place = tuple[float, float]
ROUNDS = 12
LOOSE_PX = 30.0
SCALE_PX = 0.3
FEWEST = 5
FARTHEST = 0.5
"""It does not lie farther from where it is looked for than such a share of what tells it reaches."""


def root_of(lines: Sequence[Floats], start: Place, *, bends: bool) -> Place:
    """The root, px, from the (n, 2) middles near it of each drawing; looked for about ``start``.

    Each drawing's middle line goes on to it straight, or in a curve where it ``bends``. Robust least squares: how far
    each line passes the root, square to its direction.
    """
    at = np.array(start, dtype=np.float64)
    for _ in range(ROUNDS):
        normals, passes = [], []
        for points in lines:
            told = _passes(points, at, bends=bends)
            if told is not None:
                normals.append(told[0])
                passes.append(told[1])
        if len(normals) < FEWEST:
            return start
        rows, off = np.array(normals), np.array(passes)
        scale = max(SCALE_PX, 1.5 * median(np.abs(off)))
        weights = 1 / (1 + (off / scale) ** 2) ** 2
        matrix = rows.T @ (weights[:, None] * rows) + np.eye(2) / LOOSE_PX**2
        step = np.linalg.solve(matrix, rows.T @ (weights * off))
        at = at + step
        if float(np.abs(step).max()) < 0.01:
            break
    far = float(np.hypot(*(at - np.array(start))))
    reach = max(float(np.hypot(*(points - at).T).max()) for points in lines if len(points))
    return (float(at[0]), float(at[1])) if far < FARTHEST * reach else start


def _passes(points: Floats, root: Floats, *, bends: bool) -> tuple[Floats, float] | None:
    """The square to a drawing's line at the root, and how far it passes that, px."""
    if len(points) < FEWEST:
        return None
    away = points - root
    way = away.mean(axis=0)
    long = float(np.hypot(*way))
    if long < 1e-6:
        return None
    way = way / long
    normal = np.array([-way[1], way[0]])
    return normal, _at_root(away @ way, away @ normal, 2 if bends else 1)


def _at_root(ahead: Floats, aside: Floats, degree: int) -> float:
    """How far aside (n,) points are where they are not ahead (n,) at all, by the least squares' curve of a degree."""
    # Of lengths about one the normal equations are as good as any.
    scaled = ahead / max(1e-9, float(np.abs(ahead).max()))
    powers = scaled ** np.arange(degree + 1)[:, None]
    return float(np.linalg.lstsq(powers @ powers.T, powers @ aside, rcond=None)[0][0])
