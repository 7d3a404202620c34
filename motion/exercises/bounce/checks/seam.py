"""Whether a cycle closes: its last drawing is one step before its first."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.checks import overlay
from motion.exercises.bounce.hops import Step
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding, severity, surety

SEAM_D = 0.1
SHAPE = 0.25
"""A shape that changes its area or its ratio of axes by a greater share over the seam jumps."""
SAME_D = 0.03
TOP_SHARE = 0.10
TOLD_BY = 4
"""So many drawings on one side of the seam tell where the ball is on its other side."""
MOST_ADDED = 4
MENDS = 0.35
"""Frames added or taken away mend a cycle when they leave no more than this share of the jump."""

Point = NDArray[np.float64]
"""(2,) px: x, and height up."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Seam:
    """How far the clip's first drawing lies from where its end leads: (2,) px, and the frames to add (or take out)."""

    off: Point
    mend: int

    @property
    def size(self) -> float:
        return float(np.hypot(*self.off))


def check(scene: Scene) -> Iterator[Finding]:
    """``timing.loop``: the cycle does not close.

    Measured: how far the first drawing lies from where the last ones lead, or the last from where the first ones come
    from, whichever is less, px. Tolerance: 0.1 D. A last drawing equal to the first is right where it stands at a top.
    The shape must not jump over the seam either: by 25 % of its area, or of the ratio of its axes, in the air.
    """
    steps = scene.reading.steps
    if not scene.brief.loop or len(steps) < TOLD_BY or steps[0].frame != 1 or not _runs_to_the_end(scene):
        return
    allowed = SEAM_D * scene.reading.diameter * scene.leniency
    seam = _seam(scene)
    if seam is not None and seam.size > allowed:
        yield _of_place(scene, seam, allowed)
        return
    jump, limit = _shape_jump(scene), SHAPE * scene.leniency
    if jump > limit:
        yield _of_shape(scene, jump, limit)


def _runs_to_the_end(scene: Scene) -> bool:
    return scene.reading.steps[-1].last_frame == scene.track.exposures[-1].last_frame


def _seam(scene: Scene) -> Seam | None:
    """The step over the seam against the smooth motion on either side; None where neither side tells it."""
    steps = scene.reading.steps
    if _repeats_a_top(scene):
        return None
    period = float(steps[-1].last_frame)
    last = _nearest(scene, range(len(steps) - 1, -1, -1))
    first = _nearest(scene, range(len(steps)))
    seams: list[Seam] = []
    if last:
        seams += _against(scene, last, steps[0], steps[0].frame + period, 1)
    if first:
        seams += _against(scene, first, steps[-1], steps[-1].frame - period, -1)
    if not seams and not last and not first:
        seams = [Seam(off=np.array([steps[0].x - steps[-1].x, 0.0]), mend=0)]
    return min(seams, key=lambda s: s.size, default=None)


def _nearest(scene: Scene, order: range) -> list[Step]:
    """The drawings of one flight that lie next to the seam, nearest first; none where a contact does."""
    contacts = {i for c in scene.reading.contacts for i in c.steps} | set(scene.reading.rest)
    found: list[Step] = []
    for index in order:
        if index in contacts or len(found) == TOLD_BY:
            break
        found.append(scene.reading.steps[index])
    return found if len(found) >= 2 else []


def _against(scene: Scene, told: Sequence[Step], other: Step, time: float, way: int) -> Iterator[Seam]:
    """A drawing beyond the seam at that time (frames) against each smooth motion of those on this side of it."""
    here = np.array([other.x, other.height])
    contacts = {i for c in scene.reading.contacts for i in c.steps}
    touches = scene.reading.steps.index(other) in contacts
    usual = told[0].frames
    for curve in _motions(scene, told):
        off = here - curve(time)
        if touches:
            # A contact may lie up to half an exposure from where it truly is.
            reach = np.abs(curve(time + usual / 2) - curve(time - usual / 2)) / 2
            off = np.sign(off) * np.maximum(0.0, np.abs(off) - reach)
        frames = [k * usual for k in range(-MOST_ADDED, MOST_ADDED + 1)]
        left = {k: float(np.hypot(*(here - curve(time + way * k)))) for k in frames}
        mend = min(frames, key=lambda k: (left[k], abs(k)))
        yield Seam(off=way * off, mend=mend if left[mend] <= MENDS * left[0] else 0)


def _motions(scene: Scene, told: Sequence[Step]) -> Iterator[_Motion]:
    times = np.array([s.frame for s in told], dtype=float)
    places = np.array([[s.x, s.height] for s in told])
    if scene.gravity is not None:
        yield _Motion.fit(times, places, scene.gravity)
    if len(told) >= 3:
        yield _Motion.fit(times[:3], places[:3], None)
    if scene.reading.by_halves:
        for share in (0.5, 1.0):
            # By halves the next drawing is half of the last gap on, or all of it where it is the top.
            yield _Motion(across=np.polyfit(times, places[:, 0], 1), up=_onwards(times, places[:, 1], share))


