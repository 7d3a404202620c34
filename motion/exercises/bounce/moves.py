"""How a bounce is timed, move by move: what is slow, and whether a hold or the spacing makes it so.

A hold and a further in-between both slow a move down; the hold makes it stiffer, the in-between smoother.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from statistics import median
from typing import Literal

from motion.exercises.bounce.contacts import Contact
from motion.exercises.bounce.gravity import hop_height
from motion.exercises.bounce.hops import Hop, Reading
from motion.exercises.bounce.ideal import hop_frames
from motion.exercises.bounce.keeping import has_top, kept_at_contacts
from motion.physics import GRAVITY

SLOW_FRAMES, SLOW_SHARE = 0.6, 0.12
"""A move is slow when it takes so many frames longer, or that share of what its height calls for."""

Kind = Literal["rise", "fall"]
Cause = Literal["hold", "spacing"]

BOUNCINESS = (
    (0.30, "It hardly bounces: it lands like wet clay."),
    (0.55, "It bounces dully, as a sandbag on boards."),
    (0.72, "It bounces tamely, as a leather ball."),
    (0.88, "It bounces in a lively way, as a rubber ball."),
    (1.00, "It bounces very lively: it hardly loses speed."),
)
"""Up to which share of its speed kept a ball bounces how."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """A rise or a fall: its frames as drawn, how many of them are held, and how many its height calls for.

    ``slow`` is what makes it slow, None where it is not; ``first_frame`` and ``last_frame`` its drawings in the air.
    """

    hop: int
    kind: Kind
    first_frame: int
    last_frame: int
    frames: float
    held: int
    called_for: float
    slow: Cause | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Touch:
    """A contact's frames; ``kept`` is the share of its speed that the ball keeps there, None where that is unknown."""

    first_frame: int
    frames: int
    kept: float | None


def moves(reading: Reading, gravity: float | None) -> Iterator[Move]:
    """Every rise and fall between a contact and a drawn top, in playing order."""
    for hop in reading.hops:
        if gravity is None or not has_top(reading, hop) or hop_height(reading, hop) <= 0:
            continue
        half = hop_frames(hop_height(reading, hop), gravity) / 2
        top = hop.air.index(hop.top)
        if hop.start is not None:
            yield _move(reading, hop, "rise", hop.air[: top + 1], float(hop.frames_clock[top]), half)
        if hop.end is not None:
            lands = hop.span + float(hop.frames_clock[-1] - hop.clock[-1])
            yield _move(reading, hop, "fall", hop.air[top:], lands - float(hop.frames_clock[top]), half)


def _move(reading: Reading, hop: Hop, kind: Kind, air: tuple[int, ...], frames: float, called_for: float) -> Move:
    steps = [reading.steps[i] for i in air]
    # The top's own hold belongs to the fall that it delays.
    holds = dict(zip(hop.air, hop.held, strict=True))
    held = sum(holds[i] for i in (air[:-1] if kind == "rise" else air))
    over = frames - called_for
    slow: Cause | None = None
    if over > max(SLOW_FRAMES, SLOW_SHARE * called_for) + hop.usual / 2:
        slow = "hold" if held >= over / 2 else "spacing"
    return Move(
        hop=hop.number,
        kind=kind,
        first_frame=steps[0].frame,
        last_frame=steps[-1].last_frame,
        frames=frames,
        held=held,
        called_for=called_for,
        slow=slow,
    )


def touches(reading: Reading) -> list[Touch]:
    """Every contact that a drawing shows; the rest at the clip's end is none."""
    kept = {id(k.contact): k.share for k in kept_at_contacts(reading)}
    return [
        Touch(
            first_frame=reading.steps[c.steps[0]].frame,
            frames=sum(reading.steps[i].frames for i in c.steps),
            kept=kept.get(id(c)),
        )
        for c in reading.contacts
        if c.steps and not _rests(reading, c)
    ]


def _rests(reading: Reading, contact: Contact) -> bool:
    return bool(reading.rest) and contact.after >= reading.rest[0]


def bounciness(reading: Reading) -> tuple[float, str] | None:
    """The middle share of its speed that the ball keeps, and what that is like; None where no contact tells it."""
    kept = [k.share for k in kept_at_contacts(reading)]
    if not kept:
        return None
    share = float(median(kept))
    return share, next((words for most, words in BOUNCINESS if share <= most), "It gains speed at its contacts.")


def real_size(reading: Reading, gravity: float | None, fps: float) -> float | None:
    """The diameter in metres at which a real ball would fall as this one does: g = 9.81 m/s²."""
    return None if not gravity else GRAVITY * reading.diameter / (gravity * fps**2)


def weight(size: float) -> str:
    """What a ball of that size (m) that falls so reads like."""
    told = f"{size * 100:.1f} cm" if size < 0.1 else f"{size * 100:.0f} cm" if size < 1 else f"{size:.1f} m"
    return f"It falls as a real ball {told} across would; a smaller one would have to fall faster, a larger one slower."
