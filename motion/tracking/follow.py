"""Choosing the subject among what moves, by continuity over the whole clip."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from motion.tracking.again import Usual
from motion.tracking.outline import Candidate

# A drawing in which nothing fits costs this much, so that a bad candidate is not taken for want of a better.
NOTHING = 3.0


def choose(drawings: Sequence[Sequence[Candidate]], usual: Usual) -> list[Candidate | None]:
    """One candidate a drawing, or None, so that shape and contrast agree and the path is the shortest.

    Dynamic programming over the drawings: each candidate costs by how little it looks like the clip's subject,
    each step by how far it leaps in subject sizes.
    """
    size, contrast = usual.size, usual.contrast
    costs: list[list[float]] = []
    back: list[list[int]] = []
    options: list[list[Candidate | None]] = [[*found, None] for found in drawings]
    for i, found in enumerate(options):
        own = [_unlikeness(c, size, contrast) for c in found]
        if i == 0:
            costs.append(own)
            back.append([-1] * len(found))
            continue
        row, pointers = [], []
        for c, cost in zip(found, own, strict=True):
            ways = [costs[-1][j] + _leap(p, c, size) for j, p in enumerate(options[i - 1])]
            best = int(np.argmin(ways))
            row.append(ways[best] + cost)
            pointers.append(best)
        costs.append(row)
        back.append(pointers)
    chosen: list[Candidate | None] = []
    at = int(np.argmin(costs[-1]))
    for i in range(len(options) - 1, -1, -1):
        chosen.append(options[i][at])
        at = back[i][at]
    return chosen[::-1]


def usual(drawings: Sequence[Sequence[Candidate]]) -> Usual | None:
    """The subject as it is seen most often; None where nothing is seen at all."""
    seen = [c for found in drawings for c in found if not c.clipped and c.roundness > 0.5]
    seen = seen or [c for found in drawings for c in found]
    if not seen:
        return None
    sizes = np.array([c.size for c in seen])
    strength = np.array([c.contrast for c in seen]) * np.array([0.2 + c.roundness for c in seen]) * sizes
    near = np.abs(np.log(sizes[:, None] / sizes[None, :])) < 0.2
    best = int(np.argmax(near @ strength))
    alike = near[best]
    contrasts = np.array([c.contrast for c in seen])[alike]
    return Usual(size=float(np.median(sizes[alike])), contrast=float(np.median(contrasts)))


def _unlikeness(candidate: Candidate | None, size: float, contrast: float) -> float:
    if candidate is None:
        return NOTHING
    off_size = 0.0 if candidate.clipped else 3.0 * max(0.0, abs(np.log(candidate.size / size)) - 0.1)
    fainter = 1.5 * max(0.0, 1.0 - candidate.contrast / max(contrast, 1.0))
    return float(min(NOTHING + 2, off_size + fainter + 1.2 * (1 - candidate.roundness)))


def _leap(one: Candidate | None, other: Candidate | None, size: float) -> float:
    if one is None or other is None:
        return 0.3
    apart = np.hypot(one.ellipse.x - other.ellipse.x, one.ellipse.y - other.ellipse.y)
    return float(0.05 * apart / size)
