"""Clips drawn exactly over a guide: every ball to start from, at every rate, exposure and way of going on."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import replace

from motion.brief import Brief, Exposure
from motion.brief.bounce import End, Start
from motion.clip import Clip
from motion.exercises.bounce.asked import feel_of
from motion.exercises.bounce.feel import plan_of
from motion.exercises.bounce.presets import PRESETS
from motion.exercises.exercise import start_from
from motion.synth import draw
from motion.synth.look import Look

RATES = (12.0, 24.0, 25.0)
EXPOSURES: tuple[Exposure, ...] = ("ones", "twos")
WAYS: tuple[tuple[End, bool], ...] = (
    ("settling", True),
    ("settling", False),
    ("rolling", False),
    ("leaving", False),
)
"""How it ends, and whether in place."""


def every_guide(canvas: tuple[int, int]) -> Iterator[tuple[str, Brief]]:
    """Name and brief of each; dropped and thrown in take turns."""
    for turn, (preset, fps, exposure) in enumerate(itertools.product(PRESETS, RATES, EXPOSURES)):
        brief = start_from(preset, Brief(fps=fps, exposure=exposure, canvas=canvas))
        for end, in_place in WAYS:
            plain = feel_of(brief)
            if plain is None:
                continue
            start: Start = "thrown" if turn % 2 else "dropped"
            feel = replace(
                plain,
                end=end,
                start=start,
                contacts=3 if end == "leaving" else None,
                distance=0.0 if in_place else plain.distance,
            )
            way = f"{feel.start}, {end}{' in place' if in_place else ''}"
            yield f"{preset.key}, {fps:g} a second, on {exposure}, {way}", replace(brief, guide=feel)


def clip_over(brief: Brief, look: Look, seed: int = 0) -> Clip:
    """The clip of a student who draws exactly over the brief's guide."""
    return draw.clip("bounce", plan_of(brief), look, seed, name="over the guide")
