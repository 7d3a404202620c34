"""Walks over the guide's own motions, in every look in which clips can be drawn, clean and with each fault planted.

Bodies on legs and whole figures that walk in place, from 8 to 16 frames a step: how many faults are found near where
they are, how many clean clips have a finding, and how far landmarks lie from where they were planned, px.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context

import numpy as np

from motion.analysis import Analysis, analyse
from motion.brief import Brief, Stride, WalkBrief
from motion.exercises.walk.feel import plan_of
from motion.exercises.walk.plan import Plan
from motion.exercises.walk.truth import FIGURE
from motion.synth import draw
from motion.synth.look import LOOKS
from motion.synth.walk.faults import FAULTS, MORE, OF_WHOLE

SIZE = (960, 540)
TIMES = 2.5
"""Faults are planted at so many times their tolerance."""
FRAMES = (8, 10, 12, 14, 16)
STRIDES = {
    "legs": Stride(start_x=480, ground=462, leg=200, body=120, step=150, rise=10, lift=15, bend=0.03, steps=4),
    "whole": Stride(
        start_x=480, ground=478, leg=165, body=105, step=130, rise=8, lift=14, bend=0.035, arms=24, steps=4
    ),
}
"""How the guide has each figure walk."""
WAYS = {name: (name, plant) for name, plant in FAULTS.items() if name != "timing.loop"} | MORE
"""Every way in which a fault is planted, but for cycles that do not close: these walks are none."""
TRIED, MOVED_PX, LOCAL, NEAR = 50, 0.5, 30, 2
"""So often a place for a fault is looked for; a drawing differs that has a landmark so far from where it was meant, and
a fault that so few do lies there: a finding near it is within so many frames."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """A clip: its figure, the way in which a fault is planted (None: clean), its number and its look."""

    figure: str
    way: str | None
    number: int
    look: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of one: whether the fault was found, what else was, and by joint the px that landmarks lie off."""

    job: Job
    found: bool
    others: tuple[str, ...]
    off: dict[str, list[float]]
    shown: dict[str, tuple[int, int]]


def jobs(count: int) -> list[Job]:
    """So many clips of every way, and four times as many clean ones, each in the next of all looks."""
    looks, found = list(LOOKS), list[Job]()
    for figure in STRIDES:
        for way in (None, *(w for w in WAYS if figure == "whole" or w not in OF_WHOLE)):
            for number in range(4 * count if way is None else count):
                found.append(Job(figure=figure, way=way, number=number, look=looks[len(found) % len(looks)]))
    return found


def run(count: int) -> list[Told]:
    """Draw and analyse them all."""
    with ProcessPoolExecutor(mp_context=get_context("forkserver")) as pool:
        return [one for one in pool.map(told, jobs(count), chunksize=2) if one is not None]


def told(job: Job) -> Told | None:
    """What is told of one clip; None where its motion has no room for the fault."""
    chance = np.random.default_rng([job.number, len(job.way or "")])
    stride = replace(STRIDES[job.figure], frames=int(chance.choice(FRAMES)))
    asked = WalkBrief(direction="right", figure="whole" if job.figure == "whole" else "legs")
    brief = Brief(canvas=SIZE, frames=(8, 200), asked=asked, guide=stride)
    meant = plan_of(brief)
    plan = meant if job.way is None else _planted(job.way, meant, chance)
    if plan is None:
        return None
    found = analyse(draw.clip("walk", plan, LOOKS[job.look], job.number), brief)
    code = None if job.way is None else WAYS[job.way][0]
    first, last = _where(plan, meant)
    own = [
        f for f in found.findings if f.code == code and f.first_frame <= last + NEAR and first - NEAR <= f.last_frame
    ]
    off, shown = _errors(plan, found) if len(plan.poses) == len(meant.poses) else ({}, {})
    others = tuple(f.code for f in found.findings if f not in own)
    return Told(job=job, found=bool(own), others=others, off=off, shown=shown)


def _planted(way: str, meant: Plan, chance: np.random.Generator) -> Plan | None:
    tries = (WAYS[way][1](meant, chance, TIMES) for _ in range(TRIED))
    return next((plan for plan in tries if plan is not None), None)


