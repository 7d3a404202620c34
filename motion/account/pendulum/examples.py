"""For each fault a pendulum as it belongs, the same with the fault, and what the checks tell of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache
from types import MappingProxyType

import numpy as np

from motion.account.example import STRICTNESS, Example
from motion.analysis import of_plan
from motion.brief import Brief, PendulumBrief, Swing
from motion.exercises.pendulum.feel import plan_of
from motion.exercises.pendulum.plan import Plan
from motion.findings import Finding
from motion.synth.pendulum.faults import FAULTS

TIMES = 2.5
"""Examples are off by so many times the tolerance, so that the eye sees it."""
SEEDS = 40
SIZE = (640, 360)
USUAL = Swing(pivot_x=320, pivot_y=30, length=240, size=44, angle=-36, count=5, keeps=0.93, swing_s=0.6)
_SWINGS: Mapping[str, Swing] = MappingProxyType(
    {
        "timing.loop": replace(USUAL, end="cycle", keeps=1.0),
        "arc.lopsided": replace(USUAL, angle=-24),
        "arc.rising_swings": replace(USUAL, angle=-26, count=6, keeps=0.97),
        "spacing.off_middle": replace(USUAL, swing_s=0.9),
    }
)
_ASKED: Mapping[str, tuple[Swing, Swing, Brief]] = MappingProxyType(
    {
        "timing.exposure": (USUAL, USUAL, Brief(exposure="twos", asked=PendulumBrief())),
        "timing.length": (USUAL, replace(USUAL, count=2), Brief(frames=(60, 90), asked=PendulumBrief())),
        "timing.swings": (USUAL, replace(USUAL, count=3), Brief(asked=PendulumBrief(swings=5))),
        "timing.damping": (USUAL, replace(USUAL, keeps=0.78), Brief(asked=PendulumBrief(keeps=(0.88, 0.96)))),
        "timing.weight": (USUAL, replace(USUAL, swing_s=1.2), Brief(asked=PendulumBrief(length_m=0.36))),
    }
)
_CHAIN = replace(USUAL, keeps=1.0, count=3, wide=14.0)
_CHAINS: Mapping[str, Swing] = MappingProxyType(
    {
        "contact.joint": replace(_CHAIN, wide=8.0),
        "overlap.stiff": _CHAIN,
        "overlap.leads": _CHAIN,
        "overlap.stops_together": replace(_CHAIN, keeps=0.7, end="settling"),
    }
)
"""What only a chain shows."""


@lru_cache(maxsize=64)
def example(code: str) -> Example:
    """The example of a fault. Raises KeyError for a code that is not in the catalogue."""
    right, wrong, brief = _pair(code)
    (finding,) = [f for f in _told(wrong, brief) if f.code == code]
    allowed = {str(s): _allowed(wrong, replace(brief, strictness=s), code) for s in STRICTNESS}
    return Example(
        right=right,
        wrong=wrong,
        finding=finding,
        allowed=MappingProxyType({s: v for s, v in allowed.items() if v is not None}),
    )


def _pair(code: str) -> tuple[Plan, Plan, Brief]:
    """A swing as it belongs, one with the fault, and the brief under which both are judged."""
    return (_as_asked if code in _ASKED else _planted)(code)


def _allowed(plan: Plan, brief: Brief, code: str) -> float | None:
    found = next((f for f in _told(plan, brief) if f.code == code), None)
    return found.tolerance if found else None


def _plan(swing: Swing, brief: Brief | None = None) -> Plan:
    brief = brief or Brief(asked=PendulumBrief())
    return plan_of(replace(brief, canvas=SIZE, frames=None, guide=swing))


def _planted(code: str) -> tuple[Plan, Plan, Brief]:
    """The first way of planting the fault that is told as that fault and nothing else."""
    swing = _SWINGS.get(code) or _CHAINS.get(code, USUAL)
    asked = PendulumBrief(hangs="chain") if code in _CHAINS else PendulumBrief()
    brief = Brief(loop=swing.end == "cycle", asked=asked)
    right = _plan(swing, brief)
    for seed in range(SEEDS):
        wrong = FAULTS[code](right, np.random.default_rng(seed), TIMES)
        if wrong is not None and [f.code for f in _told(wrong, brief)] == [code]:
            return right, wrong, brief
    raise KeyError(code)


def _as_asked(code: str) -> tuple[Plan, Plan, Brief]:
    right, wrong, brief = _ASKED[code]
    if code != "timing.exposure":
        return _plan(right), _plan(wrong), brief
    twos = _plan(right, brief)
    some = {i: replace(twos.poses[i], frames=1) for i in (3, 4, 5)}
    return twos, replace(twos, poses=tuple(some.get(i, p) for i, p in enumerate(twos.poses))), brief


def _told(plan: Plan, brief: Brief) -> tuple[Finding, ...]:
    return of_plan(plan, brief).findings
