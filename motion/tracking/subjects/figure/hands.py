"""Elbows and hands set on the middle lines of arms' strokes: how wide and how long arms are, and where hands end.

A hand is where the stroke of its forearm ends, as far along it as hands mostly are.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from motion.ranks import median
from motion.tracking.subjects.figure import body as bodies
from motion.tracking.subjects.figure import settle
from motion.tracking.subjects.figure.drawn import HIDDEN, SIDES, Drawn, Place
from motion.tracking.subjects.figure.hips import place_hip
from motion.tracking.subjects.figure.ink import Cover
from motion.tracking.subjects.figure.leg import Leg, joints_of, surety
from motion.tracking.subjects.figure.limbs import EDGE_STATIONS, Limbs
from motion.tracking.subjects.figure.poses import Build
from motion.tracking.subjects.figure.settle import Across, Stretch
from motion.tracking.subjects.figure.together import LEAST_TAPER, MOST_TAPER, measured, neck_of

BEYOND, WITHIN = 1.5, 0.45
"""A forearm's end is looked for between so many of its lengths; what ends elsewhere than mostly is carried."""
BEYOND_END = (2, 5)
"""From so many half px beyond its end to so many there must be none, or it goes on in other ink."""
OTHER_END, OTHER_END_HIDDEN, ASIDE = 0.45, 0.1, 0.75
"""What ends by so much otherwise is left out (the latter where an arm does not show whole), and what has ink so many
widths beside it near its end."""
THIN, THIN_ASIDE, FADED = 4.0, 0.75, 0.35
"""Of strokes thinner than so many px so much of one is ink, so far beside their middle as well."""
FEWEST = 3
"""So many hands tell how long arms are."""
LEAST_WIDE, ALIKE_WIDE, FEWEST_WIDTHS = 1.0, 0.08, 12
"""Widths that differ by no more than such a share are alike; of those under so many px, and of few, nothing is told."""
EDGE_PX = 6.0
"""Upper arms are laid by an edge that shows for so many px."""
ALIKE = (0.6, 1.6)
"""Upper arms are between so many times as long as forearms."""
AS_LONG = 0.05
"""An arm that is told by its lines over the trunk is believed if both its parts are as long as mostly to this."""
WHOLE, BENT = 0.5, 20.0
"""An arm shows whole of which so much shows by itself, and whose elbow is bent by so many degrees."""


def set_on(limbs: Sequence[Limbs], build: Build, neck: Place) -> Build:
    """Set upper arms, elbows and hands; gives the proportions that they show.

    ``neck`` is where the trunk seems to end, from its centre, forward and down.
    """
    taper = _straighten(limbs)
    wide = {part: _commonest_width([a for one in limbs for a in one.across(part)], build) for part in ("thigh", "shin")}
    at_elbow, at_wrist = (wide["shin"] * (1 + share * taper) for share in (-0.5, 0.5))
    # No upper arm is thinner than its forearm.
    wide["thigh"] = max(wide["thigh"], at_elbow)
    for one in limbs:
        one.fit(wide, closely=True)
    _lay_by_edges(limbs, at_elbow)
    for one in limbs:
        one.place_knees(build)
    build = replace(build, hip=neck_of(limbs, build, neck), wide=wide["thigh"])
    for one in limbs:
        place_hip(one, build)
        for leg, solid in zip(one.legs, one.solids, strict=True):
            leg.foot_joint = _hand(leg, one.origin, build, at_wrist, solid)
    _leave_other_ends(limbs, build)
    thigh, shin = _lengths(limbs, build)
    for leg in (leg for one in limbs for leg in one.legs if leg.by_edge and leg.foot_joint is not None):
        # How long arms are it tells; where its own elbow is the forearm and the hand do better.
        leg.thigh = leg.joint = None
    return replace(build, thigh=thigh, shin=shin)


def _straighten(limbs: Sequence[Limbs]) -> float:
    """Take arms that taper as if each part were as wide all along as in its middle; gives by how much forearms do.

    Beside the trunk upper arms show more and more of themselves, and seem to grow wider.
    """
    told = {
        part: [t for one in limbs for across in one.across(part) if (t := across.taper) is not None]
        for part in ("thigh", "shin")
    }
    usual = {part: median(np.array(own)) if len(own) >= FEWEST else 0.0 for part, own in told.items()}
    fore = max(-MOST_TAPER, usual["shin"]) if usual["shin"] <= -LEAST_TAPER else 0.0
    upper = max(-MOST_TAPER, usual["thigh"]) if usual["thigh"] <= -LEAST_TAPER else fore
    for leg in (leg for one in limbs for leg in one.legs):
        leg.thigh_across = leg.thigh_across.straightened(upper)
        leg.shin_across = leg.shin_across.straightened(fore)
    return fore


def _lay_by_edges(limbs: Sequence[Limbs], wide: float) -> None:
    """Lay upper arms that are half within the trunk by the edge that shows."""
    for leg in (leg for one in limbs for leg in one.legs):
        if leg.thigh is None and leg.thigh_edge is not None:
            leg.thigh = settle.stretch(leg.thigh_edge.across(wide), wide, EDGE_PX, of=EDGE_STATIONS)
            leg.by_edge = leg.thigh is not None


