"""A take that could not be looked at is no dead end: it is tried again, or marked by eye; drawings come back."""

from __future__ import annotations

import json
import shutil
from typing import Any
from unittest import mock

from django.urls import reverse

from motion import jobs, sandbox
from motion.errors import ReadingStopped
from nettlecap.marking.models import MarkSheet
from nettlecap.takes import look_again
from nettlecap.takes.models import Take
from nettlecap.takes.work import draw
from tests.web.school import SchoolTest, clean_clip, look_at_all

run = sandbox.run


def cannot_be(*works: Any):  # type: ignore[no-untyped-def]
    """A reader that gives up on these works, and does all others."""

    def refuse(work: Any, *args: Any, **more: Any) -> Any:
        if work in works:
            raise ReadingStopped("Its pictures made the reader stop.")
        return run(work, *args, **more)

    return mock.patch.object(sandbox, "run", refuse)


class ByEye(SchoolTest):
    def failed(self, *works: Any) -> Take:
        with cannot_be(jobs.examine, *works):
            return self.school.take(data=clean_clip())

    def mark(self, take: Take) -> None:
        self.as_person(self.school.instructor)
        for name, values in (
            ("note", {"first_frame": "2", "last_frame": "4", "principle": "arcs", "text": "Follow the arc."}),
            ("points", {"principle": "arcs", "points": "6"}),
            ("draw-over", {"first_frame": "1", "tool": "line", "points": "[[9, 9], [90, 90]]"}),
            ("return-marks", {"remark": "Look again at the second arc."}),
        ):
            with self.subTest(name):
                self.assertEqual(self.client.post(reverse(name, args=[take.pk]), values).status_code, 200)
        self.assertTrue(MarkSheet.objects.get(take=take).returned)
        self.as_person(self.school.student)
        page = self.client.get(reverse("returned", args=[take.pk]))
        self.assertContains(page, "Follow the arc.")
        self.assertContains(page, "Look again at the second arc.")
        self.assertEqual(self.client.get(reverse("marks-pdf", args=[take.pk])).status_code, 200)

    def test_its_drawings_play_and_it_is_marked_and_returned(self) -> None:
        take = self.failed()
        self.assertEqual((take.analysis.state, take.analysis.findings["findings"]), ("failed", []))
        self.as_person(self.school.student)
        page = self.client.get(reverse("take", args=[take.pk]))
        self.assertContains(page, "can be marked by eye")
        self.as_person(self.school.instructor)
        self.assertIn(take, self.client.get("/").context["start"].queue)
        desk = self.client.get(reverse("desk", args=[take.pk]))
        self.assertContains(desk, "data-player")
        self.assertContains(desk, "Mark it by eye")
        drawing = reverse("drawing", args=[take.pk, take.analysis.shown_run, 1])
        self.assertEqual(self.client.get(drawing).status_code, 200)
        self.mark(take)

    def test_without_any_drawing_it_is_marked_beside_the_file(self) -> None:
        take = self.failed(jobs.lay_out)
        self.assertIsNone(take.analysis.findings)
        self.as_person(self.school.instructor)
        desk = self.client.get(reverse("desk", args=[take.pk]))
        file = reverse("handed-in-file", args=[take.pk])
        self.assertContains(desk, file)
        self.assertContains(desk, "mark-column")
        answer = self.client.get(file)
        self.assertEqual(b"".join(answer.streaming_content), clean_clip())  # type: ignore[attr-defined]
        self.assertIn("attachment", answer["Content-Disposition"])
        with cannot_be():
            self.mark(take)

    def test_it_is_looked_at_again_when_a_person_asks(self) -> None:
        for person in (self.school.student, self.school.assistant):
            with self.subTest(str(person)):
                take = self.failed()
                self.as_person(person)
                self.client.post(reverse("look-at-again", args=[take.pk]))
                look_at_all()
                take.analysis.refresh_from_db()
                self.assertEqual(take.analysis.state, "done")
                self.assertTrue(take.analysis.findings["motion"])

    def test_a_student_does_not_have_it_tried_for_ever(self) -> None:
        take = self.failed()
        self.as_person(self.school.student)
        url = reverse("look-at-again", args=[take.pk])
        for _ in range(look_again.MOST_LOOKS - 1):
            self.assertEqual(self.client.post(url).status_code, 302)
            take.analysis.refresh_from_db()
            take.analysis.state = "failed"
            take.analysis.save()
        self.assertContains(self.client.post(url), "Ask your instructor", status_code=409)
        self.as_person(self.school.instructor)
        self.assertEqual(self.client.post(url).status_code, 302)

    def test_what_was_found_before_stays_when_a_new_look_fails(self) -> None:
        take = self.school.take(data=clean_clip())
        before = take.analysis.findings
        look_again.start_again(take)
        with cannot_be(jobs.examine, jobs.lay_out):
            look_at_all()
        take.analysis.refresh_from_db()
        self.assertEqual((take.analysis.state, take.analysis.findings), ("failed", before))
        self.as_person(self.school.instructor)
        self.assertContains(self.client.get(reverse("desk", args=[take.pk])), "data-player")


