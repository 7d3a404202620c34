"""Errors, recall and false findings of pendulums that are carried, drawn apart."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from multiprocessing import get_context

import numpy as np

from bench.apart import carried
from bench.apart.carried import Carried
from bench.apart.clips import Form, clip_of
from bench.apart.strand_measure import evenly, two
from motion.analysis import analyse, judge
from motion.brief import Brief, PendulumBrief
from motion.clip import Clip, Exposure, Unseen
from motion.exercises.pendulum.truth import of_parts
from motion.findings import Finding
from motion.track import Line, Shape, Track

FORMS: tuple[Form, ...] = ("lossless", "mp4", "webm")
KINDS = ("bob", "chain", "tail")
WIDEST = 960
WAYS = ("clean", "base.even", "base.jump")


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of one clip: drawings found and drawn, px in a frame 960 wide, and its findings."""

    kind: str
    base: str
    found: tuple[int, int]
    pivots: list[float]
    joints: list[float]
    ends: list[float]
    findings: tuple[str, ...]


def planted(hangs: str, way: str, number: int) -> Carried:
    """A good one, or one whose base goes evenly, or is drawn too far along once."""
    rng = random.Random(f"carried {hangs} {way} {number}")
    plan = carried.plan(rng, hangs, ease=way != "base.even")
    if way != "base.jump":
        return plan
    at = plan.stops // 2
    ahead = plan.base[at + 1] - plan.base[at - 1]
    gap = min(np.hypot(*(plan.base[at + k + 1] - plan.base[at + k])) for k in (-1, 0))
    reach = float(np.hypot(*(plan.points[0, -1] - plan.points[0, 0])))
    far = 2.5 * max(0.18 * gap, 0.02 * reach, 2.0 * max(1.0, plan.width / 960))
    moved = far * ahead / float(np.hypot(*ahead))
    base, points = plan.base.copy(), plan.points.copy()
    base[at] += moved
    points[at] += moved
    return replace(plan, base=base, points=points)


def brief_of(plan: Carried) -> Brief:
    """The brief under which it is judged."""
    return Brief(asked=PendulumBrief(hangs=plan.hangs, pivot="moved"))  # type: ignore[arg-type]


def track_of(plan: Carried) -> Track:
    """It as perfectly measured."""
    starts = np.cumsum([1, *plan.frames])
    lines = [evenly(p) if plan.hangs == "tail" else p for p in plan.points]
    wide = plan.weight or 9.0
    return of_parts(
        tuple(Exposure(drawing=k + 1, first_frame=int(starts[k]), frames=n) for k, n in enumerate(plan.frames)),
        tuple(
            Shape(
                drawing=k + 1, x=float(p[-1, 0]), y=float(p[-1, 1]), major=wide, minor=wide, angle=0,
                bottom=float(p[-1, 1]) + wide / 2, clipped=False, confidence=0.99, bare=not plan.weight,
            )
            for k, p in enumerate(lines)
        ),
        tuple(
            Line(drawing=k + 1, points=tuple((float(x), float(y)) for x, y in p), confidence=0.99)
            for k, p in enumerate(lines)
        ),
        tuple(range(len(lines))),
        None,
    )  # fmt: skip


def judged(plan: Carried) -> tuple[Finding, ...]:
    """What the checks find in it as perfectly measured."""
    clip = Clip(
        name="carried",
        fps=24,
        width=plan.width,
        height=plan.height,
        footage=Unseen(),
        picture_frames=plan.frames,
    )
    return judge(clip, brief_of(plan), track_of(plan)).findings


def perfect(count: int) -> str:
    """A table of what is found in so many of each kind, good and with a fault, as perfectly measured."""
    rows = ["| as perfectly measured | clips | findings |", "| --- | ---: | --- |"]
    for way in WAYS:
        for hangs in KINDS:
            codes = Counter(f"{f.code} {f.part}".strip() for n in range(count) for f in judged(planted(hangs, way, n)))
            said = ", ".join(f"{c} {n}" for c, n in codes.most_common()) or "nothing"
            rows.append(f"| {hangs}, {way} | {count} | {said} |")
    return "\n".join(rows)


def told_of(job: tuple[str, int, Form]) -> Told:
    """Draw a good clip, analyse it, and hold it against what is true."""
    hangs, number, form = job
    plan = planted(hangs, "clean", number)
    look = carried.look(random.Random(f"look {hangs} {number}"), plan)
    with clip_of(carried.drawings(plan, look), 24, form) as clip:
        result = analyse(clip, brief_of(plan))
    shown: dict[int, int] = {}
    for e in result.track.exposures:
        shown.update(dict.fromkeys(range(e.first_frame, e.first_frame + e.frames), e.drawing))
    scale, first, seen = WIDEST / max(WIDEST, plan.width), 1, 0
    lines, off = result.track.lines("line"), ([], [], [])  # type: ignore[var-annotated]
    for points, frames in zip(plan.points, plan.frames, strict=True):
        line = lines[shown[first] - 1] if first in shown else None
        first += frames
        if line is None:
            continue
        seen += 1
        wanted, own = evenly(points) if hangs == "tail" else points, np.array(line.points)
        off[0].append(scale * float(np.hypot(*(own[0] - wanted[0]))))
        off[2].append(scale * float(np.hypot(*(own[-1] - wanted[-1]))))
        if len(own) == len(wanted):
            off[1].extend((scale * np.hypot(*(own - wanted)[1:-1].T)).tolist())
    return Told(
        kind=hangs,
        base=look.base,
        found=(seen, len(plan.points)),
        pivots=off[0],
        joints=off[1],
        ends=off[2],
        findings=tuple(f.code for f in result.findings),
    )


def run(count: int, workers: int | None = None) -> list[Told]:
    """So many good clips of each kind, over looks and forms."""
    jobs = [(hangs, n, FORMS[n % len(FORMS)]) for hangs in KINDS for n in range(count)]
    with get_context("spawn").Pool(workers) as pool:
        return pool.map(told_of, jobs, chunksize=1)


def table(told: Sequence[Told]) -> str:
    """Errors at the median and at 95 of 100, and what is found in clean clips."""
    rows = [
        "| carried | clips | drawings | pivot, px | joints, px | end, px | findings |",
        "| --- | ---: | ---: | --- | --- | --- | --- |",
    ]
    groups: dict[str, list[Told]] = {"all": list(told)}
    for t in told:
        for name in (t.kind, f"by a {t.base}"):
            groups.setdefault(name, []).append(t)
    for name, own in groups.items():
        codes = Counter(c for t in own for c in set(t.findings))
        said = ", ".join(f"{c} {n}" for c, n in codes.most_common()) or "nothing"
        errors = zip(*((t.pivots, t.joints, t.ends) for t in own), strict=True)
        cells = [two([v for values in part for v in values]) for part in errors]
        seen, wanted = (sum(t.found[k] for t in own) for k in (0, 1))
        rows.append(f"| {name} | {len(own)} | {seen} of {wanted} | {' | '.join(cells)} | {said} |")
    return "\n".join(rows)
