"""A figure followed through a clip: its body and its landmarks in every drawing, told or hidden."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import arms, poses, run, tones
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure.bodies import bodies_of
from motion.tracking.subjects.figure.drawn import SIDES, TOLD, Drawn
from motion.tracking.subjects.figure.face import faces
from motion.tracking.subjects.figure.guess import fill_hollow, first_guess
from motion.tracking.subjects.figure.head import heads as find_heads
from motion.tracking.subjects.figure.ink import Cover, Inked, Mask
from motion.tracking.subjects.figure.leg import away
from motion.tracking.subjects.figure.limbs import Limbs
from motion.tracking.subjects.figure.looking import Looking, low_of, reach_of, span_of
from motion.tracking.subjects.figure.placed import Help
from motion.tracking.subjects.figure.playing import Playing
from motion.tracking.subjects.figure.poses import Build, Floats, Legs
from motion.tracking.subjects.figure.proportions import alike, placed
from motion.tracking.subjects.figure.run import Pairs
from motion.tracking.subjects.figure.tones import Tones
from motion.tracking.subjects.figure.trunk import Trunk, trunks

Chosen = dict[int, tuple[Pairs, int]]
"""By drawing the pairs of legs that it allows, and which of them it is."""
CHAIN = ("knee", "ankle", "heel", "toe", "ankle")
"""From the hip down, round the foot."""
MOST_KEPT = 64
"""Of clips with no more drawings what was told of near and far ink is kept."""
ATTEMPTS, STRETCH, MEASURED = 3, 16, 6
"""How often proportions are told anew at most, in how many drawings that follow each other, and by how many of them at
least."""
HIP_ROW = 2.0
"""Of whole figures legs are looked for from so many small px below the hip."""
OTHERS_FOOT, FEWEST_FEET = 0.12, 5
"""A foot whose ends lie nearer to its ankle, or farther from it, by so much of the leg than in most of several drawings
is not its own."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """What was found: a figure a drawing, the proportions by which, and whether two tones told the sides."""

    drawings: list[Drawn]
    build: Build | None
    told: bool
    lows: list[float | None]
    spans: list[tuple[float, float] | None]
    reaches: list[tuple[float, float] | None]


def figures(
    kept: Sequence[Inked],
    empty: frozenset[int],
    *,
    facing: float | None,
    playing: Playing,
    paper: Floats,
    helped: Help,
    whole: bool = False,
    told_apart: bool = True,
) -> Figures:
    """The figure in every drawing. ``facing`` is 1 to the right, -1 to the left, None where that is to be found out.

    ``playing`` is the order in which drawings show, ``paper`` (3,) the colour behind; ``helped`` what a person placed.
    A ``whole`` figure has a head, a trunk and arms; its sides are ``told_apart`` by colour, or may be alike.
    """
    looking = Looking(kept, empty)
    lows, cores = list[float | None](), list[bodies.Core | None]()
    spans, reaches = list[tuple[float, float] | None](), list[tuple[float, float] | None]()
    for index in range(len(looking)):
        sheet = looking.sheet(index)
        nothing = looking.is_empty(index) or sheet.empty
        cores.append(None if nothing or whole else bodies.core(sheet))
        lows.append(None if nothing else low_of(sheet))
        spans.append(None if nothing else span_of(sheet))
        reaches.append(None if nothing else reach_of(sheet))
    for index, below in bodies.amiss(cores).items():
        cores[index] = bodies.core(looking.sheet(index), below)
    if whole:
        found, trunk = _upright(looking, helped)
    else:
        found, trunk = [Drawn(body=body) for body in bodies_of(looking, cores, helped)], None
    build = None if whole and trunk is None else first_guess(looking, found, lows, facing, helped, trunk)
    if build is None:
        return Figures(drawings=found, build=None, told=False, lows=lows, spans=spans, reaches=reaches)
    work = _Work(looking, found, helped, playing, paper, trunk, told_apart=told_apart)
    build, told = work.settled(build)
    if whole:
        _set_heads_by_faces(looking, found, helped)
    return Figures(drawings=found, build=build, told=told is not None, lows=lows, spans=spans, reaches=reaches)


def _upright(looking: Looking, helped: Help) -> tuple[list[Drawn], Trunk | None]:
    """Heads and trunks of whole figures; None where no trunk can be told."""
    heads = find_heads(looking, helped.bodies)
    fill_hollow(looking, heads)
    told = trunks(looking, heads)
    if told is None:
        return [Drawn(body=None, head=head) for head in heads], None
    trunk, laid = told
    return [Drawn(body=body, head=head) for body, head in zip(laid, heads, strict=True)], trunk


def _set_heads_by_faces(looking: Looking, found: Sequence[Drawn], helped: Help) -> None:
    """Set heads, but for those that were placed, where faces tell them."""
    for index, face in faces(looking, [drawn.head for drawn in found]).items():
        if index not in helped.bodies and "head" in found[index].places:
            found[index].head, found[index].places["head"] = face, (face.x, face.y)


class _Work:
    """The second half: runs of poses, tones, limbs and feet."""

    def __init__(
        self,
        looking: Looking,
        found: list[Drawn],
        helped: Help,
        playing: Playing,
        paper: Floats,
        trunk: Trunk | None,
        *,
        told_apart: bool,
    ) -> None:
        self._told_apart = told_apart
        self._looking, self._found, self._helped = looking, found, helped
        self._paper, self._trunk = paper, trunk
        self._covers: dict[int, tuple[Cover, Cover]] = {}
        self._seen = [i for i, d in enumerate(found) if d.body is not None]
        self._playing = playing
        self._along: Mask | None = None

    def settled(self, build: Build) -> tuple[Build, Tones | None]:
        """Set every landmark; gives the proportions as found and the tones of both sides where there are two.

        Proportions and tones are told from a stretch of the clip, at first from every other drawing of it; with these
        legs are looked for all through.
        """
        some, told = self._stretch(), None
        for attempt in range(ATTEMPTS):
            few = attempt == 0 and len(some) == STRETCH
            legs = self._legs(build, some[::2] if few else some, anew=True)
            pairs = self._pairs(legs, build, told)
            chosen = run.chosen_in(pairs, self._playing)
            if told is None:
                told = self._tones(chosen, build)
                if told is not None:
                    pairs = self._pairs(legs, build, told)
                    chosen = run.chosen_in(pairs, self._playing)
            better = self._proportions(chosen, build, told)
            if alike(better, build):
                break
            build, legs, pairs = better, {}, {}
        missing = [i for i in self._seen if i not in legs]
        if missing:
            others = self._legs(build, missing, anew=not legs)
            legs, pairs = legs | others, pairs | self._pairs(others, build, told)
            chosen = run.chosen_in(pairs, self._playing)
        # Proportions were not known yet when it was told which of both is the near one.
        sure = self._tones({i: chosen[i] for i in some[::2]}, build)
        if sure is not None and (told is None or sure.turned(told)):
            told = sure
            self._covers.clear()
            for own in legs.values():
                own.small.sides = None
            chosen = run.chosen_in(self._pairs(legs, build, told), self._playing)
        build = self._set(chosen, build, told)
        self._leave_others_feet(build)
        self._lead_feet()
        if self._trunk is not None:
            self._set_arms(build, self._trunk, told)
        for index, some_legs in legs.items():
            self._found[index].explained = _explained(some_legs.small, self._found[index])
        return build, told

    def _set_arms(self, build: Build, trunk: Trunk, told: Tones | None) -> None:
        arms.set_arms(
            arms.Around(
                looking=self._looking,
                found=self._found,
                seen=self._seen,
                playing=self._playing,
                legs=build,
                trunk=trunk,
                sided=None if told is None else lambda index: self._covers_of(index, told),
                helped=self._helped,
            )
        )

    def _stretch(self) -> list[int]:
        """Drawings that follow each other, around those that a person placed, else in the middle."""
        placed = [k for k, i in enumerate(self._seen) if self._helped.at("hip", i) is not None]
        middle = placed[len(placed) // 2] if placed else len(self._seen) // 2
        first = max(0, min(middle - STRETCH // 2, len(self._seen) - STRETCH))
        return self._seen[first : first + STRETCH]

    def _leave_others_feet(self, build: Build) -> None:
        """A foot that is not as far from its ankle as usual, at heel or toe, is the other leg's, or shows in part.

        Nor does it tell where its ankle is, then.
        """
        for side in SIDES:
            ends = (f"heel_{side}", f"toe_{side}")
            told = [d for i in self._seen if (d := self._found[i]).sure[ends[0]] >= TOLD]
            if len(told) < FEWEST_FEET:
                continue
            far = np.array([[math.dist(d.places[f"ankle_{side}"], d.places[end]) for end in ends] for d in told])
            off = np.abs(far - np.median(far, axis=0)).max(axis=1)
            for number in np.flatnonzero(off > OTHERS_FOOT * build.leg):
                told[number].leave_foot(side, build.shin)

    def _lead_feet(self) -> None:
        """A foot that does not show is turned as those before and after it lead."""
        for side in SIDES:
            names = (f"heel_{side}", f"toe_{side}")
            drawn = [self._found[i] for i in self._seen]
            sure = [k for k, d in enumerate(drawn) if d.sure[names[0]] >= TOLD]
            if not sure:
                continue
            for name in names:
                off = np.array([away(drawn[k].places[f"ankle_{side}"], drawn[k].places[name]) for k in sure])
                for k, one in enumerate(drawn):
                    if one.sure[name] < TOLD:
                        x, y = one.places[f"ankle_{side}"]
                        dx, dy = (float(np.interp(k, sure, off[:, axis])) for axis in (0, 1))
                        one.places[name] = (x + dx, y + dy)

    def _body(self, index: int) -> Ellipse:
        body = self._found[index].body
        if body is None:
            raise ValueError("a drawing without a body has no legs")
        return body

    def _heads(self, index: int) -> list[Ellipse]:
        head = self._found[index].head
        return [] if head is None else [head]

    def _legs(self, build: Build, some: Sequence[int], *, anew: bool) -> dict[int, Legs]:
        """The legs that some drawings allow; what goes along with the body is none, which is told ``anew`` or known."""
        smalls = {i: poses.Small(self._looking.sheet(i), self._body(i), build, self._heads(i)) for i in some}
        if self._trunk is not None:
            for small in smalls.values():
                # Above the hip there are arms.
                small.ink[: round(poses.ORIGIN[1] + HIP_ROW)] = False
        if anew or self._along is None:
            self._along = poses.going_along(list(smalls.values()))
        for small in smalls.values():
            small.ink &= ~self._along
        search = poses.Search(build)
        return {i: search.legs_of(small) for i, small in smalls.items()}

    def _pairs(self, legs: Mapping[int, Legs], build: Build, told: Tones | None) -> dict[int, Pairs]:
        return {i: run.pairs_of(own, build.leg, self._extra(i, own, build, told)) for i, own in legs.items()}

    def _extra(self, index: int, legs: Legs, build: Build, told: Tones | None) -> Floats:
        """(k, 2) what each leg costs as the near one and as the far one, by its tone and by what a person placed."""
        extra = np.zeros((len(legs), 2))
        if told is not None:
            near, far = self._sides_of(index, legs.small, told)
            either = near | far
            extra[:, 0] += 5.0 * legs.share_off(near, either)
            extra[:, 1] += 2.0 * legs.share_off(far, either)
        hip = build.hip_of(self._body(index))
        for k, side in enumerate(SIDES):
            for joint, places in (("knee", legs.knees), ("ankle", legs.ankles), ("toe", legs.toes)):
                at = self._helped.at(f"{joint}_{side}", index)
                if at is not None:
                    own = np.array([build.facing * (at[0] - hip[0]), at[1] - hip[1]])
                    extra[:, k] += np.minimum(40.0, 60.0 * np.hypot(*(places - own).T) / build.leg)
        return extra

    def _sides_of(self, index: int, small: poses.Small, told: Tones) -> tuple[Mask, Mask]:
        """Which small pixels are near ink, and which are far ink."""
        if small.sides is None:
            near, far = (small.ink_of(cover) for cover in self._covers_of(index, told))
            small.sides = near, far
        return small.sides

    def _covers_of(self, index: int, told: Tones) -> tuple[Cover, Cover]:
        """A drawing's near and far ink; kept of short clips."""
        known = self._covers.get(index)
        if known is None:
            known = told.covers(self._looking.sheet(index))
            if len(self._seen) <= MOST_KEPT:
                self._covers[index] = known
        return known

    def _tones(self, chosen: Chosen, build: Build) -> Tones | None:
        told = []
        for index, (pairs, number) in chosen.items():
            sheet, body = self._looking.sheet(index), self._body(index)
            one, other = tones.legs_drawn(sheet, build, build.hip_of(body), pairs.places[number])
            outside = bodies.without_body(sheet, body, 0.06 * build.leg)
            some = tones.shown(sheet, one, other, outside)
            if some is not None:
                told.append(some)
        return tones.tones_of(told, self._paper, told_apart=self._told_apart)

    def _limbs(self, index: int, pair: tuple[Pairs, int], build: Build, told: Tones | None) -> Limbs:
        sheet, (pairs, number) = self._looking.sheet(index), pair
        covers = (sheet.solid, sheet.solid) if told is None else self._covers_of(index, told)
        return Limbs.of(sheet, self._body(index), build, pairs.of(number) * build.leg, covers)

    def _proportions(self, chosen: Chosen, build: Build, told: Tones | None) -> Build:
        """The proportions that some drawings show."""
        some = list(chosen.items())[:: max(1, len(chosen) // MEASURED)]
        return placed([self._limbs(i, pair, build, told) for i, pair in some], build)

    def _set(self, chosen: Chosen, build: Build, told: Tones | None) -> Build:
        """Set all limbs and feet; gives the proportions that they show."""
        limbs = {i: self._limbs(i, pair, build, told) for i, pair in chosen.items()}
        build = placed(list(limbs.values()), build)
        for index, one in limbs.items():
            one.finish(build, self._found[index])
        return build


def _explained(small: poses.Small, drawn: Drawn) -> float:
    """Which share of a drawing's ink its two legs explain as they were set, less what they claim that is not there.

    What lies a small pixel or two beside a thin stroke is on it.
    """
    lines = [[drawn.places[n] for n in ("hip", *(f"{j}_{side}" for j in CHAIN))] for side in SIDES]
    both, ink_there = small.drawn(lines), (small.ink & ~(small.drawn(arms.lines_of(drawn)) > 0)).view(np.uint8)
    kernel = np.ones((5, 5), np.uint8)
    near, near_ink = cv2.dilate(both, kernel) > 0, cv2.dilate(ink_there, kernel) > 0
    told = float(np.count_nonzero(near & (ink_there > 0))) / max(1, int(np.count_nonzero(ink_there)))
    return told - float(np.count_nonzero((both > 0) & ~near_ink)) / max(1, int(np.count_nonzero(both)))
