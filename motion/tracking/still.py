"""What stands still behind a moving shape, from pictures spread over a clip.

Pictures are told channel by channel: k samples of a channel are as many (height, width) uint8.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.tracking.light import WORDS

Plane = NDArray[np.uint8]
Places = NDArray[np.intp]
GUESS_SUPPORT = 0.12
"""A value that neighbours suggest is believed over the commonest one if the pixel ever shows it this often ..."""
SELDOM = 0.05
"""Behind a subject that hardly leaves its place it need not be seen so often."""
GUESS_REACH = 28
"""... and this closely (levels of 255)."""
FEW_ROWS = 0.05
"""What surroundings tell in all but such a share of a part they tell of it."""
SPECK_PX = 5
"""What does not change, and is narrower than that between what does, is the subject's own."""
STILL, MIDDLE, GUESSED = -1, -2, -3
"""For the number of a sample: none, since nothing changes; none, so that the middle value is taken; or what lies beside
it in its row."""


def changes(samples: Sequence[Plane], levels: float) -> Plane:
    """(height, width, ...) 255 where the samples of a channel differ by more than so many levels, else 0."""
    greatest = least = samples[0]
    for values in samples[1:]:
        greatest, least = cv2.max(greatest, values), cv2.min(least, values)  # type: ignore[assignment]
    spread = cv2.subtract(greatest, least)
    return np.asarray(cv2.threshold(spread, int(levels), 255, cv2.THRESH_BINARY)[1], dtype=np.uint8)


def widened(changed: Plane, by: int = 2) -> NDArray[np.bool_]:
    """What changes, with the pixels so near to it."""
    return np.asarray(cv2.dilate(changed, np.ones((2 * by + 1, 2 * by + 1), np.uint8))) > 0


