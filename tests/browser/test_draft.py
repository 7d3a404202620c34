"""Looking a clip through, putting it right and handing it in; the capture stand; placing by hand at the desk."""

from __future__ import annotations

import json

from django.urls import reverse
from playwright.sync_api import Page, expect

from nettlecap.takes.models import Take
from tests.browser.journey import Journey
from tests.browser.test_desk import looked_at
from tests.core.test_preparation import tone
from tests.web.school import SMALL, clean_clip, read_all
from tests.web.test_look_through import PLAN, with_a_tail


class Draft(Journey):
    def draft_page(self) -> Page:
        page = self.visit("ayumi", reverse("brief", args=[self.school.brief.pk]))
        files = [self.file(with_a_tail(), "take.zip"), self.file(tone(1.0), "tock.wav")]
        page.set_input_files("#files", files)
        page.get_by_role("button", name="Look it through first").click()
        self.received(page)
        expect(page.get_by_role("heading", name="Look it through")).to_be_visible()
        self.work()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        return page

    def test_a_point_leads_to_its_frames_is_mended_and_the_clip_handed_in(self) -> None:
        page = self.draft_page()
        page.get_by_role("button", name=f"Frames {PLAN.frames + 1}").click()
        expect(page.locator("[data-where]")).to_contain_text(f"Frame {PLAN.frames + 1} of")
        page.get_by_role("button", name=f"Trim after frame {PLAN.frames}").click()
        self.work()
        expect(page.get_by_text("Nothing was forgotten")).to_be_visible()
        expect(page.locator("[data-where]")).to_contain_text(f"of {PLAN.frames} ")
        page.get_by_role("button", name="Hand in take 1").click()
        expect(page.get_by_role("heading", name="Take 1 is handed in")).to_be_visible()
        with page.expect_download() as download:
            page.get_by_role("link", name="Keep the receipt as a file").click()
        self.assertIn("take 1", download.value.path().read_text())

    def test_drawings_are_put_into_another_order_by_dragging_and_by_key(self) -> None:
        page = self.draft_page()
        strip = page.locator("[data-strip] li")
        strip.nth(3).drag_to(strip.nth(1))
        strip.nth(0).focus()
        page.keyboard.press("Alt+ArrowRight")
        order = page.locator("[name=order]").input_value()
        self.assertTrue(order.startswith("4,1,2,3,5"), order)
        page.get_by_role("button", name="As it was").click()
        expect(page.locator("[data-order]")).to_be_hidden()
        strip.nth(1).focus()
        page.keyboard.press("Alt+ArrowLeft")
        page.get_by_role("button", name="Play them in this order").click()
        self.work()
        expect(page.get_by_text("Put into another order")).to_be_visible()
        self.assertEqual(Take.everything.get().prepared["order"][:3], [2, 1, 3])

    def test_the_sound_plays_in_step(self) -> None:
        page = self.draft_page()
        page.locator("[data-stage]").click()
        page.keyboard.press("Home")
        page.get_by_role("button", name="Play").click()
        # However long a busy machine takes to let it begin.
        page.wait_for_function("() => document.querySelector('[data-sound]').currentTime > 0.1")
        apart = page.evaluate(
            """() => {
              const frame = Number(document.querySelector('[data-where]').textContent.split(' ')[1]);
              return Math.abs(document.querySelector('[data-sound]').currentTime - (frame - 1) / 24);
            }"""
        )
        self.assertLess(apart, 0.25)
        page.keyboard.press("Space")
        self.assertTrue(page.evaluate("document.querySelector('[data-sound]').paused"))


class CaptureStand(Journey):
    def test_pictures_are_taken_by_key_and_looked_through(self) -> None:
        page = self.visit("ayumi", reverse("capture-stand", args=[self.school.brief.pk]))
        expect(page.locator("[data-where]")).to_contain_text("Sheet 1 of")
        for number in range(1, 5):
            page.keyboard.press("Space")
            expect(page.locator("[data-taken] li")).to_have_count(number)
            page.keyboard.press("ArrowRight")
        page.keyboard.press("Space")
        expect(page.locator("[data-taken] li")).to_have_count(5)
        page.keyboard.press("Backspace")
        expect(page.locator("[data-where]")).to_contain_text("Sheet 5 of")
        expect(page.locator("[data-taken] li")).to_have_count(4)
        page.get_by_role("button", name="Look the clip through").click()
        expect(page.get_by_text("Your clip is here")).to_be_visible()
        read_all()
        expect(page.get_by_role("heading", name="Look it through")).to_be_visible()
        self.assertEqual(Take.everything.get().pictures, 4)


class PlacingAtTheDesk(Journey):
    def desk(self) -> Page:
        (self.take,) = looked_at(self, ("ayumi", clean_clip()))
        page = self.visit("orla", reverse("desk", args=[self.take]))
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        for _ in range(3):
            page.keyboard.press("ArrowRight")
        return page

    def shape(self) -> dict[str, object]:
        findings = Take.objects.select_related("analysis").get(pk=self.take).analysis.findings
        return next(s for s in findings["track"]["shapes"] if s["drawing"] == 4)

    def test_the_ball_is_dragged_judged_at_once_and_taken_back(self) -> None:
        page = self.desk()
        before = self.shape()
        page.keyboard.press("b")
        box = page.locator("[data-handle=middle]").bounding_box()
        assert box is not None
        scale = page.locator("[data-frame-box]").evaluate("(e) => e.clientWidth") / SMALL.width
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] / 2 + 15 * scale, box["y"] + box["height"] / 2, steps=5)
        page.mouse.up()
        expect(page.locator('[data-finding^="arc.off_path"]')).to_be_visible()
        moved = self.shape()
        self.assertEqual(moved["source"], "placed")
        self.assertAlmostEqual(float(str(moved["x"])), float(str(before["x"])) + 15, delta=1.5)
        expect(page.locator("ellipse.o-shape.placed")).to_have_count(1)
        page.get_by_role("button", name="As found", exact=True).click()
        expect(page.locator("[data-finding]")).to_have_count(0)
        self.assertEqual(self.shape(), before)

    def test_a_handle_is_moved_by_arrows_without_changing_the_frame(self) -> None:
        page = self.desk()
        before = self.shape()
        page.keyboard.press("b")
        page.locator("[data-handle=middle]").focus()
        page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press("ArrowLeft")
        expect(page.locator("ellipse.o-shape.placed")).to_have_count(1)
        self.assertAlmostEqual(float(str(self.shape()["x"])), float(str(before["x"])) + 9, delta=0.1)
        expect(page.locator("[data-where]")).to_contain_text("drawing 4")

    def test_the_rest_is_found_again_with_that_help(self) -> None:
        page = self.desk()
        page.keyboard.press("b")
        page.locator("[data-handle=left]").focus()
        page.keyboard.press("Shift+ArrowDown")
        expect(page.locator('[data-finding^="contact.gap"]').first).to_be_visible()
        page.get_by_role("button", name="Find the others again").click()
        expect(page.get_by_text("is being looked at again")).to_be_visible()
        self.work()
        expect(page.get_by_text("is being looked at again")).to_be_hidden()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        ground = json.loads(page.locator("#clip-data").text_content() or "{}")["track"]["ground"]
        self.assertTrue(ground["placed"])
