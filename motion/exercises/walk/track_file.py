"""What the findings file adds to the track of a walk: a figure a drawing, its facing, its belt and its contacts."""

from __future__ import annotations

import itertools
from dataclasses import replace
from typing import Any

from motion.exercises.walk.figure import (
    ANKLE_HIGH,
    ARM_JOINTS,
    FOOT,
    FOREARM,
    HEAD,
    HEAD_UP,
    HEEL_BACK,
    JOINTS,
    LANDMARKS,
    NAMES,
    SIDES,
    UPPER_ARM,
    UPPER_LANDMARKS,
    knee_of,
)
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.truth import FIGURE
from motion.exercises.walk.truth import HEAD as OF_WHOLE
from motion.track import Figure, Track

Told = dict[str, Any]
HANGS_FROM = {
    "neck": "hip",
    "head": "neck",
    **{
        f"{joint}_{side}": root if upper == root else f"{upper}_{side}"
        for side in SIDES
        for root, joints in (("hip", JOINTS), ("neck", ARM_JOINTS))
        for upper, joint in itertools.pairwise((root, *joints))
    },
}
"""By landmark the one above it on its limb."""
HIP_UNDER_BODY, HIP_UNDER_HEAD = 0.36, 2.4
"""Where the hip is supposed to be at first: so many times the body's, or the head's, height below its middle."""
UNSURE = 0.6
"""A drawing whose figure is less sure than this is one to look at."""


