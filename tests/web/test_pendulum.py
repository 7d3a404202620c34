"""A pendulum from brief to returned mark through the pages, and by the command line."""

from __future__ import annotations

import io
import json
import tempfile
from dataclasses import replace
from pathlib import Path

import numpy as np
from django.core.management import call_command
from django.urls import reverse

from motion.brief import Brief, PendulumBrief, Swing
from motion.exercises.pendulum.feel import plan_of
from motion.synth import draw, write
from motion.synth.look import LOOKS
from motion.synth.pendulum.faults import FAULTS
from nettlecap.classroom.models import Course
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, Parcel
from nettlecap.marking.parcels import packing
from nettlecap.marking.returning.since import since
from tests.web.school import SchoolTest

ASKED = Brief(
    canvas=(480, 270),
    asked=PendulumBrief(),
    guide=Swing(pivot_x=240, pivot_y=30, length=170, size=36, count=3, swing_s=0.6),
)


def hung(code: str | None) -> tuple[bytes, int | None]:
    """A zip of a pendulum, clean or with a fault, and the frame that shows it."""
    plan = right = plan_of(ASKED)
    if code:
        planted = FAULTS[code](right, np.random.default_rng(2), 3.0)
        assert planted is not None
        plan = planted
    wrong = [i for i, (a, b) in enumerate(zip(plan.poses, right.poses, strict=True)) if a != b]
    drawn = draw.frames("pendulum", plan, LOOKS["clean"])
    return write.to_zip(drawn), plan.first_frame(wrong[0]) if wrong else None


