"""The arms of a whole figure: posed as legs are, from the neck, and set on the middle lines of their strokes.

Within the trunk and over the legs an arm may lie; what is drawn beside them, and is neither head nor leg, is an arm's.
A hand is where the stroke of its forearm ends.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from motion.tracking.ellipse import Ellipse
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure import poses, run
from motion.tracking.subjects.figure.drawn import SIDES, Drawn, Place
from motion.tracking.subjects.figure.ink import Cover, Mask, Sheet
from motion.tracking.subjects.figure.limbs import Leg, Limbs, hip_of, joints_of, measured, surety
from motion.tracking.subjects.figure.looking import Looking
from motion.tracking.subjects.figure.placed import Help
from motion.tracking.subjects.figure.playing import Playing
from motion.tracking.subjects.figure.poses import Build, Floats, Legs
from motion.tracking.subjects.figure.run import Pairs
from motion.tracking.subjects.figure.settle import Across, Stretch
from motion.tracking.subjects.figure.trunk import Trunk

LENGTHS = (0.72, 0.86, 1.0, 1.15)
"""How long arms may be, in trunks."""
SAMPLED = 10
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
BEYOND, WITHIN = 1.5, 0.45
"""A forearm's end is looked for between so many of its lengths; what ends elsewhere than mostly is carried."""
OTHER_END, OTHER_END_HIDDEN, ASIDE = 0.45, 0.1, 0.75
"""What ends by so much otherwise is left out (the latter where an arm does not show whole), and what has ink so many
widths beside it near its end."""
WITH_LEG = 1.5
"""Where sides are drawn alike, what an arm costs that is in front with the leg of its own side."""
NECK_LOOSE = 0.03
"""The neck lies so much of an arm from where the trunk begins."""
ATTEMPTS, REDONE = 3, 0.08
"""Where arms turn out to be longer or shorter by so much, poses are looked for again."""
FEWEST = 3
"""So many hands tell how long arms are."""
LEAST_WIDE, ALIKE_WIDE, FEWEST_WIDTHS = 1.0, 0.08, 12
"""Widths that differ by no more than such a share are alike; of those under so many px, and of few, nothing is told."""
ALIKE = (0.6, 1.6)
"""Upper arms are between so many times as long as forearms."""
WHOLE = 0.5
BENT = 20.0
KNEES = ("knee", "ankle", "heel", "toe")
Sided = Callable[[int], tuple[Cover, Cover]]
"""By a drawing's index near and far ink."""


@dataclass(frozen=True, slots=True, kw_only=True)
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


def set_arms(around: Around) -> None:
    """Set neck, elbows and hands of every drawing; without arms only its neck."""
    build = _first_guess(around)
    for attempt in range(ATTEMPTS):
        smalls = {i: _small(around, i, build) for i in around.seen}
        search = poses.Search(build, poses.ARMS)
        arms = {i: search.legs_of(small) for i, small in smalls.items()}
        pairs = {i: run.pairs_of(own, build.leg, _extra(around, i, own, build), WEIGHT) for i, own in arms.items()}
        chosen = run.chosen_in(pairs, around.playing)
        if not _are_there(smalls, chosen, build):
            for drawn in (around.found[i] for i in chosen):
                _set_above(drawn, build.hip_of(_trunk_of(drawn)))
            return
        limbs = {i: _limbs(around, i, pair, build) for i, pair in chosen.items()}
        told = _set(around, list(limbs.values()), build)
        alike = abs(told.leg / build.leg - 1) < REDONE
        build = told
        if alike or attempt + 1 == ATTEMPTS:
            break
    for index, one in limbs.items():
        _finish(one, build, around.found[index])


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
    return min((_build(around, t) for t in LENGTHS), key=lambda own: _cost(around, own, some))


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


def _small(around: Around, index: int, build: Build) -> poses.Small:
    """A drawing's ink around the neck, what is head, trunk or leg taken off."""
    drawn = around.found[index]
    small = poses.Small(
        around.looking.sheet(index), _trunk_of(drawn), build, [drawn.head] if drawn.head is not None else []
    )
    lines = [
        [drawn.places[n] for n in ("hip", *(f"{joint}_{side}" for joint in KNEES), f"ankle_{side}")] for side in SIDES
    ]
    legs = small.drawn(lines, LEGS_GROWN * around.legs.wide) > 0
    trunk = small.drawn([[build.hip_of(_trunk_of(drawn)), drawn.places["hip"]]], TRUNK_GROWN * around.trunk.wide) > 0
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
    near = np.where(outside, covers[0], np.float32(0))
    covers = (near, near if covers[1] is covers[0] else np.where(outside, covers[1], np.float32(0)))
    pairs, number = pair
    return Limbs.of(sheet, _trunk_of(drawn), build, pairs.of(number) * build.leg, covers)


