"""The application's smaller parts: files kept by content, the chart, the small path, the rows of the sheet."""

from __future__ import annotations

import io
import zipfile
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase

from motion.analysis import of_plan
from motion.brief import BounceBrief, Brief, Stride, WalkBrief
from motion.exercises.bounce.plan import Recipe, bounce
from motion.exercises.walk.feel import plan_of
from motion.report.file import to_json
from motion.report.report import Report
from nettlecap.marking.desk import chart
from nettlecap.marking.desk.laid_out import lay_out_clip
from nettlecap.marking.desk.measure_words import measure_of
from nettlecap.marking.keys import finding_key
from nettlecap.takes import small_path, store
from nettlecap.takes.models import Take
from tests.core.drawn import SOFT, brief_for, judged, with_fault
from tests.web.school import SchoolTest, clean_clip, files_below, upload


class Storing(SchoolTest):
    def kept(self, *files: SimpleUploadedFile) -> str:
        with store.ready(list(files)) as ready:
            assert ready is not None
            return ready.keep()

    def test_the_same_content_is_kept_once_under_its_own_hash(self) -> None:
        first, second = self.kept(upload(b"one")), self.kept(upload(b"one", "other.zip"))
        self.assertEqual(first, second)
        self.assertNotEqual(first, self.kept(upload(b"two")))
        self.assertEqual(len(files_below(Path(settings.MEDIA_ROOT))), 2)

    def test_an_upload_that_is_not_kept_leaves_nothing(self) -> None:
        with store.ready([upload(b"one")]) as ready:
            assert ready is not None
            self.assertEqual(ready.path.read_bytes(), b"one")
        self.assertEqual(files_below(Path(settings.MEDIA_ROOT)), [])

    def test_several_pictures_become_a_zip_that_keeps_their_names_and_no_path(self) -> None:
        with store.ready([upload(b"a", "f1.png"), upload(b"b", "f2.png")]) as ready:
            assert ready is not None
            archive = zipfile.ZipFile(io.BytesIO(ready.path.read_bytes()))
        self.assertEqual(archive.namelist(), ["f1.png", "f2.png"])

    def test_two_takes_of_the_same_file_do_not_share_their_fate(self) -> None:
        data = clean_clip()
        first = self.school.take(data=data)
        second = self.school.take(self.school.classmate, data)
        self.assertEqual(first.file_path, second.file_path)
        self.assertTrue(Take.objects.get(pk=first.pk).file.exists())


