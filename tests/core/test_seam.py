"""The seam between exercises: nothing outside an exercise's own rooms speaks of what moves in it."""

from __future__ import annotations

import re
from pathlib import Path
from unittest import TestCase

from motion.catalogue import BY_EXERCISE, PRINCIPLES, faults
from motion.exercises import EXERCISES
from motion.synth.draw import BY_EXERCISE as DRAWN
from motion.synth.plant import BY_EXERCISE as PLANTED

ROOT = Path(__file__).parents[2]
WORDS = {
    "bounce": r"balls?|hops?|diameters?",
    "pendulum": r"bobs?|lanterns?|pendulums?",
    "walk": r"knees?|ankles?|hips?|lamplighters?",
}
"""Words that only an exercise's own rooms use."""
OWN_TOO = {"walk": ("motion/tracking/subjects/figure/",)}
"""What follows a figure knows its joints, whichever exercise asks for it."""
SHARED = (
    "motion/exercises/__init__.py",
    "motion/catalogue/__init__.py",
    "motion/brief/__init__.py",
    "motion/brief/model.py",
    "motion/account/pages.py",
    "motion/synth/draw.py",
    "motion/synth/plant.py",
    # What older versions wrote is told in their words.
    "motion/report/upgrade.py",
    "takes/migrations",
    "classroom/migrations",
    # The made-up school hands in for all.
    "nettlecap/pages/demo.py",
    "nettlecap/pages/demo_pupils.py",
)
"""Where the exercises are listed by name."""


def speaks(path: Path, words: str) -> list[str]:
    """The lines of a file that use one of these words."""
    found = re.compile(rf"(?<![a-z]){words}(?![a-z])" if "|" not in words else rf"(?<![a-z])(?:{words})(?![a-z])", re.I)
    return [line.strip() for line in path.read_text(encoding="utf-8").splitlines() if found.search(line)]


class Seam(TestCase):
    def test_nobody_else_speaks_of_what_moves_in_an_exercise(self) -> None:
        files = [p for folder in ("motion", "nettlecap") for p in (ROOT / folder).rglob("*.*")]
        for path in files:
            told = str(path.relative_to(ROOT))
            if path.suffix not in (".py", ".html", ".js") or "vendor" in told or any(s in told for s in SHARED):
                continue
            for exercise, words in WORDS.items():
                if f"/{exercise}" in told or any(own in told for own in OWN_TOO.get(exercise, ())):
                    continue
                with self.subTest(told, exercise=exercise):
                    self.assertEqual(speaks(path, words), [])

    def test_each_exercise_has_all_that_the_others_have(self) -> None:
        self.assertEqual(set(EXERCISES), set(BY_EXERCISE))
        self.assertEqual(set(EXERCISES), set(DRAWN))
        self.assertEqual(set(EXERCISES), set(PLANTED))
        for key, exercise in EXERCISES.items():
            with self.subTest(key):
                self.assertEqual(exercise.key, key)
                self.assertGreaterEqual(len(exercise.guided.presets), 6)
                self.assertTrue((ROOT / f"nettlecap/templates/exercises/{key}/_timing.html").exists())

    def test_every_fault_has_a_principle_a_chart_and_layers(self) -> None:
        for key in BY_EXERCISE:
            for code, fault in faults(key).items():
                with self.subTest(key, code=code):
                    self.assertIn(fault.principle, PRINCIPLES)
                    self.assertTrue(fault.name and fault.chart and fault.layers)
