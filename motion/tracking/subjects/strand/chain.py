"""A chain's joints in every drawing: between which places it is straight, where its links cross, where it is apart."""

from __future__ import annotations

import math
from collections.abc import Sequence

import cv2
import numpy as np

from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.strand import breaks as along_it
from motion.tracking.subjects.strand import links as chains
from motion.tracking.subjects.strand.apart import Parted, parted
from motion.tracking.subjects.strand.drawing import Place, Seen
from motion.tracking.subjects.strand.polyline import along
from motion.tracking.subjects.strand.seams import Strip, seams_of

SEEN, APART, APART_PX, HIDDEN_PX = 0.6, 0.02, 2.0, 2.0
"""A joint that is apart is looked for from such a share of what is judged (a share of the reach, px)."""


def breaks_in(told: Sequence[Seen], links: int | None, wide: float) -> tuple[tuple[float, ...], tuple[bool, ...]]:
    """Where the joints are, as shares of the length; and which of them how it turns does not tell."""
    strips = [Strip(s.line, s.sheet) for s in told if s.line is not None]
    lines = [s.line for s in strips]
    breaks = along_it.breaks_of(lines, links)
    turns = chains.turns_at(lines, breaks, wide / 2)
    length = float(np.median([along(line)[-1] for line in lines]))
    weights = [s.weight.major for s in told if s.weight is not None]
    weight = float(np.median(weights)) if weights else 0.0
    seams = seams_of(strips, wide, weight)
    # Where a weight covers it nothing shows that it turns.
    shows = 1 - (weight / 2 + wide / 2) / length if weight else 1.0
    return along_it.told_by(breaks, turns, [s / length for s in seams], links, wide / length, shows)


def chained(
    told: Sequence[Seen], breaks: Sequence[float], fixed: Sequence[bool], half: float, root: Place
) -> tuple[list[tuple[Place, ...]], list[Parted | None]]:
    """Each drawing's points from the pivot to the end, and how it has come apart; None where it hangs together."""
    lines = [s.line for s in told if s.line is not None]
    links = [chains.links_of(line, breaks, half) for line in lines]
    lengths = chains.lengths_of(links, lines, breaks, root, fixed)
    points = chains.joints_of(links, lengths, lines, root, fixed)
    if any(fixed):
        return points, [None] * len(points)
    lengths.append(float(np.median([math.dist(p[-2], p[-1]) for p in points])))
    reach = float(np.median([math.dist(root, p[-1]) for p in points]))
    least = SEEN * max(APART * reach, APART_PX)

    def one(seen: Seen, own: list[chains.LinkLine], end: Place) -> Parted | None:
        return parted(own, lengths, root, end, least, lambda a, b: _shows(seen.sheet, a, b, half))

    return points, [one(s, own, p[-1]) for s, own, p in zip(told, links, points, strict=True)]


def _shows(sheet: Sheet, one: Place, other: Place, half: float) -> bool:
    """Whether ink shows all along from one link's end to another's; what their roundings hide cannot be seen."""
    far = math.dist(one, other)
    if far <= 2 * half + HIDDEN_PX:
        return True
    shares = np.linspace(half / far, 1 - half / far, max(3, math.ceil(2 * far)))
    x = (one[0] + shares * (other[0] - one[0]) - sheet.left).astype(np.float32)[None]
    y = (one[1] + shares * (other[1] - one[1]) - sheet.top).astype(np.float32)[None]
    told = cv2.remap(sheet.solid, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    return int((told < 0.5).sum()) < HIDDEN_PX
