"""Recall, false findings and errors of pendulums drawn apart."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from multiprocessing import get_context

import numpy as np
from numpy.typing import NDArray

from bench.apart import swing_pictures, swings
from bench.apart.clips import Form, clip_of
from bench.apart.swing_faults import PLANTS, TIMES
from bench.apart.swing_pictures import Look
from bench.apart.swings import Hung, Manner, Pendulum
from motion.analysis import Analysis, analyse, judge
from motion.brief import Brief, PendulumBrief
from motion.clip import Clip, Exposure, Unseen
from motion.exercises.pendulum.truth import of_parts
from motion.findings import Finding
from motion.track import Line, Pivot, Shape, Track


def brief_of(pendulum: Pendulum, **asked: object) -> Brief:
    """The brief under which it is judged."""
    return Brief(fps=pendulum.fps, loop=pendulum.loop, asked=PendulumBrief(rest_angle=pendulum.rest, **asked))  # type: ignore[arg-type]


def track_of(pendulum: Pendulum) -> Track:
    """It as perfectly measured."""
    numbered = list(enumerate(pendulum.drawings, start=1))
    return of_parts(
        tuple(Exposure(drawing=n, first_frame=pendulum.first_frame(n - 1), frames=d.frames) for n, d in numbered),
        tuple(_shape(pendulum, n, d) for n, d in numbered),
        tuple(_line(pendulum, n, d) for n, d in numbered),
        tuple(range(len(numbered))),
        Pivot(x=pendulum.pivot[0], y=pendulum.pivot[1], confidence=0.99),
    )


def _shape(pendulum: Pendulum, number: int, drawing: Hung) -> Shape:
    x, y = pendulum.place(drawing)
    return Shape(
        drawing=number, x=x, y=y, major=drawing.size, minor=drawing.size, angle=0.0, bottom=y + drawing.size / 2,
        clipped=False, confidence=0.99,
    )  # fmt: skip


def _line(pendulum: Pendulum, number: int, drawing: Hung) -> Line:
    top = pendulum.pivot[0] + drawing.top[0], pendulum.pivot[1] + drawing.top[1]
    return Line(drawing=number, points=(top, pendulum.place(drawing)), confidence=0.99)


def judged(pendulum: Pendulum, brief: Brief | None = None) -> tuple[Finding, ...] | None:
    """What the checks find in it as perfectly measured; None where it is not read as a pendulum."""
    clip = Clip(
        name="apart",
        fps=pendulum.fps,
        width=pendulum.width,
        height=pendulum.height,
        footage=Unseen(),
        picture_frames=tuple(d.frames for d in pendulum.drawings),
    )
    found = judge(clip, brief or brief_of(pendulum), track_of(pendulum))
    return found.findings if found.scene is not None else None


FORMS: tuple[Form, ...] = ("lossless", "mp4", "webm")
LARGE = 1000
"""Frames wider than this are drawn without grain."""
WIDEST = 960
TRIED = 300


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of one clip: whether its fault was found, what else was, and errors.

    ``off`` (n, 3) is how far each weight, each upper end and each angle was measured off (px of a frame 960 wide,
    degrees), ``pivot`` the pivot's error, px; None where the clip was not read as a pendulum.
    """

    code: str | None
    form: Form
    manner: Manner
    look: Look
    hit: bool
    others: tuple[str, ...]
    off: NDArray[np.float64]
    pivot: float | None


Spoilt = tuple[Pendulum, list[int], dict[str, object]]
"""A pendulum with a fault, the drawings that it concerns, and what the brief asks for."""


def spoilt(code: str | None, rng: random.Random, times: float = TIMES) -> Spoilt:
    """A pendulum with a fault so many times its tolerance; clean without a code. Raises ValueError: it has no room."""
    for _ in range(TRIED):
        pendulum = swings.plan(rng)
        if code is None:
            return pendulum, [], {}
        planted = PLANTS[code](rng, pendulum, times)
        if planted is not None and all(inside(planted[0], d) for d in planted[0].drawings):
            return planted
    raise ValueError(f"{code} has no room at {times} times its tolerance")


