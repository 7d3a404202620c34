"""How the last move of a clip comes to its end."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np

from motion.checks import overlay
from motion.exercises.bounce.hops import Hop, Step
from motion.exercises.bounce.scene import Scene
from motion.exercises.bounce.sliding import speed_across
from motion.findings import Finding, severity, span, surety
from motion.ranks import median

FULL_SPEED = 0.35
"""Faster than this share of the last flight's mean speed is at full speed."""
EASED = 0.75
"""A last move shorter than this share of the one before it eases."""
STILL_D, STILL_PX = 0.04, 1.5
"""Drawings of one place lie within so much (in diameters, px)."""
SETTLES = 0.2
"""A drawing that still moves by more than this share of the last move, however little, eases into the rest."""
STAYS = 2
"""A ball has stopped when it stays so many frames longer than usual."""
LEAST_MOVE_D = 0.1
GROUNDED_D = 0.15
TOP_SHARE = 0.10


def check(scene: Scene) -> Iterator[Finding]:
    """``spacing.dead_stop``: the last move arrives at full speed and stops between two drawings.

    Measured: its speed before the rest over the last flight's mean speed; on the ground the speed along it, since the
    ground stops a fall. Tolerance: 0.35; none where a drawing eases into the stop. A hold at a top is no stop.
    """
    steps, at = scene.reading.steps, _stops_at(scene)
    flight = _last_flight(scene, at) if at else None
    if at is None or flight is None or _at_top(scene, at):
        return
    speeds = _speeds(scene, at, flight)
    last = speeds[-1]
    mean = _mean_speed(scene, flight)
    share, allowed = last / mean if mean else 0.0, FULL_SPEED * scene.leniency
    landed = any(at == c.steps[0] for c in scene.reading.contacts if c.steps)
    moved = last * flight.usual
    eased = (len(speeds) > 1 and not landed and last <= EASED * speeds[-2]) or _move(
        steps[at], steps[-1]
    ) > SETTLES * moved
    if share <= allowed or eased or moved < LEAST_MOVE_D * scene.reading.diameter:
        return
    before, here = steps[at - 1], steps[at]
    times = share / allowed
    yield Finding(
        code="spacing.dead_stop",
        principle="spacing",
        first_frame=before.last_frame,
        last_frame=here.frame,
        measured=share,
        expected=0.0,
        tolerance=allowed,
        unit="share",
        severity=severity(times),
        confidence=surety(scene.surety([before, here]), times),
        message=f"{span(before.last_frame, here.frame)}: the ball stops dead. It still moves {moved:.0f} px from "
        "drawing to drawing, then stands still, and nothing stops it.",
        advice=f"Let it ease into its rest: after drawing {here.drawing} add drawings whose gaps shrink evenly, "
        f"{_gaps(moved)} px.",
        overlay=tuple(_easing(scene, at, flight.usual)),
    )


def _stops_at(scene: Scene) -> int | None:
    """The index of the drawing from which on the ball stands still to the clip's end; None if it never does."""
    steps = scene.reading.steps
    reach = max(STILL_D * scene.reading.diameter, STILL_PX)
    at = len(steps) - 1
    while at > 0 and np.hypot(steps[at - 1].x - steps[-1].x, steps[at - 1].y - steps[-1].y) <= reach:
        at -= 1
    usual = int(median(np.array([s.frames for s in steps])))
    if steps[-1].last_frame < scene.track.exposures[-1].last_frame:
        return None  # It leaves the frame.
    stays = steps[-1].last_frame - steps[at].frame + 1
    return at if at > 0 and stays >= usual + STAYS else None


def _last_flight(scene: Scene, at: int) -> Hop | None:
    return next((h for h in reversed(scene.reading.hops) if h.air[0] <= at and len(h.air) > 1), None)


def _at_top(scene: Scene, at: int) -> bool:
    here = next((h for h in scene.reading.hops if at in h.air), None)
    steps = scene.reading.steps
    return here is not None and steps[at].height >= (1 - TOP_SHARE) * steps[here.top].height


def _speeds(scene: Scene, at: int, flight: Hop) -> list[float]:
    """Px a frame of the moves up to a drawing: along the ground where it lies there, else along the path."""
    steps = scene.reading.steps[max(0, at - 2) : at + 1]
    grounded = steps[-1].clearance <= GROUNDED_D * scene.reading.diameter
    usual = int(median(np.array([s.frames for s in scene.reading.steps])))
    if not grounded:
        return [_move(a, b) / min(usual, b.frame - a.frame) for a, b in itertools.pairwise(steps)]
    # The landing may lie up to half an exposure from where it truly is, so the move to it is that of the flight.
    landing = {c.steps[0] for c in scene.reading.contacts if c.steps}
    carried = speed_across(scene.reading, flight)
    return [
        carried if index in landing else abs(b.x - a.x) / min(usual, b.frame - a.frame)
        for index, (a, b) in enumerate(itertools.pairwise(steps), start=at - len(steps) + 2)
    ]


def _move(one: Step, other: Step) -> float:
    return float(np.hypot(other.x - one.x, other.y - one.y))


def _mean_speed(scene: Scene, flight: Hop) -> float:
    """Px a frame of a flight, from its first drawing to its last."""
    points = scene.reading.points(flight.air)
    time = float(flight.clock[-1] - flight.clock[0])
    return float(np.hypot(*np.diff(points, axis=0).T).sum()) / time if time else 0.0


def _shrinking(move: float) -> list[float]:
    """Gaps that shrink evenly to nought after a move of so many px."""
    return [move * part for part in (0.75, 0.5, 0.25)]


def _gaps(move: float) -> str:
    return ", ".join(f"{g:.0f}" for g in _shrinking(move))


def _easing(scene: Scene, at: int, usual: int) -> Iterator[overlay.Mark]:
    """Where the drawings that ease into the rest belong, one exposure after the other."""
    before, here = scene.reading.steps[at - 1], scene.reading.steps[at]
    dx, dy = here.x - before.x, here.y - before.y
    if here.clearance <= GROUNDED_D * scene.reading.diameter:
        dy = dx * (scene.reading.ground.y_at(1.0) - scene.reading.ground.y_at(0.0))
    ratio = usual / max(usual, here.frame - before.frame)
    way = np.cumsum(_shrinking(ratio))
    size = scene.reading.diameter
    for k, part in enumerate(way, start=1):
        x, y = here.x + part * dx, here.y + part * dy
        yield overlay.ellipse(here.frame + k * usual, x, y, size, size)
