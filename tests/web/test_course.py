"""Courses and their people: opening one, by hand, leaving with the work kept, shares of the marking, invitations."""

from __future__ import annotations

import re
from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom.invitations import CLOSED, invite
from nettlecap.classroom.models import Brief, Course, Invitation, Letter, Membership, Person, Role
from nettlecap.classroom.people import free_login
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest


class Courses(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.instructor)

    def test_a_course_is_opened_with_drafts_of_an_earlier_ones_briefs(self) -> None:
        values = {"name": "First Motion again", "term": "Spring", "begins_on": "2027-01-11", "ends_on": "2027-03-26"}
        answer = self.client.post(reverse("new-course"), {**values, "like": self.school.course.pk})
        course = Course.objects.get(term="Spring")
        self.assertRedirects(answer, reverse("people", args=[course.pk]))
        self.assertEqual([(b.title, b.published) for b in course.briefs.all()], [("A cork float", False)])
        self.assertContains(self.client.get(reverse("people", args=[course.pk])), "11 Jan 2027 to 26 Mar 2027")

    def test_days_the_wrong_way_round_and_no_name_are_told_beside_their_fields(self) -> None:
        values = {"name": "", "begins_on": "2027-03-26", "ends_on": "2027-01-11"}
        answer = self.client.post(reverse("edit-course", args=[self.school.course.pk]), values)
        self.assertContains(answer, "Give it a name", status_code=422)
        self.assertContains(answer, "ends before it begins", status_code=422)

    def test_briefs_of_a_course_that_one_does_not_lead_cannot_be_had(self) -> None:
        answer = self.client.post(reverse("new-course"), {"name": "Mine", "like": self.school.other_course.pk})
        self.assertEqual(answer.status_code, 422)
        self.assertFalse(Course.objects.filter(name="Mine").exists())

    def test_a_course_that_is_over_stands_below_the_others(self) -> None:
        old = Course.objects.create(name="A first", term="Last year", ends_on=timezone.localdate() - timedelta(days=3))
        Membership.objects.create(course=old, person=self.school.instructor, role=Role.INSTRUCTOR)
        page = self.client.get("/")
        self.assertEqual([c.name for c in page.context["start"].courses], ["First Motion", "A first"])
        self.assertContains(page, "Last year, over")

    def test_who_keeps_the_house_can_open_the_first_course_of_all(self) -> None:
        keeper = Person.objects.create_user(username="keeper", name="Keeper", password="a-long-secret", is_staff=True)
        self.as_person(keeper)
        self.assertContains(self.client.get("/"), reverse("new-course"))
        self.client.post(reverse("new-course"), {"name": "The first"})
        self.assertEqual(Course.objects.led_by(keeper).get().name, "The first")


