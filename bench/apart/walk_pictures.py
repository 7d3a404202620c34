"""Pictures of walks in looks of their own: bodies, legs as strokes, filled or hollow, three kinds of feet."""

from __future__ import annotations

import math
import random
from dataclasses import dataclass, replace
from itertools import pairwise

import cv2
import numpy as np

from bench.apart import walk_dress
from bench.apart.pictures import FILLS, INKS, Colour, Picture
from bench.apart.walks import Posed, Walk

FINER, SHIFT = 4, 5
TAPERS, COATS = 0.2, 0.12
"""How often limbs grow thinner, and a whole figure wears a coat."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """How a clip is drawn; widths px. ``far`` is how the far side differs: paler, another colour, not at all.

    ``loose`` is how far the paper lies off under a camera, px: then there are peg holes in it.
    """

    limbs: str
    wide: float
    edge: float
    foot: str
    thick: float
    body: str
    far: str
    paper: str
    ground: str
    ink: Colour
    fill: Colour
    other: Colour
    grain: int
    over: bool
    seed: int
    loose: float
    hat: str = "none"
    trunk: float = 1.0
    carries: bool = False
    tapers: bool = False
    coat: bool = False


def look(rng: random.Random, *, grainy: bool, whole: bool = False) -> Look:
    """Any look; of a whole figure with a hat or hair, a coat, a trunk as thick as it may be, a thing in its hand."""
    drawn = _look(rng, grainy=grainy)
    own = random.Random(drawn.seed)
    drawn = replace(drawn, tapers=own.random() < TAPERS, coat=whole and own.random() < COATS)
    if not whole:
        return drawn
    return replace(
        drawn,
        wide=drawn.wide * (0.8 if drawn.limbs == "strokes" else 0.72),
        hat=rng.choice(["none", "none", "hat", "hair"]),
        trunk=rng.uniform(1.0, 1.5) if drawn.limbs == "strokes" else rng.uniform(1.6, 2.6),
        carries=rng.random() < 0.15,
    )


def _look(rng: random.Random, *, grainy: bool) -> Look:
    paper = rng.choice(["white", "white", "paper", "sky", "dark"])
    limbs = rng.choice(["strokes", "strokes", "filled", "both", "hollow"])
    return Look(
        limbs=limbs,
        wide=rng.uniform(2.5, 14) if limbs == "strokes" else rng.uniform(14, 26),
        edge=rng.uniform(2.0, 3.6),
        foot=rng.choice(["stroke", "wedge", "wedge", "bar"]),
        thick=rng.uniform(7, 13),
        body=rng.choice(["bean", "ball", "box"]),
        far=rng.choice(["paler", "paler", "colour", "same"]),
        paper=paper,
        ground=rng.choice(["line", "line", "none", "floor"]),
        ink=(235, 235, 225) if paper == "dark" else rng.choice(INKS),
        fill=rng.choice(FILLS),
        other=rng.choice([(150, 60, 170), (40, 140, 150), (170, 120, 30)]),
        grain=rng.choice([0, 0, 2, 4]) if grainy else 0,
        over=rng.random() < 0.6,
        seed=rng.randrange(10**6),
        loose=rng.choice([0.0, 0.0, 0.0, 0.8]),
    )


def drawings(walk: Walk, drawn: Look) -> list[tuple[Picture, int]]:
    """A picture of each drawing, and the frames for which it shows."""
    behind, chance = _backdrop(walk, drawn), np.random.default_rng(drawn.seed + 1)
    found = []
    for number, posed in enumerate(walk.drawings):
        picture = _laid(behind, posed, drawn, walk.manner.facing)
        if drawn.loose and number:
            picture = _lying_off(picture, drawn.loose, chance)
        if drawn.grain:
            noise = chance.integers(-drawn.grain, drawn.grain + 1, picture.shape, dtype=np.int16)
            picture = np.clip(picture + noise, 0, 255).astype(np.uint8)
        found.append((picture, posed.frames))
    return found


def _lying_off(picture: Picture, loose: float, chance: np.random.Generator) -> Picture:
    """The picture of a sheet that lies a little off, and turned by a little."""
    height, width = picture.shape[:2]
    dx, dy, turn = chance.normal(0, [loose, loose, 0.03 * loose])
    matrix = cv2.getRotationMatrix2D((width / 2, height / 2), float(turn), 1.0)
    matrix[:, 2] += dx, dy
    seen = cv2.warpAffine(picture, matrix, (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(seen, np.uint8)


def _backdrop(walk: Walk, drawn: Look) -> Picture:
    own, chance = walk.manner, np.random.default_rng(drawn.seed)
    plain: dict[str, Colour] = {"dark": (26, 30, 42), "sky": (212, 226, 238)}
    picture = np.full((own.height, own.width, 3), plain.get(drawn.paper, (255, 255, 255)), np.float32)
    if drawn.paper == "paper":
        fibres = cv2.GaussianBlur(chance.normal(0, 10, picture.shape[:2]).astype(np.float32), (0, 0), 3)
        picture = np.array([246, 241, 228], np.float32) + fibres[..., None]
    painted: Picture = np.clip(picture, 0, 255).astype(np.uint8)
    if drawn.paper == "sky":
        for _ in range(4):
            left, wide, tall = (int(chance.integers(*r)) for r in ((0, own.width), (40, 140), (40, own.height // 3)))
            colour = tuple(int(v) for v in chance.integers(165, 225, 3))
            cv2.rectangle(painted, (left, round(own.ground) - tall), (left + wide, round(own.ground)), colour, -1)
    if drawn.loose:
        hole: Colour = (15, 15, 15) if drawn.paper != "dark" else (120, 120, 118)
        for x in (0.32, 0.5, 0.68):
            cv2.circle(painted, (round(x * own.width), 14), 7, hole, -1)
    return _grounded(painted, walk, drawn)


def _grounded(painted: Picture, walk: Walk, drawn: Look) -> Picture:
    """With the ground, its upper edge half a px below where soles stand."""
    own = walk.manner
    if drawn.ground == "none":
        return painted
    line: Colour = (200, 200, 190) if drawn.paper == "dark" else (70, 66, 60)
    floor: Colour = (120, 112, 100) if drawn.paper != "dark" else (60, 62, 70)
    level = round(own.ground + 0.5)
    if not own.slope:
        painted[level : level + 3 if drawn.ground == "line" else own.height] = line if drawn.ground == "line" else floor
        return painted
    fine = cv2.resize(painted, None, fx=FINER, fy=FINER, interpolation=cv2.INTER_NEAREST)
    ends = [(-0.5, own.ground_at(-0.5) + 0.5), (own.width - 0.5, own.ground_at(own.width - 0.5) + 0.5)]
    below = [(x, y + 3 if drawn.ground == "line" else own.height + 99.0) for x, y in reversed(ends)]
    corners = np.rint((np.array(ends + below) + 0.5) * FINER).astype(np.int32)
    cv2.fillPoly(fine, [corners], line if drawn.ground == "line" else floor)
    return np.asarray(cv2.resize(fine, (own.width, own.height), interpolation=cv2.INTER_AREA), np.uint8)


def _laid(behind: Picture, posed: Posed, drawn: Look, facing: float) -> Picture:
    x, y, wide, tall = posed.body
    xs = [p[0] for p in posed.points.values()] + [x - wide, x + wide]
    ys = [p[1] for p in posed.points.values()] + [y - tall]
    left, top = max(0, math.floor(min(xs)) - 30), max(0, math.floor(min(ys)) - 30)
    right, bottom = min(behind.shape[1], math.ceil(max(xs)) + 30), min(behind.shape[0], math.ceil(max(ys)) + 30)
    if left >= right or top >= bottom:
        return behind.copy()
    part = behind[top:bottom, left:right]
    fine = cv2.resize(part, None, fx=FINER, fy=FINER, interpolation=cv2.INTER_NEAREST)
    pen = _Pen(np.array(fine, np.uint8), left, top)
    order = (
        [("far", False), ("body", True), ("near", False)]
        if drawn.over
        else [("far", False), ("near", False), ("body", True)]
    )
    if "neck" in posed.points:
        _arm(pen, posed, drawn, "far")
    for what, is_body in order:
        if is_body:
            if "neck" in posed.points:
                _trunk(pen, posed, drawn)
                _hat(pen, posed, drawn, facing)
            _body(pen, posed, drawn)
        else:
            _leg(pen, posed, drawn, what, facing)
    if "neck" in posed.points:
        _arm(pen, posed, drawn, "near")
    picture = behind.copy()
    small = cv2.resize(pen.picture, (right - left, bottom - top), interpolation=cv2.INTER_AREA)
    # Only what was drawn is taken over, so that grainless paper stays as it is.
    changed = (pen.picture != fine).any(axis=2)
    near = cv2.resize(changed.astype(np.uint8) * 255, (right - left, bottom - top), interpolation=cv2.INTER_AREA) > 0
    picture[top:bottom, left:right][near] = small[near]
    return picture


class _Pen:
    """Draws on a part of a frame made larger."""

    def __init__(self, picture: Picture, left: int, top: int) -> None:
        self.picture, self._left, self._top = picture, left, top

    def at(self, point: tuple[float, float]) -> tuple[float, float]:
        return ((point[0] - self._left + 0.5) * FINER - 0.5, (point[1] - self._top + 0.5) * FINER - 0.5)

    def area(self, points: list[tuple[float, float]], colour: Colour) -> None:
        fixed = np.rint(np.array([self.at(p) for p in points]) * (1 << SHIFT)).astype(np.int32)
        cv2.fillPoly(self.picture, [fixed], colour, cv2.LINE_8, SHIFT)

    def limb(self, one: tuple[float, float], other: tuple[float, float], wide: float, colour: Colour) -> None:
        turn = math.atan2(other[1] - one[1], other[0] - one[0])
        arc = np.linspace(math.pi / 2, 3 * math.pi / 2, 18)
        ends = [(p, a + (0 if p is one else math.pi)) for p in (one, other) for a in arc]
        self.area(
            [(p[0] + wide / 2 * math.cos(turn + a), p[1] + wide / 2 * math.sin(turn + a)) for p, a in ends], colour
        )


def _toned(colour: Colour, what: str, drawn: Look) -> Colour:
    if what != "far" or drawn.far == "same":
        return colour
    if drawn.far == "colour":
        return drawn.other
    paper = (26, 30, 42) if drawn.paper == "dark" else (250, 248, 244)
    red, green, blue = (round(0.45 * c + 0.55 * p) for c, p in zip(colour, paper, strict=True))
    return red, green, blue


def _leg(pen: _Pen, posed: Posed, drawn: Look, side: str, facing: float) -> None:
    at = {name: posed.points[f"{name}_{side}"] for name in ("knee", "ankle", "heel", "toe")}
    hip = posed.points["hip"]
    wide = (walk_dress.THIGH, walk_dress.KNEE, walk_dress.ANKLE) if drawn.tapers else (1.0, 1.0, 1.0)
    for inset, colour in _layers(drawn, side):
        _chain(pen, (hip, at["knee"], at["ankle"]), [w * drawn.wide - 2 * inset for w in wide], colour)
        _foot(pen, at, drawn, inset, colour, facing)


def _chain(pen: _Pen, joints: tuple[tuple[float, float], ...], wide: list[float], colour: Colour) -> None:
    """Limbs from joint to joint, so wide at each."""
    for k, (one, other) in enumerate(pairwise(joints)):
        if wide[k] == wide[k + 1]:
            pen.limb(one, other, wide[k], colour)
        else:
            walk_dress.tapered(pen, one, other, (wide[k], wide[k + 1]), colour)


def _layers(drawn: Look, side: str) -> list[tuple[float, Colour]]:
    """From the outside in: by how much smaller each layer of a limb is, px, and its colour."""
    ink, fill = _toned(drawn.ink, side, drawn), _toned(drawn.fill, side, drawn)
    paper = (26, 30, 42) if drawn.paper == "dark" else (252, 250, 246)
    return {
        "strokes": [(0.0, ink)],
        "filled": [(0.0, fill)],
        "both": [(0.0, ink), (drawn.edge, fill)],
        "hollow": [(0.0, ink), (drawn.edge, paper)],
    }[drawn.limbs]


def _arm(pen: _Pen, posed: Posed, drawn: Look, side: str) -> None:
    neck, elbow, hand = (posed.points[n] for n in ("neck", f"elbow_{side}", f"hand_{side}"))
    thick = drawn.wide * (1.0 if drawn.limbs == "strokes" else 0.75)
    wide = (walk_dress.UPPER, walk_dress.ELBOW, walk_dress.WRIST) if drawn.tapers else (1.0, 1.0, 1.0)
    if drawn.carries and side == "near":
        pen.area([(hand[0] + dx, hand[1] + dy) for dx, dy in ((-13, 0), (13, 0), (15, 26), (-15, 26))], drawn.other)
    for inset, colour in _layers(drawn, side):
        _chain(pen, (neck, elbow, hand), [w * thick - 2 * inset for w in wide], colour)


def _trunk(pen: _Pen, posed: Posed, drawn: Look) -> None:
    if drawn.coat:
        walk_dress.coat(pen, posed, drawn.wide * max(drawn.trunk, 1.6), _layers(drawn, "near"))
    for inset, colour in _layers(drawn, "near"):
        pen.limb(posed.points["neck"], posed.points["hip"], drawn.wide * drawn.trunk - 2 * inset, colour)


def _hat(pen: _Pen, posed: Posed, drawn: Look, facing: float) -> None:
    x, y, wide, tall = posed.body
    if drawn.hat == "hat":
        brim, top = y - 0.28 * tall, y - 0.75 * tall
        pen.area(
            [(x + k * wide, brim) for k in (-0.75, 0.75)] + [(x + k * wide, brim - 5) for k in (0.75, -0.75)], drawn.ink
        )
        pen.area(
            [(x - 0.4 * wide, brim), (x - 0.35 * wide, top), (x + 0.35 * wide, top), (x + 0.4 * wide, brim)],
            drawn.other,
        )
    elif drawn.hat == "hair":
        back = [
            (x - facing * wide * k, y + tall * j) for k, j in ((0.3, -0.45), (0.62, -0.2), (0.75, 0.25), (0.45, 0.3))
        ]
        pen.area(back, drawn.ink)


def _foot(
    pen: _Pen, at: dict[str, tuple[float, float]], drawn: Look, inset: float, colour: Colour, facing: float
) -> None:
    (hx, hy), (tx, ty) = at["heel"], at["toe"]
    length = max(1e-6, math.dist(at["heel"], at["toe"]))
    ux, uy = (tx - hx) / length, (ty - hy) / length
    nx, ny = (uy, -ux) if facing > 0 else (-uy, ux)
    thick = (max(drawn.wide, 3.0) if drawn.foot == "stroke" else max(drawn.thick, drawn.wide * 0.5)) - 2 * inset
    if thick <= 1:
        return
    half = thick / 2 + inset
    back, front = (hx + nx * half, hy + ny * half), (tx + nx * half, ty + ny * half)
    pen.limb(back, front, thick, colour)
    if drawn.foot != "wedge":
        pen.limb(at["ankle"], back, min(thick, drawn.wide - 2 * inset), colour)
    else:
        pen.area(_smaller([at["ankle"], back, front], inset), colour)


def _smaller(corners: list[tuple[float, float]], by: float) -> list[tuple[float, float]]:
    """A triangle whose sides lie so much further in; its middle alone where nothing is left."""
    (ax, ay), (bx, by_), (cx, cy) = corners
    sides = [math.dist(corners[1], corners[2]), math.dist(corners[0], corners[2]), math.dist(corners[0], corners[1])]
    around = sum(sides)
    inside = (
        sum(s * x for s, x in zip(sides, (ax, bx, cx), strict=True)) / around,
        sum(s * y for s, y in zip(sides, (ay, by_, cy), strict=True)) / around,
    )
    radius = abs((bx - ax) * (cy - ay) - (cx - ax) * (by_ - ay)) / max(1e-6, around)
    share = max(0.0, 1 - by / max(1e-6, radius))
    return [(inside[0] + share * (x - inside[0]), inside[1] + share * (y - inside[1])) for x, y in corners]


def _body(pen: _Pen, posed: Posed, drawn: Look) -> None:
    x, y, wide, tall = posed.body
    power = {"ball": 2.0, "bean": 2.0, "box": 3.2}[drawn.body]
    turns = np.linspace(0, 2 * math.pi, 120, endpoint=False)
    hollow = drawn.limbs == "hollow" or (drawn.limbs == "strokes" and drawn.seed % 2 == 0)
    paper = (26, 30, 42) if drawn.paper == "dark" else (252, 250, 246)
    fill = drawn.ink if drawn.limbs == "strokes" else drawn.fill
    layers = [(0.0, drawn.ink), (drawn.edge, paper)] if hollow else [(0.0, fill)]
    if drawn.limbs == "both":
        layers = [(0.0, drawn.ink), (drawn.edge, drawn.fill)]
    for inset, colour in layers:
        points = [
            (
                x + (wide / 2 - inset) * math.copysign(abs(math.cos(t)) ** (2 / power), math.cos(t)),
                y + (tall / 2 - inset) * math.copysign(abs(math.sin(t)) ** (2 / power), math.sin(t)),
            )
            for t in turns
        ]
        pen.area(points, colour)
