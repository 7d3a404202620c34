"""Paper that does not lie still under the camera: how each picture is displaced against the first.

What stands still in the world (ground, peg holes, scenery) is followed at points where it has edges. The subject moves
against them, so that the few points that it covers are outliers, which the fit gives no weight.
Source: Lucas and Kanade's registration by the gradient, with Tukey's weights and a prior that holds back what the
edges do not tell (a level line alone says nothing about a move along it).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import median
from motion.shift import STILL, Shift
from motion.tracking.light import Box, Light, within

Grey = NDArray[np.uint8]
Slope = NDArray[np.float32]
Points = NDArray[np.float64]
Mask = NDArray[np.bool_]

LEAST_EDGE = 5.0
"""Levels a pixel that an edge must have."""
FEWEST_POINTS = 80
LEAST_SPAN = 0.35
"""Which part of the frame's width or height the edges must span."""
FEWEST_ACROSS, SPAN_ACROSS = 20, 0.2
"""So many edges, so far apart in the frame, tell a move across them."""
MOST_POINTS = 2000
MOST_COARSE = 400
SUPPORT = 0.6
"""An edge counts as standing still when so many of the other pictures have one nearby."""
NEAR = 7
"""Nearby is within a square of so many pixels of half the picture's size."""
BESIDE = 0.25
"""A subject that stays in its place reaches so much of what moves beyond that."""
COARSE = 4
REACH = 6
"""Displacements are first looked for up to so many coarse pixels either way."""
PRIOR = (2.0, 2.0, 0.004)
"""How far paper usually lies off: px, px, radians."""
UNTURNED = 1e-6
"""The same in radians where turning cannot be told."""
LEAST_SPREAD = 2.0
"""Levels below which a residual is never told from none."""
CAP = 40.0
"""Residuals count up to so many levels, however wrong."""
FITS_WELL = 5.0
"""Levels of mean residual up to which no farther place is looked for."""
ASIDE = ((4.0, 0.0), (-4.0, 0.0), (0.0, 4.0), (0.0, -4.0))
"""Where else to start, px from a fit that is poor."""
FITS_AT_ALL = 16.0
"""Levels beyond which it is another background, or none."""
ROUNDS = 8
CLEARLY = 4.0
"""How many times the grain's own slope a slope must be to be believed."""
DRIFTS_PX = 0.2
"""Smaller displacements in all pictures are none."""


