"""Marking through the desk's actions, and reading what was returned."""

from __future__ import annotations

from django.test import SimpleTestCase
from django.urls import reverse

from nettlecap.marking.desk.laid_out import lay_out
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet, Note
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, clean_clip, hanging_clip


class Marking(SchoolTest):
    take: Take
    frame: int

    def setUp(self) -> None:
        super().setUp()
        data, self.frame = hanging_clip()
        self.take = self.school.take(data=data)
        self.key = finding_key(self.take.analysis.findings["findings"][0])
        self.as_person(self.school.instructor)

    def do(self, action: str, *args: int, **values: object):  # type: ignore[no-untyped-def]
        return self.client.post(reverse(action, args=[self.take.pk, *args]), values, headers={"hx-request": "true"})

    def section(self, principle: str = "contact"):  # type: ignore[no-untyped-def]
        return next(s for s in lay_out(self.take).sections if s.principle == principle)

    def test_the_desk_shows_the_planted_fault_on_its_frame(self) -> None:
        page = self.client.get(reverse("desk", args=[self.take.pk]))
        self.assertContains(page, "contact.gap")
        row = next(r for r in page.context["desk"].rows if r.frame == self.frame)
        self.assertEqual(row.glyphs, (("contact", self.key),))
        self.assertEqual(row.mark, "key")

    def test_points_follow_from_what_is_agreed(self) -> None:
        self.assertEqual(self.section().points, 10)
        self.do("say", key=self.key, verdict="agreed")
        self.assertLess(self.section().points, 10)
        self.do("say", key=self.key, verdict="dismissed")
        self.assertEqual((self.section().points, self.section().findings[0].verdict), (10, "dismissed"))
        self.do("say", key=self.key, verdict="")
        self.assertFalse(Decision.objects.exists())

    def test_points_by_hand_win_and_can_be_given_back(self) -> None:
        self.do("points", principle="contact", points="6.5")
        self.assertEqual(self.section().points, 6.5)
        self.do("points", principle="contact", points="")
        self.assertEqual(self.section().points, 10)

    def test_what_cannot_be_is_refused_in_words(self) -> None:
        for action, values, status in (
            ("points", {"principle": "contact", "points": "11"}, 422),
            ("points", {"principle": "contact", "points": "many"}, 422),
            ("points", {"principle": "contact", "points": "nan"}, 422),
            ("points", {"principle": "charm", "points": "1"}, 422),
            ("say", {"key": "contact.gap:900-900", "verdict": "agreed"}, 409),
            ("say", {"key": self.key, "verdict": "perhaps"}, 422),
            ("note", {"first_frame": "9", "last_frame": "3", "text": "x"}, 422),
            ("note", {"first_frame": "1", "last_frame": "999", "text": "x"}, 422),
            ("note", {"first_frame": "one", "text": "x"}, 422),
            ("note", {"first_frame": "1", "text": "  "}, 422),
            ("note", {"first_frame": "1", "text": "x" * 601}, 422),
            ("remark", {"remark": "x" * 4001}, 422),
        ):
            with self.subTest(action, **values):
                answer = self.do(action, **values)
                self.assertEqual(answer.status_code, status)
                self.assertTrue(answer.content.decode().endswith("."))
        self.assertFalse(Decision.objects.exists() or Note.objects.exists())

    def test_notes_are_kept_and_taken_back(self) -> None:
        self.do("note", first_frame="3", last_frame="5", principle="arcs", text="Lovely curve here.")
        self.assertEqual(self.section("arcs").notes[0].text, "Lovely curve here.")
        self.do("take-back-note", Note.objects.get().pk)
        self.assertFalse(Note.objects.exists())

    def test_returned_marks_reach_the_student_with_what_was_agreed_only(self) -> None:
        marks = reverse("returned", args=[self.take.pk])
        self.do("say", key=self.key, verdict="agreed")
        self.do("note", first_frame="3", text="Lovely curve here.")
        self.do("remark", remark="A lively float.")
        self.as_person(self.school.student)
        self.assertEqual(self.client.get(marks).status_code, 404)
        self.as_person(self.school.instructor)
        self.do("return-marks")
        self.as_person(self.school.student)
        page = self.client.get(marks)
        for words in ("hangs", "Lovely curve here.", "A lively float."):
            self.assertContains(page, words)

    def test_dismissed_findings_never_reach_the_student(self) -> None:
        self.do("say", key=self.key, verdict="dismissed")
        self.do("return-marks")
        self.as_person(self.school.student)
        page = self.client.get(reverse("returned", args=[self.take.pk]))
        self.assertNotContains(page, "contact.gap")
        self.assertNotContains(page, "hangs")

    def test_returned_marks_do_not_change_until_they_are_reopened(self) -> None:
        self.do("return-marks")
        self.assertEqual(self.do("say", key=self.key, verdict="agreed").status_code, 409)
        self.do("reopen", reason="One more look.")
        self.assertEqual(self.do("say", key=self.key, verdict="agreed").status_code, 200)
        self.as_person(self.school.student)
        self.assertEqual(self.client.get(reverse("returned", args=[self.take.pk])).status_code, 404)

    def test_decisions_survive_another_analysis_of_the_same_file(self) -> None:
        self.do("say", key=self.key, verdict="agreed")
        self.assertEqual(MarkSheet.objects.get().decisions.get().key, self.key)
        self.assertEqual(self.section().findings[0].verdict, "agreed")

    def test_the_queue_goes_on_to_the_next_clip(self) -> None:
        second = self.school.take(self.school.classmate, clean_clip())
        self.as_person(self.school.instructor)
        self.assertEqual(self.client.get(reverse("desk", args=[self.take.pk])).context["next"], second)
        self.assertRedirects(self.client.get(reverse("next-clip")), reverse("desk", args=[self.take.pk]))
        self.do("return-marks")
        self.assertRedirects(self.client.get(reverse("next-clip")), reverse("desk", args=[second.pk]))

    def test_files_for_markers(self) -> None:
        findings = self.client.get(reverse("findings-file", args=[self.take.pk])).json()
        self.assertEqual(findings["findings"][0]["code"], "contact.gap")
        table = self.client.get(reverse("track-table", args=[self.take.pk])).content.decode()
        self.assertTrue(table.startswith("first_frame,last_frame,drawing,x,y"))


