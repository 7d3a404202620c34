"""A figure followed through a clip: its body and its landmarks in every drawing, told or hidden."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import cv2
import numpy as np

from motion.tracking.ellipse import Ellipse, axis_angle
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure import feet, ink, poses, run, settle, tones
from motion.tracking.subjects.figure.feet import Foot
from motion.tracking.subjects.figure.ink import Cover, Inked, Sheet
from motion.tracking.subjects.figure.poses import Build, Floats, Legs
from motion.tracking.subjects.figure.run import Pairs
from motion.tracking.subjects.figure.settle import Across, Stretch
from motion.tracking.subjects.figure.tones import Tones

Place = tuple[float, float]
Help = Mapping[str, Mapping[int, Place]]
"""Landmarks that a person placed, by name and then by drawing (from 0)."""
SIDES = ("near", "far")
FAINT = 0.25
"""What covers so much of a pixel may be part of an outline."""
HOLLOW = 0.010
"""Limbs are hollow where what outlines enclose below the body takes so much of a leg's length squared, all through."""
THICKEST = 0.22
"""Nothing thicker than so much of the legs' room, ground to hip, is a limb."""
KEPT_BYTES = 60_000_000
"""So much of unpacked drawings is kept at hand; of long clips the others are unpacked again."""
MOST_KEPT = 64
"""Of clips with no more drawings what was told of near and far ink is kept."""
SAMPLED = 6
LENGTHS = (0.94, 1.04, 1.14, 1.26)
"""How long legs may be, in rooms from hip to ground: bent ones are longer than they are high."""
HIGH, HIP = 1.07, 0.36
"""The first guess: of the room above the ground a straight leg takes all but its foot; the hip lies so much of the
body's height below its middle."""
FOOT = 0.24
REDONE, REDONE_HIP = 0.04, 0.03
"""Where limbs turn out to be of another length, poses are looked for again."""
STRAIGHT = 14.0
"""Degrees of bend from which a knee is where thigh and shin cross."""
CLEARLY_BENT, WHOLE = 20.0, 0.55
"""A knee is firm that is bent by so many degrees, of a leg whose thigh and shin show by themselves to such a share."""
ASTRAY = 0.03
"""Thighs that pass the hip by so much of the leg do not tell where it is."""
ANKLE_MOST, ONE_STROKE, SQUARE = 0.19, 0.03, 0.35
"""An ankle is no higher above the sole than so much of the leg; a foot whose heel lies no more behind it is one stroke
from the ankle. That is told where the foot stands about square on its shin (cosine)."""
ELLIPTIC = 0.93
"""A body is one where it and its ellipse share so much of what both cover; else it has the size of those that are."""
TOLD = 0.5
"""A landmark less sure than this is hidden."""


@dataclass(slots=True)
class Drawn:
    """One drawing's figure: places px in the frame by landmark, how sure each is, and each side's foot."""

    body: Ellipse | None
    places: dict[str, Place] = field(default_factory=dict)
    sure: dict[str, float] = field(default_factory=dict)
    firm: set[str] = field(default_factory=set)
    feet: dict[str, Foot | None] = field(default_factory=dict)
    explained: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """What was found: a figure a drawing, the proportions by which, and whether two tones told the sides."""

    drawings: list[Drawn]
    build: Build | None
    told: bool
    lows: list[float | None]
    spans: list[tuple[float, float] | None]


class Looking:
    """A clip's drawings, unpacked one at a time."""

    def __init__(self, kept: Sequence[Inked], empty: frozenset[int]) -> None:
        self._kept, self._empty = kept, empty
        self.hollow, self.thick = False, 0.0
        self._sheets: dict[int, Sheet] = {}
        self._room = KEPT_BYTES

    def __len__(self) -> int:
        return len(self._kept)

    def sheet(self, index: int) -> Sheet:
        """A drawing's ink."""
        known = self._sheets.get(index)
        if known is not None:
            return known
        sheet = ink.sheet_of(self._kept[index], hollow=self.hollow, thick_px=self.thick)
        if self._room > sheet.bytes:
            self._room -= sheet.bytes
            self._sheets[index] = sheet
        return sheet

    def fill_outlines(self, thick_px: float) -> None:
        """From now on what outlines enclose, and is no thicker than so many px, is ink."""
        self.hollow, self.thick = True, thick_px
        self._sheets.clear()
        self._room = KEPT_BYTES

    def is_empty(self, index: int) -> bool:
        return index in self._empty


