"""Many different clips with known truth: recipes and looks drawn at random from a seed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from motion.brief import BounceBrief, Brief, Material
from motion.clip import Clip
from motion.exercises.bounce.plan import Plan, Recipe, bounce
from motion.synth import draw
from motion.synth.bounce.faults import FAULTS, Planted
from motion.synth.look import LOOKS, Look, random_look

TURNS_THAT_TELL = 3
"""A slope that is not drawn can be told from so many contacts."""
DRAWN_BY_GRAVITY = ("spacing.even", "spacing.faster_rising", "spacing.slower_falling", "timing.hop")
"""Faults of whole sides and hops, which are drawn anew by gravity, so the rest of the clip should be too."""
CYCLES = 0.2
"""How many of the bounces in place that do not come to rest go on for ever."""
OWN_LOOKS = 0.5
"""How many cases are drawn in one of the named looks; the others in looks drawn at random."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Case:
    """One clip to analyse: its plan, look, seed, brief, and the fault planted in it, if any."""

    plan: Plan
    look: Look
    seed: int
    brief: Brief
    planted: Planted | None


class NoRoomError(ValueError):
    """No bounce was found that has room for a fault of that size."""


def clip_of(case: Case) -> Clip:
    """The case as a clip, without the way through a file."""
    return draw.clip("bounce", case.plan, case.look, case.seed)


def random_recipe(rng: np.random.Generator) -> Recipe:
    """A bounce that a first-year student might be set: in place or across, on ones or twos, of any size."""
    width, height = [(640, 360), (800, 600), (960, 540), (1280, 720)][int(rng.integers(4))]
    diameter = float(rng.uniform(0.06, 0.16) * height)
    ground = float(rng.uniform(0.78, 0.9) * height)
    exposure = 2 if rng.random() < 0.25 else 1
    room = ground - 1.2 * diameter
    drop = float(rng.uniform(0.6, 0.9) * room)
    fall = float(rng.uniform(7.0, 10.5)) * (1.5 if exposure == 2 else 1.0)
    kept = tuple(float(k) for k in rng.uniform(0.78, 0.84) + rng.uniform(-0.02, 0.02, int(rng.integers(2, 5))))
    in_place = rng.random() < 0.3
    total = fall * (1 + 2 * sum(float(np.prod(kept[: i + 1])) for i in range(len(kept))))
    speed = 0.0 if in_place else float(rng.uniform(0.55, 0.95)) * (width - 3 * diameter) / total
    material = str(rng.choice(["hard", "firm", "soft"]))
    soft = material == "soft"
    rest = int(rng.integers(4, 9)) if rng.random() < 0.25 else 0
    cycles = in_place and not rest and rng.random() < CYCLES
    return Recipe(
        width=width,
        height=height,
        diameter=diameter,
        ground_y=ground,
        slope=float(rng.uniform(-0.03, 0.03)) if rng.random() < 0.12 else 0.0,
        drop_px=drop,
        fall_frames=fall,
        kept=(1.0,) * (len(kept) - 1) if cycles else kept,
        start_x=width / 2 if in_place else 1.3 * diameter,
        speed_x=speed,
        exposure=exposure,
        stretch=float(rng.uniform(1.2, 1.45)) if soft else 1.0,
        squash=float(rng.uniform(1.25, 1.6)) if soft else 1.0,
        halves=bool(rng.random() < 0.2),
        end="cycle" if cycles else "rest" if rest else "top",
        rest=rest,
        top_hold=1 if rng.random() < 0.12 else 0,
    )


def random_case(seed: int, code: str | None = None, times: float = 2.5, looks: Sequence[str] | None = None) -> Case:
    """The clip of a seed, clean or with a fault of that code at so many times its tolerance.

    Raises NoRoomError where none of many bounces has room for it.
    """
    rng = np.random.default_rng(seed)
    for _ in range(1000):
        recipe = random_recipe(rng)
        look = LOOKS[str(rng.choice(list(looks or LOOKS)))] if looks or rng.random() < OWN_LOOKS else random_look(rng)
        if look.ground == "none" and len(recipe.kept) < TURNS_THAT_TELL:
            recipe = replace(recipe, slope=0.0)
        plan = bounce(recipe)
        brief = Brief(fps=recipe.fps, loop=recipe.end == "cycle", asked=BounceBrief(material=_material(recipe)))
        if code is None:
            return Case(plan=plan, look=look, seed=seed, brief=brief, planted=None)
        if code in DRAWN_BY_GRAVITY:
            recipe = replace(recipe, halves=False)
            plan = bounce(recipe)
        planted = FAULTS[code](plan, rng, times)
        if planted is not None:
            return Case(plan=planted[0], look=look, seed=seed, brief=brief, planted=planted[1])
    raise NoRoomError(f"no plan has room for {code}")


def _material(recipe: Recipe) -> Material:
    return "soft" if recipe.stretch > 1 else "hard"
