"""A later take beside an earlier one: what is gone, left and new, by moments of the motion and not by frame numbers."""

from __future__ import annotations

import unittest
from typing import Any

from motion.comparison import compare, times_off


def found(code: str, first: int, last: int | None = None, off: float = 5.0) -> dict[str, Any]:
    return {
        "code": code,
        "first_frame": first,
        "last_frame": last or first,
        "measured": off,
        "expected": 0.0,
        "tolerance": 2.0,
    }


def take(frames: int, contacts: list[float], *findings: dict[str, Any]) -> dict[str, Any]:
    return {
        "clip": {"frames": frames},
        "motion": {"contacts": [{"time": t} for t in contacts]},
        "findings": list(findings),
    }


class Comparison(unittest.TestCase):
    def test_a_fault_is_left_where_the_motion_is_the_same_whatever_its_frame(self) -> None:
        before = take(40, [8.0, 20.0, 30.0], found("contact.gap", 20), found("spacing.jump", 25))
        # The second take is slower: its second contact comes at frame 28.
        now = take(56, [11.0, 28.0, 42.0], found("contact.gap", 28), found("spacing.jump", 15))
        told = compare(before, before["findings"], now)
        self.assertEqual([(b.before["first_frame"], b.now["first_frame"]) for b in told.left], [(20, 28)])
        self.assertEqual([f["code"] for f in told.gone], ["spacing.jump"])
        self.assertEqual([f["first_frame"] for f in told.new], [15])

    def test_only_what_was_agreed_counts_as_to_fix(self) -> None:
        before = take(30, [8.0], found("contact.gap", 8), found("spacing.jump", 20))
        told = compare(before, before["findings"][:1], take(30, [8.0], found("spacing.jump", 20)))
        self.assertEqual(([f["code"] for f in told.gone], len(told.new)), (["contact.gap"], 1))

    def test_one_fault_now_answers_for_one_before(self) -> None:
        before = take(30, [8.0], found("spacing.jump", 14), found("spacing.jump", 17))
        told = compare(before, before["findings"], take(30, [8.0], found("spacing.jump", 17)))
        self.assertEqual((len(told.gone), len(told.left), len(told.new)), (1, 1, 0))

    def test_it_says_whether_a_fault_has_become_less(self) -> None:
        for off, trend in ((2.5, "less"), (5.2, "as before"), (9.0, "more")):
            before, now = found("contact.gap", 8), found("contact.gap", 8, off=off)
            told = compare(take(30, [8.0], before), [before], take(30, [8.0], now))
            self.assertEqual(told.left[0].trend, trend)

    def test_a_fault_that_was_not_measured_counts_once(self) -> None:
        self.assertEqual(times_off({"measured": None, "expected": None, "tolerance": None}), 1.0)
        self.assertEqual(times_off(found("contact.gap", 1, off=-6.0)), 3.0)
