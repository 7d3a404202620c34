"""The brief file: what it takes, and how it says what it does not."""

from __future__ import annotations

import json
import unittest
from typing import Any

from motion.brief import BounceBrief, Brief, from_json, from_stored, parse
from motion.brief.upgrade import upgraded
from motion.catalogue import PRINCIPLES
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
                title="A “sinker”",
                words="Two\nlines.",
                guide={"height": 200, "end": "rolling", "hop_s": None, "contacts": None, "ticks": {"4": 0.3}},
                marking={"points": {"arcs": 5}, "weights": {"contact.gap": 0.5, "timing.hold": 0}},
                terms={"takes": 2, "late": "refused", "own_checks": None, "guide": "ground"},
            )
        )
        self.assertEqual(parse(json.dumps(asked.to_json())), asked)
        assert asked.guide is not None
        self.assertEqual((asked.guide.ticks, asked.guide.hop_s, asked.guide.keeps), (((4, 0.3),), None, 0.8))
        self.assertEqual((asked.marking.weight("contact.gap"), asked.marking.weight("arc.off_path")), (0.5, 1.0))
        self.assertEqual(dict(asked.marking.points), {**dict.fromkeys(PRINCIPLES, 0.0), "arcs": 5.0})
        self.assertEqual((asked.terms.own_checks, Brief().terms.own_checks), (None, 0))

    def test_only_what_is_looked_for_needs_a_new_analysis(self) -> None:
        plain = from_json(brief(guide={}))
        for change in ({"title": "x"}, {"words": "x"}, {"marking": {"points": {}}}, {"terms": {"takes": 1}}):
            with self.subTest(change):
                self.assertEqual(from_json(brief(guide={}, **change)).what_is_analysed(), plain.what_is_analysed())
        for change in ({"fps": 25}, {"strictness": "strict"}, {"guide": {"height": 99}}, {"ground_y": 4}):
            with self.subTest(change):
                other = from_json(brief(**{"guide": {}, **change}))
                self.assertNotEqual(other.what_is_analysed(), plain.what_is_analysed())

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
            "title": {"title": "x" * 121},
            "guide": {"guide": 3},
            "guide.height": {"guide": {"height": -1}},
            "guide.start": {"guide": {"start": "kicked"}},
            "guide.contacts": {"guide": {"contacts": 0}},
            "guide.ticks": {"guide": {"ticks": {"4": 1.5}}},
            "guide.spin": {"guide": {"spin": 1}},
            "marking.points.arcs": {"marking": {"points": {"arcs": -1}}},
            "marking.points.charm": {"marking": {"points": {"charm": 1}}},
            "marking.weights.contact.gap": {"marking": {"weights": {"contact.gap": "much"}}},
            "terms.takes": {"terms": {"takes": 0}},
            "terms.late": {"terms": {"late": "perhaps"}},
            "terms.late_cost": {"terms": {"late_cost": 2}},
            "terms.guide": {"terms": {"guide": "half"}},
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


class Stored(unittest.TestCase):
    """What an installation stored itself is read for ever; what comes from outside is read strictly."""

    def document(self, **more: object) -> dict[str, object]:
        return {"schema": "nettlecap.brief/1", "exercise": "bounce", "fps": 25, **more}

    def test_keys_that_are_no_longer_known_are_passed_over(self) -> None:
        for more in (
            {"colour": "ochre"},
            {"bounce": {"material": "hard", "springs": 2}},
            {"marking": {"weights": {"spacing.wobbles": 2}}},
            {"guide": {"wind": 3}},
        ):
            with self.subTest(more), self.assertRaises(BriefError):
                from_json(self.document(**more))
            self.assertEqual(from_stored(self.document(**more)).fps, 25)
        self.assertEqual(
            from_stored(self.document(bounce={"material": "hard", "springs": 2})).asked, BounceBrief(material="hard")
        )

    def test_older_documents_are_brought_up_step_by_step_and_stay_as_they_are(self) -> None:
        def second(told: dict[str, Any]) -> dict[str, Any]:
            return {**told, "schema": "nettlecap.brief/1", "exercise": told.pop("kind")}

        steps = {
            "nettlecap.brief/0.8": lambda told: {**told, "schema": "nettlecap.brief/0.9", "kind": "bounce"},
            "nettlecap.brief/0.9": second,
        }
        kept = {"schema": "nettlecap.brief/0.8", "fps": 12}
        told = upgraded(kept, steps)
        self.assertEqual((told["schema"], told["exercise"], told["fps"]), ("nettlecap.brief/1", "bounce", 12))
        self.assertEqual(kept, {"schema": "nettlecap.brief/0.8", "fps": 12})

    def test_what_a_newer_version_wrote_is_said_to_be_so(self) -> None:
        for document in ({"schema": "nettlecap.brief/7"}, {}, [], {"schema": None}):
            with self.subTest(document), self.assertRaises(BriefError):
                upgraded(document)
