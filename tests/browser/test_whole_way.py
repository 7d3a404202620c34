"""The whole way, as its people go it: brief, hand-in, analysis, desk, return, reading."""

from __future__ import annotations

from playwright.sync_api import expect

from nettlecap.takes.models import Take
from tests.browser.journey import Journey
from tests.web.school import broken_zip, hanging_clip


class WholeWay(Journey):
    def test_from_brief_to_returned_marks(self) -> None:
        data, frame = hanging_clip()
        self.set_a_brief()
        self.hand_in(data)
        self.find_agree_and_return(frame)
        self.read(frame)

    def set_a_brief(self) -> None:
        page = self.visit("orla")
        page.get_by_role("link", name="Set a brief for First Motion").click()
        page.get_by_label("Title").fill("The float again")
        page.get_by_label("Words to the students").fill("Let it feel light.")
        page.get_by_label("Due", exact=True).fill("2027-01-15T18:00")
        page.get_by_text("The clip", exact=True).click()
        page.get_by_label("Frame width (px)").fill("480")
        page.get_by_label("Frame height (px)").fill("270")
        page.get_by_label("Frames a second").fill("0")
        # The editor says so as one types; what is meant here is the answer to publishing.
        with page.expect_navigation():
            page.get_by_role("button", name="Publish").click()
        expect(page.locator("#error_fps")).to_contain_text("Give a number")
        page.get_by_label("Frames a second").fill("24")
        expect(page.locator("[data-sheet-picture] svg")).to_have_attribute("width", "480")
        page.get_by_role("button", name="Publish").click()
        expect(page.get_by_role("heading", name="The float again")).to_be_visible()

    def hand_in(self, data: bytes) -> None:
        page = self.visit("ayumi")
        page.get_by_role("link", name="The float again").click()
        expect(page.get_by_text("Let it feel light.")).to_be_visible()
        page.set_input_files("#files", self.file(broken_zip(), "broken.zip"))
        page.get_by_role("button", name="Hand in take 1").click()
        self.received(page)
        expect(page.locator("[data-error]")).to_contain_text("cannot be opened as a zip")
        self.assertFalse(Take.objects.exists())
        page.set_input_files("#files", self.file(data, "float.zip"))
        page.get_by_role("button", name="Hand in take 1").click()
        self.received(page)
        expect(page.get_by_role("heading", name="Take 1 is handed in")).to_be_visible()
        expect(page.locator("#state")).to_contain_text("waits to be looked at")
        self.work(apart=True)
        # Without reloading by hand, the page comes to say that it is through and plays the clip.
        expect(page.locator("#state")).to_contain_text("waits for your instructor")
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        self.assertEqual(page.locator("[data-finding]").count(), 0)

    def find_agree_and_return(self, frame: int) -> None:
        page = self.visit("orla")
        page.get_by_role("link", name="Mark the next clip").click()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        page.keyboard.press("f")
        expect(page.locator("[data-where]")).to_contain_text(f"Frame {frame} of")
        expect(page.locator(".srow.here")).to_have_attribute("data-frame", str(frame))
        expect(page.locator(f'.srow[data-frame="{frame}"] .p-contact')).to_be_visible()
        expect(page.locator(".finding.chosen")).to_contain_text("contact.gap")
        self.assertGreater(page.locator("[data-overlay] .o-place.p-contact").count(), 0)
        page.keyboard.press("y")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        expect(page.locator('[data-points="4"]')).to_have_attribute("placeholder", "7.5")
        page.keyboard.press("w")
        page.keyboard.type("Look at the quay line here.")
        page.get_by_role("button", name="Keep the note").click()
        expect(page.locator(".own-note")).to_contain_text("Look at the quay line here.")
        page.keyboard.press("Escape")
        page.keyboard.press("r")
        page.keyboard.type("A lively float. Let it land.")
        expect(page.locator("[data-saved]")).to_have_text("Saved")
        page.keyboard.press("Control+Enter")
        expect(page.locator(".mark-column .saved")).to_contain_text("Returned")

    def read(self, frame: int) -> None:
        page = self.visit("ayumi")
        page.get_by_role("link", name="Read your marks").click()
        expect(page.locator(".finding")).to_contain_text(f"Frame {frame} should be the contact")
        expect(page.locator(".remark")).to_contain_text("A lively float. Let it land.")
        expect(page.locator(".own-note")).to_contain_text("Look at the quay line here.")
        expect(page.locator(".total")).to_contain_text("47.5 of 50")
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        page.locator(".finding").click()
        expect(page.locator("[data-where]")).to_contain_text(f"Frame {frame} of")
