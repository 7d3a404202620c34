"""Who changed which mark when; and returned marks that are taken back, with a reason that the student is told."""

from __future__ import annotations

from django.urls import reverse

from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Change, MarkSheet
from tests.web.school import SchoolTest, hanging_clip


class History(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.take = self.school.take(data=hanging_clip()[0])
        self.key = finding_key(self.take.analysis.findings["findings"][0])
        self.as_person(self.school.instructor)

    def post(self, action: str, *args: int, **values: object):  # type: ignore[no-untyped-def]
        url = reverse(action, args=[self.take.pk, *args])
        return self.client.post(url, values, headers={"hx-request": "true"})

    def told(self) -> list[tuple[str, str, str, str]]:
        return [(c.who.username, c.what, c.was, c.now) for c in reversed(Change.objects.all())]

    def test_every_change_of_a_mark_is_kept_from_what_to_what(self) -> None:
        self.post("say", key=self.key, verdict="agreed")
        self.post("points", principle="contact", points="6")
        self.as_person(self.school.assistant)
        self.post("points", principle="contact", points="4.5")
        self.post("points", principle="contact", points="")
        self.post("note", first_frame=2, last_frame=3, text="Softer.")
        self.post("take-back")
        self.post("return-marks")
        finding = f"finding {self.key}"
        self.assertEqual(
            self.told(),
            [
                ("orla", finding, "open", "agreed"),
                ("orla", "points for Contact", "as proposed", "6"),
                ("bram", "points for Contact", "6", "4.5"),
                ("bram", "points for Contact", "4.5", "as proposed"),
                ("bram", "note on frames 2 to 3", "", "Softer."),
                ("bram", "took back a note", "", ""),
                ("bram", "returned the marks", "", ""),
            ],
        )
        page = self.client.get(reverse("history", args=[self.take.pk]))
        self.assertContains(page, "points for Contact")
        self.assertContains(page, "Bram")

    def test_what_was_refused_leaves_no_trace(self) -> None:
        self.post("points", principle="contact", points="99")
        self.post("say", key="no.such:1-1", verdict="agreed")
        self.assertEqual(self.told(), [])
        self.assertContains(self.client.get(reverse("history", args=[self.take.pk])), "Nothing was decided")

    def test_returned_marks_are_taken_back_with_a_reason_and_the_student_is_told(self) -> None:
        self.post("return-marks")
        for reason in ("", "   ", "x" * 301):
            self.assertEqual(self.post("reopen", reason=reason).status_code, 422)
        self.assertTrue(MarkSheet.objects.get().returned)
        self.post("reopen", reason="I had the wrong take in mind.")
        self.assertEqual(self.told()[-1], ("orla", "reopened the marks", "", "I had the wrong take in mind."))
        self.as_person(self.school.student)
        for name, pk in (("take", self.take.pk), ("brief", self.school.brief.pk)):
            self.assertContains(self.client.get(reverse(name, args=[pk])), "I had the wrong take in mind.")
        self.assertEqual(self.client.get(reverse("returned", args=[self.take.pk])).status_code, 404)
        self.as_person(self.school.instructor)
        self.post("return-marks")
        self.as_person(self.school.student)
        self.assertNotContains(self.client.get(reverse("take", args=[self.take.pk])), "wrong take")

    def test_marks_that_are_not_returned_cannot_be_taken_back(self) -> None:
        self.assertEqual(self.post("reopen", reason="Why not.").status_code, 409)
