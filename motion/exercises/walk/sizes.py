"""How long a walker's limbs are and how large its body is, drawing by drawing, and where they are not as usual."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from motion.exercises.walk import grain
from motion.exercises.walk.figure import SIDES, Side
from motion.exercises.walk.reading import Reading
from motion.exercises.walk.steps import Step

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


@dataclass(frozen=True)
class Sizes:
    """The sizes of a walk as read; tolerances are ``leniency`` times as wide, and ``unsure`` times for joints.

    ``by_eye`` where it was told from pictures, of a frame so many px wide.
    """

    reading: Reading
    leniency: float
    unsure: float
    width: int
    by_eye: bool

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
            if name == "thigh" and self.by_eye:
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
            most = self._widened(allowed, _of_side(lengths, side))
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
            alike = away * off[key] > 0 and abs(away) > grain.AS_FAR * abs(off[key])
            if not alike or self.reading.steps[other].drawing == drawing:
                continue
            when = self._moment(other_side, other)
            if when is None or when[0] == moment[0] or when[1] != moment[1]:
                continue
            if abs(when[2] - moment[2]) < grain.SAME_MOMENT:
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
        most = self._widened(VOLUME * self.leniency, list(off.values()))
        return {
            key[1]: share
            for key, share in off.items()
            if abs(share) > most and not (self.by_eye and self._is_so_in_others(key, off))
        }

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

    def _widened(self, tolerance: float, measures: list[float]) -> float:
        return grain.widened(tolerance, measures) if self.by_eye else tolerance


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
