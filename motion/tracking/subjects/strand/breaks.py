"""Between which places along it a chain is straight: the same in all drawings.

The best places for two to six links are found by dynamic programming over stations along it, by how far the middle
lines of all drawings lie off straight lines. Where it hardly turns, drawn joints tell, or nothing does.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from motion.tracking.subjects.strand.polyline import along, placed

Floats = NDArray[np.float64]
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
TURNS, HARDLY = 8.0, 4.0
"""Degrees that tell where a joint is; so many that tell it where nothing is drawn there."""


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
    breaks: Sequence[float],
    turns: Sequence[float],
    seams: Sequence[float],
    links: int | None,
    wide: float,
    shows: float = 1.0,
) -> tuple[tuple[float, ...], tuple[bool, ...]]:
    """Breaks as the chain's turning tells them where it turns enough, elsewhere as drawn joints do, else evenly.

    ``turns`` are the greatest degrees (but for some) at each inner break, ``seams`` the shares of the length at which
    joints are drawn, the clearest first, ``wide`` its width as such a share, ``shows`` the share up to which no weight
    hides it. With the breaks: which joints, in order, are not told by turning.
    """
    every = zip(breaks[1:-1], turns, _shortest_beside(breaks), strict=True)
    inner = [told for told in every if APART * wide < told[0] < min(shows, 1 - APART * wide)]
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
