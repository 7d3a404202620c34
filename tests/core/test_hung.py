"""The guide of chains and tails: how its parts follow each other, what a drag does, and advice that mends it."""

from __future__ import annotations

import itertools
import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from motion.analysis import Analysis, judge, of_guide, of_plan
from motion.brief import Brief, PendulumBrief, Swing
from motion.errors import BriefError
from motion.exercises.pendulum import handles
from motion.exercises.pendulum.feel import plan_of
from motion.exercises.pendulum.hung import outlines, told
from motion.exercises.pendulum.parts import drags
from motion.exercises.pendulum.plan import Plan, keys_of, shares_of
from motion.exercises.pendulum.truth import LINE, WEIGHT
from motion.exercises.pendulum.words import disagreements, sentences
from motion.guide import sheet
from motion.guide.guide import guide_of
from motion.synth.pendulum.faults import FAULTS
from motion.track import Track

USUAL = Swing(length=300, angle=-35, swing_s=0.8, count=4, keeps=0.9)
ENDS = ("extreme", "settling", "cycle")


def asked(hangs: str = "chain", links: int | None = 3, *, exposure: str = "free", **feel: object) -> Brief:
    """A brief for something that hangs in parts, with its guide."""
    guide = replace(USUAL, **feel)  # type: ignore[arg-type]
    return Brief(
        canvas=(960, 540),
        exposure=exposure,  # type: ignore[arg-type]
        loop=guide.end == "cycle",
        asked=PendulumBrief(hangs=hangs, links=links if hangs == "chain" else None),  # type: ignore[arg-type]
        guide=guide,
    )


def hung_as_told(track: Track, marks: list[dict[str, object]]) -> Track:
    """A track whose drawings hang where marks say."""
    starts = {e.first_frame: e.drawing for e in track.exposures}
    lines, weights = list(track.lines(LINE)), list(track.shapes)
    for mark in marks:
        index = starts.get(mark["frame"], 0) - 1  # type: ignore[call-overload]
        line, weight = lines[index], weights[index]
        if mark["kind"] != "hung" or index < 0 or line is None or weight is None:
            continue
        points = tuple((float(x), float(y)) for x, y in mark["points"])  # type: ignore[attr-defined]
        lines[index] = replace(line, points=points)
        weights[index] = replace(weight, x=points[-1][0], y=points[-1][1])
    return track.with_marks(LINE, tuple(lines)).with_marks(WEIGHT, tuple(weights))


def after(result: Analysis, brief: Brief) -> list[str]:
    """What is still found once all advice of a result is followed."""
    marks = [m for f in result.findings for m in f.overlay]
    return [f.code for f in judge(result.clip, brief, hung_as_told(result.track, marks)).findings]


class Guide(unittest.TestCase):
    def test_the_checks_find_nothing_in_it(self) -> None:
        for hangs in ("chain", "tail"):
            for end in ENDS:
                for exposure in ("free", "twos"):
                    with self.subTest(hangs=hangs, end=end, exposure=exposure):
                        brief = asked(hangs, end=end, exposure=exposure, keeps=0.8 if end == "settling" else 0.92)
                        self.assertEqual([f.message for f in of_guide(brief).findings], [])

    def test_its_parts_keep_their_lengths_and_come_as_late_as_asked(self) -> None:
        for hangs, each in (("chain", 100.0), ("tail", 37.5)):
            brief = asked(hangs, follows=2.5)
            plan = plan_of(brief)
            lines = np.array([told(p, plan.recipe) for p in plan.poses])
            lengths = np.hypot(*np.diff(lines, axis=1).transpose(2, 0, 1))
            self.assertLess(float(np.abs(lengths - each).max()), 0.6 if hangs == "tail" else 1e-6)
            scene = of_plan(plan, brief).scene
            assert scene is not None
            for drag in drags(scene.reading, tail=hangs == "tail"):
                with self.subTest(hangs=hangs, part=drag.part):
                    self.assertAlmostEqual(drag.frames, 2.5, delta=0.25)

    def test_a_cycle_begins_at_an_extreme_and_closes(self) -> None:
        plan = plan_of(asked(end="cycle"))
        self.assertEqual(keys_of(plan)[0], 0)
        again = replace(plan, poses=(*plan.poses, plan.poses[0]))
        steps = np.diff([p.hangs_at for p in again.poses])
        self.assertLess(float(np.abs(np.diff(steps)).max()), 2.5)

    def test_it_comes_to_rest_from_the_pivot_to_the_end(self) -> None:
        plan = plan_of(asked(end="settling", keeps=0.7))
        rests = []
        for part in range(3):
            angles = [_angle(plan, k, part) for k in range(len(plan.poses))]
            rests.append(max(k for k, a in enumerate(angles) if abs(a) > 0.5))
        self.assertEqual(sorted(rests), rests)
        self.assertGreaterEqual(rests[-1] - rests[0], 3)

    def test_a_drawing_set_by_hand_lies_at_its_share_and_is_one_of_the_motions_own(self) -> None:
        plain = plan_of(asked())
        keys = keys_of(plain)
        index = keys[0] + 9
        share = shares_of(plain)[index] + 0.02
        moved = plan_of(asked(ticks=((index + 1, share),)))
        self.assertAlmostEqual(shares_of(moved)[index], share, places=3)
        lengths = np.hypot(*np.diff(np.array(told(moved.poses[index], moved.recipe)), axis=0).T)
        self.assertLess(float(np.abs(lengths - 100).max()), 1e-6)

    def test_what_cannot_be_drawn_is_refused_beside_its_field(self) -> None:
        for brief, key in (
            (asked(follows=9.0), "guide.follows"),
            (asked("tail", wide=6.0, thin=9.0), "guide.thin"),
            (asked(wide=120.0), "guide.wide"),
            (asked(angle=-70.0, bend=0.3), "guide.bend"),
            (asked(length=500.0), "guide.length"),
            (asked(weighted=True, size=320.0), "guide.size"),
        ):
            with self.subTest(key), self.assertRaises(BriefError) as raised:
                plan_of(brief)
            self.assertIn(key, raised.exception.problems)

    def test_words_say_how_its_parts_follow(self) -> None:
        brief = asked(end="settling", keeps=0.7)
        said = " ".join(sentences(brief, plan_of(brief)))
        self.assertIn("three links, each 2 frames after the one above", said)
        self.assertIn("one after the other", said)
        stiff = asked(follows=0.0)
        self.assertIn("as one bar", " ".join(sentences(stiff, plan_of(stiff))))
        self.assertIn("guide.follows", disagreements(stiff, plan_of(stiff)))
        free = replace(stiff, asked=PendulumBrief(hangs="chain", drag=False))
        self.assertNotIn("guide.follows", disagreements(free, plan_of(free)))

    def test_the_sheet_shows_each_joints_path_and_every_part(self) -> None:
        for hangs, paths, parts in (("chain", 3, 3), ("tail", 4, 1)):
            guide = guide_of(asked(hangs))
            drawn = sheet.draw(guide)
            layers = {g.get("id"): g for g in drawn}
            self.assertEqual(len(layers["path"]), paths)
            self.assertEqual(len(layers["shapes"]), parts * len(guide.shaped))
            self.assertEqual(len(outlines(guide.plan.poses[0], guide.plan.recipe)), parts)

    def test_its_lines_lead_from_where_it_hangs_over_every_joint_to_its_end(self) -> None:
        for hangs, points in (("bob", 2), ("chain", 4), ("tail", None)):
            guide = guide_of(asked(hangs))
            for index, pose in enumerate(guide.plan.poses):
                (line,) = guide.sketch.lines(guide.plan, index)
                with self.subTest(hangs, drawing=index):
                    self.assertEqual((line[0], line[-1]), (pose.top, (pose.x, pose.y)))
                    self.assertEqual(len(line), points or len(line))
                    far = sum(math.dist(a, b) for a, b in itertools.pairwise(line))
                    self.assertAlmostEqual(far, USUAL.length, delta=0.02 * USUAL.length)


