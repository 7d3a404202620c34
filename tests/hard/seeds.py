"""``make test-seeds``: clips as drills show them, of every exercise and fault, each analysed from its pictures."""

from __future__ import annotations

import sys
from functools import partial
from multiprocessing import get_context

from motion.exercises import EXERCISES
from motion.synth import plant
from motion.training.clips import NoRoomError
from motion.training.questions import Question, ask
from motion.training.verified import first_shown, shows_it

CLIPS, TIMES = 300, (1.5, 2.0, 2.5, 3.0, 4.0)
LOST = 0.02
"""Of so many at most no seed shows its fault alone; a clean clip is shown in their place."""
Job = tuple[str, str | None, int]


def jobs() -> list[Job]:
    """Every fault of every exercise in turn, and clean clips among them."""
    kinds = [(e, code) for e in EXERCISES for code in (*plant.drilled(e), None, None, None)]
    return [(*kinds[n % len(kinds)], n) for n in range(CLIPS)]


def shown(job: Job) -> bool | None:
    """Whether what is shown of a seed has its fault alone; None where no seed does, and it is not shown."""
    exercise, code, number = job
    make = partial(_made, exercise, code, TIMES[number % len(TIMES)])
    tried = first_shown(make, 1000 + number, busy=number % 2 == 1)
    return shows_it(tried.question, tried.drawn) if tried.shows else None


def _made(exercise: str, code: str | None, times: float, seed: int, busy: bool) -> Question:
    for share in (1.0, 0.7, 0.5):
        try:
            return ask("spot", seed, exercise, code, share * times, busy=busy)
        except NoRoomError:
            continue
    return ask("spot", seed, exercise, None, 0.0, busy=busy)


def main() -> int:
    """Print how many show what they should; 1 where one does not, or too many were lost."""
    with get_context("spawn").Pool() as pool:
        told = pool.map(shown, jobs(), chunksize=4)
    lost = told.count(None)
    print(f"{told.count(True)} of {len(told)} clips show their fault alone, {lost} were not to be shown, "
          f"{told.count(False)} show something else.")  # fmt: skip
    return int(told.count(False) > 0 or lost > LOST * len(told))


if __name__ == "__main__":
    sys.exit(main())