class DrawnAgain(SchoolTest):
    def setUp(self) -> None:
        super().setUp()
        self.take = self.school.take(data=clean_clip())
        self.folder = self.take.analysis.drawings_of(self.take.analysis.shown_run)
        self.before = {p.name: p.read_bytes() for p in self.folder.glob("*.png")}
        shutil.rmtree(self.folder)
        self.as_person(self.school.instructor)

    def test_a_missing_drawing_is_drawn_again_from_the_clip(self) -> None:
        url = reverse("drawing", args=[self.take.pk, self.take.analysis.shown_run, 2])
        for _ in range(3):
            answer = self.client.get(url)
        self.assertEqual((answer.status_code, answer["Retry-After"]), (503, "1"))
        look_at_all()
        self.assertEqual(self.client.get(url).status_code, 200)
        self.assertEqual({p.name: p.read_bytes() for p in self.folder.glob("*.png")}, self.before)
        self.assertEqual([p.name for p in self.folder.parent.iterdir()], [self.folder.name])
        self.assertEqual(self.client.get(url.replace("/2.png", "/9999.png")).status_code, 404)

    def test_what_needs_drawings_says_so_and_can_be_had_after(self) -> None:
        sheet = MarkSheet.objects.create(take=self.take)
        self.client.post(reverse("note", args=[self.take.pk]), {"first_frame": "2", "text": "Here."})
        self.client.post(reverse("return-marks", args=[self.take.pk]))
        urls = [
            reverse("export-take", args=[self.take.pk, "clip.gif"]),
            reverse("mended", args=[self.take.pk]),
            reverse("marks-pdf", args=[self.take.pk]),
        ]
        for url in urls:
            with self.subTest(url):
                self.assertContains(self.client.get(url), "drawn again", status_code=409)
        look_at_all()
        for url in urls:
            with self.subTest(url):
                self.assertEqual(self.client.get(url).status_code, 200)
        self.assertTrue(MarkSheet.objects.filter(pk=sheet.pk).exists())

    def test_a_clip_whose_file_is_gone_too_is_told_and_its_marks_can_be_read(self) -> None:
        self.take.file.unlink()
        url = reverse("handed-in-file", args=[self.take.pk])
        self.assertContains(self.client.get(url), "not there any more", status_code=410)
        self.assertEqual(draw.draw(self.take.pk, self.take.analysis.shown_run), "the clip cannot be read any more")
        self.assertEqual(self.client.get(reverse("desk", args=[self.take.pk])).status_code, 200)


class OldInk(SchoolTest):
    def test_an_arc_of_three_equal_points_is_refused_and_an_old_one_is_read(self) -> None:
        take = self.school.take(data=clean_clip())
        self.as_person(self.school.instructor)
        point = [60.0, 40.0, 0.5]
        for tool, count in (("arc", 3), ("line", 2), ("arrow", 2)):
            with self.subTest(tool):
                values = {"first_frame": "1", "tool": tool, "points": json.dumps([point] * count)}
                self.assertEqual(self.client.post(reverse("draw-over", args=[take.pk]), values).status_code, 422)
                sheet, _ = MarkSheet.objects.get_or_create(take=take)
                sheet.strokes.create(first_frame=1, last_frame=2, tool=tool, points=[point] * count)
        self.assertEqual(self.client.get(reverse("desk", args=[take.pk])).status_code, 200)
        url = reverse("export-take", args=[take.pk, "clip.gif"])
        self.assertEqual(self.client.get(url, {"drawn": "1"}).status_code, 200)
        self.client.post(reverse("return-marks", args=[take.pk]))
        self.assertEqual(self.client.get(reverse("marks-pdf", args=[take.pk])).status_code, 200)
