"""One fault, one explanation: is it a drawing that lies off, or a whole rise or fall that is spaced wrongly?"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from motion.exercises.bounce import patterns, smooth
from motion.exercises.bounce.patterns import Pattern
from motion.exercises.bounce.reading import Hop, Reading
from motion.exercises.bounce.smooth import Misfit, Misplaced, Run, Tolerances

LEAST_AIR = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What is wrong with one hop's spacing and arc: patterns by side, and single drawings by step index."""

    hop: Hop
    patterns: tuple[Pattern, ...]
    off: dict[int, Misfit]


def explain(reading: Reading, leniency: float, width: int, gravity: float | None) -> list[Verdict]:
    """A verdict for every hop that is high enough to be judged. ``width`` is the frame's, px."""
    allowed = smooth.tolerances(reading.diameter, leniency, width, reading.in_place)
    return [_verdict(reading, hop, allowed, leniency, gravity) for hop in reading.hops if _judged(reading, hop)]


def _judged(reading: Reading, hop: Hop) -> bool:
    from motion.exercises.bounce.reading import LEAST_HOP_D

    return reading.steps[hop.top].height >= LEAST_HOP_D * reading.diameter and len(hop.air) >= 2


def _verdict(reading: Reading, hop: Hop, allowed: Tolerances, leniency: float, gravity: float | None) -> Verdict:
    run = _run(reading, hop)
    points = run.points
    raw = patterns.find(reading, hop, points, leniency, gravity)
    single = smooth.misplaced(run, allowed) if len(points) >= LEAST_AIR else Misplaced(off={}, clean=True)
    mended = points.copy()
    for i, misfit in single.off.items():
        mended[i] = misfit.place
    left = patterns.find(reading, hop, mended, leniency, gravity) if single.off else raw
    held = [p for p in raw if _pattern_stands(p, left, single)]
    if not held:
        return Verdict(hop=hop, patterns=(), off={hop.air[i]: m for i, m in single.off.items()})
    off = _beside_patterns(run, hop, held, allowed)
    return Verdict(hop=hop, patterns=tuple(held), off={hop.air[i]: m for i, m in off.items()})


def _run(reading: Reading, hop: Hop) -> Run:
    clocks = (hop.clock,) if np.allclose(hop.clock, hop.frames_clock) else (hop.clock, hop.frames_clock)
    before, after = reading.beside(hop)
    return Run(points=reading.points(hop.air), clocks=clocks, before=before, after=after, halved=reading.by_halves)


def _pattern_stands(pattern: Pattern, left: list[Pattern], single: Misplaced) -> bool:
    """A pattern stands unless one misplaced drawing explains all of it."""
    still_there = any(p.side == pattern.side for p in left)
    own = [i for i in single.off if i in pattern.run]
    return pattern.uniform or still_there or len(own) != 1 or not single.clean


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
