"""Where values are least or largest, to a part of a step."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray


def vertex(three: Sequence[float] | NDArray[np.floating]) -> float:
    """How far from the middle one of three neighbours, the least or the largest of them, a parabola through them turns.

    In steps, at most half of one.
    """
    before, at, after = (float(v) for v in three)
    bend = before - 2 * at + after
    return 0.0 if bend == 0 else max(-0.5, min(0.5, 0.5 * (before - after) / bend))
