"""Which leg is which by tone or colour, where the two sides are drawn differently."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from motion.tracking.subjects.figure.ink import Cover, Mask, Sheet
from motion.tracking.subjects.figure.poses import Build, Floats

LEAST_APART = 20.0
"""Levels by which the colours of both legs differ at least, where they are drawn in two."""
STEADY = 0.35
"""From drawing to drawing that difference stays the same to such a share of it."""
FEWEST, FEWEST_PIXELS, MOST_PIXELS = 3, 12, 600
STEPS, BLUR, LEAST_SHARE, SURELY = 16, 0.8, 0.002, 0.5
"""Colours are told apart in steps of 16 levels, each counting for its neighbours too; a colour is surely a leg's that
the other one shows less than a third as often."""
ITS_OWN = 0.25
"""Legs are drawn in two colours of which each shows its own, surely, in such a share of it."""
FILLS = 0.3
"""What so much of both legs' ink is fills their outlines."""
FULL = 0.85
"""A pixel shows its ink's colour of which so much is covered."""
CLEARLY_ON_TOP, ON_TOP = 0.8, 0.62
"""The tone that shows in so large a share of where legs cross is clearly the near one's, or most likely."""
OF_BODY, BODYS_OWN = 0.3, 0.8
"""So is that of a body, or a trunk, which shows either tone in so much of it, and this one in so large a share of that:
what is drawn otherwise is the far side."""


@dataclass(frozen=True, slots=True, eq=False)
class Tones:
    """The colours of the near and of the far leg.

    ``near``, ``far`` (3,) are their means; ``table`` (16, 16, 16) tells of each colour, in steps of 16 levels, from 1
    where only the near leg shows it to -1 where only the far one does, about 0 where both do: what fills two outlines.
    ``paler`` is 1 where the near one is the paler, -1 where the far one is.
    """

    near: Floats
    far: Floats
    table: NDArray[np.float32]
    paler: float

    def turned(self, other: Tones) -> bool:
        """Whether the near leg's colour is what another telling has for the far one's."""
        near = [float(np.abs(self.near - colour).sum()) for colour in (other.near, other.far)]
        return near[1] < near[0]

    def nearness(self, colours: NDArray[np.uint8]) -> NDArray[np.float32]:
        """(n,) from 1 where a colour (n, 4) is the near leg's to -1 where it is the far one's."""
        return np.asarray(self.table.reshape(-1).take(_steps(colours)))

    def covers(self, sheet: Sheet) -> tuple[Cover, Cover]:
        """A drawing's cover by near ink, and by far ink.

        At its edge ink fades into the paper and its colour tells little, as does what outlines enclose: there the
        nearest ink tells that is surely the one or the other.
        """
        full = np.flatnonzero(sheet.cover > FULL)
        told = np.zeros(sheet.cover.shape, np.float32)
        told.reshape(-1)[full] = self.paler * self.nearness(sheet.colour.reshape(-1, 4).take(full, axis=0))
        strong = (told < -SURELY).view(np.uint8)
        # Beside its edge the stronger tone fades through the paler one.
        fades = np.asarray(cv2.dilate(strong, np.ones((3, 3), np.uint8))) > 0
        one = sheet.solid * _nearer(((told > SURELY) & ~fades).view(np.uint8), strong)
        return (one, sheet.solid - one) if self.paler > 0 else (sheet.solid - one, one)


def _steps(colours: NDArray[np.uint8]) -> NDArray[np.intp]:
    """(n,) which place of a table of colours in steps each colour (n, 4) takes."""
    pixels = np.ascontiguousarray(colours).view(np.uint32)[:, 0]
    # Red's four highest bits come first, green's next, blue's last.
    return np.asarray((pixels << 4 & 0xF00) | (pixels >> 8 & 0xF0) | (pixels >> 20 & 0xF), dtype=np.intp)


