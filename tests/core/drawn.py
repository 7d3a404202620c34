"""What the core's tests draw."""

from __future__ import annotations

import numpy as np

from motion.analysis import Analysis, judge
from motion.brief import BounceBrief, Brief
from motion.clip import Clip, Unseen
from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.exercises.bounce.truth import track_of
from motion.synth.faults import FAULTS, Planted

HARD = Recipe(stretch=1.0, squash=1.0)
SOFT = Brief(bounce=BounceBrief(material="soft"))


def judged(plan: Plan, brief: Brief = SOFT) -> Analysis:
    """The checks on a plan as perfectly measured."""
    clip = Clip(
        name="exact",
        fps=plan.recipe.fps,
        width=plan.recipe.width,
        height=plan.recipe.height,
        footage=Unseen(),
        picture_frames=tuple(p.frames for p in plan.poses),
    )
    return judge(clip, brief, track_of(plan))


def with_fault(code: str, times: float, recipe: Recipe | None = None) -> tuple[Plan, Planted]:
    """A plan with a fault at so many times its tolerance."""
    plan = bounce(recipe or (HARD if code == "shape.unwanted" else Recipe()))
    for seed in range(60):
        planted = FAULTS[code](plan, np.random.default_rng(seed), times)
        if planted is not None:
            return planted
    raise AssertionError(f"no place for {code}")


def brief_for(code: str) -> Brief:
    """The brief under which a fault is one."""
    return Brief(bounce=BounceBrief(material="hard")) if code == "shape.unwanted" else SOFT


def codes(result: Analysis) -> list[str]:
    return [f.code for f in result.findings]
