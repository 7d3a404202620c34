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

    def test_a_view_shows_a_box_whole_and_never_leaves_the_frame(self) -> None:
        page = self.visit("orla")
        told = self.run_in(
            page,
            "view",
            """
            const view = new m.View({width: 960, height: 540});
            const seen = [];
            const tell = () => seen.push([view.zoom, view.x, view.y].map((n) => Math.round(n * 100) / 100));
            view.frame({left: 400, top: 300, right: 720, bottom: 480}); tell();
            view.frame({left: 0, top: 0, right: 960, bottom: 500}); tell();
            view.frame({left: 900, top: 500, right: 980, bottom: 545}); tell();
            view.showAll(); view.zoomAt(2, 480, 270); tell();
            view.pan(9999, -9999); tell();
            view.zoomAt(100, 0, 0); tell();
            view.zoomAt(0.0001, 0, 0); tell();
            const there = view.place({clientX: 110, clientY: 70}, {left: 10, top: 20, width: 480, height: 270});
            return {seen, there};
            """,
        )
        self.assertEqual(
            told["seen"],
            [[3, 400, 300], [1, 0, 0], [3, 640, 360], [2, 240, 135], [2, 0, 270], [8, 0, 67.5], [1, 0, 0]],
        )
        self.assertEqual(told["there"], [199.5, 99.5])

    def test_what_shows_a_finding_best(self) -> None:
        page = self.visit("orla")
        told = self.run_in(
            page,
            "showing",
            """
            const finding = {layers: ["ground", "shape"], overlay: [
                {kind: "place", x: 50, y: 40, major: 20}, {kind: "gap", x1: 50, y1: 60, x2: 50, y2: 70}]};
            const {ellipses, points} = m.partsOf(finding);
            return [m.layersFor(finding), m.boxAround(ellipses, points, 10), m.boxAround([], [], 10)];
            """,
        )
        self.assertEqual(told[0], {"ground": True, "shape": True})
        self.assertEqual(told[1], {"left": 24, "right": 76, "top": 14, "bottom": 86})
        self.assertIsNone(told[2])

    def test_an_arc_bends_the_way_its_third_point_lies(self) -> None:
        page = self.visit("orla")
        told = self.run_in(
            page,
            "geometry",
            """
            const path = (by) => {
                const element = document.createElementNS("http://www.w3.org/2000/svg", "path");
                element.setAttribute("d", m.arcThrough([0, 0], by, [100, 0]));
                const length = element.getTotalLength();
                const nearest = Array.from({length: 400}, (_, i) => element.getPointAtLength((i / 399) * length))
                    .map((p) => Math.hypot(p.x - by[0], p.y - by[1]));
                return [Math.min(...nearest), length];
            };
            return [[50, -50], [50, 50], [50, -140], [20, 12], [50, 0]].map(path);
            """,
        )
        for off, _ in told:
            self.assertLess(off, 1.0)
        lengths = [length for _, length in told]
        self.assertAlmostEqual(lengths[0], 157.1, delta=0.5)
        self.assertGreater(lengths[2], 350)
        self.assertAlmostEqual(lengths[4], 100, delta=0.1)

    def test_time_away_is_not_counted(self) -> None:
        page = self.visit("orla")
        told = self.run_in(
            page,
            "spent",
            """
            let now = 0;
            const target = new EventTarget();
            const spent = new m.Spent(target, () => now);
            const seen = [];
            for (const moment of [20, 50, 600, 630.6]) {
                now = moment * 1000;
                target.dispatchEvent(new Event("keydown"));
            }
            seen.push(spent.take()); now += 700; seen.push(spent.take()); now += 9000; seen.push(spent.take());
            return seen;
            """,
        )
        self.assertEqual(told, [80, 1, 9])
