"""Clips drawn exactly over a guide, which must come back without a finding."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from multiprocessing import get_context

from motion.analysis import analyse
from motion.brief import Brief
from motion.synth.bounce.over_guide import clip_over, every_guide
from motion.synth.look import LOOKS

SIZE = (960, 540)
DRAWN_IN = ("clean", "pencil", "marker", "scan", "no ground", "harbour")


def told(job: tuple[str, Brief, str]) -> tuple[str, str, list[str], list[str]]:
    """Look, name, codes of findings and of preflight notes of one clip."""
    name, brief, look = job
    found = analyse(clip_over(brief, LOOKS[look], 5), replace(brief, guide=None))
    return look, name, [f.code for f in found.findings], [n.code for n in found.preflight]


def table(quick: bool) -> str:
    """How many clips over a guide got findings or notes, by look."""
    looks = DRAWN_IN[:1] if quick else DRAWN_IN
    jobs = [(name, brief, look) for look in looks for name, brief in every_guide(SIZE)]
    with ProcessPoolExecutor(mp_context=get_context("forkserver")) as pool:
        results = list(pool.map(told, jobs, chunksize=8))
    lines = ["| look | clips | with findings | with notes |", "| --- | ---: | ---: | ---: |"]
    for look in looks:
        own = [r for r in results if r[0] == look]
        lines.append(f"| {look} | {len(own)} | {sum(bool(r[2]) for r in own)} | {sum(bool(r[3]) for r in own)} |")
    lines += [f"{look}, {name}: {', '.join(codes + notes)}" for look, name, codes, notes in results if codes or notes]
    return "\n".join(lines)