class Members(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.as_person(self.school.instructor)

    def add(self, **values: str):  # type: ignore[no-untyped-def]
        given = {"name": "Inês Faria", "email": "ines@sea.example", "role": "student", **values}
        return self.client.post(reverse("add-member", args=[self.school.course.pk]), given)

    def deed(self, login: str, deed: str, **more: str):  # type: ignore[no-untyped-def]
        member = Membership.objects.get(course=self.school.course, person__username=login)
        return self.client.post(
            reverse("change-member", args=[self.school.course.pk, member.pk]), {"deed": deed, **more}
        )

    def test_somebody_is_brought_in_by_hand_and_sets_a_password_of_their_own(self) -> None:
        self.assertContains(self.add(), "Inês Faria is in First Motion now")
        letter = Letter.objects.get(to__username="ines")
        link = re.search(r"http\S+(/password/\S+)", letter.body)
        assert link is not None
        self.client.logout()
        answer = self.client.get(link[1], follow=True)
        self.assertContains(answer, "For the login ines")
        chosen = {"new_password1": "salt-and-tide", "new_password2": "salt-and-tide"}
        self.assertRedirects(self.client.post(answer.request["PATH_INFO"], chosen), "/")
        self.assertContains(self.client.get("/"), "A cork float")
        self.client.logout()
        self.assertContains(self.client.get(link[1], follow=True), "This link has been used")

    def test_without_an_address_the_letter_is_handed_on_by_who_brought_them_in(self) -> None:
        page = self.add(email="")
        self.assertNotIn("/password/", page.content.decode().replace("/password/forgotten", ""))
        letters = reverse("course-letters", args=[self.school.course.pk])
        self.assertContains(page, letters)
        self.assertContains(self.client.get(letters), "/password/")
        self.assertContains(self.deed("ines", "write-again"), "was written to again")
        for person, status in ((self.school.assistant, 403), (self.school.student, 403), (self.school.stranger, 404)):
            self.as_person(person)
            self.assertEqual(self.client.get(letters).status_code, status)

    def test_a_link_for_somebody_who_has_a_password_is_not_given_out(self) -> None:
        answer = self.deed("ayumi", "write-again")
        self.assertEqual(answer.status_code, 409)
        self.assertNotIn("/password/", answer.content.decode().replace("/password/forgotten", ""))

    def test_what_is_wrong_is_told_and_nobody_is_added(self) -> None:
        before = Person.objects.count()
        for values, words in (
            ({"name": "  "}, "needs a name"),
            ({"email": "nowhere"}, "no e-mail address"),
            ({"login": "a b"}, "cannot be a login"),
            ({"login": "ayumi"}, "in this course already"),
            ({"role": "captain"}, "Select a valid choice"),
        ):
            with self.subTest(words):
                self.assertContains(self.add(**values), words, status_code=422)
        self.assertEqual(Person.objects.count(), before)

    def test_a_name_is_put_right_by_who_keeps_the_installation_and_nobody_else(self) -> None:
        self.add()
        self.assertEqual(self.deed("ines", "correct", name="Inês  Fária", email="").status_code, 403)
        self.assertEqual(Person.objects.get(username="ines").name, "Inês Faria")
        Person.objects.filter(pk=self.school.instructor.pk).update(is_staff=True)
        self.deed("ines", "correct", name="Inês  Fária", email="")
        self.assertEqual(Person.objects.get(username="ines").name, "Inês Fária")

    def test_somebody_becomes_something_else_and_their_share_is_free(self) -> None:
        take = self.school.take()
        Membership.objects.filter(person=self.school.classmate).update(marker=self.school.assistant)
        self.deed("ayumi", "role", role="assistant")
        self.as_person(self.school.student)
        self.assertEqual(self.client.get(reverse("desk", args=[take.pk])).status_code, 200)
        self.as_person(self.school.instructor)
        self.deed("bram", "role", role="student")
        self.assertIsNone(Membership.objects.get(person=self.school.classmate).marker)
        self.as_person(self.school.assistant)
        self.assertEqual(self.client.get(reverse("desk", args=[take.pk])).status_code, 404)
        self.as_person(self.school.instructor)
        self.assertEqual(self.deed("ayumi", "role", role="captain").status_code, 422)
        self.assertEqual(self.deed("orla", "role", role="student").status_code, 422)

    def test_who_leaves_keeps_their_work_and_comes_back_to_it(self) -> None:
        take = self.school.take()
        self.deed("ayumi", "leave")
        wall = self.client.get(reverse("class-wall", args=[self.school.course.pk])).context["wall"]
        self.assertEqual([line.student.username for line in wall.lines], ["kofi"])
        self.assertContains(self.client.get(reverse("people", args=[self.school.course.pk])), "left ")
        self.assertEqual(self.client.get(reverse("desk", args=[take.pk])).status_code, 200)
        self.as_person(self.school.student)
        self.assertContains(self.client.get("/"), "A cork float")
        self.assertEqual(self.client.get(reverse("take", args=[take.pk])).status_code, 200)
        self.assertEqual(self.client.post(reverse("hand-in", args=[self.school.brief.pk])).status_code, 403)
        self.as_person(self.school.instructor)
        self.deed("ayumi", "come-back")
        self.as_person(self.school.student)
        self.assertEqual(self.client.post(reverse("hand-in", args=[self.school.brief.pk])).status_code, 422)

    def test_who_left_without_work_sees_no_briefs_on_their_start(self) -> None:
        self.deed("kofi", "leave")
        self.as_person(self.school.classmate)
        self.assertContains(self.client.get("/"), "Nothing is set for you yet")

    def test_an_assistant_who_left_marks_no_more(self) -> None:
        take = self.school.take()
        self.deed("bram", "leave")
        self.as_person(self.school.assistant)
        self.assertEqual(self.client.get(reverse("desk", args=[take.pk])).status_code, 404)
        self.assertEqual(self.client.get(reverse("class-wall", args=[self.school.course.pk])).status_code, 404)
        self.assertNotContains(self.client.get("/"), "Waiting for you")

    def test_one_does_not_take_oneself_out(self) -> None:
        self.assertEqual(self.deed("orla", "leave").status_code, 422)

    def test_logins_are_made_of_names_as_people_write_them(self) -> None:
        for name, login in (("Ayumi Torrance", "ayumi.torrance"), ("Łukasz Żak", "łukasz"), ("Світлана", "світлана")):
            self.assertEqual(free_login(name), login)
        self.assertEqual(free_login("!!!"), "person")
        self.assertEqual(free_login("Zoë", frozenset({"zoe"})), "zoe2")


class Shares(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.first, self.second = self.school.take(), self.school.take(self.school.classmate)
        self.as_person(self.school.instructor)

    def share(self, **values: str) -> None:
        self.client.post(reverse("share", args=[self.school.course.pk]), values)

    def queue(self, person: Person, **asked: str) -> list[int]:
        self.as_person(person)
        page = self.client.get(reverse("clips"), {"state": "waiting", **asked})
        return sorted(t.pk for t in page.context["queue"].takes)

    def test_an_assistants_queue_is_their_share_and_those_of_nobody(self) -> None:
        member = Membership.objects.get(person=self.school.classmate)
        self.share(**{f"marker-{member.pk}": str(self.school.assistant.pk)})
        self.assertEqual(self.queue(self.school.assistant), [self.first.pk, self.second.pk])
        self.assertEqual(self.queue(self.school.instructor), [self.first.pk])
        self.assertEqual(self.queue(self.school.instructor, whose="all"), [self.first.pk, self.second.pk])
        self.assertEqual(self.queue(self.school.instructor, student=str(self.school.classmate.pk)), [self.second.pk])
        self.client.get(reverse("clips"), {"state": "waiting"})
        self.assertEqual(self.client.get("/").context["start"].waiting, 1)
        self.assertContains(self.client.get("/"), "1 more waits in the shares of others")
        self.assertRedirects(self.client.get(reverse("next-clip")), reverse("desk", args=[self.first.pk]))

    def test_students_are_shared_out_evenly_and_freed_when_their_marker_leaves(self) -> None:
        for name in ("a", "b", "c"):
            self.school.person(name, Role.STUDENT)
        self.share(evenly="1")
        markers = Membership.objects.learning().values_list("marker__username", flat=True)
        self.assertEqual(sorted(markers), ["bram", "bram", "bram", "orla", "orla"])
        member = Membership.objects.get(person=self.school.assistant)
        self.client.post(reverse("change-member", args=[self.school.course.pk, member.pk]), {"deed": "leave"})
        self.assertFalse(Membership.objects.filter(marker=self.school.assistant).exists())

    def test_only_who_marks_there_can_have_a_share(self) -> None:
        member = Membership.objects.get(person=self.school.classmate)
        for other in (self.school.student, self.school.stranger):
            self.share(**{f"marker-{member.pk}": str(other.pk)})
        self.assertFalse(Membership.objects.exclude(marker=None).exists())


class Invitations(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.link = invite(self.school.instructor, self.school.course, role=Role.STUDENT, days=7)
        self.url = reverse("join", args=[self.link.code])

    def test_somebody_new_comes_in_by_themselves(self) -> None:
        self.assertContains(self.client.get(self.url), "Come into First Motion")
        values = {"name": "Nuala  Quince", "login": "nuala", "password": "salt-and-tide", "email": ""}
        self.assertRedirects(self.client.post(self.url, values), "/")
        person = Person.objects.get(username="nuala")
        self.assertEqual((person.name, person.memberships.get().role), ("Nuala Quince", "student"))
        self.assertContains(self.client.get("/"), "A cork float")
        self.link.refresh_from_db()
        self.assertEqual(self.link.joined, 1)

    def test_what_is_wrong_is_told_beside_its_field(self) -> None:
        values = {"name": "", "login": "ayumi", "password": "short", "email": "nowhere"}
        answer = self.client.post(self.url, values)
        for words in ("Write your name", "has this login already", "too short", "no e-mail address"):
            self.assertContains(answer, words, status_code=422)
        self.assertEqual(self.link.course.memberships.count(), 4)

    def test_who_is_signed_in_comes_in_as_themselves_once(self) -> None:
        self.as_person(self.school.stranger)
        self.client.post(self.url)
        self.client.post(self.url)
        self.assertEqual(Membership.objects.get(course=self.school.course, person=self.school.stranger).role, "student")
        self.link.refresh_from_db()
        self.assertEqual(self.link.joined, 1)

    def test_who_is_in_it_already_stays_what_they_are(self) -> None:
        self.as_person(self.school.instructor)
        self.client.post(self.url)
        self.assertEqual(Membership.objects.get(person=self.school.instructor).role, Role.INSTRUCTOR)

    def test_it_ends_by_its_day_and_by_hand(self) -> None:
        Invitation.objects.update(expires_at=timezone.now() - timedelta(minutes=1))
        self.assertContains(self.client.get(self.url), CLOSED, status_code=410)
        Invitation.objects.update(expires_at=timezone.now() + timedelta(days=1))
        self.as_person(self.school.instructor)
        self.client.post(reverse("close-invitation", args=[self.school.course.pk, self.link.pk]))
        self.client.logout()
        values = {"name": "Late", "login": "late", "password": "salt-and-tide"}
        self.assertEqual(self.client.post(self.url, values).status_code, 410)
        self.assertFalse(Person.objects.filter(username="late").exists())
        self.assertEqual(self.client.get(reverse("join", args=["no-such"])).status_code, 404)

    def test_nobody_is_invited_to_lead(self) -> None:
        self.as_person(self.school.instructor)
        url = reverse("invite", args=[self.school.course.pk])
        self.assertEqual(self.client.post(url, {"role": "instructor", "days": "7"}).status_code, 422)
        self.assertEqual(self.client.post(url, {"role": "student", "days": "3650"}).status_code, 422)
        self.assertEqual(self.client.post(url, {"role": "assistant", "days": "1"}).status_code, 302)
        self.assertEqual(Invitation.objects.get(role="assistant").course, self.school.course)

    def test_drafts_and_takes_of_others_stay_out_of_a_newcomers_sight(self) -> None:
        take = self.school.take()
        Brief.objects.update(published_at=None)
        self.client.post(self.url, {"name": "New", "login": "newcomer", "password": "salt-and-tide"})
        self.assertNotContains(self.client.get("/"), "A cork float")
        self.assertEqual(self.client.get(reverse("take", args=[take.pk])).status_code, 404)
        self.assertEqual(Take.objects.count(), 1)
