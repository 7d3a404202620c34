"""In-betweens placed by halves: half of the gap, half of the half, and so on towards the top.

That is how students are taught to space; it is smooth, but not gravity's own spacing.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from motion.ranks import median, steps_of

# Gaps that grow by about a factor of two from one to the next, away from the top, are spaced by halves.
LEAST_RATIO, MOST_RATIO = 1.65, 2.45
LEAST_EQUAL = 0.75
# So many gaps, the one to the contact included, tell that a side is spaced so but for one drawing.
FEWEST_TO_SETTLE = 4
HALFWAY = 0.4
# Beside a halved side the top lies between half of and the whole of the last gap further on.
LEAST_ON, MOST_ON = 0.4, 1.1
# A drawing less lower than the highest, as a share of the gap before it, may be the top as well.
AS_HIGH = 0.05
# Between the ratios 2, where a side begins at its top, and 7 / 3, where it begins below.
BELOW_TOP = 2.15
# One side of a top has at most so many drawings more than the other.
MOST_UNLIKE = 2


def places(
    points: NDArray[np.float64],
    before: NDArray[np.float64] | None,
    after: NDArray[np.float64] | None,
    index: int,
    others: Sequence[int],
    halved: bool,
) -> list[NDArray[np.float64]]:
    """Where the drawing at ``index`` may lie if its side of the hop is spaced by halves; empty if nothing is told.

    ``points`` (n, 2) are the drawings in the air, ``before`` and ``after`` the contacts beside them, ``others``
    the drawings to go by, ``halved`` whether the clip as a whole is spaced so.
    """
    top = max((*others, index), key=lambda j: points[j, 1])
    found = []
    for contact, beyond in ((before, -1), (after, 1)):
        inwards = [points[j] for j in sorted(others, reverse=beyond < 0) if (j - index) * beyond > 0]
        if contact is not None:
            inwards.append(contact)
        if index == top:
            found += _next_to_last(points[index], inwards) if halved else []
        elif (index - top) * beyond > 0:
            found += _between(points, others, top, index, inwards, beyond, halved)
            if halved and len(inwards) > 1 and points[top, 1] - points[index, 1] < AS_HIGH * _apart(*inwards[:2]):
                # Of two that are nearly as high as each other either may be the top.
                found += _next_to_last(points[index], inwards)
            cut_off = (after if beyond < 0 else before) is None and abs(index - top) == 1
            if halved and cut_off and inwards and _is_below_its_top(points[top], inwards):
                # The clip begins or ends on the way: the true top is still to come, and the gaps just halve.
                found.insert(0, inwards[0] + (points[top] - inwards[0]) * 2 / 3)
            if halved and contact is None:
                found += _cut_side(points, others, top, index)
    return found


def _is_below_its_top(highest: NDArray[np.float64], outwards: Sequence[NDArray[np.float64]]) -> bool:
    """Whether a cut side may begin below its top, by its drawings beyond the one that is looked at.

    From the top they lie twice as far each; from the drawing below it at 3, 7, 15 times the first gap.
    """
    return len(outwards) < 2 or _apart(outwards[1], highest) > BELOW_TOP * _apart(outwards[0], highest)


def _cut_side(points: NDArray[np.float64], others: Sequence[int], top: int, index: int) -> list[NDArray[np.float64]]:
    """Where a drawing may lie on the side of a top that the clip's beginning or end cuts off.

    As far from the top as the drawing as far on its other side, or half or twice as far for every drawing that one side
    has more than the other; or by those on its own side, of which each is twice as far from the top as the one before.
    """
    apex, way, rank = points[top], 1 if index > top else -1, abs(index - top)
    wanted = []
    if top - way * rank in others:
        mirrored = _apart(points[top - way * rank], apex)
        wanted += [mirrored * 2.0**more for more in range(-MOST_UNLIKE, MOST_UNLIKE + 1)]
    if rank > 1 and index - way in others:
        wanted.append(2 * _apart(points[index - way], apex))
    if index + way in others:
        wanted.append(_apart(points[index + way], apex) / 2)
    return [_at_distance(points[index], apex, far) for far in wanted]


def settles(
    points: NDArray[np.float64],
    before: NDArray[np.float64] | None,
    after: NDArray[np.float64] | None,
    index: int,
    place: NDArray[np.float64],
) -> bool:
    """Whether a side of a hop is spaced by halves all along once the drawing at ``index`` lies at a place.

    Then nothing else need be tried: of the many smooth motions some would excuse a drawing that is clearly off.
    """
    mended = points.copy()
    mended[index] = place
    top = int(np.argmax(mended[:, 1]))
    contact = before if index < top else after
    if index == top or contact is None:
        return False
    side = np.vstack([mended[top::-1] if index < top else mended[top:], contact])
    gaps = np.maximum(np.hypot(*steps_of(side).T), 1e-6)
    if len(gaps) < FEWEST_TO_SETTLE or not LEAST_EQUAL <= gaps[1] / gaps[0] <= 1 / LEAST_EQUAL:
        return False
    doubles = gaps[2:] / gaps[1:-1]
    return bool(((doubles >= LEAST_RATIO) & (doubles <= MOST_RATIO)).all())


def shows_top(points: NDArray[np.float64], *, at_start: bool) -> bool:
    """Whether half a hop's drawings (n, 2), spaced by halves, begin (or end) at their top and not below it.

    The last half is not halved again, so the two gaps next to a top are equal.
    """
    if len(points) < 3:
        return False
    outwards = points if at_start else points[::-1]
    gaps = np.maximum(np.hypot(*steps_of(outwards[:3]).T), 1e-6)
    return bool(LEAST_EQUAL <= gaps[1] / gaps[0] <= 1 / LEAST_EQUAL)


class Hopped(NamedTuple):
    """A hop's drawings in the air (n, 2), the contacts (2,) before and after, and whether it flies by gravity."""

    points: NDArray[np.float64]
    before: NDArray[np.float64] | None
    after: NDArray[np.float64] | None
    flies: bool


