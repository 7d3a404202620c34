"""What stands still behind a moving shape, from pictures spread over a clip.

Pictures are (height, width, channels) uint8 with 1, 2 or 4 channels: colours, or one of a video's planes.
"""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.light import WORDS, largest_channel, words

Values = NDArray[np.uint8]
GUESS_SUPPORT = 0.12
"""A value that neighbours suggest is believed over the commonest one if the pixel ever shows it this often ..."""
GUESS_REACH = 28
"""... and this closely (levels of 255)."""
EVERY = slice(None)
"""All channels."""
STILL, MIDDLE = -1, -2
"""For the number of a sample: none, since nothing changes; and none, so that the middle value is taken."""


def changes(samples: Sequence[Values], levels: float, *, colours: slice = EVERY) -> NDArray[np.uint8]:
    """(height, width) 255 where some channels of the samples differ by more than so many levels, else 0."""
    greatest, least = samples[0].copy(), samples[0].copy()
    for values in samples[1:]:
        np.maximum(greatest, values, out=greatest)
        np.minimum(least, values, out=least)
    spread = largest_channel(np.subtract(greatest, least, out=greatest)[..., colours])
    return np.asarray(cv2.threshold(spread, int(levels), 255, cv2.THRESH_BINARY)[1], dtype=np.uint8)


def widened(changed: NDArray[np.uint8], by: int = 2) -> NDArray[np.bool_]:
    """What changes, with the pixels so near to it."""
    return np.asarray(cv2.dilate(changed, np.ones((2 * by + 1, 2 * by + 1), np.uint8))) > 0


def behind(samples: Sequence[Values], changed: NDArray[np.bool_], noise: float) -> Values:
    """What is behind all that changes.

    Where nothing ever changes it is what all pictures show. Elsewhere it is, of the values seen there, the one
    that the still surroundings in the same row suggest, so that a ball that lies in one place for most of the
    clip is not taken for scenery; where they suggest nothing that was ever seen, it is the middle value.
    """
    found = on_the_whole(samples, noise)
    if changed.any():
        seen, picked, doubted = _pick(samples, found, changed, noise)
        chosen = np.take_along_axis(seen, picked[None, :, None], axis=0)[0]
        chosen[doubted] = _middle(seen[:, doubted])
        found[changed] = chosen
    return found


def taken_from(samples: Sequence[Values], changed: NDArray[np.bool_], noise: float) -> NDArray[np.int8]:
    """(height, width) which sample shows what is behind all that changes; MIDDLE where none does, STILL elsewhere."""
    found = np.full(changed.shape, STILL, np.int8)
    if changed.any():
        _, picked, doubted = _pick(samples, on_the_whole(samples, noise), changed, noise)
        found[changed] = np.where(doubted, MIDDLE, picked)
    return found


def put_together(samples: Sequence[Values], taken: NDArray[np.int8], noise: float) -> Values:
    """The samples' values from where they are to be ``taken``, which may be told for squares of pixels."""
    found = on_the_whole(samples, noise)
    square = found.shape[0] // taken.shape[0]
    rows_found = _rows_of_squares(found, square)
    rows, columns = _where(taken >= 0)
    index_there = taken[rows, columns]
    for index, values in enumerate(samples):
        own = index_there == index
        places = rows[own], columns[own]
        for row, of_sample in zip(rows_found, _rows_of_squares(values, square), strict=True):
            row[places] = of_sample[places]
    rows, columns = _where(taken == MIDDLE)
    if len(rows):
        told = np.stack([_squares(values, square)[rows, :, columns] for values in samples])
        _squares(found, square)[rows, :, columns] = _middle(told)
    return found


