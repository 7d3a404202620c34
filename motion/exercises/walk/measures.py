"""What can be charted of a walk against its frames."""

from __future__ import annotations

from statistics import median

from motion.brief import Brief
from motion.exercises.exercise import Measure, Points, Told
from motion.exercises.walk.asked import asked_of
from motion.exercises.walk.checks.contact import GAP
from motion.exercises.walk.sizes import LIMB, VOLUME

CHARTS: tuple[tuple[str, str, str, str], ...] = (
    ("hips", "hips", "Hips above their middle height", "px"),
    ("feet", "foot_near", "Near foot above the ground", "px"),
    ("feet_far", "foot_far", "Far foot above the ground", "px"),
    ("travel", "travel_near", "Near foot ahead of the hips", "px"),
    ("travel_far", "travel_far", "Far foot ahead of the hips", "px"),
    ("legs", "angle_near", "Near leg forward from straight down", "°"),
    ("legs_far", "angle_far", "Far leg forward from straight down", "°"),
    ("arms", "arm_near", "Near arm forward from straight down", "°"),
    ("arms_far", "arm_far", "Far arm forward from straight down", "°"),
    ("knees", "knee_near", "Near knee’s bend", "°"),
    ("knees_far", "knee_far", "Far knee’s bend", "°"),
    ("lean", "lean", "Leans forward by", "°"),
    ("limbs", "thigh_near", "Near thigh beside its middle length", "times"),
    ("limbs_shin", "shin_near", "Near shin beside its middle length", "times"),
    ("limbs_far", "thigh_far", "Far thigh beside its middle length", "times"),
    ("limbs_far_shin", "shin_far", "Far shin beside its middle length", "times"),
)
"""What is charted: its key, its row in the findings file, its name and unit."""


def measures(told: Told, brief: Brief) -> tuple[Measure, ...]:
    """Hips, feet, legs, knees, limbs, the gap and the body's volume; none where nothing was followed."""
    motion = told.get("motion")
    if not motion:
        return ()
    rows = motion.get("charts", {})
    leg, allowed = float(motion["leg"]), LIMB * brief.leniency
    bands = {"feet": (-GAP * leg * brief.leniency, GAP * leg * brief.leniency), "limbs": (1 - allowed, 1 + allowed)}
    asked = asked_of(brief)
    if asked.lean_degrees is not None:
        bands["lean"] = asked.lean_degrees
    found = [
        Measure(
            key=key,
            name=name,
            unit=unit,
            values=_points(rows.get(row, ())),
            model=_points(rows.get(f"{row}_model", ())),
            band=bands.get(key.split("_")[0]),
        )
        for key, row, name, unit in CHARTS
    ]
    gap = Measure(
        key="gap",
        name="The swinging foot’s way to the next drawing",
        unit="px",
        values=tuple((g["frame"], float(g["gap"])) for g in motion["gaps"]),
    )
    volume = _volume(told, brief)
    return tuple(m for m in (found[0], gap, *found[1:], volume) if m is not None and m.values)


def _points(rows: list[list[float]] | tuple[()]) -> Points:
    return tuple((int(frame), float(value)) for frame, value in rows)


def _volume(told: Told, brief: Brief) -> Measure | None:
    shapes = {s["drawing"]: s for s in told["track"]["shapes"] if not s["clipped"]}
    exposures = told["clip"]["exposures"]
    seen = [(e["first_frame"], shapes[e["drawing"]]) for e in exposures if e["drawing"] in shapes]
    if not seen:
        return None
    usual = median(s["major"] * s["minor"] for _, s in seen)
    allowed = VOLUME * brief.leniency
    return Measure(
        key="volume",
        name=f"Volume of the {told['track'].get('subject', 'body')}, beside its middle value",
        unit="times",
        values=tuple((f, s["major"] * s["minor"] / usual) for f, s in seen),
        band=(1 - allowed, 1 + allowed),
    )
