"""The ideal motion of a brief as a timing chart has it: keys, moves between them, and the order in which to draw.

Keys come first, then each move's breakdown, then the halves of what is left, and the halves of those. Where a half
could go to either of two drawings, it is the one nearer the slow end, the top: that is where a move has most drawings.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from motion.brief import Brief
from motion.exercises.bounce.feel import plan_of
from motion.exercises.bounce.plan import Plan, Pose, keys_of, shares_of

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
class Move:
    """The stretch from one key to the next: a line of the timing chart."""

    start: Drawing
    end: Drawing
    ticks: tuple[Tick, ...]

    @property
    def frames(self) -> int:
        return self.end.first_frame - self.start.first_frame

    @property
    def name(self) -> str:
        """What the ball does on it, in a word."""
        if self.end.pose.role == "rest":
            return "roll" if abs(self.end.pose.x - self.start.pose.x) > 1 else "rest"
        if self.start.pose.role == "air" and self.end.pose.role == "air":
            return "rise" if self.end.pose.y < self.start.pose.y else "fall"
        return "rise" if self.start.pose.role != "air" else "fall"


@dataclass(frozen=True, slots=True, kw_only=True)
class Guide:
    """The guide to one brief."""

    brief: Brief
    plan: Plan
    drawings: tuple[Drawing, ...]
    moves: tuple[Move, ...]

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
    plan = plan_of(brief)
    keys = keys_of(plan)
    rounds = dict.fromkeys(keys, 0)
    for before, after in itertools.pairwise(keys):
        _halve(list(range(before, after + 1)), plan.poses[before].y < plan.poses[after].y, 1, rounds)
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
    return Guide(brief=brief, plan=plan, drawings=drawings, moves=_moves(plan, keys, drawings))


def checked(brief: Brief) -> Brief:
    """The brief, whose guide (if it has one) can be drawn. Raises BriefError, by field, where it cannot."""
    if brief.guide is not None:
        guide_of(brief)
    return brief


_MARKS: dict[int, Mark] = {0: "key", 1: "breakdown"}


def _halve(run: list[int], slow_first: bool, number: int, rounds: dict[int, int]) -> None:
    """Give the middle drawing of a run, whose ends are drawn already, its round; then halve both parts."""
    inner = run[1:-1]
    if not inner:
        return
    middle = (len(inner) - 1) // 2 if slow_first else len(inner) // 2
    rounds[inner[middle]] = number
    _halve(run[: middle + 2], slow_first, number + 1, rounds)
    _halve(run[middle + 1 :], slow_first, number + 1, rounds)


def _moves(plan: Plan, keys: list[int], drawings: tuple[Drawing, ...]) -> tuple[Move, ...]:
    shares, by_hand = shares_of(plan), dict(plan.recipe.shares)
    return tuple(
        Move(
            start=drawings[before],
            end=drawings[after],
            ticks=tuple(
                Tick(
                    drawing=drawings[i],
                    share=shares[i],
                    free=plan.poses[i].role == "air",
                    by_hand=i + 1 in by_hand and plan.poses[i].role == "air",
                )
                for i in range(before + 1, after)
            ),
        )
        for before, after in itertools.pairwise(keys)
    )
