"""What a feel means, in plain words for an instructor who is choosing it."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

from motion.brief import Brief
from motion.exercises.pendulum.asked import asked_of, drags, swing_of
from motion.exercises.pendulum.checks.overlap import STIFF
from motion.exercises.pendulum.hung import lateness, told
from motion.exercises.pendulum.plan import Plan, stops_at
from motion.physics import GRAVITY

LIKE = (
    (0.7, "a feather on a thread"),
    (0.85, "a cork, or a cloth bag"),
    (0.93, "a wooden toy"),
    (0.98, "brass or lead"),
    (1.0, "something that is driven, or hardly touched by the air"),
)
"""Up to which share of its angle kept a pendulum is like what."""

NUMBERS = {2: "two", 3: "three", 4: "four", 5: "five", 6: "six"}


def sentences(brief: Brief, plan: Plan) -> list[str]:
    """What the choice means: pace, length, dying away, spacing, end and length of the clip."""
    said = [
        _pace(brief, plan),
        _real(brief, plan),
        _carried(plan),
        _parts(plan),
        _keeps(brief),
        _spacing(plan),
        _end(brief, plan),
        _length(plan),
    ]
    return [s for s in said if s]


def _pace(brief: Brief, plan: Plan) -> str:
    frames, length = plan.recipe.swing_frames, asked_of(brief).length_m
    swing = swing_of(brief)
    if swing and swing.swing_s is None and length is not None:
        return f"Hung {_metres(length)} long it takes {frames:.0f} frames for a swing at {brief.fps:g} a second."
    return f"A swing from extreme to extreme takes {frames:.0f} frames at {brief.fps:g} a second."


def _real(brief: Brief, plan: Plan) -> str:
    """How long a line such a swing has on earth: L = g (T / π)²."""
    swing = swing_of(brief)
    seconds = plan.recipe.swing_frames / brief.fps / (1 + math.radians(abs(plan.recipe.angle)) ** 2 / 16)
    metres = GRAVITY * (seconds / math.pi) ** 2
    asked = asked_of(brief).length_m
    if swing is None or swing.swing_s is None or plan.recipe.hangs != "bob":
        return ""
    if asked is None:
        return f"Swinging so, it reads as hung {_metres(metres)} below its pivot."
    return f"It reads as {_metres(metres)} long; the brief says {_metres(asked)}."


def _carried(plan: Plan) -> str:
    """How its base goes, and what that makes of it."""
    carriage, rest = plan.recipe.carriage, plan.recipe.rest_angle
    if carriage is None:
        return ""
    driven = [p.hangs_at - rest for p in plan.poses[: stops_at(plan)]]
    lags = max((abs(a) for a in driven if a * carriage.px < 0), default=0.0)
    whole, eased = round(carriage.frames), carriage.eases * carriage.frames
    return (
        f"Its base carries it {abs(carriage.px):.0f} px to the {'right' if carriage.px > 0 else 'left'} in {whole} "
        f"frames, gathers speed over the first {eased:.0f} and slows down over the last {eased:.0f}. It lags behind by "
        f"up to {lags:.0f}°; when its base has stopped it swings by itself, from {abs(plan.recipe.angle):.0f}°."
    )


def _parts(plan: Plan) -> str:
    """How its parts follow each other, and how far that bends it."""
    recipe = plan.recipe
    if recipe.hangs == "bob":
        return ""
    what = f"It has {NUMBERS[recipe.links]} links" if recipe.hangs == "chain" else "Its four quarters"
    if recipe.follows < 0.05:
        return f"{what if recipe.hangs == 'tail' else what + ', which'} move as one bar: nothing drags."
    drags = f"each {recipe.follows:g} frames after the one above" + (
        f", and {100 * recipe.bend:.0f} % farther" if recipe.bend else ""
    )
    bends = max(_bends(told(p, recipe)) for p in plan.poses)
    return f"{what}{',' if recipe.hangs == 'chain' else ' go'} {drags}; on its way it bends by up to {bends:.0f}°."


def _bends(line: Sequence[tuple[float, float]]) -> float:
    """Degrees between its first part and its last."""
    first, last = (math.atan2(b[0] - a[0], b[1] - a[1]) for a, b in (line[:2], line[-2:]))
    return abs(math.degrees(last - first))


def _metres(value: float) -> str:
    return f"{value:.2g} m" if value >= 1 else f"{100 * value:.0f} cm"


def _keeps(brief: Brief) -> str:
    swing = swing_of(brief)
    if swing is None or swing.end == "cycle":
        return "It comes back to the same extreme each time, as only a driven or a drawn pendulum does."
    like = next(name for most, name in LIKE if swing.keeps <= most)
    return f"Each swing keeps {100 * swing.keeps:.0f} % of the angle before: like {like}."


def _spacing(plan: Plan) -> str:
    gaps = gaps_of(plan)
    if not gaps:
        return ""
    return (
        f"Its gaps are widest through the middle ({max(gaps):.1f}°) and close up towards both extremes; the chart "
        "favours both ends."
    )


def gaps_of(plan: Plan) -> list[float]:
    """Degrees from each drawing to the next."""
    angles = [p.hangs_at for p in plan.poses]
    return [abs(b - a) for a, b in itertools.pairwise(angles)]


def _end(brief: Brief, plan: Plan) -> str:
    swing = swing_of(brief)
    if swing is None or swing.end == "cycle":
        return "The last drawing stands one step before the first, so the clip plays round and round."
    if swing.end == "settling":
        still = f"After {plan.poses[-1].swing} swings it hangs still on its rest line."
        late = lateness(plan.recipe)
        return f"{still} Its parts come to rest one after the other, over {late:.0f} frames." if late >= 1 else still
    own = " of its own" if plan.recipe.carriage else ""
    return f"It ends at an extreme, after {swing.count} swing{'' if swing.count == 1 else 's'}{own}."


def _length(plan: Plan) -> str:
    return f"In all {plan.frames} frames, {plan.frames / plan.fps:.1f} seconds, {len(plan.poses)} drawings."


def lengths(brief: Brief, plan: Plan) -> str:
    """How long a swing is, in a line."""
    return f"A swing: {plan.recipe.swing_frames:.0f} frames"


def disagreements(brief: Brief, plan: Plan) -> dict[str, str]:
    """Where the guide is not what the brief asks for, by field: not forbidden, but students would be caught between."""
    said, asked, swing = dict[str, str](), asked_of(brief), swing_of(brief)
    if brief.frames and not brief.frames[0] <= plan.frames <= brief.frames[1]:
        said["frames"] = (
            f"The guide has {plan.frames} frames; the brief asks for {brief.frames[0]} to {brief.frames[1]}."
        )
    if swing is None:
        return said
    count = 2 if swing.end == "cycle" else swing.count
    if asked.swings and swing.end != "settling" and asked.swings != count:
        said["pendulum.swings"] = f"The guide has {count} swings; the brief asks for {asked.swings}."
    if drags(asked) and swing.follows < STIFF:
        said["guide.follows"] = "The brief asks for drag; the guide’s parts move as one bar."
    span = asked.keeps
    if span and not span[0] <= swing.keeps <= span[1]:
        said["pendulum.keeps"] = f"The guide keeps {swing.keeps:g}; the brief asks for {span[0]:g} to {span[1]:g}."
    return said
