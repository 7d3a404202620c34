"""From a pose to landmarks: limbs on the middle lines of their strokes, knees where these cross, feet by soles."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure import feet, settle
from motion.tracking.subjects.figure.drawn import SIDES, TOLD, Drawn, Place
from motion.tracking.subjects.figure.feet import Foot
from motion.tracking.subjects.figure.ink import Cover, Mask, Sheet
from motion.tracking.subjects.figure.leg import (
    NEARLY_WHOLE,
    WHOLE_SOLE,
    WITHIN_FOOT,
    Leg,
    ankle_by_shin,
    bend,
    firm_joints,
    heel_and_toe,
    is_clear_of,
    is_one_stroke,
    is_told_twice,
    joints_of,
    near,
    off_pose,
    shows_all_along,
    sole_posed,
    surety,
)
from motion.tracking.subjects.figure.poses import Build, Floats
from motion.tracking.subjects.figure.settle import Across

THIGH_TO, SHIN_TO = 0.94, 0.86
"""Up to which share of its length a limb is looked at."""
EDGE_TO, EDGE_STATIONS = 0.97, 40
"""The same for one whose edge alone shows, in so many places: little of it does."""
EDGE_WIDE, EDGE_LONG = 6.0, 0.45
"""Limbs so wide, px, are told by one edge that shows along so much of them."""
STRAIGHT = 14.0
"""Degrees of bend from which a knee is where thigh and shin cross."""
MEET = 0.6
"""Knees lie over each other that are no farther apart than so many widths of a leg."""
HIP_SURE = 0.95
"""How sure a hip is until it is told otherwise, and one to which enough leads."""
NOT_ITS_FOOT = 0.045
"""A foot whose ankle would lie so much of the leg beside the shin is not this leg's."""
OTHERS_SHIN = 0.13
"""Nor is one by which the shin would be so much of the leg longer or shorter than it usually is."""
BY_FOOT = 0.7
"""How sure an ankle is where its foot alone tells it: the shin hides."""
MOST_OF_FOOT = 0.6
"""Of a foot so much must show, and one of its ends, for it to tell where its ankle is."""
BESIDE, OTHERS, MEETS_PX = 0.45, 0.5, 3
"""How sure heel and toe are of a foot that is told from the other leg by its tone, where so much ink that is not its
own comes so near to one of them."""
LONGER_SHIN, LONGER_STATIONS, CLEARLY_LONGER = (0.8, 1.45), 40, 1.07
"""Between such shares of its length it is looked whether a shin goes on, in so many places; clearly longer is one that
does so to the last of these."""
SLIMMER, ASTRAY = 0.5, 0.2
"""It may become so slim, and lie so many of its widths off its line."""


