"""What carries a pendulum goes along as a move does: it eases out of its start and into its stop."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from motion.checks import overlay
from motion.exercises.pendulum.carry import STILL_PX, going
from motion.exercises.pendulum.scene import Scene
from motion.exercises.pendulum.steps import Step
from motion.findings import Finding, span

Floats = NDArray[np.float64]
EVEN, DEAD_STOP, EASED = 0.8, 0.35, 0.75
FEWEST_GAPS = 5
JUMP, JUMP_R, JUMP_PX = 0.18, 0.02, 2.0
LEAST_WAY = 0.05
"""A base that goes less far than such a share of the frame's width is only held unsteadily."""
BASE = "base"


@dataclass(frozen=True, slots=True)
class _Way:
    """The base's way: (n, 2) how far it has gone, (n - 1,) px from drawing to drawing, and px a frame there."""

    steps: tuple[Step, ...]
    at: Floats
    gaps: Floats
    speeds: Floats
    first: int
    last: int

    @property
    def stops(self) -> bool:
        """Whether it stops within the clip."""
        return self.last < len(self.gaps) - 1


def check(scene: Scene) -> list[Finding]:
    """Every finding about what carries it."""
    way = _way_of(scene)
    if way is None:
        return []
    # One that goes on beyond the clip's end shows no stop to judge.
    told = [*even(scene, way)] or [*dead_stop(scene, way)] if way.stops else []
    return told or jump(scene, way)


def even(scene: Scene, way: _Way) -> Iterator[Finding]:
    """The mean of the travel's first and last gap over that of its middle two. Tolerance: 0.8, 5 gaps and more."""
    own = way.speeds[way.first : way.last + 1]
    stood = way.first > 0 or way.steps[0].frames > scene.reading.usual
    if len(own) < FEWEST_GAPS or not stood:
        return
    middle = len(own) // 2
    share = float((own[0] + own[-1]) / 2 / max(1e-6, own[middle - 1 : middle + 1].mean()))
    allowed = 1 - (1 - EVEN) / scene.leniency
    if share <= allowed:
        return
    steps = way.steps[way.first : way.last + 2]
    yield scene.finding(
        "spacing.even",
        steps,
        times=1.0 + 4 * (share - allowed),
        measured=share,
        expected=0.4,
        tolerance=allowed,
        unit="share",
        message=f"{span(steps[0].frame, steps[-1].frame)}: what carries it goes along in even steps; a move eases out "
        "of its start and into its stop.",
        advice="Draw its first and last gaps narrower, and those in the middle wider.",
        part=BASE,
    )


def dead_stop(scene: Scene, way: _Way) -> Iterator[Finding]:
    """The speed before it stands still over the travel's mean. Tolerance: 0.35, unless a drawing eases before."""
    own = way.speeds[way.first : way.last + 1]
    share = float(own[-1] / max(1e-6, own.mean()))
    allowed = DEAD_STOP * scene.leniency
    eased = len(own) > 1 and own[-1] < EASED * own[-2]
    if share <= allowed or eased:
        return
    last = way.steps[way.last + 1]
    yield scene.finding(
        "spacing.dead_stop",
        [last],
        times=share / allowed,
        measured=share,
        expected=0.0,
        tolerance=allowed,
        unit="share",
        message=f"{span(last.frame, last.frame)}: what carries it stops dead, at {100 * share:.0f} % of the speed at "
        "which it went.",
        advice="Let its last gaps close up, each about half of the one before.",
        part=BASE,
    )


def jump(scene: Scene, way: _Way) -> list[Finding]:
    """One drawing's base along its way off the smooth motion of two neighbours on each side, or off where it stands.

    Tolerance: the largest of 18 % of its local gap, 0.02 of the length and 2 px.
    """
    found = [told for k in range(2, len(way.steps) - 2) if (told := _off(scene, way, k)) is not None]
    if not found:
        return []
    times, k, off, allowed, wanted = max(found, key=lambda f: f[0])
    step = way.steps[k]
    goes = way.first <= k <= way.last + 1
    where = (
        f"{abs(off):.0f} px too far {'along' if off > 0 else 'back'} between its neighbours"
        if goes
        else f"{off:.0f} px off the place at which it stands"
    )
    moved = f"{abs(off):.0f} px {'back' if off > 0 else 'along'}" if goes else "to that place"
    return [
        scene.finding(
            "spacing.jump",
            [step],
            times=times,
            measured=off,
            expected=0.0,
            tolerance=allowed,
            unit="px",
            message=f"{span(step.frame, step.last_frame)}: what carries it sits {where}.",
            advice=f"Move drawing {step.drawing} as a whole {moved}.",
            overlay=(_where(scene, step, wanted),),
            part=BASE,
        )
    ]


def _off(scene: Scene, way: _Way, k: int) -> tuple[float, int, float, float, Floats] | None:
    """How many times its tolerance a drawing's base is off, which drawing, px, tolerance and where it belongs."""
    one, before, own, after, other = way.at[k - 2 : k + 3]
    if k < way.first or k > way.last + 1:
        # Where it stands it belongs where its neighbours have it.
        wanted, allowed = (before + after) / 2, scene.px(JUMP_R, JUMP_PX)
        off = float(np.hypot(*(own - wanted)))
        still = float(np.hypot(*(after - before))) <= allowed
        return (off / allowed, k, off, allowed, wanted) if still and off > allowed else None
    # Where it starts or stops within two drawings its neighbours make no smooth motion.
    if not way.first + 2 <= k < way.last or len({s.frames for s in way.steps[k - 2 : k + 2]}) > 1:
        return None
    turns = np.diff(way.gaps[k - 2 : k + 2])
    # What only speeds up, or only slows down, does so as fast as it likes.
    if (turns >= 0).all() or (turns <= 0).all():
        return None
    wanted = (-one + 4 * before + 4 * after - other) / 6
    ahead = after - before
    off = float((own - wanted) @ ahead / max(1e-6, float(np.hypot(*ahead))))
    allowed = max(JUMP * float(way.gaps[k - 1 : k + 1].min()) * scene.leniency, scene.px(JUMP_R, JUMP_PX))
    return (abs(off) / allowed, k, off, allowed, wanted) if abs(off) > allowed else None


def _where(scene: Scene, step: Step, wanted: Floats) -> overlay.Mark:
    """Where its pivot belongs; told in the frame of what carries it, like all else."""
    pivot = scene.reading.pivot
    dx, dy = scene.carry.off(step.frame) if scene.carry else (0.0, 0.0)
    return overlay.point(step, pivot.x + float(wanted[0]) - dx, pivot.y + float(wanted[1]) - dy)


def _way_of(scene: Scene) -> _Way | None:
    """The way of what carries it, where it goes any."""
    steps = scene.reading.steps
    if scene.carry is None or len(steps) < FEWEST_GAPS:
        return None
    at = np.array([scene.carry.off(s.frame) for s in steps])
    gaps = np.hypot(*np.diff(at, axis=0).T)
    goes = going(at, STILL_PX * max(1.0, scene.width / 960))
    if goes is None or gaps[goes[0] : goes[1] + 1].sum() < LEAST_WAY * scene.width:
        return None
    # What stands before it goes is held, and does not go slowly.
    frames = np.array([min(s.frames, scene.reading.usual) for s in steps[:-1]], dtype=np.float64)
    return _Way(steps, at, gaps, gaps / frames, *goes)
