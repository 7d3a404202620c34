"""What every check of a walk looks at: a clip as read, the brief, and what was worked out once for all of them."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from motion.brief import Brief, WalkBrief
from motion.catalogue import faults
from motion.exercises.walk import grain
from motion.exercises.walk.asked import asked_of
from motion.exercises.walk.figure import SIDES, Side
from motion.exercises.walk.limp import Limp, limp_of
from motion.exercises.walk.reading import Reading, read
from motion.exercises.walk.sizes import Sizes
from motion.exercises.walk.smooth import ALL_ALONG, Off, off_places
from motion.exercises.walk.soles import lies_flat, sole_travel
from motion.exercises.walk.steps import Pace, Step
from motion.findings import Finding, merge_runs, severity, surety
from motion.track import Track

SLIDES, SLIDES_PX = 0.03, 2.0
UNSURE, UNSURE_WHOLE, UNSURE_OUTLINE, SURE = 1.25, 1.4, 1.8, 0.985
"""Legs, whole figures, and those of which the outline alone is known may be off by so many times as much where they
are told less surely than the last of these."""
OTHERS_HAND, CLOSE_BY = 0.15, 2
"""Of sides drawn alike a hand that seems to leap by so much of the leg is the other one, told for it by eye: nothing is
said of hands in so many drawings around."""
ROLLING, HIDING = 1.5, 1.25
"""So many times as far a foot may go that stands on one end of its sole, or in the last drawing before it swings; and
one that hides in between."""
HIDES_FOR = 0.5
"""What a foot does that hides for more than such a share of a step is not known."""


@dataclass(frozen=True, slots=True)
class Slide:
    """How far a standing foot goes over the ground since the drawing (index) in which it showed last, px forward."""

    since: int
    travel: float


def _beside(one: tuple[str, int], other: tuple[str, int]) -> bool:
    """Whether two landmarks, by name and drawing (index), are a hand, or both hands, in drawings that lie close by."""
    hands = one[0].startswith("hand") and other[0].startswith("hand")
    return hands and abs(one[1] - other[1]) <= CLOSE_BY


@dataclass(frozen=True, kw_only=True)
class Scene:
    """A walk to judge."""

    brief: Brief
    track: Track
    reading: Reading
    width: int

    @property
    def asked(self) -> WalkBrief:
        """What the brief asks of the walk."""
        return asked_of(self.brief)

    @property
    def leniency(self) -> float:
        return self.brief.leniency

    def px(self, share_of_leg: float, least_px: float) -> float:
        """A tolerance in px: a share of the leg's length, at least some px that grow with frames wider than 960.

        Of figures whose joints were told from pictures somewhat more.
        """
        least = least_px * max(1.0, self.width / 960)
        return max(share_of_leg * self.reading.leg, least) * self.leniency * self.unsure

    @cached_property
    def by_eye(self) -> bool:
        """Whether it was told from pictures, and not placed by a person in most drawings."""
        return self._surest < SURE

    @cached_property
    def unsure(self) -> float:
        """By how much more a figure's joints may be off that were found in pictures."""
        if not self.by_eye:
            return 1.0
        if not self.reading.told:
            return UNSURE_OUTLINE
        return UNSURE_WHOLE if self.asked.figure == "whole" else UNSURE

    def widened(self, tolerance: float, measures: Sequence[float]) -> float:
        """A tolerance, as wide as measures scatter that were told from pictures and should be alike."""
        return grain.widened(tolerance, measures) if self.by_eye else tolerance

    @cached_property
    def judged(self) -> frozenset[int]:
        """Indices of the drawings that are no part of a standing start or a stop."""
        steps, paces = self.reading.steps, self.reading.paces
        out = list(itertools.takewhile(lambda p: not p.judged, paces))
        into = list(itertools.takewhile(lambda p: not p.judged, reversed(paces)))
        first, last = (out[-1].end.time if out else -math.inf), (into[-1].start.time if into else math.inf)
        return frozenset(s.index for s in steps if first <= s.clock <= last)

    @cached_property
    def paces(self) -> tuple[Pace, ...]:
        """The steps that are judged."""
        return tuple(p for p in self.reading.paces if p.judged)

    @cached_property
    def limp(self) -> Limp | None:
        """How even its steps are in time; None without a step onto each foot."""
        return limp_of(self.reading, self.paces, self.leniency * self.unsure)

    @cached_property
    def off(self) -> dict[tuple[str, int], Off]:
        """Landmarks that lie where neither their neighbours nor the other steps lead, by name and drawing (index)."""
        limps = self.limp is not None and self.limp.shows
        told_apart = self.asked.sides == "told"
        found = off_places(
            self.reading, self._px_of, self.judged, by_eye=self.by_eye, told_apart=told_apart, limps=limps
        )
        if not self.by_eye or told_apart:
            return found
        leaps = [k for k, off in found.items() if math.hypot(off.along, off.across) > OTHERS_HAND * self.reading.leg]
        return {key: off for key, off in found.items() if not any(_beside(key, leap) for leap in leaps)}

    def _px_of(self, name: str) -> Callable[[float, float], float]:
        """Tolerances of a landmark: heads, which show as they are, may be off no more than anywhere, hands hardly."""
        less = 1.0 if name not in ALL_ALONG else self.unsure if name == "head" else max(1.0, self.unsure / UNSURE)
        return lambda share, least: self.px(share, least) / less

    @cached_property
    def sizes(self) -> Sizes:
        """How long its limbs are, and how large its body is, drawing by drawing."""
        return Sizes(self.reading, self.leniency, self.unsure, self.width, by_eye=self.by_eye)

    def explained(self, name: str, index: int, within: int = 2) -> bool:
        """Whether a limb of another length, in a drawing or in one so near to it, explains where a landmark is."""
        if name == "head":
            return self._is_off_upper("trunk", index, within)
        side: Side = "near" if name.endswith("near") else "far"
        if name.startswith("hand"):
            parts = ("trunk", f"{side} upper arm", f"{side} forearm")
            return any(self._is_off_upper(part, index, within) for part in parts)
        return self.limb_near(side, index, within)

    def _is_off_upper(self, name: str, index: int, within: int) -> bool:
        return any((name, i) in self.sizes.upper_off for i in range(index - within, index + within + 1))

    @cached_property
    def slid(self) -> dict[tuple[Side, int], Slide]:
        """How far a standing foot slides over the ground, by side and the drawing (index) up to which it does.

        Only where that is too far, and no limb of another length or hips out of their place explain it.
        """
        found: dict[tuple[Side, int], Slide] = {}
        slides = self._support_travels
        allowed = self.px(SLIDES, SLIDES_PX)
        least = self.widened(allowed, [s.travel for s in slides.values()])
        for (side, index), slide in slides.items():
            one, other = self.reading.steps[slide.since], self.reading.steps[index]
            most = max(least, self._times_as_far(side, one, other) * allowed)
            if abs(slide.travel) <= most or other.index not in self.judged:
                continue
            if any((side, s.index) in self.sizes.limbs_off or ("hip", s.index) in self.off for s in (one, other)):
                continue
            found[side, index] = slide
        return found

    @cached_property
    def _support_travels(self) -> dict[tuple[Side, int], Slide]:
        """How far each foot goes over the ground while it stands, by side and drawing (index).

        From the drawing before it, or the one in which the same end of its sole showed last: a foot may slide behind
        the other one.
        """
        reading = self.reading
        found: dict[tuple[Side, int], Slide] = {}
        longest = HIDES_FOR * float(np.mean([p.frames for p in reading.paces] or [0.0]))
        for side, stand in ((s.side, reading.steps[s.first : s.last + 1]) for s in reading.stands):
            for count, other in enumerate(stand):
                for one in reversed(stand[:count]):
                    if one.index < other.index - 1 and other.clock - one.clock > longest:
                        break
                    travel = sole_travel(one, other, side, reading.facing, reading.belt)
                    if travel is not None:
                        found[side, other.index] = Slide(since=one.index, travel=travel)
                        break
        return found

    def _times_as_far(self, side: Side, one: Step, other: Step) -> float:
        """How many times as far a foot may go as it stands.

        As it leaves the ground a toe may begin to go before it is seen to be up, and in pictures a foot is told less
        surely that stands on one end of its sole, or hides in between.
        """
        leaves = other.index + 1 == len(self.reading.steps) or not self.reading.stands_at(other.index + 1, side)
        if leaves or (self.by_eye and not all(lies_flat(step, side) for step in (one, other))):
            return ROLLING
        return HIDING if self.by_eye and other.index > one.index + 1 else 1.0

    @cached_property
    def support_heights(self) -> list[float]:
        """How high each standing foot is above the ground, px."""
        return [
            high
            for side, step in itertools.product(SIDES, self.reading.steps)
            if self.reading.stands_at(step.index, side) and (high := self.reading.sole(step, side)) is not None
        ]

    def limb_near(self, side: Side, index: int, within: int = 2) -> bool:
        """Whether a leg has a part of another length in a drawing, or in one so near to it."""
        return any((side, i) in self.sizes.limbs_off for i in range(index - within, index + within + 1))

    def merged(self, found: Sequence[Finding]) -> list[Finding]:
        """Findings of one code and part on drawings that follow each other as one."""
        return merge_runs(found, {(a.last_frame, b.frame) for a, b in itertools.pairwise(self.reading.steps)})

    def finding(self, code: str, steps: Sequence[Step], *, times: float, **told: Any) -> Finding:
        """A finding on these drawings, so many times its tolerance off; its principle is the catalogue's."""
        return Finding(
            code=code,
            principle=faults("walk")[code].principle,
            first_frame=steps[0].frame,
            last_frame=steps[-1].last_frame,
            severity=severity(times),
            confidence=surety([s.confidence for s in steps], times),
            **told,
        )

    def whole_clip(self, code: str, *, times: float, **told: Any) -> Finding:
        """A finding about the whole clip."""
        return Finding(
            code=code,
            principle=faults("walk")[code].principle,
            first_frame=1,
            last_frame=self.track.exposures[-1].last_frame,
            severity=severity(times),
            confidence=surety([self._surest], max(1.5, times)),
            **told,
        )

    @property
    def _surest(self) -> float:
        return float(np.median([s.confidence for s in self.reading.steps]))

    def steps_between(self, start: float, end: float) -> list[Step]:
        """The drawings from one time to another, both included."""
        return [s for s in self.reading.steps if start - 1e-6 <= s.clock <= end + 1e-6]

    def within(self, pace: Pace) -> list[Step]:
        """The drawings of a step, from its contact to the one before the next."""
        return [s for s in self.reading.steps if pace.start.time - 1e-6 <= s.clock < pace.end.time - 1e-6]


def look(track: Track, brief: Brief, width: int) -> Scene | None:
    """A track as a scene; None where no walk could be told."""
    reading = read(track, brief)
    return None if reading is None else Scene(brief=brief, track=track, reading=reading, width=width)
