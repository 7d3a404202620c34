"""Whether the hops shorten at a steady rate."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from motion.checks import overlay
from motion.exercises.bounce.checks import arcs
from motion.exercises.bounce.keeping import Kept, kept_at_contacts
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding, severity, span, surety
from motion.ranks import median

OFF = 0.12
FEWEST = 2


def check(scene: Scene) -> Iterator[Finding]:
    """``timing.rhythm``: the hops do not shorten at a steady rate.

    Measured: the share of its speed that the ball keeps at a contact, by the heights of the hops beside it. Expected:
    the middle value over the clip's contacts. Tolerance: 0.12. One hop that is too low or too high puts off the
    contacts on both its sides and is one finding. The contact of a top that stands higher than the one before is
    told as such already.
    """
    kept = kept_at_contacts(scene.reading)
    if len(kept) < FEWEST:
        return
    usual, allowed = median(np.array([k.share for k in kept])), OFF * scene.leniency
    off = [k for k in kept if abs(k.share - usual) > allowed]
    risen = set() if scene.reading.in_place else {f.first_frame for f in arcs.rising_tops(scene)}
    for group in _by_hop(off, usual):
        if risen & {scene.reading.steps[k.after.top].frame for k in group}:
            continue
        yield _finding(scene, group, usual, allowed)


def _by_hop(off: Sequence[Kept], usual: float) -> list[list[Kept]]:
    """Neighbouring contacts, one keeping too little and the next too much or the other way round, as one."""
    groups: list[list[Kept]] = []
    for kept in off:
        last = groups[-1][-1] if groups else None
        beside = last is not None and last.after is kept.before
        if beside and last is not None and len(groups[-1]) == 1 and (last.share - usual) * (kept.share - usual) < 0:
            groups[-1].append(kept)
        else:
            groups.append([kept])
    return groups


def _finding(scene: Scene, group: Sequence[Kept], usual: float, allowed: float) -> Finding:
    worst = max(group, key=lambda k: abs(k.share - usual))
    first, last = _frames(scene, group[0])[0], _frames(scene, group[-1])[1]
    times = abs(worst.share - usual) / allowed
    low = group[0].share < usual
    hop = group[0].after
    steps = [scene.reading.steps[i] for i in hop.air]
    return Finding(
        code="timing.rhythm",
        principle="timing",
        first_frame=first,
        last_frame=last,
        measured=worst.share,
        expected=usual,
        tolerance=allowed,
        unit="share",
        severity=severity(times),
        confidence=surety(scene.surety(steps), times),
        message=f"{span(first, last)}: the hops do not shorten at a steady rate. {_keeps(scene, group, usual)}",
        advice=f"Make the hop from frame {steps[0].frame} {'higher and longer' if low else 'lower and shorter'}, "
        "so that each hop has the same share of the height before it.",
        overlay=(_top_as_it_should_be(scene, worst, usual),),
    )


def _keeps(scene: Scene, group: Sequence[Kept], usual: float) -> str:
    shares = [f"{10 * k.share:.1f}" for k in group]
    if len(group) == 2 and abs(group[0].share + group[1].share - 2 * usual) < 1e-9:
        return f"The ball keeps {shares[0]} tenths of its speed at one contact and {shares[1]} at the next."
    return f"Here the ball keeps {' and then '.join(shares)} tenths of its speed, elsewhere about {10 * usual:.1f}."


def _top_as_it_should_be(scene: Scene, kept: Kept, usual: float) -> overlay.Mark:
    step = scene.reading.steps[kept.after.top]
    wanted = kept.height_before * usual**2
    return overlay.place(step, step.x, step.y + kept.height_after - wanted)


def _frames(scene: Scene, kept: Kept) -> tuple[int, int]:
    contact, steps = kept.contact, scene.reading.steps
    if contact.steps:
        return steps[contact.steps[0]].frame, steps[contact.steps[-1]].last_frame
    return steps[contact.before].last_frame, steps[contact.after].frame
