"""Clips in which something is odd and nothing wrong: cut by the edge, sloping, returning, missing a drawing."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from multiprocessing import get_context
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.apart import good, pictures
from bench.apart.bounces import Ball, Bounce
from bench.apart.clips import Form, clip_of
from motion.analysis import Analysis, analyse
from motion.brief import BounceBrief, Brief
from motion.track import Shape
from motion.tracking import ground
from motion.tracking.ellipse import axis_angle

WIDEST = 1000
FORMS: tuple[Form, ...] = ("lossless", "mp4", "webm")
Drawn = list[tuple[pictures.Picture, int]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of one odd clip: whether it was read rightly, findings where there should be none, errors (n,) px."""

    kind: str
    right: bool
    findings: int
    errors: tuple[float, ...] = ()


def analysed(bounce: Bounce, drawn: Drawn, form: Form) -> Analysis:
    """A clip read from a file of that form."""
    brief = Brief(fps=bounce.fps, asked=BounceBrief(material=bounce.material))  # type: ignore[arg-type]
    with clip_of(drawn, bounce.fps, form) as clip:
        return analyse(clip, brief)


def planned(rng: random.Random, fits: Callable[[good.Manner, Bounce], bool], **how: Any) -> Bounce:
    """A good bounce, narrow enough to be drawn quickly, that fits."""
    while True:
        manner = replace(good.manner(rng), **how)
        try:
            bounce = good.plan(rng, manner)
        except ValueError:
            continue
        if bounce.width <= WIDEST and fits(manner, bounce):
            return bounce


def drawing_at(result: Analysis) -> dict[int, int]:
    """The drawing that shows on each frame."""
    return {f: e.drawing for e in result.track.exposures for f in range(e.first_frame, e.first_frame + e.frames)}


def cut(rng: random.Random, form: Form) -> Told:
    """A ball that the frame's edge cuts by a tenth to nearly a half, where the clip goes farthest to the left."""
    bounce = planned(rng, lambda _, b: b.diameter > 20, in_place=False, halves=False)
    off = min(b.x for b in bounce.balls) - bounce.diameter * (0.5 - rng.uniform(0.1, 0.45))
    for ball in bounce.balls:
        ball.x -= off
    result = analysed(bounce, pictures.drawings(bounce, pictures.look(rng, grainy=True)), form)
    shown, frame, errors = drawing_at(result), 1, []
    for ball in bounce.balls:
        shape = result.track.shape_of(shown.get(frame, 0))
        frame += ball.frames
        if ball.x < ball.along:
            errors.append(np.inf if shape is None else float(np.hypot(shape.x - ball.x, shape.y - ball.y)))
    return Told(kind="cut by the edge", right=max(errors) < 1.5, findings=len(result.findings), errors=tuple(errors))


def sloping(rng: random.Random, _: Form) -> Told:
    """A ground that slopes and is not drawn, under three contacts at least; perfectly measured."""
    bounce = planned(rng, lambda _, b: sum(x.kind == "contact" for x in b.balls) > 2, in_place=False)
    slope = rng.choice([-1, 1]) * rng.uniform(0.01, 0.12)
    for ball in bounce.balls:
        ball.y += slope * (ball.x - bounce.width / 2)
    paper = np.full((bounce.height, bounce.width, 4), 255, np.uint8)
    found = ground.find(paper, [shape_of(i, b) for i, b in enumerate(bounce.balls, start=1)])
    assert found is not None
    off = [
        abs(found.y_at(b.x) - bounce.ground - slope * (b.x - bounce.width / 2))
        for b in bounce.balls
        if b.kind == "contact"
    ]
    return Told(kind="ground that slopes, not drawn", right=max(off) < 2, findings=0, errors=tuple(off))


def shape_of(number: int, ball: Ball) -> Shape:
    """A ball as perfectly measured."""
    return Shape(
        drawing=number,
        x=ball.x,
        y=ball.y,
        major=2 * max(ball.along, ball.across),
        minor=2 * min(ball.along, ball.across),
        angle=axis_angle(ball.angle if ball.along >= ball.across else ball.angle + 90),
        bottom=ball.y + ball.below,
        clipped=False,
        confidence=0.99,
    )


