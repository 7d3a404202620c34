"""Recall and other findings by severity and by strictness, with clean clips marked gently and strictly."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from bench.accuracy import GRADES, PLACED_AT, Job, Result, run_jobs
from motion.account.example import STRICTNESS
from motion.synth.bounce.faults import FAULTS


def table(count: int, clean: int, start: int) -> str:
    """Tables by severity and by strictness: ``count`` clips a fault and column, ``clean`` clips a strictness."""
    codes = sorted(FAULTS)
    graded = {
        grade: run_jobs(_jobs(codes, count, start + 1_000_000 * k, times=times))
        for k, (grade, times) in enumerate(GRADES.items())
    }
    marked = {
        str(strictness): run_jobs(
            [
                *_jobs(codes, count, start + 5_000_000 + 1_000_000 * k, strictness=strictness),
                *(Job(seed=start + 9_000_000 + i, code=None, strictness=strictness) for i in range(clean)),
            ]
        )
        for k, strictness in enumerate(STRICTNESS)
    }
    times = ", ".join(f"{t:g}" for t in GRADES.values())
    return "\n\n".join(
        [
            f"By severity: faults at {times} times their tolerance; found and, after it, other findings.",
            _rows(codes, graded),
            f"By strictness: faults at {PLACED_AT:g} times what that strictness allows.",
            _rows(codes, marked),
            _clean(marked),
        ]
    )


def _jobs(codes: Sequence[str], count: int, start: int, **how: object) -> list[Job]:
    return [
        Job(seed=start + 10_000 * k + i, code=code, **how)  # type: ignore[arg-type]
        for k, code in enumerate(codes)
        for i in range(count)
    ]


def _rows(codes: Sequence[str], columns: dict[str, list[Result]]) -> str:
    lines = [f"| code | {' | '.join(columns)} |", "| --- |" + " ---: |" * len(columns)]
    for code in codes:
        cells = []
        for results in columns.values():
            own = [r for r in results if r.code == code]
            found = f"{100 * sum(r.hit for r in own) / len(own):.0f} %" if own else "no room"
            cells.append(f"{found} / {sum(len(r.others) for r in own)}")
        lines.append(f"| `{code}` | {' | '.join(cells)} |")
    every = [[r for r in results if r.code] for results in columns.values()]
    cells = [f"{100 * sum(r.hit for r in own) / len(own):.1f} % / {sum(len(r.others) for r in own)}" for own in every]
    return "\n".join([*lines, f"| all | {' | '.join(cells)} |"])


def _clean(marked: dict[str, list[Result]]) -> str:
    lines = []
    for strictness, results in marked.items():
        own = [r for r in results if r.code is None]
        false = Counter(code for r in own for code, *_ in r.others)
        lines.append(f"{len(own)} clean clips marked {strictness}: {sum(false.values())} findings {dict(false) or ''}")
    return "\n".join(line.rstrip() for line in lines)
