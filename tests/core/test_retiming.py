"""Another timing for the same drawings: each change, what cannot be, and the exposure sheet."""

from __future__ import annotations

import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from motion.errors import BadChange
from motion.retiming import CHANGES, Held, change, pairs, read, sheet_csv, sheet_json

TIMING = (Held(1, 2), Held(2, 1), Held(3, 1), Held(2, 3))


class Changes(unittest.TestCase):
    def changed(self, kind: str, first: int, last: int, count: int = 1) -> list[list[int]]:
        return pairs(change(TIMING, kind, first, last, count))

    def test_each_change(self) -> None:
        for kind, first, last, count, wanted in (
            ("hold", 0, 2, 2, [[1, 2], [2, 2], [3, 2], [2, 3]]),
            ("longer", 3, 3, -2, [[1, 2], [2, 1], [3, 1], [2, 1]]),
            ("out", 1, 2, 1, [[1, 2], [2, 3]]),
            ("swap", 0, 2, 1, [[3, 1], [2, 1], [1, 2], [2, 3]]),
            ("reverse", 1, 3, 1, [[1, 2], [2, 3], [3, 1], [2, 1]]),
            ("repeat", 1, 2, 2, [[1, 2], [2, 1], [3, 1], [2, 1], [3, 1], [2, 3]]),
        ):
            with self.subTest(kind):
                self.assertEqual(self.changed(kind, first, last, count), wanted)

    def test_what_cannot_be_is_said_in_words(self) -> None:
        for kind, first, last, count in (
            ("shuffle", 0, 1, 1),
            ("hold", 0, 9, 1),
            ("hold", 2, 1, 1),
            ("hold", 0, 1, 0),
            ("longer", 1, 1, -1),
            ("swap", 1, 1, 1),
            ("repeat", 0, 3, 99),
            ("out", 0, 3, 1),
        ):
            with self.subTest(kind, first=first, last=last, count=count), self.assertRaises(BadChange) as refused:
                change(TIMING, kind, first, last, count)
            self.assertTrue(str(refused.exception).endswith("."))

    @given(st.sampled_from(sorted(CHANGES)), st.integers(0, 3), st.integers(0, 3), st.integers(-3, 4))
    def test_a_changed_timing_is_one_of_the_same_drawings(self, kind: str, first: int, last: int, count: int) -> None:
        try:
            changed = change(TIMING, kind, first, last, count)
        except BadChange:
            return
        self.assertEqual(read(pairs(changed), {1, 2, 3}), changed)


class Kept(unittest.TestCase):
    def test_what_is_no_timing_of_the_clip_is_refused(self) -> None:
        for told in (None, 7, [], [[1]], [[9, 1]], [[1, 0]], [["one", 1]], [[1, 1]] * 2001):
            with self.subTest(str(told)[:20]), self.assertRaises(BadChange):
                read(told, {1, 2, 3})

    def test_the_exposure_sheet(self) -> None:
        self.assertEqual(sheet_csv(TIMING).splitlines()[1:], ["1,2,1", "3,3,2", "4,4,3", "5,7,2"])
        self.assertEqual(json.loads(sheet_json(TIMING, 12.0))["exposures"][3], {"drawing": 2, "frames": 3})


if __name__ == "__main__":
    unittest.main()
