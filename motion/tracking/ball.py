"""Following one ball through a clip, at the memory of a few pictures however long the clip is."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.clip import Clip
from motion.tracking import background as bg
from motion.tracking import follow, ground, outline, steady
from motion.tracking.background import Background
from motion.tracking.exposures import DrawingCounter, expose
from motion.tracking.light import Light, to_light
from motion.tracking.lossy import LossyCounter
from motion.tracking.outline import Candidate
from motion.tracking.registration import Shift
from motion.tracking.track import Shape, Track

SAMPLES = 13
FEWEST_SAMPLES = 5
SAMPLE_BYTES = 220_000_000
"""Pictures that the background is estimated from are all held at once; large ones are fewer."""
Progress = Callable[[float, str], None]
"""Called now and then with how much is done, 0 to 1, and what is being done."""


@dataclass(slots=True)
class _Scan:
    """What one pass over the pictures gives: a drawing number a picture; candidates and a shift a drawing."""

    numbers: list[int]
    candidates: list[list[Candidate]]
    first_pictures: list[int]
    shifts: list[Shift]


class _Pictures:
    """A clip's pictures in order, steadied, each decoded once: those of the sample are at hand already."""

    def __init__(self, clip: Clip) -> None:
        self.clip = clip
        raw = _samples(clip)
        self.steady = steady.look(list(raw.values()))
        self.samples = {i: self.steady.steady(light) for i, light in raw.items()}

    def __len__(self) -> int:
        return len(self.clip.footage)

    def of(self, indices: Sequence[int]) -> Iterator[tuple[Light, Shift]]:
        """The pictures at ``indices`` (from 0, ascending)."""
        decoded = self.clip.footage.pictures([i for i in indices if i not in self.samples])
        for index in indices:
            yield self.samples[index] if index in self.samples else self.steady.steady(to_light(next(decoded)))


def track(clip: Clip, *, ground_y: float | None = None, progress: Progress | None = None) -> Track:
    """Find drawings, background, ground and ball. Decodes each distinct picture once.

    ``ground_y`` fixes the ground's level in px. A drawing in which no ball is found has None for a shape; a clip
    in which nothing moves has none at all and no ground. Raises DamagedFile when a picture cannot be decoded.
    """
    tell = progress or (lambda part, step: None)
    tell(0.0, "reading the pictures")
    pictures = _Pictures(clip)
    lights = [light for light, _ in pictures.samples.values()]
    background = bg.estimate(lights, straightened=pictures.steady.register is not None)
    never_alike = clip.lossy or pictures.steady.changes
    scan = (_scan_lossy if never_alike else _scan)(pictures, background, tell)
    tell(0.92, "following the ball")
    shapes = _shapes(scan.candidates)
    exposures = expose(scan.numbers, clip.picture_frames)
    return Track(
        exposures=exposures,
        shapes=tuple(shapes),
        pictures=tuple(scan.first_pictures),
        ground=ground.find(background.light, [shapes[e.drawing - 1] for e in exposures], ground_y),
        shifts=tuple(scan.shifts) if pictures.steady.register else (),
    )


def _samples(clip: Clip) -> dict[int, Light]:
    """Distinct pictures spread over the clip, by index."""
    distinct: dict[str, int] = {}
    for index in range(len(clip.footage)):
        distinct.setdefault(clip.footage.fingerprint(index) or f"#{index}", index)
    indices = sorted(distinct.values())
    affordable = max(FEWEST_SAMPLES, SAMPLE_BYTES // (4 * clip.width * clip.height))
    count = min(SAMPLES, affordable, len(indices))
    picked = sorted({indices[round(i)] for i in np.linspace(0, len(indices) - 1, count)})
    return {i: to_light(p) for i, p in zip(picked, clip.footage.pictures(picked), strict=True)}


def _scan(pictures: _Pictures, background: Background, tell: Progress) -> _Scan:
    scan = _Scan([], [], [], [])
    counter = DrawingCounter(background.noise)
    ink = ground.still_ink(background.light, background.threshold)
    total = len(pictures)
    coming = pictures.of(_first_met(pictures.clip))
    for index in range(total):
        mark = pictures.clip.footage.fingerprint(index)
        number = counter.known(mark)
        if number is None:
            light, shift = next(coming)
            differs = background.differs(light)
            number = counter.number(light, differs, mark)
            if number > len(scan.candidates):
                scan.candidates.append(_look(differs, background, ink))
                scan.first_pictures.append(index)
                scan.shifts.append(shift)
        scan.numbers.append(number)
        _tell_of(index, total, tell)
    return scan


def _scan_lossy(pictures: _Pictures, background: Background, tell: Progress) -> _Scan:
    """Every picture is looked at, and once all are seen it is told which of them are one drawing."""
    counter = LossyCounter()
    ink = ground.still_ink(background.light, background.threshold)
    total = len(pictures)
    found, shifts = [], []
    for index, (light, shift) in enumerate(pictures.of(range(total))):
        differs = background.differs(light)
        counter.see(light, differs)
        found.append(_look(differs, background, ink))
        shifts.append(shift)
        _tell_of(index, total, tell)
    numbers, firsts = counter.numbers()
    return _Scan(numbers, [found[i] for i in firsts], firsts, [shifts[i] for i in firsts])


def _tell_of(index: int, total: int, tell: Progress) -> None:
    if index % 4 == 0:
        tell(0.05 + 0.85 * index / total, f"measuring picture {index + 1} of {total}")


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


def _look(differs: NDArray[np.uint8], background: Background, ink: NDArray[np.bool_]) -> list[Candidate]:
    smear = 0.8 if background.noise >= 6 else 0.0
    return outline.candidates(differs, background.threshold, ink, smear)


def _shapes(drawings: Sequence[Sequence[Candidate]]) -> list[Shape | None]:
    chosen = follow.choose(drawings)
    sizes = [c.size for c in chosen if c is not None and not c.clipped]
    usual = float(np.median(sizes)) if sizes else 0.0
    return [_shape(i + 1, c, usual) for i, c in enumerate(chosen)]


def _shape(drawing: int, candidate: Candidate | None, usual: float) -> Shape | None:
    if candidate is None:
        return None
    e = candidate.ellipse
    off_size = abs(np.log(candidate.size / usual)) if usual else 1.0
    confidence = candidate.roundness * float(np.exp(-2.0 * max(0.0, off_size - 0.06)))
    if candidate.clipped:
        confidence *= 0.5
    return Shape(
        drawing=drawing,
        x=e.x,
        y=e.y,
        major=e.major,
        minor=e.minor,
        angle=e.angle,
        bottom=e.bottom,
        clipped=candidate.clipped,
        confidence=round(min(0.99, confidence), 3),
    )
