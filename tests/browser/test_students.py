"""What students do: hand in by dropping, see what is wrong, play their clip, read what came back."""

from __future__ import annotations

import base64
import io
import json
import re
import shutil
import time
import zipfile
from collections.abc import Callable

from django.urls import reverse
from django_tasks_db.models import DBTaskResult
from playwright.sync_api import Page, expect

from motion.exercises.bounce.plan import bounce
from nettlecap.marking.decisions import decide
from nettlecap.takes.models import Take
from tests.browser.journey import Journey
from tests.browser.test_desk import looked_at
from tests.web.school import SMALL, clean_clip, hanging_clip

FRAMES = bounce(SMALL).frames
FRAMES_A_SECOND = 24
# A little over, for the picture that is due at the second itself.
A_SECOND_MS = 1020

DROP = """([name, files]) => {
  const data = new DataTransfer();
  files.forEach(([file, content]) => {
    const bytes = Uint8Array.from(atob(content), (c) => c.charCodeAt(0));
    data.items.add(new File([bytes], file, {type: "image/png"}));
  });
  const drop = new DragEvent("drop", {dataTransfer: data, bubbles: true, cancelable: true});
  document.querySelector(name).dispatchEvent(drop);
}"""


class HandingIn(Journey):
    def brief_page(self) -> Page:
        return self.visit("ayumi", reverse("brief", args=[self.school.brief.pk]))

    def test_pictures_dropped_together_become_one_take(self) -> None:
        page = self.brief_page()
        with zipfile.ZipFile(io.BytesIO(clean_clip())) as archive:
            files = [[n, base64.b64encode(archive.read(n)).decode()] for n in archive.namelist()]
        page.evaluate(DROP, [".drop", files])
        expect(page.locator("[data-picked]")).to_contain_text(f"{FRAMES} pictures")
        page.get_by_role("button", name="Hand in take 1").click()
        self.received(page)
        expect(page.get_by_role("heading", name="Take 1 is handed in")).to_be_visible()
        self.assertEqual(Take.objects.get().frames, FRAMES)

    def test_nothing_picked_is_said_at_once(self) -> None:
        page = self.brief_page()
        page.get_by_role("button", name="Hand in take 1").click()
        expect(page.locator("[data-error]")).to_contain_text("Pick a clip first")

    def test_after_a_refusal_another_file_can_be_handed_in(self) -> None:
        page = self.brief_page()
        page.set_input_files("#files", self.file(b"only words", "words.zip"))
        page.get_by_role("button", name="Hand in take 1").click()
        self.received(page)
        expect(page.locator("[data-error]")).to_contain_text("Nothing was handed in")
        expect(page.get_by_role("button", name="Hand in take 1")).to_be_enabled()
        page.set_input_files("#files", self.file(clean_clip(), "good.zip"))
        page.get_by_role("button", name="Hand in take 1").click()
        self.received(page)
        expect(page.get_by_role("heading", name="Take 1 is handed in")).to_be_visible()
        page.goto(self.live_server_url + reverse("brief", args=[self.school.brief.pk]))
        expect(page.get_by_role("button", name="Hand in take 2")).to_be_visible()

    def test_a_page_that_is_left_leads_on_to_the_clip_and_drawings_that_were_not_kept_come_back(self) -> None:
        page = self.brief_page()
        page.set_input_files("#files", self.file(clean_clip(), "good.zip"))
        page.get_by_role("button", name="Hand in take 1").click()
        page.get_by_role("link", name="Follow it there").click()
        expect(page.get_by_text("Your clip is here, and waits to be read")).to_be_visible()
        self.work()
        expect(page.get_by_role("heading", name="Take 1 is handed in")).to_be_visible()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        take = Take.objects.select_related("analysis").get()
        shutil.rmtree(take.analysis.drawings_of(take.analysis.shown_run))
        page.reload()
        expect(page.locator("[data-loading]")).to_be_visible()
        self.wait_for(lambda: DBTaskResult.objects.ready().exists())
        self.work()
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")

    def wait_for(self, what: Callable[[], bool]) -> None:
        until = time.monotonic() + 60
        while not what() and time.monotonic() < until:
            time.sleep(0.05)


