"""One fault, one explanation: is it a drawing that lies off, or a whole rise or fall that is spaced wrongly?"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from motion.exercises.bounce import arc, hang, patterns, smooth
from motion.exercises.bounce.hang import Hang
from motion.exercises.bounce.hops import LEAST_HOP_D, Hop, Reading
from motion.exercises.bounce.patterns import Pattern
from motion.exercises.bounce.sliding import has_moved
from motion.exercises.bounce.smooth import Misfit, Misplaced, Run, Tolerances

LEAST_AIR = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What is wrong with one hop's spacing and arc: patterns by side, and single drawings by step index.

    ``hangs`` is its time about the top where that is too long, ``straight`` how little its legs curve where that is
    too little.
    """

    hop: Hop
    patterns: tuple[Pattern, ...]
    off: dict[int, Misfit]
    hangs: Hang | None = None
    straight: float | None = None


def explain(reading: Reading, leniency: float, width: int, gravity: float | None) -> list[Verdict]:
    """A verdict for every hop that is high enough to be judged. ``width`` is the frame's, px."""
    allowed = smooth.tolerances(reading.diameter, leniency, width, reading.in_place)
    return [_verdict(reading, hop, allowed, leniency, gravity) for hop in reading.hops if _judged(reading, hop)]


def _judged(reading: Reading, hop: Hop) -> bool:
    return reading.steps[hop.top].height >= LEAST_HOP_D * reading.diameter and len(hop.air) >= 2


def _verdict(reading: Reading, hop: Hop, allowed: Tolerances, leniency: float, gravity: float | None) -> Verdict:
    straight = None if reading.in_place else arc.straight_legs(reading, hop, leniency)
    hangs = _hangs(reading, hop, leniency, straight is not None)
    if straight is None:
        held, off = _spacing(reading, hop, allowed, leniency, gravity)
    else:
        # At its pointed top the path is not smooth; each leg still should be.
        held = patterns.find(reading, hop, reading.points(hop.air), leniency, gravity)
        off = _beside_patterns(_run(reading, hop, gravity), hop, held, allowed)
    told = {hop.air[i]: m for i, m in off.items()}
    if hangs is not None:
        told = _but_for_hanging(told, hangs)
    return Verdict(hop=hop, patterns=tuple(held), off=told, hangs=hangs, straight=straight)


def _hangs(reading: Reading, hop: Hop, leniency: float, straight: bool) -> Hang | None:
    """The hop's time about its top where that is too long; on straight legs only holds tell it."""
    measured = hang.measure(reading, hop)
    if measured is None or (straight and measured.held < measured.extra / 2):
        return None
    return measured if measured.extra > measured.allowed(leniency) else None


def _but_for_hanging(off: dict[int, Misfit], hangs: Hang) -> dict[int, Misfit]:
    """Drawings that crowd about a top lie unevenly along the path for that reason; across it they may be off still."""
    crowd = range(hangs.zone[0] - 2, hangs.zone[-1] + 3)
    return {i: replace(m, along=0.0) if i in crowd else m for i, m in off.items()}


def _spacing(
    reading: Reading, hop: Hop, allowed: Tolerances, leniency: float, gravity: float | None
) -> tuple[list[Pattern], dict[int, Misfit]]:
    """Patterns that stand, and single drawings off by index into the hop's air."""
    run = _run(reading, hop, gravity)
    points = run.points
    raw = patterns.find(reading, hop, points, leniency, gravity)
    single = smooth.misplaced(run, allowed) if len(points) >= LEAST_AIR else Misplaced(off={}, clean=True)
    mended = points.copy()
    for i, misfit in single.off.items():
        mended[i] = misfit.place
    left = patterns.find(reading, hop, mended, leniency, gravity) if single.off else raw
    held = [p for p in raw if _pattern_stands(p, left, single, hop.air.index(hop.top))]
    return (held, _beside_patterns(run, hop, held, allowed)) if held else ([], single.off)


def _run(reading: Reading, hop: Hop, gravity: float | None) -> Run:
    clocks = (hop.clock,) if float(np.abs(hop.clock - hop.frames_clock).max()) < 1e-6 else (hop.clock, hop.frames_clock)
    before, after = (
        None if has_moved(reading, contact) else foot
        for foot, contact in zip(reading.beside(hop), (hop.start, hop.end), strict=True)
    )
    return Run(
        points=reading.points(hop.air),
        clocks=clocks,
        before=before,
        after=after,
        halved=reading.by_halves,
        gravity=None if reading.by_halves else gravity,
    )


def _pattern_stands(pattern: Pattern, left: list[Pattern], single: Misplaced, top: int) -> bool:
    """A pattern stands unless one misplaced drawing explains all of it; two even steps, unless that is the ``top``."""
    still_there = any(p.side == pattern.side for p in left)
    own = [i for i in single.off if i in pattern.run]
    if still_there or len(own) != 1 or not single.clean:
        return True
    return pattern.uniform and (own != [top] or len(pattern.gaps) > 2)


def _beside_patterns(run: Run, hop: Hop, held: list[Pattern], allowed: Tolerances) -> dict[int, Misfit]:
    """Single drawings off, each side judged by itself, since a wrong side bends the curve across the top."""
    off: dict[int, Misfit] = {}
    for side in ("rise", "fall"):
        own = patterns.side_run(hop, side)
        pattern = next((p for p in held if p.side == side), None)
        # A wrongly spaced side is explained by its pattern; only its arc is still looked at.
        if len(own) < LEAST_AIR + 1:
            continue
        for i, misfit in smooth.misplaced(run.part(own), allowed).off.items():
            if pattern is None or misfit.arc_ratio > max(1.0, misfit.jump_ratio):
                off[own[i]] = misfit
    return off
