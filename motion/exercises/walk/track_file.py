"""What the findings file adds to the track of a walk: a figure a drawing, its facing, its belt and its contacts."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from motion.exercises.walk.figure import LANDMARKS, NAMES, SIDES
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.truth import BODY, FIGURE
from motion.track import Figure, Shape, Track

Told = dict[str, Any]
NEVER = ("neck", "head", *(f"{joint}_{side}" for side in SIDES for joint in ("elbow", "hand")))
"""Landmarks that a body on legs has none of."""


def track_told(track: Track, scene: Scene | None) -> Told:
    """``figures``, ``facing``, ``belt``, ``contacts``; with what a person placed also what was found there."""
    reading = scene.reading if scene else None
    supports = _supports(scene)
    told: Told = {
        "subject": BODY,
        "figures": _figures(track, supports),
        "facing": None if reading is None else ("right" if reading.facing > 0 else "left"),
        "belt": None if reading is None else round(reading.belt, 3),
        "contacts": []
        if reading is None
        else [
            {"drawing": reading.steps[c.index].drawing, "frame": reading.steps[c.index].frame, "side": c.side}
            for c in reading.contacts
        ],
    }
    if track.found is not None:
        told["figures_found"] = _figures(track.found, {})
    return told


def _supports(scene: Scene | None) -> dict[int, list[str]]:
    """Which sides stand in each drawing, where it shows first."""
    found: dict[int, list[str]] = {}
    for step in scene.reading.steps if scene else ():
        sides = [side for side in SIDES if scene is not None and scene.reading.stands_at(step.index, side)]
        found.setdefault(step.drawing, sides)
    return found


def _figures(track: Track, supports: dict[int, list[str]]) -> list[Told]:
    """One entry a drawing in which anything of the figure was found, in the order of drawings."""
    told = []
    for figure, body in zip(track.figures(FIGURE), track.marks[BODY], strict=True):
        if figure is None:
            continue
        landmarks = {name: _place(figure.points.get(name)) for name in (*LANDMARKS, *NEVER)}
        ellipse = None
        if isinstance(body, Shape):
            ellipse = {k: round(getattr(body, k), 2) for k in ("x", "y", "major", "minor", "angle")}
        told.append(
            {
                "drawing": figure.drawing,
                "landmarks": landmarks,
                "head": None,
                "body": ellipse,
                "hidden": sorted(figure.hidden),
                "placed": sorted(figure.placed),
                "support": supports.get(figure.drawing, []),
                "lows": {side: round(low, 2) for side, low in sorted(figure.lows.items())},
                "low": None if figure.low is None else round(figure.low, 2),
                "span": None if figure.span is None else [round(v, 2) for v in figure.span],
                "confidence": figure.confidence,
                "source": figure.source,
            }
        )
    return told


def _place(at: tuple[float, float] | None) -> list[float] | None:
    return None if at is None else [round(at[0], 2), round(at[1], 2)]


def landmarks(told: Told) -> list[Told]:
    """What of a drawing may be placed besides the body: every landmark, and where it is by drawing."""
    figures = told.get("figures", ())
    return [
        {
            "name": name,
            "label": NAMES[name],
            "at": {str(f["drawing"]): f["landmarks"][name] for f in figures if f["landmarks"].get(name)},
        }
        for name in LANDMARKS
    ]


def track_read(track: Track, told: Told) -> Track:
    """The track with its figures, as found before anybody placed anything."""
    figures: list[Figure | None] = [None] * len(track.shapes)
    for one in told.get("figures_found") or told.get("figures", ()):
        figures[one["drawing"] - 1] = Figure(
            drawing=one["drawing"],
            points={n: (float(p[0]), float(p[1])) for n, p in one["landmarks"].items() if p is not None},
            hidden=frozenset(one["hidden"]),
            lows={side: float(low) for side, low in one.get("lows", {}).items()},
            low=one.get("low"),
            span=tuple(one["span"]) if one.get("span") else None,
            confidence=one["confidence"],
        )
    return replace(track, marks={BODY: track.shapes, FIGURE: tuple(figures)})
