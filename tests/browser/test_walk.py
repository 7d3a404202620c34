"""A walk's whole way: set in the editor, handed in, marked at the desk, placed by hand, returned and read."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import Page, expect

from motion.exercises import exercise_of
from motion.synth import draw, write
from motion.synth.look import LOOKS
from motion.synth.walk.faults import FAULTS
from nettlecap.classroom.models import Brief
from nettlecap.takes.models import Take
from tests.browser.journey import Journey

TITLE = "The lamplighter in the fog"


class Walk(Journey):
    def test_from_brief_to_returned_marks(self) -> None:
        self.set_a_brief()
        frame = self.hand_in()
        page = self.visit("orla")
        page.get_by_role("link", name="Mark the next clip").click()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        self.find_and_agree(page, frame)
        self.place_swap_and_undo(page)
        page.keyboard.press("Control+Enter")
        expect(page.locator(".mark-column .saved")).to_contain_text("Returned")
        self.read(frame)

    def set_a_brief(self) -> None:
        page = self.visit("orla")
        page.get_by_role("link", name="Set a brief for First Motion").click()
        page.get_by_role("link", name="Walk", exact=True).click()
        page.get_by_role("button", name="Lamplighter").click()
        page.get_by_label("Title").fill(TITLE)
        page.get_by_label("Due", exact=True).fill("2027-01-15T18:00")
        self.settled(page)
        self.assertEqual(page.locator("[name=step]").input_value(), "150")
        self.drag(page, "Step", 12, 0)
        self.assertNotEqual(page.locator("[name=step]").input_value(), "150")
        expect(page.locator("[data-words]")).to_contain_text("frames a step")
        page.get_by_role("button", name="Publish").click()
        expect(page.get_by_role("heading", name=TITLE)).to_be_visible()

    def hand_in(self) -> int:
        """Draw what the brief asks for with one foot off the ground, and hand it in; the frame that shows it."""
        core = Brief.objects.get(title=TITLE).core
        plan = exercise_of(core).guided.plan(core)
        planted = next(p for s in range(40) if (p := FAULTS["contact.gap"](plan, np.random.default_rng(s), 3.5)))
        wrong = [i for i, (a, b) in enumerate(zip(planted.poses, plan.poses, strict=True)) if a != b]
        data = write.to_zip(draw.frames("walk", planted, LOOKS["cut-out"]))
        page = self.visit("ayumi")
        page.get_by_role("link", name=TITLE).click()
        page.set_input_files("#files", self.file(data, "lamplighter.zip"))
        page.get_by_role("button", name="Hand in take 1").click()
        self.received(page)
        self.work()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        return planted.first_frame(wrong[0])

    def find_and_agree(self, page: Page, frame: int) -> None:
        finding = page.locator(".finding", has_text="contact.gap")
        finding.click()
        expect(page.locator("[data-where]")).to_contain_text(f"Frame {frame} of")
        self.assertGreater(page.locator("[data-overlay] .o-part.near").count(), 0)
        self.assertGreater(page.locator("[data-overlay] .o-part.far").count(), 0)
        self.assertGreater(page.locator(".srow .called", has_text="contact").count(), 2)
        self.assertGreater(page.locator(".srow .lane.on").count(), 10)
        page.keyboard.press("y")
        expect(page.locator(".finding.agreed")).to_have_count(1)

    def place_swap_and_undo(self, page: Page) -> None:
        """A joint moved by keys, the whole figure kept, sides swapped; each taken back."""
        page.keyboard.press("b")
        toe = page.get_by_role("slider", name="Toe, near")
        toe.focus()
        with page.expect_response("**/place"):
            page.keyboard.press("Shift+ArrowDown")
        self.assertEqual(list(Take.objects.get().placed["landmarks"]), ["toe_near"])
        with page.expect_response("**/place"):
            page.locator('[data-act="place-undo"]').first.click()
        expect(page.locator("[data-player]")).to_have_attribute("data-placing", "true")
        with page.expect_response("**/place"):
            page.locator('[data-act="place-turn"]').first.click()
        self.assertEqual(len(Take.objects.get().placed["turned"]), 1)
        with page.expect_response("**/place"):
            page.locator('[data-act="place-figure"]').first.click()
        self.assertEqual(len(Take.objects.get().placed["landmarks"]), 9)
        for _ in range(2):
            with page.expect_response("**/place"):
                page.locator('[data-act="place-undo"]').first.click()
        self.assertEqual(Take.objects.get().placed, {})
        page.keyboard.press("Escape")

    def read(self, frame: int) -> None:
        page = self.visit("ayumi")
        page.get_by_role("link", name="Read your marks").click()
        expect(page.locator(".finding")).to_contain_text("should stand")
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        page.locator(".finding").click()
        expect(page.locator("[data-where]")).to_contain_text(f"Frame {frame} of")
