"""Errors and false findings of chains and tails drawn apart."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from multiprocessing import get_context

import numpy as np

from bench.apart import clips, strands
from bench.apart.strand_faults import PLANTS, TIMES
from bench.apart.strands import Look, Strand
from motion.analysis import Analysis, analyse, judge
from motion.brief import Brief, PendulumBrief, Strictness
from motion.clip import Clip, Exposure, Unseen
from motion.exercises.pendulum.truth import of_parts
from motion.findings import Finding
from motion.track import Line, Pivot, Shape, Track

FORMS: tuple[clips.Form, ...] = ("lossless", "lossless", "mp4", "webm")
KINDS = (("chain", "drags"), ("chain", "free"), ("tail", "drags"), ("tail", "free"))
TAIL_POINTS = 9
WIDEST = 960


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of one clip: px in a frame 960 wide. ``links`` found and drawn; findings, all of them false."""

    kind: str
    form: clips.Form
    look: Look
    number: int
    found: tuple[int, int]
    links: tuple[int, int]
    pivot: float
    joints: list[float]
    ends: list[float]
    findings: tuple[str, ...]


def clip_of(kind: str, way: str, number: int) -> tuple[Strand, Look]:
    """One of the clips, by its kind and number."""
    rng = random.Random(f"strand {kind} {way} {number}")
    strand = strands.plan(rng, kind, drag=-1.0 if way == "drags" else None)
    return strand, strands.look(rng, strand)


def analysed(strand: Strand, look: Look, form: clips.Form, *, drags: bool) -> Analysis:
    """What the analysis makes of it."""
    brief = Brief(fps=strand.fps, asked=PendulumBrief(hangs=strand.hangs, drag=drags))  # type: ignore[arg-type]
    with clips.clip_of(strands.drawings(strand, look), strand.fps, form) as clip:
        return analyse(clip, brief)


def told_of(job: tuple[str, str, int, clips.Form]) -> Told:
    """Draw a clip, analyse it, and hold it against what is true."""
    kind, way, number, form = job
    strand, look = clip_of(kind, way, number)
    result = analysed(strand, look, form, drags=way == "drags")
    scale = WIDEST / max(WIDEST, strand.width)
    shown = {}
    for e in result.track.exposures:
        shown.update(dict.fromkeys(range(e.first_frame, e.first_frame + e.frames), e.drawing))
    lines, joints, ends, first, seen, links = result.track.lines("line"), list[float](), list[float](), 1, 0, 0
    for truth, frames in zip(strand.points, strand.frames, strict=True):
        line = lines[shown[first] - 1] if first in shown else None
        first += frames
        if line is None:
            continue
        seen, links = seen + 1, len(line.points) - 1
        wanted = truth if kind == "chain" else evenly(truth)
        own = np.array(line.points)
        if len(own) == len(wanted):
            joints += (scale * np.hypot(*(own - wanted)[1:-1].T)).tolist()
        ends.append(scale * float(np.hypot(*(own[-1] - truth[-1]))))
    pivot = result.track.pivot
    at = strand.points[0, 0]
    return Told(
        kind=f"{kind}, {way}",
        form=form,
        look=look,
        number=number,
        found=(seen, len(strand.points)),
        links=(links, len(strand.points[0]) - 1 if kind == "chain" else TAIL_POINTS - 1),
        pivot=scale * float(np.hypot(pivot.x - at[0], pivot.y - at[1])) if pivot else float("nan"),
        joints=joints,
        ends=ends,
        findings=tuple(f.code for f in result.findings),
    )