def _nearer(one: NDArray[np.uint8], other: NDArray[np.uint8]) -> NDArray[np.float32]:
    """(height, width) 1 where it is nearer to a pixel that is marked in ``one`` than to one that is so in the other.

    Told at half size, but for the marked pixels themselves.
    """
    height, width = one.shape
    halves = [_halved(marked) for marked in (one, other)]
    sure = halves[0] | halves[1]
    if not sure.any():
        return np.zeros(one.shape, np.float32)
    labels = cv2.distanceTransformWithLabels(np.asarray(1 - sure), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)[1]
    is_one = np.zeros(int(labels.max()) + 1, np.uint8)
    is_one[labels[sure > 0]] = halves[0][sure > 0] & ~halves[1][sure > 0]
    found = cv2.resize(is_one[labels], (2 * labels.shape[1], 2 * labels.shape[0]), interpolation=cv2.INTER_NEAREST)
    return np.asarray((found[:height, :width] | one) & ~other, dtype=np.float32)


def _halved(marked: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(height / 2, width / 2) 1 where any of four pixels is marked; with half a pixel more where they are odd."""
    height, width = marked.shape
    even = cv2.copyMakeBorder(marked, 0, height % 2, 0, width % 2, cv2.BORDER_CONSTANT)
    shares = cv2.resize(255 * np.asarray(even), (even.shape[1] // 2, even.shape[0] // 2), interpolation=cv2.INTER_AREA)
    return (np.asarray(shares) > 0).view(np.uint8)


def legs_drawn(sheet: Sheet, build: Build, hip: tuple[float, float], places: Floats) -> tuple[Mask, Mask]:
    """Where two legs lie in a drawing, each a thick line; ``places`` (8,) knees and ankles from the hip in legs."""
    drawn = []
    for k in (0, 4):
        points = places[k : k + 4].reshape(2, 2) * build.leg * np.array([build.facing, 1.0])
        line = np.concatenate([np.zeros((1, 2)), points]) + np.array(hip) - np.array([sheet.left, sheet.top])
        image = np.zeros(sheet.cover.shape, np.uint8)
        cv2.polylines(image, [np.rint(line).astype(np.int32).reshape(-1, 1, 2)], False, 1, max(2, round(build.wide)))
        drawn.append(image > 0)
    return drawn[0], drawn[1]


@dataclass(frozen=True, slots=True, eq=False)
class Shown:
    """The colours that a drawing's two legs show where each is alone, those where they cross, and the body's (n, 4)."""

    first: NDArray[np.uint8]
    second: NDArray[np.uint8]
    crossing: NDArray[np.uint8]
    body: NDArray[np.uint8]

    @property
    def apart(self) -> Floats:
        """(3,) by how much the first leg's mean colour is more than the second one's."""
        return np.asarray((self.first.mean(axis=0) - self.second.mean(axis=0))[:3], dtype=np.float64)


def shown(sheet: Sheet, one: Mask, other: Mask, outside: Mask) -> Shown | None:
    """What a drawing's legs show outside of the body; None where too little of either is alone."""
    drawn = np.flatnonzero((one | other) & (sheet.cover > FULL) & outside)
    colours = sheet.colour.reshape(-1, 4).take(drawn, axis=0)
    in_one, in_other = one.reshape(-1)[drawn], other.reshape(-1)[drawn]
    first, second = colours[in_one & ~in_other], colours[in_other & ~in_one]
    if min(len(first), len(second)) < FEWEST_PIXELS:
        return None
    body = np.flatnonzero((sheet.cover > FULL) & ~outside)
    return Shown(
        _some(first), _some(second), colours[in_one & in_other], _some(sheet.colour.reshape(-1, 4).take(body, axis=0))
    )


def _some(colours: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return colours[:: max(1, len(colours) // MOST_PIXELS)]


def tones_of(drawings: Sequence[Shown], paper: Floats, *, told_apart: bool = True) -> Tones | None:
    """The tones of both sides over a clip; None where they are drawn alike. ``paper`` (3,) lies behind.

    Where nobody says that they are ``told_apart`` each must show its own clearly.
    """
    if len(drawings) < FEWEST:
        return None
    apart = np.array([s.apart for s in drawings])
    # Which leg came first may differ from drawing to drawing: its direction tells, not its sign.
    way = np.linalg.svd(apart, full_matrices=False)[2][0]
    along = apart @ way
    usual = float(np.median(np.abs(along)))
    if usual < LEAST_APART or float(np.median(np.abs(np.abs(along) - usual))) > STEADY * usual:
        return None
    one = np.concatenate([s.first if a > 0 else s.second for s, a in zip(drawings, along, strict=True)])
    other = np.concatenate([s.second if a > 0 else s.first for s, a in zip(drawings, along, strict=True)])
    shares = [_shares(colours) for colours in (one, other)]
    table = np.asarray((shares[0] - shares[1]) / (shares[0] + shares[1] + LEAST_SHARE), dtype=np.float32)
    near, far = one.mean(axis=0)[:3], other.mean(axis=0)[:3]
    told = Tones(near=near, far=far, table=table, paler=1.0)
    into = _fade_into(told, np.concatenate([one, other]), paper)
    stand_out = [float(np.abs(colour - into).max()) for colour in _own_colours(told, one, other)]
    told = replace(told, paler=1.0 if stand_out[0] < stand_out[1] else -1.0)
    own = float(np.mean(told.nearness(one) > SURELY)), float(np.mean(told.nearness(other) < -SURELY))
    if not told_apart and min(own) < ITS_OWN:
        # One shows more of its outline, say, and the other more of what fills both.
        return None
    if _is_near(told, drawings):
        return told
    return Tones(near=far, far=near, table=-table, paler=-told.paler)


def _fade_into(told: Tones, colours: NDArray[np.uint8], paper: Floats) -> Floats:
    """(3,) what the two tones fade into: what fills both legs' outlines, if much of their ink (n, 4) is that."""
    both = np.abs(told.nearness(colours)) <= SURELY
    return np.asarray(colours[both].mean(axis=0)[:3]) if float(np.mean(both)) > FILLS else paper


def _own_colours(told: Tones, one: NDArray[np.uint8], other: NDArray[np.uint8]) -> tuple[Floats, Floats]:
    """(3,) the mean of what each leg shows (n, 4) that is surely its own, else of all."""
    own = one[told.nearness(one) > SURELY], other[told.nearness(other) < -SURELY]
    first, second = (
        (some if len(some) else every).mean(axis=0)[:3] for some, every in zip(own, (one, other), strict=True)
    )
    return first, second


def _shares(colours: NDArray[np.uint8]) -> NDArray[np.float64]:
    """(16, 16, 16) which share of some colours (n, 4) is each one, in steps, those beside it counting a little."""
    counts = np.bincount(_steps(colours), minlength=STEPS**3).reshape(STEPS, STEPS, STEPS)
    return np.asarray(ndimage.gaussian_filter(counts.astype(np.float64), BLUR) / len(colours))


def _is_near(tones: Tones, drawings: Sequence[Shown]) -> bool:
    """Whether what is called near is: what clearly lies over the other one, else what the body is drawn in.

    Else what lies over the other one a little more often, or stands out more from what is behind.
    """
    over = _share(tones, [s.crossing for s in drawings], 0.0)
    body = _share(tones, [s.body for s in drawings], OF_BODY)
    for share, least in ((over, CLEARLY_ON_TOP), (body, BODYS_OWN), (over, ON_TOP)):
        if share is not None and not 1 - least <= share <= least:
            return share > 0.5
    return tones.paler < 0


def _share(tones: Tones, colours: Sequence[NDArray[np.uint8]], least: float) -> float | None:
    """Which share of those pixels that are surely either leg's is the near one's; None where too few of all are."""
    near = tones.nearness(np.concatenate(colours))
    sure = np.abs(near) > SURELY
    if np.count_nonzero(sure) < FEWEST_PIXELS or float(np.mean(sure)) < least:
        return None
    return float(np.mean(near[sure] > 0))