class Register:
    """Finds how pictures, in colours or grey, lie against a reference, by the edges that stand still in it.

    By those in one box (``anchor``) alone, where it is known that what is drawn there belongs to the paper: so small a
    part tells how far the paper moved, and not how it turned. Where the subject ``stays`` in its place, what hangs
    together with what moves tells nothing.
    """

    def __init__(
        self,
        reference: Light | Grey,
        others: Sequence[Light | Grey],
        *,
        anchor: Box | None = None,
        stays: bool = False,
    ) -> None:
        self._anchor = anchor
        self._prior = PRIOR if anchor is None else (*PRIOR[:2], UNTURNED)
        grey = self._grey(reference)
        self._height, self._width = grey.shape
        self._points, self._slopes = _still_edges(grey, [self._grey(o) for o in others], stays)
        self._fine = _values(_blurred(grey), self._points)
        self._arms = self._points - np.array([(self._width - 1) / 2, (self._height - 1) / 2])
        self._upright = np.abs(self._slopes[:, 0]) >= np.abs(self._slopes[:, 1])
        self._small = cv2.resize(grey, None, fx=1 / COARSE, fy=1 / COARSE, interpolation=cv2.INTER_AREA)

    @property
    def has_edges(self) -> bool:
        """Whether enough stands still to go by, and not in one place, where it may be the subject that rests."""
        if len(self._points) < FEWEST_POINTS:
            return False
        if self._anchor is not None:
            return True
        low, high = np.percentile(self._points, [5, 95], axis=0)
        return bool(((high - low) >= LEAST_SPAN * np.array([self._width, self._height])).any())

    def shift_of(self, picture: Light | Grey) -> Shift:
        """How a picture lies; STILL where nothing tells."""
        if not self.has_edges:
            return STILL
        grey = self._grey(picture)
        soft = _blurred(grey)
        if self._unmoved(soft):
            return STILL
        shift, misfit = self._refined(soft, (0.0, 0.0))
        if misfit > FITS_WELL:
            starts = [self._coarse(grey), *((shift.x + x, shift.y + y) for x, y in ASIDE)]
            shift, misfit = min([(shift, misfit), *(self._refined(soft, s) for s in starts)], key=lambda fit: fit[1])
        return shift if misfit <= FITS_AT_ALL else STILL

    def straighten(self, light: Light, shift: Shift) -> Light:
        """The picture laid as frame 1 lies."""
        if shift == STILL:
            return light
        return straightened(light, shift)

    def _grey(self, picture: Light | Grey) -> Grey:
        return _grey(picture if self._anchor is None else picture[within(self._anchor)])

    def _unmoved(self, soft: Grey) -> bool:
        """Whether most still edges are to the level where they were."""
        off = np.abs(_values(soft, self._points) - self._fine)
        return bool(np.mean(off < 0.5) > 0.7)

    def _coarse(self, grey: Grey) -> tuple[float, float]:
        small = cv2.resize(grey, None, fx=1 / COARSE, fy=1 / COARSE, interpolation=cv2.INTER_AREA)
        at = np.unique(np.round((self._points - 1.5) / COARSE).astype(int), axis=0)
        at = at[:: max(1, len(at) // MOST_COARSE)]
        rows, columns = small.shape
        inside = (at >= REACH).all(axis=1) & (at[:, 0] < columns - REACH) & (at[:, 1] < rows - REACH)
        # Edges near the frame's own edge are all there may be.
        at = np.clip(at, 0, [columns - 1, rows - 1]) if inside.sum() < 30 else at[inside]
        wanted = self._small[at[:, 1], at[:, 0]].astype(np.float32)
        best, found = np.inf, (0, 0)
        for dy in range(-REACH, REACH + 1):
            y = np.clip(at[:, 1] + dy, 0, rows - 1)
            for dx in range(-REACH, REACH + 1):
                x = np.clip(at[:, 0] + dx, 0, columns - 1)
                off = np.abs(small[y, x].astype(np.float32) - wanted)
                cost = float(np.minimum(off, CAP).mean()) + 0.12 * math.hypot(dx, dy)
                if cost < best:
                    best, found = cost, (dx, dy)
        return found[0] * float(COARSE), found[1] * float(COARSE)

    def _misfit(self, off: NDArray[np.float64]) -> float:
        """The mean residual of upright or of level edges, whichever is worse: a long line must not hide the rest."""
        capped = np.minimum(np.abs(off), CAP)
        return max(float(capped[part].mean()) for part in (self._upright, ~self._upright) if part.any())

    def _refined(self, picture: Grey, start: tuple[float, float]) -> tuple[Shift, float]:
        """The shift to which the fit comes from a start, and how badly it fits."""
        middle = self._points[0] - self._arms[0]
        across, down = self._slopes.T
        jacobian = np.stack([across, down, across * self._arms[:, 1] - down * self._arms[:, 0]])
        x, y, turn, off = start[0], start[1], 0.0, np.zeros(len(self._points))
        for _ in range(ROUNDS):
            places = self._arms @ np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
            off = _values(picture, places + middle + (x, y)) - self._fine
            spread = max(LEAST_SPREAD, 1.4826 * median(np.abs(off)))
            weights = np.maximum(1 - (off / (4.7 * spread)) ** 2, 0) ** 2
            weighed = jacobian * weights
            # Neighbouring points share their pixels and so tell less than as many apart.
            prior = np.diag([(3 * spread / p) ** 2 for p in self._prior])
            step = np.linalg.solve(weighed @ jacobian.T + prior, -(weighed @ off) - prior @ np.array([x, y, turn]))
            x, y, turn = x + float(step[0]), y + float(step[1]), turn + float(step[2])
            if abs(step[0]) + abs(step[1]) < 0.005:
                break
        return Shift(x=x, y=y, turn=math.degrees(turn)), self._misfit(off)


def straightened(picture: NDArray[np.uint8], shift: Shift) -> NDArray[np.uint8]:
    """A picture (height, width, channels) laid as frame 1 lies; its edges go on where nothing was seen."""
    height, width = picture.shape[:2]
    return np.asarray(
        cv2.warpAffine(
            picture,
            shift.matrix(width, height),
            (width, height),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        ),
        dtype=np.uint8,
    )


def _grey(picture: Light | Grey) -> Grey:
    if picture.ndim == 2:
        return picture
    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_RGBA2GRAY), dtype=np.uint8)


def _blurred(grey: Grey) -> Grey:
    return np.asarray(cv2.GaussianBlur(grey, (5, 5), 1.2), dtype=np.uint8)


def _believed(grey: Grey) -> tuple[Slope, Slope]:
    """The grey's slope across and down, levels a pixel, where it stands out of the grain's; else 0."""
    soft = _blurred(grey)
    slopes = []
    for dx, dy in ((1, 0), (0, 1)):
        slope = np.asarray(cv2.Sobel(soft, cv2.CV_32F, dx, dy, ksize=3, scale=1 / 8), dtype=np.float32)
        grain = 1.4826 * float(np.median(np.abs(slope[::3, ::3])))
        slope[np.abs(slope) < CLEARLY * grain] = 0.0
        slopes.append(slope)
    return slopes[0], slopes[1]


