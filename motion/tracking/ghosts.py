"""Neighbouring drawings that show through because they were left switched on when the clip was exported."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.outline import Candidate

REACH = 3
"""How many drawings before and after are looked for."""
SECTORS = 72
LEAST_SECTORS = 20
MARKED = 0.75
"""Which share of a neighbour's outline must show, where the subject itself does not hide it."""
LEAST_LEVELS = 6.0
FAINTER = 0.75
"""A ghost is at most so strong as a share of the subject's own outline."""


def neighbours(chosen: Sequence[Candidate | None], index: int) -> list[Ellipse]:
    """Where the drawings before and after one have the subject, those of another place."""
    around = [*range(max(0, index - REACH), index), *range(index + 1, min(len(chosen), index + REACH + 1))]
    return [c.ellipse for i in around if (c := chosen[i]) is not None and not c.clipped]


def shows(differs: NDArray[np.uint8], noise: float, own: Candidate | None, around: Sequence[Ellipse]) -> bool:
    """Whether a drawing (its difference from the background) shows any of the subjects around it faintly."""
    if own is None:
        return False
    return any(_shows_one(differs, max(LEAST_LEVELS, 1.5 * noise), own, other) for other in around)


def _shows_one(differs: NDArray[np.uint8], least: float, own: Candidate, other: Ellipse) -> bool:
    turns = np.linspace(0, 2 * np.pi, SECTORS, endpoint=False)
    on = _strongest(differs, other, turns, np.array([0.88, 0.92, 0.96, 0.99]))
    outside = _strongest(differs, other, turns, np.array([1.12, 1.16]))
    places = other.points(turns)
    free = own.ellipse.residuals(places) > max(3.0, 0.08 * own.ellipse.minor)
    height, width = differs.shape
    free &= ((places >= 1) & (places < np.array([width - 2, height - 2]))).all(axis=1)
    if np.count_nonzero(free) < LEAST_SECTORS:
        return False
    marked = (on >= least) & (outside < 0.6 * on)
    faint = float(np.median(on[free])) <= FAINTER * max(own.contrast, 1.0)
    return faint and float(marked[free].mean()) >= MARKED


def _strongest(
    differs: NDArray[np.uint8], shape: Ellipse, turns: NDArray[np.float64], scales: NDArray[np.float64]
) -> NDArray[np.float64]:
    places = shape.points(turns[:, None], scales[None, :]).astype(np.float32)
    values = cv2.remap(differs, places[..., 0], places[..., 1], cv2.INTER_LINEAR, borderValue=0)
    return np.asarray(values.max(axis=1), dtype=np.float64)
