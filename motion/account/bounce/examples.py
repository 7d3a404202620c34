"""For each fault a bounce as it belongs, the same bounce with the fault, and what the checks tell of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache
from types import MappingProxyType

import numpy as np

from motion.account.example import STRICTNESS, Example
from motion.analysis import of_plan
from motion.brief import BounceBrief, Brief, Material
from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.findings import Finding
from motion.physics import GRAVITY
from motion.synth.bounce.faults import FAULTS

TIMES = 2.5
"""Examples are off by so many times the tolerance, so that the eye sees it."""
SEEDS = 40

USUAL = Recipe(width=640, height=360, diameter=44.0, ground_y=310.0, drop_px=220.0, start_x=70.0, speed_x=13.0)
_HARD = replace(USUAL, stretch=1.0, squash=1.0)
_SLOW = replace(USUAL, fall_frames=9.4, speed_x=10.0)
_RECIPES: Mapping[str, Recipe] = MappingProxyType(
    {
        "arc.straight": _SLOW,
        "shape.unwanted": _HARD,
        "spacing.dead_stop": replace(USUAL, end="rest", rest=6, kept=(0.8, 0.78), start_x=60.0),
        "spacing.even": replace(_SLOW, speed_x=8.0),
        "spacing.faster_rising": replace(_SLOW, speed_x=8.0),
        "spacing.slower_falling": replace(_SLOW, speed_x=8.0),
        "timing.loop": replace(USUAL, kept=(1.0, 1.0), speed_x=0.0, start_x=320.0, end="cycle"),
        "timing.rhythm": replace(USUAL, diameter=24.0, drop_px=260.0, fall_frames=9.4, kept=(0.86,) * 4, speed_x=6.5),
    }
)


@lru_cache(maxsize=64)
def example(code: str) -> Example:
    """The example of a fault. Raises KeyError for a code that is not in the catalogue."""
    right, wrong, brief = _as_asked(code) if code in _ASKED else _planted(code)
    (finding,) = [f for f in _told(wrong, brief) if f.code == code]
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


def _planted(code: str) -> tuple[Plan, Plan, Brief]:
    """The first way of planting the fault that is told as that fault and nothing else."""
    right = bounce(_RECIPES.get(code, USUAL))
    material: Material = "hard" if right.recipe.stretch == 1 else "soft"
    brief = Brief(loop=right.recipe.end == "cycle", asked=BounceBrief(material=material))
    for seed in range(SEEDS):
        planted = FAULTS[code](right, np.random.default_rng(seed), TIMES)
        if planted is not None and [f.code for f in _told(planted[0], brief)] == [code]:
            return right, planted[0], brief
    raise KeyError(code)


def _asked(**bounce_values: object) -> Brief:
    return Brief(asked=BounceBrief(**bounce_values))  # type: ignore[arg-type]


_ASKED: Mapping[str, tuple[Recipe, Recipe, Brief]] = MappingProxyType(
    {
        "timing.exposure": (replace(USUAL, exposure=2, speed_x=6.5, fall_frames=10.0), USUAL, Brief(exposure="twos")),
        "timing.length": (USUAL, replace(USUAL, kept=(0.8,)), Brief(frames=(36, 60))),
        "timing.hops": (USUAL, replace(USUAL, kept=(0.8, 0.78)), _asked(hops=3)),
        "timing.bounciness": (USUAL, replace(USUAL, kept=(0.93,) * 3), _asked(restitution=(0.74, 0.84))),
        "timing.weight": (
            replace(USUAL, fall_frames=8.0),
            replace(USUAL, fall_frames=12.0, speed_x=9.0),
            Brief(),
        ),
    }
)


def _as_asked(code: str) -> tuple[Plan, Plan, Brief]:
    right, wrong, brief = _ASKED[code]
    if code == "timing.weight":
        # The size at which the bounce as it belongs falls as a real ball does.
        real = GRAVITY * right.diameter / right.fps**2 / right.gravity
        brief = _asked(diameter_m=real)
    wrong_plan = bounce(wrong)
    if code == "timing.exposure":
        air = [i for i, p in enumerate(bounce(right).poses) if p.role == "air" and p.hop == 1]
        twos = bounce(right)
        single = {i: replace(twos.poses[i], frames=1) for i in air[1:4]}
        wrong_plan = replace(twos, poses=tuple(single.get(i, p) for i, p in enumerate(twos.poses)))
    return bounce(right), wrong_plan, brief


def _told(plan: Plan, brief: Brief) -> tuple[Finding, ...]:
    return of_plan(plan, brief).findings