class Handles(unittest.TestCase):
    def drag(self, brief: Brief, name: str, dx: float = 0.0, dy: float = 0.0) -> dict[str, float]:
        plan = plan_of(brief)
        (handle,) = [h for h in handles.handles(brief, plan) if h.name == name]
        return handles.drag(brief, plan, name, (handle.x + dx, handle.y + dy))

    def test_a_handle_that_is_not_moved_changes_nothing(self) -> None:
        for hangs in ("chain", "tail"):
            brief = asked(hangs, follows=1.7, bend=0.05, weighted=True, size=50)
            names = {h.name for h in handles.handles(brief, plan_of(brief))}
            self.assertLessEqual({"follows", "wide", "size", "keeps", "extreme"}, names)
            for name in names:
                for key, value in self.drag(brief, name).items():
                    with self.subTest(hangs=hangs, name=name):
                        self.assertAlmostEqual(value, getattr(brief.guide, key), delta=0.06)

    def test_the_end_pulled_back_as_it_passes_drags_more(self) -> None:
        brief = asked()
        self.assertGreater(self.drag(brief, "follows", dx=-40)["follows"], 2.4)
        self.assertLess(self.drag(brief, "follows", dx=40)["follows"], 1.6)

    def test_a_bob_has_no_handle_for_parts(self) -> None:
        brief = asked("bob")
        self.assertNotIn("follows", {h.name for h in handles.handles(brief, plan_of(brief))})


class Advice(unittest.TestCase):
    @given(
        st.sampled_from(("chain", "tail")),
        st.integers(2, 5),
        st.sampled_from(ENDS),
        st.sampled_from(("free", "twos")),
        st.floats(0.7, 1.2),
        st.sampled_from(("overlap.stiff", "overlap.leads")),
    )
    @settings(max_examples=15, deadline=None)
    def test_parts_that_do_not_follow(
        self, hangs: str, links: int, end: str, exposure: str, pace: float, code: str
    ) -> None:
        end = "extreme" if end == "settling" else end
        brief = asked(hangs, links, end=end, exposure=exposure, swing_s=pace, follows=1.5)
        planted = FAULTS[code](plan_of(brief), np.random.default_rng(1), 2.0)
        assert planted is not None
        found = of_plan(planted, brief)
        self.assertEqual([f.code for f in found.findings], [code])
        self.assertEqual(after(found, brief), [])

    def test_parts_that_stop_together(self) -> None:
        for hangs in ("chain", "tail"):
            brief = asked(hangs, end="settling", keeps=0.7)
            planted = FAULTS["overlap.stops_together"](plan_of(brief), np.random.default_rng(1), 2.5)
            assert planted is not None
            found = of_plan(planted, brief)
            with self.subTest(hangs=hangs):
                self.assertEqual([f.code for f in found.findings], ["overlap.stops_together"])
                self.assertEqual(after(found, brief), [])


def _angle(plan: Plan, index: int, part: int) -> float:
    line = told(plan.poses[index], plan.recipe)
    (ax, ay), (bx, by) = line[part : part + 2]
    return math.degrees(math.atan2(bx - ax, by - ay))


if __name__ == "__main__":
    unittest.main()
