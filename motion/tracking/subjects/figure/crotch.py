"""Where two legs that stand apart lead together: a first telling of the hip of a whole figure.

From the shins upwards two strokes come nearer to each other until they are one. The thighs' middle lines, taken on from
there, cross in the hip.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure.drawn import Place
from motion.tracking.subjects.figure.ink import Mask
from motion.tracking.subjects.figure.looking import Looking

SHINS, HIGHEST = 0.16, 0.3
"""Legs are followed from so much of the figure's height above the ground, and no nearer to its top than so much."""
THIGHS = 0.14
"""So much of it below where legs part there are thighs."""
FEWEST_ROWS, TURN = 8, 0.3
"""Lines are told from so many rows, and cross where their slopes differ by so much."""
STRAIGHT_PX, SHORTEST, STEP = 1.2, 0.05, 3
"""A thigh's middle lies no farther off its line; of one that bends so much of the height is looked at, and rows are
left out by so many."""
ABOVE, HIGH = 0.16, (0.35, 0.64)
"""The hip lies no more of the height above where legs part, and so much of it above the ground: shins cross, too."""
FEWEST, AGREE = 3, 0.035
"""It is told from so many drawings, which agree to so much of the height."""
Run = tuple[int, int]


def hip_from_head(looking: Looking, heads: Sequence[Ellipse | None], some: Sequence[int]) -> Place | None:
    """The hip from the head's middle, px right and down, by those drawings whose legs stand apart; None: too few do."""
    found, talls = [], []
    for number in some:
        head, sheet = heads[number], looking.sheet(number)
        marked = sheet.solid > 0.5
        rows = np.flatnonzero(marked.any(axis=1))
        if head is None or len(rows) < 40:
            continue
        tall = int(rows[-1] - rows[0])
        at = _crossing(marked, int(rows[0]), int(rows[-1]))
        if at is not None:
            found.append((at[0] + sheet.left - head.x, at[1] + sheet.top - head.y))
            talls.append(tall)
    if len(found) < FEWEST:
        return None
    places = np.array(found)
    middle = np.median(places, axis=0)
    off = float(np.median(np.abs(places - middle).max(axis=1)))
    return (float(middle[0]), float(middle[1])) if off < AGREE * float(np.median(talls)) else None


def _crossing(marked: Mask, top: int, low: int) -> Place | None:
    """Where the thighs of one drawing cross, px in it; None where its legs do not stand apart."""
    tall = low - top
    told = _followed(marked, round(low - SHINS * tall), round(top + HIGHEST * tall))
    if told is None:
        return None
    ys, one, other = told
    below = ys <= ys[-1] + THIGHS * tall
    if np.count_nonzero(below) < FEWEST_ROWS:
        return None
    lines = [_thigh(ys[below], middles[below], SHORTEST * tall) for middles in (one, other)]
    turn = float(lines[0][0] - lines[1][0])
    if abs(turn) < TURN:
        return None
    y = float(lines[1][1] - lines[0][1]) / turn
    if not (ys[-1] - ABOVE * tall <= y <= ys[-1] + 1 and HIGH[0] * tall <= low - y <= HIGH[1] * tall):
        return None
    return float(np.polyval(lines[0], y)), y


def _thigh(ys: NDArray[np.float64], middles: NDArray[np.float64], least: float) -> NDArray[np.float64]:
    """Slope and start of a thigh's middle line, from where legs part down to its knee, where it leaves that line.

    ``ys`` go upwards; ``least`` is how many rows it is told from at least.
    """
    line = np.polyfit(ys, middles, 1)
    for last in range(len(ys), max(FEWEST_ROWS, round(least)) - 1, -STEP):
        line = np.polyfit(ys[-last:], middles[-last:], 1)
        if float(np.abs(np.polyval(line, ys[-last:]) - middles[-last:]).max()) <= STRAIGHT_PX:
            break
    return line


def _followed(
    marked: Mask, start: int, end: int
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]] | None:
    """Rows, upwards, and the middles of two legs in each, until they are one; None where they never are."""
    runs = _runs(marked[start])
    if len(runs) < 2:
        return None
    legs = runs[0], runs[-1]
    rows: list[tuple[float, float, float]] = []
    for y in range(start, end, -1):
        runs = _runs(marked[y])
        touching = [[r for r in runs if r[0] <= leg[1] and leg[0] <= r[1]] for leg in legs]
        if not all(touching):
            return None
        one, other = max(touching[0], key=_long), max(touching[1], key=_long)
        if one == other:
            return _columns(rows) if rows else None
        legs = one, other
        rows.append((float(y), (one[0] + one[1]) / 2, (other[0] + other[1]) / 2))
    return None


def _columns(
    rows: Sequence[tuple[float, float, float]],
) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    ys, one, other = np.array(rows).T
    return ys, one, other


def _runs(row: NDArray[np.bool_]) -> list[Run]:
    """The first and the last pixel of each run of ink."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], row, [False]]).astype(np.int8)))
    return [(int(a), int(b) - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _long(run: Run) -> int:
    return run[1] - run[0]
