"""``make bench``: accuracy and speed, printed as they are kept in docs/bench.md.

``python -m bench [--quick] [SECTION …]`` prints some sections alone: all take some hours, and each stands by itself.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator

from bench import accuracy, forms, grades, guide, guide_walks, hostile, playback, slips, speed, training
from bench.apart import (
    carried_measure,
    odd,
    strand_measure,
    swing_grades,
    swing_hard,
    swing_measure,
    walk_measure,
    walk_style,
)
from bench.apart import measure as apart
from motion.synth.bounce.faults import FAULTS

COUNT, CLEAN, START = 40, 200, 5_000_001
Section = Callable[[bool], Iterator[str]]
"""Gives its tables, one after the other; of few clips where it is to be quick."""


def _accuracy(quick: bool) -> Iterator[str]:
    yield f"Faults at {accuracy.PLACED_AT} times their tolerance, found within one frame."
    yield accuracy.table(accuracy.run(*((6, 20) if quick else (COUNT, CLEAN)), sorted(FAULTS), START))


def _apart(quick: bool) -> Iterator[str]:
    yield apart.table(apart.run(*((1, 6, 6) if quick else (9, 60, 300))))


def _pendulums(quick: bool) -> Iterator[str]:
    yield swing_measure.perfect(*((5, 50) if quick else (100, 2000)))
    yield swing_measure.table(swing_measure.run(*((1, 6) if quick else (9, 100))))
    yield swing_grades.table(*((5, 20) if quick else (40, 200)))
    yield swing_hard.table(swing_hard.run(1 if quick else 12))


def _chains(quick: bool) -> Iterator[str]:
    yield strand_measure.table(strand_measure.run(2 if quick else 30))
    yield strand_measure.faults_table(strand_measure.faults(*((5, 1) if quick else (100, 12))))


def _carried(quick: bool) -> Iterator[str]:
    yield carried_measure.perfect(5 if quick else 100)
    yield carried_measure.table(carried_measure.run(2 if quick else 20))


def _walks(quick: bool, *, whole: bool = False) -> Iterator[str]:
    yield walk_measure.perfect(*((5, 30) if quick else (100, 1000)), whole=whole)
    yield walk_measure.table(walk_measure.run(*((1, 6) if quick else (9, 100)), whole=whole))


def _whole_walks(quick: bool) -> Iterator[str]:
    return _walks(quick, whole=True)


def _guide_walks(quick: bool) -> Iterator[str]:
    yield guide_walks.table(guide_walks.run(1 if quick else 9))


def _courses(quick: bool) -> Iterator[str]:
    yield walk_measure.courses(2 if quick else 40)


def _asked(quick: bool) -> Iterator[str]:
    yield walk_style.perfect(5 if quick else 200)
    yield walk_style.from_pictures(1 if quick else 12)


def _odd(quick: bool) -> Iterator[str]:
    yield odd.table(odd.run(3 if quick else 30))


def _severity(quick: bool) -> Iterator[str]:
    yield grades.table(*((2, 10) if quick else (12, 60)), START)


def _training(quick: bool) -> Iterator[str]:
    yield training.table(*((40, 1) if quick else (400, 6)))


def _guide(quick: bool) -> Iterator[str]:
    yield guide.table(quick)


def _forms(quick: bool) -> Iterator[str]:
    yield forms.table(3 if quick else 40)


def _slips(quick: bool) -> Iterator[str]:
    yield slips.table(6 if quick else 60)


def _hostile(quick: bool) -> Iterator[str]:
    yield hostile.table(100 if quick else 1000)


def _speed(quick: bool) -> Iterator[str]:
    yield speed.table()


def _playback(quick: bool) -> Iterator[str]:
    yield playback.table()


SECTIONS: dict[str, tuple[str, Section]] = {
    "accuracy": ("Accuracy", _accuracy),
    "apart": ("Clips drawn apart", _apart),
    "pendulums": ("Pendulums drawn apart", _pendulums),
    "chains": ("Chains and tails drawn apart", _chains),
    "carried": ("Pendulums that are carried, drawn apart", _carried),
    "walks": ("Walks drawn apart", _walks),
    "whole-walks": ("Walks of whole figures, drawn apart", _whole_walks),
    "guide-walks": ("Walks over the guide, in every look", _guide_walks),
    "courses": ("Clean walks of other courses", _courses),
    "asked": ("Walks as a brief asks for them", _asked),
    "odd": ("Odd, and not wrong", _odd),
    "severity": ("Severity and strictness", _severity),
    "training": ("Training the eye", _training),
    "guide": ("Drawn exactly over the guide", _guide),
    "forms": ("The same clips through every form", _forms),
    "slips": ("What was forgotten in export", _slips),
    "hostile": ("Hostile files", _hostile),
    "speed": ("Speed and memory", _speed),
    "playback": ("At the desk, in the browser", _playback),
}
"""By name its heading, and what prints its tables."""


def main() -> None:
    """Print the tables of some sections, or of all."""
    wanted = [word for word in sys.argv[1:] if word != "--quick"]
    unknown = [word for word in wanted if word not in SECTIONS]
    if unknown:
        sys.exit(f"There is no section “{unknown[0]}”. There are: {', '.join(SECTIONS)}.")
    for name in wanted or SECTIONS:
        heading, section = SECTIONS[name]
        print(f"## {heading}\n", flush=True)
        for table in section("--quick" in sys.argv):
            print(f"{table}\n", flush=True)


if __name__ == "__main__":
    main()
