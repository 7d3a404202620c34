"""A reel plays takes one after another, each at its own speed, whatever their sizes and rates."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from typing import Any

import av
import numpy as np
from PIL import Image

from motion.export import reel
from motion.export.reel import CARD_S, REST_S, SIZE, STRIP, Shown

RED, BLUE = (200, 30, 30), (30, 30, 200)


class Reels(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def shown(self, name: str, fps: float, exposures: list[int], colour: tuple[int, int, int], size: tuple[int, int]):  # type: ignore[no-untyped-def]
        """A take whose drawings are all of one colour but for the last, which is white."""
        drawings = self.folder / name
        drawings.mkdir()
        told: list[dict[str, Any]] = []
        first = 1
        for number, frames in enumerate(exposures, start=1):
            fill = colour if number < len(exposures) else (255, 255, 255)
            Image.new("RGBA", size, (*fill, 255)).save(drawings / f"{number}.png")
            told.append({"drawing": number, "first_frame": first, "frames": frames})
            first += frames
        clip = {"fps": fps, "frames": first - 1, "width": size[0], "height": size[1], "exposures": told}
        return Shown(findings={"clip": clip, "track": {}}, drawings=drawings, title=name, words="A float")

    def frames(self, path: Path) -> tuple[list[np.ndarray], float]:
        with av.open(str(path)) as container:
            rate = float(container.streams.video[0].average_rate or 0)
            return [f.to_ndarray(format="rgb24") for f in container.decode(video=0)], rate

    def test_each_take_keeps_its_own_speed_at_the_highest_rate(self) -> None:
        quick = self.shown("Quick", 24, [2, 2, 2], RED, (320, 180))
        slow = self.shown("Slow", 12, [3, 3, 2], BLUE, (200, 200))
        told: list[int] = []
        reel.write(self.folder / "reel.mp4", [quick, slow], times=2, tell=told.append)
        frames, rate = self.frames(self.folder / "reel.mp4")
        card, rest = round(CARD_S * 24), round(REST_S * 24)
        self.assertEqual((rate, told), (24.0, [1, 2]))
        self.assertEqual(len(frames), (card + 2 * 6 + rest) + (card + 2 * 16 + rest))
        self.assertEqual(frames[0].shape, (SIZE[1], SIZE[0], 3))
        middle = frames[card + 1][(SIZE[1] - STRIP) // 2, SIZE[0] // 2]
        np.testing.assert_allclose(middle, RED, atol=12)
        blue_at = card + 2 * 6 + rest + card
        np.testing.assert_allclose(frames[blue_at + 2 * 6 - 1][300, 640], BLUE, atol=12)
        # The second drawing of the slow take ends after six of its own frames, which are twelve here.
        np.testing.assert_allclose(frames[blue_at + 2 * 6 + 1][300, 640], (255, 255, 255), atol=12)

    def test_only_the_very_last_drawing_rests_also_where_it_came_before(self) -> None:
        cycle = self.shown("Cycle", 24, [2, 2, 2], RED, (64, 64))
        cycle.findings["clip"]["exposures"][-1]["drawing"] = 1
        reel.write(self.folder / "reel.mp4", [cycle], times=1)
        frames, _ = self.frames(self.folder / "reel.mp4")
        self.assertEqual(len(frames), round(CARD_S * 24) + 6 + round(REST_S * 24))

    def test_a_narrow_take_stands_in_the_middle_on_paper_and_nothing_is_stretched(self) -> None:
        reel.write(self.folder / "reel.webm", [self.shown("Tall", 24, [4, 1], RED, (100, 200))], times=1)
        frames, _ = self.frames(self.folder / "reel.webm")
        row = frames[round(CARD_S * 24) + 1][300]
        red = np.flatnonzero(row[:, 1] < 120)
        wide = (SIZE[1] - STRIP) / 2
        self.assertAlmostEqual(len(red), wide, delta=4)
        self.assertAlmostEqual((red[0] + red[-1]) / 2, SIZE[0] / 2, delta=3)

    def test_it_says_whose_take_it_is_on_the_card_and_below(self) -> None:
        reel.write(self.folder / "reel.mp4", [self.shown("Somebody", 24, [4, 1], RED, (320, 180))], times=1)
        frames, _ = self.frames(self.folder / "reel.mp4")
        card, playing = frames[2].astype(int), frames[round(CARD_S * 24) + 1].astype(int)
        self.assertGreater((card.sum(axis=2) < 250).sum(), 400)
        self.assertGreater((playing[SIZE[1] - STRIP + 6 :, :300].sum(axis=2) < 250).sum(), 100)

    def test_a_kind_that_is_none_and_drawings_that_are_gone_are_errors(self) -> None:
        one = self.shown("One", 24, [2, 1], RED, (64, 64))
        with self.assertRaises(KeyError):
            reel.write(self.folder / "reel.avi", [one])
        (one.drawings / "2.png").unlink()
        with self.assertRaises(OSError):
            reel.write(self.folder / "reel.mp4", [one])