class Playing(Journey):
    def test_a_clip_plays_at_its_rate_and_at_a_quarter_of_it(self) -> None:
        (take,) = looked_at(self, ("ayumi", clean_clip()))
        page = self.visit("ayumi")
        # The page's time stands still but for what the test lets pass, however slow the machine is.
        page.clock.install()
        page.goto(self.live_server_url + reverse("take", args=[take]))
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        page.clock.pause_at(page.evaluate("Date.now() + 1000"))
        self.assertEqual(self.frame_after_a_second(page), 1 + FRAMES_A_SECOND)
        page.get_by_role("button", name="Quarter speed").click()
        self.assertEqual(self.frame_after_a_second(page), 1 + FRAMES_A_SECOND // 4)

    def frame_after_a_second(self, page: Page) -> int:
        """The frame that shows when the clip has played for a second from its start."""
        page.keyboard.press("Escape")
        page.keyboard.press("Home")
        page.keyboard.press(" ")
        page.clock.run_for(A_SECOND_MS)
        page.keyboard.press(" ")
        found = re.search(r"Frame (\d+) of", page.locator("[data-where]").text_content() or "")
        assert found
        return int(found[1])

    def test_reduced_motion_leaves_the_clip_still_until_it_is_played(self) -> None:
        (take,) = looked_at(self, ("ayumi", clean_clip()))
        page = self.visit("ayumi", reverse("take", args=[take]))
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        expect(page.locator("[data-where]")).to_contain_text("Frame 1 of")
        page.wait_for_timeout(400)
        expect(page.locator("[data-where]")).to_contain_text("Frame 1 of")


class Reading(Journey):
    def test_the_returned_page_shows_what_was_agreed_and_nothing_else(self) -> None:
        data, _ = hanging_clip()
        (number,) = looked_at(self, ("ayumi", data))
        take = Take.objects.select_related("analysis", "brief").get(pk=number)
        decide.note(self.school.instructor, take, first=2, last=4, principle="arcs", text="A fine arc.")
        decide.return_marks(self.school.instructor, take)
        page = self.visit("ayumi", reverse("returned", args=[number]))
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        expect(page.locator(".own-note")).to_contain_text("A fine arc.")
        self.assertEqual(page.locator("[data-finding]").count(), 0)
        told = json.loads(page.locator("#clip-data").text_content() or "")
        self.assertEqual(told["findings"], [])
        self.assertNotIn("contact.gap", page.content())
        page.locator(".own-note").click()
        expect(page.locator("[data-where]")).to_contain_text("Frame 2 of")

    def test_the_lamp_stays_dimmed_from_page_to_page(self) -> None:
        page = self.visit("ayumi")
        page.get_by_role("button", name="Dim the lamp").click()
        page.goto(self.live_server_url + reverse("brief", args=[self.school.brief.pk]))
        expect(page.locator("html")).to_have_attribute("data-lamp", "dim")
        expect(page.get_by_role("button", name="Light the lamp")).to_be_visible()

    def test_on_a_phone_nothing_leaves_the_edge_and_the_picture_comes_before_the_marks(self) -> None:
        (number,) = looked_at(self, ("ayumi", hanging_clip()[0]))
        take = Take.objects.select_related("analysis", "brief").get(pk=number)
        decide.return_marks(self.school.instructor, take)
        page = self.visit("ayumi")
        page.set_viewport_size({"width": 390, "height": 844})
        for name, args in (("start", []), ("brief", [take.brief_id]), ("take", [number]), ("returned", [number])):
            page.goto(self.live_server_url + reverse(name, args=args))
            with self.subTest(name):
                self.assertEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
                for button in page.locator(".bar :is(a, button)").all():
                    box = button.bounding_box()
                    assert box is not None
                    self.assertLessEqual(box["x"] + box["width"], 390)
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        picture, marks = (page.locator(part).bounding_box() for part in (".picture-column", ".mark-column"))
        assert picture is not None
        assert marks is not None
        self.assertGreater(picture["height"], 200)
        self.assertGreaterEqual(marks["y"], picture["y"] + picture["height"])
