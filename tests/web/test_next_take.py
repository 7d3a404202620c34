"""Marks come back, are ticked off and answered, and the next take is seen beside them."""

from __future__ import annotations

from django.urls import reverse

from motion.export import shown
from motion.strokes import Over, Stroke
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Note, Reading
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, clean_clip, hanging_clip


class Returned(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        data, self.frame = hanging_clip()
        self.take = self.school.take(data=data)
        self.key = finding_key(self.take.analysis.findings["findings"][0])
        self.as_person(self.school.instructor)
        self.post("say", key=self.key, verdict="agreed")
        self.post("note", first_frame=2, last_frame=4, principle="timing", text="Let it hang a little longer.")
        self.note = Note.objects.get()
        self.post("return-marks")
        self.as_person(self.school.student)

    def post(self, action: str, *args: int, take: Take | None = None, **values: object):  # type: ignore[no-untyped-def]
        url = reverse(action, args=[(take or self.take).pk, *args])
        return self.client.post(url, values, headers={"hx-request": "true"})

    def page(self, name: str, pk: int | None = None) -> str:
        return self.client.get(reverse(name, args=[pk or self.take.pk])).content.decode()


class TicksAndAnswers(Returned):
    def test_each_point_is_told_with_its_reason(self) -> None:
        self.assertIn("Taken off: 2.5 for a clear fault at", self.page("returned"))

    def test_what_is_put_right_is_ticked_off_and_stays_so(self) -> None:
        self.assertNotIn(" checked hx-post", self.page("returned"))
        for key in (self.key, f"note:{self.note.pk}"):
            self.assertEqual(self.post("tick", key=key, done="1").status_code, 204)
        self.assertEqual(self.page("returned").count(" checked hx-post"), 2)
        # The same list stands beside the next hand-in.
        brief = self.page("brief", self.school.brief.pk)
        self.assertIn("To fix from take 1", brief)
        self.assertEqual(brief.count(" checked hx-post"), 2)
        self.post("tick", key=self.key)
        self.assertEqual(Reading.objects.get().ticked, [f"note:{self.note.pk}"])

    def test_only_what_is_in_the_marks_can_be_ticked(self) -> None:
        self.assertEqual(self.post("tick", key="spacing.jump:1-1", done="1").status_code, 409)
        self.assertFalse(Reading.objects.exists())

    def test_a_note_is_answered_once_and_the_marker_sees_it(self) -> None:
        self.assertContains(
            self.post("answer", self.note.pk, answer="  I will hold\n the top. "), "I will hold the top."
        )
        self.assertEqual(self.post("answer", self.note.pk, answer="Or not.").status_code, 409)
        self.assertEqual(Note.objects.get().answer, "I will hold the top.")
        self.as_person(self.school.instructor)
        self.assertIn("I will hold the top.", self.client.get(reverse("start")).content.decode())
        self.assertIn("I will hold the top.", self.page("desk"))

    def test_an_empty_or_endless_answer_is_refused(self) -> None:
        for words in ("   ", "x" * 301):
            self.assertEqual(self.post("answer", self.note.pk, answer=words).status_code, 422)
        self.assertEqual(Note.objects.get().answer, "")

    def test_nobody_else_ticks_or_answers(self) -> None:
        for person, status in ((self.school.instructor, 403), (self.school.classmate, 404)):
            self.as_person(person)
            with self.subTest(str(person)):
                self.assertEqual(self.post("tick", key=self.key, done="1").status_code, status)
                self.assertEqual(self.post("answer", self.note.pk, answer="I.").status_code, status)

    def test_the_answer_outlives_taking_the_note_back_and_putting_it_back(self) -> None:
        self.post("answer", self.note.pk, answer="I will.")
        self.as_person(self.school.instructor)
        self.post("reopen", reason="One more look.")
        self.post("take-back-note", self.note.pk)
        self.post("take-back")
        self.assertEqual(Note.objects.get().answer, "I will.")


class ToPrint(Returned):
    def test_the_marks_are_had_as_a_pdf_with_pictures_by_their_student_and_markers(self) -> None:
        url = reverse("marks-pdf", args=[self.take.pk])
        for person, status in (
            (self.school.student, 200),
            (self.school.instructor, 200),
            (self.school.classmate, 404),
            (self.school.stranger, 404),
        ):
            self.as_person(person)
            answer = self.client.get(url)
            with self.subTest(str(person)):
                self.assertEqual(answer.status_code, status)
        self.as_person(self.school.student)
        data = self.client.get(url).content
        self.assertTrue(data.startswith(b"%PDF"))
        # One picture for the finding, one for the note.
        self.assertEqual(data.count(b"/Subtype /Image") + data.count(b"/Subtype/Image"), 2)

    def test_a_picture_of_a_frame_shows_what_is_off_and_what_was_drawn(self) -> None:
        findings = self.take.analysis.findings
        folder = self.take.analysis.drawings_of(self.take.analysis.shown_run)
        plain = shown.frame(findings, folder, self.frame)
        marked = shown.frame(findings, folder, self.frame, finding=findings["findings"][0])
        inked = shown.frame(
            findings, folder, self.frame, strokes=[Over(Stroke("line", ((9, 9, 1), (99, 99, 1))), 1, 99)]
        )
        self.assertEqual(len({plain, marked, inked}), 3)


class NextTake(Returned):
    def test_a_fault_that_was_put_right_is_told_as_gone(self) -> None:
        second = self.school.take(data=clean_clip())
        page = self.page("take", second.pk)
        self.assertIn("Since take 1", page)
        self.assertIn("1 gone, 0 left.", page)
        self.as_person(self.school.instructor)
        self.assertIn("1 gone, 0 left, 0 new", self.page("desk", second.pk))

    def test_a_fault_that_was_not_is_told_as_left_and_nothing_new_before_the_return(self) -> None:
        data, _ = hanging_clip()
        second = self.school.take(data=data)
        page = self.page("take", second.pk)
        self.assertIn("0 gone, 1 left.", page)
        self.as_person(self.school.instructor)
        self.assertIn("0 gone, 1 left, 0 new", self.page("desk", second.pk))
        key = finding_key(second.analysis.findings["findings"][0])
        self.post("say", take=second, key=key, verdict="dismissed")
        self.assertIn("1 gone, 0 left, 0 new", self.page("desk", second.pk))

    def test_a_new_fault_is_told_to_the_marker_and_after_the_return_to_the_student(self) -> None:
        self.as_person(self.school.instructor)
        self.post("reopen", reason="One more look.")
        self.post("say", key=self.key, verdict="dismissed")
        self.post("return-marks")
        data, _ = hanging_clip()
        second = self.school.take(data=data)
        self.assertIn("0 gone, 0 left, 1 new", self.page("desk", second.pk))
        self.as_person(self.school.student)
        self.assertNotIn("hangs", self.page("take", second.pk))
        self.as_person(self.school.instructor)
        self.post("say", take=second, key=finding_key(second.analysis.findings["findings"][0]), verdict="agreed")
        self.post("return-marks", take=second)
        self.as_person(self.school.student)
        self.assertIn("0 gone, 0 left, 1 new", self.page("returned", second.pk))