def low_of(sheet: Sheet) -> float | None:
    """The y of the lowest point of a drawing's ink, px; None where there is none."""
    rows = sheet.cover.max(axis=1) if sheet.cover.size else np.zeros(0)
    over = np.flatnonzero(rows > 0.5)
    if not len(over):
        return None
    last = int(over[-1])
    below = float(rows[last + 1]) if last + 1 < len(rows) else 0.0
    at = float(rows[last])
    return sheet.top + last + ((at - 0.5) / max(1e-6, at - below) if at > below else 0.0)


def span_of(sheet: Sheet) -> tuple[float, float] | None:
    """Where the lowest fifth of a drawing's ink begins and ends, px from the left."""
    marked = sheet.cover > 0.5
    rows = np.flatnonzero(marked.any(axis=1))
    if not len(rows):
        return None
    low = marked[int(rows[-1] - 0.2 * (rows[-1] - rows[0])) :]
    columns = np.flatnonzero(low.any(axis=0))
    return float(columns[0] + sheet.left), float(columns[-1] + sheet.left)


def figures(
    kept: Sequence[Inked],
    empty: frozenset[int],
    *,
    facing: float | None,
    pace: Sequence[float],
    paper: Floats,
    placed: Help,
    bodies_placed: Mapping[int, Ellipse],
) -> Figures:
    """The figure in every drawing. ``facing`` is 1 to the right, -1 to the left, None where that is to be found out.

    ``pace`` is how many frames pass from each drawing to the next, ``paper`` (3,) the colour behind.
    """
    looking = Looking(kept, empty)
    found, lows, spans = [], list[float | None](), list[tuple[float, float] | None]()
    cores = []
    for index in range(len(looking)):
        sheet = looking.sheet(index)
        nothing = looking.is_empty(index) or sheet.empty
        cores.append(None if nothing else bodies.core(sheet))
        lows.append(None if nothing else low_of(sheet))
        spans.append(None if nothing else span_of(sheet))
    radius = bodies.usual_radius(cores)
    fits: list[tuple[Ellipse, float] | None] = []
    for index, at in enumerate(cores):
        fits.append(bodies.ellipse_of(looking.sheet(index), at, radius) if at and radius else None)
    like = _usual_body([f[0] for f in fits if f is not None and f[1] >= ELLIPTIC])
    for index, (at, fitted) in enumerate(zip(cores, fits, strict=True)):
        body = fitted[0] if fitted else None
        if at is not None and fitted is not None and fitted[1] < ELLIPTIC and like is not None:
            body = bodies.of_size(looking.sheet(index), at, like)
        found.append(Drawn(body=bodies_placed.get(index) or body))
    build = _first_guess(looking, found, lows, facing)
    if build is None:
        return Figures(drawings=found, build=None, told=False, lows=lows, spans=spans)
    work = _Work(looking, found, placed, pace, paper)
    build, told = work.settled(build)
    return Figures(drawings=found, build=build, told=told is not None, lows=lows, spans=spans)


def _usual_body(found: Sequence[Ellipse]) -> Ellipse | None:
    """A body as large as those that show well usually are; None with too few of them."""
    if len(found) < 3:
        return None
    major, minor = (float(np.median([getattr(e, axis) for e in found])) for axis in ("major", "minor"))
    turns = np.exp(2j * np.radians([e.angle for e in found])).mean()
    return replace(found[0], major=major, minor=minor, angle=axis_angle(math.degrees(float(np.angle(turns))) / 2))


