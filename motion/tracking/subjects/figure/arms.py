"""The arms of a whole figure: posed as legs are, from the neck, then set on the middle lines of their strokes.

Within the trunk and over the legs an arm may lie; what is drawn beside them, and is neither head nor leg, is an arm's.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure import hands, poses, run
from motion.tracking.subjects.figure.drawn import SIDES, Drawn, Place
from motion.tracking.subjects.figure.ink import Cover, Mask, Sheet
from motion.tracking.subjects.figure.limbs import Limbs
from motion.tracking.subjects.figure.looking import Looking
from motion.tracking.subjects.figure.over_trunk import OverTrunk
from motion.tracking.subjects.figure.placed import Help
from motion.tracking.subjects.figure.playing import Playing
from motion.tracking.subjects.figure.poses import Build, Floats, Legs
from motion.tracking.subjects.figure.run import Pairs
from motion.tracking.subjects.figure.trunk import Trunk

LENGTHS = (0.72, 0.79, 0.86, 0.93, 1.0, 1.07, 1.15)
"""How long arms may be, in trunks."""
AS_WELL = 0.03
"""Of arms that explain a drawing to such a share as well as any the shortest are taken."""
SAMPLED = 8
WEIGHT = 3.0
"""Of arms little shows beside the trunk: that counts so many times as much as what shows of legs."""
DIMMED = 0.7
"""Where trunk or legs are drawn, an arm is so much less likely than where nothing else is."""
LEGS_GROWN, TRUNK_GROWN = 1.5, 1.15
"""What lies within so many widths of a leg, or of the trunk, is that."""
THINNER = 0.8
"""Arms are often drawn thinner than legs."""
SHOWN, LEAST_SHOWN = 0.5, 0.12
"""There are arms where of what they take beside trunk and legs so much is drawn, and that is so much of them."""
OVER = 3.0
"""What an arm costs that lies wholly where the other one is drawn over the trunk."""
WITH_LEG = 1.5
"""Where sides are drawn alike, what an arm costs that is in front with the leg of its own side."""
ATTEMPTS, REDONE = 3, 0.08
"""Where arms turn out to be longer or shorter by so much, or to hang so much of an arm elsewhere, poses are looked for
again."""
KNEES = ("knee", "ankle", "heel", "toe")
Sided = Callable[[int], tuple[Cover, Cover]]
"""By a drawing's index near and far ink."""


@dataclass(frozen=True, kw_only=True)
class Around:
    """What arms are looked for in: the clip's drawings with trunks and legs set, and how near and far ink is told.

    ``sided`` is None where both sides are drawn alike.
    """

    looking: Looking
    found: Sequence[Drawn]
    seen: Sequence[int]
    playing: Playing
    legs: Build
    trunk: Trunk
    sided: Sided | None
    helped: Help

    @cached_property
    def over(self) -> OverTrunk:
        """Where an arm is drawn over the trunk."""
        return OverTrunk(self.looking, self.found, self.seen, self.trunk, self.legs.wide)

    @cached_property
    def over_side(self) -> int:
        """Which arm that is: the near one; of alike ones the one that goes against the leg of its side."""
        if self.sided is not None:
            return 0
        with_near = 0.0
        for index in self.seen:
            arm, places = self.over.of(index), self.found[index].places
            if arm is not None:
                rows, columns = np.nonzero(arm)
                lower = columns[rows >= np.percentile(rows, 75)].mean() + self.looking.sheet(index).left
                neck, _ = _build(self, 1.0).hip_of(_trunk_of(self.found[index]))
                with_near += (lower - neck) * (places["ankle_near"][0] - places["ankle_far"][0])
        return int(with_near > 0)


def set_arms(around: Around) -> None:
    """Set neck, elbows and hands of every drawing; without arms only its neck."""
    build = _first_guess(around)
    neck = build.hip
    for _ in range(ATTEMPTS):
        smalls = {i: _small(around, i, build) for i in around.seen}
        search = poses.Search(build, poses.ARMS)
        arms = {i: _arms_of(around, i, small, search, build) for i, small in smalls.items()}
        pairs = {i: run.pairs_of(own, build.leg, _extra(around, i, own, build), WEIGHT) for i, own in arms.items()}
        chosen = run.chosen_in(pairs, around.playing)
        if not _are_there(smalls, chosen, build):
            for drawn in (around.found[i] for i in chosen):
                hands.set_above(drawn, build.hip_of(_trunk_of(drawn)))
            return
        limbs = {i: _limbs(around, i, pair, build) for i, pair in chosen.items()}
        told = hands.set_on(list(limbs.values()), build, neck)
        moved = math.dist(told.hip, build.hip) / build.leg
        alike, build = max(abs(told.leg / build.leg - 1), moved) < REDONE, told
        if alike:
            break
    for index, one in limbs.items():
        hands.finish(one, build, around.found[index])


