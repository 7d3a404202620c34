"""Bounces planned apart from the core's own plan, perfectly measured: what is good passes, what is wrong is named."""

from __future__ import annotations

import random
import unittest
from dataclasses import replace

from bench.apart import faults, good, measure
from bench.apart.bounces import Bounce
from motion.analysis import Analysis, of_plan
from motion.brief import BounceBrief, Brief
from motion.exercises.bounce.plan import Plan, Pose, Recipe
from motion.tracking.ellipse import axis_angle

A_CODE, CLEAN, KINDS = 6, 80, 200


def judged(bounce: Bounce) -> Analysis:
    """The checks on a bounce of the other kind."""
    poses = tuple(
        Pose(
            x=b.x,
            y=b.y,
            major=2 * max(b.along, b.across),
            minor=2 * min(b.along, b.across),
            angle=axis_angle(b.angle if b.along >= b.across else b.angle + 90),
            frames=b.frames,
            role=b.kind,
            hop=max(0, b.hop),
        )
        for b in bounce.balls
    )
    recipe = replace(
        Recipe(),
        width=bounce.width,
        height=bounce.height,
        fps=float(bounce.fps),
        diameter=bounce.diameter,
        ground_y=bounce.ground,
    )
    brief = Brief(fps=bounce.fps, asked=BounceBrief(material=bounce.material))  # type: ignore[arg-type]
    return of_plan(Plan(recipe=recipe, poses=poses, flights=()), brief)


class Apart(unittest.TestCase):
    def test_good_work_passes(self) -> None:
        told = []
        for number in range(CLEAN):
            bounce, _ = measure.spoilt(None, random.Random(f"good {number}"))
            told += [(number, f.code, f.first_frame) for f in judged(bounce).findings]
        self.assertLess(len(told), 0.05 * CLEAN, told)

    def test_good_work_of_every_kind_passes(self) -> None:
        told, kinds = [], set()
        for number in range(KINDS):
            rng = random.Random(f"kind {number}")
            how = good.manner(rng)
            kinds |= {how.exposing, how.begins, how.ends, how.halves}
            told += [(number, how, f.code, f.first_frame) for f in judged(good.plan(rng, how)).findings]
        # Clips begin in no way in which they do not end as well.
        self.assertEqual(len(kinds), 8 + 6 + 2)
        self.assertLess(len(told), 0.05 * KINDS, told)

    def test_faults_are_named_as_what_they_are(self) -> None:
        missed = []
        for code in faults.PLANTS:
            for number in range(A_CODE):
                bounce, concerned = measure.spoilt(code, random.Random(f"{code} {number}"))
                first, last = bounce.frames_of(concerned)
                found = [f for f in judged(bounce).findings if f.code == code]
                if not any(f.first_frame <= last + 1 and f.last_frame >= first - 1 for f in found):
                    missed.append((code, number))
        self.assertLessEqual(len(missed), 0.05 * A_CODE * len(faults.PLANTS), missed)
        self.assertTrue(all(sum(c == code for c, _ in missed) <= A_CODE // 3 for code in faults.PLANTS), missed)


if __name__ == "__main__":
    unittest.main()
