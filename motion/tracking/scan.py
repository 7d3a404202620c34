"""One pass over a clip's pictures: which drawing each shows, and what in it may be the ball."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.clip import Clip
from motion.tracking import background as bg
from motion.tracking import ground, outline, steady
from motion.tracking.background import Background
from motion.tracking.exposures import DrawingCounter
from motion.tracking.light import Light, to_light
from motion.tracking.lossy import LossyCounter
from motion.tracking.outline import Candidate, Sight
from motion.tracking.registration import Shift

SAMPLES = 13
FEWEST_SAMPLES = 5
SAMPLE_BYTES = 220_000_000
"""Pictures that the background is estimated from are all held at once; large ones are fewer."""
KEPT_BYTES = 200_000_000
"""The pictures of a clip that together are no larger are all kept; a second of them at 960 x 540 has 50 MB."""
EMPTY = 0.12
"""A drawing with so small a share of the marks that others have is empty."""
ROOM, BESIDE_PX = 1.5, 12
"""How much around what may be the ball is compared between two pictures: so many of its lengths, and px more."""
GRAINY = 6
"""Levels of noise from which pictures are smeared before outlines are looked for."""
Progress = Callable[[float, str], None]
"""Called now and then with how much is done, 0 to 1, and what is being done."""


@dataclass(slots=True, kw_only=True)
class Seen:
    """What one drawing shows.

    ``picture`` is the index of the first picture that shows it, ``shift`` how that lies against the first one;
    ``bare`` tells that ground or scenery is missing behind the ball; ``marks`` counts the pixels that differ.
    """

    picture: int
    shift: Shift
    candidates: list[Candidate]
    bare: bool
    marks: int


@dataclass(slots=True, kw_only=True)
class Scan:
    """A drawing number for each picture, counted from 1, and what each drawing shows."""

    numbers: list[int]
    seen: list[Seen]

    def empty(self) -> frozenset[int]:
        """Drawings (from 0) on which next to nothing is drawn beside what is usual in the clip."""
        usual = float(np.percentile([s.marks for s in self.seen], 75)) if self.seen else 0.0
        return frozenset(i for i, s in enumerate(self.seen) if s.marks <= EMPTY * usual)


class Pictures:
    """A clip's pictures, steadied; those that the background is estimated from are kept at hand.

    Of a short clip all are kept as they came, so that none is decoded twice.
    """

    def __init__(self, clip: Clip) -> None:
        self.clip = clip
        distinct = _first_met(clip)
        samples = _samples(clip, distinct)
        wanted = distinct if len(distinct) * 4 * clip.width * clip.height <= KEPT_BYTES else samples
        self._raw = {i: to_light(p) for i, p in zip(wanted, clip.footage.pictures(wanted), strict=True)}
        self.steady = steady.look([self._raw[i] for i in samples])
        self._samples = {i: self.steady.steady(self._raw.pop(i)) for i in samples}

    def __len__(self) -> int:
        return len(self.clip.footage)

    def of(self, indices: Sequence[int]) -> Iterator[tuple[Light, Shift]]:
        """The pictures at ``indices`` (from 0, ascending), and how they lay."""
        decoded = self.clip.footage.pictures([i for i in indices if i not in self._samples and i not in self._raw])
        for index in indices:
            if index in self._samples:
                yield self._samples[index]
            else:
                kept = self._raw.get(index)
                yield self.steady.steady(to_light(next(decoded)) if kept is None else kept)

    def background(self) -> Background:
        """What stands still in them."""
        lights = [light for light, _ in self._samples.values()]
        return bg.estimate(lights, straightened=self.steady.register is not None)

    @property
    def never_alike(self) -> bool:
        """Whether one drawing may look a little different each time that it shows."""
        return self.clip.lossy or self.steady.changes


class Eye:
    """Looks at single pictures before a known background."""

    def __init__(self, background: Background) -> None:
        self.background = background
        self._ink = ground.still_ink(background)
        self._missable = bg.Missable(background)

    def sight(self, light: Light) -> Sight:
        """What a picture shows besides the background."""
        return self._sight(self._missable.differs(light)[0])

    def look(self, light: Light, differs: NDArray[np.uint8], picture: int, shift: Shift) -> Seen:
        """Look for the ball in a picture that ``differs`` so from the background."""
        told, bare = self._missable.without_background(light, differs)
        found = outline.candidates(self._sight(told))
        marks = int(np.count_nonzero(told > self.background.threshold))
        return Seen(picture=picture, shift=shift, candidates=found, bare=bare, marks=marks)

    def _sight(self, differs: NDArray[np.uint8]) -> Sight:
        sight = Sight(differs=differs, threshold=self.background.threshold, still_ink=self._ink)
        return sight.smeared(0.8) if self.background.noise >= GRAINY else sight


def scan(pictures: Pictures, eye: Eye, tell: Progress) -> Scan:
    """Number the drawings and look at each; every distinct picture is decoded once."""
    return (_scan_lossy if pictures.never_alike else _scan_exact)(pictures, eye, tell)


def _scan_exact(pictures: Pictures, eye: Eye, tell: Progress) -> Scan:
    found = Scan(numbers=[], seen=[])
    counter = DrawingCounter(eye.background.noise)
    total = len(pictures)
    coming = pictures.of(_first_met(pictures.clip))
    for index in range(total):
        mark = pictures.clip.footage.fingerprint(index)
        number = counter.known(mark)
        if number is None:
            light, shift = next(coming)
            differs = eye.background.differs(light)
            number = counter.number(light, differs, mark)
            if number > len(found.seen):
                found.seen.append(eye.look(light, differs, index, shift))
        found.numbers.append(number)
        _tell_of(index, total, tell)
    return found


def _scan_lossy(pictures: Pictures, eye: Eye, tell: Progress) -> Scan:
    """Every picture is looked at, and once all are seen it is told which of them are one drawing."""
    counter = LossyCounter()
    total = len(pictures)
    seen = []
    for index, (light, shift) in enumerate(pictures.of(range(total))):
        differs = eye.background.differs(light)
        seen.append(eye.look(light, differs, index, shift))
        counter.see(light, differs, _around(seen[-1].candidates))
        _tell_of(index, total, tell)
    numbers, firsts = counter.numbers()
    return Scan(numbers=numbers, seen=[seen[i] for i in firsts])


def _around(candidates: Sequence[Candidate]) -> tuple[int, int, int, int] | None:
    """Left, top, right and bottom of what may be the ball, with room around it; None where nothing is."""
    if not candidates:
        return None
    reach = [0.5 * ROOM * c.ellipse.major + BESIDE_PX for c in candidates]
    left = min(c.ellipse.x - r for c, r in zip(candidates, reach, strict=True))
    top = min(c.ellipse.y - r for c, r in zip(candidates, reach, strict=True))
    right = max(c.ellipse.x + r for c, r in zip(candidates, reach, strict=True))
    bottom = max(c.ellipse.y + r for c, r in zip(candidates, reach, strict=True))
    return max(0, int(left)), max(0, int(top)), max(1, int(right)), max(1, int(bottom))


def _tell_of(index: int, total: int, tell: Progress) -> None:
    if index % 4 == 0:
        tell(0.05 + 0.85 * index / total, f"measuring picture {index + 1} of {total}")


def _samples(clip: Clip, distinct: Sequence[int]) -> list[int]:
    """Some of the ``distinct`` pictures, by index, spread over the clip; the first one is among them."""
    affordable = max(FEWEST_SAMPLES, SAMPLE_BYTES // (4 * clip.width * clip.height))
    count = min(SAMPLES, affordable, len(distinct))
    return sorted({distinct[round(i)] for i in np.linspace(0, len(distinct) - 1, count)})


def _first_met(clip: Clip) -> list[int]:
    """Indices of the pictures whose encoded content is met for the first time."""
    met: set[str] = set()
    first = []
    for index in range(len(clip.footage)):
        mark = clip.footage.fingerprint(index)
        if mark is None or mark not in met:
            first.append(index)
        if mark is not None:
            met.add(mark)
    return first
