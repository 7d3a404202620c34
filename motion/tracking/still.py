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
STILL, MIDDLE = -1, -2
"""For the number of a sample: none, since nothing changes; and none, so that the middle value is taken."""


def changes(samples: Sequence[Values], levels: Sequence[float]) -> NDArray[np.uint8]:
    """(height, width) 255 where some channel of the samples differs by more than its ``levels`` tell, else 0."""
    greatest = least = samples[0]
    for values in samples[1:]:
        greatest, least = cv2.max(greatest, values), cv2.min(least, values)  # type: ignore[assignment]
    over = cv2.subtract(cv2.subtract(greatest, least), np.floor(levels))
    spread = largest_channel(np.asarray(over, dtype=np.uint8).reshape(samples[0].shape))
    return np.asarray(cv2.threshold(spread, 0, 255, cv2.THRESH_BINARY)[1], dtype=np.uint8)


def widened(changed: NDArray[np.uint8], by: int = 2) -> NDArray[np.bool_]:
    """What changes, with the pixels so near to it."""
    return np.asarray(cv2.dilate(changed, np.ones((2 * by + 1, 2 * by + 1), np.uint8))) > 0


def behind(samples: Sequence[Values], changed: NDArray[np.bool_], noise: float) -> tuple[Values, NDArray[np.int8]]:
    """What is behind all that changes, and (height, width) which sample shows it.

    Where nothing ever changes it is what all pictures show (STILL). Elsewhere it is, of the values seen there, the one
    that the still surroundings in the same row suggest, so that a ball that lies in one place for most of the
    clip is not taken for scenery; where they suggest nothing that was ever seen, it is the middle value (MIDDLE).
    """
    found = on_the_whole(samples, noise)
    taken = np.full(changed.shape, STILL, np.int8)
    if changed.any():
        places = np.flatnonzero(changed)
        seen, picked, doubted = _pick(samples, found, places, noise)
        chosen = _picked_of(seen, picked)
        chosen[doubted] = _middle(seen[:, doubted])
        words(found).reshape(-1)[places] = words(chosen[None])[0]
        taken.reshape(-1)[places] = np.where(doubted, MIDDLE, picked)
    return found, taken


def put_together(samples: Sequence[Values], taken: NDArray[np.int8], noise: float) -> Values:
    """The samples' values from where they are to be ``taken``, which may be told for squares of pixels."""
    found = on_the_whole(samples, noise)
    square = found.shape[0] // taken.shape[0]
    rows_found = _rows_of_squares(found, square)
    rows, columns = _where(taken >= 0)
    index_there = taken[rows, columns]
    order = np.argsort(index_there, kind="stable")
    rows, columns = rows[order], columns[order]
    bounds = np.searchsorted(index_there[order], np.arange(len(samples) + 1))
    for values, first, end in zip(samples, bounds, bounds[1:], strict=False):
        places = rows[first:end], columns[first:end]
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
        return _middle_of_three(samples)
    total = np.zeros(samples[0].shape, np.float32)
    for values in samples:
        cv2.accumulate(values, total)
    return np.asarray(np.round(total / len(samples)), dtype=np.uint8).reshape(samples[0].shape)


def _middle_of_three(samples: Sequence[Values]) -> Values:
    """The middle values of the first, the middle and the last sample: one of them alone may be a little off all over.

    A video's first picture often is, since what its codec leaves there it mends in the next.
    """
    one, other, third = samples[0], samples[len(samples) // 2], samples[-1]
    least, greatest = np.minimum(one, other), np.maximum(one, other)
    return np.maximum(least, np.minimum(greatest, third, out=greatest), out=least)


def _pick(
    samples: Sequence[Values], base: Values, places: NDArray[np.intp], noise: float
) -> tuple[Values, NDArray[np.intp], NDArray[np.bool_]]:
    """At the n ``places`` that change: what k samples show (k, n, c), which is picked, and where that is doubted."""
    guess = _across_rows(base, places)
    seen = _seen(samples, places)
    picked, off = _least(_largest_off(seen, guess))
    nearest = _picked_of(seen, picked)
    alike = _largest_off(seen, nearest) <= int(max(10.0, 2 * noise))
    support = alike.view(np.uint8).sum(axis=0, dtype=np.uint16) / len(samples)
    return seen, picked, ~((off <= GUESS_REACH + noise) & (support >= GUESS_SUPPORT))


def _picked_of(seen: Values, picked: NDArray[np.intp]) -> Values:
    """(n, c) of k values (k, n, c) the ones with the numbers ``picked`` (n,)."""
    chosen: Values = words(seen)[picked, np.arange(len(picked))]
    return chosen.view(np.uint8).reshape(len(picked), -1)


def _least(off: Values) -> tuple[NDArray[np.intp], Values]:
    """(n,) the numbers of the least of k values (k, n), and these."""
    # With its number behind it, each value is held against the others in one go.
    numbered = (off.astype(np.uint16) << 8) + np.arange(len(off), dtype=np.uint16)[:, None]
    least = numbered.min(axis=0)
    return (least & 255).astype(np.intp), (least >> 8).astype(np.uint8)


def _middle(seen: Values) -> Values:
    """The middle one of k values (k, n, c), channel by channel."""
    return np.asarray(np.sort(seen, axis=0)[len(seen) // 2])


def _at(values: Values, places: NDArray[np.intp]) -> Values:
    """(n, channels) the pixels at n places, counted along the rows."""
    return np.asarray(_seen([values], places)[0])


def _seen(samples: Sequence[Values], places: NDArray[np.intp]) -> Values:
    """(k, n, channels) the pixels of k samples at n places."""
    seen = np.stack([words(values).reshape(-1)[places] for values in samples])
    told: Values = seen.view(np.uint8).reshape(*seen.shape, -1)
    return told


def _largest_off(several: Values, one: Values) -> Values:
    """(k, n) the largest difference over the channels of k (k, n, c) from one (n, c)."""
    off = cv2.absdiff(several, np.tile(one, (len(several), 1, 1)))
    return largest_channel(np.asarray(off, dtype=np.uint8).reshape(several.shape))


def _across_rows(values: Values, places: NDArray[np.intp]) -> Values:
    """(n, channels) what the still pixels beside n ``places`` in the same row suggest there, in a straight line.

    Where a row has hardly any still pixels it is what is there.
    """
    height, width = values.shape[:2]
    rows, columns = np.divmod(places, width)
    starts = np.flatnonzero((np.diff(places, prepend=-2) != 1) | (columns == 0))
    lengths = np.diff(starts, append=len(places))
    left, right = columns[starts] - 1, columns[starts] + lengths
    told = np.bincount(rows, minlength=height)[rows[starts]] <= width - 4
    run = np.repeat(np.arange(len(starts)), lengths)
    # At the edge of the frame there is one still pixel to go by.
    beside = np.where(left < 0, right, left), np.where(right >= width, left, right)
    one, other = (_at(values, (rows[starts] * width + np.where(told, b, 0))[run]).astype(np.float32) for b in beside)
    part = ((columns - left[run]) / (lengths + 1)[run]).astype(np.float32)[:, None]
    between = np.round(one + (other - one) * part).astype(np.uint8)
    return np.asarray(between if told.all() else np.where(told[run][:, None], between, _at(values, places)))