class Queries(SchoolTest):
    def test_pages_ask_as_little_of_a_large_class_as_of_a_small_one(self) -> None:
        take = self.school.take()
        self.as_person(self.school.instructor)
        pages = [reverse("start"), reverse("brief", args=[take.brief_id]), reverse("desk", args=[take.pk])]
        before = [self.count(url) for url in pages]
        for number in range(6):
            student = self.school.person(f"pupil{number}", "student")
            copy = Take.objects.get(pk=take.pk)
            copy.pk, copy.student = None, student
            copy.save()
            analysis = Take.objects.get(pk=take.pk).analysis
            analysis.pk, analysis.take = None, copy
            analysis.save()
        self.assertEqual([self.count(url) for url in pages], before)
        self.assertLessEqual(max(before), 14)

    def count(self, url: str) -> int:
        from django.db import connection
        from django.test.utils import CaptureQueriesContext

        with CaptureQueriesContext(connection) as queries:
            self.assertEqual(self.client.get(url).status_code, 200)
        return len(queries)


class Keys(SimpleTestCase):
    def test_they_tell_parts_apart_and_stay_as_they_were_without(self) -> None:
        finding = {"code": "contact.slides", "first_frame": 5, "last_frame": 6}
        keys = [finding_key({**finding, **part}) for part in ({}, {"part": "near foot"}, {"part": "far foot"})]
        self.assertEqual(keys, ["contact.slides:5-6", "contact.slides:5-6@near foot", "contact.slides:5-6@far foot"])
