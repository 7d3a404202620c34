"""What the findings file adds to the track of a pendulum: its chains, and its pivot."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from motion.exercises.pendulum.truth import END, JOINT, LINE
from motion.track import Line, Pivot, Track

Told = dict[str, Any]


def track_told(track: Track) -> Told:
    """``pivot`` and ``chains``; with what a person placed also what was found there."""
    pivot = track.pivot
    told: Told = {
        "pivot": [round(pivot.x, 2), round(pivot.y, 2)] if pivot else None,
        "pivot_confidence": pivot.confidence if pivot else None,
        "chains": _chains(track),
    }
    if pivot and pivot.placed:
        found = track.found.pivot if track.found else None
        told["pivot_placed"] = True
        told["pivot_found"] = [round(found.x, 2), round(found.y, 2), found.confidence] if found else None
    if track.found is not None:
        told["chains_found"] = _chains(track.found)
    return told


def _chains(track: Track) -> list[Told]:
    """One entry a drawing in which the line was found, in the order of drawings."""
    chains = []
    for line, shape in zip(track.lines(LINE), track.shapes, strict=True):
        if line is None:
            continue
        bob = None
        if shape is not None and not shape.bare:
            bob = {k: round(getattr(shape, k), 2) for k in ("x", "y", "major", "minor", "angle")}
        chains.append(
            {
                "drawing": line.drawing,
                "points": [[round(x, 2), round(y, 2)] for x, y in line.points],
                "bob": bob,
                "confidence": line.confidence,
                "source": line.source,
                **({"wide": round(line.wide, 2)} if line.wide is not None else {}),
                **(
                    {"apart": {str(k): [round(x, 2), round(y, 2)] for k, (x, y) in line.apart.items()}}
                    if line.apart
                    else {}
                ),
                **({"hook": [round(v, 2) for v in line.hook]} if line.hook else {}),
            }
        )
    return chains


def landmarks(told: Told) -> list[Told]:
    """What of a drawing may be placed besides the weight, and where that is by drawing: its line's end, its joints."""
    chains = {str(chain["drawing"]): chain["points"] for chain in told.get("chains", ())}
    inner = range(1, max((len(points) for points in chains.values()), default=2) - 1)
    joints = [
        {
            "name": f"{JOINT}{k}",
            "label": f"Joint {k}",
            "at": {n: points[k] for n, points in chains.items() if k < len(points) - 1},
        }
        for k in inner
    ]
    return [{"name": END, "label": "Upper end of the line", "at": {n: p[0] for n, p in chains.items()}}, *joints]


def drawn_over(told: Told) -> Told:
    """Each drawing's line, from where it hangs to the weight."""
    chains = told["track"].get("chains", ())
    return {"parts": {str(c["drawing"]): [{"points": c["points"], "kind": "line"}] for c in chains}, "marks": []}


def track_read(track: Track, told: Told) -> Track:
    """The track with its lines and its pivot, as found before anybody placed anything."""
    lines: list[Line | None] = [None] * len(track.shapes)
    for chain in told.get("chains_found") or told.get("chains", ()):
        lines[chain["drawing"] - 1] = Line(
            drawing=chain["drawing"],
            points=tuple((float(x), float(y)) for x, y in chain["points"]),
            confidence=chain["confidence"],
            source="found",
            wide=chain.get("wide"),
            apart={int(k): (float(x), float(y)) for k, (x, y) in chain.get("apart", {}).items()},
            hook=(float(chain["hook"][0]), float(chain["hook"][1])) if chain.get("hook") else None,
        )
    found = (
        told.get("pivot_found")
        if told.get("pivot_placed")
        else [*told["pivot"], told["pivot_confidence"]]
        if told.get("pivot")
        else None
    )
    pivot = Pivot(x=found[0], y=found[1], confidence=found[2]) if found else None
    bare = {c["drawing"] for c in told.get("chains_found") or told.get("chains", ()) if c["bob"] is None}
    shapes = tuple(s and (replace(s, bare=True) if s.drawing in bare else s) for s in track.shapes)
    read = track.with_marks(track.subject, shapes).with_marks(LINE, tuple(lines))
    return replace(read, fixtures={"pivot": pivot} if pivot else {})
