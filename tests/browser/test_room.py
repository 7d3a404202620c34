"""The picture is what they came for: how large it is in every state of the desk, and what opens where it is used."""

from __future__ import annotations

from django.urls import reverse
from playwright.sync_api import Page, expect

from tests.browser.journey import Journey
from tests.browser.test_desk import looked_at
from tests.web.school import hanging_clip


class Room(Journey):
    def open_desk(self, width: int = 1280, height: int = 800) -> Page:
        (take,) = looked_at(self, ("ayumi", hanging_clip()[0]))
        page = self.visit("orla", reverse("desk", args=[take]))
        page.set_viewport_size({"width": width, "height": height})
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        return page

    def size(self, page: Page, part: str) -> tuple[float, float]:
        box = page.locator(part).bounding_box()
        assert box is not None
        return box["width"], box["height"]

    def rows(self, page: Page) -> int:
        """How many rows of controls stand between the picture and the chart."""
        tops = page.evaluate(
            """() => {
              const parts = ".transport > *, .toolrow label, .toolrow button, .opened:not([hidden]) > *";
              const boxes = [...document.querySelectorAll(parts)].filter((part) => part.offsetParent)
                .map((part) => part.getBoundingClientRect());
              return boxes.map((box) => (box.top + box.bottom) / 2);
            }"""
        )
        middles: list[float] = []
        for top in sorted(tops):
            if not middles or top - middles[-1] > 12:
                middles.append(top)
        return len(middles)

    def test_the_picture_is_tall_with_the_chart_and_taller_with_it_folded(self) -> None:
        page = self.open_desk()
        self.assertGreaterEqual(self.size(page, "[data-frame-box]")[1], 420)
        self.assertEqual(self.rows(page), 2)
        self.assertTrue(page.locator("#chart").is_visible())
        page.keyboard.press("0")
        self.assertGreaterEqual(self.size(page, "[data-frame-box]")[1], 560)
        self.assertFalse(page.locator("#chart").is_visible())
        self.assertTrue(page.evaluate("document.documentElement.scrollHeight <= innerHeight"))
        page.reload()
        expect(page.locator(".desk-grid")).to_have_class("desk-grid folded")
        page.locator('[data-act="fold"]').click()
        self.assertTrue(page.locator("#chart").is_visible())

    def test_two_pictures_stand_side_by_side(self) -> None:
        page = self.open_desk()
        page.keyboard.press("j")
        expect(page.locator("[data-other]")).to_be_visible()
        own, other = (page.locator(part).bounding_box() for part in ("[data-frame-box]", "[data-other]"))
        assert own and other
        self.assertGreaterEqual(min(own["width"], other["width"]), 480)
        self.assertEqual(own["y"], other["y"])
        page.keyboard.press("e")
        expect(page.locator("[data-retimed]")).to_be_visible()

    def test_a_timing_is_tried_beside_the_original_in_the_same_size(self) -> None:
        page = self.open_desk()
        page.keyboard.press("e")
        expect(page.locator("[data-retimed]")).to_be_visible()
        self.assertGreaterEqual(self.size(page, "[data-retimed]")[0], 480)
        self.assertGreater(self.size(page, "[data-blocks]")[0], 100)

    def test_a_small_window_has_no_more_rows(self) -> None:
        page = self.open_desk(1024, 768)
        self.assertEqual(self.rows(page), 2)
        self.assertTrue(page.evaluate("document.documentElement.scrollWidth <= innerWidth"))

    def test_what_a_tool_needs_opens_and_closes_again(self) -> None:
        page = self.open_desk()
        counts = page.locator('[data-opens="counts"]')
        counts.click()
        page.get_by_label("Neighbours before").select_option("4")
        expect(counts).to_have_text("4 · 2")
        counts.click()
        expect(page.get_by_label("Neighbours before")).to_be_hidden()
        page.locator('[data-act="draw"]').click()
        expect(page.get_by_role("radio", name="Arrow")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("radio", name="Arrow")).to_be_hidden()
        self.assertEqual(self.rows(page), 2)

    def test_with_the_marks_narrow_a_finding_is_read_and_decided_below_the_picture(self) -> None:
        page = self.open_desk()
        page.keyboard.press("0")
        page.locator(".finding").first.click()
        told = page.locator("[data-told-below]")
        expect(told).to_contain_text("hangs")
        told.get_by_role("button", name="Agree").click()
        expect(page.locator(".finding.agreed")).to_have_count(1)
        expect(page.locator(".desk-grid")).to_have_class("desk-grid folded")

    def test_a_narrow_mark_column_opens_to_write_in(self) -> None:
        page = self.open_desk()
        page.keyboard.press("0")
        narrow = self.size(page, "#mark-column")[0]
        page.keyboard.press("r")
        page.keyboard.type("Watch the landing.")
        self.assertGreater(self.size(page, "#mark-column")[0], narrow + 100)
        page.keyboard.press("Escape")
        expect(page.locator(".desk-grid")).to_have_class("desk-grid folded")
        self.assertEqual(self.size(page, "#mark-column")[0], narrow)
        page.locator('[data-act="widen"]').click()
        self.assertGreater(self.size(page, "#mark-column")[0], narrow + 100)
        expect(page.locator("#remark")).to_have_value("Watch the landing.")
