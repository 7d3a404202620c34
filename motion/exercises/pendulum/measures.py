"""What can be charted of a pendulum against its frames."""

from __future__ import annotations

import math
from collections.abc import Sequence
from statistics import median

from motion.brief import Brief
from motion.exercises.exercise import Curve, Measure, Told
from motion.exercises.pendulum.checks.arcs import OFF_LENGTH
from motion.exercises.pendulum.checks.shape import VOLUME


def measures(told: Told, brief: Brief) -> tuple[Measure, ...]:
    """Angle, gap, length, the line's end at its pivot and the weight's volume; none where nothing was followed."""
    motion = told.get("motion")
    chains = {c["drawing"]: c for c in told["track"].get("chains", ())}
    if not motion or not chains:
        return ()
    exposures = [(e["first_frame"], e["drawing"]) for e in told["clip"]["exposures"]]
    found = [
        _parts(motion.get("parts", ())),
        Measure(
            key="angle",
            name="Angle from the rest line, to the right",
            unit="°",
            values=tuple((a["frame"], float(a["angle"])) for a in motion["angles"]),
        ),
        Measure(
            key="gap",
            name="Gap to the next drawing",
            unit="°",
            values=tuple((g["frame"], float(g["gap"])) for g in motion["gaps"]),
            model=tuple((g["frame"], float(g["expected"])) for g in motion["gaps"] if g["expected"] is not None),
        ),
        _length(told, exposures, chains, brief),
        _pivot(told, exposures, chains),
        _volume(told, brief),
    ]
    return tuple(m for m in found if m is not None and m.values)


def _parts(parts: Sequence[Told]) -> Measure | None:
    """The parts' angles, of which each follows the one above; marked where it turns round."""
    curves = tuple(
        Curve(
            name=part["name"],
            values=tuple((a["frame"], float(a["angle"])) for a in part["angles"]),
            marked=tuple(part["extremes"]),
        )
        for part in parts
    )
    if not curves:
        return None
    return Measure(
        key="parts",
        name="Angle of each part from straight down, to the right",
        unit="°",
        values=curves[0].values,
        curves=curves,
    )


def _length(told: Told, exposures: list[tuple[int, int]], chains: dict[int, Told], brief: Brief) -> Measure | None:
    pivot = told["track"].get("pivot")
    if pivot is None:
        return None
    ends = [(frame, chains[d]["points"][-1]) for frame, d in exposures if d in chains]
    values = [(frame, math.hypot(x - pivot[0], y - pivot[1])) for frame, (x, y) in ends]
    usual = median(v for _, v in values)
    allowed = OFF_LENGTH * brief.leniency
    return Measure(
        key="length",
        name="Length from the pivot, beside its middle value",
        unit="times",
        values=tuple((f, v / usual) for f, v in values),
        band=(1 - allowed, 1 + allowed),
    )


def _pivot(told: Told, exposures: list[tuple[int, int]], chains: dict[int, Told]) -> Measure | None:
    pivot = told["track"].get("pivot")
    if pivot is None:
        return None
    tops = [(frame, chains[d]["points"][0]) for frame, d in exposures if d in chains]
    return Measure(
        key="pivot",
        name="The line’s upper end off its pivot",
        unit="px",
        values=tuple((frame, math.hypot(x - pivot[0], y - pivot[1])) for frame, (x, y) in tops),
    )


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
        name="Volume of the weight, beside its middle value",
        unit="times",
        values=tuple((f, s["major"] * s["minor"] / usual) for f, s in seen),
        band=(1 - allowed, 1 + allowed),
    )
