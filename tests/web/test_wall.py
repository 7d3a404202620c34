"""The class wall: who is where, what the class gets wrong, and its points as a file."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from datetime import timedelta
from typing import Any

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from nettlecap.classroom.models import Brief
from nettlecap.marking.models import Decision, MarkSheet
from nettlecap.takes.models import Analysis, Take
from tests.web.school import SchoolTest

MOST_QUERIES = 12


def fault(code: str, frame: int, severity: str = "clear", times: float = 2.0) -> dict[str, Any]:
    principle = {"contact": "contact", "spacing": "spacing", "volume": "squash_stretch"}[code.split(".", maxsplit=1)[0]]
    return {"code": code, "principle": principle, "severity": severity, "first_frame": frame, "last_frame": frame,
            "times": times}  # fmt: skip


class AClass(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.brief = self.school.brief
        self.ayumi, self.kofi = self.school.student, self.school.classmate
        self.as_person(self.school.instructor)

    def take_of(self, student, *faults: dict[str, Any], number: int = 1, brief: Brief | None = None) -> Take:  # type: ignore[no-untyped-def]
        told = {"file_name": "a.zip", "file_path": "x/a.zip", "file_bytes": 9, "frames": 40, "pictures": 40}
        take = Take.objects.create(
            brief=brief or self.brief, student=student, number=number, width=480, height=270, **told
        )
        clip = {"frames": 40, "fps": 24, "width": 480, "height": 270, "exposures": []}
        Analysis.objects.create(
            take=take, state=Analysis.State.DONE, faults=list(faults), findings={"clip": clip, "findings": []}
        )
        return take

    def returned(self, take: Take, *agreed: str, **by_hand: float) -> MarkSheet:
        sheet = MarkSheet.objects.create(take=take, returned_at=timezone.now(), by_hand=by_hand)
        for key in agreed:
            Decision.objects.create(sheet=sheet, key=key, verdict="agreed")
        return sheet


class ClassWall(AClass):
    def wall(self, **asked: object):  # type: ignore[no-untyped-def]
        asked = {"brief": self.brief.pk, **asked}
        return self.client.get(reverse("class-wall", args=[self.school.course.pk]), asked).context["wall"]

    def cells(self, line) -> dict[str, tuple[str, ...]]:  # type: ignore[no-untyped-def]
        return {c.principle: c.severities for c in line.cells if c.severities}

    def test_each_students_faults_stand_by_principle_the_gravest_first(self) -> None:
        self.take_of(self.ayumi, fault("contact.gap", 8, "slight"), fault("contact.gap", 20, "strong"))
        ayumi, kofi = self.wall().lines
        self.assertEqual(self.cells(ayumi), {"contact": ("strong", "slight")})
        self.assertEqual((kofi.takes, kofi.missing, self.cells(kofi)), ((), 1, {}))

    def test_of_returned_marks_only_what_was_agreed_counts_and_before_that_nothing_dismissed(self) -> None:
        take = self.take_of(self.ayumi, fault("contact.gap", 8), fault("spacing.jump", 12))
        self.returned(take, "contact.gap:8-8")
        other = self.take_of(self.kofi, fault("contact.gap", 8), fault("spacing.jump", 12))
        sheet = MarkSheet.objects.create(take=other)
        Decision.objects.create(sheet=sheet, key="spacing.jump:12-12", verdict="dismissed")
        for line in self.wall().lines:
            self.assertEqual(self.cells(line), {"contact": ("clear",)})

    def test_points_are_those_of_the_desk(self) -> None:
        take = self.take_of(self.ayumi, fault("contact.gap", 8), fault("spacing.jump", 12))
        self.returned(take, "contact.gap:8-8", "spacing.jump:12-12", spacing=4.0)
        line = self.wall().lines[0]
        self.assertEqual((line.grade.points["contact"], line.grade.points["spacing"]), (7.5, 4.0))
        self.assertEqual((line.grade.total, line.grade.most), (41.5, 50.0))

    def test_it_is_sorted_by_what_matters(self) -> None:
        zoe = self.school.person("zoe", "student")
        self.take_of(self.ayumi, fault("contact.gap", 8))
        self.take_of(zoe, *(fault("spacing.jump", n) for n in (3, 9, 15)))
        self.take_of(zoe, fault("spacing.jump", 9), number=2)
        names = lambda by: [line.student.username for line in self.wall(by=by).lines]  # noqa: E731
        self.assertEqual(names("name"), ["ayumi", "kofi", "zoe"])
        self.assertEqual(names("missing")[0], "kofi")
        self.assertEqual(names("improved")[0], "zoe")
        self.assertEqual(names("nonsense"), names("name"))
        Brief.objects.filter(pk=self.brief.pk).update(due_at=timezone.now() - timedelta(days=1))
        self.assertEqual([line.late for line in self.wall(by="late").lines], [1, 1, 0])

    def test_the_commonest_faults_are_told_with_the_clips_that_show_them_best(self) -> None:
        weak = self.take_of(self.ayumi, fault("contact.gap", 8, times=1.5), fault("spacing.jump", 20))
        strong = self.take_of(self.kofi, fault("contact.gap", 9, times=4.0), fault("contact.gap", 19, times=1.2))
        common = self.wall().common
        self.assertEqual([(c.code, c.students) for c in common], [("contact.gap", 2), ("spacing.jump", 1)])
        self.assertEqual(common[0].clips, ((strong, 9), (weak, 8)))

    def test_clips_are_shown_in_class_without_names_unless_wished(self) -> None:
        self.take_of(self.ayumi, fault("contact.gap", 8))
        url = reverse("show-clips", args=[self.brief.pk, "contact.gap"])
        self.assertNotContains(self.client.get(url), "Ayumi")
        self.assertContains(self.client.get(url, {"names": "1"}), "Ayumi")
        self.assertEqual(self.client.get(reverse("show-clips", args=[self.brief.pk, "arc.off_path"])).status_code, 404)

    def test_over_the_term_all_briefs_count(self) -> None:
        other = self.school.set_brief()
        self.take_of(self.ayumi, fault("contact.gap", 8))
        self.take_of(self.ayumi, fault("spacing.jump", 8), brief=other)
        line = self.wall(brief="").lines[0]
        self.assertEqual((len(line.takes), sorted(self.cells(line))), (2, ["contact", "spacing"]))

    def test_a_brief_of_another_course_is_not_shown(self) -> None:
        foreign = Brief.objects.create(
            course=self.school.other_course, title="B", parameters=self.brief.parameters,
            due_at=timezone.now(), published_at=timezone.now(), created_by=self.school.stranger
        )  # fmt: skip
        url = reverse("class-wall", args=[self.school.course.pk])
        self.assertEqual(self.client.get(url, {"brief": foreign.pk}).status_code, 404)

    def test_a_number_that_is_none_is_left_open(self) -> None:
        self.assertIsNone(self.wall(brief="9" * 5000).brief)

    def test_an_empty_class_is_told_so(self) -> None:
        self.as_person(self.school.stranger)
        answer = self.client.get(reverse("class-wall", args=[self.school.other_course.pk]))
        self.assertContains(answer, "Nobody is in this class yet")

    def test_it_asks_few_questions_whatever_the_size_of_the_class(self) -> None:
        self.take_of(self.ayumi, fault("contact.gap", 8))
        few = self.queries()
        for i in range(30):
            student = self.school.person(f"pupil{i}", "student")
            for number in (1, 2, 3):
                self.returned(self.take_of(student, fault("contact.gap", 8), number=number), "contact.gap:8-8")
        self.assertLessEqual(self.queries(), few + 1)
        self.assertLessEqual(self.queries(), MOST_QUERIES)

    def queries(self) -> int:
        with CaptureQueriesContext(connection) as asked:
            self.wall()
        return len(asked)


class Gradebook(AClass):
    def grades(self, kind: str) -> bytes:
        answer = self.client.get(reverse("grades-file", args=[self.school.course.pk, kind]))
        self.assertEqual(answer.status_code, 200)
        return answer.content

    def test_points_are_written_for_returned_marks_only(self) -> None:
        self.returned(self.take_of(self.ayumi, fault("contact.gap", 8)), "contact.gap:8-8")
        self.take_of(self.kofi, fault("contact.gap", 8))
        rows = list(csv.DictReader(io.StringIO(self.grades("csv").decode("utf-8-sig"))))
        self.assertEqual(
            [(r["login"], r["contact"], r["total"]) for r in rows], [("ayumi", "7.5", "47.5"), ("kofi", "", "")]
        )
        told = json.loads(self.grades("json"))
        self.assertEqual((told["schema"], told["grades"][0]["total"]), ("nettlecap.grades/1", 47.5))

    def test_what_a_spreadsheet_would_compute_is_made_a_text(self) -> None:
        for name in ("=1+1", "+cmd", "-2", "@sum", "\tx"):
            self.ayumi.name = name
            self.ayumi.save()
            rows = list(csv.reader(io.StringIO(self.grades("csv").decode("utf-8-sig"))))
            with self.subTest(name):
                self.assertIn(f"'{name}", {row[1] for row in rows})

    def test_the_spreadsheet_holds_the_same_table(self) -> None:
        self.returned(self.take_of(self.ayumi))
        content = zipfile.ZipFile(io.BytesIO(self.grades("ods"))).read("content.xml").decode()
        for words in ("ayumi", "A cork float", 'office:value="50.0"'):
            self.assertIn(words, content)

    def test_another_kind_is_not_there(self) -> None:
        self.assertEqual(self.client.get(reverse("grades-file", args=[self.school.course.pk, "xls"])).status_code, 404)
