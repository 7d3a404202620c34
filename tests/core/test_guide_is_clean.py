"""Whoever draws exactly over the guide gets no finding: every ball, rate, exposure and way; a third of them drawn."""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from multiprocessing import get_context
from unittest import TestCase

from motion.analysis import analyse, of_guide
from motion.brief import Brief
from motion.synth.bounce.over_guide import clip_over, every_guide
from motion.synth.look import LOOKS

DRAWN_OF = 3
"""One in so many is drawn and tracked as well."""
DRAWN_IN = ("clean", "outline", "cut-out", "cel")


def told(job: tuple[str, Brief, str]) -> tuple[str, list[str]]:
    """What the analysis says to a clip drawn exactly over the guide, notes about the export included."""
    name, brief, look = job
    # Without the guide in the brief, so that nothing is excused because the guide does it.
    found = analyse(clip_over(brief, LOOKS[look], 5), replace(brief, guide=None))
    return f"{name}, {look}", [*(f.message for f in found.findings), *(n.message for n in found.preflight)]


class DrawnOverTheGuide(TestCase):
    def test_no_finding_for_any_ball_rate_exposure_and_way(self) -> None:
        jobs = [
            (name, brief, DRAWN_IN[turn % len(DRAWN_IN)]) for turn, (name, brief) in enumerate(every_guide((640, 360)))
        ]
        self.assertEqual(len(jobs), 6 * 3 * 2 * 4)
        for name, brief, _ in jobs:
            with self.subTest(name):
                self.assertEqual([f.message for f in of_guide(brief).findings], [])
        with ProcessPoolExecutor(2, mp_context=get_context("forkserver")) as pool:
            for name, said in pool.map(told, jobs[::DRAWN_OF], chunksize=6):
                with self.subTest(name):
                    self.assertEqual(said, [])
