"""In-betweens placed by halves: half of the gap, half of the half, and so on towards the top.

That is how students are taught to space; it is smooth, but not gravity's own spacing.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

# Gaps that grow by about a factor of two from one to the next, away from the top, are spaced by halves.
LEAST_RATIO, MOST_RATIO = 1.65, 2.45
# Beside a halved side the top lies between half of and the whole of the last gap further on.
LEAST_ON, MOST_ON = 0.4, 1.1


def places(
    points: NDArray[np.float64],
    before: NDArray[np.float64] | None,
    after: NDArray[np.float64] | None,
    index: int,
    others: Sequence[int],
) -> list[NDArray[np.float64]]:
    """Where the drawing at ``index`` may lie if its side of the hop is spaced by halves; empty if nothing is told.

    ``points`` (n, 2) are the drawings in the air, ``before`` and ``after`` the contacts beside them, ``others``
    the drawings to go by.
    """
    top = max(others, key=lambda j: points[j, 1])
    found = []
    for contact, beyond in ((before, -1), (after, 1)):
        inwards = [points[j] for j in sorted(others, reverse=beyond < 0) if (j - index) * beyond > 0]
        if contact is not None:
            inwards.append(contact)
        side = _side(points, sorted({*others, index}), contact, top, beyond)
        if index == top or points[index, 1] > points[top, 1]:
            found += _next_to_last(points[index], inwards) if is_halved(side) else []
        elif (index - top) * beyond > 0:
            found += _between(points, others, top, index, inwards, beyond, is_halved(side))
    return found


def _side(
    points: NDArray[np.float64], others: Sequence[int], contact: NDArray[np.float64] | None, top: int, beyond: int
) -> list[NDArray[np.float64]]:
    """One side's drawings from the top outwards, its contact last."""
    own = sorted((j for j in others if (j - top) * beyond >= 0), key=lambda j: abs(j - top))
    return [*(points[j] for j in own), *([contact] if contact is not None else [])]


def is_halved(side: Sequence[NDArray[np.float64]]) -> bool:
    """Whether the gaps of a side, from the top outwards, double each time; the gap at the top itself may not."""
    if len(side) < 4:
        return False
    gaps = np.hypot(*np.diff(np.array(side), axis=0).T)
    ratios = gaps[2:] / np.maximum(gaps[1:-1], 1e-6)
    return bool(LEAST_RATIO <= float(np.median(ratios)) <= MOST_RATIO)


def _between(
    points: NDArray[np.float64],
    others: Sequence[int],
    top: int,
    index: int,
    outwards: Sequence[NDArray[np.float64]],
    beyond: int,
    halved: bool,
) -> list[NDArray[np.float64]]:
    inner = [j for j in others if (index - j) * beyond > 0 and (j - top) * beyond > 0]
    apex = points[top]
    if inner and outwards:
        nearest = max(inner, key=lambda j: j * beyond)
        return [apex + _geometric_mean(points[nearest] - apex, outwards[0] - apex)]
    if halved and len(outwards) >= 2:
        return [apex + _carried_on(outwards[1] - apex, outwards[0] - apex)]
    if halved and len(inner) >= 2:
        far, near = sorted(inner, key=lambda j: j * beyond)[-2:]
        return [apex + _carried_on(points[far] - apex, points[near] - apex)]
    return []


def _geometric_mean(one: NDArray[np.float64], other: NDArray[np.float64]) -> NDArray[np.float64]:
    same_way = one * other > 0
    return np.where(same_way, np.sign(one) * np.sqrt(np.abs(one * other)), (one + other) / 2)


def _carried_on(far: NDArray[np.float64], near: NDArray[np.float64]) -> NDArray[np.float64]:
    """The next of a geometric row after ``far`` and ``near``, each axis by itself."""
    safe = np.where(np.abs(far) > 1e-6, far, 1.0)
    return np.where((np.abs(far) > 1e-6) & (far * near > 0), near * near / safe, near)


def _next_to_last(point: NDArray[np.float64], outwards: Sequence[NDArray[np.float64]]) -> list[NDArray[np.float64]]:
    """The place nearest to the top drawing that lies part of a gap further on from its side."""
    if len(outwards) < 2:
        return []
    way = outwards[0] - outwards[1]
    size = float(way @ way)
    if size < 1e-9:
        return []
    part = float(np.clip((point - outwards[0]) @ way / size, LEAST_ON, MOST_ON))
    return [outwards[0] + part * way]
