"""From a difference picture to what may be the subject in it."""

from __future__ import annotations

import math
from collections.abc import Generator, Iterator, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import percentile
from motion.tracking import conics, edges
from motion.tracking.edges import FAINT, LEAST_MINOR, RAYS, Edge, Sight, Start
from motion.tracking.ellipse import Ellipse
from motion.tracking.light import NOWHERE, Box, over, where_over

MOST_CANDIDATES = 6
# Smaller marks are none, px.
LEAST_AREA = 24
# What goes up to the frame's edge is drawn on that many rows or columns next to it.
AT_EDGE_PX = 1
# An ellipse so many times as long as what was seen of it was never seen.
BEYOND = 4.0
# What is thinner than these shares of a thing's thickest part is first taken for whiskers (a speed line, a line that
# touches it), then for a trail (speed lines run together, a neighbour showing through).
BODIES = (0.175, 0.75)
# A hole of such a share of a thing that fills less of its moments' ellipse lies between lines, not in an outline.
BETWEEN, ROUND_HOLE = 0.2, 0.88
# What lies so many times as far off an outline as a smooth one's points do sticks out of it.
STICKS_OUT = 2.5
ROUND_ENOUGH, LEAST_ROUND = 0.93, 0.2
# Faint marks are taken for part of the subject where they make its outline rounder by so much.
ROUNDER = 0.1
# What is drawn beyond an edge on so much of the way round may be a pale outline or a pale half of the subject.
PALE_SHARE = 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """A thing in one drawing that may be the subject.

    ``roundness`` is 1 where the outline is an ellipse all round; ``contrast`` in levels of 255.
    """

    ellipse: Ellipse
    clipped: bool
    contrast: float
    roundness: float

    @property
    def size(self) -> float:
        """Width of the circle of the same area, px."""
        return float(np.sqrt(self.ellipse.major * self.ellipse.minor))


Asking = Generator[Start, Edge, Candidate | None]
"""Looks for the subject in one thing, and asks meanwhile for edges; what many ask for is looked for together."""


def candidates(sight: Sight, *, closing: bool = True) -> list[Candidate]:
    """What may be the subject in one drawing, largest first; ``closing`` mends broken outlines before it looks."""
    return candidates_of([sight], closing=closing)[0]


def candidates_of(sights: Sequence[Sight], *, closing: bool = True) -> list[list[Candidate]]:
    """The same for several drawings, which together take a third of the time."""
    things = [(number, asking) for number, sight in enumerate(sights) for asking in _things(sight, closing)]
    found: list[list[Candidate]] = [[] for _ in sights]
    for (number, _), candidate in zip(things, _answered([asking for _, asking in things]), strict=True):
        if candidate is not None:
            found[number].append(candidate)
    return found


def near(sight: Sight, start: Ellipse) -> Candidate | None:
    """The subject whose outline lies near an ellipse, if there is one."""
    (found,) = _answered([_refined(sight, start, rough=True, clipped=False)])
    return found if found is not None and found.roundness > LEAST_ROUND else None


def _answered(askings: Sequence[Asking]) -> list[Candidate | None]:
    """What each comes to; the edges that all of them ask for next are looked for at once."""
    results: list[Candidate | None] = [None] * len(askings)
    waiting: list[tuple[int, Start]] = []

    def go_on(number: int, answer: Edge | None) -> None:
        try:
            asked = next(askings[number]) if answer is None else askings[number].send(answer)
        except StopIteration as done:
            results[number] = done.value
        else:
            waiting.append((number, asked))

    for number in range(len(askings)):
        go_on(number, None)
    while waiting:
        asked, waiting = waiting, []
        for (number, _), edge in zip(asked, edges.find([start for _, start in asked]), strict=True):
            go_on(number, edge)
    return results


