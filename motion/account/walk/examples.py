"""For each fault a walk as it belongs, the same with the fault, and what the checks tell of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache
from types import MappingProxyType

import numpy as np

from motion.account.example import STRICTNESS, Example
from motion.analysis import of_plan
from motion.brief import Brief, Stride, WalkBrief
from motion.exercises.walk.feel import plan_of
from motion.exercises.walk.plan import Plan
from motion.findings import Finding
from motion.synth.walk.faults import FAULTS

TIMES = 2.5
"""Examples are off by so many times the tolerance, so that the eye sees it."""
SEEDS = 60
SIZE = (640, 360)
USUAL = Stride(start_x=320, ground=310, leg=140, body=90, step=100, frames=12, steps=4, rise=8, lift=12, bend=0.04)
ACROSS = replace(USUAL, start_x=90, step=96)
WHOLE = replace(USUAL, leg=120, body=74, step=90, arms=26)
OF_WHOLE = ("spacing.even", "timing.opposite")
_STRIDES: Mapping[str, Stride] = MappingProxyType(
    {
        "spacing.even": WHOLE,
        "spacing.surges": ACROSS,
        "spacing.pops": replace(USUAL, bend=0.004, step=110),
        "timing.limps": replace(USUAL, frames=14, steps=5),
        "timing.opposite": WHOLE,
    }
)
_ASKED: Mapping[str, tuple[Stride, Stride, Brief]] = MappingProxyType(
    {
        "timing.exposure": (USUAL, USUAL, Brief(exposure="twos", asked=WalkBrief())),
        "timing.length": (USUAL, replace(USUAL, steps=2), Brief(frames=(40, 60), asked=WalkBrief())),
        "arc.rise": (USUAL, replace(USUAL, rise=3), Brief(asked=WalkBrief(rise_share=(0.05, 0.08)))),
        "form.bend": (USUAL, replace(USUAL, bend=0.1), Brief(asked=WalkBrief(knee_degrees=(20.0, 36.0)))),
        "form.lean": (replace(USUAL, lean=9), USUAL, Brief(asked=WalkBrief(lean_degrees=(7.0, 14.0)))),
        "timing.arms": (
            WHOLE,
            replace(WHOLE, arms=0),
            Brief(asked=WalkBrief(figure="whole", arm_swing="opposite")),
        ),
        "timing.tempo": (USUAL, replace(USUAL, frames=16), Brief(asked=WalkBrief(step_frames=(11.0, 13.0)))),
    }
)


@lru_cache(maxsize=64)
def example(code: str) -> Example:
    """The example of a fault. Raises KeyError for a code that is not in the catalogue."""
    right, wrong, brief = _as_asked(code) if code in _ASKED else _planted(code)
    (finding,) = [f for f in _told(wrong, brief) if f.code == code][:1]
    allowed = {str(s): _allowed(wrong, replace(brief, strictness=s), code) for s in STRICTNESS}
    return Example(
        right=right,
        wrong=wrong,
        finding=finding,
        allowed=MappingProxyType({s: v for s, v in allowed.items() if v is not None}),
    )


def _allowed(plan: Plan, brief: Brief, code: str) -> float | None:
    found = next((f for f in _told(plan, brief) if f.code == code), None)
    return found.tolerance if found else None


def _plan(stride: Stride, brief: Brief) -> Plan:
    return plan_of(replace(brief, canvas=SIZE, frames=None, guide=stride))


def _planted(code: str) -> tuple[Plan, Plan, Brief]:
    """The first way of planting the fault that is told as that fault and nothing else."""
    stride = _STRIDES.get(code, USUAL)
    brief = Brief(
        loop=code == "timing.loop",
        asked=WalkBrief(
            figure="whole" if code in OF_WHOLE else "legs", path="across" if code == "spacing.surges" else "in_place"
        ),
    )
    right = _plan(stride, brief)
    for seed in range(SEEDS):
        wrong = FAULTS[code](right, np.random.default_rng(seed), TIMES)
        if wrong is not None and {f.code for f in _told(wrong, brief)} == {code}:
            return right, wrong, brief
    raise KeyError(code)


def _as_asked(code: str) -> tuple[Plan, Plan, Brief]:
    right, wrong, brief = _ASKED[code]
    if code != "timing.exposure":
        return _plan(right, brief), _plan(wrong, brief), brief
    twos = _plan(right, brief)
    some = {i: replace(twos.poses[i], frames=1) for i in (3, 4, 5)}
    return twos, replace(twos, poses=tuple(some.get(i, p) for i, p in enumerate(twos.poses))), brief


def _told(plan: Plan, brief: Brief) -> tuple[Finding, ...]:
    return of_plan(plan, brief).findings