def inside(pendulum: Pendulum, drawing: Hung) -> bool:
    """Whether a weight lies in the frame."""
    x, y = pendulum.place(drawing)
    half = drawing.size / 2 + 2
    return half < x < pendulum.width - half and half < y < pendulum.height - half


def told_of(job: tuple[str | None, int, Form]) -> Told:
    """Draw a clip by its code, number and form, analyse it, and hold it against what is known."""
    code, number, form = job
    rng = random.Random(f"swing {code} {number} {form}")
    pendulum, concerned, asked = spoilt(code, rng)
    look = swing_pictures.look(rng, grainy=pendulum.width < LARGE)
    with clip_of(swing_pictures.drawings(pendulum, look), pendulum.fps, form) as clip:
        result = analyse(clip, brief_of(pendulum, **asked))
    own = [f for f in result.findings if f.code == code and on(pendulum, concerned, f)]
    return Told(
        code=code,
        form=form,
        manner=pendulum.manner,
        look=look,
        hit=bool(own),
        others=tuple(f.code for f in result.findings if f not in own),
        off=errors(pendulum, result),
        pivot=pivot_error(pendulum, result),
    )


def errors(pendulum: Pendulum, result: Analysis) -> NDArray[np.float64]:
    """(n, 3) how far weights and upper ends (px of a frame 960 wide) and angles (degrees) were measured off."""
    at = {f: e.drawing for e in result.track.exposures for f in range(e.first_frame, e.last_frame + 1)}
    scale, found, frame = min(1.0, WIDEST / pendulum.width), [], 1
    for hung in pendulum.drawings:
        drawing = at.get(frame, 0)
        frame += hung.frames
        shape = result.track.shape_of(drawing) if drawing else None
        line = result.track.lines("line")[drawing - 1] if drawing else None
        if shape is None or line is None or result.track.pivot is None:
            continue
        x, y = pendulum.place(hung)
        top = pendulum.pivot[0] + hung.top[0], pendulum.pivot[1] + hung.top[1]
        pivot = result.track.pivot
        angle = math.degrees(math.atan2(shape.x - pivot.x, shape.y - pivot.y))
        found.append(
            (
                scale * math.hypot(shape.x - x, shape.y - y),
                scale * math.hypot(line.points[0][0] - top[0], line.points[0][1] - top[1]),
                abs(angle - hung.angle),
            )
        )
    return np.array(found).reshape(-1, 3)


def pivot_error(pendulum: Pendulum, result: Analysis) -> float | None:
    """How far the pivot was measured off, px of a frame 960 wide; None where none was told."""
    pivot = result.track.pivot
    if pivot is None:
        return None
    off = math.hypot(pivot.x - pendulum.pivot[0], pivot.y - pendulum.pivot[1])
    return off * min(1.0, WIDEST / pendulum.width)


def perfect(count: int, clean: int) -> str:
    """Recall and other findings per code of pendulums as perfectly measured, and findings on clean ones."""
    rows = ["| code | found | other findings |", "| --- | ---: | ---: |"]
    found = 0
    for code in PLANTS:
        hits, others = 0, 0
        for number in range(count):
            rng = random.Random(f"track {code} {number}")
            pendulum, concerned, asked = spoilt(code, rng)
            findings = judged(pendulum, brief_of(pendulum, **asked)) or ()
            own = [f for f in findings if f.code == code and on(pendulum, concerned, f)]
            hits, others = hits + bool(own), others + len(findings) - len(own)
        found += hits
        rows.append(f"| `{code}` | {hits} of {count} | {others} |")
    told = [judged(swings.plan(random.Random(f"clean {n}"))) for n in range(clean)]
    unread, false = sum(t is None for t in told), sum(len(t or ()) for t in told)
    rows += [
        "",
        f"Found: {found} of {count * len(PLANTS)}. On {clean} clean clips {false} findings, {unread} unread.",
    ]
    return "\n".join(rows)


def on(pendulum: Pendulum, concerned: list[int], finding: Finding) -> bool:
    """Whether a finding lies on the drawings that a fault concerns, within a frame."""
    first, last = pendulum.span(concerned) if concerned else (0, 0)
    return finding.first_frame <= last + 1 and finding.last_frame >= first - 1