def track_told(track: Track, scene: Scene | None) -> Told:
    """``figures``, ``facing``, ``belt``, ``contacts``; with what a person placed also what was found there."""
    reading = scene.reading if scene else None
    supports = _supports(scene)
    told: Told = {
        "subject": track.subject,
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
        sides: list[str] = [side for side in SIDES if scene is not None and scene.reading.stands_at(step.index, side)]
        found.setdefault(step.drawing, sides)
    return found


def _figures(track: Track, supports: dict[int, list[str]]) -> list[Told]:
    """One entry a drawing in which anything of the figure was found, in the order of drawings."""
    told = []
    whole = track.subject == OF_WHOLE
    for figure, body in zip(track.figures(FIGURE), track.shapes, strict=True):
        if figure is None:
            continue
        landmarks = {name: _place(figure.points.get(name)) for name in (*LANDMARKS, *UPPER_LANDMARKS)}
        ellipse = None
        if body is not None:
            ellipse = {k: round(getattr(body, k), 2) for k in ("x", "y", "major", "minor", "angle")}
        told.append(
            {
                "drawing": figure.drawing,
                "landmarks": landmarks,
                "head": ellipse if whole else None,
                "body": None if whole else ellipse,
                "hidden": sorted(figure.hidden),
                "firm": sorted(figure.firm),
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
    """What of a drawing may be placed besides the body: every landmark, and where it is by drawing.

    In a drawing whose joints could not be told they stand below the body, to be dragged from there (``supposed``); as
    soon as some are placed the others go with these.
    """
    figures, names = told.get("figures", ()), _names(told)
    known = {f["drawing"]: _known(f) for f in figures}
    shown = {f["drawing"]: known[f["drawing"]] for f in figures}
    shown |= {f["drawing"]: _standing(f, told) for f in figures if len(known[f["drawing"]]) < len(names)}
    return [
        {
            "name": name,
            "label": NAMES[name],
            "hangs_from": HANGS_FROM.get(name),
            "supposed": [drawing for drawing, places in known.items() if name not in places],
            "at": {str(drawing): places[name] for drawing, places in shown.items() if places.get(name)},
        }
        for name in names
    ]


def _names(told: Told) -> tuple[str, ...]:
    """The landmarks of a clip's figure."""
    return (*LANDMARKS, *UPPER_LANDMARKS) if told.get("subject") == OF_WHOLE else LANDMARKS


def unsure(told: Told) -> list[int]:
    """The drawings whose figure is not told, or not surely."""
    return [f["drawing"] for f in told.get("figures", ()) if f["confidence"] < UNSURE and not f.get("placed")]


def _known(figure: Told) -> dict[str, list[float]]:
    return {name: at for name, at in figure["landmarks"].items() if at is not None}


def _standing(figure: Told, told: Told) -> dict[str, list[float]]:
    """A figure that stands on the ground below a drawing's body, or below its head, with what of it is known."""
    body, ground, known = figure.get("head") or figure.get("body"), told.get("ground"), _known(figure)
    if body is None or ground is None:
        return known
    level, whole = ground["y_left"], figure.get("head") is not None
    below = HIP_UNDER_HEAD if whole else HIP_UNDER_BODY
    hip = known.get("hip", [body["x"], body["y"] + below * body["major"]])
    leg = max(20.0, (level - hip[1]) / (1 + ANKLE_HIGH))
    facing = -1.0 if told.get("facing") == "left" else 1.0
    found = {"hip": hip}
    if whole:
        found |= _hanging(known, body, leg, facing)
    for side, ahead in zip(SIDES, (0.25, -0.25), strict=True):
        ankle = known.get(f"ankle_{side}", [hip[0] + ahead * leg, level - ANKLE_HIGH * leg])
        back, front, sole = HEEL_BACK * leg, (FOOT - HEEL_BACK) * leg, ankle[1] + ANKLE_HIGH * leg
        found |= {
            f"knee_{side}": [*knee_of((hip[0], hip[1]), (ankle[0], ankle[1]), 0.52 * leg, 0.52 * leg, facing)],
            f"ankle_{side}": ankle,
            f"heel_{side}": [ankle[0] - facing * back, sole],
            f"toe_{side}": [ankle[0] + facing * front, sole],
        }
    return {name: [round(v, 2) for v in known.get(name, at)] for name, at in found.items()}


def _hanging(known: dict[str, list[float]], head: Told, leg: float, facing: float) -> dict[str, list[float]]:
    """Neck, head and two arms a little apart, with what of them is known."""
    neck = known.get("neck", [head["x"], head["y"] + (HEAD / 2 + HEAD_UP) / HEAD * head["major"]])
    found = {"neck": neck, "head": [head["x"], head["y"]]}
    for side, ahead in zip(SIDES, (-0.3, 0.3), strict=True):
        elbow = known.get(
            f"elbow_{side}", [neck[0] + facing * ahead * UPPER_ARM * leg, neck[1] + 0.95 * UPPER_ARM * leg]
        )
        found |= {
            f"elbow_{side}": elbow,
            f"hand_{side}": [elbow[0] + facing * (ahead + 0.2) * FOREARM * leg, elbow[1] + 0.95 * FOREARM * leg],
        }
    return found


def trails(told: Told) -> list[list[list[float]]]:
    """The ways of the hips and of both ankles, of a whole figure of its head too, as far as they show."""
    found = []
    for name in ("hip", "head", *(f"ankle_{side}" for side in SIDES)):
        seen = [f for f in told.get("figures", ()) if name not in f["hidden"]]
        found.append([at for f in seen if (at := f["landmarks"].get(name)) is not None])
    return [trail for trail in found if len(trail) > 1]


def track_read(track: Track, told: Told) -> Track:
    """The track with its figures, as found before anybody placed anything."""
    figures: list[Figure | None] = [None] * len(track.shapes)
    for one in told.get("figures_found") or told.get("figures", ()):
        figures[one["drawing"] - 1] = Figure(
            drawing=one["drawing"],
            points={n: (float(p[0]), float(p[1])) for n, p in one["landmarks"].items() if p is not None},
            hidden=frozenset(one["hidden"]),
            firm=frozenset(one.get("firm", ())),
            lows={side: float(low) for side, low in one.get("lows", {}).items()},
            low=one.get("low"),
            span=tuple(one["span"]) if one.get("span") else None,
            confidence=one["confidence"],
        )
    return replace(track, marks={track.subject: track.shapes, FIGURE: tuple(figures)})
