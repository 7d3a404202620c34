"""Pictures of a bounce in looks of their own: five kinds of ball, five backgrounds, three grounds, shadow and grain."""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.apart.bounces import Ball, Bounce

Picture = NDArray[np.uint8]
"""(height, width, 3) red, green, blue."""
Colour = tuple[int, int, int]
INKS: tuple[Colour, ...] = ((30, 30, 30), (180, 40, 40), (30, 60, 160), (20, 110, 60))
FILLS: tuple[Colour, ...] = ((220, 70, 60), (60, 110, 210), (240, 170, 50), (90, 160, 90))
PALE: Colour = (250, 245, 230)
FINER = 6
"""Each pixel's share of the ball is told from so many points either way."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """How a clip is drawn; ``line`` in px, ``grain`` in levels."""

    ball: str
    paper: str
    ground: str
    ink: Colour
    fill: Colour
    line: int
    grain: int
    shadow: bool
    seed: int


def look(rng: random.Random, *, grainy: bool) -> Look:
    """Any look; no grain where the pictures would get too large by it."""
    paper = rng.choice(["white", "paper", "sky", "town", "dark"])
    return Look(
        ball=rng.choice(["filled", "outline", "shaded", "halves", "stripes"]),
        paper=paper,
        ground=rng.choice(["line", "floor", "thick"]),
        ink=(235, 235, 225) if paper == "dark" else rng.choice(INKS),
        fill=rng.choice(FILLS),
        line=rng.randint(2, 5),
        grain=rng.choice([0, 0, 3, 6]) if grainy else 0,
        shadow=rng.random() < 0.25,
        seed=rng.randrange(10**6),
    )


def drawings(bounce: Bounce, drawn: Look) -> list[tuple[Picture, int]]:
    """A picture of each drawing, and the frames for which it shows."""
    behind, noise = _backdrop(bounce, drawn), np.random.default_rng(drawn.seed + 1)
    found: list[tuple[Picture, int]] = []
    for number, ball in enumerate(bounce.balls):
        picture = behind.copy()
        if drawn.shadow:
            _lay_shadow(picture, bounce, ball)
        _lay_ball(picture, ball, drawn, 17.0 * number)
        if drawn.grain:
            grain = noise.integers(-drawn.grain, drawn.grain + 1, picture.shape, dtype=np.int16)
            picture = np.clip(picture + grain, 0, 255).astype(np.uint8)
        found.append((picture, ball.frames))
    return found


def _backdrop(bounce: Bounce, drawn: Look) -> Picture:
    shape, chance = (bounce.height, bounce.width, 3), np.random.default_rng(drawn.seed)
    picture: NDArray[Any] = np.full(shape, {"dark": (28, 30, 44), "town": (205, 225, 240)}.get(drawn.paper, (255,) * 3))
    picture = picture.astype(np.float32)
    if drawn.paper == "paper":
        fibres = cv2.GaussianBlur(chance.normal(0, 14, shape[:2]).astype(np.float32), (0, 0), 3)
        picture = np.array([246, 241, 228], np.float32) + fibres[..., None]
    elif drawn.paper == "sky":
        down = np.linspace(0, 1, bounce.height)[:, None, None]
        picture = np.broadcast_to(np.array([225, 235, 250]) - down * np.array([40, 30, 10]), shape).copy()
    elif drawn.paper == "town":
        for _ in range(6):
            left, wide = int(chance.integers(0, bounce.width)), int(chance.integers(40, 150))
            top = int(bounce.ground) - int(chance.integers(60, int(bounce.ground * 0.6)))
            picture[top : int(bounce.ground), left : left + wide] = chance.integers(120, 230, 3)
    level = round(bounce.ground + 0.5)
    if drawn.ground == "floor":
        picture[level:] = (70, 80, 100) if drawn.paper == "dark" else (120, 100, 80)
    else:
        picture[level : level + (2 if drawn.ground == "line" else 6)] = drawn.ink
    return np.asarray(np.clip(np.round(picture), 0, 255), dtype=np.uint8)


def _lay_shadow(picture: Picture, bounce: Bounce, ball: Ball) -> None:
    under = Ball(
        x=ball.x, y=bounce.ground + 6, along=bounce.diameter / 2, across=4, angle=0.0, frames=1, kind="rest", hop=-1
    )
    _lay(picture, under, 0.0, lambda _x, _y: np.array([60, 60, 60]), 0.3)


def _lay_ball(picture: Picture, ball: Ball, drawn: Look, turned: float) -> None:
    ink, fill = np.array(drawn.ink), np.array(drawn.fill)
    turn = math.radians(turned)

    def across(x: NDArray[Any], y: NDArray[Any]) -> NDArray[Any]:
        return np.asarray((x * math.cos(turn) + y * math.sin(turn))[..., None])

    if drawn.ball == "outline":
        _lay(picture, ball, drawn.line, lambda _x, _y: ink, 1.0)
    elif drawn.ball == "filled":
        _lay(picture, ball, 0.0, lambda _x, _y: fill, 1.0)
    elif drawn.ball == "shaded":
        size = max(ball.along, ball.across)
        _lay(
            picture, ball, 0.0, lambda x, y: fill * (1.15 - 0.45 * np.hypot(x / size + 0.3, y / size + 0.3))[..., None]
        )
    else:
        _lay(picture, ball, 0.0, lambda _x, _y: ink, 1.0)
        inner = Ball(
            x=ball.x,
            y=ball.y,
            along=ball.along - drawn.line,
            across=ball.across - drawn.line,
            angle=ball.angle,
            frames=1,
            kind=ball.kind,
            hop=0,
        )
        if drawn.ball == "halves":
            _lay(picture, inner, 0.0, lambda x, y: np.where(across(x, y) > 0, fill, fill * 0.55))
        else:
            _lay(picture, inner, 0.0, lambda x, y: np.where(np.sin(0.6 * across(x, y)) > 0, fill, np.array(PALE)))


Paint = Callable[[NDArray[Any], NDArray[Any]], NDArray[Any]]
"""Colours of the points at x and y px from a ball's middle."""