def _things(sight: Sight, closing: bool) -> Iterator[Asking]:
    """The things drawn in a picture that are large enough, the largest first."""
    reach = _odd(max(3, round(min(sight.differs.size) * 0.011))) if closing else 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach))
    box = _bounds(sight, margin=reach + 2)
    if box == NOWHERE:
        return
    left, top, _, _ = box
    closed = cv2.morphologyEx(over(sight.differs.cut(box), sight.threshold), cv2.MORPH_CLOSE, kernel)
    contours, nested = cv2.findContours(closed, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    outer = [k for k in range(len(contours)) if nested[0][k][3] < 0]
    for k in sorted(outer, key=lambda k: cv2.contourArea(contours[k]), reverse=True)[:MOST_CANDIDATES]:
        area = cv2.contourArea(contours[k])
        if area >= LEAST_AREA:
            holes = [np.asarray(c, np.int32) for c, n in zip(contours, nested[0], strict=True) if n[3] == k]
            between = next((h for h in holes if cv2.contourArea(h) >= BETWEEN * area and not _is_round(h)), None)
            yield _measure(np.asarray(contours[k], dtype=np.int32), between, (left, top), sight)


def _is_round(hole: NDArray[np.int32]) -> bool:
    """Whether it fills the ellipse of its own moments, as a half or a quarter of a disc does; a triangle does not."""
    told = cv2.moments(hole)
    mu = [told[k] / told["m00"] for k in ("mu20", "mu02", "mu11")]
    ellipse = 4 * math.pi * math.sqrt(max(0.0, mu[0] * mu[1] - mu[2] ** 2))
    return told["m00"] >= ROUND_HOLE * ellipse


def _bounds(sight: Sight, margin: int) -> Box:
    """The box of all that counts, with a margin where there is room for one."""
    if sight.differs.box == NOWHERE:
        return NOWHERE
    left, top, _, _ = sight.differs.box
    inner = where_over(sight.differs.part, sight.threshold)
    if inner == NOWHERE:
        return NOWHERE
    height, width = sight.differs.size
    return (
        max(0, left + inner[0] - margin),
        max(0, top + inner[1] - margin),
        min(width, left + inner[2] + margin),
        min(height, top + inner[3] + margin),
    )


def _measure(
    contour: NDArray[np.int32], between: NDArray[np.int32] | None, offset: tuple[int, int], sight: Sight
) -> Asking:
    """The subject in a contour: as it is, or if that is no ellipse what is left of it without trails and tails.

    ``between`` is what lines that lead away from the subject enclose, which is none of it.
    """
    middle = np.array(offset, dtype=np.float64)
    points = contour.reshape(-1, 2) + middle
    whole = conics.fit(points)
    if between is None and whole is not None and whole.minor >= LEAST_MINOR and _is_smooth(whole, points):
        return (yield from _refined(sight, whole, rough=False, clipped=_touches_edge(points, sight)))
    found: list[Candidate] = []
    for thickness in BODIES:
        body = _body(contour, between, thickness)
        first, rough = (None, True) if body is None else _roughly(body + middle)
        if body is None or first is None:
            continue
        candidate = yield from _refined(sight, first, rough=rough, clipped=_touches_edge(body + middle, sight))
        found.append(candidate)
        if not rough or candidate.roundness >= ROUND_ENOUGH:
            break
    return max(found, key=lambda c: c.roundness, default=None)


def _roughly(points: NDArray[np.float64]) -> tuple[Ellipse | None, bool]:
    """The ellipse near a rough outline (n, 2), if there is one, and whether the outline is far from it."""
    hull = _hull(points)
    first = conics.fit(hull)
    # Where the rough outline is an ellipse already, looking near it is enough.
    rough = first is None or _is_rough(first, hull)
    if rough:
        first = conics.fit_robust(hull[None], np.ones((1, len(hull)), dtype=bool), rounds=2).ellipses[0]
    if first is None or first.minor < LEAST_MINOR or first.major > BEYOND * max(np.ptp(points, axis=0)):
        return None, rough
    return first, rough


def _touches_edge(points: NDArray[np.float64], sight: Sight) -> bool:
    """Whether what lies in an outline (n, 2) goes up to the frame's edge.

    Closing gaps carries an outline on to an edge that is near, so what is drawn must itself be there.
    """
    height, width = sight.differs.size
    left, top = (max(0, int(v)) for v in points.min(axis=0))
    right, bottom = (math.ceil(v) + 1 for v in points.max(axis=0))
    strips: list[Box] = []
    if left <= 1:
        strips.append((0, top, AT_EDGE_PX, bottom))
    if top <= 1:
        strips.append((left, 0, right, AT_EDGE_PX))
    if right >= width - 1:
        strips.append((width - AT_EDGE_PX, top, width, bottom))
    if bottom >= height - 1:
        strips.append((left, height - AT_EDGE_PX, right, height))
    return any(bool(over(sight.differs.cut(strip), sight.threshold).any()) for strip in strips)


def _refined(sight: Sight, first: Ellipse, *, rough: bool, clipped: bool) -> Generator[Start, Edge, Candidate]:
    """The ellipse through the edge that lies near a first one.

    Faint marks are left out at first, as shadows and smudges are. Where that leaves no whole ellipse and they complete
    one, they are the pale part of the subject itself.
    """
    edge = yield Start(sight=sight, shape=first, rough=rough, clipped=clipped)
    found = _candidate(edge, sight, clipped)
    round_enough = found.roundness >= ROUND_ENOUGH
    if sight.faint > FAINT or (round_enough and edge.pale_beyond < PALE_SHARE):
        return found
    paler = replace(sight, faint=sight.palest)
    whole = _candidate((yield Start(sight=paler, shape=first, rough=True, clipped=clipped)), paler, clipped)
    needed = found.roundness if round_enough else min(ROUND_ENOUGH, found.roundness + ROUNDER)
    return whole if whole.roundness >= needed - 1 / RAYS else found


def _candidate(edge: Edge, sight: Sight, clipped: bool) -> Candidate:
    height, width = sight.differs.size
    clipped = clipped or reaches_out(edge.shape, width, height)
    return Candidate(ellipse=edge.shape, clipped=clipped, contrast=edge.contrast, roundness=min(1.0, edge.agreed))


def reaches_out(shape: Ellipse, width: int, height: int) -> bool:
    """Whether more than half a pixel of a shape lies outside the frame."""
    across, down = shape.half_width, shape.half_height
    return shape.x - across < -1.0 or shape.y - down < -1.0 or shape.x + across > width or shape.y + down > height


def _is_rough(shape: Ellipse, hull: NDArray[np.float64]) -> bool:
    return percentile(np.abs(shape.residuals(hull)), 90) > max(1.0, 0.02 * shape.minor)


def _is_smooth(shape: Ellipse, points: NDArray[np.float64]) -> bool:
    """Whether points lie along a shape's outline all round, and nothing sticks out of it."""
    off, allowed = np.abs(shape.residuals(points)), max(1.5, 0.03 * shape.minor)
    return percentile(off, 90) <= allowed and float(off.max()) <= STICKS_OUT * allowed


def _body(contour: NDArray[np.int32], between: NDArray[np.int32] | None, share: float) -> NDArray[np.float64] | None:
    """The contour without what is thinner than a share of its thickest part: (n, 2) points."""
    x, y, w, h = cv2.boundingRect(contour)
    pad = 2
    filled = np.zeros((h + 2 * pad, w + 2 * pad), np.uint8)
    cv2.drawContours(filled, [contour - np.array([x - pad, y - pad])], -1, 1, cv2.FILLED)
    if between is not None:
        cv2.drawContours(filled, [between - np.array([x - pad, y - pad])], -1, 0, cv2.FILLED)
    thickness = _odd(max(3, round(2 * share * float(cv2.distanceTransform(filled, cv2.DIST_L2, 3).max()))))
    opened = cv2.morphologyEx(
        filled, cv2.MORPH_OPEN, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (thickness, thickness))
    )
    parts, _ = cv2.findContours(opened, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not parts:
        return None
    largest = max(parts, key=cv2.contourArea)
    return np.asarray(largest.reshape(-1, 2), dtype=np.float64) + np.array([x - pad, y - pad], dtype=np.float64)


def _hull(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """The convex hull as evenly spaced points: a subject is convex, whatever a broken outline shows."""
    corners = cv2.convexHull(points.astype(np.float32)).reshape(-1, 2).astype(np.float64)
    closed = np.vstack([corners, corners[:1]])
    steps = np.hypot(*np.diff(closed, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    at = np.linspace(0, along[-1], 97)[:-1]
    return np.stack([np.interp(at, along, closed[:, 0]), np.interp(at, along, closed[:, 1])], axis=1)


def _odd(value: int) -> int:
    return value if value % 2 else value + 1
