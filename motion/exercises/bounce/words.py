"""What a feel means, in plain words for an instructor who is choosing it."""

from __future__ import annotations

from dataclasses import dataclass

from motion.brief import Brief
from motion.exercises.bounce.asked import asked_of, feel_of
from motion.exercises.bounce.feel import LEAST_HOP_D, ROLL_S
from motion.exercises.bounce.ideal import hop_frames
from motion.exercises.bounce.plan import Plan
from motion.physics import GRAVITY

LIKE = (
    (0.3, "a bag of sand"),
    (0.56, "steel on planks, or a soft balloon"),
    (0.68, "a beach ball"),
    (0.76, "an old tennis ball"),
    (0.88, "a rubber ball"),
    (0.95, "a very lively rubber ball"),
    (1.0, "livelier than any real ball"),
)
"""Up to which share of speed kept a ball bounces like what."""
BIG, SMALL = 1.0, 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedHop:
    """One hop of the guide: frames from contact to contact, and its height in px; ``whole`` unless the clip cuts it."""

    number: int
    frames: float
    height: float
    whole: bool


def hops_of(brief: Brief, plan: Plan) -> list[PlannedHop]:
    """Every flight: the first fall, then the hops after each contact."""
    end = 1 + (len(plan.poses) - 1) * plan.recipe.exposure
    return [
        PlannedHop(number=i, frames=f.lands - f.left, height=f.top, whole=f.left >= 1 and f.lands <= end + 0.5)
        for i, f in enumerate(plan.flights)
    ]


def lengths(brief: Brief, plan: Plan) -> str:
    """How long each whole hop is, in a line."""
    whole = [hop for hop in hops_of(brief, plan) if hop.whole]
    return f"Hops: {', '.join(f'{hop.frames:.0f}' for hop in whole)} frames" if whole else ""


def sentences(brief: Brief, plan: Plan) -> list[str]:
    """What the choice means: pace, bounciness, size, end and length."""
    said = [_pace(brief, plan), _bounciness(brief, plan), _size(brief, plan), _end(brief, plan), _length(brief, plan)]
    return [s for s in said if s]


def _pace(brief: Brief, plan: Plan) -> str:
    full = hop_frames(plan.recipe.drop_px, plan.gravity)
    return (
        f"A hop as high as the first top takes {full:.0f} frames at {brief.fps:g} a second; the first fall "
        f"takes {full / 2:.0f}."
    )


def _bounciness(brief: Brief, plan: Plan) -> str:
    feel = feel_of(brief)
    if feel is None or feel.end == "cycle":
        return "It comes back to the same height each time, as only a drawn ball does."
    like = next(name for most, name in LIKE if feel.keeps <= most)
    return (
        f"It keeps {_tenths(feel.keeps)} of its speed at each contact, so each top has {_tenths(feel.keeps**2)} of the "
        f"height of the one before: {like}."
    )


def _tenths(share: float) -> str:
    tenths = 10 * share
    return f"{tenths:.0f} tenths" if abs(tenths - round(tenths)) < 1e-6 else f"{100 * share:.0f}\N{NO-BREAK SPACE}%"


def _size(brief: Brief, plan: Plan) -> str:
    """How large a ball reads that falls so on earth."""
    per_s2 = plan.gravity * brief.fps**2
    across = GRAVITY * plan.recipe.diameter / per_s2
    feel = feel_of(brief)
    if feel and feel.hop_s is None:
        high = _metres(_to_scale(brief, plan))
        return f"It falls to scale: a ball {_metres(across)} across, let go {high} above the ground."
    if across > BIG:
        return f"Falling so slowly it reads as weightless, or as a ball {_metres(across)} across."
    return f"Falling like this it reads as a ball about {_metres(across)} across."


def _to_scale(brief: Brief, plan: Plan) -> float:
    per_m = plan.gravity * brief.fps**2 / GRAVITY
    return plan.recipe.drop_px / per_m


def _metres(value: float) -> str:
    if value >= BIG:
        return f"{value:.1f} m"
    return (
        f"{100 * value:.0f} cm"
        if value >= 0.1
        else f"{100 * value:.1f} cm"
        if value >= SMALL
        else (f"{1000 * value:.0f} mm")
    )


def _end(brief: Brief, plan: Plan) -> str:
    feel, recipe = feel_of(brief), plan.recipe
    if feel is None:
        return ""
    contacts = len(recipe.kept) + (recipe.end == "rest")
    times = f"{contacts} contact{'' if contacts == 1 else 's'}"
    if feel.end == "cycle":
        return "The last drawing stands one step before the first, so the clip plays round and round."
    if feel.end == "top":
        return f"It ends at a top, after {times}."
    if feel.end == "leaving":
        return f"It leaves the frame after {times}."
    last = plan.flights[-1].top
    dies = (
        ""
        if last * feel.keeps**2 < LEAST_HOP_D * recipe.diameter * 1.5
        else (" That contact takes the rest of its bounce at a stroke; ask for more contacts to let it die away.")
    )
    if feel.end == "rolling":
        return f"After {times} it rolls on for {ROLL_S:g} s and stops.{dies}"
    return f"After {times} it has come to rest.{dies}"


def _length(brief: Brief, plan: Plan) -> str:
    frames, drawings = plan.frames, len(plan.poses)
    return f"In all {frames} frames, {frames / brief.fps:.1f} seconds, {drawings} drawings."


def disagreements(brief: Brief, plan: Plan) -> dict[str, str]:
    """Where the guide is not what the brief asks for, by field: not forbidden, but students would be caught between."""
    said = {}
    frames = plan.frames
    if brief.frames and not brief.frames[0] <= frames <= brief.frames[1]:
        said["frames"] = f"The guide has {frames} frames; the brief asks for {brief.frames[0]} to {brief.frames[1]}."
    contacts = len(plan.recipe.kept) + (plan.recipe.end == "rest")
    asked = asked_of(brief)
    if asked.hops and asked.hops != contacts:
        said["bounce.hops"] = f"The guide has {contacts} contacts; the brief asks for {asked.hops}."
    span, feel = asked.restitution, feel_of(brief)
    if span and feel and not span[0] <= feel.keeps <= span[1]:
        said["bounce.restitution"] = f"The guide keeps {feel.keeps:g}; the brief asks for {span[0]:g} to {span[1]:g}."
    return said
