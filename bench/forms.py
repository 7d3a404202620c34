"""The same clips through every form in which they can be handed in: exposures, places, and findings on clean clips."""

from __future__ import annotations

import tempfile
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path
from typing import get_args

import numpy as np

from bench.accuracy import WIDEST, truth_of
from motion.analysis import Analysis, analyse_file
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.bounce.cases import Case, random_case

START = 7_000_001


@dataclass(frozen=True, slots=True, kw_only=True)
class Result:
    """One clip through one form: whether its exposures are right, how far off its places are, its findings."""

    form: str
    exact: bool
    centre_px: np.ndarray
    findings: int


def measure(job: tuple[write.Form, int]) -> Result:
    """Write a clean clip in a form, analyse the file, and compare with what was drawn."""
    form, seed = job
    case = random_case(seed)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"clip.{write.suffix(form)}"
        write.save(draw.frames(case.plan, case.look, seed), path, form, case.plan.recipe.fps)
        found = analyse_file(path, case.brief)
    exposures = [(e.first_frame, e.frames) for e in found.track.exposures]
    return Result(
        form=form, exact=exposures == truth_of(case), centre_px=_off(case, found), findings=len(found.findings)
    )


def _off(case: Case, found: Analysis) -> np.ndarray:
    scale = min(1.0, WIDEST / case.plan.recipe.width)
    off = []
    for i, pose in enumerate(case.plan.poses):
        frame = case.plan.first_frame(i)
        exposure = next((e for e in found.track.exposures if e.first_frame <= frame <= e.last_frame), None)
        shape = found.track.shape_of(exposure.drawing) if exposure else None
        if shape and not shape.clipped:
            off.append(scale * float(np.hypot(shape.x - pose.x, shape.y - pose.y)))
    return np.array(off)


def table(count: int) -> str:
    """A row a form."""
    forms: tuple[write.Form, ...] = get_args(write.Form)
    jobs = [(form, START + i) for form in forms for i in range(count)]
    with ProcessPoolExecutor(mp_context=get_context("forkserver")) as pool:
        results = list(pool.map(measure, jobs, chunksize=4))
    lines = [
        "| form | clips | exposures right | clean clips with findings | centre median | centre 95 % |",
        "| --- | ---: | ---: | ---: | ---: | ---: |",
    ]
    for form in forms:
        own = [r for r in results if r.form == form]
        off = np.concatenate([r.centre_px for r in own])
        lines.append(
            f"| {form} | {len(own)} | {sum(r.exact for r in own)} | {sum(r.findings > 0 for r in own)} | "
            f"{np.median(off):.2f} px | {np.percentile(off, 95):.2f} px |"
        )
    return "\n".join(lines)
