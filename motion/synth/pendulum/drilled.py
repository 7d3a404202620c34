"""What drills may ask about a pendulum: where its motions have no room, and how one drawing is put elsewhere."""

from __future__ import annotations

import math
from dataclasses import replace

from motion.exercises.pendulum.plan import Plan
from motion.synth.pendulum.faults import with_poses

NO_ROOM = ("overlap.stops_together",)
LEFT_OUT: tuple[str, ...] = ()
UNFIT: tuple[str, ...] = ()
ONE_SHAPE = True


def put(plan: Plan, index: int, x: float, y: float) -> Plan | None:
    """A weight hangs where it is put; what has joints is more than one shape."""
    own = plan.poses[index]
    if own.joints:
        return None
    angle = math.degrees(math.atan2(x - own.top[0], y - own.top[1]))
    return with_poses(plan, {index: replace(own, x=x, y=y, hangs_at=angle)})
