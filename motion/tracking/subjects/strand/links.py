"""Where a chain's joints are: the places along it, the same in all drawings, between which it is straight.

The best places for two to six links are found by dynamic programming over stations along it, by how far the middle
lines of all drawings lie off straight lines; each joint is where the lines of the links beside it cross.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.strand.polyline import along, placed

Floats = NDArray[np.float64]
Place = tuple[float, float]
STATIONS = 61
SHORTEST = 5
"""No link is shorter than so many stations."""
MOST = 6
STRAIGHT_PX, STRAIGHT = 0.25, 0.0006
"""Middles of stiff links lie off their line by so much: px, and a share of the whole length."""
BETTER = 0.72
"""One link more takes so much of what is left away, or there is none."""
LONG, NEAR, APART = 2.5, 0.6, 1.2
"""Widths of a chain: links so long tell their own direction; a drawn joint is so near to the one that it is, and so far
from another."""
TURNS, HARDLY, OFTEN = 8.0, 4.0, 90
"""Degrees that tell where a joint is; so many that tell it where nothing is drawn there; in so many of a hundred
drawings it turns by less."""
COARSE = 13
"""A line's length is that of a line through so many of its places."""
HANGS = 4
"""The pivot tells the first link's line as well as so many of its middles."""
CROSSES, CROSSES_AT_ALL, MOSTLY = 14.0, 5.0, 0.6
"""Degrees between two links from which their crossing tells the joint in that drawing.

How long links are is told by the drawings with the greatest turns, such a share of the greatest and more.
"""


def breaks_of(lines: Sequence[Floats], links: int | None) -> tuple[float, ...]:
    """Where the joints are, as shares of the length, pivot and end among them; of as many links as show where None.

    ``lines`` are the (n, 2) middle lines from the pivot to the end, px.
    """
    even = [_evenly(points) for points in lines]
    costs = sum((_off_straight(points) for points in even), np.zeros((STATIONS, STATIONS)))
    best, back = _cheapest(np.asarray(costs))
    length = float(np.median([along(points)[-1] for points in lines]))
    count = links or _how_many(best, len(lines), length)
    places = [STATIONS - 1]
    for k in range(count, 0, -1):
        places.append(int(back[k, places[-1]]))
    return tuple(p / (STATIONS - 1) for p in reversed(places))


def told_by(
    breaks: Sequence[float], turns: Sequence[float], seams: Sequence[float], links: int | None, wide: float
) -> tuple[tuple[float, ...], tuple[bool, ...]]:
    """Breaks as the chain's turning tells them where it turns enough, elsewhere as drawn joints do, else evenly.

    ``turns`` are the greatest degrees (but for some) at each inner break, ``seams`` the shares of the length at which
    joints are drawn, the clearest first, ``wide`` its width as such a share. With the breaks: which joints, in order,
    are not told by turning.
    """
    inner = list(zip(breaks[1:-1], turns, _shortest_beside(breaks), strict=True))
    sure = [at for at, turn, short in inner if turn >= TURNS * (1 if short >= LONG * wide else 2)]
    found = dict.fromkeys(sure, False)
    if _agree(seams, sure, links, wide):
        found = {next((at for at in sure if abs(at - s) <= NEAR * wide), s): True for s in seams}
        found = {at: at not in sure for at in found}
    # Where it surely turns and nothing is drawn, joints are not drawn.
    drawn = seams if links or not sure or _agree(seams, sure, links, wide) else ()
    most = (links or MOST) - 1
    for at, fixed in [*((s, True) for s in drawn), *((at, False) for at, turn, _ in inner if turn >= HARDLY)]:
        if len(found) < most and all(abs(at - other) > APART * wide for other in (0.0, 1.0, *found)):
            found[at] = fixed
    wanted = most if links else max(1, len(found))
    while len(found) < wanted:
        _split_longest(found, wanted - len(found))
    places = sorted(found)
    return (0.0, *places, 1.0), tuple(found[p] for p in places)


def _shortest_beside(breaks: Sequence[float]) -> list[float]:
    """The shorter of the links beside each inner break."""
    lengths = [b - a for a, b in itertools.pairwise(breaks)]
    return [min(a, b) for a, b in itertools.pairwise(lengths)]


def _agree(seams: Sequence[float], sure: Sequence[float], links: int | None, wide: float) -> bool:
    """Whether drawn joints tell all of a chain's: as many as are asked for, or every one at which it surely turns."""
    if links is not None:
        return len(seams) == links - 1
    return 1 <= len(seams) < MOST and all(any(abs(at - s) <= NEAR * wide for s in seams) for at in sure)


def _split_longest(found: dict[float, bool], left: int) -> None:
    """Break the longest stretch without a joint evenly, into as many parts as make it no shorter than the others."""
    places = [0.0, *sorted(found), 1.0]
    longest = max(range(len(places) - 1), key=lambda k: places[k + 1] - places[k])
    start, end = places[longest], places[longest + 1]
    others = [b - a for k, (a, b) in enumerate(itertools.pairwise(places)) if k != longest]
    usual = float(np.median(others)) if others else (end - start) / (left + 1)
    parts = min(left + 1, max(2, round((end - start) / usual)))
    found |= {start + (end - start) * k / parts: True for k in range(1, parts)}