def _first_guess(
    looking: Looking, found: Sequence[Drawn], lows: Sequence[float | None], facing: float | None
) -> Build | None:
    """Proportions to begin with: those by which legs explain some drawings' ink best."""
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
    if _is_hollow(looking, found, some, room):
        looking.fill_outlines(THICKEST * room)
    wide = _stroke(looking, found, some, room)
    best: tuple[float, Build] | None = None
    for way in (1.0, -1.0) if facing is None else (facing,):
        for times in LENGTHS:
            leg = times * room / HIGH
            build = Build(hip=(0.0, HIP * height), thigh=leg / 2, shin=leg / 2, foot=FOOT * leg, wide=wide, facing=way)
            cost = 0.0
            for index in some:
                body = found[index].body
                if body is not None:
                    cost += float(poses.legs_of(looking.sheet(index), body, build).pair_costs.min())
            if best is None or cost < best[0]:
                best = cost, build
    return best[1] if best else None


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
        shares.append(float(np.count_nonzero(filled)) / room**2)
    return bool(shares) and float(np.percentile(shares, 25)) > HOLLOW


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
        self, looking: Looking, found: list[Drawn], placed: Help, pace: Sequence[float], paper: Floats
    ) -> None:
        self._looking, self._found, self._placed = looking, found, placed
        self._paper = paper
        self._covers: dict[int, tuple[Cover, Cover]] = {}
        self._seen = [i for i, d in enumerate(found) if d.body is not None]
        self._pace = [sum(pace[a:b]) for a, b in zip(self._seen, self._seen[1:], strict=False)]

    def settled(self, build: Build) -> tuple[Build, Tones | None]:
        """Set every landmark; gives the proportions as found and the tones of both sides where there are two."""
        told: Tones | None = None
        for attempt in range(3):
            legs = [poses.legs_of(self._looking.sheet(i), self._body(i), build) for i in self._seen]
            chosen = self._run(legs, build, told)
            if attempt == 0:
                told = self._tones(chosen, build)
                if told is not None:
                    chosen = self._run(legs, build, told)
            better = self._set(chosen, build, told)
            off = max(abs(better.thigh / build.thigh - 1), abs(better.shin / build.shin - 1))
            moved = math.hypot(better.hip[0] - build.hip[0], better.hip[1] - build.hip[1]) / build.leg
            build = better
            if attempt == 2 or (off < REDONE and moved < REDONE_HIP):
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
                off = np.array([_from(drawn[k].places[f"ankle_{side}"], drawn[k].places[name]) for k in sure])
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
            sheet = self._looking.sheet(index)
            small = poses.Small(sheet, self._body(index), build)
            near, far = (small.ink_of(cover, sheet, build.facing) for cover in self._covers_of(index, told))
            both = np.maximum(1, (legs.covers & (near | far)).sum(axis=1))
            extra[:, 0] += 5.0 * (legs.covers & far & ~near).sum(axis=1) / both
            extra[:, 1] += 2.0 * (legs.covers & near & ~far).sum(axis=1) / both
        hip = build.hip_of(self._body(index))
        for k, side in enumerate(SIDES):
            for joint, places in (("knee", legs.knees), ("ankle", legs.ankles), ("toe", legs.toes)):
                at = self._placed.get(f"{joint}_{side}", {}).get(index)
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

    def _limbs(self, index: int, build: Build, places: Floats, told: Tones | None) -> _Limbs:
        sheet = self._looking.sheet(index)
        covers = (sheet.solid, sheet.solid) if told is None else self._covers_of(index, told)
        return _Limbs.of(sheet, self._body(index), build, places, covers)

    def _set(self, chosen: Sequence[tuple[Pairs, int]], build: Build, told: Tones | None) -> Build:
        """Set all limbs and feet; gives the proportions that they show."""
        limbs = [
            self._limbs(i, build, pairs.of(n) * build.leg, told)
            for i, (pairs, n) in zip(self._seen, chosen, strict=True)
        ]
        wide = {part: _usual_width([a for one in limbs for a in one.across(part)], build) for part in ("thigh", "shin")}
        for one in limbs:
            one.fit(wide)
        hip = _hip_of(limbs, build)
        build = replace(build, hip=hip, wide=wide["thigh"])
        for one in limbs:
            one.place_hip(build)
        for one in limbs:
            one.place_feet(build)
        high = _ankle_height(limbs, build)
        for one in limbs:
            one.place_joints(build, high)
        thigh, shin, foot = _lengths(limbs, build)
        build = replace(build, thigh=thigh, shin=shin, foot=foot)
        for index, one in zip(self._seen, limbs, strict=True):
            one.finish(build, self._found[index])
        return build


