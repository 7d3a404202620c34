"""Playing and stepping at the marking desk, in a real browser on a live server.

Whether each frame of a clip is shown while it plays at its rate, how late, and how long a step takes until it is drawn;
and that stepping fetches nothing.
"""

from __future__ import annotations

import os
from typing import Any, ClassVar

import django

from motion.exercises.bounce.plan import Recipe, bounce
from motion.synth import write
from motion.synth.bounce import draw
from motion.synth.look import LOOKS

SECONDS = 6
STEPS = 60
LONG = Recipe(
    width=1280, height=720, ground_y=600, drop_px=420, kept=(0.93,) * 22, start_x=60, speed_x=3.4, end="rest", rest=20
)
CLIPS = {"960 x 540, cel": (Recipe(), "cel"), "1280 x 720, harbour, long": (LONG, "harbour")}
WATCH = """
    async (seconds) => {
        const where = document.querySelector("[data-where]");
        const seen = [];
        new MutationObserver(() => {
            seen.push([performance.now(), Number(where.textContent.match(/\\d+/)[0])]);
        }).observe(where, { childList: true, characterData: true, subtree: true });
        document.querySelector('[data-act="play"]').click();
        await new Promise((done) => setTimeout(done, seconds * 1000));
        document.querySelector('[data-act="play"]').click();
        return seen;
    }
"""
STEP = """
    async (steps) => {
        const took = [];
        for (let i = 0; i < steps; i += 1) {
            const start = performance.now();
            document.body.dispatchEvent(new KeyboardEvent("keydown", { key: "ArrowDown", bubbles: true }));
            took.push(performance.now() - start);
            await new Promise(requestAnimationFrame);
        }
        return took;
    }
"""


def table() -> str:
    """The figures as a Markdown table."""
    os.environ["DJANGO_SETTINGS_MODULE"] = "tests.settings"
    django.setup()
    from django.test.utils import setup_databases, setup_test_environment, teardown_databases, teardown_test_environment

    setup_test_environment()
    databases = setup_databases(verbosity=0, interactive=False)
    try:
        rows = _measured()
    finally:
        teardown_databases(databases, verbosity=0)
        teardown_test_environment()
    head = "| clip | frames due | shown | latest, ms | step, median ms | step, 95 % ms | fetched while stepping |"
    return "\n".join([head, "| --- |" + " ---: |" * 6, *rows])


def _measured() -> list[str]:
    import unittest

    from django.urls import reverse

    from tests.browser.journey import Journey
    from tests.web.school import upload

    class Playback(Journey):  # type: ignore[misc]
        """Measured as a test, because a test has the server and the browser at hand."""

        rows: ClassVar[list[str]] = []

        def measure_all(self) -> None:
            for name, (recipe, look) in CLIPS.items():
                self.rows.append(f"| {name} | {' | '.join(self.measure(recipe, look))} |")

        def measure(self, recipe: Recipe, look: str) -> list[str]:
            from nettlecap.takes.hand_in import hand_in

            plan = bounce(recipe)
            data = write.to_zip(draw.frames(plan, LOOKS[look]))
            brief = self.school.set_brief(canvas={"width": recipe.width, "height": recipe.height})
            take = hand_in(self.school.student, brief, [upload(data)])
            self.work()
            page = self.visit("orla", reverse("desk", args=[take.pk]))
            page.wait_for_selector("[data-ready]")
            fetched: list[str] = []
            page.on("request", lambda request: fetched.append(request.url))
            page.keyboard.press("Home")
            played = _played(page.evaluate(WATCH, SECONDS), plan.frames, plan.recipe.fps)
            page.keyboard.press("Home")
            took = sorted(page.evaluate(STEP, STEPS))
            return [*played, f"{took[len(took) // 2]:.1f}", f"{took[int(0.95 * len(took))]:.1f}", str(len(fetched))]

    result = unittest.TextTestRunner(verbosity=0).run(unittest.TestSuite([Playback("measure_all")]))
    if not result.wasSuccessful():
        raise SystemExit("playing could not be measured")
    return Playback.rows


def _played(seen: list[Any], frames: int, fps: float) -> list[str]:
    """How many frames were due, how many of them were shown, and how much later than due the latest was."""
    start, first = seen[0]
    due, shown, latest = 0, 0, 0.0
    last = first
    for moment, frame in seen[1:]:
        if frame == last:
            continue
        due += (frame - last) % frames
        shown += 1
        latest = max(latest, moment - start - 1000 * due / fps)
        last = frame
    return [str(due), str(shown), f"{latest:.0f}"]
