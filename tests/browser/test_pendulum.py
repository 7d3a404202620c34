"""A pendulum's whole way: set in the editor, handed in, marked at the desk, placed by hand, returned and read."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import Page, expect

from motion.exercises import exercise_of
from motion.synth import draw, write
from motion.synth.look import LOOKS
from motion.synth.pendulum.faults import FAULTS
from nettlecap.classroom.models import Brief
from nettlecap.takes.models import Take
from tests.browser.journey import Journey

TITLE = "The lantern at anchor"


class Pendulum(Journey):
    def test_from_brief_to_returned_marks(self) -> None:
        self.set_a_brief()
        frame = self.hand_in()
        page = self.visit("orla")
        page.get_by_role("link", name="Mark the next clip").click()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        self.find_and_agree(page, frame)
        self.place_and_take_back(page)
        page.keyboard.press("Control+Enter")
        expect(page.locator(".mark-column .saved")).to_contain_text("Returned")
        self.read(frame)

    def set_a_brief(self) -> None:
        page = self.visit("orla")
        page.get_by_role("link", name="Set a brief for First Motion").click()
        page.get_by_role("link", name="Pendulum", exact=True).click()
        page.get_by_role("button", name="Ship's lantern").click()
        page.get_by_label("Title").fill(TITLE)
        page.get_by_label("Due", exact=True).fill("2027-01-15T18:00")
        self.settled(page)
        self.assertEqual(page.locator("[name=angle]").input_value(), "-34")
        self.drag(page, "First extreme", 40, 24)
        self.assertNotEqual(page.locator("[name=angle]").input_value(), "-34")
        expect(page.locator("[data-words]")).to_contain_text("frames for a swing")
        page.get_by_role("button", name="Publish").click()
        expect(page.get_by_role("heading", name=TITLE)).to_be_visible()

    def hand_in(self) -> int:
        """Draw what the brief asks for with one drawing out of its place, and hand it in; the frame that shows it."""
        core = Brief.objects.get(title=TITLE).core
        guided = exercise_of(core).guided
        assert guided is not None
        plan = guided.plan(core)
        planted = FAULTS["spacing.jump"](plan, np.random.default_rng(3), 3.0)
        assert planted is not None
        wrong = [i for i, (a, b) in enumerate(zip(planted.poses, plan.poses, strict=True)) if a != b]
        data = write.to_zip(draw.frames("pendulum", planted, LOOKS["clean"]))
        page = self.visit("ayumi")
        page.get_by_role("link", name=TITLE).click()
        page.set_input_files("#files", self.file(data, "lantern.zip"))
        page.get_by_role("button", name="Hand in take 1").click()
        self.received(page)
        self.work()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        return planted.first_frame(wrong[0])

    def find_and_agree(self, page: Page, frame: int) -> None:
        page.keyboard.press("f")
        expect(page.locator("[data-where]")).to_contain_text(f"Frame {frame} of")
        expect(page.locator(".finding.chosen")).to_contain_text("spacing.jump")
        expect(page.locator(".srow.here")).to_have_attribute("data-frame", str(frame))
        expect(page.locator('.srow.here [aria-label*="°"]').first).to_be_visible()
        self.assertGreater(page.locator("[data-overlay] .o-place.p-spacing").count(), 0)
        self.assertEqual(page.locator("[data-overlay] .o-pivot").count(), 1)
        page.keyboard.press("y")
        expect(page.locator(".finding.agreed")).to_have_count(1)

    def place_and_take_back(self, page: Page) -> None:
        """The line's upper end, pulled off its hook by keys, is a finding at once, and none when that is taken back."""
        page.keyboard.press("b")
        end = page.get_by_role("slider", name="Upper end of the line")
        end.focus()
        for _ in range(2):
            page.keyboard.press("Shift+ArrowRight")
        expect(page.locator(".finding", has_text="contact.pivot")).to_have_count(1)
        page.locator('[data-act="place-back"]').first.click()
        expect(page.locator(".finding", has_text="contact.pivot")).to_have_count(0)
        self.assertEqual(Take.objects.get().placed, {})
        page.keyboard.press("Escape")

    def read(self, frame: int) -> None:
        page = self.visit("ayumi")
        page.get_by_role("link", name="Read your marks").click()
        expect(page.locator(".finding")).to_contain_text("on its arc between its neighbours")
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        page.locator(".finding").click()
        expect(page.locator("[data-where]")).to_contain_text(f"Frame {frame} of")
