"""Recall, false findings and errors of walks drawn apart."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from multiprocessing import get_context

import numpy as np

from bench.apart import recorded, walk_pictures, walks
from bench.apart.clips import Form, clip_of
from bench.apart.walk_faults import OF_WHOLE
from bench.apart.walk_faults import PLANTS as SINGLE
from bench.apart.walk_motion_faults import PLANTS as OVER_SEVERAL
from bench.apart.walk_pictures import Look
from bench.apart.walks import SIDES, Walk
from motion.analysis import Analysis, analyse, judge
from motion.brief import Brief, WalkBrief
from motion.clip import Clip, Exposure, Unseen
from motion.exercises.walk.truth import FIGURE, of_parts
from motion.findings import Finding
from motion.track import Figure, Ground, Shape, Track

PLANTS = {**SINGLE, **OVER_SEVERAL}
"""Every fault of a walk, by its code."""
WAYS = {**{code: (code, plant) for code, plant in PLANTS.items()}, **OF_WHOLE}
"""Every way in which a whole figure can be wrong, with its code."""
RECORDED = "recorded"
COURSES = (*walks.COURSES, RECORDED)
"""Ways that good walks may go, and as people did whose walks were recorded."""
FORMS: tuple[Form, ...] = ("lossless", "lossless", "mp4", "webm")
LARGE, WIDEST = 1000, 960
WRONG, SURE = 0.12, 0.7
"""A clip is read wrongly whose joints lie off by so much of the leg; surely, with more than such a confidence."""
JOINTS = ("hip", "knee", "ankle", "heel", "toe")
UPPER = ("neck", "head", "elbow", "hand")


def brief_of(walk: Walk, look: Look | None = None) -> Brief:
    """The brief under which it is judged."""
    own = walk.manner
    return Brief(
        fps=own.fps,
        loop=own.loop,
        asked=WalkBrief(
            figure="legs" if own.upper is None else "whole",
            path="across" if own.across else "in_place",
            sides="same" if look is not None and look.far == "same" else "told",
        ),
    )


def track_of(walk: Walk) -> Track:
    """It as perfectly measured."""
    exposures, first = [], 1
    for n, d in enumerate(walk.drawings, start=1):
        exposures.append(Exposure(drawing=n, first_frame=first, frames=d.frames))
        first += d.frames
    own = walk.manner
    ground = own.ground_at(0.0), own.ground_at(own.width - 1.0)
    figures, bodies = [], []
    for n, d in enumerate(walk.drawings, start=1):
        lows = {side: max(d.points[f"heel_{side}"][1], d.points[f"toe_{side}"][1]) for side in SIDES}
        soles = [d.points[f"{end}_{side}"][0] for end in ("heel", "toe") for side in SIDES]
        figures.append(
            Figure(
                drawing=n,
                points=d.points,
                firm=frozenset(d.points),
                lows=lows,
                low=max(lows.values()),
                span=(min(soles), max(soles)),
                confidence=0.99,
            )
        )
        x, y, wide, tall = d.body
        bodies.append(
            Shape(
                drawing=n,
                x=x,
                y=y,
                major=max(wide, tall),
                minor=min(wide, tall),
                angle=90.0 if tall > wide else 0.0,
                bottom=max(lows.values()),
                clipped=False,
                confidence=0.99,
            )
        )
    return of_parts(
        tuple(exposures),
        tuple(bodies),
        tuple(figures),
        tuple(range(len(figures))),
        Ground(y_left=ground[0], y_right=ground[1], width=own.width, confidence=0.99, drawn=True),
        whole=own.upper is not None,
    )


def judged(walk: Walk, brief: Brief | None = None) -> tuple[Finding, ...]:
    """What the checks find in it as perfectly measured, by its own brief where no other is given."""
    own = walk.manner
    clip = Clip(
        name="apart",
        fps=own.fps,
        width=own.width,
        height=own.height,
        footage=Unseen(),
        picture_frames=tuple(d.frames for d in walk.drawings),
    )
    return judge(clip, brief or brief_of(walk), track_of(walk)).findings


def spoilt(way: str | None, rng: random.Random, *, whole: bool = False) -> tuple[Walk, list[int]]:
    """A walk with a fault, planted in one of the ``WAYS``, and the drawings that it concerns; clean without one."""
    while True:
        walk = walks.plan(rng, whole=whole)
        planted = (walk, list[int]()) if way is None else WAYS[way][1](rng, walk)
        if planted is not None:
            return planted


def perfect(count: int, clean: int, *, whole: bool = False) -> str:
    """A table of what the checks find in walks as perfectly measured."""
    rows = ["| fault | planted | found | beside it |", "| --- | --- | ---: | --- |"]
    found: Counter[str] = Counter()
    for number in range(clean):
        rng = random.Random(f"clean {'whole' if whole else 'walk'} {number}")
        found.update({f.code for f in judged(spoilt(None, rng, whole=whole)[0])})
    for way, (code, _) in (WAYS if whole else {c: (c, p) for c, p in PLANTS.items()}).items():
        hits, beside = 0, Counter[str]()
        for number in range(count):
            walk, at = spoilt(way, random.Random(f"{'whole' if whole else 'walk'} {way} {number}"), whole=whole)
            told = judged(walk)
            hits += any(f.code == code and _there(f, walk, at) for f in told)
            beside.update({f.code for f in told if f.code != code})
        rows.append(f"| `{code}` | {way if way != code else ''} | {hits} of {count} | {_said(beside)} |")
    rows.append(f"| none | | {clean} clean clips | {_said(found)} |")
    return "\n".join(rows)


def _said(counter: Counter[str]) -> str:
    return ", ".join(f"{code} {n}" for code, n in counter.most_common()) or "nothing"


def _frames(walk: Walk, index: int) -> tuple[int, int]:
    first = 1 + sum(d.frames for d in walk.drawings[:index])
    return first, first + walk.drawings[index].frames - 1


def _there(finding: Finding, walk: Walk, at: Sequence[int]) -> bool:
    """Whether a finding lies within a drawing of where the fault is."""
    if not at:
        return True
    first, last = _frames(walk, max(0, at[0] - 1))[0], _frames(walk, min(len(walk.drawings) - 1, at[-1] + 1))[1]
    return finding.first_frame <= last and first <= finding.last_frame


Job = tuple[str | None, int, Form, bool, str]
"""The fault, in which way it is planted; the clip's number and form; whether its figure is a whole one; its course."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What came of one clip. ``off`` is px by joint of those that are told, in a frame 960 wide.

    ``sure`` is how sure its figures are, the middle of all; ``leg`` how long its legs are in such a frame.
    """

    way: str | None
    whole: bool
    course: str
    form: Form
    kind: str
    look: Look
    read: bool
    hit: bool
    others: tuple[str, ...]
    off: dict[str, list[float]]
    hidden: int
    sides: tuple[int, int]
    contacts: tuple[int, int]
    sure: float
    leg: float

    @property
    def wrong(self) -> bool:
        """Whether its joints were told, and most of some are somewhere else."""
        far = [np.percentile(v, 75) for joint, v in self.off.items() if joint in ("hip", "knee", "ankle") and v]
        return bool(far and max(far) > WRONG * self.leg)


def told_of(job: Job) -> Told:
    """Draw a clip by its fault, number, form and figure, analyse it, and hold it against what is known."""
    way, number, form, whole, course = job
    plain = course == "plain"
    rng = random.Random(f"{'whole' if whole else 'walk'} {way if plain else course} {number} {form}")
    walk, at = spoilt(way, rng, whole=whole) if plain else (_good(course, rng, whole=whole), [])
    code = None if way is None else WAYS[way][0]
    look = walk_pictures.look(rng, grainy=walk.manner.width < LARGE, whole=whole)
    found = _analysed(walk, look, form)
    off, hidden, sides = _errors(walk, found, look)
    there = [f for f in found.findings if f.code == code and _there(f, walk, at)]
    return Told(
        way=way,
        whole=whole,
        course=course,
        form=form,
        kind=walk.manner.kind,
        look=look,
        read=found.scene is not None and found.scene.reading.told,
        hit=bool(there),
        others=tuple(f.code for f in found.findings if f not in there),
        off=off,
        hidden=hidden,
        sides=sides,
        contacts=_contacts(walk, found),
        sure=float(
            np.median([f.confidence for f in found.track.figures(FIGURE) if f is not None and f.points] or [0.0])
        ),
        leg=walk.manner.leg * WIDEST / max(WIDEST, walk.manner.width),
    )


def _good(course: str, rng: random.Random, *, whole: bool) -> Walk:
    return recorded.plan(rng, whole=whole) if course == RECORDED else walks.plan(rng, whole=whole, course=course)


def _analysed(walk: Walk, look: Look, form: Form) -> Analysis:
    with clip_of(walk_pictures.drawings(walk, look), walk.manner.fps, form) as clip:
        return analyse(clip, brief_of(walk, look))


def _errors(walk: Walk, found: Analysis, look: Look) -> tuple[dict[str, list[float]], int, tuple[int, int]]:
    """Errors by joint of what is told, how many are hidden, and in how many drawings near and far are right, of all."""
    off: dict[str, list[float]] = {joint: [] for joint in (*JOINTS, *UPPER)}
    hidden, right, seen = 0, 0, 0
    scale = WIDEST / max(WIDEST, walk.manner.width)
    figures = found.track.figures(FIGURE)
    first = 1
    numbers = {}
    for e in found.track.exposures:
        for frame in range(e.first_frame, e.first_frame + e.frames):
            numbers[frame] = e.drawing
    for d in walk.drawings:
        figure = figures[numbers[first] - 1] if first in numbers else None
        first += d.frames
        if figure is None or not figure.points:
            continue
        ways = [
            {n: figure.points[own] for n in d.points if (own := _named(n, turned)) in figure.points}
            for turned in (False, True)
        ]
        apart = [sum(np.hypot(p[0] - d.points[n][0], p[1] - d.points[n][1]) for n, p in way.items()) for way in ways]
        turned = bool(apart[1] < apart[0])
        seen, right = seen + 1, right + int(not turned)
        for n in ways[turned]:
            if _named(n, turned) in figure.hidden:
                hidden += 1
                continue
            x, y = ways[turned][n]
            off[n.split("_")[0]].append(scale * float(np.hypot(x - d.points[n][0], y - d.points[n][1])))
    if look.far == "same" and right < seen - right:
        right = seen - right
    return off, hidden, (right, seen)


def _named(name: str, turned: bool) -> str:
    if not turned or "_" not in name:
        return name
    joint, side = name.split("_")
    return f"{joint}_{SIDES[1 - SIDES.index(side)]}"


def _contacts(walk: Walk, found: Analysis) -> tuple[int, int]:
    """How many contacts are told within a drawing of where they are, of all but one in the clip's last drawing.

    Feet that stand at the first, or are drawn up at the last, do not land; nor is it to be seen outside the frame.
    """
    least = 0 if walk.manner.stands is None else 1
    wanted = [
        _frames(walk, i)
        for i, _ in walk.contacts
        if least <= i < len(walk.drawings) - 2 and walks.inside(walk.manner, walk.drawings[i])
    ]
    if found.scene is None:
        return 0, len(wanted)
    told = [found.scene.reading.steps[c.index].frame for c in found.scene.reading.contacts]
    near = [any(first - (last - first + 1) <= t <= last + (last - first + 1) for t in told) for first, last in wanted]
    return sum(near), len(near)


def run(count: int, clean: int, *, whole: bool = False) -> list[Told]:
    """So many clips a fault, and so many clean ones, over looks and forms."""
    ways = list(WAYS if whole else PLANTS)
    jobs: list[Job] = [(way, n, FORMS[n % len(FORMS)], whole, "plain") for way in ways for n in range(count)]
    jobs += [(None, n, FORMS[n % len(FORMS)], whole, "plain") for n in range(clean)]
    with get_context("spawn").Pool() as pool:
        return pool.map(told_of, jobs, chunksize=1)


def courses(clean: int) -> str:
    """A table of so many clean clips a course and figure: how many have findings, and by how much joints are off."""
    jobs: list[Job] = [
        (None, n, FORMS[n % len(FORMS)], whole, course)
        for course in COURSES
        for whole in (False, True)
        for n in range(clean)
    ]
    with get_context("spawn").Pool() as pool:
        told = pool.map(told_of, jobs, chunksize=1)
    joints = [*JOINTS, *UPPER]
    rows = ["| course | figure | with findings | " + " | ".join(f"{j}, px" for j in joints) + " | contacts |"]
    rows.append("| --- | --- | ---: |" + " --- |" * len(joints) + " ---: |")
    for course in COURSES:
        for whole in (False, True):
            own = [t for t in told if t.course == course and t.whole == whole]
            met, wanted = (sum(t.contacts[k] for t in own) for k in (0, 1))
            rows.append(
                f"| {course} | {'whole' if whole else 'legs'} | {sum(bool(t.others) for t in own)} of {len(own)} | "
                f"{' | '.join(_px(own, joint) for joint in joints)} | {100 * met / max(1, wanted):.1f} % |"
            )
    return "\n".join(rows)


def _px(told: Sequence[Told], joint: str) -> str:
    """A joint's errors, the middle and that of 95 of 100, px."""
    values = [v for t in told for v in t.off[joint]]
    return f"{np.median(values):.1f} / {np.percentile(values, 95):.1f}" if values else ""


