"""What can be charted of a clip against its frames: each measure with what the model expects and what is allowed."""

from __future__ import annotations

import math
from statistics import median

from motion.brief import Brief
from motion.exercises.bounce.asked import asked_of
from motion.exercises.bounce.checks.deforming import ACROSS_DEGREES, UNWANTED
from motion.exercises.bounce.checks.squash_stretch import VOLUME
from motion.exercises.exercise import Measure, Told
from motion.tracking.ellipse import axis_angle


def measures(told: Told, brief: Brief) -> tuple[Measure, ...]:
    """Height, gap, volume, stretch and lean of a clip; none where nothing was followed."""
    shapes = {s["drawing"]: s for s in told["track"]["shapes"]}
    seen = [(e["first_frame"], shapes[e["drawing"]]) for e in told["clip"]["exposures"] if e["drawing"] in shapes]
    if not seen:
        return ()
    found = [_gap(told), _volume(seen, brief), _stretch(seen, brief), _lean(seen, brief)]
    height = _height(told, seen)
    return tuple(m for m in (height, *found) if m is not None and m.values)


def _height(told: Told, seen: list[tuple[int, Told]]) -> Measure | None:
    ground = told["track"]["ground"]
    if ground is None:
        return None
    slope = (ground["y_right"] - ground["y_left"]) / max(1, told["clip"]["width"] - 1)
    values = tuple((f, float(ground["y_left"] + slope * s["x"] - s["bottom"])) for f, s in seen)
    return Measure(key="height", name="Height above the ground", unit="px", values=values)


def _gap(told: Told) -> Measure | None:
    gaps = (told.get("motion") or {}).get("gaps", ())
    return Measure(
        key="gap",
        name="Gap to the next drawing",
        unit="px",
        values=tuple((g["frame"], float(g["gap"])) for g in gaps),
        model=tuple((g["frame"], float(g["expected"])) for g in gaps if g["expected"] is not None),
    )


def _volume(seen: list[tuple[int, Told]], brief: Brief) -> Measure:
    whole = [(f, s) for f, s in seen if not s["clipped"]]
    usual = median(s["major"] * s["minor"] for _, s in whole) if whole else 1.0
    allowed = VOLUME * brief.leniency
    return Measure(
        key="volume",
        name="Volume, beside its middle value",
        unit="times",
        values=tuple((f, s["major"] * s["minor"] / usual) for f, s in whole),
        band=(1 - allowed, 1 + allowed),
    )


def _stretch(seen: list[tuple[int, Told]], brief: Brief) -> Measure:
    """Long over short axis; only a ball that must keep its shape has a band."""
    limit = UNWANTED.get(asked_of(brief).material)
    return Measure(
        key="stretch",
        name="Stretch, long axis over short",
        unit="times",
        values=tuple((f, s["major"] / s["minor"]) for f, s in seen if not s["clipped"]),
        band=None if limit is None else (1.0, 1 + limit * brief.leniency),
    )


LONG = 1.08
"""Rounder drawings have no angle worth a chart."""


def _lean(seen: list[tuple[int, Told]], brief: Brief) -> Measure:
    """Degrees between the long axis and the way from the drawing before to the next, where it is long enough."""
    values = []
    for (_, before), (frame, here), (_, after) in zip(seen, seen[1:], seen[2:], strict=False):
        dx, dy = after["x"] - before["x"], after["y"] - before["y"]
        if here["major"] >= LONG * here["minor"] and math.hypot(dx, dy) > 1:
            values.append((frame, axis_angle(here["angle"] - math.degrees(math.atan2(-dy, dx)))))
    allowed = ACROSS_DEGREES * brief.leniency
    return Measure(key="lean", name="Stretch off the path", unit="°", values=tuple(values), band=(-allowed, allowed))