def _build(around: Around, times: float) -> Build:
    trunk, legs = around.trunk, around.legs
    long = times * math.dist(trunk.neck, trunk.hip)
    return Build(
        hip=(legs.facing * trunk.neck[0], trunk.neck[1]),
        thigh=long / 2,
        shin=long / 2,
        foot=0.0,
        wide=THINNER * legs.wide,
        facing=legs.facing,
        tilt=trunk.tilt,
    )


def _first_guess(around: Around) -> Build:
    """Arms as long as a person placed them, else as explains most of what some drawings show."""
    upper, fore = (around.helped.between(one, other) for one, other in (("neck", "elbow"), ("elbow", "hand")))
    if upper and fore:
        return replace(_build(around, 1.0), thigh=upper, shin=fore)
    count = len(around.seen)
    some = [around.seen[round(k)] for k in np.linspace(0, count - 1, min(SAMPLED, count))]
    builds = [_build(around, times) for times in LENGTHS]
    costs = [_cost(around, own, some) for own in builds]
    # Longer ones explain what is carried as well.
    return next(own for own, cost in zip(builds, costs, strict=True) if cost <= min(costs) + AS_WELL)


def _cost(around: Around, build: Build, some: Sequence[int]) -> float:
    """How much of the ink of some drawings two arms leave unexplained, and how much they claim that is not there."""
    search, costs = poses.Search(build, poses.COARSE_ARMS), []
    for index in some:
        small = _small(around, index, build)
        arms = search.legs_of(small)
        one, other = np.unravel_index(int(arms.pair_costs.argmin()), arms.pair_costs.shape)
        both = arms.covers[one] | arms.covers[other]
        ink = poses.bits(small.ink)
        near = poses.bits(small.around(small.solid))
        claimed = float(poses.count(both & ~near)) / max(1.0, float(poses.count(both)))
        costs.append(float(poses.count(ink & ~both)) / max(1.0, float(poses.count(ink))) + claimed)
    return float(np.mean(costs))


def _arms_of(around: Around, index: int, small: poses.Small, search: poses.Search, build: Build) -> Legs:
    """Single arms that a drawing allows. Behind a trunk over which the near arm is drawn the far one goes unseen."""
    arms = search.legs_of(small)
    if around.over.of(index) is None:
        return arms
    return arms.with_others(search.legs_of(_small(around, index, build, over=False)))


def _small(around: Around, index: int, build: Build, *, over: bool = True) -> poses.Small:
    """A drawing's ink around the neck, what is head, trunk or leg taken off; with what is drawn ``over`` the trunk."""
    drawn = around.found[index]
    small = poses.Small(
        around.looking.sheet(index), _trunk_of(drawn), build, [drawn.head] if drawn.head is not None else []
    )
    lines = [
        [drawn.places[n] for n in ("hip", *(f"{joint}_{side}" for joint in KNEES), f"ankle_{side}")] for side in SIDES
    ]
    legs = small.drawn(lines, LEGS_GROWN * around.legs.wide) > 0
    trunk = small.drawn([[build.hip_of(_trunk_of(drawn)), drawn.places["hip"]]], TRUNK_GROWN * around.trunk.wide) > 0
    arm = around.over.of(index) if over else None
    if arm is not None:
        shown = small.ink_of(arm.astype(np.float32))
        small.show_over(shown)
        trunk &= ~shown
    small.count_thin(build.wide)
    small.covered = legs | trunk | small.hidden
    small.ink &= ~small.covered
    small.dim(small.covered, DIMMED)
    return small


def _trunk_of(drawn: Drawn) -> Ellipse:
    if drawn.body is None:
        raise ValueError("a drawing without a trunk has no arms")
    return drawn.body