def table(told: Sequence[Told]) -> str:
    """Recall and false findings; landmark errors; near and far; contacts; per look and form."""
    rows = ["| fault | planted | found | beside it |", "| --- | --- | ---: | --- |"]
    for way, (code, _) in WAYS.items():
        own = [t for t in told if t.way == way]
        beside = Counter(c for t in own for c in set(t.others))
        if own:
            hits = f"{sum(t.hit for t in own)} of {len(own)}"
            rows.append(f"| `{code}` | {way if way != code else ''} | {hits} | {_said(beside)} |")
    clean = [t for t in told if t.way is None]
    rows.append(f"| none | | {len(clean)} clean clips | {_said(Counter(c for t in clean for c in set(t.others)))} |")
    wrong = [t for t in told if t.wrong]
    rows += [
        "",
        f"Read wrongly: {len(wrong)} of {len(told)}, surely (above {SURE}): {sum(t.sure > SURE for t in wrong)}.",
    ]
    joints = [j for j in (*JOINTS, *UPPER) if any(t.off[j] for t in told)]
    rows += ["", "| clips | read | " + " | ".join(f"{j}, px" for j in joints) + " | hidden | near and far | contacts |"]
    rows.append("| --- | ---: |" + " --- |" * (len(joints) + 3))
    groups = {"all": list(told)}
    for t in told:
        for name in (
            f"limbs: {t.look.limbs}",
            f"far side: {t.look.far}",
            f"form: {t.form}",
            f"walk: {t.kind}",
            f"paper: {'loose' if t.look.loose else 'still'}",
            *(["limbs: tapered"] if t.look.tapers else []),
            *(["in a coat"] if t.look.coat else []),
        ):
            groups.setdefault(name, []).append(t)
    rows += [_row(name, own, joints) for name, own in sorted(groups.items())]
    return "\n".join(rows)


def _row(name: str, told: Sequence[Told], joints: Sequence[str]) -> str:
    cells = [_px(told, joint) for joint in joints]
    count = sum(len(v) for t in told for v in t.off.values())
    hidden = sum(t.hidden for t in told)
    right, seen = (sum(t.sides[k] for t in told) for k in (0, 1))
    met, wanted = (sum(t.contacts[k] for t in told) for k in (0, 1))
    return (
        f"| {name} | {sum(t.read for t in told)} of {len(told)} | {' | '.join(cells)} | "
        f"{100 * hidden / max(1, hidden + count):.0f} % | {100 * right / max(1, seen):.1f} % | "
        f"{100 * met / max(1, wanted):.1f} % |"
    )
