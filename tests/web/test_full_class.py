"""A whole class on every list page: as few questions to the database as for an empty one, and all of it shown."""

from __future__ import annotations

import shutil

from django.conf import settings
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom.models import Brief, Person
from nettlecap.marking.comparing import comparisons
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet
from nettlecap.takes.models import Take
from tests.web.full_class import BRIEFS, STUDENTS, fill, sample_clips
from tests.web.school import School

MOST_QUERIES = 12
# A reader's session and person are fetched on every page.


class FullClass(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.addClassCleanup(shutil.rmtree, settings.MEDIA_ROOT, ignore_errors=True)
        cls.school = School()
        cls.empty = cls.school.other_course
        fill(cls.school.course, cls.school.instructor, sample_clips(looks=("clean",)))
        cls.brief = Brief.objects.filter(course=cls.school.course).latest("pk")
        cls.student = Person.objects.get(username="pupil1")
        cls.take = Take.objects.get(brief=cls.brief, student=cls.student, number=3)
        MarkSheet.objects.filter(take__brief=cls.brief).update(returned_at=None)
        chosen = Take.objects.filter(brief=cls.brief).newest().values_list("pk", flat=True)
        cls.comparison = comparisons.hand_to_two(
            cls.school.instructor,
            cls.brief,
            one=cls.school.instructor.pk,
            other=cls.school.assistant.pk,
            takes=list(chosen)[:20],
        )

    def queries(self, person: Person, url: str) -> int:
        self.client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
        with CaptureQueriesContext(connection) as asked:
            self.assertEqual(self.client.get(url).status_code, 200, url)
        return len(asked)

    def test_there_are_as_many_takes_as_a_term_has(self) -> None:
        self.assertGreater(Take.objects.count(), 0.9 * STUDENTS * BRIEFS * 3)

    def test_every_list_page_asks_little(self) -> None:
        course, brief = [self.school.course.pk], [self.brief.pk]
        of_instructor = {
            "start": [],
            "clips": [],
            "class-wall": course,
            "people": course,
            "school": course,
            "brief": brief,
            "two-markers": brief,
            "files-of-class": brief,
            "comparison": [self.comparison.pk],
            "desk": [self.take.pk],
            "keep-or-delete": [self.student.pk],
        }
        of_student = {"start": [], "brief": brief, "you": []}
        for person, pages in ((self.school.instructor, of_instructor), (self.student, of_student)):
            for name, args in pages.items():
                with self.subTest(name, person=person.name):
                    self.assertLessEqual(self.queries(person, reverse(name, args=args)), MOST_QUERIES)

    def test_the_wall_over_the_term_and_of_one_brief_and_the_whole_queue(self) -> None:
        wall = reverse("class-wall", args=[self.school.course.pk])
        for url in (f"{wall}?by=faults", f"{wall}?brief={self.brief.pk}", f"{reverse('clips')}?state=all&page=2"):
            with self.subTest(url):
                self.assertLessEqual(self.queries(self.school.instructor, url), MOST_QUERIES)

    def test_over_the_term_each_brief_has_its_place_on_a_students_line(self) -> None:
        self.client.force_login(self.school.instructor, backend="django.contrib.auth.backends.ModelBackend")
        page = self.client.get(reverse("class-wall", args=[self.school.course.pk]))
        wall = page.context["wall"]
        order = [brief.pk for brief in wall.briefs]
        for line in wall.lines:
            self.assertEqual([brief.pk for brief, _ in line.slots], order)
            gaps = sum(take is None and brief.is_due for brief, take in line.slots)
            self.assertEqual(line.missing, gaps)
            self.assertTrue(all(take is None or take.brief_id == brief.pk for brief, take in line.slots))
        self.assertTrue(any(line.missing for line in wall.lines))
        self.assertContains(page, "<b>missing</b>", html=True)

    def test_the_grades_ask_no_more_for_many_briefs_than_for_one(self) -> None:
        url = reverse("grades-file", args=[self.school.course.pk, "csv"])
        self.assertLessEqual(self.queries(self.school.instructor, url), MOST_QUERIES)
        rows = self.client.get(url).content.decode().splitlines()
        # Thirty, and the two students that the school has besides, in four briefs and one besides.
        self.assertEqual(len(rows), 1 + (STUDENTS + 2) * (BRIEFS + 1))

    def test_an_ended_comparison_asks_little_whatever_its_clips(self) -> None:
        for part in self.comparison.parts.select_related("take__analysis"):
            sheet = MarkSheet.objects.create(blind=part, marked_by=part.marker, returned_at=timezone.now())
            said = Decision.Verdict.AGREED if part.marker == self.school.instructor else Decision.Verdict.DISMISSED
            for fault in part.take.analysis.faults:
                Decision.objects.create(sheet=sheet, key=finding_key(fault), verdict=said)
        comparisons.end(self.school.instructor, self.comparison)
        url = reverse("comparison", args=[self.comparison.pk])
        self.assertLessEqual(self.queries(self.school.instructor, url), MOST_QUERIES)
        outcome = self.client.get(url).context["outcome"]
        self.assertEqual(len(outcome.clips), 20)
        self.assertTrue(any(clip.differences for clip in outcome.clips))

    def test_with_nobody_in_it_every_page_says_what_to_do(self) -> None:
        stranger = self.school.stranger
        self.client.force_login(stranger, backend="django.contrib.auth.backends.ModelBackend")
        for name, words in (
            ("class-wall", "Nobody is in this class yet"),
            ("people", "No student is in this course yet"),
            ("school", "not linked yet"),
        ):
            with self.subTest(name):
                self.assertContains(self.client.get(reverse(name, args=[self.empty.pk])), words)
        grades = self.client.get(reverse("grades-file", args=[self.empty.pk, "csv"]))
        self.assertEqual(len(grades.content.decode().splitlines()), 1)
