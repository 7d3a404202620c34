"""The slim charts under the picture, a measure each, as SVG numbers."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from motion.brief import Brief
from motion.exercises import exercise as measures
from motion.exercises import exercise_of
from motion.exercises.exercise import Measure, Points

WIDTH, HEIGHT, MARGIN = 600.0, 96.0, 8.0
FARTHEST = 12
"""Values farther apart (frames) are not joined by a line."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Dot:
    x: str
    y: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Stripe:
    """The frames of a finding."""

    principle: str
    x: str
    width: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """What is allowed."""

    y: str
    height: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Curve:
    """One of several curves: its number from 1, by which it is drawn, its name, and the dots that are marked on it."""

    number: int
    name: str
    lines: tuple[str, ...]
    dots: tuple[Dot, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Chart:
    """Numbers are told as text, so that no locale gets between them and the SVG.

    ``lines`` join the values, ``models`` what the model expects, ``curves`` are several to be compared; ``level`` is
    where the measure's own nought lies, or one for what is told in times, None outside the chart.
    """

    key: str
    name: str
    reach: str
    width: str
    height: str
    level: str | None
    lines: tuple[str, ...]
    models: tuple[str, ...]
    curves: tuple[Curve, ...]
    dots: tuple[Dot, ...]
    band: Band | None
    stripes: tuple[Stripe, ...]


def draw(data: dict[str, Any], kept: set[str], key_of: Callable[[Any], str], brief: Brief) -> tuple[Chart, ...]:
    """The charts of a findings file; none where nothing was followed. ``kept`` are the keys of findings to show."""
    step = WIDTH / data["clip"]["frames"]
    stripes = tuple(
        Stripe(
            principle=f["principle"],
            x=f"{(f['first_frame'] - 1) * step:.1f}",
            width=f"{(f['last_frame'] - f['first_frame'] + 1) * step:.1f}",
        )
        for f in data["findings"]
        if key_of(f) in kept
    )
    return tuple(_chart(m, step, stripes) for m in exercise_of(brief).measures(data, brief))


class _Scale:
    """Values to y in the chart, from the lowest to the highest that it shows."""

    def __init__(self, measure: Measure) -> None:
        curves = [point for curve in measure.curves for point in curve.values]
        shown = [v for _, v in (*measure.values, *measure.model, *curves)]
        low, high = min((*shown, *(measure.band or ()))), max((*shown, *(measure.band or ())))
        if measure.unit == "px":
            low = min(0.0, low)
        self.low, self.high = low, max(high, low + 1e-3)

    def __call__(self, value: float) -> float:
        return HEIGHT - MARGIN - (HEIGHT - 2 * MARGIN) * (value - self.low) / (self.high - self.low)


def _chart(measure: Measure, step: float, stripes: Sequence[Stripe]) -> Chart:
    scale = _Scale(measure)

    def line(points: Points) -> str:
        return " ".join(f"{(frame - 0.5) * step:.1f},{scale(value):.1f}" for frame, value in points)

    def dots(points: Points) -> tuple[Dot, ...]:
        return tuple(Dot(x=f"{(f - 0.5) * step:.1f}", y=f"{scale(v):.1f}") for f, v in points)

    def curve(number: int, told: measures.Curve) -> Curve:
        marked = tuple((f, v) for f, v in told.values if f in told.marked)
        lines = tuple(line(run) for run in runs(told.values, FARTHEST))
        return Curve(number=number, name=told.name, lines=lines, dots=dots(marked))

    level = {"px": 0.0, "times": 1.0}.get(measure.unit, 0.0)
    band = None
    if measure.band is not None:
        top, foot = scale(measure.band[1]), scale(measure.band[0])
        band = Band(y=f"{top:.1f}", height=f"{foot - top:.1f}")
    return Chart(
        key=measure.key,
        name=measure.name,
        reach=_reach(scale, measure.unit),
        width=f"{WIDTH:.0f}",
        height=f"{HEIGHT:.0f}",
        level=f"{scale(level):.1f}" if scale.low <= level <= scale.high else None,
        lines=() if measure.curves else tuple(line(run) for run in runs(measure.values, FARTHEST)),
        models=tuple(line(run) for run in runs(measure.model, FARTHEST)),
        curves=tuple(curve(number, told) for number, told in enumerate(measure.curves, start=1)),
        dots=() if measure.curves else dots(measure.values),
        band=band,
        stripes=tuple(stripes),
    )


def _reach(scale: _Scale, unit: str) -> str:
    return f"{_short(scale.low, unit)} to {_short(scale.high, unit)}{'' if unit == '°' else ' '}{unit}"


def _short(value: float, unit: str) -> str:
    text = f"{value:.2f}" if unit == "times" else f"{value:.0f}"
    return "0" if text == "-0" else text.replace("-", "\N{MINUS SIGN}")


def runs(points: Points, farthest: int) -> list[Points]:
    """Points in runs, parted where more than so many frames lie between two."""
    found: list[list[tuple[int, float]]] = []
    for one, other in itertools.pairwise(((-farthest - 1, 0.0), *points)):
        if other[0] - one[0] > farthest or not found:
            found.append([])
        found[-1].append(other)
    return [tuple(run) for run in found]