def _beside_trunk(sheet: Sheet, drawn: Drawn, build: Build, wide: float) -> Mask:
    """Where a drawing's ink is neither its trunk's nor its head's."""
    trunk = np.zeros(sheet.cover.shape, np.uint8)
    ends = np.array([build.hip_of(_trunk_of(drawn)), drawn.places["hip"]]) - np.array([sheet.left, sheet.top])
    cv2.polylines(trunk, [np.rint(ends).astype(np.int32).reshape(-1, 1, 2)], False, 1, max(1, round(wide + 1)))
    outside = np.asarray(trunk == 0)
    return outside if drawn.head is None else np.asarray(outside & bodies.without_body(sheet, drawn.head, 1.0))


def _set(around: Around, limbs: Sequence[Limbs], build: Build) -> Build:
    """Set upper arms, elbows and hands; gives the proportions that they show."""
    wide = {part: _usual_width([a for one in limbs for a in one.across(part)], build) for part in ("thigh", "shin")}
    # No upper arm is thinner than its forearm.
    wide["thigh"] = max(wide.values())
    for one in limbs:
        one.fit(wide)
        one.place_knees(build)
    build = replace(build, hip=hip_of(limbs, build, NECK_LOOSE), wide=wide["thigh"])
    for one in limbs:
        one.place_hip(build)
        for leg in one.legs:
            leg.foot_joint = _hand(leg, one.origin, build, wide["shin"])
    _leave_other_ends(limbs, build)
    thigh, shin = _lengths(limbs, build)
    return replace(build, thigh=thigh, shin=shin)


def _usual_width(found: Sequence[Across], build: Build) -> float:
    """The width that shows most often, px: beside the trunk slivers of arms show, as wide as it happens."""
    widths = np.sort(np.concatenate([a.widths for a in found])) if found else np.zeros(0)
    widths = widths[(widths >= LEAST_WIDE) & (widths < 0.3 * build.leg)]
    if len(widths) < FEWEST_WIDTHS:
        return build.wide
    alike = np.searchsorted(widths, widths * (1 + ALIKE_WIDE)) - np.searchsorted(widths, widths / (1 + ALIKE_WIDE))
    return float(widths[int(alike.argmax())])


def _leave_other_ends(limbs: Sequence[Limbs], build: Build) -> None:
    """Leave hands that are not as far from their elbows as mostly: something is carried there, or lies over them."""
    upper = measured(limbs)[0] or build.thigh
    ends = [
        (leg, math.dist(_elbow(leg, one.hip, upper), leg.foot_joint))
        for one in limbs
        for leg in one.legs
        if leg.foot_joint is not None
    ]
    usual = float(np.median([far for _, far in ends])) if len(ends) >= FEWEST else build.shin
    for leg, far in ends:
        if abs(far / usual - 1) > (OTHER_END if _shows_whole(leg) else OTHER_END_HIDDEN):
            leg.foot_joint = None


def _elbow(leg: Leg, neck: Place, upper: float) -> Place:
    """Where both parts of an arm cross; else on its forearm's line as far from the neck as an upper arm is long."""
    if leg.joint is not None or leg.shin is None:
        return leg.joint or leg.knee
    x, y = leg.shin.nearest(neck)
    beside = math.dist((x, y), neck)
    if beside >= upper:
        return leg.shin.nearest(leg.knee)
    along = math.sqrt(upper**2 - beside**2)
    ends = [(x + way * along * leg.shin.dx, y + way * along * leg.shin.dy) for way in (-1, 1)]
    return min(ends, key=lambda end: math.dist(end, leg.knee))


def _lengths(limbs: Sequence[Limbs], build: Build) -> tuple[float, float]:
    """Upper arm and forearm: as they show where elbows are bent; both together as far as hands are along them."""
    upper, fore = measured(limbs)
    along = [
        math.dist(one.hip, elbow) + math.dist(elbow, leg.foot_joint)
        for one in limbs
        for leg in one.legs
        if leg.foot_joint is not None and (elbow := leg.joint or leg.knee)
    ]
    both = float(np.median(along)) if len(along) >= FEWEST else (upper or build.thigh) + (fore or build.shin)
    if upper is None and fore is None:
        return both * build.thigh / build.leg, both * build.shin / build.leg
    upper = upper or both - (fore or 0.0)
    fore = fore or both - upper
    return (upper, fore) if ALIKE[0] < upper / max(1e-6, fore) < ALIKE[1] else (both / 2, both / 2)


