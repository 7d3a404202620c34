"""The guide drawn out: keys and order, the sheet's layers, the chart's ticks, pictures, and no trace of a machine."""

from __future__ import annotations

import io
import re
import zipfile
from dataclasses import replace
from unittest import TestCase
from xml.etree import ElementTree as ET

import numpy as np
from PIL import Image

from motion import ink
from motion.analysis import of_guide
from motion.brief import BounceBrief, Brief, Feel
from motion.exercises.bounce import words
from motion.exercises.bounce.feel import plan_of
from motion.exercises.bounce.presets import PRESETS
from motion.exercises.exercise import start_from
from motion.guide import chart, sheet, stills, strip
from motion.guide.guide import guide_of
from tests.core.drawn import codes, judged

FEEL = Feel(diameter=30, height=150, distance=250, ground_y=225)
SMALL = Brief(title="A <cork> float", canvas=(480, 270), guide=FEEL)
SVG = "{http://www.w3.org/2000/svg}"


class Order(TestCase):
    def test_every_drawing_is_drawn_once_keys_first(self) -> None:
        for preset in PRESETS:
            guide = guide_of(start_from(preset, Brief()))
            numbers = [d.number for drawings in guide.rounds for d in drawings]
            self.assertEqual(sorted(numbers), list(range(1, len(guide.drawings) + 1)))
            self.assertEqual({d.mark for d in guide.rounds[0]}, {"key"})
            self.assertEqual({d.mark for d in guide.rounds[1]}, {"breakdown"})

    def test_a_move_has_one_breakdown_which_favours_the_slow_end(self) -> None:
        guide = guide_of(SMALL)
        for move in guide.moves:
            if not move.ticks:
                continue
            marks = [t.drawing.mark for t in move.ticks]
            self.assertEqual(marks.count("breakdown"), 1)
            at = marks.index("breakdown")
            before, after = at, len(marks) - 1 - at
            self.assertLessEqual(abs(before - after), 1)
            # The top is the slow end: a fall starts there, a rise ends there.
            if move.name == "fall":
                self.assertLessEqual(before, after)
            if move.name == "rise":
                self.assertGreaterEqual(before, after)

    def test_ticks_crowd_at_the_top(self) -> None:
        fall = guide_of(SMALL).moves[0]
        shares = [0.0, *(t.share for t in fall.ticks), 1.0]
        gaps = np.diff(shares)[:-1]
        self.assertEqual(list(gaps), sorted(gaps))


class Sheet(TestCase):
    def test_its_layers_are_named_and_can_be_left_out(self) -> None:
        root = ET.fromstring(ink.file_of(sheet.draw(guide_of(SMALL))))
        self.assertEqual([g.get("id") for g in root.findall(f"{SVG}g")], list(sheet.LAYERS))
        self.assertEqual(root.get("viewBox"), "-0.5 -0.5 480 270")
        for shown, layers in sheet.GIVEN.items():
            some = ET.fromstring(ink.file_of(sheet.draw(guide_of(SMALL), layers)))
            self.assertEqual([g.get("id") for g in some.findall(f"{SVG}g")], list(layers), shown)

    def test_a_tick_stands_at_each_drawing_and_the_path_goes_through_it(self) -> None:
        guide = guide_of(SMALL)
        root = sheet.draw(guide)
        ticks = root.findall("./g[@id='ticks']/line")
        self.assertEqual(len(ticks), len(guide.drawings))
        path = np.array([p for points in guide.sketch.paths(guide.plan) for p in points])
        for tick, drawing in zip(ticks, guide.drawings, strict=True):
            middle = [(float(tick.get(f"{a}1", "")) + float(tick.get(f"{a}2", ""))) / 2 for a in "xy"]
            self.assertAlmostEqual(middle[0], drawing.pose.x, delta=0.02)
            if drawing.pose.role == "air":
                self.assertLess(np.hypot(*(path - middle).T).min(), 3.0)

    def test_numbers_do_not_cover_each_other(self) -> None:
        for preset in PRESETS:
            root = sheet.draw(guide_of(start_from(preset, Brief())))
            at = [(float(t.get("x", "")), float(t.get("y", ""))) for t in root.iter("text")]
            for i, one in enumerate(at):
                self.assertTrue(all(np.hypot(one[0] - o[0], one[1] - o[1]) > 15 for o in at[:i]))

    def test_chart_and_strip_show_every_in_between_and_every_gap(self) -> None:
        guide = guide_of(SMALL)
        ticks = [g for g in chart.draw(guide).iter("g") if g.get("data-drawing")]
        keys = sum(d.mark == "key" for d in guide.drawings)
        self.assertEqual(len(ticks), len(guide.drawings) - keys)
        bars = list(strip.draw(guide).iter("rect"))
        self.assertEqual(len(bars), len(guide.drawings))
        tallest = max(bars, key=lambda b: float(b.get("height", "")))
        gaps = strip.gaps_of(guide)
        self.assertEqual(int(tallest.get("data-frame", "")), guide.drawings[int(np.argmax(gaps))].first_frame)


