"""A drill gone through by keyboard, and one by touch on a phone; a drill set for a class."""

from __future__ import annotations

import re

from django.urls import reverse
from playwright.sync_api import Page, expect

from nettlecap.training import drills
from nettlecap.training.models import Drill, Question
from nettlecap.training.tasks import draw_question
from tests.browser.journey import PATIENCE_MS, Journey

MEASURED = "[data-overlay] :is(.o-path, .o-shape, .o-place, .o-gap, .o-mend, .o-before, .o-after)"
READY = "[data-drill][data-ready=true]:not([data-answered])"


class Drilling(Journey):
    def drill(self, *kinds: str, codes: tuple[str, ...] = ()) -> Drill:
        """A drill of six clips, one kind after another, all drawn."""
        drill = drills.begin(self.school.student, "bounce", kinds, codes, 6)
        wanted = [(kinds[n % len(kinds)], n) for n in range(6)]
        for kind, n in wanted:
            question, _ = Question.objects.get_or_create(
                drill=drill, number=n + 1, defaults={"exercise": "bounce", "kind": kind, "seed": n}
            )
            with_fault = kind in ("spot", "which") and n != 5
            question.kind, question.seed = kind, 70 + n
            question.code, question.times = ("contact.gap", 4.0) if with_fault else ("", 0.0)
            question.save()
            draw_question.call(question.pk)
        return drill

    def touched(self, login: str, path: str) -> Page:
        """A session on a phone that is held upright."""
        context = self.browser.new_context(
            viewport={"width": 390, "height": 780}, has_touch=True, is_mobile=True, reduced_motion="no-preference"
        )
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("pageerror", lambda error: self.errors.append(str(error)))
        page.goto(f"{self.live_server_url}/sign-in?next={path}")
        page.get_by_label("Username").fill(login)
        page.get_by_label("Password").fill("a-long-secret")
        page.get_by_role("button", name="Sign in").tap()
        page.wait_for_url(lambda url: "/sign-in" not in url)
        return page

    def on(self, page: Page) -> None:
        """To the next clip, by key."""
        page.keyboard.press("g")
        page.wait_for_selector(READY)


class ByKeyboard(Drilling):
    def test_every_kind_of_question_without_the_mouse(self) -> None:
        drill = self.drill("spot", "which", "rate", "order", "place", "spot")
        asked = {q.number: q for q in drill.questions.all()}
        page = self.visit("ayumi", reverse("drill", args=[drill.pk]))
        page.wait_for_selector(READY)

        # Nothing moves by itself, and nothing measured lies over the clip.
        expect(page.get_by_text("it begins with Space")).to_be_visible()
        expect(page.get_by_role("button", name="Play")).to_be_visible()
        expect(page.locator(MEASURED)).to_have_count(0)
        expect(page.locator(".stepping")).to_be_hidden()
        page.keyboard.press("Space")
        expect(page.get_by_role("button", name="Stop")).to_be_visible()
        page.keyboard.press("a")
        expect(page.get_by_text("What is off, and where?")).to_be_visible()
        frame = asked[1].known["finding"]["first_frame"]
        for _ in range(90):
            page.keyboard.press("ArrowUp")
        for _ in range(frame - 1):
            page.keyboard.press("ArrowDown")
        page.keyboard.press("p")
        expect(page.locator("[data-pointed]")).to_contain_text(f"frame {frame},")
        page.keyboard.press("Enter")
        expect(page.locator(".verdict")).to_have_text("You saw it.")
        expect(page.locator(".finding-said")).to_contain_text(asked[1].known["finding"]["message"])
        expect(page.locator("[data-beside]")).to_be_visible()
        expect(page.locator(MEASURED).first).to_be_attached()

        self.on(page)
        page.keyboard.press("1")
        right = asked[2].known["truth"]["side"] == "first"
        expect(page.locator(".verdict")).to_have_text("Yes." if right else "It is the other one.")
        self.on(page)
        page.keyboard.press(str([24, 12, 6].index(asked[3].known["truth"]["rate"]) + 1))
        expect(page.locator(".verdict")).to_have_text("Yes.")
        self.on(page)
        truth = asked[4].known["truth"]
        for index in truth["order"][1:]:
            page.keyboard.press(str(truth["shuffled"].index(index) + 1))
        page.keyboard.press("Enter")
        expect(page.locator(".verdict")).to_have_text("In order.")
        self.on(page)
        self.put_where_it_belongs(page, asked[5])
        page.keyboard.press("Enter")
        expect(page.locator(".verdict")).to_have_text("There it belongs.")

        # Named by its principle and its fault, though the clip is clean.
        self.on(page)
        page.keyboard.press("Space")
        page.keyboard.press("a")
        page.keyboard.press("4")
        page.keyboard.press("Space")
        expect(page.locator("[name=code]:checked")).to_have_count(1)
        page.keyboard.press("Enter")
        expect(page.locator(".verdict")).to_have_text("This one is clean.")
        page.keyboard.press("g")
        expect(page.get_by_text("comes back in a while").or_(page.get_by_text("seen")).first).to_be_visible()
        self.assertIsNotNone(Drill.objects.get(pk=drill.pk).ended_at)

    def put_where_it_belongs(self, page: Page, question: Question) -> None:
        number = question.known["truth"]["drawing"] + 1
        at, to = (
            next(s for s in question.known["clips"][name]["track"]["shapes"] if s["drawing"] == number)
            for name in ("shown", "right")
        )
        for way, by in (("Right", to["x"] - at["x"]), ("Down", to["y"] - at["y"])):
            key = way if by > 0 else {"Right": "Left", "Down": "Up"}[way]
            for _ in range(round(abs(by))):
                page.keyboard.press(f"Arrow{key}")


