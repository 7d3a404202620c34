"""Following one subject through a clip, at the memory of a few pictures however long the clip is."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from motion.clip import Clip, Exposure
from motion.track import Oversights, Shape, Track, of_shapes
from motion.tracking import again, follow, ghosts, ground, guide_left, outline, placing
from motion.tracking.again import Usual
from motion.tracking.edges import Sight
from motion.tracking.ellipse import Ellipse
from motion.tracking.exposures import expose
from motion.tracking.light import Box
from motion.tracking.outline import Candidate
from motion.tracking.placing import Placement
from motion.tracking.scan import Eye, Pictures, Progress, Seen, how_it_differs, scan

ENOUGH_AGREE, MOST_ASKED = 0.6, 16
LEAST_GHOSTLY = 2
"""So many drawings must show their neighbours before it is said of any."""


def track(
    clip: Clip,
    *,
    kind: str = "shape",
    ground_y: float | None = None,
    placement: Placement = placing.NOTHING,
    progress: Progress | None = None,
) -> Track:
    """Find drawings, background, ground and subject. Decodes each distinct picture once, poor ones again.

    ``kind`` is what track and part are called, ``ground_y`` fixes the ground's level in px. ``placement`` is
    where a person placed the subject in some drawings:
    the others are found with that help. A drawing in which no subject is found has None for a shape; a clip
    in which nothing moves has none at all and no ground. Raises DamagedFile when a picture cannot be decoded.
    """
    followed = follow_through(clip, placement.shapes, progress)
    level = ground.find(followed.eye.background.light, followed.in_order, ground_y)
    result = of_shapes(
        exposures=followed.exposures,
        shapes=followed.shapes,
        ground=level,
        guide_shows=guide_left.shows(followed.eye.background, followed.in_order, level),
        kind=kind,
        subject=kind,
        **followed.about,
    )
    return placing.apply(result, placement)


@dataclass(frozen=True, slots=True, kw_only=True)
class Followed:
    """A clip looked through for one compact shape: one entry a drawing in ``seen`` and ``shapes``."""

    pictures: Pictures
    eye: Eye
    seen: list[Seen]
    exposures: tuple[Exposure, ...]
    shapes: tuple[Shape | None, ...]
    ghostly: frozenset[int]
    empty: frozenset[int]

    @property
    def in_order(self) -> list[Shape | None]:
        """The shapes in playing order."""
        return [self.shapes[e.drawing - 1] for e in self.exposures]

    @property
    def about(self) -> dict[str, Any]:
        """What a track tells of its drawings whatever is followed in them."""
        return {
            "pictures": tuple(s.picture for s in self.seen),
            "shifts": tuple(s.shift for s in self.seen) if self.pictures.steady.register else (),
            "oversights": Oversights(
                ghosts=_numbers(self.ghostly),
                bare=_numbers([i for i, s in enumerate(self.seen) if s.bare]),
                empty=_numbers(self.empty),
            ),
        }


def follow_through(
    clip: Clip,
    placed: Mapping[int, Ellipse],
    progress: Progress | None,
    *,
    keeps: bool = False,
    anchor: Box | None = None,
) -> Followed:
    """Find drawings, background and the shape that moves; ``placed`` is where a person put it, by drawing number.

    How each drawing differs from the background is kept where that is asked for (``keeps``), packed small. ``anchor``
    is where something is drawn that is known to belong to the paper, which tells how that drifts.
    """
    tell = progress or (lambda part, step: None)
    tell(0.0, "reading the pictures")
    pictures = Pictures(clip, anchor)
    eye = Eye(pictures.background())
    found = scan(pictures, eye, tell, keep=how_it_differs if keeps else None)
    tell(0.92, "following what moves")
    empty = found.empty()
    chosen, ghostly = _follow(pictures, eye, found.seen, empty, placed)
    return Followed(
        pictures=pictures,
        eye=eye,
        seen=found.seen,
        exposures=expose(found.numbers, clip.picture_frames),
        shapes=tuple(_shapes(chosen)),
        ghostly=frozenset(ghostly),
        empty=empty,
    )


def _numbers(indices: Iterable[int]) -> frozenset[int]:
    return frozenset(i + 1 for i in indices)


def _follow(
    pictures: Pictures, eye: Eye, seen: list[Seen], empty: Collection[int], placed: Mapping[int, Ellipse]
) -> tuple[list[Candidate | None], list[int]]:
    """The subject in each drawing, and the drawings (from 0) in which its neighbours show through."""
    for i in empty:
        seen[i].candidates = []
    drawn = [i for i in range(len(seen)) if i not in empty]
    by_hand = _by_hand(pictures, eye, seen, placed)
    for i, candidate in by_hand.items():
        seen[i].candidates = [candidate]
    usual = follow.usual([[c] for c in by_hand.values()]) or (_usual(pictures, eye, seen, drawn) if drawn else None)
    if usual is None:
        return [None] * len(seen), []
    chosen = follow.choose([s.candidates for s in seen], usual)
    poor = [i for i in drawn if i not in by_hand and again.is_poor(chosen[i], usual)]
    if poor:
        for i, sight in sights(pictures, eye, seen, poor):
            seen[i].candidates += again.look(sight, usual, _places(chosen, poor, i))
        chosen = follow.choose([s.candidates for s in seen], usual)
    suspects = sorted({*poor, *_beside_a_double(seen, chosen, usual)})
    if len(_ghostly(pictures, eye, seen, chosen, suspects)) < LEAST_GHOSTLY:
        return chosen, []
    return _among_ghosts(pictures, eye, seen, [i for i in drawn if i not in by_hand], chosen, usual)


def _by_hand(pictures: Pictures, eye: Eye, seen: list[Seen], placed: Mapping[int, Ellipse]) -> dict[int, Candidate]:
    """What a person placed, by index from 0, with the contrast that the drawing has there."""
    wanted = sorted(n - 1 for n in placed if 1 <= n <= len(seen))
    found = {}
    for i, sight in sights(pictures, eye, seen, wanted):
        ellipse = placed[i + 1]
        near = outline.near(sight, ellipse)
        contrast = near.contrast if near else float(sight.threshold)
        found[i] = Candidate(ellipse=ellipse, clipped=False, contrast=contrast, roundness=1.0)
    return found


def _usual(pictures: Pictures, eye: Eye, seen: list[Seen], drawn: Sequence[int]) -> Usual | None:
    """The clip's subject. Where few drawings show one subject, what is strong in some of them is asked as well."""
    first = follow.usual([s.candidates for s in seen])
    if first is None or _agreeing([seen[i].candidates for i in drawn], first) >= ENOUGH_AGREE:
        return first
    few = [drawn[i] for i in sorted({round(v) for v in np.linspace(0, len(drawn) - 1, MOST_ASKED)})]
    strong = [again.strongest(sight) for _, sight in sights(pictures, eye, seen, few)]
    second = follow.usual(strong)
    weak = [seen[i].candidates for i in few]
    return second if second and _agreeing(strong, second) > _agreeing(weak, first) else first