def _explained(legs: Legs, pair: tuple[Pairs, int]) -> float:
    """Which share of a drawing's ink its two legs explain, less what they claim that is not there.

    Poses lie on a grid: what lies a pixel or two beside a thin stroke is on it.
    """
    one, other = pair[0].legs[pair[1]]
    side = math.isqrt(len(legs.ink))
    both = (legs.covers[one] | legs.covers[other]).reshape(side, side).astype(np.uint8)
    ink_there = legs.ink.reshape(side, side).astype(np.uint8)
    kernel = np.ones((5, 5), np.uint8)
    near, near_ink = cv2.dilate(both, kernel) > 0, cv2.dilate(ink_there, kernel) > 0
    told = float(np.count_nonzero(near & (ink_there > 0))) / max(1, int(np.count_nonzero(ink_there)))
    return told - float(np.count_nonzero((both > 0) & ~near_ink)) / max(1, int(np.count_nonzero(both)))


def _usual_width(found: Sequence[Across], build: Build) -> float:
    widths = np.concatenate([a.widths for a in found]) if found else np.zeros(0)
    widths = widths[widths < 0.3 * build.leg]
    return float(np.percentile(widths, 40)) if len(widths) else build.wide


@dataclass(slots=True)
class _Leg:
    """One leg on its way from a pose to its landmarks."""

    knee: Place
    ankle: Place
    toe: Place
    cover: Cover
    thigh_across: Across
    shin_across: Across
    thigh: Stretch | None = None
    shin: Stretch | None = None
    foot: Foot | None = None
    foot_alone: bool = True
    joint: Place | None = None
    foot_joint: Place | None = None