class ByTouch(Drilling):
    def test_it_plays_at_once_and_a_touch_of_the_picture_is_a_tap(self) -> None:
        drill = self.drill("spot", "order", "place")
        page = self.touched("ayumi", reverse("drill", args=[drill.pk]))
        page.wait_for_selector(READY)
        expect(page.get_by_role("button", name="Stop")).to_be_visible()
        page.locator("[data-frame-box]").tap()
        expect(page.get_by_text("What is off, and where?")).to_be_visible()
        page.locator("[data-principle=contact] summary").tap()
        page.get_by_label(re.compile("Hangs|above the ground|gap", re.I)).first.tap()
        page.get_by_role("button", name="Say it").tap()
        expect(page.locator(".verdict")).to_be_visible()
        wide = page.evaluate("document.documentElement.scrollWidth - innerWidth")
        self.assertLessEqual(wide, 1)
        page.get_by_role("link", name="Next clip").tap()
        page.wait_for_selector(READY)
        for button in page.locator("[data-lay]").all():
            button.tap()
        page.get_by_role("button", name="So they come").tap()
        expect(page.locator(".verdict")).to_be_visible()
        page.get_by_role("link", name="Next clip").tap()
        page.wait_for_selector(READY)
        before = page.locator("[name=x]").input_value()
        page.locator("[data-frame-box]").tap(position={"x": 60, "y": 60})
        self.assertNotEqual(page.locator("[name=x]").input_value(), before)
        page.get_by_role("button", name="There it belongs").tap()
        expect(page.locator(".verdict")).to_be_visible()


class SetForAClass(Drilling):
    def test_an_instructor_sets_one_and_a_student_finds_and_pauses_it(self) -> None:
        page = self.visit("orla", reverse("course-drills", args=[self.school.course.pk]))
        page.get_by_label("What it is called").fill("Counting on the quay")
        for name in ("Spot it", "Which is right", "Which rate", "Order five drawings", "Put it where it belongs"):
            page.get_by_label(name).uncheck()
        page.get_by_label("It counts").select_option("done")
        page.get_by_role("button", name="Set the drill").click()
        expect(page.get_by_text("Counting on the quay")).to_be_visible()
        expect(page.get_by_text("not begun").first).to_be_visible()
        self.work()
        student = self.visit("ayumi")
        student.get_by_role("link", name="Train", exact=True).click()
        student.get_by_role("button", name="Begin").first.click()
        student.wait_for_selector(READY)
        student.get_by_label("Frames").fill("12")
        student.keyboard.press("Enter")
        expect(student.locator(".verdict")).to_be_visible()
        student.get_by_role("link", name="Pause").click()
        expect(student.get_by_role("button", name="Go on at clip 2")).to_be_visible()
        page.reload()
        expect(page.get_by_text("at clip 2")).to_be_visible()
