"""One pass over a clip's pictures: which drawing each shows, and what in it may be the subject."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, cast

import numpy as np

from motion.clip import Clip, PlanarFootage
from motion.shift import Shift
from motion.tracking import background as bg
from motion.tracking import follow, outline, steady
from motion.tracking.background import Background
from motion.tracking.differs import Differs, Packed
from motion.tracking.edges import Sight
from motion.tracking.ellipse import Ellipse
from motion.tracking.exposures import DrawingCounter
from motion.tracking.light import Box
from motion.tracking.lossy import LossyCounter
from motion.tracking.outline import Candidate
from motion.tracking.views import Lit, Planar, View

SAMPLES = 13
FEWEST_SAMPLES = 5
SAMPLE_BYTES = 110_000_000
"""Pictures that the background is estimated from are all held at once, once more by channel; large ones are fewer."""
KEPT_BYTES = 200_000_000
"""The pictures of a clip that together are no larger are all kept; a second of them at 960 x 540 has 50 MB."""
COLOUR_BYTES, PLANAR_BYTES = 4, 1.5
"""What a pixel takes, in colours and as a video's codec holds it."""
EMPTY = 0.12
"""A drawing with so small a share of the marks that others have is empty; ..."""
LITTLE, SOMETHING = 0.3, 0.6
"""... so is one with little where no outline is an ellipse for so much of its way round."""
CROWDED = 0.12
"""Where more of a picture's area differs, a codec or a scanner left it, and the subject is looked for first."""
ROOM, BESIDE_PX = 1.5, 12
"""How much around what may be the subject is compared between two pictures: so many of its reaches, and px more."""
TOGETHER, TOGETHER_PX = 96, 40_000_000
"""So many drawings, and pixels of them, wait at most to be looked at together."""
GRAINY = 6
"""Levels of noise from which pictures are smeared before outlines are looked for."""
FAINTEST_LINE = 24
"""Levels up to which what stands out of the background is no line: grain, the tooth of paper."""
SHAPE_TELLS = 0.5
"""A subject's reach is measured half as surely as its place, and tells that much of whether it was drawn anew."""
RINGING = 0.22
"""Rings of so large a share of a subject's contrast are what a video's codec leaves around it."""
Keep = Callable[[View, Sight], Any]
"""Takes what is to be kept of a drawing that is looked at."""
Progress = Callable[[float, str], None]
"""Called now and then with how much is done, 0 to 1, and what is being done."""


@dataclass(slots=True, kw_only=True)
class Seen:
    """What one drawing shows.

    ``picture`` is the index of the first picture that shows it, ``shift`` how that lies against the first one;
    ``bare`` tells that ground or scenery is missing behind the subject; ``marks`` counts the pixels that differ.
    ``kept`` is what of it is kept, where that is asked for, for those who look at more than the subject.
    """

    picture: int
    shift: Shift
    candidates: list[Candidate]
    bare: bool
    marks: int
    kept: Any = None


@dataclass(slots=True, kw_only=True)
class Scan:
    """A drawing number for each picture, counted from 1, and what each drawing shows."""

    numbers: list[int]
    seen: list[Seen]

    def empty(self) -> frozenset[int]:
        """Drawings (from 0) on which next to nothing is drawn beside what is usual in the clip.

        Or little, and nothing round: what a large subject leaves of itself in the background is no subject.
        """
        usual = float(np.percentile([s.marks for s in self.seen], 75)) if self.seen else 0.0
        return frozenset(
            i
            for i, s in enumerate(self.seen)
            if s.marks <= EMPTY * usual or (s.marks <= LITTLE * usual and not any(map(_is_something, s.candidates)))
        )


def _is_something(candidate: Candidate) -> bool:
    return candidate.clipped or candidate.roundness >= SOMETHING


