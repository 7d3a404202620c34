"""A clip to look at, from a seed: a motion that varies one of those to start from, clean or with one fault planted.

It is drawn only where the checks find nothing in the motion itself, and in the one with the fault that fault alone:
what a person is asked to see is there, and nothing else is.
"""

from __future__ import annotations

import zlib
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from motion.analysis import of_plan
from motion.brief import Brief, declare
from motion.errors import BriefError
from motion.exercises import EXERCISES, exercise_of
from motion.exercises.exercise import start_from
from motion.findings import Finding
from motion.plan import Plan
from motion.synth import plant

SIZE = (640, 360)
MOST_FRAMES = 120
"""A clip that takes longer than some seconds is watched for something else."""
TRIED, LOOKED_AT = 400, 60
"""So many motions are drawn at most, and so many of them judged."""
PLAIN = ("clean", "cel", "outline", "cut-out")
BUSY = ("harbour", "night", "pencil", "scan", "hatched", "photographed")
LENGTHS, PLACES, OTHERS = 0.15, 0.05, 0.12
"""By such shares lengths, places and all else of a motion to start from are varied."""


class NoRoomError(ValueError):
    """No motion was found that has room for a fault of that size, and shows it alone."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """A clip to look at: its motion as it belongs and as it is shown, and its fault as the checks tell it, or none."""

    seed: int
    brief: Brief
    right: Plan
    shown: Plan
    finding: Finding | None
    look: str


def clip_of(seed: int, exercise: str, code: str | None = None, times: float = 2.5, *, busy: bool = False) -> Looked:
    """The clip of a seed: clean, or with a fault of that code at so many times its tolerance. Raises NoRoomError."""
    rng = np.random.default_rng([seed, zlib.crc32(f"{exercise} {code}".encode())])
    if code is None:
        return motion_of(rng, seed, exercise, busy=busy)
    looked_at = 0
    for _ in range(TRIED):
        brief = _varied(rng, exercise)
        plan = _drawn(brief)
        wrong = plant.planted(exercise, code, plan, rng, times) if plan is not None else None
        if plan is None or wrong is None:
            continue
        looked_at += 1
        found = of_plan(wrong, brief).findings
        if [f.code for f in found] == [code] and not of_plan(plan, brief).findings:
            look = _look(rng, exercise, busy=busy)
            return Looked(seed=seed, brief=brief, right=plan, shown=wrong, finding=found[0], look=look)
        if looked_at == LOOKED_AT:
            break
    raise NoRoomError(f"no motion has room for {code} at {times:g} times its tolerance, and shows it alone")


def motion_of(rng: np.random.Generator, seed: int, exercise: str, *, busy: bool) -> Looked:
    """Any clean motion. Raises NoRoomError where none of many is, which is as good as impossible."""
    for _ in range(TRIED):
        brief = _varied(rng, exercise)
        plan = _drawn(brief)
        if plan is not None and not of_plan(plan, brief).findings:
            look = _look(rng, exercise, busy=busy)
            return Looked(seed=seed, brief=brief, right=plan, shown=plan, finding=None, look=look)
    raise NoRoomError(f"no {exercise} was found in which there is nothing to find")


def _varied(rng: np.random.Generator, exercise: str) -> Brief:
    left_out = plant.left_out(exercise)
    presets = [p for p in EXERCISES[exercise].guided.presets if p.key not in left_out]
    preset = presets[int(rng.integers(len(presets)))]
    brief = start_from(preset, Brief(canvas=SIZE, asked=preset.asked))
    return replace(brief, guide=_moved(rng, brief.guide), loop=getattr(brief.guide, "end", "") == "cycle")


def _moved(rng: np.random.Generator, ideal: Any) -> Any:
    """An ideal with all its numbers a little different, within what each may be."""
    changed = dict[str, float]()
    for name, declared, _ in declare.declared_of(type(ideal)):
        value = getattr(ideal, name)
        if declared.kind not in ("number", "whole") or value is None or isinstance(value, bool):
            continue
        share = {"fit": LENGTHS, "x": PLACES, "y": PLACES}.get(declared.px, OTHERS)
        told = min(declared.high, max(declared.low, value * float(rng.uniform(1 - share, 1 + share))))
        changed[name] = round(told) if declared.kind == "whole" else round(told, 3)
    return replace(ideal, **changed)


def _look(rng: np.random.Generator, exercise: str, *, busy: bool) -> str:
    return str(rng.choice([look for look in (BUSY if busy else PLAIN) if look not in plant.unfit(exercise)]))


def _drawn(brief: Brief) -> Plan | None:
    """Its motion as drawings; None where it cannot be drawn, or takes too long."""
    try:
        plan: Plan = exercise_of(brief).guided.plan(brief)
    except BriefError:
        return None
    return plan if plan.frames <= MOST_FRAMES else None