def _where(marks: NDArray[np.bool_]) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Rows and columns of marks, a few times as quickly as told two by two."""
    rows, columns = np.divmod(np.flatnonzero(marks), marks.shape[1])
    return rows, columns


def _squares(values: Values, square: int) -> Values:
    """(rows, square, columns, square, channels) the same values by squares of pixels."""
    height, width, channels = values.shape
    return values.reshape(height // square, square, width // square, square, channels)


def _rows_of_squares(values: Values, square: int) -> list[NDArray[np.unsignedinteger]]:
    """For each row of a square, that row of all squares, (rows, columns) as one number each."""
    height, width, channels = values.shape
    numbers = values.reshape(height, width * channels).view(WORDS[square * channels])
    return [numbers[row::square] for row in range(square)]


def on_the_whole(samples: Sequence[Values], noise: float) -> Values:
    """What the samples show on the whole, as a copy."""
    if noise < 1:
        return samples[0].copy()
    total = np.zeros(samples[0].shape, np.float32)
    for values in samples:
        cv2.accumulate(values, total)
    return np.asarray(np.round(total / len(samples)), dtype=np.uint8).reshape(samples[0].shape)


def _pick(
    samples: Sequence[Values], base: Values, changed: NDArray[np.bool_], noise: float
) -> tuple[Values, NDArray[np.intp], NDArray[np.bool_]]:
    """At the n pixels that change: what k samples show (k, n, c), which is picked, and where that is doubted."""
    guess = _at(_across_rows(base, changed), changed)
    seen = np.stack([_at(s, changed) for s in samples])
    off = np.stack([_largest_off(one, guess) for one in seen])
    picked = off.argmin(axis=0)
    nearest = np.take_along_axis(seen, picked[None, :, None], axis=0)[0]
    alike = max(10.0, 2 * noise)
    support = np.mean([_largest_off(one, nearest) <= alike for one in seen], axis=0)
    return seen, picked, ~((off.min(axis=0) <= GUESS_REACH + noise) & (support >= GUESS_SUPPORT))


def _middle(seen: Values) -> Values:
    """The middle one of k values (k, n, c), channel by channel."""
    return np.asarray(np.sort(seen, axis=0)[len(seen) // 2])


def _at(values: Values, where: NDArray[np.bool_]) -> Values:
    """(n, channels) the pixels at n places, all channels at once."""
    return words(values)[where].view(np.uint8).reshape(-1, values.shape[2])


def _largest_off(one: Values, other: Values) -> Values:
    """(n,) the largest difference over the channels of two (n, c)."""
    # As a picture one pixel wide, for which this is quickest.
    off = cv2.absdiff(one.reshape(len(one), 1, -1), other.reshape(len(other), 1, -1))
    return largest_channel(np.asarray(off, dtype=np.uint8).reshape(len(one), 1, -1))[:, 0]


def _across_rows(values: Values, changed: NDArray[np.bool_]) -> Values:
    """Fill the changed pixels of each row in a straight line between the still ones beside them."""
    filled = values.copy()
    rows = np.flatnonzero(changed.any(axis=1) & (np.count_nonzero(changed, axis=1) <= changed.shape[1] - 4))
    # What lies beside all that changed is still, so no farther column is ever gone by.
    wide = np.flatnonzero(changed.any(axis=0))
    first, last = max(0, int(wide[0]) - 1), min(values.shape[1], int(wide[-1]) + 2)
    gaps = changed[rows, first:last]
    columns = np.arange(first, last, dtype=np.int32)
    left = np.maximum.accumulate(np.where(gaps, np.int32(-1), columns), axis=1)
    right = np.minimum.accumulate(np.where(gaps, np.int32(values.shape[1]), columns)[:, ::-1], axis=1)[:, ::-1]
    row, column = _where(gaps)
    left, right = left[row, column], right[row, column]
    column += first
    # At the edge of the frame there is one still pixel to go by.
    left, right = np.where(left < 0, right, left), np.where(right >= values.shape[1], left, right)
    part = ((column - left) / np.maximum(1, right - left))[:, None]
    whole, channels = words(values), values.shape[2]
    one, other = (
        whole[rows[row], beside].view(np.uint8).reshape(-1, channels).astype(np.float32) for beside in (left, right)
    )
    between = np.round(one + (other - one) * part).astype(np.uint8)
    words(filled)[rows[row], column] = words(between[None])[0]
    return filled
