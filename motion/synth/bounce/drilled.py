"""What drills may ask about a bounce: where its motions have no room, and how one drawing is put elsewhere."""

from __future__ import annotations

from dataclasses import replace

from motion.exercises.bounce.plan import Plan

NO_ROOM = ("timing.loop",)
LEFT_OUT: tuple[str, ...] = ()
UNFIT: tuple[str, ...] = ()
ONE_SHAPE = True


def put(plan: Plan, index: int, x: float, y: float) -> Plan | None:
    poses = tuple(replace(p, x=x, y=y) if i == index else p for i, p in enumerate(plan.poses))
    return replace(plan, poses=poses)