def _where(plan: Plan, meant: Plan) -> tuple[int, int]:
    """From which frame to which a fault is, where it is in few drawings; else all of the clip."""
    everywhere = (1, len(plan.poses) + len(meant.poses))
    if len(plan.poses) != len(meant.poses):
        return everywhere
    differ = [
        number
        for number, (own, other) in enumerate(zip(plan.poses, meant.poses, strict=True), start=1)
        if max(np.abs(np.subtract(own.landmarks[n], other.landmarks[n])).sum() for n in own.landmarks) > MOVED_PX
    ]
    return (differ[0], differ[-1]) if 0 < len(differ) < LOCAL else everywhere


def _errors(plan: Plan, found: Analysis) -> tuple[dict[str, list[float]], dict[str, tuple[int, int]]]:
    """By joint how far told landmarks lie off, px, and how many of how many are told."""
    off, shown, all_of = defaultdict[str, list[float]](list), defaultdict[str, int](int), defaultdict[str, int](int)
    figures = found.track.figures(FIGURE)
    for exposure in found.track.exposures:
        figure = figures[exposure.drawing - 1]
        for name, place in plan.poses[exposure.first_frame - 1].landmarks.items():
            joint = name.split("_")[0]
            all_of[joint] += 1
            at = None if figure is None else figure.at(name)
            if at is not None:
                off[joint].append(float(np.hypot(*np.subtract(at, place))))
                shown[joint] += 1
    return dict(off), {joint: (shown[joint], count) for joint, count in all_of.items()}


def table(all_told: Sequence[Told]) -> str:
    """Faults by way, clean clips, and landmarks by figure and look."""
    return "\n".join([*_faults(all_told), "", *_clean(all_told), "", *_landmarks(all_told)])


def _faults(all_told: Sequence[Told]) -> Iterator[str]:
    yield "| planted | legs | whole | beside it |\n| --- | ---: | ---: | --- |"
    for way in WAYS:
        own = [t for t in all_told if t.job.way == way]
        found = [f"{sum(t.found for t in some)} of {len(some)}" for some in _by_figure(own)]
        beside = sorted({code for t in own for code in t.others})
        yield f"| {way} | {found[0]} | {found[1]} | {', '.join(beside) or 'nothing'} |"
    own = [t for t in all_told if t.job.way is not None]
    yield f"\nFound {sum(t.found for t in own)} of {len(own)}."


def _clean(all_told: Sequence[Told]) -> Iterator[str]:
    own = [t for t in all_told if t.job.way is None]
    with_any = [t for t in own if t.others]
    listed = "; ".join(f"{t.job.figure}, {t.job.look}: {', '.join(t.others)}" for t in with_any)
    yield f"Clean clips with a finding: {len(with_any)} of {len(own)}{f' ({listed})' if listed else ''}."


def _landmarks(all_told: Sequence[Told]) -> Iterator[str]:
    joints = ("hip", "knee", "ankle", "heel", "toe", "neck", "head", "elbow", "hand")
    yield f"| clips | {' | '.join(joints)} |\n| --- |{' --- |' * len(joints)}"
    for figure in STRIDES:
        yield _row(f"{figure}, all", [t for t in all_told if t.job.figure == figure], joints)
    for look in LOOKS:
        yield _row(look, [t for t in all_told if t.job.look == look], joints)


def _row(name: str, some: Sequence[Told], joints: Sequence[str]) -> str:
    """How far landmarks lie off at the median and at 95 of 100, px, and which share is told."""
    cells = []
    for joint in joints:
        off = [px for t in some for px in t.off.get(joint, [])]
        count = sum(t.shown[joint][1] for t in some if joint in t.shown)
        middle, most = np.percentile(off, (50, 95)) if off else (np.nan, np.nan)
        cells.append(f"{middle:.1f} / {most:.1f} ({100 * len(off) / count:.0f} %)" if off else "")
    return f"| {name} | {' | '.join(cells)} |"


def _by_figure(some: Sequence[Told]) -> tuple[list[Told], list[Told]]:
    return [t for t in some if t.job.figure == "legs"], [t for t in some if t.job.figure == "whole"]
