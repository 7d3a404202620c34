"""A figure followed through a clip: its body and its landmarks in every drawing, told or hidden."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from motion.tracking.ellipse import Ellipse, axis_angle
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure import ink, poses, run, tones
from motion.tracking.subjects.figure import placed as placing
from motion.tracking.subjects.figure.drawn import SIDES, TOLD, Drawn
from motion.tracking.subjects.figure.ink import Cover, Inked
from motion.tracking.subjects.figure.limbs import Limbs, ankle_of, away, hip_of, lengths_of, sole_of, usual_width
from motion.tracking.subjects.figure.looking import Looking, low_of, span_of
from motion.tracking.subjects.figure.placed import Help
from motion.tracking.subjects.figure.poses import Build, Floats, Legs
from motion.tracking.subjects.figure.run import Pairs
from motion.tracking.subjects.figure.tones import Tones

FAINT = 0.25
"""What covers so much of a pixel may be part of an outline."""
HOLLOW, SAMPLED_HOLLOW = 0.5, 9
"""Limbs are hollow where outlines mostly enclose so many times their own area below the body."""
THICKEST = 0.22
"""Nothing thicker than so much of the legs' room, ground to hip, is a limb."""
MOST_KEPT = 64
"""Of clips with no more drawings what was told of near and far ink is kept."""
SAMPLED = 4
LENGTHS, USUAL = (0.94, 1.04, 1.14, 1.26), 1.04
"""How long legs may be, in rooms from hip to ground: bent ones are longer than they are high."""
HIGH, HIP = 1.07, 0.36
"""The first guess: of the room above the ground a straight leg takes all but its foot; the hip lies so much of the
body's height below its middle."""
FOOT = 0.24
ATTEMPTS, MEASURED = 3, 14
"""Proportions are first told from so many drawings."""
REDONE, REDONE_HIP = 0.08, 0.05
"""Where limbs turn out to be of another length, poses are looked for again."""
ELLIPTIC = 0.93
"""A body is one where it and its ellipse share so much of what both cover; else it has the size of those that are."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """What was found: a figure a drawing, the proportions by which, and whether two tones told the sides."""

    drawings: list[Drawn]
    build: Build | None
    told: bool
    lows: list[float | None]
    spans: list[tuple[float, float] | None]


def figures(
    kept: Sequence[Inked],
    empty: frozenset[int],
    *,
    facing: float | None,
    pace: Sequence[float],
    paper: Floats,
    helped: Help,
) -> Figures:
    """The figure in every drawing. ``facing`` is 1 to the right, -1 to the left, None where that is to be found out.

    ``pace`` is how many frames pass from each drawing to the next, ``paper`` (3,) the colour behind; ``helped`` what a
    person placed.
    """
    looking = Looking(kept, empty)
    lows, spans, cores = list[float | None](), list[tuple[float, float] | None](), list[bodies.Core | None]()
    for index in range(len(looking)):
        sheet = looking.sheet(index)
        nothing = looking.is_empty(index) or sheet.empty
        cores.append(None if nothing else bodies.core(sheet))
        lows.append(None if nothing else low_of(sheet))
        spans.append(None if nothing else span_of(sheet))
    found = [Drawn(body=body) for body in _bodies(looking, cores, helped)]
    build = _first_guess(looking, found, lows, facing, helped)
    if build is None:
        return Figures(drawings=found, build=None, told=False, lows=lows, spans=spans)
    work = _Work(looking, found, helped, pace, paper)
    build, told = work.settled(build)
    return Figures(drawings=found, build=build, told=told is not None, lows=lows, spans=spans)


def _bodies(looking: Looking, cores: Sequence[bodies.Core | None], helped: Help) -> list[Ellipse | None]:
    """The body in each drawing: as placed, else what is thickest; what looks like it where another thing is."""
    radius = bodies.usual_radius(cores)
    fits: list[tuple[Ellipse, float] | None] = []
    for index, at in enumerate(cores):
        fits.append(bodies.ellipse_of(looking.sheet(index), at, radius) if at and radius else None)
    placed = {n: body for n, body in helped.bodies.items() if 0 <= n < len(looking)}
    if any(placing.amiss(body, (fits[n] or (None,))[0]) for n, body in placed.items()):
        like_it = placing.like_placed(looking, placed)
        return [like_it.get(n) for n in range(len(looking))]
    like = _usual_body([f[0] for f in fits if f is not None and f[1] >= ELLIPTIC])
    found: list[Ellipse | None] = []
    for index, (at, fitted) in enumerate(zip(cores, fits, strict=True)):
        body = fitted[0] if fitted else None
        if at is not None and fitted is not None and fitted[1] < ELLIPTIC and like is not None:
            body = bodies.of_size(looking.sheet(index), at, like)
        found.append(placed.get(index) or body)
    return found


def _usual_body(found: Sequence[Ellipse]) -> Ellipse | None:
    """A body as large as those that show well usually are; None with too few of them."""
    if len(found) < 3:
        return None
    major, minor = (float(np.median([getattr(e, axis) for e in found])) for axis in ("major", "minor"))
    turns = np.exp(2j * np.radians([e.angle for e in found])).mean()
    return replace(found[0], major=major, minor=minor, angle=axis_angle(math.degrees(float(np.angle(turns))) / 2))


def _first_guess(
    looking: Looking, found: Sequence[Drawn], lows: Sequence[float | None], facing: float | None, helped: Help
) -> Build | None:
    """Proportions to begin with: as a person placed them, else those by which legs explain some drawings' ink best."""
    told = [(i, d.body, low) for i, (d, low) in enumerate(zip(found, lows, strict=True)) if d.body and low is not None]
    if len(told) < 3:
        return None
    seen = [i for i, _, _ in told]
    height = float(np.median([2 * body.half_height for _, body, _ in told]))
    ground = float(np.median([low for _, _, low in told]))
    hips = float(np.median([body.y for _, body, _ in told])) + HIP * height
    room = ground - hips
    if room < 24:
        return None
    some = [seen[round(k)] for k in np.linspace(0, len(seen) - 1, min(SAMPLED, len(seen)))]
    if _is_hollow(looking, found, [seen[round(k)] for k in np.linspace(0, len(seen) - 1, SAMPLED_HOLLOW)], room):
        looking.fill_outlines(THICKEST * room)
    wide = _stroke(looking, found, some, room)
    known, facing = helped.lengths(), facing or helped.facing()
    off = helped.hip_below({i: body for i, body, _ in told})

    def build(times: float, way: float) -> Build:
        leg = times * room / HIGH
        hip = (0.0, HIP * height) if off is None else (way * off[0], off[1])
        if known is None:
            return Build(hip=hip, thigh=leg / 2, shin=leg / 2, foot=FOOT * leg, wide=wide, facing=way)
        thigh, shin, sole = known
        return Build(hip=hip, thigh=thigh, shin=shin, foot=sole or FOOT * (thigh + shin), wide=wide, facing=way)

    def cost(own: Build) -> float:
        seen = [(i, body) for i in some if (body := found[i].body) is not None]
        smalls = [poses.Small(looking.sheet(i), body, own) for i, body in seen]
        return sum(float(poses.legs_of(small, own).pair_costs.min()) for small in smalls)

    way = facing or min((1.0, -1.0), key=lambda way: cost(build(USUAL, way)))
    return min((build(times, way) for times in LENGTHS), key=cost) if known is None else build(USUAL, way)