def _lay(picture: Picture, ball: Ball, line: float, paint: Paint, strength: float = 1.0) -> None:
    """Lay an ellipse on a picture, or the ring so many px wide along its inside."""
    reach = math.ceil(max(ball.along, ball.across)) + 2
    left, top = max(0, int(ball.x) - reach), max(0, int(ball.y) - reach)
    part = picture[top : int(ball.y) + reach + 1, left : int(ball.x) + reach + 1]
    if not part.size or int(ball.x) + reach < 0 or int(ball.y) + reach < 0:
        return
    offsets = (np.arange(FINER) + 0.5) / FINER - 0.5
    y = (np.arange(part.shape[0])[:, None] + offsets).reshape(-1, 1) + top - ball.y
    x = (np.arange(part.shape[1])[:, None] + offsets).reshape(1, -1) + left - ball.x
    inside = _within(x, y, ball, 0.0)
    if line:
        inside = inside & ~_within(x, y, ball, line)
    share = inside.reshape(part.shape[0], FINER, part.shape[1], FINER).mean(axis=(1, 3))[..., None] * strength
    rows, columns = np.mgrid[0 : part.shape[0], 0 : part.shape[1]]
    colour = np.clip(paint(columns + left - ball.x, rows + top - ball.y), 0, 255)
    part[:] = np.round(part * (1 - share) + colour * share).astype(np.uint8)


def _within(x: NDArray[Any], y: NDArray[Any], ball: Ball, inset: float) -> NDArray[np.bool_]:
    turn = math.radians(ball.angle)
    along, across = x * math.cos(turn) - y * math.sin(turn), x * math.sin(turn) + y * math.cos(turn)
    return np.asarray((along / (ball.along - inset)) ** 2 + (across / (ball.across - inset)) ** 2 <= 1)
