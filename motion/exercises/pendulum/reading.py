"""A track told as steps, extremes and swings: what a marker reads out of a pendulum before judging it."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from motion.track import Pivot, Shape, Track

LEAST_TURN_DEGREES, LEAST_TURN = 1.2, 0.04
"""It has turned round where it comes back by so many degrees, and by that share of all that it swings over."""
END_TURN_DEGREES, END_TURN = 0.7, 0.012
"""... or by so much, where the clip begins or ends before it could come back farther."""
SETTLING_DEGREES = 8.0
"""A swing with an extreme under this angle is settling."""
NEAR_TOP = 0.045
"""Drawings tell when it turns round that are no farther from the extreme than this share of the swing."""
SLOW = 0.6
"""A clip begins or ends at an extreme where its first or last gap is slower than this share of its fastest."""
FEW_GAPS = 5
"""Swings of so few gaps tell nothing by their speed."""
EVEN_STEPS = 0.7
"""Steps are even where the slowest is at least such a share of the fastest."""
FULL, FULL_OF_FEW = 0.9, 0.97
"""... and where it goes so much of the way that the swings next to it make likely; the second where speed tells not."""
CALLED_FOR = 0.75
"""A drawing waits whose gap to the next is less than this share of what its time calls for."""
CENTRED = 0.06
"""Swings whose middle is off the rest line by less than this share of their angle swing around it."""
EVENLY = 0.05
"""Extremes die away evenly that lie within such a share of where they would."""
NEAR_FRAMES = 0.6
"""A clip tells when it is at its first or last extreme where its drawing lies no more frames away from that."""
FEWEST_STEPS = 5
LEAST_SWING_DEGREES = 3.0

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """A drawing in playing order: its exposure, its angle from the rest line (degrees, to the right), and its length.

    ``top`` is where its line's upper end is drawn, ``points`` those of its line from there to the end, ``apart`` where
    what hangs at some of them begins, if not there; ``clock`` its first frame without the frames by which extremes are
    held longer.
    """

    drawing: int
    frame: int
    frames: int
    clock: float
    angle: float
    length: float
    top: tuple[float, float]
    shape: Shape
    points: tuple[tuple[float, float], ...] = ()
    apart: Mapping[int, tuple[float, float]] = field(default_factory=dict)

    @property
    def last_frame(self) -> int:
        return self.frame + self.frames - 1

    @property
    def x(self) -> float:
        return self.shape.x

    @property
    def y(self) -> float:
        return self.shape.y


@dataclass(frozen=True, slots=True, kw_only=True)
class Extreme:
    """Where it turns round: the step nearest to it, its angle, its time by the clock, and whether it is shown whole.

    One that the clip's beginning or end cuts is not ``whole``: how far it goes is not known. It may be ``cut`` frames
    beyond the clip, and is ``timed`` where that is so little that the clip tells when it is there.
    """

    step: int
    angle: float
    time: float
    whole: bool
    timed: bool = True
    cut: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Swing:
    """From one extreme to the next; ``number`` counts from 1. ``steps`` are indices, both extremes among them."""

    number: int
    start: Extreme
    end: Extreme
    steps: range

    @property
    def whole(self) -> bool:
        """Whether the clip shows it from extreme to extreme."""
        return self.start.whole and self.end.whole

    @property
    def timed(self) -> bool:
        """Whether the clip tells how long it takes."""
        return self.start.timed and self.end.timed

    @property
    def frames(self) -> float:
        """How long it takes, holds at its extremes left out."""
        return self.end.time - self.start.time

    @property
    def degrees(self) -> float:
        """How far it goes."""
        return abs(self.end.angle - self.start.angle)

    @property
    def middle(self) -> float:
        """The angle midway between its extremes."""
        return (self.start.angle + self.end.angle) / 2


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Reading:
    """A pendulum as read. ``length`` is its line's, px; ``middle`` the angle around which it is judged: its
    rest line's, or ``centre`` where it swings around another.

    ``resting`` is how many of the last steps lie still.
    """

    steps: tuple[Step, ...]
    pivot: Pivot
    length: float
    size: float
    amplitude: float
    middle: float
    centre: float
    extremes: tuple[Extreme, ...]
    swings: tuple[Swing, ...]
    resting: int
    usual: int

    def settles(self, swing: Swing) -> bool:
        """Whether a swing is so small that it only settles, or is driven: both are judged by single drawings alone."""
        if self.steps[swing.start.step].frame < self.driven:
            return True
        return min(abs(e.angle - self.middle) for e in (swing.start, swing.end)) < SETTLING_DEGREES

    @property
    def judged(self) -> list[Swing]:
        """Whole swings that do not only settle."""
        return [s for s in self.swings if s.whole and not self.settles(s)]

    def place(self, angle: float, length: float | None = None) -> tuple[float, float]:
        """The point (px) at an angle from the rest line and a length from the pivot."""
        turn = math.radians(angle + self.rest)
        far = self.length if length is None else length
        return self.pivot.x + far * math.sin(turn), self.pivot.y + far * math.cos(turn)

    rest: float = 0.0
    """How far the rest line leans, degrees."""
    driven: float = 0.0
    """Until this frame what carries it drives it."""


def read(track: Track, rest_angle: float, driven: float = 0.0) -> Reading | None:
    """The pendulum of a track; None where too little was found, or nothing swings.

    Until the frame ``driven`` what carries it drives it: how far it goes until then tells nothing of its own swing.
    """
    pivot = track.pivot
    if pivot is None:
        return None
    steps = _steps(track, pivot, rest_angle)
    if len(steps) < FEWEST_STEPS:
        return None
    angles = np.array([s.angle for s in steps])
    if np.ptp(angles) < LEAST_SWING_DEGREES:
        return None
    usual = _usual(steps)
    resting = _resting(steps, usual)
    turns = _without_spikes(_turns(angles[: len(angles) - resting]), angles)
    steps = _clocked(steps, turns, usual)
    moving = steps[: len(steps) - resting]
    extremes = [
        replace(e, whole=e.whole and steps[e.step].frame >= driven) for e in _extremes(moving, turns, resting > 0)
    ]
    whole = [e for e in extremes if e.whole] or extremes
    middle = _middle([e.angle for e in whole])
    reach = float(np.median([abs(e.angle - middle) for e in whole])) if whole else float(np.ptp(angles) / 2)
    shapes = [s.shape for s in steps if not s.shape.clipped] or [s.shape for s in steps]
    return Reading(
        steps=tuple(steps),
        pivot=pivot,
        length=float(np.median([s.length for s in steps])),
        size=float(np.median([math.sqrt(s.area) for s in shapes])),
        amplitude=reach,
        # One that is not told as lopsided is judged from its rest line.
        middle=middle if abs(middle) > CENTRED * reach else 0.0,
        centre=middle,
        extremes=tuple(extremes),
        swings=tuple(_swings(extremes)),
        resting=resting,
        usual=usual,
        rest=rest_angle,
        driven=driven,
    )


def _steps(track: Track, pivot: Pivot, rest_angle: float) -> list[Step]:
    lines, found = track.lines("line"), list[Step]()
    for exposure in track.exposures:
        shape = track.shape_of(exposure.drawing)
        if shape is None:
            continue
        dx, dy = shape.x - pivot.x, shape.y - pivot.y
        line = lines[exposure.drawing - 1] if lines else None
        found.append(
            Step(
                drawing=exposure.drawing,
                frame=exposure.first_frame,
                frames=exposure.frames,
                clock=float(exposure.first_frame),
                angle=math.degrees(math.atan2(dx, dy)) - rest_angle,
                length=math.hypot(dx, dy),
                top=line.points[0] if line else (pivot.x, pivot.y),
                shape=shape,
                points=line.points if line else (),
                apart=line.apart if line else {},
            )
        )
    return found


def _usual(steps: Sequence[Step]) -> int:
    """For how many frames most drawings show."""
    counts = np.bincount([s.frames for s in steps])
    return int(np.argmax(counts))


STILL_DEGREES, STILL_PX = 0.4, 1.2
LONG_REST = 2
"""So many frames more than usual the last drawing stays where the pendulum has come to rest."""
LONG_REST_OF_MANY = 6
UNSTEADY_DEGREES, UNSTEADY_REST, NEAR_REST = 0.8, 8, 0.15
"""A rest of many drawings by an unsteady hand: so far about their middle, and for so many frames.

