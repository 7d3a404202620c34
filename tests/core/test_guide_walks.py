"""Walks over the guide's own motions, drawn in the looks in which clips are drawn, and told from their pictures."""

from __future__ import annotations

import unittest

import numpy as np

from bench import guide_walks
from bench.guide_walks import Job, Told


class GuideWalks(unittest.TestCase):
    def told(self, figure: str, look: str, way: str | None = None, number: int = 0) -> Told:
        found = guide_walks.told(Job(figure=figure, way=way, number=number, look=look))
        assert found is not None
        return found

    def test_every_way_and_every_figure_has_its_clips(self) -> None:
        planned = guide_walks.jobs(2)
        self.assertEqual({j.way for j in planned if j.figure == "whole"}, {None, *guide_walks.WAYS})
        self.assertNotIn("timing.opposite", {j.way for j in planned if j.figure == "legs"})
        self.assertEqual({j.look for j in planned}, set(guide_walks.LOOKS))

    def test_white_cels_with_a_pale_far_side_are_told_as_they_were_drawn(self) -> None:
        for figure in ("legs", "whole"):
            own = self.told(figure, "cel outline")
            with self.subTest(figure=figure):
                self.assertEqual(own.others, ())
                for joint in ("hip", "knee", "ankle", "heel", "toe"):
                    self.assertLess(float(np.median(own.off[joint])), 2.0)
                    self.assertGreater(own.shown[joint][0], 0.8 * own.shown[joint][1])

    def test_ankles_in_feet_that_stand_on_a_drawn_line_are_where_they_turn(self) -> None:
        for look in ("hatched", "pencil"):
            own = self.told("legs", look, number=1)
            with self.subTest(look=look):
                self.assertLess(float(np.median(own.off["ankle"])), 3.0)
                self.assertEqual(own.others, ())

    def test_what_is_planted_is_found_and_printed(self) -> None:
        slid, clean = self.told("legs", "pencil", "contact.slides"), self.told("legs", "clean")
        self.assertTrue(slid.found)
        self.assertFalse(clean.found)
        printed = guide_walks.table([slid, clean])
        self.assertIn("| contact.slides | 1 of 1 | 0 of 0 |", printed)
        self.assertIn("Found 1 of 1.", printed)
        self.assertIn("Clean clips with a finding: 0 of 1.", printed)
