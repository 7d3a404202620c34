"""Training the eye: a clip shows its fault alone, the rule finds what a person sees, what was missed comes back."""

from __future__ import annotations

import random
import unittest

import numpy as np

from bench import training
from motion.analysis import of_plan
from motion.exercises import EXERCISES
from motion.training.clips import MOST_FRAMES, NoRoomError, clip_of
from motion.training.returns import BACK_AFTER, Returns
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


if __name__ == "__main__":
    unittest.main()
