"""Recall and other findings of pendulums of every kind by severity and by strictness, as perfectly measured."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from multiprocessing import get_context
from multiprocessing.pool import Pool

from bench.accuracy import GRADES
from bench.apart import strand_measure, strands, swing_measure
from bench.apart.strand_faults import PLANTS as OF_STRANDS
from bench.apart.swing_faults import PLANTS as OF_BOBS
from bench.apart.swing_faults import TIMES
from motion.account.example import STRICTNESS
from motion.brief import Brief, Strictness

STRANDS = ("chain", "tail")
KINDS = ("bob", *STRANDS)


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """A clip to make and judge: without a code it is clean. ``times`` its tolerance it is off."""

    kind: str
    code: str | None
    number: int
    times: float
    strictness: Strictness = "standard"


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of one."""

    job: Job
    hit: bool
    others: tuple[str, ...]


def table(count: int, clean: int, workers: int | None = None) -> str:
    """Tables by severity and by strictness: ``count`` clips a fault, kind and column, ``clean`` ones a strictness."""
    graded = [_jobs(count, times) for times in GRADES.values()]
    marked = [_jobs(count, TIMES * Brief(strictness=how).leniency, how) for how in STRICTNESS]
    good = [
        Job(kind=kind, code=None, number=n, times=0.0, strictness=how)
        for how in STRICTNESS
        for kind in KINDS
        for n in range(clean)
    ]
    with get_context("spawn").Pool(workers) as pool:
        by_severity, by_strictness = (
            {str(name): _done(pool, jobs) for name, jobs in zip(names, columns, strict=True)}
            for names, columns in ((GRADES, graded), (STRICTNESS, marked))
        )
        sound = _done(pool, good)
    times = ", ".join(f"{t:g}" for t in GRADES.values())
    return "\n\n".join(
        [
            f"By severity: faults at {times} times their tolerance; found and, after it, other findings.",
            _rows(by_severity),
            f"By strictness: faults at {TIMES:g} times what that strictness allows.",
            _rows(by_strictness),
            "\n".join(_clean(sound, kind, how) for how in STRICTNESS for kind in KINDS),
        ]
    )


def _jobs(count: int, times: float, strictness: Strictness = "standard") -> list[Job]:
    return [
        Job(kind=kind, code=code, number=n, times=times, strictness=strictness)
        for kind, code in _codes()
        for n in range(count)
    ]


def _done(pool: Pool, jobs: Sequence[Job]) -> list[Told]:
    return [told for told in pool.map(told_of, jobs, chunksize=8) if told is not None]


def told_of(job: Job) -> Told | None:
    """Make a clip and judge it; None where the fault has no room in it."""
    return _of_a_bob(job) if job.kind == "bob" else _of_a_strand(job)


def _of_a_bob(job: Job) -> Told | None:
    rng = random.Random(f"graded {job.code} {job.number}")
    try:
        pendulum, concerned, asked = swing_measure.spoilt(job.code, rng, job.times)
    except ValueError:
        return None
    brief = replace(swing_measure.brief_of(pendulum, **asked), strictness=job.strictness)
    findings = swing_measure.judged(pendulum, brief) or ()
    own = [f for f in findings if f.code == job.code and swing_measure.on(pendulum, concerned, f)]
    return Told(job=job, hit=bool(own), others=tuple(f.code for f in findings if f not in own))


def _of_a_strand(job: Job) -> Told | None:
    if job.code is None:
        strand = strands.plan(random.Random(f"sound {job.kind} {job.number}"), job.kind)
        findings = strand_measure.judged(strand, strictness=job.strictness)
        return Told(job=job, hit=False, others=tuple(f.code for f in findings))
    planted = strand_measure.planted(job.code, job.kind, job.number, job.times)
    if planted is None:
        return None
    strand, frames = planted
    findings = strand_measure.judged(strand, strictness=job.strictness)
    own = [f for f in findings if f.code == job.code and strand_measure.within_a_frame(f, frames)]
    return Told(job=job, hit=bool(own), others=tuple(f.code for f in findings if f not in own))


def _codes() -> list[tuple[str, str]]:
    return [*(("bob", code) for code in OF_BOBS), *((kind, code) for kind in STRANDS for code in OF_STRANDS)]


def _rows(columns: dict[str, list[Told]]) -> str:
    lines = [f"| hangs | code | {' | '.join(columns)} |", "| --- | --- |" + " ---: |" * len(columns)]
    for kind, code in _codes():
        own = [[t for t in told if (t.job.kind, t.job.code) == (kind, code)] for told in columns.values()]
        if any(own):
            lines.append(f"| {kind} | `{code}` | {' | '.join(_cell(told) for told in own)} |")
    return "\n".join([*lines, f"| all | | {' | '.join(_cell(told) for told in columns.values())} |"])


def _cell(told: Sequence[Told]) -> str:
    found = f"{sum(t.hit for t in told)} of {len(told)}" if told else "no room"
    return f"{found} / {sum(len(t.others) for t in told)}"


def _clean(told: Sequence[Told], kind: str, how: str) -> str:
    own = [t for t in told if (t.job.kind, t.job.strictness) == (kind, how)]
    false = Counter(code for t in own for code in t.others)
    return f"{len(own)} clean ones ({kind}) marked {how}: {sum(false.values())} findings {dict(false) or ''}".rstrip()
