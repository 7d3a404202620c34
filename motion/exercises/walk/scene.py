"""What every check of a walk looks at: a clip as read, the brief, and what was worked out once for all of them."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping, Sequence
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
from motion.exercises.walk.smooth import ALL_ALONG, Off, off_places
from motion.exercises.walk.soles import lies_flat, sole_travel
from motion.exercises.walk.steps import Pace, Step
from motion.findings import Finding, merge_runs, severity, surety
from motion.track import Track

SLIDES, SLIDES_PX = 0.03, 2.0
UNSURE, UNSURE_WHOLE, UNSURE_OUTLINE, SURE = 1.25, 1.4, 1.8, 0.985
"""Legs, whole figures, and those of which the outline alone is known may be off by so many times as much where they
are told less surely than the last of these."""
ROLLING = 1.5
"""So many times as far a foot may go that stands on one end of its sole, or in the last drawing before it swings."""
LIMB, ARM, LIMB_PX = 0.08, 0.12, 2.0
"""A limb off its own median by more than the larger of this share (of arms the latter) and px is shorter or longer."""
READABLE = 0.3
"""No drawing is judged that is told less surely."""
VOLUME = 0.12
"""A body, or a head, of an area off the usual one by more than this share is larger or smaller."""
Key = tuple[Side | None, int]
"""A side, None where it has none, and a drawing (index)."""
Parts = dict[Side | None, tuple[str, str, str]]
UPPER: tuple[tuple[Parts, float], ...] = (
    ({None: ("trunk", "hip", "neck")}, LIMB),
    ({side: (f"{side} upper arm", "neck", f"elbow_{side}") for side in SIDES}, ARM),
    ({side: (f"{side} forearm", f"elbow_{side}", f"hand_{side}") for side in SIDES}, ARM),
)
"""What a whole figure has besides its legs that keeps its length: by side its name, from where to where; how much."""


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
        return limp_of(self.reading, self.paces, self.leniency)

    @cached_property
    def off(self) -> dict[tuple[str, int], Off]:
        """Landmarks that lie where neither their neighbours nor the other steps lead, by name and drawing (index)."""
        limps = self.limp is not None and self.limp.shows
        return off_places(self.reading, self._px_of, self.judged, by_eye=self.by_eye, limps=limps)

    def _px_of(self, name: str) -> Callable[[float, float], float]:
        """Tolerances of a landmark: heads and hands, which show as they are, may be off no more than anywhere."""
        less = self.unsure if name in ALL_ALONG else 1.0
        return lambda share, least: self.px(share, least) / less

    @cached_property
    def limbs_off(self) -> dict[tuple[Side, int], LimbOff]:
        """Legs of which a part is shorter or longer than it usually is, by side and drawing (index)."""
        parts = {"thigh": ("hip", "knee"), "shin": ("knee", "ankle")}
        lengths: dict[str, dict[Key, float]] = {
            name: {
                (side, s.index): v
                for side in SIDES
                for s in self.reading.steps
                if (v := _length(s, start, end, side)) is not None
            }
            for name, (start, end) in parts.items()
        }
        if self.by_eye:
            lengths = _without_slips(lengths)
        found: dict[tuple[Side, int], LimbOff] = {}
        for name, both in lengths.items():
            off = self._of_another_length(both, LIMB)
            if name == "thigh":
                off = _without_hips(off, both)
            for side, step in itertools.product(SIDES, self.reading.steps):
                own, known = off.get((side, step.index)), found.get((side, step.index))
                if own is not None and (known is None or known.times < own[1]):
                    found[side, step.index] = LimbOff(name, side, both[side, step.index], *own)
        return found

    @cached_property
    def upper_off(self) -> dict[tuple[str, int], LimbOff]:
        """Trunk and parts of arms that are shorter or longer than they usually are, by name and drawing (index)."""
        found: dict[tuple[str, int], LimbOff] = {}
        for parts, share in UPPER:
            both: dict[Key, float] = {
                (side, s.index): v
                for side, (_, start, end) in parts.items()
                for s in self.reading.steps
                if (v := _between(s, start, end)) is not None
            }
            for (side, index), own in self._of_another_length(both, share).items():
                name = parts[side][0]
                found[name, index] = LimbOff(name, None, both[side, index], *own)
        return found

    def _of_another_length(self, lengths: Mapping[Key, float], share: float) -> dict[Key, tuple[float, float]]:
        """Of a part's lengths, by side and drawing, those off their side's own median: that, and how many tolerances.

        What the same part, or the other side's, is at that moment of another step is no fault.
        """
        found: dict[Key, tuple[float, float]] = {}
        sides = {side for side, _ in lengths}
        usual = {side: float(np.median(own)) for side in sides if len(own := _of_side(lengths, side)) >= 3}
        # Few of one side's may show: by eye it is as well as long as either side's usually is.
        both = float(np.median(list(lengths.values()))) if self.by_eye and lengths else None
        off = {key: _beyond(length, usual[key[0]], both) for key, length in lengths.items() if key[0] in usual}
        least = LIMB_PX * max(1.0, self.width / 960)
        for side, middle in usual.items():
            allowed = max(share * middle, least) * self.leniency * self.unsure
            most = self.widened(allowed, _of_side(lengths, side))
            for key, away in off.items():
                if key[0] == side and abs(away) > most and not (self.by_eye and self._is_so_in_others(key, off)):
                    found[key] = middle, abs(away) / allowed
        return found

    def _is_so_in_others(self, key: Key, off: Mapping[Key, float]) -> bool:
        """Whether what is off in a drawing is so as well at the same moment of another step."""
        side, index = key
        moment, drawing = self._moment(side, index), self.reading.steps[index].drawing
        if moment is None:
            return False
        for (other_side, other), away in off.items():
            when = self._moment(other_side, other)
            if when is None or when[0] == moment[0] or self.reading.steps[other].drawing == drawing:
                continue
            same = when[1] == moment[1] and abs(when[2] - moment[2]) < grain.SAME_MOMENT
            if same and away * off[key] > 0 and abs(away) > grain.AS_FAR * abs(off[key]):
                return True
        return False

    def _moment(self, side: Side | None, index: int) -> tuple[int, bool, float] | None:
        """In which step a drawing lies, whether a side's foot swings in it, and how much of it has gone by."""
        phase = self.reading.phase(index)
        if phase is None:
            return None
        pace = next(p for p in self.reading.paces if p.number == phase[0])
        return phase[0], side is not None and pace.side == side, phase[1]

    @cached_property
    def bodies_off(self) -> dict[int, float]:
        """Bodies (of whole figures heads) larger or smaller than usual: by which share, by drawing (index)."""
        seen = [s for s in self.reading.steps if s.body is not None and not s.body.clipped and s.confidence >= READABLE]
        if len(seen) < 3:
            return {}
        areas = {s.index: s.body.area for s in seen if s.body is not None}
        usual = float(np.median(list(areas.values())))
        off: dict[Key, float] = {(None, index): area / usual - 1 for index, area in areas.items()}
        most = self.widened(VOLUME * self.leniency, list(off.values()))
        return {
            key[1]: share
            for key, share in off.items()
            if abs(share) > most and not (self.by_eye and self._is_so_in_others(key, off))
        }

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
        travels = self._support_travels
        allowed = self.widened(self.px(SLIDES, SLIDES_PX), list(travels.values()))
        for (side, index), travel in travels.items():
            one, other = self.reading.steps[index : index + 2]
            most = ROLLING * allowed if self._rolls(side, one, other) else allowed
            if abs(travel) <= most or other.index not in self.judged:
                continue
            if any((side, s.index) in self.limbs_off or ("hip", s.index) in self.off for s in (one, other)):
                continue
            found[side, index] = travel
        return found

    @cached_property
    def _support_travels(self) -> dict[tuple[Side, int], float]:
        """How far each foot goes over the ground from a drawing (index) to the next that stands in both, px forward."""
        found: dict[tuple[Side, int], float] = {}
        reading = self.reading
        for side, (one, other) in itertools.product(SIDES, itertools.pairwise(reading.steps)):
            if reading.stands_at(one.index, side) and reading.stands_at(other.index, side):
                travel = sole_travel(one, other, side, reading.facing, reading.belt)
                if travel is not None:
                    found[side, one.index] = travel
        return found

    def _rolls(self, side: Side, one: Step, other: Step) -> bool:
        """Whether a foot is about to leave, or was told from pictures while it stands on one end of its sole.

        As it leaves the ground a toe may begin to go before it is seen to be up.
        """
        leaves = other.index + 1 == len(self.reading.steps) or not self.reading.stands_at(other.index + 1, side)
        return leaves or (self.by_eye and not all(lies_flat(step, side) for step in (one, other)))

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