class Pictures:
    """A clip's pictures, steadied; those that the background is estimated from are kept at hand.

    Of a short clip all are kept as they came, so that none is decoded twice. ``anchor`` is where something is drawn
    that is known to belong to the paper. ``uneven`` samples meet all drawings of a motion that goes round and round;
    the subject may go so without leaving its place (``stays``).
    """

    def __init__(self, clip: Clip, anchor: Box | None = None, *, uneven: bool = False, stays: bool = False) -> None:
        self.clip = clip
        planar = clip.lossy and isinstance(clip.footage, PlanarFootage) and clip.footage.planar
        self._planes = cast("PlanarFootage", clip.footage).planes if planar else None
        bytes_each = (PLANAR_BYTES if planar else COLOUR_BYTES) * clip.width * clip.height
        distinct = _first_met(clip)
        samples = _samples(distinct, max(FEWEST_SAMPLES, int(SAMPLE_BYTES / bytes_each)), uneven=uneven)
        wanted = distinct if len(distinct) * bytes_each <= KEPT_BYTES else samples
        self._raw = dict(zip(wanted, self._decoded(wanted), strict=True))
        self.steady = steady.look([self._raw[i] for i in samples], anchor, stays=stays)
        self._samples = {i: self.steady.steady(self._raw.pop(i)) for i in samples}

    def __len__(self) -> int:
        return len(self.clip.footage)

    def of(self, indices: Sequence[int]) -> Iterator[tuple[View, Shift]]:
        """The pictures at ``indices`` (from 0, ascending), and how they lay."""
        decoded = self._decoded([i for i in indices if i not in self._samples and i not in self._raw])
        for index in indices:
            if index in self._samples:
                yield self._samples[index]
            else:
                kept = self._raw.get(index)
                yield self.steady.steady(next(decoded) if kept is None else kept)

    def background(self, in_front: bg.InFront | None = None) -> Background:
        """What stands still in them; ``in_front`` tells from that where something is always in front of it."""
        views = [view for view, _ in self._samples.values()]
        planar = [view.planes for view in views if isinstance(view, Planar)]
        if len(planar) == len(views):
            return bg.estimate_planes(planar, in_front)
        drifts = self.steady.register is not None
        return bg.estimate([v.light() for v in views], straightened=drifts, in_front=in_front)

    def drift_at(self, anchor: Box) -> dict[int, Shift]:
        """How some of them (by index) lie, seen by what is drawn in a box; none where that does not drift.

        None either where the whole picture tells.
        """
        if self.steady.register is not None:
            return {}
        seen = steady.look([view for view, _ in self._samples.values()], anchor)
        if seen.register is None:
            return {}
        return {index: seen.lies(view) for index, (view, _) in self._samples.items()}

    @property
    def never_alike(self) -> bool:
        """Whether one drawing may look a little different each time that it shows."""
        return self.clip.lossy or self.steady.changes

    def _decoded(self, indices: Sequence[int]) -> Iterator[View]:
        if self._planes is not None:
            return map(Planar, self._planes(indices))
        return map(Lit.of, self.clip.footage.pictures(indices))


class Eye:
    """Looks at single pictures before a known background."""

    def __init__(self, background: Background) -> None:
        self.background = background
        self._lines = background.lines.over(max(background.threshold, FAINTEST_LINE))
        self._missable = bg.Missable(background)

    def sight(self, view: View) -> Sight:
        """What a picture shows besides the background, the faintest as well."""
        all_over = Lit(view.light())
        return self._sight(self._missable.without_background(all_over, self.background.differs(all_over))[0])

    def told(self, view: View, differs: Differs) -> tuple[Sight, bool, int]:
        """The same of a picture that ``differs`` so, whether scenery is missing there, and how many pixels differ."""
        told, bare = self._missable.without_background(view, differs)
        return self._sight(told), bare, int(np.count_nonzero(told.part > self.background.threshold))

    def _sight(self, differs: Differs) -> Sight:
        sight = Sight(
            differs=differs,
            threshold=self.background.threshold,
            still=self._lines,
            palest=RINGING if self.background.planes is not None else 0.0,
        )
        return sight.smeared(0.8) if self.background.noise >= GRAINY else sight


