"""Whoever draws exactly over the guide gets no finding: every ball, rate, exposure and way, drawn and analysed."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from multiprocessing import get_context
from unittest import TestCase

from motion.analysis import analyse
from motion.brief import Brief
from motion.clip import Clip
from motion.exercises.bounce.feel import plan_of
from motion.exercises.bounce.presets import PRESETS, apply
from motion.synth import draw
from motion.synth.cases import DrawnFootage
from motion.synth.look import LOOKS

RATES = (12.0, 24.0, 25.0)
EXPOSURES = ("ones", "twos")
WAYS = (("settling", True), ("settling", False), ("rolling", False), ("leaving", False))
DRAWN_IN = ("clean", "outline", "cut-out", "cel")


def briefs() -> Iterator[tuple[str, Brief, str]]:
    """Every ball at every rate, exposure and way; looks and beginnings in turn."""
    every = itertools.product(PRESETS, RATES, EXPOSURES, WAYS)
    for turn, (preset, fps, exposure, (end, in_place)) in enumerate(every):
        start = ("dropped", "thrown")[turn // len(WAYS) % 2]
        brief = apply(preset, Brief(fps=fps, exposure=exposure, canvas=(640, 360)))  # type: ignore[arg-type]
        assert brief.guide is not None
        contacts = 3 if end == "leaving" else None
        feel = replace(brief.guide, end=end, start=start, contacts=contacts)
        if in_place:
            feel = replace(feel, distance=0.0)
        name = f"{preset.key}, {fps:g} a second, on {exposure}, {start}, {end}{' in place' if in_place else ''}"
        yield name, replace(brief, guide=feel), DRAWN_IN[turn % len(DRAWN_IN)]


def told(job: tuple[str, Brief, str]) -> tuple[str, list[str]]:
    """What the analysis says to a clip drawn exactly over the guide, notes about the export included."""
    name, brief, look = job
    plan = plan_of(brief)
    pictures = [picture for picture, _ in draw.frames(plan, LOOKS[look], 5)]
    clip = Clip(
        name=name,
        fps=brief.fps,
        width=plan.recipe.width,
        height=plan.recipe.height,
        footage=DrawnFootage(pictures),
        picture_frames=tuple(p.frames for p in plan.poses),
    )
    # Without the guide in the brief, so that nothing is excused because the guide does it.
    found = analyse(clip, replace(brief, guide=None))
    return f"{name}, {look}", [*(f.message for f in found.findings), *(n.message for n in found.preflight)]


class DrawnOverTheGuide(TestCase):
    def test_no_finding_for_any_ball_rate_exposure_and_way(self) -> None:
        jobs = list(briefs())
        self.assertEqual(len(jobs), 6 * 3 * 2 * 4)
        with ProcessPoolExecutor(2, mp_context=get_context("forkserver")) as pool:
            for name, said in pool.map(told, jobs, chunksize=6):
                with self.subTest(name):
                    self.assertEqual(said, [])
