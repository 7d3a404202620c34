"""The guide as files: what each person gets of it, before and after the due date."""

from __future__ import annotations

import io
import zipfile
from datetime import timedelta
from typing import Any

from django.urls import reverse
from django.utils import timezone
from PIL import Image

from motion.guide.sheet import LAYERS
from nettlecap.classroom.guide_files import KINDS, NEEDS_ALL, OF_FIGURE
from tests.web.school import SchoolTest

OF_A_BALL = [kind for kind in KINDS if kind not in OF_FIGURE]
SMALL_GUIDE = {"diameter": 30, "height": 150, "distance": 250, "ground_y": 225}


class GuideFiles(SchoolTest):
    def set_up(self, **terms: Any) -> None:
        brief = self.school.brief
        brief.parameters |= {"canvas": {"width": 480, "height": 270}, "guide": SMALL_GUIDE, "terms": terms}
        brief.save()

    def get(self, kind: str):  # type: ignore[no-untyped-def]
        return self.client.get(reverse("guide-file", args=[self.school.brief.pk, kind]))

    def content(self, kind: str) -> bytes:
        answer = self.get(kind)
        self.assertEqual(answer.status_code, 200)
        self.assertIn("attachment", answer["Content-Disposition"])
        return b"".join(answer.streaming_content) if answer.streaming else answer.content

    def test_each_kind_opens_as_what_it_is(self) -> None:
        self.set_up()
        self.as_person(self.school.student)
        self.assertTrue(self.content("sheet.svg").startswith(b"<?xml"))
        self.assertEqual(Image.open(io.BytesIO(self.content("sheet.png"))).size, (480, 270))
        names = zipfile.ZipFile(io.BytesIO(self.content("frames.zip"))).namelist()
        self.assertEqual(names[0], "guide_0001.png")
        self.assertIn(b'id="moves"', self.content("chart.svg"))
        self.assertEqual(self.get("sheet.doc").status_code, 404)

    def test_the_page_to_print_names_no_machine_and_no_maker(self) -> None:
        self.set_up()
        self.as_person(self.school.student)
        pdf = self.content("sheet.pdf")
        self.assertTrue(pdf.startswith(b"%PDF"))
        for trace in (b"/Producer", b"/Author", b"/CreationDate", b"file:", b"/home", b"/work"):
            self.assertNotIn(trace, pdf)
        self.assertEqual(pdf, self.content("sheet.pdf"))

    def test_students_get_as_much_as_the_brief_gives_and_markers_all(self) -> None:
        for shown, layers in (("all", LAYERS), ("path", LAYERS[:2]), ("ground", LAYERS[:1])):
            self.set_up(guide=shown)
            with self.subTest(shown):
                self.as_person(self.school.student)
                svg = self.content("sheet.svg").decode()
                self.assertEqual([layer for layer in LAYERS if f'id="{layer}"' in svg], list(layers))
                page = self.client.get(reverse("brief", args=[self.school.brief.pk])).content.decode()
                self.assertEqual([layer for layer in LAYERS if f'id="{layer}"' in page], list(layers))
                for kind in set(NEEDS_ALL) & set(OF_A_BALL):
                    self.assertEqual(self.get(kind).status_code, 200 if shown == "all" else 404)
                self.as_person(self.school.assistant)
                self.assertEqual({self.get(kind).status_code for kind in OF_A_BALL}, {200})
                self.assertEqual({self.get(kind).status_code for kind in OF_FIGURE}, {404})

    def test_nothing_means_nothing(self) -> None:
        self.set_up(guide="nothing", guide_after="nothing")
        self.as_person(self.school.student)
        self.assertEqual({self.get(kind).status_code for kind in KINDS}, {404})
        page = self.client.get(reverse("brief", args=[self.school.brief.pk]))
        self.assertContains(page, "No guide is given out")
        self.assertNotContains(page, 'id="ground"')

    def test_more_can_be_given_once_it_was_due(self) -> None:
        self.set_up(guide="ground", guide_after="all")
        self.as_person(self.school.student)
        self.assertEqual(self.get("sheet.pdf").status_code, 404)
        self.school.brief.due_at = timezone.now() - timedelta(hours=1)
        self.school.brief.save()
        self.assertEqual(self.get("sheet.pdf").status_code, 200)

    def test_a_brief_without_a_guide_has_no_files(self) -> None:
        self.school.brief.parameters |= {"guide": None}
        self.school.brief.save()
        self.as_person(self.school.instructor)
        self.assertEqual({self.get(kind).status_code for kind in KINDS}, {404})
        self.assertContains(self.client.get(reverse("brief", args=[self.school.brief.pk])), "has no guide")
