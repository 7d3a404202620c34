"""The pendulum: its ideal, its reading and its checks, on swings that share nothing with the project's generator."""

from __future__ import annotations

import itertools
import json
import math
import random
from dataclasses import replace
from unittest import TestCase

import numpy as np

from bench.apart import swing_faults, swing_pictures, swings
from bench.apart.clips import clip_of
from bench.apart.swing_measure import brief_of, errors, judged, told_of
from bench.apart.swings import Manner
from motion.analysis import Analysis, analyse, of_guide, of_plan
from motion.brief import Brief, PendulumBrief, Swing, from_json, parse
from motion.errors import BriefError
from motion.exercises.exercise import start_from
from motion.exercises.pendulum.exercise import PENDULUM
from motion.exercises.pendulum.feel import plan_of
from motion.exercises.pendulum.plan import keys_of
from motion.exercises.pendulum.presets import PRESETS
from motion.exercises.pendulum.truth import LINE
from motion.report.file import judge_again, to_json, to_text
from motion.synth import draw
from motion.synth.look import LOOKS
from motion.synth.pendulum.faults import FAULTS, with_poses
from motion.tracking.placing import Placement

GUIDE = Brief(canvas=(640, 360), asked=PendulumBrief(), guide=Swing(pivot_x=320, pivot_y=40, length=230, size=44))
SHORT = 92
"""Clips of more drawings are the benchmark's."""


class Ideal(TestCase):
    def test_gravity_gives_a_length_its_own_time(self) -> None:
        small = replace(GUIDE, asked=PendulumBrief(length_m=1.0), guide=replace(GUIDE.guide, angle=4.0, swing_s=None))  # type: ignore[type-var]
        wanted = math.pi * math.sqrt(1.0 / 9.81) * 24
        self.assertAlmostEqual(plan_of(small).recipe.swing_frames, wanted, delta=0.02)

    def test_each_extreme_keeps_its_share_of_the_one_before(self) -> None:
        plan = plan_of(replace(GUIDE, guide=replace(GUIDE.guide, keeps=0.8, swing_s=1.6)))  # type: ignore[type-var]
        angles = [abs(plan.poses[k].hangs_at) for k in keys_of(plan)]
        for one, other in itertools.pairwise(angles):
            self.assertAlmostEqual(other / one, 0.8, delta=0.02)

    def test_every_start_can_be_drawn_and_its_own_guide_is_clean(self) -> None:
        for preset in PRESETS:
            for canvas in ((960, 540), (640, 480)):
                with self.subTest(preset.key, canvas=canvas):
                    self.assertEqual(of_guide(start_from(preset, Brief(canvas=canvas))).findings, ())

    def test_a_cycle_closes(self) -> None:
        plan = plan_of(replace(GUIDE, guide=replace(GUIDE.guide, end="cycle", keeps=1.0)))  # type: ignore[type-var]
        gaps = [abs(plan.poses[0].hangs_at - plan.poses[i].hangs_at) for i in (1, -1)]
        self.assertAlmostEqual(gaps[0], gaps[1], delta=0.2)

    def test_what_cannot_be_drawn_is_told_by_field(self) -> None:
        for field, values in {
            "guide.angle": {"angle": 1.0},
            "guide.length": {"length": 20.0},
            "guide.swing_s": {"swing_s": None},
            "guide.keeps": {"keeps": 1.0, "end": "settling"},
            "guide.count": {"count": 60, "swing_s": 4.0},
        }.items():
            with self.subTest(field), self.assertRaises(BriefError) as refused:
                plan_of(replace(GUIDE, guide=replace(GUIDE.guide, **values)))  # type: ignore[type-var]
            self.assertIn(field, refused.exception.problems)

    def test_a_drag_leads_the_handle_to_where_it_was_dragged(self) -> None:
        for name, to in (("pivot", (300.0, 50.0)), ("extreme", (200.0, 200.0)), ("length", (320.0, 250.0))):
            with self.subTest(name):
                plan = plan_of(GUIDE)
                changed = replace(GUIDE, guide=replace(GUIDE.guide, **PENDULUM.guided.drag(GUIDE, plan, name, to)))  # type: ignore[type-var]
                (handle,) = [h for h in PENDULUM.guided.handles(changed, plan_of(changed)) if h.name == name]
                if name == "extreme":
                    wanted, told = (math.atan2(p[0] - 320, p[1] - 40) for p in (to, (handle.x, handle.y)))
                    self.assertAlmostEqual(wanted, told, delta=0.01)
                else:
                    self.assertLess(math.hypot(handle.x - to[0], handle.y - to[1]), 0.6)


