"""A link that has come apart from the one above: told, and not repaired.

Down from the pivot each link begins where the one above ends, up from the end each ends where the one below begins.
Where both ways do not meet, the chain has come apart at the joint that leaves all others fitting; unless a link is
longer or shorter, along its own line, and all others fit.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from motion.tracking.subjects.strand.links import LinkLine, Place

FITS_PX, FITS = 1.0, 0.3
"""Links fit that lie off by less: px, and a share of what is told as apart."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Parted:
    """A chain that has come apart: its points, and where what hangs at one of them, by number, begins, px."""

    points: tuple[Place, ...]
    joint: int
    begins: Place


def parted(
    links: Sequence[LinkLine],
    lengths: Sequence[float],
    pivot: Place,
    end: Place,
    least: float,
    shows: Callable[[Place, Place], bool],
) -> Parted | None:
    """How a chain has come apart by ``least`` px or more; None where it hangs together.

    ``lengths`` are the links' usual ones; ``shows`` tells whether there is ink all along from one place to another.
    """
    down, up = _down(links, lengths, pivot), _up(links, lengths, end)
    joints = range(1, len(links))
    if max((math.dist(down[j], up[j]) for j in joints), default=0.0) < least:
        return None
    above = {j: _off(links[j], down[j]) for j in joints}
    below = {j: _off(links[j - 1], up[j]) for j in joints}
    longer = {k: max((above[j] if j < k else below[j] for j in joints), default=0.0) for k in range(1, len(links) + 1)}
    broken = {k: max((above[j] if j < k else below[j] for j in joints if j != k), default=0.0) for k in joints}
    link = min(longer, key=lambda k: longer[k])
    at = min(broken, key=lambda k: broken[k])
    if longer[link] <= max(FITS_PX, FITS * least):
        if link == len(links) or shows(down[link], up[link]):
            return None
        at = link
    return Parted(points=(*down[: at + 1], *up[at + 1 :]), joint=at, begins=up[at])


def _down(links: Sequence[LinkLine], lengths: Sequence[float], pivot: Place) -> list[Place]:
    """Where each link ends, from the pivot on."""
    found = [pivot]
    for link, length in zip(links, lengths, strict=True):
        x, y = link.nearest(found[-1])
        found.append((x + length * link.dx, y + length * link.dy))
    return found


def _up(links: Sequence[LinkLine], lengths: Sequence[float], end: Place) -> list[Place]:
    """Where each link begins, from the end on."""
    found = [end]
    for link, length in zip(reversed(links), reversed(lengths), strict=True):
        x, y = link.nearest(found[0])
        found.insert(0, (x - length * link.dx, y - length * link.dy))
    return found


def _off(link: LinkLine, at: Place) -> float:
    """How far a place lies beside a link's line, px."""
    return math.dist(link.nearest(at), at)