def _of_side(measures: Mapping[Key, float], side: Side | None) -> list[float]:
    return [value for (own, _), value in measures.items() if own == side]


def _without_slips(lengths: Mapping[str, Mapping[Key, float]]) -> dict[str, dict[Key, float]]:
    """Thighs' and shins' lengths, where one is as much longer as the other is shorter as both usually are.

    Along a leg that is hardly bent a knee is told least: of one that slipped the whole leg still has its length.
    """
    usual = {name: float(np.median(list(own.values()))) if own else 0.0 for name, own in lengths.items()}
    thighs, shins = dict(lengths["thigh"]), dict(lengths["shin"])
    for key in thighs.keys() & shins.keys():
        longer, shorter = thighs[key] - usual["thigh"], usual["shin"] - shins[key]
        if longer * shorter > 0:
            slip = min(longer, shorter, key=abs)
            thighs[key], shins[key] = thighs[key] - slip, shins[key] + slip
    return {"thigh": thighs, "shin": shins}


def _without_hips(
    off: Mapping[Key, tuple[float, float]], lengths: Mapping[Key, float]
) -> dict[Key, tuple[float, float]]:
    """Thighs of another length, but for pairs that both are longer, or shorter: there the hip is out of its place."""

    def too_long(side: Side, index: int) -> bool | None:
        own = off.get((side, index))
        return None if own is None else lengths[side, index] > own[0]

    return {
        (side, index): own
        for (side, index), own in off.items()
        if too_long(SIDES[0], index) is None or too_long(SIDES[0], index) is not too_long(SIDES[1], index)
    }


def _beyond(length: float, own: float, both: float | None) -> float:
    """By how much a length is more (below 0: less) than one usual one, and than the other if there is one."""
    away = length - own, length - (own if both is None else both)
    return min(away, key=abs) if away[0] * away[1] > 0 else 0.0


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