class _Limbs:
    """A drawing's two legs, near and far."""

    def __init__(self, sheet: Sheet, body: Ellipse, build: Build, legs: list[_Leg]) -> None:
        self.origin = (sheet.left, sheet.top)
        self.body, self.legs, self.hip = body, legs, build.hip_of(body)

    @classmethod
    def of(cls, sheet: Sheet, body: Ellipse, build: Build, places: Floats, covers: tuple[Cover, Cover]) -> _Limbs:
        """From a pose: ``places`` (2, 3, 2) knees, ankles and toes from the hip, forward and down, px."""
        outside = bodies.without_body(sheet, body, 0.02 * build.leg)
        origin, hip = (sheet.left, sheet.top), build.hip_of(body)
        legs = []
        for leg, cover in zip(places, covers, strict=True):
            knee, ankle, toe = ((hip[0] + build.facing * float(x), hip[1] + float(y)) for x, y in leg)
            alone = np.where(outside, cover, np.float32(0))
            reach = max(0.9 * build.wide + 4, 0.07 * build.leg + build.wide / 2)
            legs.append(
                _Leg(
                    knee,
                    ankle,
                    toe,
                    cover,
                    settle.across(alone, origin, hip, knee, reach),
                    settle.across(alone, origin, knee, ankle, reach, 0.86),
                )
            )
        return cls(sheet, body, build, legs)

    def across(self, part: str) -> list[Across]:
        return [leg.thigh_across if part == "thigh" else leg.shin_across for leg in self.legs]

    def fit(self, wide: Mapping[str, float]) -> None:
        """Both legs' middle lines. Where two limbs lie over each other the same ink is nobody's."""
        for leg in self.legs:
            leg.thigh = settle.stretch(leg.thigh_across, wide["thigh"])
            leg.shin = settle.stretch(leg.shin_across, wide["shin"])
        for part in ("thigh", "shin"):
            one, other = (getattr(leg, part) for leg in self.legs)
            if one is not None and other is not None and self.legs[0].cover is self.legs[1].cover and _same(one, other):
                # One stroke told twice: the leg whose pose lies nearer to it keeps it.
                off = [_off(getattr(leg, part), leg, part) for leg in self.legs]
                setattr(self.legs[int(off[0] <= off[1])], part, None)

    def place_hip(self, build: Build) -> None:
        """Under the body, drawn a little to where the thighs lie; thighs that lead elsewhere tell nothing."""
        guess = build.hip_of(self.body)
        thighs = [leg.thigh for leg in self.legs if leg.thigh and abs(leg.thigh.beside(guess)) < ASTRAY * build.leg]
        at = _drawn_to(guess, thighs, build)
        self.hip = at if _near(at, guess, ASTRAY * build.leg) else guess

    def place_feet(self, build: Build) -> None:
        """Each foot's sole; a foot that the other leg lies over, or beside, does not show by itself."""
        one, other = self.legs
        alike = one.cover is other.cover
        for leg, crossed in ((one, alike), (other, True)):
            ankle = leg.shin.nearest(leg.ankle) if leg.shin else leg.ankle
            leg.foot = feet.foot_of(leg.cover, self.origin, leg.knee, ankle, build.leg, build.wide, build.facing)
            if crossed:
                leg.foot_alone = _clear_of(leg, one if leg is other else other, build)

    def place_joints(self, build: Build, high: float) -> None:
        """Knees where thigh and shin cross, ankles where the shin comes to its height above the sole."""
        for leg in self.legs:
            if leg.thigh and leg.shin and _bend(leg.thigh, leg.shin) > STRAIGHT:
                leg.joint = leg.thigh.crossing(leg.shin)
                if leg.joint is not None and not _near(leg.joint, leg.knee, 0.3 * build.leg):
                    leg.joint = None
            if leg.shin and leg.foot and leg.foot_alone:
                leg.foot_joint = _above_sole(leg.shin, leg.foot, high)
                if leg.foot_joint is not None and not _near(leg.foot_joint, leg.ankle, 0.35 * build.leg):
                    leg.foot_joint = None

    def finish(self, build: Build, into: Drawn) -> None:
        """Hand on every landmark with how sure it is."""
        into.places, into.sure, into.feet, into.firm = {"hip": self.hip}, {"hip": 0.95}, {}, {"hip"}
        for side, leg in zip(SIDES, self.legs, strict=True):
            knee, ankle = _joints(leg, self.hip, build)
            into.places |= {f"knee_{side}": knee, f"ankle_{side}": ankle}
            seen = [s.seen if s else 0.0 for s in (leg.thigh, leg.shin)]
            into.firm |= _firm(side, leg, seen)
            into.sure[f"knee_{side}"] = _sure(max(seen) if leg.joint is None else min(seen), leg.joint is not None)
            into.sure[f"ankle_{side}"] = _sure(seen[1], leg.foot_joint is not None)
            heel, toe, sure = _foot_of(leg, knee, ankle, build)
            into.places |= {f"heel_{side}": heel, f"toe_{side}": toe}
            into.sure |= {f"heel_{side}": sure, f"toe_{side}": sure}
            into.feet[side] = leg.foot if sure >= TOLD else None


def _from(one: Place, other: Place) -> Place:
    return other[0] - one[0], other[1] - one[1]


def _sure(seen: float, crossed: bool) -> float:
    if seen <= 0:
        return 0.3
    return round(min(0.98, 0.45 + 0.45 * min(1.0, 1.6 * seen) + (0.1 if crossed else 0.0)), 3)


def _firm(side: str, leg: _Leg, seen: Sequence[float]) -> set[str]:
    """The joints of a leg that show whole: thigh and shin both show by themselves, and so does the foot."""
    found = set()
    crosses = leg.thigh is not None and leg.shin is not None and _bend(leg.thigh, leg.shin) > CLEARLY_BENT
    if leg.joint is not None and crosses and min(seen) >= WHOLE:
        found.add(f"knee_{side}")
        if leg.foot_joint is not None:
            found.add(f"ankle_{side}")
    return found


def _near(one: Place, other: Place, px: float) -> bool:
    return math.hypot(one[0] - other[0], one[1] - other[1]) <= px


