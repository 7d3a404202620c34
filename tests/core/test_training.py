"""Training the eye: a clip shows its fault alone, the rule finds what a person sees, what was missed comes back."""

from __future__ import annotations

import itertools
import random
import unittest
from dataclasses import replace

import numpy as np

from bench import training
from motion.analysis import of_plan
from motion.exercises import EXERCISES, exercise_of
from motion.findings import Finding
from motion.synth import plant
from motion.training.clips import MOST_FRAMES, NoRoomError, clip_of
from motion.training.judged import counted, placed, points_of, spotted
from motion.training.questions import KINDS, RATES, SIDES, _one_way, ask
from motion.training.returns import BACK_AFTER, Returns
from motion.training.rule import CLEAN, Eye, next_wish
from motion.training.threshold import LARGEST, SMALLEST, Threshold, seen_at

EASY = {"bounce": "arc.off_path", "pendulum": "arc.lopsided", "walk": "timing.limps"}


class Clips(unittest.TestCase):
    def test_each_shows_its_fault_alone_and_the_same_without_it_is_clean(self) -> None:
        for exercise, code in EASY.items():
            with self.subTest(exercise):
                looked = clip_of(3, exercise, code, 3.0)
                self.assertEqual([f.code for f in of_plan(looked.shown, looked.brief).findings], [code])
                self.assertEqual(of_plan(looked.right, looked.brief).findings, ())
                assert looked.finding is not None
                self.assertEqual(looked.finding.code, code)
                self.assertLessEqual(looked.shown.frames, MOST_FRAMES + 10)

    def test_a_seed_is_always_the_same_clip_and_another_seed_another(self) -> None:
        for exercise in EXERCISES:
            one, same, other = (clip_of(seed, exercise) for seed in (1, 1, 2))
            with self.subTest(exercise):
                self.assertEqual((one.shown, one.look), (same.shown, same.look))
                self.assertNotEqual(one.shown, other.shown)
                self.assertIsNone(one.finding)
                self.assertEqual(one.shown, one.right)

    def test_every_fault_that_a_drill_asks_about_has_room(self) -> None:
        for exercise in EXERCISES:
            for seed, code in enumerate(plant.drilled(exercise)):
                with self.subTest(exercise, code=code):
                    looked = clip_of(seed, exercise, code, 2.5)
                    self.assertEqual([f.code for f in of_plan(looked.shown, looked.brief).findings], [code])

    def test_what_has_no_room_is_told(self) -> None:
        with self.assertRaises(NoRoomError):
            clip_of(1, "bounce", "arc.rising_tops", 400.0)


