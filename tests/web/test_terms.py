"""On what terms takes are handed in, own checks before that, and what counts."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.urls import reverse
from django.utils import timezone

from nettlecap.marking.desk.laid_out import lay_out
from nettlecap.takes.models import Arrival, Take
from tests.web.school import SchoolTest, clean_clip, hanging_clip, look_at_all, read_all, upload


class TermsTest(SchoolTest):
    def set_up(self, *, due_in_hours: float = 24, marking: Any = None, **terms: Any) -> None:
        brief = self.school.brief
        brief.parameters |= {"terms": terms, "marking": marking or {}}
        brief.due_at = timezone.now() + timedelta(hours=due_in_hours)
        brief.save()
        self.as_person(self.school.student)

    def send(self, name: str = "hand-in", data: bytes | None = None):  # type: ignore[no-untyped-def]
        url = reverse(name, args=[self.school.brief.pk])
        files = {"files": [upload(data or clean_clip())]}
        return self.client.post(url, files, headers={"accept": "application/json"})

    def page(self):  # type: ignore[no-untyped-def]
        return self.client.get(reverse("brief", args=[self.school.brief.pk]))


class HandingIn(TermsTest):
    def test_no_more_takes_than_asked_for(self) -> None:
        self.set_up(takes=1)
        self.assertEqual(self.send().status_code, 201)
        # Two that come in together: the one that is read first is the take.
        self.assertEqual(self.send().status_code, 201)
        read_all()
        self.assertIn("at most 1 take", Arrival.objects.untold().get().message)
        refused = self.send()
        self.assertEqual(refused.status_code, 422)
        self.assertIn("at most 1 take", refused.json()["message"])
        self.assertEqual(Take.objects.count(), 1)
        self.assertContains(self.page(), "All takes are handed in")

    def test_late_takes_are_refused_where_the_brief_says_so(self) -> None:
        self.set_up(due_in_hours=-1, late="refused")
        refused = self.send()
        self.assertIn("late takes are not taken", refused.json()["message"])
        self.assertFalse(Take.everything.exists())
        self.assertContains(self.page(), "This brief is closed")

    def test_what_came_before_the_due_date_is_in_time_however_late_it_is_read(self) -> None:
        self.set_up(due_in_hours=1, late="refused")
        self.send()
        Arrival.objects.update(came_at=timezone.now() - timedelta(hours=3))
        self.school.brief.due_at = timezone.now() - timedelta(hours=2)
        self.school.brief.save()
        read_all()
        self.assertFalse(Take.objects.get().late)

    def test_lateness_costs_its_share_of_the_points(self) -> None:
        self.set_up(due_in_hours=-1, late_cost=0.2)
        self.assertContains(self.page(), "loses 20 % of its points")
        self.send()
        look_at_all()
        take = Take.objects.get()
        self.assertEqual((lay_out(take).total, lay_out(take).most), (40.0, 50.0))
        self.as_person(self.school.instructor)
        self.assertContains(self.client.get(reverse("desk", args=[take.pk])), "late: 20 % off")
        self.set_up(due_in_hours=1, late_cost=0.2)
        self.assertEqual(lay_out(Take.objects.get()).total, 50.0)

    def test_nobody_hands_in_to_a_draft(self) -> None:
        self.set_up()
        self.school.brief.published_at = None
        self.school.brief.save()
        self.assertEqual(self.send().status_code, 404)
        self.assertEqual(self.page().status_code, 404)


class OwnChecks(TermsTest):
    def check(self, data: bytes | None = None) -> Take:
        self.assertEqual(self.send("check-clip", data).status_code, 201)
        look_at_all()
        return Take.everything.order_by("-pk")[0]

    def test_a_check_tells_its_student_and_nobody_else_what_was_found(self) -> None:
        self.set_up(own_checks=2)
        self.assertContains(self.page(), "Run the checks first (2 left)")
        data, frame = hanging_clip()
        trial = self.check(data)
        page = self.client.get(reverse("take", args=[trial.pk]))
        self.assertContains(page, "not handed in yet")
        self.assertContains(page, f"Frame {frame} should be the contact")
        self.assertContains(page, "1 more time")
        self.assertFalse(Take.objects.exists())
        for person, status in ((self.school.instructor, 404), (self.school.classmate, 404)):
            self.as_person(person)
            self.assertEqual(self.client.get(reverse("take", args=[trial.pk])).status_code, status)
            self.assertEqual(self.client.get(reverse("desk", args=[trial.pk])).status_code, 404)
        self.assertEqual(Take.objects.markable_by(self.school.instructor).waiting_for_marks().count(), 0)

    def test_what_was_checked_can_be_handed_in_as_it_is(self) -> None:
        self.set_up(own_checks=1)
        trial = self.check()
        answer = self.client.post(reverse("make-final", args=[trial.pk]))
        self.assertRedirects(answer, reverse("take", args=[trial.pk]))
        take = Take.objects.get()
        self.assertEqual((take.pk, take.number, take.trial), (trial.pk, 1, False))
        # Handed in, what was found is the instructor's to tell.
        self.assertNotContains(self.client.get(reverse("take", args=[take.pk])), "The checks")
        self.assertEqual(self.client.post(reverse("make-final", args=[trial.pk])).status_code, 409)
        # The check is used up all the same.
        self.assertEqual(self.send("check-clip").status_code, 422)

    def test_checks_are_run_as_often_as_the_brief_allows(self) -> None:
        self.set_up(own_checks=0)
        self.assertIn("cannot be run before", self.send("check-clip").json()["message"])
        self.assertNotContains(self.page(), "Run the checks first")
        self.set_up(own_checks=None)
        for number in (1, 2, 3):
            self.assertEqual(self.check().trial_number, number)
        self.assertContains(self.page(), "Run the checks first<")

    def test_faults_that_are_not_marked_yet_are_not_told(self) -> None:
        self.set_up(own_checks=1, marking={"weights": {"contact.gap": 0}})
        trial = self.check(hanging_clip()[0])
        self.assertContains(self.client.get(reverse("take", args=[trial.pk])), "find nothing to say")

    def test_a_trial_cannot_be_handed_in_by_another_or_too_late(self) -> None:
        self.set_up(own_checks=1, late="refused")
        trial = self.check()
        self.as_person(self.school.classmate)
        self.assertEqual(self.client.post(reverse("make-final", args=[trial.pk])).status_code, 404)
        self.set_up(due_in_hours=-1, own_checks=1, late="refused")
        self.assertEqual(self.client.post(reverse("make-final", args=[trial.pk])).status_code, 422)
        self.assertFalse(Take.objects.exists())


class WhatCounts(TermsTest):
    def take_of_a_hanging_ball(self) -> Take:
        self.send(data=hanging_clip()[0])
        look_at_all()
        return Take.objects.get()

    def agree_all(self, take: Take) -> float:
        self.as_person(self.school.instructor)
        for section in lay_out(take).sections:
            for found in section.findings:
                self.client.post(reverse("say", args=[take.pk]), {"key": found.key, "verdict": "agreed"})
        return next(s.points for s in lay_out(take).sections if s.principle == "contact")

    def test_weights_scale_what_a_fault_costs(self) -> None:
        self.set_up()
        full = self.agree_all(self.take_of_a_hanging_ball())
        for weight, share in ((2, 2.0), (0.5, 0.5)):
            self.set_up(marking={"weights": {"contact.gap": weight}})
            self.assertEqual(self.agree_all(Take.objects.get()), 10 - round(2 * share * (10 - full)) / 2)

    def test_what_is_not_marked_yet_stands_apart_and_costs_nothing(self) -> None:
        self.set_up(marking={"weights": {"contact.gap": 0}})
        take = self.take_of_a_hanging_ball()
        desk = lay_out(take)
        self.assertEqual([f.code for f in desk.unmarked], ["contact.gap"])
        self.assertEqual((desk.undecided, desk.total), (0, 50.0))
        self.as_person(self.school.instructor)
        page = self.client.get(reverse("desk", args=[take.pk]))
        self.assertContains(page, "Not marked in this brief (1)")
        self.client.post(reverse("say", args=[take.pk]), {"key": desk.unmarked[0].key, "verdict": "agreed"})
        self.assertEqual((lay_out(take).unmarked, lay_out(take).total), ((), 50.0))

    def test_a_principle_without_points_is_not_marked(self) -> None:
        self.set_up(marking={"points": {"spacing": 20, "contact": 0}})
        take = self.take_of_a_hanging_ball()
        desk = lay_out(take)
        self.assertEqual((desk.most, [f.code for f in desk.unmarked]), (20.0, ["contact.gap"]))
        self.as_person(self.school.instructor)
        self.assertContains(self.client.get(reverse("desk", args=[take.pk])), "not marked")