def _agreeing(drawings: Sequence[Sequence[Candidate]], usual: Usual) -> float:
    """Which share of the drawings shows a round thing of the subject's size."""
    return float(np.mean([any(c.roundness > 0.9 and not again.is_poor(c, usual) for c in d) for d in drawings]))


def _among_ghosts(
    pictures: Pictures,
    eye: Eye,
    seen: list[Seen],
    drawn: Sequence[int],
    chosen: list[Candidate | None],
    usual: Usual,
) -> tuple[list[Candidate | None], list[int]]:
    """Look at every drawing again for what is as strong as the subject alone."""
    for i, sight in sights(pictures, eye, seen, drawn):
        strong = again.look(sight, usual, _places(chosen, (), i))
        seen[i].candidates = strong or seen[i].candidates
    chosen = follow.choose([s.candidates for s in seen], usual)
    return chosen, _ghostly(pictures, eye, seen, chosen, drawn)


def sights(pictures: Pictures, eye: Eye, seen: list[Seen], indices: Sequence[int]) -> Iterator[tuple[int, Sight]]:
    """The drawings at ``indices`` (ascending, from 0), each with what it shows."""
    lights = pictures.of([seen[i].picture for i in indices])
    for i, (light, _) in zip(indices, lights, strict=True):
        yield i, eye.sight(light)


def _places(chosen: Sequence[Candidate | None], poor: Sequence[int], index: int) -> list[tuple[float, float]]:
    """Where the subject of a drawing may be: where it was found, and midway between the good ones beside it."""
    good = {i: c.ellipse for i, c in enumerate(chosen) if c is not None and i not in poor}
    own = chosen[index]
    places = [(own.ellipse.x, own.ellipse.y)] if own is not None else []
    before = max((i for i in good if i < index), default=None)
    after = min((i for i in good if i > index), default=None)
    if before is not None and after is not None:
        one, other, part = good[before], good[after], (index - before) / (after - before)
        places.append((one.x + part * (other.x - one.x), one.y + part * (other.y - one.y)))
    return places


def _beside_a_double(seen: list[Seen], chosen: Sequence[Candidate | None], usual: Usual) -> list[int]:
    """Drawings with something of the subject's size where a neighbouring drawing has the subject."""
    found = []
    for i, drawing in enumerate(seen):
        others = ghosts.neighbours(chosen, i)
        if any(
            c is not chosen[i]
            and abs(float(np.log(c.size / usual.size))) < 0.25
            and any(np.hypot(c.ellipse.x - o.x, c.ellipse.y - o.y) < 0.15 * usual.size for o in others)
            for c in drawing.candidates
        ):
            found.append(i)
    return found


def _ghostly(
    pictures: Pictures, eye: Eye, seen: list[Seen], chosen: Sequence[Candidate | None], indices: Sequence[int]
) -> list[int]:
    noise = eye.background.noise
    return [
        i
        for i, sight in sights(pictures, eye, seen, indices)
        if ghosts.shows(sight.differs.whole(), noise, chosen[i], ghosts.neighbours(chosen, i))
    ]


def _shapes(chosen: Sequence[Candidate | None]) -> list[Shape | None]:
    sizes = [c.size for c in chosen if c is not None and not c.clipped]
    usual = float(np.median(sizes)) if sizes else 0.0
    return [_shape(i + 1, c, usual) for i, c in enumerate(chosen)]


def _shape(drawing: int, candidate: Candidate | None, usual: float) -> Shape | None:
    if candidate is None:
        return None
    e = candidate.ellipse
    off_size = abs(np.log(candidate.size / usual)) if usual else 1.0
    confidence = candidate.roundness * float(np.exp(-2.0 * max(0.0, off_size - 0.06)))
    if candidate.clipped:
        confidence *= 0.5
    return Shape(
        drawing=drawing,
        x=e.x,
        y=e.y,
        major=e.major,
        minor=e.minor,
        angle=e.angle,
        bottom=e.bottom,
        clipped=candidate.clipped,
        confidence=round(min(0.99, confidence), 3),
    )