class Thresholds(unittest.TestCase):
    def test_what_made_up_people_see_is_found_within_thirty_clips(self) -> None:
        for threshold in training.PEOPLE:
            told = [
                training.asked(training.somebody(random.Random(f"{threshold} {n}"), threshold))[-1] for n in range(40)
            ]
            with self.subTest(threshold=threshold):
                self.assertLess(float(np.median(training.off(told, threshold))), 0.2)
                self.assertLess(float(np.percentile(training.off(told, threshold), 95)), 0.6)

    def test_it_is_surer_with_each_answer_and_asks_near_what_is_just_seen(self) -> None:
        known = training.asked(training.somebody(random.Random(1), 2.0))
        self.assertLess(known[-1].doubt, 0.4 * known[0].doubt)
        self.assertTrue(all(SMALLEST <= k.next_times <= LARGEST for k in known))
        self.assertLess(abs(np.log2(known[-1].next_times / 2.0)), 0.5)

    def test_one_who_gets_better_is_told_to_see_smaller_faults(self) -> None:
        better = [training.asked(training.somebody(random.Random(n), 5.0, improves=0.97), 60) for n in range(20)]
        first, last = (float(np.mean([k[at].times for k in better])) for at in (12, 60))
        self.assertLess(last, 0.8 * first)

    def test_one_who_guesses_is_not_told_to_see_small_faults(self) -> None:
        told = [training.asked(training.guesser(random.Random(n)))[-1].times for n in range(40)]
        self.assertGreater(float(np.median(told)), LARGEST * 0.6)

    def test_a_right_guess_among_few_answers_tells_less_than_one_among_many(self) -> None:
        guessed, known = Threshold().after(2.0, seen=True, chance=0.5), Threshold().after(2.0, seen=True)
        self.assertGreater(guessed.times, known.times)

    def test_larger_faults_are_seen_more_often_and_never_always(self) -> None:
        shown = [float(seen_at(times, np.array([2.0]))[0]) for times in (1.0, 2.0, 3.0, 9.0)]
        self.assertEqual(shown, sorted(shown))
        self.assertAlmostEqual(shown[1], 0.75, places=6)
        self.assertLess(shown[-1], 1.0)

    def test_what_is_kept_is_read_back_and_nonsense_is_nobody_known(self) -> None:
        known = Threshold().after(2.0, seen=False)
        self.assertAlmostEqual(Threshold.from_json(known.to_json()).times, known.times, places=3)
        for nonsense in (None, [1, 2], ["a"] * 101, [float("nan")] * 101, [0.0] * 101):
            self.assertEqual(Threshold.from_json(nonsense), Threshold())


class Coming(unittest.TestCase):
    def test_what_was_missed_comes_back_soon_and_what_is_known_seldom(self) -> None:
        returns = Returns().after("a", seen=False).after("b", seen=True)
        self.assertEqual(returns.kinds["a"].due, 1 + BACK_AFTER[0])
        self.assertEqual(returns.kinds["b"].due, 2 + BACK_AFTER[1])
        for _ in range(3):
            returns = returns.after(None, seen=True)
        self.assertEqual(returns.in_order(["b", "c", "a"]), ["a", "c", "b"])

    def test_each_time_it_is_seen_it_stays_away_longer_until_it_is_missed(self) -> None:
        returns, waits = Returns(), []
        for _ in range(8):
            returns = returns.after("a", seen=True)
            waits.append(returns.kinds["a"].due - returns.shown)
        self.assertEqual(waits, [*BACK_AFTER[1:], *[BACK_AFTER[-1]] * 3])
        self.assertEqual(returns.after("a", seen=False).kinds["a"].box, 0)

    def test_it_is_read_back_and_what_makes_no_sense_is_refused(self) -> None:
        returns = Returns().after("a", seen=False).after(None, seen=True)
        self.assertEqual(Returns.from_json(returns.to_json()), returns)
        for nonsense in ({}, {"kinds": {"a": [9, 1]}, "shown": 2}, {"kinds": {"a": [1]}, "shown": 2}):
            with self.assertRaises((KeyError, TypeError, ValueError)):
                Returns.from_json(nonsense)