def _hand(leg: Leg, origin: Place, build: Build, wide: float) -> Place | None:
    """Where a forearm's stroke ends, less its round end; None where it goes on into something else."""
    if leg.shin is None:
        return None
    elbow = leg.shin.nearest(leg.joint or leg.knee)
    along = np.arange(WITHIN * build.shin, BEYOND * build.shin, 0.5)
    points = np.array(elbow) + along[:, None] * np.array([leg.shin.dx, leg.shin.dy]) - np.array(origin)
    x, y = np.ascontiguousarray(points.T, dtype=np.float32)
    inked = cv2.remap(leg.cover, x[None], y[None], cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)[0]
    over = np.flatnonzero(inked < 0.5)
    if not len(over) or over[0] == 0:
        return None
    k = int(over[0])
    if not _ends_free(leg, elbow, float(along[k]) - wide, wide, origin):
        return None
    far = along[k - 1] + 0.5 * (inked[k - 1] - 0.5) / max(1e-6, float(inked[k - 1] - inked[k])) - wide / 2
    return elbow[0] + far * leg.shin.dx, elbow[1] + far * leg.shin.dy


def _ends_free(leg: Leg, elbow: Place, far: float, wide: float, origin: Place) -> bool:
    """Whether just before its end a forearm is as wide as it is: else it goes over something else."""
    if leg.shin is None:
        return False
    aside = np.array([-ASIDE * wide - 1, ASIDE * wide + 1])
    x = elbow[0] + far * leg.shin.dx - aside * leg.shin.dy - origin[0]
    y = elbow[1] + far * leg.shin.dy + aside * leg.shin.dx - origin[1]
    beside = cv2.remap(
        leg.cover, x[None].astype(np.float32), y[None].astype(np.float32), cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT,
    )[0]  # fmt: skip
    return bool((beside < 0.5).all())


def _set_above(into: Drawn, neck: Place) -> None:
    """Hand on neck and head."""
    into.places["neck"], into.sure["neck"] = neck, 0.9
    if into.head is not None:
        into.places["head"], into.sure["head"] = (into.head.x, into.head.y), 0.95
        into.firm.add("head")


def _finish(limbs: Limbs, build: Build, into: Drawn) -> None:
    """Hand on neck, head, elbows and hands with how sure each is."""
    _set_above(into, limbs.hip)
    into.firm.add("neck")
    for side, leg in zip(SIDES, limbs.legs, strict=True):
        elbow, hand = joints_of(leg, limbs.hip, build)
        seen = [s.seen if s else 0.0 for s in (leg.thigh, leg.shin)]
        elbow_known = leg.joint or leg.thigh or (leg.shin and leg.foot_joint)
        hand_known = leg.foot_joint or (leg.shin and (leg.joint or leg.thigh))
        into.places |= {f"elbow_{side}": elbow, f"hand_{side}": hand}
        into.sure[f"elbow_{side}"] = surety(
            (max(seen) if leg.joint is None else min(seen)) if elbow_known else 0.0, crossed=leg.joint is not None
        )
        into.sure[f"hand_{side}"] = surety(seen[1] if hand_known else 0.0, crossed=leg.foot_joint is not None)
        if _shows_whole(leg):
            into.firm.add(f"elbow_{side}")
            if leg.foot_joint is not None:
                into.firm.add(f"hand_{side}")


def _shows_whole(leg: Leg) -> bool:
    """Whether both parts of an arm show by themselves, and its elbow is clearly bent."""
    if leg.joint is None or leg.thigh is None or leg.shin is None:
        return False
    return min(leg.thigh.seen, leg.shin.seen) >= WHOLE and _turns(leg.thigh, leg.shin)


def _turns(upper: Stretch, fore: Stretch) -> bool:
    """Whether an elbow is clearly bent."""
    turn = abs(upper.dx * fore.dy - upper.dy * fore.dx)
    return math.degrees(math.atan2(turn, upper.dx * fore.dx + upper.dy * fore.dy)) > BENT


def lines_of(drawn: Drawn) -> list[list[Place]]:
    """A drawing's arms as lines from the neck to the hands; none where it has none."""
    chains = [("neck", f"elbow_{side}", f"hand_{side}") for side in SIDES]
    return [[drawn.places[n] for n in names] for names in chains if all(n in drawn.places for n in names)]
