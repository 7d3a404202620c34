"""What a course and a person may take up, and how often; nobody is kept out by what somebody else does."""

from __future__ import annotations

from datetime import timedelta
from unittest import mock

from django.conf import settings
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom import invitations, pace
from nettlecap.classroom.models import Course, Often, Person
from nettlecap.classroom.pace import Pace
from nettlecap.errors import Refusal, TooOften
from nettlecap.takes import quotas
from nettlecap.takes.arrivals import arrive
from nettlecap.takes.models import Arrival
from tests.web.school import SchoolTest, clean_clip, files_below, look_at_all, upload

SIZE = len(clean_clip())


class OfACourse(SchoolTest):
    def hand_in(self, student: Person):  # type: ignore[no-untyped-def]
        self.as_person(student)
        url = reverse("hand-in", args=[self.school.brief.pk])
        return self.client.post(url, {"files": upload(clean_clip())}, headers={"accept": "application/json"})

    def measure(self, **columns: int) -> None:
        Course.objects.filter(pk=self.school.course.pk).update(**columns)

    def test_a_student_takes_up_a_share_and_leaves_the_rest_to_others(self) -> None:
        self.measure(most_bytes=int(15 * SIZE))
        self.assertEqual(self.hand_in(self.school.student).status_code, 201)
        answer = self.hand_in(self.school.student)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Your clips in this course would take up more than", answer.json()["message"])
        self.assertEqual(self.hand_in(self.school.classmate).status_code, 201)
        look_at_all()
        self.assertEqual(self.hand_in(self.school.student).status_code, 422)

    def test_a_course_that_is_full_says_so_and_keeps_nothing(self) -> None:
        self.measure(most_bytes=SIZE)
        with mock.patch.object(quotas, "SHARE", 1.0):
            self.assertEqual(self.hand_in(self.school.student).status_code, 201)
            answer = self.hand_in(self.school.classmate)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("This course has used up its", answer.json()["message"])
        self.assertEqual(Arrival.objects.count(), 1)

    def test_another_course_goes_on(self) -> None:
        self.measure(most_bytes=1)
        self.assertEqual(self.hand_in(self.school.student).status_code, 422)
        lind = self.school.person("lind", "student", self.school.other_course)
        brief = self.school.set_brief()
        brief.course = self.school.other_course
        brief.save()
        self.assertIsNotNone(arrive(lind, brief, [upload(clean_clip())], "take").pk)

    def test_so_many_of_a_course_wait_and_no_more(self) -> None:
        self.measure(most_waiting=2)
        self.hand_in(self.school.student)
        self.hand_in(self.school.classmate)
        answer = self.hand_in(self.school.classmate)
        self.assertEqual(answer.status_code, 409)
        self.assertIn("2 clips of this course are waiting", answer.json()["message"])
        look_at_all()
        self.assertEqual(self.hand_in(self.school.classmate).status_code, 201)

    def test_nothing_is_left_of_what_was_refused_when_it_was_there_already(self) -> None:
        self.measure(most_bytes=15 * SIZE)
        arrive(self.school.student, self.school.brief, [upload(clean_clip())], "take")
        before = files_below(settings.MEDIA_ROOT)
        with self.assertRaises(Refusal):
            arrive(self.school.student, self.school.brief, [upload(clean_clip() + b"more")], "take")
        self.assertEqual(files_below(settings.MEDIA_ROOT), before)


class HowOften(SchoolTest):
    few = Pace("test", 3, timedelta(hours=1), "tried it")

    def test_so_often_within_a_while_each_for_themselves(self) -> None:
        for _ in range(3):
            pace.spend(self.few, 1)
        with self.assertRaisesRegex(TooOften, "You have tried it 3 times"):
            pace.spend(self.few, 1)
        pace.spend(self.few, 2)

    def test_after_the_while_it_begins_anew(self) -> None:
        for _ in range(3):
            pace.spend(self.few, 1)
        Often.objects.update(began_at=timezone.now() - timedelta(minutes=61))
        pace.require(self.few, 1)
        pace.spend(self.few, 1)
        self.assertEqual(Often.objects.get().times, 1)

    def test_uploads_are_told_when_to_go_on_and_others_go_on(self) -> None:
        url = reverse("hand-in", args=[self.school.brief.pk])
        with mock.patch("nettlecap.takes.arrivals.UPLOADS", Pace("upload", 2, timedelta(hours=1), "sent clips")):
            for student, statuses in ((self.school.student, (302, 302, 429)), (self.school.classmate, (302,))):
                self.as_person(student)
                for status in statuses:
                    answer = self.client.post(url, {"files": upload(clean_clip())})
                    self.assertEqual(answer.status_code, status)
                    if status == 429:
                        self.assertLessEqual(int(answer["Retry-After"]), 3600)
                        self.assertContains(answer, "You have sent clips 2 times", status_code=429)

    def test_what_was_refused_is_not_counted(self) -> None:
        Course.objects.update(most_bytes=1)
        with self.assertRaises(Refusal):
            arrive(self.school.student, self.school.brief, [upload(clean_clip())], "take")
        self.assertFalse(Often.objects.filter(times__gt=0).exists())

    def test_invitations(self) -> None:
        with mock.patch.object(invitations, "INVITATIONS", Pace("invite", 1, timedelta(hours=1), "made invitations")):
            invitations.invite(self.school.instructor, self.school.course, role="student", days=1)
            with self.assertRaises(TooOften):
                invitations.invite(self.school.instructor, self.school.course, role="student", days=1)
            invitations.invite(self.school.stranger, self.school.other_course, role="student", days=1)


@override_settings(COURSE_BYTES=7)
class Usual(SchoolTest):
    def test_without_a_measure_of_its_own_the_schools_holds(self) -> None:
        self.assertEqual(quotas.most_bytes(self.school.course), 7)
