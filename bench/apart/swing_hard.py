"""Pendulums that are hard to follow, by what is drawn besides them or hides them: errors and findings for each way.

A figure on a swing is placed by hand in its first drawing.
"""

from __future__ import annotations

import itertools
import math
import random
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from multiprocessing import get_context

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.apart import clips, swing_measure, swing_pictures, swings
from bench.apart.pictures import Picture
from bench.apart.swing_measure import FORMS, brief_of, errors
from bench.apart.swing_pictures import Look
from bench.apart.swings import Pendulum
from motion.analysis import analyse
from motion.tracking import placing
from motion.tracking.ellipse import Ellipse
from motion.tracking.placing import Placement

Way = Callable[[random.Random, Pendulum, Look], list[tuple[Picture, int]]]
SHIFT = 6
STUB = "a stub of a line"
"""Its weight is so large that no more of the line shows."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of one clip: errors as ``swing_measure`` has them, the pivot's, findings and preflight."""

    way: str
    number: int
    form: clips.Form
    drawn: int
    off: NDArray[np.float64]
    pivot: float | None
    findings: tuple[str, ...]
    preflight: tuple[str, ...]


def _plain(rng: random.Random, pendulum: Pendulum, look: Look) -> list[tuple[Picture, int]]:
    return swing_pictures.drawings(pendulum, look)


def _under(pendulum: Pendulum, look: Look, painted: Callable[[Picture], None]) -> list[tuple[Picture, int]]:
    """The drawings with something more in what stands still behind them."""
    behind = swing_pictures.backdrop(pendulum, look)
    painted(behind)
    return [(swing_pictures.laid(behind, pendulum, d, look), d.frames) for d in pendulum.drawings]


def _at(pendulum: Pendulum, angle: float, share: float = 1.0) -> tuple[float, float]:
    turn = math.radians(angle)
    far = share * pendulum.length
    return pendulum.pivot[0] + far * math.sin(turn), pendulum.pivot[1] + far * math.cos(turn)


def _fine(*places: tuple[float, float]) -> NDArray[np.int32]:
    return np.round(np.array(places) * (1 << SHIFT)).astype(np.int32)


def same_colour(rng: random.Random, pendulum: Pendulum, look: Look) -> list[tuple[Picture, int]]:
    """Posts and a rail behind it in the colour of its line, which crosses them."""
    posts = [(rng.uniform(0.2, 0.8) * pendulum.width, rng.uniform(3, 12)) for _ in range(3)]
    rail = pendulum.pivot[1] + rng.uniform(0.3, 0.6) * pendulum.length

    def painted(picture: Picture) -> None:
        for x, wide in posts:
            cv2.rectangle(picture, (int(x), 0), (int(x + wide), pendulum.height), look.thread, -1)
        cv2.rectangle(picture, (0, int(rail)), (pendulum.width, int(rail + 6)), look.thread, -1)

    return _under(pendulum, look, painted)


def guide_left(rng: random.Random, pendulum: Pendulum, look: Look) -> list[tuple[Picture, int]]:
    """The guide under every drawing: arc, rest line, both extremes as rounds, in a pale blue."""
    pale = (150, 190, 230) if look.paper != "dark" else (50, 70, 100)
    far = max(abs(d.angle - pendulum.rest) for d in pendulum.drawings)
    size = pendulum.drawings[0].size

    def painted(picture: Picture) -> None:
        turns = np.linspace(pendulum.rest - far, pendulum.rest + far, 60)
        arc = _fine(*(_at(pendulum, float(t)) for t in turns))
        cv2.polylines(picture, [arc], False, pale, 2, cv2.LINE_AA, SHIFT)
        cv2.polylines(
            picture, [_fine(pendulum.pivot, _at(pendulum, pendulum.rest, 1.15))], False, pale, 1, cv2.LINE_AA, SHIFT
        )
        for side in (-1, 1):
            x, y = _at(pendulum, pendulum.rest + side * far)
            centre = (round(x * (1 << SHIFT)), round(y * (1 << SHIFT)))
            cv2.circle(picture, centre, round(size / 2 * (1 << SHIFT)), pale, 2, cv2.LINE_AA, SHIFT)

    return _under(pendulum, look, painted)


def _over(
    pendulum: Pendulum, look: Look, laid: Callable[[int, Picture, Picture], Picture]
) -> list[tuple[Picture, int]]:
    """Each drawing, by index, changed with what stands still behind it at hand."""
    behind = swing_pictures.backdrop(pendulum, look)
    plain = [swing_pictures.laid(behind, pendulum, d, look) for d in pendulum.drawings]
    return [(laid(k, p, behind), d.frames) for k, (p, d) in enumerate(zip(plain, pendulum.drawings, strict=True))]


