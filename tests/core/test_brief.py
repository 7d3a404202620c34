"""The brief file: what it takes, and how it says what it does not."""

from __future__ import annotations

import json
import unittest

from motion.brief import Brief, from_json, parse
from motion.errors import BriefError


def brief(**changes: object) -> dict[str, object]:
    return {"schema": "nettlecap.brief/1", "exercise": "bounce", **changes}


class ReadingBriefs(unittest.TestCase):
    def test_a_short_brief_means_the_defaults(self) -> None:
        self.assertEqual(from_json(brief()), Brief())

    def test_it_comes_back_as_it_was_written(self) -> None:
        asked = from_json(
            brief(
                fps=25,
                exposure="twos",
                frames={"min": 10, "max": 20},
                canvas={"width": 640, "height": 360},
                strictness="strict",
                ground_y=301.5,
                bounce={"material": "hard", "hops": 3, "restitution": [0.7, 0.8], "diameter_m": 0.2},
            )
        )
        self.assertEqual(parse(json.dumps(asked.to_json())), asked)

    def test_each_bad_value_is_named(self) -> None:
        bad = {
            "fps": {"fps": 0},
            "exposure": {"exposure": "threes"},
            "frames.min": {"frames": {"min": 0, "max": 4}},
            "frames": {"frames": {"min": 9, "max": 4}},
            "canvas.height": {"canvas": {"width": 640}},
            "strictness": {"strictness": "harsh"},
            "loop": {"loop": "yes"},
            "ground_y": {"ground_y": float("nan")},
            "bounce.material": {"bounce": {"material": "jelly"}},
            "bounce.hops": {"bounce": {"hops": 2.5}},
            "bounce.restitution": {"bounce": {"restitution": [0.9, 0.2]}},
            "bounce.diameter_m": {"bounce": {"diameter_m": -1}},
            "colour": {"colour": "red"},
            "bounce.colour": {"bounce": {"colour": "red"}},
            "schema": {"schema": "other/1"},
            "exercise": {"exercise": "juggling"},
        }
        for field, change in bad.items():
            with self.subTest(field), self.assertRaises(BriefError) as caught:
                from_json(brief(**change))
            self.assertIn(field, caught.exception.problems)

    def test_what_is_no_json_object_is_refused(self) -> None:
        for text in ("", "[]", "3", "{", "null", "[" * 5000):
            with self.subTest(text[:10]), self.assertRaises(BriefError):
                parse(text)

    def test_strictness_scales(self) -> None:
        scales = [Brief(strictness=s).leniency for s in ("gentle", "standard", "strict")]  # type: ignore[arg-type]
        self.assertEqual(scales, [1.6, 1.0, 0.6])
