"""Pendulums whose pivot is carried: followed, judged in the frame of what carries them, and told where they are."""

from __future__ import annotations

import random
import unittest
from dataclasses import replace

import numpy as np

from bench.apart import carried, carried_measure
from bench.apart.carried import Carried
from bench.apart.clips import clip_of
from motion.analysis import Analysis, analyse
from motion.brief import Brief, PendulumBrief, from_json
from motion.exercises.pendulum.carry import in_its_frame
from motion.exercises.pendulum.truth import LINE
from motion.report.file import judge_again, to_json
from motion.tracking.ellipse import Ellipse
from motion.tracking.placing import NOTHING, Placement

LOOK = carried.Look(
    base="block",
    wide=70.0,
    high=34.0,
    line=5.0,
    paper=(246, 241, 228),
    ink=(40, 40, 44),
    fill=(90, 160, 90),
    outline=3.0,
)


def analysed(plan: Carried, look: carried.Look) -> Analysis:
    with clip_of(carried.drawings(plan, look), 24) as clip:
        return analyse(clip, carried_measure.brief_of(plan))


def short(hangs: str, way: str = "clean", number: int = 1) -> Carried:
    """Some of a clip: its travel, and a little after."""
    plan = carried_measure.planted(hangs, way, number)
    count = min(len(plan.frames), plan.stops + 18)
    return replace(plan, points=plan.points[:count], base=plan.base[:count], frames=plan.frames[:count])


class Followed(unittest.TestCase):
    def test_a_block_a_trolley_and_a_hand(self) -> None:
        for hangs, base in (("bob", "block"), ("tail", "trolley"), ("bob", "hand")):
            plan = short(hangs)
            found = analysed(plan, replace(LOOK, base=base))
            with self.subTest(hangs=hangs, base=base):
                told = to_json(found)["track"]
                self.assertIsNone(told["pivot"])
                starts = np.cumsum([1, *plan.frames])
                shown = {e.first_frame: e.drawing for e in found.track.exposures}
                lines = found.track.lines(LINE)
                off = []
                for k, points in enumerate(plan.points):
                    line = lines[shown[int(starts[k])] - 1] if int(starts[k]) in shown else None
                    if line is not None:
                        off.append([np.hypot(*(np.array(line.points[e]) - points[e])) for e in (0, -1)])
                self.assertGreater(len(off), 0.7 * len(plan.points))
                pivot, end = np.median(off, axis=0)
                self.assertLess(float(end), 0.5)
                self.assertLess(float(pivot), 1.3 if base == "hand" else 0.7)
                self.assertEqual([f.code for f in found.findings], [])

    def test_its_end_is_placed_by_hand_and_judged_again(self) -> None:
        told = to_json(analysed(short("bob"), LOOK))
        chain = told["track"]["chains"][6]
        (x, y), weight = chain["points"][-1], chain["bob"]
        moved = Ellipse(x=x + 25, y=y, major=weight["major"], minor=weight["minor"], angle=0)
        brief = Brief(asked=PendulumBrief(pivot="moved"))
        again = judge_again(told, brief, Placement(shapes={chain["drawing"]: moved}))
        self.assertIn("spacing.jump", [f.code for f in again.findings])
        line = again.track.lines(LINE)[chain["drawing"] - 1]
        assert line is not None
        self.assertEqual(line.points[-1], (x + 25, y))
        self.assertEqual([f.code for f in judge_again(told, brief, NOTHING).findings], [])


class Judged(unittest.TestCase):
    def test_it_is_read_as_if_its_pivot_stayed_and_told_where_it_is_drawn(self) -> None:
        plan = carried_measure.planted("bob", "base.jump", 2)
        seen = in_its_frame(carried_measure.track_of(plan))
        assert seen is not None
        track, carry = seen
        tops = {line.points[0] for line in track.lines(LINE) if line is not None}
        self.assertEqual(len({(round(x, 6), round(y, 6)) for x, y in tops}), 1)
        at = plan.stops // 2
        frame = 1 + sum(plan.frames[:at])
        self.assertAlmostEqual(carry.off(frame)[0], plan.base[at, 0] - plan.base[0, 0])
        self.assertEqual(carry.until, 1 + sum(plan.frames[: plan.stops]))
        (found,) = carried_measure.judged(plan)
        self.assertEqual((found.code, found.part, found.first_frame), ("spacing.jump", "base", frame))
        (mark,) = found.overlay
        # It belongs back where it was before it was moved along, among its neighbours as they are drawn.
        self.assertLess(abs(mark["x"] - plan.base[at - 1 : at + 2 : 2, 0].mean()), 6.0)

    def test_a_base_that_eases_is_clean_and_one_that_goes_evenly_is_told_once(self) -> None:
        for hangs in ("bob", "chain", "tail"):
            for number in range(4):
                with self.subTest(hangs=hangs, number=number):
                    self.assertEqual(carried_measure.judged(carried_measure.planted(hangs, "clean", number)), ())
                    found = carried_measure.judged(carried_measure.planted(hangs, "base.even", number))
                    own = [(f.code, f.part) for f in found if f.part == "base"]
                    self.assertEqual(own, [("spacing.even", "base")])

    def test_what_swings_on_by_itself_is_judged_and_what_is_driven_only_drawing_by_drawing(self) -> None:
        plan = carried.plan(random.Random("driven"), "bob")
        scene_of = carried_measure.judged
        self.assertEqual(scene_of(plan), ())
        points = plan.points.copy()
        at = plan.stops + 8
        away = points[at] - points[at, 0]
        points[at] = points[at, 0] + away * 1.12
        found = scene_of(replace(plan, points=points))
        self.assertEqual([f.code for f in found], ["arc.off_path"])
        (place,) = [m for m in found[0].overlay if m["kind"] == "place"]
        self.assertLess(np.hypot(place["x"] - plan.points[at, -1, 0], place["y"] - plan.points[at, -1, 1]), 4.0)