def _still_edges(reference: Grey, others: Sequence[Grey], stays: bool) -> tuple[Points, Points]:
    """Places (n, 2) of edges that most other pictures have too, and the slope (n, 2) of the grey there.

    Without those of a subject that ``stays`` in its place.
    """
    across, down = _believed(reference)
    steep = cv2.magnitude(across, down)
    still = steep >= LEAST_EDGE
    if others:
        edges = [_edges(other) for other in others]
        support = np.stack([_near(e) for e in edges]).sum(axis=0, dtype=np.uint8)
        height, width = reference.shape
        common = support >= SUPPORT * len(others)
        if stays:
            common &= ~_with_what_moves(common, np.maximum.reduce([_edges(reference), *edges]) > 0)
        still &= cv2.resize(common.view(np.uint8), (width, height), interpolation=cv2.INTER_NEAREST) > 0
    upright = still & (np.abs(across) >= np.abs(down))
    chosen = np.concatenate([_spread(upright), _spread(still & ~upright)])
    points = chosen[:, ::-1].astype(np.float64)
    rows, columns = chosen[:, 0], chosen[:, 1]
    slopes = np.stack([across[rows, columns], down[rows, columns]], axis=1).astype(np.float64)
    # What grain lays along a level line would tell of a move along it; so would the few edges of a subject in front.
    slopes[np.abs(slopes) < LEAST_EDGE / 2] = 0.0
    size = np.array([reference.shape[1], reference.shape[0]])
    for axis in (0, 1):
        if not _tells(points[slopes[:, axis] != 0], size):
            slopes[:, axis] = 0.0
    # What tells no move says nothing of how well one fits either: a line that turns about its end, for one.
    telling = slopes.any(axis=1)
    return points[telling], slopes[telling]


def _with_what_moves(common: Mask, any_edge: Mask) -> Mask:
    """(height / 2, width / 2) where edges that most pictures have hang together with some that come and go.

    Only between the columns in which those do, and a little beyond: a ground under a walker's feet goes on.
    """
    comes = (any_edge & ~common).view(np.uint8)
    columns = np.flatnonzero(comes.any(axis=0))
    if not len(columns):
        return np.zeros_like(common)
    beyond = BESIDE * (columns[-1] - columns[0])
    beside = np.zeros_like(common)
    beside[:, max(0, int(columns[0] - beyond)) : int(columns[-1] + beyond) + 1] = True
    parts = cv2.connectedComponents((common & beside).view(np.uint8), connectivity=8)[1]
    touched = np.unique(parts[_near(comes) > 0])
    return np.asarray(np.isin(parts, touched[touched > 0]))


def _tells(points: Points, size: NDArray[np.int64]) -> bool:
    """Whether edges at (n, 2) are enough, and far enough apart in a frame of that size, to tell a move across them."""
    return len(points) >= FEWEST_ACROSS and bool((np.ptp(points, axis=0) >= SPAN_ACROSS * size).any())


def _edges(grey: Grey) -> NDArray[np.uint8]:
    """(height / 2, width / 2) 1 at an edge, else 0: half the size is enough to tell that one is near."""
    height, width = grey.shape
    half = cv2.resize(grey, (width // 2, height // 2), interpolation=cv2.INTER_AREA)
    steep = cv2.magnitude(*_believed(np.asarray(half, dtype=np.uint8)))
    return np.asarray(cv2.threshold(steep, LEAST_EDGE, 1, cv2.THRESH_BINARY)[1], dtype=np.uint8)


def _near(edges: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """1 within some px of an edge, else 0."""
    return np.asarray(cv2.dilate(edges, np.ones((NEAR, NEAR), np.uint8)), dtype=np.uint8)


def _spread(mask: NDArray[np.bool_]) -> NDArray[np.int64]:
    """(n, 2) rows and columns of a mask, thinned evenly to half of MOST_POINTS."""
    places = np.argwhere(mask)
    step = max(1, -(-len(places) * 2 // MOST_POINTS))
    return np.asarray(places[::step], dtype=np.int64)


def _values(picture: Grey, places: Points) -> NDArray[np.float64]:
    """(n,) bilinear values at places (n, 2), at most 32,767; the frame's edge goes on outside."""
    if not len(places):
        return np.zeros(0)
    x, y = np.ascontiguousarray(places.T, dtype=np.float32)
    found = cv2.remap(picture, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found, dtype=np.float64).ravel()
