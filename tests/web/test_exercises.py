"""A student's start: what came back, what is left to put right, how many takes are left, and what is due next."""

from __future__ import annotations

from datetime import timedelta

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from nettlecap.marking.desk.laid_out import lay_out
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import MarkSheet, Reading
from nettlecap.marking.returning.ticking import keys_of, things_of, ticked
from tests.web.school import SchoolTest, hanging_clip


class Exercises(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.brief = self.school.brief
        self.brief.parameters = {**self.brief.parameters, "terms": {"takes": 3}}
        self.brief.save()

    def page(self):  # type: ignore[no-untyped-def]
        self.as_person(self.school.student)
        return self.client.get("/")

    def test_before_anything_is_handed_in_it_says_what_is_due_next(self) -> None:
        later = self.school.set_brief()
        later.title, later.due_at = "A lead sinker", timezone.now() + timedelta(days=9)
        later.save()
        page = self.page()
        self.assertEqual(page.context["start"].next_due.brief, self.brief)
        self.assertContains(page, "Due next")
        self.assertContains(page, "3 takes left")

    def test_a_take_that_waits_tells_nothing_that_was_measured(self) -> None:
        self.school.take(data=hanging_clip()[0])
        page = self.page()
        self.assertContains(page, "Take 1 is handed in")
        self.assertContains(page, "2 takes left")
        self.assertNotContains(page, "pathlet")
        self.assertIsNone(page.context["start"].next_due)

    def test_marks_that_are_back_say_what_is_left_to_put_right(self) -> None:
        take = self.school.take(data=hanging_clip()[0])
        key = finding_key(take.analysis.findings["findings"][0])
        sheet = MarkSheet.objects.create(take=take, returned_at=timezone.now(), marked_by=self.school.instructor)
        sheet.decisions.create(key=key, verdict="agreed")
        sheet.decisions.create(key="spacing.even:1-2", verdict="agreed")
        note = sheet.notes.create(first_frame=1, last_frame=2, text="Look here.")
        page = self.page()
        self.assertContains(page, "2 things left to put right.")
        self.assertContains(page, "of 50 points")
        self.assertContains(page, "pathlet")
        self.assertContains(page, "Hand in take 2")
        Reading.objects.create(sheet=sheet, ticked=[key])
        self.assertContains(self.page(), "1 thing left to put right, 1 done.")
        marks = lay_out(take)
        self.assertEqual(things_of(take, MarkSheet.objects.get()), (keys_of(marks), ticked(marks)))
        Reading.objects.update(ticked=[key, f"note:{note.pk}"])
        self.assertContains(self.page(), "Everything is put right.")

    def test_all_takes_and_a_closed_brief_are_said(self) -> None:
        self.school.take(data=hanging_clip()[0])
        self.brief.parameters = {**self.brief.parameters, "terms": {"takes": 1}}
        self.brief.save()
        self.assertContains(self.page(), "All takes are handed in.")
        self.brief.parameters = {**self.brief.parameters, "terms": {"late": "refused"}}
        self.brief.due_at = timezone.now() - timedelta(days=1)
        self.brief.save()
        self.as_person(self.school.classmate)
        page = self.client.get("/")
        self.assertContains(page, "late takes are not taken")
        self.assertNotContains(page, "Open and hand in")

    def test_however_many_there_are_it_asks_the_same(self) -> None:
        take = self.school.take(data=hanging_clip()[0])
        MarkSheet.objects.create(take=take, returned_at=timezone.now()).notes.create(
            first_frame=1, last_frame=2, text="Here."
        )
        self.page()
        counts = []
        for _ in range(2):
            with CaptureQueriesContext(connection) as asked:
                self.client.get(reverse("start"))
            counts.append(len(asked))
            for _ in range(5):
                self.school.set_brief()
        self.assertEqual(counts[0], counts[1])
        self.assertLessEqual(counts[0], 12)
