"""A chain's links as straight lines, and its joints where the lines of the links beside them cross."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.ranks import median
from motion.tracking.subjects.strand.polyline import along, placed

Floats = NDArray[np.float64]
Place = tuple[float, float]
OFTEN = 90
"""In so many of a hundred drawings a chain turns by less than what is told of a joint."""
COARSE = 13
"""A line's length is that of a line through so many of its places."""
HANGS = 4
"""The pivot tells the first link's line as well as so many of its middles."""
CROSSES, CROSSES_AT_ALL, MOSTLY = 14.0, 5.0, 0.6
"""Degrees between two links from which their crossing tells the joint in that drawing.

How long links are is told by the drawings with the greatest turns, such a share of the greatest and more.
"""


@dataclass(frozen=True, slots=True)
class LinkLine:
    """The line of a link: a point on it, px, and its unit direction."""

    x: float
    y: float
    dx: float
    dy: float

    def nearest(self, to: Place) -> Place:
        ahead = (to[0] - self.x) * self.dx + (to[1] - self.y) * self.dy
        return self.x + ahead * self.dx, self.y + ahead * self.dy

    def turn(self, other: LinkLine) -> float:
        """By how many degrees another goes another way."""
        return abs(
            math.degrees(math.atan2(self.dx * other.dy - self.dy * other.dx, self.dx * other.dx + self.dy * other.dy))
        )

    def crossing(self, other: LinkLine) -> Place:
        turn = self.dx * other.dy - self.dy * other.dx
        ahead = ((other.x - self.x) * other.dy - (other.y - self.y) * other.dx) / turn
        return self.x + ahead * self.dx, self.y + ahead * self.dy


def joints_of(
    told: Sequence[Sequence[LinkLine]],
    lengths: Sequence[float],
    lines: Sequence[Floats],
    pivot: Place,
    fixed: Sequence[bool],
) -> list[tuple[Place, ...]]:
    """The points of each drawing's chain from the pivot to the end, px, by the lines and the lengths of its links.

    ``fixed`` are the joints that the breaks tell, and not how the chain turns: they share how long it is drawn.
    """
    drawn = np.array([_long(points) for points in lines])
    shares = drawn / float(np.median(drawn)) if any(fixed) else np.ones(len(lines))
    found = []
    for points, links, share in zip(lines, told, shares.tolist(), strict=True):
        chain: list[Place] = [pivot]
        for k in range(len(links) - 1):
            one, other = links[k], links[k + 1]
            if one.turn(other) >= CROSSES:
                chain.append(one.crossing(other))
                continue
            # Nearly straight on: as far along as the link is long.
            at = one.nearest(chain[-1])
            chain.append((at[0] + share * lengths[k] * one.dx, at[1] + share * lengths[k] * one.dy))
        chain.append((float(points[-1, 0]), float(points[-1, 1])))
        found.append(tuple(chain))
    return found


def _long(points: Floats) -> float:
    """How long a middle line is, px, its unevenness left out."""
    return float(along(placed(points, np.linspace(0, along(points)[-1], COARSE)))[-1])


def links_of(points: Floats, breaks: Sequence[float], half: float) -> list[LinkLine]:
    """The line of each link, without what lies within half its width of a joint."""
    far = along(points)
    length = far[-1]
    links = list[LinkLine]()
    for first, last in itertools.pairwise(breaks):
        room = min(half + 2.0, 0.3 * (last - first) * length)
        own = points[(far > first * length + room) & (far < last * length - room)]
        if len(own) < 3:
            # Hardly anything of it shows: it lies as the line goes on between what does.
            own = placed(points, np.linspace(first, last, 4) * length)
        if not links:
            # Where it hangs is known better than any middle is.
            own = np.concatenate([np.repeat(points[:1], HANGS, axis=0), own])
        links.append(_line_through(own))
    return links


def _line_through(points: Floats) -> LinkLine:
    """The line through points, those apart weighing less."""
    x, y = points[:, 0], points[:, 1]
    weights = np.ones(len(points))
    ahead = points[-1] - points[0]
    mx, my, dx, dy = 0.0, 0.0, 0.0, 1.0
    for _ in range(4):
        total = float(weights.sum())
        mx, my = float(weights @ x) / total, float(weights @ y) / total
        ax, ay = x - mx, y - my
        xx, yy, xy = float(weights @ (ax * ax)), float(weights @ (ay * ay)), float(weights @ (ax * ay))
        turn = 0.5 * math.atan2(2 * xy, xx - yy)
        dx, dy = math.cos(turn), math.sin(turn)
        off = np.abs(ay * dx - ax * dy)
        weights = 1 / (1 + (off / max(0.2, 1.5 * median(off))) ** 2)
    side = 1.0 if dx * ahead[0] + dy * ahead[1] >= 0 else -1.0
    return LinkLine(mx, my, side * dx, side * dy)


def lengths_of(
    told: Sequence[Sequence[LinkLine]],
    lines: Sequence[Floats],
    breaks: Sequence[float],
    pivot: Place,
    fixed: Sequence[bool],
) -> list[float]:
    """How long each link but the last is: from where the lines beside a joint cross, where they turn most."""
    whole = float(np.median([along(points)[-1] for points in lines]))
    at = [pivot] * len(told)
    lengths = []
    for k in range(len(breaks) - 2):
        turns = np.array([links[k].turn(links[k + 1]) for links in told])
        usual = (breaks[k + 1] - breaks[k]) * whole
        if turns.max() >= CROSSES_AT_ALL and not fixed[k]:
            well = np.flatnonzero(turns >= MOSTLY * turns.max()).tolist()
            far = [math.dist(at[i], told[i][k].crossing(told[i][k + 1])) for i in well]
            crossing = float(np.median(far))
            usual = crossing if 0.6 * usual < crossing < 1.6 * usual else usual
        lengths.append(usual)
        nearest = [links[k].nearest(p) for links, p in zip(told, at, strict=True)]
        at = [(x + usual * li[k].dx, y + usual * li[k].dy) for li, (x, y) in zip(told, nearest, strict=True)]
    return lengths


def turns_at(lines: Sequence[Floats], breaks: Sequence[float], half: float) -> list[float]:
    """By how many degrees the chain turns at each inner break where it turns most, but for a few drawings."""
    told = [links_of(points, breaks, half) for points in lines]
    joints = range(len(breaks) - 2)
    return [float(np.percentile([links[k].turn(links[k + 1]) for links in told], OFTEN)) for k in joints]