class Document(TestCase):
    def test_a_brief_comes_back_as_it_was(self) -> None:
        told = Brief(
            asked=PendulumBrief(swings=4, keeps=(0.8, 0.95), length_m=1.2, rest_angle=3.0), guide=Swing(count=3)
        )
        self.assertEqual(parse(json.dumps(told.to_json())), told)

    def test_what_is_unknown_and_another_exercises_object_are_refused_by_name(self) -> None:
        plain = {"schema": "nettlecap.brief/1", "exercise": "pendulum"}
        for key, more in {
            "pendulum.hangs": {"pendulum": {"hangs": "rope"}},
            "pendulum.pivot": {"pendulum": {"pivot": "thrown"}},
            "bounce": {"bounce": {}},
            "pendulum.sways": {"pendulum": {"sways": 2}},
        }.items():
            with self.subTest(key), self.assertRaises(BriefError) as refused:
                from_json({**plain, **more})
            self.assertIn(key, refused.exception.problems)


class Checks(TestCase):
    def test_good_work_of_every_kind_is_clean(self) -> None:
        found = []
        for number in range(80):
            pendulum = swings.plan(random.Random(f"good {number}"))
            findings = judged(pendulum)
            self.assertIsNotNone(findings, pendulum.manner)
            found += [(f.code, pendulum.manner) for f in findings or ()]
        self.assertLess(len(found), 3, found)

    def test_every_fault_that_is_planted_is_found_and_told_once(self) -> None:
        beside = list[tuple[str, str, int]]()
        for code, plant in swing_faults.PLANTS.items():
            hits = tries = number = 0
            while tries < 6:
                rng = random.Random(f"fault {code} {number}")
                number += 1
                planted = plant(rng, swings.plan(rng), swing_faults.TIMES)
                if planted is None:
                    continue
                tries += 1
                pendulum, concerned, asked = planted
                first, last = pendulum.span(concerned)
                findings = judged(pendulum, brief_of(pendulum, **asked)) or ()
                own = [
                    f for f in findings if f.code == code and f.first_frame <= last + 1 and f.last_frame >= first - 1
                ]
                hits += bool(own)
                beside += [(code, f.code, number) for f in findings if f not in own]
            with self.subTest(code):
                self.assertGreaterEqual(hits, 5)
        self.assertLessEqual(len(beside), 0.05 * 6 * len(swing_faults.PLANTS), beside)

    def test_a_swing_that_is_even_among_halves_has_no_drawing_out_of_its_place(self) -> None:
        """Its drawings lie elsewhere than those of the other swings: that is how it is spaced, one fault."""
        tried = 0
        for number in range(60):
            rng = random.Random(f"even halves {number}")
            pendulum = swings.plan(rng, swings.Manner(law="halves", begins="extreme", ends="extreme", exposing="ones"))
            planted = swing_faults.PLANTS["spacing.even"](rng, pendulum, swing_faults.TIMES)
            if planted is None:
                continue
            tried += 1
            with self.subTest(number):
                codes = [f.code for f in judged(planted[0], brief_of(planted[0])) or ()]
                self.assertNotIn("spacing.jump", codes)
        self.assertGreater(tried, 20)

    def test_advice_mends(self) -> None:
        """What a finding places elsewhere, put there, leaves nothing to find."""
        brief = replace(GUIDE, guide=None)
        for code in ("spacing.jump", "arc.off_path", "spacing.even", "volume.length"):
            plan = FAULTS[code](plan_of(GUIDE), np.random.default_rng(5), 2.5)
            assert plan is not None
            (finding,) = of_plan(plan, brief).findings
            self.assertEqual(finding.code, code)
            poses = list(plan.poses)
            for mark in finding.overlay:
                if mark["kind"] == "place":
                    index = next(i for i in range(len(poses)) if plan.first_frame(i) == mark["frame"])
                    poses[index] = replace(poses[index], x=mark["x"], y=mark["y"])
            with self.subTest(code):
                self.assertEqual(of_plan(replace(plan, poses=tuple(poses)), brief).findings, ())


