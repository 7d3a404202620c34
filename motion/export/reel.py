"""A reel: takes played one after another as one video, each after a card, at one size and one rate."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from motion import ink
from motion.export import video
from motion.export.take import exposures_of, laid_drawing
from motion.guide import stills
from motion.ink import add, say

SIZE = (1280, 720)
STRIP = 56
"""The height of the line below the picture that says whose clip it is, px."""
CARD_S, REST_S = 1.4, 0.5
"""How long a card stands, and how long the last drawing rests before the next card, in seconds."""
SHEET, PAPER = "#fbf8ef", (251, 248, 239)
CODECS = {"mp4": ("h264", {"preset": "veryfast"}), "webm": ("vp9", {"cpu-used": "6"})}
"""What a reel can be, by its file's suffix: the encoder, and how it is hurried."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """One take on a reel: its findings file, the folder of its drawings as ``<number>.png``, and two lines of words."""

    findings: dict[str, Any]
    drawings: Path
    title: str
    words: str = ""


def write(to: Path, shown: Sequence[Shown], *, times: int = 2, tell: Callable[[int], None] = lambda done: None) -> None:
    """Write a reel to ``to``, each take played ``times`` times; ``tell`` is told how many takes are through.

    It runs at the highest rate among its takes; takes of a lower rate hold their drawings longer, so that all keep
    their own speed. Raises KeyError for a suffix that is not in ``CODECS``, OSError where drawings are gone.
    """
    fps = max(float(s.findings["clip"]["fps"]) for s in shown)
    codec, hurried = CODECS[to.suffix[1:]]
    video.to_video(_pictures(shown, fps, times, tell), to, fps, codec, {**video.CODECS[codec][2], **hurried})


def _pictures(
    shown: Sequence[Shown], fps: float, times: int, tell: Callable[[int], None]
) -> Iterator[tuple[np.ndarray, int]]:
    for number, one in enumerate(shown, start=1):
        strip = _strip(one)
        yield _card(one), round(CARD_S * fps)
        pictures: dict[int, np.ndarray] = {}
        held = _exposed(one.findings, fps)
        for turn in range(times):
            for place, (drawing, count) in enumerate(held, start=1):
                if drawing not in pictures:
                    pictures[drawing] = _laid_out(laid_drawing(one.findings, one.drawings, drawing), strip)
                last = turn == times - 1 and place == len(held)
                yield pictures[drawing], count + (round(REST_S * fps) if last else 0)
        tell(number)


def _exposed(findings: dict[str, Any], fps: float) -> list[tuple[int, int]]:
    """Drawing and frames at another rate; where frames are too many for it, the shortest drawings are left out."""
    own = float(findings["clip"]["fps"])
    ends = [(e.drawing, round(e.last_frame / own * fps)) for e in exposures_of(findings)]
    starts = [0, *(end for _, end in ends[:-1])]
    return [(drawing, end - start) for (drawing, end), start in zip(ends, starts, strict=True) if end > start]


def _laid_out(picture: np.ndarray, strip: np.ndarray) -> np.ndarray:
    """A drawing as large as it goes above the strip, on paper."""
    page = Image.new("RGBA", SIZE, (*PAPER, 255))
    image = Image.fromarray(picture)
    room = SIZE[0], SIZE[1] - STRIP
    scale = min(room[0] / image.width, room[1] / image.height)
    size = max(1, round(image.width * scale)), max(1, round(image.height * scale))
    place = (room[0] - size[0]) // 2, (room[1] - size[1]) // 2
    white = Image.new("RGBA", size, (255, 255, 255, 255))
    white.alpha_composite(image.resize(size, Image.Resampling.LANCZOS))
    page.paste(white, place)
    page.alpha_composite(Image.fromarray(strip), (0, SIZE[1] - STRIP))
    return np.asarray(page)


def _strip(one: Shown) -> np.ndarray:
    root = ink.svg(SIZE[0], STRIP, one.title)
    add(root, "rect", x=0, y=0, width=SIZE[0], height=STRIP, fill=SHEET)
    add(root, "rect", x=0, y=0, width=SIZE[0], height=2, fill=ink.RULE)
    say(root, one.title, x=24, y=36, font_size=22, font_weight="600", fill=ink.INK)
    say(root, one.words, x=SIZE[0] - 24, y=36, font_size=20, text_anchor="end", fill=ink.INK)
    return _drawn(root)


def _card(one: Shown) -> np.ndarray:
    root = ink.svg(*SIZE, one.title)
    add(root, "rect", x=0, y=0, width=SIZE[0], height=SIZE[1], fill=SHEET)
    middle = SIZE[0] / 2
    say(root, one.title, x=middle, y=350, font_size=46, font_weight="600", text_anchor="middle", fill=ink.INK)
    say(root, one.words, x=middle, y=404, font_size=26, text_anchor="middle", fill=ink.INK)
    return _drawn(root)


def _drawn(root: ink.Element) -> np.ndarray:
    # Names are written in any script; what the own fonts lack may be on the machine.
    with Image.open(io.BytesIO(stills.png(root, system_fonts=True)), formats=("PNG",)) as image:
        return np.asarray(image.convert("RGBA"))
