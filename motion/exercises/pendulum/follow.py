"""Following a weight on its line through a clip: line, weight and pivot."""

from __future__ import annotations

from motion.clip import Clip
from motion.track import Track
from motion.tracking import placing
from motion.tracking.placing import Placement
from motion.tracking.scan import Progress


def track(clip: Clip, *, placement: Placement = placing.NOTHING, progress: Progress | None = None) -> Track:
    raise NotImplementedError