def _is_hollow(looking: Looking, found: Sequence[Drawn], some: Sequence[int], room: float) -> bool:
    """Whether limbs are drawn by their outlines, with nothing between them."""
    shares = []
    for index in some:
        body = found[index].body
        sheet = looking.sheet(index)
        if body is None:
            continue
        outside = bodies.without_body(sheet, body, 0.05 * room)
        marked = sheet.cover > FAINT
        filled = ink.enclosed(marked, THICKEST * room) & outside & ~marked
        shares.append(float(np.count_nonzero(filled)) / max(1, int(np.count_nonzero(marked & outside))))
    return bool(shares) and float(np.median(shares)) > HOLLOW


def _stroke(looking: Looking, found: Sequence[Drawn], some: Sequence[int], room: float) -> float:
    """How wide legs are drawn, px."""
    widths = []
    for index in some:
        body = found[index].body
        sheet = looking.sheet(index)
        if body is None:
            continue
        legs = ((sheet.solid > 0.5) & bodies.without_body(sheet, body, 0.05 * room)).astype(np.uint8)
        outlines, _ = cv2.findContours(legs, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        around = sum(cv2.arcLength(o, closed=True) for o in outlines)
        if around > room:
            # A stroke is as wide as twice its area beside the way all round it.
            widths.append(2 * float(np.count_nonzero(legs)) / around)
    return max(1.5, float(np.median(widths))) if widths else 4.0


class _Work:
    """The second half: runs of poses, tones, limbs and feet."""

    def __init__(
        self, looking: Looking, found: list[Drawn], helped: Help, pace: Sequence[float], paper: Floats
    ) -> None:
        self._looking, self._found, self._helped = looking, found, helped
        self._paper = paper
        self._covers: dict[int, tuple[Cover, Cover]] = {}
        self._seen = [i for i, d in enumerate(found) if d.body is not None]
        self._pace = [sum(pace[a:b]) for a, b in zip(self._seen, self._seen[1:], strict=False)]

    def settled(self, build: Build) -> tuple[Build, Tones | None]:
        """Set every landmark; gives the proportions as found and the tones of both sides where there are two."""
        told: Tones | None = None
        for attempt in range(ATTEMPTS):
            legs = self._legs(build)
            chosen = self._run(legs, build, told)
            if attempt == 0:
                told = self._tones(chosen, build)
                if told is not None:
                    chosen = self._run(legs, build, told)
            better = self._proportions(chosen, build, told) if attempt == 0 else self._set(chosen, build, told)
            off = max(abs(better.thigh / build.thigh - 1), abs(better.shin / build.shin - 1))
            moved = math.hypot(better.hip[0] - build.hip[0], better.hip[1] - build.hip[1]) / build.leg
            build = better
            if off < REDONE and moved < REDONE_HIP:
                if attempt == 0:
                    build = self._set(chosen, build, told)
                break
        for index, legs_there, pair in zip(self._seen, legs, chosen, strict=True):
            self._found[index].explained = _explained(legs_there, pair)
        self._lead_feet()
        return build, told

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

    def _legs(self, build: Build) -> list[Legs]:
        """The legs that each drawing allows; what goes along with the body is none."""
        smalls = [poses.Small(self._looking.sheet(i), self._body(i), build) for i in self._seen]
        fixed = poses.going_along(smalls)
        for small in smalls:
            small.ink &= ~fixed
        return [poses.legs_of(small, build) for small in smalls]

    def _run(self, legs: Sequence[Legs], build: Build, told: Tones | None) -> list[tuple[Pairs, int]]:
        pairs = []
        for index, some in zip(self._seen, legs, strict=True):
            extra = self._extra(index, some, build, told)
            pairs.append(run.pairs_of(some, build.leg, extra))
        return list(zip(pairs, run.best_run(pairs, self._pace), strict=True))

    def _extra(self, index: int, legs: Legs, build: Build, told: Tones | None) -> Floats:
        """(k, 2) what each leg costs as the near one and as the far one, by its tone and by what a person placed."""
        extra = np.zeros((len(legs), 2))
        if told is not None:
            near, far = (legs.small.ink_of(cover) for cover in self._covers_of(index, told))
            either = near | far
            covers, near, far = legs.covers[:, either], near[either], far[either]
            both = np.maximum(1, covers.sum(axis=1))
            extra[:, 0] += 5.0 * (covers & ~near).sum(axis=1) / both
            extra[:, 1] += 2.0 * (covers & ~far).sum(axis=1) / both
        hip = build.hip_of(self._body(index))
        for k, side in enumerate(SIDES):
            for joint, places in (("knee", legs.knees), ("ankle", legs.ankles), ("toe", legs.toes)):
                at = self._helped.at(f"{joint}_{side}", index)
                if at is not None:
                    own = np.array([build.facing * (at[0] - hip[0]), at[1] - hip[1]])
                    extra[:, k] += np.minimum(40.0, 60.0 * np.hypot(*(places - own).T) / build.leg)
        return extra

    def _covers_of(self, index: int, told: Tones) -> tuple[Cover, Cover]:
        """A drawing's near and far ink; kept of short clips."""
        known = self._covers.get(index)
        if known is None:
            known = told.covers(self._looking.sheet(index))
            if len(self._seen) <= MOST_KEPT:
                self._covers[index] = known
        return known

    def _tones(self, chosen: Sequence[tuple[Pairs, int]], build: Build) -> Tones | None:
        told = []
        for index, (pairs, number) in zip(self._seen, chosen, strict=True):
            sheet, body = self._looking.sheet(index), self._body(index)
            one, other = tones.legs_drawn(sheet, build, build.hip_of(body), pairs.places[number])
            outside = bodies.without_body(sheet, body, 0.06 * build.leg)
            some = tones.shown(sheet, one, other, outside)
            if some is not None:
                told.append(some)
        return tones.tones_of(told, self._paper)

    def _limbs(self, index: int, pair: tuple[Pairs, int], build: Build, told: Tones | None) -> Limbs:
        sheet, (pairs, number) = self._looking.sheet(index), pair
        covers = (sheet.solid, sheet.solid) if told is None else self._covers_of(index, told)
        return Limbs.of(sheet, self._body(index), build, pairs.of(number) * build.leg, covers)

    def _proportions(self, chosen: Sequence[tuple[Pairs, int]], build: Build, told: Tones | None) -> Build:
        """The proportions that some of the drawings show."""
        some = sorted({round(k) for k in np.linspace(0, len(chosen) - 1, MEASURED)})
        return _placed([self._limbs(self._seen[k], chosen[k], build, told) for k in some], build)

    def _set(self, chosen: Sequence[tuple[Pairs, int]], build: Build, told: Tones | None) -> Build:
        """Set all limbs and feet; gives the proportions that they show."""
        limbs = [self._limbs(i, pair, build, told) for i, pair in zip(self._seen, chosen, strict=True)]
        build = _placed(limbs, build)
        for index, one in zip(self._seen, limbs, strict=True):
            one.finish(build, self._found[index])
        return build


def _placed(limbs: Sequence[Limbs], build: Build) -> Build:
    """Set limbs and feet of some drawings; gives the proportions that they show."""
    wide = {part: usual_width([a for one in limbs for a in one.across(part)], build) for part in ("thigh", "shin")}
    for one in limbs:
        one.fit(wide)
    for one in limbs:
        one.place_knees(build)
    build = replace(build, hip=hip_of(limbs, build), wide=wide["thigh"])
    for one in limbs:
        one.place_hip(build)
        one.place_feet(build)
    build = replace(build, foot=sole_of(limbs, build))
    ankle = ankle_of(limbs, build)
    for one in limbs:
        one.place_ankles(build, ankle)
    thigh, shin = lengths_of(limbs, build)
    return replace(build, thigh=thigh, shin=shin)


def _explained(legs: Legs, pair: tuple[Pairs, int]) -> float:
    """Which share of a drawing's ink its two legs explain, less what they claim that is not there.

    Poses lie on a grid: what lies a pixel or two beside a thin stroke is on it.
    """
    one, other = pair[0].legs[pair[1]]
    both = (legs.covers[one] | legs.covers[other]).view(np.uint8)
    ink_there = legs.small.ink.view(np.uint8)
    kernel = np.ones((5, 5), np.uint8)
    near, near_ink = cv2.dilate(both, kernel) > 0, cv2.dilate(ink_there, kernel) > 0
    told = float(np.count_nonzero(near & (ink_there > 0))) / max(1, int(np.count_nonzero(ink_there)))
    return told - float(np.count_nonzero((both > 0) & ~near_ink)) / max(1, int(np.count_nonzero(both)))