class Pictures(TestCase):
    def analysed(self, pendulum: swings.Pendulum, look: swing_pictures.Look) -> Analysis:
        with clip_of(swing_pictures.drawings(pendulum, look), pendulum.fps) as clip:
            return analyse(clip, brief_of(pendulum))

    def test_weight_line_and_pivot_are_found_in_any_look(self) -> None:
        how = swings.Manner(law="gravity", begins="extreme", ends="extreme", exposing="ones")
        tried = 0
        for number in range(26):
            rng = random.Random(f"look {number}")
            pendulum = swings.plan(rng, how)
            look = replace(swing_pictures.look(rng, grainy=True), drift=0.0)
            if pendulum.width > 700 or len(pendulum.drawings) > SHORT:
                continue
            tried += 1
            found = self.analysed(pendulum, look)
            with self.subTest(number, look=look):
                at = found.track.pivot
                assert at is not None
                self.assertLess(math.hypot(at.x - pendulum.pivot[0], at.y - pendulum.pivot[1]), 1.0)
                off = errors(pendulum, found)
                self.assertEqual(len(off), len(pendulum.drawings))
                self.assertLess(float(np.median(off[:, 0])), 0.3)
                self.assertLess(float(np.percentile(off[:, 1], 95)), 1.0)
                self.assertEqual([f.code for f in found.findings], [])
        self.assertGreater(tried, 2)

    def test_its_hook_tells_how_bare_paper_drifts(self) -> None:
        rng = random.Random(7)
        pendulum = swings.plan(rng, Manner(law="gravity", begins="extreme", ends="extreme", exposing="ones"))
        pendulum = replace(pendulum, drawings=pendulum.drawings[:36])
        for hook in ("hook", "ring"):
            look = replace(
                swing_pictures.look(rng, grainy=False), drift=0.8, hook=hook, paper="white", bar="thin", line=3.0
            )
            found = self.analysed(pendulum, look)
            off = errors(pendulum, found)
            with self.subTest(hook=hook):
                self.assertLess(float(np.percentile(off[:, 0], 95)), 0.25)
                self.assertLess(float(np.percentile(off[:, 1], 95)), 0.7)
                self.assertEqual([f.code for f in found.findings if f.code == "contact.pivot"], [])

    def test_the_end_of_a_broad_line_is_no_hook_that_drifts(self) -> None:
        for job in (("timing.weight", 0, None), ("timing.swings", 7, "mp4")):
            told = told_of(job)
            with self.subTest(job):
                self.assertLess(float(np.percentile(told.off[:, 0], 95)), 0.3)
                self.assertLess(told.pivot or 9.0, 0.3)

    def test_the_file_holds_its_chains_and_reads_back_the_same(self) -> None:
        plan = plan_of(GUIDE)
        passing = min(range(10, 30), key=lambda i: abs(plan.poses[i].hangs_at))
        plan = with_poses(plan, {passing: replace(plan.poses[passing], top=(332.0, 40.0))})
        found = analyse(draw.clip("pendulum", plan, LOOKS["clean"]), replace(GUIDE, guide=None))
        self.assertEqual([f.code for f in found.findings], ["contact.pivot"])
        told = to_json(found)
        self.assertEqual(told["track"]["kind"], "pendulum")
        chains = told["track"]["chains"]
        self.assertEqual([c["drawing"] for c in chains], list(range(1, len(plan.poses) + 1)))
        self.assertTrue(all(len(c["points"]) == 2 and c["bob"] for c in chains))
        again = judge_again(told, replace(GUIDE, guide=None), Placement())
        self.assertEqual([f.code for f in again.findings], ["contact.pivot"])
        self.assertEqual(to_text(again).count('"drawing"'), to_text(found).count('"drawing"'))

    def test_a_pivot_that_a_person_placed_is_used_and_kept(self) -> None:
        found = analyse(draw.clip("pendulum", plan_of(GUIDE), LOOKS["clean"]), replace(GUIDE, guide=None))
        placed = to_json(judge_again(to_json(found), replace(GUIDE, guide=None), Placement(pivot=(322.0, 41.0))))
        self.assertEqual(placed["track"]["pivot"], [322.0, 41.0])
        back = to_json(judge_again(placed, replace(GUIDE, guide=None), Placement()))
        self.assertAlmostEqual(back["track"]["pivot"][0], 320.0, delta=0.3)

    def test_a_line_pulled_down_from_its_hook_is_told_to_a_pixel_or_two(self) -> None:
        plan = plan_of(GUIDE)
        passing = min(range(10, 30), key=lambda i: abs(plan.poses[i].hangs_at))
        pose = plan.poses[passing]
        far = 14.0 / math.hypot(pose.x - 320.0, pose.y - 40.0)
        end = 320.0 + far * (pose.x - 320.0), 40.0 + far * (pose.y - 40.0)
        moved = with_poses(plan, {passing: replace(pose, top=end)})
        for look in ("clean", "drift"):
            found = analyse(draw.clip("pendulum", moved, LOOKS[look]), replace(GUIDE, guide=None))
            line = found.track.lines(LINE)[passing]
            assert line is not None
            with self.subTest(look=look):
                self.assertEqual([f.code for f in found.findings], ["contact.pivot"])
                self.assertLess(math.dist(line.points[0], end), 2.5)