def _without_specks(changed: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What changes, with the few pixels within it that a subject covers in all samples: they show nothing behind it."""
    closed = cv2.morphologyEx(changed.view(np.uint8), cv2.MORPH_CLOSE, np.ones((SPECK_PX, SPECK_PX), np.uint8))
    return np.asarray(closed, np.uint8).view(np.bool_)


@dataclass(frozen=True, slots=True, eq=False)
class Left:
    """``where`` (height, width) a subject was taken for what stands still, and what was ``seen`` there, by channel."""

    where: NDArray[np.bool_]
    seen: Sequence[Plane]


def behind(
    channels: Sequence[Sequence[Plane]],
    changed: NDArray[np.bool_],
    noise: float,
    covered: NDArray[np.bool_] | None = None,
    left: Left | None = None,
    nearly: NDArray[np.bool_] | None = None,
    *,
    columns: bool = False,
) -> tuple[list[Plane], NDArray[np.int8]]:
    """What is behind all that changes, channel by channel, and (height, width) which sample shows it.

    Where nothing ever changes it is what all pictures show (STILL). Elsewhere it is, of the values seen there, the one
    that the still surroundings in the same row suggest, so that a subject that lies in one place for most of the
    clip is not taken for scenery; where they suggest nothing that was ever seen, it is the middle value (MIDDLE), or
    what they suggest where a subject is known to be in front all the time (``covered``, GUESSED). Where such a
    subject stands, and the surroundings are unlike each other, as above and below a sloping ground, it may be what
    either of them shows. What such a subject ``left`` of itself is not believed where it left it. Where it is in front
    ``nearly`` all the time, surroundings are believed that are like each other. Where rows do not tell it, surroundings
    in the same ``columns`` may.
    """
    found = [on_the_whole(samples, noise) for samples in channels]
    taken = np.full(changed.shape, STILL, np.int8)
    changed = _without_specks(changed)
    if changed.any():
        places = np.flatnonzero(changed)
        seen = [_seen(samples, places) for samples in channels]
        rows = _Rows(changed.shape, places)
        guess, least = rows.across(found), GUESS_SUPPORT if covered is None else SELDOM
        told = _pick(seen, guess, noise, least)
        if covered is not None:
            unlike = rows.unlike_ends(found, GUESS_REACH + noise)
            _pick_of_ends(unlike, seen, noise, least, told, closely=columns)
        if left is not None:
            told.doubted |= _is_left(left, places, told.values(seen), guess, noise)
        if columns:
            _pick_of_columns(found, places, seen, noise, least, told)
            if left is not None:
                told.doubted |= _is_left(left, places, told.values(seen), guess, noise)
        picked, doubted = told.number, told.doubted
        guessed = doubted & covered.reshape(-1)[places] if covered is not None else np.zeros_like(doubted)
        if covered is not None and nearly is not None:
            guessed |= _whole_parts(changed.shape, places, doubted & nearly.reshape(-1)[places], unlike[0])
        for plane, values, suggested in zip(found, seen, guess, strict=True):
            chosen = _picked_of(values, picked)
            if doubted.any():
                chosen[doubted] = _middle(values[:, doubted])
            chosen[guessed] = suggested[guessed]
            plane.reshape(-1)[places] = chosen
        taken.reshape(-1)[places] = np.where(guessed, GUESSED, np.where(doubted, MIDDLE, picked))
    return found, taken


def _whole_parts(
    shape: tuple[int, ...], places: Places, wanted: NDArray[np.bool_], unlike: Places
) -> NDArray[np.bool_]:
    """(n,) those places that are ``wanted`` and hang together in parts of which nearly no row has ``unlike`` ends.

    Told row by row here and not there, a part would be left with stripes that look like a ground.
    """
    image = np.zeros(shape, np.uint8)
    image.reshape(-1)[places[wanted]] = 1
    count, parts = cv2.connectedComponents(image, connectivity=8)
    of = np.asarray(parts).reshape(-1)[places]
    amiss = np.zeros(len(places), bool)
    amiss[unlike] = True
    sizes = np.bincount(of[wanted], minlength=count)
    whole = np.bincount(of[wanted & amiss], minlength=count) <= FEW_ROWS * sizes
    return np.asarray(wanted & ~amiss & whole[of])


def put_together(samples: Sequence[Plane], taken: NDArray[np.int8], noise: float) -> Plane:
    """The samples' values from where they are to be ``taken``, which may be told for squares of pixels."""
    found = on_the_whole(samples, noise)
    square = found.shape[0] // taken.shape[0]
    rows_found = _rows_of_squares(found, square)
    rows, columns = _where(taken >= 0)
    number = taken[rows, columns]
    order = np.argsort(number, kind="stable")
    rows, columns = rows[order], columns[order]
    bounds = np.searchsorted(number[order], np.arange(len(samples) + 1))
    for values, first, end in zip(samples, bounds, bounds[1:], strict=False):
        places = rows[first:end], columns[first:end]
        for row, of_sample in zip(rows_found, _rows_of_squares(values, square), strict=True):
            row[places] = of_sample[places]
    rows, columns = _where(taken == MIDDLE)
    if len(rows):
        told = np.stack([_squares(values, square)[rows, :, columns] for values in samples])
        _squares(found, square)[rows, :, columns] = _middle(told)
    if (taken == GUESSED).any():
        # From what is still on both sides: beside a guess there may be what stood there in most pictures.
        changed = np.flatnonzero(np.kron(taken != STILL, np.ones((square, square), bool)))
        rows, columns = np.divmod(changed, found.shape[1])
        guessed = taken[rows // square, columns // square] == GUESSED
        found.reshape(-1)[changed[guessed]] = _Rows(found.shape, changed).across([found])[0][guessed]
    return found


def _where(marks: NDArray[np.bool_]) -> tuple[Places, Places]:
    """Rows and columns of marks, a few times as quickly as told two by two."""
    rows, columns = np.divmod(np.flatnonzero(marks), marks.shape[1])
    return rows, columns


def _squares(values: Plane, square: int) -> Plane:
    """(rows, square, columns, square) the same values by squares of pixels."""
    height, width = values.shape
    return values.reshape(height // square, square, width // square, square)


def _rows_of_squares(values: Plane, square: int) -> list[NDArray[np.unsignedinteger]]:
    """For each row of a square, that row of all squares, (rows, columns) as one number each."""
    numbers = values.view(WORDS[square])
    return [numbers[row::square] for row in range(square)]


def on_the_whole(samples: Sequence[Plane], noise: float) -> Plane:
    """What the samples of a channel show on the whole, as a copy."""
    if noise < 1:
        return _middle_of_three(samples)
    total = np.zeros(samples[0].shape, np.float32)
    for values in samples:
        cv2.accumulate(values, total)
    return np.asarray(np.round(total / len(samples)), dtype=np.uint8)


def _middle_of_three(samples: Sequence[Plane]) -> Plane:
    """The middle values of the first, the middle and the last sample: one of them alone may be a little off all over.

    A video's first picture often is, since what its codec leaves there it mends in the next.
    """
    one, other, third = samples[0], samples[len(samples) // 2], samples[-1]
    least, greatest = np.minimum(one, other), np.maximum(one, other)
    return np.maximum(least, np.minimum(greatest, third, out=greatest), out=least)


@dataclass(slots=True, eq=False)
class _Picked:
    """Which of k samples (``number`` (n,)) is taken at n places, whether that is ``doubted``, in which share of the
    samples the same is seen (``support``), and by how many levels it is ``off`` what surroundings suggest.
    """

    number: Places
    doubted: NDArray[np.bool_]
    support: NDArray[np.float64]
    off: Plane

    def values(self, seen: Sequence[Plane]) -> list[Plane]:
        """(n,) a channel, what is taken of the k samples ``seen`` (k, n)."""
        return [_picked_of(values, self.number) for values in seen]

    def take(self, where: Places, other: _Picked, chosen: NDArray[np.bool_]) -> None:
        """Take at the places ``where`` (m,) what is ``chosen`` of another's m."""
        into = where[chosen]
        self.number[into], self.support[into], self.off[into] = (
            values[chosen] for values in (other.number, other.support, other.off)
        )
        self.doubted[into] = False


def _pick(seen: Sequence[Plane], guess: Sequence[Plane], noise: float, least: float) -> _Picked:
    """Which of the k samples ``seen`` (k, n) in each channel is nearest to a guess (n,)."""
    picked, off = _least(_largest_off(seen, guess))
    support = _support(seen, [_picked_of(values, picked) for values in seen], noise)
    return _Picked(picked, ~((off <= GUESS_REACH + noise) & (support >= least)), support, off)


def _support(seen: Sequence[Plane], values: Sequence[Plane], noise: float) -> NDArray[np.float64]:
    """(n,) in which share of the k samples ``seen`` (k, n) in each channel such ``values`` (n,) are seen."""
    alike = _largest_off(seen, values) <= _alike(noise)
    return np.asarray(alike.view(np.uint8).sum(axis=0, dtype=np.uint16) / len(alike))


def _alike(noise: float) -> int:
    """Values that differ by no more levels are the same but for noise."""
    return int(max(10.0, 2 * noise))


def _pick_of_ends(
    ends: tuple[Places, list[Plane], list[Plane]],
    seen: Sequence[Plane],
    noise: float,
    least: float,
    told: _Picked,
    *,
    closely: bool,
) -> None:
    """Put into what was ``told`` what looks like one of the two ends of its row, if it is seen more often.

    Or if that was doubted; or, ``closely``, unlike what was suggested there, and this is like its end.
    """
    where, *both = ends
    if not len(where):
        return
    own = [values[:, where] for values in seen]
    for values in both:
        found = _pick(own, values, noise, least)
        like = (told.off[where] > _alike(noise)) & (found.off <= _alike(noise))
        better = told.doubted[where] | (found.support > told.support[where]) | (closely & like)
        told.take(where, found, ~found.doubted & better)


def _pick_of_columns(
    found: Sequence[Plane], places: Places, seen: Sequence[Plane], noise: float, least: float, told: _Picked
) -> None:
    """Put into what was ``told``, where that is doubted or seen seldom, what looks like an end of its column.

    Before scenery that feet reach across, rows end in the paper on both sides of it; but above the feet it shows.
    """
    height, width = found[0].shape
    for plane, values in zip(found, told.values(seen), strict=True):
        plane.reshape(-1)[places] = values
    seldom = _support(seen, [_middle(values) for values in seen], noise) > told.support
    where = np.flatnonzero(told.doubted | seldom | (told.off > _alike(noise)))
    rows, columns = np.divmod(places[where], width)
    order = np.lexsort((rows, columns))
    where = where[order]
    turned = _Rows((width, height), columns[order] * height + rows[order])
    among, one, other = turned.unlike_ends([plane.T for plane in found], -1)
    _pick_of_ends((where[among], one, other), seen, noise, least, told, closely=True)


def _is_left(
    left: Left, places: Places, chosen: Sequence[Plane], guess: Sequence[Plane], noise: float
) -> NDArray[np.bool_]:
    """(n,) at which places what was ``chosen`` is what a subject left there, and not what the surroundings suggest."""
    own = [_at(plane, places) for plane in left.seen]
    level = _alike(noise)
    alike = _largest_off([c[None] for c in chosen], own)[0] <= level
    suggested = _largest_off([g[None] for g in guess], own)[0] <= level
    return np.asarray(left.where.reshape(-1)[places] & alike & ~suggested)


def _picked_of(seen: Plane, picked: Places) -> Plane:
    """(n,) of k values (k, n) the ones with the numbers ``picked`` (n,)."""
    return np.asarray(seen[picked, np.arange(len(picked))])


def _least(off: Plane) -> tuple[Places, Plane]:
    """(n,) the numbers of the least of k values (k, n), and these."""
    # With its number behind it, each value is held against the others in one go.
    numbered = (off.astype(np.uint16) << 8) + np.arange(len(off), dtype=np.uint16)[:, None]
    least = numbered.min(axis=0)
    return (least & 255).astype(np.intp), (least >> 8).astype(np.uint8)


def _middle(seen: Plane) -> Plane:
    """The middle one of k values (k, ...)."""
    return np.asarray(np.sort(seen, axis=0)[len(seen) // 2])


def _seen(samples: Sequence[Plane], places: Places) -> Plane:
    """(k, n) the values of k samples at n places, counted along the rows."""
    seen = np.empty((len(samples), len(places)), np.uint8)
    for values, row in zip(samples, seen, strict=True):
        np.take(np.ascontiguousarray(values).reshape(-1), places, out=row, mode="clip")
    return seen


def _at(values: Plane, places: Places) -> Plane:
    """(n,) a plane's values at n places."""
    return np.asarray(np.ascontiguousarray(values).reshape(-1)[places])


def _largest_off(seen: Sequence[Plane], one: Sequence[Plane]) -> Plane:
    """(k, n) the largest difference over the channels of k values (k, n) from one (n,)."""
    off = np.zeros(seen[0].shape, np.uint8)
    for several, values in zip(seen, one, strict=True):
        greater, lesser = np.maximum(several, values), np.minimum(several, values)
        np.maximum(off, np.subtract(greater, lesser, out=greater), out=off)
    return off


class _Rows:
    """Runs of places next to each other in a row, n ``places`` in all, and the still pixels at both ends of each."""

    def __init__(self, shape: tuple[int, ...], places: Places) -> None:
        height, width = shape
        rows, columns = np.divmod(places, width)
        starts = np.flatnonzero((np.diff(places, prepend=-2) != 1) | (columns == 0))
        lengths = np.diff(starts, append=len(places))
        left, right = columns[starts] - 1, columns[starts] + lengths
        # A row that has hardly any still pixels, as at the edge of a ground that lies a little off, is as it mostly is.
        full = np.bincount(rows, minlength=height) > width - 4
        self._told, self._full = ~full[rows[starts]], np.flatnonzero(full)
        self._in_full = np.searchsorted(self._full, rows)
        self._run = np.repeat(np.arange(len(starts)), lengths)
        self._part = ((columns - left[self._run]) / (lengths + 1)[self._run]).astype(np.float32)
        # At the edge of the frame there is one still pixel to go by.
        beside = np.where(left < 0, right, left), np.where(right >= width, left, right)
        self._ends = [rows[starts] * width + np.where(self._told, column, 0) for column in beside]

    def across(self, planes: Sequence[Plane]) -> list[Plane]:
        """(n,) a channel, what the ends suggest in a straight line."""
        run, found = self._run, []
        for plane in planes:
            one, other = (_at(plane, end).astype(np.float32) for end in self._ends)
            between = np.round(one[run] + (other - one)[run] * self._part).astype(np.uint8)
            if not self._told.all():
                mostly = np.append(np.median(plane[self._full], axis=1), 0).astype(np.uint8)
                between = np.where(self._told[run], between, mostly[self._in_full])
            found.append(between)
        return found

    def unlike_ends(self, planes: Sequence[Plane], levels: float) -> tuple[Places, list[Plane], list[Plane]]:
        """Which places lie in runs whose ends differ by more than so many levels; a channel what is at either end."""
        ends = [[_at(plane, end) for plane in planes] for end in self._ends]
        off = np.max([np.maximum(a, b) - np.minimum(a, b) for a, b in zip(*ends, strict=True)], axis=0)
        where = np.flatnonzero(((off > levels) & self._told)[self._run])
        one, other = ([values[self._run[where]] for values in end] for end in ends)
        return where, one, other
