"""Heads told by their faces: what is of one colour all round a head's middle.

Hair that hangs together with a head is no part of it, and may make its outline a larger head's. It is drawn in another
colour than the face, or lines divide it from that: so the face ends where the head does, but for its own outline.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import median
from motion.tracking.conics import fit_robust
from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure.body import Core
from motion.tracking.subjects.figure.head import FARTHEST, RAYS, STEP, all_round, first_over, outline
from motion.tracking.subjects.figure.ink import Sheet
from motion.tracking.subjects.figure.looking import Looking

Floats = NDArray[np.float64]
MIDDLE = 0.15
"""What colour a face is, is told from so much of the head around its middle."""
OTHER = 36.0
"""Levels, in any of the colours' parts, by which something is of another colour."""
NEAREST = 0.5
"""A face ends no nearer to the middle than so much of the head."""
ALL_ROUND = 0.85
"""It shows where it ends in so many of all directions."""
OWN_EDGE = 25
"""So many percent of the directions meet the head's own outline alone behind the face."""
LARGER = 1.08
"""A head has something to it that is so many times as long as its face with that outline."""
ALIKE, LEAST = 0.12, 5
"""Faces are of one form, how broad for how long, to this, in so many drawings at least; ..."""
LIKE = (0.6, 1.6)
"""... and so many times as large as they mostly are: one drawn larger is a fault, and no other thing."""


@dataclass(frozen=True, slots=True)
class _Faces:
    """By drawing the ellipse of its face; how thick the outline around faces is, px; whether they show all round."""

    found: Mapping[int, Ellipse]
    edge: float
    all_round: bool


def faces(looking: Looking, heads: Sequence[Ellipse | None]) -> dict[int, Ellipse]:
    """The heads by their faces, by drawing (from 0); none where faces do not show, or heads are no larger."""
    seen = {n: head for n, head in enumerate(heads) if head is not None}
    if len(seen) < LEAST:
        return {}
    told = _told(looking, seen)
    if not told.found:
        return {}
    usual = median(np.array([face.minor for face in told.found.values()]))
    form = median(np.array([face.minor / face.major for face in told.found.values()]))
    own = {
        n: f
        for n, f in told.found.items()
        if LIKE[0] <= f.minor / usual <= LIKE[1] and abs(f.minor / f.major / form - 1) <= ALIKE and _lies_in(f, seen[n])
    }
    if not told.all_round or len(own) < max(LEAST, len(seen) / 2):
        return {}
    grown = {n: replace(f, major=f.major + 2 * told.edge, minor=f.minor + 2 * told.edge) for n, f in own.items()}
    if median(np.array([seen[n].major / grown[n].major for n in grown])) < LARGER:
        return {}
    return grown | _led(seen, grown)


def _told(looking: Looking, seen: Mapping[int, Ellipse]) -> _Faces:
    rays = [_face(looking.sheet(n), head) for n, head in seen.items()]
    reach, there = (np.array([r[k] for r in rays]) for k in (0, 1))
    middles = np.array([(head.x, head.y) for head in seen.values()])
    points = middles[:, None] + reach[..., None] * all_round()
    fits = fit_robust(points, there)
    outlines = [outline(looking.sheet(n), Core(h.x, h.y, h.minor / 2, 0.0), h.minor / 2) for n, h in seen.items()]
    outer = np.hypot(*(np.array([o[0] for o in outlines]) - middles[:, None]).transpose(2, 0, 1))
    both = there & np.array([o[1] for o in outlines])
    edge = float(np.percentile((outer - reach)[both], OWN_EDGE)) if both.any() else 0.0
    found = {n: e for n, e in zip(seen, fits.ellipses, strict=True) if e is not None}
    return _Faces(found, max(0.0, edge), bool(np.median(there.mean(axis=1)) >= ALL_ROUND))


def _face(sheet: Sheet, head: Ellipse) -> tuple[Floats, NDArray[np.bool_]]:
    """(rays,) how far from a head's middle its colour goes on, px, and in which directions it ends near the head."""
    x, y, radius = head.x - sheet.left, head.y - sheet.top, head.minor / 2
    as_far = math.ceil(FARTHEST * radius) + 2
    left, top = max(0, int(x) - as_far), max(0, int(y) - as_far)
    colour = sheet.colour[top : max(0, int(y) + as_far), left : max(0, int(x) + as_far), :3].astype(np.float32)
    column, row, around = round(x) - left, round(y) - top, max(1, round(MIDDLE * radius))
    middle = colour[max(0, row - around) : row + around + 1, max(0, column - around) : column + around + 1]
    if not middle.size:
        return np.zeros(RAYS), np.zeros(RAYS, dtype=bool)
    red, green, blue = cv2.split(np.abs(colour - np.median(middle.reshape(-1, 3), axis=0).astype(np.float32)))
    differs = np.asarray(cv2.max(cv2.max(red, green), blue), np.float32)
    far = np.arange(0.0, FARTHEST * radius, STEP)
    places = np.array([x - left, y - top]) + far[None, :, None] * all_round()[:, None]
    across, down = np.moveaxis(places, -1, 0).astype(np.float32)
    profile = np.asarray(
        cv2.remap(differs, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=255), np.float32
    )
    reach, ends = first_over(profile, far, OTHER)
    return reach, ends & (reach >= NEAREST * radius)


def _lies_in(face: Ellipse, head: Ellipse) -> bool:
    return math.dist((face.x, face.y), (head.x, head.y)) + face.minor / 2 <= head.major / 2 * LARGER


def _led(seen: Mapping[int, Ellipse], told: Mapping[int, Ellipse]) -> dict[int, Ellipse]:
    """Heads whose faces do not tell, as those of the others lie in what goes with them."""
    some = list(told)
    way = np.median([(told[n].x - seen[n].x, told[n].y - seen[n].y) for n in some], axis=0)
    times = median(np.array([told[n].major / seen[n].major for n in some]))
    round_ = median(np.array([told[n].minor / told[n].major for n in some]))
    return {
        n: replace(
            head,
            x=head.x + float(way[0]),
            y=head.y + float(way[1]),
            major=times * head.major,
            minor=round_ * times * head.major,
        )
        for n, head in seen.items()
        if n not in told
    }
