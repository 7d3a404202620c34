"""Weighted kappa against the table by which it is defined, its borders, and what is said of it."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from motion.agreement import FEW, agreement, weighted_kappa

MARKS = st.sampled_from([n / 2 for n in range(21)])
PAIRS = st.lists(st.tuples(MARKS, MARKS), min_size=2, max_size=30)


def by_the_table(pairs: list[tuple[float, float]]) -> float | None:
    """Cohen's own way: a table of shares, weights of disagreement, and the table that chance would give."""
    levels = sorted({mark for pair in pairs for mark in pair})
    place = {level: i for i, level in enumerate(levels)}
    size, share = len(levels), 1 / len(pairs)
    seen = [[0.0] * size for _ in levels]
    for one, other in pairs:
        seen[place[one]][place[other]] += share
    rows = [sum(row) for row in seen]
    columns = [sum(row[i] for row in seen) for i in range(size)]
    cells = [(i, j, (levels[i] - levels[j]) ** 2) for i in range(size) for j in range(size)]
    by_chance = sum(weight * rows[i] * columns[j] for i, j, weight in cells)
    return None if by_chance == 0 else 1 - sum(weight * seen[i][j] for i, j, weight in cells) / by_chance


class Kappa(unittest.TestCase):
    @given(PAIRS)
    def test_it_is_what_the_table_gives(self, pairs: list[tuple[float, float]]) -> None:
        found, table = weighted_kappa(pairs), by_the_table(pairs)
        if table is None:
            self.assertIsNone(found)
        else:
            assert found is not None
            self.assertAlmostEqual(found, table, places=9)

    @given(PAIRS)
    def test_it_is_the_same_the_other_way_round_and_never_above_one(self, pairs: list[tuple[float, float]]) -> None:
        found, turned = weighted_kappa(pairs), weighted_kappa([(b, a) for a, b in pairs])
        if found is None or turned is None:
            self.assertEqual(found, turned)
        else:
            self.assertAlmostEqual(found, turned)
            self.assertLessEqual(found, 1.0)

    def test_known_marks(self) -> None:
        self.assertEqual(weighted_kappa([(1, 1), (5, 5), (9, 9)]), 1.0)
        self.assertEqual(weighted_kappa([(0, 10), (10, 0)]), -1.0)
        # Ten marks apart weigh a hundred times as much as one.
        near = weighted_kappa([(0, 1), (10, 10), (5, 5), (2, 2)])
        far = weighted_kappa([(0, 10), (10, 10), (5, 5), (2, 2)])
        assert near is not None
        assert far is not None
        self.assertGreater(near, 0.95)
        self.assertLess(far, 0.3)

    def test_it_is_not_told_where_it_is_not_defined(self) -> None:
        self.assertIsNone(weighted_kappa([]))
        self.assertIsNone(weighted_kappa([(4, 7)]))
        self.assertIsNone(weighted_kappa([(10, 10), (10, 10)]))


class Agreements(unittest.TestCase):
    def test_who_is_stricter_and_how_many_are_the_same(self) -> None:
        found = agreement([(7, 8), (5, 8), (9, 9), (4, 5)])
        self.assertEqual((found.clips, found.same, found.stricter), (4, 1, 1.25))
        self.assertTrue(found.few)
        self.assertFalse(agreement([(1, 2)] * FEW).few)

    def test_words(self) -> None:
        told = {
            ((3, 3), (3, 3)): "the same on every clip",
            ((10, 10), (10, 7.5), (10, 10)): "too few different marks to tell",
            ((0, 0), (10, 10), (5, 5.5)): "one measure",
            ((2, 6), (8, 3), (5, 9)): "two measures",
        }
        for pairs, words in told.items():
            self.assertEqual(agreement(list(pairs)).words, words, pairs)

    def test_nothing_marked_says_nothing(self) -> None:
        found = agreement([])
        self.assertEqual((found.clips, found.kappa, found.stricter), (0, None, 0.0))
        self.assertEqual(found.words, "too few different marks to tell")
