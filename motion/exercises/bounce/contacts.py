"""Where the ball turns round at the ground, and whether a drawing was placed there as the contact."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from motion import curves

# A placed contact may hang this far above the ground (in diameters); checks.md's bound of a gap.
MOST_GAP_D = 0.3
# A drawing no farther above the ground (in diameters, px) touches it.
TOUCHES_D, TOUCHES_PX = 0.04, 2.0
# A drawing so many times as high as wide is stretched.
STRETCHED = 1.15
# Turns in the air, higher than this (in diameters) or than part of the gap beside them, are not contacts.
HIGHEST_TURN_D = 0.5
# A dip must be this deep (in diameters) to be a turn.
LEAST_DIP_D = 0.12
# Nearer than this part of an exposure to the true contact, a drawing is the one that shows it ...
OWN_SHARE = 0.42
# ... unless it lies no farther (in diameters, px) off its flight: then nobody put it there as the contact.
ON_FLIGHT_D, ON_FLIGHT_PX = 0.025, 0.8
# So near to the ground (in diameters) a drawing that its fall does not lead to was put there as the landing.
PUT_DOWN_D = 0.15
# Between these shares of its height a fall is halfway down.
HALFWAY_DOWN = (0.4, 0.6)
# Drawings on both sides of a top that differ in height by no more (in diameters) mirror each other.
ALIKE_D = 0.03
# A fall that gathers less than this share of the speed that gravity would give goes in even steps; so does one of
# three drawings of which the last lies as near (in diameters) to where the two before it lead.
EVEN_SHARE, EVENLY_D = 0.4, 0.02


class StepLike(Protocol):
    """What this module needs of a step; see ``reading.Step``."""

    @property
    def frame(self) -> int: ...
    @property
    def frames(self) -> int: ...
    @property
    def x(self) -> float: ...
    @property
    def height(self) -> float: ...
    @property
    def clearance(self) -> float: ...
    @property
    def shape(self) -> ShapeLike: ...


class ShapeLike(Protocol):
    """Extents of a drawing's shape, px."""

    @property
    def height(self) -> float: ...
    @property
    def width(self) -> float: ...


@dataclass(frozen=True, slots=True, kw_only=True)
class Contact:
    """One meeting with the ground.

    ``steps`` are the drawings placed as the contact, in order; empty when it was missed. ``before`` and
    ``after`` are the indices of the drawings in the air beside it (-1 or the number of steps at the ends).
    ``time`` is when the ball meets the ground, frames; ``meets_at`` the clearance at which the flights of a
    missed contact meet, px. ``lands_first`` tells that the ball lands in the first of the drawings and then rests.
    """

    steps: tuple[int, ...]
    before: int
    after: int
    time: float
    meets_at: float | None = None
    lands_first: bool = False

    @property
    def missed(self) -> bool:
        return not self.steps


def find(
    steps: Sequence[StepLike], clearances: NDArray[np.float64], diameter: float, gravity: float | None = None
) -> list[Contact]:
    """All contacts in order. ``clearances`` (n,) px are the steps' bottoms above the ground.

    ``gravity`` in px per frame², where the clip's is known already, steadies the flights beside a missed contact; it
    is not to be given where a clip is spaced by halves, which no gravity tells.
    """
    touch = max(0.06 * diameter, 2.5)
    found: list[Contact] = []
    for low in _dips(steps, clearances, diameter):
        if found and low < found[-1].after:
            continue
        contact = _contact(steps, clearances, low, diameter, touch, gravity)
        if not found or contact.before >= found[-1].after - 1:
            found.append(contact)
    return found


