"""Following one ball through a clip, at the memory of a few pictures however long the clip is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.clip import Clip
from motion.tracking import background as bg
from motion.tracking import follow, ground, outline
from motion.tracking.background import Background
from motion.tracking.exposures import DrawingCounter, expose
from motion.tracking.light import Light, difference, to_light
from motion.tracking.lossy import LossyCounter
from motion.tracking.outline import Candidate
from motion.tracking.track import Shape, Track

SAMPLES = 13
FEWEST_SAMPLES = 5
SAMPLE_BYTES = 220_000_000
"""Pictures that the background is estimated from are all held at once; large ones are fewer."""
Progress = Callable[[float, str], None]
"""Called now and then with how much is done, 0 to 1, and what is being done."""


@dataclass(slots=True)
class _Scan:
    """What one pass over the pictures gives: a drawing number a picture, candidates a drawing."""

    numbers: list[int]
    candidates: list[list[Candidate]]
    first_pictures: list[int]


def track(clip: Clip, *, ground_y: float | None = None, progress: Progress | None = None) -> Track:
    """Find drawings, background, ground and ball. Decodes each distinct picture once.

    ``ground_y`` fixes the ground's level in px. A drawing in which no ball is found has None for a shape; a clip
    in which nothing moves has none at all and no ground. Raises DamagedFile when a picture cannot be decoded.
    """
    tell = progress or (lambda part, step: None)
    tell(0.0, "reading the pictures")
    samples = _samples(clip)
    background = bg.estimate(list(samples.values()))
    scan = (_scan_lossy if clip.lossy else _scan)(clip, samples, background, tell)
    tell(0.92, "following the ball")
    shapes = _shapes(scan.candidates)
    exposures = expose(scan.numbers, clip.picture_frames)
    return Track(
        exposures=exposures,
        shapes=tuple(shapes),
        pictures=tuple(scan.first_pictures),
        ground=ground.find(background.light, [shapes[e.drawing - 1] for e in exposures], ground_y),
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


def _scan(clip: Clip, samples: dict[int, Light], background: Background, tell: Progress) -> _Scan:
    scan = _Scan([], [], [])
    counter = DrawingCounter(background.noise)
    ink = ground.still_ink(background.light, background.threshold)
    total = len(clip.footage)
    needed = _to_decode(clip, samples)
    decoded = clip.footage.pictures(needed)
    waiting = set(needed)
    for index in range(total):
        mark = clip.footage.fingerprint(index)
        number = counter.known(mark)
        if number is None:
            light = to_light(next(decoded)) if index in waiting else samples[index]
            differs = difference(light, background.light)
            number = counter.number(light, differs, mark)
            if number > len(scan.candidates):
                scan.candidates.append(_look(differs, background, ink))
                scan.first_pictures.append(index)
        scan.numbers.append(number)
        if index % 4 == 0:
            tell(0.05 + 0.85 * index / total, f"measuring picture {index + 1} of {total}")
    return scan


def _scan_lossy(clip: Clip, samples: dict[int, Light], background: Background, tell: Progress) -> _Scan:
    """Every picture is looked at, and once all are seen it is told which of them are one drawing."""
    counter = LossyCounter()
    ink = ground.still_ink(background.light, background.threshold)
    total = len(clip.footage)
    decoded = clip.footage.pictures([i for i in range(total) if i not in samples])
    found = []
    for index in range(total):
        light = samples[index] if index in samples else to_light(next(decoded))
        differs = difference(light, background.light)
        counter.see(light, differs)
        found.append(_look(differs, background, ink))
        if index % 4 == 0:
            tell(0.05 + 0.85 * index / total, f"measuring picture {index + 1} of {total}")
    numbers, firsts = counter.numbers()
    return _Scan(numbers, [found[i] for i in firsts], firsts)


def _to_decode(clip: Clip, samples: dict[int, Light]) -> list[int]:
    """Indices that are met for the first time in the pass and are not at hand already."""
    met: set[str] = set()
    needed = []
    for index in range(len(clip.footage)):
        mark = clip.footage.fingerprint(index)
        if mark is not None and mark in met:
            continue
        if mark is not None:
            met.add(mark)
        if index not in samples:
            needed.append(index)
    return needed


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
