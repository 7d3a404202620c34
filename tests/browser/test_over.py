"""Looking closely, drawing over the picture, and seeing another clip beside this one."""

from __future__ import annotations

import re
from dataclasses import replace

from django.urls import reverse
from playwright.sync_api import Page, expect

from motion.exercises.bounce.plan import bounce
from nettlecap.marking.models import DrawnStroke
from tests.browser.journey import Journey
from tests.browser.test_desk import looked_at
from tests.web.school import SMALL, clean_clip, hanging_clip, zip_of

Place = tuple[float, float]


class OverThePicture(Journey):
    def open_desk(self, *clips: bytes) -> Page:
        *_, last = looked_at(self, *(("ayumi", data) for data in clips))
        page = self.visit("orla", reverse("desk", args=[last]))
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        return page

    def at(self, page: Page, place: Place) -> Place:
        box = page.locator("[data-frame-box]").bounding_box()
        assert box is not None
        return box["x"] + place[0] * box["width"], box["y"] + place[1] * box["height"]

    def drag(self, page: Page, *places: Place) -> None:
        page.mouse.move(*self.at(page, places[0]))
        page.mouse.down()
        for place in places[1:]:
            page.mouse.move(*self.at(page, place), steps=4)
        page.mouse.up()

    def shown(self, page: Page) -> list[float]:
        """Left, top, width and height of the part of the frame that shows."""
        told = page.locator("[data-overlay]").get_attribute("viewBox") or ""
        return [float(number) for number in told.split()]

    def test_a_chosen_finding_is_framed_with_what_shows_it_best_until_one_would_rather_see_all(self) -> None:
        data, frame = hanging_clip()
        page = self.open_desk(data)
        page.get_by_role("checkbox", name="Shape").uncheck()
        page.evaluate("document.activeElement.blur()")
        self.assertEqual(self.shown(page), [0, 0, 480, 270])
        page.keyboard.press("f")
        left, top, width, height = self.shown(page)
        self.assertLess(width, 400)
        shape = page.locator(".o-shape")
        self.assertTrue(left < float(shape.get_attribute("cx") or 0) < left + width)
        self.assertTrue(top < float(shape.get_attribute("cy") or 0) < top + height)
        expect(page.locator("label.lent")).to_have_text(re.compile("Shape"))
        expect(page.locator("[data-where]")).to_contain_text(f"Frame {frame} ")
        page.keyboard.press(" ")
        expect(page.get_by_role("button", name="Stop")).to_be_visible()
        self.assertEqual(self.shown(page), [0, 0, 480, 270])
        page.keyboard.press(" ")
        page.keyboard.press("z")
        self.assertLess(self.shown(page)[2], 400)
        page.keyboard.press("z")
        page.keyboard.press("f")
        self.assertEqual(self.shown(page), [0, 0, 480, 270])

    def test_the_wheel_goes_closer_and_a_drag_moves_on(self) -> None:
        page = self.open_desk(clean_clip())
        page.mouse.move(*self.at(page, (0.25, 0.5)))
        for _ in range(5):
            page.mouse.wheel(0, -100)
        expect(page.get_by_role("button", name="Closer")).to_have_attribute("aria-pressed", "true")
        page.wait_for_function("document.querySelector('[data-overlay]').viewBox.baseVal.width < 200")
        left, _, width, _ = self.shown(page)
        # What lay under the pointer still does.
        self.assertAlmostEqual(left + width / 4, 120, delta=2)
        self.drag(page, (0.8, 0.5), (0.3, 0.5))
        self.assertAlmostEqual(self.shown(page)[0], left + width / 2, delta=3)

    def test_strokes_are_drawn_kept_taken_back_and_wiped(self) -> None:
        page = self.open_desk(clean_clip())
        page.keyboard.press("v")
        expect(page.locator("[data-pen-told]")).to_have_text("Draw on frame 1")
        self.drag(page, (0.3, 0.3), (0.5, 0.4), (0.6, 0.3))
        strokes = page.locator(".o-stroke")
        expect(strokes).to_have_count(1)
        page.get_by_role("radio", name="Arc").click()
        self.drag(page, (0.3, 0.7), (0.6, 0.7))
        expect(page.locator("[data-pen-told]")).to_contain_text("now its bend")
        page.mouse.move(*self.at(page, (0.45, 0.5)))
        page.mouse.down()
        page.mouse.up()
        expect(strokes).to_have_count(2)
        arc = DrawnStroke.objects.get(tool="arc")
        (x, y, _), (_, over_y, _), (x2, _, _) = arc.points["points"]
        self.assertAlmostEqual(x, 0.3 * 480, delta=3)
        self.assertAlmostEqual(x2, 0.6 * 480, delta=3)
        self.assertLess(over_y, y - 40)
        page.keyboard.press("u")
        expect(strokes).to_have_count(1)
        page.get_by_role("radio", name="Eraser").click()
        self.drag(page, (0.5, 0.3), (0.5, 0.5))
        expect(strokes).to_have_count(0)
        expect(page.locator(".drawn-over")).to_have_count(0)
        self.assertFalse(DrawnStroke.objects.exists())
        page.keyboard.press("u")
        expect(strokes).to_have_count(1)
        page.keyboard.press("Escape")
        expect(page.locator("[data-pen]")).to_be_hidden()

    def test_a_marked_range_is_drawn_on_and_other_frames_are_not(self) -> None:
        page = self.open_desk(clean_clip())
        for key in ("ArrowDown", "ArrowDown", "Shift+ArrowDown", "Shift+ArrowDown", "v"):
            page.keyboard.press(key)
        expect(page.locator("[data-pen-told]")).to_have_text("Draw on frames 3–5")
        self.drag(page, (0.3, 0.3), (0.5, 0.4))
        expect(page.locator(".o-stroke")).to_have_count(1)
        expect(page.locator(".srow .pen")).to_have_count(3)
        page.keyboard.press("End")
        expect(page.locator(".o-stroke")).to_have_count(0)
        page.locator(".drawn-over button").click()
        expect(page.locator("[data-where]")).to_contain_text("Frame 3 ")

    def test_a_stroke_that_could_not_be_sent_stays_and_goes_with_the_next(self) -> None:
        page = self.open_desk(clean_clip())
        page.keyboard.press("v")
        page.context.set_offline(True)
        self.drag(page, (0.3, 0.3), (0.5, 0.4))
        expect(page.locator(".o-pen.unsent")).to_have_count(1)
        expect(page.locator("#say")).to_contain_text("no connection")
        page.context.set_offline(False)
        self.drag(page, (0.3, 0.6), (0.5, 0.7))
        expect(page.locator(".o-stroke")).to_have_count(2)
        expect(page.locator(".o-pen")).to_have_count(0)
        self.assertEqual(DrawnStroke.objects.count(), 2)

    def test_an_earlier_take_is_seen_beside_over_and_in_turn(self) -> None:
        page = self.open_desk(zip_of(bounce(replace(SMALL, fall_frames=9.5))), clean_clip())
        other = page.locator("[data-other]")
        expect(other).to_be_hidden()
        page.keyboard.press("j")
        expect(other).to_be_visible()
        expect(page.locator("[data-other-words]")).to_have_text("take 1")
        page.keyboard.press("Shift+J")
        expect(other).to_be_hidden()
        expect(page.get_by_role("radio", name="Laid over")).to_have_attribute("aria-checked", "true")
        page.keyboard.press("Shift+J")
        plain = page.locator("[data-canvas]").screenshot()
        page.keyboard.press("t")
        expect(page.locator("[data-way-told]")).to_contain_text("T shows this one")
        self.assertNotEqual(page.locator("[data-canvas]").screenshot(), plain)
        page.locator("[data-companion]").select_option("30 frames a second")
        page.get_by_role("radio", name="Side by side").click()
        page.keyboard.press("End")
        expect(other).to_be_visible()
        page.locator("[data-companion]").select_option("nothing")
        expect(other).to_be_hidden()