def _dips(steps: Sequence[StepLike], clearances: NDArray[np.float64], diameter: float) -> list[int]:
    """Indices of the lowest drawings between rises, low enough to be at the ground."""
    n = len(clearances)
    depth = max(LEAST_DIP_D * diameter, 3.0)
    dips = []
    for i in _prominent_lows(clearances, depth):
        gaps = [abs(clearances[j] - clearances[i]) for j in (i - 1, i + 1) if 0 <= j < n]
        limit = max(HIGHEST_TURN_D * diameter, 3.0 * max(gaps, default=0.0))
        # At the ends only a drawing that touches is a contact: the clip may start or stop in the air. What is held at
        # the end is no part of a move, and came down to rest.
        if i in (0, n - 1):
            limit = MOST_GAP_D * diameter if i > 0 and _rests(steps, i, i) else max(TOUCHES_D * diameter, TOUCHES_PX)
        if clearances[i] <= limit:
            dips.append(i)
    return dips


def _prominent_lows(values: NDArray[np.float64], depth: float) -> list[int]:
    """Indices of the lowest values between rises of at least ``depth`` on both sides; the ends count as high."""
    lows: list[int] = []
    low = high = 0
    falling = True
    for i, value in enumerate(values):
        if falling and value < values[low]:
            low = i
        elif falling and value - values[low] >= depth:
            lows.append(low)
            falling, high = False, i
        elif not falling and value > values[high]:
            high = i
        elif not falling and values[high] - value >= depth:
            falling, low = True, i
    return [*lows, low] if falling else lows


def _contact(
    steps: Sequence[StepLike],
    clearances: NDArray[np.float64],
    low: int,
    diameter: float,
    touch: float,
    gravity: float | None,
) -> Contact:
    n = len(steps)
    reach = max(touch, clearances[low] + 0.02 * diameter)
    first = last = low
    while first > 0 and clearances[first - 1] <= reach:
        first -= 1
    while last < n - 1 and clearances[last + 1] <= reach:
        last += 1
    rests = _rests(steps, first, last)
    if rests and last > first and _still_falls(steps, first, diameter):
        first += 1
    placed = Contact(
        steps=tuple(range(first, last + 1)), before=first - 1, after=last + 1, time=float(steps[low].frame)
    )
    if rests and _lands_before(steps, first, diameter, gravity):
        return Contact(
            steps=(first - 1, *placed.steps),
            before=first - 2,
            after=last + 1,
            time=float(steps[first - 1].frame),
            lands_first=True,
        )
    if clearances[low] <= touch or low in (0, n - 1) or _squashed(steps, low):
        return placed
    missed = (_missed(steps, low, diameter, gravity) if gravity else None) or _missed(steps, low, diameter, None)
    if missed is not None:
        return missed
    if clearances[low] > HIGHEST_TURN_D * diameter:
        return _turn_above(steps, low)
    return placed


def _rests(steps: Sequence[StepLike], first: int, last: int) -> bool:
    """Whether the ball stays down for three drawings, or for as long in one that is held."""
    usual = steps[first - 1].frames if first > 0 else steps[first].frames
    return sum(s.frames for s in steps[first : last + 1]) >= 3 * usual


def _still_falls(steps: Sequence[StepLike], first: int, diameter: float) -> bool:
    """Whether a drawing just above a rest lies where the fall before it comes past, so that it is not the landing."""
    here = steps[first]
    if first < 3 or here.clearance < max(0.02 * diameter, 1.0):
        return False
    fall = _run(steps[max(0, first - 5) : first][::-1])
    return fall is not None and abs(float(np.polyval(fall, here.frame)) - here.height) < max(0.015 * diameter, 1.0)


