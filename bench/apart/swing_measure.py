"""Recall, false findings and errors of pendulums drawn apart."""

from __future__ import annotations

from bench.apart.swings import Hung, Pendulum
from motion.analysis import judge
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
