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
EMPTY = 0.12
"""A drawing with so small a share of the marks that others have is empty."""
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
    """A clip's pictures, steadied; those that the background is estimated from are kept at hand."""

    def __init__(self, clip: Clip) -> None:
        self.clip = clip
        raw = _samples(clip)
        self.steady = steady.look(list(raw.values()))
        self._samples = {i: self.steady.steady(light) for i, light in raw.items()}

    def __len__(self) -> int:
        return len(self.clip.footage)

    def of(self, indices: Sequence[int]) -> Iterator[tuple[Light, Shift]]:
        """The pictures at ``indices`` (from 0, ascending), and how they lay."""
        decoded = self.clip.footage.pictures([i for i in indices if i not in self._samples])
        for index in indices:
            yield self._samples[index] if index in self._samples else self.steady.steady(to_light(next(decoded)))

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
        self._ink = ground.still_ink(background.light, background.threshold)
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
        counter.see(light, differs)
        seen.append(eye.look(light, differs, index, shift))
        _tell_of(index, total, tell)
    numbers, firsts = counter.numbers()
    return Scan(numbers=numbers, seen=[seen[i] for i in firsts])


def _tell_of(index: int, total: int, tell: Progress) -> None:
    if index % 4 == 0:
        tell(0.05 + 0.85 * index / total, f"measuring picture {index + 1} of {total}")


def _samples(clip: Clip) -> dict[int, Light]:
    """Distinct pictures spread over the clip, by index; the first one is among them."""
    indices = _first_met(clip)
    affordable = max(FEWEST_SAMPLES, SAMPLE_BYTES // (4 * clip.width * clip.height))
    count = min(SAMPLES, affordable, len(indices))
    picked = sorted({indices[round(i)] for i in np.linspace(0, len(indices) - 1, count)})
    return {i: to_light(p) for i, p in zip(picked, clip.footage.pictures(picked), strict=True)}


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
