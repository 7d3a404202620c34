"""Near and far kept through a clip: drawings whose legs are the other way round than before and after.

Where both legs are drawn alike, one picture may be shown again a step later, and then the leg that was near is far. In
two tones a drawing may be toned the wrong way round, which shows as both legs leaping.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from motion.exercises.walk.figure import SIDES
from motion.exercises.walk.follow import swapped_sides

if TYPE_CHECKING:
    from motion.exercises.walk.steps import Step

LEGS, ARMS = ("hip", ("knee", "ankle")), ("neck", ("elbow", "hand"))
"""What hangs on what, by which both sides are kept."""
FEWEST = 4
SUDDEN, MOST = 0.12, 6.0
"""A change of speed by so much of a leg costs 1, none more than the latter."""
TURNED = 0.6
"""What it costs to change over, so that legs that lie over each other stay as they are."""


def sorted_sides(steps: Sequence[Step], leg: float, *, told_apart: bool) -> tuple[list[Step], tuple[int, ...]]:
    """The drawings with their sides kept through the clip, and which of them (indices) had to be turned for that.

    Where sides are not ``told_apart`` that is no fault, and none is told.
    """
    own = {i for i, turns in _asks(steps, leg, *LEGS).items() if turns}
    found = [
        replace(s, figure=swapped_sides(s.figure)) if s.index in own and s.figure is not None else s for s in steps
    ]
    return found, tuple(sorted(own)) if told_apart else ()


def sorted_arms(steps: Sequence[Step], leg: float) -> list[Step]:
    """The drawings of a figure whose sides are drawn alike, its arms kept through the clip by themselves.

    They were told from each other in the order in which drawings show first. Where one shows again that order is
    broken, so stretches of drawings that follow each other are turned as a whole where most of one asks for that.
    """
    asks = _asks(steps, leg, *ARMS)
    found: list[Step] = []
    for run in _in_order(steps):
        told = [asks[s.index] for s in run if s.index in asks]
        turns = 2 * sum(told) > len(told)
        found += [
            replace(s, figure=swapped_sides(s.figure, ARMS[1])) if turns and s.figure is not None else s for s in run
        ]
    return found


def _asks(steps: Sequence[Step], leg: float, root: str, parts: tuple[str, str]) -> dict[int, bool]:
    """Which drawings (indices) ask that their limbs be turned, fewer than half of them; none where few tell."""
    places = [_places(s, root, parts) for s in steps]
    known = [i for i, p in enumerate(places) if p is not None]
    if len(known) < FEWEST:
        return {}
    turned = _turned([places[i] for i in known], [steps[i].clock for i in known], leg)  # type: ignore[misc]
    most = 2 * sum(turned) > len(turned)
    return {i: t is not most for i, t in zip(known, turned, strict=True)}


def _in_order(steps: Sequence[Step]) -> Iterator[list[Step]]:
    """Stretches of drawings each of which shows first, or again, after the one before it."""
    run: list[Step] = []
    for step in steps:
        if run and step.drawing != run[-1].drawing + 1:
            yield run
            run = []
        run.append(step)
    if run:
        yield run


def _places(step: Step, root: str, parts: tuple[str, str]) -> np.ndarray[tuple[int, int], np.dtype[np.float64]] | None:
    """(2, 4) two joints of both sides from their root, px; None where they are not told."""
    figure = step.figure
    if figure is None or root not in figure.points or figure.hidden >= figure.points.keys():
        return None
    start = np.array(figure.points[root])
    rows = []
    for side in SIDES:
        joints = [figure.points.get(f"{joint}_{side}") for joint in parts]
        if any(j is None for j in joints):
            return None
        rows.append(np.concatenate([np.array(j) - start for j in joints if j is not None]))
    return np.array(rows)


def _turned(
    places: Sequence[np.ndarray[tuple[int, int], np.dtype[np.float64]]], clocks: Sequence[float], leg: float
) -> list[bool]:
    """Whether each drawing's sides are turned, by the cheapest way through all: both before lead to the next."""
    both = [np.stack([p, p[::-1]]) for p in places]
    states = list(itertools.product((0, 1), (0, 1)))
    total = {(a, b): TURNED * (a != b) for a, b in states}
    back: list[dict[tuple[int, int], int]] = []
    for k in range(2, len(both)):
        ratio = (clocks[k] - clocks[k - 1]) / max(1e-6, clocks[k - 1] - clocks[k - 2])
        now, chosen = {}, {}
        for b, c in states:
            costs = []
            for a in (0, 1):
                ahead = both[k - 1][b] + ratio * (both[k - 1][b] - both[k - 2][a])
                off = (both[k][c] - ahead) / (0.5 * (1 + ratio) * leg * SUDDEN)
                joints = (off.reshape(4, 2) ** 2).sum(axis=1)
                costs.append(total[a, b] + float(np.minimum(joints, MOST).sum()) + TURNED * (b != c))
            chosen[b, c] = int(np.argmin(costs))
            now[b, c] = min(costs)
        total = now
        back.append(chosen)
    state = min(total, key=lambda s: total[s])
    run = [state[1], state[0]]
    for chosen in reversed(back):
        run.append(chosen[run[-1], run[-2]])
    return [bool(t) for t in reversed(run)]