class Limbs:
    """A drawing's two legs, near and far."""

    def __init__(self, sheet: Sheet, body: Ellipse, build: Build, legs: list[Leg]) -> None:
        self.origin = (sheet.left, sheet.top)
        self.body, self.legs, self.hip = body, legs, build.hip_of(body)
        self.hip_sure = HIP_SURE
        self.solids = [sheet.solid for _ in legs]
        """By leg the ink in which it may go on unseen."""
        self.over: int | None = None
        """Which of them is drawn over the body, and told by its lines there."""

    @classmethod
    def of(
        cls,
        sheet: Sheet,
        body: Ellipse,
        build: Build,
        places: Floats,
        covers: tuple[Cover, Cover],
        over: Mask | None = None,
        over_side: int = 0,
    ) -> Limbs:
        """From a pose: ``places`` (2, 3, 2) knees, ankles and toes from the hip, forward and down, px.

        ``over`` is where the one of ``over_side`` is drawn over the body.
        """
        outside = bodies.without_body(sheet, body, 0.02 * build.leg)
        origin, hip = (sheet.left, sheet.top), build.hip_of(body)
        legs = []
        for number, (place, cover) in enumerate(zip(places, covers, strict=True)):
            if number == 0 or cover is not covers[0] or over is not None:
                shows = outside | over if over is not None and number == over_side else outside
                alone = np.where(shows, cover, np.float32(0))
            knee, ankle, toe = ((hip[0] + build.facing * float(x), hip[1] + float(y)) for x, y in place)
            reach = max(0.9 * build.wide + 4, 0.07 * build.leg + build.wide / 2)
            seen = settle.look_across(alone, origin, [(hip, knee, THIGH_TO), (knee, ankle, SHIN_TO)], reach)
            thigh, shin = seen.across()
            leg = Leg(knee, ankle, toe, cover, thigh, shin, seen=seen)
            if not build.foot:
                # Upper arms lie half within the trunk.
                along = settle.look_across(alone, origin, [(hip, knee, EDGE_TO)], reach, EDGE_STATIONS)
                leg.thigh_edge = along.edges(sheet.solid, origin)[0]
            legs.append(leg)
        found = cls(sheet, body, build, legs)
        if over is not None:
            # Where it ends on the body its lines tell, too.
            outside, found.over = bodies.without_body(sheet, body, 0.0), over_side
            found.solids[over_side] = np.where(outside, sheet.solid, covers[over_side])
        return found

    def across(self, part: str) -> list[Across]:
        return [leg.thigh_across if part == "thigh" else leg.shin_across for leg in self.legs]

    def look_alone(self) -> None:
        """Of legs told apart by their tone: what lies across them where both edges are their own."""
        for leg, solid in zip(self.legs, self.solids, strict=True):
            if leg.seen is not None and self.told_apart:
                leg.thigh_across, leg.shin_across = leg.seen.alone(solid, self.origin)

    def fit_edges(self, build: Build, wide: Mapping[str, float], taper: Mapping[str, float]) -> None:
        """Of the same what too little of shows alone, by one edge where the other leg, or the body, hides the other.

        A short edge tells little of which way a limb goes, and of thin strokes none shows by itself.
        """
        for leg, solid in zip(self.legs, self.solids, strict=True):
            if leg.seen is None or not self.told_apart or wide["shin"] < EDGE_WIDE or (leg.thigh and leg.shin):
                continue
            thigh, shin = leg.seen.edges(solid, self.origin)
            if leg.thigh is None:
                across = leg.thigh_across.with_edge(thigh, wide["thigh"], taper["thigh"])
                leg.thigh = settle.stretch(across, wide["thigh"], EDGE_LONG * build.thigh)
                leg.edged = leg.thigh is not None
            if leg.shin is None:
                across = leg.shin_across.with_edge(shin, wide["shin"], taper["shin"])
                leg.shin = settle.stretch(across, wide["shin"], EDGE_LONG * build.shin)
                leg.edged |= leg.shin is not None

    @property
    def told_apart(self) -> bool:
        """Whether each leg has its own tone."""
        return self.legs[0].cover is not self.legs[1].cover

    def fit(self, wide: Mapping[str, float], *, closely: bool = False) -> None:
        """Both legs' middle lines. Where two limbs lie over each other the same ink is nobody's.

        ``closely`` where upper ones merge with what they begin at.
        """
        for leg in self.legs:
            leg.thigh = settle.stretch(leg.thigh_across, wide["thigh"], closely=closely)
            leg.shin = settle.stretch(leg.shin_across, wide["shin"])
        for part in ("thigh", "shin"):
            one, other = (getattr(leg, part) for leg in self.legs)
            if one is not None and other is not None and not self.told_apart and is_one_stroke(one, other):
                # One stroke told twice: the leg whose pose lies nearer to it keeps it.
                off = [off_pose(getattr(leg, part), leg, part) for leg in self.legs]
                setattr(self.legs[int(off[0] <= off[1])], part, None)

    def place_feet(self, build: Build) -> None:
        """Each foot's sole; a foot that the other leg lies over, or beside, does not show by itself."""
        for leg, other in zip(self.legs, self.legs[::-1], strict=True):
            leg.foot_alone, leg.foot_beside = is_clear_of(leg, other, build), False
            leg.foot = leg.foot_joint = None
            if leg.foot_alone or self.told_apart:
                leg.foot = self._foot_at(ankle_by_shin(leg, build), leg, other, build)
                if leg.foot is None and leg.shin is not None:
                    # A shin that is drawn shorter, or longer, ends where its pose has it.
                    leg.foot = self._foot_at(leg.shin.nearest(leg.ankle), leg, other, build)

    def set_ends(self, beyond: tuple[float, float], build: Build) -> None:
        """Heels and toes of feet that show whole, as far within the ends of their outlines as mostly.

        Where feet meet the ground it covers some of their round ends, by which they are told otherwise than in the air.
        """
        for leg in self.legs:
            if leg.foot is not None and leg.foot_alone:
                told = leg.foot.ended(beyond)
                leg.foot = told if abs(told.length / build.foot - 1) <= WHOLE_SOLE else leg.foot

    def join_feet(self, build: Build) -> None:
        """Each foot that shows on both sides of the other leg, in its own tone: how long soles are is known by now."""
        for leg, other, solid in zip(self.legs, self.legs[::-1], self.solids, strict=True):
            whole = leg.foot is not None and abs(leg.foot.length / build.foot - 1) <= WHOLE_SOLE
            if self.told_apart and not (whole or leg.foot_alone):
                joined = self._foot_at(ankle_by_shin(leg, build), leg, other, build, solid)
                if joined is not None and not (other.foot and is_told_twice(joined, other.foot)):
                    leg.foot = joined

    def _foot_at(self, ankle: Place, leg: Leg, other: Leg, build: Build, over: Cover | None = None) -> Foot | None:
        beside = sole_posed(other, WITHIN_FOOT)
        return feet.foot_of(leg.cover, self.origin, leg.joint or leg.knee, ankle, beside, build, over)

    def keep_whole_feet(self, build: Build) -> None:
        """Of feet beside the other leg, told from it by their tone, keep those whose sole shows all along.

        They tell where the ankle is; where exactly heel and toe are they do where these lie clear of the other leg.
        """
        for leg, solid in zip(self.legs, self.solids, strict=True):
            if leg.foot is not None and not leg.foot_alone:
                leg.foot_alone = abs(leg.foot.length / build.foot - 1) <= NEARLY_WHOLE
                others = solid - leg.cover > OTHERS
                leg.foot_beside = self._meets(leg.foot.heel, others) or self._meets(leg.foot.toe, others)

    def extend_feet(self, beyond: tuple[float, float], build: Build) -> None:
        """Feet that go on behind the other leg at one end, from the other one, as long as feet are.

        They tell where the ankle is, and the one end that shows.
        """
        for leg, solid in zip(self.legs, self.solids, strict=True):
            foot = leg.foot
            if foot is None or leg.foot_alone or not self.told_apart or foot.length < MOST_OF_FOOT * build.foot:
                continue
            others = solid - leg.cover > OTHERS
            heel_hides, toe_hides = (self._meets(end, others) for end in (foot.heel, foot.toe))
            if heel_hides == toe_hides:
                continue
            whole = foot.from_end("toe" if heel_hides else "heel", build.foot, beyond)
            if feet.lies_on(solid > OTHERS, whole, self.origin):
                leg.foot, leg.foot_alone, leg.foot_beside = whole, True, True

    def _meets(self, end: Place, others: Mask) -> bool:
        """Whether what is not a foot's own ink comes near to an end of it: then it may go on behind that."""
        column, row = round(end[0] - self.origin[0]), round(end[1] - self.origin[1])
        rows, columns = (slice(max(0, at - MEETS_PX), at + MEETS_PX + 1) for at in (row, column))
        return bool(others[rows, columns].any())

    def place_knees(self, build: Build) -> None:
        """Knees where thigh and shin cross."""
        for leg in self.legs:
            if leg.thigh and leg.shin and bend(leg.thigh, leg.shin) > STRAIGHT:
                leg.joint = leg.thigh.crossing(leg.shin)
                if leg.joint is not None and not near(leg.joint, leg.knee, 0.3 * build.leg):
                    leg.joint = None

    def place_ankles(self, build: Build, ankle: Place) -> None:
        """Ankles where they lie in the foot, so far along the sole from its middle and above it, on the shin's line.

        A foot that would have its ankle elsewhere, or whose sole is much longer or shorter, is another leg's or shows
        in part only.
        """
        for leg in self.legs:
            if leg.foot and leg.foot_alone and shows_all_along(leg.foot, build) and (leg.shin or self.told_apart):
                at = leg.foot.placed(*ankle, leg.knee)
                if leg.shin:
                    leg.foot_alone = abs(leg.shin.beside(at)) <= NOT_ITS_FOOT * build.leg
                    at = leg.shin.nearest(at)
                if leg.joint is not None and abs(math.dist(leg.joint, at) - build.shin) > OTHERS_SHIN * build.leg:
                    leg.foot_alone = False
                if leg.foot_alone and near(at, leg.ankle, 0.35 * build.leg):
                    leg.foot_joint = at
            leg.longer = False
            if leg.foot_joint is None and self.told_apart:
                leg.foot_joint = self._end_of_longer_shin(leg, build)
                leg.longer = leg.foot_joint is not None

    def _end_of_longer_shin(self, leg: Leg, build: Build) -> Place | None:
        """Where a shin whose foot does not show is still to be seen as that, farther from its knee than ankles are.

        So long it is at least; None where it does not go on there by itself, in its own tone.
        """
        if leg.shin is None or leg.joint is None:
            return None
        shin, (x, y) = leg.shin, leg.joint
        start, end = ((x + share * build.shin * shin.dx, y + share * build.shin * shin.dy) for share in LONGER_SHIN)
        seen = settle.look_across(leg.cover, self.origin, [(start, end, 1.0)], shin.wide, LONGER_STATIONS)
        widths, off = seen.high - seen.low, np.abs(seen.high + seen.low) / 2
        own = (widths > SLIMMER * shin.wide) & (widths < settle.WIDTHS[1] * shin.wide) & (off < ASTRAY * shin.wide)
        last = int(np.argmin(own)) - 1 if not own.all() else len(own) - 1
        at = (float(seen.stations[last, 0]), float(seen.stations[last, 1])) if last >= 0 else leg.joint
        return at if math.dist(leg.joint, at) > CLEARLY_LONGER * build.shin else None

    def finish(self, build: Build, into: Drawn) -> None:
        """Hand on every landmark with how sure it is."""
        into.places, into.sure, into.feet = {"hip": self.hip}, {"hip": self.hip_sure}, {}
        into.firm = {"hip"} if self.hip_sure >= TOLD else set()
        for side, leg in zip(SIDES, self.legs, strict=True):
            knee, ankle = joints_of(leg, self.hip, build)
            into.places |= {f"knee_{side}": knee, f"ankle_{side}": ankle}
            seen = [s.seen if s else 0.0 for s in (leg.thigh, leg.shin)]
            if not self._knees_meet(build):
                into.firm |= firm_joints(side, leg, leg.shares_shown(), build)
            # Of a line alone it is not known how far along it a joint lies.
            knee_known = leg.joint or leg.thigh or (leg.shin and leg.foot_joint)
            ankle_known = leg.foot_joint or (leg.shin and (leg.joint or leg.thigh))
            knee_seen, ankle_seen = max(seen) if leg.joint is None else min(seen), seen[1]
            into.sure[f"knee_{side}"] = surety(knee_seen if knee_known else 0.0, crossed=leg.joint is not None)
            into.sure[f"ankle_{side}"] = surety(ankle_seen if ankle_known else 0.0, crossed=leg.foot_joint is not None)
            if leg.shin is None and leg.foot_joint is not None:
                into.sure[f"ankle_{side}"] = BY_FOOT
            heel, toe, sure = heel_and_toe(leg, knee, ankle, build)
            into.places |= {f"heel_{side}": heel, f"toe_{side}": toe}
            sure = min(sure, BESIDE) if leg.foot_beside else sure
            into.sure |= {f"heel_{side}": sure, f"toe_{side}": sure}
            # Of a foot that is told by its tone what shows tells how low it comes at least.
            into.feet[side] = leg.foot if sure >= TOLD or self.told_apart else None

    def _knees_meet(self, build: Build) -> bool:
        """Whether the knees of legs that are drawn alike lie over each other: then it may be one that is told twice."""
        one, other = self.legs
        return not self.told_apart and near(one.joint or one.knee, other.joint or other.knee, MEET * build.wide)
