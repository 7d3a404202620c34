"""Pendulums followed where something else is drawn with them: a guide, neighbours, two strings."""

from __future__ import annotations

import unittest

import numpy as np

from bench.apart import swing_hard
from motion.tracking.outline import _is_round


class Hard(unittest.TestCase):
    def test_weight_and_pivot_are_told_and_nothing_false_is_said(self) -> None:
        for way, number in (("guide left on", 1), ("onion skin", 3), ("two strings", 2), (swing_hard.STUB, 0)):
            with self.subTest(way):
                told = swing_hard.told_of((way, number, "lossless"))
                self.assertEqual(len(told.off), told.drawn)
                self.assertEqual(told.findings, ())
                assert told.pivot is not None
                self.assertLess(told.pivot, 0.7)
                self.assertLess(float(np.percentile(told.off[:, 0], 95)), 1.5)


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
