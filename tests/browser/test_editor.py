"""The brief editor: the guide follows what is dragged and typed, and everything can be undone."""

from __future__ import annotations

import json
import re

from django.urls import reverse
from playwright.sync_api import Page, expect

from nettlecap.classroom.models import Brief
from tests.browser.journey import Journey
from tests.web.school import clean_clip


class Editor(Journey):
    def open_editor(self) -> Page:
        page = self.visit("orla", reverse("new-brief", args=[self.school.course.pk]))
        expect(page.locator("[data-sheet-picture] svg")).to_be_visible()
        self.settled(page)
        return page

    def number(self, page: Page, name: str) -> float:
        return float(page.locator(f"[name={name}]").input_value() or "nan")

    def test_dragging_in_the_picture_changes_the_values_and_the_guide(self) -> None:
        page = self.open_editor()
        ground = page.locator("[data-sheet-picture] #ground line")
        for label, name, dx, dy, more in (
            ("First top", "height", 0, 40, False),
            ("Contact 2", "distance", 30, 0, True),
            ("Ground", "ground_y", 0, -25, False),
            ("Size of the ball", "diameter", 12, 0, True),
        ):
            with self.subTest(label):
                before = self.number(page, name)
                self.drag(page, label, dx, dy)
                after = self.number(page, name)
                self.assertGreater(after, before) if more else self.assertLess(after, before)
        expect(ground).to_have_attribute("y1", f"{self.number(page, 'ground_y') + 1:g}")
        expect(page.locator("[data-words]")).to_contain_text("A hop as high as the first top takes")
        expect(page.locator("[data-minded]")).to_contain_text("gets no finding")

    def test_each_change_can_be_undone_and_done_again(self) -> None:
        page = self.open_editor()
        self.drag(page, "First top", 0, 40)
        dragged = self.number(page, "height")
        page.get_by_label("Keeps of its speed").fill("0.6")
        page.get_by_label("Keeps of its speed").press("Tab")
        page.get_by_role("button", name="Undo").click()
        expect(page.locator("[name=keeps]")).to_have_value("0.8")
        page.get_by_role("button", name="Undo").click()
        expect(page.locator("[name=height]")).to_have_value("320")
        expect(page.get_by_role("button", name="Undo")).to_be_disabled()
        page.locator("#tab-means").focus()
        page.keyboard.press("Control+Shift+z")
        expect(page.locator("[name=height]")).to_have_value(f"{dragged:g}")

    def test_handles_and_ticks_go_by_keyboard_too(self) -> None:
        page = self.open_editor()
        page.get_by_role("slider", name="First top").focus()
        page.keyboard.press("Shift+ArrowDown")
        expect(page.locator("[name=height]")).to_have_value("310")
        page.get_by_role("tab", name="Timing chart").click()
        tick = page.locator('[data-drawing="4"]')
        tick.focus()
        page.keyboard.press("ArrowRight")
        expect(page.locator("[name=ticks]")).to_have_value(r_number("4"))
        expect(page.get_by_role("button", name="Let every tick")).to_be_visible()
        # The chart is drawn anew, and the tick that was held still has the focus.
        self.assertEqual(page.evaluate("document.activeElement.dataset.drawing"), "4")
        page.get_by_role("button", name="Let every tick").click()
        expect(page.locator("[name=ticks]")).to_have_value("{}")

    def test_ticks_are_let_go_when_the_drawings_become_others(self) -> None:
        page = self.open_editor()
        page.get_by_role("tab", name="Timing chart").click()
        page.locator('[data-drawing="4"]').focus()
        page.keyboard.press("ArrowRight")
        expect(page.get_by_role("button", name="Let every tick")).to_be_visible()
        page.get_by_label("A full hop takes (s)").fill("1.1")
        expect(page.locator("[name=ticks]")).to_have_value("{}")

    def test_a_bad_value_is_told_beside_its_field_and_the_last_guide_stays(self) -> None:
        page = self.open_editor()
        page.get_by_label("First top (px)").fill("600")
        expect(page.locator("#error_height")).to_contain_text("at most 390 px")
        expect(page.locator("[data-stage-note]")).to_contain_text("the guide from before")
        expect(page.locator("[data-sheet-picture] svg")).to_be_visible()
        page.get_by_label("First top (px)").fill("300")
        expect(page.locator("#error_height")).to_have_count(0)
        expect(page.locator("[data-stage-note]")).to_be_hidden()

    def test_from_a_kind_of_ball_to_a_published_brief(self) -> None:
        page = self.open_editor()
        page.get_by_label("Title").fill("A marble on the slip")
        page.get_by_role("button", name="Marble").click()
        expect(page.locator("[name=material]")).to_have_value("hard")
        expect(page.locator("[name=title]")).to_have_value("A marble on the slip")
        page.get_by_text("The clip", exact=True).click()
        page.get_by_label("At most (frames)").fill("60")
        expect(page.locator("#note_frames_min")).to_contain_text("the brief asks for 24 to 60")
        page.get_by_label("At most (frames)").fill("120")
        expect(page.locator("#note_frames_min")).to_have_count(0)
        page.get_by_role("button", name="Publish").click()
        expect(page.get_by_role("heading", name="A marble on the slip")).to_be_visible()
        feel = Brief.objects.get(title="A marble on the slip").core.guide
        assert feel is not None
        self.assertEqual((feel.end, feel.keeps), ("rolling", 0.78))
        with page.expect_download() as download:
            page.get_by_role("link", name="Save as a file").click()
        saved = json.loads(download.value.path().read_text())
        self.assertEqual(saved["guide"]["end"], "rolling")
        page.goto(f"{self.live_server_url}{reverse('new-brief', args=[self.school.course.pk])}")
        page.set_input_files("[data-import]", str(download.value.path()))
        expect(page.get_by_role("heading", name="Change “A marble on the slip”")).to_be_visible()
        self.assertEqual(Brief.objects.filter(title="A marble on the slip").count(), 2)

    def test_another_frame_size_takes_the_guide_with_it(self) -> None:
        page = self.open_editor()
        page.get_by_text("The clip", exact=True).click()
        page.get_by_label("Frame width (px)").fill("480")
        page.get_by_label("Frame height (px)").fill("270")
        page.get_by_label("Frame height (px)").press("Tab")
        for name, value in (("diameter", 30), ("height", 160), ("distance", 300), ("ground_y", 225)):
            expect(page.locator(f"[name={name}]")).to_have_value(str(value))
        expect(page.locator("[data-sheet-picture] svg")).to_have_attribute("width", "480")
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("button", name="Undo").click()
        expect(page.locator("[name=height]")).to_have_value("320")

    def test_the_guide_plays(self) -> None:
        page = self.open_editor()
        where = page.locator("[data-where]")
        expect(where).to_contain_text("Frame 1 of")
        page.get_by_role("button", name="Play").click()
        expect(where).not_to_contain_text("Frame 1 of")
        page.get_by_role("button", name="Stop").click()


def r_number(drawing: str):  # type: ignore[no-untyped-def]
    return re.compile(rf'^\{{"{drawing}":0\.\d+\}}$')


class OwnCheck(Journey):
    def test_a_student_runs_the_checks_then_hands_in(self) -> None:
        brief = self.school.brief
        brief.parameters |= {"terms": {"own_checks": 1}}
        brief.save()
        page = self.visit("ayumi", reverse("brief", args=[brief.pk]))
        page.set_input_files("#files", self.file(clean_clip(), "float.zip"))
        page.get_by_role("button", name="Run the checks first (1 left)").click()
        self.received(page)
        expect(page.get_by_role("heading", name="not handed in yet")).to_be_visible()
        self.work()
        expect(page.locator("#state")).to_contain_text("find nothing to say")
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        page.get_by_role("button", name="Hand this in as take 1").click()
        expect(page.get_by_role("heading", name="Take 1 is handed in")).to_be_visible()