def _onwards(times: NDArray[np.float64], heights: NDArray[np.float64], share: float) -> NDArray[np.float64]:
    """A line (2,) from the drawing next to the seam on, at a share of the speed of the gap behind it."""
    speed = share * (heights[0] - heights[1]) / (times[0] - times[1])
    return np.array([speed, heights[0] - speed * times[0]])


@dataclass(frozen=True, slots=True, kw_only=True)
class _Motion:
    """Even motion across, and evenly gathering or losing speed upright."""

    across: NDArray[np.float64]
    up: NDArray[np.float64]

    @classmethod
    def fit(cls, times: NDArray[np.float64], places: NDArray[np.float64], gravity: float | None) -> _Motion:
        across = np.polyfit(times, places[:, 0], 1)
        if gravity is None:
            return cls(across=across, up=np.polyfit(times, places[:, 1], 2))
        speed, start = np.polyfit(times, places[:, 1] + gravity / 2 * times**2, 1)
        return cls(across=across, up=np.array([-gravity / 2, speed, start]))

    def __call__(self, time: float) -> Point:
        return np.array([np.polyval(self.across, time), np.polyval(self.up, time)])


def _repeats_a_top(scene: Scene) -> bool:
    one, other = scene.reading.steps[-1], scene.reading.steps[0]
    same = np.hypot(one.x - other.x, one.y - other.y) <= SAME_D * scene.reading.diameter
    hop = scene.reading.hops[-1] if scene.reading.hops else None
    highest = scene.reading.steps[hop.top].height if hop else 0.0
    return bool(same and other.height >= (1 - TOP_SHARE) * highest and highest > 0)


def _shape_jump(scene: Scene) -> float:
    """How much more the shape changes over the seam than between the drawings beside it, as a share; in the air."""
    steps = scene.reading.steps
    contacts = {i for c in scene.reading.contacts for i in c.steps} | set(scene.reading.rest)
    if not contacts.isdisjoint((0, 1, len(steps) - 2, len(steps) - 1)):
        return 0.0
    over = _change(steps[-1], steps[0])
    return over - max(_change(steps[-2], steps[-1]), _change(steps[0], steps[1]))


def _change(one: Step, other: Step) -> float:
    area = abs(np.log(other.shape.area / one.shape.area))
    return float(max(area, abs(np.log(other.shape.stretch / one.shape.stretch))))


def _of_place(scene: Scene, seam: Seam, allowed: float) -> Finding:
    first, last = scene.reading.steps[0], scene.reading.steps[-1]
    x, y = scene.reading.to_picture(first.x - float(seam.off[0]), first.height - float(seam.off[1]))
    count = abs(seam.mend)
    if seam.mend:
        mend = f"{'Add' if seam.mend > 0 else 'Take away'} {count} frame{'s' if count > 1 else ''} at the end, so that"
    else:
        mend = "Move the drawings of the last flight, each a little more than the one before, so that"
    return _finding(
        scene,
        measured=seam.size,
        allowed=allowed,
        unit="px",
        message=f"The cycle does not close: from frame {last.last_frame} to frame 1 the ball jumps {seam.size:.0f} px "
        "beside its smooth motion.",
        advice=f"{mend} the last drawing is one step before the first.",
        marks=(overlay.gap(first, x, y, first.x, first.y), *_mended(scene, seam)),
    )


def _mended(scene: Scene, seam: Seam) -> Iterator[overlay.Mark]:
    """The frames to add or take away; or where the last flight's drawings belong, each moved more than the last."""
    if seam.mend:
        yield overlay.frames(scene.reading.steps[-1].frame, seam.mend)
        return
    flight = scene.reading.hops[-1].air if scene.reading.hops else ()
    for k, index in enumerate(flight, start=1):
        step, part = scene.reading.steps[index], k / (len(flight) + 1)
        x, y = scene.reading.to_picture(step.x + part * float(seam.off[0]), step.height + part * float(seam.off[1]))
        yield overlay.place(step, x, y)


def _of_shape(scene: Scene, jump: float, limit: float) -> Finding:
    last = scene.reading.steps[-1]
    return _finding(
        scene,
        measured=jump,
        allowed=limit,
        unit="share",
        message=f"The cycle does not close: from frame {last.last_frame} to frame 1 the ball's shape jumps.",
        advice="Give the last drawing a shape between those of the drawing before it and the first.",
        marks=(),
    )


def _finding(
    scene: Scene,
    *,
    measured: float,
    allowed: float,
    unit: str,
    message: str,
    advice: str,
    marks: tuple[overlay.Mark, ...],
) -> Finding:
    first, last = scene.reading.steps[0], scene.reading.steps[-1]
    times = measured / allowed
    return Finding(
        code="timing.loop",
        principle="timing",
        first_frame=last.frame,
        last_frame=last.last_frame,
        measured=measured,
        expected=0.0,
        tolerance=allowed,
        unit=unit,
        severity=severity(times),
        confidence=surety(scene.surety([first, last]), times),
        message=message,
        advice=advice,
        overlay=marks,
    )