class Questions(unittest.TestCase):
    def test_a_seed_is_the_same_question_for_everybody(self) -> None:
        for kind in KINDS:
            one, other = (ask(kind, 12, "bounce", "contact.gap", 2.5, busy=False) for _ in range(2))
            with self.subTest(kind):
                self.assertEqual((one.clips, one.truth, one.finding), (other.clips, other.truth, other.finding))

    def test_of_two_clips_the_one_named_has_nothing_to_find_and_the_other_its_fault(self) -> None:
        sides = set()
        for seed in range(8):
            question = ask("which", seed, "pendulum", "arc.off_path", 2.5, busy=False)
            sides.add(question.right)
            for name, plan in question.clips.items():
                told = [f.code for f in of_plan(plan, question.brief).findings]
                self.assertEqual(told, [] if name == question.right else ["arc.off_path"])
        self.assertEqual(sides, set(SIDES))

    def test_a_rate_is_what_is_drawn(self) -> None:
        seen = set()
        for seed in range(8):
            question = ask("rate", seed, "walk", None, 0.0, busy=False)
            plan = question.clips["shown"]
            each = plan.poses[0].frames
            self.assertEqual(question.truth["rate"], plan.fps / each)
            seen.add(question.truth["rate"])
        self.assertEqual(seen, set(RATES))

    def test_there_is_but_one_short_way_through_drawings_to_be_ordered(self) -> None:
        for exercise in ("bounce", "pendulum", "walk"):
            question = ask("order", 5, exercise, None, 0.0, busy=False)
            order, shuffled = question.truth["order"], question.truth["shuffled"]
            with self.subTest(exercise):
                self.assertEqual(sorted(shuffled), order[1:])
                self.assertNotEqual(shuffled, order[1:])
                self.assertEqual(len({b - a for a, b in itertools.pairwise(order)}), 1)

    def test_drawings_that_lie_alike_on_the_way_there_and_back_are_not_asked_about(self) -> None:
        there_and_back = np.array([[0.0, y] for y in (0, 10, 20, 30, 20.5, 10.5)])
        self.assertFalse(_one_way(there_and_back))
        self.assertTrue(_one_way(np.array([[0.0, y] for y in (0, 10, 20, 30, 40, 50)])))

    def test_a_part_is_as_long_as_from_one_moment_to_the_next(self) -> None:
        for exercise in ("bounce", "pendulum", "walk"):
            question = ask("count", 3, exercise, None, 0.0, busy=False)
            moments = exercise_of(question.brief).guided.moments(question.clips["shown"])
            truth = question.truth
            with self.subTest(exercise):
                self.assertIn((truth["first"], truth["last"]), list(itertools.pairwise(moments)))
                self.assertEqual(truth["frames"], truth["last"] - truth["first"])


class Answers(unittest.TestCase):
    def finding(self, first: int, last: int) -> Finding:
        question = ask("spot", 4, "bounce", "contact.gap", 3.0, busy=False)
        assert question.finding is not None
        return replace(question.finding, first_frame=first, last_frame=last)

    def test_what_is_off_is_seen_by_its_name_or_its_frame(self) -> None:
        found, offered = self.finding(20, 21), ["contact.gap", "spacing.even", "arc.off_path"]
        for said, right in (
            ({"off": True, "code": "contact.gap"}, True),
            ({"off": True, "code": "spacing.even", "principle": "spacing"}, False),
            ({"off": True, "frame": 23}, True),
            ({"off": True, "frame": 24}, False),
            ({"off": True, "principle": "contact"}, False),
            ({"off": False, "code": "contact.gap"}, False),
        ):
            with self.subTest(said):
                self.assertEqual(spotted(found, 60, said, offered).right, right)
        told = spotted(found, 60, {"off": True, "code": "spacing.even", "principle": "contact", "frame": 3}, offered)
        self.assertEqual(told.parts, {"off": True, "principle": True, "fault": False, "frame": False})

    def test_a_place_is_told_beside_what_shows_the_fault(self) -> None:
        found = self.finding(20, 21)
        x, y = points_of(found)[0]
        for place, there in (((x + 5, y), True), ((x + 300, y + 300), False)):
            told = spotted(found, 60, {"off": True, "frame": 20, "place": place}, ["a", "b"], 20.0)
            self.assertEqual((told.parts["place"], told.right), (there, True))
        of_frames = replace(found, overlay=({"kind": "frames", "frames": 2},))
        self.assertNotIn("place", spotted(of_frames, 60, {"off": True, "place": (x, y)}, ["a"]).parts)

    def test_pointing_into_what_lasts_for_most_of_a_clip_shows_nothing(self) -> None:
        self.assertFalse(spotted(self.finding(1, 50), 60, {"off": True, "frame": 30}, ["a", "b"]).right)

    def test_a_guess_is_right_less_often_where_there_is_more_to_choose_from(self) -> None:
        few, many = (spotted(self.finding(20, 21), 60, {"off": True}, ["a"] * n).chance for n in (2, 20))
        self.assertGreater(few, many)
        self.assertGreater(spotted(self.finding(20, 21), 24, {"off": True}, ["a"] * 20).chance, many)

    def test_a_clean_clip_is_rightly_let_be(self) -> None:
        self.assertTrue(spotted(None, 60, {"off": False}, []).right)
        self.assertFalse(spotted(None, 60, {"off": True}, []).right)

    def test_a_count_may_be_off_by_a_frame_or_by_a_tenth(self) -> None:
        told = {said: counted(24, said).right for said in (21, 22, 24, 26, 27)}
        self.assertEqual(told, {21: False, 22: True, 24: True, 26: True, 27: False})
        self.assertTrue(counted(6, 7).right)

    def test_a_drawing_put_where_it_belongs_leaves_the_checks_nothing_and_elsewhere_something(self) -> None:
        for exercise in ("bounce", "pendulum"):
            question = ask("place", 9, exercise, None, 0.0, busy=False)
            at = question.truth["drawing"]
            own, belongs = question.clips["shown"].poses[at], question.clips["right"].poses[at]
            with self.subTest(exercise):
                self.assertTrue(placed(question, belongs.x, belongs.y)[0].right)
                told, left = placed(question, own.x, own.y)
                self.assertFalse(told.right)
                self.assertIn("spacing.jump", [f.code for f in left])


