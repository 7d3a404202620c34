"""Walks of real people, recorded in space and seen from the side: clean work that no formula made.

The places of joints in ``recorded_walks.csv``, in legs, x forward and y up, 30 a second over one stride, were worked
out from the recordings of two walks in the package pybullet_data 3.2.7 (zlib licence) by the lengths of its figure. The
first closes as a cycle, and where its halves were joined, which shows as a leap of both arms, four drawings of them are
laid on a curve through the others; the second does not close, so only one stride of it is walked.
"""

from __future__ import annotations

import csv
import random
from dataclasses import replace
from functools import lru_cache
from itertools import pairwise
from pathlib import Path

import numpy as np
from scipy.interpolate import CubicSpline

from bench.apart import walkers, walks
from bench.apart.walks import Manner, Point, Posed, Walk, body_of, shaken

FILE = Path(__file__).with_name("recorded_walks.csv")
JOINTS = ("knee", "ankle", "heel", "toe", "elbow", "hand")
CLOSES = "first"
LOW, STAYS = 0.05, 0.45
"""A foot has landed whose heel or toe is that near the ground, in legs, and goes forward by less than so much of the
walk's own speed."""
Places = dict[str, tuple[CubicSpline, CubicSpline]]


@lru_cache(maxsize=4)
def stride_of(name: str) -> tuple[Places, float, float]:
    """Each joint's x without the travel, and y, over a stride from 0 to 1; the stride's length in legs; its seconds."""
    rows = [row for row in csv.DictReader(FILE.read_text().splitlines()) if row["walk"] == name]
    seconds = np.array([float(r["second"]) for r in rows])
    along = seconds / seconds[-1]
    names = [n[:-2] for n in rows[0] if n.endswith("_x")]
    hips = [float(r["hip_x"]) for r in rows]
    length = hips[-1] - hips[0]
    places = {}
    for joint in names:
        x, y = (np.array([float(r[f"{joint}_{a}"]) for r in rows]) for a in "xy")
        x = x - length * along
        ends = "not-a-knot"
        if name == CLOSES:
            # What the recording is off where it closes is spread over all of it.
            x, y = (v - (v[-1] - v[0]) * along for v in (x, y))
            x[-1], y[-1], ends = x[0], y[0], "periodic"
        places[joint] = (CubicSpline(along, x, bc_type=ends), CubicSpline(along, y, bc_type=ends))
    return places, float(length), float(seconds[-1])


def plan(rng: random.Random, *, whole: bool = False) -> Walk:
    """A walk as somebody went, seen from either side, that stays in the frame."""
    while True:
        own = replace(walks.manner(rng), kind="recorded", drawings=rng.choice([6, 8, 8, 10, 12, 16]))
        if whole:
            own = replace(own, upper=replace(walkers.upper(rng), head=(0.26, 0.31)), leg=0.72 * own.leg)
        walk = _walk(own, rng.choice(["first", "first", "second"]), rng)
        if all(walks.inside(walk.manner, d) for d in walk.drawings):
            return walk


def _walk(own: Manner, name: str, rng: random.Random) -> Walk:
    places, length, _ = stride_of(name)
    own = replace(own, loop=own.loop and name == CLOSES)
    steps = 4 if own.loop else own.steps if name == CLOSES else 2
    own = replace(own, steps=steps)
    count = steps * own.drawings + (0 if own.loop or name != CLOSES else 1)
    shown = [walks.frames_of(own, index) for index in range(count)]
    step = sum(walks.frames_of(own, index) for index in range(own.drawings))
    begins = rng.random() if name == CLOSES else 0.0
    times = [begins + sum(shown[:k]) / step / 2 for k in range(count)]
    near = rng.choice(["right", "left"])
    poses = []
    for time in times:
        gone = length * (time - times[0]) if own.across else 0.0
        turn = time % 1.0 if name == CLOSES else min(time, 1.0)
        pose = {}
        for joint, (x, y) in places.items():
            if own.upper is None and joint.split("_")[0] in ("neck", "head", "elbow", "hand"):
                continue
            pose[_named(joint, near)] = float(x(turn)) + gone, float(y(turn))
        poses.append(pose)
    left = poses[0]["hip"][0]
    middle = own.width * (0.16 if own.across else 0.5)
    drawn = []
    for index, pose in enumerate(poses):
        moved: dict[str, Point] = {
            n: (middle + own.leg * (x - left), own.ground - own.leg * y) for n, (x, y) in pose.items()
        }
        if own.wobble:
            moved = {n: shaken(p, own.wobble * own.leg, rng) for n, p in moved.items()}
        if own.facing < 0:
            moved = {n: (own.width - 1 - x, y) for n, (x, y) in moved.items()}
        drawn.append(Posed(points=moved, body=body_of(own, moved), frames=shown[index]))
    return Walk(manner=own, drawings=tuple(drawn), contacts=_contacts(places, times, length, near))


def _named(joint: str, near: str) -> str:
    if "_" not in joint:
        return joint
    part, side = joint.split("_")
    return f"{part}_{'near' if side == near else 'far'}"


def _contacts(places: Places, times: list[float], length: float, near: str) -> tuple[tuple[int, str], ...]:
    """Each drawing from 0 in which a foot is down for the first time, and goes forward no longer."""
    found: list[tuple[int, str]] = []
    for side in ("right", "left"):
        x, y = places[f"heel_{side}"]
        toe = places[f"toe_{side}"][1]
        down = [
            min(float(y(t % 1.0)), float(toe(t % 1.0))) < LOW and abs(float(x(t % 1.0, 1)) + length) < STAYS * length
            for t in times
        ]
        last = -1.0
        for index, (before, now) in enumerate(pairwise(down), start=1):
            if now and not before and times[index] - last > 0.25:
                found.append((index, "near" if side == near else "far"))
                last = times[index]
    return tuple(sorted(found))
