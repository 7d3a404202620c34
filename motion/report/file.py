"""The findings file, ``nettlecap.findings/1``, and the track table: written, and read back."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

from motion.analysis import Analysis, judge
from motion.brief import Brief
from motion.clip import Clip, Exposure, Unseen
from motion.exercises import exercise_of
from motion.shift import Shift
from motion.track import Ground, Oversights, Shape, Track, of_shapes
from motion.tracking.placing import Placement

SCHEMA = "nettlecap.findings/1"
MEASURES = ("x", "y", "major", "minor", "angle", "bottom")
"""What is told of each shape, in px and degrees."""


def to_json(analysis: Analysis) -> dict[str, Any]:
    """The findings file, ``nettlecap.findings/1``."""
    clip, track, exercise = analysis.clip, analysis.track, exercise_of(analysis.brief)
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
        "track": {**_track(track), **exercise.track_told(track, analysis.scene)},
        "motion": exercise.told(analysis.scene),
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
    return clip, of_shapes(
        exposures,
        tuple(shapes),
        tuple(range(len(shapes))),
        Ground(width=about["width"], **ground) if ground else None,
        kind=track["kind"],
        subject=track.get("subject", track["kind"]),
        shifts=tuple(Shift(x=x, y=y, turn=turn) for x, y, turn in track.get("shifts", ())),
        oversights=Oversights(**{k: frozenset(v) for k, v in track.get("oversights", {}).items()}),
        guide_shows=track.get("guide_shows", False),
    )


def judge_again(told: dict[str, Any], brief: Brief, placement: Placement) -> Analysis:
    """Run the checks again on what a findings file tells, with what a person placed; nothing is tracked anew."""
    clip, track = read_back(told)
    exercise = exercise_of(brief)
    track = exercise.track_read(track, told["track"])
    return judge(clip, brief, exercise.placed(track, placement))


def to_text(analysis: Analysis) -> str:
    """The findings file as UTF-8 JSON text; the same input gives the same bytes."""
    return json.dumps(to_json(analysis), ensure_ascii=False, indent=1, allow_nan=False) + "\n"


def track_csv(analysis: Analysis) -> str:
    """One row an exposure: frame range, drawing, the measured shape, and the landmarks where what moves has any.

    Empty cells where none was measured.
    """
    stream = io.StringIO()
    rows = csv.writer(stream, lineterminator="\n")
    exercise = exercise_of(analysis.brief)
    landmarks = exercise.landmarks(exercise.track_told(analysis.track, analysis.scene))
    points = [f"{landmark['name']}_{axis}" for landmark in landmarks for axis in ("x", "y")]
    rows.writerow(["first_frame", "last_frame", "drawing", *MEASURES, "clipped", "confidence", "source", *points])
    for e in analysis.track.exposures:
        shape = analysis.track.shape_of(e.drawing)
        values: list[Any] = [""] * 9
        if shape is not None:
            numbers = [f"{getattr(shape, c):.2f}" for c in MEASURES]
            values = [*numbers, str(shape.clipped).lower(), f"{shape.confidence:.3f}", shape.source]
        for landmark in landmarks:
            supposed = e.drawing in landmark.get("supposed", ())
            at = None if supposed else landmark["at"].get(str(e.drawing))
            values += ["", ""] if at is None else [f"{v:.2f}" for v in at]
        rows.writerow([e.first_frame, e.last_frame, e.drawing, *values])
    return stream.getvalue()
