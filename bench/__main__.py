"""``make bench``: accuracy and speed, printed as they are kept in docs/bench.md."""

from __future__ import annotations

import sys

from bench import accuracy, forms, grades, guide, hostile, playback, slips, speed, training
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


def main() -> None:
    """Print all tables."""
    count, clean = (6, 20) if "--quick" in sys.argv else (COUNT, CLEAN)
    print(f"## Accuracy\n\nFaults at {accuracy.PLACED_AT} times their tolerance, found within one frame.\n")
    print(accuracy.table(accuracy.run(count, clean, sorted(FAULTS), START)))
    print("\n## Clips drawn apart\n")
    print(apart.table(apart.run(*((1, 6, 6) if "--quick" in sys.argv else (9, 60, 300)))))
    print("\n## Pendulums drawn apart\n")
    print(swing_measure.perfect(*((5, 50) if "--quick" in sys.argv else (100, 2000))) + "\n")
    print(swing_measure.table(swing_measure.run(*((1, 6) if "--quick" in sys.argv else (9, 100)))))
    print("\n" + swing_grades.table(*((5, 20) if "--quick" in sys.argv else (40, 200))))
    print("\n" + swing_hard.table(swing_hard.run(1 if "--quick" in sys.argv else 12)))
    print("\n## Chains and tails drawn apart\n")
    print(strand_measure.table(strand_measure.run(2 if "--quick" in sys.argv else 30)) + "\n")
    print(strand_measure.faults_table(strand_measure.faults(*((5, 1) if "--quick" in sys.argv else (100, 12)))))
    print("\n## Pendulums that are carried, drawn apart\n")
    print(carried_measure.perfect(5 if "--quick" in sys.argv else 100) + "\n")
    print(carried_measure.table(carried_measure.run(2 if "--quick" in sys.argv else 20)))
    print("\n## Walks drawn apart\n")
    print(walk_measure.perfect(*((5, 30) if "--quick" in sys.argv else (100, 1000))) + "\n")
    print(walk_measure.table(walk_measure.run(*((1, 6) if "--quick" in sys.argv else (9, 100)))))
    print("\n## Walks of whole figures, drawn apart\n")
    print(walk_measure.perfect(*((5, 30) if "--quick" in sys.argv else (100, 1000)), whole=True) + "\n")
    print(walk_measure.table(walk_measure.run(*((1, 6) if "--quick" in sys.argv else (9, 100)), whole=True)))
    print("\n## Clean walks of other courses\n")
    print(walk_measure.courses(2 if "--quick" in sys.argv else 40))
    print("\n## Walks in a style that is asked for\n")
    print(walk_style.perfect(5 if "--quick" in sys.argv else 200) + "\n")
    print(walk_style.from_pictures(1 if "--quick" in sys.argv else 12))
    print("\n## Odd, and not wrong\n")
    print(odd.table(odd.run(3 if "--quick" in sys.argv else 30)))
    print("\n## Severity and strictness\n")
    print(grades.table(*((2, 10) if "--quick" in sys.argv else (12, 60)), START))
    print("\n## Training the eye\n")
    print(training.table(*((40, 1) if "--quick" in sys.argv else (400, 6))))
    print("\n## Drawn exactly over the guide\n")
    print(guide.table("--quick" in sys.argv))
    print("\n## The same clips through every form\n")
    print(forms.table(3 if "--quick" in sys.argv else 40))
    print("\n## What was forgotten in export\n")
    print(slips.table(6 if "--quick" in sys.argv else 60))
    print("\n## Hostile files\n")
    print(hostile.table(100 if "--quick" in sys.argv else 1000))
    print("\n## Speed and memory\n")
    print(speed.table())
    print("\n## At the desk, in the browser\n")
    print(playback.table())


if __name__ == "__main__":
    main()