def onion_skin(rng: random.Random, pendulum: Pendulum, look: Look) -> list[tuple[Picture, int]]:
    """Faint copies of the drawing before, and of the one after, exported with each."""
    behind = swing_pictures.backdrop(pendulum, look)
    plain = [swing_pictures.laid(behind, pendulum, d, look) for d in pendulum.drawings]
    faint = rng.uniform(0.15, 0.3)

    def skin(k: int) -> NDArray[np.float64]:
        if not 0 <= k < len(plain):
            return np.zeros(behind.shape)
        return faint * (plain[k].astype(np.float64) - behind)

    found = []
    for k, (picture, drawing) in enumerate(zip(plain, pendulum.drawings, strict=True)):
        own = (picture.astype(np.int16) != behind).any(axis=2)[..., None]
        under = np.clip(behind + skin(k - 1) + skin(k + 1), 0, 255)
        found.append((np.where(own, picture, np.round(under)).astype(np.uint8), drawing.frames))
    return found


def speed_lines(rng: random.Random, pendulum: Pendulum, look: Look) -> list[tuple[Picture, int]]:
    """Short arcs behind the weight wherever it goes fast."""
    angles = [d.angle for d in pendulum.drawings]
    fast = 0.5 * max(abs(b - a) for a, b in itertools.pairwise(angles))
    size = pendulum.drawings[0].size

    def laid(k: int, picture: Picture, behind: Picture) -> Picture:
        step = angles[k] - angles[k - 1] if k else 0.0
        if abs(step) < fast:
            return picture
        out, way = picture.copy(), math.copysign(1.0, step)
        begins = math.degrees(0.62 * size / pendulum.length)
        for share in (-0.3, 0.0, 0.3):
            far = 1 + share * size / pendulum.length
            turns = np.linspace(angles[k] - way * begins, angles[k] - way * (begins + 0.7 * abs(step) + 2), 8)
            line = _fine(*(_at(pendulum, float(t), far) for t in turns))
            cv2.polylines(out, [line], False, look.ink, 2, cv2.LINE_AA, SHIFT)
        return out

    return _over(pendulum, look, laid)


def lamp_light(rng: random.Random, pendulum: Pendulum, look: Look) -> list[tuple[Picture, int]]:
    """A soft glow about the weight, and a patch of light on the floor below it, that sway with it."""
    size = pendulum.drawings[0].size
    glow, strength = rng.uniform(1.6, 2.6) * size, rng.uniform(10, 28)
    rows, columns = np.mgrid[0 : pendulum.height, 0 : pendulum.width].astype(np.float32)
    floor = 0.93 * pendulum.height

    def laid(k: int, picture: Picture, behind: Picture) -> Picture:
        x, y = pendulum.place(pendulum.drawings[k])
        light = strength * np.exp(-((columns - x) ** 2 + (rows - y) ** 2) / (2 * (glow / 2) ** 2))
        patch = strength * np.exp(-((columns - x) ** 2 / (2 * glow**2) + (rows - floor) ** 2 / (2 * 8.0**2)))
        own = (picture.astype(np.int16) != behind).any(axis=2)
        tint = np.array([1.0, 0.85, 0.3] if look.paper == "dark" else [-0.1, -0.3, -1.0])
        lit = picture + ((light + patch) * ~own)[..., None] * tint
        return np.asarray(np.clip(np.round(lit), 0, 255), np.uint8)

    return _over(pendulum, look, laid)


def two_strings(rng: random.Random, pendulum: Pendulum, look: Look) -> list[tuple[Picture, int]]:
    """Two strings from its hook to both sides of the weight."""
    wide = max(2, round(min(look.line, 4.0)))

    def laid(k: int, picture: Picture, behind: Picture) -> Picture:
        drawing, out = pendulum.drawings[k], behind.copy()
        x, y = pendulum.place(drawing)
        turn, half = math.radians(drawing.angle), 0.48 * drawing.size
        for side in (-1, 1):
            foot = x + side * half * math.cos(turn), y - side * half * math.sin(turn)
            top = pendulum.pivot
            cv2.polylines(out, [_fine(top, foot)], False, look.thread, wide, cv2.LINE_AA, SHIFT)
        near = np.hypot(*np.mgrid[0 : out.shape[0], 0 : out.shape[1]][::-1] - np.array([x, y])[:, None, None])
        return np.asarray(np.where((near <= drawing.size / 2 + 2)[..., None], picture, out), np.uint8)

    return _over(pendulum, look, laid)


