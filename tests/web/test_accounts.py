"""One person in several courses: nobody takes over, changes or learns anything of an account that is another's."""

from __future__ import annotations

import re

from django.urls import reverse

from nettlecap.classroom.models import Invitation, Letter, Membership, Person, Role
from tests.web.school import SchoolTest


class AcrossCourses(SchoolTest):
    """Lind was brought into one course and has not been here yet; the instructor of another tries."""

    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.instructor)
        self.client.post(
            reverse("add-member", args=[self.school.course.pk]),
            {"name": "Lind Amsel", "login": "lind", "email": "lind@sea.example", "role": "student"},
        )
        self.lind = Person.objects.get(username="lind")
        self.there = self.school.other_course
        self.as_person(self.school.stranger)

    def add(self, **values: str):  # type: ignore[no-untyped-def]
        given = {"name": "", "login": "", "email": "", "role": "student", **values}
        return self.client.post(reverse("add-member", args=[self.there.pk]), given)

    def letter_to(self, person: Person, subject: str) -> str:
        return Letter.objects.filter(to=person, subject__startswith=subject).latest("pk").body

    def test_bringing_a_known_login_in_invites_and_tells_nothing(self) -> None:
        for values in ({"login": "lind"}, {"name": "Somebody", "email": "lind@sea.example"}):
            with self.subTest(values):
                Invitation.objects.all().delete()
                page = self.add(**values)
                self.assertContains(page, "is invited")
                for told in ("Lind", "Amsel", "/password/reset"):
                    self.assertNotContains(page, told)
                self.assertFalse(Membership.objects.filter(course=self.there, person=self.lind).exists())
        page = self.client.get(reverse("people", args=[self.there.pk]))
        self.assertContains(page, "Invited, not come yet")
        self.assertNotContains(page, "Amsel")
        self.assertContains(self.add(login="lind"), "invited already", status_code=422)

    def test_no_link_to_their_password_is_to_be_had(self) -> None:
        self.add(login="lind")
        pages = [reverse("people", args=[self.there.pk]), reverse("course-letters", args=[self.there.pk])]
        for url in pages:
            self.assertIsNone(re.search(r"/password/\w+/\w", self.client.get(url).content.decode()))
        self.assertNotIn("/password/", self.letter_to(self.lind, "You are invited"))

    def test_who_is_invited_comes_when_they_accept_and_nobody_comes_for_them(self) -> None:
        self.add(login="kofi")
        invitation = Invitation.objects.get()
        link = reverse("join", args=[invitation.code])
        self.assertIn(link, self.letter_to(self.school.classmate, "You are invited"))
        self.client.logout()
        self.assertRedirects(self.client.get(link), f"{reverse('sign-in')}?next={link}")
        for person in (self.school.student, self.school.stranger):
            self.as_person(person)
            self.assertEqual(self.client.get(link).status_code, 404)
            self.assertEqual(self.client.post(link).status_code, 404)
        self.as_person(self.school.classmate)
        self.assertContains(self.client.get("/"), "invites you to")
        self.assertContains(self.client.get(link), "Wren invites you")
        self.client.post(link)
        self.assertEqual(Membership.objects.get(course=self.there, person=self.school.classmate).role, Role.STUDENT)
        self.assertEqual(self.client.get(link).status_code, 410)

    def test_or_says_no(self) -> None:
        self.add(login="kofi")
        link = reverse("join", args=[Invitation.objects.get().code])
        self.as_person(self.school.classmate)
        self.client.post(link, {"no": "1"})
        self.assertFalse(Membership.objects.filter(course=self.there, person=self.school.classmate).exists())
        self.assertNotContains(self.client.get("/"), "invites you to")

    def test_names_and_addresses_are_their_owners(self) -> None:
        membership = Membership.objects.create(course=self.there, person=self.lind, role=Role.STUDENT)
        url = reverse("change-member", args=[self.there.pk, membership.pk])
        for name in ("Lind Other", "Lind"):
            answer = self.client.post(url, {"deed": "correct", "name": name, "email": "mine@sea.example"})
            self.assertEqual(answer.status_code, 403)
        self.lind.refresh_from_db()
        self.assertEqual((self.lind.name, self.lind.email), ("Lind Amsel", "lind@sea.example"))

    def test_once_they_belong_to_two_courses_their_letters_show_no_link_to_anybody(self) -> None:
        letters = reverse("course-letters", args=[self.school.course.pk])
        self.as_person(self.school.instructor)
        self.assertContains(self.client.get(letters), "/password/")
        keeper = Person.objects.create_user(username="keeper", name="Keeper", password="a-long-secret", is_staff=True)
        self.as_person(keeper)
        self.assertContains(self.client.get(reverse("outbox")), "/password/")
        Membership.objects.create(course=self.there, person=self.lind, role=Role.STUDENT)
        page = self.client.get(reverse("outbox")).content.decode()
        self.assertIsNone(re.search(r"/password/\w+/\w", page))
        self.assertIn("a link for nobody but them", page)
        self.as_person(self.school.instructor)
        self.assertNotContains(self.client.get(letters), "You are in First Motion")
        # The letter itself has it, wherever it is sent.
        self.assertIn("/password/", self.letter_to(self.lind, "You are in"))

    def test_who_has_been_here_has_their_link_to_themselves(self) -> None:
        Person.objects.filter(pk=self.school.student.pk).update(email="ayumi@sea.example")
        self.client.post(reverse("forgotten"), {"who": "ayumi"})
        keeper = Person.objects.create_user(username="keeper", name="Keeper", password="a-long-secret", is_staff=True)
        self.as_person(keeper)
        letters = [body for _, body in self.client.get(reverse("outbox")).context["letters"]]
        forgotten = next(body for body in letters if "Ayumi" in body)
        self.assertNotIn("/password/", forgotten)
        self.client.post(reverse("forgotten"), {"who": "x" * 100_000})
        self.assertEqual(self.client.post(reverse("forgotten"), {"who": "%" * 60_000}).status_code, 200)
