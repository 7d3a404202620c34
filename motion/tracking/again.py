"""A second look at drawings in which the first one found no whole subject, now that the clip's subject is known.

Neighbours that show through, speed lines and trails run together with the subject at the first look's threshold. What
is as strong as the subject's own outline does not, and a ring of the subject's size finds it among the rest.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking import outline
from motion.tracking.edges import Sight
from motion.tracking.ellipse import Ellipse
from motion.tracking.outline import Candidate

POOR = 0.8
"""A subject less round than this is looked at again, ..."""
POOR_SIZE = 0.12
"""... and one that is off the usual size by more, in logarithms."""
STRONG = 0.65
"""What is fainter than this share of the subject's usual contrast is left out of a second look."""
RINGS = 5
RING_PX = 24
"""Rings are looked for where the subject is shrunk to so many pixels."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Usual:
    """The clip's subject: size in px, contrast in levels."""

    size: float
    contrast: float


def is_poor(candidate: Candidate | None, usual: Usual) -> bool:
    """Whether a drawing with this subject, or none, deserves a second look."""
    if candidate is None:
        return True
    if candidate.clipped:
        return False
    return candidate.roundness < POOR or abs(float(np.log(candidate.size / usual.size))) > POOR_SIZE


def look(sight: Sight, usual: Usual, places: Iterable[tuple[float, float]]) -> list[Candidate]:
    """What may be the subject in a drawing: strong shapes, rings of its size, and what lies at ``places`` (x, y)."""
    strong = max(sight.threshold, int(STRONG * usual.contrast))
    sight = replace(sight, threshold=strong, faint=STRONG)
    found = outline.candidates(sight)
    if _has_subject(found, usual):
        return found
    found += outline.candidates(sight, closing=False)
    if _has_subject(found, usual):
        return _unlike(found)
    for x, y in [*_rings(sight.differs.whole(), usual), *places]:
        circle = Ellipse(x=x, y=y, major=usual.size, minor=usual.size, angle=0.0)
        candidate = outline.near(sight, circle)
        if candidate is not None and abs(float(np.log(candidate.size / usual.size))) < 0.5:
            found.append(candidate)
    return _unlike(found)


def _has_subject(found: Sequence[Candidate], usual: Usual) -> bool:
    return any(c.roundness >= outline.ROUND_ENOUGH and not is_poor(c, usual) for c in found)


def strongest(sight: Sight) -> list[Candidate]:
    """What may be the subject when only the strongest marks of a drawing count."""
    marks = sight.differs.part[sight.differs.part > sight.threshold]
    if marks.size == 0:
        return []
    strong = int(STRONG * float(np.percentile(marks, 90)))
    return outline.candidates(replace(sight, threshold=max(sight.threshold, strong), faint=STRONG))


def _rings(differs: NDArray[np.uint8], usual: Usual) -> list[tuple[float, float]]:
    """Middles of the places that look most like an outline of the subject's size."""
    scale = min(1.0, RING_PX / usual.size)
    capped = np.minimum(differs, int(max(1.0, usual.contrast))).astype(np.float32)
    small = cv2.resize(capped, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    radius = 0.5 * usual.size * scale
    reach = int(np.ceil(1.5 * radius))
    rows, columns = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    away = np.hypot(rows, columns)
    on, off = np.abs(away - radius + 1.0) <= 1.5, (away > 1.2 * radius) & (away <= 1.5 * radius)
    kernel = (on / max(1, on.sum()) - 0.5 * off / max(1, off.sum())).astype(np.float32)
    likeness = cv2.filter2D(small, cv2.CV_32F, kernel, borderType=cv2.BORDER_CONSTANT)
    found = []
    for _ in range(RINGS):
        _, best, _, (x, y) = cv2.minMaxLoc(likeness)
        if best < 0.2 * usual.contrast:
            break
        found.append(((x + 0.5) / scale - 0.5, (y + 0.5) / scale - 0.5))
        cv2.circle(likeness, (x, y), max(2, int(0.6 * radius)), -1e6, cv2.FILLED)
    return found


def _unlike(found: Sequence[Candidate]) -> list[Candidate]:
    """The roundest of each group that lies in one place."""
    kept: list[Candidate] = []
    for candidate in sorted(found, key=lambda c: -c.roundness):
        e = candidate.ellipse
        if all(np.hypot(e.x - k.ellipse.x, e.y - k.ellipse.y) > 1.0 for k in kept):
            kept.append(candidate)
    return kept[:8]
