"""A take beside another one: an earlier take by its contacts, or the brief's own bounce."""

from __future__ import annotations

from dataclasses import replace

from django.urls import reverse
from django.utils import timezone

from motion.exercises.bounce.plan import bounce
from motion.guide.guide import guide_of
from nettlecap.marking.models import MarkSheet
from tests.web.school import SMALL, SchoolTest, zip_of


class Companions(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.first = self.school.take(data=zip_of(bounce(replace(SMALL, fall_frames=9.5))))
        self.second = self.school.take()

    def beside(self, take: int, other: int):  # type: ignore[no-untyped-def]
        return self.client.get(reverse("beside-take", args=[take, other]))

    def contacts(self, take) -> list[int]:  # type: ignore[no-untyped-def]
        return [c["first_frame"] for c in take.analysis.findings["motion"]["contacts"]]

    def test_an_earlier_take_lands_when_this_one_lands(self) -> None:
        self.as_person(self.school.instructor)
        told = self.beside(self.second.pk, self.first.pk).json()
        self.assertEqual(len(told["frames"]), self.second.frames)
        landings = [told["frames"][frame - 1] for frame in self.contacts(self.second)]
        for there, wanted in zip(landings, self.contacts(self.first), strict=True):
            self.assertLessEqual(abs(there - wanted), 1)
        self.assertNotEqual(self.contacts(self.second), self.contacts(self.first))
        self.assertEqual(len(told["shapes"]), len({e["drawing"] for e in told["exposures"]}))
        self.assertEqual(self.client.get(f"{told['drawings']}1.png").status_code, 200)

    def test_only_earlier_takes_of_the_same_student_and_brief_are_offered(self) -> None:
        other = self.school.take(student=self.school.classmate)
        self.as_person(self.school.instructor)
        for pair in ((self.first.pk, self.second.pk), (self.second.pk, other.pk), (self.second.pk, self.second.pk)):
            with self.subTest(pair):
                self.assertEqual(self.beside(*pair).status_code, 404)
        desk = self.client.get(reverse("desk", args=[self.second.pk])).content.decode()
        self.assertIn(reverse("beside-take", args=[self.second.pk, self.first.pk]), desk)
        self.assertIn('value="rate:12"', desk)
        self.assertNotIn('value="rate:24"', desk)

    def return_both(self) -> None:
        for take in (self.first, self.second):
            MarkSheet.objects.update_or_create(take=take, defaults={"returned_at": timezone.now()})

    def test_the_student_sees_their_own_once_they_are_back_and_others_do_not(self) -> None:
        self.as_person(self.school.student)
        self.assertEqual(self.beside(self.second.pk, self.first.pk).status_code, 403)
        self.return_both()
        for person, status in ((self.school.student, 200), (self.school.classmate, 404), (self.school.stranger, 404)):
            with self.subTest(str(person)):
                self.as_person(person)
                self.assertEqual(self.beside(self.second.pk, self.first.pk).status_code, status)

    def test_the_briefs_bounce_lies_beside_the_take(self) -> None:
        self.as_person(self.school.instructor)
        told = self.client.get(reverse("beside-guide", args=[self.second.pk])).json()
        self.assertEqual(len(told["frames"]), self.second.frames)
        by_number = {s["drawing"]: s for s in told["shapes"]}
        ground = guide_of(self.school.brief.core).plan.ground_at(0.0)
        for frame in self.contacts(self.second)[:2]:
            there = told["frames"][frame - 1]
            shown = [e for e in told["exposures"] if e["first_frame"] <= there][-1]
            shape = by_number[shown["drawing"]]
            self.assertAlmostEqual(shape["y"] + shape["minor"] / 2, ground, delta=1.0)

    def test_a_guide_that_students_do_not_get_is_not_set_beside_their_takes(self) -> None:
        url = reverse("beside-guide", args=[self.second.pk])
        self.return_both()
        self.as_person(self.school.student)
        self.assertEqual(self.client.get(url).status_code, 200)
        brief = self.school.brief
        for terms in ({"guide": "path"}, {"guide": "nothing"}):
            brief.parameters = {**brief.parameters, "terms": terms}
            brief.save()
            with self.subTest(terms):
                self.as_person(self.school.student)
                self.assertEqual(self.client.get(url).status_code, 403)
                self.as_person(self.school.instructor)
                self.assertEqual(self.client.get(url).status_code, 200)
