"""A chain from its brief to what its student reads, through the pages."""

from __future__ import annotations

import json
from dataclasses import replace

import numpy as np
from django.urls import reverse

from motion.brief import Brief, PendulumBrief, Swing
from motion.exercises.pendulum.feel import plan_of
from motion.guide.guide import guide_of
from motion.synth import draw, write
from motion.synth.look import LOOKS
from motion.synth.pendulum.faults import FAULTS
from nettlecap.classroom.forms import BriefForm
from nettlecap.classroom.models import Brief as Stored
from tests.web.forms import filled
from tests.web.school import SchoolTest

ASKED = Brief(
    canvas=(480, 270),
    asked=PendulumBrief(hangs="chain", links=3, drag=True),
    guide=Swing(pivot_x=240, pivot_y=30, length=170, wide=20, size=36, count=3, swing_s=0.6, follows=1.5),
)


def strung(code: str | None) -> bytes:
    """A zip of a chain, clean or with a fault."""
    plan = plan_of(ASKED)
    planted = FAULTS[code](plan, np.random.default_rng(2), 2.5) if code else plan
    assert planted is not None
    return write.to_zip(draw.frames("pendulum", planted, LOOKS["clean"]))


class Editor(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.instructor)

    def test_a_chain_is_set_kept_and_read_back_as_it_was(self) -> None:
        new = reverse("new-brief", args=[self.school.course.pk])
        page = self.client.get(new, {"exercise": "pendulum"})
        self.assertContains(page, 'data-when="hangs=chain hangs=tail"')
        answer = self.client.post(f"{new}?exercise=pendulum", filled(ASKED, title="Floats", act="publish"))
        self.assertEqual(answer.status_code, 302)
        stored = Stored.objects.get(title="Floats")
        self.assertEqual((stored.core.asked, stored.core.guide), (ASKED.asked, ASKED.guide))
        page = self.client.get(reverse("edit-brief", args=[stored.pk]))
        self.assertContains(page, '<option value="true" selected>yes</option>')
        self.assertContains(self.client.get(reverse("brief", args=[stored.pk])), "a chain of 3 links")

    def test_whether_parts_must_drag_is_yes_no_or_left_open(self) -> None:
        for told, drag in (("true", True), ("false", False), ("", None)):
            form = BriefForm("pendulum", filled(ASKED, title="Floats", drag=told))
            self.assertTrue(form.is_valid(), form.errors)
            asked = form.wanted().core.asked
            assert isinstance(asked, PendulumBrief)
            self.assertIs(asked.drag, drag)

    def test_what_is_carried_is_set_with_its_guide_or_without(self) -> None:
        told = filled(ASKED, title="Floats", pivot="moved", carry="200", carry_s="1.1", eases="0.4", pivot_x="140")
        for with_guide in (True, False):
            if not with_guide:
                del told["with_guide"]
            form = BriefForm("pendulum", told)
            self.assertTrue(form.is_valid(), form.errors)
            core = form.wanted().core
            assert isinstance(core.asked, PendulumBrief)
            self.assertEqual(core.asked.pivot, "moved")
            self.assertEqual(core.guide and core.guide.carry, 200.0 if with_guide else None)  # type: ignore[union-attr]

    def test_its_base_is_dragged_to_where_it_stops(self) -> None:
        url = reverse("live-guide", args=[self.school.course.pk])
        told = filled(ASKED, title="Floats", pivot="moved", carry="200", carry_s="1.1", eases="0.4", pivot_x="140")
        shown = self.client.post(url, told).json()
        self.assertEqual(shown["errors"], {})
        (handle,) = [h for h in shown["guide"]["handles"] if h["name"] == "carry"]
        change = json.dumps({"name": "carry", "x": handle["at"][0] - 40, "y": handle["at"][1]})
        after = self.client.post(url, {**told, "change": change}).json()
        self.assertEqual(after["values"]["carry"], 160.0)

    def test_the_guide_follows_its_end_as_that_is_dragged(self) -> None:
        url = reverse("live-guide", args=[self.school.course.pk])
        told = self.client.post(url, filled(ASKED, title="Floats")).json()
        self.assertEqual(told["errors"], {})
        (handle,) = [h for h in told["guide"]["handles"] if h["name"] == "follows"]
        x, y = handle["at"]
        change = json.dumps({"name": "follows", "x": x - 25, "y": y})
        after = self.client.post(url, filled(ASKED, title="Floats", change=change)).json()
        self.assertGreater(after["values"]["follows"], 1.5)
        self.assertIn(f"{after['values']['follows']:g} frames after the one above", " ".join(after["guide"]["words"]))
        refused = self.client.post(url, filled(ASKED, title="Floats", follows="11")).json()
        self.assertEqual(set(refused["errors"]), {"follows"})
        self.assertIsNone(refused["guide"])