def returning(rng: random.Random, _: Form) -> Told:
    """Drawings that come back later in the clip, on paper that drifts under a camera with a grain of its own."""
    bounce = planned(rng, lambda _, b: len(b.balls) >= 16, begins="top", ends="top")
    looks = replace(pictures.look(rng, grainy=True), paper="town")
    once = pictures.drawings(bounce, looks)[:20]
    camera = np.random.default_rng(rng.randrange(10**6))
    result = analysed(bounce, [(photographed(p, camera), n) for p, n in [*once, *once]], "lossless")
    shown, frames = drawing_at(result), sum(n for _, n in once)
    again = [shown[f] == shown[f + frames] for f in range(1, frames + 1)]
    return Told(kind="drawings that return, photographed", right=all(again), findings=0)


def photographed(picture: pictures.Picture, camera: np.random.Generator) -> pictures.Picture:
    """The picture as a camera sees it, over which the paper lies a little off each time."""
    height, width = picture.shape[:2]
    moved = np.array([[1, 0, camera.normal(0, 1.2)], [0, 1, camera.normal(0, 1.2)]])
    seen = cv2.warpAffine(picture, moved, (width, height), borderMode=cv2.BORDER_REPLICATE).astype(np.float64)
    return np.asarray(np.clip(np.round(seen + camera.normal(0, 2.5, seen.shape)), 0, 255), dtype=np.uint8)


def blank(rng: random.Random, form: Form) -> Told:
    """An empty frame beside a ball that the edge cuts and that stays in the frame."""
    bounce = planned(rng, lambda _, b: b.diameter > 20 and farthest(b) in (0, len(b.balls) - 1), in_place=False)
    off = min(b.x for b in bounce.balls) - bounce.diameter * (0.5 - rng.uniform(0.1, 0.35))
    for ball in bounce.balls:
        ball.x -= off
    at = 1 if farthest(bounce) == 0 else len(bounce.balls) - 2
    looks = pictures.look(rng, grainy=False)
    drawn = pictures.drawings(bounce, looks)
    away = replace(bounce, balls=[replace(bounce.balls[at], x=-5000.0)])
    drawn[at] = (pictures.drawings(away, replace(looks, shadow=False))[0][0], drawn[at][1])
    first, last = bounce.frames_of([at])
    notes = [n for n in analysed(bounce, drawn, form).preflight if n.code == "preflight.blank"]
    right = any(n.first_frame <= last and n.last_frame >= first for n in notes)
    return Told(kind="an empty frame beside a cut ball", right=right, findings=0)


def farthest(bounce: Bounce) -> int:
    """The index of the ball farthest to the left."""
    return min(range(len(bounce.balls)), key=lambda i: bounce.balls[i].x)


KINDS: tuple[Callable[[random.Random, Form], Told], ...] = (cut, sloping, returning, blank)


def told_of(job: tuple[int, int]) -> Told:
    """One clip by its kind and number."""
    kind, number = job
    return KINDS[kind](random.Random(f"{KINDS[kind].__name__} {number}"), FORMS[number % len(FORMS)])


def run(count: int, workers: int = 2) -> list[Told]:
    """So many clips of each kind."""
    jobs = [(kind, number) for kind in range(len(KINDS)) for number in range(count)]
    with get_context("spawn").Pool(workers) as pool:
        return pool.map(told_of, jobs, chunksize=2)


def table(results: Sequence[Told]) -> str:
    """The figures as Markdown."""
    return "\n".join(
        ["| what is odd | clips | read rightly | false findings | errors, median | 95 % |", *_rows(results)]
    )


def _rows(results: Sequence[Told]) -> Iterator[str]:
    yield "| --- | ---: | ---: | ---: | ---: | ---: |"
    for kind in dict.fromkeys(r.kind for r in results):
        own = [r for r in results if r.kind == kind]
        off: NDArray[np.float64] = np.array([e for r in own for e in r.errors])
        px = f"{np.median(off):.2f} px | {np.percentile(off, 95):.2f} px" if off.size else " | "
        yield f"| {kind} | {len(own)} | {sum(r.right for r in own)} | {sum(r.findings for r in own)} | {px} |"
