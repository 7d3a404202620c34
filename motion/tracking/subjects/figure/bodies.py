"""A clip's bodies: in each drawing as an ellipse, as placed, as it shows, or as large as it usually is."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from motion.tracking.ellipse import Ellipse, axis_angle
from motion.tracking.subjects.figure import placed as placing
from motion.tracking.subjects.figure.body import Core, ellipse_of, of_size, upper_edge, usual_radius
from motion.tracking.subjects.figure.looking import Looking
from motion.tracking.subjects.figure.placed import Help

EDGES = 6
"""The usual edge is told from about so many drawings."""
ANOTHER_SIZE, OTHER_EDGE = 0.06, 0.15
"""A body is of another size whose area is off by such a share; of another edge that is so unlike the usual one."""
LONG, SHORTER, FEWEST = 1.6, 0.8, 3
"""A body may be longer by its limbs that is so many times as long as thick, where in so many drawings one as thick is
shorter by so much."""
ELLIPTIC = 0.93
"""A body is one where it and its ellipse share so much of what both cover; else it has the size of those that are."""


def bodies_of(looking: Looking, cores: Sequence[Core | None], helped: Help) -> list[Ellipse | None]:
    """The body in each drawing: as placed, else what is thickest; what looks like it where another thing is."""
    radius = usual_radius(cores)
    fits: list[tuple[Ellipse, float] | None] = []
    for index, at in enumerate(cores):
        fits.append(ellipse_of(looking.sheet(index), at, radius) if at and radius else None)
    placed = {n: body for n, body in helped.bodies.items() if 0 <= n < len(looking)}
    if any(placing.amiss(body, (fits[n] or (None,))[0]) for n, body in placed.items()):
        like_it = placing.like_placed(looking, placed)
        return [like_it.get(n) for n in range(len(looking))]
    elliptic = [f[0] for f in fits if f is not None and f[1] >= ELLIPTIC]
    like = _usual_body(_without_limbs(elliptic, elliptic))
    found: list[Ellipse | None] = []
    for index, (at, fitted) in enumerate(zip(cores, fits, strict=True)):
        body = fitted[0] if fitted else None
        if at is not None and fitted is not None and fitted[1] < ELLIPTIC and like is not None:
            body = of_size(looking.sheet(index), at, like)
        found.append(body)
    # Boxes and beans are no ellipses.
    shown = [body for body in found if body is not None]
    usual = like or _usual_body(_without_limbs(_of_commonest_size(shown), shown))
    if usual is not None:
        _leave_limbs(looking, cores, found, usual)
    return [placed.get(index) or body for index, body in enumerate(found)]


def _leave_limbs(looking: Looking, cores: Sequence[Core | None], found: list[Ellipse | None], like: Ellipse) -> None:
    """Bodies to which thick limbs were counted, or that these split, are of the usual size where their upper edge is.

    What is really larger or smaller has another edge there as well.
    """
    usual = [
        i for i, body in enumerate(found) if body is not None and abs(_size(body) / _size(like) - 1) <= ANOTHER_SIZE
    ]
    odd = [i for i, body in enumerate(found) if body is not None and i not in usual]
    if not odd or len(usual) < 3:
        return
    shown = usual[:: max(1, len(usual) // EDGES)]
    edge = np.mean([upper_edge(looking.sheet(i), body) for i in shown if (body := found[i])], axis=0)
    for index in odd:
        at = cores[index]
        if at is None:
            continue
        tried = of_size(looking.sheet(index), at, like)
        if float(np.abs(upper_edge(looking.sheet(index), tried) - edge).mean()) < OTHER_EDGE:
            found[index] = tried


def _of_commonest_size(bodies_found: Sequence[Ellipse]) -> list[Ellipse]:
    """Those of the size that most have, or the smaller one of two: limbs add to bodies more often than they take."""
    sizes = np.array([_size(body) for body in bodies_found])
    if not len(sizes):
        return []
    alike = np.abs(sizes[:, None] / sizes - 1) <= ANOTHER_SIZE
    best = max(range(len(sizes)), key=lambda i: (int(alike[:, i].sum()), -sizes[i]))
    return [body for body, own in zip(bodies_found, alike[:, best], strict=True) if own]


def _without_limbs(some: Sequence[Ellipse], of_all: Sequence[Ellipse]) -> list[Ellipse]:
    """Those, or of all the shorter ones that are as thick: thick thighs that hang side by side make a body longer."""
    if len(some) < FEWEST:
        return list(some)
    long, thick = (float(np.median([getattr(e, axis) for e in some])) for axis in ("major", "minor"))
    shorter = [e for e in of_all if abs(e.minor / thick - 1) <= ANOTHER_SIZE and e.major < SHORTER * long]
    return shorter if long > LONG * thick and len(shorter) >= FEWEST else list(some)


def _size(body: Ellipse) -> float:
    return body.major * body.minor


def _usual_body(found: Sequence[Ellipse]) -> Ellipse | None:
    """A body as large as those that show well usually are; None with too few of them."""
    if len(found) < 3:
        return None
    major, minor = (float(np.median([getattr(e, axis) for e in found])) for axis in ("major", "minor"))
    turns = np.exp(2j * np.radians([e.angle for e in found])).mean()
    return replace(found[0], major=major, minor=minor, angle=axis_angle(math.degrees(float(np.angle(turns))) / 2))
