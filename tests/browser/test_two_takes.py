"""Two takes with a fix in between: marks come back, are ticked off, the next take is compared, the class is seen."""

from __future__ import annotations

from django.urls import reverse
from playwright.sync_api import Page, expect

from nettlecap.marking.models import Note, Reading
from nettlecap.takes.models import Take
from tests.browser.journey import Journey
from tests.browser.test_desk import looked_at
from tests.web.school import clean_clip, hanging_clip


class TwoTakes(Journey):
    def test_from_the_first_marks_to_the_second_and_the_wall(self) -> None:
        first, _ = looked_at(self, ("ayumi", hanging_clip()[0]), ("kofi", hanging_clip()[0]))
        self.mark(first)
        self.fix(first)
        self.work()
        second = Take.objects.get(number=2)
        page = self.visit("ayumi", reverse("take", args=[second.pk]))
        expect(page.locator("#since")).to_contain_text("1 gone, 0 left")

        desk = self.ready(self.visit("orla", reverse("desk", args=[second.pk])))
        expect(desk.locator(".since")).to_contain_text("1 gone, 0 left, 0 new")
        desk.keyboard.press("j")
        expect(desk.locator("[data-other-words]")).to_have_text("take 1")
        desk.keyboard.press("Control+Enter")
        expect(desk.locator(".closing")).to_contain_text("Returned")
        self.see_the_class(desk)

    def ready(self, page: Page) -> Page:
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        return page

    def mark(self, take: int) -> None:
        page = self.ready(self.visit("orla", reverse("desk", args=[take])))
        page.keyboard.press("f")
        page.keyboard.press("y")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        page.keyboard.press("w")
        page.keyboard.type("Set it down on the quay.")
        page.get_by_role("button", name="Keep the note").click()
        expect(page.locator(".own-note")).to_have_count(1)
        page.evaluate("document.activeElement.blur()")
        page.keyboard.press("Control+Enter")
        expect(page.locator(".closing")).to_contain_text("Returned")

    def fix(self, take: int) -> None:
        page = self.ready(self.visit("ayumi", reverse("returned", args=[take])))
        expect(page.locator(".reasons")).to_contain_text("Taken off: 2.5 for a clear fault")
        page.locator(".tick input").first.check()
        page.get_by_label("Your answer").fill("I will put it on the line.")
        page.get_by_role("button", name="Answer").click()
        expect(page.locator(".answer")).to_contain_text("I will put it on the line.")
        self.assertEqual((Reading.objects.count(), Note.objects.get().answer), (1, "I will put it on the line."))
        page.get_by_role("link", name="Hand in another take").click()
        expect(page.locator(".to-fix .tick input:checked")).to_have_count(1)
        page.locator("input[type=file]").first.set_input_files(self.file(clean_clip(), "second.zip"))
        page.get_by_role("button", name="Hand in take 2 at once").click()
        self.received(page)
        expect(page.get_by_role("heading", name="Take 2 is handed in")).to_be_visible()

    def see_the_class(self, page: Page) -> None:
        page.goto(self.live_server_url + reverse("class-wall", args=[self.school.course.pk]))
        page.get_by_label("Brief").select_option("A cork float")
        page.get_by_label("Sorted by").select_option("most improved")
        page.get_by_role("button", name="Show").click()
        expect(page.locator("tbody th").first).to_have_text("Ayumi")
        expect(page.locator("tbody tr").first).to_contain_text("1 fewer than in the first take")
        page.get_by_role("link", name="Show in class").click()
        show = page.locator("[data-show]")
        expect(show).to_have_attribute("data-ready", "1")
        expect(page.locator("[data-show-where]")).to_contain_text("Clip 1 of 1")
        expect(page.locator("[data-show-where]")).not_to_contain_text("Kofi")
        page.keyboard.press("f")
        expect(page.locator("[data-show-where]")).to_contain_text("here")
        page.get_by_role("link", name="With names").click()
        expect(page.locator("[data-show-where]")).to_contain_text("Kofi")
