"""What a brief asks for, held against walks drawn apart: asked as they are, and by 2.5 tolerances otherwise."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise
from multiprocessing import get_context
from typing import Any

from bench.apart import walk_pictures
from bench.apart.clips import clip_of
from bench.apart.walk_measure import LARGE, brief_of, judged, spoilt
from bench.apart.walks import SIDES, Walk
from motion.analysis import analyse, judge
from motion.brief import Brief
from motion.exercises.walk.asked import asked_of

TIMES = 2.5
ROOM = 0.5
"""Asked as they are, ranges reach so many tolerances beyond it."""
Measured = Callable[[Walk], float]


def rise(walk: Walk) -> float:
    """How far hips rise and fall over a step, as a share of the leg."""
    heights = [walk.manner.ground_at(d.points["hip"][0]) - d.points["hip"][1] for d in walk.drawings]
    steps = [heights[a : b + 1] for (a, _), (b, _) in pairwise(walk.contacts)]
    return sum(max(s) - min(s) for s in steps) / len(steps) / walk.manner.leg


def knees(walk: Walk) -> float:
    """By how many degrees the straightest knee of a step is bent."""
    bends = [min(_bend(d.points, side) for side in SIDES) for d in walk.drawings]
    steps = [bends[a:b] for (a, _), (b, _) in pairwise(walk.contacts)]
    return sum(min(s) for s in steps) / len(steps)


def _bend(points: dict[str, tuple[float, float]], side: str) -> float:
    hip, knee, ankle = (points[n] for n in ("hip", f"knee_{side}", f"ankle_{side}"))
    one = math.atan2(knee[1] - hip[1], knee[0] - hip[0])
    return abs(math.degrees((math.atan2(ankle[1] - knee[1], ankle[0] - knee[0]) - one + math.pi) % math.tau - math.pi))


def lean(walk: Walk) -> float:
    """By how many degrees the trunk leans forward, the middle of all drawings."""
    found = []
    for d in walk.drawings:
        (hx, hy), (nx, ny) = d.points["hip"], d.points["neck"]
        found.append(math.degrees(math.atan2(walk.manner.facing * (nx - hx), hy - ny)))
    return sorted(found)[len(found) // 2]


def limp(walk: Walk) -> float:
    """By how many frames steps onto one foot take longer."""
    firsts = [1 + sum(d.frames for d in walk.drawings[:i]) for i, _ in walk.contacts]
    taken: dict[str, list[int]] = {side: [] for side in SIDES}
    for (one, _), (other, (_, side)) in pairwise(zip(firsts, walk.contacts, strict=True)):
        taken[side].append(other - one)
    near, far = (sum(taken[side]) / len(taken[side]) for side in SIDES)
    return abs(near - far)


def step_frames(walk: Walk) -> float:
    """How many frames a step takes, the mean."""
    first, last = walk.contacts[0][0], walk.contacts[-1][0]
    return sum(d.frames for d in walk.drawings[first:last]) / (len(walk.contacts) - 1)


def length(walk: Walk) -> float:
    """How many frames there are."""
    return float(sum(d.frames for d in walk.drawings))


def exposure(walk: Walk) -> float:
    """For how many frames each drawing shows."""
    return float(walk.drawings[0].frames)


def _limp_allowed(walk: Walk) -> float:
    frames = sum(d.frames for d in walk.drawings[walk.contacts[0][0] : walk.contacts[-1][0]])
    return max(1.0, 0.12 * frames / (len(walk.contacts) - 1), float(max(d.frames for d in walk.drawings)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Style:
    """Something to ask for: the fault that it is told as, how it is measured apart, and its tolerance."""

    code: str
    measured: Measured
    allowed: Measured
    whole: bool = False
    limps: bool = False
    evenly: bool = False

    def walk(self, rng: random.Random) -> Walk:
        """A walk that is good but for that; all its drawings exposed ``evenly`` where that is what is asked."""
        while True:
            walk = spoilt("timing.limps" if self.limps else None, rng, whole=self.whole)[0]
            if len(walk.contacts) > 1 and not (self.evenly and walk.manner.exposure == "mixed"):
                return walk


STYLES = {
    "rise_share": Style(code="arc.rise", measured=rise, allowed=lambda _: 0.01),
    "knee_degrees": Style(code="form.bend", measured=knees, allowed=lambda _: 5.0),
    "lean_degrees": Style(code="form.lean", measured=lean, allowed=lambda _: 3.0, whole=True),
    "limp_frames": Style(code="timing.limps", measured=limp, allowed=_limp_allowed, limps=True),
    "step_frames": Style(code="timing.tempo", measured=step_frames, allowed=lambda _: 0.5),
    "frames": Style(code="timing.length", measured=length, allowed=lambda _: 1.0),
    "exposure": Style(code="timing.exposure", measured=exposure, allowed=lambda _: 0.0, evenly=True),
}
"""By what is asked for."""


def briefs(walk: Walk, key: str, start: Brief) -> Iterator[tuple[str, Brief]]:
    """The brief that asks for it as it is, for less and for more, where there is less and more to ask for."""
    value, tolerance = STYLES[key].measured(walk), STYLES[key].allowed(walk)
    if key == "exposure":
        own, words = ("ones", "more") if value == 1 else ("twos", "less")
        yield "as it is", replace(start, exposure=own)  # type: ignore[arg-type]
        yield words, replace(start, exposure="twos" if own == "ones" else "ones")
        return
    for words, low, high in (
        ("as it is", value - ROOM * tolerance, value + ROOM * tolerance),
        ("less", value - (TIMES + 4) * tolerance, value - TIMES * tolerance),
        ("more", value + TIMES * tolerance, value + (TIMES + 4) * tolerance),
    ):
        if key == "lean_degrees" or low >= 0 or words == "as it is":
            least = low if key == "lean_degrees" else max(0.0, low)
            if key == "frames":
                yield words, replace(start, frames=(max(1, math.ceil(least)), math.floor(high)))
                continue
            asked: dict[str, Any] = {key: (least, high)}
            yield words, replace(start, asked=replace(asked_of(start), **asked))


def perfect(count: int) -> str:
    """A table of what is found in so many walks a style, as perfectly measured."""
    return _table([_perfectly(key, n) for key in STYLES for n in range(count)])


def from_pictures(count: int) -> str:
    """The same from pictures."""
    with get_context("spawn").Pool() as pool:
        return _table(pool.starmap(_pictured, [(key, n) for key in STYLES for n in range(count)], chunksize=1))


Came = dict[tuple[str, str], bool]
"""By what was asked, and as what: whether it was told as off."""


def _perfectly(key: str, number: int) -> Came:
    walk = STYLES[key].walk(random.Random(f"style {key} {number}"))
    return {
        (key, words): any(f.code == STYLES[key].code for f in judged(walk, brief))
        for words, brief in briefs(walk, key, brief_of(walk))
    }


def _pictured(key: str, number: int) -> Came:
    rng, style = random.Random(f"style {key} {number}"), STYLES[key]
    walk = style.walk(rng)
    look = walk_pictures.look(rng, grainy=walk.manner.width < LARGE, whole=style.whole)
    with clip_of(walk_pictures.drawings(walk, look), walk.manner.fps, "lossless") as clip:
        found = analyse(clip, brief_of(walk, look))
        return {
            (key, words): any(f.code == style.code for f in judge(clip, brief, found.track).findings)
            for words, brief in briefs(walk, key, brief_of(walk, look))
        }


def _table(came: list[Came]) -> str:
    rows = ["| asked | as it is: told as off | less: told | more: told |", "| --- | ---: | ---: | ---: |"]
    for key in STYLES:
        cells = []
        for words in ("as it is", "less", "more"):
            told = [c[key, words] for c in came if (key, words) in c]
            cells.append(f"{sum(told)} of {len(told)}")
        rows.append(f"| `{key}` | {' | '.join(cells)} |")
    return "\n".join(rows)
