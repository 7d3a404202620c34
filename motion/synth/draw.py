"""Draws the plan of any exercise as pictures, by the exercise's own generator."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np

from motion.clip import Clip, Picture
from motion.plan import Plan
from motion.synth.bounce import draw as bounce
from motion.synth.look import Look
from motion.synth.pendulum import draw as pendulum
from motion.synth.walk import draw as walk

Frames = Callable[[Any, Look, int], Iterator[tuple[Picture, int]]]
Sheet = Callable[[Any, Look, int], Picture]
BY_EXERCISE: dict[str, tuple[Frames, Sheet]] = {
    "bounce": (bounce.frames, bounce.sheet),
    "pendulum": (pendulum.frames, pendulum.sheet),
    "walk": (walk.frames, walk.sheet),
}


def frames(exercise: str, plan: Plan, look: Look, seed: int = 0) -> Iterator[tuple[Picture, int]]:
    """Each drawing of the plan as a picture, with its exposure in frames."""
    return BY_EXERCISE[exercise][0](plan, look, seed)


def sheet(exercise: str, plan: Plan, look: Look, number: int) -> Picture:
    """One drawing (from 0) alone on its paper, before any camera sees it."""
    return BY_EXERCISE[exercise][1](plan, look, number)


class DrawnFootage:
    """Pictures at hand in memory, a drawing a picture."""

    def __init__(self, pictures: Sequence[Picture]) -> None:
        self._pictures = pictures

    def __len__(self) -> int:
        return len(self._pictures)

    def fingerprint(self, index: int) -> str | None:
        return None

    def pictures(self, indices: Sequence[int]) -> Iterator[Picture]:
        return iter([self._pictures[i] for i in indices])


def opaque(picture: Picture) -> Picture:
    """(height, width, 4): a picture without transparency as those with it are."""
    return picture if picture.shape[2] == 4 else np.dstack([picture, np.full(picture.shape[:2], 255, np.uint8)])


def of_pictures(drawn: Sequence[tuple[Picture, int]], fps: float, name: str = "drawn") -> Clip:
    """Pictures (height, width, 4), each with its exposure in frames, as a clip without the way through a file."""
    height, width = drawn[0][0].shape[:2]
    return Clip(
        name=name,
        fps=fps,
        width=width,
        height=height,
        footage=DrawnFootage([picture for picture, _ in drawn]),
        picture_frames=tuple(count for _, count in drawn),
    )


def clip(exercise: str, plan: Plan, look: Look, seed: int = 0, name: str = "drawn") -> Clip:
    """A plan as a clip, without the way through a file."""
    return of_pictures(list(frames(exercise, plan, look, seed)), plan.fps, name)
