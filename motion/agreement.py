"""How far two markers give the same marks: Cohen's weighted kappa, and who is the stricter one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

Pair = tuple[float, float]
"""What the one and what the other gave to the same clip, in points."""

BANDS = (
    (0.8, "one measure"),
    (0.6, "nearly one measure"),
    (0.4, "worth talking over"),
)
FEW = 8
"""With fewer clips than this a figure is a hint and no more."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Agreement:
    """How two markers compare over some clips.

    ``kappa`` is 1 where all marks are the same, 0 where they agree as far as chance would have it, below 0 where less
    than that; None where it is not defined (see ``weighted_kappa``). ``same`` is how many clips of ``clips`` got the
    same points. ``spread`` is whether both give different marks to different clips: where one of them gives every clip
    the same, kappa is near 0 however near the marks are. ``stricter`` is by how many points the first gives less than
    the second on average (below 0: more).
    """

    clips: int
    same: int
    kappa: float | None
    spread: bool
    stricter: float

    @property
    def few(self) -> bool:
        """Whether the clips are so few that the figure is only a hint."""
        return self.clips < FEW

    @property
    def words(self) -> str:
        """What the figure says, in a few words."""
        if self.clips and self.same == self.clips:
            return "the same on every clip"
        if self.kappa is None or not self.spread:
            return "too few different marks to tell"
        return next((words for least, words in BANDS if self.kappa >= least), "two measures")


def agreement(pairs: Sequence[Pair]) -> Agreement:
    """How two markers compare over clips that both marked."""
    count = len(pairs)
    return Agreement(
        clips=count,
        same=sum(one == other for one, other in pairs),
        kappa=weighted_kappa(pairs),
        spread=all(len(set(marks)) > 1 for marks in zip(*pairs, strict=True)) if pairs else False,
        stricter=sum(other - one for one, other in pairs) / count if count else 0.0,
    )


def weighted_kappa(pairs: Sequence[Pair]) -> float | None:
    """Cohen's kappa with weights that grow with the square of the difference in points.

    1 - (sum of squared differences within pairs) / (that sum as chance would have it, each of the one's marks laid
    against each of the other's); for marks on a scale of equal steps this is the same as the table of Cohen (Weighted
    kappa, Psychological Bulletin 70, 1968). None for fewer than two clips, and where both give every clip one and the
    same mark: then chance agrees wholly as well, and nothing can be told.
    """
    count = len(pairs)
    if count < 2:
        return None
    by_chance = sum((one - other) ** 2 for one, _ in pairs for _, other in pairs) / count
    if by_chance == 0:
        return None
    return 1.0 - sum((one - other) ** 2 for one, other in pairs) / by_chance
