"""What a scanner or a camera over the paper adds: grain, paper that is not pegged well, light that wavers."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from motion.clip import Picture
from motion.synth.look import Look


@dataclass(frozen=True, slots=True, kw_only=True)
class Shift:
    """How one picture lies against the first: moved by (x, y) px and turned by degrees about the frame's middle."""

    x: float = 0.0
    y: float = 0.0
    turn: float = 0.0


class Camera:
    """Takes pictures one after the other; ``shifts`` tells afterwards how each was displaced, the first never."""

    def __init__(self, look: Look, rng: np.random.Generator) -> None:
        self._look, self._rng = look, rng
        self._creep = np.zeros(3)
        self.shifts: list[Shift] = []

    @classmethod
    def at(cls, look: Look, shot: int) -> Camera:
        """The camera at one press of its release (from 0): always the same for the same press, still at the first."""
        camera = cls(look, np.random.default_rng(shot))
        camera.shifts += [Shift()] if shot else []
        return camera

    def shoot(self, picture: Picture) -> Picture:
        """The picture as the camera gives it."""
        shot = self._displaced(picture) if self._look.drift else picture
        if self._look.flicker:
            shot = _lit(shot, 1.0 + self._look.flicker * float(self._rng.normal()))
        return _grained(shot, self._look.grain, self._rng) if self._look.grain else shot

    def _displaced(self, picture: Picture) -> Picture:
        drift = self._look.drift
        if self.shifts:
            self._creep = 0.8 * self._creep + self._rng.normal(0, [drift, drift, 0.04 * drift]) * 0.5
            x, y, turn = (float(v) for v in np.clip(self._creep, -3 * drift, 3 * drift))
        else:
            x = y = turn = 0.0
        self.shifts.append(Shift(x=x, y=y, turn=turn))
        height, width = picture.shape[:2]
        matrix = cv2.getRotationMatrix2D(((width - 1) / 2, (height - 1) / 2), turn, 1.0)
        matrix[:, 2] += np.array([x, y])
        moved = cv2.warpAffine(picture, matrix, (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(moved, dtype=np.uint8)


def _lit(picture: Picture, gain: float) -> Picture:
    coloured = np.clip(picture[..., :3].astype(np.float32) * gain, 0, 255).round().astype(np.uint8)
    return np.concatenate([coloured, picture[..., 3:4]], axis=2)


def _grained(picture: Picture, grain: float, rng: np.random.Generator) -> Picture:
    noise = rng.normal(0, grain, picture.shape[:2]).astype(np.float32)[..., None]
    coloured = np.clip(picture[..., :3].astype(np.float32) + noise, 0, 255).round().astype(np.uint8)
    return np.concatenate([coloured, picture[..., 3:4]], axis=2)
