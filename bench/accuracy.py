"""Recall per fault, false findings on clean clips, and errors in px, on clips drawn at random from known truth.

A fault counts as found when a finding of its own code lies within one frame of where it was planted. A finding of
any other code, or of that code elsewhere, is a collateral one.
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from motion.analysis import Analysis, analyse
from motion.brief.model import STRICTNESS_SCALE, Strictness
from motion.synth.bounce.cases import Case, NoRoomError, clip_of, random_case
from motion.synth.bounce.faults import FAULTS, Planted

PLACED_AT = 2.5
"""Faults are planted at so many times their tolerance."""
WIDEST = 960
"""Frames wider than this are scaled down to it before errors are told in px."""


GRADES = {"slight": 1.5, "clear": 2.5, "strong": 5.0}
"""At how many times its tolerance a fault is planted to be of a severity."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """One case to measure: a seed, a fault (none: clean), how far off, and how strictly the brief is marked."""

    seed: int
    code: str | None
    times: float = PLACED_AT
    strictness: Strictness = "standard"


@dataclass(frozen=True, slots=True, kw_only=True)
class Result:
    """What became of one case: errors are (drawings,) arrays against the truth."""

    job: Job
    seed: int
    code: str | None
    look: str
    exact: bool
    hit: bool
    others: tuple[tuple[str, int, int, str], ...]
    centre_px: np.ndarray
    axis_share: np.ndarray
    lost: int


def measure(job: Job) -> Result:
    """Draw the case of a job, analyse it, and compare."""
    brief_scale = STRICTNESS_SCALE[job.strictness]
    case = random_case(job.seed, job.code, job.times * brief_scale)
    result = analyse(clip_of(case), replace(case.brief, strictness=job.strictness))
    found = [(f.code, f.first_frame, f.last_frame, f.severity) for f in result.findings]
    own = [f for f in found if case.planted and _is(f, case.planted)]
    centre, axes, lost = _errors(case, result)
    return Result(
        job=job,
        seed=job.seed,
        code=job.code,
        look=case.look.name,
        exact=[(e.first_frame, e.frames) for e in result.track.exposures] == truth_of(case),
        hit=bool(own),
        others=tuple(f for f in found if f not in own),
        centre_px=centre,
        axis_share=axes,
        lost=lost,
    )


def _is(found: tuple[str, int, int, str], planted: Planted) -> bool:
    code, first, last, _ = found
    return code == planted.code and first <= planted.last_frame + 1 and last >= planted.first_frame - 1


def truth_of(case: Case) -> list[tuple[int, int]]:
    """(first frame, frames) of each exposure; neighbouring poses that are drawn alike are one."""
    found: list[tuple[int, int]] = []
    last = None
    for i, pose in enumerate(case.plan.poses):
        alike = last is not None and replace(pose, frames=1, role=last.role) == replace(last, frames=1)
        # Grain alone makes no other drawing.
        if alike and not (case.look.wobble or case.look.jitter):
            found[-1] = (found[-1][0], found[-1][1] + pose.frames)
        else:
            found.append((case.plan.first_frame(i), pose.frames))
        last = pose
    return found


def _errors(case: Case, result: Analysis) -> tuple[np.ndarray, np.ndarray, int]:
    """Centre errors px, the axes' errors as shares, and how many drawings were not measured."""
    scale = max(1.0, case.plan.recipe.width / WIDEST)
    centre, axes, lost = [], [], 0
    by_frame = {e.first_frame: result.track.shape_of(e.drawing) for e in result.track.exposures}
    for index, pose in enumerate(case.plan.poses):
        shape = by_frame.get(case.plan.first_frame(index))
        if shape is None:
            lost += 1
        elif not shape.clipped:
            centre.append(np.hypot(shape.x - pose.x, shape.y - pose.y) / scale)
            axes += [abs(shape.major / pose.major - 1), abs(shape.minor / pose.minor - 1)]
    return np.array(centre), np.array(axes), lost


