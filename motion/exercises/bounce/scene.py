"""What every check looks at: a clip as read, the brief, and what was worked out once for all of them."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from motion.brief import BounceBrief, Brief
from motion.exercises.bounce import explain
from motion.exercises.bounce import reading as bounce
from motion.exercises.bounce.asked import asked_of
from motion.exercises.bounce.explain import Verdict
from motion.exercises.bounce.gravity import consensus_gravity
from motion.exercises.bounce.hops import LEAST_HOP_D, Reading, Step
from motion.findings import Finding, merge_runs
from motion.track import Track

NEVER_NEAR_D = 1.0
"""A ball that never comes nearer to the ground (in diameters) never meets it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Scene:
    """A bounce to judge. ``gravity`` is the clip's own, px per frame²; None where no hop tells it."""

    brief: Brief
    track: Track
    reading: Reading
    width: int
    gravity: float | None
    verdicts: tuple[Verdict, ...]

    @property
    def without_bounce(self) -> Literal["stays down", "stays up"] | None:
        """Whether the ball never leaves the ground, or never meets it; then there is no bounce to judge."""
        reading = self.reading
        if max(s.height for s in reading.steps) < LEAST_HOP_D * reading.diameter:
            return "stays down"
        lowest = min(s.clearance for s in reading.steps)
        return "stays up" if lowest > NEVER_NEAR_D * reading.diameter else None

    @property
    def asked(self) -> BounceBrief:
        """What the brief asks of the ball."""
        return asked_of(self.brief)

    @property
    def leniency(self) -> float:
        return self.brief.leniency

    def px(self, share_of_diameter: float, least_px: float) -> float:
        """A tolerance in px: a share of the diameter, at least some px that grow with frames wider than 960."""
        least = least_px * max(1.0, self.width / 960)
        return max(share_of_diameter * self.reading.diameter, least) * self.leniency

    def merged(self, found: Sequence[Finding]) -> list[Finding]:
        """Findings of one code on drawings that follow each other as one."""
        return merge_runs(found, {(a.last_frame, b.frame) for a, b in itertools.pairwise(self.reading.steps)})

    def surety(self, steps: Sequence[Step]) -> list[float]:
        """The confidences of the shapes of some steps."""
        return [s.shape.confidence for s in steps]


def look(track: Track, brief: Brief, width: int) -> Scene | None:
    """Everything the checks need; None when the track tells no bounce."""
    reading = bounce.read(track)
    if reading is None:
        return None
    gravity = consensus_gravity(reading)
    return Scene(
        brief=brief,
        track=track,
        reading=reading,
        width=width,
        gravity=gravity,
        verdicts=tuple(explain.explain(reading, brief.leniency, width, gravity)),
    )
