"""A take shown mended: by what is not dismissed for markers, by what was agreed for its student, for nobody else."""

from __future__ import annotations

import io

from django.urls import reverse
from PIL import Image

from nettlecap.marking.keys import finding_key
from nettlecap.takes.models import Take
from tests.web.school import SchoolTest, hanging_clip


class Mended(SchoolTest):
    take: Take

    def setUp(self) -> None:
        super().setUp()
        data, self.frame = hanging_clip()
        self.take = self.school.take(data=data)
        self.key = finding_key(self.take.analysis.findings["findings"][0])
        self.as_person(self.school.instructor)

    def told(self):  # type: ignore[no-untyped-def]
        return self.client.get(reverse("mended", args=[self.take.pk]))

    def say(self, verdict: str) -> None:
        self.client.post(reverse("say", args=[self.take.pk]), {"key": self.key, "verdict": verdict})

    def moved(self) -> list[int]:
        return [part["moved"] for part in self.told().json()["shown"] if part["moved"] is not None]

    def test_the_marker_sees_the_hanging_drawing_moved(self) -> None:
        told = self.told().json()
        (index,) = self.moved()
        self.assertEqual(sum(part["frames"] for part in told["shown"][:index]) + 1, self.frame)
        picture = self.client.get(f"{told['pictures']}{index}.png")
        data = io.BytesIO(b"".join(picture.streaming_content))
        self.assertEqual(Image.open(data).size, (480, 270))

    def test_what_is_dismissed_is_not_mended(self) -> None:
        self.say("dismissed")
        self.assertEqual(self.moved(), [])

    def test_the_student_sees_what_was_agreed_once_it_is_returned(self) -> None:
        self.as_person(self.school.student)
        self.assertEqual(self.told().status_code, 404)
        self.as_person(self.school.instructor)
        self.say("agreed")
        self.client.post(reverse("return-marks", args=[self.take.pk]))
        self.as_person(self.school.student)
        self.assertEqual(len(self.moved()), 1)
        self.as_person(self.school.classmate)
        self.assertEqual(self.told().status_code, 404)

    def test_a_take_that_was_not_looked_at_says_so(self) -> None:
        self.take.analysis.findings = None
        self.take.analysis.save()
        self.assertEqual(self.told().status_code, 409)