def _lands_before(steps: Sequence[StepLike], first: int, diameter: float, gravity: float | None) -> bool:
    """Whether the drawing before a rest at ``first`` was placed as the landing.

    It was where the fall before it is through by then, or lands nearer to it than to the drawing after it, or where
    the drawing lies just above the ground and well below its fall.
    """
    if first < 3 or steps[first - 1].clearance > MOST_GAP_D * diameter:
        return False
    here, next_one = steps[first - 1], steps[first]
    before = steps[max(0, first - 5) : first - 1][::-1]
    fall, free = _fall(before, gravity), _run(before)
    if fall is None or free is None:
        return False
    # Two drawings before it lead to it only in even steps, as gravity does not.
    if len(free) == 2 and abs(float(np.polyval(free, here.frame)) - here.height) < max(EVENLY_D * diameter, 1.0):
        return False
    if _mirrors_its_rise(steps, first - 1, diameter) or _halves_its_fall(steps, first - 1):
        return False
    led_to = float(np.polyval(fall, here.frame))
    put_down = here.clearance < PUT_DOWN_D * diameter and led_to - here.height > 0.1 * diameter
    if put_down or led_to < 0.5 * here.clearance:
        return True
    later = [r.real - here.frame for r in np.roots(fall) if abs(r.imag) < 1e-6 and r.real >= here.frame]
    return bool(later) and min(later) < OWN_SHARE * (next_one.frame - here.frame)


def _top_before(steps: Sequence[StepLike], index: int) -> int:
    """The index of the drawing from which the fall to a drawing begins."""
    while index > 0 and steps[index - 1].height >= steps[index].height:
        index -= 1
    return index


def _halves_its_fall(steps: Sequence[StepLike], index: int) -> bool:
    """Whether a drawing lies about halfway down its fall, as the last one in the air does in a low hop."""
    top = _top_before(steps, index)
    least, most = HALFWAY_DOWN
    return top < index and least < steps[index].height / max(steps[top].height, 1e-6) < most


def _mirrors_its_rise(steps: Sequence[StepLike], index: int, diameter: float) -> bool:
    """Whether a drawing on a fall stands as high as the one as far from the top on its rise, where that is drawn."""
    top = _top_before(steps, index)
    other = 2 * top - index
    if top == index or other < 0 or steps[other].clearance <= max(TOUCHES_D * diameter, TOUCHES_PX):
        return False
    between = [steps[i].height for i in range(other, top + 1)]
    alike = abs(steps[other].height - steps[index].height) <= max(ALIKE_D * diameter, TOUCHES_PX)
    return alike and between == sorted(between)


def _fall(nearest_first: Sequence[StepLike], gravity: float | None) -> NDArray[np.float64] | None:
    """A run that falls, as the clip's ``gravity`` has it where the drawings do gather speed."""
    free = _run(nearest_first)
    if free is None or gravity is None or len(free) < 3:
        return _run(nearest_first, gravity)
    return free if -2 * free[0] < EVEN_SHARE * gravity else _run(nearest_first, gravity)


def _turn_above(steps: Sequence[StepLike], low: int) -> Contact:
    """A turn far above the ground, which no drawing there can have been meant to touch."""
    after = low + 1 if _shortfall(steps, low, 1) > _shortfall(steps, low, -1) else low
    time = (steps[after - 1].frame + steps[after].frame) / 2
    return Contact(steps=(), before=after - 1, after=after, time=float(time))


def _shortfall(steps: Sequence[StepLike], low: int, way: int) -> float:
    """By how much the climb away from ``low`` is slower than the climb after it: a turn lies in between there."""
    near, far = steps[low + way], steps[min(max(low + 2 * way, 0), len(steps) - 1)]
    first = (near.height - steps[low].height) / max(1, abs(near.frame - steps[low].frame))
    return (far.height - near.height) / max(1, abs(far.frame - near.frame)) - first


def _squashed(steps: Sequence[StepLike], low: int) -> bool:
    """A flattened drawing at a turn was meant as the contact, however high it hangs."""
    shape = steps[low].shape
    return shape.height < 0.92 * shape.width


def _stretched(step: StepLike) -> bool:
    """A drawing that is long and upright is one in full flight, however near to the ground."""
    return step.shape.height > STRETCHED * step.shape.width


