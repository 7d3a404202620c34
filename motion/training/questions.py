"""What a drill asks: six kinds of question, each made from a seed, with the clips that it shows and what is true of it.

Whatever is asked is worked out from the motion itself; nobody has to write an answer down.
"""

from __future__ import annotations

import itertools
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Literal, get_args

import numpy as np
from numpy.typing import NDArray

from motion.analysis import of_plan
from motion.brief import Brief
from motion.errors import BriefError
from motion.exercises import exercise_of
from motion.findings import Finding
from motion.plan import Plan
from motion.report.file import to_json
from motion.report.report import Report
from motion.synth import plant
from motion.training.clips import MOST_FRAMES, TRIED, Looked, NoRoomError, clip_of, motion_of

Kind = Literal["spot", "which", "rate", "order", "place", "count"]
KINDS: tuple[Kind, ...] = get_args(Kind)
WITH_FAULT: tuple[Kind, ...] = ("spot", "which")
"""Kinds that ask about a planted fault, and so tell how small a fault somebody sees."""
SIDES = ("first", "second")
"""What the two clips are called of which one is right."""
ORDERED = 5
"""So many drawings are to be put in order, after one that is given."""
CLEARER = 1.08
"""Any other way through them is longer, at least so many times."""
RATES: Mapping[int, tuple[float, Literal["ones", "twos"]]] = {24: (24.0, "ones"), 12: (24.0, "twos"), 6: (12.0, "twos")}
"""Drawings a second, and at which rate and exposure that is."""
SHORTEST_PART = 5
"""A part of fewer frames is over before it is seen."""
MISPLACED, TRIED_PLACES = 6.0, 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """A question: its clips by name, and what is true.

    ``clips`` are motions as they are shown; ``right`` names the one that shows how it belongs. ``truth`` is by kind:
    ``side`` (which), ``rate`` drawings a second, ``order`` indices of drawings from 0 as they come and ``shuffled`` as
    they are laid out, ``drawing`` the index of the one that is to be placed, ``first``, ``last`` frame and ``frames``
    (count).
    """

    kind: Kind
    seed: int
    brief: Brief
    look: str
    clips: Mapping[str, Plan]
    right: str
    finding: Finding | None = None
    truth: Mapping[str, Any] = field(default_factory=dict)


def ask(kind: Kind, seed: int, exercise: str, code: str | None, times: float, *, busy: bool) -> Question:
    """The question of a seed. Raises NoRoomError where no motion was found that has room for it."""
    if kind == "which" and code is None:
        raise ValueError("of two clips without a fault neither is right")
    if kind in WITH_FAULT:
        looked = clip_of(seed, exercise, code, times, busy=busy)
        return _spot(looked) if kind == "spot" else _which(looked)
    if kind == "place":
        return _placed(seed, exercise, busy=busy)
    make = {"rate": _rate, "order": _order, "count": _count}[kind]
    rng = np.random.default_rng([seed, zlib.crc32(f"{kind} {exercise}".encode())])
    for _ in range(TRIED):
        question = make(motion_of(rng, seed, exercise, busy=busy), rng)
        if question is not None:
            return question
    raise NoRoomError(f"no {exercise} was found to ask about its {kind}")


def _spot(looked: Looked) -> Question:
    clips = {"shown": looked.shown} if looked.finding is None else {"shown": looked.shown, "right": looked.right}
    return _of(looked, "spot", clips, "right" if looked.finding else "shown")


def _which(looked: Looked) -> Question:
    right, wrong = SIDES if looked.seed % 2 else SIDES[::-1]
    clips = {right: looked.right, wrong: looked.shown}
    return _of(looked, "which", {name: clips[name] for name in SIDES}, right, side=right)


def _placed(seed: int, exercise: str, *, busy: bool) -> Question:
    """One with a single drawing that slipped; further seeds are tried where what moves in one is more than a shape."""
    for more in range(TRIED_PLACES):
        question = _place(clip_of(seed + more, exercise, "spacing.jump", MISPLACED, busy=busy))
        if question is not None:
            return replace(question, seed=seed)
    raise NoRoomError(f"what moves in a {exercise} is no single shape")


