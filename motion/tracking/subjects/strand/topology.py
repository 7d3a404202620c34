"""From one end of a strand to the other through its ink: how far each place of it is from the root, along it."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import dijkstra
from scipy.spatial import cKDTree

Mask = NDArray[np.bool_]
Floats = NDArray[np.float64]
Place = tuple[float, float]
WAYS = ((0, 1, 1.0), (1, 0, 1.0), (1, 1, 2**0.5), (1, -1, 2**0.5))
SPECK = 0.02
"""What is smaller than such a share of the ink, and lies apart, is no part of it."""


@dataclass(frozen=True, slots=True, eq=False)
class Ways:
    """A drawing's ink at half size as a net: (n, 2) its pixels, and the ways between neighbours.

    Parts that lie apart hang together by the shortest way between them; ``apart`` are those ways: from where to where.
    """

    pixels: Floats
    net: coo_matrix
    apart: tuple[tuple[Place, Place], ...]

    def nearest(self, place: Place) -> int:
        """The number of the pixel nearest to a place."""
        return int(np.hypot(*(self.pixels - np.array(place)).T).argmin())

    def far_from(self, start: int) -> Floats:
        """(n,) how far each pixel is from one, along the ink, px."""
        return np.asarray(dijkstra(self.net, directed=False, indices=start), dtype=np.float64)

    def ends(self) -> tuple[Place, Place]:
        """The two places that lie farthest from each other, along the ink."""
        one = int(self.far_from(0).argmax())
        other = int(self.far_from(one).argmax())
        first, second = self.pixels[one], self.pixels[other]
        return (float(first[0]), float(first[1])), (float(second[0]), float(second[1]))


def ways_through(marked: Mask) -> Ways | None:
    """The net of a drawing's ink; None where there is next to none."""
    half = cv2.resize(255 * marked.view(np.uint8), None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA) > 60
    count, parts, about, _ = cv2.connectedComponentsWithStats(np.asarray(half).view(np.uint8), connectivity=8)
    sizes = about[1:, cv2.CC_STAT_AREA]
    if count < 2 or sizes.sum() < 12:
        return None
    own = 1 + np.flatnonzero(sizes >= SPECK * sizes.sum())
    kept = np.zeros(count, bool)
    kept[own] = True
    # With nothing beside it, so that no way leads over an edge.
    part = cv2.copyMakeBorder(parts, 1, 1, 1, 1, cv2.BORDER_CONSTANT).ravel()
    at = np.flatnonzero(kept[part])
    wide = half.shape[1] + 2
    numbers = np.full(len(part), -1, np.int32)
    numbers[at] = np.arange(len(at), dtype=np.int32)
    rows, columns = np.divmod(at, wide)
    pixels = np.stack([2 * columns - 1.5, 2 * rows - 1.5], axis=1)
    starts, ends, far = [], [], []
    for down, right, long in WAYS:
        beside = numbers[at + (down * wide + right)]
        there = np.flatnonzero(beside >= 0)
        starts.append(there.astype(np.int32))
        ends.append(beside[there])
        far.append(np.full(len(there), 2.0 * long))
    bridges = _bridges(pixels, [np.flatnonzero(part[at] == n) for n in own])
    for one, other, long in bridges:
        starts.append(np.array([one]))
        ends.append(np.array([other]))
        far.append(np.array([long]))
    net = coo_matrix(
        (np.concatenate(far), (np.concatenate(starts), np.concatenate(ends))), shape=(len(pixels), len(pixels))
    )
    return Ways(pixels, net.tocsr(), tuple((_place(pixels[a]), _place(pixels[b])) for a, b, _ in bridges))


def _place(pixel: Floats) -> Place:
    return float(pixel[0]), float(pixel[1])


def _bridges(pixels: Floats, parts: list[NDArray[np.intp]]) -> list[tuple[int, int, float]]:
    """The shortest ways by which parts that lie apart hang together: from, to, and how long, px."""
    reached, left = list(parts[0]), [list(p) for p in parts[1:]]
    found = []
    while left:
        tree = cKDTree(pixels[reached])
        told = []
        for part in left:
            far, near = tree.query(pixels[part])
            at = int(far.argmin())
            told.append((float(far[at]), reached[int(near[at])], part[at]))
        nearest = min(range(len(left)), key=lambda k: told[k][0])
        far_off, one, other = told[nearest]
        found.append((int(one), int(other), far_off))
        reached += left.pop(nearest)
    return found