def _missed(steps: Sequence[StepLike], low: int, diameter: float, gravity: float | None) -> Contact | None:
    """The contact that no drawing shows, when the lowest drawing lies on one of the two flights beside it."""
    before = list(steps[max(0, low - 4) : low])[::-1]
    after = list(steps[low + 1 : low + 5])
    fall, rise = _run(before, gravity), _run(after, gravity)
    if fall is None or rise is None:
        return None
    here = steps[low]
    reach = max(0.05 * diameter, 2.0, 0.2 * max(here.clearance, 0.0))
    off_fall = abs(float(np.polyval(fall, here.frame)) - here.height)
    off_rise = abs(float(np.polyval(rise, here.frame)) - here.height)
    on_fall = off_fall <= off_rise
    if min(off_fall, off_rise) > reach:
        return None
    own_run = _run([here, *(before if on_fall else after)], gravity)
    if own_run is None:
        return None
    fall, rise = (own_run, rise) if on_fall else (fall, own_run)
    beside = (low, low + 1) if on_fall else (low - 1, low)
    meeting = _meeting(fall, rise, steps[beside[0]].frame, steps[beside[1]].frame)
    if meeting is None:
        return None
    time, height = meeting
    usual = min(s.frames for s in (steps[beside[0]], steps[beside[1]]))
    away = abs(time - here.frame) / usual
    flies = gravity is not None and _goes_on(here, before if on_fall else after, min(off_fall, off_rise), diameter)
    own = here.clearance <= MOST_GAP_D * diameter and away < OWN_SHARE and not _stretched(here) and not flies
    if height > MOST_GAP_D * diameter or own:
        return None
    return Contact(steps=(), before=beside[0], after=beside[1], time=time, meets_at=height)


def _goes_on(here: StepLike, nearest_first: Sequence[StepLike], off: float, diameter: float) -> bool:
    """Whether a drawing so many px off the height of its flight lies on that flight, across too."""
    allowed = max(ON_FLIGHT_D * diameter, ON_FLIGHT_PX)
    if off > allowed:
        return False
    run = nearest_first[: len(_this_side(nearest_first))]
    across = curves.polynomial(np.array([float(s.frame) for s in run]), np.array([s.x for s in run]), 1)
    return abs(float(np.polyval(across, here.frame)) - here.x) <= 2 * allowed


def _this_side(nearest_first: Sequence[StepLike]) -> NDArray[np.float64]:
    """The heights of the drawings beside a turn as far as the top; past it they fall again."""
    heights = np.array([s.height for s in nearest_first])
    past = np.flatnonzero(np.diff(heights) < 0)
    return heights[: max(2, int(past[0]) + 1 if past.size else len(heights))]


def _run(nearest_first: Sequence[StepLike], gravity: float | None = None) -> NDArray[np.float64] | None:
    """Height over time of the drawings beside a turn, as a polynomial; None with fewer than two.

    With ``gravity`` (px per frame²) only the speed and the place are fitted.
    """
    if len(nearest_first) < 2:
        return None
    heights = _this_side(nearest_first)
    times = np.array([float(s.frame) for s in nearest_first[: len(heights)]])
    if gravity is None:
        return curves.polynomial(times, heights, 2 if len(times) >= 3 else 1)
    middle = times[0]
    speed, place = curves.polynomial(times - middle, heights + gravity / 2 * (times - middle) ** 2, 1)
    return np.array([-gravity / 2, speed + gravity * middle, place - speed * middle - gravity / 2 * middle**2])


def _meeting(
    fall: NDArray[np.float64], rise: NDArray[np.float64], start: float, end: float
) -> tuple[float, float] | None:
    """Time and height at which the two flights cross between two drawings."""
    roots = np.roots(np.polysub(fall, rise))
    slack = 0.3 * (end - start)
    real = [r.real for r in np.atleast_1d(roots) if abs(r.imag) < 1e-6 and start - slack <= r.real <= end + slack]
    if not real:
        return None
    time = min(real, key=lambda r: abs(r - (start + end) / 2))
    return float(time), float(np.polyval(fall, time))
