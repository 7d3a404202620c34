"""Signing in, what each person sees first, and empty states that say what to do next."""

from __future__ import annotations

from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom.models import Brief, Course, Membership, Person, Role
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, clean_clip


class SigningIn(SchoolTest):
    def test_a_wrong_password_is_said_and_a_right_one_leads_on(self) -> None:
        url = reverse("sign-in")
        self.assertContains(self.client.post(url, {"username": "orla", "password": "wrong"}), "correct")
        answer = self.client.post(f"{url}", {"username": "orla", "password": "a-long-secret", "next": "/desk"})
        self.assertRedirects(answer, "/desk", fetch_redirect_response=False)

    def test_pages_ask_for_signing_in_and_signing_out_ends_it(self) -> None:
        self.assertRedirects(self.client.get("/"), f"{reverse('sign-in')}?next=/")
        self.as_person(self.school.student)
        self.client.post(reverse("sign-out"))
        self.assertEqual(self.client.get("/").status_code, 302)

    def test_every_page_carries_the_strict_policy(self) -> None:
        policy = self.client.get(reverse("sign-in")).headers["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertIn("script-src 'self'", policy)
        self.assertNotIn("unsafe", policy)


class FirstPages(SchoolTest):
    def test_an_instructor_with_nothing_yet_is_told_what_to_do(self) -> None:
        self.as_person(self.school.stranger)
        page = self.client.get("/")
        self.assertContains(page, "No clip waits for marks")
        self.assertContains(page, "No brief is set yet")
        self.assertContains(page, reverse("new-brief", args=[self.school.other_course.pk]))

    def test_somebody_in_no_course_is_told_so(self) -> None:
        self.as_person(Person.objects.create_user(username="nobody", name="Nobody", password="a-long-secret"))
        self.assertContains(self.client.get("/"), "Nothing is set for you yet")

    def test_a_brief_counts_who_handed_in_who_waits_and_who_has_marks(self) -> None:
        self.school.take()
        self.school.take(self.school.classmate)
        self.school.take(self.school.classmate)
        self.as_person(self.school.instructor)
        state = self.client.get("/").context["start"].briefs[0]
        self.assertEqual((state.students, state.handed_in, state.waiting, state.returned), (2, 2, 2, 0))
        take = Take.objects.filter(student=self.school.classmate).latest("number")
        self.client.post(reverse("return-marks", args=[take.pk]))
        state = self.client.get("/").context["start"].briefs[0]
        self.assertEqual((state.handed_in, state.waiting, state.returned), (2, 1, 1))

    def test_only_the_last_take_waits_and_the_oldest_is_first(self) -> None:
        first = self.school.take(self.school.classmate)
        self.school.take()
        last = self.school.take()
        self.as_person(self.school.instructor)
        self.assertEqual([t.pk for t in self.client.get("/").context["start"].queue], [first.pk, last.pk])

    def test_a_student_sees_what_is_due_with_the_day_of_the_week(self) -> None:
        self.as_person(self.school.student)
        page = self.client.get("/")
        self.assertContains(page, timezone.localtime(self.school.brief.due_at).strftime("%A"))
        self.assertContains(page, "Open and hand in")
        self.school.take()
        self.as_person(self.school.student)
        self.assertContains(self.client.get("/"), "Take 1 is handed in")

    def test_a_take_after_the_due_date_is_marked_as_late(self) -> None:
        Brief.objects.filter(pk=self.school.brief.pk).update(due_at=timezone.now() - timedelta(hours=1))
        self.school.brief.refresh_from_db()
        take = self.school.take(data=clean_clip())
        self.as_person(self.school.instructor)
        self.assertContains(self.client.get(reverse("brief", args=[self.school.brief.pk])), ", late")
        self.assertContains(self.client.get(reverse("desk", args=[take.pk])), ", late")

    def test_a_person_can_teach_one_course_and_learn_in_another(self) -> None:
        both = self.school.assistant
        Membership.objects.create(course=self.school.other_course, person=both, role=Role.STUDENT)
        Brief.objects.create(
            course=Course.objects.get(pk=self.school.other_course.pk),
            title="Their own exercise",
            parameters={"schema": "nettlecap.brief/1", "exercise": "bounce"},
            due_at=timezone.now(),
            published_at=timezone.now(),
            created_by=self.school.stranger,
        )
        self.as_person(both)
        page = self.client.get("/")
        self.assertContains(page, "Waiting for you")
        self.assertContains(page, "Their own exercise")
