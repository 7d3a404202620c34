"""Whether the pictures of a clip show the checks what was planted in its motion, and nothing besides."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from motion.analysis import analyse
from motion.clip import Picture
from motion.synth import draw
from motion.synth.look import LOOKS
from motion.training.questions import WITH_FAULT, Question

Drawn = list[tuple[Picture, int]]
"""The drawings of a clip, each with its exposure in frames."""
SEEDS, APART = 8, 1_000_003
"""So many seeds are tried at most, so far apart."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """A question that was drawn: its seed, whether in a busy look, its telling clip, and whether that shows it."""

    question: Question
    seed: int
    busy: bool
    name: str
    drawn: Drawn
    shows: bool


def first_shown(make: Callable[[int, bool], Question], seed: int, *, busy: bool, tries: int = SEEDS) -> Tried:
    """The question of the first of some seeds whose pictures show what they should; the last one where none does.

    ``make`` gives the question of a seed, in a busy look or a plain one; the later half is tried in plain ones.
    """
    for more in range(tries):
        own, look = seed + more * APART, busy and more < tries // 2
        question = make(own, look)
        name = telling(question)
        drawn = clip_of(question, name)
        shows = question.kind not in WITH_FAULT or shows_it(question, drawn)
        if shows:
            break
    return Tried(question=question, seed=own, busy=look, name=name, drawn=drawn, shows=shows)


def telling(question: Question) -> str:
    """The name of the clip that has the fault, or of the only one."""
    return next((name for name in question.clips if name != question.right), question.right)


def clip_of(question: Question, name: str) -> Drawn:
    """One of a question's clips, drawn in its look."""
    return list(draw.frames(question.brief.exercise, question.clips[name], LOOKS[question.look], question.seed))


def shows_it(question: Question, drawn: Sequence[tuple[Picture, int]]) -> bool:
    """Whether the whole analysis finds in its drawings that fault as grave as it is; in a clean clip, nothing."""
    clip = draw.of_pictures(drawn, question.brief.fps)
    told = [(f.code, f.severity) for f in analyse(clip, question.brief).findings]
    finding = question.finding
    return told == ([(finding.code, finding.severity)] if finding else [])
