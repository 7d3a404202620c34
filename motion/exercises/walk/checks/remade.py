"""How a walk belongs that is off all along: lines over every drawing of it, or frames to add and take away."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

import numpy as np

from motion.checks import overlay
from motion.exercises.walk.checks import mend
from motion.exercises.walk.figure import LEG_LANDMARKS, SIDES, Place, Side
from motion.exercises.walk.ideal import LOWEST
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import Pace, Step
from motion.exercises.walk.wave import Wave

FEWEST = 4
"""A swing of fewer drawings is not drawn anew."""
REACH = 0.997
"""Share of its length by which a leg is drawn at most."""
LIFT = 0.05
"""Share of the leg by which a foot is lifted that scuffs."""
Marks = tuple[overlay.Mark, ...]


def waved(scene: Scene, wave: Wave, rise: float) -> Marks:
    """Hips that rise and fall by so many px, lowest after the contact, and as low as the legs reach."""
    moves = {}
    for step in scene.reading.steps:
        phase = _phase(scene, step)
        if phase is not None and "hip" in mend.points_of(step):
            wanted = -0.5 * rise * math.cos(2 * math.pi * (phase - LOWEST))
            moves[step.index] = wave.height(phase) - wanted
    low = max((_too_high(scene, scene.reading.steps[i], dy) for i, dy in moves.items()), default=0.0)
    return _all(mend.hips(scene, scene.reading.steps[i], 0.0, dy + low, carried=True) for i, dy in moves.items())


def _phase(scene: Scene, step: Step) -> float | None:
    """How much of its step has gone by at a drawing, 0 to 1; of steps that are not all there by the nearest whole one.

    None in a standing start and a stop.
    """
    known, paces = scene.reading.phase(step.index), scene.reading.paces
    if known is not None:
        return known[1]
    if not paces or step.index not in scene.judged:
        return None
    nearest = paces[0] if step.clock < paces[0].start.time else paces[-1]
    return (step.clock - nearest.start.time) / nearest.frames % 1.0


def _too_high(scene: Scene, step: Step, dy: float) -> float:
    """By how many px hips that were moved down by ``dy`` px are too high for one of the legs."""
    points, reach = mend.points_of(step), REACH * (scene.sizes.usual["thigh"] + scene.sizes.usual["shin"])
    hip, most = points["hip"], 0.0
    for side in SIDES:
        ankle = points.get(f"ankle_{side}")
        if ankle is not None and abs(ankle[0] - hip[0]) < reach:
            most = max(most, ankle[1] - math.sqrt(reach**2 - (ankle[0] - hip[0]) ** 2) - hip[1] - dy)
    return most


def stayed(scene: Scene, side: Side, index: int) -> Marks:
    """A standing foot that slid up to a drawing (index), where it was put down, in that and in those after.

    Up to where it slides once more, which is a mend of its own: of both together.
    """
    reading, slid = scene.reading, {k: s.travel for (of, k), s in scene.slid.items() if of == side}
    stood = itertools.takewhile(lambda k: reading.stands_at(k, side), range(index, -1, -1))
    gone = sum(slid.get(k, 0.0) for k in stood)
    stands = itertools.takewhile(
        lambda k: reading.stands_at(k, side) and (k == index or k not in slid), range(index, len(reading.steps))
    )
    return _all(mend.foot(scene, reading.steps[k], side, -gone * reading.facing, 0.0) for k in stands)


def evenly(scene: Scene, pace: Pace) -> Marks:
    """Hips, and all that they carry, that go on evenly from contact to contact, and a foot that swings like that."""
    own = [s for s in scene.steps_between(pace.start.time, pace.end.time) if "hip" in mend.points_of(s)]
    xs, clocks = [mend.points_of(s)["hip"][0] for s in own], [s.clock for s in own]
    even = np.interp(clocks, (clocks[0], clocks[-1]), (xs[0], xs[-1]))
    feet = _passed(scene, pace)
    return _all(
        mend.hips(scene, s, float(to - x), 0.0, carried=True, feet=feet.get(s.index))
        for s, x, to in zip(own[1:-1], xs[1:-1], even[1:-1], strict=True)
    )


def opened(scene: Scene, side: Side, bends: Mapping[int, float]) -> Marks:
    """A leg whose knee is bent by so many degrees in these drawings (by index), its foot drawn in or out for that."""
    reach, found = scene.sizes.usual["thigh"] + scene.sizes.usual["shin"], []
    for index, bend in bends.items():
        step = scene.reading.steps[index]
        points = mend.points_of(step)
        hip, ankle = points.get("hip"), points.get(f"ankle_{side}")
        if hip is not None and ankle is not None and hip != ankle:
            more = reach * math.cos(math.radians(bend / 2)) / math.dist(hip, ankle) - 1
            found.append(mend.foot(scene, step, side, more * (ankle[0] - hip[0]), more * (ankle[1] - hip[1])))
    return _all(found)


def strided(scene: Scene, off: float) -> Marks:
    """Steps of one length, where those onto the near foot are so many px longer: each foot goes half of that way."""
    by = scene.reading.facing * off / 4
    return _all(
        mend.foot(scene, step, side, way * by, 0.0)
        for step in scene.reading.steps
        for side, way in zip(SIDES, (-1, 1), strict=True)
    )


def lifted(scene: Scene, side: Side, swing: Sequence[Step]) -> Marks:
    """A swing whose foot is lifted as it passes."""
    start, end = swing[0].clock, swing[-1].clock
    high = LIFT * scene.reading.leg
    return _all(
        mend.foot(scene, s, side, 0.0, -high * math.sin(math.pi * (s.clock - start) / (end - start)))
        for s in swing[1:-1]
    )


def repassed(scene: Scene, pace: Pace) -> Marks:
    """The swinging foot of a step on its own way, but gathering speed and slowing down evenly from lift-off to contact.

    So it comes beside the standing foot about half-way through the step.
    """
    steps = scene.reading.steps
    return _all(
        mend.legs(scene, steps[i], mend.points_of(steps[i]) | foot, (pace.side,))
        for i, foot in _passed(scene, pace).items()
    )


def _passed(scene: Scene, pace: Pace) -> dict[int, dict[str, Place]]:
    """Where the landmarks of a step's swinging foot lie that goes like that, px by drawing (index)."""
    reading, side = scene.reading, pace.side
    own = scene.steps_between(pace.start.time, pace.end.time)
    stood = [k for k, s in enumerate(own[:-1]) if reading.stands_at(s.index, side)]
    swing = own[max(stood, default=0) :]
    ways = [(s.clock, reading.over_ground(s, at)[0]) for s in swing if (at := _ankle(s, side)) is not None]
    if len(ways) < len(swing) or len(swing) < FEWEST:
        return {}
    clocks, forward = np.array(ways).T
    shares = (clocks - clocks[0]) / (clocks[-1] - clocks[0])
    eased = forward[0] + (forward[-1] - forward[0]) * shares**2 * (3 - 2 * shares)
    found: dict[int, dict[str, Place]] = {}
    for step, clock in zip(swing[1:-1], np.interp(eased, np.maximum.accumulate(forward), clocks)[1:-1], strict=True):
        found[step.index] = {}
        for name, (along, up) in _then(scene, side, float(clock)).items():
            x = reading.facing * along + reading.belt * step.clock
            found[step.index][name] = (x, reading.ground.y_at(x) - up)
    return found


