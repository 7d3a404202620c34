"""What a feel means, in plain words for an instructor who is choosing it."""

from __future__ import annotations

from dataclasses import dataclass

from motion.exercises.bounce.feel import EARTH, LEAST_HOP_D, ROLL_S
from motion.exercises.bounce.ideal import hop_frames
from motion.guide.guide import Guide

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
class Hop:
    """One hop of the guide: frames from contact to contact, and its height in px; ``whole`` unless the clip cuts it."""

    number: int
    frames: float
    height: float
    whole: bool


def hops_of(guide: Guide) -> list[Hop]:
    """Every flight: the first fall, then the hops after each contact."""
    end = 1 + (len(guide.plan.poses) - 1) * guide.plan.recipe.exposure
    return [
        Hop(number=i, frames=f.lands - f.left, height=f.top, whole=f.left >= 1 and f.lands <= end + 0.5)
        for i, f in enumerate(guide.plan.flights)
    ]


def sentences(guide: Guide) -> list[str]:
    """What the choice means: pace, bounciness, size, end and length."""
    said = [_pace(guide), _bounciness(guide), _size(guide), _end(guide), _length(guide)]
    return [s for s in said if s]


def _pace(guide: Guide) -> str:
    full = hop_frames(guide.plan.recipe.drop_px, guide.plan.gravity)
    return (
        f"A hop as high as the first top takes {full:.0f} frames at {guide.brief.fps:g} a second; the first fall "
        f"takes {full / 2:.0f}."
    )


def _bounciness(guide: Guide) -> str:
    feel = guide.brief.guide
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


def _size(guide: Guide) -> str:
    """How large a ball reads that falls so on earth."""
    per_s2 = guide.plan.gravity * guide.brief.fps**2
    across = EARTH * guide.plan.recipe.diameter / per_s2
    if guide.brief.guide and guide.brief.guide.hop_s is None:
        return (
            f"It falls to scale: a ball {_metres(across)} across, let go {_metres(_to_scale(guide))} above the ground."
        )
    if across > BIG:
        return f"Falling so slowly it reads as weightless, or as a ball {_metres(across)} across."
    return f"Falling like this it reads as a ball about {_metres(across)} across."


def _to_scale(guide: Guide) -> float:
    per_m = guide.plan.gravity * guide.brief.fps**2 / EARTH
    return guide.plan.recipe.drop_px / per_m


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


def _end(guide: Guide) -> str:
    feel, recipe = guide.brief.guide, guide.plan.recipe
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
    last = guide.plan.flights[-1].top
    dies = (
        ""
        if last * feel.keeps**2 < LEAST_HOP_D * recipe.diameter * 1.5
        else (" That contact takes the rest of its bounce at a stroke; ask for more contacts to let it die away.")
    )
    if feel.end == "rolling":
        return f"After {times} it rolls on for {ROLL_S:g} s and stops.{dies}"
    return f"After {times} it has come to rest.{dies}"


def _length(guide: Guide) -> str:
    frames, drawings = guide.plan.frames, len(guide.drawings)
    return f"In all {frames} frames, {frames / guide.brief.fps:.1f} seconds, {drawings} drawings."


def disagreements(guide: Guide) -> dict[str, str]:
    """Where the guide is not what the brief asks for, by field: not forbidden, but students would be caught between."""
    brief, said = guide.brief, {}
    frames = guide.plan.frames
    if brief.frames and not brief.frames[0] <= frames <= brief.frames[1]:
        said["frames"] = f"The guide has {frames} frames; the brief asks for {brief.frames[0]} to {brief.frames[1]}."
    contacts = len(guide.plan.recipe.kept) + (guide.plan.recipe.end == "rest")
    if brief.bounce.hops and brief.bounce.hops != contacts:
        said["bounce.hops"] = f"The guide has {contacts} contacts; the brief asks for {brief.bounce.hops}."
    span, feel = brief.bounce.restitution, brief.guide
    if span and feel and not span[0] <= feel.keeps <= span[1]:
        said["bounce.restitution"] = f"The guide keeps {feel.keeps:g}; the brief asks for {span[0]:g} to {span[1]:g}."
    return said
