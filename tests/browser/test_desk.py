"""The desk by keyboard and pointer, nothing lost on the way, and every page fit for all."""

from __future__ import annotations

import re
import time
from pathlib import Path

from django.urls import reverse
from playwright.sync_api import Page, Route, expect

from nettlecap.classroom.models import Person
from nettlecap.marking.models import Decision, MarkSheet, Note
from tests.browser.journey import Journey
from tests.web.school import clean_clip, hanging_clip, upload


def looked_at(journey: Journey, *clips: tuple[str, bytes]) -> list[int]:
    """Takes of these students, analysed by the worker."""
    from nettlecap.takes.hand_in import hand_in

    people = {"ayumi": journey.school.student, "kofi": journey.school.classmate}
    takes = [hand_in(people[login], journey.school.brief, [upload(data)]).pk for login, data in clips]
    journey.work()
    return takes


class Desk(Journey):
    def open_desk(self) -> tuple[Page, int]:
        first, _ = looked_at(self, ("ayumi", hanging_clip()[0]), ("kofi", clean_clip()))
        page = self.visit("orla", reverse("desk", args=[first]))
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        return page, first

    def test_keys_step_play_and_decide(self) -> None:
        page, _ = self.open_desk()
        where = page.locator("[data-where]")
        for key, frame in (
            ("ArrowDown", 2),
            ("ArrowRight", 3),
            ("ArrowUp", 2),
            ("ArrowLeft", 1),
            ("End", 25),
            ("Home", 1),
        ):
            page.keyboard.press(key)
            expect(where).to_contain_text(f"Frame {frame} of")
        page.keyboard.press("q")
        expect(page.locator('[data-act="quarter"]')).to_have_attribute("aria-pressed", "true")
        page.keyboard.press("c")
        expect(page.locator('[data-act="loop"]')).to_have_attribute("aria-pressed", "false")
        page.keyboard.press(" ")
        expect(page.locator('[data-act="play"]')).to_have_text("Stop")
        page.keyboard.press(" ")
        page.keyboard.press("f")
        page.keyboard.press("n")
        expect(page.locator(".finding.dismissed")).to_have_count(1)
        page.keyboard.press("n")
        expect(page.locator(".finding.dismissed")).to_have_count(0)
        page.keyboard.press("2")
        page.keyboard.type("8")
        page.keyboard.press("Tab")
        expect(page.locator("#points-arcs.by-hand")).to_have_value("8")
        page.keyboard.press("Escape")
        page.keyboard.press("?")
        expect(page.locator("#keys")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator("#keys")).to_be_hidden()
        page.keyboard.press("g")
        expect(page.locator(".bar-title")).to_contain_text("Kofi")

    def test_pointer_scrubs_on_the_sheet_and_the_layers_switch(self) -> None:
        page, _ = self.open_desk()
        page.locator('.srow[data-frame="9"]').click()
        expect(page.locator("[data-where]")).to_contain_text("Frame 9 of")
        expect(page.locator(".o-before")).not_to_have_count(0)
        page.get_by_role("checkbox", name="Neighbours").uncheck()
        expect(page.locator(".o-before")).to_have_count(0)
        page.keyboard.press("Escape")
        page.keyboard.press("o")
        expect(page.locator(".o-shape")).to_have_count(0)
        page.keyboard.press("o")
        expect(page.locator(".o-shape")).to_have_count(1)
        page.locator("[data-chart=height] svg").click(position={"x": 5, "y": 40})
        expect(page.locator("[data-where]")).to_contain_text("Frame 1 of")

    def test_a_finding_that_is_not_open_yet_is_decided_by_one_click(self) -> None:
        page, _ = self.open_desk()
        for button, verdict in (("Dismiss", "dismissed"), ("Agree", "agreed")):
            page.reload()
            expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
            expect(page.locator(".finding.chosen")).to_have_count(0)
            page.get_by_role("button", name=button).first.click()
            expect(page.locator(f".finding.{verdict}")).to_have_count(1)

    def test_a_range_marked_on_the_sheet_is_what_the_note_is_about(self) -> None:
        page, _ = self.open_desk()
        page.locator('.srow[data-frame="4"]').click()
        for _ in range(2):
            page.keyboard.press("Shift+ArrowDown")
        expect(page.locator(".srow.ranged")).to_have_count(3)
        page.keyboard.press("w")
        page.keyboard.type("These three are lovely.")
        page.get_by_role("button", name="Keep the note").click()
        expect(page.locator(".own-note .frames")).to_have_text("4–6")
        expect(page.locator('.srow[data-frame="5"] .note')).to_be_visible()

    def test_a_note_is_written_by_pointer_on_the_frame_that_shows(self) -> None:
        page, _ = self.open_desk()
        page.locator('.srow[data-frame="7"]').click()
        page.get_by_text("Write a note on these frames").click()
        expect(page.locator("#note-text")).to_be_focused()
        page.locator("#note-text").fill("Look at the top.")
        page.get_by_role("button", name="Keep the note").click()
        expect(page.locator(".own-note")).to_contain_text("7")
        note = Note.objects.get()
        self.assertEqual((note.first_frame, note.last_frame, note.text), (7, 7, "Look at the top."))

    def test_the_sheet_stays_where_it_is_when_something_is_decided(self) -> None:
        page, _ = self.open_desk()
        page.set_viewport_size({"width": 1280, "height": 420})
        page.keyboard.press("f")
        rows = page.locator(".rows")
        before = rows.evaluate("rows => rows.scrollTop")
        self.assertGreater(before, 0)
        page.keyboard.press("y")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        self.assertEqual(rows.evaluate("rows => rows.scrollTop"), before)

    def test_each_decision_is_there_after_the_page_was_closed(self) -> None:
        page, take = self.open_desk()
        page.keyboard.press("f")
        page.keyboard.press("y")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        page.locator("#remark").fill("Half a thought")
        expect(page.locator("[data-saved]")).to_have_text("Saved")
        self.wait_for_remark(take, "Half a thought")
        page.close()
        again = self.visit("orla", reverse("desk", args=[take]))
        expect(again.locator(".finding.agreed")).to_have_count(1)
        expect(again.locator("#remark")).to_have_value("Half a thought")

    def test_decisions_made_faster_than_they_are_saved_are_all_kept(self) -> None:
        page, take = self.open_desk()
        page.evaluate(
            """() => {
              const press = (key) => document.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
              ["f", "y"].forEach(press);
              for (const [principle, points] of [["arcs", "7"], ["timing", "6"]]) {
                const field = document.getElementById(`points-${principle}`);
                field.value = points;
                field.dispatchEvent(new Event("change", { bubbles: true }));
              }
            }"""
        )
        for principle, points in (("arcs", "7"), ("timing", "6")):
            expect(page.locator(f"#points-{principle}.by-hand")).to_have_value(points)
        expect(page.locator(".finding.agreed")).to_have_count(1)
        sheet = MarkSheet.objects.get(take=take)
        self.assertEqual(sheet.by_hand, {"arcs": 7.0, "timing": 6.0})

    def slow(self, page: Page, path: str, seconds: float = 1.5) -> None:
        """Keep the server's answers to a path back for a while."""

        def later(route: Route) -> None:
            answer = route.fetch()
            page.wait_for_timeout(1000 * seconds)
            route.fulfill(response=answer)

        page.route(re.compile(path), later)

    def test_marks_returned_right_after_the_remark_was_typed_show_as_returned(self) -> None:
        page, take = self.open_desk()
        self.slow(page, "/return")
        page.keyboard.press("r")
        page.keyboard.type("Close to it.")
        page.keyboard.press("Control+Enter")
        expect(page.locator(".closing")).to_contain_text("Returned")
        self.assertEqual(MarkSheet.objects.get(take=take).remark, "Close to it.")

    def test_a_remark_saved_late_does_not_hold_the_return_back(self) -> None:
        page, take = self.open_desk()
        self.slow(page, "/remark")
        page.keyboard.press("r")
        page.keyboard.type("Close")
        with page.expect_request(re.compile("/remark")):
            pass
        page.keyboard.type(" to it.")
        page.keyboard.press("Control+Enter")
        expect(page.locator(".closing")).to_contain_text("Returned")
        self.assertEqual(MarkSheet.objects.get(take=take).remark, "Close to it.")

    def test_what_is_typed_while_a_decision_is_saved_stays_and_is_saved(self) -> None:
        page, take = self.open_desk()
        self.slow(page, "/decide")
        page.keyboard.press("f")
        page.keyboard.press("y")
        page.keyboard.press("r")
        page.keyboard.type("Half a ")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        page.keyboard.type("thought")
        expect(page.locator("#remark")).to_have_value("Half a thought")
        self.wait_for_remark(take, "Half a thought")

    def test_what_was_typed_before_a_decision_was_saved_is_saved_after_it(self) -> None:
        """Nothing more is typed or left that would save it."""
        page, take = self.open_desk()
        self.slow(page, "/decide")
        page.keyboard.press("f")
        page.keyboard.press("y")
        page.keyboard.press("r")
        page.keyboard.type("A whole thought")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        expect(page.locator("#remark")).to_be_focused()
        self.wait_for_remark(take, "A whole thought")

    def test_a_note_begun_while_a_decision_is_saved_is_finished_after_it(self) -> None:
        page, _ = self.open_desk()
        self.slow(page, "/decide")
        page.keyboard.press("f")
        page.keyboard.press("y")
        page.keyboard.press("w")
        code = page.locator("[data-note-code]").input_value()
        self.assertTrue(code)
        page.keyboard.type("Look at ")
        expect(page.locator(".finding.agreed")).to_have_count(1)
        page.keyboard.type("the top.")
        self.assertEqual(page.locator("[data-note-code]").input_value(), code)
        page.get_by_role("button", name="Keep the note").click()
        expect(page.locator(".own-note")).to_contain_text("Look at the top.")
        expect(page.locator("#note-box")).not_to_have_attribute("open", "")

    def wait_for_remark(self, take: int, words: str) -> None:
        end = time.monotonic() + 10
        while MarkSheet.objects.get(take=take).remark != words:
            self.assertLess(time.monotonic(), end)
            time.sleep(0.05)

    def test_what_could_not_be_saved_is_said(self) -> None:
        page, take = self.open_desk()
        page.keyboard.press("f")
        MarkSheet.objects.create(take_id=take, returned_at="2026-11-20T10:00Z")
        page.keyboard.press("y")
        expect(page.locator("#say")).to_contain_text("These marks are returned")
        self.assertFalse(Decision.objects.exists())

    def test_the_page_does_not_scroll_at_its_size(self) -> None:
        page, _ = self.open_desk()
        self.assertTrue(page.evaluate("document.documentElement.scrollHeight <= window.innerHeight"))
        for part in (".transport", "[data-chart=height]", '[data-act="return"]'):
            box = page.locator(part).bounding_box()
            assert box is not None
            self.assertLessEqual(box["y"] + box["height"], 800, part)