Their middle lies near the rest line, at no more than such a share of how far it swings.
"""


def _resting(steps: Sequence[Step], usual: int) -> int:
    """How many of the last steps lie still; the first of them is the one at which it has come to rest."""
    last = steps[-1]
    still = max(STILL_DEGREES, math.degrees(STILL_PX / last.length))
    count = 1
    while count < len(steps) and abs(steps[-1 - count].angle - last.angle) <= still:
        count += 1
    # Several drawings that are nearly alike may be those about an extreme; those at rest go on for longer.
    if _frames_of(steps, count) >= (usual + LONG_REST if count == 1 else max(LONG_REST_OF_MANY, usual + LONG_REST)):
        return count
    count = 1
    while count < len(steps) and _unsteady([s.angle for s in steps[-1 - count :]]):
        count += 1
    reach = max(abs(s.angle) for s in steps)
    if abs(float(np.median([s.angle for s in steps[-count:]]))) > NEAR_REST * reach:
        # So slow it is at an extreme, too.
        return 0
    return count if _frames_of(steps, count) >= max(UNSTEADY_REST, 2 * (usual + LONG_REST)) else 0


def _frames_of(steps: Sequence[Step], count: int) -> int:
    return steps[-1].last_frame - steps[-count].frame + 1


def _unsteady(angles: Sequence[float]) -> bool:
    """Whether angles lie about one place, as the drawings of a hand that means the same place do."""
    middle = float(np.median(angles))
    return max(abs(a - middle) for a in angles) <= UNSTEADY_DEGREES


def _turns(angles: Array) -> list[int]:
    """Indices at which it turns round, its two ends left out.

    For good it turns where it comes back far enough; beside the clip's ends, where it cannot, less tells it.
    """
    if len(angles) < 3:
        return []
    far = float(np.ptp(angles))
    least, little = max(LEAST_TURN_DEGREES, LEAST_TURN * far), max(END_TURN_DEGREES, END_TURN * far)
    turns, at, way = list[int](), 0, 0
    for i in range(1, len(angles)):
        if way == 0:
            if abs(angles[i] - angles[0]) > least:
                way = 1 if angles[i] > angles[0] else -1
                at = i
            continue
        if way * (angles[i] - angles[at]) > 0:
            at = i
        elif way * (angles[at] - angles[i]) > least:
            turns.append(at)
            at, way = i, -way
    if 0 < at < len(angles) - 1 and way * (angles[at] - angles[-1]) > little:
        turns.append(at)
    first = turns[0] if turns else len(angles) - 1
    before = angles[:first]
    if len(before) > 1:
        # The clip may begin on its way to an extreme that is only a drawing or two away.
        out = int(np.argmax(before) if angles[first] < angles[0] else np.argmin(before))
        if out and abs(before[out] - before[0]) > little:
            turns.insert(0, out)
    return turns


SPIKE_STEPS, SPIKE, SPIKE_OF_USUAL = 2, 0.3, 0.4
"""There and back within so many drawings, over less than such a share of all that it swings over, ..."""


def _without_spikes(turns: Sequence[int], angles: Array) -> list[int]:
    """The turns without those of a drawing that sticks out: there and back long before a swing could be over.

    ... and in less than such a share of the drawings from one turn to the next that are usual.
    """
    kept, far = list(turns), float(np.ptp(angles))
    while len(kept) > 2:
        gaps = np.diff(kept)
        short = int(np.argmin(gaps))
        usual = float(np.median(gaps))
        goes = abs(angles[kept[short + 1]] - angles[kept[short]])
        if gaps[short] > min(SPIKE_STEPS, SPIKE_OF_USUAL * usual) or goes >= SPIKE * far:
            break
        del kept[short : short + 2]
    return kept


def _clocked(steps: Sequence[Step], turns: Sequence[int], usual: int) -> list[Step]:
    """The steps by a clock that leaves out the frames by which drawings are held longer than their motion needs."""
    held, found = 0.0, list[Step]()
    # An unsteady hand may let the drawing beside the one that is held reach a little farther.
    at = {0} | {t + k for t in turns for k in (-1, 0, 1)}
    for i, step in enumerate(steps):
        found.append(replace(step, clock=step.frame - held))
        if i + 1 < len(steps):
            if i in at:
                beside = [steps[j].frames for j in (i - 1, i + 1) if 0 <= j < len(steps)]
                held += max(0, step.frames - max(usual, *beside))
            elif waits(steps, i, usual):
                held += held_for(steps, i, usual)
    return found


def held_for(steps: Sequence[Step], index: int, usual: int) -> int:
    """By how many frames a drawing shows longer than its neighbours, and than most."""
    beside = [steps[j].frames for j in (index - 1, index + 1) if 0 <= j < len(steps)]
    return max(0, steps[index].frames - max(usual, min(beside, default=usual)))


def waits(steps: Sequence[Step], index: int, usual: int) -> bool:
    """Whether a drawing shows longer than its way to the next, at the speed of the drawings beside it, calls for."""
    if not 0 < index < len(steps) - 1 or held_for(steps, index, usual) <= 0:
        return False
    speeds = [
        abs(steps[j + 1].angle - steps[j].angle) / steps[j].frames
        for j in (index - 1, index + 1)
        if 0 <= j < len(steps) - 1
    ]
    gap = abs(steps[index + 1].angle - steps[index].angle)
    return gap < CALLED_FOR * steps[index].frames * min(s for s in speeds)


def _extremes(steps: Sequence[Step], turns: Sequence[int], rests: bool) -> list[Extreme]:
    if not steps:
        return []
    inner = [_turned(steps, turns, i) for i in range(len(turns))]
    first = _end(steps, inner, [e.angle for e in inner], forwards=True)
    known = [e.angle for e in ([first] if first.whole else []) + inner]
    last = _end(steps, inner, known[::-1], forwards=False)
    if rests:
        # Where it comes to rest is no extreme that it swings back from; how far that swing goes is known all the same.
        last = Extreme(step=len(steps) - 1, angle=steps[-1].angle, time=steps[-1].clock, whole=last.whole, timed=False)
    return [first, *inner, last]


def turns_in(angles: Sequence[float]) -> list[int]:
    """Indices at which angles (degrees) turn round, its two ends left out."""
    told = np.asarray(angles, dtype=np.float64)
    return _without_spikes(_turns(told), told)


def _turned(steps: Sequence[Step], turns: Sequence[int], number: int) -> Extreme:
    """An extreme inside the clip: its angle, and its time, by the drawings next to it."""
    at = turns[number]
    before = turns[number - 1] if number else 0
    after = turns[number + 1] if number + 1 < len(turns) else len(steps) - 1
    return Extreme(step=at, angle=_vertex(steps, at), time=top_time(steps, before, at, after), whole=True)


def top_time(steps: Sequence[Step], before: int, at: int, after: int) -> float:
    """When it turns round: the top of a parabola through the drawings that are nearly as far out, by the clock."""
    far = min(abs(steps[at].angle - steps[i].angle) for i in (before, after)) or 1.0
    near = [i for i in range(before, after + 1) if abs(steps[i].angle - steps[at].angle) <= NEAR_TOP * far]
    near = sorted({*near, max(before, at - 1), at, min(after, at + 1)})
    if len(near) < 3:
        return steps[at].clock
    clocks = np.array([steps[i].clock for i in near]) - steps[at].clock
    bend, slope, _ = np.polyfit(clocks, [steps[i].angle for i in near], 2)
    low, high = clocks[0], clocks[-1]
    return steps[at].clock + float(np.clip(-slope / (2 * bend), low, high)) if bend else steps[at].clock


def _vertex(steps: Sequence[Step], at: int) -> float:
    """The extreme's angle: that of its drawing, or a little more where it lies between two drawings."""
    own = steps[at]
    beside = [steps[j] for j in (at - 1, at + 1) if 0 <= j < len(steps)]
    if len(beside) < 2:
        return own.angle
    gaps = sorted(abs(own.angle - s.angle) for s in beside)
    # Evenly beside an extreme that is drawn the gaps are alike; with one that lies between two drawings one is small.
    more = max(0.0, (gaps[1] - gaps[0]) ** 2 / (8 * (gaps[0] + gaps[1]))) if sum(gaps) else 0.0
    return own.angle + math.copysign(more, own.angle - beside[0].angle)


