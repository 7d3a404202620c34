"""Two markers blind on the same clips: neither sees the other's marks, then both see where they differ."""

from __future__ import annotations

from django.urls import reverse

from nettlecap.classroom.models import Letter, Membership, Person, Role
from nettlecap.marking.desk.laid_out import lay_out
from nettlecap.marking.models import Blind, Comparison, Decision, MarkSheet
from tests.web.school import SchoolTest, clean_clip, hanging_clip


class TwoMarkers(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        school = self.school
        self.hanging = school.take(data=hanging_clip()[0])
        self.clean = school.take(school.classmate, clean_clip())
        self.key = next(
            f"{f['code']}:{f['first_frame']}-{f['last_frame']}"
            for f in self.hanging.analysis.findings["findings"]
            if f["code"] == "contact.gap"
        )
        self.hand_out()
        self.comparison = Comparison.objects.get()
        self.page = reverse("comparison", args=[self.comparison.pk])

    def hand_out(self):  # type: ignore[no-untyped-def]
        school = self.school
        values = {"one": school.instructor.pk, "other": school.assistant.pk, "take": [self.hanging.pk, self.clean.pk]}
        self.as_person(school.instructor)
        return self.client.post(reverse("two-markers", args=[school.brief.pk]), values)

    def act(self, person: Person, action: str, take, **values: str):  # type: ignore[no-untyped-def]
        self.as_person(person)
        return self.client.post(reverse(action, args=[take.pk]), values, headers={"hx-request": "true"})

    def mark(self, person: Person, *, agree: bool, remark: str = ""):  # type: ignore[no-untyped-def]
        if agree:
            self.act(person, "say", self.hanging, key=self.key, verdict="agreed")
        if remark:
            self.act(person, "note", self.hanging, first_frame="2", last_frame="3", principle="arcs", text=remark)
        self.act(person, "return-marks", self.hanging)
        return self.act(person, "return-marks", self.clean)

    def desk(self, person: Person):  # type: ignore[no-untyped-def]
        self.as_person(person)
        return self.client.get(reverse("desk", args=[self.hanging.pk]))

    def test_neither_sees_what_the_other_says_and_no_student_anything(self) -> None:
        orla, bram = self.school.instructor, self.school.assistant
        self.mark(orla, agree=True, remark="Orla was here")
        page = self.desk(bram)
        self.assertContains(page, "marked blind, beside Orla")
        self.assertNotContains(page, "Orla was here")
        self.assertTrue(page.context["desk"].first_look)
        self.assertEqual(page.context["desk"].undecided, 1)
        self.assertContains(self.client.get(self.page), "Orla: 2 of 2 clips")
        self.assertNotContains(self.client.get(self.page), "Clips to talk about")
        self.assertNotContains(self.client.get(reverse("history", args=[self.hanging.pk])), "agreed")
        self.assertIsNone(lay_out(self.hanging).sheet)
        self.as_person(self.school.student)
        self.assertEqual(self.client.get(reverse("returned", args=[self.hanging.pk])).status_code, 404)
        self.assertFalse(Letter.objects.filter(subject__startswith="Your marks").exists())

    def test_the_start_and_the_desk_lead_from_one_blind_clip_to_the_next(self) -> None:
        bram = self.school.assistant
        self.as_person(bram)
        self.assertContains(self.client.get("/"), "2 of 2 clips left")
        answer = self.client.get(reverse("mark-blind", args=[self.comparison.pk]))
        self.assertRedirects(answer, reverse("desk", args=[self.hanging.pk]))
        answer = self.act(bram, "return-marks", self.hanging)
        self.assertEqual(answer.context["next"], self.clean)
        self.assertContains(answer, "Laid down")
        self.act(bram, "return-marks", self.clean)
        self.assertNotContains(self.client.get("/"), "To mark blind")
        self.assertRedirects(self.client.get(reverse("mark-blind", args=[self.comparison.pk])), self.page)

    def test_once_both_are_done_it_ends_and_tells_where_they_differ(self) -> None:
        orla, bram = self.school.instructor, self.school.assistant
        self.mark(orla, agree=True)
        last = self.mark(bram, agree=False)
        self.assertEqual(last.headers["HX-Redirect"], self.page)
        outcome = self.client.get(self.page).context["outcome"]
        first = outcome.clips[0]
        self.assertEqual(first.take, self.hanging)
        self.assertGreater(first.apart, 0)
        self.assertEqual(outcome.clips[1].apart, 0)
        difference = first.differences[0]
        self.assertEqual((difference.principle, difference.one, difference.other), ("contact", "agreed", "left open"))
        contact = next(m for m in outcome.measures if m.principle == "contact")
        self.assertEqual((contact.agreement.same, contact.agreement.clips), (1, 2))
        self.assertIn("Orla, by", contact.stricter)
        self.assertEqual(outcome.measures[-1].name, "All in all")
        # Both are at the clip's own marks again, which nobody has begun.
        self.assertNotContains(self.desk(bram), "marked blind")

    def test_marks_that_are_laid_down_are_taken_up_again_until_it_ends(self) -> None:
        bram = self.school.assistant
        self.mark(bram, agree=False)
        answer = self.act(bram, "say", self.hanging, key=self.key, verdict="agreed")
        self.assertContains(answer, "laid down", status_code=409)
        self.act(bram, "reopen", self.hanging)
        self.act(bram, "say", self.hanging, key=self.key, verdict="agreed")
        sheet = Blind.objects.get(take=self.hanging, marker=bram).sheet
        self.assertFalse(sheet.returned)
        self.assertEqual(sheet.decisions.get().verdict, Decision.Verdict.AGREED)

    def test_what_one_said_becomes_the_marks_and_is_not_laid_over_others(self) -> None:
        orla, bram = self.school.instructor, self.school.assistant
        self.mark(orla, agree=True, remark="A fine arc")
        self.mark(bram, agree=False)
        url = reverse("adopt", args=[self.comparison.pk, self.hanging.pk])
        self.as_person(bram)
        self.assertEqual(self.client.post(url, {"marker": orla.pk}).status_code, 403)
        self.as_person(orla)
        self.assertRedirects(self.client.post(url, {"marker": orla.pk}), reverse("desk", args=[self.hanging.pk]))
        own = lay_out(self.hanging)
        self.assertEqual([f.key for f in own.agreed], [self.key])
        self.assertEqual(own.sheet.notes.get().text, "A fine arc")
        self.assertFalse(own.sheet.returned)
        self.assertContains(self.client.get(reverse("history", args=[self.hanging.pk])), "marks that Orla gave blind")
        self.assertEqual(self.client.post(url, {"marker": bram.pk}).status_code, 409)
        self.assertEqual(MarkSheet.objects.filter(take=self.hanging).count(), 1)

    def test_a_stroke_or_a_remark_of_somebody_is_never_written_over(self) -> None:
        orla, bram = self.school.instructor, self.school.assistant
        self.mark(orla, agree=True)
        self.mark(bram, agree=False)
        url = reverse("adopt", args=[self.comparison.pk, self.hanging.pk])
        stroke = {"first_frame": "1", "tool": "line", "points": "[[9, 9], [90, 90]]"}
        self.act(bram, "draw-over", self.hanging, **stroke)
        self.as_person(orla)
        self.assertEqual(self.client.post(url, {"marker": orla.pk}).status_code, 409)
        self.assertEqual(lay_out(self.hanging).sheet.strokes.count(), 1)

    def test_it_is_ended_by_hand_with_what_both_have_marked(self) -> None:
        orla, bram = self.school.instructor, self.school.assistant
        self.mark(orla, agree=True)
        self.act(bram, "return-marks", self.clean)
        url = reverse("end-comparison", args=[self.comparison.pk])
        self.assertEqual(self.client.post(url).status_code, 403)
        self.as_person(orla)
        self.client.post(url)
        self.assertEqual([c.take for c in self.client.get(self.page).context["outcome"].clips], [self.clean])

    def test_ended_before_anything_it_says_so(self) -> None:
        self.as_person(self.school.instructor)
        self.client.post(reverse("end-comparison", args=[self.comparison.pk]))
        self.assertContains(self.client.get(self.page), "nothing to compare")

    def test_a_third_marker_works_at_the_clips_own_marks_and_may_not_look(self) -> None:
        carys = self.school.person("carys", Role.ASSISTANT)
        self.act(carys, "say", self.hanging, key=self.key, verdict="dismissed")
        self.assertEqual(lay_out(self.hanging).sheet.decisions.get().verdict, "dismissed")
        self.assertEqual(self.client.get(self.page).status_code, 404)

    def test_what_cannot_be_handed_out_is_refused(self) -> None:
        school = self.school
        url = reverse("two-markers", args=[school.brief.pk])
        takes = [self.hanging.pk, self.clean.pk]
        self.assertEqual(self.hand_out().status_code, 409)
        for values in (
            {"one": school.instructor.pk, "other": school.instructor.pk, "take": takes},
            {"one": school.instructor.pk, "other": school.student.pk, "take": takes},
            {"one": school.instructor.pk, "other": school.stranger.pk, "take": takes},
            {"one": school.instructor.pk, "other": school.assistant.pk, "take": takes[:1]},
            {"take": takes},
        ):
            with self.subTest(values):
                self.assertEqual(self.client.post(url, values).status_code, 422)
        self.assertEqual(Comparison.objects.count(), 1)

    def test_alone_one_is_told_whom_it_takes(self) -> None:
        Membership.objects.filter(person=self.school.assistant).delete()
        self.as_person(self.school.instructor)
        page = self.client.get(reverse("two-markers", args=[self.school.brief.pk]))
        self.assertContains(page, "Nobody else marks in this course yet")
