"""The findings file and the track table, as others rely on them."""

from __future__ import annotations

import csv
import io
import json
import unittest
from dataclasses import replace

from motion.analysis import Analysis
from motion.brief import BounceBrief, Brief
from motion.catalogue import PRINCIPLES
from motion.exercises.bounce.plan import Recipe, bounce
from motion.findings import Finding, merge_runs, span
from motion.report.file import to_json, to_text, track_csv
from motion.synth.bounce.cases import clip_of, random_case
from motion.track import of_shapes
from tests.core.drawn import judged, with_fault

CLIP_KEYS = {"name", "fps", "frames", "width", "height", "exposures"}
SHAPE_KEYS = {"drawing", "x", "y", "major", "minor", "angle", "bottom", "clipped", "confidence", "source"}
FINDING_KEYS = {
    "code",
    "principle",
    "first_frame",
    "last_frame",
    "measured",
    "expected",
    "tolerance",
    "unit",
    "severity",
    "confidence",
    "message",
    "advice",
}


class FindingsFile(unittest.TestCase):
    result: Analysis

    @classmethod
    def setUpClass(cls) -> None:
        plan, _ = with_fault("volume.changes", 2.5)
        cls.result = judged(plan)

    def test_it_has_the_keys_that_the_contract_names(self) -> None:
        data = to_json(self.result)
        self.assertEqual(data["schema"], "nettlecap.findings/1")
        self.assertLessEqual(CLIP_KEYS, set(data["clip"]))
        self.assertEqual(set(data["clip"]["exposures"][0]), {"drawing", "first_frame", "frames"})
        self.assertEqual(data["track"]["kind"], "ball")
        self.assertLessEqual({"y_left", "y_right", "confidence"}, set(data["track"]["ground"]))
        self.assertLessEqual(SHAPE_KEYS, set(data["track"]["shapes"][0]))
        self.assertLessEqual(FINDING_KEYS, set(data["findings"][0]))

    def test_values_lie_in_their_ranges(self) -> None:
        data = to_json(self.result)
        for shape in data["track"]["shapes"]:
            self.assertTrue(-90 < shape["angle"] <= 90)
            self.assertGreaterEqual(shape["major"], shape["minor"])
            self.assertIn(shape["source"], ("found", "placed"))
        for finding in data["findings"]:
            self.assertIn(finding["principle"], PRINCIPLES)
            self.assertIn(finding["severity"], ("slight", "clear", "strong"))
            self.assertTrue(0 <= finding["confidence"] <= 1)
            self.assertTrue(1 <= finding["first_frame"] <= finding["last_frame"] <= data["clip"]["frames"])
            self.assertTrue(finding["message"].endswith(".") and finding["advice"].endswith("."))

    def test_it_is_json_without_nan(self) -> None:
        def refuse(constant: str) -> None:
            raise AssertionError(constant)

        json.loads(to_text(self.result), parse_constant=refuse)

    def test_the_table_has_a_row_an_exposure_and_empty_cells_for_what_was_not_measured(self) -> None:
        track = self.result.track
        lost = track.with_marks(track.subject, (None, *track.shapes[1:]))
        rows = list(csv.DictReader(io.StringIO(track_csv(replace(self.result, track=lost)))))
        self.assertEqual(len(rows), len(track.exposures))
        self.assertEqual((rows[0]["x"], rows[0]["first_frame"]), ("", "1"))
        self.assertAlmostEqual(float(rows[1]["x"]), self.result.track.shapes[1].x, places=2)  # type: ignore[union-attr]

    def test_a_clip_in_which_nothing_is_found_is_a_file_too(self) -> None:
        empty = of_shapes(self.result.track.exposures, (None,) * 40, ())
        data = to_json(replace(self.result, track=empty, scene=None, findings=()))
        self.assertEqual((data["track"]["ground"], data["track"]["shapes"], data["motion"]), (None, [], None))


class Preflight(unittest.TestCase):
    def codes(self, brief: Brief) -> list[str]:
        return [n.code for n in judged(bounce(Recipe()), brief).preflight]

    def test_what_is_not_as_asked_is_noted(self) -> None:
        self.assertEqual(self.codes(Brief(canvas=(960, 540), frames=(20, 60))), [])
        self.assertEqual(self.codes(Brief(canvas=(640, 360))), ["preflight.size"])
        self.assertEqual(self.codes(Brief(frames=(60, 90))), ["preflight.length"])

    def test_a_long_rest_at_the_end_is_noted(self) -> None:
        plan = bounce(Recipe())
        held = replace(plan.poses[-1], frames=30)
        result = judged(replace(plan, poses=(*plan.poses[:-1], held)))
        self.assertEqual([n.code for n in result.preflight], ["preflight.tail"])

    def test_a_ball_cut_off_by_the_edge_is_one_note_and_not_judged_by_size(self) -> None:
        case = random_case(3, None, looks=["clean"])
        over = case.plan.recipe.width - case.plan.poses[-1].x
        left = tuple(replace(p, x=p.x + over) for p in case.plan.poses)
        from motion.analysis import analyse

        moved = replace(case, plan=replace(case.plan, poses=left), brief=Brief(asked=BounceBrief()))
        result = analyse(clip_of(moved), moved.brief)
        self.assertEqual([n.code for n in result.preflight if n.code == "preflight.edge"], ["preflight.edge"])
        self.assertNotIn("volume.changes", [f.code for f in result.findings])


class Merging(unittest.TestCase):
    def finding(self, first: int, last: int, measured: float) -> Finding:
        return Finding(
            code="volume.changes",
            principle="squash_stretch",
            first_frame=first,
            last_frame=last,
            measured=measured,
            expected=1.0,
            tolerance=0.12,
            unit="share",
            severity="slight",
            confidence=0.9,
            message=str(measured),
            advice="",
        )

    def test_neighbours_become_one_range_told_by_the_gravest(self) -> None:
        merged = merge_runs(
            [self.finding(5, 6, 1.2), self.finding(3, 4, 1.5), self.finding(9, 9, 1.3)], {(4, 5), (6, 7), (8, 9)}
        )
        self.assertEqual([(f.first_frame, f.last_frame, f.message) for f in merged], [(3, 6, "1.5"), (9, 9, "1.3")])

    def test_spans_are_said_as_people_do(self) -> None:
        self.assertEqual((span(7, 7), span(7, 11)), ("Frame 7", "Frames 7 to 11"))


class Parts(unittest.TestCase):
    """Two things may have the same fault on the same frames; each has a finding and a key of its own."""

    def finding(self, part: str, first: int = 5) -> Finding:
        return Finding(
            code="contact.slides", principle="contact", first_frame=first, last_frame=first + 1, measured=4.0,
            expected=0.0, tolerance=1.0, unit="px", severity="clear", confidence=0.9, message="", advice="", part=part,
        )  # fmt: skip

    def test_a_part_is_written_only_where_there_is_one(self) -> None:
        self.assertNotIn("part", self.finding("").to_json())
        self.assertEqual(self.finding("near foot").to_json()["part"], "near foot")

    def test_runs_of_each_part_are_one_finding(self) -> None:
        found = [self.finding(part, first) for first in (5, 7) for part in ("near foot", "far foot")]
        merged = merge_runs(found, {(6, 7)})
        told = [(f.part, f.first_frame, f.last_frame) for f in merged]
        self.assertEqual(told, [("near foot", 5, 8), ("far foot", 5, 8)])
