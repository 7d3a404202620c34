"""The ideal motion of a brief as a timing chart has it: keys, moves between them, and the order in which to draw.

Keys come first, then each move's breakdown, then the halves of what is left, and the halves of those. Where a half
could go to either of two drawings, it is the one nearer the slow end: that is where a move has most drawings.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

from motion.brief import Brief
from motion.exercises import exercise_of
from motion.exercises.exercise import Exercise, Sketch
from motion.plan import Plan, Pose

Mark = Literal["key", "breakdown", "plain"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """One drawing of the guide. ``number`` and ``first_frame`` count from 1; ``round`` is when it is drawn, keys 0."""

    number: int
    first_frame: int
    pose: Pose
    mark: Mark
    round: int

    @property
    def last_frame(self) -> int:
        return self.first_frame + self.pose.frames - 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """An in-between on a timing chart at its ``share`` of the way; ``free`` tells whether it can be moved by hand."""

    drawing: Drawing
    share: float
    free: bool
    by_hand: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """The stretch from one key to the next: a line of the timing chart."""

    start: Drawing
    end: Drawing
    ticks: tuple[Tick, ...]
    name: str
    """What moves does on it, in a word."""

    @property
    def frames(self) -> int:
        return self.end.first_frame - self.start.first_frame


@dataclass(frozen=True, slots=True, kw_only=True)
class Guide:
    """The guide to one brief. ``shaped`` are the drawings, by index, whose shape the sheet shows."""

    brief: Brief
    exercise: Exercise[Any, Any]
    plan: Plan
    drawings: tuple[Drawing, ...]
    moves: tuple[Stretch, ...]
    shaped: tuple[int, ...]

    @property
    def sketch(self) -> Sketch[Any]:
        """How the exercise draws its ideal."""
        return self.exercise.guided.sketch

    @property
    def rounds(self) -> tuple[tuple[Drawing, ...], ...]:
        """The drawings in the order in which to draw them: keys, breakdowns, halves, halves of those."""
        last = max(d.round for d in self.drawings)
        return tuple(tuple(d for d in self.drawings if d.round == r) for r in range(last + 1))

    def on_frame(self, frame: int) -> Drawing:
        """The drawing that is exposed on a frame."""
        return next(d for d in self.drawings if d.first_frame <= frame <= d.last_frame)


@lru_cache(maxsize=32)
def guide_of(brief: Brief) -> Guide:
    """The guide of a brief. Raises BriefError, by field, where its feel cannot be drawn."""
    exercise = exercise_of(brief)
    guided = exercise.guided
    plan = guided.plan(brief)
    keys = guided.keys(plan)
    rounds = dict.fromkeys(keys, 0)
    for before, after in itertools.pairwise(keys):
        _halve(list(range(before, after + 1)), lambda one, other: guided.slow_first(plan, one, other), 1, rounds)
    drawings = tuple(
        Drawing(
            number=i + 1,
            first_frame=plan.first_frame(i),
            pose=pose,
            mark=_MARKS.get(rounds[i], "plain"),
            round=rounds[i],
        )
        for i, pose in enumerate(plan.poses)
    )
    return Guide(
        brief=brief,
        exercise=exercise,
        plan=plan,
        drawings=drawings,
        moves=_moves(exercise, plan, keys, drawings),
        shaped=tuple(guided.sketch.important(plan, keys)),
    )


def checked(brief: Brief) -> Brief:
    """The brief, whose guide (if it has one) can be drawn. Raises BriefError, by field, where it cannot."""
    if brief.guide is not None:
        guide_of(brief)
    return brief


_MARKS: dict[int, Mark] = {0: "key", 1: "breakdown"}


def _halve(run: list[int], slow_first: Callable[[int, int], bool], number: int, rounds: dict[int, int]) -> None:
    """Give the middle drawing of a run, whose ends are drawn already, its round; then halve both parts."""
    inner = run[1:-1]
    if not inner:
        return
    middle = (len(inner) - 1) // 2 if slow_first(run[0], run[-1]) else len(inner) // 2
    rounds[inner[middle]] = number
    _halve(run[: middle + 2], slow_first, number + 1, rounds)
    _halve(run[middle + 1 :], slow_first, number + 1, rounds)


def _moves(
    exercise: Exercise[Any, Any], plan: Plan, keys: list[int], drawings: tuple[Drawing, ...]
) -> tuple[Stretch, ...]:
    guided = exercise.guided
    shares, by_hand = guided.shares(plan), guided.by_hand(plan)
    return tuple(
        Stretch(
            start=drawings[before],
            end=drawings[after],
            ticks=tuple(
                Tick(
                    drawing=drawings[i],
                    share=shares[i],
                    free=guided.free(plan, i),
                    by_hand=i + 1 in by_hand and guided.free(plan, i),
                )
                for i in range(before + 1, after)
            ),
            name=guided.move_name(plan, before, after),
        )
        for before, after in itertools.pairwise(keys)
    )