def _end(steps: Sequence[Step], inner: Sequence[Extreme], near: Sequence[float], *, forwards: bool) -> Extreme:
    """The clip's first or last drawing, and whether it stands at an extreme; ``near`` are those next to it."""
    order = list(steps) if forwards else list(steps[::-1])
    speeds = [abs(b.angle - a.angle) / max(1, abs(b.clock - a.clock)) for a, b in itertools.pairwise(order)]
    fastest, slow = max(speeds, default=0.0), speeds[0] if speeds else 0.0
    index = 0 if forwards else len(steps) - 1
    at_extreme = slow <= SLOW * fastest and _reaches(order[0].angle, near, FULL, dies=not forwards)
    # One in even steps, or of few drawings, is slow nowhere; but one that is cut does not go all of the way.
    few = len(inner) >= 2 and len(steps) <= FEW_GAPS * (len(inner) + 1)
    even = bool(inner) and _even_at(steps, inner[0 if forwards else -1].step, forwards=forwards)
    whole = at_extreme or ((few or even) and _reaches(order[0].angle, near, FULL_OF_FEW, dies=not forwards))
    cut = _from_extreme(order, inner if forwards else inner[::-1])
    return Extreme(
        step=index,
        angle=order[0].angle,
        time=steps[index].clock,
        whole=whole,
        timed=whole and cut <= NEAR_FRAMES,
        cut=cut,
    )