class Drawn(SimpleTestCase):
    def data(self, recipe: Recipe | None = None) -> dict[str, Any]:
        return to_json(judged(bounce(recipe or Recipe())))

    def test_the_small_path_stays_in_its_box(self) -> None:
        for recipe in (Recipe(), Recipe(width=400, height=900, ground_y=800, start_x=60, speed_x=5)):
            path, ground = small_path.lines(Report(self.data(recipe)))
            points = [tuple(map(float, p.split(","))) for p in path.split()]
            self.assertEqual(len(points), len(bounce(recipe).poses))
            self.assertTrue(all(0 <= x <= small_path.WIDTH and 0 <= y <= small_path.HEIGHT for x, y in points))
            self.assertEqual(len(ground.split()), 2)

    def test_a_walk_is_known_by_the_ways_of_hips_and_ankles(self) -> None:
        asked = Brief(
            canvas=(480, 270), asked=WalkBrief(), guide=Stride(start_x=240, ground=236, leg=110, body=70, step=80)
        )
        data = to_json(of_plan(plan_of(asked), replace(asked, guide=None)))
        path, ground = small_path.lines(Report(data))
        trails = [[tuple(map(float, p.split(","))) for p in trail.split()] for trail in path.split(small_path.BETWEEN)]
        self.assertEqual(len(trails), 3)
        xs, ys = ([at[axis] for trail in trails for at in trail] for axis in (0, 1))
        self.assertTrue(all(0 <= x <= small_path.WIDTH for x in xs) and all(0 <= y <= small_path.HEIGHT for y in ys))
        # It fills the picture, of which the walk itself takes but a part.
        self.assertGreater(max(ys) - min(ys), 0.7 * small_path.HEIGHT)
        self.assertEqual(len(ground.split()), 2)

    def test_a_clip_in_which_nothing_was_followed_has_an_empty_path_and_no_chart(self) -> None:
        data = self.data()
        data["track"] = {"kind": "ball", "ground": None, "shapes": []}
        self.assertEqual(small_path.lines(Report(data)), ("", ""))
        self.assertEqual(chart.draw(data, set(), finding_key, SOFT), ())

    def test_the_chart_touches_its_ground_at_the_contacts(self) -> None:
        data = self.data()
        drawn = chart.draw(data, set(), finding_key, SOFT)[0]
        assert drawn.level is not None
        level = float(drawn.level)
        low = [i + 1 for i, dot in enumerate(drawn.dots) if abs(float(dot.y) - level) < 0.5]
        self.assertEqual(low, [c["first_frame"] for c in data["motion"]["contacts"]])

    def test_only_kept_findings_are_shown_as_bands(self) -> None:
        plan, planted = with_fault("contact.gap", 2.5)
        data = to_json(judged(plan))
        key = finding_key(data["findings"][0])
        self.assertEqual(key, f"contact.gap:{planted.first_frame}-{planted.last_frame}")
        for shown in chart.draw(data, {key}, finding_key, SOFT):
            self.assertEqual([s.principle for s in shown.stripes], ["contact"])
        self.assertEqual({c.stripes for c in chart.draw(data, set(), finding_key, SOFT)}, {()})

    def test_there_is_a_chart_for_each_measure_with_what_is_allowed(self) -> None:
        plan, planted = with_fault("volume.changes", 2.5)
        drawn = {c.key: c for c in chart.draw(to_json(judged(plan)), set(), finding_key, SOFT)}
        self.assertEqual(list(drawn), ["height", "gap", "volume", "stretch", "lean"])
        self.assertTrue(drawn["gap"].models)
        volume = drawn["volume"]
        assert volume.band is not None
        top, foot = float(volume.band.y), float(volume.band.y) + float(volume.band.height)
        outside = [i + 1 for i, dot in enumerate(volume.dots) if not top - 0.1 <= float(dot.y) <= foot + 0.1]
        self.assertEqual(outside, [planted.first_frame])


class Measures(SimpleTestCase):
    def test_each_fault_is_told_in_the_words_of_its_unit(self) -> None:
        wanted = {
            "contact.gap": r"^\d+\.\d px off, \d+\.\d px allowed$",
            "arc.rising_tops": r"px allowed$",
            "stretch.across": r"^\d+° off, 18° allowed$",
            "stretch.at_top": r"^\d+ % off, 12 % allowed$",
            "stretch.missing": r"^1\.\d\d times as long as wide, at least 1\.12 times wanted$",
            "squash.missing": r"^(0\.9\d|1\.0\d) times as high as wide, at most 0\.92 times wanted$",
            "shape.unwanted": r"^\d+ % off, 8 % allowed$",
            "timing.hold": r"frames, 1 expected",
        }
        for code, words in wanted.items():
            with self.subTest(code):
                data = to_json(judged(with_fault(code, 2.5)[0], brief_for(code)))
                (finding,) = [f for f in data["findings"] if f["code"] == code]
                self.assertRegex(measure_of(finding), words)

    def test_what_the_brief_asks_too(self) -> None:
        asked = replace(Brief(), frames=(1, 9), asked=BounceBrief(hops=1, diameter_m=9.0, restitution=(0.1, 0.2)))
        told = {f["code"]: measure_of(f) for f in to_json(judged(bounce(Recipe()), asked))["findings"]}
        self.assertRegex(told["timing.length"], "frames, 9 expected")
        self.assertRegex(told["timing.hops"], "^3 contacts, 1 asked for$")
        self.assertRegex(told["timing.weight"], "times the real gravity")
        self.assertRegex(told["timing.bounciness"], "% off, 4 % allowed")


class Sheet(SchoolTest):
    def test_rows_ring_contacts_and_tops_and_underline_the_passing_drawings(self) -> None:
        take = self.school.take()
        rows = lay_out_clip(take).rows
        self.assertEqual([r.frame for r in rows], list(range(1, take.frames + 1)))
        motion = take.analysis.findings["motion"]
        keys = {c["first_frame"] for c in motion["contacts"]} | {h["top_frame"] for h in motion["hops"]}
        self.assertEqual({r.frame for r in rows if r.mark == "key"}, keys)
        self.assertTrue(any(r.mark == "breakdown" for r in rows))
        self.assertTrue(all(0 <= r.bar <= 74 for r in rows))
        self.assertIsNone(rows[-1].gap)
