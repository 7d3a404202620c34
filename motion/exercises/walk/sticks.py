"""The stick figure over the drawings of a walk: as it was found, and as it belongs once it is mended."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from typing import Any

from motion.exercises.walk.figure import SIDES

Told = dict[str, Any]
RING = 48
"""So many points make a closed line that stands for an ellipse."""


def drawn_over(told: Told) -> Told:
    """The stick figure of each drawing, near and far by kind, limbs that do not show apart; and where feet stand."""
    parts = {str(f["drawing"]): _sticks(f) for f in told["track"].get("figures", ())}
    stands = (told.get("motion") or {}).get("stands", ())
    marks = [
        {"points": s["mark"], "kind": s["side"], "first": s["first_frame"], "last": s["last_frame"]}
        for s in stands
        if s["mark"]
    ]
    return {"parts": {drawing: sticks for drawing, sticks in parts.items() if sticks}, "marks": marks}


def _sticks(figure: Told) -> list[Told]:
    at, hidden = figure["landmarks"], set(figure["hidden"])
    found = []
    for side in reversed(SIDES):
        chains = [
            ["hip", f"knee_{side}", f"ankle_{side}", f"heel_{side}", f"toe_{side}", f"ankle_{side}"],
            ["neck", f"elbow_{side}", f"hand_{side}"],
        ]
        if side == SIDES[0]:
            chains.insert(0, ["head", "neck", "hip"])
        for one, other in (pair for chain in chains for pair in itertools.pairwise(chain)):
            if at.get(one) is None or at.get(other) is None:
                continue
            unseen = " hidden" if {one, other} & hidden else ""
            found.append({"points": [at[one], at[other]], "kind": f"{side}{unseen}"})
    return found


def figured(told: Told, drawing: int, landmarks: Mapping[str, Sequence[float]]) -> list[Told]:
    """The stick figure of a drawing, its body or head as a ring, with some of its landmarks (px, by name) elsewhere."""
    own = next((f for f in told["track"].get("figures", ()) if f["drawing"] == drawing), None)
    if own is None:
        return []
    moved = {**own, "landmarks": {**own["landmarks"], **landmarks}, "hidden": []}
    return [*_sticks(moved), *_ring(own, moved["landmarks"])]


def _ring(own: Told, landmarks: Mapping[str, Sequence[float]]) -> list[Told]:
    """Body or head as a closed line, as far beside where it is drawn as the landmark that it goes with."""
    ring, goes_with = (own["head"], "head") if own["head"] else (own["body"], "hip")
    before, after = own["landmarks"].get(goes_with), landmarks.get(goes_with)
    if ring is None:
        return []
    dx, dy = (after[0] - before[0], after[1] - before[1]) if before and after else (0.0, 0.0)
    turn = math.radians(ring["angle"])
    points = []
    for k in range(RING + 1):
        at = 2 * math.pi * k / RING
        along, aside = ring["major"] / 2 * math.cos(at), ring["minor"] / 2 * math.sin(at)
        x = ring["x"] + dx + along * math.cos(turn) + aside * math.sin(turn)
        y = ring["y"] + dy - along * math.sin(turn) + aside * math.cos(turn)
        points.append([round(x, 2), round(y, 2)])
    return [{"points": points, "kind": "near"}]