class Looks:
    """Looks for the subject in one drawing after the other; a few dozen wait for each other, which saves time.

    ``seen`` is what each shows, by the index of its first picture; its candidates once they were looked for, which is
    done where the subject is ``compact``. ``keep`` takes what is kept of each.
    """

    def __init__(self, eye: Eye, *, keep: Keep | None, compact: bool = True) -> None:
        self._eye, self._keep, self._compact = eye, keep, compact
        self._waiting: list[tuple[Seen, Sight]] = []
        self._waiting_px = 0
        self.seen: dict[int, Seen] = {}

    def at(self, view: View, differs: Differs, picture: int, shift: Shift) -> Seen:
        """Look, now or later, at a picture that ``differs`` so from the background."""
        sight, bare, marks = self._eye.told(view, differs)
        seen = Seen(picture=picture, shift=shift, candidates=[], bare=bare, marks=marks)
        if self._keep is not None:
            seen.kept = self._keep(view, sight)
        self.seen[picture] = seen
        if not self._compact:
            return seen
        self._waiting.append((seen, sight))
        self._waiting_px += sight.differs.part.size
        if len(self._waiting) == TOGETHER or self._waiting_px > TOGETHER_PX:
            self.finish()
        return seen

    def finish(self) -> None:
        """Look for all that waits."""
        found = outline.candidates_of([sight for _, sight in self._waiting])
        for (seen, _), candidates in zip(self._waiting, found, strict=True):
            seen.candidates = candidates
        self._waiting.clear()
        self._waiting_px = 0


def scan(pictures: Pictures, eye: Eye, tell: Progress, *, keep: Keep | None = None, compact: bool = True) -> Scan:
    """Number the drawings and look at each; every distinct picture is decoded once.

    ``keep`` takes what is kept of each for later; a ``compact`` shape is looked for only where that is wanted.
    """
    looks = Looks(eye, keep=keep, compact=compact)
    return (_scan_lossy if pictures.never_alike else _scan_exact)(pictures, eye, looks, tell)


def how_it_differs(view: View, sight: Sight) -> Packed:
    """How a drawing differs from the background, and how bright it is there, packed small."""
    return Packed.of(sight.differs, view.shade(sight.differs.box), sight.threshold)


def _scan_exact(pictures: Pictures, eye: Eye, looks: Looks, tell: Progress) -> Scan:
    numbers: list[int] = []
    counter = DrawingCounter(eye.background.noise)
    total = len(pictures)
    coming = pictures.of(_first_met(pictures.clip))
    for index in range(total):
        mark = pictures.clip.footage.fingerprint(index)
        number = counter.known(mark)
        if number is None:
            view, shift = next(coming)
            differs = eye.background.differs(view)
            number = counter.number(view.light(), differs, mark)
            if number > len(looks.seen):
                looks.at(view, differs, index, shift)
        numbers.append(number)
        _tell_of(index, total, tell)
    looks.finish()
    return Scan(numbers=numbers, seen=list(looks.seen.values()))


def _scan_lossy(pictures: Pictures, eye: Eye, looks: Looks, tell: Progress) -> Scan:
    """Once all pictures are seen it is told which of them are one drawing.

    What most likely shows the last drawing again is not looked at; should it be another after all, it is then.
    """
    counter = LossyCounter(drifts=pictures.steady.register is not None)
    total = len(pictures)
    for index, (view, shift) in enumerate(pictures.of(range(total))):
        differs = eye.background.differs(view)
        box, coarse = differs.box, differs.share > CROWDED
        if coarse:
            seen = looks.at(view, differs, index, shift)
            looks.finish()
            box = _around(seen.candidates, box)
        counter.see(view, differs, box, coarse=coarse)
        if not coarse and not counter.repeats:
            looks.at(view, differs, index, shift)
        _tell_of(index, total, tell)
    looks.finish()
    numbers, firsts = counter.numbers(_Subjects(looks.seen).moved)
    late = [i for i in firsts if i not in looks.seen]
    for index, (view, shift) in zip(late, pictures.of(late), strict=True):
        looks.at(view, eye.background.differs(view), index, shift)
    looks.finish()
    return Scan(numbers=numbers, seen=[looks.seen[i] for i in firsts])