def _clear_of(leg: _Leg, other: _Leg, build: Build) -> bool:
    """Whether a leg's foot lies clear of the other leg, and of its foot."""
    shares = np.linspace(-0.3, 1.1, 15)[:, None]
    foot = np.array(leg.ankle) + shares * (np.array(leg.toe) - np.array(leg.ankle))
    parts = np.linspace(0, 1, 12)[:, None]
    joints = [np.array(p) for p in (other.knee, other.ankle, other.toe)]
    over = np.concatenate([a + parts * (b - a) for a, b in itertools.pairwise(joints)])
    far = np.hypot(foot[:, None, 0] - over[None, :, 0], foot[:, None, 1] - over[None, :, 1])
    return bool(far.min() > build.wide + 0.02 * build.leg)


def _same(one: Stretch, other: Stretch) -> bool:
    """Whether two lines are one stroke's."""
    turned = abs(one.dx * other.dy - one.dy * other.dx)
    return turned < 0.12 and abs(one.beside((other.x, other.y))) < 0.5 * one.wide + 1


def _off(line: Stretch, leg: _Leg, part: str) -> float:
    ends = (leg.knee,) if part == "thigh" else (leg.knee, leg.ankle)
    return max(abs(line.beside(p)) for p in ends)


def _bend(thigh: Stretch, shin: Stretch) -> float:
    turn = thigh.dx * shin.dy - thigh.dy * shin.dx
    return math.degrees(math.atan2(abs(turn), thigh.dx * shin.dx + thigh.dy * shin.dy))


def _drawn_to(guess: Place, thighs: Sequence[Stretch], build: Build) -> Place:
    """A hip as near to its guess as the middle lines of the thighs allow, least squares."""
    firm = (1.0 / max(1.0, 0.012 * build.leg)) ** 2
    matrix, right = firm * np.eye(2), firm * np.array(guess)
    for line in thighs:
        normal = np.array([-line.dy, line.dx])
        matrix += np.outer(normal, normal)
        right += normal * (normal @ np.array([line.x, line.y]))
    x, y = np.linalg.solve(matrix, right)
    return float(x), float(y)


def _hip_of(limbs: Sequence[_Limbs], build: Build) -> Place:
    """Where the thighs' middle lines cross, from the body's centre forward and down: the middle of all drawings."""
    found = []
    for one in limbs:
        thighs = [leg.thigh for leg in one.legs]
        if thighs[0] is None or thighs[1] is None or _bend(thighs[0], thighs[1]) < 22:
            continue
        at = thighs[0].crossing(thighs[1])
        if at is not None and _near(at, one.hip, 0.3 * build.leg):
            found.append((build.facing * (at[0] - one.body.x), at[1] - one.body.y))
    if len(found) < 4:
        return build.hip
    x, y = np.median(np.array(found), axis=0)
    return float(x), float(y)


def _above_sole(shin: Stretch, foot: Foot, high: float) -> Place | None:
    """Where the shin's middle line comes within so many px of the sole."""
    (hx, hy), (tx, ty) = foot.heel, foot.toe
    length = math.hypot(tx - hx, ty - hy)
    if length < 2:
        return None
    normal = (ty - hy) / length, -(tx - hx) / length
    if normal[0] * (shin.x - hx) + normal[1] * (shin.y - hy) < 0:
        normal = -normal[0], -normal[1]
    falls = -(shin.dx * normal[0] + shin.dy * normal[1])
    if falls < 0.3:
        return None
    now = (shin.x - hx) * normal[0] + (shin.y - hy) * normal[1]
    along = (now - high) / falls
    return shin.x + along * shin.dx, shin.y + along * shin.dy


