"""What an installation kept is read whatever version wrote it."""

from __future__ import annotations

import unittest

from motion import retiming, strokes
from motion.errors import NewerDocument
from motion.retiming import Held
from motion.stored import Schema
from motion.strokes import Stroke
from motion.tracking import placing
from motion.tracking.ellipse import Ellipse
from motion.tracking.placing import Placement

PLACED = Placement(shapes={3: Ellipse(x=10.5, y=20.0, major=30.0, minor=28.0, angle=12.0)}, pivot=(320.0, 40.5))
STROKE = Stroke("line", ((1.0, 2.0, 0.5), (30.0, 40.0, 0.5)))
TIMING = (Held(1, 2), Held(2, 1))


class StoredTest(unittest.TestCase):
    def test_what_is_kept_says_how_it_is_written_and_comes_back(self) -> None:
        for kept in (PLACED.to_json(), STROKE.kept(), retiming.kept(TIMING)):
            self.assertRegex(kept["schema"], r"^nettlecap\.\w+/1$")
        self.assertEqual(placing.from_json(PLACED.to_json()), PLACED)
        self.assertEqual(strokes.from_kept("line", STROKE.kept()), STROKE)
        self.assertEqual(retiming.pairs_of(retiming.kept(TIMING)), retiming.pairs(TIMING))

    def test_what_was_kept_before_documents_had_a_schema_is_read(self) -> None:
        bare = {k: v for k, v in PLACED.to_json().items() if k != "schema"}
        self.assertEqual(placing.from_json(bare), PLACED)
        self.assertEqual(strokes.from_kept("line", [[1.0, 2.0, 0.5], [30.0, 40.0, 0.5]]), STROKE)
        self.assertEqual(retiming.pairs_of([[1, 2], [2, 1]]), retiming.pairs(TIMING))

    def test_what_a_newer_version_wrote_is_said_to_be_so(self) -> None:
        for read in (placing.from_json, retiming.pairs_of, lambda d: strokes.from_kept("pen", d)):
            with self.assertRaisesRegex(NewerDocument, "/9”, which this version"):
                read({"schema": "nettlecap.thing/9"})

    def test_older_documents_go_through_each_step_and_stay_as_they_are(self) -> None:
        schema = Schema(
            name="c",
            steps={"": lambda d: {"schema": "b", "list": d}, "b": lambda d: {"schema": "c", "n": len(d["list"])}},
        )
        old = [4, 5, 6]
        self.assertEqual(schema.read(old), {"schema": "c", "n": 3})
        self.assertEqual(old, [4, 5, 6])
        self.assertEqual(Placement().to_json(), {})
