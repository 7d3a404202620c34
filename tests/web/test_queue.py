"""The queue: what is asked for, what comes next, how long a clip took, and how many questions a page asks."""

from __future__ import annotations

from datetime import timedelta

from django.db import connection
from django.test import SimpleTestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from nettlecap.marking.desk.queue import duration
from nettlecap.marking.models import MarkSheet
from nettlecap.takes.models import Analysis, Take
from tests.web.school import SchoolTest

MOST_QUERIES = 12


class Queue(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.other_brief = self.school.set_brief()
        self.first = self.take_of(self.school.student)
        self.second = self.take_of(self.school.classmate)
        self.other = self.take_of(self.school.student, brief=self.other_brief)
        self.as_person(self.school.instructor)

    def take_of(self, student, brief=None, **values) -> Take:  # type: ignore[no-untyped-def]
        """A take as it stands in the database: its clip plays no part here."""
        told = {"file_name": "a.zip", "file_path": "x/a.zip", "file_bytes": 9, "frames": 9, "pictures": 9}
        take = Take.objects.create(
            brief=brief or self.school.brief, student=student, number=1, width=480, height=270, **told, **values
        )
        Analysis.objects.create(take=take, state=Analysis.State.DONE)
        return take

    def shown(self, **asked: object) -> list[Take]:
        return list(self.client.get(reverse("clips"), asked).context["queue"].takes)

    def test_clips_are_shown_by_brief_student_and_state(self) -> None:
        MarkSheet.objects.create(take=self.second, returned_at=timezone.now())
        MarkSheet.objects.create(take=self.other)
        Analysis.objects.filter(take=self.take_of(self.school.classmate, self.other_brief)).update(state="failed")
        failed = Take.objects.latest("pk")
        # What could not be looked at is marked by eye.
        self.assertEqual(self.shown(), [self.first, self.other, failed])
        self.assertEqual(self.shown(state="begun"), [self.other])
        self.assertEqual(self.shown(state="returned"), [self.second])
        self.assertEqual(self.shown(state="failed"), [failed])
        self.assertEqual(self.shown(state="looking"), [])
        self.assertEqual(self.shown(state="all", brief=self.other_brief.pk), [self.other, failed])
        self.assertEqual(self.shown(state="all", student=self.school.student.pk), [self.first, self.other])

    def test_what_was_asked_for_stays_and_the_desk_goes_on_within_it(self) -> None:
        self.shown(state="waiting", student=self.school.student.pk)
        self.assertEqual(self.shown(), [self.first, self.other])
        self.assertRedirects(self.client.get(reverse("next-clip")), reverse("desk", args=[self.first.pk]))
        page = self.client.get(reverse("desk", args=[self.first.pk]))
        self.assertEqual((page.context["next"], page.context["left"]), (self.other, 1))
        self.shown(state="waiting")
        page = self.client.get(reverse("desk", args=[self.first.pk]))
        self.assertEqual((page.context["next"], page.context["left"]), (self.second, 2))

    def test_what_cannot_be_read_is_left_open(self) -> None:
        self.assertEqual(len(self.shown(state="nonsense", brief="9x", student="-1")), 3)
        self.assertEqual(len(self.shown(state="waiting", brief="9" * 5000, page="9" * 5000)), 3)
        self.assertEqual(self.shown(state="waiting", brief="999999"), [])
        self.assertContains(self.client.get(reverse("clips")), "No clip is like this")

    def test_a_person_who_marks_nothing_sees_nothing(self) -> None:
        for person in (self.school.student, self.school.stranger):
            with self.subTest(str(person)):
                self.as_person(person)
                self.assertEqual(self.shown(state="all"), [])

    def test_pages_of_a_long_queue(self) -> None:
        for i in range(62):
            self.take_of(self.school.person(f"pupil{i}", "student"))
        page = self.client.get(reverse("clips"), {"page": "2"}).context["queue"]
        self.assertEqual((page.count, len(page.takes), page.before, page.after), (65, 5, 1, None))
        self.assertEqual(self.client.get(reverse("clips"), {"page": "99"}).context["queue"].page, 2)

    def test_the_time_that_was_spent_is_kept_and_told(self) -> None:
        for action, seconds in (("points", "40"), ("remark", "20"), ("return-marks", "65")):
            values = {"principle": "arcs", "points": "5", "remark": "Good."}
            url = reverse(action, args=[self.first.pk])
            answer = self.client.post(url, values, headers={"x-seconds": seconds, "hx-request": "true"})
        self.assertContains(answer, "This clip took you about 2 minutes. 2 more clips wait.")
        self.assertEqual(MarkSheet.objects.get().seconds, 125)
        self.assertContains(self.client.get(reverse("start")), "returned 1 clip today, in about 2 minutes each")
        MarkSheet.objects.update(returned_at=timezone.now() - timedelta(days=2))
        self.assertNotContains(self.client.get(reverse("start")), "today")

    def test_time_that_cannot_be_is_not_believed(self) -> None:
        url = reverse("points", args=[self.first.pk])
        for told in ("-5", "long", "999999999999"):
            self.client.post(url, {"principle": "arcs", "points": "5"}, headers={"x-seconds": told})
        self.assertEqual(MarkSheet.objects.get().seconds, 900)

    def test_pages_ask_few_questions_whatever_the_size_of_the_class(self) -> None:
        urls = [reverse("start"), reverse("clips"), reverse("desk", args=[self.first.pk])]
        few = [self.queries(url) for url in urls]
        for i in range(30):
            self.take_of(self.school.person(f"pupil{i}", "student"))
        self.assertEqual([self.queries(url) for url in urls], few)
        self.assertLessEqual(max(few), MOST_QUERIES)

    def queries(self, url: str) -> int:
        with CaptureQueriesContext(
            connection,
        ) as asked:
            self.assertEqual(self.client.get(url).status_code, 200)
        return len(asked)


class Durations(SimpleTestCase):
    def test_words(self) -> None:
        told = {
            3: "5 seconds",
            62: "60 seconds",
            119: "120 seconds",
            125: "2 minutes",
            151: "2½ minutes",
            620: "10½ minutes",
        }
        for seconds, words in told.items():
            self.assertEqual(duration(seconds), words)
