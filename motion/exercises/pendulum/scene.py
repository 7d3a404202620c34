"""What every check of a pendulum looks at: a clip as read, the brief, and what was worked out once for all of them."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from statistics import median
from typing import Any

from motion.brief import Brief, PendulumBrief
from motion.catalogue import faults
from motion.exercises.pendulum.asked import asked_of, drags
from motion.exercises.pendulum.carry import DRIVES, Carry, in_its_frame
from motion.exercises.pendulum.reading import Reading, Swing, read
from motion.exercises.pendulum.smooth import Off, off_place
from motion.exercises.pendulum.steps import Step
from motion.findings import Finding, merge_runs, severity, surety
from motion.track import Track

SLIPS_R, SLIPS_PX = 0.02, 2.0
"""Ends that belong together lie no farther apart: shares of the length, px."""
NEAR_EXTREME = 0.10
"""A drawing within such a share of an extreme's angle is at it."""
ROUND = 0.65
"""A weight that is found no more surely than this in half of the drawings is no round thing."""


@dataclass(frozen=True, kw_only=True)
class Scene:
    """A pendulum to judge; one that is carried is read as if its pivot stayed, and ``carry`` tells where that is."""

    brief: Brief
    track: Track
    reading: Reading
    width: int
    carry: Carry | None = None

    @property
    def asked(self) -> PendulumBrief:
        """What the brief asks of the pendulum."""
        return asked_of(self.brief)

    @property
    def jointed(self) -> bool:
        """Whether it hangs in parts: a chain or a tail, whose end need not keep its distance from the pivot."""
        return self.asked.hangs != "bob"

    @property
    def shapeless(self) -> bool:
        """Whether what hangs is no round weight, so that its outline tells only about where it is."""
        found = [s.shape for s in self.reading.steps if s.shape.source != "placed"]
        alone = not self.jointed and self.carry is None and bool(found)
        return alone and median([shape.confidence for shape in found]) < ROUND

    @property
    def drags(self) -> bool:
        """Whether later parts must come later."""
        return drags(self.asked)

    @property
    def leniency(self) -> float:
        return self.brief.leniency

    @cached_property
    def off(self) -> Mapping[int, Off]:
        """The drawings, by index, that do not lie where their neighbours lead."""
        return off_place(self.reading, self.leniency, self.width)

    def near_extreme(self, index: int) -> bool:
        """Whether a drawing stands within a tenth of an extreme of its swing."""
        reading = self.reading
        angle = reading.steps[index].angle - reading.middle
        for swing in reading.swings:
            if index not in swing.steps:
                continue
            for extreme in (swing.start, swing.end):
                far = extreme.angle - reading.middle
                near = angle * far > 0 and abs(angle) >= (1 - NEAR_EXTREME) * abs(far)
                if extreme.step == index or (extreme.whole and near):
                    return True
        return False

    def px(self, share_of_length: float, least_px: float) -> float:
        """A tolerance in px: a share of the line's length, at least some px that grow with frames wider than 960."""
        least = least_px * max(1.0, self.width / 960)
        return max(share_of_length * self.reading.length, least) * self.leniency

    @property
    def slip(self) -> float:
        """How far a line's upper end may lie off its pivot, px."""
        return self.px(SLIPS_R, SLIPS_PX)

    def merged(self, found: Sequence[Finding]) -> list[Finding]:
        """Findings of one code on drawings that follow each other as one."""
        return merge_runs(found, {(a.last_frame, b.frame) for a, b in itertools.pairwise(self.reading.steps)})

    def steps_of(self, swing: Swing) -> list[Step]:
        """The drawings of a swing, both extremes among them."""
        return [self.reading.steps[i] for i in swing.steps]

    def finding(self, code: str, steps: Sequence[Step], *, times: float, **told: Any) -> Finding:
        """A finding on these drawings, so many times its tolerance off; its principle is the catalogue's."""
        return Finding(
            code=code,
            principle=faults("pendulum")[code].principle,
            first_frame=steps[0].frame,
            last_frame=steps[-1].last_frame,
            severity=severity(times),
            confidence=surety([s.shape.confidence for s in steps], times),
            **told,
        )

    def whole_clip(self, code: str, *, times: float, **told: Any) -> Finding:
        """A finding about the whole clip."""
        return Finding(
            code=code,
            principle=faults("pendulum")[code].principle,
            first_frame=1,
            last_frame=self.track.exposures[-1].last_frame,
            severity=severity(times),
            confidence=surety([s.shape.confidence for s in self.reading.steps], max(1.5, times)),
            **told,
        )


def look(track: Track, brief: Brief, width: int) -> Scene | None:
    """Everything the checks need; None when the track tells no pendulum."""
    carried = in_its_frame(track) if asked_of(brief).pivot == "moved" else None
    seen, carry = carried or (track, None)
    reading = read(seen, asked_of(brief).rest_angle)
    if reading is None:
        return None
    if carry is not None and carry.until:
        # It drives while it moves, and for a while after.
        swing = median([s.frames for s in reading.swings]) if reading.swings else 0.0
        reading = read(seen, asked_of(brief).rest_angle, carry.until + DRIVES * swing) or reading
    return Scene(brief=brief, track=track, reading=reading, width=width, carry=carry)
