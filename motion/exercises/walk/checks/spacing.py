"""Spacing of a walk: single drawings along their path, an even pace, knees that do not snap, steps of one length."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence

import numpy as np

from motion.checks import overlay
from motion.exercises.walk.checks import arms, mend, remade
from motion.exercises.walk.checks.words import part_of
from motion.exercises.walk.figure import SIDES, Side, bend_of
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.smooth import ALL_ALONG, SHARES, SHARES_ABOVE, Off
from motion.exercises.walk.steps import Pace, Step
from motion.findings import Finding, span

SURGES, HEAD_SHARE = 0.40, 0.6
POPS_DEGREES, POPS_STRAIGHT, POPS_TIMES = 30.0, 8.0, 2.5
ABOUT_HIPS = 1.3
"""A knee whose hips hide must open by so many times the tolerance."""
OPENS = 4
"""A knee that snaps is opened over so many drawings on either side."""
STRIDE = 0.12
TURNED_MOST = 2
"""By eye legs change places no more often than that in a clip."""
CLEAR = 0.25
"""Legs whose knees or ankles lie so much of a leg apart are told from each other."""


def check(scene: Scene) -> list[Finding]:
    """Every spacing finding."""
    rushed = surges(scene)
    # What is above the hips rushes along with them.
    within = {(name, index) for _, around in rushed for index in around for name in ("hip", *ALL_ALONG)}
    jumps = [f for off in single(scene) if (off.name, off.index) not in within and (f := jump(scene, off))]
    return [
        *turned(scene),
        *scene.merged(jumps),
        *(f for f, _ in rushed),
        *scene.merged(list(pops(scene))),
        *stride(scene),
        *arms.even(scene),
    ]


def single(scene: Scene) -> list[Off]:
    """What is off along its path; where the whole figure is, the hips alone stand for it."""
    found = []
    for (name, index), off in sorted(scene.off.items(), key=lambda one: (one[0][1], one[0][0])):
        if off.along_times <= off.across_times or index in scene.reading.swapped:
            continue
        hips = scene.off.get(("hip", index))
        if name != "hip" and hips is not None and whole(hips, off):
            continue
        if name != "hip" and scene.explained(name, index):
            continue
        found.append(off)
    return found


def whole(hips: Off, other: Off) -> bool:
    """Whether a foot, a hand or the head is off as the hips are."""
    if other.name.startswith("ankle"):
        least, most = SHARES
        one, beside = (hips.along, hips.across), (other.along, other.across)
    else:
        # Hands go to and fro: their own ways tell little.
        least, most = SHARES_ABOVE
        one, beside = (hips.forward, hips.up), (other.forward, other.up)
    share = float(np.dot(one, beside)) / max(1e-6, float(np.dot(one, one)))
    return least < share < most


def _is_whole(scene: Scene, off: Off) -> bool:
    if off.name != "hip":
        return False
    feet = [scene.off.get((f"ankle_{side}", off.index)) for side in SIDES]
    return any(f is not None and whole(off, f) for f in feet)


def jump(scene: Scene, off: Off) -> Finding:
    """``spacing.jump``: one drawing of hips, head, a hand or a swinging foot sits too far along or back.

    Measured: the part along its path, against the ground, of its distance to the smooth motion of its neighbours, less
    what it does at that phase of the other steps, px. Tolerance: the largest of 18 % of the local gap, 0.03 of the
    leg and 2 px; twice that where no other step shows what it does at that phase. Told from pictures, a foot whose
    heel and toe hide must be off by one and a half times that.
    """
    step = scene.reading.steps[off.index]
    way = "too far along" if off.along > 0 else "too far back"
    back = "back" if off.along > 0 else "forward"
    part = "figure" if _is_whole(scene, off) else part_of(off.name)
    they = "are" if part == "hips" else "is"
    return scene.finding(
        "spacing.jump",
        [step],
        times=off.along_times,
        measured=abs(off.along),
        expected=0.0,
        tolerance=off.along_allowed,
        unit="px",
        part=part,
        message=f"{span(step.frame, step.last_frame)}: the {part} of drawing {step.drawing} {they} "
        f"{abs(off.along):.0f} px {way} between the drawings before and after.",
        advice=f"Move the {part} in drawing {step.drawing} {abs(off.along):.0f} px {back}.",
        overlay=(overlay.point(step, *off.belongs), *led(scene, off, everything=part == "figure")),
    )


def led(scene: Scene, off: Off, *, everything: bool = False) -> tuple[overlay.Mark, ...]:
    """The figure with what is off where it is led."""
    step = scene.reading.steps[off.index]
    at = step.at(off.name)
    if at is None:
        return ()
    dx, dy = off.belongs[0] - at[0], off.belongs[1] - at[1]
    if everything:
        return mend.whole(step, dx, dy)
    if off.name == "hip":
        return mend.hips(scene, step, dx, dy)
    if off.name == "head":
        return mend.head(step, dx, dy)
    if off.name.startswith("hand"):
        return mend.arm(scene, step, "near" if off.name.endswith("near") else "far", dx, dy)
    return mend.foot(scene, step, "near" if off.name.endswith("near") else "far", dx, dy)


def turned(scene: Scene) -> Iterator[Finding]:
    """``spacing.jump`` of the legs: near and far leg are the other way round in some drawings.

    Measured: drawings whose near and far leg have changed places. Tolerance: none.
    """
    steps, runs = scene.reading.steps, _runs(scene.reading.swapped)
    if scene.by_eye and len(runs) > TURNED_MOST:
        # Nobody turns legs that often: their tones are too much alike to be told.
        return
    for run in runs:
        if run[0] == 0 or (run[-1] == len(steps) - 1 and scene.brief.loop):
            continue
        own = [steps[i] for i in run]
        if scene.by_eye and not any(_both_show(scene, step) for step in own):
            # Which leg is which could not be seen there.
            continue
        yield scene.finding(
            "spacing.jump",
            own,
            times=3.0,
            measured=float(len(run)),
            expected=0.0,
            tolerance=0.0,
            unit="drawings",
            part="legs",
            message=f"{span(own[0].frame, own[-1].last_frame)}: near and far leg have changed places here.",
            advice="Give each leg its own tone again in these drawings: the one in front stays in front.",
            overlay=remade.exchanged(own),
        )


def _both_show(scene: Scene, step: Step) -> bool:
    """Whether knees and ankles of both legs show, clear of each other."""
    places = [[step.at(f"{joint}_{side}") for side in SIDES] for joint in ("knee", "ankle")]
    apart = [math.dist(one, other) for one, other in places if one is not None and other is not None]
    return len(apart) == len(places) and max(apart) > CLEAR * scene.reading.leg


def _runs(indices: tuple[int, ...]) -> list[list[int]]:
    runs: list[list[int]] = []
    for i in indices:
        if runs and i == runs[-1][-1] + 1:
            runs[-1].append(i)
        else:
            runs.append([i])
    return runs


def surges(scene: Scene) -> list[tuple[Finding, frozenset[int]]]:
    """``spacing.surges``: the body rushes and stalls.

    Measured: across, the hips' travel a frame in some part of a step (two gaps or more) beside the step's mean; of a
    part that goes over a contact, beside the mean of both steps. Tolerance: 40 % of that.
    """
    if not scene.reading.across:
        return []
    # By step, with the drawings (indices) whose hips are off by that.
    told: dict[int, tuple[Finding, frozenset[int]]] = {}
    for pace in scene.paces:
        found = _surge(scene, (pace,))
        if found is not None:
            told[pace.number] = found
    for pair in itertools.pairwise(scene.paces):
        # From the end of a step into the next one, where neither shows it by itself.
        if pair[0].end == pair[1].start and not any(p.number in told for p in pair):
            found = _surge(scene, pair)
            if found is not None:
                told[pair[0].number] = found
    return list(told.values())


def _surge(scene: Scene, paces: Sequence[Pace]) -> tuple[Finding, frozenset[int]] | None:
    """What is off most within one step, or over the contact between two."""
    reading, start, end = scene.reading, paces[0].start.time, paces[-1].end.time
    steps = [s for s in scene.steps_between(start, end) if s.at("hip") is not None]
    if len(steps) < 4:
        return None
    xs = [reading.facing * s.at("hip")[0] for s in steps]  # type: ignore[index]
    mean = (xs[-1] - xs[0]) / max(1e-6, steps[-1].clock - steps[0].clock)
    if mean <= 0:
        return None
    worst = (0.0, 0, 2)
    for first, last in _parts(steps, paces):
        share = (xs[last] - xs[first]) / (steps[last].clock - steps[first].clock) / mean - 1
        if abs(share) > abs(worst[0]):
            worst = (share, first, last)
    share, first, last = worst
    allowed = SURGES * scene.leniency * scene.unsure
    around = frozenset(range(steps[0].index - 1, steps[-1].index + 2))
    off = [index for index in around if ("hip", index) in scene.off]
    part = {s.index for s in steps[max(0, first - 1) : last + 2]}
    if abs(share) <= allowed or (len(off) == 1 and off[0] in part):
        # One drawing that sits too far along or back says it better.
        return None
    if not _head_too(scene, steps, (first, last), share, allowed):
        return None
    word, mend = ("rushes", "closer together") if share > 0 else ("stalls", "farther apart")
    beside = "the whole step" if len(paces) == 1 else "both steps"
    own = steps[first : last + 1]
    told = scene.finding(
        "spacing.surges",
        own,
        times=abs(share) / allowed,
        measured=share,
        expected=0.0,
        tolerance=allowed,
        unit="share",
        message=f"{span(own[0].frame, own[-1].last_frame)}: the body {word}. It goes {100 * abs(share):.0f} % "
        f"{'faster' if share > 0 else 'slower'} here than over {beside}.",
        advice=f"Draw the hips {mend} here, so that they go on evenly from contact to contact.",
        overlay=tuple(mark for pace in paces for mark in remade.evenly(scene, pace)),
    )
    return told, around


def _parts(steps: Sequence[Step], paces: Sequence[Pace]) -> Iterator[tuple[int, int]]:
    """Parts of two gaps and more, as numbers of the first and the last of some drawings of a step.

    Of two steps those that go over the contact between both, and are shorter than either.
    """
    longest, between = min(p.frames for p in paces), paces[0].end.time
    for first, last in itertools.combinations(range(len(steps)), 2):
        whole = first == 0 and last == len(steps) - 1
        over = steps[first].clock < between - 1e-6 and steps[last].clock > between + 1e-6
        short = steps[last].clock - steps[first].clock < longest - 1e-6
        if last - first >= 2 and (not whole if len(paces) == 1 else over and short):
            yield first, last


def _head_too(scene: Scene, steps: list[Step], part: tuple[int, int], share: float, allowed: float) -> bool:
    """Whether the head of a whole figure rushes or stalls as well; hips alone are off in single drawings."""
    heads = {k: scene.reading.facing * at[0] for k, s in enumerate(steps) if (at := s.at("head")) is not None}
    ends = (0, len(steps) - 1, *part)
    if any(k not in heads for k in ends):
        return True
    mean = (heads[ends[1]] - heads[0]) / max(1e-6, steps[-1].clock - steps[0].clock)
    first, last = part
    own = (heads[last] - heads[first]) / (steps[last].clock - steps[first].clock) / mean - 1 if mean > 0 else 0.0
    return own * share > 0 and abs(own) > HEAD_SHARE * allowed


def pops(scene: Scene) -> Iterator[Finding]:
    """``spacing.pops``: a knee snaps straight.

    Measured: by how many degrees a knee opens from one drawing to the next, to within 8 degrees of straight, at more
    than 2.5 times the speed of both neighbours. Tolerance: 30 degrees; 1.3 times that where hips hide.
    """
    allowed = POPS_DEGREES * scene.leniency
    for side in SIDES:
        bends = [_bend(scene, s, side) for s in scene.reading.steps]
        opens = [None if a is None or b is None else a - b for a, b in itertools.pairwise(bends)]
        first, last = bends[0], bends[-1]
        # In a cycle the last drawing leads to the first; elsewhere it is not told how fast a knee went before.
        around = [None if first is None or last is None else last - first] if scene.brief.loop else []
        for index, by in enumerate(opens):
            after = bends[index + 1]
            if by is None or after is None or abs(after) > POPS_STRAIGHT:
                continue
            if by <= allowed * (1.0 if _hips_show(scene, index) else ABOUT_HIPS):
                continue
            beside = _beside([*around, *opens, *around], index + len(around))
            if beside is None or by <= POPS_TIMES * beside or index + 1 not in scene.judged:
                continue
            step = scene.reading.steps[index + 1]
            yield scene.finding(
                "spacing.pops",
                [step],
                times=by / allowed,
                measured=by,
                expected=beside,
                tolerance=allowed,
                unit="degrees",
                part=f"{side} knee",
                message=f"{span(step.frame, step.last_frame)}: the {side} knee snaps straight. It opens by {by:.0f}° "
                f"from the drawing before; beside that it moves by {beside:.0f}°.",
                advice=f"Keep the {side} knee a little bent here, and open it over several drawings.",
                overlay=remade.opened(scene, side, _opening(scene, side, bends, index))
                or tuple(overlay.point(step, *p) for p in [step.at(f"knee_{side}")] if p),
            )


def _beside(opens: Sequence[float | None], at: int) -> float | None:
    """By how many degrees a knee moves in the gaps before one and after it, the larger; None where they do not show."""
    if not 0 < at < len(opens) - 1:
        return None
    before, after = opens[at - 1], opens[at + 1]
    return None if before is None or after is None else max(abs(before), abs(after))


def _opening(scene: Scene, side: Side, bends: list[float | None], index: int) -> dict[int, float]:
    """How far a knee bends (degrees, by drawing) that opens evenly, where it snaps after the drawing at ``index``.

    From some drawings before that to where the foot stands, or some after it.
    """
    around = [k for k in range(index - OPENS + 1, index + OPENS + 1) if 0 <= k < len(bends) and bends[k] is not None]
    swings = [k for k in around if not scene.reading.stands_at(k, side)]
    ends = [swings[0], min([k for k in around if k > swings[-1]], default=swings[-1])] if swings else []
    told = [b for k in ends if (b := bends[k]) is not None]
    return {k: float(np.interp(k, ends, told)) for k in swings if ends and ends[0] < k < ends[1]}


def _hips_show(scene: Scene, index: int) -> bool:
    """Whether hips show in a drawing and in the next one."""
    return all(step.at("hip") is not None for step in scene.reading.steps[index : index + 2])


def _bend(scene: Scene, step: Step, side: Side) -> float | None:
    """How far a knee is bent, degrees; of hips that hide it is enough to know about where they are."""
    knee, ankle = (step.at(n) for n in (f"knee_{side}", f"ankle_{side}"))
    hip = None if step.figure is None else step.figure.points.get("hip")
    return bend_of(hip, knee, ankle, scene.reading.facing) if hip and knee and ankle else None


def stride(scene: Scene) -> Iterator[Finding]:
    """``spacing.stride``: one step is longer than the other.

    Measured: lengths of steps to the near and to the far foot, between the places where feet lie flat, beside their
    mean. Tolerance: 12 %. Where a limp at an even speed explains it, it is told as that alone.
    """
    whole_steps = [p for p in scene.paces if p.length is not None and not _slid(scene, p)]
    lengths = {side: [p.length for p in whole_steps if p.side == side] for side in SIDES}
    if not all(lengths.values()):
        return
    near, far = (float(np.median([v for v in lengths[side] if v is not None])) for side in SIDES)
    mean = (near + far) / 2
    if mean <= 0.1 * scene.reading.leg:
        return
    share, allowed = (near - far) / mean, STRIDE * scene.leniency * scene.unsure
    if abs(share) <= allowed or _goes_on_evenly(scene, share, allowed):
        return
    longer, shorter = ("near", "far") if share > 0 else ("far", "near")
    yield scene.whole_clip(
        "spacing.stride",
        times=abs(share) / allowed,
        measured=abs(share),
        expected=0.0,
        tolerance=allowed,
        unit="share",
        message=f"Steps onto the {longer} foot are longer: {max(near, far):.0f} px, onto the {shorter} foot "
        f"{min(near, far):.0f} px.",
        advice=f"Set both feet down {mean:.0f} px ahead of the other one.",
        overlay=remade.strided(scene, near - far),
    )


def _goes_on_evenly(scene: Scene, share: float, allowed: float) -> bool:
    """Whether a limp explains it: who goes on at an even speed makes a longer step where it takes longer."""
    limp = scene.limp
    return limp is not None and limp.shows and abs(share - limp.share) <= allowed


def _slid(scene: Scene, pace: Pace) -> bool:
    """Whether a foot of a step slides while it stands, so that it has no one place on the ground."""
    stands = [s for s in scene.reading.stands if s.first in (pace.start.index, pace.end.index)]
    return any((s.side, i) in scene.slid for s in stands for i in range(s.first, s.last + 1))