class Marking(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.school.brief = self.school.set_brief(**replace(ASKED, title="").to_json())

    def test_a_stiff_chain_is_told_charted_and_shown_mended(self) -> None:
        take = self.school.take(data=strung("overlap.stiff"))
        told = take.analysis.findings or {}
        self.assertEqual([f["code"] for f in told["findings"]], ["overlap.stiff"])
        self.as_person(self.school.instructor)
        page = self.client.get(reverse("desk", args=[take.pk]))
        self.assertContains(page, 'data-chart="parts"')
        self.assertContains(page, '<span class="curve-key c3">link 3</span>')
        self.assertContains(page, "At their extremes link 2 comes")
        self.assertContains(page, "at least 0.5 frames after it wanted")
        shown = self.client.get(reverse("mended", args=[take.pk])).json()["shown"]
        self.assertGreater(sum(part["moved"] is not None for part in shown), len(shown) / 2)
        key = f"overlap.stiff:1-{told['clip']['frames']}"
        self.client.post(reverse("say", args=[take.pk]), {"key": key, "verdict": "agreed"})
        self.client.post(reverse("return-marks", args=[take.pk]))
        self.assertTrue(self.client.get(reverse("marks-pdf", args=[take.pk])).getvalue().startswith(b"%PDF"))
        self.as_person(self.school.student)
        self.assertContains(self.client.get(reverse("returned", args=[take.pk])), "overlap.stiff")

    def test_a_joint_is_placed_by_hand_and_taken_back(self) -> None:
        take = self.school.take(data=strung(None))
        self.as_person(self.school.instructor)
        url = reverse("place", args=[take.pk])

        def told(**asked: object) -> tuple[list[float], str, list[str]]:
            self.assertEqual(self.client.post(url, {"place": json.dumps(asked)}).status_code, 200)
            take.analysis.refresh_from_db()
            findings = take.analysis.findings
            chain = next(c for c in findings["track"]["chains"] if c["drawing"] == 6)
            self.assertEqual({c["bob"] is None for c in findings["track"]["chains"]}, {True})
            return chain["points"][2], chain["source"], [f["code"] for f in findings["findings"]]

        (x, y), *_ = told(drawing=6, landmark="end", at=[240.0, 30.0])
        moved, source, codes = told(drawing=6, landmark="joint_2", at=[x + 14, y])
        self.assertEqual((moved, source), ([round(x + 14, 2), y], "placed"))
        self.assertIn("volume.length", codes)
        self.assertEqual(told(drawing=6, ellipse=None)[1:], ("found", []))
        asked = {"drawing": 6, "landmark": "joint_3", "at": [1, 2]}
        self.assertEqual(self.client.post(url, {"place": json.dumps(asked)}).status_code, 422)

    def test_a_clean_chain_has_nothing_to_mend_and_its_guide_goes_out(self) -> None:
        take = self.school.take(data=strung(None))
        self.assertEqual((take.analysis.findings or {})["findings"], [])
        self.as_person(self.school.instructor)
        shown = self.client.get(reverse("mended", args=[take.pk])).json()["shown"]
        self.assertEqual([part for part in shown if part["moved"] is not None], [])
        for name, begins in (
            ("sheet.svg", b"<?xml"),
            ("sheet.pdf", b"%PDF"),
            ("frames.zip", b"PK"),
            ("chart.svg", b"<"),
        ):
            answer = self.client.get(reverse("guide-file", args=[self.school.brief.pk, name]))
            self.assertTrue(answer.getvalue().startswith(begins), name)
        self.assertEqual(len(guide_of(ASKED).plan.poses), len({s["drawing"] for s in shown}))
