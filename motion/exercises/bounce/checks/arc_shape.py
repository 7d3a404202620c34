"""A hop's arc as a whole: does it curve, and does it stand upright?"""

from __future__ import annotations

import math
from collections.abc import Iterator

from motion.checks import overlay
from motion.exercises.bounce import arc
from motion.exercises.bounce.explain import Verdict
from motion.exercises.bounce.hops import Hop
from motion.exercises.bounce.keeping import has_top
from motion.exercises.bounce.scene import Scene
from motion.findings import Finding, severity, span, surety

LEANS = 0.08
LEAST_D, LEAST_PX = 0.07, 2.0
"""A top that is off by less (in diameters, px) does not lean, however narrow the hop."""
FEW_SLACK = 1.4
"""How much more is allowed where the contacts had to help to tell the arc."""
COMPLETE = 1.5


def check(scene: Scene) -> Iterator[Finding]:
    """Every finding about the shape of a whole arc."""
    for verdict in scene.verdicts:
        if verdict.straight is not None:
            yield from straight(scene, verdict, verdict.straight)
        else:
            yield from leaning(scene, verdict.hop)


def straight(scene: Scene, verdict: Verdict, bulge: float) -> Iterator[Finding]:
    """``arc.straight``: the path goes in straight legs to a point instead of a curve.

    Measured: how far each leg bulges above its chord from the top to the contact, as a share of what a parabola's
    does; the rounder leg counts. Tolerance: under 0.35. A half hop is judged where its top is drawn.
    """
    hop = verdict.hop
    if not hop.whole and not has_top(scene.reading, hop):
        return
    steps = [scene.reading.steps[i] for i in hop.air]
    first, last = steps[0].frame, steps[-1].last_frame
    limit = arc.STRAIGHT / scene.leniency
    times = 1 + COMPLETE * (limit - max(0.0, bulge)) / limit
    yield Finding(
        code="arc.straight",
        principle="arcs",
        first_frame=first,
        last_frame=last,
        measured=max(0.0, bulge),
        expected=1.0,
        tolerance=limit,
        unit="share",
        severity=severity(times),
        confidence=surety(scene.surety(steps), times),
        message=f"{span(first, last)}: the path runs in straight lines to a point. A thrown ball turns over the top "
        "in a curve.",
        advice="Keep the contacts and the top. Move the drawings between out onto a round arc.",
        overlay=tuple(_on_the_curve(scene, hop)),
    )


def _on_the_curve(scene: Scene, hop: Hop) -> Iterator[overlay.Mark]:
    """Where the drawings belong on the parabola through the top and the contacts: above their own place, or beside it.

    Whichever of the two leaves the hop the smoother in time: drawings that go across evenly are raised, those that
    fall as they should are pushed outwards.
    """
    reading = scene.reading
    raised, pushed = arc.raised(reading, hop), arc.pushed_out(reading, hop)
    places = min(raised, pushed, key=lambda p: arc.unsteadiness(hop, p))
    points = [reading.to_picture(float(x), float(height)) for x, height in places]
    for index, (x, y) in zip(hop.air, points, strict=True):
        step = reading.steps[index]
        if math.hypot(x - step.x, y - step.y) > 1.0:
            yield overlay.place(step, x, y)
    yield overlay.path(reading.steps[hop.top], points)


def leaning(scene: Scene, hop: Hop) -> Iterator[Finding]:
    """``arc.leaning``: the arc is skewed: its top is not midway between its contacts.

    Measured: how far the top of the arc that fits the drawings lies off the middle between its ends, px. Tolerance:
    8 % of the hop's width, at least 0.07 D and 2 px; two fifths more for a hop of few
    drawings. A path that hardly
    curves has no top to lean.
    """
    leans = arc.lean(scene.reading, hop)
    if leans is None or arc.is_flat(scene.reading, hop):
        return
    slack = FEW_SLACK if len(hop.air) <= arc.FEW else 1.0
    allowed = max(LEANS * leans.width * scene.leniency, scene.px(LEAST_D, LEAST_PX)) * slack
    if abs(leans.offset) <= allowed:
        return
    steps = [scene.reading.steps[i] for i in hop.air]
    first, last = steps[0].frame, steps[-1].last_frame
    side, back = ("right", "left") if leans.offset > 0 else ("left", "right")
    times = abs(leans.offset) / allowed
    yield Finding(
        code="arc.leaning",
        principle="arcs",
        first_frame=first,
        last_frame=last,
        measured=abs(leans.offset),
        expected=0.0,
        tolerance=allowed,
        unit="px",
        severity=severity(times),
        confidence=surety(scene.surety(steps), times),
        message=f"{span(first, last)}: the arc leans. Its top stands {abs(leans.offset):.0f} px to the {side} of the "
        "middle between its contacts.",
        advice=f"Push the top of the arc {abs(leans.offset):.0f} px to the {back}, and the drawings beside it by less "
        "the lower they are.",
        overlay=tuple(
            overlay.place(s, float(x), s.y + scene.reading.ground.y_at(float(x)) - scene.reading.ground.y_at(s.x))
            for s, x in zip(steps, leans.upright, strict=True)
            if abs(float(x) - s.x) > 1.0
        ),
    )