def _even_at(steps: Sequence[Step], turn: int, *, forwards: bool) -> bool:
    """Whether the clip's first or last swing, from or to a turn, goes in even steps."""
    own = steps[: turn + 1] if forwards else steps[turn:]
    speeds = [abs(b.angle - a.angle) / max(1e-6, b.clock - a.clock) for a, b in itertools.pairwise(own)]
    return len(speeds) >= FEW_GAPS and min(speeds) >= EVEN_STEPS * max(speeds)


def _from_extreme(order: Sequence[Step], inner: Sequence[Extreme]) -> float:
    """How many frames the drawing at an end lies from its extreme, by its gap to the next on a sine of that swing."""
    if len(inner) < 2 or len(order) < 2:
        return 0.0
    frames = max(1e-6, abs(inner[1].time - inner[0].time))
    half = abs(inner[1].angle - inner[0].angle) / 2
    turn = math.pi * abs(order[1].clock - order[0].clock) / frames
    gap = abs(order[1].angle - order[0].angle) / max(1e-6, 2 * half * math.sin(min(turn, math.pi) / 2))
    return abs(math.asin(min(1.0, gap)) - turn / 2) * frames / math.pi


def _reaches(angle: float, near: Sequence[float], full: float, *, dies: bool) -> bool:
    """Whether the swing at an end goes as far as the swings next to it make likely."""
    if len(near) < 2:
        return True
    goes, beside = angle - near[0], near[1] - near[0]
    likely = abs(beside)
    if len(near) >= 3:
        further = abs(near[2] - near[1])
        # Towards the end each swing goes less far; one of two at the beginning may be the odd one.
        likely = likely * min(1.0, likely / max(1e-6, further)) if dies else min(likely, further)
    return goes * beside > 0 and abs(goes) >= full * likely


