"""What somebody said to a question, held against what is true."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from motion.analysis import of_plan
from motion.findings import Finding
from motion.synth import plant
from motion.training.questions import Question

NEAR_FRAMES = 2
"""A frame is pointed at rightly so close to those of the fault."""
PART_OF_CLIP = 0.5
"""Pointing into a fault that lasts for a greater share of the clip shows nothing."""
SAYS_OFF = 0.5
"""How often somebody who cannot tell says that something is off."""
COUNTED, COUNTED_SHARE = 1, 0.1
"""A count may be off by so many frames, or by such a share."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """Whether an answer is right, which parts of it are, and how often a guess would have been (0 to 1).

    ``parts`` is by what was said: ``off``, ``principle``, ``fault``, ``frame``, ``place``; only those that were said.
    """

    right: bool
    chance: float
    parts: Mapping[str, bool]


def spotted(
    finding: Finding | None, frames: int, said: Mapping[str, Any], offered: Sequence[str], reach: float = 0.0
) -> Judged:
    """Of one clip: whether what is off was seen, named or pointed at; or that nothing is.

    ``said`` has ``off`` and, where something is, ``principle``, ``code``, ``frame`` and ``place`` (px); ``offered`` are
    the codes that could be named. A place within ``reach`` px of what shows the fault is pointed at rightly, which is
    told and no more: what moves is seen by everybody.
    """
    off = bool(said.get("off"))
    if finding is None:
        return Judged(right=not off, chance=1 - SAYS_OFF, parts={"off": not off})
    first, last = finding.first_frame - NEAR_FRAMES, finding.last_frame + NEAR_FRAMES
    share = (min(frames, last) - max(1, first) + 1) / frames
    parts = {"off": off}
    if off and said.get("principle"):
        parts["principle"] = said["principle"] == finding.principle
    if off and said.get("code"):
        parts["fault"] = said["code"] == finding.code
    if off and said.get("frame"):
        parts["frame"] = first <= int(said["frame"]) <= last
    shown = points_of(finding) if off and said.get("place") and share <= PART_OF_CLIP else []
    if shown:
        parts["place"] = min(math.dist(point, said["place"]) for point in shown) <= reach
    pointed = parts.get("frame", False) and share <= PART_OF_CLIP
    by_frame, by_name = share if share <= PART_OF_CLIP else 0.0, 1 / max(1, len(offered))
    return Judged(
        right=off and (parts.get("fault", False) or pointed),
        chance=SAYS_OFF * (by_frame + by_name - by_frame * by_name),
        parts=parts,
    )


def points_of(finding: Finding) -> list[tuple[float, float]]:
    """Where in the picture a finding shows, px; nowhere for what is told of frames alone."""
    found: list[tuple[float, float]] = []
    for mark in finding.overlay:
        lines = [mark.get("points", ()), *mark.get("lines", ())]
        found += [(float(x), float(y)) for line in lines for x, y in line]
        found += [(float(mark[x]), float(mark[y])) for x, y in (("x", "y"), ("x1", "y1"), ("x2", "y2")) if x in mark]
    return found


def one_of(right: Any, said: Any, ways: int) -> Judged:
    """Of several answers, one of which is right."""
    return Judged(right=str(said) == str(right), chance=1 / ways, parts={})


def ordered(right: Sequence[int], said: Sequence[int]) -> Judged:
    """Drawings put in order: the whole row, and how each stands."""
    each = {str(i): a == b for i, (a, b) in enumerate(zip(right, said, strict=False), start=1)}
    return Judged(right=list(right) == list(said), chance=0.0, parts=each)


def counted(frames: int, said: int) -> Judged:
    """A number of frames, told by eye."""
    return Judged(right=abs(said - frames) <= max(COUNTED, COUNTED_SHARE * frames), chance=0.1, parts={})


def placed(question: Question, x: float, y: float) -> tuple[Judged, tuple[Finding, ...]]:
    """A drawing put where it belongs, at ``x``, ``y`` px, as the checks themselves see it; and what they still find."""
    at = question.truth["drawing"]
    plan = plant.put(question.brief.exercise, question.clips["shown"], at, x, y)
    if plan is None:
        raise ValueError("this drawing cannot be put elsewhere")
    left = of_plan(plan, question.brief).findings
    return Judged(right=not left, chance=0.0, parts={}), left
