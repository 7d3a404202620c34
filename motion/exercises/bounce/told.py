"""The motion of a bounce as the findings file tells it: what it was read as, and how it is timed."""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np

from motion.exercises.bounce import hang, moves
from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.gravity import hop_duration, hop_height
from motion.exercises.bounce.hops import Reading
from motion.exercises.bounce.scene import Scene


def of(seen: Scene | None) -> dict[str, Any] | None:
    """What a bounce was read as: diameter, gravity, contacts, hops, timing, and each drawing's gap to the next."""
    if seen is None:
        return None
    reading = seen.reading
    return {
        "diameter": round(reading.diameter, 2),
        "gravity": None if seen.gravity is None else round(seen.gravity, 4),
        "in_place": reading.in_place,
        "contacts": [
            {
                "first_frame": reading.steps[c.steps[0]].frame if c.steps else None,
                "last_frame": reading.steps[c.steps[-1]].last_frame if c.steps else None,
                "time": round(c.time, 2),
            }
            for c in reading.contacts
        ],
        "hops": [
            {
                "first_frame": reading.steps[h.air[0]].frame,
                "last_frame": reading.steps[h.air[-1]].last_frame,
                "top_frame": reading.steps[h.top].frame,
                "frames": _rounded(hop_duration(reading, h)),
                "height": round(hop_height(reading, h), 2),
                "whole": h.whole,
            }
            for h in reading.hops
        ],
        "timing": _timing(seen),
        "arcs": _arcs(seen),
        "ideal": _ideal(seen),
        "gaps": _gaps(seen),
        "gap_unit": "px",
        "size": round(reading.diameter, 2),
        "moments": [{"time": round(c.time, 2), "first_frame": _first_frame(reading, c)} for c in reading.contacts],
        "keys": sorted(_keys(reading)),
    }


def _first_frame(reading: Reading, contact: Contact) -> int | None:
    return reading.steps[contact.steps[0]].frame if contact.steps else None


def _keys(reading: Reading) -> set[int]:
    """First frames of the contacts that were drawn, and of the tops."""
    contacts = {frame for c in reading.contacts if (frame := _first_frame(reading, c)) is not None}
    return contacts | {reading.steps[h.top].frame for h in reading.hops}


def _timing(seen: Scene) -> dict[str, Any]:
    """Move by move: frames, holds, what the height calls for, and what makes a slow move slow; contacts; feel."""
    reading, fps = seen.reading, seen.brief.fps
    bounces, size = moves.bounciness(reading), moves.real_size(reading, seen.gravity, fps)
    return {
        "moves": [
            {
                "hop": m.hop,
                "kind": m.kind,
                "first_frame": m.first_frame,
                "last_frame": m.last_frame,
                "frames": round(m.frames, 2),
                "seconds": round(m.frames / fps, 3),
                "held": m.held,
                "called_for": round(m.called_for, 2),
                "slow": m.slow,
            }
            for m in moves.moves(reading, seen.gravity)
        ],
        "contacts": [
            {
                "first_frame": t.first_frame,
                "frames": t.frames,
                "seconds": round(t.frames / fps, 3),
                "speed_kept": _rounded(t.kept),
            }
            for t in moves.touches(reading)
        ],
        "hangs": [
            {
                "hop": h.number,
                "frames": round(about.drawn, 2),
                "seconds": round(about.drawn / fps, 3),
                "called_for": round(about.called_for, 2),
            }
            for h in reading.hops
            if (about := hang.measure(reading, h)) is not None
        ],
        "speed_kept": _rounded(bounces[0]) if bounces else None,
        "bounciness": bounces[1] if bounces else None,
        "real_size_m": None if size is None else round(size, 4),
        "weight": None if size is None else moves.weight(size),
    }


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _arcs(seen: Scene) -> list[dict[str, Any]]:
    """Each hop's fitted arc as points of the centre's path in the frame."""
    reading, arcs_found = seen.reading, []
    for hop in reading.hops:
        if hop.parabola is None or len(hop.air) < 3:
            continue
        points = reading.points(hop.air)
        across = np.polyfit(hop.clock, points[:, 0], 1)
        start = hop.parabola.left if hop.start else float(hop.clock[0])
        end = hop.parabola.lands if hop.end else float(hop.clock[-1])
        times = np.linspace(start, end, 33)
        heights = 0.5 * hop.parabola.gravity * (times - hop.parabola.left) * (hop.parabola.lands - times)
        path = [reading.to_picture(float(np.polyval(across, t)), float(h)) for t, h in zip(times, heights, strict=True)]
        arcs_found.append({"points": [[round(x, 1), round(y, 1)] for x, y in path]})
    return arcs_found


def _ideal(seen: Scene) -> list[dict[str, Any]]:
    """Where each drawing in the air would lie on its own hop's fitted arc, evenly across and under gravity, px."""
    reading, places = seen.reading, []
    for hop in reading.hops:
        if hop.parabola is None or len(hop.air) < 3:
            continue
        p = hop.parabola
        across = np.polyval(np.polyfit(hop.clock, reading.points(hop.air)[:, 0], 1), hop.clock)
        heights = 0.5 * p.gravity * (hop.clock - p.left) * (p.lands - hop.clock)
        for index, x, height in zip(hop.air, across, heights, strict=True):
            at = reading.to_picture(float(x), float(height))
            places.append({"frame": reading.steps[index].frame, "x": round(at[0], 2), "y": round(at[1], 2)})
    return places


def _gaps(seen: Scene) -> list[dict[str, Any]]:
    """The gap from each drawing to the next, and what the hop's own parabola expects of it, px."""
    steps = seen.reading.steps
    expected: dict[int, float] = {}
    for hop in seen.reading.hops:
        if hop.parabola is None or len(hop.air) < 3:
            continue
        p = hop.parabola
        points = seen.reading.points(hop.air)
        across = np.polyfit(hop.clock, points[:, 0], 1)
        heights = 0.5 * p.gravity * (hop.clock - p.left) * (p.lands - hop.clock)
        xs = np.polyval(across, hop.clock)
        for k, index in enumerate(hop.air[:-1]):
            expected[index] = float(np.hypot(xs[k + 1] - xs[k], heights[k + 1] - heights[k]))
    return [
        {
            "frame": step.frame,
            "gap": round(float(np.hypot(after.x - step.x, after.y - step.y)), 2),
            "expected": round(expected[i], 2) if i in expected else None,
        }
        for i, (step, after) in enumerate(itertools.pairwise(steps))
    ]
