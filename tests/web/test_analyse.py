"""``manage.py analyse`` as others rely on it: files, words and exit statuses."""

from __future__ import annotations

import io
import json
import tempfile
import unittest
from contextlib import redirect_stderr
from pathlib import Path

from django.core.management import call_command

from motion.brief import Brief
from motion.exercises.bounce import presets
from motion.exercises.bounce.feel import plan_of
from motion.exercises.exercise import start_from
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.look import LOOKS
from nettlecap.takes.hand_in import hand_in
from nettlecap.takes.models import Analysis
from tests.web.school import SchoolTest, broken_zip, clean_clip, hanging_clip, look_at_all, upload


class Analysing(unittest.TestCase):
    def setUp(self) -> None:
        place = tempfile.TemporaryDirectory()
        self.addCleanup(place.cleanup)
        self.folder = Path(place.name)
        self.brief = self.folder / "brief.json"
        self.brief.write_text(json.dumps({"schema": "nettlecap.brief/1", "exercise": "bounce"}))

    def clip(self, data: bytes, name: str) -> str:
        path = self.folder / name
        path.write_bytes(data)
        return str(path)

    def analyse(self, *clips: str, brief: Path | None = None) -> tuple[int, str]:
        errors = io.StringIO()
        try:
            call_command("analyse", *clips, brief=str(brief or self.brief), out=str(self.folder / "out"),
                         stdout=io.StringIO(), stderr=errors)  # fmt: skip
        except SystemExit as stop:
            return int(stop.code or 0), errors.getvalue()
        return 0, errors.getvalue()

    def test_findings_and_track_are_written_for_each_clip(self) -> None:
        data, frame = hanging_clip()
        status, errors = self.analyse(self.clip(data, "hanging.zip"), self.clip(clean_clip(), "clean.zip"))
        self.assertEqual((status, errors), (0, ""))
        found = json.loads((self.folder / "out" / "hanging.findings.json").read_text())
        self.assertEqual(found["schema"], "nettlecap.findings/1")
        self.assertEqual([(f["code"], f["first_frame"]) for f in found["findings"]], [("contact.gap", frame)])
        self.assertEqual(json.loads((self.folder / "out" / "clean.findings.json").read_text())["findings"], [])
        rows = (self.folder / "out" / "clean.track.csv").read_text().splitlines()
        self.assertEqual(len(rows), 1 + len(found["clip"]["exposures"]))

    def test_an_unreadable_clip_is_one_line_and_the_others_are_still_written(self) -> None:
        status, errors = self.analyse(self.clip(broken_zip(), "broken.zip"), self.clip(clean_clip(), "clean.zip"))
        self.assertEqual(status, 1)
        self.assertEqual(len(errors.strip().splitlines()), 1)
        self.assertIn("broken.zip", errors)
        self.assertTrue((self.folder / "out" / "clean.findings.json").exists())
        self.assertFalse((self.folder / "out" / "broken.findings.json").exists())

    def test_a_bad_brief_is_one_line_and_status_two(self) -> None:
        clip = self.clip(clean_clip(), "clean.zip")
        for text in ('{"schema": "nettlecap.brief/1", "exercise": "bounce", "colour": "red"}', "not json", "[]"):
            with self.subTest(text):
                bad = self.folder / "bad.json"
                bad.write_text(text)
                status, errors = self.analyse(clip, brief=bad)
                self.assertEqual(status, 2)
                self.assertEqual(len(errors.strip().splitlines()), 1)
        self.assertEqual(self.analyse(clip, brief=self.folder / "missing.json")[0], 2)

    def test_two_clips_of_one_name_are_not_mixed_up(self) -> None:
        (self.folder / "a").mkdir()
        first = self.clip(clean_clip(), "clean.zip")
        second = self.clip(clean_clip(), "a/clean.zip")
        self.assertEqual(self.analyse(first, second)[0], 2)

    def test_a_clip_drawn_over_a_briefs_guide_comes_back_clean(self) -> None:
        preset = next(p for p in presets.PRESETS if p.key == "tennis")
        asked = start_from(preset, Brief(canvas=(480, 270), frames=(20, 90)))
        brief = self.folder / "tennis.brief.json"
        brief.write_text(json.dumps(asked.to_json()))
        clip = self.folder / "over.webm"
        write.save(draw.frames(plan_of(asked), LOOKS["clean"]), clip, "webm", 24)
        self.assertEqual(self.analyse(str(clip), brief=brief), (0, ""))
        found = json.loads((self.folder / "out" / "over.findings.json").read_text())
        self.assertEqual((found["findings"], found["preflight"]), ([], []))

    def test_a_guide_that_cannot_be_drawn_makes_a_bad_brief(self) -> None:
        bad = self.folder / "bad.json"
        bad.write_text(json.dumps({**json.loads(self.brief.read_text()), "guide": {"height": 900}}))
        status, errors = self.analyse(self.clip(clean_clip(), "clean.zip"), brief=bad)
        self.assertEqual((status, len(errors.strip().splitlines())), (2, 1))
        self.assertIn("guide.height", errors)

    def test_missing_arguments_are_status_two(self) -> None:
        from django.core.management import ManagementUtility

        with self.assertRaises(SystemExit) as stop, redirect_stderr(io.StringIO()):
            ManagementUtility(["manage.py", "analyse", "clip.zip"]).execute()
        self.assertEqual(stop.exception.code, 2)


class SamePath(SchoolTest):
    def test_worker_and_command_find_the_same(self) -> None:
        data, _ = hanging_clip()
        hand_in(self.school.student, self.school.brief, [upload(data, "hanging.zip")])
        look_at_all()
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "hanging.zip").write_bytes(data)
            (folder / "brief.json").write_text(json.dumps(self.school.brief.core.to_json()))
            call_command("analyse", str(folder / "hanging.zip"), brief=str(folder / "brief.json"), out=name,
                         stdout=io.StringIO())  # fmt: skip
            written = json.loads((folder / "hanging.findings.json").read_text())
        self.assertEqual(Analysis.objects.get().findings, written)
