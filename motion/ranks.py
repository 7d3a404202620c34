"""Mean, median and percentile of the short arrays that a clip is full of, and of levels, at a part of NumPy's time."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray


def mean(values: NDArray[np.floating]) -> float:
    """The mean of (n,) values, n at least 1."""
    return float(np.add.reduce(values)) / len(values)


def steps_of(values: NDArray[np.floating]) -> NDArray[np.floating]:
    """(n - 1, ...) the differences of n values one after the other."""
    return np.asarray(values[1:] - values[:-1])


def median(values: NDArray[np.floating]) -> float:
    """The middle value of (n,) values, n at least 1; of two in the middle their mean."""
    ordered = np.sort(values, axis=None)
    half = len(ordered) // 2
    return float(ordered[half] if len(ordered) % 2 else 0.5 * (ordered[half - 1] + ordered[half]))


def percentile(values: NDArray[np.floating], share: float) -> float:
    """The value below which ``share`` per cent of (n,) values lie, n at least 1, linear between two of them."""
    ordered = np.sort(values, axis=None)
    at = share / 100 * (len(ordered) - 1)
    low = int(at)
    high = min(low + 1, len(ordered) - 1)
    return float(ordered[low] + (at - low) * (ordered[high] - ordered[low]))


def levels(values: NDArray[np.uint8]) -> NDArray[np.int64]:
    """(256,) how many of the values (height, width), one at least, are at each level."""
    counts = cv2.calcHist([np.ascontiguousarray(values)], [0], None, [256], [0, 256])
    return np.asarray(counts, dtype=np.int64).ravel()


def level_over(values: NDArray[np.uint8], share: float) -> float:
    """The least level that at least such a share of the values (height, width), one at least, does not exceed."""
    reached = np.cumsum(levels(values))
    return float(np.searchsorted(reached, share * reached[-1]))


def medians(values: NDArray[np.float64], there: NDArray[np.bool_]) -> NDArray[np.float64]:
    """(k,) the middle values of the rows of (k, n) values, of those that are ``there``; nought where none is."""
    ordered = np.sort(np.where(there, values, np.inf), axis=1)
    count = np.count_nonzero(there, axis=1)
    rows = np.arange(len(values))
    lower, upper = np.maximum(0, count - 1) // 2, np.minimum(count // 2, values.shape[1] - 1)
    return np.where(count > 0, 0.5 * (ordered[rows, lower] + ordered[rows, upper]), 0.0)
