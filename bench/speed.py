"""How long the analysis takes beside merely decoding the same file, and the memory it needs.

Ratios within one run only: the machines that this runs on are shared and their clocks are not to be trusted. Both are
timed in a process that was told what the one that reads hand-ins is told (``motion.sandbox``), in turns.
"""

from __future__ import annotations

import itertools
import statistics
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from multiprocessing import get_context
from pathlib import Path
from typing import TypeVar

from motion import formats, memory
from motion.analysis import analyse, judge
from motion.brief import Brief, PendulumBrief, Stride, Swing, WalkBrief
from motion.brief.walk import Figure
from motion.clip import Clip
from motion.exercises.bounce.plan import Recipe, bounce
from motion.exercises.pendulum.feel import plan_of
from motion.exercises.walk.feel import plan_of as walk_of
from motion.synth import draw as drawing
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.look import LOOKS

ROUNDS = 7
LARGE, SHORT = "1920 x 1080", "33 frames"
SIZES = {"960 x 540": (960, 540), "1280 x 720": (1280, 720), LARGE: (1920, 1080)}
LENGTHS = {SHORT: Recipe(), "56 frames": Recipe(kept=(0.8,) * 8, speed_x=14.0)}
Number = TypeVar("Number", int, float)
PICTURES = (
    ("clean", "zip"),
    ("harbour", "zip"),
    ("scan", "zip"),
    ("photographed", "zip"),
    ("pencil", "gif"),
)
SWUNG: tuple[tuple[str, write.Form], ...] = (
    ("clean", "zip"),
    ("scan", "zip"),
    ("drift", "zip"),
    ("harbour", "mp4"),
    ("scan", "webm"),
)
VIDEOS: tuple[tuple[str, write.Form], ...] = (("harbour", "mp4"), ("scan", "webm"))
FIGURES: tuple[Figure, ...] = ("legs", "whole")
MEMORY_FORMS: tuple[write.Form, ...] = ("zip", "mp4", "gif")
LONG = Recipe(
    width=1280, height=720, ground_y=600, drop_px=420, kept=(0.95,) * 28, start_x=60, speed_x=2.6, end="rest", rest=22
)


def _clip(folder: Path, recipe: Recipe, look: str, form: write.Form) -> Path:
    return write.save(draw.frames(bounce(recipe), LOOKS[look], 5), folder / f"{look}.{form}", form, recipe.fps)


def _hung(size: tuple[int, int]) -> Brief:
    """A pendulum of some 60 drawings in a frame of that size."""
    width, height = size
    return Brief(
        canvas=size,
        asked=PendulumBrief(),
        guide=Swing(pivot_x=width / 2, pivot_y=height * 0.1, length=height * 0.6, size=height * 0.14, swing_s=0.6),
    )


def _hung_clip(folder: Path, brief: Brief, look: str, form: write.Form) -> Path:
    frames = drawing.frames("pendulum", plan_of(brief), LOOKS[look], 5)
    return write.save(frames, folder / f"hung-{look}.{form}", form, brief.fps)


def _walked(folder: Path, brief: Brief, look: str, form: write.Form) -> Path:
    """A walk of four steps of twelve drawings."""
    frames = drawing.frames("walk", walk_of(replace(brief, guide=Stride())), LOOKS[look], 5)
    return write.save(frames, folder / f"walked-{look}.{form}", form, brief.fps)


def _decode(clip: Clip) -> None:
    first: dict[str, int] = {}
    for index in range(len(clip.footage)):
        first.setdefault(clip.footage.fingerprint(index) or f"#{index}", index)
    for _ in clip.footage.pictures(sorted(first.values())):
        pass


def _seconds(work: Callable[[], object]) -> float:
    start = time.process_time()
    work()
    return time.process_time() - start


def _ratios(path: Path, brief: Brief) -> tuple[float, float]:
    """Analysis over decoding, and the checks alone over the analysis: medians of pairs taken in turn."""
    whole, again = [], []
    analyse(formats.read(path, 24), brief)
    for _ in range(ROUNDS):
        decoding = _seconds(lambda: _decode(formats.read(path, 24)))
        start = time.process_time()
        result = analyse(formats.read(path, 24), brief)
        analysing = time.process_time() - start
        whole.append(analysing / decoding)
        again.append(_seconds(lambda r=result: judge(r.clip, r.brief, r.track)) / analysing)  # type: ignore[misc]
    return statistics.median(whole), statistics.median(again)


def _peak_mb(path: Path, brief: Brief) -> tuple[int, float]:
    """Frames of a clip, and the greatest memory of a process that does nothing but analyse it, libraries included."""
    result = analyse(formats.read(path, 24), brief)
    status = Path("/proc/self/status").read_text()
    kilobytes = int(status.split("VmHWM:")[1].split()[0])
    return result.clip.frames, kilobytes / 1024


def _in_fresh_process(
    measure: Callable[[Path, Brief], tuple[Number, float]], path: Path, brief: Brief
) -> tuple[Number, float]:
    with ProcessPoolExecutor(1, mp_context=get_context("spawn"), initializer=memory.keep_freed) as fresh:
        return fresh.submit(measure, path, brief).result()


def table() -> str:
    """The figures as Markdown."""
    rows = ["| clip | analysis / decoding | checks again / analysis |", "| --- | ---: | ---: |"]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for size, (width, height) in SIZES.items():
            for length, usual in LENGTHS.items():
                recipe = replace(usual, width=width, height=height, ground_y=height * 0.84, drop_px=height * 0.55)
                every = size != LARGE and length == SHORT
                for look, form in (*(PICTURES if every else ()), *VIDEOS):
                    ratio, again = _in_fresh_process(_ratios, _clip(folder, recipe, look, form), Brief())
                    rows.append(f"| {size}, {length}, {look}, {form} | {ratio:.1f} | {100 * again:.0f} % |")
        for size, sides in SIZES.items():
            brief = _hung(sides)
            for look, form in SWUNG if size != LARGE else VIDEOS:
                ratio, again = _in_fresh_process(
                    _ratios, _hung_clip(folder, brief, look, form), replace(brief, guide=None)
                )
                rows.append(f"| pendulum, {size}, {look}, {form} | {ratio:.1f} | {100 * again:.0f} % |")
        for figure, size in itertools.product(FIGURES, ("960 x 540", LARGE)):
            brief = Brief(canvas=SIZES[size], asked=WalkBrief(figure=figure))
            for look, form in SWUNG if size != LARGE else VIDEOS:
                ratio, again = _in_fresh_process(_ratios, _walked(folder, brief, look, form), brief)
                rows.append(
                    f"| walk, {figure}, {size}, 49 frames, {look}, {form} | {ratio:.1f} | {100 * again:.0f} % |"
                )
        peaks = [_in_fresh_process(_peak_mb, _clip(folder, LONG, "harbour", form), Brief()) for form in MEMORY_FORMS]
    told = ", ".join(f"{peak:.0f} MB ({form})" for (_, peak), form in zip(peaks, MEMORY_FORMS, strict=True))
    return "\n".join([*rows, "", f"Memory for {peaks[0][0]} frames of 1280 x 720: {told}."])
