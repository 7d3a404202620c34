"""The findings file, ``nettlecap.findings/1``, and the track table: written, and read back."""

from __future__ import annotations

import csv
import io
import itertools
import json
from typing import Any

import numpy as np

from motion.analysis import Analysis, judge
from motion.brief import Brief
from motion.checks import scene
from motion.clip import Clip, Exposure, Unseen
from motion.exercises.bounce.gravity import hop_duration, hop_height
from motion.tracking import placing
from motion.tracking.placing import Placement
from motion.tracking.registration import Shift
from motion.tracking.track import Ground, Oversights, Shape, Track

SCHEMA = "nettlecap.findings/1"
MEASURES = ("x", "y", "major", "minor", "angle", "bottom")
"""What is told of each shape, in px and degrees."""


def to_json(analysis: Analysis) -> dict[str, Any]:
    """The findings file, ``nettlecap.findings/1``."""
    clip, track = analysis.clip, analysis.track
    return {
        "schema": SCHEMA,
        "clip": {
            "name": clip.name,
            "fps": clip.fps,
            "frames": clip.frames,
            "width": clip.width,
            "height": clip.height,
            "exposures": [
                {"drawing": e.drawing, "first_frame": e.first_frame, "frames": e.frames} for e in track.exposures
            ],
            "picture_frames": list(clip.picture_frames),
            "source_fps": clip.source_fps,
            "lossy": clip.lossy,
            "remarks": list(clip.remarks),
        },
        "track": _track(track),
        "motion": _motion(analysis),
        "preflight": [n.to_json() for n in analysis.preflight],
        "findings": [f.to_json() for f in analysis.findings],
    }


def _track(track: Track) -> dict[str, Any]:
    found = track.found or track
    shapes = []
    for shape in track.shapes:
        if shape is None:
            continue
        told = _shape(shape)
        if shape.source == "placed":
            own = found.shape_of(shape.drawing)
            told["found"] = None if own is None else _shape(own)
        shapes.append(told)
    ground = None if track.ground is None else _ground(track.ground)
    if ground and track.ground and track.ground.placed:
        ground["found"] = None if found.ground is None else _ground(found.ground)
    seen = track.oversights
    return {
        "kind": track.kind,
        "ground": ground,
        "shapes": shapes,
        "shifts": [[round(s.x, 2), round(s.y, 2), round(s.turn, 3)] for s in track.shifts],
        "oversights": {"ghosts": sorted(seen.ghosts), "bare": sorted(seen.bare), "empty": sorted(seen.empty)},
        "guide_shows": track.guide_shows,
    }


def _ground(ground: Ground) -> dict[str, Any]:
    return {
        "y_left": round(ground.y_left, 2),
        "y_right": round(ground.y_right, 2),
        "confidence": ground.confidence,
        "drawn": ground.drawn,
        "placed": ground.placed,
    }


def _shape(shape: Shape) -> dict[str, Any]:
    return {
        "drawing": shape.drawing,
        **{name: round(getattr(shape, name), 2) for name in MEASURES},
        "clipped": shape.clipped,
        "confidence": shape.confidence,
        "source": shape.source,
    }


def read_back(told: dict[str, Any]) -> tuple[Clip, Track]:
    """Clip and track of a findings file, as found before anybody placed anything; the clip without its pictures.

    Measures come back as rounded as the file has them; what files of earlier versions lack is taken for none.
    """
    about, track = told["clip"], told["track"]
    exposures = tuple(Exposure(**e) for e in about["exposures"])
    clip = Clip(
        name=about["name"],
        fps=about["fps"],
        width=about["width"],
        height=about["height"],
        footage=Unseen(),
        picture_frames=tuple(about.get("picture_frames") or (e.frames for e in exposures)),
        source_fps=about.get("source_fps"),
        lossy=about.get("lossy", False),
        remarks=tuple(about.get("remarks", ())),
    )
    shapes: list[Shape | None] = [None] * max(e.drawing for e in exposures)
    for one in track["shapes"]:
        found = one["found"] if one["source"] == "placed" else one
        shapes[one["drawing"] - 1] = found and Shape(**{k: v for k, v in found.items() if k != "found"})
    ground = track["ground"]
    ground = ground["found"] if ground and ground.get("placed") else ground
    return clip, Track(
        exposures=exposures,
        shapes=tuple(shapes),
        pictures=tuple(range(len(shapes))),
        ground=Ground(width=about["width"], **ground) if ground else None,
        shifts=tuple(Shift(x=x, y=y, turn=turn) for x, y, turn in track.get("shifts", ())),
        oversights=Oversights(**{k: frozenset(v) for k, v in track.get("oversights", {}).items()}),
        guide_shows=track.get("guide_shows", False),
        kind=track["kind"],
    )


def judge_again(told: dict[str, Any], brief: Brief, placement: Placement) -> Analysis:
    """Run the checks again on what a findings file tells, with what a person placed; nothing is tracked anew."""
    clip, track = read_back(told)
    return judge(clip, brief, placing.apply(track, placement))


def _motion(analysis: Analysis) -> dict[str, Any] | None:
    """What the bounce was read as: diameter, gravity, contacts, hops, and each drawing's gap to the next."""
    seen = analysis.scene
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
        "arcs": _arcs(seen),
        "gaps": _gaps(seen),
    }


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _arcs(seen: scene.Scene) -> list[dict[str, Any]]:
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


def _gaps(seen: scene.Scene) -> list[dict[str, Any]]:
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


def to_text(analysis: Analysis) -> str:
    """The findings file as UTF-8 JSON text; the same input gives the same bytes."""
    return json.dumps(to_json(analysis), ensure_ascii=False, indent=1, allow_nan=False) + "\n"


def track_csv(analysis: Analysis) -> str:
    """One row an exposure: frame range, drawing, and the measured shape; empty cells where none was measured."""
    stream = io.StringIO()
    rows = csv.writer(stream, lineterminator="\n")
    rows.writerow(["first_frame", "last_frame", "drawing", *MEASURES, "clipped", "confidence", "source"])
    for e in analysis.track.exposures:
        shape = analysis.track.shape_of(e.drawing)
        values: list[Any] = [""] * 9
        if shape is not None:
            numbers = [f"{getattr(shape, c):.2f}" for c in MEASURES]
            values = [*numbers, str(shape.clipped).lower(), f"{shape.confidence:.3f}", shape.source]
        rows.writerow([e.first_frame, e.last_frame, e.drawing, *values])
    return stream.getvalue()