def _commonest_width(found: Sequence[Across], build: Build) -> float:
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
    if leg.shin is None or (leg.joint is not None and not leg.by_edge):
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


def _hand(leg: Leg, origin: Place, build: Build, wide: float, solid: Cover) -> Place | None:
    """Where a forearm's stroke ends, less its round end; None where it goes on into something else.

    It may hide in what else is ``solid`` ink.
    """
    if leg.shin is None:
        return None
    elbow = leg.shin.nearest(leg.joint or leg.knee)
    along = np.arange(WITHIN * build.shin, BEYOND * build.shin, 0.5)
    points = np.array(elbow) + along[:, None] * np.array([leg.shin.dx, leg.shin.dy]) - np.array(origin)
    # A line as thin as a px or two is met on one side of its middle as well as on it, and fades.
    aside = np.array([[0.0], [-THIN_ASIDE], [THIN_ASIDE]] if wide < THIN else [[0.0]])
    x, y = ((points[:, k] + aside * (-leg.shin.dy, leg.shin.dx)[k]).astype(np.float32) for k in (0, 1))
    inked = cv2.remap(leg.cover, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT).max(axis=0)
    edge = FADED if wide < THIN else 0.5
    ends = np.flatnonzero(inked < edge)
    if not len(ends) or ends[0] == 0:
        return None
    k = int(ends[0])
    if not _ends_free(leg, elbow, float(along[k]) - wide, wide, origin):
        return None
    if any(_is_solid(solid, at) for at in points[k + BEYOND_END[0] : k + BEYOND_END[1]]):
        return None
    far = along[k - 1] + 0.5 * (inked[k - 1] - edge) / max(1e-6, float(inked[k - 1] - inked[k])) - wide / 2
    return elbow[0] + far * leg.shin.dx, elbow[1] + far * leg.shin.dy


def _is_solid(solid: Cover, at: NDArray[np.float64]) -> bool:
    """Whether there is ink at a place in a drawing's sheet."""
    x, y = round(float(at[0])), round(float(at[1]))
    return 0 <= y < solid.shape[0] and 0 <= x < solid.shape[1] and bool(solid[y, x] > 0.5)


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


def set_above(into: Drawn, neck: Place) -> None:
    """Hand on neck and head."""
    into.places["neck"], into.sure["neck"] = neck, 0.9
    if into.head is not None:
        into.places["head"], into.sure["head"] = (into.head.x, into.head.y), 0.95
        into.firm.add("head")


def finish(limbs: Limbs, build: Build, into: Drawn) -> None:
    """Hand on neck, head, elbows and hands with how sure each is."""
    set_above(into, limbs.hip)
    into.firm.add("neck")
    for number, (side, leg) in enumerate(zip(SIDES, limbs.legs, strict=True)):
        elbow, hand = joints_of(leg, limbs.hip, build)
        seen = [s.seen if s else 0.0 for s in (leg.thigh, leg.shin)]
        elbow_known = leg.joint or leg.thigh or (leg.shin and leg.foot_joint)
        hand_known = leg.foot_joint or (leg.shin and (leg.joint or leg.thigh) and not leg.by_edge)
        into.places |= {f"elbow_{side}": elbow, f"hand_{side}": hand}
        into.sure[f"elbow_{side}"] = surety(
            (max(seen) if leg.joint is None else min(seen)) if elbow_known else 0.0, crossed=leg.joint is not None
        )
        into.sure[f"hand_{side}"] = surety(seen[1] if hand_known else 0.0, crossed=leg.foot_joint is not None)
        if number == limbs.over and not _as_long(limbs.hip, elbow, hand, build):
            for name in (f"elbow_{side}", f"hand_{side}"):
                into.sure[name] = min(into.sure[name], HIDDEN)
        elif _shows_whole(leg):
            into.firm.add(f"elbow_{side}")
            if leg.foot_joint is not None and not _on_trunk(limbs, hand, build):
                into.firm.add(f"hand_{side}")


def _as_long(neck: Place, elbow: Place, hand: Place, build: Build) -> bool:
    """Whether upper arm and forearm are as long as they mostly are."""
    parts = math.dist(neck, elbow) / build.thigh, math.dist(elbow, hand) / build.shin
    return all(abs(part - 1) <= AS_LONG for part in parts)


def _on_trunk(limbs: Limbs, at: Place, build: Build) -> bool:
    """Whether a hand lies on the trunk, or so near that its end meets the trunk's edge: lines tell it less exactly."""
    dx, dy = (np.array([own - middle]) for own, middle in zip(at, (limbs.body.x, limbs.body.y), strict=True))
    return bool(bodies.within(limbs.body, dx, dy, build.wide)[0])


def _shows_whole(leg: Leg) -> bool:
    """Whether both parts of an arm show by themselves, and its elbow is clearly bent."""
    if leg.joint is None or leg.thigh is None or leg.shin is None or leg.by_edge:
        return False
    return min(leg.thigh.seen, leg.shin.seen) >= WHOLE and _turns(leg.thigh, leg.shin)


def _turns(upper: Stretch, fore: Stretch) -> bool:
    """Whether an elbow is clearly bent."""
    turn = abs(upper.dx * fore.dy - upper.dy * fore.dx)
    return math.degrees(math.atan2(turn, upper.dx * fore.dx + upper.dy * fore.dy)) > BENT
