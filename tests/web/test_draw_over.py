"""Drawing over a take: kept as drawn, shown to the student with the marks, and saved with the clip."""

from __future__ import annotations

import io
import json
import zipfile

import numpy as np
from django.urls import reverse
from PIL import Image

from nettlecap.marking.models import DrawnStroke
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest

LINE = [[30, 240], [450, 240]]


class DrawOver(SchoolTest):
    take: Take

    def setUp(self) -> None:
        super().setUp()
        self.take = self.school.take()
        self.as_person(self.school.instructor)

    def do(self, action: str, *args: int, **values: object):  # type: ignore[no-untyped-def]
        return self.client.post(reverse(action, args=[self.take.pk, *args]), values, headers={"hx-request": "true"})

    def draw(self, **values: object):  # type: ignore[no-untyped-def]
        asked = {"first_frame": 3, "last_frame": 4, "tool": "line", "points": json.dumps(LINE), **values}
        return self.do("draw-over", **asked)

    def page(self, name: str = "desk"):  # type: ignore[no-untyped-def]
        return self.client.get(reverse(name, args=[self.take.pk]))

    def frames(self, **query: str) -> list[np.ndarray]:
        answer = self.client.get(reverse("export-take", args=[self.take.pk, "frames.zip"]), query)
        self.assertIn("-drawn-" if query else "take-1-frames", answer["Content-Disposition"])
        packed = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
        names = [n for n in packed.namelist() if n.endswith(".png")]
        return [np.asarray(Image.open(io.BytesIO(packed.read(n))).convert("RGB")) for n in names]

    def test_a_stroke_is_kept_and_told_on_its_frames(self) -> None:
        answer = self.draw()
        self.assertContains(answer, "1 stroke")
        self.assertContains(answer, 'aria-label="drawn over"', count=2)
        stroke = DrawnStroke.objects.get()
        self.assertEqual((stroke.first_frame, stroke.last_frame, stroke.tool), (3, 4, "line"))
        self.assertEqual(stroke.points["points"], [[30, 240, 0.5], [450, 240, 0.5]])
        told = self.page().context["desk"].strokes
        self.assertEqual([(s["first"], s["last"]) for s in told], [(3, 4)])
        self.assertTrue(told[0]["path"].startswith("M"))

    def test_what_is_no_stroke_is_refused_and_nothing_is_kept(self) -> None:
        for values in ({"points": "no"}, {"points": "[]"}, {"tool": "eraser"}, {"first_frame": 0}, {"last_frame": 999}):
            with self.subTest(values):
                self.assertEqual(self.draw(**values).status_code, 422)
        self.assertFalse(DrawnStroke.objects.exists())

    def test_drawing_and_wiping_are_taken_back_in_turn(self) -> None:
        self.draw()
        number = DrawnStroke.objects.get().pk
        self.do("wipe", number)
        self.assertFalse(DrawnStroke.objects.exists())
        self.assertContains(self.do("take-back"), "Taken back: the wiping of a stroke.")
        self.assertEqual(DrawnStroke.objects.get().points["points"][0], [30, 240, 0.5])
        self.assertContains(self.do("take-back"), "Taken back: a stroke.")
        self.assertFalse(DrawnStroke.objects.exists())

    def test_there_is_an_end_to_the_strokes_of_a_take(self) -> None:
        self.draw()
        stroke = DrawnStroke.objects.get()
        many = [DrawnStroke(sheet=stroke.sheet, **stroke.told) for _ in range(399)]
        DrawnStroke.objects.bulk_create(many)
        answer = self.draw()
        self.assertEqual((answer.status_code, DrawnStroke.objects.count()), (409, 400))

    def test_the_student_sees_it_with_the_marks_and_not_before(self) -> None:
        self.draw()
        self.as_person(self.school.student)
        self.assertNotContains(self.page("take"), "Drawn over")
        plain = self.frames()
        kept = self.client.get(reverse("export-take", args=[self.take.pk, "frames.zip"]), {"drawn": "1"})
        self.assertNotIn("drawn", kept["Content-Disposition"])
        self.as_person(self.school.instructor)
        self.do("return-marks")
        self.as_person(self.school.student)
        page = self.page("returned")
        self.assertContains(page, "Drawn over")
        self.assertEqual(len(page.context["desk"].strokes), 1)
        drawn = self.frames(drawn="1")
        differ = [i for i, (a, b) in enumerate(zip(plain, drawn, strict=True), start=1) if not np.array_equal(a, b)]
        self.assertEqual(differ, [3, 4])
        red, _, blue = drawn[2][240, 200].astype(int)
        self.assertGreater(blue - red, 80)

    def test_returned_marks_are_not_drawn_on(self) -> None:
        self.do("return-marks")
        self.assertEqual(self.draw().status_code, 409)
        self.assertNotContains(self.page(), "data-pen=")
