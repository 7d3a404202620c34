"""A clip marked wholly by keyboard: the first look, step sets, what drawings are called, charts, and taking back."""

from __future__ import annotations

import re

import numpy as np
from django.urls import reverse
from playwright.sync_api import Page, expect

from motion.synth.bounce.faults import FAULTS
from nettlecap.marking.keys import finding_key
from nettlecap.marking.models import Decision, MarkSheet, Proposal
from nettlecap.takes.models import Take
from tests.browser.journey import Journey
from tests.browser.test_desk import looked_at
from tests.core.drawn import with_fault
from tests.web.school import SMALL, clean_clip, hanging_clip, zip_of

MEASURED = "[data-overlay] :is(.o-path, .o-tick, .o-ground, .o-shape, .o-arc, .o-ideal, .o-place, .o-gap, .o-guide)"


class Sitting(Journey):
    def open_desk(self, first_looks: bool = False) -> Page:
        data, self.frame = hanging_clip()
        first, _ = looked_at(self, ("ayumi", data), ("kofi", clean_clip()))
        page = self.visit("orla", reverse("desk", args=[first]), first_looks=first_looks)
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        return page

    def press(self, page: Page, *keys: str) -> None:
        for key in keys:
            page.keyboard.press(key)

    def test_from_the_first_look_to_the_next_clip_without_the_mouse(self) -> None:
        page = self.open_desk(first_looks=True)
        expect(page.locator(".finding")).to_be_hidden()
        # Nothing that was measured lies over the picture, nor stands beside it.
        measured = page.locator(MEASURED)
        expect(measured).to_have_count(0)
        expect(page.locator(".srow .gap").first).to_be_hidden()
        expect(page.locator("[data-chart]").first).to_be_hidden()
        self.press(page, *["ArrowDown"] * (self.frame - 1), "a")
        expect(page.locator(f'.srow[data-frame="{self.frame}"]')).to_have_class(re.compile("tapped"))
        self.press(page, "Enter")
        expect(page.locator(".looked")).to_contain_text("both saw")
        expect(page.locator(".finding")).to_be_visible()
        expect(page.locator("[data-first-look]")).to_have_count(0)
        self.assertGreater(measured.count(), 2)

        self.press(page, "f", "y")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        self.press(page, "w")
        page.keyboard.type("The contact is the key of this move.")
        self.press(page, "Tab", "Enter")
        expect(page.locator(".own-note")).to_have_count(1)
        page.evaluate("document.activeElement.blur()")
        self.press(page, "r")
        page.keyboard.type("Close to it.")
        self.press(page, "Control+Enter")
        expect(page.locator(".closing")).to_contain_text("Returned")
        sheet = MarkSheet.objects.get()
        self.assertTrue(sheet.returned)
        self.assertEqual((sheet.taps, sheet.remark), ([self.frame], "Close to it."))
        self.press(page, "g")
        expect(page.locator(".bar-title")).to_contain_text("Kofi")

    def test_deciding_moves_on_to_the_next_open_finding_and_the_last_says_what_is_left(self) -> None:
        plan, _ = with_fault("contact.gap", 3.0, SMALL)
        planted = (FAULTS["volume.changes"](plan, np.random.default_rng(seed), 3.0) for seed in range(50))
        (take,) = looked_at(self, ("ayumi", zip_of(next(p for p in planted if p is not None)[0])))
        found = Take.objects.select_related("analysis").get(pk=take).analysis.findings["findings"]
        self.assertGreaterEqual(len(found), 2)
        keys = [finding_key(f) for f in found]
        page = self.visit("orla", reverse("desk", args=[take]))
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        self.press(page, "f")
        chosen = page.locator(".finding.chosen")
        for number, (key, then) in enumerate(zip(keys, [*keys[1:], keys[-1]], strict=True), start=1):
            expect(chosen).to_have_attribute("data-finding", key)
            self.press(page, "y" if number % 2 else "n")
            expect(page.locator(".finding.agreed, .finding.dismissed")).to_have_count(number)
            expect(chosen).to_have_attribute("data-finding", then)
        expect(page.locator(".closing")).to_contain_text("everything is decided")
        self.press(page, "u")
        expect(page.locator(".finding.agreed, .finding.dismissed")).to_have_count(len(keys) - 1)
        expect(chosen).to_have_attribute("data-finding", keys[-1])

    def test_a_first_look_can_be_done_without_for_good(self) -> None:
        page = self.open_desk(first_looks=True)
        page.get_by_role("button", name="No first looks").click()
        expect(page.locator(".finding")).to_be_visible()
        page.reload()
        expect(page.locator(".finding")).to_be_visible()

    def test_stepping_visits_only_the_chosen_set_and_neighbours_come_from_it(self) -> None:
        page = self.open_desk()
        where = page.locator("[data-where]")
        page.get_by_label("Step by").select_option("keys")
        keys = [int(f) for f in page.locator(".srow:has(.d.key):not(.held)").evaluate_all(
            "rows => rows.map((row) => row.dataset.frame)")]  # fmt: skip
        for frame in keys[1:]:
            self.press(page, "ArrowRight")
            expect(where).to_contain_text(f"Frame {frame} of")
        expect(page.locator(".srow.skipped").first).to_be_visible()
        self.press(page, "Home", "ArrowRight", "+")
        expect(page.locator("[name=after]")).to_have_value("3")
        expect(page.locator(".o-after")).to_have_count(min(3, len(keys) - 2))
        expect(page.locator(".o-before")).to_have_count(1)

    def test_flipping_goes_to_the_drawing_last_looked_at_and_pins_stay(self) -> None:
        page = self.open_desk()
        where = page.locator("[data-where]")
        self.press(page, "ArrowRight", "ArrowRight", "p", "End", "t")
        expect(where).to_contain_text("drawing 3")
        self.press(page, "t")
        expect(where).to_contain_text("Frame 25 of")
        expect(page.locator(".o-pinned")).to_have_count(1)

    def test_a_drawing_is_called_a_key_and_that_is_taken_back(self) -> None:
        page = self.open_desk()
        self.press(page, "ArrowRight", "k")
        called = page.locator('.srow[data-drawing="2"] .d.key')
        expect(called).to_have_count(1)
        self.press(page, "u")
        expect(called).to_have_count(0)
        expect(page.locator("[data-saved]")).to_have_text("Taken back: what drawing 2 was called.")
        self.press(page, "f", "y")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        self.press(page, "u")
        expect(page.locator(".finding.agreed")).to_have_count(0)
        self.assertFalse(Decision.objects.exists())

    def test_the_chosen_chart_stays_over_decisions_and_is_clicked_to_go_there(self) -> None:
        page = self.open_desk()
        self.press(page, "m", "m")
        chart = page.locator('[data-chart="volume"]')
        expect(chart).to_be_visible()
        expect(page.locator('[data-chart="height"]')).to_be_hidden()
        self.press(page, "f", "y")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        expect(chart).to_be_visible()
        box = chart.locator("svg").bounding_box()
        assert box is not None
        page.mouse.click(box["x"] + box["width"] * 0.999, box["y"] + 5)
        expect(page.locator("[data-where]")).to_contain_text("Frame 25 of")

    def test_contacts_tick_while_it_plays(self) -> None:
        page = self.open_desk()
        self.press(page, "l", " ")
        expect(page.locator("[data-player]")).to_have_attribute("data-ticked", re.compile("^[0-9]+$"))

    def test_the_help_opens_at_the_chosen_finding(self) -> None:
        page = self.open_desk()
        self.press(page, "f")
        with page.context.expect_page() as opened:
            self.press(page, "h")
        expect(opened.value.locator("section.entry:target h3")).to_contain_text("contact.gap")

    def test_it_is_shown_mended_beside_the_original_and_follows_what_is_decided(self) -> None:
        page = self.open_desk()
        self.press(page, "f", "d")
        words = page.locator("[data-mended-words]")
        expect(words).to_have_text("Mended")
        expect(page.locator("[data-mended] canvas")).to_be_visible()
        self.press(page, "n")
        expect(words).to_have_text("Nothing to mend")
        self.press(page, "d")
        expect(page.locator("[data-mended] canvas")).to_be_hidden()

    def test_a_ruler_ghosts_and_a_grid_lie_over_the_picture(self) -> None:
        page = self.open_desk()
        for layer, drawn in (("Ideal", ".o-ideal"), ("Grid", ".o-grid")):
            expect(page.locator(drawn)).to_have_count(0)
            page.get_by_role("checkbox", name=layer).check()
            expect(page.locator(drawn).first).to_be_attached()
        page.evaluate("document.activeElement.blur()")
        self.press(page, "x")
        box = page.locator("[data-frame-box]").bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 10, box["y"] + 10)
        page.mouse.down()
        page.mouse.move(box["x"] + 10 + box["width"] / 4, box["y"] + 10)
        page.mouse.up()
        expect(page.locator("[data-ruler-told]")).to_have_text(re.compile(r"^1(19|20)\.\d px, 3\.\d\d D$"))
        self.press(page, "x")
        expect(page.locator("[data-ruler-told]")).to_have_text("")

    def drag_end(self, page: Page, block: int, frames: int) -> None:
        """Drag where a drawing ends so many frames down the sheet."""
        box = page.locator(".block").nth(block).bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 90, box["y"] + box["height"] - 1)
        page.mouse.down()
        page.mouse.move(box["x"] + 90, box["y"] + box["height"] - 1 + 21 * frames, steps=4)
        page.mouse.up()

    def test_another_timing_is_tried_beside_the_original_and_proposed(self) -> None:
        page = self.open_desk()
        self.press(page, "e", "ArrowRight", "Shift+ArrowRight")
        chosen = page.locator('.block[aria-selected="true"]')
        expect(chosen).to_have_count(2)
        page.get_by_role("button", name="on twos").click()
        words = page.locator("[data-retimed-words]")
        expect(words).to_contain_text("27 frames")
        page.get_by_role("button", name="Take out").click()
        expect(words).to_contain_text("23 frames")
        page.get_by_role("button", name="One step back").click()
        expect(words).to_contain_text("27 frames")
        expect(page.locator("[data-retimed] canvas")).to_be_visible()
        page.get_by_role("listbox").focus()
        self.press(page, "Home", "ArrowUp", "ArrowUp", "+")
        expect(words).to_contain_text("28 frames")
        page.get_by_role("button", name="One step back").click()
        self.drag_end(page, 5, 4)
        expect(words).to_contain_text("31 frames")
        expect(page.locator(".block").nth(5)).to_contain_text("5 frames")
        page.get_by_role("button", name="One step back").click()
        expect(words).to_contain_text("27 frames")
        page.get_by_label("Why").fill("Let it hang a little.")
        page.get_by_role("button", name="Propose it").click()
        expect(page.get_by_role("button", name="Withdraw")).to_be_visible()
        page.evaluate("document.activeElement.blur()")
        self.press(page, "u")
        expect(page.get_by_role("button", name="Withdraw")).to_be_hidden()
        page.get_by_role("button", name="Propose it").click()
        expect(page.get_by_role("button", name="Withdraw")).to_be_visible()
        self.assertEqual(Proposal.objects.get().pairs[:4], [[1, 1], [2, 2], [3, 2], [4, 1]])
