"""What hangs in parts as the findings file tells it: each part's angles and extremes, its drag, each joint's path."""

from __future__ import annotations

import itertools
from typing import Any

from motion.exercises.pendulum.parts import TAIL_PARTS, angles_of, drags, turns_of
from motion.exercises.pendulum.scene import Scene


def parts(seen: Scene) -> list[dict[str, Any]]:
    """Name, angles by frame (degrees from straight down), extremes, and how many frames it comes after the one above.

    Empty for a weight on its line.
    """
    tail, reading = seen.asked.hangs == "tail", seen.reading
    rows = angles_of(reading.steps, tail=tail)
    late = {d.part: d.frames for d in drags(reading, tail=tail, cycle=seen.brief.loop)}
    word = "part" if tail else "link"
    return [
        {
            "name": f"{word} {number}",
            "angles": [{"frame": s.frame, "angle": round(a, 2)} for s, a in zip(reading.steps, row, strict=True)],
            "extremes": [reading.steps[k].frame for k in turns_of(reading, row)],
            "drag": round(late[number], 2) if number in late else None,
        }
        for number, row in enumerate(rows, start=1)
    ]


def joint_paths(seen: Scene) -> list[dict[str, Any]]:
    """The path of each joint between the pivot and the end as it is drawn, of a tail of the ends of its parts."""
    steps, carry = seen.reading.steps, seen.carry
    lines = [carry.drawn(s.points, s.frame) if carry else s.points for s in steps]
    count = len(lines[0]) if lines else 0
    if count < 3 or any(len(line) != count for line in lines):
        return []
    each = (count - 1) // TAIL_PARTS if seen.asked.hangs == "tail" else 1
    return [{"points": [[round(v, 1) for v in line[k]] for line in lines]} for k in range(each, count - 1, each)]


def in_words(told: list[dict[str, Any]]) -> str:
    """By how much each part comes after the one above, in a sentence."""
    known = [(before["name"], part) for before, part in itertools.pairwise(told) if part["drag"] is not None]
    said = [f"{part['name']} comes {_late(part['drag'])} {name}" for name, part in known]
    if not said:
        return ""
    return "At their extremes " + (", ".join(said[:-1]) + " and " if len(said) > 1 else "") + said[-1] + "."


def _late(frames: float) -> str:
    if abs(frames) < 0.05:
        return "together with"
    amount = f"{abs(frames):.1f} frame{'' if round(abs(frames), 1) == 1 else 's'}"
    return f"{amount} {'after' if frames > 0 else 'before'}"