def _ankle_height(limbs: Sequence[_Limbs], build: Build) -> float:
    """How high the ankle is above the sole, px: where shins begin to widen into their feet.

    A foot that is one stroke from the ankle widens it at the stroke's upper edge, and the ankle lies on its middle.
    """
    high, back = [], []
    for one in limbs:
        for leg in one.legs:
            if leg.shin is None or leg.foot is None or not leg.foot_alone:
                continue
            sole = _above_sole(leg.shin, leg.foot, 0.0)
            if sole is None:
                continue
            far = ANKLE_MOST * build.leg
            start = sole[0] - far * leg.shin.dx, sole[1] - far * leg.shin.dy
            along = settle.widening(leg.cover, one.origin, start, sole, leg.shin.wide)
            if along is None:
                continue
            (hx, hy), (tx, ty) = leg.foot.heel, leg.foot.toe
            length = max(1e-6, math.hypot(tx - hx, ty - hy))
            if abs(leg.shin.dx * (tx - hx) + leg.shin.dy * (ty - hy)) > SQUARE * length:
                continue
            back.append(((sole[0] - hx) * (tx - hx) + (sole[1] - hy) * (ty - hy)) / length)
            high.append(along * abs(leg.shin.dx * (ty - hy) - leg.shin.dy * (tx - hx)) / length)
    if len(high) < 3:
        return 0.5 * build.wide
    found = float(np.median(high))
    return found / 2 if float(np.median(back)) < ONE_STROKE * build.leg else found


def _joints(leg: _Leg, hip: Place, build: Build) -> tuple[Place, Place]:
    """Knee and ankle: where lines cross, else on a line that shows, else where the pose has them."""
    ankle = leg.foot_joint or (leg.shin.nearest(leg.ankle) if leg.shin else leg.ankle)
    if leg.joint is not None:
        knee = leg.joint
    elif leg.thigh or leg.shin:
        share = build.thigh / build.leg
        guess = leg.knee
        if leg.thigh and leg.shin:
            guess = hip[0] + share * (ankle[0] - hip[0]), hip[1] + share * (ankle[1] - hip[1])
        lines = [s for s in (leg.thigh, leg.shin) if s]
        for line in lines:
            guess = line.nearest(guess)
        knee = guess
    else:
        knee = leg.knee
    if leg.foot_joint is None and leg.shin is not None:
        # The foot does not tell: the shin is as long as it usually is.
        ankle = knee[0] + build.shin * leg.shin.dx, knee[1] + build.shin * leg.shin.dy
    return knee, ankle


def _foot_of(leg: _Leg, knee: Place, ankle: Place, build: Build) -> tuple[Place, Place, float]:
    """Heel and toe, and how sure they are; below the ankle as usual where the foot does not show by itself."""
    foot = leg.foot
    if foot is not None and leg.foot_alone:
        length = math.hypot(foot.toe[0] - foot.heel[0], foot.toe[1] - foot.heel[1])
        if 0.6 * build.foot <= length <= 1.5 * build.foot:
            return foot.heel, foot.toe, 0.92
    # Where it does not show by itself it lies as the pose has it, its sole a little below its middle.
    away = leg.toe[0] - leg.ankle[0], leg.toe[1] - leg.ankle[1]
    length = max(1e-6, math.hypot(*away))
    ways = build.foot * away[0] / length, build.foot * away[1] / length
    heel = ankle[0] - 0.2 * ways[0], ankle[1] + 0.5 * build.wide
    return heel, (heel[0] + ways[0], heel[1] + ways[1]), 0.3


def _lengths(limbs: Sequence[_Limbs], build: Build) -> tuple[float, float, float]:
    """Thigh, shin and foot: the medians of what shows."""
    thighs, shins, soles = [], [], []
    for one in limbs:
        for leg in one.legs:
            if leg.joint is not None and leg.thigh and leg.shin and _bend(leg.thigh, leg.shin) > 22:
                thighs.append(math.dist(one.hip, leg.joint))
                if leg.foot_joint is not None:
                    shins.append(math.dist(leg.joint, leg.foot_joint))
            if leg.foot is not None and leg.foot_alone:
                soles.append(math.dist(leg.foot.heel, leg.foot.toe))
    return (
        float(np.median(thighs)) if len(thighs) >= 3 else build.thigh,
        float(np.median(shins)) if len(shins) >= 3 else build.shin,
        float(np.median(soles)) if len(soles) >= 3 else build.foot,
    )
