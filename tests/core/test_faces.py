"""Heads under hair: the face tells where a head is and how large, whatever hangs together with it."""

from __future__ import annotations

import math
import unittest

import cv2
import numpy as np

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure.face import faces
from motion.tracking.subjects.figure.head import heads
from motion.tracking.subjects.figure.ink import Sheet
from tests.core.test_figure import Shown

FINE, TALL, WIDE = 4, 320, 160
SKIN, INK = (200, 150, 90), (40, 40, 60)
LONG, BROAD = 52.0, 44.0


def drawn(x: float, *, hair: bool, lined: bool, eyes: bool = False) -> Sheet:
    """A head over a trunk and a leg; its face filled, or paper within a line of the hair's own ink."""
    size = (TALL * FINE, WIDE * FINE)
    cover, colour = np.zeros(size, np.uint8), np.zeros((*size, 4), np.uint8)

    def fixed(*at: float) -> tuple[int, ...]:
        return tuple(round((v + 0.5) * FINE - 0.5) for v in at)

    def laid(shape: np.ndarray, how: tuple[int, int, int], ink: int = 255) -> None:
        cover[shape > 0] = ink
        colour[shape > 0, :3] = how

    def head(within: float) -> np.ndarray:
        axes = (round((BROAD / 2 - within) * FINE), round((LONG / 2 - within) * FINE))
        return np.asarray(cv2.ellipse(np.zeros(size, np.uint8), fixed(x, 50), axes, 0, 0, 360, 1, -1))

    for ends, wide in ((((x, 84), (x, 170)), 30), (((x, 170), (x, 310)), 14)):
        laid(np.asarray(cv2.line(np.zeros(size, np.uint8), *(fixed(*end) for end in ends), 1, wide * FINE)), INK)
    laid(head(0.0), INK if lined else SKIN)
    if hair:
        ways = ((-0.3, -0.45), (-0.62, -0.2), (-0.75, 0.25), (-0.45, 0.3))
        corners = [fixed(x + BROAD * across, 50 + LONG * down) for across, down in ways]
        laid(np.asarray(cv2.fillPoly(np.zeros(size, np.uint8), [np.array(corners, np.int32)], 1)), INK)
    if lined:
        laid(head(3.0), (0, 0, 0), 0)
    if eyes:
        for aside in (-5, 5):
            laid(np.asarray(cv2.circle(np.zeros(size, np.uint8), fixed(x + aside, 48), 3 * FINE, 1, -1)), INK)
    small = cv2.resize(cover, (WIDE, TALL), interpolation=cv2.INTER_AREA).astype(np.float32) / np.float32(255)
    colours = cv2.resize(colour, (WIDE, TALL), interpolation=cv2.INTER_AREA)
    return Sheet(0, 0, small, small, np.asarray(colours))


class Faces(unittest.TestCase):
    def told(self, **how: bool) -> tuple[list[Ellipse | None], dict[int, Ellipse]]:
        looking = Shown([drawn(70 + n, **how) for n in range(7)])
        found = heads(looking, {})
        return found, faces(looking, found)

    def test_hair_in_another_colour_or_beyond_a_line_is_no_head(self) -> None:
        for lined in (False, True):
            found, told = self.told(hair=True, lined=lined)
            self.assertEqual(set(told), set(range(7)))
            for n, face in told.items():
                before = found[n]
                assert before is not None
                with self.subTest(lined=lined, n=n):
                    self.assertGreater(math.dist((before.x, before.y), (70 + n, 50)), 2.0)
                    self.assertLess(math.dist((face.x, face.y), (70 + n, 50)), 0.6)
                    self.assertAlmostEqual(face.major, LONG, delta=1.5)
                    self.assertAlmostEqual(face.minor, BROAD, delta=1.5)

    def test_bare_heads_stay_as_their_outlines_have_them(self) -> None:
        for lined in (False, True):
            self.assertEqual(self.told(hair=False, lined=lined)[1], {})

    def test_a_face_with_large_eyes_tells_no_head(self) -> None:
        """What is of one colour around the middle ends at them."""
        self.assertEqual(self.told(hair=True, lined=False, eyes=True)[1], {})