class _Subjects:
    """Where the subject most likely is in the pictures that were looked at, asked only where that is needed."""

    def __init__(self, seen: Mapping[int, Seen]) -> None:
        self._seen = seen

    @cached_property
    def _chosen(self) -> dict[int, Candidate | None]:
        order = sorted(self._seen)
        found = [self._seen[i].candidates for i in order]
        usual = follow.usual(found)
        return dict(zip(order, follow.choose(found, usual), strict=True)) if usual else {}

    def moved(self, first: int, second: int) -> float | None:
        """How far apart the subject lies in two pictures, or how unlike it is, px; None where not surely known."""
        one, other = self._chosen.get(first), self._chosen.get(second)
        if one is None or other is None or one.clipped or other.clipped:
            return None
        if min(one.roundness, other.roundness) < outline.ROUND_ENOUGH:
            return None
        return max(_apart(one.ellipse, other.ellipse), SHAPE_TELLS * _unlike(one.ellipse, other.ellipse))


def _apart(one: Ellipse, other: Ellipse) -> float:
    return math.hypot(one.x - other.x, one.y - other.y)


def _unlike(one: Ellipse, other: Ellipse) -> float:
    """By how much two ellipses differ in how far they reach across and down, px."""
    return max(abs(one.half_width - other.half_width), abs(one.half_height - other.half_height))


def _around(candidates: Sequence[Candidate], box: Box) -> Box:
    """What may be the subject, with room around it, as far as that lies in a box; all of it where nothing is."""
    if not candidates:
        return box
    reach = [ROOM * max(c.ellipse.half_width, c.ellipse.half_height) + BESIDE_PX for c in candidates]
    left = min(int(c.ellipse.x - r) for c, r in zip(candidates, reach, strict=True))
    top = min(int(c.ellipse.y - r) for c, r in zip(candidates, reach, strict=True))
    right = max(int(c.ellipse.x + r) for c, r in zip(candidates, reach, strict=True))
    bottom = max(int(c.ellipse.y + r) for c, r in zip(candidates, reach, strict=True))
    inner = max(left, box[0]), max(top, box[1]), min(right, box[2]), min(bottom, box[3])
    return inner if inner[0] < inner[2] and inner[1] < inner[3] else box


def _tell_of(index: int, total: int, tell: Progress) -> None:
    if index % 4 == 0:
        tell(0.05 + 0.85 * index / total, f"measuring picture {index + 1} of {total}")


def _samples(distinct: Sequence[int], affordable: int, *, uneven: bool = False) -> list[int]:
    """Some of the ``distinct`` pictures, by index, spread over the clip; the first one is among them."""
    count = min(SAMPLES, affordable, len(distinct))
    places = np.linspace(0, len(distinct) - 1, count)
    if uneven and count > 2:
        # Parts of the golden ratio are in step with no cycle.
        numbers = np.arange(1, count - 1)
        places[1:-1] += ((numbers * 0.618034) % 1.0 - 0.5) * (places[1] - places[0])
    return sorted({distinct[round(i)] for i in places})


def _first_met(clip: Clip) -> list[int]:
    """Indices of the pictures whose encoded content is met for the first time."""
    met: set[str] = set()
    first = []
    for index in range(len(clip.footage)):
        mark = clip.footage.fingerprint(index)
        if mark is None or mark not in met:
            first.append(index)
        if mark is not None:
            met.add(mark)
    return first
