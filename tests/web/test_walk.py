"""A walk through the pages: found, placed by hand, swapped, taken back, given out, mended and saved."""

from __future__ import annotations

import json
from dataclasses import replace
from itertools import pairwise

import numpy as np
from django.http import HttpResponse
from django.urls import reverse

from motion.brief import Brief, Stride, WalkBrief
from motion.exercises.walk.feel import plan_of
from motion.exercises.walk.figure import LANDMARKS
from motion.synth import draw, write
from motion.synth.look import LOOKS
from motion.synth.walk.faults import FAULTS
from nettlecap.marking.desk.laid_out import lay_out
from nettlecap.marking.keys import finding_key
from nettlecap.marking.returning.grades import faults, grade
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest

ASKED = Brief(
    canvas=(480, 270),
    asked=WalkBrief(direction="right"),
    guide=Stride(start_x=240, ground=236, leg=110, body=70, step=80, frames=8, steps=3, rise=6, lift=10),
)


def walked(code: str | None) -> tuple[bytes, int | None]:
    """A zip of a walk, clean or with a fault, and the frame that shows it."""
    plan = right = plan_of(ASKED)
    if code:
        plan = next(p for s in range(60) if (p := FAULTS[code](right, np.random.default_rng(s), 3.5)) is not None)
    wrong = [i for i, (a, b) in enumerate(zip(plan.poses, right.poses, strict=True)) if a != b]
    drawn = draw.frames("walk", plan, LOOKS["cut-out"])
    return write.to_zip(drawn), plan.first_frame(wrong[0]) if wrong else None


