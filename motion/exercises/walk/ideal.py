"""The ideal walk: where hips and feet are at any moment, and both legs between them.

A foot lands on its heel, rolls flat, stands, rises over its toe, leaves a little after the other has landed, and swings
on to the next place. The ground is level; time is in steps, so one gait serves every rate. Legs are two links; the hips
ride as high as the most stretched moment allows, so that no leg is ever longer than it is, and no knee snaps.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from motion.exercises.walk.figure import (
    ANKLE_HIGH,
    BODY_WIDE,
    FOOT,
    FOREARM,
    HEAD,
    HEAD_UP,
    HEAD_WIDE,
    HEEL_BACK,
    HIP_UP,
    LANDMARKS,
    THIGH,
    UPPER_ARM,
    Place,
    knee_of,
)

LOWEST, HIGHEST = 0.15, 0.65
"""Phases of a step at which the hips are lowest and highest."""
FLAT, RISES, BOTH = 0.18, 0.70, 0.16
"""In steps from its contact a foot lies flat, its heel rises, and (after the other's contact) it leaves."""
LEVEL = 1.62
"""By then the swinging foot is level again."""
MOST_ROLL = 55.0
SAMPLES = 240
JUST_BEFORE = 2 - 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Gait:
    """A walk to the right in its own measures: lengths in px, y up from the ground, x from where the first foot stands.

    ``roll`` is by how many degrees the toes are up at the contact; ``bend`` the share of the leg by which it is never
    straight. One who limps stands longer on one foot and goes on at an even speed: the step from the near foot takes
    and is 1 + ``limp`` of a step, the one from the far foot 1 - ``limp``.
    """

    leg: float
    step: float
    rise: float
    bend: float
    lift: float
    roll: float
    limp: float = 0.0

    def step_at(self, time: float) -> tuple[int, float]:
        """Which step (from 0) a time in mean steps lies in, and how much of that step has gone by, 0 to 1."""
        strides, first = math.floor(time / 2 + 1e-9), 1 + self.limp
        rest = max(0.0, time - 2 * strides)
        if rest < first - 1e-9:
            return 2 * strides, rest / first
        return 2 * strides + 1, max(0.0, rest - first) / (2 - first)

    def time_of(self, steps: float) -> float:
        """When, in mean steps, so many steps have been made: the other way round."""
        strides, rest = math.floor(steps / 2 + 1e-9), steps % 2.0
        first = 1 + self.limp
        return 2 * strides + (rest * first if rest < 1 else first + (rest - 1) * (2 - first))

    def hips(self, time: float) -> Place:
        """The hips at a time in mean steps from a contact of the near foot."""
        return (time - 0.5) * self.step, _ride(self) + _wave(self, time)

    def foot(self, time: float) -> tuple[Place, Place, Place]:
        """Ankle, heel and toe of a foot, so many steps (0 to 2) after it landed with its ankle over 0."""
        time %= 2.0
        pitch = self._pitch(time)
        if time < RISES:
            return self._standing(pitch, heel=True)
        if time < 1 + BOTH:
            return self._standing(pitch, heel=False)
        return self._swinging(time, pitch)

    def _pitch(self, time: float) -> float:
        """How far the toes are up, radians."""
        up, down = math.radians(self.roll), math.radians(min(MOST_ROLL, 2 * self.roll))
        knots = ((0.0, up), (FLAT, 0.0), (RISES, 0.0), (1 + BOTH, -down), (LEVEL, 0.15 * up), (2.0, up))
        for (start, one), (end, other) in itertools.pairwise(knots):
            if time <= end:
                share = (time - start) / (end - start)
                # The heel rises faster and faster; all else begins and ends gently.
                eased = share * share * (1.6 - 0.6 * share) if start == RISES else share * share * (3 - 2 * share)
                return one + (other - one) * eased
        return up

    def _parts(self, pitch: float) -> tuple[Place, Place]:
        """Heel and toe from the ankle, of a foot whose toes are up by so many radians."""
        turn, back = complex(math.cos(pitch), math.sin(pitch)), HEEL_BACK * self.leg
        low = -ANKLE_HIGH * self.leg
        heel, toe = complex(-back, low) * turn, complex(FOOT * self.leg - back, low) * turn
        return (heel.real, heel.imag), (toe.real, toe.imag)

    def _standing(self, pitch: float, *, heel: bool) -> tuple[Place, Place, Place]:
        flat, now = self._parts(0.0), self._parts(pitch)
        held, at = (flat[0], now[0]) if heel else (flat[1], now[1])
        return _whole((held[0] - at[0], -at[1]), now)

    def _swinging(self, time: float, pitch: float) -> tuple[Place, Place, Place]:
        start, length = 1 + BOTH, 1 - BOTH
        share = (time - start) / length
        left, landed = self._standing(self._pitch(start), heel=False)[0], self._standing(self._pitch(0.0), heel=True)[0]
        step = 1e-4
        leaves = (left[0] - self._standing(self._pitch(start - step), heel=False)[0][0]) / step * length
        lands = (self._standing(self._pitch(step), heel=True)[0][0] - landed[0]) / step * length
        x = _hermite(left[0], leaves, landed[0] + 2 * self.step, lands, share)
        parts = self._parts(pitch)
        # Which of heel and toe is lowest changes in the air; a soft minimum lets the ankle pass that without a corner.
        soft = 0.03 * self.leg * math.sin(math.pi * share)
        low = min(parts[0][1], parts[1][1])
        if soft > 1e-6:
            low -= soft * math.log(sum(math.exp(-(p[1] - low) / soft) for p in parts))
        clear = self.lift * math.sin(math.pi * share**0.85) ** 1.5
        return _whole((x, clear - low), parts)


def _whole(ankle: Place, parts: tuple[Place, Place]) -> tuple[Place, Place, Place]:
    heel, toe = ((ankle[0] + x, ankle[1] + y) for x, y in parts)
    return ankle, heel, toe


def _hermite(start: float, leaves: float, end: float, lands: float, share: float) -> float:
    s2, s3 = share * share, share**3
    return (2 * s3 - 3 * s2 + 1) * start + (s3 - 2 * s2 + share) * leaves + (3 * s2 - 2 * s3) * end + (s3 - s2) * lands


def _wave(gait: Gait, time: float) -> float:
    """How far above their middle the hips are at a time in mean steps."""
    return 0.5 * gait.rise * math.cos(2 * math.pi * (gait.step_at(time)[1] - HIGHEST))


@lru_cache(maxsize=256)
def _ride(gait: Gait) -> float:
    """How high the hips' middle rides: as high as the most stretched moment of a leg allows."""
    reach = (1 - gait.bend) * gait.leg
    found = []
    for late in (0, 1) if gait.limp else (0,):
        for time in np.linspace(0.0, 2.0, SAMPLES, endpoint=False):
            ankle = _foot_at(gait, float(time), late)[0]
            beside = ankle[0] - (float(time) - 0.5) * gait.step
            if abs(beside) >= reach:
                return -math.inf
            found.append(ankle[1] + math.sqrt(reach * reach - beside * beside) - _wave(gait, float(time)))
    return min(found)


def _foot_at(gait: Gait, time: float, late: int) -> tuple[Place, Place, Place]:
    """Ankle, heel and toe at a time in mean steps of the foot that lands first (``late`` 0), or of the other (1)."""
    first = 1 - gait.limp if late else 1 + gait.limp
    landed = late * (1 + gait.limp)
    strides = math.floor((time - landed) / 2)
    since = time - landed - 2 * strides
    # Its own time: at 1 the other foot lands, and at 2 it does itself, one stride on.
    own = since / first if since < first else min(1 + (since - first) / (2 - first), JUST_BEFORE)
    away = (2 * strides + landed) * gait.step
    ankle, heel, toe = ((x + away, y) for x, y in gait.foot(own))
    return ankle, heel, toe


def stands(gait: Gait) -> bool:
    """Whether its legs are long enough for its steps."""
    return _ride(gait) > 0.45 * gait.leg


def landmarks(gait: Gait, time: float) -> dict[str, Place]:
    """Every landmark at a time in mean steps: the near foot lands at 0, then the far one, and so on by turns.

    The near foot's first place is x = 0; y is up.
    """
    hips = gait.hips(time)
    found = {"hip": hips}
    for side, late in (("near", 0), ("far", 1)):
        ankle, heel, toe = _foot_at(gait, time, late)
        thigh, shin = THIGH * gait.leg, (1 - THIGH) * gait.leg
        knee = knee_of((hips[0], -hips[1]), (ankle[0], -ankle[1]), thigh, shin, 1.0)
        found |= {
            f"knee_{side}": (knee[0], -knee[1]),
            f"ankle_{side}": ankle,
            f"heel_{side}": heel,
            f"toe_{side}": toe,
        }
    return {name: found[name] for name in LANDMARKS}


ARMS_HANG, ELBOW, ELBOW_MORE = -2.0, 10.0, 16.0
"""Degrees: arms swing about so much forward of straight down; elbows are bent by so much, and more so in front."""


def arms(neck: Place, time: float, leg: float, swing: float) -> dict[str, Place]:
    """Elbows and hands of one who walks to the right, y up: each arm swings against the leg of its own side.

    ``swing`` is by how many degrees either way, ``time`` in steps.
    """
    found = {}
    for side, late in (("near", 1), ("far", 0)):
        forward = math.cos(math.pi * (time - late))
        upper = math.radians(ARMS_HANG + swing * forward)
        fore = upper + math.radians(ELBOW + ELBOW_MORE * (1 + forward) / 2)
        elbow = neck[0] + UPPER_ARM * leg * math.sin(upper), neck[1] - UPPER_ARM * leg * math.cos(upper)
        found[f"elbow_{side}"] = elbow
        found[f"hand_{side}"] = elbow[0] + FOREARM * leg * math.sin(fore), elbow[1] - FOREARM * leg * math.cos(fore)
    return found


def neck_at(hip: Place, trunk: float, lean: float) -> Place:
    """The neck above a hip, px, y down, of a trunk that leans right by degrees."""
    turn = math.radians(lean)
    return hip[0] + trunk * math.sin(turn), hip[1] - trunk * math.cos(turn)


def head_at(neck: Place, leg: float, lean: float) -> tuple[float, float, float, float, float]:
    """The head as an ellipse (x, y, major, minor, angle) above a neck in px, y down, leaning right by degrees."""
    x, y = neck_at(neck, (HEAD_UP + HEAD / 2) * leg, lean)
    return x, y, HEAD * leg, HEAD_WIDE * HEAD * leg, 90.0 - lean


def body_at(hip: Place, height: float, lean: float) -> tuple[float, float, float, float, float]:
    """The body as an ellipse (x, y, major, minor, angle) above a hip in px, y down, leaning right by degrees."""
    up, turn = (0.5 - HIP_UP) * height, math.radians(lean)
    return hip[0] + up * math.sin(turn), hip[1] - up * math.cos(turn), height, BODY_WIDE * height, 90.0 - lean
