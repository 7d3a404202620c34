"""Placing the ball and the ground by hand: on the desk by markers, on their own clip by students."""

from __future__ import annotations

import json
from typing import Any

from django.urls import reverse

from nettlecap.marking.decisions import decide
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, clean_clip, look_at_all, upload


class Placing(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.take = self.school.take(data=clean_clip())
        self.as_person(self.school.instructor)

    def place(self, **asked: Any):  # type: ignore[no-untyped-def]
        return self.client.post(reverse("place", args=[self.take.pk]), {"place": json.dumps(asked)})

    def findings(self) -> dict[str, Any]:
        return dict(Take.objects.select_related("analysis").get(pk=self.take.pk).analysis.findings)

    def shape(self, drawing: int) -> dict[str, Any]:
        return next(s for s in self.findings()["track"]["shapes"] if s["drawing"] == drawing)

    def test_a_ball_that_is_placed_is_kept_marked_and_judged_at_once(self) -> None:
        found = self.shape(4)
        moved = {"x": found["x"] + 14, "y": found["y"], "major": found["major"], "minor": found["minor"], "angle": 0}
        answer = self.place(drawing=4, ellipse=moved)
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.shape(4)["source"], "placed")
        self.assertIn("arc.off_path", [f["code"] for f in self.findings()["findings"]])
        self.assertContains(answer, "mark-column")
        self.assertContains(answer, "placed")

    def test_it_can_be_taken_back(self) -> None:
        before = self.findings()
        self.place(drawing=4, ellipse={"x": 30, "y": 30, "major": 20, "minor": 20, "angle": 0})
        self.place(drawing=4, ellipse=None)
        after = self.findings()
        self.assertEqual(after["track"], before["track"])
        self.assertEqual(after["findings"], before["findings"])

    def test_the_ground_too(self) -> None:
        self.place(ground=[235, 235])
        self.assertIn("contact.gap", [f["code"] for f in self.findings()["findings"]])
        self.place(ground=None)
        self.assertEqual(self.findings()["findings"], [])

    def test_what_was_placed_stays_when_the_rest_is_found_again(self) -> None:
        found = self.shape(4)
        self.place(
            drawing=4, ellipse={**{k: found[k] for k in ("x", "y", "major", "minor", "angle")}, "x": found["x"] + 1}
        )
        self.assertEqual(self.place(again=True).status_code, 200)
        self.assertEqual(self.place(ground=[1, 1]).status_code, 409)
        look_at_all()
        self.assertEqual(self.shape(4)["source"], "placed")
        self.assertEqual(self.shape(5)["source"], "found")

    def test_decisions_on_what_is_still_found_stay(self) -> None:
        self.place(ground=[235, 235])
        key = f"{self.findings()['findings'][0]['code']}:{self.findings()['findings'][0]['first_frame']}-" + str(
            self.findings()["findings"][0]["last_frame"]
        )
        decide.say(self.school.instructor, Take.objects.get(pk=self.take.pk), key, "agreed")
        self.place(ground=[235.5, 235.5])
        page = self.client.get(reverse("desk", args=[self.take.pk])).content.decode()
        self.assertIn('class="finding agreed"', page)

    def test_nonsense_is_refused_and_nothing_changes(self) -> None:
        before = self.findings()
        for asked in ({"drawing": 999, "ellipse": None}, {"drawing": 1, "ellipse": {"x": "a"}}, {"ground": [1]}):
            with self.subTest(asked):
                self.assertEqual(self.place(**asked).status_code, 422)
        self.assertEqual(self.client.post(reverse("place", args=[self.take.pk]), {"place": "{"}).status_code, 422)
        self.assertEqual(self.findings(), before)

    def test_returned_marks_must_be_reopened_first(self) -> None:
        decide.return_marks(self.school.instructor, Take.objects.get(pk=self.take.pk))
        self.assertEqual(self.place(ground=[235, 235]).status_code, 409)

    def test_students_place_only_in_their_own_clip_that_is_not_handed_in(self) -> None:
        self.as_person(self.school.student)
        self.assertEqual(self.place(ground=[235, 235]).status_code, 403)
        self.client.post(reverse("look-through", args=[self.school.brief.pk]), {"files": [upload(clean_clip())]})
        look_at_all()
        draft = Take.everything.get(trial=True)
        url = reverse("place", args=[draft.pk])
        self.assertContains(self.client.post(url, {"place": '{"ground": [235, 235]}'}), "look-through")
        self.as_person(self.school.instructor)
        self.assertEqual(self.client.post(url, {"place": '{"ground": [235, 235]}'}).status_code, 404)
