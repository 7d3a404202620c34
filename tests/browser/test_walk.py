"""A walk's whole way: set in the editor, handed in, marked at the desk, placed by hand, returned and read."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from playwright.sync_api import Page, expect

from motion.brief import Brief as Asked
from motion.brief import Stride, WalkBrief
from motion.exercises import exercise_of
from motion.exercises.walk.feel import plan_of
from motion.exercises.walk.plan import Pose
from motion.synth import draw, write
from motion.synth.look import LOOKS
from motion.synth.walk.faults import FAULTS
from nettlecap.classroom.models import Brief
from nettlecap.takes.models import Take
from tests.browser.journey import Journey

TITLE = "The lamplighter in the fog"
PLACED = Asked(
    canvas=(640, 360),
    asked=WalkBrief(direction="right"),
    guide=Stride(start_x=320, ground=310, leg=140, body=90, step=100, steps=3, rise=8, lift=12),
)
INKED = """(name) => {
  const box = document.querySelector("[data-mended]"), canvas = box.querySelector("canvas");
  const colour = getComputedStyle(box).getPropertyValue(name).trim();
  const wanted = [1, 3, 5].map((k) => parseInt(colour.slice(k, k + 2), 16));
  const { data } = canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height);
  let count = 0;
  for (let k = 0; k < data.length; k += 4) {
    if (wanted.every((value, channel) => Math.abs(data[k + channel] - value) < 12)) count += 1;
  }
  return count;
}"""
"""How many pixels of the mended picture are of a colour that is named in its style."""


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

    def test_a_whole_figure_is_set_by_dragging_its_arms(self) -> None:
        page = self.visit("orla")
        page.get_by_role("link", name="Set a brief for First Motion").click()
        page.get_by_role("link", name="Walk", exact=True).click()
        page.get_by_role("button", name="Postwoman").click()
        self.settled(page)
        before = float(page.locator("[name=arms]").input_value())
        self.drag(page, "Swing of the arms", 14, 0)
        self.assertGreater(float(page.locator("[name=arms]").input_value()), before + 1)
        expect(page.locator("[data-words]")).to_contain_text("each against the leg of its own side")
        trunk = float(page.locator("[name=body]").input_value())
        self.drag(page, "Length of the trunk", 0, -14)
        self.assertGreater(float(page.locator("[name=body]").input_value()), trunk + 5)

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
        self.see_it_mended(page)

    def see_it_mended(self, page: Page) -> None:
        """The figure as it belongs, in its own colour in the drawing that is off, and in the other one's beside it."""
        page.keyboard.press("d")
        expect(page.locator("[data-mended-words]")).to_have_text("Mended")
        self.assertGreater(page.evaluate(INKED, "--figure-anew"), 200)
        page.keyboard.press("ArrowRight")
        page.wait_for_function(f"({INKED})('--figure-anew') === 0")
        self.assertGreater(page.evaluate(INKED, "--figure"), 200)
        page.keyboard.press("ArrowLeft")
        page.keyboard.press("d")
        expect(page.locator("[data-mended] canvas")).to_be_hidden()

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


class ByHand(Journey):
    """A clip whose figure nobody could tell, until a person places one drawing of it."""

    DRAWING = 5

    def test_one_drawing_placed_by_hand_tells_all_the_others(self) -> None:
        self.school.brief = self.school.set_brief(**replace(PLACED, title="").to_json())
        plan = plan_of(PLACED)
        faulty = next(p for s in range(40) if (p := FAULTS["form.backwards"](plan, np.random.default_rng(s), 3.5)))
        look = replace(LOOKS["outline"], strokes=True, limb_px=8.0, bundle=2.0)
        take = self.school.take(data=write.to_zip(draw.frames("walk", faulty, look)))
        page = self.visit("orla", f"/takes/{take.pk}/desk")
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        expect(page.locator(".lacking")).to_contain_text("joints could not be told")
        self.assertEqual(page.locator("[data-overlay] .o-part").count(), 0)
        page.locator(".lacking").get_by_role("button", name="Place by hand").click()
        self.place(page, faulty.poses[self.DRAWING - 1])
        with page.expect_response("**/place"):
            page.locator('[data-act="place-again"]').first.click()
        self.work()
        # Opened anew: the page that waited for the work loads itself again at a moment of its own.
        page = self.visit("orla", f"/takes/{take.pk}/desk")
        expect(page.locator("[data-player]")).to_have_attribute("data-ready", "true")
        expect(page.locator(".finding", has_text="form.backwards")).to_have_count(1)
        self.assertGreater(page.locator("[data-overlay] .o-part.near").count(), 0)

    def place(self, page: Page, pose: Pose) -> None:
        """Drag the body, then every joint, to where they are drawn; each is kept as it is dropped."""
        for _ in range(self.DRAWING - 1):
            page.keyboard.press("ArrowRight")
        expect(page.locator("[data-where]")).to_contain_text(f"Frame {self.DRAWING} of")
        turn = math.radians(pose.angle)
        along = pose.x + pose.major / 2 * math.cos(turn), pose.y - pose.major / 2 * math.sin(turn)
        across = pose.x - pose.minor / 2 * math.sin(turn), pose.y - pose.minor / 2 * math.cos(turn)
        # What was found is larger: once one axis is drawn in, the other one is the long one.
        for name, at in (("middle", (pose.x, pose.y)), ("along", along), ("along", across)):
            self.pull(page, name, at)
        for name, at in pose.landmarks.items():
            self.pull(page, f"point-{name}", at)
        self.assertEqual(len(Take.objects.get().placed["landmarks"]), len(pose.landmarks))

    def pull(self, page: Page, handle: str, to: tuple[float, float]) -> None:
        """Take hold of a handle over the picture, and let go of it at a place in the clip."""
        start, end = page.evaluate(
            """([name, x, y]) => {
              const group = document.querySelector(".handles");
              const handle = group.querySelector(`[data-handle="${name}"]`);
              group.append(handle);
              const onScreen = (px, py) => {
                const point = new DOMPoint(Number(px), Number(py)).matrixTransform(group.getScreenCTM());
                return [point.x, point.y];
              };
              return [onScreen(handle.getAttribute("cx"), handle.getAttribute("cy")), onScreen(x + 0.5, y + 0.5)];
            }""",
            [handle, *to],
        )
        page.mouse.move(*start)
        page.mouse.down()
        page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2)
        with page.expect_response("**/place"):
            page.mouse.move(*end)
            page.mouse.up()
        page.wait_for_timeout(150)
