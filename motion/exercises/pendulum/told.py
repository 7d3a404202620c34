"""The motion of a pendulum as the findings file tells it: what it was read as, and how it is timed."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np

from motion.exercises.pendulum import told_parts
from motion.exercises.pendulum.checks.timing import kept
from motion.exercises.pendulum.reading import Reading, Swing
from motion.exercises.pendulum.scene import Scene
from motion.exercises.pendulum.steps import Step
from motion.physics import GRAVITY

FINE = 33


def of(seen: Scene | None) -> dict[str, Any] | None:
    """Pivot, length, extremes, swings, timing, and each drawing's gap to the next in degrees."""
    if seen is None:
        return None
    reading = seen.reading
    parts = told_parts.parts(seen) if seen.jointed else []
    return {
        "length": round(reading.length, 2),
        "amplitude": round(reading.amplitude, 2),
        "middle": round(reading.middle, 2),
        "rest_angle": reading.rest,
        **_where(seen, parts),
        "extremes": [
            {
                "frame": reading.steps[e.step].frame,
                "time": round(e.time, 2),
                "angle": round(e.angle, 2),
                "whole": e.whole,
            }
            for e in reading.extremes
        ],
        "swings": [_swing(reading, s) for s in reading.swings],
        "timing": {**_timing(seen), **({"overlap": told_parts.in_words(parts)} if parts else {})},
        **({"parts": parts} if parts else {}),
        "gaps": _gaps(reading),
        "gap_unit": "°",
        "angles": [{"frame": s.frame, "angle": round(s.angle, 2)} for s in reading.steps],
        "size": round(reading.size, 2),
        "moments": [
            {"time": round(e.time, 2), "first_frame": reading.steps[e.step].frame} for e in reading.extremes if e.whole
        ],
        "keys": sorted({reading.steps[e.step].frame for e in reading.extremes}),
        "breakdowns": sorted({step.frame for s in reading.swings if (step := _passing(reading, s))}),
    }


def _where(seen: Scene, parts: list[dict[str, Any]]) -> dict[str, Any]:
    """What lies over the picture: arcs or paths, the rest line, and where drawings would lie on a sine."""
    reading, carry = seen.reading, seen.carry
    arcs = told_parts.joint_paths(seen) if parts else [{"points": _arc(reading)}]
    if carry is None:
        return {"arcs": arcs, "rest_line": _rest_line(reading), "ideal": _ideal(reading)}
    path = [[round(x, 1), round(y, 1)] for x, y in carry.pivots]
    ideal = [
        {**p, **dict(zip("xy", carry.drawn([(p["x"], p["y"])], p["frame"])[0], strict=True))} for p in _ideal(reading)
    ]
    return {"arcs": [{"points": path}, *(arcs if parts else [])], "rest_line": None, "ideal": ideal}


def _swing(reading: Reading, swing: Swing) -> dict[str, Any]:
    return {
        "first_frame": reading.steps[swing.start.step].frame,
        "last_frame": reading.steps[swing.end.step].last_frame,
        "frames": round(swing.frames, 2),
        "degrees": round(swing.degrees, 2),
        "whole": swing.whole,
        "settles": reading.settles(swing),
    }


def _passing(reading: Reading, swing: Swing) -> Step | None:
    """The drawing of a swing nearest to its middle, between its extremes."""
    inner = [reading.steps[i] for i in swing.steps[1:-1]]
    return min(inner, key=lambda s: abs(s.angle - swing.middle), default=None)


def _timing(seen: Scene) -> dict[str, Any]:
    """Swing by swing: frames, how far it goes, what is kept; and the whole in words."""
    reading, fps = seen.reading, seen.brief.fps
    shares = {id(extreme): share for extreme, share in kept(seen)}
    judged = reading.judged
    usual = float(np.median([s.frames for s in judged])) if judged else None
    return {
        "moves": [
            {
                "kind": f"swing {s.number}",
                "first_frame": reading.steps[s.start.step].frame,
                "last_frame": reading.steps[s.end.step].last_frame,
                "frames": round(s.frames, 2),
                "seconds": round(s.frames / fps, 3),
                "degrees": round(s.degrees, 1),
                "kept": round(shares[id(s.end)], 3) if id(s.end) in shares else None,
                "whole": s.whole,
                "settles": reading.settles(s),
            }
            for s in reading.swings
        ],
        "usual_frames": None if usual is None else round(usual, 2),
        "reads_as": None if usual is None or seen.jointed else _reads_as(usual / fps, reading),
    }


def _reads_as(seconds: float, reading: Reading) -> str:
    """How long a line a pendulum of that pace has on earth: L = g (T / π)², T for a small swing."""
    small = seconds / (1 + math.radians(reading.amplitude) ** 2 / 16)
    metres = GRAVITY * (small / math.pi) ** 2
    told = f"{metres:.1f} m" if metres >= 1 else f"{100 * metres:.0f} cm"
    return f"Swinging so, it reads as hung {told} below its pivot."


def _arc(reading: Reading) -> list[list[float]]:
    """The circle around the pivot, from its farthest extreme to the other."""
    angles = [s.angle for s in reading.steps]
    return [[round(v, 1) for v in reading.place(float(a))] for a in np.linspace(min(angles), max(angles), FINE)]


def _rest_line(reading: Reading) -> list[list[float]]:
    end = reading.place(0.0, reading.length + reading.size)
    return [[round(reading.pivot.x, 1), round(reading.pivot.y, 1)], [round(end[0], 1), round(end[1], 1)]]


def _sine_at(reading: Reading, index: int) -> float | None:
    """The angle that a sine from extreme to extreme has at a drawing inside a swing."""
    swing = next((s for s in reading.swings if s.whole and s.start.step < index < s.end.step), None)
    if swing is None or swing.frames <= 0:
        return None
    share = min(1.0, max(0.0, (reading.steps[index].clock - swing.start.time) / swing.frames))
    return swing.middle - (swing.end.angle - swing.start.angle) / 2 * math.cos(math.pi * share)


def _ideal(reading: Reading) -> list[dict[str, Any]]:
    """Where each drawing inside a swing would lie on a sine from extreme to extreme, px."""
    places = []
    for index, step in enumerate(reading.steps):
        angle = _sine_at(reading, index)
        if angle is not None:
            x, y = reading.place(angle)
            places.append({"frame": step.frame, "x": round(x, 2), "y": round(y, 2)})
    return places


def _gaps(reading: Reading) -> list[dict[str, Any]]:
    """The angle from each drawing to the next, and what a sine expects of it, degrees."""
    found = []
    for index, (one, other) in enumerate(itertools.pairwise(reading.steps)):
        at = [_sine_at(reading, i) for i in (index, index + 1)]
        ends = [s.angle if a is None else a for a, s in zip(at, (one, other), strict=True)]
        inside = any(s.whole and s.start.step <= index < s.end.step for s in reading.swings)
        found.append(
            {
                "frame": one.frame,
                "gap": round(abs(other.angle - one.angle), 2),
                "expected": round(abs(ends[1] - ends[0]), 2) if inside else None,
            }
        )
    return found
