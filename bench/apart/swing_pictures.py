"""Pictures of pendulums in looks of their own: weights filled, in outline or patterned, lines from a hair to a bar."""

from __future__ import annotations

import math
import random
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.apart.pictures import FILLS, INKS, Colour, Picture
from bench.apart.swings import Hung, Pendulum

FINER = 4
"""Everything that moves is drawn so many times as large, and shrunk."""
SHIFT = 6
"""Bits of a pixel that places are told in."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """How a clip is drawn; ``line`` is the line's width and ``edge`` that of outlines, px; ``grain`` in levels."""

    weight: str
    bar: str
    line: float
    edge: float
    paper: str
    hook: str
    ink: Colour
    fill: Colour
    thread: Colour
    grain: int
    drift: float
    seed: int


def look(rng: random.Random, *, grainy: bool) -> Look:
    """Any look."""
    paper = rng.choice(["white", "paper", "sky", "beam", "dark"])
    ink: Colour = (235, 235, 225) if paper == "dark" else rng.choice(INKS)
    bar = rng.choice(["thin", "thin", "thick", "hollow"])
    fill = rng.choice(FILLS)
    return Look(
        weight=rng.choice(["filled", "outline", "both", "halves", "stripes", "lantern"]),
        bar=bar,
        line=rng.uniform(1.2, 4.0) if bar == "thin" else rng.uniform(6, 16),
        edge=rng.uniform(1.6, 4.5),
        paper=paper,
        hook=rng.choice(["none", "hook", "ring", "beam"]),
        ink=ink,
        fill=fill,
        thread=rng.choice([ink, ink, (120, 90, 60) if paper != "dark" else (220, 190, 150)]),
        grain=rng.choice([0, 0, 2, 5]) if grainy else 0,
        drift=rng.choice([0.0, 0.0, 0.0, 0.8]),
        seed=rng.randrange(10**6),
    )


def drawings(pendulum: Pendulum, drawn: Look) -> list[tuple[Picture, int]]:
    """A picture of each drawing, and the frames for which it shows."""
    behind = backdrop(pendulum, drawn)
    chance = np.random.default_rng(drawn.seed + 1)
    found = []
    for number, hung in enumerate(pendulum.drawings):
        picture = laid(behind, pendulum, hung, drawn)
        if drawn.drift and number:
            picture = _shifted(picture, chance.normal(0, drawn.drift, 2))
        if drawn.grain:
            noise = chance.integers(-drawn.grain, drawn.grain + 1, picture.shape, dtype=np.int16)
            picture = np.clip(picture + noise, 0, 255).astype(np.uint8)
        found.append((picture, hung.frames))
    return found