def _place(looked: Looked) -> Question | None:
    moved = [i for i, (a, b) in enumerate(zip(looked.shown.poses, looked.right.poses, strict=True)) if a != b]
    if len(moved) != 1 or plant.put(looked.brief.exercise, looked.shown, moved[0], 0, 0) is None:
        return None
    return _of(looked, "place", {"shown": looked.shown, "right": looked.right}, "right", drawing=moved[0])


def _rate(looked: Looked, rng: np.random.Generator) -> Question | None:
    rate = int(rng.choice(list(RATES)))
    fps, exposure = RATES[rate]
    brief = replace(looked.brief, fps=fps, exposure=exposure)
    try:
        plan: Plan = exercise_of(brief).guided.plan(brief)
    except BriefError:
        return None
    if plan.frames > MOST_FRAMES or len({pose.frames for pose in plan.poses[:-1]}) > 1:
        return None
    return _of(replace(looked, brief=brief), "rate", {"shown": plan}, "shown", rate=rate)


def _count(looked: Looked, rng: np.random.Generator) -> Question | None:
    moments = exercise_of(looked.brief).guided.moments(looked.right)
    parts = [(round(a), round(b)) for a, b in itertools.pairwise(moments) if b - a >= SHORTEST_PART]
    if not parts:
        return None
    first, last = parts[int(rng.integers(len(parts)))]
    return _of(looked, "count", {"shown": looked.right}, "shown", first=first, last=last, frames=last - first)


def _order(looked: Looked, rng: np.random.Generator) -> Question | None:
    """Drawings of which there is but one short way through them, so that their order can be seen."""
    places = _places(looked)
    if places is None:
        return None
    step, count = int(rng.integers(1, 4)), len(places)
    begins = [b for b in range(count - ORDERED * step) if _one_way(places[b : b + ORDERED * step + 1 : step])]
    if not begins:
        return None
    begin = int(rng.choice(begins))
    order = [begin + i * step for i in range(ORDERED + 1)]
    shuffled = [int(i) for i in rng.permutation(order[1:])]
    if shuffled == order[1:]:
        shuffled = shuffled[::-1]
    return _of(looked, "order", {"shown": looked.right}, "shown", order=order, shuffled=shuffled)


def _places(looked: Looked) -> NDArray[np.float64] | None:
    """(drawings, values) where everything that is drawn lies, px; None where drawings differ in what they have."""
    analysis = of_plan(looked.right, looked.brief)
    told = to_json(analysis)
    shapes, parts = Report(told).shapes, exercise_of(looked.brief).drawn_over(told)["parts"]
    rows = []
    for number in range(1, len(looked.right.poses) + 1):
        lines = [p for line in parts.get(str(number), parts.get(number, ())) for p in line["points"]]
        own = shapes.get(number)
        rows.append([*([own["x"], own["y"]] if own else []), *(v for point in lines for v in point)])
    if not rows[0] or len({len(row) for row in rows}) > 1:
        return None
    return np.array(rows, dtype=np.float64)


def _one_way(places: NDArray[np.float64]) -> bool:
    """Whether from the first of these the shortest way through all others is clearly the one in which they come."""
    apart = np.sqrt(((places[:, None] - places[None]) ** 2).sum(axis=2))
    if np.diagonal(apart, 1).min() < 2.0:
        return False
    own = float(np.diagonal(apart, 1).sum())
    ways = np.array(list(itertools.permutations(range(1, len(places)))))
    lengths = apart[0, ways[:, 0]] + apart[ways[:, :-1], ways[:, 1:]].sum(axis=1)
    others = lengths[(ways != np.arange(1, len(places))).any(axis=1)]
    return bool(others.min() > CLEARER * own)


def _of(looked: Looked, kind: Kind, clips: Mapping[str, Plan], right: str, **truth: Any) -> Question:
    return Question(
        kind=kind,
        seed=looked.seed,
        brief=looked.brief,
        look=looked.look,
        clips=clips,
        right=right,
        finding=looked.finding,
        truth=truth,
    )