class FitForAll(Journey):
    AXE = (Path(__file__).parent / "vendor" / "axe.js").read_text()

    def test_every_page_passes_the_accessibility_rules_in_both_lights(self) -> None:
        take, _ = looked_at(self, ("ayumi", hanging_clip()[0]), ("kofi", clean_clip()))
        brief = self.school.brief.pk
        course = self.school.course.pk
        Person.objects.filter(username="orla").update(is_staff=True)
        pages = {
            "orla": ["/", reverse("clips") + "?state=all", reverse("new-brief", args=[course]),
                     reverse("brief", args=[brief]), reverse("class-wall", args=[course]),
                     reverse("show-clips", args=[brief, "contact.gap"]), reverse("history", args=[take]),
                     reverse("desk", args=[take]), reverse("checks"), reverse("new-course"), reverse("outbox"),
                     *(reverse(name, args=[course]) for name in ("people", "school", "edit-course")),
                     *(reverse(name, args=[brief]) for name in ("two-markers", "files-of-class")),
                     reverse("keep-or-delete", args=[self.school.student.pk])],
            "ayumi": ["/", reverse("brief", args=[brief]), reverse("take", args=[take]), reverse("you"),
                      reverse("change-password")],
        }  # fmt: skip
        for login, paths in pages.items():
            page = self.visit(login)
            for path in paths:
                for lamp in ("day", "dim"):
                    page.evaluate("lamp => localStorage.setItem('nettlecap-lamp', lamp)", lamp)
                    page.goto(self.live_server_url + path)
                    with self.subTest(path, lamp=lamp):
                        self.assertEqual(self.violations(page), [])

    def test_the_desk_passes_them_with_its_tools_out(self) -> None:
        _, take = looked_at(self, ("ayumi", clean_clip()), ("ayumi", hanging_clip()[0]))
        page = self.visit("orla", reverse("desk", args=[take]))
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        for keys in (("f", "v"), ("Escape", "j"), ("j", "j", "j", "e"), ("e", "b", "?")):
            for key in keys:
                page.keyboard.press(key)
            with self.subTest(keys):
                self.assertEqual(self.violations(page), [])

    def violations(self, page: Page) -> list[str]:
        page.evaluate(self.AXE)
        found = page.evaluate("axe.run({runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa']})")
        return [
            f"{v['id']}: {v['nodes'][0]['html'][:160]} {v['nodes'][0]['failureSummary'][:200]}"
            for v in found["violations"]
        ]
