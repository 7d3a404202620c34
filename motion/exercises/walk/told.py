"""The motion of a walk as the findings file tells it: what it was read as, and how it is timed."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np

from motion.exercises.walk.checks.timing import passes
from motion.exercises.walk.figure import SIDES, Side, bend_of, swing_of
from motion.exercises.walk.lean import lean_of
from motion.exercises.walk.plan import PHASES
from motion.exercises.walk.reading import Reading
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import Pace, Stand, Step
from motion.exercises.walk.wave import Wave, hips_wave

Told = dict[str, Any]


def of(seen: Scene | None) -> Told | None:
    """Facing, belt, supports, contacts, phases, steps, timing, charts, and each drawing's gap to the next in px."""
    if seen is None:
        return None
    reading = seen.reading
    wave = hips_wave(reading, seen.paces)
    return {
        "facing": "right" if reading.facing > 0 else "left",
        "belt": round(reading.belt, 3),
        "speed": round(reading.speed, 3),
        "leg": round(reading.leg, 2),
        "told": reading.told,
        "contacts": [
            {"drawing": reading.steps[c.index].drawing, "frame": reading.steps[c.index].frame, "side": c.side}
            for c in reading.contacts
        ],
        "called": _phases(reading),
        "lanes": {
            "names": [f"{side} foot stands" for side in SIDES],
            "on": [
                {"frame": s.frame, "lanes": [reading.stands_at(s.index, side) for side in SIDES]} for s in reading.steps
            ],
        }
        if reading.told
        else None,
        "stands": [_stand(reading, s) for s in reading.stands],
        "timing": _timing(seen),
        "gaps": _gaps(reading),
        "gap_unit": "px",
        "ideal": [],
        "arcs": _arcs(reading),
        "charts": _charts(reading, wave, seen.sizes.usual),
        "size": round(reading.leg / 2, 2),
        "moments": [{"time": round(c.time, 2), "first_frame": reading.steps[c.index].frame} for c in reading.contacts],
        "keys": sorted({reading.steps[c.index].frame for c in reading.contacts}),
        "breakdowns": sorted({p["frame"] for p in _phases(reading) if p["name"] == "passing"}),
    }


def _phases(reading: Reading) -> list[Told]:
    """The drawings that are a step's contact, down, passing and up."""
    found = []
    for pace in reading.paces:
        own = [(s, k[1]) for s in reading.steps if (k := reading.phase(s.index)) is not None and k[0] == pace.number]
        taken = set[int]()
        for name, phase in PHASES:
            free = [(abs(at - phase), s) for s, at in own if s.index not in taken and abs(at - phase) < 0.17]
            if not free:
                continue
            step = min(free, key=lambda one: (one[0], one[1].index))[1]
            taken.add(step.index)
            found.append({"frame": step.frame, "drawing": step.drawing, "name": name, "side": pace.start.side})
    last = reading.contacts[-1] if reading.contacts else None
    if last is not None and last.index not in _known(found, reading):
        step = reading.steps[last.index]
        found.append({"frame": step.frame, "drawing": step.drawing, "name": "contact", "side": last.side})
    return sorted(found, key=lambda p: int(p["frame"]))


def _known(found: list[Told], reading: Reading) -> set[int]:
    frames = {p["frame"] for p in found if p["name"] == "contact"}
    return {s.index for s in reading.steps if s.frame in frames}


def _stand(reading: Reading, stand: Stand) -> Told:
    """A stand of a foot, and where on the ground it first stood: two points px, on its first frame."""
    first = reading.steps[stand.first]
    ends = [first.at(f"{end}_{stand.side}") for end in ("heel", "toe")]
    mark = None
    if all(e is not None for e in ends):
        xs = [e[0] for e in ends if e is not None]
        mark = [[round(x, 1), round(reading.ground.y_at(x), 1)] for x in xs]
    return {
        "side": stand.side,
        "first_frame": first.frame,
        "last_frame": reading.steps[stand.last].last_frame,
        "mark": mark,
    }


def _timing(seen: Scene) -> Told:
    """Step by step: frames, length, when the legs pass; and the whole in words."""
    reading, fps = seen.reading, seen.brief.fps
    frames = [p.frames for p in seen.paces]
    usual = float(np.mean(frames)) if frames else None
    return {
        "moves": [_move(seen, p) for p in reading.paces],
        "usual_frames": None if usual is None else round(usual, 2),
        "reads_as": None if usual is None else _reads_as(usual, fps),
    }