def turns_at(lines: Sequence[Floats], breaks: Sequence[float], half: float) -> list[float]:
    """By how many degrees the chain turns at each inner break where it turns most, but for a few drawings."""
    told = [_links_of(points, breaks, half) for points in lines]
    joints = range(len(breaks) - 2)
    return [float(np.percentile([links[k].turn(links[k + 1]) for links in told], OFTEN)) for k in joints]


def _how_many(best: Floats, drawings: int, length: float) -> int:
    """The fewest links by which all drawings lie straight, or beyond which one more mends little."""
    off = np.sqrt(best / (drawings * STATIONS))
    for count in range(2, MOST + 1):
        if off[count] <= max(STRAIGHT_PX, STRAIGHT * length):
            return count
    for count in range(2, MOST):
        if off[count + 1] > BETTER * off[count]:
            return count
    return MOST


def _evenly(points: Floats) -> Floats:
    return placed(points, np.linspace(0, along(points)[-1], STATIONS))


def _off_straight(points: Floats) -> Floats:
    """(STATIONS, STATIONS) the squares by which points between two stations lie off the best line through them."""
    sums = {}
    for name, values in (
        ("n", np.ones(len(points))),
        ("x", points[:, 0]),
        ("y", points[:, 1]),
        ("xx", points[:, 0] ** 2),
        ("yy", points[:, 1] ** 2),
        ("xy", points[:, 0] * points[:, 1]),
    ):
        total = np.concatenate([[0.0], np.cumsum(values)])
        # From the station after the first to the one before the last: at a joint the ink is round.
        sums[name] = total[None, :-1] - total[1:, None]
    count = np.maximum(1.0, sums["n"])
    xx, yy = sums["xx"] - sums["x"] ** 2 / count, sums["yy"] - sums["y"] ** 2 / count
    xy = sums["xy"] - sums["x"] * sums["y"] / count
    least = 0.5 * (xx + yy - np.sqrt((xx - yy) ** 2 + 4 * xy**2))
    return np.asarray(np.maximum(0.0, least))


def _cheapest(costs: Floats) -> tuple[Floats, NDArray[np.intp]]:
    """(MOST + 1,) what the best places for so many links cost, and (MOST + 1, STATIONS) where each link begins."""
    reach = np.full((MOST + 1, STATIONS), np.inf)
    back = np.zeros((MOST + 1, STATIONS), dtype=np.intp)
    reach[0, 0] = 0.0
    apart = np.subtract.outer(np.arange(STATIONS), np.arange(STATIONS)).T
    told = np.where(apart >= SHORTEST, costs, np.inf)
    for k in range(1, MOST + 1):
        total = reach[k - 1][:, None] + told
        back[k] = total.argmin(axis=0)
        reach[k] = total.min(axis=0)
    return reach[:, -1], back


@dataclass(frozen=True, slots=True)
class _Line:
    x: float
    y: float
    dx: float
    dy: float

    def nearest(self, to: Place) -> Place:
        ahead = (to[0] - self.x) * self.dx + (to[1] - self.y) * self.dy
        return self.x + ahead * self.dx, self.y + ahead * self.dy

    def turn(self, other: _Line) -> float:
        """By how many degrees another goes another way."""
        return abs(
            math.degrees(math.atan2(self.dx * other.dy - self.dy * other.dx, self.dx * other.dx + self.dy * other.dy))
        )

    def crossing(self, other: _Line) -> Place:
        turn = self.dx * other.dy - self.dy * other.dx
        ahead = ((other.x - self.x) * other.dy - (other.y - self.y) * other.dx) / turn
        return self.x + ahead * self.dx, self.y + ahead * self.dy


def joints_of(
    lines: Sequence[Floats], breaks: Sequence[float], half: float, pivot: Place, fixed: Sequence[bool] = ()
) -> list[tuple[Place, ...]]:
    """The points of each drawing's chain from the pivot to the end, px; ``half`` is half as wide as it is drawn.

    ``fixed`` are the joints that the breaks tell, and not how the chain turns: they share how long it is drawn.
    """
    told = [_links_of(points, breaks, half) for points in lines]
    lengths = _lengths(told, lines, breaks, pivot, fixed or (False,) * (len(breaks) - 2))
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


def _links_of(points: Floats, breaks: Sequence[float], half: float) -> list[_Line]:
    """The line of each link, without what lies within half its width of a joint."""
    far = along(points)
    length = far[-1]
    links = list[_Line]()
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


def _line_through(points: Floats) -> _Line:
    """The line through points, those apart weighing less."""
    weights = np.ones(len(points))
    middle, way = points.mean(axis=0), points[-1] - points[0]
    for _ in range(4):
        middle = np.average(points, axis=0, weights=weights)
        away = points - middle
        values, vectors = np.linalg.eigh((away * weights[:, None]).T @ away)
        way = vectors[:, int(values.argmax())]
        off = away @ np.array([-way[1], way[0]])
        scale = max(0.2, 1.5 * float(np.median(np.abs(off))))
        weights = 1 / (1 + (off / scale) ** 2)
    way = way if float(way @ (points[-1] - points[0])) >= 0 else -way
    return _Line(float(middle[0]), float(middle[1]), float(way[0]), float(way[1]))


def _lengths(
    told: Sequence[Sequence[_Line]],
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