def evenly(points: strands.Points) -> strands.Points:
    """A middle line by nine points at equal distances."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    wanted = np.linspace(0, along[-1], TAIL_POINTS)
    return np.stack([np.interp(wanted, along, points[:, axis]) for axis in (0, 1)], axis=1)


def track_of(strand: Strand) -> Track:
    """It as perfectly measured."""
    starts = np.cumsum([1, *strand.frames])
    lines = [p if strand.hangs == "chain" else evenly(p) for p in strand.points]
    numbered = list(enumerate(lines, start=1))
    x, y = (float(v) for v in strand.points[0, 0])
    return of_parts(
        tuple(
            Exposure(drawing=n, first_frame=int(starts[n - 1]), frames=frames)
            for n, frames in enumerate(strand.frames, start=1)
        ),
        tuple(_end(strand, n, line) for n, line in numbered),
        tuple(
            Line(
                drawing=n,
                points=tuple((float(a), float(b)) for a, b in line),
                confidence=0.99,
                apart=_apart(strand, n - 1),
            )
            for n, line in numbered
        ),
        tuple(range(len(lines))),
        Pivot(x=x, y=y, confidence=0.99),
    )


def _end(strand: Strand, number: int, line: strands.Points) -> Shape:
    x, y = (float(v) for v in line[-1])
    wide = strand.weights.get(number - 1, strand.weight)
    return Shape(
        drawing=number, x=x, y=y, major=wide or 9, minor=wide or 9, angle=0, bottom=y + (wide or 9) / 2, clipped=False,
        confidence=0.99, bare=not wide,
    )  # fmt: skip


def _apart(strand: Strand, index: int) -> dict[int, tuple[float, float]]:
    joint, dx, dy = strand.apart.get(index, (0, 0.0, 0.0))
    x, y = strand.points[index, joint]
    return {joint: (float(x + dx), float(y + dy))} if joint else {}


def judged(strand: Strand, *, drags: bool = True, strictness: Strictness = "standard") -> tuple[Finding, ...]:
    """What the checks find in it as perfectly measured."""
    clip = Clip(
        name="apart",
        fps=strand.fps,
        width=strand.width,
        height=strand.height,
        footage=Unseen(),
        picture_frames=strand.frames,
    )
    brief = Brief(asked=PendulumBrief(hangs=strand.hangs, drag=drags), strictness=strictness)  # type: ignore[arg-type]
    return judge(clip, brief, track_of(strand)).findings


def planted(code: str, hangs: str, number: int, times: float = TIMES) -> tuple[Strand, tuple[int, int]] | None:
    """One with a fault, and the frames from the first drawing that it concerns to the last."""
    told = PLANTS[code](random.Random(f"strand {code} {hangs} {number}"), hangs, times)
    if told is None:
        return None
    strand, drawings = told
    starts = np.cumsum([1, *strand.frames])
    return strand, (int(starts[drawings[0]]), int(starts[drawings[-1] + 1]) - 1)


Job = tuple[str, str, int, clips.Form | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Found:
    """What came of one planted fault. ``form`` and ``drawn`` are None where it was judged as perfectly measured."""

    code: str
    hangs: str
    form: clips.Form | None
    drawn: str | None
    hit: bool
    others: tuple[str, ...]


def found_in(job: Job) -> Found | None:
    """Plant a fault, judge it (from pictures where a form is given), and tell what came of it."""
    code, hangs, number, form = job
    told = planted(code, hangs, number)
    if told is None:
        return None
    strand, (first, last) = told
    drawn = None
    if form is None:
        findings = judged(strand)
    else:
        look = strands.look(random.Random(f"look {code} {hangs} {number}"), strand)
        findings, drawn = analysed(strand, look, form, drags=True).findings, drawn_as(look)
    own = [f for f in findings if f.code == code and within_a_frame(f, (first, last))]
    others = tuple(f.code for f in findings if f.code != code)
    return Found(code=code, hangs=hangs, form=form, drawn=drawn, hit=bool(own), others=others)


def drawn_as(look: Look) -> str:
    """How its parts are drawn, in words."""
    hollow = look.outline and look.fill == look.paper
    return "outlined only" if hollow else "outlined and filled" if look.outline else "filled"


def within_a_frame(finding: Finding, frames: tuple[int, int]) -> bool:
    """Whether a finding lies on the frames that a fault concerns."""
    return finding.first_frame <= frames[1] + 1 and finding.last_frame >= frames[0] - 1


def faults(perfect: int, pictures: int, workers: int | None = None) -> list[Found]:
    """So many of each fault as perfectly measured, and so many through pictures."""
    kinds = [(code, hangs) for code in PLANTS for hangs in ("chain", "tail")]
    jobs: list[Job] = [(c, h, n, None) for c, h in kinds for n in range(perfect)]
    jobs += [(c, h, n, FORMS[n % len(FORMS)]) for c, h in kinds for n in range(pictures)]
    with get_context("spawn").Pool(workers) as pool:
        return [f for f in pool.map(found_in, jobs, chunksize=1) if f is not None]


def faults_table(told: Sequence[Found]) -> str:
    """Recall of each code, and what else is found, as perfectly measured and from pictures; then by form and look."""
    rows = [
        "| fault | of | perfectly measured | also found | from pictures | also found |",
        "| --- | --- | ---: | --- | ---: | --- |",
    ]
    for code in PLANTS:
        for hangs in ("chain", "tail"):
            own = [t for t in told if (t.code, t.hangs) == (code, hangs)]
            if own:
                cells = [_recall([t for t in own if (t.form is not None) is seen]) for seen in (False, True)]
                rows.append(f"| {code} | {hangs} | {' | '.join(cells)} |")
    seen = [t for t in told if t.form is not None]
    rows += ["", "| from pictures | found | also found |", "| --- | ---: | --- |"]
    for form in sorted({t.form for t in seen if t.form}):
        rows.append(f"| form: {form} | {_recall([t for t in seen if t.form == form])} |")
    for drawn in sorted({t.drawn for t in seen if t.drawn}):
        rows.append(f"| {drawn} | {_recall([t for t in seen if t.drawn == drawn])} |")
    return "\n".join(rows)


def _recall(told: Sequence[Found]) -> str:
    codes = Counter(c for t in told for c in set(t.others))
    others = ", ".join(f"{c} {n}" for c, n in codes.most_common()) or "nothing"
    return f"{sum(t.hit for t in told)} of {len(told)} | {others}"


def run(count: int, workers: int | None = None) -> list[Told]:
    """So many clips of each kind, over looks and forms."""
    jobs = [(kind, way, n, FORMS[n % len(FORMS)]) for kind, way in KINDS for n in range(count)]
    with get_context("spawn").Pool(workers) as pool:
        return pool.map(told_of, jobs, chunksize=1)


def table(told: Sequence[Told]) -> str:
    """Errors at the median and at 95 of 100, links counted right, and what is found in clean clips."""
    rows = [
        "| clips | drawings | links right | pivot, px | joints, px | end, px | findings |",
        "| --- | ---: | ---: | --- | --- | --- | --- |",
    ]
    groups: dict[str, list[Told]] = {"all": list(told)}
    for t in told:
        for name in (t.kind, f"form: {t.form}", drawn_as(t.look)):
            groups.setdefault(name, []).append(t)
    return "\n".join([*rows, *(_row(name, own) for name, own in groups.items())])


def _row(name: str, told: Sequence[Told]) -> str:
    seen, wanted = (sum(t.found[k] for t in told) for k in (0, 1))
    right = sum(t.links[0] == t.links[1] for t in told)
    codes = Counter(c for t in told for c in set(t.findings))
    said = ", ".join(f"{c} {n}" for c, n in codes.most_common()) or "nothing"
    pivots = [t.pivot for t in told if np.isfinite(t.pivot)]
    cells = " | ".join(two(v) for v in (pivots, [v for t in told for v in t.joints], [v for t in told for v in t.ends]))
    return f"| {name} | {seen} of {wanted} | {right} of {len(told)} | {cells} | {said} |"


def two(values: Sequence[float]) -> str:
    """The median and what 95 of 100 lie below."""
    return f"{np.median(values):.2f} / {np.percentile(values, 95):.2f}" if len(values) else ""