def _move(seen: Scene, pace: Pace) -> Told:
    steps = seen.within(pace)
    at = passes(seen, pace)
    return {
        "kind": f"step {pace.number}",
        "side": pace.side,
        "first_frame": steps[0].frame if steps else 1,
        "last_frame": steps[-1].last_frame if steps else 1,
        "frames": round(pace.frames, 2),
        "seconds": round(pace.frames / seen.brief.fps, 3),
        "length": None if pace.length is None else round(pace.length, 1),
        "passes": None if at is None else round(at, 2),
        "judged": pace.judged,
    }


def _reads_as(frames: float, fps: float) -> str:
    return f"A step takes {frames:.1f} frames: {60 * fps / frames:.0f} steps a minute."


def _gaps(reading: Reading) -> list[Told]:
    """How far the foot that goes farther goes to the next drawing, over the ground, px; none where it hides."""
    found = []
    for one, other in itertools.pairwise(reading.steps):
        moves, hides = [], False
        for side in SIDES:
            a, b = one.at(f"ankle_{side}"), other.at(f"ankle_{side}")
            if a is not None and b is not None:
                p, q = reading.over_ground(one, a), reading.over_ground(other, b)
                moves.append(math.dist(p, q))
            else:
                hides = hides or not reading.stands_at(one.index, side)
        if reading.told and hides:
            continue
        if not moves and one.body is not None and other.body is not None:
            moves.append(math.dist((one.body.x, one.body.y), (other.body.x, other.body.y)))
        if moves:
            found.append({"frame": one.frame, "gap": round(max(moves), 2), "expected": None})
    return found


def _arcs(reading: Reading) -> list[Told]:
    """The quiet paths of hips, head and ankles, px in the frame."""
    found = []
    for name in ("hip", "head", "ankle_near", "ankle_far"):
        points = [[round(v, 1) for v in at] for s in reading.steps if (at := s.at(name)) is not None]
        if len(points) > 1:
            found.append({"name": name, "points": points})
    return found


def _charts(reading: Reading, wave: Wave | None, usual: dict[str, float]) -> Told:
    """What is charted, by name: [frame, value] in playing order."""
    rows: dict[str, list[list[float]]] = {}
    level = [reading.height(at) for s in reading.steps if (at := s.at("hip")) is not None]
    middle = float(np.median(level)) if level else 0.0
    for step in reading.steps:
        hip = step.at("hip")
        if hip is not None:
            _add(rows, "hips", step, reading.height(hip) - middle)
            known = reading.phase(step.index)
            if wave is not None and known is not None:
                _add(rows, "hips_model", step, wave.height(known[1]))
        leans = lean_of(step, reading.facing)
        if leans is not None:
            _add(rows, "lean", step, leans)
        for side in SIDES:
            _add_side(rows, reading, step, side, usual)
    return dict(rows)


def _add_side(
    rows: dict[str, list[list[float]]], reading: Reading, step: Step, side: Side, usual: dict[str, float]
) -> None:
    high = reading.sole(step, side)
    if high is not None:
        _add(rows, f"foot_{side}", step, high)
    hip, knee, ankle = (step.at(n) for n in ("hip", f"knee_{side}", f"ankle_{side}"))
    if ankle is not None and hip is not None:
        _add(rows, f"travel_{side}", step, reading.facing * (ankle[0] - hip[0]))
        _add(rows, f"angle_{side}", step, swing_of(hip, ankle, reading.facing))
    if hip is not None and knee is not None and ankle is not None:
        _add(rows, f"knee_{side}", step, bend_of(hip, knee, ankle, reading.facing))
        for name, one, other in (("thigh", hip, knee), ("shin", knee, ankle)):
            _add(rows, f"{name}_{side}", step, math.dist(one, other) / usual[name])
    neck, hand = step.at("neck"), step.at(f"hand_{side}")
    if neck is not None and hand is not None:
        _add(rows, f"arm_{side}", step, swing_of(neck, hand, reading.facing))


def _add(rows: dict[str, list[list[float]]], name: str, step: Step, value: float) -> None:
    rows.setdefault(name, []).append([step.frame, round(value, 3)])
