"""How a figure belongs once a finding is mended, as lines over the drawing: limbs have to be drawn anew."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

from motion.checks import overlay
from motion.exercises.walk.figure import ARM_JOINTS, SIDES, UPPER_LANDMARKS, Place, Side, knee_of
from motion.exercises.walk.scene import Scene
from motion.exercises.walk.steps import Step

FOOT = ("ankle", "heel", "toe")


def foot(scene: Scene, step: Step, side: Side, dx: float, dy: float) -> tuple[overlay.Mark, ...]:
    """A side's leg with its foot moved by so many px, and its knee where both limbs' usual lengths ask for it."""
    points = points_of(step)
    for joint in FOOT:
        at = points.get(f"{joint}_{side}")
        if at is not None:
            points[f"{joint}_{side}"] = (at[0] + dx, at[1] + dy)
    return legs(scene, step, points, (side,))


def hips(
    scene: Scene,
    step: Step,
    dx: float,
    dy: float,
    *,
    carried: bool = False,
    feet: Mapping[str, Place] | None = None,
) -> tuple[overlay.Mark, ...]:
    """Both legs with the hips moved by so many px while the feet stay, or lie where ``feet`` says.

    ``carried`` with all above the hips.
    """
    points = points_of(step) | dict(feet or {})
    for name in ("hip", *(UPPER_LANDMARKS if carried else ())):
        if name in points:
            points[name] = (points[name][0] + dx, points[name][1] + dy)
    return legs(scene, step, points, SIDES)


def head(step: Step, dx: float, dy: float) -> tuple[overlay.Mark, ...]:
    """The head moved by so many px."""
    own = step.body
    if own is None:
        return ()
    moved = overlay.ellipse(step.frame, own.x + dx, own.y + dy, own.major, own.minor, own.angle)
    return ({**moved, "landmarks": {"head": [round(own.x + dx, 2), round(own.y + dy, 2)]}},)


def arm(scene: Scene, step: Step, side: Side, dx: float = 0.0, dy: float = 0.0) -> tuple[overlay.Mark, ...]:
    """A side's arm with its hand moved by so many px, and its elbow where both parts' usual lengths ask for it."""
    points = points_of(step)
    neck, hand = points.get("neck"), points.get(f"hand_{side}")
    if neck is None or hand is None:
        return ()
    hand = hand[0] + dx, hand[1] + dy
    upper, fore = scene.sizes.usual_arm
    elbow = knee_of(neck, hand, upper, fore, -scene.reading.facing)
    return (overlay.lines(step, [[neck, elbow, hand]], {f"elbow_{side}": elbow, f"hand_{side}": hand}),)


def trunk(scene: Scene, step: Step, length: float) -> tuple[overlay.Mark, ...]:
    """The trunk so long, from the hip up."""
    points = points_of(step)
    hip, neck = points.get("hip"), points.get("neck")
    if hip is None or neck is None or hip == neck:
        return ()
    more = length / math.dist(hip, neck) - 1
    dx, dy = more * (neck[0] - hip[0]), more * (neck[1] - hip[1])
    # What hangs on the neck goes with it.
    moved = {n: (points[n][0] + dx, points[n][1] + dy) for n in UPPER_LANDMARKS if n in points}
    return (overlay.lines(step, [[hip, moved["neck"]]], moved),)


def whole(step: Step, dx: float, dy: float) -> tuple[overlay.Mark, ...]:
    """The whole figure moved by so many px."""
    points = {n: (x + dx, y + dy) for n, (x, y) in points_of(step).items()}
    several = [line for side in SIDES for line in (*_lines(points, side), *_arm_lines(points, side))]
    return (overlay.lines(step, several, points),) if several else ()


def leg(scene: Scene, step: Step, side: Side) -> tuple[overlay.Mark, ...]:
    """A side's leg with its limbs as long as they usually are."""
    return legs(scene, step, points_of(step), (side,))


def limb(scene: Scene, step: Step, side: Side, name: str, more: float) -> tuple[overlay.Mark, ...]:
    """A side's leg with its thigh or shin longer by a share of it; a swinging foot goes along, a standing one stays."""
    points, ends = points_of(step), ("hip", f"knee_{side}", f"ankle_{side}")
    one, other = (points.get(n) for n in (ends[:2] if name == "thigh" else ends[1:]))
    if one is None or other is None or scene.reading.stands_at(step.index, side):
        return leg(scene, step, side)
    return foot(scene, step, side, more * (other[0] - one[0]), more * (other[1] - one[1]))


def as_read(step: Step, names: Iterable[str]) -> overlay.Mark:
    """Both legs as they are, and these landmarks said to belong there."""
    points = points_of(step)
    lines = [line for side in SIDES for line in _lines(points, side)]
    return overlay.lines(step, lines, {name: points[name] for name in names if name in points})


def points_of(step: Step) -> dict[str, Place]:
    """Every landmark that is known of a drawing, whether it shows or not."""
    return dict(step.figure.points) if step.figure else {}


def legs(scene: Scene, step: Step, points: dict[str, Place], sides: Iterable[Side]) -> tuple[overlay.Mark, ...]:
    """Legs with these hips and feet, and knees where their limbs' usual lengths ask for them.

    What else of ``points`` is not where the drawing has it lies there, too.
    """
    lengths, own = scene.sizes.usual, points_of(step)
    several: list[list[Place]] = []
    for side in sides:
        hip, ankle = points.get("hip"), points.get(f"ankle_{side}")
        if hip is None or ankle is None:
            continue
        points[f"knee_{side}"] = knee_of(hip, ankle, lengths["thigh"], lengths["shin"], scene.reading.facing)
        several += _lines(points, side)
    moved = {name: at for name, at in points.items() if at != own.get(name)}
    return (overlay.lines(step, several, moved),) if several else ()


def _arm_lines(points: dict[str, Place], side: Side) -> list[list[Place]]:
    line = [points[n] for n in ("neck", *(f"{joint}_{side}" for joint in ARM_JOINTS)) if n in points]
    return [line] if len(line) > 1 else []


def _lines(points: dict[str, Place], side: Side) -> list[list[Place]]:
    leg_line = [points[n] for n in ("hip", f"knee_{side}", f"ankle_{side}") if n in points]
    sole = [points[n] for n in (f"ankle_{side}", f"heel_{side}", f"toe_{side}", f"ankle_{side}") if n in points]
    return [line for line in (leg_line, sole) if len(line) > 1]