def rider(rng: random.Random, pendulum: Pendulum, look: Look) -> list[tuple[Picture, int]]:
    """A seat on two ropes with a figure sitting on it, all as one: its weight is where the figure's trunk is."""
    size = pendulum.drawings[0].size
    limb, head = max(3, round(0.14 * size)), 0.2 * size
    rope = max(2, round(min(look.line, 3.0)))

    def laid(k: int, picture: Picture, behind: Picture) -> Picture:
        drawing, out = pendulum.drawings[k], behind.copy()
        x, y = pendulum.place(drawing)
        turn = math.radians(drawing.angle)

        def at(across: float, down: float) -> tuple[float, float]:
            """So many sizes across its line and along it from the weight's middle."""
            dx, dy = across * size, down * size
            return x + dx * math.cos(turn) + dy * math.sin(turn), y - dx * math.sin(turn) + dy * math.cos(turn)

        def line(wide: int, colour: tuple[int, int, int], *places: tuple[float, float]) -> None:
            cv2.polylines(out, [_fine(*places)], False, colour, wide, cv2.LINE_AA, SHIFT)

        for side in (-0.3, 0.3):
            line(rope, look.thread, pendulum.pivot, at(side, 0.42))
        line(limb, look.thread, at(-0.4, 0.45), at(0.4, 0.45))
        line(limb, look.ink, at(-0.1, -0.3), at(-0.1, 0.38), at(0.34, 0.38), at(0.4, 0.8))
        line(limb, look.ink, at(-0.1, -0.2), at(0.1, 0.0), at(0.28, -0.1))
        middle = tuple(round(v * (1 << SHIFT)) for v in at(-0.1, -0.52))
        cv2.circle(out, middle, round(head * (1 << SHIFT)), look.ink, -1, cv2.LINE_AA, SHIFT)
        return out

    return _over(pendulum, look, laid)


RIDER = "a figure on a swing"
WAYS: dict[str, Way] = {
    "plain": _plain,
    "posts in the line's colour": same_colour,
    "guide left on": guide_left,
    "onion skin": onion_skin,
    "speed lines": speed_lines,
    "a lamp's light": lamp_light,
    "two strings": two_strings,
    STUB: _plain,
    RIDER: rider,
}


def clip_of(way: str, number: int) -> tuple[Pendulum, Look, list[tuple[Picture, int]]]:
    """A good pendulum, drawn in one of the hard ways."""
    rng = random.Random(f"hard {way} {number}")
    while True:
        pendulum = swings.plan(rng)
        if way == STUB:
            size = rng.uniform(0.6, 0.9) * pendulum.length
            pendulum = replace(pendulum, drawings=tuple(replace(d, size=size) for d in pendulum.drawings))
        if all(swing_measure.inside(pendulum, d) for d in pendulum.drawings):
            break
    look = replace(swing_pictures.look(rng, grainy=False), drift=0.0)
    return pendulum, look, WAYS[way](rng, pendulum, look)


def told_of(job: tuple[str, int, clips.Form]) -> Told:
    """Draw one, analyse it, and hold it against what is known."""
    way, number, form = job
    pendulum, _, pictures = clip_of(way, number)
    helped = by_hand(pendulum) if way == RIDER else placing.NOTHING
    with clips.clip_of(pictures, pendulum.fps, form) as clip:
        result = analyse(clip, brief_of(pendulum), placement=helped)
    return Told(
        way=way,
        number=number,
        form=form,
        drawn=len(pendulum.drawings),
        off=errors(pendulum, result),
        pivot=swing_measure.pivot_error(pendulum, result),
        findings=tuple(f.code for f in result.findings),
        preflight=tuple(p.code for p in result.preflight),
    )


def by_hand(pendulum: Pendulum) -> Placement:
    """Its weight as a person places it in the first drawing."""
    x, y = pendulum.place(pendulum.drawings[0])
    size = pendulum.drawings[0].size
    return Placement(shapes={1: Ellipse(x=x, y=y, major=size, minor=size, angle=0.0)})


def run(count: int, workers: int | None = None) -> list[Told]:
    """So many clips of each way, of each form in turn."""
    jobs = [(way, n, FORMS[n % len(FORMS)]) for way in WAYS for n in range(count)]
    with get_context("spawn").Pool(workers) as pool:
        return pool.map(told_of, jobs, chunksize=1)


def _said(codes: Sequence[Sequence[str]]) -> str:
    """In how many clips each code is told."""
    counted = Counter(c for own in codes for c in set(own))
    return ", ".join(f"{c} {n}" for c, n in counted.most_common()) or "nothing"


def table(told: Sequence[Told]) -> str:
    """The figures as Markdown, a row a way."""
    rows = ["| drawn with | clips | drawings found | weight, px | pivot, px | findings | preflight |"]
    rows += ["| --- | ---: | ---: | --- | --- | --- | --- |"]
    for way in WAYS:
        own = [t for t in told if t.way == way]
        off = np.concatenate([t.off for t in own])
        pivots = [t.pivot if t.pivot is not None else math.inf for t in own]
        findings, preflight = (_said([getattr(t, told) for t in own]) for told in ("findings", "preflight"))
        weight = f"{np.median(off[:, 0]):.2f} / {np.percentile(off[:, 0], 95):.2f}" if len(off) else ""
        pivot = f"{np.median(pivots):.2f} / {np.percentile(pivots, 95):.2f}"
        rows.append(
            f"| {way} | {len(own)} | {len(off)} of {sum(t.drawn for t in own)} | {weight} | {pivot} | {findings} "
            f"| {preflight} |"
        )
    return "\n".join(rows)