def _shifted(picture: Picture, by: NDArray[Any]) -> Picture:
    height, width = picture.shape[:2]
    matrix = np.array([[1.0, 0.0, float(by[0])], [0.0, 1.0, float(by[1])]])
    moved = cv2.warpAffine(picture, matrix, (width, height), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(moved, dtype=np.uint8)


def backdrop(pendulum: Pendulum, drawn: Look) -> Picture:
    height, width = pendulum.height, pendulum.width
    chance = np.random.default_rng(drawn.seed)
    plain: dict[str, Colour] = {"dark": (26, 30, 42), "sky": (212, 226, 238)}
    picture = np.full((height, width, 3), plain.get(drawn.paper, (255, 255, 255)), np.float32)
    if drawn.paper == "paper":
        fibres = cv2.GaussianBlur(chance.normal(0, 12, (height, width)).astype(np.float32), (0, 0), 3)
        picture = np.array([246, 241, 228], np.float32) + fibres[..., None]
    elif drawn.paper == "sky":
        picture = (picture - np.linspace(0, 30, height)[:, None, None]).astype(np.float32)
    painted: Picture = np.clip(picture, 0, 255).astype(np.uint8)
    x, y = round(pendulum.pivot[0]), round(pendulum.pivot[1])
    if drawn.paper == "beam":
        for _ in range(4):
            left, wide = int(chance.integers(0, width)), int(chance.integers(30, 120))
            tall = int(chance.integers(40, height // 3))
            colour = tuple(int(v) for v in chance.integers(150, 225, 3))
            cv2.rectangle(painted, (left, height - tall), (left + wide, height), colour, -1)
    if drawn.hook == "beam":
        cv2.rectangle(painted, (0, max(0, y - 14)), (width, y), (110, 85, 60), -1)
    elif drawn.hook == "hook":
        cv2.ellipse(painted, (x, y - 5), (7, 7), 0, -180, 90, drawn.ink, 3, cv2.LINE_AA)
        cv2.line(painted, (x - 7, y - 5), (x - 7, max(0, y - 30)), drawn.ink, 3, cv2.LINE_AA)
    elif drawn.hook == "ring":
        cv2.circle(painted, (x, y), 8, drawn.ink, 3, cv2.LINE_AA)
    return painted


Window = tuple[int, int, int, int]
"""Left, top, width and height of the part of a frame that a drawing touches."""


def laid(behind: Picture, pendulum: Pendulum, hung: Hung, drawn: Look) -> Picture:
    """Line and weight over the background, supersampled."""
    x, y = pendulum.place(hung)
    top = pendulum.pivot[0] + hung.top[0], pendulum.pivot[1] + hung.top[1]
    window = _window(pendulum, (x, y), top, hung.size / 2 + drawn.line + 6)
    turn = math.atan2(x - top[0], y - top[1])
    inner = 0.5 * hung.size if drawn.weight != "outline" else 0.5 * hung.size - drawn.edge / 2
    foot = x - inner * math.sin(turn), y - inner * math.cos(turn)
    layers: list[tuple[NDArray[np.uint8], Colour]] = []
    if drawn.bar == "hollow":
        rim = _bar(window, top, foot, drawn.line)
        hole = _bar(window, top, foot, drawn.line - 2 * min(drawn.edge, drawn.line / 3), short=drawn.edge)
        layers.append((rim, (250, 246, 236) if drawn.paper != "dark" else (60, 60, 70)))
        layers.append((np.asarray(cv2.subtract(rim, hole), np.uint8), drawn.thread))
    else:
        layers.append((_bar(window, top, foot, drawn.line), drawn.thread))
    layers += _weight(window, (x, y), hung.size, math.degrees(turn), drawn)
    left, up, wide, high = window
    picture = behind.copy()
    part = picture[up : up + high, left : left + wide].astype(np.float64)
    for cover, colour in layers:
        share = (cover / 255.0)[..., None]
        part = part * (1 - share) + np.array(colour, float) * share
    picture[up : up + high, left : left + wide] = np.clip(np.round(part), 0, 255).astype(np.uint8)
    return picture


def _window(pendulum: Pendulum, place: tuple[float, float], top: tuple[float, float], room: float) -> Window:
    left, up = (max(0, int(min(a, b) - room)) for a, b in zip(place, top, strict=True))
    right, foot = (int(max(a, b) + room) for a, b in zip(place, top, strict=True))
    right, foot = min(pendulum.width, max(right, left + 2)), min(pendulum.height, max(foot, up + 2))
    return left, up, right - left, foot - up


def _canvas(window: Window) -> NDArray[np.uint8]:
    return np.zeros((window[3] * FINER, window[2] * FINER), np.uint8)


def _fine(window: Window, x: float, y: float) -> tuple[int, int]:
    """A place of the frame on the fine canvas, in fractions of its pixels."""
    fine = [((v - low + 0.5) * FINER - 0.5) * (1 << SHIFT) for v, low in ((x, window[0]), (y, window[1]))]
    return round(fine[0]), round(fine[1])


def _shrunk(canvas: NDArray[np.uint8], window: Window) -> NDArray[np.uint8]:
    return np.asarray(cv2.resize(canvas, window[2:], interpolation=cv2.INTER_AREA), np.uint8)


def _bar(
    window: Window, top: tuple[float, float], foot: tuple[float, float], wide: float, short: float = 0.0
) -> NDArray[np.uint8]:
    canvas = _canvas(window)
    far = math.hypot(foot[0] - top[0], foot[1] - top[1]) or 1.0
    ux, uy = (foot[0] - top[0]) / far, (foot[1] - top[1]) / far
    half = max(0.3, wide / 2)
    corners = [(top[0] + ux * short + s * -uy * half, top[1] + uy * short + s * ux * half) for s in (-1, 1)]
    corners += [(foot[0] + s * -uy * half, foot[1] + s * ux * half) for s in (1, -1)]
    points = np.array([_fine(window, *c) for c in corners], np.int32)
    cv2.fillPoly(canvas, [points], 255, cv2.LINE_8, SHIFT)
    return _shrunk(canvas, window)


def _disc(window: Window, place: tuple[float, float], radius: float) -> NDArray[np.uint8]:
    canvas = _canvas(window)
    cv2.circle(canvas, _fine(window, *place), round(radius * FINER * (1 << SHIFT)), 255, -1, cv2.LINE_8, SHIFT)
    return _shrunk(canvas, window)


def _where(shown: NDArray[np.bool_], cover: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.asarray(np.where(shown, cover, 0), np.uint8)


def _weight(
    window: Window, place: tuple[float, float], size: float, turned: float, drawn: Look
) -> list[tuple[NDArray[np.uint8], Colour]]:
    whole = _disc(window, place, size / 2)
    inner = _disc(window, place, max(1.0, size / 2 - drawn.edge))
    ring = np.asarray(cv2.subtract(whole, inner), np.uint8)
    light: Colour = tuple(min(255, c + 70) for c in drawn.fill)  # type: ignore[assignment]
    if drawn.weight == "filled":
        return [(whole, drawn.fill)]
    if drawn.weight == "outline":
        return [(ring, drawn.ink)]
    layers = [(whole, drawn.fill), (ring, drawn.ink)]
    rows, columns = np.mgrid[window[1] : window[1] + window[3], window[0] : window[0] + window[2]]
    turn = math.radians(turned)
    along = (columns - place[0]) * math.sin(turn) + (rows - place[1]) * math.cos(turn)
    across = (columns - place[0]) * math.cos(turn) - (rows - place[1]) * math.sin(turn)
    if drawn.weight == "halves":
        layers.insert(1, (_where(across > 0, inner), light))
    elif drawn.weight == "stripes":
        layers.insert(1, (_where(np.sin(14 * along / size) > 0, inner), light))
    elif drawn.weight == "lantern":
        pane = (np.abs(across) < 0.22 * size) & (np.abs(along) < 0.3 * size)
        layers.insert(1, (_where(pane, inner), (255, 236, 150)))
    return layers
