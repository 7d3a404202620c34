"""Letters: what is written to whom, by whom the outbox is read, one's own page, and passwords."""

from __future__ import annotations

import re
from datetime import timedelta
from unittest import mock

from django.core import mail
from django.test import override_settings
from django.urls import reverse
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from nettlecap.classroom import letters
from nettlecap.classroom.models import Letter, Person
from nettlecap.classroom.set_brief import publish
from nettlecap.classroom.tasks import send_letter
from tests.web.school import SchoolTest, look_at_all

LOCMEM = {"EMAIL_BACKEND": "django.core.mail.backends.locmem.EmailBackend", "MAIL_SERVER": True}


class Notices(SchoolTest):
    def to(self, person: Person) -> list[str]:
        return list(Letter.objects.filter(to=person).order_by("pk").values_list("subject", flat=True))

    def test_a_student_is_told_when_marks_come_and_when_they_are_taken_back(self) -> None:
        take = self.school.take()
        self.as_person(self.school.instructor)
        self.client.post(reverse("return-marks", args=[take.pk]))
        self.client.post(reverse("reopen", args=[take.pk]), {"reason": "I misjudged the arcs & spacing."})
        told = ["Your marks for A cork float", "Your marks for A cork float are being changed"]
        self.assertEqual(self.to(self.school.student), told)
        self.assertIn(reverse("returned", args=[take.pk]), Letter.objects.get(subject=told[0]).body)
        self.assertIn("I misjudged the arcs & spacing.", Letter.objects.get(subject=told[1]).body)
        self.assertEqual(self.to(self.school.classmate), [])

    def test_a_class_is_told_once_when_a_brief_is_set(self) -> None:
        brief, orla = self.school.brief, self.school.instructor
        publish(orla, brief, show=False)
        self.assertEqual(Letter.objects.count(), 0)
        publish(orla, brief, show=True)
        publish(orla, brief, show=True)
        for person in (self.school.student, self.school.classmate):
            self.assertEqual(self.to(person), ["A new brief: A cork float"])
        self.assertEqual(self.to(self.school.assistant) + self.to(orla), [])

    def test_who_wants_none_gets_none(self) -> None:
        Person.objects.filter(pk=self.school.student.pk).update(notices=False)
        take = self.school.take()
        self.as_person(self.school.instructor)
        self.client.post(reverse("return-marks", args=[take.pk]))
        self.assertEqual(self.to(self.school.student), [])

    def test_a_return_that_is_refused_writes_nothing(self) -> None:
        take = self.school.take()
        take.analysis.state = "running"
        take.analysis.save()
        self.as_person(self.school.instructor)
        self.assertEqual(self.client.post(reverse("return-marks", args=[take.pk])).status_code, 409)
        self.assertFalse(Letter.objects.exists())


class Sending(SchoolTest):
    def write(self) -> Letter:
        Person.objects.filter(pk=self.school.student.pk).update(email="ayumi@sea.example")
        self.school.student.refresh_from_db()
        letters.welcome(self.school.student, self.school.course)
        return Letter.objects.get()

    def test_without_a_mail_server_a_letter_stays_in_the_outbox(self) -> None:
        self.assertIsNone(self.write().sent_at)
        look_at_all()
        self.assertEqual(mail.outbox, [])
        Person.objects.filter(pk=self.school.instructor.pk).update(is_staff=True)
        self.as_person(self.school.instructor)
        self.assertContains(self.client.get(reverse("outbox")), "You are in First Motion")

    @override_settings(**LOCMEM)
    def test_with_one_the_worker_sends_it_once(self) -> None:
        letter = self.write()
        look_at_all()
        letter.refresh_from_db()
        self.assertIsNotNone(letter.sent_at)
        self.assertEqual([m.to for m in mail.outbox], [["ayumi@sea.example"]])
        self.assertEqual(send_letter.call(letter.pk), "nothing to send")

    @override_settings(**LOCMEM)
    def test_trouble_is_kept_with_the_letter_which_is_tried_again_for_a_day(self) -> None:
        letter = self.write()
        with mock.patch("nettlecap.classroom.post.send_mail", side_effect=OSError("no route to the post office")):
            look_at_all()
        letter.refresh_from_db()
        self.assertEqual((letter.sent_at, letter.trouble), (None, "no route to the post office"))
        self.assertGreater(DBTaskResult.objects.get(status="READY").run_after, timezone.now() + timedelta(minutes=5))
        Letter.objects.update(written_at=timezone.now() - timedelta(days=2))
        with mock.patch("nettlecap.classroom.post.send_mail", side_effect=OSError("still none")):
            self.assertEqual(send_letter.call(letter.pk), "given up")
        self.assertEqual(send_letter.call(letter.pk), "sent")
        letter.refresh_from_db()
        self.assertEqual(letter.trouble, "")

    def test_an_empty_outbox_says_what_comes_there(self) -> None:
        Person.objects.filter(pk=self.school.instructor.pk).update(is_staff=True)
        self.as_person(self.school.instructor)
        self.assertContains(self.client.get(reverse("outbox")), "Nothing was written yet")


class Passwords(SchoolTest):
    def ask(self, who: str) -> str:
        answer = self.client.post(reverse("forgotten"), {"who": who})
        self.assertEqual(answer.status_code, 200)
        # What protects a form is new on every page.
        return re.sub(r'X-CSRFToken": "\w+"', "", answer.content.decode())

    def test_who_forgot_it_is_written_to_and_the_page_does_not_tell_who_is_known(self) -> None:
        Person.objects.filter(pk=self.school.student.pk).update(email="Ayumi@sea.example")
        known, unknown = self.ask("ayumi@sea.example"), self.ask("nobody@sea.example")
        self.assertEqual(known, unknown)
        letter = Letter.objects.get()
        self.assertEqual(letter.to, self.school.student)
        link = re.search(r"http\S+(/password/\S+)", letter.body)
        assert link is not None
        answer = self.client.get(link[1], follow=True)
        new = {"new_password1": "harbour-and-quay", "new_password2": "harbour-and-quay"}
        self.client.post(answer.request["PATH_INFO"], new)
        self.school.student.refresh_from_db()
        self.assertTrue(self.school.student.check_password("harbour-and-quay"))

    def test_asking_again_and_again_writes_one_letter(self) -> None:
        Person.objects.filter(pk=self.school.student.pk).update(email="ayumi@sea.example")
        for _ in range(3):
            self.ask("ayumi")
        self.ask("")
        self.ask("kofi")
        self.assertEqual(Letter.objects.count(), 1)

    def test_one_changes_ones_own_and_stays_signed_in(self) -> None:
        self.as_person(self.school.student)
        url = reverse("change-password")
        new = {"new_password1": "harbour-and-quay", "new_password2": "harbour-and-quay"}
        self.assertEqual(self.client.post(url, {"old_password": "wrong", **new}).context["form"].is_valid(), False)
        self.assertRedirects(self.client.post(url, {"old_password": "a-long-secret", **new}), reverse("you"))
        self.assertContains(self.client.get(reverse("you")), "Your courses")

    def test_ones_name_is_written_as_one_writes_it(self) -> None:
        self.as_person(self.school.student)
        values = {"name": " Ayumi   O’Sé-Ngũgĩ ", "email": "ayumi@sea.example"}
        self.assertRedirects(self.client.post(reverse("you"), values), reverse("you"))
        self.school.student.refresh_from_db()
        self.assertEqual((self.school.student.name, self.school.student.notices), ("Ayumi O’Sé-Ngũgĩ", False))
        self.assertContains(self.client.post(reverse("you"), {"name": " "}), "Write your name", status_code=422)
