"""Marking blind: what one places, or anybody else, does not reach the other; and no marks are to be read meanwhile."""

from __future__ import annotations

import json
from typing import Any

from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom.models import Person
from nettlecap.marking.models import Blind, Comparison, MarkSheet
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, clean_clip, hanging_clip


class PlacedBlind(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        school = self.school
        self.take = school.take(data=clean_clip())
        self.other = school.take(school.classmate, hanging_clip()[0])
        self.keeper = school.person("third", "instructor")
        self.hand_out()
        self.comparison = Comparison.objects.get()

    def hand_out(self):  # type: ignore[no-untyped-def]
        school = self.school
        self.as_person(school.instructor)
        values = {"one": school.instructor.pk, "other": school.assistant.pk, "take": [self.take.pk, self.other.pk]}
        return self.client.post(reverse("two-markers", args=[school.brief.pk]), values)

    def place(self, person: Person, **asked: Any):  # type: ignore[no-untyped-def]
        self.as_person(person)
        return self.client.post(reverse("place", args=[self.take.pk]), {"place": json.dumps(asked)})

    def found_by(self, person: Person) -> list[str]:
        self.as_person(person)
        desk = self.client.get(reverse("desk", args=[self.take.pk])).context["desk"]
        return [f.code for s in desk.sections for f in s.findings]

    def lay_down(self, person: Person) -> None:
        self.as_person(person)
        for take in (self.take, self.other):
            self.client.post(reverse("return-marks", args=[take.pk]))

    def test_what_one_places_changes_what_they_judge_and_nothing_else(self) -> None:
        orla, bram = self.school.instructor, self.school.assistant
        self.assertEqual(self.place(orla, ground=[235, 235]).status_code, 200)
        self.assertIn("contact.gap", self.found_by(orla))
        self.assertEqual(self.found_by(bram), [])
        self.assertEqual(self.found_by(self.keeper), [])
        take = Take.objects.select_related("analysis").get(pk=self.take.pk)
        self.assertEqual((take.placed, take.analysis.findings["findings"]), ({}, []))
        self.assertEqual(self.place(orla, ground=None).status_code, 200)
        self.assertEqual(self.found_by(orla), [])

    def test_nor_does_what_a_third_places_reach_them_nor_what_is_placed_after_one_has_laid_down(self) -> None:
        orla, bram = self.school.instructor, self.school.assistant
        self.place(self.keeper, ground=[235, 235])
        self.assertIn("contact.gap", self.found_by(self.keeper))
        self.assertEqual(self.found_by(orla) + self.found_by(bram), [])
        self.lay_down(orla)
        self.assertEqual(self.place(orla, ground=[235, 235]).status_code, 409)
        self.place(bram, ground=[230, 230])
        self.assertEqual(self.found_by(orla), [])
        self.assertEqual(self.place(bram, again=True).status_code, 409)

    def test_what_each_saw_stands_when_they_are_compared_and_when_one_is_taken_over(self) -> None:
        orla, bram = self.school.instructor, self.school.assistant
        self.place(orla, ground=[235, 235])
        key = next(f for f in Blind.objects.get(take=self.take, marker=orla).findings["findings"])
        self.as_person(orla)
        said = f"{key['code']}:{key['first_frame']}-{key['last_frame']}"
        self.client.post(reverse("say", args=[self.take.pk]), {"key": said, "verdict": "agreed"})
        self.lay_down(orla)
        self.lay_down(bram)
        self.as_person(orla)
        page = self.client.get(reverse("comparison", args=[self.comparison.pk]))
        clip = next(c for c in page.context["outcome"].clips if c.take == self.take)
        self.assertEqual([(d.one, d.other) for d in clip.differences], [("agreed", "left open")])
        self.client.post(reverse("adopt", args=[self.comparison.pk, self.take.pk]), {"marker": orla.pk})
        take = Take.objects.select_related("analysis").get(pk=self.take.pk)
        self.assertEqual(take.placement.ground, (235.0, 235.0))
        self.assertIn("contact.gap", self.found_by(self.keeper))

    def test_clips_whose_marks_are_returned_are_not_handed_out(self) -> None:
        Comparison.objects.all().delete()
        MarkSheet.objects.create(take=self.take, returned_at=timezone.now())
        self.as_person(self.school.instructor)
        page = self.client.get(reverse("two-markers", args=[self.school.brief.pk]))
        self.assertNotIn(self.take, page.context["takes"])
        self.assertEqual(self.hand_out().status_code, 409)
        self.assertFalse(Comparison.objects.exists())

    def test_nor_are_marks_returned_or_read_before_both_are_done(self) -> None:
        self.as_person(self.keeper)
        self.assertEqual(self.client.post(reverse("return-marks", args=[self.take.pk])).status_code, 409)
        MarkSheet.objects.update_or_create(take=self.take, defaults={"returned_at": timezone.now()})
        for person in (self.school.instructor, self.school.assistant):
            self.as_person(person)
            for name in ("returned", "marks-pdf"):
                self.assertEqual(self.client.get(reverse(name, args=[self.take.pk])).status_code, 409)
        self.lay_down(self.school.instructor)
        self.lay_down(self.school.assistant)
        self.assertEqual(self.client.get(reverse("returned", args=[self.take.pk])).status_code, 200)