class Edges(unittest.TestCase):
    """The base's faults just inside and just outside their tolerance."""

    def told(self, plan: Carried) -> list[str]:
        return [f.code for f in carried_measure.judged(plan) if f.part == "base"]

    def along(self, shares: np.ndarray) -> Carried:
        """A weight hung straight whose base goes such shares of its way from drawing to drawing, on ones."""
        plan = carried_measure.planted("bob", "clean", 1)
        gone = np.concatenate([np.zeros(3), np.cumsum(shares), np.full(14, shares.sum())]) / shares.sum()
        base = plan.base[0] + 300.0 * gone[:, None] * np.array([1.0, 0.0])
        swung = np.radians(20 * np.sin(np.arange(len(base)) / 3.0))
        hung = base + 260.0 * np.stack([np.sin(swung), np.cos(swung)], axis=1)
        return replace(
            plan, width=960, height=540, base=base, points=np.stack([base, hung], axis=1), frames=(1,) * len(base)
        )

    def test_even_steps(self) -> None:
        for share, codes in ((0.77, []), (0.83, ["spacing.even"])):
            with self.subTest(share=share):
                # It eases before it stops, so that no dead stop is told in its place.
                own = np.array([1.0, 1.0, 1.0, 1.0, 1.0, 1.0, 1.0, 1.0])
                own[0], own[-1] = 2 * share - 0.6, 0.6
                self.assertEqual(self.told(self.along(own)), codes)

    def test_a_dead_stop(self) -> None:
        for last, codes in ((0.3, []), (0.74, []), (0.78, ["spacing.dead_stop"])):
            with self.subTest(last=last):
                own = np.array([0.2, 0.5, 1.0, 1.0, 1.0, 1.0, 1.0, last])
                self.assertEqual(self.told(self.along(own)), codes)

    def test_a_drawing_too_far_along(self) -> None:
        plan = self.along(np.array([0.2, 0.6, 1.0, 1.0, 1.0, 1.0, 1.0, 1.0, 0.6, 0.2]))
        gap = float(np.hypot(*(plan.base[7] - plan.base[6])))
        for times, codes in ((0.75, []), (1.5, ["spacing.jump"])):
            with self.subTest(times=times):
                # Its own gap shrinks by what it is moved, and the tolerance with that.
                far = times * max(0.18 * (gap - 0.18 * gap), 0.02 * 260.0, 2.0)
                base, points = plan.base.copy(), plan.points.copy()
                base[7, 0] += far
                points[7, :, 0] += far
                self.assertEqual(self.told(replace(plan, base=base, points=points)), codes)

    def test_a_drawing_off_while_it_goes_on_beyond_the_end_or_stands(self) -> None:
        goes_on = self.along(np.array([0.0, 0.3, 0.7, 1.0, 1.0, 1.0, 1.0, 1.0, 1.0, 1.0, 1.0]))
        # All that comes after its way is a clip cut while it still goes.
        goes_on = replace(goes_on, base=goes_on.base[:12], points=goes_on.points[:12], frames=goes_on.frames[:12])
        stands = self.along(np.array([0.2, 0.6, 1.0, 1.0, 1.0, 1.0, 0.6, 0.2]))
        for plan, at in ((goes_on, 8), (stands, len(stands.frames) - 5)):
            base, points = plan.base.copy(), plan.points.copy()
            base[at, 0] += 14.0
            points[at, :, 0] += 14.0
            with self.subTest(at=at):
                self.assertEqual(self.told(plan), [])
                self.assertEqual(self.told(replace(plan, base=base, points=points)), ["spacing.jump"])


class Asked(unittest.TestCase):
    def test_a_brief_may_ask_for_it(self) -> None:
        plain = Brief(asked=PendulumBrief(pivot="moved"))
        self.assertEqual(from_json(plain.to_json()).asked, plain.asked)


if __name__ == "__main__":
    unittest.main()
