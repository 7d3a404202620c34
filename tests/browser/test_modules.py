"""The scripts' pure modules, in the browser that they are for."""

from __future__ import annotations

from typing import Any

from playwright.sync_api import Page

from tests.browser.journey import Journey

SHEET = """[{drawing: 1, first_frame: 1, frames: 2}, {drawing: 2, first_frame: 3, frames: 1},
    {drawing: 1, first_frame: 4, frames: 3}]"""
EXPOSURES = {
    "return [1, 2, 3, 4, 6, 99].map((f) => m.drawingAt(sheet, f));": [1, 1, 2, 1, 1, 1],
    "return [m.stepFinding(found, null, 1).key, m.stepFinding(found, 'b', 1).key];": ["a", "a"],
    "return [m.stepFinding(found, 'a', -1).key, m.stepFinding([], null, 1)];": ["b", None],
}
ROWS = """[[1, 1, true, "key", false], [2, 1, false, "plain", false], [3, 2, true, "plain", true],
    [4, 3, true, "breakdown", true], [5, 4, true, "key", false]]
    .map(([frame, drawing, starts, mark, found]) => ({frame, drawing, starts, mark, found}))"""
SETS = {
    "return m.SETS.map((set) => m.framesOf(rows, set));": [[1, 2, 3, 4, 5], [1, 3, 4, 5], [1, 4, 5], [1, 5], [3, 4]],
    "return [[1, 1], [2, 1], [2, -1], [5, 1], [1, -1]].map(([f, by]) => m.stepIn([1, 4, 5], f, by));": [4, 4, 1, 5, 1],
    "return m.stepIn([], 3, 1);": 3,
    "return m.besideIn([1, 3, 4, 5], 4, 8, 0);": {"before": [3, 1], "after": []},
}


class Modules(Journey):
    def run_in(self, page: Page, module: str, code: str) -> Any:
        return page.evaluate(f"async () => {{ const m = await import('/static/js/{module}.js'); {code} }}")

    def test_modules(self) -> None:
        page = self.visit("orla")
        for code, wanted in EXPOSURES.items():
            with self.subTest(code):
                given = f"const sheet = {SHEET}; const found = [{{key: 'a'}}, {{key: 'b'}}];"
                self.assertEqual(self.run_in(page, "exposures", given + code), wanted)
        for code, wanted in SETS.items():
            with self.subTest(code):
                self.assertEqual(self.run_in(page, "stepsets", f"const rows = {ROWS};" + code), wanted)
        geometry = self.run_in(
            page,
            "geometry",
            "return [m.ellipseAttributes({x: 10, y: 20, major: 8, minor: 4, angle: 30}),"
            " m.tickAcross([0, 0], [5, 0], [10, 0], 4)];",
        )
        self.assertEqual(geometry[0], {"cx": 10.5, "cy": 20.5, "rx": 4, "ry": 2, "transform": "rotate(-30 10.5 20.5)"})
        self.assertEqual(geometry[1], [[5, -2], [5, 2]])

    def test_the_clock_follows_time_and_not_the_number_of_pictures(self) -> None:
        page = self.visit("orla")
        told = self.run_in(
            page,
            "clock",
            """
            let now = 0; let next = null; const seen = [];
            const clock = new m.Clock({frames: 6, fps: 10, now: () => now, schedule: (f) => { next = f; }});
            clock.addEventListener("frame", () => seen.push(clock.frame));
            clock.play();
            for (const moment of [50, 100, 250, 590, 610, 700]) { now = moment; next(); }
            clock.setLoop(false); clock.setSpeed(m.QUARTER);
            now += 800; next();
            clock.stopAt(6); clock.play(); now += 100000; next();
            return {seen, playing: clock.playing, frame: clock.frame};
            """,
        )
        self.assertEqual(told["seen"][:5], [2, 3, 6, 1, 2])
        self.assertEqual((told["playing"], told["frame"]), (False, 6))