def is_habit(hops: Sequence[Hopped]) -> bool:
    """Whether most rises and falls of a clip are spaced by halves.

    One misplaced drawing can make one side look halved, or not; the clip's other sides outvote it. What flies is not
    halved, though with twos among ones its gaps may double too.
    """
    sides = [(side, hop.flies) for hop in hops for side in _sides(hop.points, hop.before, hop.after)]
    longest = max((len(side) for side, _ in sides), default=0)
    votes = [not flies and _is_halved(side) for side, flies in sides if len(side) >= min(4, longest)]
    return bool(votes) and 2 * sum(votes) > len(votes)


def _sides(
    points: NDArray[np.float64], before: NDArray[np.float64] | None, after: NDArray[np.float64] | None
) -> list[NDArray[np.float64]]:
    """The rise and the fall of a hop, each from its top outwards with its contact last; those of three points up."""
    top = int(np.argmax(points[:, 1]))
    found = []
    for own, contact in ((points[top::-1], before), (points[top:], after)):
        side = own if contact is None else np.vstack([own, contact])
        if contact is not None and len(side) >= 3:
            found.append(side)
    return found


def _is_halved(side: NDArray[np.float64]) -> bool:
    """Whether the gaps of a side, from the top outwards, double each time.

    The gap at the top itself is as long as the next one, since the last half is not halved again.
    """
    gaps = np.maximum(np.hypot(*steps_of(side).T), 1e-6)
    if len(gaps) == 2:
        return bool(LEAST_EQUAL <= gaps[1] / gaps[0] <= 1 / LEAST_EQUAL)
    return bool(LEAST_RATIO <= median(gaps[2:] / gaps[1:-1]) <= MOST_RATIO)


def _between(
    points: NDArray[np.float64],
    others: Sequence[int],
    top: int,
    index: int,
    outwards: Sequence[NDArray[np.float64]],
    beyond: int,
    halved: bool,
) -> list[NDArray[np.float64]]:
    """Where a drawing on one side of the top lies, in its own direction from the top, by its neighbours' distances."""
    if not halved or not outwards:
        return []
    apex, here = points[top], points[index]
    inner = [j for j in others if (index - j) * beyond > 0 and (j - top) * beyond > 0]
    near = [_apart(points[j], apex) for j in sorted(inner, key=lambda j: -j * beyond)]
    far = [_apart(p, apex) for p in outwards]
    if near:
        wanted = np.sqrt(near[0] * far[0])
    elif len(far) >= 2:
        wanted = far[0] ** 2 / max(far[1], 1e-6)
    else:
        # The only drawing between a top and its contact is about halfway along the arc.
        whole = _apart(here, apex) + _apart(here, outwards[0])
        wanted = float(np.clip(_apart(here, apex), HALFWAY * whole, (1 - HALFWAY) * whole))
    return [_at_distance(here, apex, float(wanted))]


def _apart(one: NDArray[np.float64], other: NDArray[np.float64]) -> float:
    return float(np.hypot(*(one - other)))


def _at_distance(point: NDArray[np.float64], origin: NDArray[np.float64], distance: float) -> NDArray[np.float64]:
    """The place at a distance from an origin in the direction of a point."""
    apart = _apart(point, origin)
    return origin if apart < 1e-6 else origin + (point - origin) * distance / apart


def _next_to_last(point: NDArray[np.float64], outwards: Sequence[NDArray[np.float64]]) -> list[NDArray[np.float64]]:
    """The place nearest to the top drawing that lies part of a gap further on from its side."""
    if len(outwards) < 2:
        return []
    last, here = _apart(outwards[0], outwards[1]), _apart(point, outwards[0])
    if last < 1e-6 or here < 1e-6:
        return []
    return [_at_distance(point, outwards[0], float(np.clip(here, LEAST_ON * last, MOST_ON * last)))]