def run(count: int, clean: int, codes: Sequence[str], start: int, workers: int = 2) -> list[Result]:
    """Measure so many faulty clips a code and so many clean ones."""
    jobs = [Job(seed=start + i, code=None) for i in range(clean)]
    for k, code in enumerate(codes, start=1):
        jobs += [Job(seed=start + 10_000 * k + i, code=code) for i in range(count)]
    return run_jobs(jobs, workers)


def run_jobs(jobs: Sequence[Job], workers: int = 2) -> list[Result]:
    """Measure these cases, but for those of which no bounce has room for the fault."""
    with ProcessPoolExecutor(workers) as pool:
        return [r for r in pool.map(_measure_if_room, jobs, chunksize=4) if r is not None]


def _measure_if_room(job: Job) -> Result | None:
    try:
        return measure(job)
    except NoRoomError:
        return None


def table(results: Iterable[Result]) -> str:
    """The figures as a Markdown table and a few lines."""
    results = list(results)
    rows = ["| code | clips | found | recall | collateral |", "| --- | ---: | ---: | ---: | ---: |"]
    by_code: dict[str, list[Result]] = defaultdict(list)
    for r in results:
        if r.code:
            by_code[r.code].append(r)
    for code, own in sorted(by_code.items()):
        hits = sum(r.hit for r in own)
        aside = sum(len(r.others) for r in own)
        rows.append(f"| `{code}` | {len(own)} | {hits} | {100 * hits / len(own):.0f} % | {aside} |")
    clean = [r for r in results if r.code is None]
    lines = ["\n".join(rows), ""]
    if clean:
        false = Counter(code for r in clean for code, *_ in r.others)
        lines.append(f"False findings on {len(clean)} clean clips: {sum(false.values())} {dict(false) or ''}".rstrip())
    centre = np.concatenate([r.centre_px for r in results])
    axes = np.concatenate([r.axis_share for r in results])
    lines.append(
        f"Centre: median {np.median(centre):.2f} px, 95 % within {np.percentile(centre, 95):.2f} px. "
        f"Axes: median {100 * np.median(axes):.1f} %. Drawings not measured: {sum(r.lost for r in results)} of "
        f"{len(centre) + sum(r.lost for r in results)}. Exposures right in {sum(r.exact for r in results)} of "
        f"{len(results)} clips."
    )
    lines += [
        "",
        "| look | clips | missed | others | centre median | centre 95 % |",
        "| --- | ---: | ---: | ---: | ---: | ---: |",
    ]
    looks: dict[str, list[Result]] = defaultdict(list)
    for r in results:
        looks[r.look].append(r)
    for name, own in sorted(looks.items()):
        px = np.concatenate([r.centre_px for r in own])
        missed = sum(not r.hit for r in own if r.code)
        rest = sum(len(r.others) for r in own)
        lines.append(
            f"| {name} | {len(own)} | {missed} | {rest} | {np.median(px):.2f} px | {np.percentile(px, 95):.2f} px |"
        )
    return "\n".join(lines)


def main() -> None:
    """Measure and print; ``--list`` also names the clips that went wrong."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=40, help="faulty clips a code")
    parser.add_argument("--clean", type=int, default=150, help="clean clips")
    parser.add_argument("--start", type=int, default=1, help="first seed")
    parser.add_argument("--code", action="append", choices=sorted(FAULTS), help="only these codes")
    parser.add_argument("--list", action="store_true", help="name each clip that went wrong")
    options = parser.parse_args()
    results = run(options.count, options.clean, options.code or sorted(FAULTS), options.start)
    print(table(results))
    if options.list:
        for r in results:
            if (r.code and not r.hit) or r.others or r.lost or not r.exact:
                print(
                    r.seed,
                    r.code,
                    r.look,
                    "hit" if r.hit else "MISS" if r.code else "clean",
                    r.others,
                    r.lost,
                    r.exact,
                    file=sys.stdout,
                )


if __name__ == "__main__":
    main()
