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
from motion.exercises.walk.asked import asked_of
from motion.exercises.walk.figure import SIDES, Side
from motion.exercises.walk.limp import Limp, limp_of
from motion.exercises.walk.reading import Reading, read
from motion.exercises.walk.smooth import ALL_ALONG, Off, off_places
from motion.exercises.walk.soles import sole_travel
from motion.exercises.walk.steps import Pace, Step
from motion.findings import Finding, merge_runs, severity, surety
from motion.track import Track

SLIDES, SLIDES_PX = 0.03, 2.0
UNSURE, SURE = 1.4, 0.985
"""Whole figures less surely told than the latter may be off by so many times as much."""
LEAVING = 1.5
"""So many times as far a foot may go in the last drawing before it swings."""
LIMB, ARM, LIMB_PX = 0.08, 0.12, 2.0
"""A limb off its own median by more than the larger of this share (of arms the latter) and px is shorter or longer."""
UPPER = (
    ("trunk", "hip", "neck", LIMB),
    *((f"{side} upper arm", "neck", f"elbow_{side}", ARM) for side in SIDES),
    *((f"{side} forearm", f"elbow_{side}", f"hand_{side}", ARM) for side in SIDES),
)
"""What a whole figure has besides its legs that keeps its length: its name, from where to where it goes, how much."""


@dataclass(frozen=True, slots=True)
class LimbOff:
    """A limb of another length in one drawing: its length, its usual one, and how many times the tolerance that is."""

    name: str
    side: Side | None
    length: float
    usual: float
    times: float


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

        Of whole figures, whose joints are told less surely from pictures, somewhat more.
        """
        least = least_px * max(1.0, self.width / 960)
        return max(share_of_leg * self.reading.leg, least) * self.leniency * self.unsure

    @cached_property
    def unsure(self) -> float:
        """By how much more a whole figure's joints may be off that were found in pictures."""
        return UNSURE if self.asked.figure == "whole" and self._surest < SURE else 1.0

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
        return limp_of(self.reading, self.paces, self.leniency)

    @cached_property
    def off(self) -> dict[tuple[str, int], Off]:
        """Landmarks that lie where neither their neighbours nor the other steps lead, by name and drawing (index)."""
        limps = self.limp is not None and self.limp.shows
        return off_places(self.reading, self._px_of, self.judged, cycle=self.brief.loop, limps=limps)

    def _px_of(self, name: str) -> Callable[[float, float], float]:
        """Tolerances of a landmark: heads and hands, which show as they are, may be off no more than anywhere."""
        less = self.unsure if name in ALL_ALONG else 1.0
        return lambda share, least: self.px(share, least) / less

    @cached_property
    def limbs_off(self) -> dict[tuple[Side, int], LimbOff]:
        """Legs of which a part is shorter or longer than it usually is, by side and drawing (index)."""
        found: dict[tuple[Side, int], LimbOff] = {}
        for name, start, end in (("thigh", "hip", "knee"), ("shin", "knee", "ankle")):
            for side in SIDES:
                lengths = {s.index: v for s in self.reading.steps if (v := _length(s, start, end, side)) is not None}
                if len(lengths) < 3:
                    continue
                usual = float(np.median(list(lengths.values())))
                allowed = max(LIMB * usual, LIMB_PX * max(1.0, self.width / 960)) * self.leniency * self.unsure
                for index, length in lengths.items():
                    times = abs(length - usual) / allowed
                    known = found.get((side, index))
                    if times > 1 and (known is None or known.times < times):
                        found[side, index] = LimbOff(name, side, length, usual, times)
        return found

    @cached_property
    def upper_off(self) -> dict[tuple[str, int], LimbOff]:
        """Trunk and parts of arms that are shorter or longer than they usually are, by name and drawing (index)."""
        found: dict[tuple[str, int], LimbOff] = {}
        for name, start, end, share in UPPER:
            lengths = {s.index: v for s in self.reading.steps if (v := _between(s, start, end)) is not None}
            if len(lengths) < 3:
                continue
            usual = float(np.median(list(lengths.values())))
            allowed = max(share * usual, LIMB_PX * max(1.0, self.width / 960)) * self.leniency * self.unsure
            for index, length in lengths.items():
                if abs(length - usual) > allowed:
                    found[name, index] = LimbOff(name, None, length, usual, abs(length - usual) / allowed)
        return found

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
        return any((name, i) in self.upper_off for i in range(index - within, index + within + 1))

    @cached_property
    def usual(self) -> dict[str, float]:
        """How long thigh and shin usually are, px: the medians of both sides where they show whole."""
        found = {}
        for name, start, end in (("thigh", "hip", "knee"), ("shin", "knee", "ankle")):
            lengths = [
                v for s in self.reading.steps for side in SIDES if (v := _length(s, start, end, side)) is not None
            ]
            found[name] = float(np.median(lengths)) if lengths else self.reading.leg / 2
        return found

    @cached_property
    def usual_arm(self) -> tuple[float, float]:
        """How long upper arm and forearm usually are, px: the medians of both sides, whether they show or not."""
        found = []
        for start, end in (("neck", "elbow"), ("elbow", "hand")):
            lengths = [
                math.dist(points[one], points[other])
                for s in self.reading.steps
                for side in SIDES
                if (points := s.figure.points if s.figure else {})
                and (one := start if start == "neck" else f"{start}_{side}") in points
                and (other := f"{end}_{side}") in points
            ]
            found.append(float(np.median(lengths)) if lengths else self.reading.leg / 3)
        return found[0], found[1]

    @cached_property
    def slid(self) -> dict[tuple[Side, int], float]:
        """How far a standing foot slides over the ground from a drawing (index) to the next, px forward, by side.

        Only where that is too far, and no limb of another length or hips out of their place explain it.
        """
        found: dict[tuple[Side, int], float] = {}
        reading, allowed = self.reading, self.px(SLIDES, SLIDES_PX)
        for side, (one, other) in itertools.product(SIDES, itertools.pairwise(reading.steps)):
            if not (reading.stands_at(one.index, side) and reading.stands_at(other.index, side)):
                continue
            travel = sole_travel(one, other, side, reading.facing, reading.belt)
            # As it leaves the ground a toe may begin to go before it is seen to be up.
            leaves = other.index + 1 == len(reading.steps) or not reading.stands_at(other.index + 1, side)
            most = LEAVING * allowed if leaves else allowed
            if travel is None or abs(travel) <= most or other.index not in self.judged:
                continue
            if any((side, s.index) in self.limbs_off or ("hip", s.index) in self.off for s in (one, other)):
                continue
            found[side, one.index] = travel
        return found

    def limb_near(self, side: Side, index: int, within: int = 2) -> bool:
        """Whether a leg has a part of another length in a drawing, or in one so near to it."""
        return any((side, i) in self.limbs_off for i in range(index - within, index + within + 1))

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


def _length(step: Step, start: str, end: str, side: Side) -> float | None:
    """How long a part of a leg is that shows whole, px."""
    return _between(step, "hip" if start == "hip" else f"{start}_{side}", f"{end}_{side}")


def _between(step: Step, start: str, end: str) -> float | None:
    """How far apart two joints are that show whole, px."""
    names = (start, end)
    if step.figure is None or not step.figure.firm.issuperset(names):
        return None
    one, other = (step.figure.points[name] for name in names)
    return math.dist(one, other)


def look(track: Track, brief: Brief, width: int) -> Scene | None:
    """A track as a scene; None where no walk could be told."""
    reading = read(track, brief)
    return None if reading is None else Scene(brief=brief, track=track, reading=reading, width=width)