def run(count: int, clean: int, workers: int = 2) -> list[Told]:
    """So many clips a code and so many clean ones, of each form in turn."""
    numbered = [*((code, n) for code in PLANTS for n in range(count)), *((None, n) for n in range(clean))]
    jobs = [(code, n, FORMS[n % len(FORMS)]) for code, n in numbered]
    with get_context("spawn").Pool(workers) as pool:
        return pool.map(told_of, jobs, chunksize=2)


def table(results: Sequence[Told]) -> str:
    """The figures as Markdown: by code, by form and by manner."""
    rows = ["| code | clips | found | collateral |", "| --- | ---: | ---: | ---: |"]
    for code in PLANTS:
        own = [r for r in results if r.code == code]
        rows.append(f"| `{code}` | {len(own)} | {sum(r.hit for r in own)} | {sum(len(r.others) for r in own)} |")
    spoiled, clean = [r for r in results if r.code], [r for r in results if not r.code]
    rows += ["", f"Found: {sum(r.hit for r in spoiled)} of {len(spoiled)}.", ""]
    rows += [
        "| form | clean clips | findings | weight median | weight 95 % | pivot median | upper end 95 % | angle 95 % |"
    ]
    rows += ["| --- | ---: | ---: | ---: | ---: | ---: | ---: | ---: |"]
    for form in FORMS:
        own, every = [r for r in clean if r.form == form], [r for r in results if r.form == form]
        off = np.concatenate([r.off for r in every])
        pivots = [r.pivot for r in every if r.pivot is not None]
        rows.append(
            f"| {form} | {len(own)} | {sum(len(r.others) for r in own)} | {np.median(off[:, 0]):.2f} px "
            f"| {np.percentile(off[:, 0], 95):.2f} px | {np.median(pivots):.2f} px "
            f"| {np.percentile(off[:, 1], 95):.2f} px | {np.percentile(off[:, 2], 95):.2f}° |"
        )
    rows += ["", "| look | clips | found of spoilt | findings on clean | weight 95 % | pivot 95 % |"]
    rows += ["| --- | ---: | ---: | ---: | ---: | ---: |"]
    for name, of in LOOKED:
        for value in sorted({of(r.look) for r in results}):
            rows.append(f"| {name} {value} {_of_look([r for r in results if of(r.look) == value])}")
    rows += ["", "| clean work | clips | findings |", "| --- | ---: | ---: |"]
    for law in swings.LAWS:
        own = [r for r in clean if r.manner.law == law]
        rows.append(f"| by {law} | {len(own)} | {sum(len(r.others) for r in own)} |")
    for exposing in swings.EXPOSINGS:
        own = [r for r in clean if r.manner.exposing == exposing]
        rows.append(f"| {exposing} | {len(own)} | {sum(len(r.others) for r in own)} |")
    return "\n".join(rows)


LOOKED: tuple[tuple[str, Callable[[Look], str]], ...] = (
    ("weight", lambda look: look.weight),
    ("line", lambda look: look.bar),
    ("hangs from", lambda look: look.hook),
    ("on", lambda look: look.paper),
    ("paper", lambda look: "drifts" if look.drift else "lies still"),
    ("grain", lambda look: f"of {look.grain} levels"),
)


def _of_look(own: Sequence[Told]) -> str:
    """The rest of a row: clips, found of spoilt ones, findings on clean ones, and errors."""
    spoiled, clean = [r for r in own if r.code], [r for r in own if not r.code]
    off = np.concatenate([r.off for r in own])
    pivots = [r.pivot for r in own if r.pivot is not None]
    found = f"{sum(r.hit for r in spoiled)} of {len(spoiled)}"
    false = f"{sum(len(r.others) for r in clean)} on {len(clean)}"
    weight, pivot = (float(np.percentile(v, 95)) if len(v) else math.nan for v in (off[:, 0], pivots))
    return f"| {len(own)} | {found} | {false} | {weight:.2f} px | {pivot:.2f} px |"