class Walk(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        told = replace(ASKED, title="").to_json()
        self.school.brief = self.school.set_brief(**told)

    def place(self, take: Take, **asked: object) -> HttpResponse:
        return self.client.post(reverse("place", args=[take.pk]), {"place": json.dumps(asked)})

    def test_a_hanging_foot_is_found_told_and_shown_mended(self) -> None:
        data, frame = walked("contact.gap")
        take = self.school.take(data=data)
        found = (take.analysis.findings or {})["findings"]
        self.assertEqual([(f["code"], f["first_frame"]) for f in found], [("contact.gap", frame)])
        self.as_person(self.school.instructor)
        page = self.client.get(reverse("desk", args=[take.pk]))
        for words in ("should stand", "Timing, step by step", "A tick at every contact", "passing", "foot stands"):
            self.assertContains(page, words)
        guide = lay_out(Take.objects.select_related("analysis", "brief").get(pk=take.pk)).player["guide"]
        self.assertEqual({len(place["lines"]) for place in guide}, {4}, "two legs and two feet")
        mended = self.client.get(reverse("mended", args=[take.pk])).json()
        (anew,) = [part for part in mended["shown"] if part["anew"]]
        drawing = next(e["drawing"] for e in self.exposures(take) if e["first_frame"] == frame)
        self.assertEqual((anew["drawing"], anew["moved"]), (drawing, None))
        self.assertTrue(all(part["figure"] for part in mended["shown"]))

    def test_a_limp_can_be_proposed_in_the_timing_that_evens_it(self) -> None:
        plan = plan_of(replace(ASKED, guide=replace(ASKED.guide, frames=12, limp=6, steps=4)))  # type: ignore[type-var]
        take = self.school.take(data=write.to_zip(draw.frames("walk", plan, LOOKS["cut-out"])))
        (finding,) = (take.analysis.findings or {})["findings"]
        self.assertEqual(finding["code"], "timing.limps")
        self.as_person(self.school.instructor)
        own = [[e["drawing"], e["frames"]] for e in self.exposures(take)]
        asked = {"timing": json.dumps(own), "kind": "mended", "first": 0, "last": 0}
        evened = self.client.post(reverse("retime", args=[take.pk]), asked).json()["timing"]
        contacts = [i for i, p in enumerate(plan.poses) if p.role == "contact"]
        shown = dict(evened)
        steps = [sum(shown.get(d, 0) for d, _ in own[a:b]) for a, b in pairwise(contacts)]
        self.assertEqual(steps, [12] * 4)
        self.client.post(reverse("say", args=[take.pk]), {"key": finding_key(finding), "verdict": "dismissed"})
        left = self.client.post(reverse("retime", args=[take.pk]), asked).json()["timing"]
        self.assertEqual(left, own)
        self.as_person(self.school.student)
        self.assertEqual(self.client.post(reverse("retime", args=[take.pk]), asked).status_code, 404)

    def exposures(self, take: Take) -> list[dict[str, int]]:
        told: list[dict[str, int]] = (take.analysis.findings or {})["clip"]["exposures"]
        return told

    def test_what_was_agreed_of_a_part_counts_wherever_points_are_told(self) -> None:
        take = self.school.take(data=walked("contact.gap")[0])
        found = (take.analysis.findings or {})["findings"][0]
        self.assertTrue(found["part"])
        self.as_person(self.school.instructor)
        self.client.post(reverse("say", args=[take.pk]), {"key": finding_key(found), "verdict": "agreed"})
        self.client.post(reverse("return-marks", args=[take.pk]))
        total = self.client.get(reverse("desk", args=[take.pk])).context["desk"].total
        take = Take.objects.get(pk=take.pk)
        agreed = faults(take, take.brief.core)
        self.assertEqual([finding_key(f) for f in agreed], [finding_key(found)])
        self.assertEqual(grade(take, take.brief.core, agreed).total, total)
        self.assertLess(total, grade(take, take.brief.core, []).total)
        self.as_person(self.school.student)
        self.assertContains(self.client.get(reverse("start")), f"is back, with {total:g} of")

    def test_joints_a_figure_and_sides_are_placed_and_each_is_taken_back(self) -> None:
        take = self.school.take(data=walked(None)[0])
        self.assertEqual((take.analysis.findings or {})["findings"], [])
        self.as_person(self.school.instructor)
        told = (take.analysis.findings or {})["track"]["figures"][5]
        points = {name: told["landmarks"][name] for name in LANDMARKS}
        self.place(take, drawing=6, landmark="toe_near", at=[points["toe_near"][0], points["toe_near"][1] + 20])
        take.refresh_from_db()
        self.assertEqual(take.placed["landmarks"]["toe_near"]["6"][1], round(points["toe_near"][1] + 20, 2))
        take.analysis.refresh_from_db()
        self.assertIn("contact.through", [f["code"] for f in (take.analysis.findings or {})["findings"]])
        self.place(take, drawing=6, points=points)
        self.place(take, turn=[1, 3])
        take.refresh_from_db()
        self.assertEqual(len(take.placed["landmarks"]), len(LANDMARKS))
        self.assertEqual(take.placed["turned"], [1, 2, 3])
        for _ in range(3):
            self.place(take, undo=True)
        take.refresh_from_db()
        self.assertEqual(take.placed, {})
        take.analysis.refresh_from_db()
        self.assertEqual((take.analysis.findings or {})["findings"], [])
        self.assertEqual(self.place(take, undo=True).status_code, 200)

    def test_what_somebody_else_placed_since_is_not_taken_back(self) -> None:
        take = self.school.take(data=walked(None)[0])
        told = (take.analysis.findings or {})["track"]["figures"][5]["landmarks"]
        self.as_person(self.school.instructor)
        self.place(take, drawing=6, landmark="toe_near", at=told["toe_near"])
        mine = self.client
        self.client = self.client_class()
        self.as_person(self.school.assistant)
        self.place(take, drawing=6, landmark="heel_near", at=told["heel_near"])
        self.client = mine
        self.assertContains(self.place(take, undo=True), "by somebody else", status_code=409)
        take.refresh_from_db()
        self.assertEqual(sorted(take.placed["landmarks"]), ["heel_near", "toe_near"])
        self.assertEqual(self.place(take, undo=True).status_code, 200)

    def test_what_is_no_joint_and_no_frame_is_refused_and_others_may_not_place(self) -> None:
        take = self.school.take(data=walked(None)[0])
        self.as_person(self.school.instructor)
        for asked in (
            {"drawing": 6, "landmark": "tail", "at": [1, 1]},
            {"drawing": 6, "points": {"tail": [1, 1]}},
            {"drawing": 6, "points": []},
            {"turn": [3]},
            {"turn": ["1", "2"]},
            {"turn": [900, 901]},
            {"turn": None},
        ):
            with self.subTest(asked):
                self.assertEqual(self.place(take, **asked).status_code, 422)
        self.as_person(self.school.student)
        for asked in ({"turn": [1, 3]}, {"drawing": 6, "points": {"hip": [1, 1]}}, {"undo": True}):
            with self.subTest(asked, by="student"):
                self.assertEqual(self.place(take, **asked).status_code, 403)
        take.refresh_from_db()
        self.assertEqual(take.placed, {})

    def test_the_figure_to_draw_is_given_out_with_the_guide(self) -> None:
        for person in (self.school.instructor, self.school.student):
            self.as_person(person)
            for kind in ("figure.svg", "figure.png", "sheet.pdf", "frames.zip", "chart.svg"):
                answer = self.client.get(reverse("guide-file", args=[self.school.brief.pk, kind]))
                with self.subTest(kind):
                    self.assertEqual(answer.status_code, 200)
                    self.assertGreater(len(b"".join(answer)), 500)  # type: ignore[call-overload]
        drawn = self.client.get(reverse("guide-file", args=[self.school.brief.pk, "figure.svg"]))
        text = b"".join(drawn).decode()  # type: ignore[call-overload]
        for name in ("contact", "down", "passing", "up", "thigh 0.50"):
            self.assertIn(name, text)

    def test_editor_wall_comparison_and_files_are_there(self) -> None:
        take = self.school.take(data=walked(None)[0])
        self.as_person(self.school.instructor)
        for name, args in (
            ("beside-guide", [take.pk]),
            ("class-wall", [self.school.course.pk]),
            ("checks-of", ["walk"]),
            ("brief", [self.school.brief.pk]),
        ):
            with self.subTest(name):
                self.assertEqual(self.client.get(reverse(name, args=args)).status_code, 200)
        editor = self.client.get(reverse("new-brief", args=[self.school.course.pk]), {"exercise": "walk"})
        for words in ("Lamplighter", "Frames a step", "left open", "Lift of the foot"):
            self.assertContains(editor, words)


class WholeFigure(SchoolTest):
    """Head, trunk, arms and legs, from the form to the desk."""

    def setUp(self) -> None:
        super().setUp()
        self.asked = Brief(
            canvas=(640, 360),
            asked=WalkBrief(figure="whole", direction="right"),
            guide=Stride(start_x=320, ground=320, leg=120, body=74, step=88, frames=10, steps=4, rise=7, arms=26),
        )
        self.school.brief = self.school.set_brief(**replace(self.asked, title="").to_json())

    def handed_in(self, code: str) -> Take:
        plan = FAULTS[code](plan_of(self.asked), np.random.default_rng(1), 2.5)
        assert plan is not None
        return self.school.take(data=write.to_zip(draw.frames("walk", plan, LOOKS["cel"])))

    def test_arms_that_swing_with_the_legs_are_told_on_the_desk(self) -> None:
        take = self.handed_in("timing.opposite")
        found = (take.analysis.findings or {})["findings"]
        self.assertEqual([f["code"] for f in found], ["timing.opposite"])
        self.as_person(self.school.instructor)
        page = self.client.get(reverse("desk", args=[take.pk]))
        for words in ("Both arms swing with the leg of the same side", "Hand, near", "Elbow, far", "Head"):
            self.assertContains(page, words)

    def test_a_hand_and_a_head_are_placed_and_taken_back(self) -> None:
        take = self.handed_in("timing.opposite")
        told = (take.analysis.findings or {})["track"]["figures"][5]
        self.as_person(self.school.instructor)
        x, y = told["landmarks"]["hand_near"]
        head = {**told["head"], "x": told["head"]["x"] + 14}
        for asked in (
            {"drawing": 6, "landmark": "hand_near", "at": [x + 20, y]},
            {"drawing": 6, "ellipse": head},
        ):
            answer = self.client.post(reverse("place", args=[take.pk]), {"place": json.dumps(asked)})
            self.assertEqual(answer.status_code, 200, answer.content[:300])
        take.analysis.refresh_from_db()
        figure = (take.analysis.findings or {})["track"]["figures"][5]
        self.assertEqual(figure["landmarks"]["hand_near"], [round(x + 20, 2), round(y, 2)])
        self.assertEqual(figure["landmarks"]["head"][0], round(head["x"], 2))
        codes = {(f["code"], f.get("part")) for f in (take.analysis.findings or {})["findings"]}
        self.assertIn(("spacing.jump", "head"), codes)

    def test_the_form_offers_a_start_with_arms_to_drag(self) -> None:
        self.as_person(self.school.instructor)
        page = self.client.get(reverse("new-brief", args=[self.school.course.pk]), {"exercise": "walk"})
        for words in ("Postwoman, all of her", "head, trunk, arms and legs", "Arms swing by (degrees)"):
            self.assertContains(page, words)
