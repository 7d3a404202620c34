"""What the core's tests draw."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from motion.analysis import Analysis, of_plan
from motion.brief import BounceBrief, Brief
from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.synth.bounce.faults import FAULTS, Planted

HARD = Recipe(stretch=1.0, squash=1.0)
HARD_BRIEF = Brief(asked=BounceBrief(material="hard"))
SOFT = Brief(asked=BounceBrief(material="soft"))
RECIPES = {
    "arc.straight": Recipe(fall_frames=9.4),
    "shape.unwanted": HARD,
    "spacing.dead_stop": Recipe(end="rest", rest=6, start_x=60.0),
    "spacing.even": Recipe(drop_px=330.0, fall_frames=10.3, speed_x=6.0),
    "timing.loop": Recipe(kept=(1.0, 1.0), speed_x=0.0, start_x=480.0, end="cycle"),
    "timing.rhythm": Recipe(diameter=36.0, drop_px=370.0, fall_frames=9.4, kept=(0.86,) * 4, speed_x=9.0),
}
"""The bounces that have room for a fault, where the usual one has not."""


def judged(plan: Plan, brief: Brief = SOFT) -> Analysis:
    """The checks on a plan as perfectly measured."""
    return of_plan(plan, brief)


def with_fault(code: str, times: float, recipe: Recipe | None = None) -> tuple[Plan, Planted]:
    """A plan with a fault at so many times its tolerance."""
    plan = bounce(recipe or RECIPES.get(code, Recipe()))
    for seed in range(60):
        planted = FAULTS[code](plan, np.random.default_rng(seed), times)
        if planted is not None:
            return planted
    raise AssertionError(f"no place for {code}")


def brief_for(code: str) -> Brief:
    """The brief under which a fault is one."""
    return replace(HARD_BRIEF if code == "shape.unwanted" else SOFT, loop=code == "timing.loop")


def codes(result: Analysis) -> list[str]:
    return [f.code for f in result.findings]
