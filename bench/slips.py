"""What students forget when they export: how often it is told, and how well the ball is found."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context

import numpy as np

from bench.accuracy import WIDEST
from motion.analysis import analyse
from motion.synth.bounce import draw
from motion.synth.bounce.cases import random_case
from motion.synth.bounce.slips import SLIPS, Slip
from motion.synth.draw import of_pictures

START = 9_500_001
FILE_CODES = ("preflight.file", "preflight.rate", "preflight.size", "preflight.length")


@dataclass(frozen=True, slots=True, kw_only=True)
class Result:
    """One clip: whether its slip was told on its frames, other codes that were told, findings, and errors in px."""

    code: str
    told: bool
    others: tuple[str, ...]
    findings: int
    centre_px: np.ndarray


def measure(job: tuple[str, int]) -> Result:
    """Draw a clean clip with a slip (none for "clean"), analyse it, and compare."""
    code, seed = job
    case = random_case(seed)
    slip = SLIPS[code](case.plan, np.random.default_rng(seed)) if code in SLIPS else None
    if slip and code == "preflight.background_drops" and case.look.ground == "none" and not case.look.scenery:
        # Nothing is behind this ball that could be missing.
        return measure((code, seed + 1_000_000))
    drawn = list(draw.frames(case.plan, case.look, seed, slip))
    recipe = case.plan.recipe
    found = analyse(of_pictures(drawn, recipe.fps), case.brief)
    due = {"preflight.drift"} if case.look.drift else set()
    return Result(
        code=code,
        told=slip is None or any(_is(n.code, n.first_frame, n.last_frame, slip) for n in found.preflight),
        others=tuple(n.code for n in found.preflight if n.code not in (code, *due, *FILE_CODES)),
        findings=len(found.findings),
        centre_px=np.array(
            [
                min(1.0, WIDEST / recipe.width) * float(np.hypot(s.x - p.x, s.y - p.y))
                for i, p in enumerate(case.plan.poses)
                if not (slip and slip.blanks(case.plan, i))
                for s in [_shape_on(found.track, case.plan.first_frame(i))]
                if s is not None and not s.clipped
            ]
        ),
    )


def _shape_on(track, frame: int):  # type: ignore[no-untyped-def]
    exposure = next((e for e in track.exposures if e.first_frame <= frame <= e.last_frame), None)
    return track.shape_of(exposure.drawing) if exposure else None


def _is(code: str, first: int, last: int, slip: Slip) -> bool:
    return code == slip.code and first <= slip.last_frame + 1 and last >= slip.first_frame - 1


def table(count: int) -> str:
    """A row a slip."""
    codes = ["clean", *SLIPS]
    jobs = [(code, START + i) for code in codes for i in range(count)]
    with ProcessPoolExecutor(mp_context=get_context("forkserver")) as pool:
        results = list(pool.map(measure, jobs, chunksize=4))
    lines = [
        "| slip | clips | told on its frames | with other notes | with findings | centre median | 95 % |",
        "| --- | ---: | ---: | ---: | ---: | ---: | ---: |",
    ]
    for code in codes:
        own = [r for r in results if r.code == code]
        off = np.concatenate([r.centre_px for r in own])
        lines.append(
            f"| {code} | {len(own)} | {sum(r.told for r in own) if code in SLIPS else ''} | "
            f"{sum(bool(r.others) for r in own)} | {sum(r.findings > 0 for r in own)} | "
            f"{np.median(off):.2f} px | {np.percentile(off, 95):.2f} px |"
        )
    return "\n".join(lines)