class NextOne(unittest.TestCase):
    CODES = ("contact.gap", "spacing.even", "arc.off_path")

    def test_what_was_missed_comes_before_what_is_known(self) -> None:
        eye = Eye().after("contact.gap", 3.0, seen=True, chance=0.1).after("spacing.even", 3.0, seen=False, chance=0.1)
        for _ in range(4):
            eye = eye.after(None, 0.0, seen=True, chance=0.5)
        wishes = [next_wish(random.Random(n), "which", self.CODES, eye).code for n in range(20)]
        self.assertEqual(set(wishes), {"spacing.even"})

    def test_faults_become_smaller_and_looks_busy_as_somebody_sees_more(self) -> None:
        eye = Eye()
        first = next_wish(random.Random(1), "which", ["contact.gap"], eye)
        for _ in range(14):
            eye = eye.after("contact.gap", eye.of("contact.gap").next_times, seen=True, chance=0.05)
        wishes = [next_wish(random.Random(n), "which", ["contact.gap"], eye) for n in range(40)]
        self.assertLess(wishes[0].times, 0.6 * first.times)
        self.assertFalse(first.busy)
        self.assertTrue(any(w.busy for w in wishes) and not all(w.busy for w in wishes))

    def test_some_clips_are_clean_and_what_is_laid_out_already_is_not_laid_out_twice(self) -> None:
        wishes = [next_wish(random.Random(n), "spot", self.CODES, Eye(), ("contact.gap",)) for n in range(200)]
        self.assertNotIn("contact.gap", {w.code for w in wishes})
        clean = sum(w.code is None for w in wishes) / len(wishes)
        self.assertLess(abs(clean - CLEAN), 0.1)

    def test_a_whole_person_is_known_fault_by_fault_after_a_term(self) -> None:
        """Two made-up people, one sharp and one not, on three faults whose turns the rule chooses."""
        for own in (1.6, 3.2):
            rng, eye = random.Random(f"person {own}"), Eye()
            for _ in range(90):
                wish = next_wish(rng, "spot", self.CODES, eye)
                sees = rng.random() < (float(seen_at(wish.times, np.array([own]))[0]) if wish.code else 0.9)
                eye = eye.after(wish.code, wish.times, seen=sees, chance=0.05)
            for code in self.CODES:
                with self.subTest(own, code=code):
                    self.assertLess(abs(np.log2(eye.of(code).times / own)), 0.6)


if __name__ == "__main__":
    unittest.main()
