"""Two takes laid together by their contacts."""

from __future__ import annotations

import unittest

from motion.alignment import aligned, paired


class Alignment(unittest.TestCase):
    def test_contacts_meet_whatever_the_pace(self) -> None:
        own, other = [8.0, 19.0, 28.0], [10.0, 24.0, 36.0]
        frames = aligned(own, other, 33, 44)
        self.assertEqual([frames[int(t) - 1] for t in own], [10, 24, 36])
        self.assertEqual((frames[0], frames[-1]), (3, 41))
        self.assertEqual(sorted(frames), list(frames))

    def test_before_the_first_and_after_the_last_both_run_at_their_own_pace(self) -> None:
        frames = aligned([10.0], [6.0], 20, 40)
        self.assertEqual(frames[8:12], (5, 6, 7, 8))
        # The other has nothing to show before it began.
        self.assertEqual(frames[:5], (1, 1, 1, 1, 1))

    def test_a_take_that_begins_a_contact_later_is_laid_where_it_belongs(self) -> None:
        hops = [24.0, 19.0, 15.0, 9.0]
        own = [8.0 + sum(hops[:i]) for i in range(5)]
        late = [1.0 + sum(1.2 * h for h in hops[1 : 1 + i]) for i in range(4)]
        self.assertEqual(paired(own, late), [(1, 0), (2, 1), (3, 2), (4, 3)])
        self.assertEqual(paired(late, own), [(0, 1), (1, 2), (2, 3), (3, 4)])

    def test_a_missing_last_contact_moves_nothing(self) -> None:
        self.assertEqual(paired([8.0, 28.0, 44.0, 57.0], [8.0, 28.0, 44.0]), [(0, 0), (1, 1), (2, 2)])

    def test_without_contacts_they_begin_together(self) -> None:
        self.assertEqual(aligned([], [4.0], 4, 3), (1, 2, 3, 3))
        self.assertEqual(paired([], []), [])