class Pictures(TestCase):
    def test_the_png_is_transparent_at_frame_size_and_shows_the_ground(self) -> None:
        picture = np.array(Image.open(io.BytesIO(stills.png(sheet.draw(guide_of(SMALL))))))
        self.assertEqual(picture.shape, (270, 480, 4))
        self.assertEqual(picture[5, 5, 3], 0)
        self.assertGreater(picture[225, 5, 3], 100)

    def test_each_frame_shows_its_own_ball(self) -> None:
        held = replace(SMALL, guide=replace(FEEL, hang=2))
        guide = guide_of(held)
        packed = zipfile.ZipFile(io.BytesIO(b"".join(stills.archive(guide, ("shapes",)))))
        self.assertEqual(packed.namelist(), [f"guide_{n:04d}.png" for n in range(1, guide.plan.frames + 1)])
        for frame in (1, 9, guide.plan.frames):
            picture = np.array(Image.open(packed.open(f"guide_{frame:04d}.png")))
            rows, columns = np.nonzero(picture[..., 3])
            pose = guide.on_frame(frame).pose
            self.assertAlmostEqual(columns.mean(), pose.x, delta=0.15)
            self.assertAlmostEqual(rows.mean(), pose.y, delta=0.15)

    def test_files_tell_nothing_but_the_guide(self) -> None:
        guide = guide_of(SMALL)
        png = stills.png(sheet.draw(guide))
        chunks = set(re.findall(rb"(IHDR|tEXt|iTXt|zTXt|tIME|eXIf|iCCP)", png))
        self.assertEqual(chunks, {b"IHDR"})
        text = ink.file_of(sheet.draw(guide)).decode()
        self.assertNotIn("/", re.sub(r"</|/>|http://www\.w3\.org/2000/svg", "", text))
        dates = {i.date_time for i in zipfile.ZipFile(io.BytesIO(b"".join(stills.archive(guide)))).infolist()}
        self.assertEqual(dates, {stills.FIRST_DAY})
        self.assertEqual(stills.png(sheet.draw(guide)), png)


def said_of(brief: Brief) -> list[str]:
    return words.sentences(brief, guide_of(brief).plan)


class Words(TestCase):
    def test_they_say_what_the_feel_means(self) -> None:
        said = " ".join(said_of(Brief(guide=Feel(height=320, hop_s=17 / 24, keeps=0.6))))
        self.assertIn("takes 17 frames at 24 a second", said)
        self.assertIn("keeps 6 tenths of its speed", said)
        self.assertIn("a beach ball", said)
        scaled = Brief(guide=Feel(diameter=50, height=250, hop_s=None), asked=BounceBrief(diameter_m=0.2))
        self.assertIn("a ball 20 cm across, let go 1.0 m above", " ".join(said_of(scaled)))
        cut = Brief(guide=Feel(end="settling", contacts=2))
        self.assertIn("takes the rest of its bounce at a stroke", " ".join(said_of(cut)))

    def test_a_guide_at_odds_with_the_brief_is_told(self) -> None:
        at_odds = replace(SMALL, frames=(2, 10), asked=BounceBrief(hops=9, restitution=(0.1, 0.2)))
        told = set(words.disagreements(at_odds, guide_of(at_odds).plan))
        self.assertEqual(told, {"frames", "bounce.hops", "bounce.restitution"})
        self.assertEqual(words.disagreements(SMALL, guide_of(SMALL).plan), {})

    def test_what_the_checks_would_mind_is_known_and_not_held_against_students(self) -> None:
        uneven = replace(SMALL, guide=replace(FEEL, ticks=((5, 0.95 * ticks_of(0)[6]),)))
        self.assertEqual(of_guide(SMALL).findings, ())
        self.assertEqual([f.code for f in of_guide(uneven).findings], ["spacing.jump"])
        drawn, asked = plan_of(uneven), replace(uneven, guide=None)
        self.assertEqual(codes(judged(drawn, asked)), ["spacing.jump"])
        self.assertEqual(codes(judged(drawn, uneven)), [])
        # What is worse than the guide, or elsewhere, is told all the same.
        elsewhere = plan_of(replace(SMALL, guide=replace(FEEL, ticks=((12, 0.95 * ticks_of(1)[13]),))))
        self.assertIn("spacing.jump", codes(judged(elsewhere, uneven)))


def ticks_of(move: int) -> dict[int, float]:
    return {t.drawing.number: t.share for t in guide_of(SMALL).moves[move].ticks}