def _extra(around: Around, index: int, arms: Legs, build: Build) -> Floats:
    """(k, 2) what each arm costs as the near one and as the far one, by its tone and by what a person placed."""
    extra = np.zeros((len(arms), 2))
    small = arms.small
    if around.sided is not None:
        near, far = (small.ink_of(cover) & ~small.covered for cover in around.sided(index))
        either = near | far
        extra[:, 0] += 5.0 * arms.share_off(near, either)
        extra[:, 1] += 3.0 * arms.share_off(far, either)
    else:
        # In a walk arms swing against the legs: that tells alike ones apart where they pass behind the trunk.
        feet = around.found[index].places
        ahead = build.facing * (feet["ankle_near"][0] - feet["ankle_far"][0]) / around.legs.leg
        forward = arms.ankles[:, 0] / build.leg
        extra[:, 0] += WITH_LEG * np.maximum(0.0, ahead * forward)
        extra[:, 1] += WITH_LEG * np.maximum(0.0, -ahead * forward)
    if small.over is not None:
        extra[:, 1 - around.over_side] += OVER * arms.share_within(small.over)
    neck = build.hip_of(_trunk_of(around.found[index]))
    for k, side in enumerate(SIDES):
        for joint, places in (("elbow", arms.knees), ("hand", arms.ankles)):
            at = around.helped.at(f"{joint}_{side}", index)
            if at is not None:
                own = np.array([build.facing * (at[0] - neck[0]), at[1] - neck[1]])
                extra[:, k] += np.minimum(40.0, 60.0 * np.hypot(*(places - own).T) / build.leg)
    return extra


def _are_there(smalls: Mapping[int, poses.Small], chosen: Mapping[int, tuple[Pairs, int]], build: Build) -> bool:
    """Whether arms are drawn at all."""
    shown, taken = [], []
    for index, small in smalls.items():
        pairs, number = chosen[index]
        lines = [np.concatenate([np.zeros((1, 2)), arm[:2]]) for arm in pairs.of(number) * build.leg]
        both = small.drawn_from_root(lines) > 0
        beside = both & ~small.covered
        drawn = beside & small.around(small.solid)
        shown.append(float(np.count_nonzero(drawn)) / max(1, int(np.count_nonzero(beside))))
        taken.append(float(np.count_nonzero(drawn)) / max(1, int(np.count_nonzero(both))))
    return float(np.median(shown)) >= SHOWN and float(np.percentile(taken, 75)) >= LEAST_SHOWN


def _limbs(around: Around, index: int, pair: tuple[Pairs, int], build: Build) -> Limbs:
    sheet, drawn = around.looking.sheet(index), around.found[index]
    covers = (sheet.solid, sheet.solid) if around.sided is None else around.sided(index)
    outside = _beside_trunk(sheet, drawn, build, around.trunk.wide)
    over = around.over.of(index)
    near = np.where(outside if over is None else outside | over, covers[0], np.float32(0))
    covers = (near, near if covers[1] is covers[0] else np.where(outside, covers[1], np.float32(0)))
    pairs, number = pair
    return Limbs.of(sheet, _trunk_of(drawn), build, pairs.of(number) * build.leg, covers, over, around.over_side)


def _beside_trunk(sheet: Sheet, drawn: Drawn, build: Build, wide: float) -> Mask:
    """Where a drawing's ink is neither its trunk's nor its head's."""
    trunk = np.zeros(sheet.cover.shape, np.uint8)
    ends = np.array([build.hip_of(_trunk_of(drawn)), drawn.places["hip"]]) - np.array([sheet.left, sheet.top])
    cv2.polylines(trunk, [np.rint(ends).astype(np.int32).reshape(-1, 1, 2)], False, 1, max(1, round(wide + 1)))
    outside = np.asarray(trunk == 0)
    return outside if drawn.head is None else np.asarray(outside & bodies.without_body(sheet, drawn.head, 1.0))


def lines_of(drawn: Drawn) -> list[list[Place]]:
    """A drawing's arms as lines from the neck to the hands; none where it has none."""
    chains = [("neck", f"elbow_{side}", f"hand_{side}") for side in SIDES]
    return [[drawn.places[n] for n in names] for names in chains if all(n in drawn.places for n in names)]
