"""Pendulums followed where something else is drawn with them: a guide, neighbours, two strings."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np

from bench.apart import swing_hard, swing_measure
from bench.apart.clips import clip_of
from motion.analysis import analyse
from motion.tracking.outline import _is_round
from motion.tracking.subjects import turned


class Hard(unittest.TestCase):
    def test_weight_and_pivot_are_told_and_nothing_false_is_said(self) -> None:
        for way, number in (
            ("guide left on", 1),
            ("onion skin", 7),
            ("two strings", 2),
            (swing_hard.STUB, 7),
        ):
            with self.subTest(way):
                told = swing_hard.told_of((way, number, None))
                self.assertEqual(len(told.off), told.drawn)
                self.assertEqual(told.findings, ())
                assert told.pivot is not None
                self.assertLess(told.pivot, 0.7)
                self.assertLess(float(np.percentile(told.off[:, 0], 95)), 1.5)

    def test_of_a_figure_on_a_swing_only_what_its_outline_tells_is_judged_until_it_is_placed(self) -> None:
        pendulum, _, pictures = swing_hard.clip_of(swing_hard.RIDER, 2)
        with clip_of(pictures, pendulum.fps) as clip:
            alone = analyse(clip, swing_measure.brief_of(pendulum))
            helped = analyse(clip, swing_measure.brief_of(pendulum), placement=swing_hard.by_hand(pendulum))
        self.assertEqual((list(alone.findings), list(helped.findings)), ([], []))
        told = [[note.code for note in found.preflight if note.code == "preflight.weight"] for found in (alone, helped)]
        self.assertEqual(told, [["preflight.weight"], []])
        off = swing_measure.errors(pendulum, helped)
        self.assertEqual(len(off), len(pendulum.drawings))
        self.assertLess(float(np.percentile(off[:, 0], 95)), 0.5)

    def test_a_round_weight_that_is_placed_is_found_by_its_outline_in_the_others(self) -> None:
        pendulum, _, pictures = swing_hard.clip_of("guide left on", 1)
        with clip_of(pictures, pendulum.fps) as clip, mock.patch.object(turned, "shapes") as never:
            analyse(clip, swing_measure.brief_of(pendulum), placement=swing_hard.by_hand(pendulum))
        never.assert_not_called()


class Holes(unittest.TestCase):
    def test_what_two_strings_enclose_is_no_part_of_a_disc(self) -> None:
        turns = np.linspace(0, 2 * np.pi, 120, endpoint=False)
        disc = np.stack([100 * np.cos(turns), 100 * np.sin(turns)], axis=1) + 200
        half = np.concatenate([disc[:60], disc[:1]])
        quarter = np.concatenate([disc[:31], [[200, 200]]])
        triangle = np.array([[200, 20], [230, 300], [170, 300]])
        for name, outline, is_round in (
            ("disc", disc, True),
            ("half", half, True),
            ("quarter", quarter, True),
            ("triangle", triangle, False),
        ):
            with self.subTest(name):
                self.assertEqual(_is_round(outline.astype(np.int32).reshape(-1, 1, 2)), is_round)


if __name__ == "__main__":
    unittest.main()
