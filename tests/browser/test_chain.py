"""A chain's way: set in the editor, handed in stiff, marked by its parts' angles, and shown mended."""

from __future__ import annotations

import numpy as np
from playwright.sync_api import Page, expect

from motion.exercises.pendulum.feel import plan_of
from motion.synth import draw, write
from motion.synth.look import LOOKS
from motion.synth.pendulum.faults import FAULTS
from nettlecap.classroom.models import Brief
from tests.browser.journey import Journey

TITLE = "Floats on the rack"


class Chain(Journey):
    def test_from_brief_to_what_is_shown_mended(self) -> None:
        self.set_a_brief()
        self.hand_in()
        page = self.visit("orla")
        page.get_by_role("link", name="Mark the next clip").click()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        page.keyboard.press("f")
        expect(page.locator(".finding.chosen")).to_contain_text("overlap.stiff")
        expect(page.locator('[data-chart="parts"]')).to_be_visible()
        expect(page.locator('[data-chart="parts"] .curve')).to_have_count(3)
        for _ in range(9):
            page.keyboard.press("ArrowRight")
        # Where this drawing's parts belong, and no other's.
        expect(page.locator("[data-overlay] polyline.o-place.p-timing")).to_have_count(1)
        page.keyboard.press("d")
        expect(page.locator("[data-mended-words]")).to_have_text("Mended")
        page.keyboard.press("d")
        page.keyboard.press("y")
        expect(page.locator(".finding.agreed")).to_have_count(1)

    def test_where_its_base_stops_and_is_at_full_speed_is_dragged(self) -> None:
        page = self.visit("orla")
        page.get_by_role("link", name="Set a brief for First Motion").click()
        page.get_by_role("link", name="Pendulum", exact=True).click()
        self.settled(page)
        expect(page.locator("[name=carry]")).to_be_hidden()
        page.get_by_role("button", name="Crate under a trolley").click()
        self.settled(page)
        for name, shown in (("carry", True), ("eases", True), ("angle", False)):
            expect(page.locator(f"[name={name}]")).to_be_visible(visible=shown)
        expect(page.locator("[data-words]")).to_contain_text("swings by itself")
        before = {name: float(page.locator(f"[name={name}]").input_value()) for name in ("carry", "eases")}
        self.drag(page, "Where its base stops", -40, 0)
        self.assertLess(float(page.locator("[name=carry]").input_value()), before["carry"] - 10)
        self.drag(page, "Where its base is at full speed", 20, 0)
        self.assertGreater(float(page.locator("[name=eases]").input_value()), before["eases"])

    def set_a_brief(self) -> None:
        page = self.visit("orla")
        page.get_by_role("link", name="Set a brief for First Motion").click()
        page.get_by_role("link", name="Pendulum", exact=True).click()
        self.settled(page)
        expect(page.locator("[name=follows]")).to_be_hidden()
        page.get_by_label("It is", exact=True).select_option("tail")
        self.settled(page)
        expect(page.locator("[name=thin]")).to_be_visible()
        expect(page.locator("[name=size]")).to_be_hidden()
        page.get_by_role("button", name="Net floats on a line").click()
        self.settled(page)
        self.shown_for_a_chain(page)
        self.drag(page, "Drag of the parts", -30, 0)
        self.assertGreater(float(page.locator("[name=follows]").input_value()), 2.0)
        expect(page.locator("[data-words]")).to_contain_text("three links")
        page.get_by_label("Title").fill(TITLE)
        page.get_by_label("Due", exact=True).fill("2027-01-15T18:00")
        page.get_by_role("button", name="Publish").click()
        expect(page.get_by_role("heading", name=TITLE)).to_be_visible()

    def shown_for_a_chain(self, page: Page) -> None:
        """What only a tail has goes, and a weight's size is asked for once there is one."""
        for name, shown in (("links", True), ("thin", False), ("size", False)):
            expect(page.locator(f"[name={name}]")).to_be_visible(visible=shown)
        page.get_by_label("With a weight at its end").check()
        expect(page.locator("[name=size]")).to_be_visible()
        page.get_by_label("With a weight at its end").uncheck()
        self.settled(page)

    def hand_in(self) -> None:
        """What the brief asks for, but with parts that move as one bar."""
        plan = plan_of(Brief.objects.get(title=TITLE).core)
        stiff = FAULTS["overlap.stiff"](plan, np.random.default_rng(3), 2.5)
        assert stiff is not None
        page = self.visit("ayumi")
        page.get_by_role("link", name=TITLE).click()
        page.set_input_files("#files", self.file(write.to_zip(draw.frames("pendulum", stiff, LOOKS["clean"])), "f.zip"))
        page.get_by_role("button", name="Hand in take 1").click()
        self.received(page)
        self.work()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
