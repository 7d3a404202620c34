"""A container's own durations, told as frames at the brief's rate."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

SAME_RATE = 0.01
"""Rates that differ by less are one."""


def to_frames(durations_s: Sequence[float], fps: float, resolution_s: float) -> tuple[tuple[int, ...], bool]:
    """How many frames each picture is shown for, and whether that took more rounding than the file's own counting.

    Picture n ends at round(time × fps), counted from the start, so that rounding never adds up.

    Files that count in hundredths of a second cannot say 1/24 s. A program that writes each picture's
    duration cut to its own hundredth (0.04 s for a frame of 1/24 s) makes the clip shorter than it is, and
    the running count would drop whole drawings. When every duration is just such a cut or rounded whole
    number of frames, that number is taken: the brief's rate wins over the file's, and no drawing is lost.

    A file whose pictures all stay equally long, but for no such number, is read as ``of_steady`` tells.
    """
    durations = np.asarray(durations_s, dtype=np.float64)
    whole = [_own_frames(d, fps, resolution_s) for d in durations]
    if None in whole and _is_steady(durations, resolution_s):
        mean = float(durations.mean())
        each = of_steady(1.0 / mean, fps, SAME_RATE + resolution_s / (mean * len(durations)))
        return (each,) * len(durations), False
    if all(n is not None for n in whole):
        ends = np.floor(np.cumsum(durations) * fps + 0.5)
        running = np.diff(ends, prepend=0.0)
        if np.any(running < 1) or _steady(durations):
            counts = tuple(int(n) for n in whole if n is not None)
            return counts, _strays(counts, durations, fps, resolution_s)
    ends = np.floor(np.cumsum(durations) * fps + 0.5)
    counts_float = np.diff(ends, prepend=0.0)
    counts = tuple(int(max(0, n)) for n in counts_float)
    return counts, _strays(counts, durations, fps, resolution_s)


def _is_steady(durations: NDArray[np.float64], resolution_s: float) -> bool:
    """Whether all pictures stay equally long, as far as a file's counting can tell."""
    return float(np.ptp(durations)) <= resolution_s * (1 + 1e-6)


def of_steady(rate: float, fps: float, slack: float = SAME_RATE) -> int:
    """For how many frames each picture of a steady file is shown, at a brief's ``fps``.

    One at the brief's own rate, so many at a whole part of it (on twos: half), within a hundredth. At any other rate
    (25 or 48 for 24) it is one picture a frame: whoever drew meant pictures, and none is left out or doubled.
    ``slack`` is by how much the rate may be off as it was measured.
    """
    share = fps / rate
    return round(share) if is_whole(share, slack) else 1


def is_whole(share: float, slack: float = SAME_RATE) -> bool:
    """Whether a share of two rates is a whole number, within so much of it."""
    return round(share) >= 1 and abs(share / round(share) - 1.0) <= slack


def source_rate(durations_s: Sequence[float], fps: float, resolution_s: float) -> float:
    """The most pictures a second that a file shows: the brief's rate, or a part of it, where it means that."""
    whole = [_own_frames(d, fps, resolution_s) for d in durations_s]
    counts = [n for n in whole if n is not None]
    if len(counts) == len(whole):
        return fps / min(counts)
    durations = np.asarray(durations_s, dtype=np.float64)
    return 1.0 / float(durations.mean() if _is_steady(durations, resolution_s) else durations.min())


def _strays(counts: Sequence[int], durations: NDArray[np.float64], fps: float, resolution_s: float) -> bool:
    """Whether any picture ends at another time than the file says, by more than the file can tell."""
    off = np.cumsum(counts) / fps - np.cumsum(durations)
    return bool(np.abs(off).max() > resolution_s)


def _own_frames(duration_s: float, fps: float, resolution_s: float) -> int | None:
    """The whole number of frames that this duration is, cut or rounded to the file's resolution; None if none is."""
    units = round(duration_s / resolution_s)
    for count in (math.floor(duration_s * fps + 0.5), math.ceil(duration_s * fps)):
        if count >= 1:
            exact = count / fps / resolution_s
            if units in (math.floor(exact + 1e-9), math.floor(exact + 0.5)):
                return count
    return None


def _steady(durations: np.ndarray) -> bool:
    """Whether equal runs always got equal durations: then the file rounds each by itself, not the running time."""
    ratio = durations / durations.min()
    return bool(np.all(np.abs(ratio - np.round(ratio)) < 1e-6))