def _middle(angles: Sequence[float]) -> float:
    """The angle around which it swings, dying away taken out.

    Extremes a, b, c that each keep the same share of the angle lie around (a c − b²) / (a + c − 2 b).
    """
    if len(angles) < 3:
        return float(np.mean(angles)) if len(angles) == 2 else 0.0
    if _dies_evenly(angles):
        return 0.0
    triples = zip(angles, angles[1:], angles[2:], strict=False)
    # Extremes that do not turn round, at a clip's cut ends, lie around nothing.
    found = [(a * c - b * b) / (a + c - 2 * b) for a, b, c in triples if (b - a) * (c - b) < 0]
    return float(np.median(found)) if found else 0.0


def _dies_evenly(angles: Sequence[float]) -> bool:
    """Whether extremes, all but one of them at most, die away evenly from side to side of the rest line.

    One that is odd would pull the middle of those about it to its side.
    """
    if len(angles) < 4 or any(a * b >= 0 for a, b in itertools.pairwise(angles)):
        return False
    numbers, logs = np.arange(len(angles), dtype=float), np.log(np.abs(angles))
    for out in range(len(angles)):
        kept = numbers != out
        fit = np.polyfit(numbers[kept], logs[kept], 1)
        if float(np.abs(np.polyval(fit, numbers[kept]) - logs[kept]).max()) <= EVENLY:
            return True
    return False


def _swings(extremes: Sequence[Extreme]) -> list[Swing]:
    return [
        Swing(number=n, start=a, end=b, steps=range(a.step, b.step + 1))
        for n, (a, b) in enumerate(itertools.pairwise(extremes), start=1)
        if b.step > a.step
    ]
