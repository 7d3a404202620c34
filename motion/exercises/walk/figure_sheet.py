"""The figure to draw, given out with the guide: its proportions, its two tones, and the drawings of a step by name."""

from __future__ import annotations

from motion import ink
from motion.brief import Brief
from motion.exercises.walk.figure import FOOT, FOREARM, HEAD, HEAD_UP, SIDES, THIGH, UPPER_ARM, Place
from motion.exercises.walk.plan import PHASES, Plan, Pose
from motion.ink import Element, add, line, say

WIDTH, HEIGHT, MARGIN = 960.0, 420.0, 40.0
TONES = {"near": ink.INK, "far": ink.RULE}
"""What the near and the far side are drawn in."""
LIMB, SOLE, ARM, TRUNK = 0.085, 0.05, 0.065, 0.13
"""Of the leg: how wide legs, feet, arms and trunks are drawn."""


def draw(brief: Brief, plan: Plan) -> Element:
    """The sheet, 960 by 420 px: on the left the proportions, then contact, down, passing and up, with their numbers."""
    root = ink.svg(WIDTH, HEIGHT, "The figure to draw")
    shown = _named(plan)
    room = (WIDTH - 2 * MARGIN) / (len(shown) + 1)
    tall = max(plan.recipe.ground - p.y + p.major / 2 for _, p in shown)
    scale = min((HEIGHT - 150) / tall, 0.86 * room / (1.25 * plan.recipe.gait.leg))
    ground = HEIGHT - 84.0
    line(root, MARGIN / 2, ground, WIDTH - MARGIN / 2, ground, stroke=ink.EARTH, stroke_width=2)
    _proportions(root, plan, shown[0][1], scale, (MARGIN + room / 2, ground))
    for order, (index, pose) in enumerate(shown, start=1):
        middle = MARGIN + room * (order + 0.5)
        _figure(root, plan, pose, scale, (middle, ground))
        mark = "key" if pose.role == "contact" else "breakdown" if pose.role == "passing" else "plain"
        ink.label(root, middle, ground + 26, str(index + 1), 17, mark)
        say(root, pose.role, x=middle, y=ground + 54, font_size=17, text_anchor="middle", fill=ink.INK)
    say(root, "near side", x=MARGIN, y=30, font_size=15, fill=TONES["near"], font_weight="600")
    say(root, "far side: paler, or in a colour of its own", x=MARGIN + 90, y=30, font_size=15, fill=ink.SOFT)
    return root


def _named(plan: Plan) -> list[tuple[int, Pose]]:
    """The first drawing of each named phase, in the order of a step."""
    found = []
    for role, _ in PHASES:
        known = next(((i, p) for i, p in enumerate(plan.poses) if p.role == role), None)
        if known is not None:
            found.append(known)
    return found


def _figure(root: Element, plan: Plan, pose: Pose, scale: float, foot: Place) -> None:
    """A pose with its hips over a place on the ground, px of the sheet."""
    hip = pose.landmarks["hip"]

    def at(point: Place) -> Place:
        return foot[0] + scale * (point[0] - hip[0]), foot[1] + scale * (point[1] - plan.recipe.ground)

    leg = scale * plan.recipe.gait.leg
    if plan.recipe.whole:
        _arm(root, [at(pose.landmarks[n]) for n in ("neck", "elbow_far", "hand_far")], ARM * leg, TONES["far"])
    for side in reversed(SIDES):
        places = {n: at(pose.landmarks[f"{n}_{side}"]) for n in ("knee", "ankle", "heel", "toe")}
        stroke = {"fill": "none", "stroke": TONES[side], "stroke_linecap": "round", "stroke_linejoin": "round"}
        joints = [at(hip), places["knee"], places["ankle"]]
        ink.polyline(root, joints, stroke_width=LIMB * leg, **stroke)
        raised = [(x, y - SOLE * leg / 2) for x, y in (places["heel"], places["toe"])]
        ink.polyline(root, [places["ankle"], *raised], stroke_width=SOLE * leg, **stroke)
    if plan.recipe.whole:
        trunk = [at(pose.landmarks["hip"]), at(pose.landmarks["neck"])]
        _arm(root, trunk, TRUNK * leg, ink.SAND)
        _arm(root, [at(pose.landmarks[n]) for n in ("neck", "elbow_near", "hand_near")], ARM * leg, TONES["near"])
    x, y = at((pose.x, pose.y))
    ink.ellipse(
        root, x, y, scale * pose.major, scale * pose.minor, pose.angle, fill=ink.SAND, stroke=ink.INK, stroke_width=2
    )


def _arm(root: Element, points: list[Place], wide: float, colour: str) -> None:
    ink.polyline(
        root, points, fill="none", stroke=colour, stroke_width=wide, stroke_linecap="round", stroke_linejoin="round"
    )


def _proportions(root: Element, plan: Plan, pose: Pose, scale: float, foot: Place) -> None:
    """A leg's length as the measure: thigh and shin halves of it, the body and the foot in parts of it."""
    recipe = plan.recipe
    leg, x, ground = scale * recipe.gait.leg, foot[0], foot[1]
    sole = 0.085 * leg
    parts = (
        ("shin", sole, (1 - THIGH) * leg),
        ("thigh", sole + (1 - THIGH) * leg, THIGH * leg),
        *_above(plan, leg, scale * recipe.body, sole),
    )
    for order, (name, low, high) in enumerate(parts):
        at = x - 30 + 34 * min(order, 2)
        top, bottom = ground - low - high, ground - low
        line(root, at, top, at, bottom, stroke=ink.LEAF, stroke_width=2)
        for y in (top, bottom):
            line(root, at - 5, y, at + 5, y, stroke=ink.LEAF, stroke_width=2)
        share = high / leg
        say(root, f"{name} {share:.2f}", x=at + 8, y=(top + bottom) / 2 + 5, font_size=14, fill=ink.INK)
    foot_long = FOOT * leg
    line(root, x - 30, ground + 14, x - 30 + foot_long, ground + 14, stroke=ink.LEAF, stroke_width=2)
    say(root, f"foot {FOOT:.2f}", x=x - 30, y=ground + 34, font_size=14, fill=ink.INK)
    say(root, "in legs", x=x - 30, y=ground + 54, font_size=14, fill=ink.SOFT)
    if recipe.whole:
        arms = f"upper arm {UPPER_ARM:.2f}, forearm {FOREARM:.2f}"
        say(root, arms, x=WIDTH - MARGIN, y=30, font_size=14, fill=ink.INK, text_anchor="end")
    add(root, "circle", cx=x - 30, cy=ground - sole, r=3, fill=ink.LEAF)


def _above(plan: Plan, leg: float, body: float, sole: float) -> list[tuple[str, float, float]]:
    """What is above the legs: its name, how high it begins, and how high it is, px of the sheet."""
    if not plan.recipe.whole:
        return [("body", sole + 0.86 * leg, body)]
    return [("trunk", sole + leg, body), ("head", sole + leg + body + HEAD_UP * leg, HEAD * leg)]