def _ankle(step: Step, side: Side) -> Place | None:
    return mend.points_of(step).get(f"ankle_{side}")


def _then(scene: Scene, side: Side, clock: float) -> dict[str, Place]:
    """A foot's landmarks over the ground (px forward, px up) at a time, between the drawings."""
    reading = scene.reading
    return {
        name: at
        for joint in mend.FOOT
        if (at := between(scene, name := f"{joint}_{side}", clock, reading.over_ground)) is not None
    }


def between(scene: Scene, name: str, clock: float, told: Callable[[Step, Place], Place]) -> Place | None:
    """What is ``told`` of a landmark, at a time between two drawings; None where one of them does not have it."""
    steps = scene.reading.steps
    after = next((i for i, s in enumerate(steps) if s.clock >= clock - 1e-6), None)
    if after is None:
        return None
    pair = (steps[max(0, after - 1)], steps[after])
    places = [told(s, p) for s in pair if (p := mend.points_of(s).get(name)) is not None]
    if len(places) < 2:
        return None
    share = (clock - pair[0].clock) / max(1e-6, pair[1].clock - pair[0].clock)
    (x0, y0), (x1, y1) = places
    return x0 + share * (x1 - x0), y0 + share * (y1 - y0)


def exchanged(steps: Iterable[Step]) -> Marks:
    """Legs that have changed places, changed back: as the drawings were read."""
    return tuple(mend.as_read(step, LEG_LANDMARKS) for step in steps)


def lowered(scene: Scene, found: Iterable[tuple[Step, float]]) -> Marks:
    """Figures set down on the ground, each by so many px."""
    return _all(mend.whole(step, 0.0, high) for step, high in found)


def retimed(scene: Scene, frames: Callable[[Pace], float]) -> Marks:
    """Frames to add and take so that steps come to take as many as ``frames`` says, in whole exposures, evenly spread.

    Contact drawings stay as they are; one that is taken out goes with all its frames.
    """
    return tuple(mark for pace in scene.paces for mark in _retimed(scene, pace, frames(pace)))


def _retimed(scene: Scene, pace: Pace, wanted: float) -> Iterator[overlay.Mark]:
    inner = scene.within(pace)[1:]
    if not inner:
        return
    exposure = sorted(s.frames for s in inner)[len(inner) // 2]
    count = round((wanted - pace.frames) / exposure)
    if count < 0:
        count = -min(-count, len(inner) - 1)
    times: dict[int, int] = {}
    for k in range(abs(count)):
        at = int((k + 0.5) * len(inner) / abs(count)) % len(inner)
        times[at] = times.get(at, 0) + 1
    for at, by in times.items():
        yield overlay.frames(inner[at].frame, by * exposure if count > 0 else -inner[at].frames)


def _all(found: Iterable[Marks]) -> Marks:
    return tuple(mark for marks in found for mark in marks)