class Pendulum(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        told = replace(ASKED, title="").to_json()
        self.school.brief = self.school.set_brief(**told)

    def test_a_fault_is_found_agreed_and_read_by_its_student(self) -> None:
        data, frame = hung("spacing.jump")
        take = self.school.take(data=data)
        findings = (take.analysis.findings or {})["findings"]
        self.assertEqual([(f["code"], f["first_frame"]) for f in findings], [("spacing.jump", frame)])
        self.as_person(self.school.instructor)
        page = self.client.get(reverse("desk", args=[take.pk]))
        self.assertContains(page, "too far")
        self.assertContains(page, "Timing, swing by swing")
        self.assertContains(page, "A tick at every extreme")
        key = f"spacing.jump:{frame}-{frame}"
        self.client.post(reverse("say", args=[take.pk]), {"key": key, "verdict": "agreed"})
        self.assertEqual(Decision.objects.get().key, key)
        self.client.post(reverse("return-marks", args=[take.pk]))
        self.as_person(self.school.student)
        self.assertContains(self.client.get(reverse("returned", args=[take.pk])), "spacing.jump")

    def test_guide_wall_and_account_of_checks_are_there(self) -> None:
        take = self.school.take(data=hung(None)[0])
        self.assertEqual((take.analysis.findings or {})["findings"], [])
        self.as_person(self.school.instructor)
        for name, args in (
            ("beside-guide", [take.pk]),
            ("class-wall", [self.school.course.pk]),
            ("checks-of", ["pendulum"]),
            ("guide-file", [self.school.brief.pk, "sheet.svg"]),
            ("guide-file", [self.school.brief.pk, "chart.svg"]),
            ("brief", [self.school.brief.pk]),
        ):
            with self.subTest(name, args=args):
                self.assertEqual(self.client.get(reverse(name, args=args)).status_code, 200)
        self.assertEqual(self.client.get(reverse("checks-of", args=["dance"])).status_code, 404)

    def test_the_pivot_is_placed_by_hand_and_taken_back(self) -> None:
        take = self.school.take(data=hung(None)[0])
        self.as_person(self.school.instructor)
        url = reverse("place", args=[take.pk])
        for asked, expected in (([243.0, 30.0], [243.0, 30.0]), (None, None)):
            self.assertEqual(self.client.post(url, {"place": json.dumps({"pivot": asked})}).status_code, 200)
            take.analysis.refresh_from_db()
            at = take.analysis.findings["track"]["pivot"]
            with self.subTest(asked=asked):
                self.assertAlmostEqual(at[0], expected[0] if expected else 240.0, delta=0.4)

    def test_the_end_of_a_line_is_placed_by_hand_and_taken_back(self) -> None:
        take = self.school.take(data=hung(None)[0])
        self.as_person(self.school.instructor)
        url = reverse("place", args=[take.pk])

        def told(**asked: object) -> tuple[list[float], str, list[str]]:
            self.assertEqual(self.client.post(url, {"place": json.dumps(asked)}).status_code, 200)
            take.analysis.refresh_from_db()
            findings = take.analysis.findings
            chain = next(c for c in findings["track"]["chains"] if c["drawing"] == 4)
            return chain["points"][0], chain["source"], [f["code"] for f in findings["findings"]]

        self.assertEqual(
            told(drawing=4, landmark="end", at=[250.0, 36.0]), ([250.0, 36.0], "placed", ["contact.pivot"])
        )
        (x, _), source, codes = told(drawing=4, ellipse=None)
        self.assertAlmostEqual(x, 240.0, delta=0.5)
        self.assertEqual((source, codes), ("found", []))
        for asked in (
            {"drawing": 99, "landmark": "end", "at": [1, 2]},
            {"drawing": 4, "landmark": "knee", "at": [1, 2]},
            {"drawing": 4, "landmark": "end", "at": "there"},
        ):
            with self.subTest(asked=asked):
                self.assertEqual(self.client.post(url, {"place": json.dumps(asked)}).status_code, 422)
        self.as_person(self.school.student)
        self.assertEqual(
            self.client.post(url, {"place": json.dumps({"drawing": 4, "landmark": "end", "at": [9, 9]})}).status_code,
            403,
        )

    def test_it_goes_out_in_every_way_and_two_takes_are_compared(self) -> None:
        first = self.school.take(data=hung("spacing.jump")[0])
        self.as_person(self.school.instructor)
        key = finding_key((first.analysis.findings or {})["findings"][0])
        self.client.post(reverse("say", args=[first.pk]), {"key": key, "verdict": "agreed"})
        self.client.post(reverse("return-marks", args=[first.pk]))
        second = self.school.take(data=hung(None)[0])
        gone = since(second, tell_new=True)
        assert gone is not None
        self.assertEqual([(p.principle, len(p.gone), len(p.left)) for p in gone.parts], [("spacing", 1, 0)])
        for name, args, begins in (
            ("marks-pdf", [first.pk], b"%PDF"),
            ("export-take", [first.pk, "clip.mp4"], b""),
            ("export-take", [first.pk, "clip.gif"], b"GIF8"),
            ("mended", [first.pk], b"{"),
            ("beside-take", [second.pk, first.pk], b"{"),
            ("guide-file", [self.school.brief.pk, "sheet.pdf"], b"%PDF"),
            ("guide-file", [self.school.brief.pk, "frames.zip"], b"PK"),
        ):
            answer = self.client.get(reverse(name, args=args), {"overlays": "1"})
            with self.subTest(name, args=args):
                self.assertEqual(answer.status_code, 200)
                self.assertTrue(answer.getvalue().startswith(begins))
        asked = {"take": [second.pk], "kind": "reel.mp4", "names": "1", "times": "1"}
        self.client.post(reverse("ask-reel", args=[self.school.brief.pk]), asked)
        self.assertEqual(packing.make(Parcel.objects.get().pk), "ready")

    def test_by_the_command_line(self) -> None:
        data, frame = hung("arc.off_path")
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "lantern.zip").write_bytes(data)
            (folder / "brief.json").write_text(json.dumps(replace(ASKED, guide=None).to_json()))
            call_command("analyse", str(folder / "lantern.zip"), brief=str(folder / "brief.json"),
                         out=str(folder / "out"), stdout=io.StringIO(), stderr=io.StringIO())  # fmt: skip
            found = json.loads((folder / "out" / "lantern.findings.json").read_text())
        self.assertEqual([(f["code"], f["first_frame"]) for f in found["findings"]], [("arc.off_path", frame)])
        self.assertEqual(found["track"]["kind"], "pendulum")
        self.assertEqual(len(found["track"]["chains"]), len(found["clip"]["exposures"]))

    def test_the_editor_offers_it(self) -> None:
        self.as_person(self.school.instructor)
        course: Course = self.school.course
        page = self.client.get(reverse("new-brief", args=[course.pk]), {"exercise": "pendulum"})
        self.assertContains(page, "Set a pendulum")
        start = self.client.get(
            reverse("start-values", args=[course.pk]), {"exercise": "pendulum", "from": "own:lantern"}
        ).json()
        self.assertEqual((start["length_m"], start["swing_s"]), (0.9, None))
        refused = self.client.get(reverse("new-brief", args=[course.pk]), {"exercise": "knitting"})
        self.assertEqual(refused.status_code, 404)
