"""How well what a person sees is found, by made-up people; and whether clips show their fault alone, in pictures."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from multiprocessing import get_context

import numpy as np

from motion.analysis import analyse
from motion.exercises import EXERCISES
from motion.synth import draw, plant
from motion.synth.look import LOOKS
from motion.training.clips import Looked, NoRoomError, clip_of
from motion.training.threshold import Threshold, seen_at

CLIPS = 30
PEOPLE = (1.4, 2.0, 3.0, 4.5)
"""Their thresholds, times a fault's tolerance."""
Person = Callable[[float, int], bool]
"""Whether somebody sees a fault of a size in their so manieth clip."""


def somebody(rng: random.Random, threshold: float, improves: float = 1.0) -> Person:
    """One who sees what is as large as their threshold three times in four; it shrinks by a factor with each clip."""

    def sees(times: float, clip: int) -> bool:
        own = max(1.0, threshold * improves**clip)
        return rng.random() < float(seen_at(times, np.array([own]))[0])

    return sees


def guesser(rng: random.Random) -> Person:
    """One who says something at every other clip, whatever it shows."""
    return lambda times, clip: rng.random() < 0.5


def asked(person: Person, clips: int = CLIPS) -> list[Threshold]:
    """What is known of a person after each clip."""
    known = [Threshold()]
    for clip in range(clips):
        times = known[-1].next_times
        known.append(known[-1].after(times, seen=person(times, clip)))
    return known


def off(told: Sequence[Threshold], threshold: float) -> list[float]:
    """By how much the told thresholds are off, by their logarithm (base 2)."""
    return [abs(math.log2(t.times / threshold)) for t in told]


@dataclass(frozen=True, slots=True)
class Seen:
    """What the whole analysis finds in a clip's pictures: its own fault, that alone as grave as it is, and others."""

    exercise: str
    code: str
    found: bool
    alone: bool
    others: tuple[str, ...]


def in_pictures(job: tuple[str, str, int, float]) -> Seen | None:
    """Draw a clip and analyse its pictures; None where no motion has room for its fault."""
    exercise, code, seed, times = job
    try:
        looked: Looked = clip_of(seed, exercise, code, times, busy=seed % 2 == 1)
    except NoRoomError:
        return None
    clip = draw.clip(exercise, looked.shown, LOOKS[looked.look], seed)
    findings = analyse(clip, looked.brief).findings
    codes, planted = [f.code for f in findings], looked.finding
    alone = planted is not None and [(f.code, f.severity) for f in findings] == [(code, planted.severity)]
    return Seen(exercise, code, code in codes, alone, tuple(c for c in codes if c != code))


def table(people: int, clips: int, workers: int | None = None) -> str:
    """Both as Markdown: so many made-up people of each threshold, and so many clips a fault.

    What is not alone in its pictures is not shown: the worker draws another seed.
    """
    rows = [
        f"| sees, times the tolerance | people | told after {CLIPS} clips, off by (log 2) |",
        "| --- | ---: | --- |",
    ]
    for threshold in PEOPLE:
        told = [asked(somebody(random.Random(f"{threshold} {n}"), threshold))[-1] for n in range(people)]
        errors = off(told, threshold)
        rows.append(f"| {threshold:g} | {people} | {np.median(errors):.2f} / {np.percentile(errors, 95):.2f} |")
    jobs = [
        (exercise, code, n, (1.5, 2.5, 4.0)[n % 3])
        for exercise in EXERCISES
        for code in plant.drilled(exercise)
        for n in range(clips)
    ]
    with get_context("spawn").Pool(workers) as pool:
        seen = [s for s in pool.map(in_pictures, jobs, chunksize=1) if s is not None]
    rows += [
        "",
        "| clips of | drawn | fault found in their pictures | others besides | alone and as grave: shown |",
        "| --- | ---: | ---: | ---: | ---: |",
    ]
    for exercise in EXERCISES:
        own = [s for s in seen if s.exercise == exercise]
        found, others, alone = (
            sum(map(bool, told)) for told in zip(*((s.found, s.others, s.alone) for s in own), strict=True)
        )
        rows.append(f"| {exercise} | {len(own)} | {found} | {others} | {alone} |")
    return "\n".join(rows)
